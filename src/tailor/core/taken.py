"""Taken: what a maker has learned of a constant and made his own, so that new drafts go by it.

It goes into every job that is begun from then on, and stays there: a job that was drafted before is not changed by it,
nor by its being let go.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

from tailor.core.errors import InputError

DRYING = "mould.shrink"  # which drafts go by, though it is no measure of a job
DECIDING = ("leather.thickness", "leather.temper", "mould.method")  # by which it is known what holds for a job
NEAR = 0.45  # mm that a leather may be off the thickness it was learned of


@dataclass(frozen=True)
class Taken:
    """A constant as it was learned. value, sd: in its unit. cases: that say so. table: what the tables say.

    leather: what it was learned of, as it is called; thickness (mm) and temper: of it, 0 and empty where it holds for
    any. method: by which it is pressed, and thing: the construction; empty for any.
    """

    constant: str
    value: float
    sd: float
    cases: int
    table: float
    leather: str = ""
    thickness: float = 0.0
    temper: str = ""
    method: str = ""
    thing: str = ""

    def __post_init__(self) -> None:
        if self.constant in DECIDING:
            said = "it says where other things hold, and so holds for each job by itself"
            raise InputError(said, f"learned {self.constant}", "pin it in the job")
        if not all(map(math.isfinite, (self.value, self.sd, self.table, self.thickness))) or self.sd < 0:
            raise InputError("its numbers cannot be", f"learned {self.constant}", "learn it anew from the log")

    @property
    def said(self) -> str:
        """The rule it makes, in a few words."""
        of = f" of {self.leather}" if self.leather else ""
        return f"learned from {self.cases} of yours{of}: {self.value:.3g} ± {self.sd:.2g}"

    def suits(self, thickness: float, temper: str, method: str, thing: str) -> bool:
        """Whether it holds for a leather, a way of moulding and a construction."""
        return (
            (not self.thickness or abs(self.thickness - thickness) <= NEAR)
            and self.temper in ("", temper) and self.method in ("", method) and self.thing in ("", thing)
        )  # fmt: skip

    def same(self, other: Taken) -> bool:
        """Whether it is of the same as another, which it would take the place of."""
        mine = (self.constant, self.leather, self.thickness, self.temper, self.method, self.thing)
        return mine == (other.constant, other.leather, other.thickness, other.temper, other.method, other.thing)


def nearest(taken: Iterable[Taken], name: str, thickness: float, temper: str, method: str, thing: str) -> Taken | None:
    """What was learned of a constant that holds there: of the leather that is nearest, else of any."""
    fitting = [t for t in taken if t.constant == name and t.suits(thickness, temper, method, thing)]
    return min(
        fitting, key=lambda t: (abs(t.thickness - thickness) if t.thickness else NEAR + 1, not t.method), default=None
    )
