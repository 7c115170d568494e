"""Tooling: what is put on the leather, one card for each over the board, and the ways of putting more on."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QFileDialog, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from tailor.core.draft.draft import Draft
from tailor.core.draft.tooled.asked import Asked, Filling, Line, Picture, Tooling, measures
from tailor.core.draft.tooled.came import Tooled
from tailor.core.draft.tooled.field import first_place, is_tooled
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.measure import Measure
from tailor.desk import theme
from tailor.desk.capture.labour import Labour, Tell
from tailor.desk.words import Words
from tailor.desk.workbench import Workbench
from tailor.files import drawings, letters

FIRST_WORDS = "T.C."
SAID, ALL_SAID = 22, 66  # letters of what one is called on its card, and of a few on all together
HELP = (
    "Nothing is on the leather yet. F puts a border round a field, I a picture, L lettering, K your mark: on the piece "
    "under the mouse, or on the first."
)


class _Faces(QComboBox):
    """The faces there are; the installed ones are looked for when the list is first opened."""

    def showPopup(self) -> None:
        known = {self.itemText(k) for k in range(self.count())}
        self.addItems([name for name in letters.names() if name not in known])
        super().showPopup()


class ToolStrip(QWidget):
    """A strip over the board: what is on the leather, which of it is in hand, and what else can be put there.

    chosen: another is in hand, or none. refused, told: what could not be, and what was done. place: the piece and side
    that something new is put on, where the hand points at one.
    """

    chosen = pyqtSignal()
    refused = pyqtSignal(str)
    told = pyqtSignal(str)

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("tooling")
        self.setAccessibleName("On the leather")
        self.bench = bench
        self.number = 0
        self.place: Callable[[], str | None] = lambda: None
        self.paper: Callable[[], str] = lambda: "a4"
        self.cards: list[QPushButton] = []
        self.work = Labour(self)
        self.work.done.connect(self._came)
        self.work.failed.connect(self.refused)
        self._then: Callable[[object], None] = bool  # type: ignore[assignment]
        self._typed: tuple[int, Picture, str, str] | None = (
            None  # words that are not lettered yet: of which, and in what
        )
        self.writing = Labour(self)
        self.writing.done.connect(lambda path: self.told.emit(f"The tracing sheet lies in {path}."))
        self.writing.failed.connect(self.refused)
        self._row = QHBoxLayout()
        self._row.setSpacing(4)
        self._said = Words(HELP)
        self._said.setWordWrap(True)
        self._said.setFont(theme.text(10))
        self._row.addWidget(self._said, 1)
        self.off = self._button("Take it off", "Take what is in hand off the leather (Delete)", self.take_off)
        self._row.addWidget(self.off)
        self.ways = {
            "field": self._button("Field", "A field with a border, on the piece under the mouse (F)", self.add_field),
            "picture": self._button("Picture …", "From an SVG, a DXF, or a scan of a drawing (I)", self.ask_picture),
            "letters": self._button("Letters", "Words in a face (L)", self.add_letters),
            "mark": self._button("Mark …", "Your own mark, from a drawing (K)", lambda: self.ask_picture(mark=True)),
        }
        self.trace = self._button("Tracing sheet …", "What is tooled, at true size, as a PDF", self.ask_trace)
        self.over = QCheckBox("mirrored")
        self.over.setToolTip("The tracing sheet turned over, to be rubbed on from behind")
        more = QHBoxLayout()
        more.setSpacing(4)
        for way in self.ways.values():
            more.addWidget(way)
        more.addStretch(1)
        more.addWidget(self.trace)
        more.addWidget(self.over)
        self._letters = self._lettering()
        all_ = QVBoxLayout(self)
        all_.setContentsMargins(10, 4, 10, 2)
        all_.setSpacing(3)
        all_.addLayout(more)
        all_.addLayout(self._row)
        all_.addWidget(self._letters)
        bench.changed.connect(self.refresh)
        bench.laid.connect(lambda: self.choose(0))
        self.hide()
        self.refresh()

    def _button(self, said: str, tip: str, does: Callable[[], object]) -> QPushButton:
        button = QPushButton(said)
        button.setProperty("plain", "false")
        button.setToolTip(tip)
        button.clicked.connect(lambda _=False: does())
        return button

    def _lettering(self) -> QWidget:
        """The words of lettering and their face, typed where they are seen."""
        made = QWidget()
        row = QHBoxLayout(made)
        row.setContentsMargins(0, 0, 0, 2)
        self.words = QLineEdit()
        self.words.setMaxLength(letters.LONGEST)
        self.words.setAccessibleName("Words")
        self.words.editingFinished.connect(self._reletter)
        self.face = _Faces()
        self.face.setAccessibleName("Face")
        self.face.setMinimumWidth(150)
        self.face.addItems(list(letters.SHIPPED))
        self.face.activated.connect(lambda _: self._reletter())
        for name, widget, share in (("Words", self.words, 1), ("in", self.face, 0)):
            row.addWidget(Words(name))
            row.addWidget(widget, share)
        made.hide()
        return made

    # What is in hand

    @property
    def asked(self) -> Asked | None:
        """What is in hand, as it is asked for."""
        every = self.bench.job.tooling
        return every[self.number - 1] if 1 <= self.number <= len(every) else None

    @property
    def put(self) -> Tooled | None:
        """What came of it in the draft at hand."""
        made = self.bench.made
        return next((put for put in made.tooled if put.number == self.number), None) if made is not None else None

    def choose(self, number: int) -> None:
        """Take one in hand, by its number; 0 for none."""
        if number != self.number:
            self.number = number
            self.refresh()
            self.chosen.emit()

    def measures(self, job: Job, made: Draft) -> tuple[Measure, ...]:
        """What can be set of what is in hand, in a job and its draft."""
        put = next((put for put in made.tooled if put.number == self.number), None)
        if put is None or not 1 <= self.number <= len(job.tooling):
            return ()
        patches = {put.piece for put in made.tooled if put.patch}
        pieces = [piece.name for piece in made.pieces if is_tooled(piece) and piece.name not in patches]
        return measures(job.tooling, self.number, pieces, [field.side for field in put.there])

    def refresh(self) -> None:
        """Show what is on the leather now."""
        every = self.bench.job.tooling
        if self.number > len(every):
            self.number = len(every)
            self.chosen.emit()
        while len(self.cards) > len(every):
            old = self.cards.pop()
            self._row.removeWidget(old)
            old.deleteLater()
        while len(self.cards) < len(every):
            number = len(self.cards) + 1
            card = QPushButton()
            card.setProperty("plain", "false")
            card.setCheckable(True)
            card.clicked.connect(lambda _=False, n=number: self.choose(n if n != self.number else 0))
            self._row.insertWidget(number - 1, card)
            self.cards.append(card)
        for number, (card, asked) in enumerate(zip(self.cards, every, strict=True), 1):
            most = max(SAID, ALL_SAID // len(every))
            title = asked.title if len(asked.title) <= most else f"{asked.title[: most - 1]}…"
            card.setText(f"{number}  {title}".replace("&", "&&"))
            card.setChecked(number == self.number)
            card.setToolTip(f"Number {number}: {asked.title}, {asked.where}")
        self._said.setText("" if every else HELP)
        self.off.setVisible(self.asked is not None)
        self.trace.setEnabled(bool(every))
        self.over.setEnabled(bool(every))
        lettered = self.asked if isinstance(self.asked, Picture) and self.asked.face else None
        self._letters.setVisible(lettered is not None)
        if lettered is not None and not self.words.hasFocus():
            self.words.setText(lettered.name)
            if self.face.findText(lettered.face) < 0:
                self.face.addItem(lettered.face)
            self.face.setCurrentText(lettered.face)

    # Putting on, and taking off

    def _where(self) -> dict[str, Any]:
        """The piece that something new goes on: under the hand, else where the last was put, else the first."""
        made, under = self.bench.made, self.place()
        if under is not None:
            return {"piece": under}
        if self.asked is not None:
            return {"piece": self.asked.piece, "side": self.asked.side}
        return first_place(made) if made is not None else {"piece": "body"}

    def add(self, asked: Asked) -> None:
        """Put something on, and take it in hand."""
        job = self.bench.job
        try:
            self.bench.change(f"put on {asked.title}", replace(job, tooling=(*job.tooling, asked)))
        except InputError as error:
            self.refused.emit(str(error))
            return
        self.choose(len(self.bench.job.tooling))

    def add_field(self) -> None:
        """A field with a border."""
        self.add(Tooling(**self._where()))

    def take_off(self) -> None:
        """Take what is in hand off the leather."""
        if (asked := self.asked) is None:
            return
        job = self.bench.job
        kept = tuple(each for n, each in enumerate(job.tooling, 1) if n != self.number)
        self.number = 0
        self.bench.change(f"take off {asked.title}", replace(job, tooling=kept))
        self.refresh()
        self.chosen.emit()

    def change(self, name: str, asked: Asked, joins: str = "") -> None:
        """Change what is in hand."""
        every = list(self.bench.job.tooling)
        every[self.number - 1] = asked
        self.bench.change(f"{name} {asked.title}", replace(self.bench.job, tooling=tuple(every)), joins)

    def add_letters(self) -> None:
        """Lettering, whose words are typed once it stands there."""
        where, face = self._where(), self.face.currentText() or next(iter(letters.SHIPPED))

        def came(drawn: object) -> None:
            self.add(Picture(**where, name=FIRST_WORDS, face=face, drawn=_lines(drawn)))
            self.words.setFocus()
            self.words.selectAll()

        self._begin(lambda tell: letters.lettered(FIRST_WORDS, face, lambda: tell("lettering", 0.5)), came)

    def _reletter(self) -> None:
        """The words or the face of what is in hand are others."""
        asked, words, face = self.asked, self.words.text().strip(), self.face.currentText()
        if not isinstance(asked, Picture) or not asked.face or (words, face) == (asked.name, asked.face):
            return
        self._typed = self.number, asked, words, face
        self._begin(lambda tell: letters.lettered(words, face, lambda: tell("lettering", 0.5)), self._letter)

    def _letter(self, drawn: object) -> None:
        """Take the words that were typed, whatever is in hand by now; not where theirs is there no longer."""
        if self._typed is None:
            return
        (number, asked, words, face), self._typed = self._typed, None
        every = list(self.bench.job.tooling)
        if number <= len(every) and isinstance(now := every[number - 1], Picture) and now.name == asked.name:
            every[number - 1] = lettered = replace(now, name=words, face=face, drawn=_lines(drawn))
            self.bench.change(f"letter {lettered.title}", replace(self.bench.job, tooling=tuple(every)))

    def ask_picture(self, mark: bool = False) -> None:
        """Ask for the file of a picture, or of the maker's mark."""
        kinds = " ".join(f"*{suffix}" for suffix in drawings.SUFFIXES)
        said = "Your mark" if mark else "A picture to put on the leather"
        path, _ = QFileDialog.getOpenFileName(self, said, "", f"Pictures ({kinds})")
        if path:
            self.take_picture(Path(path), mark)

    def take_picture(self, path: Path, mark: bool = False) -> None:
        """Put a picture from a file on the leather."""
        where = self._where()

        def came(drawn: object) -> None:
            self.add(Picture(**where, name=path.stem[:60], drawn=_lines(drawn), mark=mark))

        self._begin(lambda tell: drawings.read(path, lambda: tell("reading", 0.5)), came)

    def _begin(self, work: Callable[[Tell], object], then: Callable[[object], None]) -> None:
        self._then = then
        self.work.start(work)

    def _came(self, found: object) -> None:
        if found is None:
            return
        try:
            self._then(found)
        except InputError as error:
            self.refused.emit(str(error))

    def weave(self) -> None:
        """Fill the field in hand with the next texture."""
        if isinstance(self.asked, Tooling):
            every = list(Filling)
            following = every[(every.index(Filling(self.asked.filling)) + 1) % len(every)]
            self.change(f"fill with {following.value}:", replace(self.asked, filling=following.value))

    # Out

    def ask_trace(self) -> None:
        """Ask where the tracing sheet goes."""
        name = f"{self.bench.job.name} tracing.pdf"
        path, _ = QFileDialog.getSaveFileName(self, "The tracing sheet", name, "PDF (*.pdf)")
        if path:
            self.write_trace(Path(path).with_suffix(".pdf"))

    def write_trace(self, path: Path) -> None:
        """Write the tracing sheet, on the paper that is chosen."""
        paper = self.paper()
        made, name, mirrored = self.bench.made, self.bench.job.name, self.over.isChecked()
        if made is None:
            return

        def write(tell: Tell) -> Path:
            from tailor.files import atomic, tracing  # paper is slow to load

            tell("writing", 0.5)
            atomic.write(path, tracing.to_bytes(tracing.pieces(made, mirrored), name, paper))
            return path

        self.writing.start(write)

    def finish(self) -> None:
        """The window closes: what was typed and is not lettered yet is lettered here and now."""
        self.work.finish()
        self.writing.finish()
        if self._typed is not None:
            with contextlib.suppress(InputError):  # words that cannot be lettered
                self._letter(letters.lettered(*self._typed[2:]))


def _lines(drawn: object) -> tuple[Line, ...]:
    assert isinstance(drawn, tuple)
    return drawn
