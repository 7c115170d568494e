"""PDF at true scale, tiled over pages that are joined on register marks.

Every page carries a 100 mm and a 4 in check square (if one measured length is right, all are), a map of the
pages with its own place in it, and crosses where it meets its neighbours.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from functools import cache
from importlib.resources import as_file, files

import numpy as np
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from tailor.core.carried.loft import Array
from tailor.core.draft.piece import Piece
from tailor.core.errors import InputError
from tailor.core.units import INCH
from tailor.files.dyes import GALL, INK
from tailor.files.linework import LINES, LineStyle, strokes
from tailor.files.paper import PAPERS
from tailor.files.sheet import Sheet

POINT = 72 / INCH  # PDF points to the millimetre
BORDER = 10.0  # mm that no printer is trusted to reach
FOOT = 12.0  # mm at the foot of the page for its words and map
OVERLAP = 10.0  # mm that neighbouring pages share
SQUARES = (100.0, 4 * INCH)
TEXT, HEAD = "Carlito", "Vollkorn"


@dataclass(frozen=True)
class Tile:
    """One page's share of the sheet: its column and row from the upper left, and its lower left corner, mm."""

    column: int
    row: int
    x: float
    y: float

    @property
    def label(self) -> str:
        return f"{chr(ord('A') + self.row)}{self.column + 1}"


@dataclass(frozen=True)
class Tiling:
    """How a sheet is cut into pages. width and height are what one page shows of it, mm."""

    paper: str
    width: float
    height: float
    columns: int
    rows: int
    tiles: tuple[Tile, ...]


def tile(sheet: Sheet, paper: str) -> Tiling:
    """Tiles in reading order, OVERLAP in common. Raises InputError for a paper that is not known."""
    if paper not in PAPERS:
        raise InputError(f"'{paper}' is not a paper", "--paper", f"give {' or '.join(PAPERS)}")
    width, height = PAPERS[paper][0] - 2 * BORDER, PAPERS[paper][1] - 2 * BORDER - FOOT
    columns = max(int(np.ceil((sheet.width - OVERLAP) / (width - OVERLAP))), 1)
    rows = max(int(np.ceil((sheet.height - OVERLAP) / (height - OVERLAP))), 1)
    top = sheet.height
    tiles = tuple(
        Tile(c, r, c * (width - OVERLAP), top - height - r * (height - OVERLAP))
        for r in range(rows)
        for c in range(columns)
    )
    return Tiling(paper, width, height, columns, rows, tiles)


def to_bytes(sheet: Sheet, name: str, paper: str) -> bytes:
    """The sheet as a PDF at 1:1 on the given paper."""
    fonts()
    tiling = tile(sheet, paper)
    held = io.BytesIO()
    page = Canvas(held, pagesize=tuple(side * POINT for side in PAPERS[paper]), invariant=1)
    page.setTitle(f"{name}: pattern at true scale")
    page.setCreator("Tailor")
    for each in tiling.tiles:
        _page(page, sheet, tiling, each, name)
        page.showPage()
    page.save()
    return held.getvalue()


@cache
def fonts() -> None:
    shipped = files("tailor.desk.theme") / "fonts"
    for face, file in ((TEXT, "Carlito-Regular.ttf"), (HEAD, "Vollkorn-SemiBold.ttf")):
        with as_file(shipped / file) as path:
            pdfmetrics.registerFont(TTFont(face, path))


def _page(page: Canvas, sheet: Sheet, tiling: Tiling, at: Tile, name: str) -> None:
    left, low = BORDER, BORDER + FOOT
    page.saveState()
    frame = page.beginPath()
    frame.rect(left * POINT, low * POINT, tiling.width * POINT, tiling.height * POINT)
    page.clipPath(frame, stroke=0, fill=0)
    shift = np.array([left - at.x, low - at.y])
    _check_squares(page)
    for piece in sheet.pieces:
        if _shows(piece, at, tiling):
            _piece(page, piece, shift)
    page.restoreState()
    _joins(page, tiling, at)
    _foot(page, tiling, at, name)


def _shows(piece: Piece, at: Tile, tiling: Tiling) -> bool:
    low, high = piece.cut.min(axis=0), piece.cut.max(axis=0)
    return bool(high[0] > at.x and low[0] < at.x + tiling.width and high[1] > at.y and low[1] < at.y + tiling.height)


def _pen(page: Canvas, style: LineStyle) -> None:
    page.setStrokeColor(style.colour)
    page.setLineWidth(style.width * POINT)
    page.setDash([d * POINT for d in style.dashes])
    page.setLineJoin(1)


def _line(page: Canvas, points: Array, closed: bool = False) -> None:
    path = page.beginPath()
    path.moveTo(*(points[0] * POINT))
    for point in points[1:] * POINT:
        path.lineTo(*point)
    if closed:
        path.close()
    page.drawPath(path)


def _piece(page: Canvas, piece: Piece, shift: Array) -> None:
    for stroke in strokes(piece):
        _pen(page, LINES[stroke.kind])
        _line(page, stroke.points + shift, stroke.closed)
    _pen(page, LINES["hole"])
    for hole in piece.holes:
        x, y = np.array([hole.x, hole.y]) + shift
        page.circle(x * POINT, y * POINT, hole.diameter / 2 * POINT)
    page.setFillColor(INK)
    for mark in piece.marks:
        if mark.text:
            page.saveState()
            page.translate((mark.x + shift[0]) * POINT, (mark.y + shift[1]) * POINT)
            page.rotate(mark.angle)
            page.setFont(*((HEAD, 12) if mark.kind == "title" and not mark.angle else (TEXT, 9)))
            page.drawCentredString(0, -3, mark.text)
            page.restoreState()


def _check_squares(page: Canvas) -> None:
    """Both squares, one inside the other, from the lower left corner of what the page shows."""
    x, y = BORDER + 3, BORDER + FOOT + 3
    page.setStrokeColor(GALL)
    page.setFillColor(GALL)
    page.setLineWidth(0.15 * POINT)
    page.setDash([])
    page.setFont(TEXT, 7)
    for side in SQUARES:
        page.rect(x * POINT, y * POINT, side * POINT, side * POINT)
    page.drawString((x + 2) * POINT, (y + 2) * POINT, "Check: inner square 100 mm, outer square 4 in, both ways")


def _joins(page: Canvas, tiling: Tiling, at: Tile) -> None:
    """Crosses in the middle of every overlap, at the same places of the sheet on both pages."""
    page.setStrokeColor(INK)
    page.setLineWidth(0.2 * POINT)
    page.setDash([])
    left, low, half = BORDER, BORDER + FOOT, OVERLAP / 2
    xs = [left + half] * (at.column > 0) + [left + tiling.width - half] * (at.column < tiling.columns - 1)
    ys = [low + tiling.height - half] * (at.row > 0) + [low + half] * (at.row < tiling.rows - 1)
    crosses = [(x, low + tiling.height * share) for x in xs for share in (0.25, 0.75)]
    crosses += [(left + tiling.width * share, y) for y in ys for share in (0.25, 0.75)]
    for x, y in crosses:
        page.line((x - 4) * POINT, y * POINT, (x + 4) * POINT, y * POINT)
        page.line(x * POINT, (y - 4) * POINT, x * POINT, (y + 4) * POINT)
        page.circle(x * POINT, y * POINT, 2 * POINT)


def _foot(page: Canvas, tiling: Tiling, at: Tile, name: str) -> None:
    page.setFillColor(INK)
    page.setFont(HEAD, 11)
    page.drawString(BORDER * POINT, (BORDER + 5) * POINT, name)
    page.setFont(TEXT, 8)
    page.drawString(
        BORDER * POINT, (BORDER + 1) * POINT,
        f"Page {at.label}: its lower left corner is at {at.x:.3f}, {at.y:.3f} mm. "
        "Print at 100 %, then measure the check square.",
    )  # fmt: skip
    cell = min(6.0, (FOOT - 2) / tiling.rows)
    right = PAPERS[tiling.paper][0] - BORDER
    page.setLineWidth(0.2 * POINT)
    page.setDash([])
    for other in tiling.tiles:
        x = right - (tiling.columns - other.column) * cell
        y = BORDER + (tiling.rows - 1 - other.row) * cell
        here = other == at
        page.setStrokeColor(GALL)
        page.setFillColor(INK if here else "#ffffff")
        page.rect(x * POINT, y * POINT, cell * POINT, cell * POINT, fill=1)
        page.setFillColor("#ffffff" if here else INK)
        page.setFont(TEXT, min(7.0, cell * 1.6))
        page.drawCentredString((x + cell / 2) * POINT, (y + cell / 2 - 0.8) * POINT, other.label)
