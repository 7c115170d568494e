"""How a thing is made, school by school: those the shop works by are chosen here, each with its reason; and what that
moved of its steps.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QFrame, QGridLayout, QVBoxLayout, QWidget

from tailor.core.bench.schools import QUESTIONS, Taken
from tailor.desk import theme
from tailor.desk.counter import Counter
from tailor.desk.words import Words

SHOWN = 9  # lines of what moved
CUT = "settled in its pattern"
ASKED = ("mould", "welt", "hole", "stitch", *QUESTIONS)
HEADING = "How it is made"


class Schools(QFrame):
    """By which schools the thing in hand is made; what is chosen goes into the shop book."""

    def __init__(self, counter: Counter, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("sheet")
        self.setAccessibleName("Schools")
        self.counter = counter
        counter.came.connect(self._put)
        counter.refused.connect(lambda _: self._wanted.clear())  # it was meant for what is not as it was
        self.heading, self.moved = Words(HEADING), Words()
        self.heading.setFont(theme.heading(15))
        self.moved.setAccessibleName("What that moved")
        self.moved.setWordWrap(True)
        self.boxes = {question: QComboBox() for question in QUESTIONS}
        self.words = {question: Words() for question in ASKED if question not in QUESTIONS}
        self.whys = {question: Words() for question in ASKED}
        self._wanted: dict[str, str] = {}  # what was chosen, and is not in the book yet
        self._rows: dict[str, tuple[QWidget, ...]] = {}
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(2, 1)
        for row, question in enumerate(ASKED):
            said = Words(question)
            chosen = self.boxes[question] if question in self.boxes else self.words[question]
            self.whys[question].setWordWrap(True)
            self.whys[question].setFont(theme.text(9.5))
            self._rows[question] = said, chosen, self.whys[question]
            for column, widget in enumerate(self._rows[question]):
                grid.addWidget(widget, row, column, Qt.AlignmentFlag.AlignVCenter)
        for question, box in self.boxes.items():
            box.addItems(QUESTIONS[question])
            box.setAccessibleName(f"School of {question}")
            for n, why in enumerate(QUESTIONS[question].values()):
                box.setItemData(n, why, Qt.ItemDataRole.ToolTipRole)
            box.activated.connect(lambda _, q=question: self._choose(q))
        whole = QVBoxLayout(self)
        whole.setContentsMargins(16, 10, 16, 10)
        whole.addWidget(self.heading)
        whole.addLayout(grid)
        whole.addWidget(self.moved)
        whole.addStretch(1)

    def show_taken(self, thing: str, taken: Sequence[Taken]) -> None:
        """Show by which schools a thing is made; without one, those of the shop."""
        shop = self.counter.shop
        if shop is None:
            return
        self.heading.setText(f"{HEADING}: {thing}" if thing else HEADING)
        settled = {each.question: each for each in taken}
        for question, widgets in self._rows.items():
            there = question in settled or (not taken and question in QUESTIONS)
            for widget in widgets:
                widget.setVisible(there)
            if not there:
                continue
            if question in self.boxes:
                word = getattr(shop.school, question)
                self.boxes[question].setCurrentText(self._wanted.get(question, word))
                self.boxes[question].setEnabled(not self.counter.read_only)
                why = settled[question].why if question in settled else QUESTIONS[question][word]
                self.whys[question].setText(why)
            else:
                self.words[question].setText(settled[question].word)
                self.whys[question].setText(f"{settled[question].why} ({CUT})")

    def show_moved(self, lines: Sequence[str]) -> None:
        """Show what another school moved."""
        more = [f"and {len(lines) - SHOWN} more"] if len(lines) > SHOWN else []
        self.moved.setText("\n".join(["What that changed:", *lines[:SHOWN], *more]) if lines else "")

    def _choose(self, question: str) -> None:
        """The shop works in another way from now on: its steps are derived anew."""
        self._wanted[question] = self.boxes[question].currentText()
        self._put()

    def _put(self) -> None:
        """Put what was chosen into the book, once what was chosen before is in it."""
        shop = self.counter.shop
        if shop is None or not self._wanted or self.counter.changing:
            return
        school, said = replace(shop.school, **self._wanted), ", ".join(f"{q}: {w}" for q, w in self._wanted.items())
        self._wanted.clear()
        if school != shop.school:
            self.counter.put(said, (shop.school, school))
