"""The head of the logbook: its pages, which entry is looked at, and what is done with one."""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QWidget


class Page(StrEnum):
    """What is looked at."""

    ONE = "How it came out"
    LEARNED = "What I have learned"
    ALL = "Everything made"


PAGES = {Qt.Key.Key_E: Page.ONE, Qt.Key.Key_L: Page.LEARNED, Qt.Key.Key_A: Page.ALL}
WIDE = 190  # px of the list of entries, at the least


class LogHead(QWidget):
    """turned: to a page. opened: an entry, by its id. begun: another is to be written up. asked: what went wrong, or no
    longer.
    """

    turned = pyqtSignal(Page)
    opened = pyqtSignal(str)
    begun = pyqtSignal()
    asked = pyqtSignal(bool)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 8, 2)
        row.setSpacing(2)
        self.pages = {page: QPushButton(f"{page}  ({chr(key)})") for key, page in PAGES.items()}
        for page, button in self.pages.items():
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _, p=page: self.turned.emit(p))
            row.addWidget(button)
        row.addStretch(1)
        self.ask = QPushButton("What went wrong?  (G)")
        self.ask.setCheckable(True)
        self.ask.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.ask.clicked.connect(self.asked)
        self.which = QComboBox()
        self.which.setAccessibleName("Which of them")
        self.which.setMinimumWidth(WIDE)
        self.which.activated.connect(lambda n: self.opened.emit(self.which.itemData(n)))
        self.new = QPushButton("Write up one  (N)")
        self.new.setProperty("plain", "false")
        self.new.clicked.connect(lambda: self.begun.emit())
        for widget in (self.ask, self.which, self.new):
            row.addWidget(widget)

    def show_page(self, page: Page, writes: bool, there: bool) -> None:
        """Show which page is turned to. writes: the book can be written in. there: an entry is looked at."""
        one = page is Page.ONE
        for each, button in self.pages.items():
            button.setChecked(each is page)
        self.new.setEnabled(writes)
        self.ask.setEnabled(there)
        for widget, shown in ((self.new, one), (self.ask, one), (self.which, one and self.which.count() > 0)):
            widget.setVisible(shown)

    def show_entries(self, rows: Sequence[tuple[str, str]], id_: str) -> None:
        """Show the entries there are, each as it is said and its id, and which of them is looked at."""
        if list(rows) != [(self.which.itemText(n), self.which.itemData(n)) for n in range(self.which.count())]:
            self.which.clear()
            for said, each in rows:
                self.which.addItem(said, each)
        self.which.setCurrentIndex(self.which.findData(id_))
