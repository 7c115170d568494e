"""A reference search for plans: annealing over the dates that orders are planned by, and a stir of single steps."""

from __future__ import annotations

import time

import numpy as np

from tailor.core.bench.hours import NoRoomError
from tailor.core.bench.serial import Serial
from tailor.core.bench.work import Work

HOT, COLD = 0.05, 0.001  # of its cost, that a plan may be worse, at the beginning and at the end
MOVE, STIR = 0.2, 0.01  # of the time that is planned, that an order is moved by and steps are stirred by


def searched(work: Work, seconds: float, seed: int = 0) -> float:
    """The cost of the best plan that is found in so many seconds."""
    rng, serial = np.random.default_rng(seed), Serial(work)
    number = {order.id: n for n, order in enumerate(work.orders)}
    of = np.array([number[step.order] for step in work.steps])
    rank = np.empty(len(work.steps))
    rank[serial.order] = np.arange(len(work.steps))
    last = max(b for person in work.people for _, b in person.windows)
    span = float(min(last, 2 * max((order.due for order in work.orders if order.due <= last), default=last)))
    dates = np.array([float(min(order.due, span)) for order in work.orders])
    slope, stir = 20.0, np.zeros(len(work.steps))
    best = now = np.inf
    begun = time.process_time()
    while (gone := (time.process_time() - begun) / seconds) < 1:
        new_dates, new_stir, new_slope = dates.copy(), stir.copy(), slope
        if rng.random() < 0.6:
            new_dates[rng.integers(len(dates))] += rng.normal(0, MOVE) * span
        elif rng.random() < 0.7:
            new_stir += rng.normal(0, STIR * span, len(stir)) * (rng.random(len(stir)) < 0.05)
        else:
            new_slope = slope * float(np.exp(rng.normal(0, 0.5)))
        try:
            plan = serial.plan((new_dates[of] + new_slope * rank + new_stir).tolist(), int(rng.choice((0, 3000))))
        except NoRoomError:
            continue
        cost, warm = plan.cost(work), HOT * (COLD / HOT) ** gone
        if cost <= now * (1 + warm * rng.exponential()):
            dates, stir, slope, now = new_dates, new_stir, new_slope, cost
        best = min(best, cost)
    return float(best)
