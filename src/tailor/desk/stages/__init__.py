"""The stages of the work, in the order makers do them. A new stage is a room here and its name in this list."""

from __future__ import annotations

from tailor.core.measure import Theme
from tailor.desk.stages import bench, carry, draft, lay_out, leather, log, object, stitch, tool
from tailor.desk.stages.stage import Stage

STAGES: dict[str, Stage] = {
    room.STAGE.name: room.STAGE
    for room in (
        object,
        leather,
        draft,
        stitch,
        carry,
        tool,
        lay_out,
        bench,
        log,
    )
}


def stage_of(theme: Theme) -> Stage:
    """The stage that a theme belongs to."""
    return next(stage for stage in STAGES.values() if theme in stage.themes)
