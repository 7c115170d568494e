"""Pages: what fills the window. That is the bench with its board, or over it the shelf, the guide, the orders, leather
and stock, or what the maker goes by; and whose steps are taken back while each of them is looked at.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QApplication, QStackedWidget, QWidget

from tailor.desk.guide import BEGINNING, Guide
from tailor.desk.tag import Tag

if TYPE_CHECKING:
    from tailor.desk.board import Board
    from tailor.desk.counter import Counter
    from tailor.desk.habits import Habits
    from tailor.desk.orders import Orders
    from tailor.desk.rooms import Rooms
    from tailor.desk.shelf import Shelf
    from tailor.desk.stockroom import Stockroom
    from tailor.desk.workbench import Workbench

PICKING = "Choosing a construction"  # heading of the guide


class Pages(QStackedWidget):
    """turned: another page is looked at. picking: whether a construction is being chosen on the bench."""

    turned = pyqtSignal()

    def __init__(self, bench: Workbench, board: Board, shelf: Shelf, rooms: Rooms, counter: Counter) -> None:
        super().__init__()
        self._bench, self._board, self._shelf, self._rooms, self._counter = bench, board, shelf, rooms, counter
        self.guide = Guide()
        self.picking: Callable[[], bool] = lambda: False
        self._came_from = 0  # which page the guide was opened over
        self.guide.left.connect(self.read_guide)
        rooms.left.connect(self.to_the_bench)
        shelf.left.connect(self.to_the_bench)
        bench.laid.connect(self.to_the_bench)

    def lay_out(self, front: QWidget) -> None:
        """With the bench in front."""
        for page in (front, self._shelf, self.guide):
            self.addWidget(page)

    @property
    def on_shelf(self) -> bool:
        return self.currentWidget() is self._shelf

    @property
    def in_the_shop(self) -> bool:
        """Whether what is looked at is the shop's: its orders, leather and stock, or the work."""
        stage = self._board.stage
        at_work = self.currentIndex() == 0 and (stage.worked or stage.logged)
        return at_work or (self.currentWidget() in self._rooms.used and not self._on_habits)

    @property
    def _on_habits(self) -> bool:
        return self._rooms.is_used("habits") and self.currentWidget() is self._rooms.habits

    def show_shelf(self, can_leave: bool = True) -> None:
        """Turn to the shelf; or back to the bench from it."""
        if self.on_shelf:
            if self._shelf.can_leave:
                self.to_the_bench()
            return
        take_typing()
        self.setCurrentWidget(self._shelf)
        self._shelf.fill(can_leave)
        self.turned.emit()

    def turn_to(self, page: Orders | Stockroom | Habits) -> None:
        """Turn to the orders, to leather and stock, or to what the maker goes by; or back to the bench from there."""
        if self.currentWidget() is page:
            self.to_the_bench()
            return
        take_typing()
        turn(self, page)
        page.show_now()
        self.turned.emit()

    def to_the_bench(self) -> None:
        """Back from the shelf, from the shop, or from what the maker goes by."""
        if self.on_shelf or self.in_the_shop or self._on_habits:
            self.setCurrentIndex(0)
            stage = self._board.stage
            if stage.worked or stage.logged:
                (self._rooms.at_work if stage.worked else self._rooms.logbook).show_now()
            else:
                self._board.setFocus()
            self.turned.emit()

    def read_guide(self) -> None:
        """Read the guide at what is in hand; or go back to that."""
        if self.currentWidget() is self.guide:
            self.setCurrentIndex(self._came_from)
            (self._shelf.first if self.on_shelf else self._board).setFocus()
            return
        heading = BEGINNING if self.on_shelf else PICKING if self.picking() else self._why() or self._board.stage.guide
        take_typing()
        self._came_from = self.currentIndex()
        self.setCurrentWidget(self.guide)
        self.guide.open("What you go by" if self._on_habits else heading)

    def _why(self) -> str:
        """The heading of the note that is the reason of what is in hand: a tag, a step, a lesson; else empty."""
        from tailor.core.notes.notes import of_measure, of_step

        note, hand = None, QApplication.focusWidget()
        while hand is not None and not isinstance(hand, Tag):
            hand = hand.parentWidget()
        if hand is not None:
            note = of_measure(hand.reading.key)
        elif self._board.stage.worked and self._rooms.at_work.next.turn is not None:
            note = of_step(self._rooms.at_work.next.turn.task.doing.key)
        elif self._board.stage.logged and self._rooms.logbook.constant:
            note = of_measure(self._rooms.logbook.constant)
        return note.title if note else ""

    # Steps, taken back and done again

    @property
    def steps(self) -> tuple[str, str]:
        """What would be undone, and redone, of what is looked at; of laying out where there is anything, else of the
        job.
        """
        if self._on_habits:
            return self._rooms.habits.steps
        if self.in_the_shop:
            return self._counter.steps
        mine, bench = self._rooms.steps, (self._bench.undoes, self._bench.redoes)
        return (mine[0] or bench[0], mine[1] or bench[1]) if self._board.stage.spread else bench

    def undo(self) -> None:
        """Take back the last step of what is looked at."""
        if self._on_habits:
            self._rooms.habits.undo()
        elif self.in_the_shop:
            self._counter.undo()
        elif not (self._board.stage.spread and self._rooms.laying_out.undo()):
            self._bench.undo()

    def redo(self) -> None:
        if self._on_habits:
            self._rooms.habits.redo()
        elif self.in_the_shop:
            self._counter.redo()
        elif not (self._board.stage.spread and self._rooms.laying_out.redo()):
            self._bench.redo()


def take_typing() -> None:
    """Take what stands typed and not entered in the tag that has the hand."""
    if (typing := QApplication.focusWidget()) is not None:
        typing.clearFocus()


def turn(stack: QStackedWidget, room: QWidget) -> None:
    """Turn to a room, which is put among the others the first time."""
    if stack.indexOf(room) < 0:
        stack.addWidget(room)
    stack.setCurrentWidget(room)
