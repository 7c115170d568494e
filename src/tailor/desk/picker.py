"""The picker: what a maker is asked before choosing a construction, and what suits, best first."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QAbstractButton,
    QButtonGroup,
    QGridLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from tailor.core.draft import styles
from tailor.core.draft.style import MOULDED, WHAT, WORN, Asked, Suited
from tailor.core.picking import guessed, ranked
from tailor.core.units import format_length
from tailor.desk import theme
from tailor.desk.workbench import Workbench
from tailor.files.dyes import GALL, INK, LICHEN, WALNUT

QUESTIONS = (("What is it?", WHAT), ("How is it worn?", WORN), ("How closely moulded?", MOULDED))
ACROSS = 6  # answers to a row


class Choice(QAbstractButton):
    """One construction: its name, how well it suits, and why or why not."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.suited: Suited | None = None
        self.present = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(24)
        self.setMaximumHeight(36)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def show_suited(self, found: Suited, present: bool) -> None:
        self.suited, self.present = found, present
        said = styles.style(found.style).said
        self.setAccessibleName(f"{said}: {'cannot be, ' if found.never else ''}{found.why}")
        self.setEnabled(not found.never)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(400, 34)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.suited is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5)
        held = self.hasFocus() or self.underMouse()
        painter.setPen(QPen(QColor(WALNUT if held else theme.EDGE), 2.2 if self.hasFocus() else 1))
        painter.setBrush(QColor(theme.CARD if self.suited.never else theme.PAPER))
        painter.drawRoundedRect(box, 4, 4)
        found = self.suited
        for k in range(5):  # five stitches, as many filled as it suits
            spot = QRectF(box.left() + 10 + 11 * k, box.center().y() - 2, 8, 4)
            painter.setPen(QPen(QColor(LICHEN), 1))
            painter.setBrush(QColor(LICHEN) if round(5 * found.mark) > k else Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(spot, 2, 2)
        name = box.adjusted(76, 0, 0, 0)
        name.setWidth(190)
        painter.setPen(QColor(GALL if found.never else INK))
        painter.setFont(theme.text(11, bold=self.present))
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(name, middle, styles.style(found.style).said + (" · now" if self.present else ""))
        painter.setFont(theme.text(9.5))
        painter.setPen(QColor(GALL))
        room = box.adjusted(272, 0, -8, 0)
        said = ("cannot be: " if found.never else "") + found.why
        said = painter.fontMetrics().elidedText(said, Qt.TextElideMode.ElideRight, int(room.width()))
        painter.drawText(room, middle, said)


class Picker(QWidget):
    """Questions, and constructions ranked by their answers. done: it has been answered, or given up."""

    done = pyqtSignal()

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("picker")
        self.setAccessibleName("Choose a construction")
        self.bench = bench
        self.asked = Asked(WHAT[0], WORN[0], MOULDED[0])
        all_ = QVBoxLayout(self)
        all_.setContentsMargins(18, 14, 18, 12)
        all_.setSpacing(4)
        self.heading = QLabel("Choose a construction")
        self.heading.setFont(theme.heading(15))
        all_.addWidget(self.heading)
        self.measured = QLabel()
        self.measured.setWordWrap(True)
        self.measured.setFont(theme.text(10))
        all_.addWidget(self.measured)
        self.answers: list[QButtonGroup] = []
        for k, (question, choices) in enumerate(QUESTIONS):
            all_.addWidget(self._asking(k, question, choices))
        self.choices = [Choice(self) for _ in styles.names()]
        for choice in self.choices:
            choice.clicked.connect(lambda _=False, c=choice: self._take(c))
            all_.addWidget(choice, 1)
        all_.addStretch(0)

    def _asking(self, k: int, question: str, choices: tuple[str, ...]) -> QWidget:
        row = QWidget()
        grid = QGridLayout(row)
        grid.setContentsMargins(0, 2, 0, 2)
        grid.setSpacing(4)
        label = QLabel(question)
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

    def ask(self) -> None:
        """Begin with what the measured object looks like."""
        job = self.bench.job
        self.asked = guessed(job.loft, job.zones)
        rows = job.loft.sizes(np.array([s.y for s in job.stations]))
        sizes = (float(rows[:, 1].max()), job.loft.top - job.loft.tip, float((rows[:, 2] + rows[:, 3]).max()))
        across, up, through = (format_length(size, job.units) for size in sizes)
        marked = sorted({zone.kind.value for zone in job.zones})
        zones = f" Marked on it: {', '.join(marked)}." if marked else " Nothing is marked on it."
        self.measured.setText(
            f"{job.name}: {across} across, {up} up, {through} thick.{zones} Object, leather and corrections stay."
        )
        self._show()
        next(c for c in self.choices if c.isEnabled()).setFocus()

    def _answer(self, k: int, n: int) -> None:
        field = ("what", "worn", "moulded")[k]
        self.asked = replace(self.asked, **{field: QUESTIONS[k][1][n]})
        self._show()

    def _show(self) -> None:
        for group, (_, choices), answer in zip(
            self.answers, QUESTIONS, (self.asked.what, self.asked.worn, self.asked.moulded), strict=True
        ):
            group.button(choices.index(answer)).setChecked(True)
        job = self.bench.job
        for choice, found in zip(self.choices, ranked(self.asked, job.loft, job.zones), strict=True):
            choice.show_suited(found, found.style == job.style)

    def _take(self, choice: Choice) -> None:
        assert choice.suited is not None
        name = choice.suited.style
        self.bench.change(styles.style(name).said.lower(), replace(self.bench.job, style=name))
        self.done.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            self.done.emit()
        elif event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            at = next((k for k, c in enumerate(self.choices) if c.hasFocus()), 0)
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            enabled = [k for k, c in enumerate(self.choices) if c.isEnabled()]
            ahead = [k for k in enabled[::step] if (k - at) * step > 0]
            self.choices[ahead[0] if ahead else at].setFocus()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            held = next((c for c in self.choices if c.hasFocus()), None)
            if held is not None:
                held.click()
        else:
            super().keyPressEvent(event)
