"""Fastening: where rivets and grommets go, clear of thread, of edges and of each other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Point, Polygon
from shapely.geometry.base import BaseGeometry
from shapely.ops import nearest_points

from tailor.core.carried.loft import Array
from tailor.core.leather.fastenings import Fastening

THREAD_ROOM = 1.0  # mm of leather left between a fastening's hole and a stitch hole
SURE = 1e-6  # mm further than asked, so that rounding takes nothing away
ROUND = 32  # sides to the quarter of the circles that are kept clear


@dataclass(frozen=True)
class Wanted:
    """A fastening where it is wanted, x and y, and how far it may be moved from there, mm.

    within: where its middle must lie, besides being on the leather; None for anywhere on it. lacks: what it may come
    nearer to an edge by than is asked, mm, before it is moved far.
    """

    fastening: Fastening
    x: float
    y: float
    give: float
    within: Polygon | None = None
    lacks: float = 0.0


@dataclass(frozen=True)
class Placed:
    """A fastening where it goes, None where there is no room, and how far that is from where it was wanted, mm."""

    wanted: Wanted
    place: tuple[float, float] | None
    moved: float


def placed(wanted: Sequence[Wanted], leather: Polygon, holes: Array, diameter: float) -> tuple[Placed, ...]:
    """Each fastening as near as may be to where it is wanted, clear of edges, of stitch holes (n, 2) and of others.

    Those with the least freedom are put down first. What finds no room within its give is left out, and says so.
    """
    free = [_free(w, leather, holes, diameter) for w in wanted]
    found: dict[int, Placed] = {}
    for k in sorted(range(len(wanted)), key=lambda k: free[k].area):
        w, room = wanted[k], free[k]
        for other in found.values():
            if other.place is not None:
                apart = max(w.fastening.apart, other.wanted.fastening.apart)
                room = room.difference(_round(Point(other.place), apart))
        at = Point(w.x, w.y)
        if room.is_empty:
            found[k] = Placed(w, None, 0.0)
            continue
        near = at if room.contains(at) else nearest_points(room, at)[0]
        found[k] = Placed(w, (float(near.x), float(near.y)), float(near.distance(at)))
    return tuple(found[k] for k in range(len(wanted)))


def _round(at: Point, radius: float) -> Polygon:
    """A circle that holds all points nearer than a radius: its sides lie outside, not inside it."""
    return at.buffer((radius + SURE) / np.cos(np.pi / (4 * ROUND)), quad_segs=ROUND)


def _free(w: Wanted, leather: Polygon, holes: Array, diameter: float) -> BaseGeometry:
    """Where a fastening may go for all that lies still."""
    at, reach = Point(w.x, w.y), w.give + w.fastening.edge + 1.0
    near = shapely.clip_by_rect(leather, w.x - reach, w.y - reach, w.x + reach, w.y + reach)  # the rest is out of reach
    room = near.buffer(w.lacks - w.fastening.edge - SURE, quad_segs=ROUND).intersection(
        at.buffer(w.give, quad_segs=ROUND)
    )
    room = room if w.within is None else room.intersection(w.within)
    clear = (w.fastening.hole + diameter) / 2 + THREAD_ROOM
    thread = [Point(h) for h in holes if np.hypot(*(h - [w.x, w.y])) < w.give + clear]
    rings: BaseGeometry = shapely.union_all([_round(p, clear) for p in thread])
    return room.difference(rings)
