"""Moulding: how wet leather is pressed on to the object, and what each way gives."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any

from tailor.core import measure
from tailor.core.measure import Along, Theme

TAUT = "taut"


@dataclass(frozen=True)
class Method:
    """valley: grain-side radius it can press, in thicknesses. stretch: share of its length wet leather gives to it."""

    valley: float
    stretch: float


METHODS: Mapping[str, Method] = MappingProxyType(
    {"fingers": Method(2.0, 0.01), "bone": Method(1.0, 0.02), "boards": Method(0.75, 0.03)}
)
GENTLEST = max(METHODS, key=lambda name: METHODS[name].valley)
EVERYWHERE, HOLLOWS = "everywhere", "hollows"


@dataclass(frozen=True)
class Moulding:
    """As settled for a job. method: a name of METHODS, or TAUT for leather that is only drawn tight. end: mm from the
    tip over which moulded leather passes to taut; 0 where it is pressed over the end too.
    """

    method: str = TAUT
    valley: float = 1.0
    stretch: float = 0.0
    where: str = EVERYWHERE
    end: float = 0.0

    @property
    def taut(self) -> bool:
        return self.method == TAUT

    def ball(self, thickness: float) -> float:
        """Radius that the flesh face turns with in a valley, mm."""
        return thickness * (1 + self.valley)

    @property
    def shrink(self) -> float:
        """Flat length to cut for each mm of formed length over the object."""
        return 1 / (1 + self.stretch)


def _wet(job: Any, made: Any) -> bool:
    return bool(made.wet)


MEASURES = (
    measure.pick("mould.method", Theme.MOULD, "moulded with", "drawn taut, or moulded wet: with what it is pressed on",
        "taut", ("taut", *METHODS), first=True),
    measure.pick("mould.where", Theme.MOULD, "moulded where", "moulded all over, or only round the hollows marked",
        EVERYWHERE, (EVERYWHERE, HOLLOWS), first=True, applies=_wet),
    measure.ratio("mould.valley", Theme.MOULD, "valley", "grain-side radius of a moulded valley, in thicknesses", 0.25,
        6, said=measure.times, applies=_wet),
    measure.ratio("mould.stretch", Theme.MOULD, "wet stretch",
        "share that the leather gives in moulding, and is cut shorter by", 0, 0.2, said=measure.percent, applies=_wet),
    measure.length("mould.end", Theme.MOULD, "moulded from the end",
        "how far from the end moulding passes to taut; 0 presses it over the end", 0, 150, at=(Along.INNER, 0.9),
        applies=_wet),
    measure.length("mould.margin", Theme.SHAPE, "form margin",
        "form margin: leather outside the blank's cut line, trimmed when dry", 0, 80, at=(Along.BLANK, 0.5)),
)  # fmt: skip
