"""A sitting at the bench: what is next for somebody, what waits meanwhile, and what calls."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from tailor.core.bench.holding import Hold, Link, chain
from tailor.core.bench.work import Plan
from tailor.core.shop.progress import Progress, Stands
from tailor.core.shop.workload import Task, Workload

NEAR = timedelta(minutes=5)  # before it is too late for what must follow in time
LONG = 60  # minutes of a wait that is seen among the days
OVER_NIGHT = 120  # minutes of a wait that is worth beginning before one goes to bed


@dataclass(frozen=True)
class Turn:
    """A step as it comes in the plan: when, by whom, and how far it has come. again: it must be done anew, and why."""

    id: str
    task: Task
    begins: datetime
    ends: datetime
    who: str
    stands: Stands
    again: str = ""


@dataclass(frozen=True)
class Waiting:
    """What waits, without hands: after which step for which, until when, and at the latest until when; and where."""

    after: Task
    then: Task
    until: datetime
    latest: datetime | None
    place: str
    why: str

    def over(self, now: datetime) -> bool:
        return now >= self.until


def turns(load: Workload, plan: Plan, progress: Progress, who: str = "") -> list[Turn]:
    """The steps that are left for somebody, or for all, as they come: what is under way first. What was done since the
    plan was made is left out.
    """
    again = {one.first: _dried(load, one.then, one.at) for one in load.missed}
    found = []
    for id_, spells in plan.steps.items():
        if id_ in load.tasks and (not who or spells[0].person == who) and (
            progress.stands(id_) is not Stands.DONE or id_ in again
        ):  # fmt: skip
            found.append(Turn(id_, load.tasks[id_], load.when(spells[0].start), load.when(spells[-1].end),
                              spells[0].person, progress.stands(id_), again.get(id_, "")))  # fmt: skip
    return sorted(found, key=lambda turn: (turn.stands is not Stands.RUNNING, turn.begins, turn.ends))


def _dried(load: Workload, then: str, at: datetime) -> str:
    return f"it was to {load.tasks[then].doing.name} by {at:%H:%M}, and dried: clean both faces, and spread it again"


def waiting(load: Workload, progress: Progress, now: datetime) -> list[Waiting]:
    """What waits now, what is over first, first; over but not gone on with too, where it must not be too late."""
    found = []
    for at, steps in load.things.items():
        for f in steps.follows:
            before = progress.of(at + f.before)
            if not f.least or before is None or not before.done or progress.stands(at + f.after) is not Stands.TO_DO:
                continue
            until = before.ended + timedelta(minutes=f.least)
            latest = None if f.most is None else before.ended + timedelta(minutes=f.most)
            if now < until or (latest is not None and now <= latest):
                found.append(
                    Waiting(load.tasks[at + f.before], load.tasks[at + f.after], until, latest, f.place, f.why)
                )
    return sorted(found, key=lambda each: each.until)


def calls(load: Workload, progress: Progress, since: datetime, now: datetime) -> Iterator[tuple[str, bool]]:
    """What is to be said of waits that ended, or joins that became pressing, since a time; whether it presses."""
    for one in waiting(load, progress, since):
        what = f"{one.then.doing.name} ({one.then.thing})"
        if since < one.until <= now:
            by = f", by {one.latest:%H:%M} at the latest" if one.latest else ""
            yield f"Now {what}: {one.why}{by}.", one.latest is not None
        if one.latest is not None and since < one.latest - NEAR <= now and one.until <= now:
            yield f"Only until {one.latest:%H:%M}: {what}. After that it has dried.", True


@dataclass(frozen=True)
class Evening:
    """What is to be done on one day by somebody, and what lies over night after it."""

    day: date
    turns: tuple[Turn, ...]
    left: tuple[str, ...]


def evening(load: Workload, all_turns: list[Turn]) -> Evening | None:
    """The next day on which somebody is at the bench; None where there is nothing left."""
    if not all_turns:
        return None
    day = min(turn.begins for turn in all_turns).date()
    mine = tuple(turn for turn in all_turns if turn.begins.date() == day)
    left = []
    for turn in mine:
        at = turn.id.removesuffix(turn.task.doing.key)
        for f in load.things[at].follows:
            if f.before == turn.task.doing.key and f.least >= OVER_NIGHT:
                until = turn.ends + timedelta(minutes=f.least)
                left.append(
                    f"{turn.task.thing}: {f.why}, until {until:%A %H:%M}" + (f", on the {f.place}" if f.place else "")
                )
    return Evening(day, mine, tuple(left))


def when(at: datetime, now: datetime) -> str:
    """A moment, as one says it on a day."""
    return f"{at:%H:%M}" if at.date() == now.date() else f"{at:%a %H:%M}"


def holds(load: Workload, progress: Progress, turn: Turn, now: datetime) -> str:
    """What a step waits for still: another, or its time, and why; empty where it can be done, or is under way."""
    if turn.stands is not Stands.TO_DO:
        return ""
    key = turn.task.doing.key
    at = turn.id.removesuffix(key)
    steps = load.things[at]
    done = {d.key: one for d in steps.doings if (one := progress.of(at + d.key)) is not None and one.done}
    for f in steps.missing(key, done):
        return f"after: {steps[f.before].name} – {f.why}"
    for f in steps.follows:
        if f.after == key and (until := done[f.before].ended + timedelta(minutes=f.least)) > now:
            return f"not before {when(until, now)} – {f.why}"
    return ""


def held(load: Workload, plan: Plan, order: str, now: datetime) -> list[str]:
    """What holds an order to its end, a line for each step of the chain, the last first."""
    return [_held(load, each, now) for each in chain(load.work, plan, order)]


def _held(load: Workload, one: Link, now: datetime) -> str:
    task = load.tasks[one.id]
    said = f"{when(load.when(one.begins), now)} {task.doing.name} ({task.thing})"
    before = load.tasks.get(one.before)
    if one.by is Hold.WAIT and before is not None:
        at = one.before.removesuffix(before.doing.key)
        why = next((f.why for f in load.things[at].follows
                    if at + f.before == one.before and at + f.after == one.id), "")  # fmt: skip
        return f"{said}: {why}, after {before.doing.name}"
    if one.by is Hold.HANDS and before is not None:
        return f"{said}: hands are at {before.doing.name} ({before.thing}) till then"
    if one.by is Hold.ROOM:
        return f"{said}: it finds room only then, with its place and what must follow it in time"
    return f"{said}: hands begin then"


@dataclass(frozen=True)
class Block:
    """Work of hands: from when to when, and the step it is of."""

    id: str
    begins: datetime
    ends: datetime
    said: str


@dataclass(frozen=True)
class Bar:
    """What waits without hands."""

    begins: datetime
    ends: datetime
    said: str


@dataclass(frozen=True)
class Promise:
    """The day that something is to be ready; late: it will not be."""

    day: date
    said: str
    late: bool


def ahead(
    load: Workload, plan: Plan, progress: Progress, mine: Sequence[Turn]
) -> tuple[list[Block], list[Bar], list[Promise]]:
    """The days ahead: hands at what is left for somebody, what waits long, and the days that are promised."""
    left = {turn.id: turn for turn in mine}
    blocks = [Block(id_, load.when(s.start), load.when(s.end), left[id_].task.doing.name)
              for id_, spells in plan.steps.items() if id_ in left for s in spells]  # fmt: skip
    bars = list[Bar]()
    for at, steps in load.things.items():
        for f in steps.follows:
            worked = progress.of(at + f.before)
            if f.least < LONG or progress.stands(at + f.after) is not Stands.TO_DO:
                continue
            if worked is not None and worked.done:
                bars.append(Bar(worked.ended, worked.ended + timedelta(minutes=f.least), f.why))
            elif at + f.before in plan.steps:
                begins = load.when(plan.steps[at + f.before][-1].end)
                bars.append(Bar(begins, begins + timedelta(minutes=f.least), f.why))
    ready = load.ready(plan)
    orders = {task.order.id: task.order for task in load.tasks.values()}.values()
    promises = [Promise(order.due, order.name, ready[order.id].date() > order.due)
                for order in orders if order.due is not None and order.id in ready]  # fmt: skip
    return blocks, bars, promises
