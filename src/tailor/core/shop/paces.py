"""Paces: how far the work of things that are made was from what was thought, and how sure the next is."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import replace

from tailor.core.bench.chance import Spread
from tailor.core.log.opening import LAST
from tailor.core.log.promise import promise
from tailor.core.shop.progress import Worked

COUNTS = 20.0  # steps that the usual spread is worth
LEAST = 0.5  # minutes, of work that was noted at all


def spread_of(worked: Iterable[Worked]) -> Spread:
    """How far work is off what was thought, by all that is made; the usual where nothing is."""
    things = dict[str, list[Worked]]()
    for one in worked:
        if one.done:
            things.setdefault(one.id.rpartition("/")[0], []).append(one)
    made = [steps for line, steps in things.items() if any(step.id == f"{line}/{LAST}" for step in steps)]
    usual = Spread()
    if not made:
        return usual
    thought = [sum(step.planned for step in steps) for steps in made]
    took = [max(sum(step.minutes(step.ended) for step in steps), LEAST) for steps in made]
    kept = promise(thought, took)
    squares, many = COUNTS * usual.step**2, COUNTS
    for steps, all_, spent in zip(made, thought, took, strict=True):
        for step in steps:
            minutes = step.minutes(step.ended)
            if minutes > LEAST and step.planned > LEAST:
                squares += math.log(minutes / step.planned / (spent / all_)) ** 2
                many += 1
    return replace(usual, pace=math.log(kept.pace), maker=kept.wide, step=math.sqrt(squares / many))
