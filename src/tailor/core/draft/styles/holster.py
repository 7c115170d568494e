"""Holster: two panels round a tool with a trigger, which is covered fully; worn on the belt by two slots."""

from __future__ import annotations

from collections.abc import Sequence

from tailor.core.carried.loft import Loft
from tailor.core.carried.zones import Zone, ZoneKind, of_kind
from tailor.core.draft import two_sided
from tailor.core.draft.draft import Draft, Fitted
from tailor.core.draft.style import Style
from tailor.core.errors import InputError
from tailor.core.settings import Settings


def draft(
    settings: Settings, loft: Loft, zones: Sequence[Zone], before: Draft | None = None, rough: bool = False
) -> Draft:
    """A holster for the loft. Raises InputError where no trigger is marked, or the measures cannot make one."""
    if not of_kind(zones, ZoneKind.TRIGGER):
        raise InputError(
            "no trigger is marked on the object, and a holster must cover it fully",
            "zones",
            "mark its trigger at the Object stage, or take another construction",
        )
    known = before if isinstance(before, Fitted) else None
    return two_sided.draft(settings, loft, zones, flat_back=False, before=known, rough=rough)


def _triggerless(loft: Loft, zones: Sequence[Zone]) -> str | None:
    return None if of_kind(zones, ZoneKind.TRIGGER) else "no trigger is marked on it"


STYLE = Style(
    "Holster", "Fitted", draft, ("tool with a trigger",), ("on the belt",), ("none", "some", "close"), _triggerless,
)  # fmt: skip
