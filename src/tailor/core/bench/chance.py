"""Chance: how sure a date is, by working a plan many times with hands that are quicker or slower than thought."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from tailor.core.bench.hours import NoRoomError
from tailor.core.bench.replan import ranks
from tailor.core.bench.serial import Serial
from tailor.core.bench.work import FAR, Plan, Step, Work
from tailor.core.carried.loft import Array

TIMES = 100


@dataclass(frozen=True)
class Spread:
    """How far work is from what was thought, as standard deviations of its logarithm: of everything that a maker does
    in a stretch alike, and of each step by itself. A practised maker's, until the log knows better.
    """

    maker: float = 0.12
    step: float = 0.3


def ready(work: Work, plan: Plan, seed: int = 0, spread: Spread | None = None) -> Iterator[Array]:
    """For ever: (orders,) minutes at which the last of each order is done, each time the plan is worked in its order.

    Waits are as long as they are; hands are not. The same seed gives the same row.
    """
    random = np.random.default_rng(seed)
    spread = spread or Spread()
    serial, rank = Serial(work), ranks(work, plan)
    column = {order.id: n for n, order in enumerate(work.orders)}
    while True:
        pace = np.exp(spread.maker * random.standard_normal() + spread.step * random.standard_normal(len(work.steps)))
        steps = tuple(_at_pace(step, float(by)) for step, by in zip(work.steps, pace, strict=True))
        try:
            worked = serial.but_for(replace(work, steps=steps)).plan(rank, plan.patience)
        except NoRoomError:  # the hours there are do not do
            yield np.full(len(column), float(FAR))
            continue
        found = np.zeros(len(column))
        for step in work.steps:
            at = column[step.order]
            found[at] = max(found[at], worked.steps[step.id][-1].end)
        yield found


def _at_pace(step: Step, pace: float) -> Step:
    minutes = max(round(step.minutes * pace), 1)
    return replace(step, minutes=minutes, piece=step.piece if minutes >= 2 * step.piece else 0)


def in_time(work: Work, times: Array) -> dict[str, float]:
    """The share of times, (n, orders), at which each order is done by when it is due; those without a date not."""
    dues = {order.id: order.due for order in work.orders}
    return {id_: float((times[:, n] <= due).mean()) for n, (id_, due) in enumerate(dues.items())}
