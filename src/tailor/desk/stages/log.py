"""Log: how it came out, and what to do next time."""

from __future__ import annotations

from tailor.desk.stages.stage import Stage

STAGE = Stage(
    guide="The log", name="Log", doing="write it up", themes=(), flat=True, logged=True,
    empty="Nothing is written up of it yet. N writes up one: how it fits, what came out, what to do next time.",
)  # fmt: skip
