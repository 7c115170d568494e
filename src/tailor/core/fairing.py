"""Fairing: lines that flow, with a stated greatest deviation from what was computed.

A bump in a drawn line is copied by the dividers into the stitches and seen for ever, so every seam is faired
before holes are set on it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
import scipy
from numpy.typing import NDArray

from tailor.core.errors import InputError

Array = NDArray[np.float64]

STEP = 1.0  # mm between the points a line is faired at
SOFTEST, STIFFEST = 1e-2, 1e7
HALVINGS = 9
HELD = 1e9  # weight that holds the mouth end where it is


@dataclass(frozen=True)
class Line:
    """A smooth line through points (m, 2), mm, from the mouth round to the fold.

    deviation: the most that fairing moved any point, mm.
    """

    points: Array
    deviation: float = 0.0

    @cached_property
    def at(self) -> Array:
        """Length along the line at each point, (m,)."""
        return np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(self.points, axis=0).T))])

    @cached_property
    def curve(self) -> scipy.interpolate.BSpline:
        degree = min(3, len(self.at) - 1)
        return scipy.interpolate.make_interp_spline(self.at, self.points, k=degree, check_finite=False)

    @property
    def length(self) -> float:
        return float(self.at[-1])

    def __call__(self, s: Array) -> Array:
        """The points at lengths s, (n, 2)."""
        return np.asarray(self.curve(s))

    def normal(self, s: Array) -> Array:
        """Outward normals at lengths s, (n, 2): away from the object when the line runs mouth to fold."""
        along = np.asarray(self.curve(s, 1))
        along /= np.hypot(*along.T)[:, None]
        return np.column_stack([-along[:, 1], along[:, 0]])

    def curvature(self, s: Array) -> Array:
        """Signed curvature at lengths s, (n,), 1/mm; positive bulges outward."""
        d, dd = np.asarray(self.curve(s, 1)), np.asarray(self.curve(s, 2))
        return np.asarray((d[:, 1] * dd[:, 0] - d[:, 0] * dd[:, 1]) / np.hypot(*d.T) ** 3)

    def dense(self, start: float, end: float, step: float = 0.5) -> Array:
        """Points from one length to another, close enough to draw and cut by, (n, 2)."""
        return self(np.linspace(start, end, max(int(np.ceil((end - start) / step)), 1) + 1))

    def nearest(self, points: Array) -> Array:
        """Lengths at which it comes nearest to points (n, 2), straight from one of its own to the next, (n,)."""
        k = np.hypot(*(points[:, None] - self.points).T).argmin(axis=0)
        best, found = np.full(len(points), np.inf), np.zeros(len(points))
        for start in (np.maximum(k - 1, 0), np.minimum(k, len(self.points) - 2)):
            way = self.points[start + 1] - self.points[start]
            long, away = np.hypot(*way.T), points - self.points[start]
            on = np.clip((away * way).sum(axis=1) / long, 0.0, long)
            apart = np.hypot(*(away - (on / long)[:, None] * way).T)
            found, best = np.where(apart < best, self.at[start] + on, found), np.minimum(apart, best)
        return found

    def where(self, value: float, axis: int, name: str) -> float:
        """The first length at which the line comes down to a value of u (axis 0) or v (axis 1)."""
        low, high = 0.0, self.length
        for _ in range(4):  # each round narrows the place sixty times or more
            s = np.linspace(low, high, len(self.points) if low == 0.0 else 65)
            below = self(s)[:, axis] <= value
            if not below.any():
                raise InputError(f"the stitch line never comes to {value:.1f} mm", name, "give a smaller distance")
            k = int(below.argmax())
            low, high = s[max(k - 1, 0)], s[k]
        return float(high)


def spaced(points: Array, step: float = STEP) -> Array:
    """Points at equal lengths along the smooth line through the given ones, (n, 2), ends kept."""
    rough = Line(_distinct(points))
    return rough.dense(0.0, rough.length, step)


def _distinct(points: Array) -> Array:
    apart = np.hypot(*np.diff(points, axis=0).T) > 1e-9
    return np.asarray(points[np.concatenate([[True], apart])])


def fair(points: Array, most: float) -> Line:
    """The stiffest line within `most` mm of points (n, 2) running from the mouth to the fold, u = 0.

    The line is mirrored across the fold so that it meets the fold square, and its two ends stay where they are.
    """
    raw = spaced(points)
    if most <= 0 or len(raw) < 8:
        return Line(raw)
    ghosts = min(40, len(raw) - 1)
    mirrored = np.vstack([raw, raw[-2 : -2 - ghosts : -1] * np.array([-1.0, 1.0])])

    def landed(moved: Array) -> Array:
        kept = moved[: len(raw)].copy()
        kept[0] = raw[0]
        kept[-1, 0] = 0.0
        return kept

    return Line(*_stiffest(mirrored, np.array([0]), landed, raw, most))


def flowed(points: Array, most: float, loop: bool = False, waves: float = np.inf) -> tuple[Array, float]:
    """The stiffest line within `most` mm of evenly spaced points (n, 2), ends held, and the most it moved any.

    loop: the points close on themselves and no end is held. waves: mm; what is longer than this from bump to bump
    is shape, and is left (the half-power wavelength of third-difference smoothing is 2π·step·stiffness^(1/6)).
    """
    step = float(np.hypot(*(points[1] - points[0])))
    stiffest = min(STIFFEST, (waves / (2 * np.pi * step)) ** 6)
    n = len(points)
    if most <= 0 or n < 8:
        return points, 0.0
    if not loop:
        return _stiffest(points, np.array([0, n - 1]), lambda moved: moved, points, most, stiffest)
    ghosts = min(n - 1, 60)
    round_ = np.vstack([points[-ghosts:], points, points[:ghosts]])
    return _stiffest(round_, np.array([], dtype=int), lambda moved: moved[ghosts : ghosts + n], points, most, stiffest)


def _stiffest(
    points: Array,
    held: NDArray[np.int_],
    kept: Callable[[Array], Array],
    raw: Array,
    most: float,
    stiffest: float = STIFFEST,
) -> tuple[Array, float]:
    """Whittaker smoothing with a third-difference penalty, as stiff as `most` allows; and the most it moved.

    held: which points stay. kept: what is kept of the smoothed points, to be compared with raw.
    """
    penalty = _third_differences(len(points))

    def smoothed(stiffness: float) -> tuple[Array, float]:
        bands = stiffness * penalty
        bands[3] += 1.0
        bands[3, held] += HELD
        load = points.copy()
        load[held] *= 1 + HELD
        moved = kept(np.asarray(scipy.linalg.lapack.dpbsv(bands, load, overwrite_ab=1, overwrite_b=1)[1]))
        return moved, float(np.hypot(*(moved - raw).T).max())

    best, deviation = smoothed(stiffest)
    low, high = np.log10(SOFTEST), np.log10(stiffest)
    if deviation > most:
        best, deviation = raw, 0.0
        for _ in range(HALVINGS):
            middle = (low + high) / 2
            tried, moved = smoothed(10**middle)
            if moved <= most:
                best, deviation, low = tried, moved, middle
            else:
                high = middle
    return best, deviation


def _third_differences(n: int) -> Array:
    """Upper bands (4, n) of DᵀD for third differences D of n points."""
    row = np.array([-1.0, 3.0, -3.0, 1.0])
    bands = np.zeros((4, n))
    for k in range(4):
        bands[3 - k, k:] = np.convolve(np.ones(n - 3), row[: 4 - k] * row[k:])
    return bands


def bumps(line: Line, deep: float = 0.15, tighter: float = np.inf) -> Array:
    """Lengths at which the line has a hollow between two outward bends, (b,), mm.

    deep: mm; a hollow that lies no deeper than this inside the chord across it is not seen. tighter: mm; nor is
    one that nowhere turns as tightly as this radius.
    """
    s = np.linspace(0, line.length, max(2 * len(line.points), 16))
    points, turn = line(s), line.curvature(s)
    inward = turn < 0
    edges = np.flatnonzero(np.diff(inward.astype(int))) + 1
    found = []
    for start, stop in pairwise(edges):
        if inward[start]:
            chord = points[stop] - points[start]
            across = points[start : stop + 1] - points[start]
            depth = np.abs(chord[0] * across[:, 1] - chord[1] * across[:, 0]) / np.hypot(*chord)
            if depth.max() > deep and -turn[start:stop].min() > 1 / tighter:
                found.append(s[start + int(depth.argmax())])
    return np.array(found)
