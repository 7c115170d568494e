"""Effects: what each thing that may go wrong with one job does to how it fits, and to what can be measured of it.

A flat width was cut. Drafted with a little more of something it would have been so much wider, and with a little more
room so much wider too: where there is more of it than was drafted, room is lost in that proportion, place by place.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
import shapely

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Role
from tailor.core.errors import InputError
from tailor.core.job import Job, draft
from tailor.core.keys import KEYS
from tailor.core.log.case import When
from tailor.core.log.causes import Cause, Found, Heard, Read, Suspect, find
from tailor.core.log.entry import HEIGHTS, Entry, Place
from tailor.core.log.measurable import Measurable
from tailor.core.taken import Taken

Tell = Callable[[str, float], None]
STRIP = 0.03  # of the height, that a place is wide
LEAST = 0.4  # of the most, that a place answers to room by
FLAT = 0.5  # mm of width for each mm of room, below which a case is not wrapped round anything
SAID = {
    "neutral": "the leather bends about another line", "fold": "the fold lies otherwise",
    "stretch": "wet leather gave otherwise", "shrink": "it drew in otherwise on drying",
    "object": "the object is not as it was measured", "wish": "another fit is wished for",
    "thickness": "the leather is not as thick as was drafted", "welt": "the welt is not as thick as was drafted",
    "stitch": "the stitch line ran otherwise", "print": "it was printed at another scale",
    "give": "it gave in use otherwise", "loop": "the loop was reckoned otherwise",
}  # fmt: skip
AMOUNT = {
    "neutral": "{:+.2f} of the thickness", "fold": "{:+.2f} thicknesses", "stretch": "{:+.1%}", "shrink": "{:+.1%}",
    "object": "{:+.1f} mm", "wish": "{:+.1f} mm of room", "thickness": "{:+.1f} mm", "welt": "{:+.1f} mm a layer",
    "stitch": "{:+.1f} mm outward", "print": "{:+.1%}", "give": "{:+.1f} mm in a month", "loop": "{:+.0f} mm",
}  # fmt: skip
REMEDY = {"neutral": "leather.neutral", "fold": "leather.fold_radius", "stretch": "mould.stretch",
          "shrink": "mould.stretch", "wish": "fit.clearance", "give": "fit.clearance", "thickness": "leather.thickness",
          "welt": "welt.thickness", "loop": "loop.play"}  # fmt: skip
UNSEEN = ("wish", "give")  # what no measure of a new case shows
CLOSEST = 0.1  # mm of room that is always left
LESS = ("shrink", "give")  # what is put right by less of the setting
DOES = {
    "object": "Measure it again, at the place that is off.",
    "stitch": "Set the dividers from a true edge, and look at both faces.",
    "print": "Measure the printed rule, and tell the printer (Ctrl+Shift+P).",
}


@dataclass(frozen=True)
class Remedy:
    """What would put a cause right: a setting of the job and its value, or something to be done."""

    key: str = ""
    value: float = 0.0
    does: str = ""


def causes(job: Job, made: Draft, there: Sequence[Measurable], tell: Tell) -> tuple[Cause, ...]:
    """What may have gone wrong with one made by a draft of a job. Drafts it some times more.

    there: what can be measured of it. Raises InputError for a construction that is not wrapped round what it holds.
    """
    settings = job.settings
    wide = _widths(made)
    roomy = _per(job, made, "fit.clearance", 0.2, wide)
    if made.shell is None or roomy is None or float(np.abs(roomy).max()) < FLAT:
        raise InputError("it is not wrapped round what it holds", job.name, "look at its measures, one by one")
    per = np.maximum(np.abs(roomy), LEAST * float(np.abs(roomy).max()))
    thick, sides = settings.number("leather.thickness"), 1 if made.folds else 2
    formed = {each.what: each.drafted for each in there}
    found = list[Cause]()

    def add(name: str, usual: float, room: Array | None, loop: float = 0.0, later: float = 0.0, **tells: float) -> None:
        if room is None or not (np.abs(room).max() > 1e-3 or loop or later):
            return
        at = {str(place): float(r) for place, r in zip(HEIGHTS, room, strict=True)}
        months = {_later(place): float(r) + later for place, r in zip(HEIGHTS, room, strict=True)}
        if "gap" in formed and name not in UNSEEN:
            tells["gap"] = float(room[2])
        tells = {measure: by for measure, by in tells.items() if by}
        found.append(Cause(name, usual, {**at, **months, str(Place.LOOP): loop}, tells))

    def lost(key: str, by: float) -> Array | None:
        more = _per(job, made, key, by, wide)
        return None if more is None else -more / per

    tell("what each would do", 0.2)
    if not made.wet:
        add("neutral", 0.06, lost("leather.neutral", -0.05), loop=-np.pi * thick)
    if made.folds:
        add("fold", 0.15, lost("leather.fold_radius", 0.2), fold=2 * thick)
    if made.wet:
        add("stretch", 0.008, wide / per, wet=100.0, wide=formed.get("wide", 0.0))
        add("shrink", 0.008, -wide / per, dry=-100.0, wide=-formed.get("wide", 0.0))
    tell("what each would do", 0.5)
    add("object", 0.5, _larger(job, made, wide, per), object=1.0)
    add("wish", 0.4, np.full(len(per), -1.0))
    add("thickness", 0.25, lost("leather.thickness", 0.3), loop=-np.pi / 2, thickness=1.0,
        **({"fold": 2 * (1 + settings.number("leather.fold_radius"))} if made.folds else {}))  # fmt: skip
    tell("what each would do", 0.8)
    if "welt.thickness" in made.reasons:
        add("welt", 0.4, lost("welt.thickness", 0.3), welt=1.0)
    add("stitch", 0.7, 2 * sides / per, margin=-1.0)
    add("print", 0.01, wide / per, print=100.0, wide=formed.get("wide", 0.0))
    add("give", 0.4, np.zeros(len(per)), later=1.0)
    if made.rides:
        add("loop", 2.0, np.zeros(len(per)), loop=1.0)
    return tuple(found)


def wrong(entry: Entry, those: Sequence[Cause], there: Sequence[Measurable]) -> Found:
    """What may be behind how a case came out, by what its entry tells. there: what could be measured."""
    heard = [Heard(_later(each.place) if each.when is When.MONTH else str(each.place), each.fit)
             for each in entry.fits if each.when is not When.WEEK]  # fmt: skip
    read = [Read(each.of.what, each.value - each.of.drafted, each.of.noise) for each in entry.measured]
    known = {each.measure for each in read}
    can = {each.what: each.noise for each in there if each.what not in known}
    able = {what: noise for what, noise in can.items() if any(what in cause.tells for cause in those)}
    return find(those, heard, read, able)


def said(suspect: Suspect) -> str:
    """A suspect in words, with how much it would be."""
    name = SAID[suspect.name]
    return f"{name[0].upper()}{name[1:]}, about {AMOUNT[suspect.name].format(suspect.amount)}"


def remedy(job: Job, made: Draft, suspect: Suspect) -> Remedy:
    """What would put a suspect right in the next draft."""
    if (key := REMEDY.get(suspect.name)) is None:
        return Remedy(does=DOES[suspect.name])
    now = job.settings.number(key) if key not in made.reasons else made.value(key)
    by = -suspect.amount if suspect.name in LESS else suspect.amount
    by = max(by, CLOSEST - now) if key == "fit.clearance" else by
    return Remedy(key, round(min(max(now + by, KEYS[key].low), KEYS[key].high), 3))


class Scope(StrEnum):
    """Of what a remedy becomes the correction."""

    JOB = "this job"
    ALIKE = "all like it of this leather"  # the construction, with this leather
    MAKER = "everything of mine"


def taken(job: Job, what: Remedy) -> Job:
    """The job with a remedy."""
    return replace(job, settings=job.settings.pin(what.key, what.value))


def corrected(job: Job, made: Draft, what: Remedy, scope: Scope, leather: str) -> Taken:
    """What new jobs go by, where a remedy is to be more than one job's: those of its construction and leather, or all.

    leather: as the shop calls it.
    """
    settings = job.settings
    now = made.value(what.key) if what.key in made.reasons else settings.number(what.key)
    one = Taken(what.key, what.value, 0.0, 1, round(now, 4))
    if scope is Scope.MAKER:
        return one
    thick, temper = settings.number("leather.thickness"), settings.word("leather.temper")
    return replace(one, leather=leather, thickness=thick, temper=temper, thing=job.style)


def _later(place: Place) -> str:
    return f"{place}, a month"


def _per(job: Job, made: Draft, key: str, by: float, wide: Array) -> Array | None:
    """(places,) how much wider the flat leather would be for each unit more of a setting; None where it has none."""
    if key not in made.consulted and key not in made.reasons:
        return None
    now = made.value(key) if key in made.reasons else job.settings.number(key)
    try:
        other = draft(replace(job, settings=job.settings.pin(key, now + by)))
    except InputError:  # it cannot be so much more
        return None
    return (_widths(other) - wide) / by


def _larger(job: Job, made: Draft, wide: Array, per: Array) -> Array | None:
    """(places,) room that is lost for each mm that an object is larger than it was measured, across and through."""
    more = tuple(
        replace(s, x_spine=s.x_spine - 0.25, x_seam=s.x_seam + 0.25, front=s.front + 0.25, back=s.back + 0.25)
        for s in job.stations
    )
    try:
        return -(_widths(draft(replace(job, stations=more))) - wide) / 0.5 / per
    except InputError:
        return None


def _widths(made: Draft) -> Array:
    """(places,) how wide what goes round the object is at each place when it lies flat, mm."""
    total = np.zeros(len(HEIGHTS))
    body = [piece for piece in made.pieces if piece.leather == "body" and piece.role is not Role.TEMPLATE]
    sewn = [piece for piece in body if made.seams and piece.name in made.seams[0].pieces]
    for piece in sewn or [piece for piece in body if piece.name.startswith(("front", "back"))]:
        low, high = float(piece.cut[:, 1].min()), float(piece.cut[:, 1].max())
        if made.shell is not None and not made.wet:
            low, high = made.low, made.top
        whole = shapely.Polygon(piece.cut)
        for n, share in enumerate(HEIGHTS.values()):
            y, half = low + (0.94 * share + 0.03) * (high - low), STRIP * (high - low)
            total[n] += whole.intersection(shapely.box(-1e4, y - half, 1e4, y + half)).area / (2 * half)
    return total
