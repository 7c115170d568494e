"""Flat back: a front that goes over the whole thickness of the object, sewn to a back that stays flat."""

from __future__ import annotations

from tailor.core.draft.draft import Fitted
from tailor.core.draft.fitted import all_round
from tailor.core.draft.style import Order, Style


def draft(order: Order) -> Fitted:
    """A flat-backed case for the loft. Raises InputError where the measures cannot make one."""
    return all_round.draft(order, flat_back=True)


STYLE = Style(
    "Front over a flat back", "Fitted", draft, ("tool", "device", "blade"), ("on the belt", "from the shoulder"),
    ("some", "close", "none"), usual={"loop.landing": "none"},
)  # fmt: skip
