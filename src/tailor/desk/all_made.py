"""Everything that was made: looked for as one types, and year by year."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QHeaderView, QLineEdit, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from tailor.core.draft import styles
from tailor.core.log.logged import Logged, Year, found, years
from tailor.desk.words import Words

HEADS = ("made", "thing", "construction", "leather", "fits", "hours")
SHOWN = 300  # rows at once; what is looked for is among all
YEARS = 3


class AllMade(QFrame):
    """opened: the id of an entry that is to be looked at."""

    opened = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("sheet")
        self.logged: Sequence[Logged] = ()
        self.shown: list[Logged] = []
        self.sought = QLineEdit()
        self.sought.setPlaceholderText("Find among all that was made: a name, a leather, 3 mm, loose, 2026-05 …")
        self.sought.setAccessibleName("Find among all that was made")
        self.sought.setClearButtonEnabled(True)
        self.sought.textChanged.connect(lambda _: self._fill())
        self.sought.returnPressed.connect(self._open)
        self.table = QTableWidget(0, len(HEADS))
        self.table.setHorizontalHeaderLabels(HEADS)
        self.table.setAccessibleName("All that was made")
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setShowGrid(False)
        self.table.cellDoubleClicked.connect(lambda row, _: self.opened.emit(self.shown[row].id))
        if (rows := self.table.verticalHeader()) is not None:
            rows.hide()
            rows.setDefaultSectionSize(24)
        if (heads := self.table.horizontalHeader()) is not None:
            heads.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
            heads.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        self.years = Words()
        self.years.setWordWrap(True)
        self.years.setAccessibleName("Year by year")
        all_ = QVBoxLayout(self)
        all_.setContentsMargins(12, 10, 12, 10)
        for widget in (self.sought, self.table, self.years):
            all_.addWidget(widget)

    def show_logged(self, logged: Sequence[Logged]) -> None:
        if logged is self.logged:
            return
        self.logged = logged
        self.years.setText("\n".join(_year(year) for year in years(logged)[:YEARS]))
        self._fill()

    def _fill(self) -> None:
        all_ = found(self.logged, self.sought.text())
        self.shown = all_[:SHOWN]
        self.table.setRowCount(len(self.shown))
        for row, one in enumerate(self.shown):
            kind = styles.style(one.style).said.lower() if one.style in styles.names() else one.style
            hours = f"{one.minutes / 60:.1f}" if one.minutes else ""
            for column, said in enumerate((f"{one.made_on:%-d %b %Y}", one.name, kind, one.leather, one.fit, hours)):
                self.table.setItem(row, column, QTableWidgetItem(said))
        if self.shown:
            self.table.selectRow(0)

    def _open(self) -> None:
        if 0 <= (row := self.table.currentRow()) < len(self.shown):
            self.opened.emit(self.shown[row].id)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._open()
        else:
            super().keyPressEvent(event)


def _year(year: Year) -> str:
    """A year in a line."""
    kinds = ", ".join(f"{styles.style(k).said.lower() if k in styles.names() else k} {n}" for k, n in year.kinds[:4])
    back = "; ".join(f"{n} {fit}" for fit, n in year.came_back) or "every one right"
    return f"{year.year}: {year.made} made in {year.hours:.0f} hours – {kinds}. How they fitted last: {back}."
