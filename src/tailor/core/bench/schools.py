"""Schools: where makers disagree about the order of work and its waits, each with what it is good for.

Source: craft, "Where makers disagree".
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from tailor.core import incoming
from tailor.core.errors import InputError


@dataclass(frozen=True)
class Glue:
    """tack, latest: minutes until both faces may be joined, and must be; press: minutes under a weight after that.

    said: why it is taken. caution: at the step.
    """

    tack: int
    latest: int
    press: int
    said: str
    caution: str = ""


FUMES = "Solvent glue: fresh air, gloves, no flame; a water-based one is the other choice."
GLUES: Mapping[str, Glue] = MappingProxyType({
    "water": Glue(15, 60, 0, "water-based contact glue: time enough, and nothing to breathe"),
    "solvent": Glue(10, 30, 0, "solvent contact glue: holds at once, and gives one chance to place it", FUMES),
    "pva": Glue(0, 8, 45, "white glue: joined wet, and held under a weight while it takes"),
})  # fmt: skip
DYES: Mapping[str, str] = MappingProxyType({
    "none": "left as it is tanned",
    "before": "dyed before it is put together, so that light thread stays light",
    "after": "dyed when it is whole, thread and edges with it",
})  # fmt: skip


FOLDS: Mapping[str, str] = MappingProxyType({
    "wet": "folded damp over a rod: nothing is taken away, and it must dry before it is glued",
    "gouged": "a channel is cut along the fold on the flesh side: it turns sharply, and is weaker there",
    "skived": "thinned along the fold on the flesh side: it turns without bulk, and keeps more than a channel does",
})  # fmt: skip
GROOVES: Mapping[str, str] = MappingProxyType({
    "front": "a groove on the show side: the line is straight, and thread lies below what rubs on it",
    "both": "a groove on either side: thread lies low on the back too, if holes come out in it",
    "none": "thread lies on the leather: nothing of it is cut away",
})  # fmt: skip
FINISHES: Mapping[str, str] = MappingProxyType({
    "wax": "burnished edges and a coat of wax: it can be renewed at any time",
    "resin": "burnished edges and two thin coats of water-based finish: it keeps wet out, and stiffens",
    "paint": "edges painted in two coats, for leather that does not burnish; faces waxed",
})  # fmt: skip
THREADS: Mapping[str, str] = MappingProxyType({
    "dark": "dark or waxed thread: dye does not show on it",
    "light": "light thread: it takes dye and never gives it back, so that it is never dyed",
})  # fmt: skip
QUESTIONS: Mapping[str, Mapping[str, str]] = MappingProxyType({
    "glue": MappingProxyType({name: glue.said for name, glue in GLUES.items()}),
    "dye": DYES, "fold": FOLDS, "groove": GROOVES, "finish": FINISHES, "thread": THREADS,
})  # fmt: skip


@dataclass(frozen=True)
class School:
    """How a maker works, by the questions there are. Raises InputError for a school there is not."""

    glue: str = "water"
    dye: str = "none"
    fold: str = "wet"
    groove: str = "front"
    finish: str = "wax"
    thread: str = "dark"

    def __post_init__(self) -> None:
        for question, those in QUESTIONS.items():
            if (word := getattr(self, question)) not in those:
                raise InputError(f"{incoming.quoted(word)} is no school", question, f"give {' or '.join(those)}")

    @property
    def dyed(self) -> str:
        """When leather is dyed: light thread never is, so that it is dyed before it is sewn."""
        return "before" if self.dye == "after" and self.thread == "light" else self.dye

    @property
    def why_dyed(self) -> str:
        return DYES[self.dye] if self.dyed == self.dye else f"{DYES['before']}: it is sewn with light thread"


@dataclass(frozen=True)
class Taken:
    """A school as it is taken for one thing. why: it is. of: the measure of the job that settles it; empty where the
    maker's own school does.
    """

    question: str
    word: str
    why: str
    of: str = ""
