"""PDF at true scale: whole pieces on sheets, larger ones over several that are joined on register marks.

The first sheet carries a 100 mm and a 4 in check square (if one measured length is right, all are) and a map of the
sheets; every other one a short check rule. Crosses stand where sheets meet.
"""

from __future__ import annotations

import io
from collections.abc import Sequence

import numpy as np
from reportlab.pdfgen.canvas import Canvas

from tailor.core.carried.loft import Array
from tailor.core.draft.piece import Piece
from tailor.core.units import INCH
from tailor.files import faces
from tailor.files.dyes import GALL, INK
from tailor.files.lettering import Lettering
from tailor.files.linework import LINES, LineStyle, lines_of, strokes
from tailor.files.paged import BORDER, FOOT, OVERLAP, Page, paged, room_of
from tailor.files.paper import PAPERS
from tailor.files.printer import LINES as CALIBRATED
from tailor.files.printer import Printer

POINT = 72 / INCH  # PDF points to the millimetre
SQUARES = (100.0, 4 * INCH)
RULE = 50.0  # mm of the check rule
BASELINE = 0.34  # of a letter's size, from its middle down to its line
MAP = 68  # letters in a line of the map
ROW = 4.2  # mm from line to line of the map


def to_bytes(pieces: Sequence[Piece], name: str, paper: str, printer: Printer | None = None) -> bytes:
    """Pieces as a PDF at 1:1 on the given paper, corrected for a printer. Raises InputError for an unknown paper."""
    printer = printer or Printer()
    pages = paged(pieces, paper)
    held = io.BytesIO()
    sheet = _canvas(held, paper, f"{name}: pattern at true scale")
    for page in pages:
        _correct(sheet, paper, printer)
        _page(sheet, page, pages, paper, name, printer)
        sheet.showPage()
    sheet.save()
    return held.getvalue()


def calibration(paper: str) -> bytes:
    """The sheet that a printer is measured by: one line across and one down, of known lengths."""
    width, height = room_of(paper)
    held = io.BytesIO()
    sheet = _canvas(held, paper, "Calibration sheet")
    left, low = BORDER + (width - CALIBRATED[0]) / 2, BORDER + FOOT + (height - CALIBRATED[1]) / 2
    sheet.setLineWidth(0.2 * POINT)
    for k, length in enumerate(CALIBRATED):
        end = (left + length, low) if k == 0 else (left, low + length)
        sheet.line(left * POINT, low * POINT, end[0] * POINT, end[1] * POINT)
        for x, y in ((left, low), end):
            sheet.line((x - 3 * k) * POINT, (y - 3 * (1 - k)) * POINT, (x + 3 * k) * POINT, (y + 3 * (1 - k)) * POINT)
    sheet.setFont(faces.TEXT, 10)
    for n, said in enumerate((
        f"Measure both lines from tick to tick: {CALIBRATED[0]:.0f} mm across, {CALIBRATED[1]:.0f} mm down.",
        "Type what you measure under Job, Printer. Print at 100 %.",
    )):  # fmt: skip
        sheet.drawString((left + 8) * POINT, (low + 20 - 6 * n) * POINT, said)
    sheet.showPage()
    sheet.save()
    return held.getvalue()


def _canvas(held: io.BytesIO, paper: str, title: str) -> Canvas:
    faces.put_up()
    room_of(paper)
    sheet = Canvas(held, pagesize=tuple(side * POINT for side in PAPERS[paper]), invariant=1)
    sheet.setTitle(title)
    sheet.setCreator("Tailor")
    return sheet


def _correct(sheet: Canvas, paper: str, printer: Printer) -> None:
    """Draw a page so much larger or smaller about its middle that it comes out true."""
    if printer.true:
        return
    x, y = (side * POINT / 2 for side in PAPERS[paper])
    sheet.translate(x, y)
    sheet.scale(1 / printer.across, 1 / printer.down)
    sheet.translate(-x, -y)


def _page(sheet: Canvas, page: Page, pages: Sequence[Page], paper: str, name: str, printer: Printer) -> None:
    width, height = room_of(paper)
    left, low = BORDER, BORDER + FOOT
    sheet.saveState()
    frame = sheet.beginPath()
    frame.rect(left * POINT, low * POINT, width * POINT, height * POINT)
    sheet.clipPath(frame, stroke=0, fill=0)
    for piece, written in zip(page.pieces, page.written, strict=True):
        _piece(sheet, piece, written, np.array([left, low]))
    if page.ticket is not None:
        _ticket(sheet, page, pages, printer)
    sheet.restoreState()
    _joins(sheet, page, width, height)
    _foot(sheet, page, pages, paper, name)


def _pen(sheet: Canvas, style: LineStyle) -> None:
    sheet.setStrokeColor(style.colour)
    sheet.setLineWidth(style.width * POINT)
    sheet.setDash([d * POINT for d in style.dashes])
    sheet.setLineJoin(1)


def _line(sheet: Canvas, points: Array, closed: bool = False) -> None:
    path = sheet.beginPath()
    path.moveTo(*(points[0] * POINT))
    for point in points[1:] * POINT:
        path.lineTo(*point)
    if closed:
        path.close()
    sheet.drawPath(path)


def _piece(sheet: Canvas, piece: Piece, written: Lettering, shift: Array) -> None:
    for stroke in (*strokes(piece), *lines_of(written)):
        _pen(sheet, LINES[stroke.kind])
        _line(sheet, stroke.points + shift, stroke.closed)
    _pen(sheet, LINES["hole"])
    for hole in piece.holes:
        x, y = np.array([hole.x, hole.y]) + shift
        sheet.circle(x * POINT, y * POINT, hole.diameter / 2 * POINT)
    sheet.setFillColor(INK)
    for word in written.words:
        sheet.saveState()
        sheet.translate((word.x + shift[0]) * POINT, (word.y + shift[1]) * POINT)
        sheet.rotate(word.angle)
        sheet.setFont(faces.HEAD if word.bold else faces.TEXT, word.size * POINT)
        sheet.drawCentredString(0, -BASELINE * word.size * POINT, word.text)
        sheet.restoreState()


def _ticket(sheet: Canvas, page: Page, pages: Sequence[Page], printer: Printer) -> None:
    """Both check squares, one inside the other, and what lies on which sheet."""
    assert page.ticket is not None
    x, y = BORDER + page.ticket[0] + 2, BORDER + FOOT + page.ticket[1] + 2
    sheet.setStrokeColor(GALL)
    sheet.setFillColor(GALL)
    sheet.setLineWidth(0.15 * POINT)
    sheet.setDash([])
    sheet.setFont(faces.TEXT, 7)
    for side in SQUARES:
        sheet.rect(x * POINT, y * POINT, side * POINT, side * POINT)
    sheet.drawString((x + 2) * POINT, (y + 2) * POINT, "Check: inner square 100 mm, outer square 4 in, both ways")
    if printer.said:
        sheet.drawString((x + 2) * POINT, (y + 6) * POINT, printer.said)
    sheet.setFillColor(INK)
    sheet.setFont(faces.TEXT, 8)
    lines = _map(pages)
    shown = int((SQUARES[0] - 8) / ROW)
    lines = lines if len(lines) <= shown else [*lines[: shown - 1], f"and {len(lines) - shown + 1} more sheets"]
    for n, said in enumerate(lines):
        sheet.drawString((x + 3) * POINT, (y + SQUARES[0] - 6 - n * ROW) * POINT, said)


def _map(pages: Sequence[Page]) -> list[str]:
    """What lies on each sheet, and which it joins."""
    found = []
    for page in pages:
        names = ", ".join(dict.fromkeys(piece.name for piece in page.pieces)) or "this ticket"
        joins = "; ".join(f"{side} {number}" for side, number in page.joins)
        found.append(f"Sheet {page.number}: {names}" + (f" (joins {joins})" if joins else ""))
    return [said if len(said) <= MAP else said[: MAP - 2].rstrip(", ") + " …" for said in found]


def _joins(sheet: Canvas, page: Page, width: float, height: float) -> None:
    """Crosses in the middle of every overlap, at the same places of the piece on both sheets, and which that is."""
    sheet.setStrokeColor(INK)
    sheet.setFillColor(GALL)
    sheet.setLineWidth(0.2 * POINT)
    sheet.setDash([])
    left, low, half = BORDER, BORDER + FOOT, OVERLAP / 2
    for side, number in page.joins:
        for share in (0.25, 0.75):
            x, y = {
                "left": (left + half, low + height * share), "right": (left + width - half, low + height * share),
                "above": (left + width * share, low + height - half), "below": (left + width * share, low + half),
            }[side]  # fmt: skip
            sheet.line((x - 4) * POINT, y * POINT, (x + 4) * POINT, y * POINT)
            sheet.line(x * POINT, (y - 4) * POINT, x * POINT, (y + 4) * POINT)
            sheet.circle(x * POINT, y * POINT, 2 * POINT)
            sheet.setFont(faces.TEXT, 7)
            sheet.drawCentredString(x * POINT, (y + (4.6 if side != "above" else -6.6)) * POINT, f"sheet {number}")


def _foot(sheet: Canvas, page: Page, pages: Sequence[Page], paper: str, name: str) -> None:
    """What the sheet is, and on all but the first a short rule to check it by."""
    sheet.setFillColor(INK)
    right = PAPERS[paper][0] - BORDER
    sheet.setFont(faces.HEAD, 11)
    room = right - BORDER - RULE - 14
    while faces.wide(name, 11 / POINT, True) > room and len(name) > 4:
        name = name[:-2].rstrip(" …") + "…"
    sheet.drawString(BORDER * POINT, (BORDER + 5.5) * POINT, name)
    sheet.setFont(faces.TEXT, 8)
    said = f"Sheet {page.number} of {len(pages)}. Print at 100 %, then measure "
    sheet.drawString(
        BORDER * POINT, (BORDER + 1) * POINT, said + ("the check square." if page.ticket else "the rule beside this.")
    )
    if page.ticket is not None:
        return
    sheet.setStrokeColor(INK)
    sheet.setLineWidth(0.2 * POINT)
    sheet.setDash([])
    y, x = BORDER + 3.0, right - RULE - 3
    sheet.line(x * POINT, y * POINT, (x + RULE) * POINT, y * POINT)
    for k in range(6):
        sheet.line((x + 10 * k) * POINT, y * POINT, (x + 10 * k) * POINT, (y + (3 if k in (0, 5) else 1.8)) * POINT)
    sheet.setFont(faces.TEXT, 7)
    sheet.drawCentredString((x + RULE / 2) * POINT, (y + 3.4) * POINT, f"{RULE:.0f} mm")
