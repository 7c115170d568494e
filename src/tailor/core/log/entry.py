"""Entries: how one thing came out, as its maker wrote it down, and the cases that follow from it."""

from __future__ import annotations

import statistics
from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date
from enum import StrEnum

from tailor.core import incoming
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.log.case import Case, Fit, Said, When
from tailor.core.log.constants import CLEARANCE, CONSTANTS
from tailor.core.log.measurable import CameOut

NOTE = 2000  # letters of what is to be done next time
FITS = tuple(Fit)
# Constructions that give room to what they hold; of others a fit says nothing of how much is wished for.
ROOMY = ("folded-sheath", "two-panel", "flat-back", "holster", "mask", "slip-case", "gusseted-box", "round-case")
OF_LEATHER = ("leather.", "mould.")  # constants that differ by it


class Place(StrEnum):
    """Where a fit is felt, from the mouth down."""

    MOUTH = "mouth"
    THROAT = "throat"
    BELLY = "belly"
    TIP = "tip"
    LOOP = "loop"  # on the belt


HEIGHTS = {Place.MOUTH: 1.0, Place.THROAT: 0.82, Place.BELLY: 0.5, Place.TIP: 0.08}  # shares, from the tip to the mouth


class Look(StrEnum):
    """What people look at when they judge one."""

    EDGE = "edge"
    LEVEL = "stitch level on both faces"
    FLOW = "flow"
    SYMMETRY = "symmetry"
    PLEATS = "pleats"
    GLUE = "glue"


class Mark(StrEnum):
    """How it looks."""

    GOOD = "good"
    FAIR = "fair"
    POOR = "poor"


class Feels(StrEnum):
    """How it holds."""

    HOLDS = "holds upside down"
    DRAWS = "draws with one hand"
    RATTLES = "rattles"


@dataclass(frozen=True)
class FitAt:
    """How it fits at a place, and when that was felt."""

    place: Place
    fit: Fit
    when: When = When.NEW


@dataclass(frozen=True)
class Looks:
    """How one thing looks, and a word about it."""

    look: Look
    mark: Mark
    word: str = ""


@dataclass(frozen=True)
class Took:
    """Work of one kind: its rate, what the tables would have it take, and what it took, minutes."""

    rate: str
    usual: float
    minutes: float


@dataclass(frozen=True)
class Picture:
    """A picture that was copied in: its file's name, and the day it was taken."""

    name: str
    taken_on: date


@dataclass(frozen=True)
class Traced:
    """The outline of a piece as it was made, laid on it as it was drafted: points, mm. over: it lay face down."""

    piece: str
    ring: tuple[tuple[float, float], ...]
    over: bool = False


@dataclass(frozen=True)
class Entry:
    """One thing that was made. job: as it was made, whole. leather: as the shop calls it, tannage: and its kind; hide:
    that it was cut from. line: the order, the line and which of it; empty for what was never ordered.
    """

    id: str
    made_on: date
    job: Job
    leather: str = ""
    tannage: str = ""
    hide: str = ""
    line: str = ""
    fits: tuple[FitAt, ...] = ()
    feels: tuple[Feels, ...] = ()
    measured: tuple[CameOut, ...] = ()
    looks: tuple[Looks, ...] = ()
    took: tuple[Took, ...] = ()
    next_time: str = ""
    pictures: tuple[Picture, ...] = ()
    traced: tuple[Traced, ...] = ()

    def __post_init__(self) -> None:
        for named in (self.leather, self.hide):
            if named:
                incoming.named(named, f"log of {self.job.name}")
        if len(self.next_time) > NOTE:
            raise InputError(f"it has {len(self.next_time)} letters", f"log of {self.job.name}", f"give {NOTE} at most")

    @property
    def fit(self) -> Fit | None:
        """How it fits all in all, as it was felt last."""
        return next((felt for when in reversed(When) if (felt := self.felt_at(when)) is not None), None)

    def felt_at(self, when: When) -> Fit | None:
        """How it fits all in all at one time: what is said at its places, in the middle, the tighter of two."""
        at = [FITS.index(each.fit) for each in self.fits if each.when is when and each.place is not Place.LOOP]
        return FITS[statistics.median_low(at)] if at else None

    @property
    def minutes(self) -> float:
        """Of hands, for all of it that is known."""
        return sum(took.minutes for took in self.took)

    # What a hand writes down

    def felt(self, place: Place, fit: Fit | None, when: When = When.NEW) -> Entry:
        """With how it fits at a place at a time; with None nothing is said of it."""
        others = tuple(each for each in self.fits if (each.place, each.when) != (place, when))
        mine = () if fit is None else (FitAt(place, fit, when),)
        order = list(Place)
        return replace(self, fits=tuple(sorted((*others, *mine), key=lambda each: order.index(each.place))))

    def came_out(self, measured: CameOut) -> Entry:
        others = tuple(each for each in self.measured if each.of.what != measured.of.what)
        return replace(self, measured=(*others, measured))

    def unmeasured(self, what: str) -> Entry:
        return replace(self, measured=tuple(each for each in self.measured if each.of.what != what))

    def with_traced(self, traced: Traced) -> Entry:
        """With a piece as it was made, in place of what was traced of it before."""
        return replace(self, traced=(*(each for each in self.traced if each.piece != traced.piece), traced))

    def looked(self, look: Look, mark: Mark | None, word: str = "") -> Entry:
        others = tuple(each for each in self.looks if each.look is not look)
        return replace(self, looks=others if mark is None else (*others, Looks(look, mark, word)))

    def feeling(self, feels: Feels, is_: bool) -> Entry:
        others = tuple(each for each in self.feels if each is not feels)
        return replace(self, feels=(*others, feels) if is_ else others)


def cases(entries: Iterable[Entry]) -> tuple[tuple[Case, ...], tuple[Said, ...]]:
    """What entries say of constants, and of fits."""
    readings, said = list[Case](), list[Said]()
    for entry in entries:
        settings, piece = entry.job.settings, entry.id
        for measured in (each for each in entry.measured if each.of.constant):
            of, value = CONSTANTS[measured.of.constant], measured.constant
            if of.low <= value <= of.high:
                leather = (entry.leather, entry.tannage) if of.name.startswith(OF_LEATHER) else ("", "")
                readings.append(
                    Case(of.name, value, measured.spread, entry.made_on, *leather, measured.of.method, piece)
                )
        for took in entry.took:
            of = CONSTANTS[took.rate]
            value = of.usual("") * took.minutes / took.usual
            readings.append(Case(of.name, value, of.noise / of.usual("") * value, entry.made_on, piece=piece))
        said += [] if entry.job.style not in ROOMY else [
            Said(entry.job.style, settings.number(CLEARANCE), felt, when, entry.made_on)
            for when in When if (felt := entry.felt_at(when)) is not None
        ]  # fmt: skip
    return tuple(readings), tuple(said)
