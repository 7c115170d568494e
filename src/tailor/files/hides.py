"""What there is to lay pieces on, as it is named: a rectangle such as 600x300mm, a usual shape such as side 2.1 m², or
the outline in a drawing.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
import shapely

from tailor.core import incoming
from tailor.core.cut.laying import Hide, in_row
from tailor.core.cut.usual import SHAPES, usual
from tailor.core.errors import InputError
from tailor.core.incoming import quoted
from tailor.core.units import parse_length
from tailor.files import atomic, outlines, state

RECTANGLE = re.compile(r"(.+?)\s*[xX×]\s*(.+)")
UNIT = re.compile(r"[^\d\s./,]+\s*$")
FEET = ("ft2", "ft²", "sqft", "sq ft")
USUAL_SHAPE = re.compile(rf"({'|'.join(SHAPES)})\s+(\d{{1,3}}(?:[.,]\d{{1,4}})?)\s*(m2|m²|{'|'.join(FEET)})?", re.I)
FOOT = 0.09290304  # m² in a square foot
LONGEST = 10_000.0  # mm of a hide
MOST = 40  # laid on at once
USUAL = ("1300x700mm",)  # about a shoulder
KEPT = "leather.json"


def hides(texts: Sequence[str], still: Callable[[], object] = bool) -> tuple[Hide, ...]:
    """The hides that are named, in a row with their feet level, what is used first, first. Raises InputError.

    still: as guarded.read has it.
    """
    if len(texts) > MOST:
        raise InputError(f"{len(texts)} are named", "leather", f"name at most {MOST}")
    return in_row([named(text, still) for text in texts])


def named(text: str, still: Callable[[], object] = bool) -> Hide:
    """A usual shape of so much area, a rectangle, or the largest outline of a drawing with those within it as holes.

    Raises InputError.
    """
    if (shape := USUAL_SHAPE.fullmatch(text.strip())) and not Path(text).exists():
        area = float(shape[2].replace(",", ".")) * (FOOT if shape[3] in FEET else 1.0)
        return usual(shape[1].lower(), area, text.strip())
    typed = RECTANGLE.fullmatch(text)
    if typed and not Path(text).exists():
        first, second = typed.groups()
        if (unit := UNIT.search(second)) is not None and UNIT.search(first) is None:
            first += unit[0]  # 10x8in are inches both
        wide, high = (parse_length(part, where="leather") for part in (first, second))
        if min(wide, high) <= 0 or max(wide, high) > LONGEST:
            raise InputError(f"{quoted(text)} is no size of leather", "leather", "give WIDTHxHEIGHT, up to 10 m")
        return Hide(text, np.array([[0.0, 0.0], [wide, 0.0], [wide, high], [0.0, high]]))
    rings = outlines.read(Path(text), still=still)
    if float(np.ptp(rings[0], axis=0).max()) > LONGEST:
        raise InputError("it is longer than 10 m", quoted(text), "see to its unit")
    whole = shapely.Polygon(rings[0])
    return Hide(Path(text).stem, rings[0], tuple(r for r in rings[1:] if whole.contains(shapely.Polygon(r))))


def remembered() -> tuple[str, ...]:
    """What was laid on last; the usual rectangle where nothing was, or it cannot be read."""
    try:
        found = incoming.parse_json(incoming.read_text(state.folder() / KEPT, incoming.STATE))
    except InputError:
        return USUAL
    if isinstance(found, list) and 0 < len(found) <= MOST and all(isinstance(text, str) for text in found):
        return tuple(found)
    return USUAL


def remember(texts: Sequence[str]) -> None:
    """Remember what is laid on. Raises DiskError where it cannot be."""
    atomic.write(state.folder() / KEPT, json.dumps(list(texts)).encode())
