"""Drying: how long what was wet is left before it is worked on, as a maker's room, season and finish have it."""

from __future__ import annotations

from tailor.core import habit
from tailor.core.maker import Maker

HOUR = 60  # minutes
MOULDED = habit.stuff("dries.moulded", 24, 4, 96, "that moulded leather dries on its form", habit.HOURS)
TOOLED = habit.stuff("dries.tooled", 2, 0.5, 24, "that what was tooled damp dries before dye or glue", habit.HOURS)
FOLDED = habit.stuff("dries.folded", 1, 0.25, 24, "that a fold made damp dries before it takes glue", habit.HOURS)
CASED = habit.stuff("dries.cased", 20, 5, 240, "until damp leather has its own colour again", habit.MINUTES)
DYED = habit.bench("dries.dyed", 4, 0.5, 48, "that dye dries, until it rubs off on nothing", habit.HOURS)
COATED = habit.bench("dries.coated", 1, 0.1, 24, "that a coat of finish or edge paint dries", habit.HOURS)


def minutes(maker: Maker, of: habit.Habit) -> int:
    """Whole minutes that a maker leaves something to dry, at least one."""
    return max(round(maker.habit(of) * (HOUR if of.unit == habit.HOURS else 1)), 1)
