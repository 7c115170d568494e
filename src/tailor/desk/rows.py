"""Rows of cards under their headings, one of which is in hand: as orders lie, and leathers with their hides."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import QFrame, QPushButton, QScrollArea, QWidget

from tailor.desk import theme
from tailor.desk.cards import ARROWS, Card, nearest

WIDE, HIGH, BETWEEN = 132, 104, 8  # px: of a card, and from one to the next


class _Heading(QPushButton):
    """What a row is called, and how it stands; arrows go on to its cards."""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in ARROWS:
            event.ignore()
        else:
            super().keyPressEvent(event)


class Row(QWidget):
    """A heading, and cards. chosen: its heading was pressed."""

    chosen = pyqtSignal()

    def __init__(self, id_: str, said: str) -> None:
        super().__init__()
        self.id = id_
        self.head = _Heading(self)
        self.head.setObjectName("heading")
        self.head.setFont(theme.heading(12))
        self.head.setCheckable(True)
        self.head.clicked.connect(lambda _: self.chosen.emit())
        self.cards: list[Card] = []
        self.say(said)

    def say(self, said: str) -> None:
        self.head.setText(said)
        self.head.adjustSize()

    def put(self, *cards: Card) -> None:
        self.cards = list(cards)

    def lay(self, wide: int) -> int:
        """Stand its cards in a width, px; how high it is then."""
        columns = max((wide + BETWEEN) // (WIDE + BETWEEN), 1)
        y = self.head.height() + 2
        for k, card in enumerate(self.cards):
            line, column = divmod(k, columns)
            card.setGeometry(column * (WIDE + BETWEEN), y + line * (HIGH + BETWEEN), WIDE, HIGH)
        high = y + -(-len(self.cards) // columns) * (HIGH + BETWEEN)
        self.setFixedSize(wide, high)
        return high


class Rows(QScrollArea):
    """Row below row. Keys are those of whatever it lies on, and do not scroll it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._all = QWidget()
        self.setWidget(self._all)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.rows: list[Row] = []

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        event.ignore()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._lay()

    def show_rows(self, rows: Sequence[Row]) -> None:
        """Show other rows; the hand stays where it was."""
        hand = self.hand
        for old in self.rows:
            old.setParent(None)
            old.deleteLater()
        self.rows = list(rows)
        for row in self.rows:
            row.setParent(self._all)
            row.show()
        self._lay()
        same = next((row for row in self.rows if hand is not None and row.id == hand[0]), None)
        if same is not None and hand is not None:
            (same.cards[min(hand[1], len(same.cards) - 1)] if same.cards else same.head).setFocus()

    @property
    def hand(self) -> tuple[str, int] | None:
        """In which row, and on which of its cards, the hand is."""
        return next(((r.id, n) for r in self.rows for n, card in enumerate(r.cards) if card.hasFocus()), None)

    def mark(self, id_: str) -> None:
        """Show which row is in hand."""
        for row in self.rows:
            row.head.setChecked(row.id == id_)

    def go(self, hand: QWidget | None, across: int, down: int) -> None:
        """From what is in hand to what is nearest in a direction."""
        every = [widget for row in self.rows for widget in (row.head, *row.cards)]
        if not every:
            return
        to = nearest(hand, every, across, down) if hand in every else every[0]
        to.setFocus()
        self.ensureWidgetVisible(to)
        row = next(row for row in self.rows if to is row.head or to in row.cards)
        row.chosen.emit()

    def _lay(self) -> None:
        wide, y = self.viewport().width() - 4, 0
        for row in self.rows:
            row.move(0, y)
            y += row.lay(wide) + 4
        self._all.setFixedSize(max(wide, 1), max(y, 1))
