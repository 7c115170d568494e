"""Roundness: whether a thing is round where it is widest, as a bottle is, and how far out it goes from its middle."""

from __future__ import annotations

import numpy as np

from tailor.core.carried.loft import Array, Loft

ROUND = 0.12  # of how far out it goes, that a thing may go less far on another side and still be round
WIDEST = 0.9  # of its greatest width, from which on it is looked at
HEIGHTS = 40


def is_round(loft: Loft) -> bool:
    """Whether it is round where it is widest: as far out from its middle on one side as on another."""
    out = reach(loft)
    broad = out.max(axis=1) >= WIDEST * out.max()
    return float(out[broad].min()) >= (1 - ROUND) * float(out[broad].max())


def reach(loft: Loft) -> Array:
    """How far out it goes from its middle at heights, in every direction, (n, k), mm."""
    sections = loft.sections(np.linspace(loft.tip, loft.top, HEIGHTS))
    rings = np.stack([sections.outline(k) for k in range(HEIGHTS)])
    low, high = rings.min(axis=(0, 1)), rings.max(axis=(0, 1))
    return np.asarray(np.hypot(*(rings - (low + high) / 2).transpose(2, 0, 1)))
