"""What was learned, drawn: each constant as a line with the table's word, every case, and what is believed now."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from tailor.core.log.case import Belief, Case
from tailor.core.log.constants import CONSTANTS
from tailor.core.taken import Taken
from tailor.desk import theme
from tailor.desk.drawing import pin_mark
from tailor.files.dyes import GALL, INK, LOGWOOD, WALNUT

ROW, WORDS, EDGE = 58, 0.40, 14  # px high; share of the width for words; px
DOT, NEAR = 3.4, 9.0  # px of a case, and about it


class Lessons(QWidget):
    """chosen: another line is in hand. case: a case was pointed at. used: Enter on a line."""

    chosen = pyqtSignal()
    case = pyqtSignal(object)
    used = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("What was learned")
        self.beliefs: list[Belief] = []
        self.cases: Sequence[Case] = ()
        self.taken: dict[int, Taken] = {}  # by the line it is of
        self.at = 0

    @property
    def belief(self) -> Belief | None:
        return self.beliefs[self.at] if self.at < len(self.beliefs) else None

    def show_beliefs(self, beliefs: Sequence[Belief], cases: Sequence[Case], taken: dict[int, Taken]) -> None:
        """Beliefs, a line each; those of what was met."""
        self.beliefs, self.cases, self.taken = list(beliefs), cases, taken
        self.at = min(self.at, max(len(self.beliefs) - 1, 0))
        self.setMinimumHeight(ROW * len(self.beliefs) + 8)
        self._told()
        self.update()

    def choose(self, at: int) -> None:
        if self.beliefs:
            self.at = min(max(at, 0), len(self.beliefs) - 1)
            self._told()
            self.update()
            self.chosen.emit()

    def _told(self) -> None:
        self.setAccessibleDescription("" if self.belief is None else f"{title(self.belief)}: {said(self.belief)}")

    def of(self, belief: Belief) -> list[Case]:
        """The cases that a line is of."""
        mine = [case for case in self.cases if case.constant == belief.constant and case.method == belief.method]
        return [case for case in mine if case.leather == belief.leather]

    # Drawing

    def box(self, n: int) -> QRectF:
        return QRectF(EDGE, 4 + n * ROW, self.width() - 2 * EDGE, ROW - 6)

    def scale(self, n: int) -> tuple[QRectF, float, float]:
        """Where the line of a belief is, and from what to what it goes."""
        box, belief = self.box(n), self.beliefs[n]
        line = box.adjusted(WORDS * box.width(), 4, -16, -4)
        values = [case.value for case in self.of(belief)]
        low = min([belief.prior_mean - 2.5 * belief.prior_sd, belief.low, *values])
        high = max([belief.prior_mean + 2.5 * belief.prior_sd, belief.high, *values])
        return line, low, high

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.CARD))
        for n in range(len(self.beliefs)):
            self._line(painter, n)

    def _line(self, painter: QPainter, n: int) -> None:
        box, belief = self.box(n), self.beliefs[n]
        on = n == self.at
        painter.setPen(QPen(QColor(WALNUT if on else theme.EDGE), 2.0 if on else 0.8))
        painter.setBrush(QColor(theme.PAPER))
        painter.drawRoundedRect(box, 4, 4)
        words = box.adjusted(10, 4, -(1 - WORDS) * box.width(), -3)
        painter.setFont(theme.text(10.5, belief.offered))
        painter.setPen(QColor(INK))
        elided = painter.fontMetrics().elidedText(title(belief), Qt.TextElideMode.ElideRight, int(words.width()) - 8)
        painter.drawText(words, Qt.AlignmentFlag.AlignTop, elided)
        painter.setFont(theme.text(9.5))
        painter.setPen(QColor(GALL))
        painter.drawText(words, Qt.AlignmentFlag.AlignBottom, said(belief))
        self._drawn(painter, n)

    def _drawn(self, painter: QPainter, n: int) -> None:
        """The table's word as a hump, the cases as dots under it, what is believed as a bar through its middle."""
        belief, (line, low, high) = self.beliefs[n], self.scale(n)
        at = np.linspace(low, high, 90)
        hump = np.exp(-(((at - belief.prior_mean) / belief.prior_sd) ** 2) / 2)
        foot = line.bottom() - 9
        points = [
            QPointF(self._x(v, line, low, high), foot - h * (line.height() - 14)) for v, h in zip(at, hump, strict=True)
        ]
        ends = QPointF(line.right(), foot), QPointF(line.left(), foot)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.ROOM))
        painter.drawPolygon(QPolygonF([*points, *ends]))
        painter.setPen(QPen(QColor(theme.EDGE), 1.2))
        painter.drawLine(*ends)
        middle = self._x(belief.prior_mean, line, low, high)
        painter.drawLine(QPointF(middle, foot + 5), QPointF(middle, line.top()))
        y = line.center().y() - 4
        painter.setPen(QPen(QColor(WALNUT), 5.0, cap=Qt.PenCapStyle.RoundCap))
        painter.drawLine(
            QPointF(self._x(belief.low, line, low, high), y), QPointF(self._x(belief.high, line, low, high), y)
        )
        painter.setPen(QPen(QColor(INK), 2.0))
        x = self._x(belief.mean, line, low, high)
        painter.drawLine(QPointF(x, y - 7), QPointF(x, y + 7))
        for spot, case in self._dots(n):
            after = belief.since is not None and case.made_on >= belief.since
            painter.setPen(QPen(QColor(INK), 1.1))
            painter.setBrush(QColor(INK) if after else QColor(theme.PAPER))
            painter.drawEllipse(spot, DOT, DOT)
        if n in self.taken:
            pin_mark(painter, self._x(self.taken[n].value, line, low, high), y - 14, QColor(LOGWOOD))

    def _dots(self, n: int) -> list[tuple[QPointF, Case]]:
        line, low, high = self.scale(n)
        return [
            (QPointF(self._x(case.value, line, low, high), line.bottom() - 4), case)
            for case in self.of(self.beliefs[n])
        ]

    @staticmethod
    def _x(value: float, line: QRectF, low: float, high: float) -> float:
        return line.left() + (value - low) / max(high - low, 1e-9) * line.width()

    # What a hand does

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        n = int((event.position().y() - 4) // ROW)
        if 0 <= n < len(self.beliefs):
            self.choose(n)
            near = [(abs(spot.x() - event.position().x()), case) for spot, case in self._dots(n)]
            if near and (best := min(near, key=lambda each: each[0]))[0] < NEAR:
                self.case.emit(best[1])

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1, Qt.Key.Key_PageUp: -6, Qt.Key.Key_PageDown: 6}
        if event.key() in steps:
            self.choose(self.at + steps[Qt.Key(event.key())])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.used.emit()
        else:
            super().keyPressEvent(event)

    def sizeHint(self) -> QSize:
        return QSize(600, ROW * max(len(self.beliefs), 1) + 8)


def title(belief: Belief) -> str:
    """What a belief is of."""
    said = CONSTANTS[belief.constant].said if belief.constant in CONSTANTS else "clearance that is wished for"
    of = ", ".join(each for each in (belief.leather.replace("-", " "), belief.method) if each)
    return f"{said[0].upper()}{said[1:]}" + (f" – {of}" if of else "")


def said(belief: Belief) -> str:
    """What is believed, and by what."""
    cases = f"{belief.cases} case{'' if belief.cases == 1 else 's'}"
    unit = "mm" if belief.constant not in CONSTANTS else CONSTANTS[belief.constant].unit
    return f"{belief.mean:.3g} ± {belief.sd:.2g} {unit}".rstrip() + f", {cases}; table {belief.prior_mean:.3g}"
