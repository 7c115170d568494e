"""Planning anew after a slip: in the order it was, or with as few steps moved as can be; the maker takes one."""

from __future__ import annotations

import heapq
from collections import deque
from collections.abc import Iterator, Sequence

import numpy as np

from tailor.core.bench.giving_way import GivingWay
from tailor.core.bench.hours import Hours, NoRoomError
from tailor.core.bench.serial import Serial
from tailor.core.bench.work import FAR, Plan, Spell, Work

SHORT = 4  # that others give way to, before the rest go where there is room
STIRRED = (*((by, FAR) for by in (0.6, 1.2, 2.0)), *((by, SHORT) for by in (0.6, 1.2, 2.0)))
# by how much the logarithm of what moving each takes is stirred, and for how many, one after another


def in_order(work: Work, before: Plan) -> Plan | None:
    """A plan of what is left by the order that a plan before was made in, all of it as early as may be; None where the
    hours do not do.
    """
    try:
        return Serial(work).plan(ranks(work, before), before.patience, before.like)
    except NoRoomError:
        return None


def ranks(work: Work, before: Plan) -> list[float]:
    """What went before what in a plan before. What is new goes with the rest of its order; a new order last."""
    were = before.ranks or {id_: float(spells[0].start) for id_, spells in before.steps.items()}
    first = dict[str, float]()
    for step in work.steps:
        if step.id in were:
            first[step.order] = min(first.get(step.order, FAR), were[step.id])
    return [were.get(step.id, first.get(step.order, FAR)) for step in work.steps]


def few_moves(work: Work, before: Plan) -> Plan | None:
    """The last of `fewer_moves`."""
    return deque(fewer_moves(work, before), maxlen=1).pop()


def fewer_moves(work: Work, before: Plan) -> Iterator[Plan | None]:
    """Plans of what is left in which as few steps as can be begin at another time than in a plan before, each with no
    more of them moved than the last; None where the hours do not do.

    All that can stays where it was. What cannot, with what is tied to it, goes where there is room next, or others give
    way to it, reckoned in several ways; what waits for it and begins too soon then goes in its turn, and nothing else
    does.
    """
    mending = Mending(work, before)
    best = mending.plan()
    yield best
    fewest = 0 if best is None else len(moved(best, before))
    for way, turns in mending.ways() if fewest else ():
        again = mending.plan(way, turns, fewest)
        if again is not None and len(moved(again, before)) < fewest:
            best, fewest = again, len(moved(again, before))
        yield best


class Mending:
    """A plan before, as much of it as still stands."""

    def __init__(self, work: Work, before: Plan) -> None:
        self.work, self.serial = work, Serial(work)
        self.began = {k: before.steps[step.id] for k, step in enumerate(work.steps) if step.id in before.steps}
        rank = ranks(work, before)
        priority = [float(self.began[k][0].start) if k in self.began else at for k, at in enumerate(rank)]
        self.priority = self.serial.pressing_first(priority)
        self.hours = Hours(work, self.serial.ties, before.patience)
        for family, spell in _set_ups(self.hours, before, self.began):
            self.hours.set_up(family, spell)
        self.kept = np.array([self._kept(members) for members in self.serial.members], dtype=bool)
        self.turns = np.fromiter(self.serial.groups(self.priority), dtype=int)  # which group comes when
        self.turn = np.argsort(self.turns)

    def ways(self) -> Iterator[tuple[GivingWay, int]]:
        """Ways to reckon who gives way, with how many it is reckoned for: with every cost as it is estimated, then with
        all of them stirred.
        """
        random = np.random.default_rng(0)
        gone = [
            self.began[k][0].start
            for g in np.flatnonzero(~self.kept)
            for k in self.serial.members[g]
            if k in self.began
        ]
        way = GivingWay(self.serial, self.hours, min(gone, default=-FAR))
        for stirred, turns in ((0.0, FAR), *STIRRED):
            for together in (False, True):
                yield way.stirred(together, stirred, random), turns

    def plan(self, way: GivingWay | None = None, turns: int = FAR, fewest: int = FAR) -> Plan | None:
        """All put in, those moved that cannot stay. way: who gives way to them; turns: to how many of them, before the
        rest go where there is room next. None where the hours do not do, or where no fewer would move than so many.
        """
        hours, serial, kept, gone = self.hours.copy(), self.serial, self.kept.copy(), 0
        todo = np.flatnonzero(~kept[self.turns]).tolist()  # turns at which a group may have to be put in
        while todo:
            turn = heapq.heappop(todo)
            g = self.turns[turn]
            members = serial.members[g]
            if kept[g]:
                if all(_follows(hours, k) for k in members):
                    continue
                hours.let_all_go(members)
                kept[g] = False
            elif members[0] in hours.done:
                continue
            gone += len(members)
            if gone > fewest:
                return None
            stays = {k: self.began[k][0].start for k in members if k in self.began and not self.work.steps[k].first}
            if way is not None and turns > 0:
                turns -= 1
                low = max(hours.low(members[0]), stays.get(members[0], -FAR))
                way.look(hours, kept & (self.turn > turn), low)
                _, places = way.places(g, low)
                for other in way.clear(places):
                    kept[other] = False
                    heapq.heappush(todo, int(self.turn[other]))
                stays |= places
            try:
                serial.put(hours, g, self.priority, stays)
            except NoRoomError:
                return None
            for other in serial.freeing[g]:
                heapq.heappush(todo, int(self.turn[other]))
        return hours.plan

    def _kept(self, members: Sequence[int]) -> bool:
        """Whether all of a group stay where they were; else none of them lies there."""
        mark = len(self.hours.undo)
        for k in members:
            if k not in self.began or self.work.steps[k].first or not self.hours.keep(k, self.began[k]):
                self.hours.back(mark)
                return False
        return True


def _set_ups(hours: Hours, before: Plan, began: dict[int, tuple[Spell, ...]]) -> list[tuple[str, Spell]]:
    """The set-ups that what is left of a plan before has use for."""
    steps = hours.work.steps
    used = {(steps[k].family, hours.window(spell)) for k, spells in began.items() for spell in spells}
    return [(family, spell) for family, spell in before.setups if (family, hours.window(spell)) in used]


def _follows(hours: Hours, k: int) -> bool:
    """Whether a step that stayed comes neither too soon nor too late after what it waits for."""
    return hours.done[k][0].start >= hours.low(k) and hours.late(k) is None


def moved(plan: Plan, before: Plan) -> list[str]:
    """The steps that begin at another time than in a plan before, or are done by somebody else."""

    def begun(spells: Sequence[Spell]) -> tuple[int, str]:
        return spells[0].start, spells[0].person

    there = before.steps
    return [id_ for id_, spells in plan.steps.items() if id_ in there and begun(spells) != begun(there[id_])]
