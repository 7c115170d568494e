"""A way of measuring: its form, its labour, and what came of it, ready to be taken."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from tailor.core.carried.capture import Capture, Way
from tailor.core.carried.loft import Array
from tailor.core.carried.outline import Finish
from tailor.core.carried.stations import Shape, Table
from tailor.core.errors import InputError
from tailor.core.units import format_length, parse_length
from tailor.desk import theme
from tailor.desk.capture.easel import Easel
from tailor.desk.capture.labour import Labour
from tailor.desk.words import Words
from tailor.desk.workbench import Workbench
from tailor.files import outlines


class Form(QWidget):
    """What all ways share. taken: a table was taken into the job. refused: what was given cannot be used, and why.

    table: what would be taken, or None while there is nothing, or nothing fresh.
    """

    taken = pyqtSignal()
    refused = pyqtSignal(str)
    way: Way
    called = ""
    asks = ""

    def __init__(self, bench: Workbench, easel: Easel) -> None:
        super().__init__()
        self.bench, self.easel = bench, easel
        self.table: Table | None = None
        self.labour = Labour(self)
        self._fetching = Labour(self)
        self.labour.begun.connect(self._begun)
        self.labour.progress.connect(self._progress)
        self.labour.failed.connect(self._failed)
        self.labour.idle.connect(self._rest)
        self.form = QFormLayout()
        self.form.setContentsMargins(0, 0, 0, 0)
        self.form.setVerticalSpacing(4)
        self.form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.AllNonFixedFieldsGrow)
        self.said = Words()
        self.said.setWordWrap(True)
        self.said.setAccessibleName("What was measured")
        self.said.setFont(theme.text(10))
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.setTextVisible(True)
        self.halt = QPushButton("Stop")
        self.halt.setProperty("plain", "false")
        self.halt.clicked.connect(self._halted)
        working = QHBoxLayout()
        working.addWidget(self.bar, 1)
        working.addWidget(self.halt)
        self.take_it = QPushButton("Take it  (Ctrl+Return)")
        self.take_it.setProperty("plain", "false")
        self.take_it.setShortcut("Ctrl+Return")
        self.take_it.clicked.connect(self.take)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(6)
        self.column.addLayout(self.form)
        self.build()
        self.column.addLayout(working)
        self.column.addWidget(self.said)
        self.column.addWidget(self.take_it)
        self.column.addStretch()
        self._rest()
        self.offer(None)
        bench.laid.connect(self.forget_object)

    def forget_object(self) -> None:
        """Another job lies on the bench: what was read of the last object is not for it."""

    def build(self) -> None:
        """Lay out what this way asks for."""

    def open(self, path: Path) -> None:
        """Begin with a file."""
        raise NotImplementedError

    def begin(self) -> None:
        """The panel comes into view: show on the easel what it is at."""
        self.easel.show_sketch(None, self.asks)

    def offer(self, table: Table | None, said: str = "") -> None:
        """What could be taken now, and what to say of it; with nothing, what is under way is let go of too."""
        if table is None and self.labour.busy:
            self.labour.stop()
        self.table = table
        self.take_it.setEnabled(table is not None)
        self.said.setText(said)

    def take(self) -> None:
        """Take what was measured into the job, as one step that can be undone."""
        if self.table is not None:
            self.bench.change(f"measure by {self.way.value}", self.bench.job.measured(self.table))
            self.taken.emit()

    # Fields

    def length_field(self, label: str, value: str, tip: str, changed: Callable[[], object]) -> QLineEdit:
        field = QLineEdit(value)
        field.setAccessibleName(label)
        field.setToolTip(tip)
        field.setPlaceholderText(tip)
        field.editingFinished.connect(changed)
        self.form.addRow(label, field)
        return field

    def length(self, field: QLineEdit) -> float | None:
        """The length typed in a field, mm; None where it is blank. Raises InputError naming the field."""
        said = field.text().strip()
        return parse_length(said, self.bench.job.units.bare, field.accessibleName()) if said else None

    def needed(self, field: QLineEdit) -> float:
        """The length typed in a field that must not be blank."""
        value = self.length(field)
        if value is None:
            raise InputError("it is blank", field.accessibleName(), f"give it; {field.toolTip()}")
        return value

    def choice(self, label: str, words: list[str], changed: Callable[[], object]) -> QComboBox:
        box = QComboBox()
        box.addItems(words)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(8)
        box.setAccessibleName(label)
        box.currentIndexChanged.connect(lambda _: changed())
        self.form.addRow(label, box)
        return box

    def check(self, label: str, on: bool, changed: Callable[[], object]) -> QCheckBox:
        box = QCheckBox(label)
        box.setChecked(on)
        box.toggled.connect(lambda _: changed())
        return box

    def file_row(self, label: str, kinds: str, opened: Callable[[Path], object], demo: Callable[[], Path]) -> QLabel:
        """A row that names a file, chooses one, or makes the demo's."""
        row = QHBoxLayout()
        named = Words("none yet")
        named.setFont(theme.text(10))
        choose = QPushButton("Choose …")
        choose.setProperty("plain", "false")
        choose.setAccessibleName(f"Choose {label}")

        def ask() -> None:
            found, _ = QFileDialog.getOpenFileName(self, f"Choose {label}", str(Path.home()), kinds)
            if found:
                opened(Path(found))

        choose.clicked.connect(ask)
        try_ = QPushButton("Demo")
        try_.setProperty("plain", "false")
        try_.setToolTip("the thatching crew's, made for trying this out")
        try_.setAccessibleName(f"Demo {label}")
        self._fetching.done.connect(opened)

        def fetch() -> None:
            self.demo_sizes()
            named.setText("being made …")
            self._fetching.start(lambda tell: demo())

        try_.clicked.connect(fetch)
        row.addWidget(named, 1)
        row.addWidget(choose)
        row.addWidget(try_)
        self.form.addRow(label, row)
        return named

    def demo_sizes(self) -> None:
        """Fill in what the crew measured of the demo's object."""

    def close_down(self) -> None:
        """The window closes."""
        self._fetching.finish()
        self.labour.finish()

    def in_units(self, mm: float) -> str:
        """A length in the maker's unit."""
        return format_length(mm, self.bench.job.units)

    def sum_up(self, table: Table, notes: tuple[str, ...] = ()) -> str:
        """A table in a few words: its sizes, how true they are, and what there is to say of them."""
        s = table.stations
        wide, thick = max(x.width for x in s), max(x.thickness for x in s)
        capture = table.capture or Capture.usual(self.way)
        head = f"{self.in_units(s[-1].y - s[0].y)} long, {self.in_units(wide)} wide, {self.in_units(thick)} thick"
        lines = [head, f"{len(s)} stations, ± {capture.accuracy:.2f} mm", *(f"{n[0].upper()}{n[1:]}." for n in notes)]
        return "\n".join(lines)

    # Labour

    def _begun(self) -> None:
        """What was there is stale: it can no longer be taken."""
        self.table = None
        self.take_it.setEnabled(False)

    def _progress(self, said: str, share: float) -> None:
        self.bar.setVisible(True)
        self.halt.setVisible(True)
        self.bar.setValue(round(100 * share))
        self.bar.setFormat(f"{said} …")
        self.take_it.setEnabled(False)

    def _halted(self) -> None:
        self.labour.stop()
        self.offer(None, "Stopped. Nothing was changed.")

    def _failed(self, said: str) -> None:
        self.offer(None, said)
        self.refused.emit(said)

    def _rest(self) -> None:
        self.bar.setVisible(False)
        self.halt.setVisible(False)
        self.take_it.setEnabled(self.table is not None)


class Outlined(Form):
    """A way that ends in an outline with a thickness: the fields that say how it is finished, and writing it out.

    straight: the outline as it was finished, or None while there is none.
    """

    straight: Array | None = None

    def write_button(self) -> QPushButton:
        """The button that writes the outline as SVG or DXF."""
        self.write = QPushButton("Write the outline …")
        self.write.setProperty("plain", "false")
        self.write.clicked.connect(self._ask_export)
        return self.write

    def _ask_export(self) -> None:
        if self.straight is None:
            self.refused.emit("There is no outline yet to write.")
            return
        found, _ = QFileDialog.getSaveFileName(self, "Write the outline", "outline.svg", "Outlines (*.svg *.dxf)")
        if found:
            try:
                outlines.write(self.straight, Path(found))
            except InputError as error:
                self.refused.emit(str(error))

    def finishing(self, thickness: str, tip: str) -> None:
        """Add the fields: thickness under a name of its own, shape, corner, fairing, and how it lies."""
        self.thick = self.length_field(thickness, "", tip, self.again)
        self.shape = self.choice("sections", list(Shape), self.again)
        self.corner = self.length_field("corner", "0", "radius of a slab's corners", self.again)
        self.fair = self.length_field("fair by", "0.2", "the most that fairing may move the outline", self.again)
        self.sharp = self.check("keep corners", True, self.again)
        self.even = self.check("even sides", False, self.again)
        self.comb = self.check("comb", False, self.again)
        self.comb.setToolTip("teeth as long as the outline bends: bumps show")
        self.over = self.check("other end is the tip", False, self.again)
        self.form.addRow("", _beside(self.sharp, self.even))
        self.form.addRow("", _beside(self.over, self.comb))

    def again(self) -> None:
        """A field changed: work it out once more."""
        raise NotImplementedError

    def finish(self) -> Finish:
        """What the fields say. Raises InputError naming the field."""
        return Finish(
            Shape(self.shape.currentText()), self.length(self.corner) or 0.0, self.length(self.fair) or 0.0,
            self.sharp.isChecked(), self.even.isChecked(), None, self.over.isChecked(),
        )  # fmt: skip


def kept(name: str, content: bytes) -> Path:
    """A demo file, kept where files come and go."""
    path = Path(tempfile.mkdtemp(prefix="tailor-")) / name
    path.write_bytes(content)
    return path


def _beside(*widgets: QWidget) -> QHBoxLayout:
    row = QHBoxLayout()
    for widget in widgets:
        row.addWidget(widget)
    row.addStretch()
    row.setAlignment(Qt.AlignmentFlag.AlignLeft)
    return row
