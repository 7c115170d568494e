"""Sleeve: flat leather drawn over a slab, from the middle of one side to the seam beside it."""

from __future__ import annotations

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.belt import taut
from tailor.core.draft.section import band
from tailor.core.leather.leather import Leather
from tailor.core.shell.run import of_chain


def over_slab(leather: Leather, half: float, high: float, inset: float) -> tuple[float, float]:
    """Leather over half a slab's width, down to the plane where it is sewn to its fellow: the flat length from the
    slab's middle to the stitch, and how far out from the middle the stitch lies. mm.

    half: of the slab's width. high: from the slab's middle plane to its face. inset: from where the leather is down
    to the stitch. Source: geometry, "Wrap", with no welt.
    """
    line, end = taut(leather, 2 * half, high)
    stitch = end + inset
    return float(of_chain(line, np.zeros(1)).length_to(np.array([stitch]))[0]), stitch


def skin_over(leather: Leather, half: float, high: float, out: float) -> Array:
    """The same leather cut through, both halves of it, to so far out: its outline (n, 2), closed, mm."""
    line, _ = taut(leather, 2 * half, high)
    right = line.points(0, out)
    right = right[right[:, 0] > 0]
    whole = np.vstack([(right * [-1.0, 1.0])[::-1], right])
    return band(whole, leather)
