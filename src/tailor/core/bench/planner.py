"""The planner: a first plan by the best of several rules, then better ones by climbing over priorities.

The same work, seed and number of plans give the same plan.
"""

from __future__ import annotations

import time
from collections.abc import Iterator

import numpy as np

from tailor.core.bench.hours import NoRoomError
from tailor.core.bench.serial import Serial
from tailor.core.bench.work import FAR, Plan, Work
from tailor.core.carried.loft import Array
from tailor.core.errors import InputError

SECONDS = 5.0
WARMTH, STRAY = 0.002, 0.05  # of its cost, that a plan may be worse than the last, and than the best, on the way
PATIENCE = (0, 1500, 3000, 6000)  # minutes that a step waits for hours in which its family is set up
SHARES = (  # of the tails that count, and of how late and how early an order came, that its date is moved by
    (1.0, 0.5, 0.1), (0.25, 0.5, 0.5), (0.25, 0.5, 0.1),
)  # fmt: skip
ROW = 12  # plans in a row that are made by dates so moved
LIKE = (0.1, 0.4)  # of all priorities, by which a step may come before others with its like
EVENING = 0.15  # of calendar time that is worked, about: what a minute of hands counts against one of waiting


class Planner:
    """Plans of a work, better and better. best: the best so far, tried: how many were made."""

    def __init__(self, work: Work, seed: int = 0) -> None:
        self.work, self.serial, self.tried = work, Serial(work), 0
        self.random = np.random.default_rng(seed)
        self.best: Plan | None = None
        self.lying: Plan | None = None  # the plan that is changed next
        self.cost = self.now = np.inf
        self.priority, self.patience, self.like = np.zeros(len(work.steps)), 0, 0.0
        self._climbed = self.priority, self.patience, self.like  # what made the best
        self._why: NoRoomError | None = None

    def run(self) -> Iterator[None]:
        """Go on for ever, a plan at a time. Raises InputError where a step finds no room in all the hours there are."""
        for patience in PATIENCE:
            for rule in self._rules():
                self._try(rule, patience)
                yield
        if self.best is None:
            assert self._why is not None
            raise self._told(self._why)
        for like in LIKE:
            for rule in self._rules():
                self._try(rule, 0, like)
                yield
        yield from self._by_moved_dates()
        while True:
            patience = self.patience if self.random.random() < 0.8 else int(self.random.choice(PATIENCE))
            like = self.like if self.random.random() < 0.8 else float(self.random.choice((0.0, *LIKE)))
            self._try(self._moved(), patience, like)
            yield

    def _by_moved_dates(self) -> Iterator[None]:
        """Plans by latest start, each by the dates of the one before: what came late there is wanted sooner, and what
        came early later. So orders find the row in which the fewest of them are late.
        """
        work, tails = self.work, self._tails()
        number = {order.id: n for n, order in enumerate(work.orders)}
        of = np.array([number[step.order] for step in work.steps], dtype=int)
        dues = np.array([float(min(order.due, FAR)) for order in work.orders])
        if not (dues < FAR).any():
            return
        for ahead, late, early in SHARES:
            wanted = dues
            for _ in range(ROW):
                if (plan := self._try(wanted[of] - ahead * tails, 0)) is None:
                    break
                ends = np.zeros(len(dues))
                np.maximum.at(ends, of, [plan.steps[step.id][-1].end for step in work.steps])
                by = np.where(dues < FAR, ends - dues, 0.0)
                wanted = wanted - late * np.maximum(by, 0.0) + early * np.maximum(-by, 0.0)
                yield

    def _try(self, priority: Array, patience: int, like: float = 0.0) -> Plan | None:
        """A plan by priorities, and whether it is better; None where there is no room."""
        self.tried += 1
        try:
            plan = self.serial.plan(priority.tolist(), patience, like)
        except NoRoomError as error:
            self._why = error
            return None
        cost = plan.cost(self.work)
        if cost <= self.now * (1 + WARMTH * self.random.exponential()):
            self.now, self.lying = cost, plan
            self.priority, self.patience, self.like = priority, patience, like
        if cost < self.cost:
            self.best, self.cost, self._climbed = plan, cost, (priority, patience, like)
        elif self.now > self.cost * (1 + STRAY):  # too far off: back to the best
            self.now, self.lying = self.cost, self.best
            self.priority, self.patience, self.like = self._climbed
        return plan

    def _told(self, error: NoRoomError) -> InputError:
        step = self.work.steps[error.args[0]]
        return InputError(
            "it finds no room in the hours there are, with what must follow it in time", f"step {step.id}, {step.name}",
            "give longer or more windows, or a later latest-join",
        )  # fmt: skip

    def _tails(self) -> Array:
        """(n,) minutes from each step's beginning to the end of its order, waits as the calendar has them."""
        serial = self.serial
        tail = np.zeros(serial.size)
        for k in reversed(serial.order):
            after = max((least + tail[b] for b, least, *_ in serial.after[k]), default=0.0)
            tail[k] = after + self.work.steps[k].minutes / EVENING
        return tail

    def _rules(self) -> Iterator[Array]:
        """Priorities by rule: latest start, due date, the longest tail, and order after order."""
        tails = self._tails()
        due = {order.id: float(min(order.due, 10**7)) for order in self.work.orders}
        weight = {order.id: order.weight for order in self.work.orders}
        dues = np.array([due[step.order] for step in self.work.steps])
        heavy = np.array([weight[step.order] for step in self.work.steps])
        yield dues - tails
        yield dues * 1e3 - tails
        yield -tails
        yield (dues - tails) / np.maximum(heavy, 1e-3)
        yield dues - 2 * tails

    def _moved(self) -> Array:
        """The best priorities, changed a little: an order shifted, steps stirred, a chain pulled, or as they were."""
        if not len(self.priority):  # there is nothing to do
            return self.priority
        spread = float(np.ptp(self.priority)) or 1.0
        found = self.priority.copy()
        kind = self.random.integers(4)
        if kind == 0:
            assert self.lying is not None
            late = [id_ for id_, by in self.lying.late(self.work).items() if by] if self.random.random() < 0.5 else []
            names = late or [order.id for order in self.work.orders]
            shift = self.random.normal(0, 0.15) * spread
            order = names[self.random.integers(len(names))]
            found[[step.order == order for step in self.work.steps]] += -abs(shift) if late else shift
        elif kind == 1:
            found += self.random.normal(0, 0.02 * spread, len(found)) * (self.random.random(len(found)) < 0.3)
        elif kind == 2:
            pulled, todo = set[int](), [int(self.random.integers(len(found)))]
            while todo:
                if (k := todo.pop()) not in pulled:
                    pulled.add(k)
                    todo += [a for a, *_ in self.serial.before[k]]
            found[list(pulled)] -= self.random.uniform(0.0, 0.1) * spread
        else:
            assert self.lying is not None
            starts = np.array([self.lying.steps[step.id][0].start for step in self.work.steps], dtype=float)
            found = starts + self.random.normal(0, 0.02 * float(np.ptp(starts) or 1.0), len(found))
        return found


def planned(work: Work, seed: int = 0, seconds: float | None = SECONDS, plans: int | None = None) -> tuple[Plan, int]:
    """The best plan found in so many seconds or plans, and how many were made."""
    planner = Planner(work, seed)
    end = None if seconds is None else time.process_time() + seconds
    for _ in planner.run():
        if planner.best is not None and (
            (end is not None and time.process_time() >= end) or (plans is not None and planner.tried >= plans)
        ):
            break
    assert planner.best is not None
    return planner.best, planner.tried
