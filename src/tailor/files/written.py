"""Sheets that are written line by line, as quotes and cards are: where each line goes, page after page."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from reportlab.pdfgen.canvas import Canvas

from tailor.core.carried.loft import Array
from tailor.core.units import INCH
from tailor.files import faces
from tailor.files.dyes import INK, MADDER

POINT = 72 / INCH  # PDF points to the millimetre
BORDER, ROW, SMALL = 20.0, 5.6, 4.2  # mm: about a page, from line to line, and to the why below it


class Sheet:
    """Where the next line goes, page after page."""

    def __init__(self, canvas: Canvas, wide: float, high: float) -> None:
        faces.put_up()
        self._canvas, self.wide, self._high = canvas, wide, high
        self._y = high - BORDER

    def turn(self) -> None:
        """To the next page, unless this one is empty."""
        self.need(self._high - 2 * BORDER)

    def need(self, room: float) -> None:
        """Turn to the next page where less room is left."""
        if self._y - room < BORDER:
            self._canvas.showPage()
            self._y = self._high - BORDER

    def down(self, by: float) -> None:
        self._y -= by

    def line(
        self, text: str, size: float, bold: bool = False, after: float = ROW, inset: float = 0.0, ink: str = INK
    ) -> None:
        """A line of text, parted where it is too long."""
        room = self.wide - 2 * BORDER - inset
        for part in _parted(text, size / POINT, bold, room):
            self.need(after)
            self._put(BORDER + inset, part, size, bold, ink)
            self._y -= after

    def tick(self, done: bool) -> None:
        """A box to be ticked at the left of the line that comes; ticked where it is done."""
        side = 3.2 * POINT
        x, y = BORDER * POINT, (self._y - 0.3) * POINT
        self._canvas.setStrokeColor(INK)
        self._canvas.setLineWidth(0.8)
        self._canvas.rect(x, y, side, side)
        if done:
            self._canvas.line(x, y, x + side, y + side)
            self._canvas.line(x, y + side, x + side, y)

    def outlines(self, rings: Sequence[Array], high: float) -> None:
        """Outlines (n, 2) drawn as they lie to one another, as large as a height and the page let them be."""
        every = np.vstack(rings)
        low, size = every.min(axis=0), np.ptp(every, axis=0)
        scale = min(high / size[1], (self.wide - 2 * BORDER) / size[0], 1.0)
        self.need(scale * size[1] + ROW)
        base = np.array([BORDER, self._y + ROW / 2 - scale * size[1]])
        self._canvas.setStrokeColor(INK)
        self._canvas.setLineWidth(0.6)
        for ring in rings:
            points = (base + scale * (ring - low)) * POINT
            drawn = self._canvas.beginPath()
            drawn.moveTo(*points[0])
            for at in points[1:]:
                drawn.lineTo(*at)
            drawn.close()
            self._canvas.drawPath(drawn)
        self._y -= scale * size[1] + ROW / 2

    def cells(self, what: str, amount: str, price: str, total: str, bold: bool = False, lost: bool = False) -> None:
        """A row of the table: what at the left, the numbers at the right."""
        self.need(ROW)
        right = self.wide - BORDER
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
