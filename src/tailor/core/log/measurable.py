"""What can be measured of a finished thing, what was drafted of it, and the constant that the difference speaks of.

Each follows from the leather alone, as far as that is known. A flat length is cut for where the neutral line lies: if
room is found that was not drafted, leather bends about another line; about which, two drafts tell, one by another
neutral line and one with other room: as much as the one is narrower the other is wider. What formed length came out
longer than was drafted says by how much more leather gave. A fold stands twice its radius and twice the leather high.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import Job, draft
from tailor.core.taken import DRYING

RULED = 100.0  # mm: a length that is marked on leather, or printed
MIDDLE = 0.2, 0.8  # of the height from the tip to the mouth, where a case is as wide as it is round the object
LESS, MORE = 0.05, 0.2  # share of the thickness, and mm of room, by which the two drafts are otherwise
NEUTRAL, ROOM = "leather.neutral", "fit.clearance"

SAID = {
    "gap": "room all round, by slips of card beside it",
    "fold": "height of the fold, outside",
    "wide": "inside width at the widest, from welt to welt",
    "wet": f"{RULED:.0f} mm marked on the blank, once formed",
    "dry": f"{RULED:.0f} mm marked when formed, once dry",
    "form": "form margin that was enough",
    "print": f"{RULED:.0f} mm of the printed rule",
    "thread": "thread used",
    "object": "the object at its widest, with the caliper",
    "thickness": "thickness of the leather",
    "welt": "thickness of one welt layer",
    "margin": "stitch line to the edge",
}


@dataclass(frozen=True)
class Measurable:
    """Something that can be measured. what: its key. drafted: mm, or metres of thread.

    constant: that it speaks of, if any; used: what that was drafted with, per: by how much it is otherwise for each
    unit that comes out more. noise: of measuring, in the measure's unit. method: by which it was made.
    """

    what: str
    drafted: float
    constant: str
    used: float
    per: float
    noise: float
    method: str = ""

    def __post_init__(self) -> None:
        numbers = (self.drafted, self.used, self.per, self.noise)
        if self.what not in SAID or not all(map(math.isfinite, numbers)) or not 0 < self.drafted < 1e5:
            raise InputError("it cannot be measured", self.what, f"give one of {', '.join(SAID)}")

    @property
    def said(self) -> str:
        return SAID[self.what]

    @property
    def unit(self) -> str:
        return "m" if self.what == "thread" else "mm"


@dataclass(frozen=True)
class CameOut:
    """What came out of something that was measured."""

    of: Measurable
    value: float

    def __post_init__(self) -> None:
        drafted, out = self.of.drafted, self.value
        low, high = (-5.0, drafted + 20) if self.of.what == "gap" else (drafted / 3, drafted * 3)
        if not (math.isfinite(out) and low <= out <= high):
            said = f"{out:g} where {drafted:.4g} was drafted is no slip of the hand"
            raise InputError(said, self.of.said, "look at the number and its unit")

    @property
    def constant(self) -> float:
        """What the constant is, by this alone."""
        return self.of.used + self.of.per * (self.value - self.of.drafted)

    @property
    def spread(self) -> float:
        """How far that may be off, as a standard deviation."""
        return abs(self.of.per) * self.of.noise


def measurable(job: Job, made: Draft, printer: float = 1.0) -> tuple[Measurable, ...]:
    """What can be measured of one made by a draft of a job. A folded case is drafted twice more.

    printer: what pages are corrected for by now: 1 where they are not.
    """
    settings, found = job.settings, list[Measurable]()
    thick, method = settings.number("leather.thickness"), settings.word("mould.method")
    room, neutral = settings.number(ROOM), settings.number(NEUTRAL)
    if made.shell is not None and made.folds and not made.wet and room > 0:  # others turn back as far as forth
        found.append(Measurable("gap", room, NEUTRAL, neutral, _per_gap(job, made), 0.12))
    if made.folds:
        radius = settings.number("leather.fold_radius")
        found.append(Measurable("fold", 2 * thick * (1 + radius), "leather.fold_radius", radius, 1 / (2 * thick), 0.3))
    if made.wet and made.inner is not None:
        stretch, wide = made.value("mould.stretch"), float(np.ptp(made.inner.points[:, 0]))
        if "mould.stretch" not in settings and (dries := settings.learned(DRYING)) is not None:
            stretch += dries.value  # which was taken off it
        found.append(Measurable("wide", wide, "mould.stretch", stretch, 1 / wide, 0.3, method))
        found.append(Measurable("wet", RULED, "mould.stretch", 0.0, 1 / RULED, 0.5, method))
        found.append(Measurable("dry", RULED, "mould.shrink", 0.0, -1 / RULED, 0.4, method))
    if "mould.margin" in made.reasons:
        margin = made.value("mould.margin")
        found.append(Measurable("form", margin, "mould.margin", margin, 1.0, 3.0, method))
    found.append(Measurable("print", RULED, "printer.scale", printer, printer / RULED, 0.1))
    if "seam.thread" in made.reasons and (metres := made.value("seam.thread") / 1000) > 0:
        stitch = settings.word("stitch.method")
        found.append(Measurable("thread", metres, "thread.used", 1.0, 1 / metres, 0.05 * metres, stitch))
    return tuple(found)


def besides(job: Job, made: Draft) -> tuple[Measurable, ...]:
    """What can be measured besides, that speaks of no constant but of what may have gone wrong."""
    widest = max((station.x_seam - station.x_spine for station in job.stations), default=0.0)
    there = [("object", widest, 0.1), ("thickness", job.settings.number("leather.thickness"), 0.08)]
    for what, name, noise in (("welt", "welt.thickness", 0.12), ("margin", "seam.margin", 0.3)):
        if name in made.reasons:
            there.append((what, made.value(name), noise))
    return tuple(Measurable(what, drafted, "", 0.0, 0.0, noise) for what, drafted, noise in there if drafted > 0)


def _per_gap(job: Job, made: Draft) -> float:
    """By how much the neutral line lies otherwise, as a share of the thickness, for each mm of room that is found."""
    settings = job.settings
    other = settings.number(NEUTRAL) - math.copysign(LESS, settings.number(NEUTRAL) - LESS)
    bent = _width(draft(_with(job, NEUTRAL, other))) - _width(made)
    wider = _width(draft(_with(job, ROOM, settings.number(ROOM) + MORE))) - _width(made)
    return -(wider / MORE) / (bent / (other - settings.number(NEUTRAL)))


def _with(job: Job, name: str, value: float) -> Job:
    return job.typed(name, f"{value:.6f}mm" if name == ROOM else f"{value:.6f}")


def _width(made: Draft) -> float:
    """How wide what goes round the object is when it lies flat, in the mean, mm."""
    low, high = (made.low + share * (made.top - made.low) for share in MIDDLE)
    across = shapely.box(-1e4, low, 1e4, high)
    round_it = [piece for piece in made.pieces if piece.name in made.seams[0].pieces and piece.leather == "body"]
    return sum(float(shapely.Polygon(piece.cut).intersection(across).area) for piece in round_it) / (high - low)
