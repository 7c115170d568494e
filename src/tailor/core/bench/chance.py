"""Chance: how sure a date is, by working a plan many times with hands that are quicker or slower than thought."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from tailor.core.bench.serial import Serial
from tailor.core.bench.work import Plan, Work
from tailor.core.bench.working import worked
from tailor.core.carried.loft import Array

TIMES = 100


@dataclass(frozen=True)
class Spread:
    """How far work is from what was thought, as standard deviations of its logarithm: of everything that a maker does
    in a stretch alike, and of each step by itself. A practised maker's, until the log knows better. pace: how much
    longer all of it takes, as a logarithm.
    """

    maker: float = 0.12
    step: float = 0.3
    pace: float = 0.0


def ready(work: Work, plan: Plan, seed: int = 0, spread: Spread | None = None) -> Iterator[Array]:
    """For ever: (orders,) minutes at which the last of each order is done, each time the plan is worked in its order.

    Waits are as long as they are; hands are not. The same seed gives the same row.
    """
    random = np.random.default_rng(seed)
    spread = spread or Spread()
    ties, rank = Serial(work).ties, [float(plan.steps[step.id][0].start) for step in work.steps]
    of = np.array([[step.order == order.id for step in work.steps] for order in work.orders]).reshape(-1, len(rank))
    usual = np.array([step.minutes for step in work.steps], dtype=float)
    while True:
        pace = np.exp(
            spread.pace + spread.maker * random.standard_normal() + spread.step * random.standard_normal(len(rank))
        )
        ends = worked(work, ties, rank, np.maximum(np.rint(usual * pace), 1).astype(int).tolist())
        yield np.array([ends[mine].max(initial=0.0) for mine in of])


def in_time(work: Work, times: Array) -> dict[str, float]:
    """The share of times, (n, orders), at which each order is done by when it is due; those without a date not."""
    dues = {order.id: order.due for order in work.orders}
    return {id_: float((times[:, n] <= due).mean()) for n, (id_, due) in enumerate(dues.items())}
