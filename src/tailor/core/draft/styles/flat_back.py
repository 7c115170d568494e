"""Flat back: a front that goes over the whole thickness of the object, sewn to a back that stays flat."""

from __future__ import annotations

from collections.abc import Sequence

from tailor.core.carried.loft import Loft
from tailor.core.carried.zones import Zone
from tailor.core.draft import two_sided
from tailor.core.draft.draft import Draft, Fitted
from tailor.core.draft.style import Style
from tailor.core.settings import Settings


def draft(
    settings: Settings, loft: Loft, zones: Sequence[Zone], before: Draft | None = None, rough: bool = False
) -> Fitted:
    """A flat-backed case for the loft. Raises InputError where the measures cannot make one."""
    known = before if isinstance(before, Fitted) else None
    return two_sided.draft(settings, loft, zones, flat_back=True, before=known, rough=rough)


STYLE = Style(
    "Front over a flat back", "Fitted", draft, ("tool", "device", "blade"), ("on the belt", "from the shoulder"),
    ("some", "close", "none"),
)  # fmt: skip
