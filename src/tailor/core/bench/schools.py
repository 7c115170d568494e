"""Schools: where makers disagree about the order of work and its waits, each with what it is good for.

Source: craft, "Where makers disagree".
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

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


@dataclass(frozen=True)
class School:
    """How a maker works: the glue, and when leather is dyed. Raises InputError for a school there is not."""

    glue: str = "water"
    dye: str = "none"

    def __post_init__(self) -> None:
        for said, word, those in (("glue", self.glue, GLUES), ("dye", self.dye, DYES)):
            if word not in those:
                raise InputError(f"'{word}' is no school", said, f"give {' or '.join(those)}")
