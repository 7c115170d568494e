"""The order in which a layout is cut: straps off the straight edge first, then what shrinks the hide from one side."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from tailor.core.cut.laying import Laid, Laying

STRAP, REACH = 0.12, 250.0  # hull over span squared, mm: what is cut with the strap cutter, along the edge
ROW = 150.0  # mm of the hide that are cut off together, from the top down


def in_order(laying: Laying, laid: Sequence[Laid]) -> list[Laid]:
    """Pieces hide by hide, offcuts first: straps from the back edge down, then the rest from the left, row by row."""
    hides = {hide.id: n for n, hide in enumerate(sorted(laying.hides, key=lambda h: h.priority))}
    rings = {t.id: t.ring for t in laying.templates}

    def turn(one: Laid) -> tuple[float, ...]:
        ring = one.of(rings[one.id])
        low, high = ring.min(axis=0), ring.max(axis=0)
        span = float(np.linalg.norm(high - low))
        if span > REACH and shapely.MultiPoint(ring).convex_hull.area < STRAP * span**2:
            return hides[one.hide], 0.0, -float(high[1]), float(low[0])
        return hides[one.hide], 1.0, float(low[0] // ROW), -float(high[1])

    return sorted(laid, key=turn)
