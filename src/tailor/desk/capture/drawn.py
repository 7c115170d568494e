"""Outlines from a drawing, and solids from a mesh."""

from __future__ import annotations

from pathlib import Path

from tailor.core.carried import mesh as meshes
from tailor.core.carried.capture import Capture, Way
from tailor.core.carried.loft import Array
from tailor.core.carried.outline import comb, finished
from tailor.core.carried.stations import Table
from tailor.core.errors import InputError
from tailor.demo import captures
from tailor.desk.capture.easel import of_table
from tailor.desk.capture.labour import Tell
from tailor.desk.capture.way import Form, Outlined, kept
from tailor.files import outlines

Made = tuple[Table, Array, tuple[str, ...], int]


class OutlineWay(Outlined):
    """A closed line in an SVG or DXF drawing, with a thickness."""

    way = Way.OUTLINE
    called = "Outline"
    asks = "Bring in the object's outline from an SVG or DXF drawing,\nand give its thickness by caliper."

    def build(self) -> None:
        self.path: Path | None = None
        self.named = self.file_row("drawing", "Drawings (*.svg *.dxf)", self.open, self.demo_drawing)
        self.unit = self.choice("its unit", ["as it says", *outlines.AS_DRAWN], self.again)
        self.pick = self.choice("which line", ["the largest"], self.again)
        self.finishing("thickness", "by caliper")
        self.column.addWidget(self.write_button())
        self.labour.done.connect(self._came)

    def demo_drawing(self) -> Path:
        return kept("spar-hook.svg", captures.drawing().encode())

    def demo_sizes(self) -> None:
        self.thick.setText(self.in_units(captures.DRAWING_THICKNESS))

    def open(self, path: Path) -> None:
        """Begin with another drawing."""
        self.path = path
        self.named.setText(path.name)
        self.pick.blockSignals(True)
        self.pick.clear()
        self.pick.addItem("the largest")
        self.pick.blockSignals(False)
        self.again()

    def begin(self) -> None:
        if self.table is None or self.straight is None:
            super().begin()
        else:
            self._show()

    def again(self) -> None:
        path = self.path
        if path is None:
            return
        try:
            thick, finish = self.needed(self.thick), self.finish()
        except InputError as error:
            self.offer(None, str(error))
            return
        unit = self.unit.currentText() if self.unit.currentIndex() else None
        number = max(self.pick.currentIndex(), 0)

        def work(tell: Tell) -> Made:
            loops = outlines.read(path, unit, lambda: tell("reading the drawing", 0.2))
            tell("measuring", 0.8)
            picked = loops[min(number, len(loops) - 1)]
            return *finished(picked, finish, thick, Capture.usual(Way.OUTLINE)), len(loops)

        self.labour.start(work)

    def _came(self, made: Made) -> None:
        table, self.straight, notes, count = made
        if self.pick.count() != count:
            self.pick.blockSignals(True)
            self.pick.addItems([f"number {k + 1}" for k in range(self.pick.count(), count)])
            self.pick.blockSignals(False)
        self.offer(table, self.sum_up(table, notes))
        if self.isVisible():
            self._show()

    def _show(self) -> None:
        assert self.table is not None
        assert self.straight is not None
        teeth = comb(self.straight) if self.comb.isChecked() else None
        self.easel.show_sketch(of_table(self.table, self.bench.job.units, teeth))


class MeshWay(Form):
    """A scanned or drawn solid."""

    way = Way.MESH
    called = "Mesh"
    asks = "Bring in a solid as STL, OBJ or PLY.\nIts unit and draw axis are suggested; look at both."

    def build(self) -> None:
        self.path: Path | None = None
        self._read: tuple[Path, meshes.Mesh] | None = None
        self.named = self.file_row("solid", "Solids (*.stl *.obj *.ply)", self.open, self.demo_solid)
        self.unit = self.choice("its unit", ["what is likely", *meshes.UNITS], self.again)
        self.along = self.choice("draw along", ["its longest way", "x", "y", "z"], self.again)
        self.tip = self.choice("its tip", ["the narrower end", "the lower end", "the upper end"], self.again)
        self.labour.done.connect(self._came)

    def demo_solid(self) -> Path:
        return kept("radio.stl", captures.solid("radio"))

    def demo_sizes(self) -> None:
        self.tip.setCurrentIndex(1)

    def open(self, path: Path) -> None:
        """Begin with another solid."""
        self.path = path
        self.named.setText(path.name)
        self.again()

    def begin(self) -> None:
        if self.table is None:
            super().begin()
        else:
            self.easel.show_sketch(of_table(self.table, self.bench.job.units))

    def again(self) -> None:
        path = self.path
        if path is None:
            return
        unit = self.unit.currentText() if self.unit.currentIndex() else None
        axis = self.along.currentIndex() - 1
        tip_up = (None, False, True)[self.tip.currentIndex()]
        read = self._read

        def work(tell: Tell) -> tuple[Table, tuple[str, ...]]:
            if read is not None and read[0] == path:
                solid = read[1]
            else:
                solid = outlines.read_mesh(path, lambda: tell("reading the solid", 0.1))
            self._read = path, solid
            taken = unit or meshes.likely_unit(solid)
            tell("turning it to its draw", 0.4)
            sized = meshes.scaled(solid, taken)
            laid = meshes.laid(sized, tip_up) if axis < 0 else meshes.along(sized, meshes.AXES[axis], tip_up)
            tell("slicing it", 0.6)
            table, _ = meshes.stations(laid)
            return table, (f"taken as {taken}", *solid.notes)

        self.labour.start(work)

    def _came(self, made: tuple[Table, tuple[str, ...]]) -> None:
        table, notes = made
        self.offer(table, self.sum_up(table, notes))
        if self.isVisible():
            self.easel.show_sketch(of_table(table, self.bench.job.units))
