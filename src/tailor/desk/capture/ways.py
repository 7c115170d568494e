"""The ways of measuring side by side: choose one, and its panel and what it looks at take their places."""

from __future__ import annotations

from collections.abc import Mapping
from importlib import import_module
from types import MappingProxyType

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QGridLayout, QPushButton, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from tailor.desk import theme
from tailor.desk.capture.easel import Easel
from tailor.desk.capture.way import Form
from tailor.desk.measurements import Measurements
from tailor.desk.workbench import Workbench

STATIONS = "Stations"
ON_BOARD = (STATIONS, "Caliper")  # what looks at the board; the others look at the easel
ACROSS = 4


# Module and panel of each way, loaded when it is first chosen: pictures and solids are slow to load.
WAYS: Mapping[str, tuple[str, str]] = MappingProxyType({
    "Caliper": ("wired", "CaliperWay"), "Tape": ("told", "TapeWay"), "Block": ("told", "BlockWay"),
    "Outline": ("drawn", "OutlineWay"), "Photo": ("pictured", "PhotoWay"), "Scan": ("pictured", "ScanWay"),
    "Mesh": ("drawn", "MeshWay"),
})  # fmt: skip


class Ways(QWidget):
    """chosen: a way was turned to. taken: what was measured is the job's now. refused: what was given cannot be
    used, and why. jaws: where the caliper goes next.
    """

    chosen = pyqtSignal(str)
    taken = pyqtSignal()
    refused = pyqtSignal(str)
    jaws = pyqtSignal(object)

    def __init__(self, bench: Workbench, easel: Easel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("ways")
        self.bench, self.easel = bench, easel
        self.measurements = Measurements(bench)
        self.measurements.refused.connect(self.refused)
        self.measurements.sizes_wanted.connect(lambda: self.turn_to("Block"))
        self.panels: dict[str, Form] = {}
        self.way = STATIONS
        self.stack = QStackedWidget()
        self.stack.addWidget(self.measurements)
        self._holders: dict[str, QWidget] = {STATIONS: self.measurements}
        self.buttons: dict[str, QPushButton] = {}
        group = QButtonGroup(self)
        grid = QGridLayout()
        grid.setSpacing(2)
        grid.setContentsMargins(6, 6, 8, 0)
        for k, name in enumerate((STATIONS, *WAYS)):
            button = QPushButton(name)
            button.setCheckable(True)
            button.setFont(theme.text(10))
            button.setAccessibleName(f"Measure by {name.lower()}")
            button.clicked.connect(lambda _, n=name: self.turn_to(n))
            group.addButton(button)
            grid.addWidget(button, k // ACROSS, k % ACROSS)
            self.buttons[name] = button
        self.buttons[STATIONS].setChecked(True)
        all_ = QVBoxLayout(self)
        all_.setContentsMargins(0, 0, 0, 0)
        all_.setSpacing(2)
        all_.addLayout(grid)
        all_.addWidget(self.stack, 1)

    @property
    def on_easel(self) -> bool:
        """Whether the way chosen looks at the easel instead of the board."""
        return self.way not in ON_BOARD

    def panel(self, name: str) -> Form:
        """The panel of a way, laid out now if it was not before."""
        if name not in self.panels:
            module, kind = WAYS[name]
            made: Form = getattr(import_module(f"tailor.desk.capture.{module}"), kind)(self.bench, self.easel)
            made.refused.connect(self.refused)
            made.taken.connect(lambda: self.turn_to(STATIONS))
            made.taken.connect(self.taken)
            if hasattr(made, "jaws"):
                made.jaws.connect(self.jaws)
            self.panels[name] = made
            holder = QScrollArea()
            holder.setWidgetResizable(True)
            holder.setFrameShape(QScrollArea.Shape.NoFrame)
            inner = QWidget()
            inner.setObjectName("bench")
            room = QVBoxLayout(inner)
            room.setContentsMargins(10, 6, 8, 6)
            room.addWidget(made)
            holder.setWidget(inner)
            self._holders[name] = holder
            self.stack.addWidget(holder)
        return self.panels[name]

    def turn_to(self, name: str) -> None:
        """Turn to a way of measuring."""
        self.way = name
        self.buttons[name].setChecked(True)
        self.jaws.emit(None)
        panel = None if name == STATIONS else self.panel(name)
        self.stack.setCurrentWidget(self._holders[name])
        self.chosen.emit(name)
        if panel is not None:
            panel.begin()

    def finish(self) -> None:
        """The window closes: no thread and no wire is left."""
        for panel in self.panels.values():
            panel.close_down()
