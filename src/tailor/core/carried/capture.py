"""Capture: the way a shape was taken, and how true it is."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from tailor.core.errors import InputError
from tailor.core.units import parse_length


class Way(StrEnum):
    CALIPER = "caliper"
    PHOTO = "photo"
    SCAN = "scan"
    OUTLINE = "outline"
    TAPE = "tape"
    ROLL = "roll"
    WRAP = "wrap"
    BLOCK = "block"
    MESH = "mesh"


# mm: how true each way is when nothing better is known.
USUAL = {
    Way.CALIPER: 0.2, Way.PHOTO: 0.3, Way.SCAN: 0.25, Way.OUTLINE: 0.5, Way.TAPE: 0.7, Way.ROLL: 1.0, Way.WRAP: 1.0,
    Way.BLOCK: 0.3, Way.MESH: 0.1,
}  # fmt: skip


@dataclass(frozen=True)
class Capture:
    """A way of measuring, and ± mm that 19 of 20 of its sizes keep within."""

    way: Way
    accuracy: float

    def __post_init__(self) -> None:
        if not (math.isfinite(self.accuracy) and 0 < self.accuracy <= 50):
            raise InputError(
                f"an accuracy of ± {self.accuracy:g} mm cannot be",
                f"capture {self.way.value}",
                "give one above 0, such as 0.2",
            )

    @staticmethod
    def usual(way: Way) -> Capture:
        return Capture(way, USUAL[way])


def parse_capture(text: str, unit: str, where: str) -> Capture:
    """A capture as a station table notes it, such as `photo ± 0.21`. Raises InputError naming the line."""
    words = text.replace("±", " ").replace("+-", " ").split(None, 1)
    try:
        way = Way(words[0].lower())
    except (ValueError, IndexError):
        raise InputError(f"'{text}' is not a way of measuring", where, f"give one of {', '.join(Way)}") from None
    return Capture(way, parse_length(words[1], unit, where)) if len(words) == 2 else Capture.usual(way)
