"""Moves: pieces that are in each other's way are taken apart, one move at a time, by guided weights. Compiled.

What keeps meeting is weighed more and more, until pieces rather go elsewhere. The same seed and the same asks make the
same moves.
"""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numba import njit

from tailor.core.carried.loft import Array
from tailor.core.cut.ground import STEP, Flags
from tailor.core.cut.meeting import between, beyond, laid, leaf, meets, own, trial
from tailor.core.cut.pushing import slope
from tailor.core.cut.shapes import Singles

WIDE, NEAR, BEST = 12, 6, 2  # places tried: anywhere, close by; and how many of them are followed up
GAIN, LOSS, VAIN = 1.3, 0.5, 2  # by which a step grows where it helped, and shrinks after so many that did not
MUCH = 0.7  # of what it was in the way before: as long as a step leaves less, the next goes the same way
LEAN = 0.25  # radians that a piece is turned by, close by
ARM = 0.25  # of its span: so far out it is turned by as much as it is moved
COARSE, FINE = (0.25, 0.02), (0.02, 0.001)  # of the piece's width: steps at first, and at which to leave off
LEAST, MOST, FADE = 1.05, 1.5, 0.85  # by which the weights of what meets grow, and of the rest fade
BETTER = 0.98  # of what they meet, that counts as having got on
SLIDES, CLOSE = 3, 0.1  # pushes to the left and down, and the mm it may keep from what it comes up against
SHY = 0.9  # of its greatest circle, that a place must be deep for a piece to be tried there


class State(NamedTuple):
    """How n pieces lie.

    pose (n, 4): turned over, radians, x, y; on (n,): whether they lie; held (n,): whether they stay; corners, circles
    and box as of `Lying`; weight (n, n) of each pair and wall (n,) of each against the edge.
    """

    pose: Array
    on: Flags
    held: Flags
    corners: Array
    circles: Singles
    box: Array
    weight: Array
    wall: Array


def chances(seed: int) -> Array:
    """A row of chances, which goes on as it is drawn from. seed: where it begins."""
    return np.array([np.random.default_rng(seed).integers(1, 2**63)], dtype=np.uint64)


@leaf()
def drawn(rng: Any) -> float:  # pragma: no cover - compiled
    """The next chance, from 0 to 1."""
    x = rng[0]
    x ^= x >> np.uint64(12)
    x ^= x << np.uint64(25)
    x ^= x >> np.uint64(27)
    rng[0] = x
    return float((x * np.uint64(2685821657736338717)) >> np.uint64(11)) / 9007199254740992.0


@leaf()
def below(rng: Any, n: int) -> int:  # pragma: no cover - compiled
    """A whole number by chance, from 0 up to but not n."""
    return int(drawn(rng) * n)


def state(shapes: Any) -> State:
    """Nothing laid yet."""
    n = len(shapes.area)
    return State(
        np.zeros((n, 4)), np.zeros(n, dtype=np.bool_), np.zeros(n, dtype=np.bool_), np.zeros_like(shapes.corners),
        np.zeros_like(shapes.circles), np.zeros((n, 10)), np.ones((n, n)), np.ones(n),
    )  # fmt: skip


@leaf()
def _set(pose: Any, as_: Any) -> None:  # pragma: no cover - compiled
    for c in range(4):
        pose[c] = as_[c]


@leaf()
def put(shapes: Any, state: Any, k: int, pose: Any) -> None:  # pragma: no cover - compiled
    """Lay piece k so."""
    _set(state.pose[k], pose)
    state.on[k] = True
    laid(shapes, k, pose, own(state, k))


@leaf()
def _cost(
    shapes: Any, ground: Any, state: Any, k: int, pose: Any, lying: Any, most: float
) -> float:  # pragma: no cover - compiled
    """How much piece k is in the way in a pose, weighed, laid to try it; no more of it than `most` need be told."""
    laid(shapes, k, pose, lying)
    total, box = 0.0, lying.box
    left, low, right, top = box[0], box[1], box[2], box[3]
    for j in range(state.on.shape[0]):
        if left > state.box[j, 2] or state.box[j, 0] > right or low > state.box[j, 3] or state.box[j, 1] > top:
            continue
        if j != k and state.on[j]:
            total += state.weight[k, j] * between(shapes, k, lying, state, j)
            if total > most:
                return float(total)
    return float(total + state.wall[k] * beyond(shapes, ground, k, lying))


@leaf()
def _turned(rng: Any, shapes: Any, k: int) -> float:  # pragma: no cover - compiled
    base = shapes.bases[k, below(rng, shapes.ways[k])]
    return float(base + (2.0 * drawn(rng) - 1.0) * shapes.play[k])


@leaf()
def _allowed(shapes: Any, k: int, turn: float) -> bool:  # pragma: no cover - compiled
    """Whether piece k may be turned so."""
    if shapes.play[k] >= np.pi:
        return True
    for n in range(shapes.ways[k]):
        off = (turn - shapes.bases[k, n] + np.pi) % (2 * np.pi) - np.pi
        if abs(off) <= shapes.play[k]:
            return True
    return False


@leaf()
def _aim(way: Any, arm: float) -> None:  # pragma: no cover - compiled
    """A way made one long, the turn by what it moves so far out; nothing is made of nothing."""
    long = np.sqrt(way[0] ** 2 + way[1] ** 2 + (way[2] * arm) ** 2)
    for c in range(3 if long > 0.0 else 0):
        way[c] /= long


@leaf()
def _descended(
    rng: Any,
    shapes: Any,
    ground: Any,
    state: Any,
    k: int,
    pose: Any,
    cost: float,
    steps: Any,
    lying: Any,
    scratch: Any,
) -> float:  # pragma: no cover - compiled
    """The pose brought down the slope to where it is less in the way, and off it by chance where that does not help.

    What is left of it. steps: of the piece's width, the first and the one at which to leave off.
    """
    shift, least = steps[0] * 2 * shapes.room[k], steps[1] * 2 * shapes.room[k]
    arm, turns = ARM * shapes.span[k], shapes.play[k] > 0.0
    tried, way, by = scratch[0], scratch[1], scratch[2]
    told, helped, vain = False, False, 0  # whether the way is known; helped just now; how often it has not since
    while cost > 0.0 and shift > least:
        if not told:
            slope(shapes, ground, state, k, pose, lying, way)
            way[0], way[1], way[2] = -way[0], -way[1], -way[2] / arm**2 if turns else 0.0
            _aim(way, arm)
            told, helped, vain = True, False, 0
        for c in range(3):
            by[c] = way[c] + ((2.0 * drawn(rng) - 1.0) / (arm if c == 2 else 1.0) if vain else 0.0)
        if not turns:
            by[2] = 0.0
        _aim(by, arm)
        _set(tried, pose)
        tried[1] += shift * by[2]
        tried[2] += shift * by[0]
        tried[3] += shift * by[1]
        if turns and not _allowed(shapes, k, tried[1]):
            tried[1] = pose[1]
        found = _cost(shapes, ground, state, k, tried, lying, cost)
        if found < cost:
            told = helped = found < MUCH * cost
            cost, vain, shift = found, 0, shift * GAIN
            _set(pose, tried)
            _set(way, by)
        elif helped:
            told = False
        else:
            vain += 1
            if vain % VAIN == 0:
                shift *= LOSS
    return cost


@leaf()
def _anywhere(rng: Any, shapes: Any, ground: Any, k: int, rooms: int, pose: Any) -> None:  # pragma: no cover - compiled
    """A pose by chance, on one of the deepest places of the leather that piece k asks for."""
    place = ground.deep[shapes.kind[k], below(rng, rooms)]
    across = ground.depth.shape[2]
    pose[0] = 1.0 if shapes.flips[k] and drawn(rng) < 0.5 else 0.0
    pose[1] = _turned(rng, shapes, k)
    pose[2] = ground.low[0] + STEP * (place % across + drawn(rng) - 0.5)
    pose[3] = ground.low[1] + STEP * (place // across + drawn(rng) - 0.5)


@njit(cache=True, error_model="numpy")
def sought(
    rng: Any, shapes: Any, ground: Any, state: Any, k: int, wide: int, near: int, pose: Any
) -> float:  # pragma: no cover - compiled
    """A better pose for piece k, into `pose`, sought from there too if it lies; how much it is in the way then."""
    lying = trial(state)
    best = np.full(BEST + 1, 1e300)
    poses = np.empty((BEST + 1, 4))
    tried, scratch = np.empty(4), np.empty((3, 4))
    q = shapes.kind[k]
    rooms = np.searchsorted(-ground.deepness[q], -SHY * shapes.room[k])
    if rooms == 0:
        rooms = max(1, np.searchsorted(-ground.deepness[q], 0.0))
    lies = state.on[k]
    if lies:
        poses[BEST] = pose
        best[BEST] = _cost(shapes, ground, state, k, pose, lying, 1e300)
    for n in range(wide + (near if lies else 0)):
        if n < wide:
            _anywhere(rng, shapes, ground, k, rooms, tried)
        else:
            tried[0] = state.pose[k, 0]
            tried[1] = state.pose[k, 1]
            if shapes.play[k] > 0.0:
                tried[1] += LEAN * (2.0 * drawn(rng) - 1.0)
                if not _allowed(shapes, k, tried[1]):
                    tried[1] = _turned(rng, shapes, k)
            elif shapes.ways[k] > 1 and drawn(rng) < 0.25:
                tried[1] = _turned(rng, shapes, k)
            tried[2] = state.pose[k, 2] + (drawn(rng) - 0.5) * (state.box[k, 2] - state.box[k, 0])
            tried[3] = state.pose[k, 3] + (drawn(rng) - 0.5) * (state.box[k, 3] - state.box[k, 1])
        worst = np.argmax(best[:BEST])
        cost = _cost(shapes, ground, state, k, tried, lying, best[worst])
        if cost < best[worst]:
            best[worst] = cost
            poses[worst] = tried
        if cost == 0.0:
            break
    for n in range(BEST + 1):
        if best[n] < 1e299 and best.min() > 0.0:
            best[n] = _descended(rng, shapes, ground, state, k, poses[n], best[n], COARSE, lying, scratch)
    least = np.argmin(best)
    cost = _descended(rng, shapes, ground, state, k, poses[least], best[least], FINE, lying, scratch)
    pose[:] = poses[least]
    return float(cost)


@njit(cache=True, error_model="numpy")
def driven_out(
    rng: Any, shapes: Any, ground: Any, state: Any, k: int, tries: int, worth: Any, most: float, pose: Any, out: Any
) -> float:  # pragma: no cover - compiled
    """A pose for piece k on its leather, into `pose`, where what it meets is worth least; what that is worth.

    out (n,): what it meets there. Nothing that is held is met, and no more than `most` is given up.
    """
    lying, tried, met = trial(state), np.empty(4), np.zeros(state.on.shape[0], dtype=np.bool_)
    q = shapes.kind[k]
    rooms = np.searchsorted(-ground.deepness[q], -SHY * shapes.room[k])
    best = most
    if rooms == 0:
        return best
    for _ in range(tries):
        _anywhere(rng, shapes, ground, k, rooms, tried)
        laid(shapes, k, tried, lying)
        lost = 0.0
        met[:] = False
        for j in range(state.on.shape[0]):
            if j == k or not state.on[j] or lost >= best:
                continue
            if meets(shapes, k, lying, state, j):
                met[j] = True
                lost += 1e9 if state.held[j] else worth[j]
        if lost < best and beyond(shapes, ground, k, lying) == 0.0:
            best = lost
            pose[:] = tried
            out[:] = met
    return best


@njit(cache=True, error_model="numpy")
def slid(
    shapes: Any, ground: Any, state: Any, k: int, pose: Any, far: float, left: bool, low: bool
) -> None:  # pragma: no cover - compiled
    """A free pose pushed on, to the left or right and down or up, as far as it stays free, by `far` (mm) at a time."""
    lying, tried = trial(state), np.empty(4)
    for _ in range(SLIDES):
        for way in (2, 3):
            step = far
            while step > CLOSE:
                tried[:] = pose
                tried[way] += -step if (left if way == 2 else low) else step
                if _cost(shapes, ground, state, k, tried, lying, 0.0) == 0.0:
                    pose[:] = tried
                else:
                    step /= 2


@leaf()
def losses(shapes: Any, ground: Any, state: Any, pair: Any, edge: Any) -> float:  # pragma: no cover - compiled
    """What each pair and each piece against the edge is in the way, unweighed; their sum."""
    n = state.on.shape[0]
    pair[:] = 0.0
    edge[:] = 0.0
    total = 0.0
    for k in range(n):
        if not state.on[k]:
            continue
        edge[k] = beyond(shapes, ground, k, own(state, k))
        total += edge[k]
        for j in range(k + 1, n):
            if state.on[j]:
                pair[k, j] = pair[j, k] = between(shapes, k, own(state, k), state, j)
                total += pair[k, j]
    return total


@leaf()
def _moved(shapes: Any, ground: Any, state: Any, k: int, pose: Any, pair: Any, edge: Any) -> None:  # pragma: no cover
    """Piece k put elsewhere, and what it is in the way of told anew."""
    put(shapes, state, k, pose)
    edge[k] = beyond(shapes, ground, k, own(state, k))
    for j in range(state.on.shape[0]):
        if j != k and state.on[j]:
            pair[k, j] = pair[j, k] = between(shapes, k, own(state, k), state, j)


@njit(cache=True, error_model="numpy")
def part(
    rng: Any, shapes: Any, ground: Any, state: Any, rounds: int, pair: Any, edge: Any
) -> float:  # pragma: no cover - compiled
    """Take apart what meets, for so many rounds, or until nothing does; how much is still in the way.

    pair (n, n) and edge (n,): what is in the way of what, as `losses` tells it, kept up.
    """
    n = state.on.shape[0]
    pose, order = np.empty(4), np.arange(n)
    told = edge.sum() + pair.sum() / 2
    for _ in range(rounds):
        if told == 0.0:
            break
        for c in range(n - 1, 0, -1):
            j = below(rng, c + 1)
            order[c], order[j] = order[j], order[c]
        for k in order:
            if not state.on[k] or state.held[k] or edge[k] + pair[k].sum() == 0.0:
                continue
            now = state.wall[k] * edge[k] + (state.weight[k] * pair[k]).sum()
            pose[:] = state.pose[k]
            if sought(rng, shapes, ground, state, k, WIDE, NEAR, pose) < now:
                _moved(shapes, ground, state, k, pose, pair, edge)
        told = edge.sum() + pair.sum() / 2
        _weighed(state, pair, edge)
    return float(told)


@leaf()
def _weighed(state: Any, pair: Any, edge: Any) -> None:  # pragma: no cover - compiled
    """What meets is weighed more, the worst most; what does not, less, and never less than one."""
    worst = max(pair.max(), edge.max())
    if worst <= 0.0:
        return
    n = edge.shape[0]
    for k in range(n):
        by = LEAST + (MOST - LEAST) * edge[k] / worst if edge[k] > 0 else FADE
        state.wall[k] = max(1.0, state.wall[k] * by)
        for j in range(k + 1, n):
            by = LEAST + (MOST - LEAST) * pair[k, j] / worst if pair[k, j] > 0 else FADE
            state.weight[k, j] = state.weight[j, k] = max(1.0, state.weight[k, j] * by)
