"""Asked: what a maker wants on the leather, as it stands in a job: a field that is tooled, or a picture in one.

Each is one of a row, and what can be set of it has a name: `tooling.2.width` is the width of the second. Source: craft,
"Tooling, lettering, marks".
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property
from types import MappingProxyType
from typing import ClassVar

import numpy as np

from tailor.core import incoming, measure
from tailor.core.carried.loft import Array
from tailor.core.errors import InputError
from tailor.core.measure import AUTO, Kind, Measure, Theme, Value
from tailor.core.units import System

MOST = 40  # things on one job
MOST_LINES, MOST_POINTS = 4000, 40_000  # of one picture
WIDEST = 1000.0  # mm
NUMBERED = re.compile(r"tooling\.(\d{1,3})\.([a-z_]+)")
LARGEST = "largest"
DEPTH, HALF = 0.6, 0.5  # mm that a cut or a stamp goes in, as most are; and never past this share of the leather


class Filling(StrEnum):
    """What a field is filled with."""

    PLAIN = "plain"  # left as it is
    WEAVE = "weave"  # one woven stamp, row by row along a diagonal
    SEED = "seed"  # small round stamps, close
    RANDOM = "random"  # struck as it falls, turned each time

    @classmethod
    def of(cls, text: str) -> Filling:
        """What a word says. Raises InputError."""
        if text not in tuple(cls):
            raise InputError(f"{incoming.quoted(text)} fills nothing", "filling", f"give {' or '.join(cls)}")
        return cls(text)


class Reads(StrEnum):
    """How it is looked at when it stands the right way up."""

    WORN = "worn"  # by who stands before it, as it is worn or stands
    OPENED = "opened"  # as its piece lies open and flat
    HELD = "held"  # by who wears or holds it, and looks down on it


@dataclass(frozen=True)
class Line:
    """A line of a picture, its points in mm, x right and y up; closed where its last joins its first."""

    points: tuple[tuple[float, float], ...]
    closed: bool = False

    @cached_property
    def array(self) -> Array:
        """(n, 2), the first repeated at the end of a closed one."""
        points = np.array(self.points, dtype=float)
        return np.vstack([points, points[:1]]) if self.closed else points


def _mm(name: str, label: str, meaning: str, low: float, high: float, usual: float) -> Measure:
    return measure.length(name, Theme.TOOLING, label, meaning, low, high, usual=usual)


PLACED = (
    measure.named("piece", Theme.TOOLING, "on", "the piece it is on", "body"),
    measure.named("side", Theme.TOOLING, "side", "which of its fields, by where it looks, such as front; or largest",
        LARGEST),
    _mm("depth", "deep", "how deep it goes; auto for as deep as most, and never past the half of the leather", 0.1, 4.0,
        DEPTH),
)  # fmt: skip
OF_FIELDS = (
    measure.count("lines", Theme.TOOLING, "border lines", "lines of its border; 0 for none", 0, 2, usual=1),
    _mm("apart", "lines apart", "between two lines of a border, and from it to what it holds", 0.8, 12.0, 2.5),
    measure.pick("filling", Theme.TOOLING, "filled with", "what the field is filled with", "plain", tuple(Filling)),
    _mm("along", "stamp's length", "length of the woven stamp", 2.0, 30.0, 9.0),
    _mm("across", "stamp's width", "width of the woven stamp", 2.0, 30.0, 6.0),
    measure.angle("lean", Theme.TOOLING, "guide leans", "of the diagonal guide from level", -90.0, 90.0, usual=45.0),
)  # fmt: skip
OF_PICTURES = (
    _mm("width", "wide", "width of the picture; auto for as wide as there is room", 3.0, WIDEST, 40.0),
    _mm("x", "to the right", "from the middle of its field; auto for where it has most room", -WIDEST, WIDEST, 0.0),
    _mm("y", "up", "from the middle of its field; auto for where it has most room", -WIDEST, WIDEST, 0.0),
    measure.angle("turn", Theme.TOOLING, "turned", "to the left", -180.0, 180.0, usual=0.0),
    measure.pick("mirrored", Theme.TOOLING, "mirrored", "whether it is mirrored", "no", ("no", "yes")),
    measure.pick("patch", Theme.TOOLING, "on a patch", "whether it is on a piece of its own, riveted on", "no",
        ("no", "yes")),
    measure.pick("reads", Theme.TOOLING, "upright as", "how it is looked at when it stands upright", "worn",
        tuple(Reads)),
)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Asked:
    """Something asked for. piece: by its name; side: which of its fields, LARGEST for that. depth: mm;
    None for as deep as most."""

    piece: str
    side: str = LARGEST
    depth: float | None = None

    SAID: ClassVar[tuple[Measure, ...]] = PLACED

    def __post_init__(self) -> None:
        for said in self.SAID:
            if (value := self.value(said.name)) is not None:
                said.checked(value)

    @property
    def title(self) -> str:
        return f"field on the {self.where}"

    @property
    def where(self) -> str:
        """The piece and its side, in words."""
        return self.piece if self.side in (LARGEST, self.piece) else f"{self.piece}, {self.side}"

    def deep(self, thick: float) -> float:
        """How deep it goes into leather of a thickness, mm."""
        return min(DEPTH, HALF * thick) if self.depth is None else self.depth

    def value(self, name: str) -> Value | None:
        """What is set of it by a name; None where it finds its own."""
        found: Value | None = getattr(self, name)
        return found

    def taking(self, name: str, value: Value | None) -> Asked:
        """With a value set, or None for its own."""
        usual = None if name == "depth" else next(said.usual for said in self.SAID if said.name == name)
        return replace(self, **{name: usual if value is None else value})  # type: ignore[arg-type]


@dataclass(frozen=True, kw_only=True)
class Tooling(Asked):
    """A field that is tooled. lines: of its border, so far apart. filling: within it; along, across: of a woven stamp,
    and how its guide leans, degrees from level. mm.
    """

    lines: int = 1
    apart: float = 2.5
    filling: str = Filling.PLAIN.value
    along: float = 9.0
    across: float = 6.0
    lean: float = 45.0

    SAID: ClassVar[tuple[Measure, ...]] = (*PLACED, *OF_FIELDS)


@dataclass(frozen=True, kw_only=True)
class Picture(Asked):
    """A picture, lettering or a mark.

    name: what it is, or the words that it says. drawn: its lines about their own middle, mm. face: that it is lettered
    in; empty for a picture. width: None for as wide as there is room. at: from the middle of its field, right and up as
    it reads, mm; None for where it has most room. turn: to the left, degrees. mark: the maker's own.
    patch: it is on a piece of its own, riveted on.
    """

    name: str
    drawn: tuple[Line, ...]
    face: str = ""
    width: float | None = None
    at: tuple[float, float] | None = None
    turn: float = 0.0
    mirrored: bool = False
    reads: str = Reads.WORN.value
    mark: bool = False
    patch: bool = False

    SAID: ClassVar[tuple[Measure, ...]] = (*PLACED, *OF_PICTURES)

    def __post_init__(self) -> None:
        super().__post_init__()
        incoming.named(self.name, "name of a picture")
        points = sum(len(line.points) for line in self.drawn)
        if not self.drawn or len(self.drawn) > MOST_LINES or points > MOST_POINTS:
            raise InputError(
                f"it has {len(self.drawn)} lines of {points} points", f"picture {self.name}",
                f"give 1 to {MOST_LINES} lines of at most {MOST_POINTS} points",
            )  # fmt: skip
        if min(self.size) < 0 or max(self.size) <= 0 or max(self.size) > 100 * WIDEST:
            raise InputError("it has no size", f"picture {self.name}", "draw it larger")

    @property
    def title(self) -> str:
        kind = "mark" if self.mark else "lettering" if self.face else "picture"
        return f"{kind} {self.name}"

    @cached_property
    def corners(self) -> Array:
        """The lower left and the upper right of its lines, (2, 2), mm."""
        every = np.vstack([line.array for line in self.drawn])
        return np.array([every.min(axis=0), every.max(axis=0)])

    @property
    def size(self) -> tuple[float, float]:
        """Its width and height as drawn, mm."""
        wide, high = (self.corners[1] - self.corners[0]).tolist()
        return wide, high

    @cached_property
    def lines(self) -> tuple[Array, ...]:
        """Its lines about the middle of all of them, mirrored where it is, (n, 2) each, mm."""
        middle, way = self.corners.mean(axis=0), np.array([-1.0 if self.mirrored else 1.0, 1.0])
        return tuple((line.array - middle) * way for line in self.drawn)

    def value(self, name: str) -> Value | None:
        if name in ("x", "y"):
            return None if self.at is None else self.at["xy".index(name)]
        if name in ("mirrored", "patch"):
            return "yes" if getattr(self, name) else "no"
        return super().value(name)

    def taking(self, name: str, value: Value | None) -> Picture:
        if name == "width":
            return replace(self, width=None if value is None else float(value))
        if name in ("x", "y"):
            x, y = self.at or (0.0, 0.0)
            moved = (value, y) if name == "x" else (x, value)
            return replace(self, at=None if value is None else (float(str(moved[0])), float(str(moved[1]))))
        if name in ("mirrored", "patch"):
            return replace(self, **{name: value == "yes"})  # type: ignore[arg-type]
        return super().taking(name, value)  # type: ignore[return-value]


def said_of(asked: Asked) -> Mapping[str, Measure]:
    """What can be set of something asked for, by name."""
    return MappingProxyType({said.name: said for said in asked.SAID})


def measures(every: Sequence[Asked], number: int, pieces: Sequence[str], sides: Sequence[str]) -> tuple[Measure, ...]:
    """What can be set of one of all that is asked for, each by its whole name, with the pieces and sides there are."""
    words = {"piece": tuple(pieces), "side": (LARGEST, *sides)}
    found = []
    for said in every[number - 1].SAID:
        named = replace(said, name=f"tooling.{number}.{said.name}", first=True)
        chosen = words.get(said.name)
        found.append(replace(named, kind=Kind.CHOICE, choices=chosen) if chosen else named)
    return tuple(found)


def checked(every: Iterable[Asked]) -> tuple[Asked, ...]:
    """What is asked for, no more of it than there is room for. Raises InputError."""
    found = tuple(every)
    if len(found) > MOST:
        raise InputError(f"{len(found)} things are on it", "tooling", f"give at most {MOST}")
    return found


def typed(every: tuple[Asked, ...], key: str, text: str, units: System) -> tuple[Asked, ...]:
    """All that is asked for, with what was typed for one value of one of them: `tooling.2.width`, or `auto`.

    Raises InputError naming the key.
    """
    parts = NUMBERED.fullmatch(key)
    number = int(parts[1]) if parts else 0
    if parts is None or not 1 <= number <= len(every):
        there = f"tooling.1 to tooling.{len(every)}" if every else "something to tool first"
        raise InputError("nothing like it is on the leather", incoming.quoted(key), f"give {there}")
    asked = every[number - 1]
    said = said_of(asked).get(parts[2])
    if said is None:
        raise InputError("it has no such value", incoming.quoted(key), f"give one of {', '.join(said_of(asked))}")
    try:
        value = None if text.strip().lower() == AUTO else said.parse(text, units)
        changed = asked.taking(said.name, value)
    except InputError as error:
        raise InputError(error.what, key, error.remedy) from None
    return (*every[: number - 1], changed, *every[number:])
