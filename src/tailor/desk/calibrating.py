"""Calibrating: what the printer made of the lines of its calibration sheet is typed, and its pages corrected."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QWidget

from tailor.core.errors import DiskError, InputError
from tailor.core.units import System, parse_length
from tailor.desk import theme
from tailor.desk.words import Words
from tailor.files import printer
from tailor.files.printer import LINES, Printer


class Calibrating(QWidget):
    """A strip over the board. told: what came of it. refused: what was typed cannot be, and why. wanted: the sheet."""

    told = pyqtSignal(str)
    refused = pyqtSignal(str)
    wanted = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("calibrating")
        self.setAccessibleName("Printer")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setStyleSheet(f"Calibrating {{ background: {theme.PAPER}; border: 1px solid {theme.EDGE}; }}")
        self._head = Words("The two lines of the calibration sheet measure")
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 12, 6)
        row.addWidget(self._head)
        self.fields: list[QLineEdit] = []
        for length, name in zip(LINES, ("across", "down"), strict=True):
            field = QLineEdit(f"{length:.1f} mm")
            field.setAccessibleName(f"{name}, {length:.0f} mm")
            field.setFixedWidth(84)
            field.returnPressed.connect(self.take)
            self.fields.append(field)
            row.addWidget(field)
            row.addWidget(Words(name))
        for said, deed in (
            ("Correct it", self.take), ("It prints true", self.forget), ("Print the sheet", self.wanted.emit),
            ("Close", self.hide),
        ):  # fmt: skip
            button = QPushButton(said)
            button.clicked.connect(lambda _=False, d=deed: d())
            row.addWidget(button)
        row.addStretch()
        self.hide()

    def ask(self) -> None:
        """Show how the printer stands, to be measured anew."""
        known = printer.known()
        for field, length, share in zip(self.fields, LINES, (known.across, known.down), strict=True):
            field.setText(f"{length * share:.1f} mm")
        self.show()
        self.fields[0].setFocus()
        self.fields[0].selectAll()

    def take(self) -> None:
        """Correct pages by what was typed, or say why they cannot be."""
        try:
            across, down = (parse_length(f.text(), System.MM.bare, f.accessibleName()) for f in self.fields)
            self._remember(printer.measured(across, down))
        except InputError as error:
            self.refused.emit(str(error))

    def forget(self) -> None:
        """Print pages as they are."""
        self._remember(Printer())

    def _remember(self, found: Printer) -> None:
        try:
            printer.remember(found)
        except DiskError as error:
            self.refused.emit(str(error))
            return
        self.hide()
        self.told.emit(found.said or "Pages are printed as they are.")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
        else:
            super().keyPressEvent(event)
