"""What the orders ask of the hands: the steps of every thing that is to be made, in the hours there are."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from tailor.core.bench.derived import derived
from tailor.core.bench.labour import Rates
from tailor.core.bench.schools import School
from tailor.core.bench.steps import PLACES, SET_UPS, Doing, Steps
from tailor.core.bench.work import Order as Due
from tailor.core.bench.work import Person, Plan, Step, Wait, Work
from tailor.core.errors import InputError
from tailor.core.job import Job, draft
from tailor.core.shop.hands import DAY, Hand
from tailor.core.shop.orders import Order

AHEAD = 365  # days that are looked ahead
MOST = 3000  # steps that are planned at once
NEVER = 10**9  # minutes


@dataclass(frozen=True)
class Task:
    """A step of one thing: of which order, which thing it is and which of several."""

    order: Order
    thing: str
    doing: Doing


@dataclass(frozen=True)
class Workload:
    """work: to be planned, in minutes from a Monday's midnight. tasks: what each of its steps is, by its id."""

    monday: date
    work: Work
    tasks: dict[str, Task]

    def when(self, minute: int) -> datetime:
        """A minute of the plan, by the calendar."""
        return datetime.combine(self.monday, datetime.min.time()) + timedelta(minutes=minute)

    def ready(self, plan: Plan) -> dict[str, datetime]:
        """When the last of each order is done, by its id."""
        last = dict[str, int]()
        for id_, spells in plan.steps.items():
            order = self.tasks[id_].order.id
            last[order] = max(last.get(order, 0), spells[-1].end)
        return {order: self.when(end) for order, end in last.items()}


def steps_of(job: Job, rates: Rates, school: School) -> Steps:
    """The steps of one of a job. Raises InputError where it cannot be drafted."""
    return derived(draft(job), rates, school, {zone.kind for zone in job.zones})


def workload(
    orders: Sequence[Order], hands: Sequence[Hand], rates: Rates, school: School, now: datetime,
    steps: Callable[[Job, Rates, School], Steps] = steps_of,
) -> Workload:  # fmt: skip
    """What orders ask from now on. Raises InputError where nobody works, a job cannot be drafted, or it is too much."""
    monday = now.date() - timedelta(days=now.weekday())
    past = now.weekday() * DAY + now.hour * 60 + now.minute
    people = tuple(Person(hand.name, hand.windows(monday, AHEAD, past)) for hand in hands)
    if not any(person.windows for person in people):
        raise InputError("nobody works in the shop", "hands", "give somebody hours")
    tasks, found, waits = dict[str, Task](), list[Step](), list[Wait]()
    for order in orders:
        for n, line in enumerate(order.lines):
            each = steps(line.job, rates, school)
            for k in range(line.count):
                thing = line.job.name + (f" {k + 1}" if line.count > 1 else "")
                at = f"{order.id}/{n}/{k}/"
                tasks |= {at + doing.key: Task(order, thing, doing) for doing in each.doings}
                found += [_step(at, order, doing) for doing in each.doings]
                waits += [Wait(at + f.before, at + f.after, f.least, f.most, f.place) for f in each.follows]
    if len(found) > MOST:
        raise InputError(f"{len(found)} steps are too many at once", "orders", f"plan fewer: {MOST} steps at most")
    dues = tuple(Due(order.id, order.name, due=_due(order, monday)) for order in orders)
    return Workload(monday, Work(people, dues, tuple(found), tuple(waits), {"machine": 1}, PLACES, SET_UPS), tasks)


def _step(at: str, order: Order, doing: Doing) -> Step:
    return Step(
        at + doing.key, order.id, doing.name, doing.whole_minutes, doing.family, doing.machine, doing.at_least
    )  # fmt: skip


def _due(order: Order, monday: date) -> int:
    """The end of the day that an order is due."""
    return NEVER if order.due is None else ((order.due - monday).days + 1) * DAY


def by_day(load: Workload, plan: Plan) -> Iterable[tuple[date, list[tuple[datetime, datetime, str, Task]]]]:
    """A plan by its days: from, to, who, and what."""
    spells = sorted(
        (load.when(s.start), load.when(s.end), s.person, id_) for id_, each in plan.steps.items() for s in each
    )  # fmt: skip
    days = dict[date, list[tuple[datetime, datetime, str, Task]]]()
    for begin, end, who, id_ in spells:
        days.setdefault(begin.date(), []).append((begin, end, who, load.tasks[id_]))
    return days.items()
