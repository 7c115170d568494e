"""Stitch: seams, thread and holes, and what is set in them."""

from __future__ import annotations

from tailor.core.measure import Theme
from tailor.desk.stages.stage import Stage

STAGE = Stage(
    guide="Stitch, thread and holes",
    name="Stitch", doing="space it", themes=(Theme.SEAM, Theme.STITCH, Theme.FASTENING), flat=True, strong=("stitch",),
    stacked=True, empty="There is no seam before something is drafted. What stops it stands in the ledger.",
)  # fmt: skip
