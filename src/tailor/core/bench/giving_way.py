"""Who gives way to a step that needs another place: those for whom the fewest others must move in turn.

Steps are tied into groups that are put in together (`serial`). What it costs to move a group, in steps moved, is
estimated from the end of the plan backwards: it goes to a later place, and whoever lies there goes on from there at a
cost that is known already; or it goes to the end, with all that waits for it.
"""

from __future__ import annotations

import copy
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from tailor.core.bench.hours import Hours
from tailor.core.bench.serial import Serial
from tailor.core.bench.work import FAR
from tailor.core.carried.loft import Array

Counts = NDArray[np.intp]

NEVER = 1e6  # moves: what cannot give way
NEAR = 4  # blocks: so soon after what it waits for, a group moves with that anyway
LATE = 8.0  # moves that one rather makes than have an order late that was not
LINE = 10**8  # minutes from the days of one person to those of the next, on one line of time


@dataclass(frozen=True)
class Blocks:
    """What fills the hours, those of one person after those of another on one line of time.

    start: (b,) of each block; step: which it is, -1 for a set-up and the end of a person's days. place: (p,) where
    something may begin; at: when that is; close: the end of those hours; window: which they are; first: the first
    block that ends after it.
    """

    start: Counts
    step: Counts
    place: Counts
    close: Counts
    window: Counts
    first: Counts

    @cached_property
    def at(self) -> Counts:
        return self.place % LINE


class Toll:
    """What it costs to move the blocks of a run: of the first, and of each after it. alone: (b,) of each as the first,
    sums: (b,) of all from one to the end of its person's days.
    """

    def __init__(self, alone: Array, after: Array) -> None:
        self.alone, self.sums = alone, np.cumsum(after[::-1])[::-1]

    def of(self, first: Counts, beyond: Counts) -> Array:
        """(p,) of runs of blocks, each from the first to the one beyond its last."""
        rest = self.sums[np.minimum(first + 1, len(self.sums) - 1)] - self.sums[beyond]
        return np.where(beyond > first, self.alone[first] + rest, 0.0)


class GivingWay:
    """Finds places for groups in hours that are filled. cost: (g,) moves that moving each group takes, about. led: (k,)
    which steps come soon after one that they wait for, and so go with it: they are not counted again.
    """

    def __init__(self, serial: Serial, hours: Hours, since: int = -FAR) -> None:
        self.serial = serial
        self.group = np.full(serial.size + 1, -1)
        for g, members in enumerate(serial.members):
            self.group[members] = g
        self.after = _waiting(serial)
        size = np.array([len(members) for members in serial.members], dtype=float)
        self.whole = size + np.array(
            [size[after].sum() for after in self.after]
        )  # with all that waits for it, to the end
        self.whole += LATE * self._late_at_the_end(hours)
        self.began = np.array([min((hours.done[k][0].start for k in members if k in hours.done), default=0)
                               for members in serial.members], dtype=float)  # fmt: skip
        self.cost, self.led = self.whole.copy(), np.zeros(serial.size + 1, dtype=bool)
        self.look(hours, np.isin(np.arange(len(size)), self.group[list(hours.done)]))
        self.led = self._led()
        self._estimate(since)

    def _late_at_the_end(self, hours: Hours) -> NDArray[np.bool_]:
        """(g,) whether an order is in time that would not be with a group of it at the end of all."""
        work, ends = self.serial.work, dict[str, int]()
        for k, spells in hours.done.items():
            ends[work.steps[k].order] = max(ends.get(work.steps[k].order, -FAR), spells[-1].end)
        last = max(ends.values(), default=-FAR)
        spoilt = {order.id for order in work.orders if ends.get(order.id, -FAR) <= order.due < last}
        return np.array([work.steps[members[0]].order in spoilt for members in self.serial.members], dtype=bool)

    def stirred(self, together: bool, by: float, random: np.random.Generator) -> GivingWay:
        """The same with every cost stirred. together: whether what is led is not counted again; by: the deviation of
        a cost's logarithm.
        """
        other = copy.copy(self)
        other.cost = self.cost * np.exp(by * random.normal(size=len(self.cost)))
        other.led = self.led & together
        return other

    def look(self, hours: Hours, may: NDArray[np.bool_], low: int = -FAR) -> None:
        """See how the hours are filled now, from `low` on, and (g,) which groups may be moved."""
        self.hours, self.may = hours, np.append(may, False)
        line = {person.id: LINE * p for p, person in enumerate(hours.work.people)}
        rows = [(line[s.person] + s.start, line[s.person] + s.end, k)
                for k, spells in hours.done.items() for s in spells if s.end > low]  # fmt: skip
        rows += [(line[s.person] + s.start, line[s.person] + s.end, -1) for _, s in hours.setups if s.end > low]
        rows += [(at + LINE - 1, at + LINE - 1, -1) for at in line.values()]
        rows.sort()
        start, end, step = np.array(rows).T
        opens, closes = self.windows
        place = np.sort(np.concatenate((start, end, opens)))
        place = place[np.diff(place, prepend=-1) > 0]
        window = np.minimum(np.searchsorted(closes, place, "right"), len(closes) - 1)
        inside = (opens[window] <= place) & (place < closes[window])
        place, window = place[inside], window[inside]
        self.blocks = Blocks(start, step, place, closes[window], window, np.searchsorted(end, place, "right"))
        self.ready = {family: self._ready(family) for family, minutes in hours.work.families.items() if minutes}
        of = self.group[step]
        alone = np.where(self.may[of], self.cost[of], NEVER)
        self.toll = Toll(alone, np.where(self.may[of] & self.led[step], 1.0, alone))

    @cached_property
    def windows(self) -> tuple[Counts, Counts]:
        """When all the hours of all people begin, and when they end."""
        people = enumerate(self.serial.work.people)
        opens, closes = np.array([(LINE * p + a, LINE * p + b) for p, who in people for a, b in who.windows]).T
        return opens, closes

    def _ready(self, family: str) -> Counts:
        """(w,) when a family is set up in which hours; -1 for not at all."""
        found = np.full(len(self.windows[0]), -1)
        begins = np.cumsum([0, *(len(windows) for windows in self.hours.windows)])
        for (p, w, which), at in self.hours.ready.items():
            if which == family:
                found[begins[p] + w] = LINE * p + at
        return found

    def _led(self) -> NDArray[np.bool_]:
        last, led = dict[int, int](), self.led.copy()
        for n, k in enumerate(self.blocks.step.tolist()):
            if k >= 0:
                g = int(self.group[k])
                led[k] = any(n - last.get(o, -FAR) <= NEAR for o in (g, *self.serial.waiting[g]))
                last[g] = n
        return led

    def _estimate(self, since: int) -> None:
        """Estimate what moving each group costs, the last first, back to when the first of them may be moved."""
        blocks, done = self.blocks, set[int]()
        size = len(blocks.step)
        self.toll = Toll(np.full(size, NEVER), np.zeros(size))
        at = blocks.start % LINE
        for n in np.argsort(-at, kind="stable")[: np.count_nonzero(at >= since)].tolist():
            k, alone = int(blocks.step[n]), NEVER
            if k >= 0:
                if (g := int(self.group[k])) not in done:
                    done.add(g)
                    self.cost[g], _ = self.places(g, int(at[n]) + 1)
                alone = self.cost[g]
            self.toll.alone[n] = alone
            if n + 1 < size:
                self.toll.sums[n] = self.toll.sums[n + 1] + (1.0 if self.led[k] and alone < NEVER else alone)

    def places(self, g: int, low: int) -> tuple[float, dict[int, int]]:
        """How many moves it takes, about, to move a group to begin no sooner than `low`; and when each of its steps
        should begin: none where it had better go wherever there is room.
        """
        members, at, ahead = self.serial.members[g], self.blocks.at, list[tuple[Counts, Counts, Array]]()
        cost = self._put(members[-1]) + self._followed(g)
        for k, then in reversed(list(pairwise(members))):
            first, beyond = self._in_time(k, then)
            ahead.append((first, beyond, cost))
            cost = self._put(k) + _least(cost, first, beyond)
        cost = np.where(at >= low, cost, np.inf) + len(members)
        n = int(cost.argmin()) if len(cost) else 0
        if not len(cost) or cost[n] >= self.whole[g]:
            return float(self.whole[g]), {}
        found, least = {members[0]: int(at[n])}, float(cost[n])
        for k, (first, beyond, cost) in zip(members[1:], reversed(ahead), strict=True):
            n = int(first[n] + cost[first[n] : beyond[n]].argmin())
            found[k] = int(at[n])
        return least, found

    def clear(self, places: Mapping[int, int]) -> set[int]:
        """Take out what lies where steps are to be put; the groups that were taken out."""
        blocks, out = self.blocks, set[int]()
        for k, at in places.items():
            n = int(np.where(blocks.at == at, self._put(k), np.inf).argmin())  # of the person who gives way for least
            beyond = np.searchsorted(blocks.start, blocks.place[n] + self._needs(k)[n], "left")
            out |= set(self.group[blocks.step[blocks.first[n] : beyond]].tolist())
        for g in out:
            self.hours.let_all_go(self.serial.members[g])
        return out

    def _needs(self, k: int) -> Counts:
        """(p,) minutes that a step needs, at every place: those of a set-up too, where there is none in those hours."""
        step = self.serial.work.steps[k]
        needs = np.full(len(self.blocks.place), step.minutes)
        if step.family in self.ready:
            needs[self.ready[step.family][self.blocks.window] < 0] += self.serial.work.families[step.family]
        return needs

    def _put(self, k: int) -> Array:
        """(p,) moves of others that it takes to put a step at every place; infinite where the hours do not do."""
        blocks, needs = self.blocks, self._needs(k)
        cost = self.toll.of(blocks.first, np.searchsorted(blocks.start, blocks.place + needs, "left"))
        cost[blocks.place + needs > blocks.close] = np.inf
        if (family := self.serial.work.steps[k].family) in self.ready:
            cost[blocks.place < self.ready[family][blocks.window]] = np.inf
        return cost

    def _followed(self, g: int) -> Array:
        """(p,) moves of what waits for a group, where its last step is put at every place. What nothing waits for is
        not put later than it is wanted, or than it was.
        """
        after, at = self.after[g], self.blocks.at
        if len(after):
            row = np.argsort(self.began[after])
            cost = self.cost[after[row]]
            summed = np.maximum.accumulate(cost) + np.arange(len(cost)) if self.led.any() else np.cumsum(cost)
            return np.concatenate(([0.0], summed))[np.searchsorted(self.began[after[row]], at)]
        due = {order.id: order.due for order in self.serial.work.orders}
        steps = [self.serial.work.steps[k] for k in self.serial.members[g]]
        latest = max(min(due[step.order] for step in steps) - steps[-1].minutes, self.began[g])
        return np.where(at <= latest, 0.0, np.inf)

    def _in_time(self, k: int, then: int) -> tuple[Counts, Counts]:
        """(p,), (p,) the first place for the next step of a group, and the one beyond the last, for every place."""
        place = self.blocks.place
        wait = next((w for w in self.serial.before[then] if w[0] == k), None)
        least, most = (0, None) if wait is None else wait[1:3]
        end = place + self._needs(k)
        latest = (place // LINE + 1) * LINE if most is None else end + most + 1
        return np.searchsorted(place, end + least), np.searchsorted(place, latest)


def _least(cost: Array, first: Counts, beyond: Counts) -> Array:
    """(p,) the least of the costs from each first to the one before each beyond; infinite where there are none."""
    found, some = np.full(len(first), np.inf), np.flatnonzero(first < beyond)
    if len(some):
        spans = np.stack((first[some], beyond[some]), axis=1).ravel()
        found[some] = np.minimum.reduceat(np.append(cost, np.inf), spans)[::2]
    return found


def _waiting(serial: Serial) -> list[Counts]:
    """Of each group, those that wait for it, and for those, and so on."""
    found = [0] * len(serial.members)
    for g in reversed(list(serial.groups([0.0] * serial.size))):
        for other in serial.freeing[g]:
            found[g] |= found[other] | 1 << other
    return [np.array([o for o in range(len(found)) if bits >> o & 1], dtype=int) for bits in found]
