"""Orders: what is to be made, for whom and by when."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date
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


@dataclass(frozen=True)
class Line:
    """So many of a job, as it was when it was ordered: a copy that later changes leave as it is."""

    job: Job
    count: int = 1

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

    def with_job(self, job: Job, count: int = 1) -> Order:
        """With so many more of a job: more of the same line where the same job is there already."""
        if any(line.job == job for line in self.lines):
            more = tuple(Line(x.job, x.count + count) if x.job == job else x for x in self.lines)
        else:
            more = (*self.lines, Line(job, count))
        return replace(self, lines=more)
