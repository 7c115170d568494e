"""Tagged: the tags on the board, tied to what they measure, typed at, nudged, pinned, and asked why."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from tailor.core.draft.draft import Draft
from tailor.core.job import Job
from tailor.core.keys import Kind
from tailor.desk.columns import stand
from tailor.desk.measures import LABELS, Reading, nudged, reading, stands, told, why
from tailor.desk.measures import typed as as_typed
from tailor.desk.slip import Slip
from tailor.desk.tag import Tag
from tailor.desk.workbench import Workbench


class Tags(QObject):
    """The tags of a stage. refused: what was typed or dragged cannot be, and why.

    by_key: each tag by what it measures. sides: px of the board that their columns take together.
    """

    refused = pyqtSignal(str)

    def __init__(self, bench: Workbench, board: QWidget, sides: int) -> None:
        super().__init__(board)
        self.bench, self._board, self._sides = bench, board, sides
        self.by_key: dict[str, Tag] = {}
        self._asked: str | None = None
        self._slip = Slip(board)

    def show(self, wanted: Sequence[str], job: Job) -> None:
        """Show the measures wanted, of the draft at hand and the job that it was made for."""
        made = self.bench.made
        if made is None:
            return
        if list(self.by_key) != list(wanted):
            self._make(wanted, made, job)
        error = self.bench.error
        settled = self.bench.fresh and error is None
        for key, tag in self.by_key.items():
            if tag.typing:
                continue
            tag.show_reading(reading(job, made, key), settled or error is not None)
            if error is not None and key in error.where:
                tag.say_wrong(told(str(error), self.bench.job.units))
            else:
                tag.clear_wrong()

    def _make(self, wanted: Sequence[str], made: Draft, job: Job) -> None:
        for tag in self.by_key.values():
            tag.hide()
            tag.deleteLater()
        self.by_key = {}
        for key in wanted:
            tag = Tag(reading(job, made, key), self._board)
            tag.typed.connect(self._typed)
            tag.nudge.connect(self._nudged)
            tag.pin.connect(self._pinned)
            tag.ask.connect(self._ask)
            self.by_key[key] = tag

    def grow_stale(self) -> None:
        """What is shown is being worked out anew."""
        for tag in self.by_key.values():
            tag.show_reading(tag.reading, False)

    def place(self, spots: Mapping[str, tuple[float, float]], width: int, top: int, foot: int, one_sided: bool) -> None:
        """Stand the tags in their columns, each level with the spot, px, that it is tied to."""
        stand([(tag, spots.get(key)) for key, tag in self.by_key.items()], width, top, foot, one_sided)
        for before, after in itertools.pairwise(self._in_order()):
            QWidget.setTabOrder(before, after)

    def _in_order(self) -> list[Tag]:
        """The tags as Tab goes through them: down the left column, then down the right."""
        return sorted(self.by_key.values(), key=lambda t: (t.x() > self._board.width() / 2, t.y()))

    def ask_again(self) -> None:
        """Tell anew why, where it was asked and what it was asked of is still there."""
        if self._asked in self.by_key:
            self._ask(self._asked, True)

    def _typed(self, key: str, text: str, on: int) -> None:
        tag = self.by_key[key]
        if text:
            try:
                self.bench.type(key, as_typed(tag.reading, self.bench.job, text), f"{LABELS[key]} {text}")
            except ValueError as error:
                tag.refused(told(str(error), self.bench.job.units))
                self.refused.emit(told(str(error), self.bench.job.units))
                return
        tag.taken()
        if on:
            order = [t for t in self._in_order() if t.reading.setting is not None]
            following = order[(order.index(tag) + on) % len(order)]
            following.setFocus()
            if following.reading.setting is not None and following.reading.setting.kind is not Kind.CHOICE:
                following.begin()

    def _nudged(self, key: str, steps: int) -> None:
        now = self._now(key)
        text = None if now is None else nudged(now, self.bench.job, steps)
        if text is not None:
            self.take(key, text, f"nudge {LABELS[key]}", joins=f"nudge {key}")

    def _pinned(self, key: str) -> None:
        """Pin a measure where it is, or let a pinned one go back to its computed value."""
        if (now := self._now(key)) is None:
            return
        if now.pinned:
            self.take(key, "auto", f"let go of {LABELS[key]}")
        else:
            text = now.value if isinstance(now.value, str) else nudged(now, self.bench.job, 0)
            self.take(key, str(text), f"pin {LABELS[key]}")

    def _now(self, key: str) -> Reading | None:
        """How a measure stands; one that only the draft at hand still has, as it stood in that draft's own job."""
        made, job = self.bench.made, self.bench.job
        if made is None:
            return None
        return reading(job if stands(job, made, key) else self.bench.made_for, made, key)

    def take(self, key: str, text: str, name: str, joins: str = "") -> None:
        """Take a value for a measure, or say why it cannot be."""
        try:
            self.bench.type(key, text, name, joins)
        except ValueError as error:
            self.refused.emit(told(str(error), self.bench.job.units))

    def _ask(self, key: str, wanted: bool) -> None:
        now = self._now(key) if wanted else None
        if now is None:
            self._asked = None
            self._slip.hide()
            return
        self._asked = key
        said = why(now, self.bench.job.units)
        keys = "" if self.by_key[key].reading.setting is None else "\nEnter types · P pins or lets go · arrows nudge"
        self._slip.tell(said + keys, self.by_key[key].geometry(), self._board.rect(), self._sides)
