"""Lengths as makers say them, to and from millimetres.

Inside the core every length is a float in millimetres; this file is the only door. A plain number is in
the maker's own unit; a bare fraction (`3/8`, `1 1/8`) is always inches, since nobody divides a millimetre.
"""

from __future__ import annotations

import math
import re
from enum import StrEnum
from fractions import Fraction

from tailor.core.errors import InputError
from tailor.core.incoming import TYPED, quoted

INCH = 25.4
OUNCE = INCH / 64  # one ounce of leather is a sixty-fourth of an inch

_FACTOR = {"mm": 1.0, "cm": 10.0, "in": INCH, "inch": INCH, "inches": INCH, '"': INCH, "oz": OUNCE}
_GRAMS = {"g": 1.0, "kg": 1000.0, "oz": 28.349523, "lb": 453.59237}
_MASS = r"(\d+(?:\.\d+)?)\s*(kg|g|oz|lb)?"
_VULGAR = {
    "½": "1/2", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8",
}  # fmt: skip
_NUMBER = r"(?:\d+\s+\d+\s*/\s*\d+|\d+-\d+/\d+|\d+\s*/\s*\d+|\d+(?:\.\d+)?|\.\d+)"
_UNIT = r"(?:mm|cm|inches|inch|in|oz|\")"
_TERM = re.compile(rf"\s*(?P<sign>[+-]?)\s*(?P<number>{_NUMBER})\s*(?P<unit>{_UNIT})?\s*", re.IGNORECASE)
_BAND = re.compile(rf"\s*({_NUMBER})\s*(?:-|–|to)\s*({_NUMBER})\s*oz\s*", re.IGNORECASE)
_PER_INCH = re.compile(r"\s*(\d+(?:\.\d+)?)\s*(?:/\s*in(?:ch)?|per\s+in(?:ch)?|to\s+the\s+inch)\s*", re.IGNORECASE)


class System(StrEnum):
    """How the maker likes to read lengths."""

    MM = "mm"
    INCH = "in"
    FRACTION = "fraction"

    @property
    def bare(self) -> str:
        """The unit a plain number is taken in."""
        return "mm" if self is System.MM else "in"

    @property
    def nudge(self) -> float:
        """One step of an arrow key, mm."""
        return {System.MM: 0.5, System.INCH: INCH / 50, System.FRACTION: INCH / 32}[self]


def _tidy(text: str) -> str:
    for glyph, spelled in _VULGAR.items():
        text = text.replace(glyph, f" {spelled} ")
    text = text.replace("−", "-").replace("–", "-").replace("”", '"').replace("″", '"')
    return re.sub(r"(?<=\d),(?=\d)", ".", text).strip()


def _number(text: str) -> float:
    """`7`, `3/8`, `1 1/8` or `1-1/8` as a plain number."""
    parts = re.split(r"\s+(?=\d+\s*/)|-(?=\d+/)", text.strip())
    try:
        return float(sum(Fraction(re.sub(r"\s+", "", p)) for p in parts))
    except OverflowError:
        return math.inf


def _unreadable(text: str, where: str) -> InputError:
    return InputError(f"{quoted(text)} is not a length", where, 'write it like 9.5mm, 3/8", 1 1/8 in, 7-8 oz or 38+1.5')


def parse_length(text: str, bare: str = "mm", where: str = "length") -> float:
    """A length in mm from what a maker types.

    Takes mm, cm, inches (decimal, fraction, mixed number), ounces of leather, a band of ounces (its middle)
    and sums and differences of these. `bare` is the unit of a number without one; in a sum such a number
    takes the next unit that follows it. Raises InputError naming `where` when it cannot be read.
    """
    if len(text) > TYPED:
        raise _unreadable(text, where)
    tidy = _tidy(text)
    try:
        if band := _BAND.fullmatch(tidy):
            low, high = _number(band[1]), _number(band[2])
            if low > high:
                raise InputError(f"the band '{text}' runs backwards", where, "write the lighter weight first")
            return (low + high) / 2 * OUNCE
        terms: list[re.Match[str]] = []
        total, at = 0.0, 0
        while at < len(tidy):
            term = _TERM.match(tidy, at)
            if term is None or (terms and not term["sign"]):
                raise _unreadable(text, where)
            terms.append(term)
            at = term.end()
        unit = None
        for term in reversed(terms):
            unit = (term["unit"] or "").lower() or unit
            fallback = "in" if "/" in term["number"] else bare
            size = _number(term["number"]) * _FACTOR[unit or fallback]
            total += -size if term["sign"] == "-" else size
    except ZeroDivisionError:
        raise _unreadable(text, where) from None
    if not terms or not math.isfinite(total):
        raise _unreadable(text, where)
    return total


def parse_pitch(text: str, bare: str = "mm", where: str = "stitch spacing") -> float:
    """Stitch spacing in mm from a length or a count per inch (`6 per inch`, `6/in`)."""
    if len(text) <= TYPED and (count := _PER_INCH.fullmatch(_tidy(text))):
        per_inch = float(count[1])
        if per_inch <= 0:
            raise InputError("no stitches to the inch", where, "give at least one")
        return INCH / per_inch
    return parse_length(text, bare, where)


def format_length(mm: float, system: System = System.MM, denominator: int = 32, unit: bool = True) -> str:
    """A length in mm as the maker reads it: to 0.1 mm, to 0.001 in, or to the nearest 1/denominator in.

    Below a millimetre a second decimal is given where there is one.
    """
    if system is System.MM:
        fine = abs(mm) < 1 and round(mm, 2) != round(mm, 1)
        return f"{_zero(round(mm, 2 if fine else 1)):.{2 if fine else 1}f}" + (" mm" if unit else "")
    if system is System.INCH:
        return f"{_zero(round(mm / INCH, 3)):.3f}" + (" in" if unit else "")
    parts = Fraction(round(abs(mm) / INCH * denominator), denominator)
    whole, rest = divmod(parts, 1)
    said = " ".join(str(p) for p in (whole, rest) if p) or "0"
    return ("-" if mm < 0 and parts else "") + said + ('"' if unit else "")


def retold(text: str, system: System) -> str:
    """A sentence with every length in it that is given in mm told in the maker's unit."""
    if system is System.MM:
        return text
    return re.sub(r"(-?\d+(?:\.\d+)?) mm\b", lambda found: format_length(float(found[1]), system), text)


def parse_mass(text: str, bare: str = "mm", where: str = "weight") -> float:
    """A weight in grams from what a maker types: g, kg, oz or lb (16 oz), or sums such as `1 lb + 4 oz`.

    A number without a unit is in grams for makers who read mm, else in ounces. Raises InputError naming `where`.
    """
    plain = "g" if bare == "mm" else "oz"
    terms = re.findall(_MASS, _tidy(text), re.IGNORECASE) if len(text) <= TYPED else []
    if not terms or "".join(re.split(_MASS, _tidy(text), flags=re.IGNORECASE)[:: len(terms[0]) + 1]).strip(" +"):
        raise InputError(f"{quoted(text)} is not a weight", where, "write it like 450 g, 1.2 kg or 1 lb + 4 oz")
    return float(sum(float(number) * _GRAMS[(unit or plain).lower()] for number, unit in terms))


def format_mass(grams: float, system: System = System.MM) -> str:
    """A weight as the maker reads it."""
    if system is System.MM:
        return f"{grams / 1000:.2f} kg" if grams >= 1000 else f"{grams:.0f} g"
    return f"{grams / _GRAMS['oz']:.1f} oz"


def format_weight(mm: float) -> str:
    """A leather thickness in ounces, to the nearest half."""
    return f"{round(mm / OUNCE * 2) / 2:g} oz"


def _zero(value: float) -> float:
    return value + 0.0  # turns a rounded -0.0 into 0.0
