"""Working a plan: hands that take the hours as they come, and do next what the plan has first of what can be done.

Not how plans are made, where each step is put where it has room: here nothing is known before it happens.
"""

from __future__ import annotations

import heapq
from bisect import bisect_right
from collections import Counter
from collections.abc import Sequence

import numpy as np

from tailor.core.bench.hours import Ties
from tailor.core.bench.work import FAR, Work
from tailor.core.carried.loft import Array


def worked(work: Work, ties: Ties, rank: Sequence[float], minutes: Sequence[int]) -> Array:
    """(n,) when each step ends, by whoever is free, in so many minutes each; FAR for what the hours do not do for.

    rank: what goes before what. What is tacky goes before all; nothing that dries is begun so late that what must
    follow it in time would not fit before the closing.
    """
    return _Working(work, ties, rank, minutes).through()


class _Working:
    """A bench at work. left: minutes of each step; can: what waits for nothing any more; soon: what will not then."""

    def __init__(self, work: Work, ties: Ties, rank: Sequence[float], minutes: Sequence[int]) -> None:
        self.work, self.ties, self.left = work, ties, list(minutes)
        tacky = [any(most is not None for _, _, most, _, _ in each) for each in ties.before]
        self.order = [(not (tacky[k] or work.steps[k].first), at, k) for k, at in enumerate(rank)]
        self.after = [_tied(ties, k) for k in range(len(minutes))]
        self.waits = [len(each) for each in ties.before]
        self.ends = np.full(len(minutes), float(FAR))
        self.can, self.soon = list[tuple[bool, float, int]](), list[tuple[int, int]]()
        self.turns = list[int]()  # when something changes
        self.free, self.using = Counter[str](), list[tuple[int, str]]()
        self.ready = dict[tuple[int, int], set[str]]()  # families that are set up, by person and hours
        self.hours = [person.windows for person in work.people]
        self.closes = [[b for _, b in windows] for windows in self.hours]
        self.longest = max((b - a for windows in self.hours for a, b in windows), default=0)
        for name, count in (*work.machines.items(), *work.places.items()):
            self.free[name] = count
        for place, spans in work.taken.items():
            self.free[place] -= len(spans)
            self.using += [(end, place) for _, end in spans]
            self.turns += [end for _, end in spans]
        heapq.heapify(self.using)
        heapq.heapify(self.turns)
        for p, person in enumerate(work.people):
            self.ready[p, 0] = {family for who, family in work.ready if who == person.id}

    def through(self) -> Array:
        for k, waits in enumerate(self.waits):
            if not waits:
                self._opened(k)
        hands = [0] * len(self.hours)  # from when on each is free
        begin = min((windows[0][0] for windows in self.hours if windows), default=FAR)
        heapq.heappush(self.turns, begin)
        while self.turns:
            now = heapq.heappop(self.turns)
            while self.turns and self.turns[0] == now:
                heapq.heappop(self.turns)
            self._pass(now)
            for p in range(len(hands)):
                while hands[p] <= now and (until := self._take(p, now)) is not None:
                    hands[p] = until
            if self.can and (comes := self._comes(now)) is not None:
                heapq.heappush(self.turns, comes)
        return self.ends

    def _comes(self, now: int) -> int | None:
        """When somebody comes to the bench next."""
        starts = (w[n][0] for w in self.hours if (n := bisect_right(w, (now, FAR))) < len(w))
        return min(starts, default=None)

    def _opened(self, k: int) -> None:
        """A step waits for no other any more: it can be done at once, or when its wait is over."""
        ends = (int(self.ends[a]) + least for a, least, *_ in self.ties.before[k])
        soon = max(self.work.steps[k].after, max(ends, default=-FAR))
        heapq.heappush(self.soon, (soon, k))
        if soon > -FAR:
            heapq.heappush(self.turns, soon)

    def _pass(self, now: int) -> None:
        while self.using and self.using[0][0] <= now:
            self.free[heapq.heappop(self.using)[1]] += 1
        while self.soon and self.soon[0][0] <= now:
            self.can.append(self.order[heapq.heappop(self.soon)[1]])

    def _take(self, p: int, now: int) -> int | None:
        """What somebody free takes up now, and until when; None for nothing."""
        n = bisect_right(self.closes[p], now)
        if n == len(self.hours[p]) or now < self.hours[p][n][0]:
            return None
        room = self.hours[p][n][1] - now
        ready = self.ready.setdefault((p, n), set())
        self.can.sort()
        for at, (_, _, k) in enumerate(self.can):
            step = self.work.steps[k]
            set_up = 0 if step.family in ready else self.work.families.get(step.family, 0)
            once = self._at_once(k)
            if once > self.longest:
                once = self.left[k]
            piece = min(step.piece, self.left[k]) if step.piece else once
            if set_up + piece > room or not self._has_room(k, step.machine):
                continue
            del self.can[at]
            until = now + min(set_up + self.left[k], room)
            self._work(k, step.machine, now, until, until - now - set_up)
            if step.family:
                ready.add(step.family)
            return until
        return None

    def _at_once(self, k: int) -> int:
        """Minutes until all that must follow a step in time is done."""
        return self.left[k] + max((least + self._at_once(b) for b, least in self.after[k]), default=0)

    def _has_room(self, k: int, machine: str) -> bool:
        if machine and self.free[machine] <= 0:
            return False
        return all(self.free[place] > 0 for _, _, place, _ in self.ties.after[k] if place)

    def _work(self, k: int, machine: str, now: int, until: int, minutes: int) -> None:
        """A step is worked at until then; what was held for it is let go."""
        for _, _, _, place, held in self.ties.before[k]:
            if held:
                self.free[place] += 1
        if machine:
            self.free[machine] -= 1
            heapq.heappush(self.using, (until, machine))
        self.left[k] -= minutes
        heapq.heappush(self.turns, until)
        if self.left[k] > 0:
            heapq.heappush(self.soon, (until, k))
            return
        self.ends[k] = until
        for b, least, place, held in self.ties.after[k]:
            if place:
                self.free[place] -= 1
                if not held:
                    heapq.heappush(self.using, (until + least, place))
                    heapq.heappush(self.turns, until + least)
            self.waits[b] -= 1
            if not self.waits[b]:
                self._opened(b)


def _tied(ties: Ties, k: int) -> list[tuple[int, int]]:
    """What must follow a step in time, and after how long."""
    return [(b, least) for b, least, *_ in ties.after[k]
            if any(a == k and most is not None for a, _, most, _, _ in ties.before[b])]  # fmt: skip
