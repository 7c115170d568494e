"""Corrections: what trying a mock-up showed, put back into the pattern under a name.

A correction changes a computed measure by so much, or eases the seam out at one place; it is kept, and goes on
applying, when the object is measured anew.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from tailor.core.errors import InputError

EASE = "ease"
REACH = 30.0  # mm to either side over which easing dies away
MOST = 60.0  # mm: more than this is not a correction but another pattern
LONGEST = 200  # letters of a reason


@dataclass(frozen=True)
class Correction:
    """on: the key of a length, or `ease`. by: mm more (or less, below 0). because: what was seen in the mock-up.

    y: for easing, the height on the object it is greatest at, mm; reach: mm to either side where it ends.
    """

    on: str
    by: float
    because: str
    y: float = 0.0
    reach: float = REACH

    def __post_init__(self) -> None:
        where = f"correction of {self.on}"
        if not math.isfinite(self.by) or self.by == 0 or abs(self.by) > MOST:
            raise InputError(f"{self.by:g} mm is no correction", where, f"give mm more or less, up to {MOST:g}")
        if not (math.isfinite(self.y) and math.isfinite(self.reach) and 2.0 <= self.reach <= 1000):
            raise InputError("its place cannot be", where, "give a height on the object, and a reach of 2 mm or more")
        if not self.because.strip() or len(self.because) > LONGEST:
            raise InputError("it has no usable reason", where, "say in a few words what the mock-up showed")

    @property
    def easing(self) -> bool:
        return self.on == EASE
