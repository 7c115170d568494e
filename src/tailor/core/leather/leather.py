"""Leather: the sheet that goes round the object."""

from __future__ import annotations

from dataclasses import dataclass
from math import pi

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
