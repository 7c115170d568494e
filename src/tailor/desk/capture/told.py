"""Tape, roll and strip readings at stations, and plain blocks: told by a few sizes."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
)

from tailor.core.carried import readings
from tailor.core.carried.block import KINDS
from tailor.core.carried.block import told as told_of
from tailor.core.carried.capture import Way
from tailor.core.carried.stations import Shape
from tailor.core.errors import InputError
from tailor.core.units import System, format_length
from tailor.desk import theme
from tailor.desk.capture.easel import of_table
from tailor.desk.capture.way import Form
from tailor.desk.words import Words

COLUMNS = ("y", "shape", "width", "thickness", "girth", "rolled", "strip", "leather", "corner")
# What is measured each way, besides place, shape and corner.
KINDS_OF_READING = {
    "tape: girth": ("width", "thickness", "girth"),
    "roll: the trace takes up the thickness": ("width", "rolled"),
    "wrap: a strip marked in place": ("width", "thickness", "strip", "leather"),
}
HINTS = (
    "Of width, thickness and girth any two give the third; a third reading is a check.",
    "Trace it lying flat (wide), then rolled over to each side (rolled).",
    "Wrap a strip of leather round it, from fold to seam (strip), and say how thick that leather is (of).",
)
HEADS = ("up", "shape", "wide", "thick", "girth", "rolled", "strip", "of", "corner")


class TapeWay(Form):
    """What tape, roll or strip say at places up the object."""

    way = Way.TAPE
    called = "Tape"
    asks = "Type what tape, roll or strip say."

    def build(self) -> None:
        self.by = self.choice("measured by", list(KINDS_OF_READING), self._turn)
        self.straight = self.check("the spine side is straight", False, self.again)
        self.form.addRow("", self.straight)
        self.cells = QTableWidget(3, len(COLUMNS))
        self.cells.setAccessibleName("Readings")
        self.cells.setHorizontalHeaderLabels(HEADS)
        self.cells.setFont(theme.text(9.5))
        self.cells.horizontalHeader().setFont(theme.text(8.5))
        self.cells.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.cells.verticalHeader().hide()
        self.cells.verticalHeader().setDefaultSectionSize(24)
        self.cells.setEditTriggers(QAbstractItemView.EditTrigger.AllEditTriggers)
        self.cells.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.cells.setMinimumHeight(170)
        self.cells.cellChanged.connect(lambda *_: self.again())
        self.hint = Words()
        self.hint.setWordWrap(True)
        self.hint.setFont(theme.text(9.5))
        row = QHBoxLayout()
        for said, deed in (("Add", self.add), ("Remove", self.remove), ("As it is now", self.as_it_is)):
            button = QPushButton(said)
            button.setProperty("plain", "false")
            button.clicked.connect(deed)
            row.addWidget(button)
        row.addStretch()
        self.column.addLayout(row)
        self.column.addWidget(self.cells)
        self.column.addWidget(self.hint)
        self._turn()

    def _turn(self) -> None:
        """Show the columns of one way of reading; what was typed in the others stays, unseen and unused."""
        shown = ("y", "shape", *KINDS_OF_READING[self.by.currentText()], "corner")
        for c, name in enumerate(COLUMNS):
            self.cells.setColumnHidden(c, name not in shown)
        self.hint.setText(HINTS[self.by.currentIndex()])
        self.again()

    def begin(self) -> None:
        if not self._said():
            self.as_it_is()
        self.again()

    def forget_object(self) -> None:
        self.as_it_is()

    def add(self) -> None:
        self.cells.insertRow(self.cells.rowCount())

    def remove(self) -> None:
        self.cells.removeRow(max(self.cells.currentRow(), 0))
        self.again()

    def as_it_is(self) -> None:
        """Begin from the stations the job has: their heights, shapes and widths; girths are left to be taped."""
        stations = self.bench.job.stations
        blade = [s.x_spine for s in stations if s.shape is Shape.WEDGE] or [-1.0]
        self.straight.setChecked(max(map(abs, blade)) < 0.05)
        self.cells.blockSignals(True)
        self.cells.setRowCount(len(stations))
        for r, s in enumerate(stations):
            said = (self._plain(s.y), s.shape.value, self._plain(s.width), self._plain(s.thickness))
            for c in range(len(COLUMNS)):
                text = said[c] if c < len(said) else self._plain(s.corner) if c == len(COLUMNS) - 1 and s.corner else ""
                self.cells.setItem(r, c, QTableWidgetItem(text))
        self.cells.blockSignals(False)
        self.again()

    def _plain(self, mm: float) -> str:
        bare = self.bench.job.units is System.MM
        return f"{mm:.2f}".rstrip("0").rstrip(".") if bare else format_length(mm, self.bench.job.units, 64)

    def _said(self) -> list[dict[str, str]]:
        rows = []
        for r in range(self.cells.rowCount()):
            items = [self.cells.item(r, c) for c in range(len(COLUMNS))]
            row = {
                name: item.text() if item and not self.cells.isColumnHidden(c) else ""
                for c, (name, item) in enumerate(zip(COLUMNS, items, strict=True))
            }
            if any(v.strip() for v in row.values()):
                rows.append(row)
        return rows

    def again(self) -> None:
        rows = self._said()
        try:
            found = [readings.typed(row, f"reading {k + 1}", self.bench.job.units.bare) for k, row in enumerate(rows)]
            table, notes = readings.table(found, straight=self.straight.isChecked())
        except InputError as error:
            self.offer(None, str(error))
            return
        self.offer(table, self.sum_up(table, notes))
        if self.isVisible():
            self.easel.show_sketch(of_table(table, self.bench.job.units))


class BlockWay(Form):
    """A box, a round bar, a book or a stack of cards."""

    way = Way.BLOCK
    called = "Block"
    asks = "Give the sizes of a plain object."

    def build(self) -> None:
        self.kind = self.choice("it is a", list(KINDS), self._turn)
        self.long = self.length_field("length", "118mm", "along the draw", self.again)
        self.wide = self.length_field("width", "58mm", "across", self.again)
        self.high = self.length_field("height", "36mm", "through its thickness", self.again)
        self.edge = self.length_field("edges", "6mm", "radius they are rounded by", self.again)

    def _turn(self) -> None:
        kind = self.kind.currentText()
        self.form.labelForField(self.wide).setText("diameter" if kind == "cylinder" else "width")
        self.wide.setAccessibleName("diameter" if kind == "cylinder" else "width")
        self.form.setRowVisible(self.high, kind != "cylinder")
        self.form.setRowVisible(self.edge, kind == "block")
        self.again()

    def begin(self) -> None:
        """Begin with the sizes of what is measured already, where it is a plain object."""
        known = told_of(self.bench.job.stations)
        if known is not None:
            self.kind.setCurrentText(known.kind)
            fields = [self.long, self.wide, *([self.high] if known.kind != "cylinder" else []), self.edge]
            for field, size in zip(fields, known.sizes, strict=False):
                field.setText(self.in_units(size))
        self.again()
        self.long.setFocus()
        self.long.selectAll()

    def again(self) -> None:
        kind = self.kind.currentText()
        try:
            sizes = [self.needed(self.long), self.needed(self.wide)]
            sizes += [self.needed(self.high)] if kind != "cylinder" else []
            sizes += [self.length(self.edge) or 0.0] if kind == "block" else []
            table = KINDS[kind](*sizes)
        except InputError as error:
            self.offer(None, str(error))
            return
        self.offer(table, self.sum_up(table))
        if self.isVisible():
            self.easel.show_sketch(of_table(table, self.bench.job.units))
