"""Constructions: the menu that changes how a job is made; object, leather and corrections stay."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMenu, QWidget

from tailor.core.draft import styles
from tailor.desk.workbench import Workbench


class Constructions(QMenu):
    """Every construction there is, the job's own checked."""

    def __init__(self, bench: Workbench, parent: QWidget) -> None:
        super().__init__("Construction", parent)
        self.bench = bench
        self.styles: dict[str, QAction] = {}
        for style in styles.names():
            action = QAction(styles.style(style).said, self, checkable=True)
            action.triggered.connect(lambda _, s=style: self.build(s))
            self.addAction(action)
            self.styles[style] = action
        self.aboutToShow.connect(self.refresh)

    def build(self, style: str) -> None:
        """Make the job in a construction."""
        self.bench.change(styles.style(style).said.lower(), replace(self.bench.job, style=style))

    def refresh(self) -> None:
        for style, action in self.styles.items():
            action.setChecked(style == self.bench.job.style)
