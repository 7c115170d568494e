"""The shelf, seen first: measure something new, go on with what was in hand, or try the thatching crew's things."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QEvent, QRectF, QSignalBlocker, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QHideEvent, QKeyEvent, QPainter, QPen, QResizeEvent
from PyQt6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from tailor import demo
from tailor.core.draft import styles
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.desk import keeping, theme
from tailor.desk.capture.ways import STATIONS
from tailor.desk.cards import ARROWS, Card, Thing, nearest
from tailor.desk.counter import Counter
from tailor.desk.portraits import Portraits
from tailor.desk.ways_drawn import DRAWN
from tailor.desk.words import Words
from tailor.files import job_file

if TYPE_CHECKING:
    from tailor.files.shop_book.book import Shelved

SAID = {
    "Block": "by its three sizes", "Caliper": "a caliper that talks", "Tape": "a tape, round it",
    "Outline": "a drawing of it", "Photo": "a photo on the mat", "Scan": "on a scanner's glass",
    "Mesh": "from a solid scan", STATIONS: "a table of widths",
}  # fmt: skip
FIRST = ("Block", "Caliper", "Tape", "Photo", "Outline", "Scan", "Mesh", STATIONS)
HIGH, LOW = 140, 88  # px: of a card, and of one where room is short
NARROWEST, WIDEST = 94, 190  # px
SOUGHT = 300  # px of what is looked for
MOST = 8  # pieces of work not saved yet that lie there
BETWEEN, EDGE = 10, 26  # px


class Shelf(QWidget):
    """Cards in rows under their headings; arrows go from one to the next.

    begun: something new is to be measured in a way. opened: the file of a job. taken_up: work that was not saved.
    copied: a job whose file is gone, of which a copy was kept. shown_demo: the name of a demo job. left: back to the
    bench.
    """

    begun = pyqtSignal(str)
    opened = pyqtSignal(object)
    taken_up = pyqtSignal(object)
    copied = pyqtSignal(object)
    shown_demo = pyqtSignal(str)
    left = pyqtSignal()

    def __init__(self, counter: Counter, portraits: Portraits, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.counter = counter
        counter.found.connect(self._show_found)
        self.portraits = portraits
        portraits.came.connect(self._redraw)
        self.setObjectName("shelf")
        self.setAccessibleName("Shelf")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._rows: list[tuple[Words, list[Card]]] = []
        self._title = Words("Tailor", self)
        self._title.setFont(theme.heading(22))
        self.sought = QLineEdit(self)
        self.sought.setPlaceholderText("Find among all that was saved")
        self.sought.setAccessibleName("Find among all that was saved")
        self.sought.setClearButtonEnabled(True)
        self.sought.textChanged.connect(self._seek)
        self._found: list[Shelved] = []
        self._hint = Words("", self)
        self._hint.setFont(theme.text(10.5))
        self.can_leave = False
        QVBoxLayout(self)  # its children stand where they are put

    def fill(self, can_leave: bool) -> None:
        """Put on the shelf what there is now. can_leave: a job lies on the bench, to go back to."""
        self.can_leave = can_leave
        with QSignalBlocker(self.sought):
            self.sought.clear()
        self._found = []
        self._put()
        self.first.setFocus()

    def _put(self) -> None:
        """Every row anew, the first with what was found, if something is looked for."""
        for head, cards in self._rows:
            for widget in (head, *cards):
                widget.setParent(None)
                widget.deleteLater()
        self._rows = []
        if self.sought.text().strip():
            said = f"Found by “{self.sought.text().strip()}”" if self._found else "Nothing like that was saved"
            self._row(said, [self._shelved(found) for found in self._found])
        else:
            self._usual()
        back = " Esc goes back to the bench." if self.can_leave else ""
        self._hint.setText(f"Arrows and Enter choose; a station table, a drawing or a photo can be dropped here.{back}")
        self._lay()

    def _usual(self) -> None:
        """What lies there when nothing is looked for."""
        self._row("Measure something new", [
            Thing(name, SAID[name], DRAWN[name], lambda n=name: self.begun.emit(n)) for name in FIRST
        ])  # fmt: skip
        kept = keeping.unsaved(MOST + 1)
        more = " · older work that was kept comes up once this is saved or thrown away" if len(kept) > MOST else ""
        if lying := [*map(self._kept, kept[:MOST]), *map(self._filed, keeping.recent())]:
            self._row(f"Go on with{more}", lying)
        self._row("Try the thatching crew’s things", [self._demo(name) for name in demo.names()])

    def _seek(self, text: str) -> None:
        """Look for what is typed among all that was saved; with nothing typed, show what lay there before."""
        if text.strip():
            self.counter.find(text)
        else:
            self._found = []
            self._put()

    def _show_found(self, found: list[Shelved]) -> None:
        if self.isVisible() and self.sought.text().strip():
            self._found = found
            self._put()

    def _shelved(self, found: Shelved) -> Thing:
        """A job that was saved: its file where that is still there, else the copy that was kept."""
        said = styles.style(found.job.style).said.lower()

        def take() -> None:
            if found.path.is_file():
                self.opened.emit(found.path)
            else:
                self.copied.emit(found.job)

        return Thing(found.job.name, said, self.portraits.drawn(found.job), take)

    @property
    def first(self) -> QWidget:
        """What a hand is on first: the work in hand, else the first way of measuring; what is looked for, where nothing
        was found.
        """
        cards = self._rows[1 if len(self._rows) > 2 else 0][1]
        return cards[0] if cards else self.sought

    @property
    def cards(self) -> list[Card]:
        return [card for _, cards in self._rows for card in cards]

    def _row(self, said: str, things: Sequence[Thing]) -> None:
        head = Words(said, self)
        head.setFont(theme.heading(12.5))
        head.show()
        cards = [Card(thing, self) for thing in things]
        for card in cards:
            card.show()
        self._rows.append((head, cards))

    def _kept(self, held: keeping.Unsaved) -> Thing:
        return Thing(held.job.name, "not saved yet", self.portraits.drawn(held.job), lambda: self.taken_up.emit(held))

    def _filed(self, path: Path) -> Thing:
        """A job in a file; one that cannot be read is there to be told of."""
        take = lambda: self.opened.emit(path)  # noqa: E731
        try:
            job = job_file.load(path)
        except InputError:
            return Thing(path.stem, "cannot be read", _nothing, take)
        return Thing(job.name, styles.style(job.style).said.lower(), self.portraits.drawn(job), take)

    def _demo(self, name: str) -> Thing:
        job = _of_the_demo(name)
        return Thing(
            job.name,
            styles.style(job.style).said.lower(),
            self.portraits.drawn(job),
            lambda: self.shown_demo.emit(name),
        )

    def _lay(self) -> None:
        """Stand everything in its place; lower cards where there is not room for high ones."""
        wide, high = self.width() - 2 * EDGE, self.height()
        self._title.adjustSize()
        self._title.move(EDGE, 18)
        self.sought.setGeometry(EDGE + wide - min(SOUGHT, wide // 2), 22, min(SOUGHT, wide // 2), 28)
        self._hint.adjustSize()
        self._hint.move(EDGE, high - self._hint.height() - 12)
        most = max(len(FIRST), -(-len(demo.names()) // 2))
        columns = min(max((wide + BETWEEN) // (NARROWEST + BETWEEN), 3), most)
        card_wide = min((wide + BETWEEN) // columns - BETWEEN, WIDEST)
        lines = sum(-(-len(cards) // columns) for _, cards in self._rows)
        room = high - 60 - 34 - 34 * len(self._rows)
        card_high = int(np.clip(room / max(lines, 1) - BETWEEN, LOW, HIGH))
        y = 60
        for head, cards in self._rows:
            head.adjustSize()
            head.move(EDGE, y)
            y += 27
            for k, card in enumerate(cards):
                line, column = divmod(k, columns)
                card.setGeometry(EDGE + column * (card_wide + BETWEEN), y + line * (card_high + BETWEEN), card_wide,
                                 card_high)  # fmt: skip
            y += (-(-len(cards) // columns)) * (card_high + BETWEEN) + 7

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._lay()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape and self.sought.text():
            self.sought.clear()
            self.first.setFocus()
        elif event.key() == Qt.Key.Key_Escape and self.can_leave:
            self.left.emit()
        elif event.key() in ARROWS:
            self._go(*ARROWS[Qt.Key(event.key())])
        elif event.text().strip() and not event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier:
            self.sought.setFocus()  # whoever types looks for something
            self.sought.setText(self.sought.text() + event.text())
        else:
            super().keyPressEvent(event)

    def _go(self, across: int, down: int) -> None:
        """From the card in hand to the nearest one in a direction."""
        hand = self.focusWidget()
        if not isinstance(hand, Card):
            if self.cards:
                self.first.setFocus()
            return
        nearest(hand, self.cards, across, down).setFocus()

    def _redraw(self) -> None:
        for card in self.cards:
            card.update()

    def hideEvent(self, event: QHideEvent | None) -> None:
        self.portraits.leave()

    def changeEvent(self, event: QEvent | None) -> None:
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(1280, 752)


@cache
def _of_the_demo(name: str) -> Job:
    """A demo job, read once however often the shelf is turned to."""
    return demo.job(name)


def _nothing(painter: QPainter, box: QRectF) -> None:
    """What cannot be drawn: an empty outline."""
    painter.setPen(QPen(QColor(theme.EDGE), 1.4, Qt.PenStyle.DashLine))
    painter.drawRect(box.adjusted(box.width() / 3, 4, -box.width() / 3, -4))
