"""Tool: what is put on the leather while it lies flat."""

from __future__ import annotations

from tailor.core.measure import Theme
from tailor.desk.stages.stage import Stage

STAGE = Stage(
    guide="On the leather", name="Tool", doing="on the leather", themes=(Theme.TOOLING,), flat=True, tooled=True,
    strong=("border", "picture", "mark"),
    empty="There is nothing to tool before something is drafted. What stops it stands in the ledger.",
)  # fmt: skip
