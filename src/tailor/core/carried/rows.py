"""Choosing stations: few where the object runs straight, many where it changes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from tailor.core.carried.loft import Array
from tailor.core.carried.monotone import Monotone

MOST = 160


def adaptive(y: Array, sizes: Array, most: float, least: int = 5) -> NDArray[np.intp]:
    """Which rows of a dense run to keep as stations, so that a loft through them stays within `most` mm.

    y: (n,) rising; sizes: (n, k). Rows are added where the loft misses most until it does not, or MOST are in.
    """
    chosen = np.unique(np.linspace(0, len(y) - 1, min(least, len(y))).round().astype(np.intp))
    while len(chosen) < min(MOST, len(y)):
        misses = np.abs(Monotone(y[chosen], sizes[chosen])(y) - sizes).max(axis=1)
        misses[chosen] = 0.0
        if misses.max() <= most:
            break
        # the worst row of every gap that misses, at once
        gap = np.searchsorted(chosen, np.arange(len(y)), side="right")
        worst = [int(np.flatnonzero(gap == g)[misses[gap == g].argmax()]) for g in np.unique(gap[misses > most])]
        chosen = np.unique(np.concatenate([chosen, np.array(worst, dtype=np.intp)]))
    return np.asarray(chosen, dtype=np.intp)
