"""Leather: what it is made of, and how it takes its shape."""

from __future__ import annotations

from tailor.core.measure import Theme
from tailor.desk.stages.stage import Stage

STAGE = Stage(
    guide="Leather that is moulded",
    name="Leather", doing="choose it", themes=(Theme.LEATHER, Theme.MOULD, Theme.LINING, Theme.WELT),
    besides=("fit.clearance",), strong=("welt", "fold"),
    empty="There is no leather to show before something is drafted. What stops it stands in the ledger.",
)  # fmt: skip
