"""Readings: what tape, roll and strip say at stations, as typed or in a CSV, and the stations they make.

Header `y,shape` and any of `width,thickness,girth,rolled,strip,leather,corner`; cells may be blank. rolled: the
trace rolled over to each side. strip: half-width marked on a strip of `leather` thickness wrapped in place.
corner: radius of a slab's corners, or `round` for sides that are half circles. `# unit: in` as in station tables.
"""

from __future__ import annotations

import csv
import math
from collections.abc import Sequence
from dataclasses import dataclass, fields
from pathlib import Path

from tailor.core import incoming
from tailor.core.carried.capture import USUAL, Capture, Way
from tailor.core.carried.girth import Girdled, rolled, section, stripped
from tailor.core.carried.stations import Shape, Station, Table, checked, neat, unit_of
from tailor.core.errors import InputError
from tailor.core.units import parse_length

SIZES = ("width", "thickness", "girth", "rolled", "strip", "leather", "corner")
ROUND = "round"


@dataclass(frozen=True)
class Reading:
    """What was read at one place, mm; None where nothing was. corner: inf for sides that are half circles."""

    y: float
    shape: Shape
    width: float | None = None
    thickness: float | None = None
    girth: float | None = None
    rolled: float | None = None
    strip: float | None = None
    leather: float | None = None
    corner: float | None = None

    @property
    def way(self) -> Way:
        """The way of measuring it stands on."""
        if self.strip is not None:
            return Way.WRAP
        if self.rolled is not None:
            return Way.ROLL
        return Way.TAPE if self.girth is not None else Way.CALIPER

    def section(self, where: str) -> Girdled:
        """The section it tells of. Raises InputError where it is told too little, or what cannot be."""
        girth, thickness = self.girth, self.thickness
        if self.strip is not None:
            if girth is not None:
                raise InputError("both girth and strip are given", where, "leave one of them blank")
            girth = stripped(self.strip, self.leather or 0.0)
        if self.rolled is not None:
            if self.width is None:
                raise InputError("rolled is given without width", where, "give the trace lying flat too")
            if thickness is None:
                thickness = rolled(self.width, self.rolled, where)
        return section(self.shape, self.width, thickness, girth, self.corner or 0.0, where)


def table(
    readings: Sequence[Reading], names: Sequence[str] | None = None, straight: bool = False
) -> tuple[Table, tuple[str, ...]]:
    """The station table of readings, and what the third readings say.

    straight: the spine side is straight, as on a blade; else widths lie evenly about the middle. Raises InputError
    naming the reading.
    """
    names = list(names) if names is not None else [f"reading {k + 1}" for k in range(len(readings))]
    stations, notes, worst = [], [], 0.0
    for reading, name in zip(readings, names, strict=True):
        found = reading.section(name)
        if found.residual:
            said = "agree within" if found.agrees else "contradict each other by"
            notes.append(f"{name}: width, thickness and girth {said} {abs(found.residual):.1f} mm of girth")
            worst = max(worst, abs(found.residual) / math.pi)
        w, t = found.width / 2, found.thickness / 2
        corner = min(reading.corner or 0.0, w, t) if reading.shape is Shape.SLAB else 0.0
        left = 0.0 if straight else -w
        stations.append(Station(reading.y, left, left + 2 * w, t, t, reading.shape, corner))
    ways = {r.way for r in readings}
    way = max(ways, key=lambda w: USUAL[w]) if ways else Way.TAPE
    checked(stations, names)
    return Table(neat(stations), capture=Capture(way, max(USUAL[way], worst))), tuple(notes)


def contradictions(readings: Sequence[Reading]) -> tuple[int, ...]:
    """Which readings have three sizes that cannot all be right."""
    return tuple(k for k, r in enumerate(readings) if not r.section(f"reading {k + 1}").agrees)


def read_csv(path: Path) -> tuple[list[Reading], list[str]]:
    """Readings from a CSV file, and what to call each. Raises InputError naming file and line."""
    text = incoming.read_text(path)
    try:
        return parse_csv(text)
    except InputError as error:
        raise error.within(path.name) from None


def parse_csv(text: str) -> tuple[list[Reading], list[str]]:
    """Readings from CSV text, and what to call each. Raises InputError naming the line."""
    lines = text.splitlines()
    unit = unit_of([(n, line[1:].strip()) for n, line in enumerate(lines, 1) if line.startswith("#")])
    rows = [(n, line) for n, line in enumerate(lines, 1) if line.strip() and not line.startswith("#")]
    if not rows:
        raise InputError("it is empty", "readings", f"give a header y,shape,{','.join(SIZES)} and a row for each place")
    header = [c.strip().lower() for c in next(csv.reader([rows[0][1]]))]
    known = [f.name for f in fields(Reading)]
    strange = [c for c in header if c not in known]
    if strange or "y" not in header or "shape" not in header or len(set(header)) < len(header):
        what = f"the header has {strange[0]}" if strange else "the header lacks y or shape, or has a column twice"
        raise InputError(what, f"line {rows[0][0]}", f"use y, shape and any of {', '.join(SIZES)}")
    names = [f"line {n}" for n, _ in rows[1:]]
    return [_reading(header, next(csv.reader([line])), f"line {n}", unit) for n, line in rows[1:]], names


def _reading(header: list[str], row: list[str], where: str, unit: str) -> Reading:
    if len(row) != len(header):
        raise InputError(f"it has {len(row)} values for {len(header)} columns", where, "give one value for each column")
    return typed(dict(zip(header, row, strict=True)), where, unit)


def typed(cells: dict[str, str], where: str, unit: str) -> Reading:
    """A reading from what was typed, blank where nothing was read. Raises InputError naming the cell."""
    said = {c: v.strip() for c, v in cells.items() if v.strip()}
    try:
        shape = Shape(said.get("shape", Shape.OVAL.value).lower())
    except ValueError:
        raise InputError(f"'{said['shape']}' is not a shape", where, f"give one of {', '.join(Shape)}") from None
    if "y" not in said:
        raise InputError("y is missing", where, "give the height of the place above the tip")
    sizes: dict[str, float] = {}
    for name in SIZES:
        if name in said:
            whole = name == "corner" and said[name].lower() == ROUND
            sizes[name] = math.inf if whole else parse_length(said[name], unit, f"{where}, {name}")
    return Reading(parse_length(said["y"], unit, f"{where}, y"), shape, **sizes)
