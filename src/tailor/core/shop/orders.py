"""Orders: what is to be made, for whom and by when."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date, timedelta
from enum import StrEnum

from tailor.core import incoming
from tailor.core.errors import InputError
from tailor.core.job import Job

MOST = 500  # of one job in an order
LINES = 200  # of one order


class State(StrEnum):
    """How far an order has come."""

    ASKED = "asked for"
    TAKEN = "taken"
    READY = "ready"
    GONE = "handed over"
    DROPPED = "dropped"


OPEN = (State.ASKED, State.TAKEN)  # what is still to be made


def day(text: str, today: date) -> date | None:
    """A day as it is typed: 2026-04-30, 30.4., today, in 9 days, in 3 weeks; None for nothing. Raises InputError."""
    said = text.strip().lower()
    if not said:
        return None
    ahead = re.fullmatch(r"(?:in\s+)?\+?(\d{1,4})\s*(d|day|days|w|week|weeks)", said)
    try:
        if said == "today":
            return today
        if ahead:
            return today + timedelta(days=int(ahead[1]) * (7 if ahead[2].startswith("w") else 1))
        if short := re.fullmatch(r"(\d{1,2})\.\s*(\d{1,2})\.", said):
            found = date(today.year, int(short[2]), int(short[1]))
            return found if found >= today else found.replace(year=today.year + 1)
        return date.fromisoformat(said)
    except (ValueError, OverflowError):
        raise InputError(
            f"{incoming.quoted(text)} is no day", "day", "give one such as 2026-04-30, or in 9 days"
        ) from None


def from_now(due: date, today: date) -> str:
    """How far off a day is, in words."""
    days = (due - today).days
    if abs(days) <= 1:
        return ("yesterday", "today", "tomorrow")[days + 1]
    return f"in {days} days" if days > 0 else f"{-days} days ago"


@dataclass(frozen=True)
class Line:
    """So many of a job, as it was when it was ordered: a copy that later changes leave as it is.

    mark: what it is told from the other lines of its order by, whatever becomes of them; the order gives it.
    """

    job: Job
    count: int = 1
    mark: str = ""

    def __post_init__(self) -> None:
        if not 1 <= self.count <= MOST:
            raise InputError(f"{self.count} are ordered", self.job.name, f"give 1 to {MOST}")


@dataclass(frozen=True)
class Order:
    """An order. whom: for whom, in words. wanted: by when; promised: what was answered; None where nothing was said."""

    id: str
    name: str
    whom: str = ""
    wanted: date | None = None
    promised: date | None = None
    state: State = State.ASKED
    lines: tuple[Line, ...] = ()
    note: str = ""

    def __post_init__(self) -> None:
        incoming.named(self.name, "name of an order")
        if len(self.lines) > LINES:
            raise InputError(f"{len(self.lines)} lines are too many", self.name, f"give it {LINES} at most")
        object.__setattr__(self, "lines", _marked(self.lines))

    @property
    def open(self) -> bool:
        return self.state in OPEN

    @property
    def due(self) -> date | None:
        """When it is to be ready: as promised, else as wanted."""
        return self.promised or self.wanted

    @property
    def many(self) -> int:
        """Things to be made."""
        return sum(line.count for line in self.lines)

    @property
    def onward(self) -> Order:
        """The same order one step further; handed over is the last."""
        steps = (State.ASKED, State.TAKEN, State.READY, State.GONE)
        at = steps.index(self.state) if self.state in steps else -1
        return replace(self, state=steps[min(at + 1, len(steps) - 1)])

    def with_count(self, job: Job, count: int) -> Order:
        """With so many of a job that is in it; of none it is no longer in it."""
        lines = (replace(x, count=count) if x.job == job else x for x in self.lines if x.job != job or count > 0)
        return replace(self, lines=tuple(lines))

    def with_job(self, job: Job, count: int = 1) -> Order:
        """With so many more of a job: more of the same line where the same job is there already."""
        if any(line.job == job for line in self.lines):
            more = tuple(replace(x, count=x.count + count) if x.job == job else x for x in self.lines)
        else:
            more = (*self.lines, Line(job, count))
        return replace(self, lines=more)

    def with_newer(self, nth: int, job: Job) -> Order:
        """With a job as it is now in place of how it was ordered in one line; what was done of that line stays done.

        Raises InputError where the order has it so already, or it is another thing.
        """
        was = self.lines[nth].job
        if job.name != was.name:
            raise InputError(f"that is {job.name}", was.name, "lay the newer one on the bench first")
        if any(line.job == job for line in self.lines):
            raise InputError("it is ordered just so already", was.name, "change it on the bench first")
        lines = tuple(replace(line, job=job) if k == nth else line for k, line in enumerate(self.lines))
        return replace(self, lines=lines)


def begun(id_: str, job: Job, there: Iterable[Order]) -> Order:
    """A new order for one of a job, called after it, and unlike those there are."""
    names = {order.name for order in there}
    called = (job.name if k == 1 else f"{job.name} ({k})" for k in itertools.count(1))
    return Order(id_, next(name for name in called if name not in names)).with_job(job)


def _marked(lines: tuple[Line, ...]) -> tuple[Line, ...]:
    """Lines, each with a mark of its own: those that have one keep it."""
    found, marks = [], {line.mark for line in lines}
    free = (str(n) for n in itertools.count() if str(n) not in marks)
    seen = set[str]()
    for line in lines:
        own = line if line.mark and line.mark not in seen else replace(line, mark=next(free))
        seen.add(own.mark)
        found.append(own)
    return tuple(found)
