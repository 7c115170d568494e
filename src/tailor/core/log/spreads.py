"""How far a constant is off its table, and what of that is whose."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

SHARES = (0.5, 0.15, 0.25, 0.1)  # of the variance: maker, kind of leather, leather, method


@dataclass(frozen=True)
class Spreads:
    """How far a constant is off its table, as standard deviations, in its unit, by what is the cause."""

    maker: float
    kind: float
    leather: float
    method: float

    @classmethod
    def of(cls, whole: float) -> Spreads:
        """The usual parts of a whole spread."""
        return cls(*(whole * sqrt(share) for share in SHARES))

    @property
    def whole(self) -> float:
        return sqrt(self.maker**2 + self.kind**2 + self.leather**2 + self.method**2)
