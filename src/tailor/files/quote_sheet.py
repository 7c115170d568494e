"""A quote as it is handed over: a sheet of PDF, a table of CSV, or plain values. Described in docs/format.md."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from reportlab.pdfgen.canvas import Canvas

from tailor.core.errors import InputError
from tailor.core.shop.quote import Quote, Terms
from tailor.core.units import INCH
from tailor.files import atomic, faces
from tailor.files.dyes import INK, MADDER
from tailor.files.paper import PAPERS

FORMAT = "tailor-quote/1"
POINT = 72 / INCH  # PDF points to the millimetre
BORDER, ROW, SMALL = 20.0, 5.6, 4.2  # mm: about a page, from line to line, and to the why below it
SUFFIXES = (".pdf", ".csv", ".json")
Things = Sequence[tuple[int, str]]  # how many of what


def write(quote: Quote, title: str, things: Things, terms: Terms, out: Path) -> None:
    """Write a quote as its suffix says. Raises InputError for another suffix, DiskError where it cannot be written."""
    suffix = out.suffix.lower()
    if suffix not in SUFFIXES:
        raise InputError(f"a quote is not written as '{suffix}'", out.name, f"end its name in {' or '.join(SUFFIXES)}")
    if suffix == ".pdf":
        content = pdf(quote, title, things, terms)
    elif suffix == ".csv":
        content = table(quote).encode()
    else:
        content = (json.dumps(plain(quote, title), indent=1, ensure_ascii=False) + "\n").encode()
    atomic.write(out, content)


def plain(quote: Quote, title: str) -> dict[str, Any]:
    """A quote, as JSON can hold it."""
    return {
        "format": FORMAT,
        "for": title,
        "items": [
            {"what": i.what, "amount": round(i.amount, 5), "unit": i.unit, "price": i.price, "sum": i.sum, "why": i.why}
            for i in quote.items
        ],
        "net": quote.net, "margin": quote.margin, "added": quote.added, "total": quote.total,
    }  # fmt: skip


def table(quote: Quote) -> str:
    """The lines of a quote as CSV."""
    text = io.StringIO()
    rows = csv.writer(text, lineterminator="\n")
    rows.writerow(("what", "amount", "unit", "price", "sum", "why"))
    for i in quote.items:
        rows.writerow((i.what, f"{i.amount:.5g}", i.unit, "" if i.price is None else i.price, f"{i.sum:.2f}", i.why))
    return text.getvalue()


def pdf(quote: Quote, title: str, things: Things, terms: Terms, paper: str = "a4") -> bytes:
    """What is to be made, and what it costs line by line, each with its why."""
    short, tall = sorted(PAPERS[paper])
    held = io.BytesIO()
    canvas = Canvas(held, pagesize=(short * POINT, tall * POINT), invariant=1)
    canvas.setTitle(f"Quote: {title}")
    faces.put_up()
    sheet = _Sheet(canvas, short, tall)
    sheet.line(title, 15, bold=True, after=ROW + 3)
    for count, name in things:
        sheet.line(f"{count} × {name}", 10)
    sheet.down(4)
    for item in quote.items:
        sheet.need(ROW + SMALL)
        price = "no price" if item.price is None else f"{item.price:.2f}"
        sheet.cells(item.what, item.amounting, price, terms.said(item.sum), lost=item.price is None)
        sheet.line(item.why, 8, after=SMALL, inset=3)
    sheet.down(2)
    sheet.cells("together", "", "", terms.said(quote.net))
    sheet.cells(f"margin {quote.margin:.0%}", "", "", terms.said(quote.added))
    sheet.cells("in all", "", "", terms.said(quote.total), bold=True)
    if quote.unpriced:
        sheet.down(3)
        names = ", ".join(item.what for item in quote.unpriced)
        sheet.line(f"Without a price, so not in the sum: {names}.", 9)
    canvas.save()
    return held.getvalue()


class _Sheet:
    """Where the next line goes, page after page."""

    def __init__(self, canvas: Canvas, wide: float, high: float) -> None:
        self._canvas, self._wide, self._high = canvas, wide, high
        self._y = high - BORDER

    def need(self, room: float) -> None:
        """Turn to the next page where less room is left."""
        if self._y - room < BORDER:
            self._canvas.showPage()
            self._y = self._high - BORDER

    def down(self, by: float) -> None:
        self._y -= by

    def line(self, text: str, size: float, bold: bool = False, after: float = ROW, inset: float = 0.0) -> None:
        """A line of text, parted where it is too long."""
        room = self._wide - 2 * BORDER - inset
        for part in _parted(text, size / POINT, bold, room):
            self.need(after)
            self._put(BORDER + inset, part, size, bold)
            self._y -= after

    def cells(self, what: str, amount: str, price: str, total: str, bold: bool = False, lost: bool = False) -> None:
        """A row of the table: what at the left, the numbers at the right."""
        self.need(ROW)
        right = self._wide - BORDER
        self._put(BORDER, _parted(what, 10 / POINT, bold, right - BORDER - 84)[0], 10, bold)
        for x, text in ((right - 56, amount), (right - 28, price), (right, total)):
            ink = MADDER if lost and text == price else INK
            self._put(x - faces.wide(text, 10 / POINT, bold), text, 10, bold, ink)
        self._y -= ROW

    def _put(self, x: float, text: str, size: float, bold: bool, ink: str = INK) -> None:
        self._canvas.setFillColor(ink)
        self._canvas.setFont(faces.HEAD if bold else faces.TEXT, size)
        self._canvas.drawString(x * POINT, self._y * POINT, text)


def _parted(text: str, size: float, bold: bool, room: float) -> list[str]:
    """Lines of a text in letters of a size, mm, no longer than there is room for."""
    lines = [""]
    for word in text.split():
        longer = f"{lines[-1]} {word}".strip()
        if lines[-1] and faces.wide(longer, size, bold) > room:
            lines.append(word)
        else:
            lines[-1] = longer
    return lines
