"""Steps put into the hours there are, one after another by a priority, each where it first has room.

What is tied by a latest-join, or holds a place, is put in together: where a later step would come too late, the one
before it is put off, and all of them tried again.
"""

from __future__ import annotations

import copy
import heapq
from collections.abc import Iterator, Sequence
from dataclasses import replace

from tailor.core.bench.hours import Hours, NoRoomError, Ties
from tailor.core.bench.work import FAR, Plan, Work
from tailor.core.errors import InputError

TRIES = 400  # times a group is put off before it is given up


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
        self.ties = Ties(self.before, self.after)
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
        self.families = [next((f for k in ks if (f := work.steps[k].family)), "") for ks in self.members]
        self.freeing: list[list[int]] = [[] for _ in number]
        for other, those in enumerate(self.waiting):
            for g in those:
                self.freeing[g].append(other)

    def but_for(self, work: Work) -> Serial:
        """The same for a work that differs in minutes and bounds of its steps alone."""
        other = copy.copy(self)
        other.work = work
        return other

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

    def plan(self, priority: Sequence[float], patience: int = 0, like: float = 0.0) -> Plan:
        """The plan by priorities: what has the least is put in first. Raises NoRoomError.

        patience: minutes that a step rather waits for hours in which its family is set up already. like: by how much of
        all priorities a step may come before others where it is of the family that was put in last.
        """
        hours, pressing = Hours(self.work, self.ties, patience), self.pressing_first(priority)
        band = like * (max(priority) - min(priority)) if like and priority else 0.0
        for g in self.groups(pressing, band):
            self.put(hours, g, pressing)
        ranks = {step.id: at for step, at in zip(self.work.steps, priority, strict=True)}
        return replace(hours.plan, ranks=ranks, patience=patience, like=like)

    def pressing_first(self, priority: Sequence[float]) -> list[float]:
        """Priorities with those of what is under way, or cannot wait, before all else."""
        both = zip(self.work.steps, priority, strict=True)
        return [step.by - 2 * FAR if step.first else at for step, at in both]

    def groups(self, priority: Sequence[float], band: float = 0.0) -> Iterator[int]:
        """Groups one after another so that each comes after those it waits for, the least priority first; of the family
        that came last, also what is no more than a band above that.
        """
        least = [min(priority[k] for k in ks) for ks in self.members]
        left = [len(each) for each in self.waiting]
        heaps: dict[str, list[tuple[float, int]]] = {}

        def ready(g: int) -> None:
            heapq.heappush(heaps.setdefault(self.families[g] if band else "", []), (least[g], g))

        for g, n in enumerate(left):
            if not n:
                ready(g)
        last = ""
        while heaps:
            family = min(heaps, key=lambda f: heaps[f][0])
            if last in heaps and heaps[last][0][0] <= heaps[family][0][0] + band:
                family = last
            _, g = heapq.heappop(heaps[family])
            if not heaps[family]:
                del heaps[family]
            last = self.families[g] or last
            yield g
            for other in self.freeing[g]:
                left[other] -= 1
                if not left[other]:
                    ready(other)

    def put(self, hours: Hours, group: int, priority: Sequence[float], bound: dict[int, int] | None = None) -> None:
        """Put a group in; where one comes too late for another, that is put off and all tried again.

        bound: before which steps do not begin. Raises NoRoomError.
        """
        members, bound = self.members[group], dict(bound or {})
        members = self._by_priority(members, priority) if len(members) > 1 else members
        for _ in range(TRIES):
            mark = len(hours.undo)
            late = self._tried(hours, members, bound)
            if late is None:
                hours.undo.clear()
                return
            step, by = late
            bound[step] = max(bound.get(step, 0), by)
            hours.back(mark)
        raise NoRoomError(members[-1])

    @staticmethod
    def _tried(hours: Hours, members: Sequence[int], bound: dict[int, int]) -> tuple[int, int] | None:
        """Put steps in one by one; else which must not begin before when."""
        for k in members:
            hours.put(k, max(bound.get(k, 0), hours.low(k)))
            if (late := hours.late(k)) is not None:
                return late
        return None

    def _by_priority(self, members: Sequence[int], priority: Sequence[float]) -> list[int]:
        """Members in an order that respects their waits, the least priority first."""
        inside = set(members)
        left = {k: sum(a in inside for a, *_ in self.before[k]) for k in members}
        heap = [(priority[k], k) for k in members if not left[k]]
        heapq.heapify(heap)
        found = []
        while heap:
            _, k = heapq.heappop(heap)
            found.append(k)
            for b, *_ in self.after[k]:
                if b in inside:
                    left[b] -= 1
                    if not left[b]:
                        heapq.heappush(heap, (priority[b], b))
        return found
