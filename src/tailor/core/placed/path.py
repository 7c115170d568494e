"""Path: a line in a plane of straight runs and arcs, by its length: what a bent sheet is, seen from its edge."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import scipy

from tailor.core.carried.loft import Array

LEVEL = 0.0
POINTED = np.radians(60.0)  # between the legs of a loop of leather where they come together
LANDS = 0.05  # mm beyond where a loop of leather comes down, that it lies plane
STEP, QUARTER = np.radians(6.0), np.pi / 2
NEARLY = 1e-30  # radians: a turn that is none


@dataclass(frozen=True)
class Path:
    """A line by its length s, begun at s = first; before and after its ends it goes straight on.

    start: (2,) where it begins; heading: which way it sets out, radians; runs: how long each is and by how much it
    turns, to the left positive, radians. Each run goes on as the one before it ended, turned by its kink. mm.
    """

    runs: tuple[tuple[float, float], ...] = ()
    start: tuple[float, float] = (0.0, 0.0)
    heading: float = LEVEL
    first: float = 0.0
    kinks: tuple[float, ...] = ()

    @cached_property
    def _told(self) -> tuple[Array, Array, Array, Array]:
        """Where each run begins along it, (m,), its place, (m, 2), its heading and its curvature, (m,)."""
        runs = [(1.0, 0.0), *self.runs, (1.0, 0.0)]
        kinks = [0.0, *(self.kinks or [0.0] * len(self.runs)), 0.0]
        length, turn = (np.array(side, dtype=float) for side in zip(*runs, strict=True))
        bends = np.divide(turn, length, out=np.zeros(len(turn)), where=length > 0)
        heading = self.heading + np.concatenate([[0.0], np.cumsum(turn)[:-1]]) + np.cumsum(kinks)
        begins = self.first - 1.0 + np.concatenate([[0.0], np.cumsum(length)[:-1]])
        middle = heading + turn / 2
        step = (length * np.sinc(turn / (2 * np.pi)))[:, None] * np.column_stack([np.cos(middle), np.sin(middle)])
        before = np.array([np.cos(self.heading), np.sin(self.heading)])
        at = np.asarray(self.start) - before + np.vstack([np.zeros(2), np.cumsum(step, axis=0)[:-1]])
        return begins, at, heading, bends

    @property
    def length(self) -> float:
        """From its beginning to its end."""
        return float(sum(length for length, _ in self.runs))

    @cached_property
    def turns(self) -> Array:
        """Lengths at which its curvature changes, of a line of many short runs those it has turned by STEP between; and
        within a run that turns by more than a quarter so many that none lies further apart than that.
        """
        if self._straight:
            return np.empty(0)
        begins, heading, bends = (self._told[k].tolist() for k in (0, 2, 3))
        kept, was = [begins[1]], heading[1]
        for k in range(2, len(begins)):
            if bends[k] or bends[k - 1] or abs(heading[k] - was) >= STEP or k == len(begins) - 1:
                kept.append(begins[k])
                was = heading[k]
        for start, end, bend in zip(begins, begins[1:], bends, strict=False):
            if bend:
                parts = int(np.ceil(abs(bend * (end - start)) / QUARTER - 1e-9))
                kept += [start + (end - start) * part / parts for part in range(1, parts)]
        return np.unique(kept)

    def _in(self, s: Array) -> tuple[Array, Array, Array, Array]:
        begins, at, heading, bends = self._told
        k = np.searchsorted(begins[1:], s, side="right")
        return s - begins[k], at[k], heading[k], bends[k]

    @cached_property
    def _straight(self) -> bool:
        return not self.runs or not (any(turn for _, turn in self.runs) or any(self.kinks))

    @cached_property
    def _way(self) -> Array:
        """Which way it sets out, (2,) of length 1."""
        return np.array([np.cos(self.heading), np.sin(self.heading)])

    @cached_property
    def _begins(self) -> Array:
        """Where it would be at length 0, if it set out so from the first, (2,)."""
        return np.asarray(self.start) - self.first * self._way

    def goes(self, s: Array) -> tuple[Array, Array]:
        """Where it is at lengths s, (n,), and which way it goes there: (n, 2), and radians, (n,)."""
        if self._straight:
            return self._begins + s[:, None] * self._way, np.full(len(s), self.heading)
        on, at, heading, bends = self._in(s)
        half = bends * on / 2
        half[half == 0.0] = NEARLY
        middle, far = heading + half, on * np.sin(half) / half
        return np.array([at[:, 0] + far * np.cos(middle), at[:, 1] + far * np.sin(middle)]).T, middle + half

    def heads(self, s: Array) -> Array:
        """Which way it goes at lengths s, (n,), radians."""
        return self.goes(s)[1]

    def at(self, s: Array) -> Array:
        """Where it is at lengths s, (n, 2)."""
        return self.goes(s)[0]

    def curvature(self, s: Array) -> Array:
        """How much it turns to a mm at lengths s, (n,), to the left positive."""
        return self._in(s)[3]

    def beside(self, by: float) -> Path:
        """The line so far to its right, as long as it then is, begun at the same length, mm."""
        turned = np.array([np.sin(self.heading), -np.cos(self.heading)]) * by + np.asarray(self.start)
        runs = tuple((length + by * turn, turn) for length, turn in self.runs)
        return Path(runs, (float(turned[0]), float(turned[1])), self.heading, self.first, self.kinks)

    def longer(self, by: float) -> Path:
        """The line so much longer at either end, or shorter, where it is straight; told by the same lengths, mm."""
        runs = list(self.runs)
        runs[0], runs[-1] = (runs[0][0] + by, runs[0][1]), (runs[-1][0] + by, runs[-1][1])
        back = by * np.array([np.cos(self.heading), np.sin(self.heading)])
        start = float(self.start[0] - back[0]), float(self.start[1] - back[1])
        return Path(tuple(runs), start, self.heading, self.first - by, self.kinks)

    def then(self, on: Path) -> Path:
        """The line as far as another begins, straight there, and from there on in the runs of that."""
        gap = on.first - self.first - self.length
        own = self.kinks or (0.0,) * len(self.runs)
        more = on.kinks or (0.0,) * len(on.runs)
        return Path((*self.runs, (gap, 0.0), *on.runs), self.start, self.heading, self.first, (*own, 0.0, *more))

    def hemmed(self, back: float, apart: float, leg: float, left: bool = False) -> Path:
        """The line with both ends turned back on it, to its right or left: from so far in a loop twice that long goes
        to a leg beside it, and from there on straight. apart: between the two, middle to middle, mm.
        """
        back, leg = back - LANDS, leg + LANDS
        side = 1.0 if left else -1.0
        (loop, turn), up = bowed(apart, 2 * back)
        kink, bend = side * (np.pi / 2 - up), -side * turn
        runs = list(self.runs)
        if min(runs[0][0], runs[-1][0]) < back or runs[0][1] or runs[-1][1]:
            raise ValueError("its ends are not straight as far as they are turned back")
        runs[0] = (runs[0][0] - back, 0.0)
        runs[-1] = (runs[-1][0] - back, 0.0)
        own = [*(self.kinks or [0.0] * len(self.runs))]
        way = np.array([np.cos(self.heading), np.sin(self.heading)])
        beside = side * np.array([-way[1], way[0]])
        start = np.asarray(self.start) + (back + leg) * way + apart * beside
        return Path(
            ((leg, 0.0), (loop, bend), *runs, (loop, bend), (leg, 0.0)), (float(start[0]), float(start[1])),
            self.heading + np.pi, self.first - back - leg, (0.0, kink, kink, *own[1:], kink, kink),
        )  # fmt: skip


def through(points: Array, first: float = 0.0) -> Path:
    """The path from point to point, (n, 2), in straight runs."""
    step = np.diff(points, axis=0)
    length = np.hypot(*step.T)
    heading = np.unwrap(np.arctan2(step[:, 1], step[:, 0]))
    runs = tuple((float(each), 0.0) for each in length)
    kinks = tuple(np.concatenate([[0.0], np.diff(heading)]).tolist())
    return Path(runs, (float(points[0, 0]), float(points[0, 1])), float(heading[0]), first, kinks)


def levelled(path: Path, radius: float) -> Path:
    """A path whose ends turn level with a radius, and go on so."""
    begins, ends = path.heading, float(path.heads(np.array([path.first + path.length]))[0])
    before, after = radius * abs(begins), radius * abs(ends)
    step = before * np.sinc(begins / (2 * np.pi)) * np.array([np.cos(begins / 2), np.sin(begins / 2)])
    x, out = (np.asarray(path.start) - step).tolist()
    kinks = path.kinks or (0.0,) * len(path.runs)
    runs = ((before, begins), *path.runs, (after, -ends))
    return Path(runs, (x, out), LEVEL, path.first - before, (0.0, *kinks, 0.0))


def rounded(corners: Sequence[Sequence[float]], radius: float) -> Path:
    """The path through corners, (n, 2), all but its ends rounded by a radius."""
    at = np.asarray(corners, dtype=float)
    step = np.diff(at, axis=0)
    long, heading = np.hypot(*step.T), np.unwrap(np.arctan2(step[:, 1], step[:, 0]))
    turn = np.diff(heading)
    cut = np.concatenate([[0.0], radius * np.tan(np.abs(turn) / 2), [0.0]])
    runs = list[tuple[float, float]]()
    for k, length in enumerate(long):
        runs.append((float(length - cut[k] - cut[k + 1]), 0.0))
        if k < len(turn):
            runs.append((float(radius * abs(turn[k])), float(turn[k])))
    return Path(tuple(runs), (float(at[0, 0]), float(at[0, 1])), float(heading[0]))


def bowed(chord: float, length: float) -> tuple[tuple[float, float], float]:
    """A run that goes over a chord so much shorter than itself in one arc, and by how much it must first turn up."""
    half = 0.0
    if length > chord * (1 + 1e-12):
        half = float(scipy.optimize.brentq(lambda a: np.sin(a) / a - chord / length, 1e-6, np.pi))
    return (length, -2 * half), half


def arched(chord: float, length: float) -> tuple[tuple[tuple[float, float], ...], float]:
    """Runs that rise and come down again over a chord: in one arc, or where they are long, upright legs and half a
    circle; and by how much they must first turn up.
    """
    run, up = bowed(chord, length)
    if up <= np.pi / 2:
        return (run,), up
    leg = (length - np.pi / 2 * chord) / 2
    return ((leg, 0.0), (np.pi / 2 * chord, -np.pi), (leg, 0.0)), np.pi / 2


def looped(half: float, meet: float, apart: float) -> Path:
    """A strip from s = -half to half, laid double to its left on something plane: places as far as `meet` on either
    side of its middle lie over one another at the origin, so far apart; its loop stands away to the left only, mm.
    """
    length = 2 * (meet - LANDS)
    far, near = np.sin(POINTED), np.cos(POINTED)
    ways = np.array([[-far, 1.0, -near], [1 + near, 0.0, -far], [np.pi + POINTED, 1.0, 1.0]])  # along, up, and in all
    radius, out, back = np.linalg.solve(ways, [0.0, apart, length]).tolist()
    leg = half - meet + LANDS
    runs = (leg + out, 0.0), (radius * (np.pi + POINTED), np.pi + POINTED), (back, 0.0), (leg, 0.0)
    return Path(runs, (meet - half, 0.0), 0.0, -half, (0.0, 0.0, 0.0, -POINTED))


def crest(half: float, meet: float, apart: float) -> float:
    """How far beyond where its legs meet a loop of leather stands away."""
    return float(looped(half, meet, apart).at(np.linspace(-meet, meet, 65))[:, 0].max())


def ended(half: float, meet: float, apart: float) -> tuple[tuple[tuple[float, float], ...], float]:
    """A loop of leather, to its right: from the end of a leg to where both meet; and by how much it turns then."""
    path = looped(half, meet, apart)
    return tuple((length, -turn) for length, turn in path.runs[:-1]), -path.kinks[-1]


def twice_looped(leg: float, first: float, second: float, apart: float) -> Path:
    """A strip that goes three times along one leg, once round something at its foot and once at its top, each on the
    other side of the leg in the middle. first, second: from the crest of each loop to where its legs have met, mm.
    """
    (foot, up), (top, down) = (ended(leg + meet, meet, apart) for meet in (first, second))
    over = tuple((length, -turn) for length, turn in top[::-1])
    runs = (*foot, (leg + 2 * LANDS, 0.0), *over)
    start = (crest(leg + first, first, apart) + leg, -apart)
    return Path(runs, start, np.pi, 0.0, (0.0, 0.0, 0.0, up, -down, 0.0, 0.0))


def alike(half: Array) -> Path:
    """A path alike on either side of its middle, s = 0: its points from there, (n, 2)."""
    whole = np.vstack([(half * np.array([-1.0, 1.0]))[:0:-1], half])
    return through(whole, -float(np.hypot(*np.diff(half, axis=0).T).sum()))


def mirrored(half: Sequence[tuple[float, float]]) -> Path:
    """A path alike on either side of s = 0 where it runs level through the origin: its runs from there to its end."""
    right = Path(tuple(half))
    end = right.at(np.array([right.length]))[0]
    heads = right.heads(np.array([right.length - 1e-12]))[0] if half else 0.0
    runs = (*((length, turn) for length, turn in reversed(half)), *half)
    return Path(tuple(runs), (-float(end[0]), float(end[1])), -float(heads), -right.length)
