"""A layout as it is looked at and cut by: SVG at true scale, and PDF with a sheet for each hide and the cut list."""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import Path
from xml.etree import ElementTree as ET

import numpy as np
import shapely
from reportlab.pdfgen.canvas import Canvas

from tailor.core.carried.loft import Array
from tailor.core.cut.found import Found
from tailor.core.cut.knife import in_order
from tailor.core.cut.laying import Grade, Hide, Laid, Laying
from tailor.core.cut.left import rests
from tailor.core.errors import DiskError, InputError
from tailor.core.incoming import said
from tailor.core.units import INCH
from tailor.files import atomic, faces, laid
from tailor.files.dyes import GALL, INK, LICHEN, MADDER, WALNUT
from tailor.files.paper import PAPERS

POINT = 72 / INCH  # PDF points to the millimetre
BORDER, HEAD, ROW = 12.0, 14.0, 4.4  # mm: about a page, for its title, and from line to line
LETTERS = 10.0  # mm, the most, of a name on a piece in SVG
TEXT = "Carlito, 'Open Sans', sans-serif"
MARKED, ZONED = MADDER, {Grade.PRIME: LICHEN, Grade.LOOSE: WALNUT}
SUFFIXES = (".json", ".svg", ".pdf")


def write(laying: Laying, found: Found, out: Path) -> list[Path]:
    """A layout as JSON, SVG or PDF by its suffix, or all three into a folder; the paths. Raises InputError."""
    made = {".json": laid.to_text, ".svg": svg}
    suffix = out.suffix.lower()
    if suffix and suffix not in SUFFIXES and not out.is_dir():
        raise InputError(f"a layout is not written as '{suffix}'", out.name, f"end its name in {' or '.join(SUFFIXES)}")
    paths = {kind: out / f"layout{kind}" for kind in SUFFIXES}
    if suffix in SUFFIXES and not out.is_dir():
        paths = {suffix: out}
    else:
        try:
            out.mkdir(parents=True, exist_ok=True)
        except (OSError, ValueError) as error:
            raise DiskError(f"it cannot be made ({said(error)})", str(out), "choose another folder") from None
    contents = {
        path: pdf(laying, found) if kind == ".pdf" else made[kind](laying, found).encode()
        for kind, path in paths.items()
    }
    with atomic.gathered(contents) as put:
        put()
    return list(contents)


def svg(laying: Laying, found: Found) -> str:
    """All hides and what lies on them, at true scale. y runs down in SVG, so it is turned over."""
    every = np.vstack([hide.ring for hide in laying.hides])
    low, high = every.min(axis=0) - BORDER, every.max(axis=0) + BORDER
    width, height = (f"{v:.3f}" for v in high - low)
    root = ET.Element(
        "svg", xmlns="http://www.w3.org/2000/svg", width=f"{width}mm", height=f"{height}mm",
        viewBox=f"0 0 {width} {height}", version="1.1",
    )  # fmt: skip
    ET.SubElement(root, "title").text = "Layout"

    def path(parent: ET.Element, ring: Array, **looks: str) -> None:
        at = np.column_stack([ring[:, 0] - low[0], high[1] - ring[:, 1]])
        ET.SubElement(parent, "path", {"d": "M" + " L".join(f"{x:.3f} {y:.3f}" for x, y in at) + " Z", **looks})

    thin = {"fill": "none", "stroke-width": "0.3"}
    rings = {t.id: (t.name, t.ring) for t in laying.templates}
    for hide in laying.hides:
        group = ET.SubElement(root, "g")
        ET.SubElement(group, "title").text = str(hide.id)
        path(group, hide.ring, **thin, stroke=INK)
        for zone in hide.zones:
            path(group, zone.ring, **thin, stroke=ZONED[zone.grade], **{"stroke-dasharray": "4 3"})
        for ring in hide.forbidden:
            path(group, ring, fill=MARKED, **{"fill-opacity": "0.4"})
        for one in found.laid:
            if one.hide == hide.id:
                name, ring = rings[one.id]
                there = one.of(ring)
                held = ET.SubElement(group, "g")
                ET.SubElement(held, "title").text = str(one.id)
                path(held, there, **thin, stroke=INK)
                x, y, size = _spot(there, name)
                ET.SubElement(
                    held, "text", x=f"{x - low[0]:.2f}", y=f"{high[1] - y:.2f}", fill=INK,
                    attrib={"font-size": f"{size:.2f}", "font-family": TEXT, "text-anchor": "middle",
                            "dominant-baseline": "central"},
                ).text = name  # fmt: skip
    ET.indent(root, " ")
    return ET.tostring(root, encoding="unicode") + "\n"


def _spot(ring: Array, name: str) -> tuple[float, float, float]:
    """Where a name stands on a piece, and how high its letters are so that it stays within."""
    shape = shapely.Polygon(ring)
    circle = shapely.maximum_inscribed_circle(shape, 1.0)
    (x, y), radius = shapely.get_coordinates(circle)[0], float(shapely.length(circle))
    return float(x), float(y), float(min(LETTERS, 1.8 * radius / max(faces.wide(name, 1.0, False), 1e-6)))


def pdf(laying: Laying, found: Found, paper: str = "a4") -> bytes:
    """A sheet for each hide, as large as it goes with its scale told, and the pieces in the order they are cut."""
    short, tall = sorted(PAPERS[paper])
    held = io.BytesIO()
    canvas = Canvas(held, pagesize=(tall * POINT, short * POINT), invariant=1)
    canvas.setTitle("Layout")
    faces.put_up()
    order = in_order(laying, found.laid)
    left = {rest.hide: rest for rest in rests(laying, found.laid)}
    for hide in laying.hides:
        scale = _page(canvas, laying, hide, order, (tall, short))
        rest = left[hide.id]
        lying = sum(1 for one in order if one.hide == hide.id)
        _write(
            canvas, BORDER, short - BORDER - 4, 12,
            f"{hide.id} · 1 : {1 / scale:.1f} · {lying} pieces · {rest.used:.0%} used · "
            f"back edge free for {rest.edge:.0f} of {rest.edge_before:.0f} mm", bold=True,
        )  # fmt: skip
        canvas.showPage()
    _list(canvas, laying, found, (tall, short))
    canvas.save()
    return held.getvalue()


def _page(canvas: Canvas, laying: Laying, hide: Hide, order: Sequence[Laid], size: tuple[float, float]) -> float:
    """A hide with its pieces numbered as they are cut; the scale."""
    low, high = hide.ring.min(axis=0), hide.ring.max(axis=0)
    room = np.array(size) - 2 * BORDER - [0.0, HEAD]
    scale = float((room / np.maximum(high - low, 1.0)).min())

    def at(ring: Array) -> Array:
        return np.asarray((BORDER + (ring - low) * scale) * POINT)

    def ring(points: Array, ink: str, thick: float, fill: int = 0) -> None:
        path = canvas.beginPath()
        first, *rest = at(points).tolist()
        path.moveTo(*first)
        for spot in rest:
            path.lineTo(*spot)
        path.close()
        canvas.setStrokeColor(ink)
        canvas.setFillColor(ink)
        canvas.setLineWidth(thick * POINT)
        canvas.drawPath(path, stroke=1, fill=fill)

    ring(hide.ring, INK, 0.3)
    canvas.setDash(3, 2)
    for zone in hide.zones:
        ring(zone.ring, ZONED[zone.grade], 0.2)
    canvas.setDash()
    for mark in hide.forbidden:
        ring(mark, MARKED, 0.2, fill=1)
    rings = {t.id: t.ring for t in laying.templates}
    for n, one in enumerate(order, 1):
        if one.hide == hide.id:
            there = one.of(rings[one.id])
            ring(there, GALL, 0.25)
            x, y, _ = _spot(there, str(n))
            spot = at(np.array([[x, y]]))[0]
            canvas.setFillColor(INK)
            canvas.setFont(faces.TEXT, 7)
            canvas.drawCentredString(float(spot[0]), float(spot[1]) - 2.4, str(n))
    return scale


def _list(canvas: Canvas, laying: Laying, found: Found, size: tuple[float, float]) -> None:
    """The pieces as they are cut, and what found no room."""
    order = in_order(laying, found.laid)
    lying = {one.id for one in order}
    lines = [
        f"{n}   {one.id}   ({one.hide}{', turned over' if one.mirrored else ''})" for n, one in enumerate(order, 1)
    ]
    left = [t for t in laying.templates if t.id not in lying]
    lines += [f"–   {t.id}: {laying.why_never(t) or 'no room is left'}" for t in left]
    rows = int((size[1] - 2 * BORDER - HEAD) / ROW)
    for begin in range(0, max(len(lines), 1), 2 * rows):
        _write(canvas, BORDER, size[1] - BORDER - 4, 12, "Cut in this order, corner holes before their cuts", bold=True)
        for n, line in enumerate(lines[begin : begin + 2 * rows]):
            column, row = divmod(n, rows)
            _write(canvas, BORDER + column * size[0] / 2, size[1] - BORDER - HEAD - row * ROW, 8, line)
        canvas.showPage()


def _write(canvas: Canvas, x: float, y: float, size: float, text: str, bold: bool = False) -> None:
    canvas.setFillColor(INK)
    canvas.setFont(faces.HEAD if bold else faces.TEXT, size)
    canvas.drawString(x * POINT, y * POINT, text)
