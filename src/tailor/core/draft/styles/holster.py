"""Holster: two panels, or one folded, round a tool with a trigger, which is covered fully."""

from __future__ import annotations

from collections.abc import Sequence

from tailor.core import measure
from tailor.core.carried.loft import Loft
from tailor.core.carried.zones import Zone, ZoneKind, of_kind
from tailor.core.draft.draft import Fitted
from tailor.core.draft.fitted import all_round
from tailor.core.draft.style import Order, Style
from tailor.core.draft.styles import folded_sheath
from tailor.core.errors import InputError
from tailor.core.measure import Theme

MEASURES = (
    measure.pick("holster.made", Theme.SHAPE, "holster of", "of two panels, or of one folded", "two panels",
        ("two panels", "folded"), first=True),
)  # fmt: skip


def draft(order: Order) -> Fitted:
    """A holster for the loft. Raises InputError where no trigger is marked, or the measures cannot make one."""
    if not of_kind(order.zones, ZoneKind.TRIGGER):
        raise InputError(
            "no trigger is marked on the object, and a holster must cover it fully",
            "zones",
            "mark its trigger on the object, or take another construction",
        )
    if order.settings.word("holster.made") == "folded":
        return folded_sheath.draft(order)
    return all_round.draft(order, flat_back=False)


def _triggerless(loft: Loft, zones: Sequence[Zone]) -> str | None:
    return None if of_kind(zones, ZoneKind.TRIGGER) else "no trigger is marked on it"


STYLE = Style(
    "Holster", "Fitted", draft, ("tool with a trigger",), ("on the belt",), ("none", "some", "close"), _triggerless,
    {"loop.landing": "slots"},
)  # fmt: skip
