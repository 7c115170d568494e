"""DXF in millimetres, one layer per piece and kind of line."""

from __future__ import annotations

import io
import re

import ezdxf
from ezdxf import units
from ezdxf.document import Drawing
from ezdxf.enums import TextEntityAlignment

from tailor.core.draft.piece import Piece
from tailor.files import faces
from tailor.files.lettering import Lettering, lettered
from tailor.files.linework import LINES, lines_of, strokes
from tailor.files.sheet import Sheet

RELEASE = "R2010"
LETTERS = 3.2  # mm
CAPITAL = 0.65  # of a letter's size that a capital is high


def layer(piece: str, kind: str) -> str:
    """The name of a layer: `BODY_CUT`, say."""
    return re.sub(r"[^\w-]+", "_", f"{piece}_{kind}".upper())


def drawing(sheet: Sheet) -> Drawing:
    """The sheet as a DXF drawing."""
    document = ezdxf.new(RELEASE, setup=True)
    document.units = units.MM
    document.header["$MEASUREMENT"] = 1
    for piece, written in zip(sheet.pieces, lettered(sheet.pieces, LETTERS, faces.wide), strict=True):
        _add(document, piece, written)
    return document


def to_bytes(sheet: Sheet) -> bytes:
    """The sheet as the bytes of a DXF file."""
    text = io.StringIO()
    drawing(sheet).write(text)
    return text.getvalue().encode("utf-8")


def _add(document: Drawing, piece: Piece, written: Lettering) -> None:
    space = document.modelspace()

    def on(kind: str) -> dict[str, str]:
        name = layer(piece.name, kind)
        if name not in document.layers:
            red, green, blue = (int(LINES[kind].colour[i : i + 2], 16) for i in (1, 3, 5))
            document.layers.add(name, true_color=ezdxf.colors.rgb2int((red, green, blue)))
        return {"layer": name}

    for stroke in (*strokes(piece), *lines_of(written)):
        space.add_lwpolyline(stroke.points.tolist(), close=stroke.closed, dxfattribs=on(stroke.kind))
    for hole in piece.holes:
        space.add_circle((hole.x, hole.y), hole.diameter / 2, dxfattribs=on("hole"))
    for word in written.words:
        text = space.add_text(word.text, height=CAPITAL * word.size, rotation=word.angle, dxfattribs=on("register"))
        text.set_placement((word.x, word.y), align=TextEntityAlignment.MIDDLE_CENTER)
