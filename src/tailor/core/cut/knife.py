"""The order in which a layout is cut: straps off the straight edge first, then what shrinks the hide from one side."""

from __future__ import annotations

from collections.abc import Sequence

from tailor.core.cut.laying import Laid, Laying

ROW = 150.0  # mm of the hide that are cut off together, from the top down


def in_order(laying: Laying, laid: Sequence[Laid]) -> list[Laid]:
    """Pieces hide by hide, offcuts first: straps from the back edge down, then the rest from the left, row by row."""
    hides = {hide.id: n for n, hide in enumerate(sorted(laying.hides, key=lambda h: h.priority))}
    templates = {t.id: t for t in laying.templates}

    def turn(one: Laid) -> tuple[float, ...]:
        ring = one.of(templates[one.id].ring)
        low, high = ring.min(axis=0), ring.max(axis=0)
        if templates[one.id].strap:
            return hides[one.hide], 0.0, -float(high[1]), float(low[0])
        return hides[one.hide], 1.0, float(low[0] // ROW), -float(high[1])

    return sorted(laid, key=turn)
