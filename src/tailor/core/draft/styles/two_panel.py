"""Two panels: a front and a back, sewn to a welt all round."""

from __future__ import annotations

from tailor.core.draft.draft import Fitted
from tailor.core.draft.fitted import all_round
from tailor.core.draft.style import Order, Style


def draft(order: Order) -> Fitted:
    """A two-panel case for the loft. Raises InputError where the measures cannot make one."""
    return all_round.draft(order, flat_back=False)


STYLE = Style(
    "Two panels", "Fitted", draft, ("blade", "tool", "round thing", "device", "slab"),
    ("on the belt", "from the shoulder"),
    ("none", "some", "close"), usual={"loop.landing": "none"},
)  # fmt: skip
