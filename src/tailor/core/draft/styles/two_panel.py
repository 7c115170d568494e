"""Two panels: a front and a back, sewn to a welt all round."""

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
    """A two-panel case for the loft. Raises InputError where the measures cannot make one."""
    return two_sided.draft(
        settings, loft, zones, flat_back=False, before=before if isinstance(before, Fitted) else None, rough=rough
    )


STYLE = Style(
    "Two panels", "Fitted", draft, ("blade", "tool", "device", "slab"), ("on the belt", "from the shoulder"),
    ("none", "some", "close"),
)  # fmt: skip
