"""Problems of laying out and their answers, as JSON. Described in docs/format.md."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path
from typing import Annotated, Any, Literal

import numpy as np
import shapely
from pydantic import BaseModel, ConfigDict, Field

from tailor.core import incoming
from tailor.core.carried.loft import Array
from tailor.core.cut.found import Found
from tailor.core.cut.laying import BAND, Grade, Hide, Id, Laid, Laying, Template, Turns, Wanted, Zone
from tailor.core.cut.left import rests
from tailor.core.cut.marked import MOST
from tailor.core.cut.thickness import Gauged
from tailor.core.errors import InputError
from tailor.core.leather.leather import THICKEST, THINNEST
from tailor.files import problems

PROBLEM, ANSWER = "tailor-layout-problem/1", "tailor-layout/1"
MOST_HIDES, MOST_PIECES, MOST_POINTS = 60, 1500, 5000
FARTHEST = 100_000.0  # mm from the origin that anything may lie
WIDEST = 144e6  # mm² about all sheets
LEAST = 1.0  # mm² of a piece

Number = Annotated[float, Field(ge=-FARTHEST, le=FARTHEST, allow_inf_nan=False)]
Ring = Annotated[list[tuple[Number, Number]], Field(min_length=3, max_length=MOST_POINTS)]
Named = Annotated[str, Field(min_length=1, max_length=incoming.NAME)] | int


class _Entry(BaseModel):
    model_config = ConfigDict(extra="ignore")  # a problem may say more than is needed here


class ZoneEntry(_Entry):
    """A stretch of a hide that is prime or loose."""

    name: str = ""
    grade: Grade
    polygon: Ring


class GaugedEntry(_Entry):
    """How thick a hide was found at a place."""

    at: tuple[Number, Number]
    mm: Annotated[float, Field(ge=THINNEST, le=THICKEST)]


class SheetEntry(_Entry):
    """A hide or an offcut."""

    id: Named
    outline: Ring
    forbidden: Annotated[list[Ring], Field(max_length=500)] = []
    zones: Annotated[list[ZoneEntry], Field(max_length=100)] = []
    priority: int = 1
    leather: Annotated[str, Field(max_length=incoming.NAME)] = ""
    thickness: Annotated[list[GaugedEntry], Field(max_length=MOST)] = []


class RotationEntry(_Entry):
    """Which ways round a piece may lie."""

    bases_deg: Annotated[list[Number], Field(min_length=1, max_length=36)] = [0.0]
    plus_minus_deg: Annotated[float, Field(ge=0, le=360)] = 360.0


class PlacedEntry(_Entry):
    """Where a piece lies."""

    id: Named
    sheet: Named
    mirror: bool = False
    rotate_deg: Number = 0.0
    move: tuple[Number, Number]


class PinEntry(PlacedEntry):
    """A placement that must stay: its piece need not be named again."""

    id: Named = 0


class PieceEntry(_Entry):
    """A piece to be cut."""

    id: Named
    name: str = ""
    polygon: Ring
    spacing: Annotated[float, Field(ge=0, le=100)] = 2.5
    edge_margin: Annotated[float, Field(ge=0, le=100)] = 1.25
    rotation: RotationEntry = RotationEntry()
    may_flip: bool = False
    wanted: Wanted = Wanted.ANY
    leather: Annotated[str, Field(max_length=incoming.NAME)] = ""
    thickness: Annotated[float, Field(ge=0, le=THICKEST)] = 0.0
    pinned: PinEntry | None = None


class ProblemEntry(_Entry):
    """What is to be laid, and on what."""

    format: Literal["tailor-layout-problem/1"]
    units: Literal["mm"] = "mm"
    back_band_mm: Annotated[float, Field(gt=0, le=FARTHEST)] = BAND
    sheets: Annotated[list[SheetEntry], Field(min_length=1, max_length=MOST_HIDES)]
    pieces: Annotated[list[PieceEntry], Field(max_length=MOST_PIECES)]


def problem(path: Path) -> Laying:
    """The problem in a file. Raises InputError saying what in it cannot be used, and where."""
    entry = problems.read(path, PROBLEM, "laying out", ProblemEntry)
    laying = Laying(tuple(map(hide_of, entry.sheets)), tuple(map(_template, entry.pieces)), entry.back_band_mm)
    return _sound(laying, path.name)


def hide_of(entry: SheetEntry) -> Hide:
    """The hide that an entry tells of."""
    zones = tuple(Zone(z.name, z.grade, _ring(z.polygon)) for z in entry.zones)
    rings = tuple(map(_ring, entry.forbidden))
    read = tuple(Gauged(*each.at, each.mm) for each in entry.thickness)
    return Hide(entry.id, _ring(entry.outline), rings, zones, entry.priority, entry.leather, read)


def entry_of(hide: Hide) -> SheetEntry:
    """A hide as an entry, which loses nothing of it."""
    zones = [ZoneEntry(name=z.name, grade=z.grade, polygon=z.ring.tolist()) for z in hide.zones]
    return SheetEntry(
        id=hide.id, outline=hide.ring.tolist(), forbidden=[ring.tolist() for ring in hide.forbidden], zones=zones,
        priority=hide.priority, leather=hide.sort,
        thickness=[GaugedEntry(at=(x, y), mm=thick) for x, y, thick in hide.gauged],
    )  # fmt: skip


def _template(entry: PieceEntry) -> Template:
    turns = Turns(tuple(entry.rotation.bases_deg), entry.rotation.plus_minus_deg)
    pin = entry.pinned
    pinned = None if pin is None else Laid(entry.id, pin.sheet, pin.mirror, pin.rotate_deg, pin.move)
    return Template(
        entry.id, entry.name or str(entry.id), _ring(entry.polygon), entry.spacing, entry.edge_margin, turns,
        entry.may_flip, entry.wanted, pinned, entry.leather, entry.thickness,
    )  # fmt: skip


def _ring(points: Sequence[tuple[float, float]]) -> Array:
    ring = np.array(points, dtype=float)
    return ring[:-1] if len(ring) > 3 and np.allclose(ring[0], ring[-1]) else ring


def _sound(laying: Laying, where: str) -> Laying:
    """A laying whose outlines are outlines and whose names are told apart. Raises InputError."""
    for what, items in (("sheet", laying.hides), ("piece", laying.templates)):
        seen = set[Id]()
        for item in items:
            ring = shapely.Polygon(item.ring)
            if (what == "piece" and not ring.is_valid) or shapely.make_valid(ring).area < LEAST:
                raise InputError("its outline crosses itself or holds nothing", f"{where}, {what} {item.id}", "mend it")
            if item.id in seen:
                raise InputError(f"two are called {item.id}", f"{where}, {what}s", "give each an id of its own")
            seen.add(item.id)
    bounds = np.array([shapely.Polygon(hide.ring).bounds for hide in laying.hides])
    if float(np.prod(bounds[:, 2:].max(axis=0) - bounds[:, :2].min(axis=0))) > WIDEST:
        raise InputError("its sheets lie too far apart", where, f"put them within {WIDEST / 1e6:.0f} m², side by side")
    hides = {hide.id for hide in laying.hides}
    for template in laying.templates:
        if template.pinned is not None and template.pinned.hide not in hides:
            raise InputError(
                f"it is pinned on {template.pinned.hide}, which is not there", f"{where}, piece {template.id}",
                "name one of the sheets",
            )  # fmt: skip
    return laying


def plain(laying: Laying, found: Found) -> dict[str, Any]:
    """A layout, as JSON can hold it."""
    lying = {one.id for one in found.laid}
    return {
        "format": ANSWER,
        "share": round(found.share, 6),
        "steps": found.steps,
        "placed": [
            {
                "id": one.id, "sheet": one.hide, "mirror": one.mirrored, "rotate_deg": one.degrees,
                "move": list(one.move),
            }
            for one in found.laid
        ],
        "left": [
            {"id": t.id, "why": laying.why_never(t) or "no room is left"} for t in laying.templates if t.id not in lying
        ],
        "rests": [
            {
                "sheet": rest.hide, "used": round(rest.used, 4), "back_edge_mm": rest.edge,
                "back_edge_before_mm": rest.edge_before,
                "offcuts": [np.round(ring, 2).tolist() for ring in rest.offcuts],
            }
            for rest in rests(laying, found.laid)
        ],
    }  # fmt: skip


def to_text(laying: Laying, found: Found) -> str:
    """A layout as the text of its file."""
    return json.dumps(plain(laying, found), indent=1, ensure_ascii=False) + "\n"
