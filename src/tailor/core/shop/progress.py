"""Progress: how far the steps of what was ordered have come, and what has gone by meanwhile."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from enum import StrEnum

from tailor.core.bench.steps import Doing, Follows, Steps
from tailor.core.errors import InputError
from tailor.core.shop.stock import Used

MOST_MINUTES = 100 * 24 * 60  # that one step may have taken


class Stands(StrEnum):
    """How far one step has come."""

    TO_DO = "to do"
    RUNNING = "running"
    PAUSED = "paused"
    DONE = "done"


@dataclass(frozen=True)
class Stretch:
    """From when to when hands were at it; ended is None while they are."""

    began: datetime
    ended: datetime | None = None

    def minutes(self, now: datetime) -> float:
        return max(((self.ended or now) - self.began).total_seconds() / 60, 0.0)


@dataclass(frozen=True)
class Worked:
    """What was done of one step of one thing.

    id: order, line, which of several and step, parted by /. name, family, planned: as the step was when it was begun,
    with the minutes it was thought to take. took: minutes it took as the maker says, where the clock did not see it.
    used: what was taken off the shelves for it.
    """

    id: str
    order: str
    thing: str
    name: str
    family: str
    planned: float
    hand: str = ""
    stretches: tuple[Stretch, ...] = ()
    done: bool = False
    took: float | None = None
    used: tuple[Used, ...] = ()

    def __post_init__(self) -> None:
        if self.took is not None and not 0 <= self.took <= MOST_MINUTES:
            raise InputError(f"{self.took:g} minutes cannot be", self.name, f"give 0 to {MOST_MINUTES}")

    @property
    def stands(self) -> Stands:
        if self.done:
            return Stands.DONE
        if not self.stretches:
            return Stands.TO_DO
        return Stands.RUNNING if self.stretches[-1].ended is None else Stands.PAUSED

    @property
    def ended(self) -> datetime:
        """When hands were last at it. Of one that nobody began: never."""
        return max((s.ended or s.began for s in self.stretches), default=datetime.min)

    def minutes(self, now: datetime) -> float:
        """Of hands, by the clock, or as the maker says."""
        return self.took if self.took is not None else sum(s.minutes(now) for s in self.stretches)

    # What a hand does

    def begun(self, now: datetime, hand: str = "") -> Worked:
        """Begun, or gone on with; by whom, where that is another than before."""
        if self.stands is Stands.RUNNING:
            return self
        return replace(self, stretches=(*self.stretches, Stretch(now)), done=False, hand=hand or self.hand)

    def paused(self, now: datetime) -> Worked:
        if self.stands is not Stands.RUNNING:
            return self
        return replace(self, stretches=(*self.stretches[:-1], replace(self.stretches[-1], ended=now)))

    def finished(self, now: datetime, took: float | None = None, used: Iterable[Used] = ()) -> Worked:
        """Done, or done once more; where the clock did not run, in the minutes that are said, or as many as were
        thought. used: what it took off the shelves.
        """
        stopped = self.paused(now)
        took = self.took if took is None else took
        if self.done or not self.stretches:
            took = self.planned if took is None else took
            stopped = replace(stopped, stretches=(*stopped.stretches, Stretch(now, now)))
        return replace(stopped, done=True, took=took, used=(*stopped.used, *used))


@dataclass(frozen=True)
class Missed:
    """What had to follow in time, and did not: first is to be done again."""

    first: str
    then: str
    at: datetime  # when it was too late


class Progress:
    """What was worked, by the step's id."""

    def __init__(self, worked: Iterable[Worked] = ()) -> None:
        self._at: Mapping[str, Worked] = {one.id: one for one in worked}

    def __iter__(self) -> Iterator[Worked]:
        return iter(self._at.values())

    def of(self, id_: str) -> Worked | None:
        return self._at.get(id_)

    def stands(self, id_: str) -> Stands:
        found = self._at.get(id_)
        return Stands.TO_DO if found is None else found.stands

    def left(self, id_: str, doing: Doing, now: datetime) -> int:
        """Whole minutes of a step that are left to be done."""
        found = self._at.get(id_)
        gone = 0.0 if found is None or found.done else found.minutes(now)
        return max(round(doing.minutes - gone), 1)

    def missed(self, at: str, steps: Steps, now: datetime) -> list[Missed]:
        """Of one thing, whose steps' ids begin with `at`: what was to follow in time, and is too late."""
        found = []
        for follows in steps.follows:
            if follows.most is None or self.stands(at + follows.after) is not Stands.TO_DO:
                continue
            first = self._at.get(at + follows.before)
            if first is not None and first.done and now > (late := _latest(first, follows)):
                found.append(Missed(first.id, at + follows.after, late))
        return found


def _latest(first: Worked, follows: Follows) -> datetime:
    assert follows.most is not None
    return first.ended + timedelta(minutes=follows.most)
