"""What is offered for an object, as plain values. Described in docs/format.md."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from tailor.core.picking import Offer, Refusal

FORMAT = "tailor-picks/1"


def plain(offered: Sequence[Offer], refused: Sequence[Refusal]) -> dict[str, Any]:
    """Offers, best first, and refusals, as JSON can hold them."""
    return {
        "format": FORMAT,
        "offered": [
            {
                "style": o.style, "said": o.said, "mark": round(o.mark, 3), "settings": dict(o.settings),
                "stops": o.stops, "looks": o.looks, "leather_cm2": round(o.leather, 1), "minutes": round(o.minutes, 1),
                "why": o.why,
            }
            for o in offered
        ],
        "refused": [{"style": r.style, "said": r.said, "why": r.why} for r in refused],
    }  # fmt: skip
