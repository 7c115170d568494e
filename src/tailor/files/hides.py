"""What there is to lay pieces on, as it is named: a rectangle such as 600x300mm, a usual shape such as side 2.1 m², the
outline in a drawing, or a photo with marker sheets about it.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import shapely

from tailor.core import incoming
from tailor.core.carried.loft import Array
from tailor.core.cut.laying import Hide, in_row
from tailor.core.cut.usual import SHAPES, usual
from tailor.core.errors import InputError
from tailor.core.incoming import quoted
from tailor.core.units import parse_length
from tailor.files import atomic, kinds, outlines, state

if TYPE_CHECKING:
    from tailor.core.carried.photo.view import Image

RECTANGLE = re.compile(r"(.+?)\s*[xX×]\s*(.+)")
UNIT = re.compile(r"[^\d\s./,]+\s*$")
FEET = ("ft2", "ft²", "sqft", "sq ft")
USUAL_SHAPE = re.compile(rf"({'|'.join(SHAPES)})\s+(\d{{1,3}}(?:[.,]\d{{1,4}})?)\s*(m2|m²|{'|'.join(FEET)})?", re.I)
FOOT = 0.09290304  # m² in a square foot
LONGEST = 10_000.0  # mm of a hide
PLAIN = 0.1  # mm that its line may be off what was drawn
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
    """A usual shape of so much area, a rectangle, the largest outline of a drawing with those within it as holes, or
    what lies among marker sheets in a photo.

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
    if (kind := kinds.kind_of(Path(text))) is not None and kind.reader == "picture":
        return photographed(Path(text), still=still).hide
    if kind is None and not Path(text).exists():
        ways = "give a size (1300x700mm), a usual shape with its area (side 2.1 m2), or a drawing or photo"
        raise InputError(f"{quoted(text)} is no leather", "leather", ways)
    rings = [_plain(ring) for ring in outlines.read(Path(text), still=still, reach=LONGEST)]
    whole = shapely.Polygon(rings[0])
    return Hide(Path(text).stem, rings[0], tuple(r for r in rings[1:] if whole.contains(shapely.Polygon(r))))


def _plain(ring: Array) -> Array:
    """A ring (n, 2), open, with no more corners than it needs."""
    return np.asarray(shapely.simplify(shapely.Polygon(ring), PLAIN).exterior.coords)[:-1]


@dataclass(frozen=True)
class Photographed:
    """A hide out of a photo. sure: by how much its area may be off, as a share. picture: (h, w, 3) BGR of the floor
    seen straight down; to_hide: (2, 3) from its px to mm on the hide.
    """

    hide: Hide
    sure: float
    picture: Image
    to_hide: Array


def photographed(
    path: Path, side: float | None = None, taped: tuple[Sequence[tuple[float, float]], Sequence[float]] | None = None,
    still: Callable[[], object] = bool,
) -> Photographed:  # fmt: skip
    """The hide in a photo, by the marker sheets about it, or by taped points: their px, and six lengths.

    side: mm that the side of a printed marker measures. Raises InputError.
    """
    from tailor.core.carried.photo.sheets import SIDE
    from tailor.core.carried.photo.spread_out import by_tape, seen_by_sheets, spread_out
    from tailor.files import photos

    picture = photos.read(path)
    try:
        still()
        view = by_tape(*taped) if taped is not None else seen_by_sheets(picture.pixels, picture.lens(), side or SIDE)
        found = spread_out(picture.pixels, view, lambda said, share: still())
    except InputError as error:
        raise error.within(path.name) from None
    turn = _level(found.ring)
    ring = found.ring @ turn.T
    low = ring.min(axis=0)
    grain = found.grain
    to_floor = np.array([[1 / grain, 0, found.left + 0.5 / grain], [0, -1 / grain, found.top - 0.5 / grain]])
    to_hide = turn @ to_floor - np.column_stack([np.zeros((2, 2)), low])
    return Photographed(Hide(path.stem, ring - low), found.sure, found.picture, to_hide)


def _level(ring: Array) -> Array:
    """The turn (2, 2) by which a ring lies along."""
    corners = shapely.get_coordinates(shapely.Polygon(ring).minimum_rotated_rectangle)
    sides = np.diff(corners[:3], axis=0)
    x, y = sides[np.hypot(*sides.T).argmax()] / np.hypot(*sides.T).max()
    return np.array([[x, y], [-y, x]])


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
