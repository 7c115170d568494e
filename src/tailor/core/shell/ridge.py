"""Ridge: the line along the draw that the panels of a two-sided case are measured out from."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from tailor.core.carried.loft import Array, Loft

INSIDE = 0.2  # share of its width that a bent ridge keeps within the object's sides
BENDS = 12.0  # mm over which a bent ridge is smoothed


@dataclass(frozen=True)
class Ridge:
    """The line panels are measured from: x at heights y, (n,) each, mm; straight where its two ends are all."""

    y: Array
    x: Array

    def __call__(self, rows: Array) -> Array:
        return np.asarray(np.interp(rows, self.y, self.x))

    @property
    def straight(self) -> bool:
        return bool(np.ptp(self.x) < 1e-9)

    def turned(self) -> Ridge:
        """As it is seen from behind."""
        return Ridge(self.y, -self.x)


def ridge_of(loft: Loft, rows: Array) -> Ridge:
    """The straight line along the draw that keeps furthest from both sides of the object at rows (n,).

    Where the object bends so far aside that none stays on it, its own middle line, smoothed.
    """
    size = loft.sizes(rows)
    left, right = float(size[:, 0].max()), float((size[:, 0] + size[:, 1]).min())
    if right - left >= 0.2:
        return Ridge(rows[[0, -1]], np.full(2, (left + right) / 2))
    even = np.linspace(rows[0], rows[-1], max(int(rows[-1] - rows[0]), 8) + 1)
    size = loft.sizes(even)
    step = even[1] - even[0]
    low, high = size[:, 0] + INSIDE * size[:, 1], size[:, 0] + (1 - INSIDE) * size[:, 1]
    x = scipy.ndimage.gaussian_filter1d((low + high) / 2, BENDS / step, mode="nearest")
    for _ in range(20):
        x = scipy.ndimage.gaussian_filter1d(np.clip(x, low, high), 2.0 / step, mode="nearest")
    return Ridge(even, np.clip(x, low, high))
