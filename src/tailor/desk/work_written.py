"""The work written: cards, steps or a calendar, as PDF, CSV or iCalendar, off the window's thread."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QPushButton

from tailor.core.bench.work import Plan
from tailor.core.shop.progress import Progress
from tailor.core.shop.workload import Workload
from tailor.desk.capture.labour import Labour

SAYS = "This evening's card and a card for each thing as PDF, the steps as CSV, the hours as a calendar"
ASKS = "Write the work", "the work.pdf", "Cards (*.pdf);;Steps (*.csv);;Calendar (*.ics)"
Written = tuple[Workload, Plan, Progress, str]  # what is to be done, when, what was, and whose it is


class WorkWritten(QPushButton):
    """The button that asks where to. what: what is written now; None where there is nothing.

    refused: why it could not be; told: what was.
    """

    refused = pyqtSignal(str)
    told = pyqtSignal(str)

    def __init__(self, what: Callable[[], Written | None]) -> None:
        super().__init__("Write …")
        self.setToolTip(SAYS)
        self._what = what
        self.labour = Labour(self)
        self.labour.failed.connect(self.refused)
        self.labour.done.connect(lambda path: self.told.emit(f"Written: {path.name} in {path.parent.name}."))
        self.clicked.connect(self.ask)

    def ask(self) -> None:
        if self.isEnabled():
            path, _ = QFileDialog.getSaveFileName(self.window(), *ASKS)
            if path:
                self.write_to(Path(path))

    def write_to(self, path: Path) -> None:
        """Write as the suffix says."""
        from tailor.files import bench_card

        if (what := self._what()) is None:
            return
        load, plan, progress, who = what
        path = path if path.suffix else path.with_suffix(".pdf")

        def write(tell: object) -> Path:
            bench_card.write(load, plan, progress, path, who)
            return path

        self.labour.start(write)
