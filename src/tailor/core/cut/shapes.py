"""What the search knows of each piece: an outline grown by half its gap, of few corners, and circles that fill it."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import shapely

from tailor.core.carried.loft import Array
from tailor.core.cut.ground import Counts, Flags
from tailor.core.cut.laying import Template

SLACK = (0.02, 0.25, 0.5, 1.0, 1.5)  # mm an outline is grown beyond its gap, until it has few corners
CORNERS = 32
CIRCLES = 48
ALIKE = 0.9  # of the greatest room, that is as good
FILLED = 0.95  # share of an outline that its circles need fill
GRID = 56  # points across its longer side, where a circle's middle is looked for


class Shapes(NamedTuple):
    """Of n pieces, about an origin in the middle of each one's greatest circle.

    corners (n, k, 2), of which `sides` (n,) are used; circles (n, 3, c): x, y and radius, greatest first, of which
    `filled` (n,); size (n,): the fourth root of the hull's area; span (n,): the longest way across; kind (n,): which
    leather; bases (n, b) and play (n,): radians, of which `ways` (n,); flips (n,); area (n,), real;
    origin (n, 2): where the origin lies in the template.
    """

    corners: Array
    sides: Counts
    circles: Array
    filled: Counts
    size: Array
    span: Array
    kind: Counts
    bases: Array
    ways: Counts
    play: Array
    flips: Flags
    area: Array
    origin: Array


def shapes(templates: Sequence[Template], kinds: Sequence[int], grown: float) -> Shapes:
    """The shapes of templates, grown by so much (mm). kinds: which leather each asks for."""
    made = [_shape(template.ring.tobytes(), grown) for template in templates]
    n = len(made)
    corners, circles = np.zeros((n, max((len(m[0]) for m in made), default=0), 2)), np.zeros((n, 3, CIRCLES))
    bases = np.zeros((n, max((len(t.turns.bases) for t in templates), default=0)))
    for k, (template, (ring, discs, *_)) in enumerate(zip(templates, made, strict=True)):
        corners[k, : len(ring)], circles[k, :, : len(discs)] = ring, discs.T
        bases[k, : len(template.turns.bases)] = np.radians(template.turns.bases)
    return Shapes(
        corners,
        np.array([len(m[0]) for m in made], dtype=np.int64),
        circles,
        np.array([len(m[1]) for m in made], dtype=np.int64),
        np.array([m[2] for m in made]),
        np.array([m[3] for m in made]),
        np.array(kinds, dtype=np.int64),
        bases,
        np.array([len(t.turns.bases) for t in templates], dtype=np.int64),
        np.array([np.pi if t.turns.free else np.radians(t.turns.play) for t in templates]),
        np.array([t.may_flip for t in templates], dtype=np.bool_),
        np.array([t.shape.area for t in templates]),
        np.array([m[4] for m in made]),
    )


@lru_cache(maxsize=1000)
def _shape(ring: bytes, grown: float) -> tuple[Array, Array, float, float, Array]:
    """Corners, circles, size, span and origin of an outline: alike pieces are worked out once."""
    wide = few_corners(shapely.Polygon(np.frombuffer(ring).reshape(-1, 2)), grown)
    discs = inscribed(wide)
    origin = discs[0, :2].copy()
    discs[:, :2] -= origin
    corners = shapely.get_coordinates(wide)[:-1]
    hull = wide.convex_hull
    edge = shapely.get_coordinates(hull)
    span = float(np.max(np.linalg.norm(edge[:, None] - edge[None], axis=2)))
    return corners - origin, discs, float(hull.area**0.25), span, origin


def few_corners(shape: shapely.Polygon, grown: float) -> shapely.Polygon:
    """An outline that holds the shape grown by so much (mm), and hardly more, of few corners."""
    for slack in SLACK:
        wide = shape.buffer(grown + slack, join_style="mitre", mitre_limit=2.0)
        found = shapely.Polygon(shapely.get_exterior_ring(wide.simplify(slack * 0.99)))
        if len(found.exterior.coords) <= CORNERS + 1:
            break
    return found


def inscribed(shape: shapely.Polygon) -> Array:
    """Circles (c, 3) within an outline, apart from each other, the greatest first."""
    left, low, right, top = shape.bounds
    step = max(right - left, top - low) / GRID
    at = np.stack(np.meshgrid(np.arange(left, right, step), np.arange(low, top, step)), axis=-1).reshape(-1, 2)
    room = shapely.distance(shapely.points(at), shape.exterior)
    room = np.where(shapely.contains_xy(shape, at), room, 0.0)
    found = list[Array]()
    covered, whole = 0.0, shape.area
    while len(found) < CIRCLES and covered < FILLED * whole:
        apart = np.min([np.linalg.norm(at - c[:2], axis=1) for c in found] or [room], axis=0)
        wide = room >= ALIKE * room.max()  # of these the farthest, so that they are spread along a strap
        best = int(np.argmax(np.where(wide, apart, -1.0)))
        if room[best] <= 0.02 * step * GRID and found:
            break
        radius = max(float(room[best]), 0.1)
        found.append(np.array([*at[best], radius]))
        covered += np.pi * radius**2
        room = np.minimum(room, np.linalg.norm(at - at[best], axis=1) - radius)
    return np.array(found)
