"""Run: the neutral line of one side of each section as points, from a straight reference outward to the welt.

A taut line (Chain) is exact; moulded leather and the sides of a two-sided case are runs. Both answer to the same
questions: how far is it to x, what lies that far out, where does it come down on the welt.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from tailor.core.carried.loft import Array
from tailor.core.shell.wrap import Chain

POINTS = 96  # points to a run
APART = 4e3  # mm between the rows of a table that is searched in one go: no more than it takes, so that
NUDGE = 1e-8  # mm, by which places one above the other are told apart, is not lost in the last digits


def interpolated(at: Array, known: Array, value: Array) -> Array:
    """Row by row linear interpolation: (n, p) values at `at` (n, p), for known (n, m) rising to value (n, m).

    Beyond the first and last known place the end values go on.
    """
    shift = APART * np.arange(len(known))[:, None]
    inside = np.clip(at, known[:, :1], known[:, -1:])
    found = np.interp((inside + shift).ravel(), (known + shift).ravel(), value.ravel())
    return np.asarray(found.reshape(at.shape))


@dataclass(frozen=True)
class Run:
    """The neutral line of one side for n rows.

    x, z, at: (n, m) places, and their lengths from the reference, 0 there; z over the middle plane or the flat
    back. floor: (n,) height of the neutral line over the welt. x_land, landed: (n,) where it comes down, and its
    length there. approach: (n,) angle at which it comes down, radians (0 where it is moulded). mm.
    """

    x: Array
    z: Array
    at: Array
    floor: Array
    x_land: Array
    landed: Array
    approach: Array

    def length_to(self, x: Array) -> Array:
        """Length from the reference to x, (n,), mm; beyond the landing it runs flat."""
        x = np.asarray(x, dtype=float)
        on = interpolated(x[:, None], self.x, self.at)[:, 0]
        return np.where(x >= self.x_land, self.landed + x - self.x_land, np.minimum(on, self.landed))

    def sampled(self, length: Array) -> tuple[Array, Array]:
        """x and height, (n, m) each, at lengths (n, m)."""
        over = length - self.landed[:, None]
        x, z = (interpolated(length, self.at, part) for part in (self.x, self.z))
        return np.where(over >= 0, self.x_land[:, None] + over, x), np.where(over >= 0, self.floor[:, None], z)

    def point_at(self, length: Array) -> Array:
        """The point (x, height) that far from the reference, (n, 2), mm."""
        return np.column_stack([part[:, 0] for part in self.sampled(np.asarray(length, dtype=float)[:, None])])

    def along(self, row: int, lengths: Array) -> Array:
        """Points of one row at lengths from the reference, (m, 2), mm."""
        one = Run(**{name: part[row : row + 1] for name, part in vars(self).items()})
        return np.column_stack([part[0] for part in one.sampled(np.asarray(lengths)[None, :])])

    def points(self, row: int, end: float, step: float = 0.1) -> Array:
        """The line of one row as points from the reference to x = end, (m, 2), for drawing."""
        last = self.landed[row] + max(end - self.x_land[row], 0.0)
        return self.along(row, np.unique(np.append(np.arange(0, last, 3 * step), [self.landed[row], last])))

    def rows(self, which: NDArray[np.bool_] | NDArray[np.intp] | slice) -> Run:
        """Some of the rows."""
        return Run(**{name: part[which] for name, part in vars(self).items()})

    def between(self, row: int, share: float) -> Run:
        """One row, `share` of the way from a row to the next, which lie close together."""
        mixed = {n: (1 - share) * p[row : row + 1] + share * p[row + 1 : row + 2] for n, p in vars(self).items()}
        return Run(**mixed)

    def moved(self, by: Array | float) -> Run:
        """The same so much further along x, each row by its own (n,) or all alike, mm."""
        each = np.broadcast_to(np.asarray(by, dtype=float), self.x_land.shape)
        return replace(self, x=self.x + each[:, None], x_land=self.x_land + each)

    def heights(self, x: Array) -> Array:
        """Heights (n, m) of every row at places x (m,), level beyond the landing."""
        wide = np.broadcast_to(x, (len(self.floor), len(x)))
        rising = np.maximum.accumulate(self.x + NUDGE * np.arange(self.x.shape[1]), axis=1)
        found = interpolated(wide, rising, self.z)
        return np.where(wide >= self.x_land[:, None], self.floor[:, None], found)


def of_chain(line: Chain, start: Array | None = None, end: Array | None = None) -> Run:
    """A taut line as a run from its fold, or from x = start, (n,), where it begins further on; or only to x = end."""
    n = len(line.floor)
    first = np.zeros(n) if start is None else line.length_to(start)
    last = line.landed if end is None else np.minimum(line.length_to(end), line.landed)
    landed = np.maximum(last - first, 0.0)  # a line that is level from the start is down already
    at = landed[:, None] * np.linspace(0, 1, POINTS)
    x, z = line.sampled(first[:, None] + at)
    x_land = line.x_land if start is None else np.maximum(line.x_land, start)
    down = (landed <= 0.0)[:, None]
    x, z = np.where(down, x_land[:, None], x), np.where(down, line.floor[:, None], z)
    return Run(x, z, at, line.floor, x_land, landed, line.approach)


def joined(first: Run, then: Run) -> Run:
    """A run and the one that goes on where it ends."""
    share = np.linspace(0, 1, POINTS)
    on = then.landed[:, None] * share
    x, z = then.sampled(on)
    length = first.at[:, -1:]
    return Run(
        np.concatenate([first.x[:, :-1], x], axis=1), np.concatenate([first.z[:, :-1], z], axis=1),
        np.concatenate([first.at[:, :-1], length + on], axis=1), then.floor, then.x_land,
        length[:, 0] + then.landed, then.approach,
    )  # fmt: skip


def reversed_to(run: Run, x: Array) -> Run:
    """What lies from x (n,) back to where a run begins, seen from the other side: it begins at -x and ends there."""
    share = np.linspace(0, 1, POINTS)
    long = run.length_to(x)[:, None]
    back, z = run.sampled(long * (1 - share))
    return Run(-back, z, long * share, run.floor, -back[:, -1], long[:, 0], run.approach)


def level(x: Array, floor: Array) -> Run:
    """A run that lies flat all the way out from x, (n,)."""
    n = len(x)
    at = np.zeros((n, 2))
    at[:, 1] = 1e-6
    return Run(x[:, None] + at, np.repeat(floor[:, None], 2, axis=1), at, floor, x, np.zeros(n), np.zeros(n))


def blended(taut: Run, moulded: Run, share: Array) -> Run:
    """Between two runs of the same rows, share by share: 0 is taut, 1 is moulded, (n,)."""
    part = np.linspace(0, 1, POINTS)
    one, other = (run.sampled(run.landed[:, None] * part) for run in (taut, moulded))
    s = share[:, None]
    x, z = ((1 - s) * a + s * b for a, b in zip(one, other, strict=True))
    ends = _along(*one), _along(*other), _along(x, z)
    chords = (1 - s) * ends[0][:, -1:] + s * ends[1][:, -1:]
    true = (1 - s) * taut.landed[:, None] + s * moulded.landed[:, None]
    at = ends[2] * true / np.maximum(chords, 1e-9)  # chords cut bends short
    return Run(x, z, at, taut.floor, x[:, -1], at[:, -1], (1 - share) * taut.approach)


def _along(x: Array, z: Array) -> Array:
    """Length along points (n, m) from the first, (n, m)."""
    step = np.hypot(np.diff(x, axis=1), np.diff(z, axis=1))
    return np.asarray(np.concatenate([np.zeros((len(x), 1)), np.cumsum(step, axis=1)], axis=1))
