"""The steps as they come, one below the other: when, what, of which thing."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from tailor.core.shop.progress import Stands
from tailor.core.shop.sitting import Turn
from tailor.desk import theme
from tailor.files.dyes import GALL, INK, WALNUT

ROW = 34.0  # px


class StepList(QWidget):
    """As many as there is room for, about the one in hand. chosen: one was taken hold of, by its id."""

    chosen = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setMinimumHeight(int(ROW))
        self.setAccessibleName("Steps as they come")
        self.turns: Sequence[Turn] = ()
        self.in_hand = ""
        self.today = date.min

    def sizeHint(self) -> QSize:
        return QSize(320, int(6 * ROW))

    def show_turns(self, turns: Sequence[Turn], in_hand: str, today: date) -> None:
        self.turns, self.in_hand, self.today = turns, in_hand, today
        self.setAccessibleDescription("; ".join(f"{t.task.doing.name}, {t.task.thing}" for _, t in self._shown()))
        self.update()

    def _shown(self) -> list[tuple[QRectF, Turn]]:
        """The steps that are seen, and where: the one in hand is among them."""
        room = max(int(self.height() // ROW), 1)
        at = next((n for n, turn in enumerate(self.turns) if turn.id == self.in_hand), 0)
        first = max(min(at - (room > 1), len(self.turns) - room), 0)
        return [
            (QRectF(0, ROW * n, self.width(), ROW), turn) for n, turn in enumerate(self.turns[first : first + room])
        ]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for box, turn in self._shown():
            held = turn.id == self.in_hand
            if held:
                painter.setPen(QPen(QColor(WALNUT), 1.6))
                painter.setBrush(QColor(theme.CARD))
                painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 4, 4)
            day = "" if turn.begins.date() == self.today else f"{turn.begins:%a} "
            when = "now" if turn.stands is Stands.RUNNING else f"{day}{turn.begins:%H:%M}"
            painter.setFont(theme.text(9.5))
            painter.setPen(QColor(GALL))
            painter.drawText(box.adjusted(8, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, when)
            words = box.adjusted(76, 2, -8, -2)
            painter.setPen(QColor(INK))
            painter.setFont(theme.text(10.5, held))
            name = painter.fontMetrics().elidedText(
                turn.task.doing.name, Qt.TextElideMode.ElideRight, int(words.width())
            )
            painter.drawText(words, Qt.AlignmentFlag.AlignTop, name)
            painter.setPen(QColor(GALL))
            painter.setFont(theme.text(9.0))
            of = f"{turn.task.thing} · {turn.task.doing.whole_minutes} min" + (
                " · paused" if turn.stands is Stands.PAUSED else ""
            )
            painter.drawText(words, Qt.AlignmentFlag.AlignBottom, of)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        found = next((turn for box, turn in self._shown() if box.contains(event.position())), None)
        if found is not None:
            self.chosen.emit(found.id)
