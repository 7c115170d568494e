"""Measure: what a maker can settle or read of a job. Each is declared once, beside the part or rule that owns it.

A measure that is not pinned has its value worked out by the draft (or, where nothing needs working out, its stated
usual). Values are floats in mm or degrees, whole counts, or one of a few words. Its tag, its help, its line in the
format and where it is tied on a drawing all come from its declaration.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import Enum
from functools import partial
from typing import Any

from tailor.core.errors import InputError
from tailor.core.incoming import TYPED, quoted
from tailor.core.units import (
    System,
    format_length,
    format_mass,
    format_weight,
    parse_length,
    parse_mass,
    parse_pitch,
)

Value = float | int | str
AUTO = "auto"
STYLE = "style"  # the key of the construction, where that of a setting may stand


class Theme(Enum):
    """What a measure or a verdict is about, in the order that a maker comes to it."""

    FIT = "fit"
    LEATHER = "leather"
    MOULD = "moulding"
    LINING = "lining and padding"
    WELT = "welt"
    MOUTH = "mouth"
    INSIDE = "inside"
    SHAPE = "shape"
    SEWN_ON = "sewn on"
    SEAM = "seam"
    STITCH = "stitch"
    FASTENING = "set in the seam"
    BELT = "on the belt"
    HANG = "how it hangs"
    KEEPER = "keeper"
    FLAP = "flap"
    STRAP = "straps and handles"
    TOOLING = "on the leather"


class Along(Enum):
    """The lines of a drawing that a measure may be tied along, each from the mouth down."""

    SEAM = "stitch line"
    INNER = "inner edge of the welt"
    EDGE = "cut edge"
    FOLD = "fold"
    MIDDLE = "middle"
    MOUTH = "mouth"
    WELT = "welt"
    BLANK = "edge of the blank"
    LOOP_LEFT = "loop's left edge, upward"
    LOOP_RIGHT = "loop's right edge, upward"


class Kind(Enum):
    """What a measure holds, and so how it is read and written."""

    LENGTH = "length"
    PITCH = "length or stitches per inch"
    RATIO = "plain number or per cent"
    ANGLE = "degrees"
    COUNT = "whole number"
    MASS = "weight"
    DENSITY = "weight of a cubic centimetre"
    SIZES = "lengths parted by ;"
    WORD = "a name"
    CHOICE = "one of"


UNITS = {
    Kind.LENGTH: "mm", Kind.PITCH: "mm", Kind.ANGLE: "°", Kind.COUNT: "count", Kind.MASS: "g", Kind.DENSITY: "g/cm³",
}  # fmt: skip
PLAIN = {
    "%": Kind.RATIO, "°": Kind.ANGLE, "deg": Kind.ANGLE, "degrees": Kind.ANGLE, "g/cm³": Kind.DENSITY,
    "g/cm3": Kind.DENSITY,
}  # fmt: skip


def always(job: object, made: object) -> bool:
    return True


@dataclass(frozen=True, kw_only=True)
class Measure:
    """One measure.

    name: its key in a job. label: what is written on its tag. usual: its value where it is not pinned; None where the
    draft works it out, with a reason. low, high: limits. choices: the words it may be. stock: the kinds of
    fastening or trimming that it may be chosen from besides. first: among what a maker sets
    first. at: the line it is tied along, and how far down it as a share of its length. told: it only follows from
    others, and cannot be set. says: how its value is said, where not as its kind is. applies: whether it matters in a
    job and its draft, which consulted it.
    """

    name: str
    theme: Theme
    label: str
    meaning: str = ""
    kind: Kind = Kind.LENGTH
    usual: Value | None = None
    low: float = -math.inf
    high: float = math.inf
    choices: tuple[str, ...] = ()
    stock: tuple[str, ...] = ()
    first: bool = False
    at: tuple[Along, float] | None = None
    told: bool = False
    says: Callable[[float, System], str] | None = None
    applies: Callable[[Any, Any], bool] = always

    @property
    def unit(self) -> str:
        return UNITS.get(self.kind, "")

    def parse(self, text: str, system: System = System.MM, words: Sequence[str] | None = None) -> Value:
        """The value typed for this measure. Raises InputError naming it.

        words: all that it may be chosen from; where they are not known, any name may be of something in stock.
        """
        text = text.strip()
        if len(text) > TYPED:
            raise InputError(f"{quoted(text)} is too long", self.name, f"give {self.example}")
        if self.kind is Kind.CHOICE:
            if words is None and self.stock:
                return self._named(text.lower())
            words = self.choices if words is None else words
            if text.lower() not in words:
                raise InputError(f"{quoted(text)} is not a choice", self.name, f"give {' or '.join(words)}")
            return text.lower()
        if self.kind is Kind.WORD:
            return self.checked(text.lower())
        if self.kind is Kind.SIZES:
            sizes = [parse_length(part, system.bare, self.name) for part in text.split(";") if part.strip()]
            return self.checked(";".join(f"{size:g}" for size in sizes))
        if self.kind is Kind.LENGTH:
            value = parse_length(text, system.bare, self.name)
        elif self.kind is Kind.PITCH:
            value = parse_pitch(text, system.bare, self.name)
        elif self.kind is Kind.MASS:
            value = parse_mass(text, system.bare, self.name)
        else:
            value = self._plain(text)
        return self.checked(value)

    def _plain(self, text: str) -> float:
        number = re.fullmatch(r"([+-]?\d*\.?\d+)\s*(%|°|deg|degrees|g/cm³|g/cm3)?", text.replace(",", "."))
        if number is None or (number[2] and PLAIN[number[2]] is not self.kind):
            raise InputError(f"{quoted(text)} is not a {self.kind.value}", self.name, f"give {self.example}")
        return float(number[1]) / (100 if number[2] == "%" else 1)

    @property
    def example(self) -> str:
        return {Kind.COUNT: "a whole number such as 2", Kind.ANGLE: "degrees such as 35"}.get(
            self.kind, "a number such as 0.5 or 50%"
        )

    def checked(self, value: Value) -> Value:
        """The value itself when it is of the right kind and within limits; else InputError."""
        if self.kind is Kind.SIZES:
            return self._sizes(str(value))
        if self.kind is Kind.WORD:
            return self._named(value)
        if self.kind is Kind.CHOICE:
            return self.parse(value) if isinstance(value, str) else self.parse(str(value))
        if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
            raise InputError(f"{quoted(value)} is not a {self.kind.value}", self.name, "give a plain number")
        if not self.low <= value <= self.high:
            below = value < self.low
            side = f"below the least, {self.say(self.low)}" if below else f"above the most, {self.say(self.high)}"
            raise InputError(
                f"{self.say(value)} is {side}", self.name, "change it, or give auto for the computed value"
            )
        if self.kind is Kind.COUNT:
            if value != int(value):
                raise InputError(f"{value:g} is not a whole number", self.name, f"give {self.example}")
            return int(value)
        return float(value)

    def _named(self, value: Value) -> str:
        if not isinstance(value, str) or not 1 <= len(value) <= 40 or not value.isprintable():
            raise InputError(f"{quoted(value)} is no name", self.name, "give the name of one, or none")
        return value

    def _sizes(self, text: str) -> str:
        """A row of lengths, each within the limits."""
        try:
            found = [float(part) for part in text.split(";")]
        except ValueError:
            raise InputError(
                f"{quoted(text)} is no row of lengths", self.name, "part them by ;, such as 12; 9; 9"
            ) from None
        for size in found:
            if not self.low <= size <= self.high:
                raise InputError(
                    f"{size:g} mm in it is not between {self.low:g} and {self.high:g} mm", self.name, "change it"
                )
        return ";".join(f"{size:g}" for size in found)

    def say(self, value: Value, system: System = System.MM) -> str:
        """The value as it is typed and read, in plain units."""
        if self.kind is Kind.SIZES:
            said = [format_length(float(part), system) for part in str(value).split(";")]
            if system is System.MM:  # the unit once, since it is a row
                return "; ".join(one.removesuffix(" mm").removesuffix(".0") for one in said) + " mm"
            return "; ".join(said)
        if isinstance(value, str):
            return value
        if self.kind in (Kind.LENGTH, Kind.PITCH):
            return format_length(value, system)
        if self.kind is Kind.MASS:
            return format_mass(value, system)
        return f"{value:g}" + {Kind.ANGLE: "°", Kind.DENSITY: " g/cm³"}.get(self.kind, "")

    def said(self, value: Value, system: System = System.MM) -> str:
        """The value as it stands on a tag."""
        if self.says is not None and not isinstance(value, str):
            return self.says(float(value), system)
        return self.say(value, system)


Says = Callable[[float, System], str]
Applies = Callable[[Any, Any], bool]


def _number(
    kind: Kind, name: str, theme: Theme, label: str, meaning: str, low: float, high: float,
    usual: Value | None = None, first: bool = False, at: tuple[Along, float] | None = None, said: Says | None = None,
    applies: Applies = always,
) -> Measure:  # fmt: skip
    return Measure(
        name=name, theme=theme, label=label, meaning=meaning, kind=kind, usual=usual, low=low, high=high, first=first,
        at=at, says=said, applies=applies,
    )  # fmt: skip


length = partial(_number, Kind.LENGTH)
pitch = partial(_number, Kind.PITCH)
ratio = partial(_number, Kind.RATIO)
angle = partial(_number, Kind.ANGLE)
count = partial(_number, Kind.COUNT)
mass = partial(_number, Kind.MASS)
density = partial(_number, Kind.DENSITY)
sizes = partial(_number, Kind.SIZES)


def pick(
    name: str, theme: Theme, label: str, meaning: str, usual: str, choices: tuple[str, ...],
    stock: tuple[str, ...] = (), first: bool = False, at: tuple[Along, float] | None = None, applies: Applies = always,
) -> Measure:  # fmt: skip
    """A choice of one of a few words."""
    return Measure(
        name=name, theme=theme, label=label, meaning=meaning, kind=Kind.CHOICE, usual=usual, choices=choices,
        stock=stock,        first=first, at=at, applies=applies,
    )  # fmt: skip


def named(
    name: str, theme: Theme, label: str, meaning: str, usual: str, first: bool = False, applies: Applies = always
) -> Measure:
    """The name of something in the draft."""
    return Measure(
        name=name, theme=theme, label=label, meaning=meaning, kind=Kind.WORD, usual=usual, first=first, applies=applies
    )


def told(
    name: str, theme: Theme, label: str, first: bool = False, said: Says | None = None,
    at: tuple[Along, float] | None = None,
) -> Measure:  # fmt: skip
    """What only follows from other measures, a length where it is not said otherwise."""
    return Measure(name=name, theme=theme, label=label, told=True, first=first, says=said, at=at)


def metres(value: float, system: System) -> str:
    return f"{value / 1000:.2f} m"


def degrees(value: float, system: System) -> str:
    return f"{round(value, 1) + 0.0:.1f}°"


def torque(value: float, system: System) -> str:
    return f"{value:.0f} N·mm"


def whole(value: float, system: System) -> str:
    return f"{value:.0f}"


def minutes(value: float, system: System) -> str:
    return f"{value:.0f} min"


def finely(value: float, system: System) -> str:
    """As dividers are set, finer than a rule is read."""
    return f"{value:.2f} mm" if system is System.MM else format_length(value, system)


def percent(value: float, system: System) -> str:
    return f"{100 * value:.3g} %"


def weighed(value: float, system: System) -> str:
    """A thickness of leather, and its weight as it is sold by."""
    return f"{format_length(value, system)} · {format_weight(value)}"


def times(value: float, system: System) -> str:
    return f"{value:.3g} × thick"
