"""Trimmings: rings, buckles, hooks and clips that straps are folded round or riveted to, by a table of sizes."""

from __future__ import annotations

import csv
from dataclasses import dataclass

from tailor.core.errors import InputError

SIZES = ("inside", "wire", "wide", "rivets")


@dataclass(frozen=True)
class Trimming:
    """One size, mm. inside: widest strap or belt that goes in. wire: thickness that a strap is folded round.

    wide: of the whole along a belt. rivets: between the two it is riveted on by, 0 where it is not.
    """

    name: str
    kind: str
    inside: float
    wire: float
    wide: float
    rivets: float


def read(text: str, name: str) -> dict[str, Trimming]:
    """Trimmings by name from a table. Raises InputError naming the file and the line."""
    lines = [line for line in text.splitlines() if line.strip() and not line.startswith("#")]
    found: dict[str, Trimming] = {}
    for n, row in enumerate(csv.DictReader(lines), 2):
        where = f"{name}, line {n} of its table"
        try:
            sizes = {column: float(row[column]) for column in SIZES}
            one = Trimming(row["name"].strip(), row["kind"].strip(), **sizes)
        except (KeyError, TypeError, ValueError, AttributeError):
            raise InputError(
                "it has no size where one is wanted", where, "give sizes in mm under the heading"
            ) from None
        if one.inside <= 0 or one.wire <= 0 or one.wide < one.inside / 4 or one.name in found:
            raise InputError("its sizes cannot be, or its name is there twice", where, "measure it again")
        found[one.name] = one
    return found
