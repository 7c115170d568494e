"""What the search knows of each piece: an outline grown by half its gap, of few corners, and circles that fill it."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import shapely
import shapely.affinity
from numpy.typing import NDArray

from tailor.core.carried.loft import Array
from tailor.core.cut.ground import Counts, Flags
from tailor.core.cut.laying import Template

SLACK = (0.02, 0.25, 0.5, 1.0, 1.5)  # mm an outline is grown beyond its gap, until it has few corners
CORNERS = 32
CIRCLES = 48
ALIKE = 0.9  # of the greatest room, that is as good
FILLED = 0.95  # share of an outline that its circles need fill
COVERS = 6  # circles at most that hold all of a piece
AT_ONCE = 8  # circles that are felt together, in single precision
GRID = 56  # points across its longer side, where a circle's middle is looked for

Singles = NDArray[np.float32]


class Shapes(NamedTuple):
    """Of n pieces, about an origin in the middle of each one's greatest circle.

    corners (n, k, 2), of which `sides` (n,) are used; circles (n, 8, c): x, y and radius, greatest first, and room to
    reckon in, of which `filled` (n,), a multiple of `AT_ONCE`: those over have no radius; the last `COVERS` are others,
    which together hold all of the piece; frame (n, 6): the least rectangle round it: its middle, half its sides, and
    the cosine and sine of the way the long one runs; room (n,): the radius of the greatest circle; size (n,): the
    fourth root of the hull's area; span (n,): the longest way across; kind (n,): which leather; bases (n, b) and play
    (n,): radians, of which `ways` (n,); flips (n,); area (n,), real; origin (n, 2): where the origin lies in the
    template.
    """

    corners: Array
    sides: Counts
    circles: Singles
    filled: Counts
    frame: Array
    room: Array
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
    filled = np.array([-(-len(m[1]) // AT_ONCE) * AT_ONCE for m in made], dtype=np.int64)
    corners = np.zeros((n, max((len(m[0]) for m in made), default=0), 2))
    circles = np.zeros((n, 8, int(filled.max(initial=0)) + COVERS), dtype=np.float32)
    bases = np.zeros((n, max((len(t.turns.bases) for t in templates), default=0)))
    for k, (template, (ring, discs, *_)) in enumerate(zip(templates, made, strict=True)):
        corners[k, : len(ring)], circles[k, :3, : len(discs)] = ring, discs.T
        circles[k, :3, -COVERS:] = made[k][6].T
        bases[k, : len(template.turns.bases)] = np.radians(template.turns.bases)
    return Shapes(
        corners,
        np.array([len(m[0]) for m in made], dtype=np.int64),
        circles,
        filled,
        np.array([m[5] for m in made]).reshape(-1, 6),
        np.array([m[1][0, 2] for m in made]),
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
def _shape(ring: bytes, grown: float) -> tuple[Array, Array, float, float, Array, Array, Array]:
    """Corners, circles, size, span, origin, frame and covers of an outline: alike pieces are worked out once."""
    wide = few_corners(shapely.Polygon(np.frombuffer(ring).reshape(-1, 2)), grown)
    discs = inscribed(wide)
    origin = discs[0, :2].copy()
    discs[:, :2] -= origin
    corners = shapely.get_coordinates(wide)[:-1]
    hull = wide.convex_hull
    edge = shapely.get_coordinates(hull)
    span = float(np.max(np.linalg.norm(edge[:, None] - edge[None], axis=2)))
    about = shapely.affinity.translate(wide, *-origin)
    return corners - origin, discs, float(hull.area**0.25), span, origin, framed(about), covers(about)


def framed(shape: shapely.Polygon) -> Array:
    """The least rectangle (6,) round an outline: its middle, half its sides, the cosine and sine of its way."""
    corners = shapely.get_coordinates(shapely.minimum_rotated_rectangle(shape))
    sides = np.diff(corners[:3], axis=0)
    long = sides[np.argmax(np.linalg.norm(sides, axis=1))]
    way = long / np.linalg.norm(long)
    run = shapely.get_coordinates(shape) @ np.array([way, (-way[1], way[0])]).T
    least, most = run.min(axis=0), run.max(axis=0)
    u, v = (least + most) / 2
    return np.array([u * way[0] - v * way[1], u * way[1] + v * way[0], *(most - least) / 2, *way])


def covers(shape: shapely.Polygon) -> Array:
    """Circles (COVERS, 3) that together hold all of an outline, in a row along its least rectangle."""
    x, y, long, wide, *way = framed(shape)
    count = min(COVERS, max(1, round(long / wide)))
    ends = np.linspace(-long, long, count + 1)
    found = np.tile([0.0, 0.0, -1e9], (COVERS, 1))  # those over are as small as can be
    for k in range(count):
        slab = shapely.box(ends[k], -wide - 1, ends[k + 1], wide + 1)
        lies = shapely.affinity.affine_transform(slab, [way[0], -way[1], way[1], way[0], x, y])
        part = shapely.intersection(shape, lies)
        middle = shapely.minimum_bounding_circle(part).centroid
        reach = np.linalg.norm(shapely.get_coordinates(part) - [middle.x, middle.y], axis=1).max()
        found[k] = middle.x, middle.y, reach
    return found


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
    apart, covered, whole = room, 0.0, shape.area
    while len(found) < CIRCLES and covered < FILLED * whole:
        wide = room >= ALIKE * room.max()  # of these the farthest, so that they are spread along a strap
        best = int(np.argmax(np.where(wide, apart, -1.0)))
        if room[best] <= 0.02 * step * GRID and found:
            break
        radius = max(float(room[best]), 0.1)
        found.append(np.array([*at[best], radius]))
        covered += np.pi * radius**2
        away = np.linalg.norm(at - at[best], axis=1)
        room, apart = np.minimum(room, away - radius), np.minimum(apart, away) if len(found) > 1 else away
    return np.array(found)
