"""What is put on the leather, as it stands in a job file."""

from __future__ import annotations

import math
import re
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from tailor.core.draft.tooled.asked import (
    LARGEST,
    MOST_LINES,
    MOST_POINTS,
    Asked,
    Filling,
    Line,
    Picture,
    Reads,
    Tooling,
)
from tailor.core.errors import InputError

Number = Annotated[float, Field(allow_inf_nan=False)]
PLACE = re.compile(r"(-?\d{1,6}(?:\.\d{1,9})?),(-?\d{1,6}(?:\.\d{1,9})?)")
FINE = 4  # figures after the point of a millimetre
LONGEST = 24 * MOST_POINTS  # characters of one line


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class ToolingEntry(_Strict):
    """A field that is tooled: its border, and what it is filled with. mm and degrees."""

    kind: Literal["field"]
    piece: str
    side: str = LARGEST
    depth: Number | None = None
    lines: int = 1
    apart: Number = 2.5
    filling: Filling = Filling.PLAIN
    along: Number = 9.0
    across: Number = 6.0
    lean: Number = 45.0

    @property
    def asked(self) -> Tooling:
        return Tooling(**self.model_dump(exclude={"kind", "filling"}), filling=self.filling.value)


class LineEntry(_Strict):
    """A line of a picture: its points as `x,y` parted by spaces, mm."""

    points: Annotated[str, Field(max_length=LONGEST)]
    closed: bool = False

    @property
    def line(self) -> Line:
        places = [PLACE.fullmatch(said) for said in self.points.split()]
        if len(places) < 2 or not all(places):
            raise InputError("a line of a picture is not a row of places", "tooling", "give 0,0 12.5,3 and so on")
        return Line(tuple((float(at[1]), float(at[2])) for at in places if at), self.closed)


class PictureEntry(_Strict):
    """A picture, lettering in a face, or the maker's mark. mm and degrees; width and at only where they are set."""

    kind: Literal["picture"]
    piece: str
    side: str = LARGEST
    depth: Number | None = None
    name: str
    drawn: Annotated[list[LineEntry], Field(max_length=MOST_LINES)]
    face: Annotated[str, Field(max_length=120)] = ""
    width: Number | None = None
    at: tuple[Number, Number] | None = None
    turn: Number = 0.0
    mirrored: bool = False
    reads: Reads = Reads.WORN
    mark: bool = False
    patch: bool = False

    @property
    def asked(self) -> Picture:
        plain = self.model_dump(exclude={"kind", "drawn", "reads"})
        return Picture(**plain, reads=self.reads.value, drawn=tuple(entry.line for entry in self.drawn))


Entry = Annotated[ToolingEntry | PictureEntry, Field(discriminator="kind")]


def asked_of(found: object) -> Asked:
    """What is asked for, from plain values. Raises pydantic's ValidationError, or InputError."""
    entry: ToolingEntry | PictureEntry = TypeAdapter(Entry).validate_python(found)
    return entry.asked


def plain(asked: Asked) -> dict[str, object]:
    """What is asked for as plain values."""
    found: dict[str, object] = {"kind": "picture" if isinstance(asked, Picture) else "field", **vars(asked)}
    if isinstance(asked, Picture):
        found = {name: value for name, value in found.items() if name in PictureEntry.model_fields}
        found["drawn"] = [
            {"points": " ".join(f"{_said(x)},{_said(y)}" for x, y in line.points), "closed": line.closed}
            for line in asked.drawn
        ]
    return found


def _said(length: float) -> str:
    said = f"{length:.{FINE}f}".rstrip("0").rstrip(".")
    return "0" if said == "-0" or not math.isfinite(length) else said
