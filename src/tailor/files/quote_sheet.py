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
from tailor.files import atomic
from tailor.files.paper import PAPERS
from tailor.files.written import POINT, ROW, SMALL, Sheet

FORMAT = "tailor-quote/1"
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
    sheet = Sheet(canvas, short, tall)
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
