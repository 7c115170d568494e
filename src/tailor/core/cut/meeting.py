"""How much pieces are in each other's way, and how far off the leather they are: compiled.

Whether two outlines meet is exact; how much they do is told by the circles in them, so that it falls away smoothly
as they part.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit

from tailor.core.cut.ground import BUCKET, STEP

SOFT = 0.01  # of its span, within which two circles that do not meet are still felt
PARTS = 4  # of an edge, each looked at by itself where it is not sure by its ends
SURE = 1.5  # steps of the ground that a depth read at the nearest place may be wrong by, at the two ends of an edge


@njit(cache=True, error_model="numpy", inline="always")
def felt(into: float, soft: float) -> float:  # pragma: no cover - compiled
    """How much a circle that reaches so far into another is felt."""
    return into if into > soft else soft * soft / (2.0 * soft - into)


@njit(cache=True, error_model="numpy")
def laid(shapes: Any, k: int, pose: Any, corners: Any, discs: Any, box: Any) -> None:  # pragma: no cover - compiled
    """Corners, circles and box of piece k in a pose: turned over (1 or 0), turned (radians), x, y."""
    cos, sin = np.cos(pose[1]), np.sin(pose[1])
    over = -1.0 if pose[0] > 0.5 else 1.0
    left, low, right, top = 1e18, 1e18, -1e18, -1e18
    for c in range(shapes.sides[k]):
        u, v = shapes.corners[k, c, 0], over * shapes.corners[k, c, 1]
        x, y = pose[2] + cos * u - sin * v, pose[3] + sin * u + cos * v
        corners[c, 0], corners[c, 1] = x, y
        left, right, low, top = min(left, x), max(right, x), min(low, y), max(top, y)
    box[0], box[1], box[2], box[3] = left, low, right, top
    for c in range(shapes.filled[k]):
        u, v = shapes.circles[k, 0, c], over * shapes.circles[k, 1, c]
        discs[0, c], discs[1, c] = pose[2] + cos * u - sin * v, pose[3] + sin * u + cos * v
        discs[2, c] = shapes.circles[k, 2, c]


@njit(cache=True, error_model="numpy")
def _side(ax: float, ay: float, bx: float, by: float, px: float, py: float) -> float:  # pragma: no cover - compiled
    return (bx - ax) * (py - ay) - (by - ay) * (px - ax)


@njit(cache=True, error_model="numpy")
def _cross(
    ax: float, ay: float, bx: float, by: float, cx: float, cy: float, dx: float, dy: float
) -> bool:  # pragma: no cover - compiled
    """Whether two edges meet, where they only touch too."""
    if max(ax, bx) < min(cx, dx) or max(cx, dx) < min(ax, bx) or max(ay, by) < min(cy, dy) or max(cy, dy) < min(ay, by):
        return False
    if _side(ax, ay, bx, by, cx, cy) * _side(ax, ay, bx, by, dx, dy) > 0.0:
        return False
    return _side(cx, cy, dx, dy, ax, ay) * _side(cx, cy, dx, dy, bx, by) <= 0.0


@njit(cache=True, error_model="numpy")
def within(corners: Any, count: int, x: float, y: float) -> bool:  # pragma: no cover - compiled
    """Whether a point lies inside corners that go round."""
    inside = False
    j = count - 1
    for i in range(count):
        ay, by = corners[i, 1], corners[j, 1]
        if (ay > y) != (by > y) and x < corners[i, 0] + (y - ay) / (by - ay) * (corners[j, 0] - corners[i, 0]):
            inside = not inside
        j = i
    return inside


@njit(cache=True, error_model="numpy")
def _meet(one: Any, n: int, box: Any, other: Any, m: int, box_of: Any) -> bool:  # pragma: no cover - compiled
    """Whether two outlines meet, edge by edge where their boxes do, or one holds the other."""
    left, low = max(box[0], box_of[0]), max(box[1], box_of[1])
    right, top = min(box[2], box_of[2]), min(box[3], box_of[3])
    near = np.uint64(0)  # a bit for each of the other's edges, and for each 64th after it, that may lie where both do
    j = m - 1
    for c in range(m):
        cx, cy, dx, dy = other[j, 0], other[j, 1], other[c, 0], other[c, 1]
        if max(cx, dx) >= left and min(cx, dx) <= right and max(cy, dy) >= low and min(cy, dy) <= top:
            near |= np.uint64(1) << np.uint64(c & 63)
        j = c
    i = n - 1
    for k in range(n if near else 0):
        ax, ay, bx, by = one[i, 0], one[i, 1], one[k, 0], one[k, 1]
        i = k
        if max(ax, bx) < left or min(ax, bx) > right or max(ay, by) < low or min(ay, by) > top:
            continue
        for c in range(m):
            if (near >> np.uint64(c & 63)) & np.uint64(1):
                j = c - 1 if c else m - 1
                if _cross(ax, ay, bx, by, other[j, 0], other[j, 1], other[c, 0], other[c, 1]):
                    return True
    x, y = other[0, 0], other[0, 1]
    if left <= x <= right and low <= y <= top and within(one, n, x, y):
        return True
    x, y = one[0, 0], one[0, 1]
    return left <= x <= right and low <= y <= top and within(other, m, x, y)


@njit(cache=True, error_model="numpy", fastmath={"reassoc", "contract", "nsz"})
def _felt_by_all(
    x: float, y: float, r: float, discs: Any, count: int, soft: float
) -> float:  # pragma: no cover - compiled
    """How much a circle is felt by all the circles of a piece: added up in whatever order is quickest."""
    total = 0.0
    for b in range(count):
        dx, dy, other = discs[0, b] - x, discs[1, b] - y, discs[2, b]
        into = r + other - np.sqrt(dx * dx + dy * dy)
        total += max(into, soft * soft / (2.0 * soft - min(into, soft))) * min(r, other)
    return total


@njit(cache=True, error_model="numpy")
def between(
    shapes: Any, k: int, corners: Any, discs: Any, box: Any, j: int, at: Any, discs_at: Any, box_at: Any, most: float
) -> float:  # pragma: no cover - compiled
    """How much piece k, lying so, and piece j are in each other's way: 0 where they do not meet.

    most: more than this need not be told.
    """
    if box[0] > box_at[2] or box_at[0] > box[2] or box[1] > box_at[3] or box_at[1] > box[3]:
        return 0.0
    dx, dy, r = discs_at[0, 0] - discs[0, 0], discs_at[1, 0] - discs[1, 0], discs[2, 0] + discs_at[2, 0]
    surely = dx * dx + dy * dy < r * r  # by their greatest circles
    if not surely and not _meet(corners, shapes.sides[k], box, at, shapes.sides[j], box_at):
        return 0.0
    soft = SOFT * max(shapes.span[k], shapes.span[j])
    shape = shapes.size[k] * shapes.size[j]
    enough = (most / shape) ** 2
    total = 0.0
    for a in range(shapes.filled[k]):
        total += _felt_by_all(discs[0, a], discs[1, a], discs[2, a], discs_at, shapes.filled[j], soft)
        if total > enough:
            break
    return float(np.sqrt(total) * shape)


@njit(cache=True, error_model="numpy")
def _depth(ground: Any, q: int, x: float, y: float) -> float:  # pragma: no cover - compiled
    """Depth of a place, between the four that are known round it; farther out, as much less."""
    tall, wide = ground.depth.shape[1], ground.depth.shape[2]
    u, v = (x - ground.low[0]) / STEP, (y - ground.low[1]) / STEP
    cu, cv = min(max(u, 0.0), wide - 1.001), min(max(v, 0.0), tall - 1.001)
    c, r = int(cu), int(cv)
    fu, fv = cu - c, cv - r
    grid = ground.depth[q]
    inner = (1 - fv) * ((1 - fu) * grid[r, c] + fu * grid[r, c + 1])
    inner += fv * ((1 - fu) * grid[r + 1, c] + fu * grid[r + 1, c + 1])
    return float(inner - STEP * np.sqrt((u - cu) ** 2 + (v - cv) ** 2))


@njit(cache=True, error_model="numpy")
def _near(ground: Any, q: int, x: float, y: float) -> float:  # pragma: no cover - compiled
    """Depth at the nearest place that is known; nothing good beyond them."""
    c, r = int(np.rint((x - ground.low[0]) / STEP)), int(np.rint((y - ground.low[1]) / STEP))
    if c < 0 or r < 0 or r >= ground.depth.shape[1] or c >= ground.depth.shape[2]:
        return -1e9
    return float(ground.depth[q, r, c])


@njit(cache=True, error_model="numpy")
def _cut(ground: Any, q: int, ax: float, ay: float, bx: float, by: float) -> bool:  # pragma: no cover - compiled
    """Whether an edge meets an edge of the leather."""
    left, right = int((min(ax, bx) - ground.low[0]) / BUCKET), int((max(ax, bx) - ground.low[0]) / BUCKET)
    low, top = int((min(ay, by) - ground.low[1]) / BUCKET), int((max(ay, by) - ground.low[1]) / BUCKET)
    for row in range(low, top + 1):
        for col in range(left, right + 1):
            square = row * ground.across + col
            for n in range(ground.first[q, square], ground.first[q, square + 1]):
                e = ground.which[n]
                edges = ground.edges
                if _cross(ax, ay, bx, by, edges[e, 0], edges[e, 1], edges[e, 2], edges[e, 3]):
                    return True
    return False


@njit(cache=True, error_model="numpy")
def _round(ground: Any, q: int, x: float, y: float) -> bool:  # pragma: no cover - compiled
    """Whether the edges of the leather go round a place."""
    inside = False
    for e in range(ground.begun[q], ground.begun[q + 1]):
        ay, by = ground.edges[e, 1], ground.edges[e, 3]
        ax, bx = ground.edges[e, 0], ground.edges[e, 2]
        if (ay > y) != (by > y) and x < ax + (y - ay) / (by - ay) * (bx - ax):
            inside = not inside
    return inside


@njit(cache=True, error_model="numpy", inline="always")
def _sure(one: float, other: float, long: float) -> bool:  # pragma: no cover - compiled
    """Whether an edge so long lies within, by the depths read at its ends."""
    return one > 0 and other > 0 and one + other - SURE * STEP > long


@njit(cache=True, error_model="numpy")
def _sure_by_parts(
    ground: Any, q: int, ax: float, ay: float, bx: float, by: float, long: float, one: float, other: float
) -> bool:  # pragma: no cover - compiled
    """Whether an edge lies within, by the depths read along it."""
    before = one
    for n in range(1, PARTS + 1):
        share = n / PARTS
        here = other if n == PARTS else _near(ground, q, ax + share * (bx - ax), ay + share * (by - ay))
        if not _sure(before, here, long / PARTS):
            return False
        before = here
    return True


@njit(cache=True, error_model="numpy")
def _inside(ground: Any, q: int, corners: Any, count: int, box: Any) -> bool:  # pragma: no cover - compiled
    """Whether an outline lies within the leather."""
    known = False  # whether one of its corners is surely inside
    i = count - 1
    before = _near(ground, q, corners[i, 0], corners[i, 1])
    for c in range(count):
        ax, ay, bx, by = corners[i, 0], corners[i, 1], corners[c, 0], corners[c, 1]
        here = _near(ground, q, bx, by)
        if here < -STEP:
            return False
        known |= here > STEP
        long = np.sqrt((bx - ax) ** 2 + (by - ay) ** 2)
        sure = _sure(before, here, long) or _sure_by_parts(ground, q, ax, ay, bx, by, long, before, here)
        if not sure and _cut(ground, q, ax, ay, bx, by):
            return False
        i, before = c, here
    if not known and not _round(ground, q, corners[0, 0], corners[0, 1]):
        return False
    for n in range(ground.ringed[q], ground.ringed[q + 1]):
        x, y = ground.ring[n, 0], ground.ring[n, 1]
        if box[0] < x < box[2] and box[1] < y < box[3] and within(corners, count, x, y):
            return False
    return True


@njit(cache=True, error_model="numpy")
def beyond(
    shapes: Any, ground: Any, k: int, corners: Any, discs: Any, box: Any
) -> float:  # pragma: no cover - compiled
    """How far piece k, lying so, is off the leather it asks for: 0 where it lies on it."""
    q = shapes.kind[k]
    if _inside(ground, q, corners, shapes.sides[k], box):
        return 0.0
    soft = SOFT * shapes.span[k]
    total = 0.0
    for a in range(shapes.filled[k]):
        r = discs[2, a]
        total += felt(r - _depth(ground, q, discs[0, a], discs[1, a]), soft) * r
    return float(np.sqrt(total) * shapes.size[k] ** 2)
