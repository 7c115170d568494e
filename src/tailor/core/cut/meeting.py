"""How much pieces are in each other's way, and how far off the leather they are: compiled.

Whether two outlines meet is exact; how much they do is told by the circles in them, so that it falls away smoothly
as they part.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple, TypeVar, cast

import numpy as np
from numba import njit

from tailor.core.carried.loft import Array
from tailor.core.cut.ground import BUCKET, STEP
from tailor.core.cut.shapes import COVERS, Singles

SOFT = 0.01  # of its span, within which two circles that do not meet are still felt
FAR = 1.0  # such widths outside another's box, from where a circle is felt the same wherever it lies
PARTS = 4  # of an edge, each looked at by itself where it is not sure by its ends
SHALLOW = 0.01  # mm that circles, told in single precision, must be in each other for their pieces surely to meet
SURE = 1.5  # steps of the ground that a depth read at the nearest place may be wrong by, at the two ends of an edge

QUICK = {"reassoc", "contract", "nsz", "nnan"}  # added up in whatever order

F = TypeVar("F", bound=Callable[..., object])


def leaf(**more: Any) -> Callable[[F], F]:
    """Compiles what lays nothing by in memory: who holds what need not be counted in it, which would take as long again
    as all else it does. more: other options of the compiler.
    """
    options: dict[str, Any] = {"cache": True, "error_model": "numpy", "_nrt": False, **more}
    return cast(Callable[[F], F], njit(**options))


class Lying(NamedTuple):
    """One piece as it lies.

    corners (k, 2) and circles (8, c) as of `Shapes`; box (10,): left, low, right, top; of the least rectangle round it
    the middle, half its sides, and the cosine and sine of the way its long side runs.
    """

    corners: Array
    circles: Singles
    box: Array


@njit(cache=True, error_model="numpy")
def trial(state: Any) -> Any:  # pragma: no cover - compiled
    """Room for one piece to be laid in."""
    return Lying(np.empty_like(state.corners[0]), np.empty_like(state.circles[0]), np.empty_like(state.box[0]))


@leaf()
def own(state: Any, k: int) -> Any:  # pragma: no cover - compiled
    """Piece k as it lies; for what is compiled alone, since outside it whole arrays would be given back."""
    return Lying(state.corners[k], state.circles[k], state.box[k])


@leaf()
def laid(shapes: Any, k: int, pose: Any, lying: Any) -> None:  # pragma: no cover - compiled
    """Lay piece k in a pose: turned over (1 or 0), turned (radians), x, y."""
    cos, sin = np.cos(pose[1]), np.sin(pose[1])
    over = -1.0 if pose[0] > 0.5 else 1.0
    corners, circles, box = lying
    left, low, right, top = 1e18, 1e18, -1e18, -1e18
    for c in range(shapes.sides[k]):
        u, v = shapes.corners[k, c, 0], over * shapes.corners[k, c, 1]
        x, y = pose[2] + cos * u - sin * v, pose[3] + sin * u + cos * v
        corners[c, 0], corners[c, 1] = x, y
        left, right, low, top = min(left, x), max(right, x), min(low, y), max(top, y)
    box[0], box[1], box[2], box[3] = left, low, right, top
    for c in range(-COVERS, shapes.filled[k]):
        u, v = shapes.circles[k, 0, c], over * shapes.circles[k, 1, c]
        circles[0, c], circles[1, c] = pose[2] + cos * u - sin * v, pose[3] + sin * u + cos * v
        circles[2, c] = shapes.circles[k, 2, c]
    u, v = shapes.frame[k, 0], over * shapes.frame[k, 1]
    box[4], box[5] = pose[2] + cos * u - sin * v, pose[3] + sin * u + cos * v
    box[6], box[7] = shapes.frame[k, 2], shapes.frame[k, 3]
    u, v = shapes.frame[k, 4], over * shapes.frame[k, 5]
    box[8], box[9] = cos * u - sin * v, sin * u + cos * v


@leaf()
def apart(box: Any, other: Any) -> bool:  # pragma: no cover - compiled
    """Whether the boxes, or the least rectangles, round two pieces lie apart."""
    if box[0] > other[2] or other[0] > box[2] or box[1] > other[3] or other[1] > box[3]:
        return True
    dx, dy = other[4] - box[4], other[5] - box[5]
    along, across = abs(box[8] * other[8] + box[9] * other[9]), abs(box[8] * other[9] - box[9] * other[8])
    if abs(dx * box[8] + dy * box[9]) > box[6] + other[6] * along + other[7] * across:
        return True
    if abs(dy * box[8] - dx * box[9]) > box[7] + other[6] * across + other[7] * along:
        return True
    if abs(dx * other[8] + dy * other[9]) > other[6] + box[6] * along + box[7] * across:
        return True
    far: bool = abs(dy * other[8] - dx * other[9]) > other[7] + box[6] * across + box[7] * along
    return far


@leaf(inline="always")
def felt(into: float, soft: float) -> float:  # pragma: no cover - compiled
    """How much a circle that reaches so far into another is felt."""
    return into if into > soft else soft * soft / (2.0 * soft - into)


@leaf()
def _side(ax: float, ay: float, bx: float, by: float, px: float, py: float) -> float:  # pragma: no cover - compiled
    return (bx - ax) * (py - ay) - (by - ay) * (px - ax)


@leaf()
def _cross(
    ax: float, ay: float, bx: float, by: float, cx: float, cy: float, dx: float, dy: float
) -> bool:  # pragma: no cover - compiled
    """Whether two edges meet, where they only touch too."""
    if max(ax, bx) < min(cx, dx) or max(cx, dx) < min(ax, bx) or max(ay, by) < min(cy, dy) or max(cy, dy) < min(ay, by):
        return False
    if _side(ax, ay, bx, by, cx, cy) * _side(ax, ay, bx, by, dx, dy) > 0.0:
        return False
    return _side(cx, cy, dx, dy, ax, ay) * _side(cx, cy, dx, dy, bx, by) <= 0.0


@leaf()
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


@leaf()
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


@leaf(inline="always")
def far_off(x: float, y: float, reach: float, box: Any) -> bool:  # pragma: no cover - compiled
    """Whether a place lies farther than so outside a box."""
    off: bool = x + reach < box[0] or x - reach > box[2] or y + reach < box[1] or y - reach > box[3]
    return off


@leaf(fastmath=QUICK)
def _felt_by_all(
    one: Any, n: int, other: Any, m: int, soft: np.float32, box: Any
) -> Any:  # pragma: no cover - compiled
    """How much the circles of one piece are felt by all those of another in a box, and how deep the deepest is in one.

    Added up in whatever order is quickest. What lies far off is all felt alike: it tells nothing of where to go, and
    hides what the rest tells.
    """
    least, twice = soft * soft, soft + soft
    total, deepest = np.float32(0.0), np.float32(-1e9)
    for b in range(m):
        one[3, b], one[4, b] = np.float32(0.0), np.float32(-1e9)
    for a in range(n):
        x, y, r = one[0, a], one[1, a], one[2, a]
        if far_off(x, y, r + np.float32(FAR) * soft, box):
            total += r * soft / np.float32(2.0 + FAR)
            continue
        for b in range(m):
            dx, dy, s = other[0, b] - x, other[1, b] - y, other[2, b]
            into = r + s - np.sqrt(dx * dx + dy * dy)
            one[4, b] = max(one[4, b], into)
            one[3, b] += max(into, least / (twice - min(into, soft))) * min(r, s)
    for b in range(m):
        total += one[3, b]
        deepest = max(deepest, one[4, b])
    return total, deepest


@leaf()
def outlines_meet(shapes: Any, k: int, lying: Any, state: Any, j: int) -> bool:  # pragma: no cover - compiled
    """Whether the outlines of piece k, lying so, and piece j meet, whose boxes do."""
    return _meet(lying.corners, shapes.sides[k], lying.box, state.corners[j], shapes.sides[j], state.box[j])


@leaf()
def meets(shapes: Any, k: int, lying: Any, state: Any, j: int) -> bool:  # pragma: no cover - compiled
    """Whether piece k, lying so, and piece j meet."""
    if apart(lying.box, state.box[j]):
        return False
    circles = lying.circles
    dx, dy = state.circles[j, 0, 0] - circles[0, 0], state.circles[j, 1, 0] - circles[1, 0]
    r = circles[2, 0] + state.circles[j, 2, 0]
    surely = dx * dx + dy * dy < r * r  # by their greatest circles
    return surely or outlines_meet(shapes, k, lying, state, j)


@leaf()
def between(shapes: Any, k: int, lying: Any, state: Any, j: int) -> float:  # pragma: no cover - compiled
    """How much piece k, lying so, and piece j are in each other's way: 0 where they do not meet."""
    if apart(lying.box, state.box[j]):
        return 0.0
    soft = np.float32(SOFT * max(shapes.span[k], shapes.span[j]))
    total, deepest = _felt_by_all(
        lying.circles, shapes.filled[k], state.circles[j], shapes.filled[j], soft, state.box[j]
    )
    if deepest <= SHALLOW and not outlines_meet(shapes, k, lying, state, j):
        return 0.0
    return float(np.sqrt(total) * shapes.size[k] * shapes.size[j])


@leaf()
def depth_at(ground: Any, q: int, x: float, y: float) -> float:  # pragma: no cover - compiled
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


@leaf()
def _near(ground: Any, q: int, x: float, y: float) -> float:  # pragma: no cover - compiled
    """Depth at the nearest place that is known; nothing good beyond them."""
    c, r = int(np.rint((x - ground.low[0]) / STEP)), int(np.rint((y - ground.low[1]) / STEP))
    if c < 0 or r < 0 or r >= ground.depth.shape[1] or c >= ground.depth.shape[2]:
        return -1e9
    return float(ground.depth[q, r, c])


@leaf()
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


@leaf()
def _round(ground: Any, q: int, x: float, y: float) -> bool:  # pragma: no cover - compiled
    """Whether the edges of the leather go round a place."""
    inside = False
    for e in range(ground.begun[q], ground.begun[q + 1]):
        ay, by = ground.edges[e, 1], ground.edges[e, 3]
        ax, bx = ground.edges[e, 0], ground.edges[e, 2]
        if (ay > y) != (by > y) and x < ax + (y - ay) / (by - ay) * (bx - ax):
            inside = not inside
    return inside


@leaf(inline="always")
def _sure(one: float, other: float, long: float) -> bool:  # pragma: no cover - compiled
    """Whether an edge so long lies within, by the depths read at its ends."""
    return one > 0 and other > 0 and one + other - SURE * STEP > long


@leaf()
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


@leaf()
def _inside(ground: Any, q: int, corners: Any, count: int, box: Any) -> bool:  # pragma: no cover - compiled
    """Whether an outline lies within the leather."""
    i = count - 1
    before = _near(ground, q, corners[i, 0], corners[i, 1])
    if before < -STEP:  # the leather's edges are known by squares no farther out
        return False
    known = before > STEP  # whether one of its corners is surely inside
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


@leaf()
def _covered(shapes: Any, ground: Any, k: int, circles: Any) -> bool:  # pragma: no cover - compiled
    """Whether piece k surely lies within the leather, by the circles that hold all of it."""
    for c in range(1, COVERS + 1):
        if _near(ground, shapes.kind[k], circles[0, -c], circles[1, -c]) < circles[2, -c] + STEP:
            return False
    return True


@leaf()
def on_it(shapes: Any, ground: Any, k: int, lying: Any) -> bool:  # pragma: no cover - compiled
    """Whether piece k, lying so, lies on the leather it asks for."""
    q = shapes.kind[k]
    return _covered(shapes, ground, k, lying.circles) or _inside(ground, q, lying.corners, shapes.sides[k], lying.box)


@leaf()
def beyond(shapes: Any, ground: Any, k: int, lying: Any) -> float:  # pragma: no cover - compiled
    """How far piece k, lying so, is off the leather it asks for: 0 where it lies on it."""
    if on_it(shapes, ground, k, lying):
        return 0.0
    q, circles, soft = shapes.kind[k], lying.circles, SOFT * shapes.span[k]
    total = 0.0
    for a in range(shapes.filled[k]):
        r = circles[2, a]
        total += felt(r - depth_at(ground, q, circles[0, a], circles[1, a]), soft) * r
    return float(np.sqrt(total) * shapes.size[k] ** 2)
