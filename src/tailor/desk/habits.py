"""What a maker goes by without asking, in one table: what is usual, how far makers differ, and his own numbers."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from tailor.core.errors import InputError
from tailor.core.habit import Habit, declared
from tailor.desk import theme
from tailor.desk.words import Words
from tailor.desk.workbench import Workbench
from tailor.files import makers
from tailor.files.dyes import WALNUT

HEADS = ("of", "yours", "usual", "what it is", "makers keep to", "where it is from")
Step = tuple[Habit, float | None]  # a habit, and what one goes by
YOURS, WIDE = HEADS.index("yours"), 92  # px
SAYS = (
    "What is decided without asking you, in every job. Type your own number under yours: whatever you make goes by it "
    "from then on, here and in the next window. Del is the usual one again."
)


class Habits(QWidget):
    """left: back to where one was. refused: what was typed cannot be, and why. told: what is gone by now. stepped:
    there is another step to undo.
    """

    left = pyqtSignal()
    refused = pyqtSignal(str)
    told = pyqtSignal(str)
    stepped = pyqtSignal()

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("stockroom")
        self.setAccessibleName("What you go by")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.bench = bench
        self.shown: list[Habit] = []
        self._filling = False
        self._undo: list[Step] = []  # what was gone by before, last change last
        self._redo: list[Step] = []
        title = Words("What you go by")
        title.setFont(theme.heading(22))
        says = Words(SAYS)
        says.setWordWrap(True)
        self.sought = QLineEdit()
        self.sought.setPlaceholderText("Find: welt, flap, a hand …")
        self.sought.setAccessibleName("Find among what you go by")
        self.sought.setClearButtonEnabled(True)
        self.sought.textChanged.connect(lambda _: self._fill())
        self.sought.returnPressed.connect(self._to_the_table)
        self.table = QTableWidget(0, len(HEADS))
        self.table.setHorizontalHeaderLabels(HEADS)
        self.table.setAccessibleName("What you go by, and what is usual")
        self.table.setShowGrid(False)
        self.table.setStyleSheet(f"QTableWidget::item:focus {{ border: 2px solid {WALNUT}; }}")
        self.table.setTabKeyNavigation(False)
        self.table.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.table.itemChanged.connect(self._typed)
        rows, heads = self.table.verticalHeader(), self.table.horizontalHeader()
        assert rows is not None
        assert heads is not None
        rows.hide()
        rows.setDefaultSectionSize(26)
        heads.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        for column, head in enumerate(HEADS):
            fits = QHeaderView.ResizeMode.ResizeToContents
            heads.setSectionResizeMode(column, QHeaderView.ResizeMode.Stretch if head == "what it is" else fits)
        heads.setSectionResizeMode(YOURS, QHeaderView.ResizeMode.Fixed)
        heads.resizeSection(YOURS, WIDE)
        heads.setHighlightSections(False)
        back = QPushButton("Back  (Esc)")
        back.setProperty("plain", "false")
        back.clicked.connect(self.left)
        foot = QHBoxLayout()
        foot.addWidget(self.sought, 1)
        foot.addWidget(back)
        all_ = QVBoxLayout(self)
        all_.setContentsMargins(26, 16, 20, 14)
        all_.setSpacing(10)
        for widget in (title, says, self.table):
            all_.addWidget(widget, 1 if widget is self.table else 0)
        all_.addLayout(foot)

    def show_now(self) -> None:
        """It is turned to."""
        self._fill()
        self._to_the_table()

    def _to_the_table(self) -> None:
        self.table.setFocus()

    def _fill(self) -> None:
        """Show the habits in which all the words that are looked for stand, the row in hand staying in hand."""
        words, hand = self.sought.text().lower().split(), self.in_hand
        every = ((of, f"{of.name} {of.said} {of.source}".lower()) for of in declared().values())
        self.shown = [of for of, text in every if all(word in text for word in words)]
        self._filling = True
        self.table.setRowCount(len(self.shown))
        for row, of in enumerate(self.shown):
            self._fill_row(row, of)
        self._filling = False
        if self.shown:
            self.table.setCurrentCell(self.shown.index(hand) if hand in self.shown else 0, YOURS)

    def _fill_row(self, row: int, of: Habit) -> None:
        units, mine = self.bench.job.units, self.bench.maker.habits.get(of.name)
        own = "" if mine is None else of.say(mine, units)
        named = of.name.replace(".", ", ").replace("_", " ")
        cells = (named, own, of.say(of.usual, units), of.said, of.between(units), of.source)
        for column, said in enumerate(cells):
            item = QTableWidgetItem(said)
            item.setToolTip(said)
            if column == YOURS:
                item.setBackground(QColor(theme.CARD))
            else:
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
            self.table.setItem(row, column, item)

    @property
    def in_hand(self) -> Habit | None:
        """The habit of the row in hand."""
        row = self.table.currentRow()
        return self.shown[row] if 0 <= row < len(self.shown) else None

    def _typed(self, item: QTableWidgetItem) -> None:
        if not self._filling:
            self.go_by(self.shown[item.row()], item.text().strip())

    def go_by(self, of: Habit, text: str) -> None:
        """Go by what was typed of a habit from now on; by what is usual where nothing was."""
        before = self.bench.maker.habits.get(of.name)
        try:
            value = of.parse(text, self.bench.job.units) if text else None
        except InputError as error:
            self.refused.emit(str(error))
            value = before
        if value != before and self._put(of, value):
            self._undo.append((of, before))
            self._redo.clear()
            self.stepped.emit()
        self._refill(of)

    def _put(self, of: Habit, value: float | None) -> bool:
        """Go by a number of one's own, or by the usual one; whether that could be kept."""
        try:
            own = makers.keep_habit(of, value)
        except InputError as error:
            self.refused.emit(str(error))
            return False
        self.bench.go_by(replace(self.bench.maker, habits=own))
        number = of.say(self.bench.maker.habit(of), self.bench.job.units)
        self.told.emit(f"{number} {of.said}: {'the usual again' if value is None else 'yours from now on'}.")
        return True

    def _refill(self, of: Habit) -> None:
        if of in self.shown:
            self._filling = True
            self._fill_row(self.shown.index(of), of)
            self._filling = False

    @property
    def steps(self) -> tuple[str, str]:
        """What would be undone, and redone."""
        undo, redo = (steps[-1][0].name if steps else "" for steps in (self._undo, self._redo))
        return undo, redo

    def undo(self) -> None:
        """Go by what one went by before the last change."""
        self._back(self._undo, self._redo)

    def redo(self) -> None:
        self._back(self._redo, self._undo)

    def _back(self, steps: list[Step], others: list[Step]) -> None:
        if steps:
            of, value = steps[-1]
            before = self.bench.maker.habits.get(of.name)
            if self._put(of, value):
                steps.pop()
                others.append((of, before))
                self.stepped.emit()
            self._refill(of)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """The row in hand stays in sight, as when something is said above."""
        super().resizeEvent(event)
        self.table.scrollTo(self.table.currentIndex())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        elif event.key() == Qt.Key.Key_Delete and self.in_hand is not None:
            self.go_by(self.in_hand, "")
        else:
            super().keyPressEvent(event)

    def finish(self) -> None:
        """The window closes: what is being typed is taken."""
        self.table.setFocus()
