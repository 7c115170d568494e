"""Maker: what one maker works with, as a value: the sizes of fastenings and trimmings there are on the shelf, what
he has learned of his leathers and methods and made his own, and the habits in which he differs from others.

A job is drafted by its maker. With none given it is one with the sizes that are shipped; a maker's own tables are read
outside the core and passed in.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from types import MappingProxyType

from tailor.core.errors import InputError
from tailor.core.habit import Habit
from tailor.core.incoming import quoted
from tailor.core.leather import fastenings, trimmings
from tailor.core.leather.fastenings import Fastening
from tailor.core.leather.tables import shipped
from tailor.core.leather.trimmings import Trimming
from tailor.core.measure import Measure
from tailor.core.taken import Taken


@dataclass(frozen=True)
class Maker:
    """fastenings, trimmings: what there is, by name. taken: what jobs that are begun from now on go by. habits: his
    own numbers, by the names of habits; of the rest he does what is usual.
    """

    fastenings: Mapping[str, Fastening]
    trimmings: Mapping[str, Trimming]
    taken: tuple[Taken, ...] = ()
    habits: Mapping[str, float] = field(default_factory=dict)

    def __reduce__(self) -> tuple[type[Maker], tuple[object, ...]]:
        """To be sent to another process."""
        return Maker, (dict(self.fastenings), dict(self.trimmings), self.taken, dict(self.habits))

    def habit(self, habit: Habit) -> float:
        """The number he goes by: his own, or the usual one."""
        return self.habits.get(habit.name, habit.usual)

    def words(self, measure: Measure) -> tuple[str, ...]:
        """What a measure may be chosen from: its own words, and what there is of its kinds."""
        kinds = {name: of.kind for name, of in self.fastenings.items()}
        kinds |= {name: of.kind for name, of in self.trimmings.items()}
        return (*measure.choices, *(name for name, kind in kinds.items() if kind in measure.stock))

    def fastening(self, name: str, where: str) -> Fastening:
        """A fastening by its name. Raises InputError, naming where it is asked for, when there is none."""
        if name not in self.fastenings:
            raise InputError(f"there is no fastening called {quoted(name)}", where, "choose one there is")
        return self.fastenings[name]

    def trimming(self, name: str, where: str) -> Trimming:
        """A trimming by its name. Raises InputError, naming where it is asked for, when there is none."""
        if name not in self.trimmings:
            raise InputError(f"there is no trimming called {quoted(name)}", where, "choose one there is")
        return self.trimmings[name]


@cache
def usual() -> Maker:
    """A maker with the sizes that are shipped."""
    return Maker(
        MappingProxyType(fastenings.read(shipped("fastenings.csv"), "fastenings.csv")),
        MappingProxyType(trimmings.read(shipped("trimmings.csv"), "trimmings.csv")),
    )
