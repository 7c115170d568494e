"""The notice: one line below the masthead that says what happened and offers what to do; never in the way."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from tailor.desk import theme
from tailor.desk.words import Words


class Notice(QWidget):
    """Shows one message at a time, plain or grave, with up to two things to do about it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("notice")
        self.setFixedHeight(36)
        self._grave = False
        self.said = Words()
        self.said.setAccessibleName("Notice")
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(16, 2, 10, 2)
        self._row.addWidget(self.said, 1)
        self._buttons: list[QPushButton] = []
        self.hide()

    def say(self, message: str, *offers: tuple[str, Callable[[], object]], grave: bool = False) -> None:
        """Say something. offers: what can be done about it, label and deed."""
        for button in self._buttons:
            self._row.removeWidget(button)
            button.deleteLater()
        self._buttons = []
        self._grave = grave
        self.said.setText(message)
        self.said.setToolTip(message)
        for label, deed in (*offers, ("Close", self.hide)):
            button = QPushButton(label)
            button.setProperty("plain", "false")
            button.clicked.connect(lambda _, d=deed: self._do(d))
            self._row.addWidget(button)
            self._buttons.append(button)
        self.show()
        self.update()

    def _do(self, deed: Callable[[], object]) -> None:
        self.hide()
        deed()

    def forgive(self) -> None:
        """A complaint is done with once something else is changed."""
        if self._grave:
            self.hide()

    def offer(self, label: str) -> QPushButton:
        """The button of an offer by its label."""
        return next(b for b in self._buttons if b.text() == label)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setPen(QPen(QColor(theme.RULING_STOP if self._grave else theme.EDGE), 1.4))
        painter.setBrush(QColor("#fbe6df" if self._grave else theme.PAPER))
        painter.drawRect(self.rect().adjusted(5, 2, -6, -3))
