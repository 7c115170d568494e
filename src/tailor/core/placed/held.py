"""Held: what a case is made for, put where it belongs, and what must meet when the case is shut."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

from tailor.core.carried.loft import Array, Loft


@dataclass(frozen=True)
class Thing:
    """Something that lies in a case: its middle in space and how far it goes across, up and out, mm.

    corner: radius of its edges that run upright. past: pieces that go between its parts, as a pocket goes between the
    board of a book and its leaves.
    """

    name: str
    middle: tuple[float, float, float]
    size: tuple[float, float, float]
    corner: float = 0.0
    past: tuple[str, ...] = ()

    @property
    def narrow(self) -> float:
        """How wide it is where it is narrowest, seen on its broad side, mm."""
        return sorted(self.size)[1]


@dataclass(frozen=True)
class Room:
    """The room a case is made to have: its middle in space, and how far it goes across, up and out, mm.

    past: pieces that part it or lie in it.
    """

    name: str
    middle: tuple[float, float, float]
    size: tuple[float, float, float]
    past: tuple[str, ...] = ()


class Known(Protocol):
    """What tells where leather lies without laying a piece."""

    def places(self) -> Array: ...


@dataclass(frozen=True)
class Carried:
    """The measured object where it lies in its case.

    within: the heights between which leather is looked at. leather: the pieces that are formed over it, with what tells
    places of theirs, and how far in from those their flesh side lies; where none is, all are looked at where they lie.
    at: where its own origin is. mm.
    """

    name: str
    loft: Loft
    within: tuple[float, float]
    leather: tuple[tuple[str, Known, float], ...] = ()
    at: tuple[float, float, float] = (0.0, 0.0, 0.0)

    @property
    def narrow(self) -> float:
        """How wide it is where it is narrowest, seen on its broad side, mm."""
        return min(max(each.width, each.front + each.back) for each in self.loft.stations)

    @property
    def heights(self) -> Array:
        """Along the draw, in order, where it may stand out the most, (n,), mm: between them it does not."""
        return self.loft.at_stations() + self.at[1]


@dataclass(frozen=True)
class Spot:
    """A hole of a seam on a piece: the seam, the edge it is on, and its number along that edge."""

    piece: str
    seam: str
    edge: str
    place: int


@dataclass(frozen=True)
class Round:
    """Leather that goes round a thing from one row of stitches to another, on two sheets sewn to each other there.

    thing: across and through, mm; round where it is a bar. sides: for each sheet the two holes it goes between. flat:
    the second sheet stays flat, and the thing lies on it.
    """

    name: str
    thing: tuple[float, float]
    sides: tuple[tuple[Spot, Spot], tuple[Spot, Spot]]
    round: bool = False
    flat: bool = False


@dataclass(frozen=True)
class Shut:
    """Two fittings that meet when the case is shut, by their places in words."""

    name: str
    one: str
    other: str
