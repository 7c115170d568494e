"""The strip of days: when hands are at what, and below that what waits meanwhile; today first."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime, timedelta

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QWidget

from tailor.core.shop.sitting import Bar, Block, Promise
from tailor.desk import theme
from tailor.files.dyes import INK, MADDER, WALNUT

WIDE = 118.0  # px of a day
HEAD, HANDS, WAITS, FOOT = (
    22.0,
    54.0,
    22.0,
    20.0,
)  # px from the top: the day, hands, what waits, dates that are promised
LEAST = 4.0  # px of a step
HIGH = int(HEAD + HANDS + WAITS + FOOT + 12)


class Days(QWidget):
    """Draws them. chosen: a step was taken hold of."""

    chosen = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFixedHeight(HIGH)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The days ahead")
        self.setToolTip("Hands above, what waits below. Left and Right go to other days, Home back to today.")
        self.today = date.min
        self.first = 0  # days from today
        self.blocks: Sequence[Block] = ()
        self._hours = 9.0, 18.0  # of a day that are drawn: those that hands are at the bench in
        self.bars: Sequence[Bar] = ()
        self.promises: Sequence[Promise] = ()
        self.in_hand = ""
        self.now: datetime | None = None

    def show_days(
        self, now: datetime, blocks: Sequence[Block], bars: Sequence[Bar], promises: Sequence[Promise], in_hand: str
    ) -> None:
        self.now, self.today = now, now.date()
        self.blocks, self.bars, self.promises, self.in_hand = blocks, bars, promises, in_hand
        low = min((b.begins.hour + b.begins.minute / 60 for b in blocks), default=9.0)
        high = max((b.ends.hour + b.ends.minute / 60 for b in blocks), default=18.0)
        self._hours = low, max(high, low + 1.0)
        self.update()

    # Where things are

    def _x(self, at: datetime) -> float:
        """Where a moment is; what is outside the hours drawn lies at the edge of its day."""
        low, high = self._hours
        days = (at.date() - self.today).days - self.first
        share = min(max((at.hour + at.minute / 60 - low) / (high - low), 0.0), 1.0)
        return 8.0 + WIDE * days + 4.0 + (WIDE - 8.0) * share

    def box(self, block: Block) -> QRectF:
        """Where a block is drawn."""
        left, right = self._x(block.begins), self._x(block.ends)
        return QRectF(left, HEAD + 4, max(right - left, LEAST), HANDS - 8)

    def block_at(self, spot: QPointF) -> Block | None:
        return next((b for b in reversed(self.blocks) if self.box(b).adjusted(-1, 0, 1, 0).contains(spot)), None)

    # How they look

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        strip = QRectF(self.rect()).adjusted(4, 2, -4, -4)
        painter.setPen(QPen(QColor(WALNUT if self.hasFocus() else theme.STRAP_DARK), 2.2 if self.hasFocus() else 1.0))
        painter.setBrush(QColor(theme.LEATHER))
        painter.drawRoundedRect(strip, 8, 8)
        if self.now is None:
            return
        painter.setClipRect(strip)
        many = int(self.width() // WIDE) + 1
        for n in range(many):
            self._day(painter, n, self.today + timedelta(days=self.first + n))
        for bar in self.bars:
            self._bar(painter, bar)
        for block in self.blocks:
            self._block(painter, block)
        for promise in self.promises:
            self._promise(painter, promise)
        x = self._x(self.now)
        if x > 0:
            painter.setPen(QPen(QColor(MADDER), 1.6))
            painter.drawLine(QPointF(x, HEAD), QPointF(x, HEAD + HANDS + WAITS))

    def _day(self, painter: QPainter, n: int, day: date) -> None:
        x = 8.0 + WIDE * n
        painter.setPen(QPen(QColor(theme.STRAP), 1.0))
        if n:
            painter.drawLine(QPointF(x, 8), QPointF(x, self.height() - 10))
        painter.setPen(QColor(INK))
        said = "today" if day == self.today else f"{day:%a} {day.day} {day:%b}"
        painter.setFont(theme.text(9.5, day == self.today))
        painter.drawText(QRectF(x + 6, 4, WIDE - 8, HEAD - 4), Qt.AlignmentFlag.AlignVCenter, said)

    def _block(self, painter: QPainter, block: Block) -> None:
        box, held = self.box(block), block.id == self.in_hand
        if box.right() < 0 or box.left() > self.width():
            return
        painter.setPen(QPen(QColor(INK if held else theme.STRAP_DARK), 2.2 if held else 0.8))
        painter.setBrush(QColor(theme.PAPER if held else theme.CARD))
        painter.drawRoundedRect(box, 2, 2)
        painter.setFont(theme.text(8.5))
        if box.width() > 40:
            text = painter.fontMetrics().elidedText(block.said, Qt.TextElideMode.ElideRight, int(box.width()) - 6)
            painter.setPen(QColor(INK))
            painter.drawText(box.adjusted(3, 0, -3, 0), Qt.AlignmentFlag.AlignVCenter, text)

    def _bar(self, painter: QPainter, bar: Bar) -> None:
        left, right = self._x(bar.begins), self._x(bar.ends)
        if right < 0 or left > self.width():
            return
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.STRAP))
        painter.drawRoundedRect(QRectF(left, HEAD + HANDS + 4, max(right - left, LEAST), 7), 3, 3)

    def _promise(self, painter: QPainter, promise: Promise) -> None:
        x = 8.0 + WIDE * ((promise.day - self.today).days - self.first) + WIDE - 8
        y = HEAD + HANDS + WAITS
        if not 0 <= x <= self.width() + WIDE:
            return
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.RULING_STOP if promise.late else theme.STRAP_DARK))
        painter.drawPolygon(QPolygonF([QPointF(x, y), QPointF(x, y + 14), QPointF(x - 10, y + 7)]))
        painter.setFont(theme.text(8.5, promise.late))
        painter.setPen(QColor(INK))
        room = QRectF(x - WIDE + 10, y - 1, WIDE - 24, 16)
        text = painter.fontMetrics().elidedText(promise.said, Qt.TextElideMode.ElideRight, int(room.width()))
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)

    # By hand

    def go(self, days: int) -> None:
        """So many days on, or back; never before today."""
        self.first = max(self.first + days, 0)
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if (block := self.block_at(event.position())) is not None:
            self.chosen.emit(block.id)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        turned = event.angleDelta().y() or event.angleDelta().x()
        if turned:
            self.go(-1 if turned > 0 else 1)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        ways = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Home: -self.first}
        if event.key() in ways:
            self.go(ways[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)
