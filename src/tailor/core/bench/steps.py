"""Steps: work of hands on one thing, and what follows what, with why and how soon or late."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass, field

from tailor.core.bench.schools import Taken
from tailor.core.bench.supplies import Need

LEAST = 20  # minutes of long work that is done at one go
LONG = 40  # minutes from which work may be cut up
PLACES = {"clamps": 2, "forms": 2, "line": 4}  # where things wait, as a bench usually has them
DAMP = 2.0  # minutes to damp leather once over
KNIFE = "Cut away from the hand that holds: the blade turns."
SET_UPS = {"glue": 3, "thread": 4, "dye": 6, "edges": 3}  # minutes before the first of its like


@dataclass(frozen=True)
class Doing:
    """Work of hands. pieces: that it touches, and places on them: seams, fastenings by where they sit, and kinds of
    line. minutes: of hands, and why so many. family: with its like it shares a set-up. tools: what is set how, with its
    measures. uses: what is used up, in words; takes: what of it is counted on the shelves. look: what to see to before
    going on. caution: where it can hurt.
    """

    key: str
    name: str
    pieces: tuple[str, ...]
    minutes: float
    why: str
    family: str = ""
    machine: str = ""
    look: str = ""
    caution: str = ""
    places: tuple[str, ...] = ()
    tools: str = ""
    uses: str = ""
    takes: tuple[Need, ...] = ()

    @property
    def whole_minutes(self) -> int:
        return max(round(self.minutes), 1)

    @property
    def at_least(self) -> int:
        """Minutes of it that are done at one go; 0 where all is."""
        return LEAST if self.whole_minutes >= LONG and self.family != "glue" else 0


@dataclass(frozen=True)
class Follows:
    """One step after another, and why: end + least <= start <= end + most. place: where it waits meanwhile. shuts: once
    the later is done, the earlier can no longer be made up for.
    """

    before: str
    after: str
    why: str
    least: int = 0
    most: int | None = None
    place: str = ""
    shuts: bool = False


@dataclass
class Steps:
    """The steps of one thing, and what follows what. schools: that it is made by. together: the pieces that are closed
    to a whole once a step is done, by its key; none while all lies flat.
    """

    doings: list[Doing] = field(default_factory=list)
    follows: list[Follows] = field(default_factory=list)
    schools: tuple[Taken, ...] = ()
    together: dict[str, tuple[str, ...]] = field(default_factory=dict)

    def __getitem__(self, key: str) -> Doing:
        return next(doing for doing in self.doings if doing.key == key)

    def __contains__(self, key: object) -> bool:
        return any(doing.key == key for doing in self.doings)

    def add(self, doing: Doing, after: Iterable[str] = (), why: str = "") -> str:
        """Add a step after others; its key."""
        self.doings.append(doing)
        self.follows += [Follows(key, doing.key, why) for key in dict.fromkeys(after)]
        return doing.key

    def wait(
        self, before: str, after: str, why: str, least: int, most: int | None = None, place: str = "",
        shuts: bool = False,
    ) -> None:  # fmt: skip
        """Have one step wait for another."""
        self.follows.append(Follows(before, after, why, least, most, place, shuts))

    def missing(self, key: str, done: Collection[str]) -> list[Follows]:
        """What must be done before a step, and is not: doing it all the same loses something, and why."""
        return [f for f in self.follows if f.after == key and f.before not in done]

    def last_chance(self, key: str) -> Follows | None:
        """What comes first of that after which a step can no longer be made up for; None where it always can."""
        where = {doing.key: n for n, doing in enumerate(self.doings)}
        shut = (f for f in self.follows if f.before == key and f.shuts)
        return min(shut, key=lambda f: where[f.after], default=None)

    def earlier(self, key: str) -> set[str]:
        """Every step that must be done before one."""
        found, new = set[str](), {key}
        while new:
            new = {f.before for f in self.follows if f.after in new} - found
            found |= new
        return found
