"""Steps put into the hours there are, one after another by a priority, each where it first has room.

What is tied by a latest-join, or holds a place, is put in together: where a later step would come too late, the one
before it is put off, and all of them tried again.
"""

from __future__ import annotations

import heapq
from bisect import bisect_right
from collections.abc import Callable, Mapping, Sequence
from functools import partial

from tailor.core.bench.work import Plan, Spell, Work
from tailor.core.errors import InputError

TRIES = 400  # times a group is put off before it is given up
FAR = 10**9


class NoRoomError(Exception):
    """A step finds no room in all the hours there are. Its number is the argument."""


class Serial:
    """Makes plans of a work by priorities. Raises InputError where its steps go round in a circle."""

    def __init__(self, work: Work) -> None:
        self.work = work
        index = {step.id: k for k, step in enumerate(work.steps)}
        self.size = len(work.steps)
        self.before: list[list[tuple[int, int, int | None, str, bool]]] = [[] for _ in work.steps]
        self.after: list[list[tuple[int, int, str, bool]]] = [[] for _ in work.steps]
        for wait in work.waits:
            a, b = index[wait.from_], index[wait.to]
            self.before[b].append((a, wait.least, wait.most, wait.place, wait.held))
            self.after[a].append((b, wait.least, wait.place, wait.held))
        self.order = self._sorted()
        roots = self._tied()
        number = {root: g for g, root in enumerate(dict.fromkeys(roots[k] for k in self.order))}
        group = [number[root] for root in roots]
        # Of each group: its steps as they may follow, the groups it waits for, and those that wait for it.
        self.members: list[list[int]] = [[] for _ in number]
        self.waiting: list[set[int]] = [set() for _ in number]
        for k in self.order:
            self.members[group[k]].append(k)
            self.waiting[group[k]] |= {group[a] for a, *_ in self.before[k]} - {group[k]}
        self.freeing = [[other for other, those in enumerate(self.waiting) if g in those] for g in range(len(number))]

    def _sorted(self) -> list[int]:
        """Steps so that each comes after those it waits for."""
        left = [len(each) for each in self.before]
        ready = [k for k in range(self.size) if not left[k]]
        found = []
        while ready:
            found.append(k := ready.pop())
            for b, *_ in self.after[k]:
                left[b] -= 1
                if not left[b]:
                    ready.append(b)
        if len(found) < self.size:
            circle = next(k for k in range(self.size) if left[k])
            raise InputError("it waits for itself, by way of others", self.work.steps[circle].id, "take one wait out")
        return found

    def _tied(self) -> list[int]:
        """The group of each step: tied by a latest-join or a held place, with all that lies between."""
        group = list(range(self.size))

        def root(k: int) -> int:
            while group[k] != k:
                group[k] = group[group[k]]
                k = group[k]
            return k

        for b in range(self.size):
            for a, _, most, _, held in self.before[b]:
                if most is not None or held:
                    group[root(a)] = root(b)
        while True:  # what is waited for by one of a group, and waits for another of it, belongs to it
            roots = [root(k) for k in range(self.size)]
            rounds = self._rings(roots)
            if not rounds:
                return roots
            for ring in rounds:
                for other in ring[1:]:
                    group[root(other)] = root(ring[0])

    def _rings(self, roots: Sequence[int]) -> list[list[int]]:
        """Groups that wait for one another in a ring: strongly connected ones of more than one."""
        ahead: dict[int, set[int]] = {r: set() for r in roots}
        for k in range(self.size):
            for b, *_ in self.after[k]:
                if roots[k] != roots[b]:
                    ahead[roots[k]].add(roots[b])
        left = dict.fromkeys(ahead, 0)
        for targets in ahead.values():
            for r in targets:
                left[r] += 1
        ready = [r for r, n in left.items() if not n]
        while ready:
            for b in ahead[ready.pop()]:
                left[b] -= 1
                if not left[b]:
                    ready.append(b)
        stuck = {r for r, n in left.items() if n}
        found, seen = [], set[int]()
        for r in sorted(stuck):
            if r not in seen:
                ring = [o for o in sorted(stuck) if self._reaches(r, o, ahead) and self._reaches(o, r, ahead)]
                seen |= {r, *ring}
                if len(ring) > 1:
                    found.append(ring)
        return found

    @staticmethod
    def _reaches(a: int, b: int, ahead: dict[int, set[int]]) -> bool:
        seen, todo = {a}, [a]
        while todo:
            if (k := todo.pop()) == b:
                return True
            todo += [n for n in ahead[k] if n not in seen]
            seen |= ahead[k]
        return False

    def plan(self, priority: Sequence[float], patience: int = 0) -> Plan:
        """The plan by priorities: what has the least is put in first. Raises NoRoomError.

        patience: minutes that a step rather waits for hours in which its family is set up already.
        """
        return _Bench(self, patience).filled(priority)


class _Bench:
    """The hours as they fill."""

    def __init__(self, serial: Serial, patience: int) -> None:
        self.serial, self.work, self.patience = serial, serial.work, patience
        self.windows = [person.windows for person in self.work.people]
        self.ends = [[b for _, b in windows] for windows in self.windows]
        self.free = [[[span] for span in windows] for windows in self.windows]  # of each person and window
        self.ready: dict[tuple[int, int, str], int] = {}  # when a family is set up in a window
        self.machine: dict[str, list[tuple[int, int]]] = {name: [] for name in self.work.machines}
        self.place: dict[str, list[tuple[int, int]]] = {name: [] for name in self.work.places}
        self.done: dict[int, list[Spell]] = {}
        self.setups: list[tuple[str, Spell]] = []
        self.undo: list[Callable[[], object]] = []

    def filled(self, priority: Sequence[float]) -> Plan:
        serial = self.serial
        least = [min(priority[k] for k in ks) for ks in serial.members]
        left = [len(each) for each in serial.waiting]
        heap = [(least[g], g) for g, n in enumerate(left) if not n]
        heapq.heapify(heap)
        while heap:
            _, g = heapq.heappop(heap)
            self._group(serial.members[g], priority)
            for other in serial.freeing[g]:
                left[other] -= 1
                if not left[other]:
                    heapq.heappush(heap, (least[other], other))
        names = [step.id for step in self.work.steps]
        return Plan({names[k]: tuple(spells) for k, spells in sorted(self.done.items())}, tuple(self.setups))

    def _group(self, members: Sequence[int], priority: Sequence[float]) -> None:
        """Put a group in; where one comes too late for another, that is put off and all tried again."""
        bound: dict[int, int] = {}
        members = self._by_priority(members, priority) if len(members) > 1 else members
        for _ in range(TRIES):
            mark = len(self.undo)
            late = self._tried(members, bound)
            if late is None:
                self.undo.clear()
                return
            step, by = late
            bound[step] = max(bound.get(step, 0), by)
            while len(self.undo) > mark:
                self.undo.pop()()
        raise NoRoomError(members[-1])

    def _by_priority(self, members: Sequence[int], priority: Sequence[float]) -> list[int]:
        """Members in an order that respects their waits, the least priority first."""
        inside = set(members)
        left = {k: sum(a in inside for a, *_ in self.serial.before[k]) for k in members}
        heap = [(priority[k], k) for k in members if not left[k]]
        heapq.heapify(heap)
        found = []
        while heap:
            _, k = heapq.heappop(heap)
            found.append(k)
            for b, *_ in self.serial.after[k]:
                if b in inside:
                    left[b] -= 1
                    if not left[b]:
                        heapq.heappush(heap, (priority[b], b))
        return found

    def _tried(self, members: Sequence[int], bound: dict[int, int]) -> tuple[int, int] | None:
        """Put steps in one by one; else which must not begin before when."""
        for k in members:
            low = bound.get(k, 0)
            for a, least, *_ in self.serial.before[k]:
                low = max(low, self.done[a][-1].end + least)
            self._put(k, low)
            start = self.done[k][0].start
            for a, _, most, place, held in self.serial.before[k]:
                end = self.done[a][-1].end
                if most is not None and start > end + most:
                    return a, self.done[a][0].start + start - end - most
                if held and not self._room(self.place, self.work.places, place, end, start):
                    return a, self.done[a][0].start + 1 + self._blocked(place, end, start) - end
                if held:
                    self._take(self.place, place, end, start)
        return None

    def _put(self, k: int, low: int) -> None:
        """Put one step in as soon after `low` as it has room, by whoever is done first."""
        step = self.work.steps[k]
        tries = [t for p in range(len(self.windows)) if (t := self._spells(p, k, low)) is not None]
        if not tries:
            raise NoRoomError(k)
        spells, setups, person = min(tries, key=lambda t: t[0][-1][1])
        name = self.work.people[person].id
        for w, at, minutes in setups:
            self._busy(person, w, at, at + minutes)
            key, was = (person, w, step.family), self.ready.get((person, w, step.family))
            self.ready[key] = at + minutes
            self.setups.append((step.family, Spell(name, at, at + minutes)))
            self.undo.append(partial(self._unready, key, was))
        for a, b, w in spells:
            self._busy(person, w, a, b)
            if step.machine:
                self._take(self.machine, step.machine, a, b)
        self.done[k] = [Spell(name, a, b) for a, b, _ in spells]
        self.undo.append(lambda: self.done.pop(k))
        for _, least, place, held in self.serial.after[k]:
            if place and not held:
                self._take(self.place, place, spells[-1][1], spells[-1][1] + least)

    def _unready(self, key: tuple[int, int, str], was: int | None) -> None:
        self.setups.pop()
        if was is None:
            del self.ready[key]
        else:
            self.ready[key] = was

    def _spells(
        self, p: int, k: int, low: int
    ) -> tuple[list[tuple[int, int, int]], list[tuple[int, int, int]], int] | None:
        """When one person would do a step, with its windows, and the set-ups for it; None where they never can."""
        step = self.work.steps[k]
        if self.patience and step.family and not step.piece and (found := self._where_ready(p, k, low)) is not None:
            return found
        left, spells, setups = step.minutes, [], []
        for w in range(bisect_right(self.ends[p], low), len(self.ends[p])):
            begin = max(low, self.windows[p][w][0])
            minutes = self.work.families.get(step.family, 0)
            ready = self.ready.get((p, w, step.family)) if minutes else begin
            new = None
            if ready is None:
                new = next(((a, a + minutes) for a, b in self.free[p][w] if b - a >= minutes), None)
                if new is None:
                    continue
                ready = new[1]
            begin = max(begin, ready)
            for a, b in self.free[p][w]:
                a = max(a, begin)
                if b <= a:
                    continue
                for start, end in self._pieces(step.machine, a, b, left, step.piece, k, low):
                    if new is not None and (w, new[0], minutes) not in setups:
                        setups.append((w, new[0], minutes))
                    spells.append((start, end, w))
                    left -= end - start
                    if left == 0:
                        return spells, setups, p
        return None

    def _where_ready(
        self, p: int, k: int, low: int
    ) -> tuple[list[tuple[int, int, int]], list[tuple[int, int, int]], int] | None:
        """When one person would do a step in hours, not far off, in which its family is set up; None where never."""
        step = self.work.steps[k]
        for w in range(bisect_right(self.ends[p], low), len(self.ends[p])):
            if self.windows[p][w][0] > low + self.patience:
                return None
            if (ready := self.ready.get((p, w, step.family))) is not None:
                begin = max(low, ready)
                for a, b in self.free[p][w]:
                    for start, end in self._pieces(step.machine, max(a, begin), b, step.minutes, 0, k, low):
                        return [(start, end, w)], [], p
        return None

    def _pieces(self, machine: str, a: int, b: int, left: int, piece: int, k: int, low: int) -> list[tuple[int, int]]:
        """The pieces of what is left of a step that can be done between two times."""
        if not piece:
            start = a
            while start + left <= b:
                end = start + left
                at = self._first_clear(machine, k, start, end)
                if at == start:
                    return [(start, end)]
                start = at
            return []
        if machine and (at := self._clear(self.machine, self.work.machines, machine, a, min(b, a + left))) > a:
            return [] if at >= b else self._pieces(machine, at, b, left, piece, k, low)
        room = min(b - a, left)
        if room < left:
            room = min(room, left - piece)  # so that what remains is no shorter than a piece may be
        if room < min(piece, left):
            return []
        if room == left:
            at = self._first_clear("", k, a, a + room)
            return [(a, a + room)] if at == a else []
        return [(a, a + room)]

    def _first_clear(self, machine: str, k: int, start: int, end: int) -> int:
        """The first time from `start` on at which machine, and the places taken after it, have room."""
        at = start
        if machine:
            at = max(at, self._clear(self.machine, self.work.machines, machine, start, end))
        for _, least, place, held in self.serial.after[k]:
            if place and not held:
                at = max(at, start + self._clear(self.place, self.work.places, place, end, end + least) - end)
        return at

    def _room(
        self, what: dict[str, list[tuple[int, int]]], counts: Mapping[str, int], name: str, a: int, b: int
    ) -> bool:
        return self._clear(what, counts, name, a, b) == a

    def _clear(
        self, what: dict[str, list[tuple[int, int]]], counts: Mapping[str, int], name: str, a: int, b: int
    ) -> int:
        """a, where one more may be taken from a to b; else the end of the first that is in the way."""
        met = [span for span in what.get(name, ()) if span[0] < b and span[1] > a]
        count = counts.get(name, 0)
        if count <= 0 and b > a:
            return FAR
        if len(met) < count or b <= a:
            return a
        turns = sorted([(max(s, a), 1) for s, _ in met] + [(e, -1) for _, e in met])
        now = 0
        for _, turn in turns:
            now += turn
            if now >= count:
                return min((e for _, e in met), default=FAR)
        return a

    def _blocked(self, place: str, a: int, b: int) -> int:
        return max(a, self._clear(self.place, self.work.places, place, a, b))

    def _take(self, what: dict[str, list[tuple[int, int]]], name: str, a: int, b: int) -> None:
        if b > a:
            what.setdefault(name, []).append((a, b))
            self.undo.append(what[name].pop)

    def _busy(self, p: int, w: int, a: int, b: int) -> None:
        """Hands are taken from a to b."""
        was = self.free[p][w]
        if b > a:
            self.free[p][w] = [part for x, y in was for part in ((x, min(y, a)), (max(x, b), y)) if part[1] > part[0]]
            self.undo.append(lambda: self.free[p].__setitem__(w, was))
