"""Curves through rows of sizes that never swing beyond them: monotone between, smooth throughout.

Fritsch and Butland, A method for constructing local monotone piecewise cubic interpolants, 1984; the ends by three
points. scipy.interpolate has the same, and takes a quarter of a second to load before a window can open.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


class Monotone:
    """A curve through values (n, k) at n rising places."""

    def __init__(self, at: Array, values: Array) -> None:
        """Raises ValueError where the places do not rise, or there are fewer than two."""
        at, values = np.asarray(at, dtype=float), np.asarray(values, dtype=float)
        step = np.diff(at)
        if len(at) < 2 or not (step > 0).all():
            raise ValueError("places must rise")
        self._at, self._values, self._step = at, values, step[:, None]
        self._slope = np.diff(values, axis=0) / self._step
        self._leans = self._leaning()

    def _leaning(self) -> Array:
        """(n, k): how steep the curve is at each place."""
        step, slope = self._step, self._slope
        if len(step) == 1:
            return np.vstack([slope, slope])
        one, other = 2 * step[1:] + step[:-1], step[1:] + 2 * step[:-1]
        with np.errstate(divide="ignore", invalid="ignore"):
            mean = (one + other) / (one / slope[:-1] + other / slope[1:])
        inner = np.where(slope[:-1] * slope[1:] > 0, mean, 0.0)
        first = _end(step[0], step[1], slope[0], slope[1])
        last = _end(step[-1], step[-2], slope[-1], slope[-2])
        return np.vstack([first, inner, last])

    def __call__(self, at: Array) -> Array:
        """Values (m, k) at places (m,), which may lie anywhere from the first to the last."""
        at = np.asarray(at, dtype=float)
        k = np.clip(np.searchsorted(self._at, at, side="right") - 1, 0, len(self._step) - 1)
        step, slope = self._step[k], self._slope[k]
        t = (at - self._at[k])[:, None]
        low, high = self._leans[k], self._leans[k + 1]
        bend = (3 * slope - 2 * low - high) / step
        twist = (low + high - 2 * slope) / step**2
        return np.asarray(self._values[k] + t * (low + t * (bend + t * twist)))


def _end(step: Array, after: Array, slope: Array, next_: Array) -> Array:
    """How steep the curve is at an end (k,): by three points, and never so that it swings."""
    lean = ((2 * step + after) * slope - step * next_) / (step + after)
    lean = np.where(np.sign(lean) != np.sign(slope), 0.0, lean)
    return np.where((np.sign(slope) != np.sign(next_)) & (np.abs(lean) > 3 * np.abs(slope)), 3 * slope, lean)
