"""Gap: the room between two leathers, cut straight through, and what goes through it flat."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from tailor.core.carried.loft import Array

STEP = 0.5  # mm between the heights that are looked at
SLOPES = np.linspace(-0.5, 0.5, 11)  # that what goes through may lie at


@dataclass(frozen=True)
class Gap:
    """up: heights, STEP apart, (n,); low, high: from where to where there is no leather, (n,), mm."""

    up: Array
    low: Array
    high: Array

    def _thickest(self, slope: float, count: int) -> float:
        """The thickest that goes through flat over so many places, at a slope, by heights."""
        middles = slice(count // 2, count // 2 + len(self.up) - count + 1)
        low = scipy.ndimage.maximum_filter1d(self.low - slope * self.up, count)[middles]
        high = scipy.ndimage.minimum_filter1d(self.high - slope * self.up, count)[middles]
        return float((high - low).max())

    def deep(self, wide: float) -> float:
        """The thickest belt, so wide, that goes through flat: below 0 where leather would lie in leather."""
        most = -np.inf
        for slope, longer in zip(SLOPES, np.hypot(1.0, SLOPES), strict=True):
            count = min(round(wide / longer / STEP) + 1, len(self.up))
            most = max(most, self._thickest(slope, count) / longer)
        return float(most)

    def opening(self, thick: float) -> float:
        """The widest belt, so thick, that goes through flat."""
        most = 0.0
        for slope, longer in zip(SLOPES, np.hypot(1.0, SLOPES), strict=True):
            low, high = int(most / longer / STEP) + 1, len(self.up) + 1  # of places that do, and that do not
            if low < high and self._thickest(slope, low) < thick * longer:
                continue
            while high - low > 1:
                count = (low + high) // 2
                low, high = (count, high) if self._thickest(slope, count) >= thick * longer else (low, count)
            most = max(most, (low - 1) * STEP * longer)
        return float(most)
