"""Drawings: pictures to be put on leather, from SVG and DXF at their own size, and from scans traced to lines."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tailor.core.draft.tooled.asked import MOST_LINES, MOST_POINTS, Line
from tailor.core.errors import InputError
from tailor.files import guarded
from tailor.files.kinds import KINDS, kind_of
from tailor.files.letters import lines_of

DRAWN = ("svg", "dxf", "photo", "scan")  # kinds that a picture may be taken from
SUFFIXES = tuple(suffix for name in DRAWN for suffix in KINDS[name].suffixes)


def read(path: Path, still: Callable[[], object] = bool) -> tuple[Line, ...]:
    """The lines of a picture, mm. still: as guarded.read has it. Raises InputError naming the file."""
    kind = kind_of(Path(path))
    if kind is None or kind.name not in DRAWN:
        raise InputError("it is no picture that Tailor reads", Path(path).name, f"give {', '.join(SUFFIXES)}")
    found = guarded.read(f"{kind.reader} lines", Path(path), still)
    if len(found["ends"]) > MOST_LINES or len(found["points"]) > MOST_POINTS:
        raise InputError(
            f"it has {len(found['ends'])} lines of {len(found['points'])} points", Path(path).name,
            f"leave out all but the picture: at most {MOST_LINES} lines of {MOST_POINTS} points",
        )  # fmt: skip
    return lines_of(found)
