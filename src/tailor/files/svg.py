"""SVG at true scale: millimetres, one group per piece, and in it one per kind of line."""

from __future__ import annotations

import re
from collections import defaultdict
from xml.etree import ElementTree as ET

from tailor.core.carried.loft import Array
from tailor.core.draft.piece import Piece, title
from tailor.files import faces
from tailor.files.lettering import Lettering, lettered
from tailor.files.linework import LINES, LineStyle, Stroke, lines_of, strokes
from tailor.files.sheet import Sheet

LETTERS = 3.2  # mm
TEXT = "Carlito, 'Open Sans', sans-serif"


def to_text(sheet: Sheet, name: str) -> str:
    """The sheet as SVG. y runs down in SVG, so the sheet is turned over about its height."""
    width, height = f"{sheet.width:.3f}", f"{sheet.height:.3f}"
    root = ET.Element(
        "svg", xmlns="http://www.w3.org/2000/svg", width=f"{width}mm", height=f"{height}mm",
        viewBox=f"0 0 {width} {height}", version="1.1",
    )  # fmt: skip
    ET.SubElement(root, "title").text = name
    for piece, written in zip(sheet.pieces, lettered(sheet.pieces, LETTERS, faces.wide), strict=True):
        root.append(_piece(piece, written, sheet.height))
    ET.indent(root, " ")
    return ET.tostring(root, encoding="unicode") + "\n"


def _piece(piece: Piece, written: Lettering, height: float) -> ET.Element:
    name = re.sub(r"[^\w-]+", "-", piece.name)
    group = ET.Element("g", id=name)
    ET.SubElement(group, "title").text = title(piece.name, piece.count, piece.thickness)
    kinds: dict[str, list[Stroke]] = defaultdict(list)
    for stroke in (*strokes(piece), *lines_of(written)):
        kinds[stroke.kind].append(stroke)
    for kind, drawn in kinds.items():
        holder = _group(group, f"{name}-{kind}", LINES[kind])
        for stroke in drawn:
            ET.SubElement(holder, "path", d=_path(stroke.points, stroke.closed, height))
    holes = _group(group, f"{name}-hole", LINES["hole"])
    for hole in piece.holes:
        ET.SubElement(
            holes, "circle", cx=f"{hole.x:.4f}", cy=f"{height - hole.y:.4f}", r=f"{hole.diameter / 2:.3f}",
            attrib={"data-seam": hole.seam, "data-edge": hole.edge},
        )  # fmt: skip
    lettering = {"font-family": TEXT, "text-anchor": "middle", "dominant-baseline": "central"}
    words = ET.SubElement(group, "g", id=f"{name}-words", fill=LINES["cut"].colour, attrib=lettering)
    for word in written.words:
        x, y = f"{word.x:.2f}", f"{height - word.y:.2f}"
        text = ET.SubElement(words, "text", x=x, y=y, attrib={"font-size": f"{word.size:.2f}"})
        text.text = word.text
        if word.bold:
            text.set("font-weight", "600")
        if word.angle:
            text.set("transform", f"rotate({-word.angle:.2f} {x} {y})")
    return group


def _group(parent: ET.Element, name: str, style: LineStyle) -> ET.Element:
    pen = {"fill": "none", "stroke": style.colour, "stroke-width": f"{style.width}", "stroke-linejoin": "round"}
    if style.dashes:
        pen["stroke-dasharray"] = " ".join(f"{d:g}" for d in style.dashes)
    return ET.SubElement(parent, "g", id=name, attrib=pen)


def _path(points: Array, closed: bool, height: float) -> str:
    joined = " L".join(f"{x:.4f},{height - y:.4f}" for x, y in points)
    return f"M{joined}" + (" Z" if closed else "")
