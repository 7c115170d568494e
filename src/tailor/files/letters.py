"""Letters: words as the outlines of a face: of one that is shipped, or of any font that is installed."""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping
from functools import cache
from importlib.resources import as_file, files
from pathlib import Path
from types import MappingProxyType

import numpy as np

from tailor.core import incoming
from tailor.core.carried.loft import Array
from tailor.core.draft.tooled.asked import Line
from tailor.core.errors import InputError
from tailor.files import guarded

SHIPPED: Mapping[str, str] = MappingProxyType({
    "Vollkorn": "Vollkorn-SemiBold.ttf", "Carlito": "Carlito-Regular.ttf", "Carlito bold": "Carlito-Bold.ttf",
})  # fmt: skip
FOLDERS = ("/usr/share/fonts", "/usr/local/share/fonts", "~/.fonts")
SUFFIXES = (".ttf", ".otf")
MOST_FONTS = 3000
HIGH = 20.0  # mm that the body of a letter is
LONGEST = 60  # letters
FINE = 0.02  # mm within which the curves of a letter are followed


@cache
def installed() -> Mapping[str, Path]:
    """The fonts that are installed, by the names of their files."""
    own = Path(os.environ.get("XDG_DATA_HOME") or "~/.local/share").expanduser() / "fonts"
    found = dict[str, Path]()
    for folder in (own, *(Path(place).expanduser() for place in FOLDERS)):
        for at, _, names in os.walk(folder, onerror=lambda _: None):
            for name in sorted(names):
                if name.lower().endswith(SUFFIXES) and len(found) < MOST_FONTS:
                    found.setdefault(Path(name).stem, Path(at) / name)
    return MappingProxyType(dict(sorted(found.items())))


def names() -> tuple[str, ...]:
    """Every face there is, the shipped ones first."""
    return (*SHIPPED, *(name for name in installed() if name not in SHIPPED))


def lettered(words: str, face: str, still: Callable[[], object] = bool) -> tuple[Line, ...]:
    """Words as lines in a face, one after another, mm. Raises InputError for a face there is not, or for no words."""
    words = incoming.named(words.strip(), "lettering")
    if len(words) > LONGEST:
        raise InputError(f"{len(words)} letters are too many", "lettering", f"give at most {LONGEST}")
    if face in SHIPPED:
        with as_file(files("tailor.desk.theme") / "fonts" / SHIPPED[face]) as path:
            return lines_of(guarded.read("font", path, still, words))
    if face not in installed():
        raise InputError(f"there is no face '{incoming.quoted(face)}'", "lettering", f"give {' or '.join(SHIPPED)}")
    return lines_of(guarded.read("font", installed()[face], still, words))


def lines_of(found: guarded.Arrays) -> tuple[Line, ...]:
    """The lines that a reader found."""
    parts = np.split(np.round(found["points"], 4), found["ends"][:-1])
    return tuple(
        Line(tuple((float(x), float(y)) for x, y in part), bool(shut))
        for part, shut in zip(parts, found["closed"], strict=True)
    )


def outlines(path: Path, words: str) -> list[Array]:
    """The outlines of words in a font, closed (n, 2) each, mm. Raises InputError for a letter that it has not."""
    from fontTools.pens.svgPathPen import SVGPathPen
    from fontTools.ttLib import TTFont

    from tailor.files.foreign import path_lines

    font = TTFont(path, lazy=True)
    known, glyphs, mm = font.getBestCmap(), font.getGlyphSet(), HIGH / font["head"].unitsPerEm
    found, x = list[Array](), 0.0
    for letter in words:
        if ord(letter) not in known:
            raise InputError(f"it has no letter '{letter}'", "font", "take another face, or other letters")
        glyph, pen = glyphs[known[ord(letter)]], SVGPathPen(glyphs)
        glyph.draw(pen)
        found += [(ring + np.array([x, 0.0])) * mm for ring in path_lines(pen.getCommands(), FINE / mm)]
        x += glyph.width
    return found
