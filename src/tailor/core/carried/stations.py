"""Station tables: the object as calipered, row by row, read from CSV.

Header `y,x_spine,x_seam,front,back,shape[,corner]`. Lines starting with # are remarks, except
`# unit: in` (lengths are inches), `# zone: edge 0 .. 131` (a zone; lengths in the table's unit) and
`# capture: photo ± 0.2` (how it was measured, and how true that is) and `# sharp: none` (nothing on it is sharp).
"""

from __future__ import annotations

import csv
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from pathlib import Path
from typing import Any

from tailor.core import incoming
from tailor.core.carried.capture import Capture, Way, parse_capture
from tailor.core.carried.zones import Zone, parse_kind
from tailor.core.carried.zones import checked as every_zone
from tailor.core.errors import InputError
from tailor.core.units import System, parse_length

COLUMNS = ("y", "x_spine", "x_seam", "front", "back", "shape")
REACH = 1500.0  # mm; nothing that is carried in leather is longer
MOST_ROWS = 2000


class Shape(StrEnum):
    SLAB = "slab"
    OVAL = "oval"
    WEDGE = "wedge"
    DIAMOND = "diamond"


@dataclass(frozen=True)
class Station:
    """One measured section, mm. front and back are heights above and below the mid-plane."""

    y: float
    x_spine: float
    x_seam: float
    front: float
    back: float
    shape: Shape
    corner: float = 0.0

    @property
    def width(self) -> float:
        return self.x_seam - self.x_spine

    @property
    def thickness(self) -> float:
        return self.front + self.back


@dataclass(frozen=True)
class Table:
    """A checked station table: at least two stations in rising y, and the zones and capture noted with them.

    blunt: it is known that nothing on it is sharp.
    """

    stations: tuple[Station, ...]
    zones: tuple[Zone, ...] = ()
    capture: Capture | None = None
    blunt: bool = False


def checked(stations: Sequence[Station], names: Sequence[str] | None = None) -> tuple[Station, ...]:
    """The stations in rising y. names: what to call each row in a complaint.

    Raises InputError naming the row for values that no object can have.
    """
    names = list(names) if names is not None else [f"station {i + 1}" for i in range(len(stations))]
    if len(stations) > MOST_ROWS:
        raise InputError(f"{len(stations)} rows are too many", "station table", f"give at most {MOST_ROWS}")
    seen: dict[float, str] = {}
    for s, name in zip(stations, names, strict=True):
        _check(s, name)
        if s.y in seen:
            raise InputError(f"y {s.y:g} was already measured at {seen[s.y]}", name, "remove one of the two")
        seen[s.y] = name
    if len(stations) < 2:
        raise InputError(
            f"it has {len(stations) or 'no'} station{'s' * (len(stations) == 0)}",
            "station table",
            "measure at least two, at the tip and at the top",
        )
    return tuple(sorted(stations, key=lambda s: s.y))


def neat(stations: Sequence[Station]) -> tuple[Station, ...]:
    """Stations as captured, in hundredths of a millimetre, which is all that any way of measuring can tell.

    Stations that thereby fall together become one.
    """
    made: dict[float, Station] = {}
    for s in stations:
        sizes = {k: round(getattr(s, k), 2) + 0.0 for k in ("y", "x_spine", "x_seam", "front", "back")}
        sizes["x_seam"] = max(sizes["x_seam"], round(sizes["x_spine"] + 0.01, 2))
        if sizes["front"] + sizes["back"] < 0.01:
            sizes["front"] = sizes["back"] = 0.01
        trial = Station(**sizes, shape=s.shape)
        corner = math.floor(min(s.corner, trial.width / 2, trial.thickness / 2) * 100 + 1e-6) / 100
        made.setdefault(trial.y, replace(trial, corner=max(corner, 0.0)))
    return checked(list(made.values()))


def _check(s: Station, name: str) -> None:
    for column in ("y", "x_spine", "x_seam", "front", "back", "corner"):
        value = getattr(s, column)
        if not math.isfinite(value) or abs(value) > REACH:
            raise InputError(f"{column} is {value:g}", name, f"give a length within {REACH:g} mm")
    if s.front < 0 or s.back < 0:
        side = "front" if s.front < 0 else "back"
        raise InputError(
            f"{side} is {getattr(s, side):g}, a negative height",
            name,
            "measure heights outward from the mid-plane",
        )
    if s.thickness <= 0:
        raise InputError("front and back are both 0, so it has no thickness", name, "give the measured heights")
    if s.x_seam < s.x_spine:
        raise InputError(
            f"the sides cross: x_seam {s.x_seam:g} lies before x_spine {s.x_spine:g}", name, "swap the two"
        )
    if s.width <= 0:
        raise InputError(
            "x_spine and x_seam are the same, so it has no width", name, "give its width there, however small"
        )
    if s.corner < 0:
        raise InputError(f"corner is {s.corner:g}, a negative radius", name, "give 0 for a sharp corner")
    if s.corner and s.shape is not Shape.SLAB:
        raise InputError(f"a {s.shape} has no corner radius", name, "leave corner blank, or make it a slab")
    most = min(s.width, s.thickness) / 2
    if s.corner > most + 1e-9:
        raise InputError(
            f"corner {s.corner:g} is more than half the section",
            name,
            f"give at most {most:g}, or make it an oval",
        )


def read_csv(path: Path | str) -> Table:
    """A station table from a CSV file. Raises InputError naming file and line."""
    path = Path(path)
    text = incoming.read_text(path)
    try:
        return parse_csv(text)
    except InputError as error:
        raise error.within(path.name) from None


def parse_csv(text: str) -> Table:
    """A station table from CSV text; see the head of this file. Raises InputError naming the line."""
    remarks = [(n, line[1:].strip()) for n, line in enumerate(text.splitlines(), 1) if line.startswith("#")]
    unit = unit_of(remarks)
    lines = [(n, line) for n, line in enumerate(text.splitlines(), 1) if line.strip() and not line.startswith("#")]
    if not lines:
        raise InputError("it is empty", "station table", f"give a header {','.join(COLUMNS)} and two rows or more")
    cells = [_cells(line, f"line {n}") for n, line in lines]
    header = [c.strip().lower() for c in cells[0]]
    _check_header(header, f"line {lines[0][0]}")
    names = [f"line {n}" for n, _ in lines[1:]]
    stations = [_station(header, row, name, unit) for row, name in zip(cells[1:], names, strict=True)]
    zones = every_zone(_zone(n, said, unit) for n, said in remarks if _is(said, "zone"))
    taken = [parse_capture(said.split(":", 1)[1], unit, f"line {n}") for n, said in remarks if _is(said, "capture")]
    capture = taken[0] if taken else None
    blunt = _blunt(remarks) or (capture is not None and capture.way is Way.BLOCK and not zones)
    return Table(checked(stations, names), zones, capture, blunt)


def _blunt(remarks: Sequence[tuple[int, str]]) -> bool:
    """Whether the remarks of a table say that nothing is sharp. Raises InputError for anything else they say of it."""
    found = [(n, said.split(":", 1)[1].strip().lower()) for n, said in remarks if _is(said, "sharp")]
    for n, said in found:
        if said != "none":
            raise InputError(
                f"sharp '{said}' is not known", f"line {n}",
                "write '# sharp: none', or mark edges such as '# zone: edge 0 .. 131'",
            )  # fmt: skip
    return bool(found)


def to_csv(table: Table) -> str:
    """A table as CSV text that parse_csv reads, in mm."""
    lines = []
    if table.capture is not None:
        lines.append(f"# capture: {table.capture.way} ± {table.capture.accuracy:.2f}")
    if table.blunt:
        lines.append("# sharp: none")
    lines += [f"# zone: {z.kind} {_plain(z.low)} .. {_plain(z.high)}" for z in table.zones]
    lines.append(",".join((*COLUMNS, "corner")))
    for s in table.stations:
        sizes = [_plain(v) for v in (s.y, s.x_spine, s.x_seam, s.front, s.back)]
        lines.append(",".join([*sizes, s.shape.value, _plain(s.corner) if s.corner else ""]))
    return "\n".join(lines) + "\n"


def _plain(mm: float) -> str:
    return f"{mm:.3f}".rstrip("0").rstrip(".")


def _cells(line: str, where: str) -> list[str]:
    try:
        return next(csv.reader([line], strict=True))
    except csv.Error:
        raise InputError("its quotes do not pair up", where, "save the table again as plain CSV") from None


def _is(remark: str, word: str) -> bool:
    return remark.lower().startswith(word + ":")


def unit_of(remarks: Sequence[tuple[int, str]]) -> str:
    """`mm` or `in`, as the remarks of a table say, each with its line. Raises InputError naming the line."""
    for n, said in remarks:
        if _is(said, "unit"):
            unit = said.split(":", 1)[1].strip().lower()
            if unit not in ("mm", "in"):
                raise InputError(f"unit '{unit}' is not known", f"line {n}", "write '# unit: mm' or '# unit: in'")
            return unit
    return "mm"


def _check_header(header: list[str], where: str) -> None:
    missing = [c for c in COLUMNS if c not in header]
    if missing:
        raise InputError(
            f"the header lacks {' and '.join(missing)}", where, f"it must read {','.join(COLUMNS)}[,corner]"
        )
    strange = [c for c in header if c not in (*COLUMNS, "corner")]
    if strange or len(set(header)) < len(header):
        raise InputError(
            f"the header has {strange[0] or 'an unnamed column' if strange else 'a column twice'}",
            where,
            f"keep only {','.join(COLUMNS)} and corner, once each",
        )


def _station(header: list[str], row: list[str], name: str, unit: str) -> Station:
    if len(row) != len(header):
        raise InputError(f"it has {len(row)} values for {len(header)} columns", name, "give one value for each column")
    cell = {c: v.strip() for c, v in zip(header, row, strict=True)}
    blank = [c for c in COLUMNS if not cell[c]]
    if blank:
        raise InputError(f"{blank[0]} is missing", name, "measure it, or remove the row")
    try:
        shape = Shape(cell["shape"].lower())
    except ValueError:
        raise InputError(
            f"{incoming.quoted(cell['shape'])} is not a shape", name, f"give one of {', '.join(Shape)}"
        ) from None
    sizes = {c: parse_length(cell[c], unit, f"{name}, {c}") for c in COLUMNS[:5]}
    corner = parse_length(cell["corner"], unit, f"{name}, corner") if cell.get("corner") else 0.0
    return Station(**sizes, shape=shape, corner=corner)


def _zone(line: int, remark: str, unit: str) -> Zone:
    where = f"line {line}"
    words = remark.split(":", 1)[1].strip().split(None, 1)
    ends = words[1].split("..") if len(words) == 2 else []
    if len(ends) != 2:
        raise InputError(f"{incoming.quoted(remark)} is not a zone", where, "write it like '# zone: edge 0 .. 131'")
    try:
        return Zone(parse_kind(words[0], where), *(parse_length(e, unit, where) for e in ends))
    except InputError as error:
        raise error if error.where == where else error.within(where) from None


def edit(stations: Sequence[Station], row: int, column: str, text: str, system: System) -> tuple[Station, ...]:
    """The stations with one cell typed anew, checked as a whole. Raises InputError naming the row."""
    name = f"station {row + 1}"
    try:
        if column == "shape":
            changed = replace(stations[row], shape=Shape(text.strip().lower()), corner=0.0)
        else:
            length: Any = parse_length(text, system.bare, f"{name}, {column}")
            changed = replace(stations[row], **{column: length})
    except ValueError as error:
        if isinstance(error, InputError):
            raise
        raise InputError(f"'{text}' is not a shape", name, f"give one of {', '.join(Shape)}") from None
    return checked([*stations[:row], changed, *stations[row + 1 :]])
