"""Sides of a seam: which way its cut edge lies, on every piece, however it is turned."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import LinearRing, Polygon

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Fitted
from tailor.core.draft.piece import Piece, Role

ROUGHLY = 0.3  # mm: near enough to tell which edge is the nearer


def outline_of(piece: Piece, draft: Fitted) -> Polygon:
    """The leather that a piece stands for: a template is but a strip to mark it by."""
    if piece.role is Role.TEMPLATE:
        return Polygon(draft.plan.outline).buffer(0)
    return Polygon(piece.cut)


def outward(holes: Array, way: float) -> Array:
    """At every hole the way square to the seam, to one side of it or the other, (n, 2)."""
    along = np.gradient(holes, axis=0)
    return np.asarray(way * along[:, ::-1] * [1.0, -1.0] / np.hypot(*along.T)[:, None])


def way_out(holes: Array, leather: Polygon) -> float:
    """Which side of the seam its cut edge lies on: the nearer edge of the leather, taken all along."""
    edge = leather.exterior.simplify(ROUGHLY)
    sides = [shapely.distance(shapely.points(holes + outward(holes, way)), edge).sum() for way in (1.0, -1.0)]
    return 1.0 if sides[0] < sides[1] else -1.0


def turned(holes: Array, other: Array) -> float:
    """-1 where one edge of a seam is the mirror image of the other, as on a piece that is turned over, else 1."""
    ways = [LinearRing(points).is_ccw for points in (holes, other)]
    return 1.0 if ways[0] == ways[1] else -1.0
