"""What is to be done and by whom, and when it is: values in whole minutes from a Monday's midnight."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import pairwise

FAR = 10**9  # minutes: before and after everything
LATE = 10  # what a minute late weighs against one of the whole


@dataclass(frozen=True)
class Person:
    """Somebody with hands. windows: from and to, rising and apart, when they work."""

    id: str
    windows: tuple[tuple[int, int], ...]


@dataclass(frozen=True)
class Order:
    """What is wanted, how much it matters, and by when."""

    id: str
    item: str = ""
    weight: float = 1.0
    due: int = FAR


@dataclass(frozen=True)
class Step:
    """Work of hands. minutes: how long. family: with its like it shares a set-up. machine: what it needs besides hands.
    piece: into pieces of at least so many minutes it may be cut; else it is done in one go. after, by: it begins no
    sooner, and no later. first: it is under way, and goes before what is not.
    """

    id: str
    order: str
    name: str
    minutes: int
    family: str = ""
    machine: str = ""
    piece: int = 0
    after: int = -FAR
    by: int = FAR
    first: bool = False


@dataclass(frozen=True)
class Wait:
    """One step after another: end + least <= start <= end + most. place: what is taken meanwhile, for `least` minutes,
    or where it is held, until the later step begins.
    """

    from_: str
    to: str
    least: int = 0
    most: int | None = None
    place: str = ""
    held: bool = False


@dataclass(frozen=True)
class Work:
    """All that is to be planned. machines and places: how many; families: minutes of a set-up. taken: from when to when
    something stands in a place already. ready: for whom which family is set up, in the first hours they have.
    """

    people: tuple[Person, ...]
    orders: tuple[Order, ...]
    steps: tuple[Step, ...]
    waits: tuple[Wait, ...] = ()
    machines: Mapping[str, int] = field(default_factory=dict)
    places: Mapping[str, int] = field(default_factory=dict)
    families: Mapping[str, int] = field(default_factory=dict)
    taken: Mapping[str, tuple[tuple[int, int], ...]] = field(default_factory=dict)
    ready: frozenset[tuple[str, str]] = frozenset()

    @cached_property
    def step(self) -> dict[str, Step]:
        return {step.id: step for step in self.steps}


@dataclass(frozen=True)
class Spell:
    """A stretch of one person's work: from and to."""

    person: str
    start: int
    end: int

    def later(self, by: int) -> Spell:
        return Spell(self.person, self.start + by, self.end + by)


@dataclass(frozen=True)
class Plan:
    """When every step is done, in one spell or more, and the set-ups: each with its family.

    ranks, patience, like: what went before what, by which it was made.
    """

    steps: Mapping[str, tuple[Spell, ...]]
    setups: tuple[tuple[str, Spell], ...] = ()
    ranks: Mapping[str, float] = field(default_factory=dict)
    patience: int = 0
    like: float = 0.0

    @property
    def end(self) -> int:
        return max((spells[-1].end for spells in self.steps.values()), default=0)

    def late(self, work: Work) -> Mapping[str, int]:
        """Minutes each order is late."""
        last = dict.fromkeys((order.id for order in work.orders), 0)
        for step in work.steps:
            if step.id in self.steps:
                last[step.order] = max(last[step.order], self.steps[step.id][-1].end)
        return {order.id: max(0, last[order.id] - order.due) for order in work.orders}

    def later(self, by: int) -> Plan:
        """The same plan with all of it so many minutes later, as where its minutes are counted from another day."""
        if not by:
            return self
        steps = {id_: tuple(spell.later(by) for spell in spells) for id_, spells in self.steps.items()}
        return replace(self, steps=steps, setups=tuple((family, spell.later(by)) for family, spell in self.setups))

    def cost(self, work: Work) -> float:
        """Lateness by weight, tenfold, and the end of all: what is to be least."""
        late = self.late(work)
        return float(LATE * sum(order.weight * late[order.id] for order in work.orders) + self.end)


def merged(spans: Iterable[tuple[int, int]]) -> list[tuple[int, int]]:
    """Spans in order, those that touch made one."""
    found = list[tuple[int, int]]()
    for a, b in sorted(spans):
        if found and a <= found[-1][1]:
            found[-1] = found[-1][0], max(found[-1][1], b)
        else:
            found.append((a, b))
    return found


def broken(work: Work, plan: Plan) -> Iterator[str]:
    """What a plan breaks, each in a sentence, asked of its times alone."""
    windows = {person.id: person.windows for person in work.people}
    for step in work.steps:
        spells = plan.steps.get(step.id, ())
        if sum(spell.end - spell.start for spell in spells) != step.minutes:
            yield f"{step.id} is not done for its {step.minutes} minutes"
            return
        if len(spells) > 1 and (not step.piece or min(s.end - s.start for s in spells) < step.piece):
            yield f"{step.id} is cut into pieces that are too short"
        if any(b.start < a.end for a, b in pairwise(spells)):
            yield f"{step.id} is done twice at once"
        if spells and not step.after <= spells[0].start <= step.by:
            yield f"{step.id} begins at {spells[0].start}, too soon or too late"
    named = [(id_, spell) for id_, spells in plan.steps.items() for spell in spells]
    named += [(f"the set-up for {family}", spell) for family, spell in plan.setups]
    for what, spell in named:
        if not any(a <= spell.start and spell.end <= b for a, b in windows[spell.person]):
            yield f"{what} is outside {spell.person}'s hours"
    for person in windows:
        mine = sorted((s.start, s.end, what) for what, s in named if s.person == person and s.end > s.start)
        for (_, end, one), (start, _, other) in pairwise(mine):
            if start < end:
                yield f"{other} begins before {one} ends"
    for family, minutes in work.families.items():
        for person, theirs in windows.items():
            for n, (a, b) in enumerate(theirs):
                if n == 0 and (person, family) in work.ready:
                    continue
                ready = [s.end for f, s in plan.setups if f == family and s.person == person and a <= s.start < b
                         and s.end - s.start >= minutes]  # fmt: skip
                needs = [s.start for step in work.steps if step.family == family for s in plan.steps[step.id]
                         if s.person == person and a <= s.start < b]  # fmt: skip
                if needs and minutes and min(needs) < min(ready, default=10**12):
                    yield f"nothing is set up for {family} when it begins at {min(needs)}"
    for machine, count in work.machines.items():
        used = [(s.start, s.end) for step in work.steps if step.machine == machine for s in plan.steps[step.id]]
        if _most_at_once(used) > count:
            yield f"more is done at the {machine} than there are"
    taken = {place: list(spans) for place, spans in work.taken.items()}
    for wait in work.waits:
        end, start = plan.steps[wait.from_][-1].end, plan.steps[wait.to][0].start
        if start < end + wait.least:
            yield f"{wait.to} begins {end + wait.least - start} minutes too soon after {wait.from_}"
        if wait.most is not None and start > end + wait.most:
            yield f"{wait.to} begins {start - end - wait.most} minutes too late after {wait.from_}"
        if wait.place:
            taken.setdefault(wait.place, []).append((end, start if wait.held else end + wait.least))
    for place, spans in taken.items():
        if _most_at_once(spans) > work.places.get(place, 0):
            yield f"more waits on the {place} than has room"


def _most_at_once(spans: list[tuple[int, int]]) -> int:
    turns = sorted([(a, 1) for a, b in spans if b > a] + [(b, -1) for a, b in spans if b > a])
    now = most = 0
    for _, turn in turns:
        now += turn
        most = max(most, now)
    return most
