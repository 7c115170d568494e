"""Middle: what is looked at in the middle of the bench. That is the board under its strips, the easel a way measures
on, the constructions to choose from, the case in the round, or the room of a stage that has one of its own.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QStackedWidget, QVBoxLayout, QWidget

from tailor.desk.board import Board
from tailor.desk.capture.ways import Ways
from tailor.desk.pages import turn
from tailor.desk.picker import Picker
from tailor.desk.rooms import Rooms
from tailor.desk.turning import Turning

if TYPE_CHECKING:
    from tailor.desk.at_work import AtWork
    from tailor.desk.laying_out import LayingOut
    from tailor.desk.logbook import Logbook


class Middle(QStackedWidget):
    """strips: what opens over the board, from the top down. The easel is that of the ways."""

    def __init__(
        self, board: Board, strips: Sequence[QWidget], ways: Ways, picker: Picker, turning: Turning, rooms: Rooms
    ) -> None:
        super().__init__()
        self._board, self._ways, self._picker, self._turning, self._rooms = board, ways, picker, turning, rooms
        self._under_strips = QWidget()
        over = QVBoxLayout(self._under_strips)
        over.setContentsMargins(0, 0, 0, 0)
        over.setSpacing(0)
        for strip in strips:
            over.addWidget(strip)
        over.addWidget(board, 1)
        for page in (self._under_strips, ways.easel, picker, turning):
            self.addWidget(page)

    @property
    def picking(self) -> bool:
        """Whether a construction is being chosen."""
        return self.currentWidget() is self._picker

    def look(self) -> None:
        """Look at the easel while a way measures on it, at the room of the stage, else at the board."""
        stage = self._board.stage
        room: LayingOut | AtWork | Logbook
        if stage.spread:
            room = self._rooms.laying_out
        elif stage.worked:
            room = self._rooms.at_work
        elif stage.logged:
            room = self._rooms.logbook
        else:
            on_easel = stage.bare and self._ways.on_easel
            self.setCurrentWidget(self._ways.easel if on_easel else self._under_strips)
            return
        turn(self, room)
        room.show_now()

    def settle(self) -> None:
        """Give the board the room it will have before it lays anything out in it."""
        if (around := self.parentWidget()) is not None and (layout := around.layout()) is not None:
            layout.activate()

    def pick(self) -> None:
        """Ask what a maker asks before choosing a construction; again, or Esc, to leave it as it is."""
        if self.picking:
            self._picker.leave()
            self._back()
            return
        self.setCurrentWidget(self._picker)
        self._picker.ask()

    def turn_round(self) -> None:
        """Look at the case in the round; again, or Esc, to go back to the board."""
        if self.currentWidget() is self._turning:
            self._back()
            return
        self.setCurrentWidget(self._turning)
        self._turning.show_now()

    def _back(self) -> None:
        self.look()
        self._board.setFocus()
