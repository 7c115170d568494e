"""Tape, roll and strip: what goes round an object tells its section.

Of width, thickness and girth any two give the third for a known shape; a third reading is a cross-check.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from tailor.core.carried.stations import REACH, Shape
from tailor.core.errors import InputError

AGREES = 0.02  # share of the girth by which three readings may disagree
SMALL = 1e-6


@dataclass(frozen=True)
class Girdled:
    """Width and thickness of a section, mm, its girth, and by how much a third reading missed it (0: none taken)."""

    width: float
    thickness: float
    girth: float
    residual: float = 0.0

    @property
    def agrees(self) -> bool:
        return abs(self.residual) <= AGREES * self.girth


def round_(shape: Shape, width: float, thickness: float, corner: float = 0.0) -> float:
    """The girth of a section, mm. corner: of a slab; not more than half its smaller side is used.

    Ellipse by the complete elliptic integral of the second kind; the rest by plain lengths.
    """
    if shape is Shape.OVAL:
        a, b = max(width, thickness) / 2, min(width, thickness) / 2
        return float(4 * a * scipy.special.ellipe(1 - (b / a) ** 2))
    if shape is Shape.SLAB:
        corner = min(corner, width / 2, thickness / 2)
        return 2 * (width + thickness) - (8 - 2 * np.pi) * corner
    if shape is Shape.DIAMOND:
        return 2 * float(np.hypot(width, thickness))
    return thickness + 2 * float(np.hypot(width, thickness / 2))


def section(
    shape: Shape,
    width: float | None = None,
    thickness: float | None = None,
    girth: float | None = None,
    corner: float = 0.0,
    where: str = "section",
) -> Girdled:
    """The section from any two of its readings, or all three. corner: of a slab; inf for fully rounded sides.

    Raises InputError where readings are missing, or no section of that shape can have them.
    """
    given = {"width": width, "thickness": thickness, "girth": girth}
    if sum(v is not None for v in given.values()) < 2:
        raise InputError("two readings are needed", where, "give two of width, thickness and girth")
    for name, value in given.items():
        if value is not None and not 0 < value < 4 * REACH:
            raise InputError(f"{name} is {value:g}", where, "give a length above 0")
    if width is not None and thickness is not None:
        worked = round_(shape, width, thickness, corner)
        return Girdled(width, thickness, worked, 0.0 if girth is None else girth - worked)
    assert girth is not None
    if width is not None:
        return Girdled(width, _other(shape, width, girth, corner, where, "width"), girth)
    assert thickness is not None
    return Girdled(_other(shape, thickness, girth, corner, where, "thickness"), thickness, girth)


def _other(shape: Shape, known: float, girth: float, corner: float, where: str, name: str) -> float:
    def misses(other: float) -> float:
        return round_(shape, *((known, other) if name == "width" else (other, known)), corner) - girth

    least = misses(SMALL)
    if least > -SMALL:
        raise InputError(
            f"a girth of {girth:g} cannot go round a {name} of {known:g}: it takes more than {girth + least:.1f}",
            where, "measure both again at the same place",
        )  # fmt: skip
    return float(scipy.optimize.brentq(misses, SMALL, girth, xtol=1e-9))


def rolled(width: float, over: float, where: str = "section") -> float:
    """Thickness, mm, from the trace lying flat and the trace rolled over to each side, which takes it up.

    Raises InputError where the rolled trace is not the wider.
    """
    if over <= width:
        raise InputError(
            f"rolled over, the trace is {over:g} wide, not wider than {width:g} lying flat",
            where,
            "roll it over both edges and trace again",
        )
    return over - width


def stripped(half: float, thickness: float, neutral: float = 0.5) -> float:
    """The girth inside, mm, from a strip wrapped in place whose seam falls `half` mm from its fold.

    Once round a closed section the strip's unstretched surface, `neutral` of its thickness out, is longer by a
    full turn of that: 2π · neutral · thickness (Steiner's formula for parallel curves).
    """
    return 2 * half - 2 * np.pi * neutral * thickness
