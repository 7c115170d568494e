"""Mould: wet leather pressed on to the object, turning into every hollow on a ball.

Leather follows the object and comes down to the welt in a valley whose grain side has a radius; the flesh face
turns there with one thickness more. So its inside is the closing of the object (grown by its clearance) and the
welt by a ball of that radius, rolled over the whole height field and not section by section: first where the
ball's centre can go (the field grown by the ball), then how deep the ball comes (that shrunk again, by the ball
less the neutral offset, so that the neutral line comes out at once).

Seen from above a wall has no height and a top no width. So each flank is looked at askew, from half way between
above and beside: along a = (x - z)/√2 the line from ridge over top, wall, valley and welt is one height
b = (x + z)/√2 that never rises or falls by more than it goes along. Source: geometry, "Moulded"; grey closing.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tailor.core.carried.loft import Array
from tailor.core.shell.run import APART, Run, interpolated

Indices = NDArray[np.intp]

STEP = 0.3  # mm between places along a
ROLL = 1.0  # mm between the rows that the ball rolls over
SHARP = 0.6  # of the radius of a turn that two places on it may lie apart
ROOT = np.sqrt(2.0)
FAR = 400.0  # mm that a level top and an upright wall are taken to go on
TOUCHES = 1e-7  # mm
SOON = np.array([0.02, 0.06, 0.12, 0.22, 0.38, 0.6, 0.9, 1.3, 2.0])  # of the way between rows: where ends are rounded
STANDS_OUT = 0.02  # mm
FACING = np.radians(np.linspace(-44, 90, 25))  # from half way inward over straight up to straight out


@dataclass(frozen=True)
class Flank:
    """What the ball rolls over: profiles outward from a ridge.

    profile: rows (k,) to x (k, m) rising and z (k, m), heights over the plane that `floor` is measured from; it is
    asked for rows from low to mouth only: what stands out of a case, a guard or a handle, does not lift its leather,
    and above its mouth the object goes on as it is there. ridge: x that the line is measured from at the rows it is
    wanted at, (n,), or at all of them. foot: height at which the object's sides end.
    """

    profile: Callable[[Array], tuple[Array, Array]]
    low: float
    mouth: float
    ridge: Array | float
    foot: float

    def seen(self, rows: Array) -> tuple[Array, Array]:
        return self.profile(np.minimum(rows, self.mouth))


def moulded(
    flank: Flank, rows: Array, clearance: float, floor: float, offset: float, ball: float, coarse: float = 1.0
) -> Run:
    """The neutral line of moulded leather over one flank at rows (n,), from the ridge outward.

    clearance: mm round the object. floor: the welt's face. offset: flesh face to neutral surface. ball: radius
    that the flesh face turns with in a valley. coarse: how many times as wide as usual the grid is.
    """
    round_ = SHARP * (clearance + offset)  # over a sharp corner the neutral line turns on so small a radius
    step, roll = coarse * min(STEP, max(round_, STEP / 3)), coarse * ROLL
    reach = clearance + ball
    grid, end = _rows(flank, rows, floor + ball, reach, roll)
    x, z = flank.seen(grid[grid >= flank.low])
    low, high = _span(flank, x, z, reach, floor, ball)
    a = np.arange(low, high + step, step)
    centre = _grown(flank, grid, a, reach)
    rest = a + ROOT * (floor + ball)  # the ball's centre while it lies on the welt
    valley = _valleys(a, centre, rest)
    centre[end] = -np.inf  # against an upright end the ball may lie at any height, so as low as the welt too
    b = _shrunk(np.maximum(centre, rest), grid, rows, step, ball - offset, a, valley)
    ridge = np.broadcast_to(np.asarray(flank.ridge, dtype=float), rows.shape)
    return _measured(a, b, rows, grid, valley, ridge, floor + offset)


def end_reach(height: float, centre: float, reach: float) -> float:
    """How far before an end as high as that the ball comes to rest, mm; 0 where it rolls right over it."""
    over = max(centre - height, 0.0)
    return float(np.sqrt(reach**2 - over**2)) if over < reach else 0.0


def rests_before(
    profile: Callable[[Array], tuple[Array, Array]], low: float, high: float, centre: float, reach: float
) -> float:  # fmt: skip
    """How far before the end of an object, at y = low, the ball comes to rest, mm.

    Against an end that is rounded it lies higher up, and further off than its edge alone would hold it.
    """
    y = low + np.append(0.0, ROLL * SOON)
    _, z = profile(np.minimum(y, high))
    return max(end_reach(float(top), centre, reach) - float(at - low) for at, top in zip(y, z.max(axis=1), strict=True))


def _rows(flank: Flank, rows: Array, centre: float, reach: float, roll: float) -> tuple[Array, Indices]:
    """Rows for the ball's centre, and which of them is where it lies against the end of the object, if one is."""
    end = flank.low - rests_before(flank.profile, flank.low, flank.mouth, centre, reach)
    first = int(np.floor((max(float(rows.min()), end) - reach - end) / roll)) - 1
    last = int(np.ceil((max(float(rows.max()) + reach, flank.low + roll) - end) / roll))
    k = np.arange(first, last + 1)
    return np.asarray(end + roll * k), np.flatnonzero(k == 0)


def _span(flank: Flank, x: Array, z: Array, reach: float, floor: float, ball: float) -> tuple[float, float]:
    top = max(float(z.max()), floor) + reach
    return (float(np.min(flank.ridge)) - 2 * ball - top) / ROOT, (float(x.max()) + reach + ball - floor) / ROOT + ball


def _grown(flank: Flank, grid: Array, a: Array, reach: float) -> Array:
    """b of the ball's centre while it touches the object, (rows, places): the object grown by its reach."""
    on = np.flatnonzero(grid >= flank.low)
    touched, ways = _outermost(*flank.seen(grid[on]), flank.foot)
    grown = np.full((len(grid), len(a)), -np.inf)
    roll = grid[1] - grid[0]
    for apart in range(int(reach / roll) + 1):  # as far before a row as behind it, the object is grown alike
        wide = np.full(len(on), np.sqrt(reach**2 - (apart * roll) ** 2))
        seen = _askew(touched, ways, wide, a)
        for mine in {apart, -apart}:
            rows = on + mine
            there = (rows >= 0) & (rows < len(grid))
            grown[rows[there]] = np.maximum(grown[rows[there]], seen[there])
    for y in _end_rows(flank, roll):
        near = np.flatnonzero(np.abs(grid - y) <= reach)
        if not len(near):
            continue
        end, faces = _outermost(*flank.profile(np.array([y])), flank.foot)
        wide_near = np.sqrt(np.maximum(reach**2 - (grid[near] - y) ** 2, 0.0))
        ends, face = np.repeat(end, len(near), axis=0), np.repeat(faces, len(near), axis=0)
        grown[near] = np.maximum(grown[near], _askew(ends, face, wide_near, a))
    return np.asarray(grown, dtype=np.float64)


def _end_rows(flank: Flank, roll: float) -> list[float]:
    """The end of the object, and the rows soon past it that stand out between those that the ball rolls over."""
    y = np.append(flank.low + roll * SOON, flank.low)
    y = np.sort(y[y <= flank.mouth])
    _, z = flank.profile(y)
    top = z.max(axis=1)
    straight = np.interp(y, y[[0, -1]], top[[0, -1]])
    return [float(v) for v, out in zip(y, top - straight, strict=True) if v == flank.low or out > STANDS_OUT]


def _outermost(x: Array, z: Array, foot: float) -> tuple[Array, Array]:
    """The points (n, q, 2) of each profile that stand out, and the way (n, q) each of them faces; last, its foot.

    They are the furthest for every way of FACING, and every point of the profile in the middle of the ways it faces.
    """
    out = x[:, :, None] * np.sin(FACING) + z[:, :, None] * np.cos(FACING)
    which = out.argmax(axis=1)
    edge = np.arctan2(-np.diff(z, axis=1), np.diff(x, axis=1))
    n = len(x)
    own = (np.column_stack([np.full(n, FACING[0]), edge]) + np.column_stack([edge, np.full(n, FACING[-1])])) / 2
    own = np.maximum.accumulate(own, axis=1)
    hidden = own <= FACING[0]
    every = np.broadcast_to(np.arange(x.shape[1]), x.shape)
    which = np.concatenate([which, np.where(hidden, which[:, :1], every)], axis=1)
    ways = np.concatenate([np.broadcast_to(FACING, (n, len(FACING))), np.where(hidden, FACING[0], own)], axis=1)
    order = (ways + 1e-9 * which).argsort(axis=1, kind="stable")  # along a straight side all face alike
    which, ways = (np.take_along_axis(part, order, axis=1) for part in (which, ways))
    points = np.stack([np.take_along_axis(part, which, axis=1) for part in (x, z)], axis=2)
    feet = np.column_stack([points[:, -1, 0], np.full(n, min(foot, float(z.min())))])
    return np.asarray(np.append(points, feet[:, None, :], axis=1)), np.column_stack([ways, ways[:, -1]])


def _askew(points: Array, ways: Array, wide: Array, a: Array) -> Array:
    """b at places a of profiles grown by `wide` (n,), (n, places)."""
    x = points[:, :, 0] + wide[:, None] * np.sin(ways)
    z = points[:, :, 1] + wide[:, None] * np.cos(ways)
    known, value = (x - z) / ROOT, (x + z) / ROOT
    known = np.column_stack([known[:, 0] - FAR, known, known[:, -1] + FAR])
    value = np.column_stack([value[:, 0] - FAR, value, value[:, -1] - FAR])
    shift = APART * np.arange(len(known))[:, None]
    found = np.interp((a + shift).ravel(), (known + shift).ravel(), value.ravel())
    return np.asarray(found.reshape(len(known), len(a)))


def _valleys(a: Array, centre: Array, rest: Array) -> Array:
    """(rows, 2) the place a, b where the ball lies against object and welt at once; nan where it never does."""
    over = centre - rest
    touches = over >= -TOUCHES
    found = np.full((len(centre), 2), np.nan)
    has = np.flatnonzero(touches.any(axis=1))
    last = len(a) - 1 - touches[has, ::-1].argmax(axis=1)
    after = np.minimum(last + 1, len(a) - 1)
    o, p = over[has, last], over[has, after]
    share = np.where(last == after, 0.0, np.clip(o / np.maximum(o - p, 1e-12), 0, 1))
    found[has, 0] = a[last] + share * (a[after] - a[last])
    found[has, 1] = rest[last] + share * (rest[after] - rest[last])
    return found


def _shrunk(centre: Array, grid: Array, rows: Array, step: float, ball: float, a: Array, valley: Array) -> Array:
    """b of the surface the ball leaves at rows, (n, places), with its centre on (grid, places)."""
    roll = grid[1] - grid[0]
    shifts = int(ball / step) + 1
    wide = np.pad(centre, ((0, 0), (shifts, shifts)), mode="reflect", reflect_type="odd")
    left = np.full((len(rows), len(a)), np.inf)

    def lower(mine: Indices, at: Array, rest: Array, across: Array) -> None:
        """Lower the surface at some rows to where the ball comes from centres so far across from them."""
        reach = np.sqrt(ball**2 - across**2)
        best = left[mine]
        for shift in range(-shifts, shifts + 1):
            deep = reach**2 - (shift * step) ** 2
            fits = deep > 0
            if fits.all():
                np.minimum(best, at[:, shifts + shift : shifts + shift + len(a)] - np.sqrt(deep)[:, None], out=best)
            elif fits.any():
                lowered = at[fits, shifts + shift : shifts + shift + len(a)] - np.sqrt(deep[fits])[:, None]
                best[fits] = np.minimum(best[fits], lowered)
        deep_at = reach[:, None] ** 2 - (a - rest[:, :1]) ** 2
        in_reach = deep_at > 0
        lowered = np.where(in_reach, rest[:, 1:] - np.sqrt(np.where(in_reach, deep_at, 0.0)), np.inf)
        left[mine] = np.fmin(best, lowered)

    nearest = np.rint((rows - grid[0]) / roll).astype(np.intp)
    for apart in range(-int(ball / roll) - 1, int(ball / roll) + 2):
        j = nearest + apart
        across = rows - (grid[0] + j * roll)
        mine = np.flatnonzero(np.abs(across) < ball)
        # past the grid there is only the welt below, and only more of the same above
        j = np.clip(j[mine], 0, len(grid) - 1)
        lower(mine, wide[j], valley[j], across[mine])
    # and from the row itself, which seldom lies on the grid
    k = np.clip(np.floor((rows - grid[0]) / roll).astype(np.intp), 0, len(grid) - 2)
    share = np.clip((rows - grid[k]) / roll, 0, 1)[:, None]
    between = [part[k] * (1 - share) + part[k + 1] * share for part in (wide, valley)]
    lower(np.arange(len(rows)), between[0], between[1], np.zeros(len(rows)))
    return left


def _measured(a: Array, b: Array, rows: Array, grid: Array, valley: Array, ridge: Array, floor: float) -> Run:
    x, z = (a + b) / ROOT, np.maximum((b - a) / ROOT, floor)
    x = np.maximum.accumulate(x, axis=1)
    at = np.zeros_like(x)
    np.cumsum(np.hypot(np.diff(x, axis=1), np.diff(z, axis=1)), axis=1, out=at[:, 1:])
    there = np.flatnonzero(np.isfinite(valley[:, 0]))
    out = (valley[there, 0] + valley[there, 1]) / ROOT
    lies = (rows >= grid[there[0]] - 1e-9) & (rows <= grid[there[-1]] + 1e-9) if len(there) else rows > np.inf
    x_land = np.maximum(np.where(lies, np.interp(rows, grid[there], out), ridge), ridge) if len(there) else ridge
    start = interpolated(ridge[:, None], x, at)
    at = at - start
    landed = np.maximum(interpolated(x_land[:, None], x, at)[:, 0], 0.0)
    n = len(rows)
    return Run(x, z, at, np.full(n, floor), x_land, landed, np.zeros(n))
