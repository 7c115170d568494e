"""What a hand changes of the step in hand: its name, its minutes, whether it is done at all, at two goes, after what
it comes, and why; and steps of its own.
"""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QFrame, QGridLayout, QLineEdit, QPushButton, QWidget

from tailor.core.bench.altered import OWN, REST, Altered, circular
from tailor.core.bench.steps import Steps
from tailor.core.errors import InputError
from tailor.core.shop.sitting import Turn
from tailor.desk import theme
from tailor.desk.stock_list import typed_number
from tailor.desk.words import Words

WHENEVER = "whenever it can be done"


class StepChanges(QFrame):
    """changed: what was changed before (or None), what is now, and that in words. refused: why it cannot be. warned:
    of what is lost by it. when_noted: does something once what was changed before is in the book.
    """

    changed = pyqtSignal(object, object, str)
    refused = pyqtSignal(str)
    warned = pyqtSignal(str)

    def __init__(self, when_noted: Callable[[Callable[[], object]], object], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._when_noted = when_noted
        self.setObjectName("sheet")
        self.setAccessibleName("What is changed of the step in hand")
        self.turn: Turn | None = None
        self.steps = Steps()
        self._there: dict[str, Altered] = {}  # what was changed of the same line, by its id
        self.name, self.minutes = QLineEdit(), QLineEdit()
        self.name.setAccessibleName("Name of the step")
        self.minutes.setAccessibleName("Minutes it is thought to take")
        self.minutes.setFixedWidth(64)
        self.name.editingFinished.connect(self._named)
        self.minutes.editingFinished.connect(self._timed)
        self.why = QLineEdit()
        self.why.setAccessibleName("Why you do it so")
        self.why.setPlaceholderText("why you do it so, for whoever works by it")
        self.why.editingFinished.connect(self._reasoned)
        self.after, self.back = QComboBox(), QComboBox()
        self.after.setAccessibleName("Comes after")
        self.after.setMinimumContentsLength(12)
        self.after.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.after.activated.connect(lambda n: self._chosen(self._moved, self.after.itemData(n)))
        self.back.setAccessibleName("What was dropped")
        self.back.setMinimumContentsLength(10)
        self.back.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.back.activated.connect(lambda n: self._chosen(self._bring, self.back.itemData(n)))
        self.drop = self._button("Leave out", self.leave_out)
        self.split = self._button("Two goes", self.at_two_goes)
        self.own = self._button("Add one", self.another)
        self.plain = self._button("As it was", self.as_it_was)
        for button, tip in (
            (self.drop, "It is not done; what waited for it waits as long"),
            (self.split, "It is done at two goes, which may lie apart"),
            (self.own, "A step of your own comes after it"),
            (self.plain, "All of it as it was derived"),
        ):
            button.setToolTip(tip)
        grid = QGridLayout(self)
        grid.setContentsMargins(10, 6, 10, 6)
        grid.setSpacing(5)
        grid.addWidget(self.name, 0, 0, 1, 3)
        grid.addWidget(self.minutes, 0, 3)
        grid.addWidget(Words("comes after"), 1, 0)
        grid.addWidget(self.after, 1, 1, 1, 3)
        grid.addWidget(self.why, 2, 0, 1, 4)
        for n, button in enumerate((self.drop, self.split, self.own, self.plain)):
            grid.addWidget(button, 3, n)
        grid.addWidget(self.back, 4, 0, 1, 4)

    def _chosen(self, deed: Callable[[str], object], what: str) -> None:
        self._when_noted(lambda: deed(what))

    def _button(self, said: str, deed: Callable[[], object]) -> QPushButton:
        button = QPushButton(said)
        button.setProperty("plain", "false")
        button.setFont(theme.text(9.5))
        button.clicked.connect(lambda: self._when_noted(deed))
        return button

    def show_turn(self, turn: Turn | None, steps: Steps, there: tuple[Altered, ...], writes: bool) -> None:
        """Show what can be changed of a step. steps: of its thing; there: what was changed of all that is ordered."""
        self.turn, self.steps = turn, steps
        line = "" if turn is None else self._line
        self._there = {each.id: each for each in there if each.line == line}
        self.setEnabled(turn is not None and writes)
        if turn is None or not self.isVisible():
            return
        doing, change = turn.task.doing, self.change
        said_of = (self.name, doing.name), (self.minutes, f"{doing.minutes:.3g}"), (self.why, change.why)
        for field, said in said_of:
            if not (field.hasFocus() and field.isModified()):
                field.setText(said)
                field.setCursorPosition(0)
        others = [(WHENEVER, "")] + [
            (other.name, other.key) for other in steps.doings
            if other.key == change.after or not circular(steps, doing.key, other.key)
        ]  # fmt: skip
        self.after.clear()
        for said, key in others:
            self.after.addItem(said, key)
        self.after.setCurrentIndex(max(self.after.findData(change.after), 0))
        whole = not doing.key.startswith((OWN, REST))
        self.split.setEnabled(whole and change.parts == 1)
        self.after.setEnabled(not doing.key.startswith(REST))
        self.drop.setEnabled(not doing.key.startswith(REST))
        self.plain.setEnabled(not change.plain)
        gone = [each for each in self._there.values() if each.dropped]
        self.back.clear()
        self.back.addItem("What was left out …", "")
        for each in gone:
            why = f" ({each.why})" if each.why else ""
            self.back.addItem(f"Do it all the same: {each.name or each.key}{why}", each.id)
        self.back.setVisible(bool(gone))

    @property
    def _line(self) -> str:
        assert self.turn is not None
        return f"{self.turn.task.order.id}/{self.turn.task.mark}/"

    @property
    def change(self) -> Altered:
        """What is changed of the step in hand."""
        assert self.turn is not None
        id_ = self._line + self.turn.task.doing.key.removeprefix(f"{REST} ")
        return self._there.get(id_, Altered(id_))

    def _put(self, now: Altered, said: str) -> None:
        was = self._there.get(now.id)
        self.changed.emit(was, None if now.plain else now, said)

    # What a hand does

    def _named(self) -> None:
        text = self.name.text().strip()
        if self.turn is not None and self.name.isModified() and text and text != self.turn.task.doing.name:
            self.name.setModified(False)
            self._try(lambda: replace(self.change, name=text), f"{self.turn.task.doing.name} is called {text}")

    def _timed(self) -> None:
        if self.turn is None or not self.minutes.isModified():
            return
        self.minutes.setModified(False)
        text, name = self.minutes.text().removesuffix("min"), self.turn.task.doing.name

        def timed() -> Altered:
            return replace(self.change, minutes=typed_number(text, "minutes") * self.change.parts)

        self._try(timed, f"{name}, {text.strip()} minutes")

    def _reasoned(self) -> None:
        if self.turn is not None and self.why.isModified():
            self.why.setModified(False)
            text, name = self.why.text().strip(), self.turn.task.doing.name
            self._try(lambda: replace(self.change, why=text), f"why {name} is done so")

    def _try(self, change: Callable[[], Altered], said: str) -> None:
        def tried() -> None:
            try:
                now = change()
            except InputError as error:
                self.refused.emit(str(error))
                return
            self._put(now, said)

        self._when_noted(tried)

    def _moved(self, after: str) -> None:
        if self.turn is not None and after != self.change.after:
            doing = self.turn.task.doing
            then = f"after {self.steps[after].name}" if after else WHENEVER
            self._put(replace(self.change, after=after), f"{doing.name}, {then}")

    def leave_out(self) -> None:
        if self.turn is not None:
            doing, change = self.turn.task.doing, self.change
            if (last := self.steps.last_chance(doing.key)) is not None:
                once = f"Left out for good once “{self.steps[last.after].name}” is done: {last.why}."
                self.warned.emit(f"{once} Ctrl+Z takes it back.")
            if change.own:  # a step of his own is no more
                self.changed.emit(change, None, f"{doing.name} taken out")
            else:
                self._put(replace(change, dropped=True, name=change.name or doing.name), f"{doing.name} left out")

    def at_two_goes(self) -> None:
        if self.turn is not None:
            self._put(replace(self.change, parts=2), f"{self.turn.task.doing.name} at two goes")

    def another(self) -> None:
        """A step of one's own, after the one in hand."""
        if self.turn is not None:
            id_ = f"{self._line}{OWN} {uuid.uuid4().hex[:8]}"
            new = Altered(id_, "a step of your own", 10.0, after=self.turn.task.doing.key)
            self.changed.emit(None, new, f"a step of your own after {self.turn.task.doing.name}")

    def as_it_was(self) -> None:
        if self.turn is not None and not self.change.own:
            self._put(Altered(self.change.id), f"{self.turn.task.doing.name} as it was derived")

    def _bring(self, id_: str) -> None:
        if id_ in self._there:
            there = self._there[id_]
            self.changed.emit(there, None, f"{there.name or there.key} is done all the same")
