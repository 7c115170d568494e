"""The order sheet: what is to be made for whom and by when, its pieces by picture, and what each thing takes."""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import Path

import numpy as np
from reportlab.pdfgen.canvas import Canvas

from tailor.core.draft import styles
from tailor.core.draft.piece import Piece, Role
from tailor.core.errors import InputError
from tailor.core.maker import Maker
from tailor.core.packing import filling
from tailor.core.shop.leathers import Sort
from tailor.core.shop.made import Made, leathers, ordered
from tailor.core.shop.needs import needs, needs_still
from tailor.core.shop.orders import Line, Order
from tailor.core.shop.shop import Shop
from tailor.core.shop.stock import against
from tailor.core.units import System, format_length
from tailor.files import atomic
from tailor.files.dyes import INK, MADDER
from tailor.files.paper import PAPERS
from tailor.files.written import BORDER, POINT, SMALL, Sheet

SUFFIX = ".pdf"
PICTURE = 46.0  # mm high, of all pieces of a thing beside one another
APART = 12.0  # mm between them, as large as they are


def write(order: Order, shop: Shop, out: Path, paper: str = "a4", maker: Maker | None = None) -> None:
    """Write an order's sheet, its jobs drafted by a maker, or with None by one with what is shipped. Raises InputError
    for another suffix than PDF, and where a job cannot be drafted.
    """
    if out.suffix.lower() != SUFFIX:
        raise InputError(f"an order sheet is not written as '{out.suffix}'", out.name, f"end its name in {SUFFIX}")
    things = tuple(zip(order.lines, ordered(order, maker), strict=True))
    atomic.write(out, pdf(order, things, shop, paper))


def pdf(
    order: Order, things: Sequence[tuple[Line, Made]], shop: Shop, paper: str = "a4"
) -> bytes:  # fmt: skip
    """The sheet: the order, then each thing of it, then what all of it takes and what of that is missing."""
    short, tall = sorted(PAPERS[paper])
    held = io.BytesIO()
    canvas = Canvas(held, pagesize=(short * POINT, tall * POINT), invariant=1)
    canvas.setTitle(f"Order: {order.name}")
    sheet = Sheet(canvas, short, tall)
    sheet.line(order.name, 16, bold=True, after=8)
    days = [(said, day) for said, day in (("wanted", order.wanted), ("promised", order.promised)) if day is not None]
    told = [
        f"for {order.whom}" if order.whom else "",
        *(f"{said} {day:%A} {day.day} {day:%B %Y}" for said, day in days),
    ]
    sheet.line(" · ".join([said for said in told if said] + [str(order.state)]), 10)
    if order.note:
        sheet.line(order.note, 10)
    for line, thing in things:
        sheet.down(4)
        _thing(sheet, line, thing, shop.sorts)
    if things:
        _takes(sheet, order, [thing for _, thing in things], shop)
    canvas.save()
    return held.getvalue()


def _thing(sheet: Sheet, line: Line, thing: Made, sorts: Sequence[Sort]) -> None:
    job, pieces = line.job, _cut(thing)
    sheet.need(PICTURE + 24)
    sheet.tick(False)
    sheet.line(f"{line.count} × {job.name}", 12, bold=True, after=6, inset=6.5)
    hand = ", for the left hand" if job.settings.word("hand") == "left" else ""
    sheet.line(f"{styles.style(job.style).said}{hand}", 10, after=5, inset=6.5)
    sizes = np.array([np.ptp(piece.cut, axis=0) for piece in pieces]) + APART
    lows = np.array([piece.cut.min(axis=0) for piece in pieces])
    at = filling(sizes, (sheet.wide - 2 * BORDER) / PICTURE)
    sheet.outlines([piece.cut - low + by for piece, low, by in zip(pieces, lows, at, strict=True)], PICTURE)
    of = {id(piece): each.said for each in leathers([thing], sorts) for _, mine in each.parts for piece in mine}
    for piece in pieces:
        wide, high = (format_length(float(size), System.MM) for size in np.ptp(piece.cut, axis=0))
        leather = of.get(id(piece), f"{piece.leather} {piece.thickness:g} mm")
        sheet.line(f"{piece.count * line.count} × {piece.name}, {wide} by {high}, {leather}", 9, after=SMALL, inset=6.5)


def _takes(sheet: Sheet, order: Order, things: Sequence[Made], shop: Shop) -> None:
    """What all of it takes; red, what there is too little of for what is still to be done."""
    sheet.down(4)
    sheet.need(20)
    sheet.line("It takes", 12, bold=True, after=6)
    for each in leathers(things, shop.sorts):
        lost = "" if each.sort else ": the shop has none like it"
        sheet.line(f"{each.area / 1e6:.3f} m² of {each.said}, net{lost}", 10, ink=INK if each.sort else MADDER)
    lacks = {want.need.said: want.buy for want in against(needs_still(order.id, things, shop), shop.stock)}
    for need in needs(things):
        buy = lacks.get(need.said, 0.0)
        said = f"{need.amount:.3g} {need.unit} of {need.said}, for {need.why}"
        buys = f"; to buy: {buy:.3g} {need.unit}" if buy else ""
        sheet.line(said + buys, 10, ink=MADDER if buy else INK)


def _cut(thing: Made) -> list[Piece]:
    return [piece for piece in thing.draft.pieces if piece.role is not Role.TEMPLATE]
