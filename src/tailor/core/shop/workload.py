"""What the orders ask of the hands: the steps of every thing that is to be made, in the hours there are."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta

from tailor.core.bench.altered import Altered, altered
from tailor.core.bench.derived import derived
from tailor.core.bench.rates import Rates
from tailor.core.bench.schools import School
from tailor.core.bench.steps import PLACES, SET_UPS, Doing, Steps
from tailor.core.bench.work import FAR, Person, Plan, Step, Wait, Work, merged
from tailor.core.bench.work import Order as Due
from tailor.core.errors import InputError
from tailor.core.job import Job, draft
from tailor.core.shop.hands import DAY, Hand
from tailor.core.shop.orders import Line, Order
from tailor.core.shop.progress import Missed, Progress, Stands

AHEAD = 365  # days that are looked ahead
MOST = 3000  # steps that are planned at once
STILL = 60  # minutes that what was set up stands so


@dataclass(frozen=True)
class Task:
    """A step of one thing: of which order and line of it, which thing it is and which of several."""

    order: Order
    mark: str
    thing: str
    doing: Doing


@dataclass(frozen=True)
class Workload:
    """work: what is left to be planned, in minutes from a Monday's midnight. tasks: what each step is, by its id, those
    that are done too. things: the steps of each thing, by what the ids of its steps begin with. missed: what did not
    follow in time, so that the step before it is to be done again.
    """

    monday: date
    work: Work
    tasks: Mapping[str, Task]
    things: Mapping[str, Steps] = field(default_factory=dict)
    missed: tuple[Missed, ...] = ()

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
    return derived(draft(job), rates, school, {zone.kind for zone in job.zones}, job.settings.maker)


def workload(
    orders: Sequence[Order], hands: Sequence[Hand], rates: Rates, school: School, now: datetime,
    steps: Callable[[Job, Rates, School], Steps] = steps_of, progress: Progress | None = None,
    changes: Iterable[Altered] = (),
) -> Workload:  # fmt: skip
    """What orders ask from now on. changes: that a maker made to their steps.

    Raises InputError where nobody works, a job cannot be drafted, or it is too much.
    """
    of_line = dict[str, list[Altered]]()
    for change in changes:
        of_line.setdefault(change.line, []).append(change)
    left = _Left(progress or Progress(), now)
    for order in orders:
        for line in order.lines:
            each = steps(line.job, rates, school)
            if mine := of_line.get(f"{order.id}/{line.mark}/"):
                each = altered(each, mine)
            for k in range(line.count):
                thing = line.job.name + (f" {k + 1}" if line.count > 1 else "")
                left.add(order, line.mark, thing, place_of(order, line, k), each)
    if len(left.steps) > MOST:
        raise InputError(f"{len(left.steps)} steps are too many at once", "orders", f"plan fewer: {MOST} at most")
    people = tuple(Person(hand.name, left.hours(hand, hands)) for hand in hands)
    if not any(person.windows for person in people):
        raise InputError("nobody works in the shop", "hands", "give somebody hours")
    dues = tuple(Due(order.id, order.name, due=_due(order, left.monday)) for order in orders)
    work = Work(people, dues, tuple(left.steps), tuple(left.waits), {"machine": 1}, PLACES, SET_UPS, left.taken,
                left.ready(people))  # fmt: skip
    return Workload(left.monday, work, left.tasks, left.things, tuple(left.missed))


def place_of(order: Order, line: Line, k: int) -> str:
    """What the ids of the steps of one thing begin with: the k-th of a line."""
    return f"{order.id}/{line.mark}/{k}/"


class _Left:
    """What is left to do, of what was begun too, from now on."""

    def __init__(self, progress: Progress, now: datetime) -> None:
        self.progress, self.now = progress, now
        self.monday = now.date() - timedelta(days=now.weekday())
        self.past = self._minute(now)
        self.tasks, self.things, self.missed = dict[str, Task](), dict[str, Steps](), list[Missed]()
        self.steps, self.waits = list[Step](), list[Wait]()
        self.taken = dict[str, tuple[tuple[int, int], ...]]()
        self.pressing = dict[str, list[Step]]()  # what goes on now, whatever the hour, by whose hands it is in

    def _minute(self, at: datetime) -> int:
        since = at - datetime.combine(self.monday, datetime.min.time())
        return int(since.total_seconds() // 60)

    def add(self, order: Order, mark: str, thing: str, at: str, steps: Steps) -> None:
        """One thing: what of it is done binds what is not."""
        self.things[at] = steps
        self.tasks |= {at + doing.key: Task(order, mark, thing, doing) for doing in steps.doings}
        missed = self.progress.missed(at, steps, self.now)
        self.missed += missed
        again = {one.first for one in missed}
        gone = {doing.key for doing in steps.doings
                if self.progress.stands(at + doing.key) is Stands.DONE and at + doing.key not in again}  # fmt: skip
        bounds, by_whom = dict[str, tuple[int, int]](), dict[str, str]()
        for f in steps.follows:
            if f.after in gone:
                continue  # it was done, in whatever order
            if f.before not in gone:
                self.waits.append(Wait(at + f.before, at + f.after, f.least, f.most, f.place))
                continue
            end = self._end(at + f.before)
            after, by = bounds.get(f.after, (-FAR, FAR))
            bounds[f.after] = max(after, end + f.least), by if f.most is None else min(by, end + f.most)
            by_whom |= {f.after: self._hand(at + f.before)} if f.most is not None else {}
            if f.place and end + f.least > self.past:
                self.taken[f.place] = (*self.taken.get(f.place, ()), (end, end + f.least))
        for doing in steps.doings:
            if doing.key not in gone:
                self._step(at, order, doing, *bounds.get(doing.key, (-FAR, FAR)), by_whom.get(doing.key, ""))

    def _end(self, id_: str) -> int:
        worked = self.progress.of(id_)
        assert worked is not None
        return self._minute(worked.ended)

    def _hand(self, id_: str) -> str:
        worked = self.progress.of(id_)
        return "" if worked is None else worked.hand

    def _step(self, at: str, order: Order, doing: Doing, after: int, by: int, hand: str) -> None:
        """What is left of a step. What was begun, and what must follow in time, goes before all else."""
        minutes = doing.whole_minutes
        begun = self.progress.stands(at + doing.key) in (Stands.RUNNING, Stands.PAUSED)
        running = self.progress.stands(at + doing.key) is Stands.RUNNING
        if begun:
            minutes, after, by = self.progress.left(at + doing.key, doing, self.now), self.past, FAR
        elif by < FAR:
            after = max(after, self.past)
        least = doing.at_least if minutes >= 2 * doing.at_least else 0
        first = running or by < FAR
        step = Step(at + doing.key, order.id, doing.name, minutes, doing.family, doing.machine, least, after, by, first)
        self.steps.append(step)
        if first:
            self.pressing.setdefault(self._hand(step.id) if running else hand, []).append(step)

    def hours(self, hand: Hand, hands: Sequence[Hand]) -> tuple[tuple[int, int], ...]:
        """Somebody's hours from now on, with what is needed for what they have in hand and cannot wait; what is in no
        hand that there is, the first has.
        """
        windows, names = list(hand.windows(self.monday, AHEAD, self.past)), [each.name for each in hands]
        mine = [step for name, steps in self.pressing.items() for step in steps
                if (name if name in names else names[0]) == hand.name]  # fmt: skip
        if mine:
            windows.append((self.past, self._until(mine)))
        return tuple(merged(windows))

    def ready(self, people: tuple[Person, ...]) -> frozenset[tuple[str, str]]:
        """What stands set up still, for those who are at the bench: they did some of it just now."""
        here = {person.id for person in people if person.windows and person.windows[0][0] <= self.past}
        lately = self.now - timedelta(minutes=STILL)
        return frozenset((worked.hand, worked.family) for worked in self.progress
                         if worked.hand in here and worked.family and worked.ended >= lately)  # fmt: skip

    def _until(self, mine: Sequence[Step]) -> int:
        """Long enough for all of somebody's that cannot wait, and for what must follow it in time."""
        these = {step.id: step for step in self.steps}
        pressing, follow = list(mine), 0
        for step in pressing:
            for wait in self.waits:
                if wait.from_ == step.id and wait.most is not None and these[wait.to] not in pressing:
                    pressing.append(these[wait.to])
                    follow += wait.least
        hands = sum(step.minutes + SET_UPS.get(step.family, 0) for step in pressing)
        return max(self.past, *(step.after for step in mine)) + follow + hands


def _due(order: Order, monday: date) -> int:
    """The end of the day that an order is due."""
    return FAR if order.due is None else ((order.due - monday).days + 1) * DAY


def by_day(load: Workload, plan: Plan) -> Iterable[tuple[date, list[tuple[datetime, datetime, str, Task]]]]:
    """A plan by its days: from, to, who, and what."""
    spells = sorted(
        (load.when(s.start), load.when(s.end), s.person, id_) for id_, each in plan.steps.items() for s in each
    )  # fmt: skip
    days = dict[date, list[tuple[datetime, datetime, str, Task]]]()
    for begin, end, who, id_ in spells:
        days.setdefault(begin.date(), []).append((begin, end, who, load.tasks[id_]))
    return days.items()
