"""The hours there are as they fill: hands, set-ups, machines, and the places where things wait."""

from __future__ import annotations

import copy
from bisect import bisect_right
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import partial

from tailor.core.bench.work import FAR, Plan, Spell, Work, merged


class NoRoomError(Exception):
    """A step finds no room in all the hours there are. Its number is the argument."""


@dataclass(frozen=True)
class Ties:
    """What each step, by its number, waits for: (which, least, most, place, held); and what waits for it: (which,
    least, place, held).
    """

    before: Sequence[Sequence[tuple[int, int, int | None, str, bool]]]
    after: Sequence[Sequence[tuple[int, int, str, bool]]]


class Hours:
    """The hours as they fill. done: the spells of each step that was put in, by its number. undo: takes back what was
    put in last, one thing at a time.
    """

    def __init__(self, work: Work, ties: Ties, patience: int = 0) -> None:
        self.work, self.ties, self.patience = work, ties, patience
        self.windows = [person.windows for person in self.work.people]
        self.ends = [[b for _, b in windows] for windows in self.windows]
        self.free = [[[span] for span in windows] for windows in self.windows]  # of each person and window
        self.ready: dict[tuple[int, int, str], int] = {}  # when a family is set up in a window
        for p, person in enumerate(work.people):
            if person.windows:
                self.ready |= {(p, 0, family): person.windows[0][0] for who, family in work.ready if who == person.id}
        self.machine: dict[str, list[tuple[int, int]]] = {name: [] for name in self.work.machines}
        self.place = {name: list(self.work.taken.get(name, ())) for name in self.work.places}
        self.done: dict[int, list[Spell]] = {}
        self.setups: list[tuple[str, Spell]] = []
        self.undo: list[Callable[[], object]] = []

    def copy(self) -> Hours:
        """The same hours, to be filled by themselves; nothing that was put in can be taken back there."""
        other = copy.copy(self)
        other.free = [[list(spans) for spans in windows] for windows in self.free]
        other.machine = {name: list(spans) for name, spans in self.machine.items()}
        other.place = {name: list(spans) for name, spans in self.place.items()}
        other.done, other.ready, other.setups, other.undo = dict(self.done), dict(self.ready), list(self.setups), []
        return other

    def put(self, k: int, low: int) -> None:
        """Put one step in as soon after `low` as it has room, by whoever is done first. Raises NoRoomError."""
        step = self.work.steps[k]
        tries = [t for p in range(len(self.windows)) if (t := self._spells(p, k, low)) is not None]
        if not tries:
            raise NoRoomError(k)
        spells, setups, by = min(tries, key=lambda t: t[0][-1][1])
        name = self.work.people[by].id
        for w, at, minutes in setups:
            self._set_up(by, w, step.family, Spell(name, at, at + minutes))
        self._do(k, by, [(Spell(name, a, b), w) for a, b, w in spells])

    def low(self, k: int) -> int:
        """The soonest that a step may begin, after all that it waits for, which must be in."""
        before = (self.done[a][-1].end + least for a, least, *_ in self.ties.before[k])
        return max(self.work.steps[k].after, max(before, default=-FAR))

    def late(self, k: int) -> tuple[int, int] | None:
        """Of a step that was put in: which one that it waits for must begin no sooner than when, for it to be in time,
        or to have its place held; that place is taken. Raises NoRoomError where nothing helps.
        """
        start = self.done[k][0].start
        if start > self.work.steps[k].by:
            raise NoRoomError(k)
        for a, _, most, place, held in self.ties.before[k]:
            end = self.done[a][-1].end
            if most is not None and start > end + most:
                return a, self.done[a][0].start + start - end - most
            if held and not self._room(self.place, self.work.places, place, end, start):
                return a, self.done[a][0].start + 1 + self._blocked(place, end, start) - end
            if held:
                self._take(self.place, place, end, start)
        return None

    def back(self, mark: int) -> None:
        """Take back what was put in since there were so many things to take back."""
        while len(self.undo) > mark:
            self.undo.pop()()

    @property
    def plan(self) -> Plan:
        names = [step.id for step in self.work.steps]
        return Plan({names[k]: tuple(spells) for k, spells in sorted(self.done.items())}, tuple(self.setups))

    # What stays where it was

    def window(self, spell: Spell) -> tuple[int, int] | None:
        """Whose hours a spell lies in, and which of them; None for none."""
        for p, person in enumerate(self.work.people):
            if person.id == spell.person:
                w = bisect_right(self.ends[p], spell.start)
                inside = w < len(self.ends[p]) and self.windows[p][w][0] <= spell.start and spell.end <= self.ends[p][w]
                return (p, w) if inside else None
        return None

    def set_up(self, family: str, spell: Spell) -> None:
        """Have a family set up just then, if that is in the hours and hands are free."""
        at = self.window(spell)
        if at is not None and self._free(*at, spell):
            self._set_up(*at, family, spell)

    def keep(self, k: int, spells: Sequence[Spell]) -> bool:
        """Have a step done just then; whether it can be: in the hours, when hands, machine and places are free."""
        step, at = self.work.steps[k], [self.window(spell) for spell in spells]
        if sum(s.end - s.start for s in spells) != step.minutes or not step.after <= spells[0].start <= step.by:
            return False
        if len(spells) > 1 and (not step.piece or min(s.end - s.start for s in spells) < step.piece):
            return False
        for spell, window in zip(spells, at, strict=True):
            if window is None or not self._free(*window, spell):
                return False
            if self.work.families.get(step.family, 0) and self.ready.get((*window, step.family), FAR) > spell.start:
                return False
            if step.machine and not self._room(self.machine, self.work.machines, step.machine, spell.start, spell.end):
                return False
        end = spells[-1].end
        if any(place and not held and not self._room(self.place, self.work.places, place, end, end + least)
               for _, least, place, held in self.ties.after[k]):  # fmt: skip
            return False
        self._do(k, at[0][0], [(s, w[1]) for s, w in zip(spells, at, strict=True) if w is not None])  # type: ignore[index]
        return True

    def let_go(self, k: int) -> None:
        """Take a step out that was kept; what was put in before it can no longer be taken back."""
        step = self.work.steps[k]
        for spell in (spells := self.done.pop(k)):
            p, w = self.window(spell) or (0, 0)
            self.free[p][w] = merged([*self.free[p][w], (spell.start, spell.end)])
            if step.machine:
                self.machine[step.machine].remove((spell.start, spell.end))
        for _, least, place, held in self.ties.after[k]:
            if place and not held and least:
                self.place[place].remove((spells[-1].end, spells[-1].end + least))
        for a, _, _, place, held in self.ties.before[k]:
            if held and (span := (self.done[a][-1].end, spells[0].start)) in self.place[place]:
                self.place[place].remove(span)
        self.undo.clear()

    def let_all_go(self, members: Sequence[int]) -> None:
        """Take a group out, the last first, since they follow one another."""
        for k in reversed(members):
            self.let_go(k)

    def _free(self, p: int, w: int, spell: Spell) -> bool:
        return any(a <= spell.start and spell.end <= b for a, b in self.free[p][w])

    def _set_up(self, p: int, w: int, family: str, spell: Spell) -> None:
        self._busy(p, w, spell.start, spell.end)
        key, was = (p, w, family), self.ready.get((p, w, family))
        self.ready[key] = spell.end
        self.setups.append((family, spell))
        self.undo.append(partial(self._unready, key, was))

    def _do(self, k: int, p: int, spells: Sequence[tuple[Spell, int]]) -> None:
        step, end = self.work.steps[k], spells[-1][0].end
        for spell, w in spells:
            self._busy(p, w, spell.start, spell.end)
            if step.machine:
                self._take(self.machine, step.machine, spell.start, spell.end)
        self.done[k] = [spell for spell, _ in spells]
        self.undo.append(lambda: self.done.pop(k))
        for _, least, place, held in self.ties.after[k]:
            if place and not held:
                self._take(self.place, place, end, end + least)

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
        for _, least, place, held in self.ties.after[k]:
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
