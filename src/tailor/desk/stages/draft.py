"""Draft: the shape of every piece."""

from __future__ import annotations

from tailor.core.measure import Theme
from tailor.desk.stages.stage import Stage

STAGE = Stage(
    guide="A sheath from caliper to print",
    name="Draft", doing="shape it", themes=(Theme.MOUTH, Theme.INSIDE, Theme.SHAPE, Theme.SEWN_ON),
    besides=("welt.width", "welt.proud"), flat=True,
    empty="Nothing on the board yet. Measure something (Ctrl+Shift+N), drop a station table here, or open a job.",
)  # fmt: skip
