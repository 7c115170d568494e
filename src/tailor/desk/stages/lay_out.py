"""Lay out: the pieces on the leather there is."""

from __future__ import annotations

from tailor.desk.stages.stage import Stage

STAGE = Stage(
    guide="Laying out", name="Lay out", doing="on the hide", themes=(), flat=True, spread=True,
    empty="There is nothing to lay out before something is drafted. What stops it stands in the ledger.",
)  # fmt: skip
