"""Keepsakes: pictures of what was made, copied into the log, and pieces as they were made, laid over their drafts."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QImage, QImageReader, QPixmap
from PyQt6.QtWidgets import QFileDialog

from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.log.entry import Entry, Traced
from tailor.desk.capture.labour import Labour, Tell
from tailor.desk.counter import Counter
from tailor.desk.fits_drawn import THUMB, FitsDrawn, Over

SHOWN = 6  # pictures of an entry
PICTURES = "Pictures (*.png *.jpg *.jpeg)"
OUTLINES = "Pictures and drawings (*.png *.jpg *.jpeg *.webp *.tif *.tiff *.svg *.dxf)"


class Keepsakes(QObject):
    """changed: the entry with something more, and what that is. told: what was found. progress: how far it is.

    refused: what cannot be, and why.
    """

    changed = pyqtSignal(object, str)
    told = pyqtSignal(str)
    progress = pyqtSignal(str)
    refused = pyqtSignal(str)

    def __init__(self, drawn: FitsDrawn, counter: Counter) -> None:
        super().__init__(drawn)
        self.drawn, self.counter = drawn, counter
        self.entry: Entry | None = None
        self.made: Draft | None = None  # the entry's job, drafted
        self._shown: tuple[str, ...] = ()  # the pictures that are shown
        self.reading, self.tracing = Labour(self), Labour(self)
        self.reading.done.connect(self._pictured)
        self.tracing.done.connect(self._traced)
        self.tracing.failed.connect(self.refused)
        self.tracing.progress.connect(lambda said, share: self.progress.emit(said))

    def show_entry(self, entry: Entry | None, made: Draft | None) -> None:
        """Show what is kept of an entry. made: its job, drafted; None while it is not."""
        self.entry, self.made = entry, made
        self._show_pictures()
        self._show_over()

    # Pictures

    def ask_picture(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self.drawn, "A picture of it", "", PICTURES)
        if path:
            self.add_picture(Path(path))

    def add_picture(self, path: Path) -> None:
        """Copy a picture into the log."""
        from tailor.files.shop_book import pictures

        if self.entry is None:
            return
        try:
            kept = pictures.keep(path, self.counter.place)
        except InputError as error:
            self.refused.emit(str(error))
            return
        self.changed.emit(replace(self.entry, pictures=(*self.entry.pictures, kept)), "a picture")

    def _show_pictures(self) -> None:
        """Show the entry's pictures, read off the window's thread."""
        names = tuple(picture.name for picture in self.entry.pictures[:SHOWN]) if self.entry else ()
        if names == self._shown:
            return
        from tailor.files.shop_book import pictures

        self._shown = names
        folder, high = pictures.folder(self.counter.place), round(THUMB * self.drawn.devicePixelRatioF())
        self.reading.start(lambda tell: (names, [_small(folder / name, high) for name in names]))

    def _pictured(self, found: tuple[tuple[str, ...], list[QImage]]) -> None:
        names, images = found
        if names == self._shown:
            self.drawn.pictures = [QPixmap.fromImage(each) for each in images if not each.isNull()]
            self.drawn.update()

    # Pieces

    def ask_traced(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self.drawn, "A piece as it was made", "", OUTLINES)
        if path:
            self.add_traced(Path(path))

    def add_traced(self, path: Path) -> None:
        """Lay a piece as it was made over the draft, off the window's thread."""
        if self.entry is None or self.made is None:
            return
        id_, made, thick = self.entry.id, self.made, self.entry.job.settings.number("leather.thickness")
        self.tracing.start(lambda tell: _laid_over(id_, path, made, thick, tell))

    def _traced(self, found: tuple[str, list[tuple[Traced, int]]]) -> None:
        id_, those = found
        if self.entry is None or self.entry.id != id_:
            return
        entry, said = self.entry, list[str]()
        for traced, off in those:
            entry = entry.with_traced(traced)
            down = ", which lay face down," if traced.over else ""
            where = {0: "is as it was drafted", 1: "is off at one place"}.get(off, f"is off at {off} places")
            said.append(f"{traced.piece.capitalize()}{down} {where}.")
        self.changed.emit(entry, f"{', '.join(traced.piece for traced, _ in those)} traced")
        self.told.emit(" ".join(said))

    def _show_over(self) -> None:
        """Lay what was traced over the pieces as they are seen."""
        if self.made is None or self.entry is None or not self.drawn.seen:
            self.drawn.show_over([])
            return
        from tailor.core.log.sight import over  # slow to load, and loaded by then

        self.drawn.show_over([Over(*each) for each in over(self.entry.traced, self.made, self.drawn.seen)])

    def finish(self) -> None:
        """The window closes: leave no thread running."""
        self.reading.finish()
        self.tracing.finish()


def _laid_over(id_: str, path: Path, made: Draft, thick: float, tell: Tell) -> tuple[str, list[tuple[Traced, int]]]:
    """Pieces that were traced, where they lie on the draft, and at how many places each is off."""
    from tailor.core.log.sight import traced
    from tailor.files import panels

    return id_, [traced(outline, made) for outline in panels.read(path, thick, tell=tell)]


def _small(path: Path, high: int) -> QImage:
    """A picture so many px high; an empty one where it cannot be read."""
    reader = QImageReader(str(path))
    reader.setAutoTransform(True)
    size = reader.size()
    if size.isValid() and size.height() > high:
        reader.setScaledSize(size * (high / size.height()))
    return reader.read()
