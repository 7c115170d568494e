"""Altered: what a maker changes of the steps that were derived: another name, other minutes, one dropped, split, put
after another, or one of his own.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from tailor.core import incoming
from tailor.core.bench.steps import Doing, Follows, Steps
from tailor.core.errors import InputError

MOST = 24 * 60.0  # minutes of one step
OWN = "own"  # how the keys of a maker's own steps begin
REST = "rest of"  # and of the second part of a step that is split
YOURS = "you want it so"


@dataclass(frozen=True)
class Altered:
    """What is changed of one step of a line of an order.

    id: order, mark of the line, and the step's key, parted by /. name, minutes: in place of its own; empty and None
    where they stay. dropped: it is not done. parts: 2 where it is done at two goes. after: the key of a step that must
    be done before; of one of the maker's own (whose key begins with OWN) it is where it comes. why: in the maker's
    words.
    """

    id: str
    name: str = ""
    minutes: float | None = None
    dropped: bool = False
    parts: int = 1
    after: str = ""
    why: str = ""

    def __post_init__(self) -> None:
        if self.name:
            incoming.named(self.name, "name of a step")
        if self.why:
            incoming.named(self.why, "why a step is changed")
        if self.minutes is not None and not 1 <= self.minutes <= MOST:
            raise InputError(f"{self.minutes:g} minutes cannot be", self.name or self.key, f"give 1 to {MOST:.0f}")
        if self.parts not in (1, 2):
            raise InputError(f"{self.parts} parts cannot be", self.name or self.key, "split it once, or not")

    @property
    def line(self) -> str:
        """What the ids of what is changed of the same line begin with: order and mark."""
        return "/".join(self.id.split("/", 2)[:2]) + "/"

    @property
    def key(self) -> str:
        return self.id.split("/", 2)[-1]

    @property
    def own(self) -> bool:
        """Whether it is a step of the maker's own."""
        return self.key.startswith(f"{OWN} ")

    @property
    def because(self) -> str:
        """Why a step comes after another that it need not wait for."""
        return self.why or YOURS

    @property
    def plain(self) -> bool:
        """Whether nothing is changed by it."""
        return replace(self, id="") == Altered("") and not self.own


def altered(steps: Steps, changes: Iterable[Altered]) -> Steps:
    """Steps as a maker changed them, those of one line. What is changed of a step that there is no longer is let be.

    What would put a step before itself is left out: `circular` tells.
    """
    made = Steps(list(steps.doings), list(steps.follows), steps.schools, steps.together)
    changes = list(changes)
    for change in (each for each in changes if each.own):
        if not change.dropped:
            _added(made, change)
    for change in (each for each in changes if not each.own and each.key in made):
        if change.dropped:
            _dropped(made, change.key)
            continue
        k = next(n for n, doing in enumerate(made.doings) if doing.key == change.key)
        doing = made.doings[k]
        minutes = doing.minutes if change.minutes is None else change.minutes
        why = f"{doing.why}; {change.why}" if change.why else doing.why
        made.doings[k] = replace(doing, name=change.name or doing.name, minutes=minutes, why=why)
        if change.parts == 2:
            _split(made, k)
    for change in changes:
        if not change.own and change.after and not circular(made, change.key, change.after):
            made.follows.append(Follows(change.after, change.key, change.because))
    return made


def circular(steps: Steps, key: str, after: str) -> bool:
    """Whether a step cannot come after another: that waits for it, or one of them is not there."""
    return key not in steps or after not in steps or key == after or key in steps.earlier(after)


def _added(made: Steps, change: Altered) -> None:
    """A step of the maker's own: after the one that it was put after, and before what comes last."""
    last = made.doings[-1].key if made.doings else ""
    minutes = 10.0 if change.minutes is None else change.minutes
    made.add(Doing(change.key, change.name or "a step of your own", (), minutes, change.why or "your own"))
    if change.after in made and change.after != change.key:
        made.follows.append(Follows(change.after, change.key, change.because))
    if last and last != change.after:
        made.follows.append(Follows(change.key, last, "all else is done"))


def _dropped(made: Steps, key: str) -> None:
    """Without a step: what waited for it waits for what it waited for, as long; what had to follow in time was it."""
    before = [f for f in made.follows if f.after == key]
    after = [f for f in made.follows if f.before == key]
    made.doings[:] = [doing for doing in made.doings if doing.key != key]
    made.follows[:] = [f for f in made.follows if key not in (f.before, f.after)]
    for first in before:
        for then in after:
            least, place = max(first.least, then.least), first.place or then.place
            shuts = first.shuts and then.shuts
            made.follows.append(Follows(first.before, then.after, then.why, least, place=place, shuts=shuts))


def _split(made: Steps, k: int) -> None:
    """A step done at two goes: what followed it follows the second."""
    doing = made.doings[k]
    key = f"{REST} {doing.key}"
    half = max(doing.minutes / 2, 1.0)
    made.doings[k] = replace(doing, minutes=half)
    made.doings.insert(k + 1, replace(doing, key=key, name=f"the rest: {doing.name}", minutes=half, takes=()))
    made.follows[:] = [replace(f, before=key) if f.before == doing.key else f for f in made.follows]
    made.follows.append(Follows(doing.key, key, "it goes on"))
