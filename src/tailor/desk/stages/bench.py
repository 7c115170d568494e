"""Bench: what is to be done next, and when."""

from __future__ import annotations

from tailor.desk.stages.stage import Stage

STAGE = Stage(
    guide="At the bench", name="Bench", doing="make it", themes=(), flat=True, worked=True,
    empty="Nothing is ordered. N takes the job in hand as an order, and its steps come here.",
)  # fmt: skip
