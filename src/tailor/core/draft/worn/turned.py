"""Turned: leather folded round a belt or a ring and sewn to itself, by the neutral line."""

from __future__ import annotations

import numpy as np

from tailor.core.leather.leather import Leather
from tailor.core.shell.wrap import chain


def half_round(leather: Leather, thick: float, deep: float) -> tuple[float, float]:
    """Half of a strap's way round something `thick` and `deep`, flesh inside, from the crest of its fold to where both
    legs have met: its flat length, and how far below the crest that is. mm.

    The fold is no sharper than the leather bears; the legs come together as steeply as its temper allows. Source:
    geometry, "Carry" and "Wrap".
    """
    half = thick / 2
    radius = max(leather.inside_radius, half)
    end = max(deep, radius) + half / np.tan(np.radians(leather.approach))
    end = max(end, 2 * radius)
    line = chain(
        np.array([[half, max(deep, half)]]), np.array([[half, half]]), 0.0, np.array([radius]), radius,
        np.array([[end, 0.0]]), leather.offset,
    )  # fmt: skip
    return float(line.length_to(np.array([end]))[0]), float(end)
