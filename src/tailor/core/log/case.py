"""Cases: what came out of work that was done, each a reading of something that a maker can learn."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from enum import Enum


class Fit(Enum):
    """How a thing goes into its case, the tightest first."""

    STUCK = "will not go in"
    TIGHT = "tight"
    RIGHT = "right"
    LOOSE = "loose"
    FALLS = "falls out"


class When(Enum):
    """How long a case has been used."""

    NEW = "new"
    WEEK = "after a week"
    MONTH = "a month"


@dataclass(frozen=True)
class Case:
    """A reading of a constant. leather: which; empty where it belongs to none. tannage: with its weight, what kind of
    leather that is. spread: standard deviation of the reading. piece: readings of one piece are not independent.
    """

    constant: str
    value: float
    spread: float
    made_on: date
    leather: str = ""
    tannage: str = ""
    method: str = ""
    piece: str = ""


@dataclass(frozen=True)
class Said:
    """How a thing fitted. thing: its kind. drafted: clearance, mm; gap: as it was measured, with its spread."""

    thing: str
    drafted: float
    fit: Fit
    when: When
    made_on: date
    gap: float | None = None
    spread: float = 0.2


@dataclass(frozen=True)
class Belief:
    """What is believed of a constant. leather: empty for one that was not met; tannage: the kind of it, where it is
    known. mean, sd, low and high (9 of 10 between them), and what the table said, in the constant's unit. cases: how
    many say so.

    offered: it is surely enough off the table, and by enough to matter, that a maker should be asked. since: the day
    from which the readings are of something else, where they are; and how sure that is.
    """

    constant: str
    leather: str
    method: str
    mean: float
    sd: float
    low: float
    high: float
    cases: int
    prior_mean: float
    prior_sd: float
    offered: bool = False
    tannage: str = ""
    since: date | None = None
    changed: float = 0.0
