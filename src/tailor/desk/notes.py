"""Notes from trying a mock-up: typed in place on the board, kept as corrections, and shown above it."""

from __future__ import annotations

import re

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QScrollArea, QWidget

from tailor.core.corrections import EASE, REACH, Correction
from tailor.core.errors import InputError
from tailor.core.keys import KEYS
from tailor.core.measure import Kind
from tailor.core.units import System, format_length, parse_length
from tailor.desk import theme
from tailor.desk.words import Words
from tailor.desk.workbench import Workbench

LESS = ("lower", "down", "less", "shorter", "narrower", "in", "tighter", "smaller")
MORE = ("higher", "up", "more", "longer", "wider", "out", "looser", "larger", "deeper")
UNSAID = "tried in a mock-up"
PATTERN = ("seam.", "mouth.", "loop.", "welt.", "fit.")  # what a mock-up can correct; leather and belt are facts
CORRECTED = {KEYS[k].label: k for k in KEYS if KEYS[k].kind is Kind.LENGTH and k.startswith(PATTERN)}
SAID = re.compile(
    r"(?P<what>[a-z ]+?)\s*(?P<amount>[+\-−]?\s*\d[\d./,]*(?:\s+\d+/\d+)?\s*(?:mm|cm|in|\")?)"
    rf"(?:\s+(?P<way>{'|'.join((*LESS, *MORE))}))?"
    r"(?:\s+(?:here|at\s+(?P<at>[^ ]+(?:\s*mm|\s*in)?)))?(?:\s+over\s+(?P<over>.+))?\s*",
    re.IGNORECASE,
)


def parse(text: str, y: float, units: System) -> Correction:
    """A note such as `ease 2 mm here: tight at the heel` or `mouth 8 mm lower`, made at a height y on the object.

    Raises InputError where it is not understood.
    """
    head, _, because = text.partition(":")
    said = SAID.fullmatch(head.strip())
    if said is None:
        raise InputError(
            f"'{head.strip()}' is not understood",
            "note",
            "write it like 'ease 2 mm here: tight' or 'mouth 8 mm lower: …'",
        )
    what = " ".join(said["what"].lower().split())
    amount = said["amount"].replace("−", "-").replace(" ", "", 1) if said["amount"][:1] in "+-−" else said["amount"]
    by = parse_length(amount.lstrip("+"), units.bare, "note")
    way = (said["way"] or "").lower()
    by = -abs(by) if way in LESS else by
    if what in (EASE, "take in"):
        by = -abs(by) if what == "take in" else by
        at = parse_length(said["at"], units.bare, "note") if said["at"] else y
        reach = parse_length(said["over"], units.bare, "note") if said["over"] else REACH
        return Correction(EASE, by, because.strip() or UNSAID, round(at, 1), reach)
    if what not in CORRECTED:
        raise InputError(f"'{what}' cannot be corrected", "note", f"name ease, {', '.join(sorted(CORRECTED))}")
    return Correction(CORRECTED[what], by, because.strip() or UNSAID, round(y, 1))


def told(correction: Correction, units: System) -> str:
    """A correction in a few words."""
    by = format_length(abs(correction.by), units)
    if correction.easing:
        name = "ease" if correction.by > 0 else "take in"
        return f"{name} {by} at {format_length(correction.y, units)}"
    return f"{KEYS[correction.on].label} {'+' if correction.by > 0 else '−'}{by}"


class NoteLine(QLineEdit):
    """Where a note is written, in place on the board. Enter takes it, Esc lets it be."""

    written = pyqtSignal(str, float)

    def __init__(self, board: QWidget) -> None:
        super().__init__(board)
        self.setObjectName("note")
        self.setAccessibleName("Note a correction")
        self.setPlaceholderText("ease 2 here: tight at the heel  ·  mouth 8 lower: hand does not reach")
        self.setFixedSize(430, 30)
        self.y_ = 0.0
        self.hide()

    def open(self, y: float, at: QPoint) -> None:
        """Begin a note for a height on the object, mm, near a place on the board, px."""
        self.y_ = y
        room = self.parentWidget()
        assert room is not None
        x = min(max(at.x() - 60, 8), max(room.width() - self.width() - 8, 8))
        self.move(x, min(max(at.y() - 15, 8), room.height() - 40))
        self.clear()
        self.show()
        self.raise_()
        self.setFocus()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            self._leave()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.written.emit(self.text(), self.y_)
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        if not self.text().strip():  # what was typed stays until it is taken or let be
            self.hide()
        super().focusOutEvent(event)

    def _leave(self) -> None:
        self.clear()
        self.hide()
        room = self.parentWidget()
        if room is not None:
            room.setFocus()


class Notes(QWidget):
    """The corrections of the job, each on a slip of its own that can be taken away. refused: why a note cannot be."""

    refused = pyqtSignal(str)

    def __init__(self, bench: Workbench, line: NoteLine) -> None:
        super().__init__()
        self.setObjectName("bench")
        self.bench, self.line = bench, line
        self.slips: list[QPushButton] = []
        self.setFixedHeight(40)
        holder = QWidget()
        self._row = QHBoxLayout(holder)
        self._row.setContentsMargins(4, 2, 4, 2)
        head = Words("Corrections")
        head.setFont(theme.heading(11.5))
        self._row.addWidget(head)
        self._row.addStretch()
        scroll = QScrollArea()
        scroll.setWidget(holder)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        scroll.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        all_ = QHBoxLayout(self)
        all_.setContentsMargins(4, 0, 4, 0)
        all_.addWidget(scroll)
        line.written.connect(self.write)
        bench.changed.connect(self.refresh)
        self.refresh()

    def write(self, text: str, y: float) -> None:
        """Take a note into the job."""
        if not text.strip():
            self.line.hide()
            return
        try:
            correction = parse(text, y, self.bench.job.units)
            job = self.bench.job.corrected(correction)
        except InputError as error:
            self.refused.emit(str(error))
            return
        self.line.clear()
        self.line.hide()
        self.bench.change(f"correct: {told(correction, job.units)}", job)

    def remove(self, number: int) -> None:
        """Take a correction away."""
        named = told(self.bench.job.settings.corrections[number], self.bench.job.units)
        self.bench.change(f"drop {named}", self.bench.job.uncorrected(number))

    def refresh(self) -> None:
        for slip in self.slips:
            self._row.removeWidget(slip)
            slip.deleteLater()
        self.slips = []
        for k, correction in enumerate(self.bench.job.settings.corrections):
            pinned = correction.on in self.bench.job.settings
            slip = QPushButton(f"{told(correction, self.bench.job.units)}{' (pinned over)' if pinned else ''}  ×")
            slip.setProperty("plain", "false")
            slip.setToolTip(f"{correction.because}\nClick to take this correction away.")
            slip.setAccessibleName(f"Take away {told(correction, self.bench.job.units)}")
            slip.clicked.connect(lambda _, n=k: self.remove(n))
            self._row.insertWidget(self._row.count() - 1, slip)
            self.slips.append(slip)
        self.setVisible(bool(self.slips))
