"""Held: a draft kept in view beside the present one, and what differs between the two in numbers."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from tailor.core.compared import Difference, differences
from tailor.core.outcome import Outcome
from tailor.core.units import System, format_length
from tailor.desk import theme
from tailor.desk.workbench import Workbench
from tailor.files.dyes import GALL, INK

COLUMN, SAME = 92, 0.005  # px; change too small to tell


class Held(QWidget):
    """A strip over the board: each number of the draft that is held, of the present one, and the change.

    held_changed: another draft is held, or none.
    """

    held_changed = pyqtSignal()

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("held")
        self.setAccessibleName("Compared with the draft that is held")
        self.bench = bench
        self.outcome: Outcome | None = None
        self.back = QPushButton("Take it back")
        self.let_go = QPushButton("Let it go")
        self.back.setToolTip("The job as it is held, as one step that can be undone")
        self.back.clicked.connect(self._take_back)
        self.let_go.clicked.connect(lambda: self.hold(None))
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 4, 10, 4)
        row.addStretch()
        for button in (self.back, self.let_go):
            button.setProperty("plain", "false")
            row.addWidget(button)
        bench.drafted.connect(self.refresh)
        bench.staled.connect(self.update)
        bench.laid.connect(self._forget)
        self.hide()

    def sizeHint(self) -> QSize:
        return QSize(600, 76)

    def hold(self, outcome: Outcome | None) -> None:
        """Hold a draft to compare with, or none."""
        self.outcome = outcome if outcome is not None and outcome.made is not None else None
        self.setVisible(self.outcome is not None)
        self.setFixedHeight(76)
        self.held_changed.emit()
        self.refresh()

    def _forget(self) -> None:
        if self.outcome is not None:
            self.hold(None)

    def toggle(self) -> None:
        """Hold the present draft, or let go of the one that is held."""
        self.hold(None if self.outcome is not None else self.bench.outcome)

    def refresh(self) -> None:
        self.setAccessibleDescription("; ".join(self.told()))
        self.update()

    @property
    def found(self) -> tuple[Difference, ...]:
        """What differs, or could, between the held draft and the present one; what has changed comes first."""
        made = self.bench.outcome.made
        if self.outcome is None or self.outcome.made is None or made is None:
            return ()
        every = differences(self.outcome.made, self.outcome.said, made, self.bench.outcome.said)
        return tuple(sorted(every, key=lambda d: not self._changed(d)))

    @staticmethod
    def _changed(d: Difference) -> bool:
        return d.change is None or abs(d.change) > SAME * max(abs(d.held or 0.0), 1.0)

    def told(self) -> list[str]:
        """Each difference in words."""
        units = self.bench.job.units
        return [f"{d.name} {said(d.held, d.unit, units)}, now {said(d.now, d.unit, units)}" for d in self.found]

    def _take_back(self) -> None:
        if self.outcome is not None:
            self.bench.change("take the held draft back", self.outcome.job)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(theme.EDGE), 1))
        painter.setBrush(QColor(theme.PAPER))
        painter.drawRect(QRectF(self.rect()).adjusted(4, 1, -4, -1))
        units = self.bench.job.units
        room = self.let_go.parentWidget().width() - self.back.width() - self.let_go.width() - 40 - 52
        painter.setFont(theme.text(9.5))
        painter.setPen(QColor(GALL))
        for k, word in enumerate(("held", "now")):
            painter.drawText(QRectF(12, 24 + 22 * k, 40, 18), Qt.AlignmentFlag.AlignVCenter, word)
        if not self.bench.fresh:
            painter.drawText(QRectF(12, 4, 200, 18), Qt.AlignmentFlag.AlignVCenter, "working it out …")
        for k, d in enumerate(self.found[: max(int(room // COLUMN), 1)]):
            left = 52.0 + k * COLUMN
            painter.setFont(theme.text(9.5))
            painter.setPen(QColor(GALL))
            painter.drawText(QRectF(left, 4, COLUMN - 4, 18), Qt.AlignmentFlag.AlignVCenter, d.name)
            painter.setPen(QColor(INK))
            painter.setFont(theme.text(10.5))
            painter.drawText(QRectF(left, 24, COLUMN - 4, 18), Qt.AlignmentFlag.AlignVCenter,
                             said(d.held, d.unit, units))  # fmt: skip
            painter.setFont(theme.text(10.5, bold=self._changed(d)))
            arrow = "" if not self._changed(d) or not d.change else (" ↑" if d.change > 0 else " ↓")
            painter.drawText(QRectF(left, 46, COLUMN - 4, 18), Qt.AlignmentFlag.AlignVCenter,
                             said(d.now, d.unit, units) + arrow)  # fmt: skip


def said(value: float | None, unit: str, units: System) -> str:
    """A compared number in the maker's unit."""
    if value is None:
        return "–"
    if unit == "mm":
        return format_length(value, units) if value < 1000 else f"{value / 1000:.2f} m"
    return f"{value:.3g}" + ("°" if unit == "°" else f" {unit}" if unit else "")
