"""Taking in a hide: as it is named, by its outline in a drawing, or by a photo, taped where that does not tell."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QLineEdit, QPushButton, QWidget

from tailor.core.cut.laying import Hide
from tailor.core.errors import UnseenError
from tailor.core.shop.leathers import Sort
from tailor.core.units import System
from tailor.desk.capture.labour import Labour, Tell
from tailor.desk.taping import Taping, Untold
from tailor.desk.words import Words
from tailor.files import hides
from tailor.files.hides import Photographed


class TakingIn(QWidget):
    """The line that asks for a hide of the leather in hand. `taping` is put up where a photo must be taped.

    took: a leather, and a hide or a photographed one of it. told: what is being done. refused: what cannot be read.
    taped: a photo lies there to be taped, or no longer.
    """

    took = pyqtSignal(object, object)
    told = pyqtSignal(str)
    refused = pyqtSignal(str)
    taped = pyqtSignal(bool)

    def __init__(self, sort: Callable[[], Sort | None], units: Callable[[], System]) -> None:
        """sort: the leather in hand."""
        super().__init__()
        self._sort, self._units = sort, units
        self.reading = Labour(self)
        self.reading.failed.connect(self.refused)
        self.reading.failed.connect(lambda _: self.told.emit(""))
        self.reading.done.connect(self._read)
        self.coming = QLineEdit()
        self.coming.setAccessibleName("A hide to take in")
        self.coming.setPlaceholderText("600x300mm, side 2.1 m², or the outline in a drawing")
        self.coming.returnPressed.connect(self.take_in)
        self.taping = Taping()
        self.taping.refused.connect(self.refused)
        self.taping.left.connect(self.leave_tape)
        self.taping.told.connect(self._read_taped)
        self.taping.hide()
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(Words("take in"))
        line.addWidget(self.coming, 1)
        self.ways = list[QPushButton]()
        for text, deed in (
            ("Photo …", self._ask_photo),
            ("Outline …", self._ask_outline),
            ("Take in", self.take_in),
        ):
            way = QPushButton(text)
            way.setProperty("plain", "false")
            way.clicked.connect(lambda _, deed=deed: deed())
            self.ways.append(way)
            line.addWidget(way)

    def show_now(self, writes: bool) -> None:
        """Whether anything can be taken in."""
        self.coming.setEnabled(writes)
        for way in self.ways:
            way.setEnabled(writes and self._sort() is not None)

    def take_in(self) -> None:
        """A hide of the leather in hand, as it is named; a drawing is read off the window's thread."""
        text, sort = self.coming.text().strip(), self._sort()
        if text and sort is not None:
            self.reading.start(lambda tell: (sort, hides.named(text, lambda: tell("reading the outline", 0.5))))

    def photographed(self, path: Path) -> None:
        """Take in the hide of the leather in hand that is in a photo, off the window's thread."""
        if (sort := self._sort()) is not None:
            self.told.emit(f"Reading {path.name} …")

            def read(tell: Tell) -> tuple[Sort, Photographed | Untold]:
                try:
                    return sort, hides.photographed(path, still=lambda: tell("the photo", 0.5))
                except UnseenError as error:
                    return sort, Untold.of(path, str(error))

            self.reading.start(read)

    def _read_taped(self, taped: tuple[tuple[tuple[float, float], ...], tuple[float, ...]]) -> None:
        """Read the photo in hand by four taped points, off the window's thread."""
        path = self.taping.path
        if (sort := self._sort()) is not None and path is not None:
            self.told.emit(f"Reading {path.name} …")
            self.reading.start(
                lambda tell: (sort, hides.photographed(path, taped=taped, still=lambda: tell("the photo", 0.5)))
            )

    def _read(self, found: tuple[Sort, Hide | Photographed | Untold]) -> None:
        sort, hide = found
        if isinstance(hide, Untold):
            self.told.emit("")
            self.taping.open(hide, self._units())
            self.taped.emit(True)
            return
        self.leave_tape()
        self.coming.clear()
        self.took.emit(sort, hide)

    def leave_tape(self) -> None:
        """Back to all hides, from a photo that was taped."""
        self.taping.hide()
        self.taped.emit(False)

    def _ask_outline(self) -> None:
        found, _ = QFileDialog.getOpenFileName(self, "The outline of a hide", "", "Drawings (*.svg *.dxf)")
        if found:
            self.coming.setText(found)
            self.take_in()

    def _ask_photo(self) -> None:
        kinds = "Photos (*.jpg *.jpeg *.png *.webp)"
        found, _ = QFileDialog.getOpenFileName(self, "A hide photographed with marker sheets about it", "", kinds)
        if found:
            self.photographed(Path(found))
