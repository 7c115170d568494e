"""Constants that belong to a maker, a leather and a method: what the tables say of each, and how sure that is.

Each is declared once: where it is used, its table by method, and how far makers are off it, from the working ranges
that are handed down. What has a table in proportion (a rate, a radius in thicknesses) is off it by a factor.
"""

from __future__ import annotations

import dataclasses
import math
import re
from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from tailor.core import incoming
from tailor.core.bench.rates import Rates
from tailor.core.errors import InputError
from tailor.core.keys import KEYS
from tailor.core.leather.leather import NEUTRAL_OFF
from tailor.core.leather.moulding import METHODS
from tailor.core.log.spreads import Spreads

CLEARANCE = "fit.clearance"
RATE = "rate."
SLACK = 5.0  # spreads of makers that a reading may be beyond what can be
ALIASES = {
    "neutral_line": "neutral", "wet_stretch": "stretch", "shrinkage": "shrink", "give_in_use": "give",
    "valley_radius": "valley", "form_margin": "mould_margin", "thread": "used", "waste_on_the_hide": "waste",
}  # fmt: skip


@dataclass(frozen=True)
class Constant:
    """One constant. name: the measure that has it as its usual value, where there is one. said: in the craft's words.

    table: its value by method; that of no method is under "". spread: of makers about the table; times: as a share of
    it, for what is off by a factor. noise: of one reading, where none is told. low, high: what it can be at all. why:
    it matters, in a sentence.
    """

    name: str
    said: str
    unit: str
    table: Mapping[str, float]
    spread: float
    noise: float
    low: float
    high: float
    times: bool = False
    why: str = ""

    def usual(self, method: str) -> float:
        """What the table says."""
        return self.table.get(method, self.table[""])

    @property
    def spreads(self) -> Spreads:
        return Spreads.of(self.spread)

    def off(self, value: float, method: str) -> float:
        """How far a value is off the table: plainly, or as a logarithm."""
        usual = self.usual(method)
        return math.log(value / usual) if self.times else value - usual

    def at(self, off: float, method: str) -> float:
        """The value that is so far off the table, within what it can be."""
        usual = self.usual(method)
        return min(max(usual * math.exp(off) if self.times else usual + off, self.low), self.high)

    def scale(self, spread: float, value: float) -> float:
        """The spread of a reading, as this constant is off by."""
        return spread / value if self.times else spread

    def checked(self, value: float, where: str) -> float:
        """A reading that can be, though it may be off what can be by the noise of reading. Raises InputError."""
        slack = SLACK * self.spread
        low, high = (self.low / 20, self.high * 20) if self.times else (self.low - slack, self.high + slack)
        if not (math.isfinite(value) and low <= value <= high):
            raise InputError(
                f"{value:g} cannot be {self.said}", where, f"give {self.low:g} to {self.high:g} {self.unit}".rstrip()
            )
        return value


def _by_method(name: str) -> Mapping[str, float]:
    return {method: float(getattr(gives, name)) for method, gives in METHODS.items()}


def _measured(name: str, said: str, spread: float, noise: float, why: str) -> Constant:
    """The constant of a measure that has a usual value."""
    of = KEYS[name]
    assert isinstance(of.usual, int | float)
    return Constant(name, said, "", MappingProxyType({"": float(of.usual)}), spread, noise, of.low, of.high,
                    why=why)  # fmt: skip


_SAID = {
    "mark": "time to mark a piece", "cut": "time to cut a metre", "corner": "time at a corner",
    "hole": "time to pierce a hole", "hardware": "time to set a fastening", "glue_up": "time to glue up a seam",
    "glue": "time to glue a square metre", "edge": "time for a metre of edge", "mould": "time to mould a case",
    "begin": "time to begin and clear away", "sewn": "sewing, in times of the usual",
    "trace": "time to trace a metre", "carve": "time to cut a metre of a picture",
    "bevel": "time to bevel a metre of a picture", "strike": "time to strike a stamp once",
}  # fmt: skip


def _rate(name: str, usual: float) -> Constant:
    return Constant(
        RATE + name, _SAID[name], "" if name == "sewn" else "min", MappingProxyType({"": usual}), 0.35, 0.25 * usual,
        usual / 50, usual * 50, True, "Hours are promised by how long work takes these hands, and no others.",
    )  # fmt: skip


_ALL = (
    _measured("leather.neutral", "neutral line, as a share of thickness from the flesh", NEUTRAL_OFF, 0.03,
              "Bent leather is stretched outside and pressed together inside; the line between keeps its length, and "
              "it is that length which is cut."),
    _measured("leather.fold_radius", "inside radius of a fold, in thicknesses", 0.15, 0.08,
              "A fold needs length: the tighter it lies, the less of it, and the nearer the two sides come."),
    Constant("mould.valley", "radius a valley is pressed to, in thicknesses", "",
             MappingProxyType({"": 1.0, **_by_method("valley")}), 0.25, 0.25, 0.25, 6.0, True,
             "Wet leather follows a hollow only as sharply as it can be pressed."),
    Constant("mould.stretch", "share that wet leather gives", "",
             MappingProxyType({"": 0.0, **_by_method("stretch")}), 0.007, 0.004, -0.1, 0.2, False,
             "Wet leather is longer once it is pressed; it is cut shorter by as much as it gives."),
    Constant("mould.shrink", "share that it draws in on drying", "", MappingProxyType({"": 0.0}), 0.006, 0.003, -0.05,
             0.2, False, "A moulded case draws in as it dries, and holds what it was pressed on the tighter."),
    Constant("fit.give", "clearance that is gained in a month", "mm", MappingProxyType({"": 0.3}), 0.2, 0.2, -1.0, 5.0,
             False, "Leather gives in use: too tight today is often right in a month, too loose never gets better."),
    Constant("mould.margin", "form margin that was enough", "mm", MappingProxyType({"": 20.0}), 5.0, 3.0, 0.0, 80.0,
             False, "The edge of a blank is drawn in while it is pressed, and there must be something to hold it by."),
    Constant("printer.scale", "length that comes out of the printer, for 1", "", MappingProxyType({"": 1.0}), 0.004,
             0.001, 0.9, 1.1, False, "Printers scale without saying so; if one measured length is right, all are."),
    Constant("thread.used", "thread used, in times of the computed", "", MappingProxyType({"": 1.0}), 0.08, 0.05, 0.3,
             3.0, True, "Thread that runs out a few stitches before the end is sewn anew from the beginning."),
    Constant("hide.waste", "share of leather that falls between pieces", "", MappingProxyType({"": 0.25}), 0.08, 0.06,
             0.0, 0.9, False, "Leather that falls between pieces is paid for like the rest."),
    *(_rate(field.name, float(field.default)) for field in dataclasses.fields(Rates)),  # type: ignore[arg-type]
)  # fmt: skip
CONSTANTS: Mapping[str, Constant] = MappingProxyType({each.name: each for each in _ALL})


def constant(name: str, where: str) -> Constant:
    """The constant of a name: in full, or without the part before its point. Raises InputError with all there are."""
    plain = re.sub(r"[^a-z]+", "_", name.lower()).strip("_")
    plain = ALIASES.get(plain, plain)
    found = [each for full, each in CONSTANTS.items() if plain in (full.replace(".", "_"), full.partition(".")[2])]
    if len(found) != 1:
        raise InputError(f"there is no constant {incoming.quoted(name)}", where, f"give one of {', '.join(CONSTANTS)}")
    return found[0]
