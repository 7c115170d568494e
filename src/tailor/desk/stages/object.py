"""Object: what is carried, as it was measured."""

from __future__ import annotations

from tailor.core.measure import Theme
from tailor.desk.stages.stage import Stage

STAGE = Stage(
    guide="Ways of measuring",
    name="Object", doing="measure it", themes=(Theme.FIT,), besides=("mouth.y",), bare=True,
    empty="Nothing is measured yet. Give its sizes on the left, or take another way of measuring there.",
)  # fmt: skip
