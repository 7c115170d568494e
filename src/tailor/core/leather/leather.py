"""Leather: the sheet that goes round the object."""

from __future__ import annotations

from dataclasses import dataclass
from math import pi
from typing import Any

from tailor.core import measure
from tailor.core.measure import Along, Theme


def _folds(job: Any, made: Any) -> bool:
    return bool(made.folds)


MEASURES = (
    measure.length("leather.thickness", Theme.LEATHER, "leather", "thickness of the body leather", 0.2, 10, usual=3.0,
        first=True, said=measure.weighed, at=(Along.MIDDLE, 0.75)),
    measure.pick("leather.temper", Theme.LEATHER, "temper", "firm holds a shape when wetted, soft drapes", "firm",
        ("firm", "soft"), first=True),
    measure.ratio("leather.neutral", Theme.LEATHER, "neutral",
        "unstretched surface, as a share of thickness from the flesh", 0, 1, usual=0.5),
    measure.ratio("leather.fold_radius", Theme.LEATHER, "fold radius", "inside radius of a fold, in thicknesses", 0.05,
        5, usual=0.5, said=measure.times, at=(Along.FOLD, 0.6), applies=_folds),
    measure.ratio("leather.stretch_along", Theme.LEATHER, "stretch along",
        "wet stretch it bears along the backbone of the hide", 0.01, 0.6, usual=0.1, said=measure.percent),
    measure.ratio("leather.stretch_across", Theme.LEATHER, "stretch across", "wet stretch it bears across the hide",
        0.01, 0.6, usual=0.16, said=measure.percent),
    measure.ratio("leather.gather", Theme.LEATHER, "takes up", "share that wet leather takes up before it wrinkles",
        0.01, 0.5, usual=0.08, said=measure.percent),
    measure.angle("leather.turn", Theme.LEATHER, "hide turned", "angle from the draw to the backbone of the hide", -90,
        90, usual=0.0),
)  # fmt: skip

NEUTRAL_OFF = 0.06  # share of the thickness that the neutral line of a hide may lie off the table, one spread
THINNEST, THICKEST = 0.2, 10.0  # mm of a leather
OFF = 0.45  # mm that a leather may be off the thickness that is drafted, and still be meant by it
APPROACH = {"firm": 35.0, "soft": 50.0}  # degrees: how steeply each temper comes down to a welt without a gap


@dataclass(frozen=True)
class Leather:
    """A sheet of leather.

    thickness: mm. neutral: where the unstretched surface lies, as a share of thickness from the flesh face.
    fold_radius: inside radius of a fold, in thicknesses. temper: "firm" or "soft".
    """

    thickness: float
    neutral: float = 0.5
    fold_radius: float = 0.5
    temper: str = "firm"

    @property
    def offset(self) -> float:
        """Flesh face to neutral surface, mm."""
        return self.neutral * self.thickness

    @property
    def inside_radius(self) -> float:
        """Inside radius of a fold, mm."""
        return self.fold_radius * self.thickness

    @property
    def quarter_bend(self) -> float:
        """Neutral length from the crest of a fold to where the leather lies flat again, mm."""
        return (self.inside_radius + self.offset) * pi / 2

    @property
    def approach(self) -> float:
        """Steepest angle at which this temper comes down to a welt, degrees."""
        return APPROACH[self.temper]

    def grain_inside(self) -> Leather:
        """The same sheet bent the other way, with the grain on the inside of the bend."""
        return Leather(self.thickness, 1 - self.neutral, self.fold_radius, self.temper)
