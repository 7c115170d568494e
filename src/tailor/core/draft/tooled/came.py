"""What came of what was asked for: fields on flat pieces, and how what is tooled lies in them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon

from tailor.core.carried.loft import Array
from tailor.core.draft.tooled.asked import Asked

FINE = 32  # parts of a quarter turn, so that no round corner is off by what could be measured


@dataclass(frozen=True)
class Field:
    """Where a piece may be tooled. side: where it looks once the case is whole, in a word. region: on the flat piece,
    mm. up: which way is up there as it is worn, (2,) of length 1. plain: what its side is called where it is not known
    how the piece lies.
    """

    piece: str
    side: str
    region: Polygon
    up: tuple[float, float] = (0.0, 1.0)
    plain: str = ""

    @property
    def middle(self) -> Array:
        """Its middle, or the place in it nearest to that, (2,)."""
        middle = self.region.centroid
        if not self.region.contains(middle):
            middle = shapely.line_interpolate_point(shapely.shortest_line(self.region, middle), 0)
        return np.array([middle.x, middle.y])

    def within(self, by: float) -> Polygon:
        """Its largest part that is so far in from its own edge, mm; empty where there is none."""
        left = shapely.get_parts(self.region.buffer(-by, quad_segs=FINE))
        return max(left, key=lambda part: part.area, default=Polygon())


@dataclass(frozen=True)
class Repeats:
    """A woven texture in its field. whole, parts: stamps that are struck whole, and at its edge in part. along: how
    many along its guide, step by step so far apart; left: what is left of the guide at both ends together; rows: across
    it. mm.
    """

    whole: int
    parts: int
    along: int
    step: float
    left: float
    rows: int


@dataclass(frozen=True)
class Tooled:
    """One thing that was asked for, as it lies on its flat piece.

    number: its place among them, from 1. field: that it is in; None where there is none; there: all the fields of its
    piece. lines: of its picture or its border, (n, 2) each, or the outline of the patch that it is on, and then patch:
    its own lines there; texture: what a texture is struck along. width: of a picture as it is seen, and the width that
    it could have there; at: its middle, from that of its field, as it reads. out: how far it reaches out of its field.
    apart: the least room between its lines. stretch: the least and the most that leather gives under it when the case
    is formed; longer, turned: how far its lengths (a share) and its angles (degrees) are off, formed; leans: how many
    degrees part of it looks aside. repeats: of a texture; area: that is filled. y: height that it is at. mm.
    """

    number: int
    asked: Asked
    field: Field | None
    there: tuple[Field, ...] = ()
    lines: tuple[Array, ...] = ()
    patch: tuple[Array, ...] = ()
    texture: tuple[Array, ...] = ()
    guide: Array | None = None
    width: float = 0.0
    room: float = 0.0
    at: tuple[float, float] = (0.0, 0.0)
    out: float = 0.0
    apart: float = np.inf
    stretch: tuple[float, float] = (0.0, 0.0)
    longer: float = 0.0
    turned: float = 0.0
    leans: float = 0.0
    repeats: Repeats | None = None
    y: float = 0.0
    area: float = 0.0

    @property
    def metres(self) -> float:
        """Length of its lines, m."""
        return sum(float(np.hypot(*np.diff(line, axis=0).T).sum()) for line in self.patch or self.lines) / 1000

    @property
    def piece(self) -> str:
        """The piece that is tooled: its patch, where it has one."""
        return f"patch {self.number}" if self.patch else self.asked.piece
