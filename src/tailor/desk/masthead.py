"""The masthead: what job lies here, how it stands, and what can be done with it as a whole."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QToolButton,
    QWidget,
)

from tailor.core import incoming
from tailor.core.units import System
from tailor.desk import theme
from tailor.desk.menus import Menus
from tailor.desk.words import Words
from tailor.desk.workbench import Workbench

ROOMY = 1120  # px wide
UNIT_WORDS = {System.MM: "mm", System.INCH: "in", System.FRACTION: "1/32 in"}


class Masthead(QWidget):
    """Job name, saved or not, what it costs, job menu, undo and redo with their names, hand, folded or flat, units."""

    def __init__(self, bench: Workbench, menus: Menus, costing: QWidget, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFixedHeight(48)
        self.bench = bench
        self.actions_ = menus.acts
        self.name = QLineEdit()
        self.name.setObjectName("jobname")
        self.name.setFont(theme.heading(16))
        self.name.setAccessibleName("Job name")
        self.name.setMaximumWidth(300)
        self.name.editingFinished.connect(self._named)
        self.state = Words()
        self.state.setFont(theme.text(10))
        self.job = QToolButton()
        self.job.setText("Job ▾")
        self.job.setShortcut("Alt+J")
        self.job.setMenu(menus.job)
        self.job.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.look = QToolButton()
        self.look.setText("Look ▾")
        self.look.setShortcut("Alt+O")
        self.look.setMenu(menus.look)
        self.look.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 4, 12, 4)
        row.setSpacing(6)
        row.addWidget(self.name)
        row.addWidget(self.state)
        row.addStretch()
        row.addWidget(costing)
        row.addWidget(self.job)
        self.buttons: dict[str, QToolButton] = {}
        for key in ("undo", "redo", "hand", "lay", "fit"):
            button = QToolButton()
            button.setDefaultAction(self.actions_[key])
            button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextOnly)
            button.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
            row.addWidget(button)
            self.buttons[key] = button
            if key == "lay":
                row.addWidget(self.look)
        row.addSpacing(10)
        self.units = QButtonGroup(self)
        self.units.setExclusive(True)
        self._unit_buttons: dict[System, QPushButton] = {}
        for system, word in UNIT_WORDS.items():
            button_ = QPushButton(word)
            button_.setCheckable(True)
            button_.setAccessibleName(f"lengths in {word}")
            button_.clicked.connect(lambda _, s=system: self._unit(s))
            self.units.addButton(button_)
            self._unit_buttons[system] = button_
            row.addWidget(button_)
        self.steps: Callable[[], tuple[str, str]] = lambda: (bench.undoes, bench.redoes)  # what is undone, and redone
        bench.changed.connect(self.refresh)
        bench.saved.connect(self.refresh)
        bench.drafted.connect(self.refresh)
        self.refresh()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """On a small screen the job's name keeps its room; how it stands is told when one rests on it."""
        self.state.setVisible(self.width() >= ROOMY)
        super().resizeEvent(event)

    def refresh(self) -> None:
        bench = self.bench
        if not self.name.hasFocus() or self.name.text() != bench.job.name:
            self.name.setText(bench.job.name)
            self.name.setCursorPosition(0)  # its beginning is in view
        where = bench.path.name if bench.path else "not in a file yet"
        state = "changes kept, not saved" if bench.dirty else "saved" if bench.path else "as it came"
        self.state.setText(f"{where} · {state}" + ("" if bench.fresh else " · drafting …"))
        self.name.setToolTip(self.state.text())
        for key, named in zip(("undo", "redo"), self.steps(), strict=True):
            action = self.actions_[key]
            action.setEnabled(bool(named))
            action.setText(key.capitalize() if len(named) > 26 or not named else f"{key.capitalize()} {named}")
            action.setToolTip(f"{key.capitalize()} {named} ({action.shortcut().toString()})")
        self._unit_buttons[bench.job.units].setChecked(True)
        left = bench.job.settings.word("hand") == "left"
        self.actions_["hand"].setText("Left hand" if left else "Right hand")

    def _named(self) -> None:
        said = incoming.name_from(self.name.text())
        if said and said != self.bench.job.name:
            self.bench.change(f"name {said}", replace(self.bench.job, name=said))
        self.name.setText(self.bench.job.name)

    def _unit(self, system: System) -> None:
        self.bench.change(f"lengths in {UNIT_WORDS[system]}", replace(self.bench.job, units=system))
