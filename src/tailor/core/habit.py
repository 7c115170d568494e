"""Habit: a number that a maker goes by without asking: what a hand takes, what leather bears, what looks right.

Each is declared in the room that goes by it, with what it is usually, how far makers differ in it and where it comes
from. A maker may have his own (`Maker.habits`); what is measured on one job is a measure of that job, not a habit.
"""

from __future__ import annotations

import pkgutil
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import cache, partial
from importlib import import_module
from types import MappingProxyType

from tailor.core.errors import InputError
from tailor.core.incoming import quoted
from tailor.core.units import System, format_length, parse_length

ROOMS = ("leather", "draft", "bench", "together.ridden", "checks")  # of the core, in which some are declared


class Source(StrEnum):
    """Where a habit comes from, and so how much may be said against it."""

    BENCH = "what makers mostly do"
    HAND = "the size of a hand"
    STUFF = "how leather behaves"
    EYE = "by eye: it looks right and holds"


LENGTH, SHARE, TIMES, ANGLE, COUNT = "mm", "of 1", "times", "degrees", ""
HOURS, MINUTES = "h", "min"
SAID = {SHARE: {"%": 0.01}, HOURS: {MINUTES: 1 / 60}, MINUTES: {HOURS: 60.0}}  # what is typed in another unit


@dataclass(frozen=True)
class Habit:
    """name: by its theme, as welt.skived. usual: what is gone by where a maker has none of his own. low, high: what
    makers do, from and to; no more is taken. said: what it is, to be read after its number and unit.
    """

    source: Source
    name: str
    usual: float
    low: float
    high: float
    said: str
    unit: str = LENGTH

    def __post_init__(self) -> None:
        assert self.low <= self.usual <= self.high, self.name

    def say(self, value: float, system: System = System.MM) -> str:
        """A number of it with its unit, lengths in the maker's, shares in per cent."""
        if self.unit == LENGTH:
            return format_length(value, system)
        return f"{100 * value:.3g} %" if self.unit == SHARE else f"{value:.3g} {self.unit}".strip()

    def between(self, system: System = System.MM) -> str:
        """From where to where makers do it."""
        if self.unit == LENGTH:
            return f"{format_length(self.low, system, unit=False)} – {format_length(self.high, system)}"
        return f"{self.say(self.low).split(' ')[0]} – {self.say(self.high)}"

    def parse(self, text: str, system: System = System.MM, where: str = "") -> float:
        """A maker's own number as it is typed, lengths in any unit. Raises InputError, naming where it stands."""
        where = where or self.name
        if self.unit == LENGTH:
            return self.checked(parse_length(text, system.bare, where), where)
        said = text.strip()
        written = next((unit for unit in SAID.get(self.unit, {}) if said.endswith(unit)), self.unit)
        try:
            number = float(said.removesuffix(written))
        except ValueError:
            raise InputError(f"{quoted(text)} is no number", where, f"give one as {self.usual:.3g}") from None
        return self.checked(number * SAID.get(self.unit, {}).get(written, 1.0), where)

    def checked(self, value: float, where: str) -> float:
        """A maker's own number. Raises InputError, naming where it stands, for one beyond what makers do."""
        if not self.low <= value <= self.high:
            said = f"{self.name} is {self.say(value)}, and makers keep to {self.between()}"
            raise InputError(said, where, "choose a number between those")
        if self.unit == COUNT and value != round(value):
            raise InputError(f"{self.name} is {value:g}, and it is counted", where, "choose a whole number")
        return value


bench = partial(Habit, Source.BENCH)
hand = partial(Habit, Source.HAND)
stuff = partial(Habit, Source.STUFF)
eye = partial(Habit, Source.EYE)


@cache
def declared() -> Mapping[str, Habit]:
    """Every habit by its name, gathered from the rooms that go by them."""
    found: dict[str, Habit] = {}
    for room in ROOMS:
        whole = import_module(f"tailor.core.{room}")
        parts = pkgutil.walk_packages(getattr(whole, "__path__", ()), f"{whole.__name__}.")
        for module in (whole, *(import_module(each.name) for each in parts)):
            for value in vars(module).values():
                if isinstance(value, Habit):
                    assert found.setdefault(value.name, value) is value, f"{value.name} is declared twice"
    return MappingProxyType(dict(sorted(found.items())))


def named(name: str, where: str) -> Habit:
    """The habit of a name. Raises InputError, with the nearest name, when there is none."""
    if name in declared():
        return declared()[name]
    import difflib  # only wanted for a name that is misspelled

    near = difflib.get_close_matches(name, declared(), n=1)
    hint = f"perhaps {near[0]} was meant" if near else "take a name from the table that tailor tables lays out"
    raise InputError(f"there is no habit called {quoted(name)}", where, hint)
