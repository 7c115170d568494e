"""The picker: what a maker is asked before choosing a construction, and what suits, drafted and shown as pictures."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QEvent, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QHideEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QShowEvent, QTransform
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QGridLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from tailor.core.draft import styles
from tailor.core.draft.style import MOULDED, WHAT, WORN, Asked
from tailor.core.draft.tooled.field import placed_again
from tailor.core.maker import Maker
from tailor.core.picking import Offer, Refusal, best_first, guessed
from tailor.core.units import format_length
from tailor.desk import theme
from tailor.desk.card import draw_scene
from tailor.desk.portraits import Portraits
from tailor.desk.proposing import ProposingRoom
from tailor.desk.scene import Scene
from tailor.desk.scene_made_up import made_up
from tailor.desk.words import Words
from tailor.desk.workbench import Workbench
from tailor.files.dyes import GALL, WALNUT

QUESTIONS = (("What is it?", WHAT), ("How is it worn?", WORN), ("How closely moulded?", MOULDED))
ACROSS = 6  # answers to a row
CARDS = 3  # cards to a row
PICTURE = 150  # px high
ROOM = 6.0  # mm left round a picture


class Picture(QWidget):
    """A case made up, small; in the round once that is drawn."""

    def __init__(self, parent: QWidget, offer: Offer, portraits: Portraits) -> None:
        super().__init__(parent)
        self.scene: Scene | None = None
        self.setFixedHeight(PICTURE)
        self._draw = portraits.drawn(offer.job, self._flat)
        portraits.came.connect(self.update)
        if offer.made is not None:
            self.scene = made_up(offer.made, offer.job, bare=False)
            self.scene.pieces, self.scene.zones, self.scene.captions = [], [], []

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._draw(painter, QRectF(self.rect()))

    def _flat(self, painter: QPainter, box: QRectF) -> None:
        if self.scene is None:
            return
        shown = [np.asarray(fill[0]) for fill in self.scene.fills] + [np.asarray(line[1]) for line in self.scene.lines]
        every = np.vstack([part for part in shown if len(part)])
        low, high = every.min(axis=0) - ROOM, every.max(axis=0) + ROOM
        wide, tall = high - low
        scale = min(self.width() / wide, self.height() / tall)
        middle = (low + high) / 2
        view = QTransform.fromTranslate(self.width() / 2, self.height() / 2)
        view.scale(scale, -scale)
        view.translate(-float(middle[0]), -float(middle[1]))
        draw_scene(painter, view, self.scene)


class Choice(QFrame):
    """One construction as a whole case: its picture, what it takes, what holds the thing in and what it hangs by."""

    clicked = pyqtSignal()

    def __init__(
        self, parent: QWidget, offer: Offer, portraits: Portraits, present: bool, number: int
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.offer = offer
        self._name = Words()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        self.setMinimumWidth(200)
        within = QVBoxLayout(self)
        within.setContentsMargins(10, 8, 10, 8)
        within.setSpacing(2)
        self.picture = Picture(self, offer, portraits)
        within.addWidget(self.picture)
        looks = f" · {offer.looks} to look at" if offer.looks else ""
        for words, font in (
            (offer.said, theme.text(11.5, bold=True)),
            (f"{offer.leather:.0f} cm² · {offer.minutes:.0f} min{looks}", theme.text(10)),
            (f"Held in by {offer.holds}. " + (f"Hangs by {offer.hangs}." if offer.hangs else "Carried loose."),
             theme.text(10)),
            (f"{offer.why.split('; held in')[0].capitalize()}.", theme.text(9.5)),
        ):  # fmt: skip
            label = Words(words)
            label.setFont(font)
            label.setWordWrap(True)
            within.addWidget(label)
            self._name = label if words == offer.said else self._name
        within.addStretch(1)
        self._now = " · now" if present else ""
        self.number(number)
        self.setAccessibleName(f"{offer.said}: {offer.leather:.0f} cm², {offer.minutes:.0f} minutes. {offer.why}")

    def number(self, number: int) -> None:
        """Say which it is, and so the key that takes it."""
        self._name.setText(f"{number}  {self.offer.said}{self._now}")

    def click(self) -> None:
        self.clicked.emit()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self.rect().contains(event.position().toPoint()):
            self.clicked.emit()

    def enterEvent(self, event: QEvent | None) -> None:
        self.update()

    def leaveEvent(self, event: QEvent | None) -> None:
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        held = self.hasFocus() or self.underMouse()
        painter.setPen(QPen(QColor(WALNUT if held else theme.EDGE), 2.4 if self.hasFocus() else 1))
        painter.setBrush(QColor(theme.PAPER))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5), 5, 5)


class Shelf(QScrollArea):
    """What the cards lie on; arrows walk the cards and are not for it."""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None:
            event.ignore()


class Picker(QWidget):
    """Questions, and whole cases drafted by their answers. done: it has been answered, or given up."""

    done = pyqtSignal()

    def __init__(self, bench: Workbench, portraits: Portraits, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.portraits = portraits
        self.setObjectName("picker")
        self.setAccessibleName("Choose a construction")
        self.bench = bench
        self.asked = Asked(WHAT[0], WORN[0], MOULDED[0])
        self._maker: Maker | None = None  # by whose numbers it is drafted; None: nothing is asked
        self.room = ProposingRoom(self)
        self.room.found.connect(self._found)
        self.room.done.connect(self._all_found)
        self.choices: list[Choice] = []
        self.refused: list[Refusal] = []
        outer = QVBoxLayout(self)
        outer.setContentsMargins(18, 14, 18, 8)
        outer.setSpacing(4)
        self.heading = Words("Choose a construction")
        self.heading.setFont(theme.heading(15))
        outer.addWidget(self.heading)
        self.measured = Words()
        self.measured.setWordWrap(True)
        self.measured.setFont(theme.text(10))
        outer.addWidget(self.measured)
        self.answers: list[QButtonGroup] = []
        for k, (question, choices) in enumerate(QUESTIONS):
            outer.addWidget(self._asking(k, question, choices))
        self.progress = Words()
        self.progress.setFont(theme.text(10))
        outer.addWidget(self.progress)
        self._scroll = Shelf()
        self._scroll.setWidgetResizable(True)
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        inside = QWidget()
        below = QVBoxLayout(inside)
        below.setContentsMargins(0, 0, 0, 0)
        self._cards = QGridLayout()
        self._cards.setSpacing(8)
        below.addLayout(self._cards)
        self.others = Words()
        self.others.setWordWrap(True)
        self.others.setFont(theme.text(9.5))
        self.others.setStyleSheet(f"color: {GALL}")
        below.addWidget(self.others)
        below.addStretch(1)
        self._scroll.setWidget(inside)
        outer.addWidget(self._scroll, 1)

    def _asking(self, k: int, question: str, choices: tuple[str, ...]) -> QWidget:
        row = QWidget()
        grid = QGridLayout(row)
        grid.setContentsMargins(0, 2, 0, 2)
        grid.setSpacing(4)
        label = Words(question)
        label.setFont(theme.text(10.5, bold=True))
        label.setMinimumWidth(150)
        grid.addWidget(label, 0, 0)
        group = QButtonGroup(self)
        for n, answer in enumerate(choices):
            button = QPushButton(answer)
            button.setCheckable(True)
            button.setAccessibleName(f"{question} {answer}")
            group.addButton(button, n)
            grid.addWidget(button, n // ACROSS, 1 + n % ACROSS)
        grid.setColumnStretch(ACROSS + 1, 1)
        group.idClicked.connect(lambda n, k=k: self._answer(k, n))
        self.answers.append(group)
        return row

    def sizeHint(self) -> QSize:
        return QSize(700, 500)

    def ask(self) -> None:
        """Begin with what the measured object looks like."""
        job = self.bench.job
        self.asked = guessed(job.loft, job.zones)
        rows = job.loft.sizes(np.array([s.y for s in job.stations]))
        sizes = (float(rows[:, 1].max()), job.loft.top - job.loft.tip, float((rows[:, 2] + rows[:, 3]).max()))
        across, up, through = (format_length(size, job.units) for size in sizes)
        marked = sorted({zone.kind.value for zone in job.zones})
        zones = f" Marked on it: {', '.join(marked)}." if marked else ""
        self.measured.setText(
            f"{job.name}: {across} across, {up} up, {through} thick.{zones} Object, leather and corrections stay."
        )
        self._propose()
        self.setFocus()

    def leave(self) -> None:
        """Nothing more is wanted of it for now."""
        self._maker = None
        self.room.stop()

    def _answer(self, k: int, n: int) -> None:
        field = ("what", "worn", "moulded")[k]
        self.asked = replace(self.asked, **{field: QUESTIONS[k][1][n]})
        self._propose()

    def _propose(self) -> None:
        for group, (_, choices), answer in zip(
            self.answers, QUESTIONS, (self.asked.what, self.asked.worn, self.asked.moulded), strict=True
        ):
            group.button(choices.index(answer)).setChecked(True)
        for choice in self.choices:
            choice.deleteLater()
        self.choices, self.refused = [], []
        self.others.setText("")
        self.progress.setText("Drafting what suits …")
        self._maker = self.bench.maker
        self.room.ask(self.bench.job, self.asked)

    def showEvent(self, event: QShowEvent | None) -> None:
        """Looked at again: where the maker goes by other numbers since, what suits is drafted anew."""
        super().showEvent(event)
        if self._maker not in (None, self.bench.maker):
            self._propose()

    def _found(self, found: object) -> None:
        if isinstance(found, Offer):
            present = found.style == self.bench.job.style
            choice = Choice(self, found, self.portraits, present, len(self.choices) + 1)
            choice.clicked.connect(lambda c=choice: self._take(c))
            self._cards.addWidget(choice, len(self.choices) // CARDS, len(self.choices) % CARDS)
            self.choices.append(choice)
            if len(self.choices) == 1 and self.isVisible():
                choice.setFocus()
            self.progress.setText(f"{len(self.choices)} drafted, more are being drafted …")
        elif isinstance(found, Refusal):
            self.refused.append(found)

    def _all_found(self) -> None:
        self._best_first()
        serves = f" {self.choices[0].offer.said} serves." if self.choices else ""
        lines = [f"{r.said}: {r.why[:1].lower()}{r.why[1:].rstrip('.')}." for r in self.refused]
        self.others.setText("Not offered." + serves + "\n" + "\n".join(lines) if lines else "")
        many = "; arrows and Enter, or its number, take one" if self.choices else ""
        self.progress.setText(f"{len(self.choices)} drafted without a stop{many}")

    def _best_first(self) -> None:
        """The cards in their order, numbered anew; what has the focus keeps it, unless nobody has moved it."""
        first = self.choices[0] if self.choices else None
        untouched = first is not None and first.hasFocus()
        order = best_first([choice.offer for choice in self.choices])
        self.choices.sort(key=lambda choice: next(k for k, o in enumerate(order) if o is choice.offer))
        for k, choice in enumerate(self.choices):
            choice.number(k + 1)
            self._cards.addWidget(choice, k // CARDS, k % CARDS)
        if untouched:
            self.choices[0].setFocus()

    def _take(self, choice: Choice) -> None:
        offer = choice.offer
        self.leave()
        settings = self.bench.job.settings
        for key, value in offer.settings.items():
            settings = settings.pin(key, value)
        name = styles.style(offer.style).said.lower()
        tooling = placed_again(self.bench.job.tooling, offer.made)
        self.bench.change(name, replace(self.bench.job, style=offer.style, settings=settings, tooling=tooling))
        self.done.emit()

    def hideEvent(self, event: QHideEvent | None) -> None:
        self.portraits.leave()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        steps = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1, Qt.Key.Key_Down: CARDS, Qt.Key.Key_Up: -CARDS}
        number = event.key() - Qt.Key.Key_1
        if event.key() == Qt.Key.Key_Escape:
            self.leave()
            self.done.emit()
        elif event.key() in steps and self.choices:
            at = next((k for k, c in enumerate(self.choices) if c.hasFocus()), None)
            to = 0 if at is None else min(max(at + steps[Qt.Key(event.key())], 0), len(self.choices) - 1)
            self.choices[to].setFocus()
            self._scroll.ensureWidgetVisible(self.choices[to])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            held = next((c for c in self.choices if c.hasFocus()), None)
            if held is not None:
                held.click()
        elif 0 <= number < len(self.choices):
            self.choices[number].click()
        else:
            super().keyPressEvent(event)
