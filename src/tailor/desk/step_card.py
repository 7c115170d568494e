"""The card of the step in hand: what to do, for how long, what to see to, and what to do about it."""

from __future__ import annotations

from datetime import datetime, timedelta

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QGridLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from tailor.core.shop.progress import Stands, Worked
from tailor.core.shop.sitting import Turn
from tailor.desk import theme
from tailor.desk.words import Words
from tailor.files.dyes import GALL, MADDER

BIG = 46  # px high, for gluey hands
FORGOTTEN = timedelta(hours=4)  # that a clock runs before it is asked about
LABELS = {Stands.TO_DO: "Begin", Stands.RUNNING: "Done", Stands.PAUSED: "Go on"}


class StepCard(QFrame):
    """on: the large button. paused, already: the others. took: so many minutes, as typed."""

    on = pyqtSignal()
    paused = pyqtSignal()
    already = pyqtSignal()
    took = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("sheet")
        self.state, self.name, self.of = Words(), Words(), Words()
        self.clock, self.why, self.tools, self.look, self.caution = (Words() for _ in range(5))
        self.name.setFont(theme.heading(17))
        self.clock.setFont(theme.heading(15))
        self.state.setStyleSheet(f"color: {GALL}")
        self.caution.setStyleSheet(f"color: {MADDER}")
        self.caution.setFont(theme.text(10.5, True))
        self.name.setAccessibleName("Step in hand")
        inside = QVBoxLayout(self)
        inside.setContentsMargins(14, 8, 14, 10)
        inside.setSpacing(3)
        for words in (self.state, self.name, self.of, self.clock, self.why, self.tools, self.look, self.caution):
            words.setWordWrap(True)
            inside.addWidget(words)
        self.go = QPushButton("Begin  (Space)")
        self.go.setMinimumHeight(BIG)
        self.go.setFont(theme.text(13, True))
        self.pause = QPushButton("Pause  (P)")
        self.done = QPushButton("Done already  (D)")
        self.minutes = QLineEdit()
        self.minutes.setPlaceholderText("took …  (T)")
        self.minutes.setAccessibleName("Minutes that it took")
        self.minutes.setToolTip("Minutes of hands, where the clock does not know: Enter notes it as done in so many")
        grid = QGridLayout()
        grid.setSpacing(6)
        grid.addWidget(self.go, 0, 0, 1, 3)
        for n, widget in enumerate((self.pause, self.done, self.minutes)):
            widget.setMinimumHeight(30)
            grid.addWidget(widget, 1, n)
        inside.addLayout(grid)
        for button in (self.go, self.pause, self.done):
            button.setProperty("plain", "false")
        self.go.clicked.connect(self.on)
        self.pause.clicked.connect(self.paused)
        self.done.clicked.connect(self.already)
        self.minutes.returnPressed.connect(self._typed)

    def show_turn(self, turn: Turn | None, worked: Worked | None, waits: str, now: datetime, writes: bool) -> None:
        """Show a step, how far it is, and what it waits for. writes: whether anything can be noted."""
        stands = Stands.TO_DO if turn is None else turn.stands
        for button in (self.go, self.pause, self.done, self.minutes):
            button.setEnabled(turn is not None and writes)
        self.pause.setEnabled(turn is not None and writes and stands is Stands.RUNNING)
        self.go.setText(f"{LABELS.get(stands, 'Begin')}  (Space)")
        self.done.setText("Done  (D)" if stands is Stands.PAUSED else "Done already  (D)")
        self.done.setVisible(stands is not Stands.RUNNING)
        if turn is None:
            for words in (self.state, self.name, self.of, self.clock, self.why, self.tools, self.look, self.caution):
                words.setText("")
            return
        doing = turn.task.doing
        self.state.setText(waits or _state(stands, worked, now))
        self.name.setText(doing.name)
        self.of.setText(f"{turn.task.thing} · {turn.task.order.name}")
        self.tick(turn, worked, now)
        self.why.setText(turn.again or doing.why)
        self.tools.setText("\n".join(filter(None, (doing.tools, doing.uses))))
        self.look.setText(f"Before going on: {doing.look}." if doing.look else "")
        self.caution.setText(doing.caution)
        for words in (self.why, self.tools, self.look, self.caution):
            words.setVisible(bool(words.text()))

    def tick(self, turn: Turn, worked: Worked | None, now: datetime) -> None:
        """The clock."""
        thought = f"{turn.task.doing.whole_minutes} min"
        if worked is None or turn.stands is Stands.TO_DO:
            self.clock.setText(thought)
            return
        seconds = int(60 * worked.minutes(now))
        self.clock.setText(f"{seconds // 3600}:{seconds // 60 % 60:02}:{seconds % 60:02} of {thought}")

    def _typed(self) -> None:
        text = self.minutes.text().strip()
        self.minutes.clear()
        self.took.emit(text)


def _state(stands: Stands, worked: Worked | None, now: datetime) -> str:
    """How far a step is, in words; a clock that may have been forgotten is told."""
    if stands is Stands.RUNNING and worked is not None and now - (since := worked.stretches[-1].began) > FORGOTTEN:
        return f"in hand since {since:%A %H:%M}? T says how many minutes it really took"
    return {Stands.RUNNING: "in hand", Stands.PAUSED: "paused"}.get(stands, "next")
