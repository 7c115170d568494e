"""The bill: a quote line by line, each with its why below it, as it stands on an order's sheet."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from tailor.core.shop.quote import Quote, Terms
from tailor.core.shop.stock import Want
from tailor.desk import theme
from tailor.files.dyes import GALL, INK

ROW, WHY = 17.0, 14.0  # px: of a line, and of its why
EDGE, AMOUNT = 4.0, 74.0  # px beside it, and from the sum to the amount
RIGHT, LEFT = Qt.AlignmentFlag.AlignRight, Qt.AlignmentFlag.AlignLeft


class Bill(QWidget):
    """What an order comes to, and what must be bought for it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("Quote")
        self._lines: list[tuple[str, str, str, str, bool]] = []  # what, amount, sum, why, bold

    def show_quote(self, quote: Quote | None, wants: Sequence[Want], terms: Terms) -> None:
        """Show a quote, or nothing."""
        self._lines = []
        if quote is not None:
            for item in quote.items:
                price = "no price" if item.price is None else f"{item.sum:.2f}"
                self._lines.append((item.what, item.amounting, price, item.why, False))
            self._lines.append((f"margin {quote.margin:.0%}", "", f"{quote.added:.2f}", "", False))
            self._lines.append(("in all", "", terms.said(quote.total), "", True))
        missing = (want for want in wants if want.buy > 0)
        self._lines += [(f"to buy: {w.need.said}", w.missing.amounting, "", "", False) for w in missing]
        self.setAccessibleDescription("; ".join(" ".join(filter(None, line[:3])) for line in self._lines))
        self.setMinimumHeight(self.sizeHint().height())
        self.updateGeometry()
        self.update()

    @property
    def said(self) -> list[str]:
        """Its lines as words."""
        return [" ".join(filter(None, line[:3])) for line in self._lines]

    def sizeHint(self) -> QSize:
        return QSize(300, round(sum(ROW + (WHY if line[3] else 0) for line in self._lines) + 12))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        y, wide = 4.0, self.width() - 2 * EDGE
        for what, amount, money, why, bold in self._lines:
            if bold:
                painter.setPen(QPen(QColor(theme.EDGE), 1))
                painter.drawLine(QPointF(EDGE, y), QPointF(EDGE + wide, y))
            font = theme.text(10, bold)
            painter.setFont(font)
            painter.setPen(QColor(theme.RULING_STOP if money == "no price" or what.startswith("to buy") else INK))
            room = QRectF(EDGE, y, wide, ROW)
            fits = QFontMetricsF(font).elidedText(what, Qt.TextElideMode.ElideRight, wide - 2 * AMOUNT)
            painter.drawText(room, LEFT, fits)
            painter.drawText(room.adjusted(0, 0, -AMOUNT if money or not amount else 0, 0), RIGHT, amount)
            painter.drawText(room, RIGHT, money)
            y += ROW
            if why:
                small = theme.text(8.5)
                painter.setFont(small)
                painter.setPen(QColor(GALL))
                said = QFontMetricsF(small).elidedText(why, Qt.TextElideMode.ElideRight, wide - 10)
                painter.drawText(QRectF(EDGE + 10, y, wide - 10, WHY), LEFT, said)
                y += WHY
