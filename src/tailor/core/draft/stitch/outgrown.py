"""Outgrown: a piece's outline and something that grows out of its edge, as one, filleted so that it does not tear."""

from __future__ import annotations

import shapely

from tailor.core.carried.loft import Array
from tailor.core.draft.folded.body import FILLET

ROUND = 16  # chords to a quarter turn
UNSEEN = 1e-4  # mm


def outgrown(plain: Array, more: shapely.Geometry, foot: tuple[float, float, float, float]) -> Array:
    """An outline (n, 2) with more leather, closed, counter-clockwise, (m, 2).

    foot: left, low, right, high of where the two meet, whose hollows are filleted; elsewhere nothing is changed. mm.
    """
    whole = shapely.union_all([shapely.Polygon(plain).buffer(0), more])
    filled = whole.buffer(FILLET, quad_segs=ROUND).buffer(-FILLET, quad_segs=ROUND)
    whole = shapely.union_all([whole, filled.intersection(shapely.box(*foot))]).simplify(UNSEEN)
    return shapely.get_coordinates(shapely.get_exterior_ring(shapely.orient_polygons(whole)))[:-1]


def strip_up(left: float, low: float, right: float, high: float, radius: float) -> shapely.Geometry:
    """A strip that stands upright, its upper corners round."""
    round_ = shapely.box(left, low, right, high).buffer(-radius).buffer(radius, quad_segs=ROUND)
    return shapely.union_all([round_, shapely.box(left, low, right, high - radius)])
