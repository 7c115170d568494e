"""Machine: what a sewing machine's bed and arm leave room for."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType


@dataclass(frozen=True)
class Bed:
    """A machine by its bed.

    lift: thickest stack that goes under its foot. arm: furthest that leather reaches under its arm to the needle.
    round_: least girth of a tube that goes on to it; None where only flat work does. hook: room its hook needs beside
    the needle, from a wall or a step in the work. mm.
    """

    name: str
    lift: float
    arm: float
    round_: float | None
    hook: float


BEDS: Mapping[str, Bed] = MappingProxyType({
    bed.name: bed
    for bed in (
        Bed("flat bed", 10.0, 260.0, None, 4.0),
        Bed("cylinder", 14.0, 260.0, 230.0, 6.0),
        Bed("post", 9.0, 220.0, 120.0, 4.0),
    )
})  # fmt: skip
