"""The slip of an entry: how it fits, what was measured, how it looks, what to do next time; written where it stands."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QFrame, QGridLayout, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from tailor.core.errors import InputError
from tailor.core.log.case import Fit, When
from tailor.core.log.entry import Entry, Feels, Look, Mark, Place
from tailor.core.log.measurable import CameOut, Measurable
from tailor.core.log.opening import of_sort
from tailor.core.shop.leathers import Sort
from tailor.core.units import System, format_length, parse_length
from tailor.desk import theme
from tailor.desk.stock_list import typed_number
from tailor.desk.words import Words

FITS = tuple(Fit)
ROW = 22  # px high
SHORT = {Fit.STUCK: "not in", Fit.TIGHT: "tight", Fit.RIGHT: "right", Fit.LOOSE: "loose", Fit.FALLS: "falls out"}
TIP = {Feels.HOLDS: "Upside down it does not fall out", Feels.DRAWS: "One hand draws it", Feels.RATTLES: "It rattles"}


class EntrySlip(QFrame):
    """changed: what it is now, and what was done. refused: what was typed cannot be. picture, traced: one is wanted.

    turned: another place or time is in hand.
    """

    changed = pyqtSignal(object, str)
    refused = pyqtSignal(str)
    picture = pyqtSignal()
    traced = pyqtSignal()
    turned = pyqtSignal()

    def __init__(self, units: Callable[[], System], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("sheet")
        self._units = units
        self.entry: Entry | None = None
        self.sorts: Sequence[Sort] = ()
        self.when, self.place = When.NEW, Place.MOUTH
        self.rows: dict[str, tuple[Measurable, QLineEdit]] = {}
        inside = QVBoxLayout(self)
        inside.setContentsMargins(12, 8, 12, 8)
        inside.setSpacing(4)
        self.head = Words()
        self.head.setFont(theme.heading(15))
        self.head.setWordWrap(True)
        self.leather = QComboBox()
        self.leather.setAccessibleName("Of which leather")
        self.leather.setToolTip("The leather it was cut from: what is learned of it is learned of that leather")
        self.leather.activated.connect(lambda _: self._of())
        top = QGridLayout()
        top.addWidget(Words("of"), 0, 0)
        top.addWidget(self.leather, 0, 1)
        self.hide_ = QComboBox()
        self.hide_.setAccessibleName("Cut from which hide")
        self.hide_.setToolTip("The hide or the offcut it was cut from")
        self.hide_.activated.connect(lambda _: self._from())
        top.addWidget(Words("cut from"), 1, 0)
        top.addWidget(self.hide_, 1, 1)
        top.setColumnStretch(1, 1)
        for box in (self.leather, self.hide_):  # no wider than there is room
            box.setMinimumContentsLength(8)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        inside.addWidget(self.head)
        inside.addLayout(top)
        inside.addLayout(self._fits())
        inside.addLayout(self._feels())
        self._measured = QGridLayout()
        self._measured.setVerticalSpacing(2)
        inside.addWidget(self._heading("Measured: what came out"))
        inside.addLayout(self._measured)
        inside.addWidget(self._heading("Looks"))
        inside.addLayout(self._looks())
        self.next = QLineEdit()
        self.next.setPlaceholderText("next time …")
        self.next.setAccessibleName("Next time")
        self.next.editingFinished.connect(self._next)
        self.add = QPushButton("Picture …")
        self.add.setProperty("plain", "false")
        self.add.setToolTip("Copy a picture of it into the log")
        self.add.clicked.connect(self.picture)
        foot = QHBoxLayout()
        foot.addWidget(self.next, 1)
        foot.addWidget(self.add)
        self.trace = QPushButton("Trace …")
        self.trace.setProperty("plain", "false")
        self.trace.setToolTip(
            "Lay a piece as it was made over the draft: a photo of it on the mat, a scan, or a drawing"
        )
        self.trace.clicked.connect(self.traced)
        foot.addWidget(self.trace)
        inside.addLayout(foot)
        inside.addStretch(1)

    def _heading(self, said: str) -> Words:
        words = Words(said)
        words.setFont(theme.text(10.5, True))
        return words

    def _fits(self) -> QVBoxLayout:
        all_, whens, grid = QVBoxLayout(), QHBoxLayout(), QGridLayout()
        whens.addWidget(self._heading("Fits,"))
        self.whens = {when: self._toggle(when.value, lambda w=when: self.turn_to(w)) for when in When}
        for button in self.whens.values():
            whens.addWidget(button)
        whens.addStretch(1)
        grid.setHorizontalSpacing(3)
        grid.setVerticalSpacing(2)
        self.fits: dict[tuple[Place, Fit], QPushButton] = {}
        self.places = {}
        for row, place in enumerate(Place):
            self.places[place] = name = Words(str(place))
            grid.addWidget(name, row, 0)
            for column, fit in enumerate(Fit):
                button = self._toggle(SHORT[fit], lambda p=place, f=fit: self.say(f, p))
                button.setToolTip(f"{place}: {fit.value} ({column + 1})")
                button.setAccessibleName(f"{place}: {fit.value}")
                self.fits[place, fit] = button
                grid.addWidget(button, row, column + 1)
        all_.addLayout(whens)
        all_.addLayout(grid)
        return all_

    def _feels(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(3)
        self.feels = {}
        for feels in Feels:
            self.feels[feels] = button = self._toggle(str(feels), lambda f=feels: self._feeling(f))
            button.setToolTip(TIP[feels])
            row.addWidget(button)
        return row

    def _looks(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(3)
        grid.setVerticalSpacing(2)
        self.marks: dict[tuple[Look, Mark], QPushButton] = {}
        self.words: dict[Look, QLineEdit] = {}
        for row, look in enumerate(Look):
            grid.addWidget(Words(str(look)), row, 0)
            for column, mark in enumerate(Mark):
                button = self._toggle(str(mark), lambda k=look, m=mark: self._looked(k, m))
                button.setAccessibleName(f"{look}: {mark}")
                self.marks[look, mark] = button
                grid.addWidget(button, row, column + 1)
            self.words[look] = word = QLineEdit()
            word.setFixedHeight(ROW)
            word.setAccessibleName(f"A word about {look}")
            word.setPlaceholderText("a word")
            word.editingFinished.connect(lambda k=look: self._word(k))
            grid.addWidget(word, row, 4)
        return grid

    def _toggle(self, said: str, deed: Callable[[], object]) -> QPushButton:
        button = QPushButton(said)
        button.setCheckable(True)
        button.setProperty("plain", "false")
        button.setFont(theme.text(9.5))
        button.setFixedHeight(ROW)
        button.clicked.connect(lambda _: deed())
        return button

    # Showing

    def show_entry(self, entry: Entry | None, sorts: Sequence[Sort], hides: Sequence[str], writes: bool) -> None:
        """Show an entry as it stands. hides: of its leather. writes: whether anything can be noted."""
        self.entry, self.sorts = entry, sorts
        self.setEnabled(entry is not None and writes)
        self.head.setText("" if entry is None else f"{entry.job.name}, {entry.made_on:%-d %B %Y}")
        names = ["a leather that is not in the shop", *(sort.name for sort in sorts)]
        if names != [self.leather.itemText(n) for n in range(self.leather.count())]:
            self.leather.clear()
            self.leather.addItems(names)
        self.leather.setCurrentIndex(max(self.leather.findText(entry.leather), 0) if entry else 0)
        there = ["no matter which hide", *dict.fromkeys((*hides, *([entry.hide] if entry and entry.hide else [])))]
        if there != [self.hide_.itemText(n) for n in range(self.hide_.count())]:
            self.hide_.clear()
            self.hide_.addItems(there)
        self.hide_.setCurrentIndex(max(self.hide_.findText(entry.hide), 0) if entry else 0)
        felt = {(each.place, each.fit) for each in entry.fits if each.when is self.when} if entry else set()
        for when, button in self.whens.items():
            button.setChecked(when is self.when)
        for place, name in self.places.items():
            name.setFont(theme.text(10.5, place is self.place))
        for at, button in self.fits.items():
            button.setChecked(at in felt)
        for feels, button in self.feels.items():
            button.setChecked(entry is not None and feels in entry.feels)
        looks = {each.look: each for each in entry.looks} if entry else {}
        for (look, mark), button in self.marks.items():
            button.setChecked(look in looks and looks[look].mark is mark)
        for look, word in self.words.items():
            word.setEnabled(look in looks)
            self._put(word, looks[look].word if look in looks else "")
        self._put(self.next, entry.next_time if entry else "")
        came = {each.of.what: each for each in entry.measured} if entry else {}
        for what, (_, field) in self.rows.items():
            self._put(field, self._told(came[what].of, came[what].value) if what in came else "")

    def _told(self, of: Measurable, value: float) -> str:
        return f"{value:.2f} m" if of.unit == "m" else format_length(value, self._units())

    @staticmethod
    def _put(field: QLineEdit, said: str) -> None:
        if not (field.hasFocus() and field.isModified()):
            field.setText(said)
            field.setCursorPosition(0)

    def show_measurable(self, there: Sequence[Measurable]) -> None:
        """What can be measured of it, a row each."""
        while (item := self._measured.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.deleteLater()
        self.rows = {}
        for n, each in enumerate(there):
            field = QLineEdit()
            field.setFixedSize(74, ROW)
            drafted = self._told(each, each.drafted)
            field.setPlaceholderText(drafted)
            field.setAccessibleName(f"{each.said}, came out")
            field.setToolTip(f"{each.said}: {drafted} were drafted; type what came out")
            field.editingFinished.connect(lambda e=each, f=field: self._came_out(e, f))
            words = Words(each.said)
            words.setFont(theme.text(9.5))
            self._measured.addWidget(words, n, 0)
            self._measured.addWidget(Words(drafted), n, 1)
            self._measured.addWidget(field, n, 2)
            self.rows[each.what] = each, field

    # What a hand does

    def turn_to(self, when: When) -> None:
        """Say how it fits at another time."""
        self.when = when
        self.turned.emit()

    def at(self, place: Place) -> None:
        """Say how it fits at another place."""
        self.place = place
        self.turned.emit()

    def step(self, by: int) -> None:
        """To another place, from the mouth down."""
        places = list(Place)
        self.at(places[min(max(places.index(self.place) + by, 0), len(places) - 1)])

    def say(self, fit: Fit | None, place: Place | None = None) -> None:
        """How it fits at a place, or the one in hand; the same once more takes it back. The next place is in hand."""
        if self.entry is None:
            return
        self.place = place or self.place
        there = next((e.fit for e in self.entry.fits if (e.place, e.when) == (self.place, self.when)), None)
        now = None if fit is there else fit
        said = f"{self.place} {now.value}" if now else f"nothing of the {self.place}"
        entry = self.entry.felt(self.place, now, self.when)
        if place is None and now is not None:
            places = list(Place)
            self.place = places[min(places.index(self.place) + 1, len(places) - 1)]
        self.changed.emit(entry, said)

    def _feeling(self, feels: Feels) -> None:
        if self.entry is not None:
            self.changed.emit(self.entry.feeling(feels, feels not in self.entry.feels), str(feels))

    def _looked(self, look: Look, mark: Mark) -> None:
        if self.entry is None:
            return
        there = next((each for each in self.entry.looks if each.look is look), None)
        now = None if there is not None and there.mark is mark else mark
        self.changed.emit(self.entry.looked(look, now, there.word if there else ""), f"{look}: {now or 'nothing'}")

    def _word(self, look: Look) -> None:
        field, entry = self.words[look], self.entry
        there = next((each for each in entry.looks if each.look is look), None) if entry else None
        if entry is not None and there is not None and field.isModified() and field.text() != there.word:
            field.setModified(False)
            self._try(lambda: entry.looked(look, there.mark, field.text().strip()[:120]), f"a word about {look}")

    def _next(self) -> None:
        entry = self.entry
        if entry is not None and self.next.isModified() and self.next.text().strip() != entry.next_time:
            self.next.setModified(False)
            self._try(lambda: replace(entry, next_time=self.next.text().strip()), "next time")

    def _of(self) -> None:
        if self.entry is not None:
            sort = next((sort for sort in self.sorts if sort.name == self.leather.currentText()), None)
            self.changed.emit(of_sort(self.entry, sort), f"of {sort.name if sort else 'another leather'}")

    def _from(self) -> None:
        if self.entry is not None:
            hide = self.hide_.currentText() if self.hide_.currentIndex() else ""
            self.changed.emit(replace(self.entry, hide=hide), f"cut from {hide or 'no matter which hide'}")

    def _came_out(self, of: Measurable, field: QLineEdit) -> None:
        entry, text = self.entry, field.text().strip()
        if entry is None or not field.isModified():
            return
        field.setModified(False)
        if not text:
            self.changed.emit(entry.unmeasured(of.what), f"nothing measured: {of.said}")
            return

        def came() -> Entry:
            if of.unit == "m":
                return entry.came_out(CameOut(of, typed_number(text.removesuffix("m"), of.said)))
            value = parse_length(text, self._units().bare, of.said)
            return entry.came_out(CameOut(of, value))

        self._try(came, f"{of.said}: {text}")

    def _try(self, change: Callable[[], Entry], said: str) -> None:
        try:
            entry = change()
        except InputError as error:
            self.refused.emit(str(error))
            self.turned.emit()
            return
        self.changed.emit(entry, said)

    def keyed(self, key: int) -> bool:
        """What a key does while no field has the hand; whether it did anything."""
        if Qt.Key.Key_1 <= key <= Qt.Key.Key_5:
            self.say(FITS[key - Qt.Key.Key_1])
        elif key == Qt.Key.Key_0:
            self.say(None)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.step(1 if key == Qt.Key.Key_Down else -1)
        elif key == Qt.Key.Key_W:
            whens = list(When)
            self.turn_to(whens[(whens.index(self.when) + 1) % len(whens)])
        else:
            return False
        return True
