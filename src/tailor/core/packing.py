"""Packing: boxes put side by side in little room, as pieces are laid on the board and on sheets of paper."""

from __future__ import annotations

import numpy as np

from tailor.core.carried.loft import Array

WIDTHS = 32  # that are tried


def stacked(sizes: Array, width: float) -> tuple[Array, float]:
    """Lower left corners (n, 2) of boxes (n, 2) put into a strip of a width, each as low, then as far left as it goes,
    and how high the strip is then. No box may be wider than it.
    """
    places = np.zeros((len(sizes), 2))
    steps = [(0.0, width, 0.0)]  # the upper edge of what lies there: from, to, height
    for k in np.lexsort((-sizes[:, 0], -sizes[:, 1])):
        wide, high = map(float, sizes[k])
        spots = []
        for left, _, _ in steps:
            if left + wide <= width + 1e-9:
                under = [h for a, b, h in steps if a < left + wide - 1e-9 and b > left + 1e-9]
                spots.append((max(under), left))
        level, left = min(spots)
        places[k] = left, level
        right = left + wide
        kept = [(a, b, h) for a, b, h in steps if b <= left + 1e-9 or a >= right - 1e-9]
        kept += [(a, left, h) for a, b, h in steps if a < left - 1e-9 < b]
        kept += [(right, b, h) for a, b, h in steps if a < right < b - 1e-9]
        steps = sorted([*kept, (left, right, level + high)])
    return places, max(h for _, _, h in steps)


def filling(sizes: Array, aspect: float) -> Array:
    """Lower left corners of boxes (n, 2) laid so that they are seen as large as may be on a board of an aspect."""
    best = np.inf, np.zeros_like(sizes)
    for width in np.linspace(float(sizes[:, 0].max()), float(sizes[:, 0].sum()), WIDTHS):
        places, high = stacked(sizes, float(width))
        wide = float((places[:, 0] + sizes[:, 0]).max())
        seen = max(wide, high * aspect)
        if seen < best[0] * (1 - 1e-6):
            best = seen, places
    return best[1]
