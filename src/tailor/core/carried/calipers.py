"""Calipers by wire: what a press says, where it lands, and what repeated readings tell.

A digital caliper sends one line a press, such as `+28.04 mm`. Places are measured in order, each as often as
asked; nothing that comes in is dropped without being told.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from tailor.core.carried.capture import USUAL, Capture, Way
from tailor.core.carried.stations import Shape, Station, Table, neat
from tailor.core.errors import InputError
from tailor.core.units import INCH

JAWS = 0.05  # mm: how true a caliper is itself
APART = 0.3  # mm by which readings at one place may differ without a word
TWICE = 0.8  # s: a press so soon after the last, saying the same, was the same press
SAME = 0.03  # mm
STRANGE = 0.35  # share by which a reading may differ from what was there before without a word
WHERE = "caliper"


class Across(StrEnum):
    WIDTH = "width"
    THICKNESS = "thickness"


@dataclass(frozen=True)
class Place:
    """Where the jaws go: a station, and what they span there. expected: mm, as it was measured before."""

    y: float
    across: Across
    expected: float


@dataclass(frozen=True)
class Taken:
    """What was read at one place, mm, in the order it came."""

    readings: tuple[float, ...] = ()

    @property
    def outliers(self) -> tuple[int, ...]:
        """Which readings lie apart from the rest; of three or more, none of two."""
        if len(self.readings) < 3:
            return ()
        off = np.abs(np.array(self.readings) - np.median(self.readings))
        return tuple(int(k) for k in np.flatnonzero(off > max(APART, 4 * 1.48 * float(np.median(off)))))

    @property
    def good(self) -> tuple[float, ...]:
        return tuple(v for k, v in enumerate(self.readings) if k not in self.outliers)

    @property
    def mean(self) -> float:
        return float(np.mean(self.good))

    @property
    def spread(self) -> float:
        """Between the least and the greatest reading that agree, mm."""
        return float(np.ptp(self.good)) if self.good else 0.0

    @property
    def settled(self) -> bool:
        """Whether the readings agree."""
        return bool(self.good) and self.spread <= APART


@dataclass(frozen=True)
class Session:
    """A guided capture. times: how often each place is read. at: the place the jaws should go to next."""

    places: tuple[Place, ...]
    taken: tuple[Taken, ...]
    times: int = 1
    at: int = 0
    last: tuple[float, float] | None = None  # when, and what

    @property
    def done(self) -> bool:
        return self.at >= len(self.places)

    @property
    def count(self) -> int:
        """How many places have a reading."""
        return sum(bool(t.readings) for t in self.taken)


def begin(stations: Sequence[Station], times: int = 1) -> Session:
    """A capture of every station's width and thickness, from the tip up."""
    places = tuple(
        Place(s.y, across, s.width if across is Across.WIDTH else s.thickness) for s in stations for across in Across
    )
    return Session(places, tuple(Taken() for _ in places), times)


def parse_line(line: str) -> float:
    """The reading in a line, mm. Raises InputError for one that holds no length."""
    found = re.fullmatch(
        r"(?:[0-9A-Z]{3}(?=[+-]))?([+-]?\s*\d+(?:[.,]\d+)?)\s*(mm|in|\"|cm)?", line.strip(), re.IGNORECASE
    )
    if found is None:
        raise InputError(
            f"'{line.strip()[:40]}' is not a reading", WHERE, "check its port and that it sends plain numbers"
        )
    value = float(found[1].replace(" ", "").replace(",", "."))
    unit = (found[2] or "mm").lower()
    value *= {"mm": 1.0, "cm": 10.0}.get(unit, INCH)
    if value <= 0:
        raise InputError(f"it says {value:g} mm", WHERE, "close the jaws, set it to zero, and measure again")
    return value


def pressed(session: Session, value: float, when: float) -> tuple[Session, str]:
    """The session with a reading, mm, that came at a time, s; and what is to be said of it, if anything.

    Raises InputError when every place has been measured.
    """
    doubled = session.last is not None and when - session.last[0] < TWICE and abs(value - session.last[1]) <= SAME
    moved_on = session.at > 0 and (session.done or not session.taken[session.at].readings)
    if doubled and moved_on:
        back = session.at - 1
        said = f"pressed twice: {value:.2f} is kept as a second reading of {_named(session.places[back])}"
        return replace(_with(session, back, value), last=(when, value)), said
    if session.done:
        raise InputError(f"{value:.2f} mm came in after the last place", WHERE, "take the readings, or choose a place")
    place = session.places[session.at]
    now = _with(session, session.at, value)
    taken = now.taken[session.at]
    said = ""
    if taken.outliers and taken.outliers[-1] == len(taken.readings) - 1:
        said = f"{value:.2f} lies apart from the rest of {_named(place)}; it is left out of the mean"
    elif not taken.settled:
        said = f"the readings of {_named(place)} differ by {taken.spread:.2f} mm: measure it again"
    elif abs(value - place.expected) > max(STRANGE * place.expected, 1.0):
        said = (
            f"{value:.2f} is far from the {place.expected:.1f} mm {_named(place)} had: is the jaw at the right place?"
        )
    enough = len(taken.good) >= session.times and taken.settled
    return replace(now, at=session.at + enough, last=(when, value)), said


def _with(session: Session, number: int, value: float) -> Session:
    taken = list(session.taken)
    taken[number] = Taken((*taken[number].readings, value))
    return replace(session, taken=tuple(taken))


def _named(place: Place) -> str:
    return f"the {place.across} at {place.y:g}"


def retimed(session: Session, times: int) -> Session:
    """With every place to be read so often; the jaws go to the first that was not yet."""
    at = next((k for k, t in enumerate(session.taken) if len(t.good) < times), len(session.places))
    return replace(session, times=times, at=at)


def turn_to(session: Session, number: int) -> Session:
    """With the jaws sent to another place."""
    return replace(session, at=min(max(number, 0), len(session.places)))


def forget(session: Session, number: int, reading: int) -> Session:
    """Without one reading of a place, as the maker chose."""
    taken = list(session.taken)
    taken[number] = Taken(tuple(v for k, v in enumerate(taken[number].readings) if k != reading))
    return replace(session, taken=tuple(taken), last=None)


def table(session: Session, stations: Sequence[Station]) -> Table:
    """The stations with what was read put in; what was not read stays as it was.

    Widths grow from the spine side, thicknesses keep their share of front and back.
    """
    read = {(p.y, p.across): t for p, t in zip(session.places, session.taken, strict=True) if t.good}
    made = []
    for s in stations:
        width, thick = read.get((s.y, Across.WIDTH)), read.get((s.y, Across.THICKNESS))
        if width is not None:
            s = replace(s, x_seam=s.x_spine + width.mean)
        if thick is not None:
            s = replace(s, front=s.front * thick.mean / s.thickness, back=s.back * thick.mean / s.thickness)
        corner = min(s.corner, s.width / 2, s.thickness / 2) if s.shape is Shape.SLAB else 0.0
        made.append(replace(s, corner=corner))
    spreads = [t.spread for t in session.taken if len(t.good) > 1]
    repeated = 2 * len(spreads) >= len(session.taken)  # a repeat here and there says little of the rest
    off = float(np.hypot(JAWS, np.mean(spreads))) if repeated else USUAL[Way.CALIPER]
    return Table(neat(made), capture=Capture(Way.CALIPER, round(off, 3)))
