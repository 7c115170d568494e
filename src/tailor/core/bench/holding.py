"""Holding: what holds each step of a plan where it is, and the chain of what holds an order to its end."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from tailor.core.bench.work import Plan, Work

LONGEST = 400  # links that are followed


class Hold(StrEnum):
    """What a step comes no sooner for."""

    WAIT = "waits"  # for another, as long as that takes to dry
    HANDS = "hands"  # which are at another till then
    OPENING = "opening"  # hands work no sooner
    ROOM = "room"  # for a machine, for a place, or for what must follow it in time


@dataclass(frozen=True)
class Link:
    """A step, and what holds it. before: the step that it waits for, or that its hands are at; empty where none is.

    free: minute from which it could be done as far as that goes. begins: when it does.
    """

    id: str
    by: Hold
    before: str
    free: int
    begins: int


def link(work: Work, plan: Plan, id_: str) -> Link:
    """What holds a step: whatever it was free of last, unless hours that were open then went by without it."""
    first = plan.steps[id_][0]
    begins = min((s.start for f, s in plan.setups
                  if f == work.step[id_].family and s.person == first.person and s.end == first.start),
                 default=first.start)  # fmt: skip
    waits = [(plan.steps[w.from_][-1].end + w.least, Hold.WAIT, w.from_) for w in work.waits if w.to == id_]
    hands = [(spell.end, Hold.HANDS, other) for other, spells in plan.steps.items() for spell in spells
             if other != id_ and spell.person == first.person and spell.end <= begins]  # fmt: skip
    free, by, before = max(
        [*waits, *hands], default=(-1, Hold.OPENING, ""), key=lambda each: (each[0], each[1] is Hold.WAIT)
    )
    after = work.step[id_].after
    if after >= free:
        free, by, before = after, Hold.OPENING, ""
    if _open(work, first.person, free, begins):
        return Link(id_, Hold.ROOM, before, free, first.start)
    return Link(id_, by, before, free, first.start)


def chain(work: Work, plan: Plan, order: str) -> list[Link]:
    """What holds an order to its end: its last step, what holds that, and so on back to what nothing holds."""
    mine = [step.id for step in work.steps if step.order == order and step.id in plan.steps]
    if not mine:
        return []
    at = max(mine, key=lambda id_: plan.steps[id_][-1].end)
    found = list[Link]()
    while at and len(found) < LONGEST and at not in {each.id for each in found}:
        found.append(link(work, plan, at))
        at = found[-1].before
    return found


def _open(work: Work, person: str, from_: int, to: int) -> bool:
    """Whether somebody's hours were open between two minutes."""
    windows = next(each.windows for each in work.people if each.id == person)
    return any(min(b, to) > max(a, from_) for a, b in windows)
