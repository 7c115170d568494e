"""Carry: how it is worn, hangs and is closed."""

from __future__ import annotations

from tailor.core.measure import Theme
from tailor.desk.stages.stage import Stage

STAGE = Stage(
    guide="The belt, and how it hangs",
    name="Carry", doing="hang it", themes=(Theme.BELT, Theme.HANG, Theme.KEEPER, Theme.FLAP, Theme.STRAP), hung=True,
    empty="There is nothing to hang before something is drafted. What stops it stands in the ledger.",
)  # fmt: skip
