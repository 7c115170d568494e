"""The rooms of the shop beside the board: each is put together when it is first turned to, so that none is waited for.

Laying out, orders, leather and stock, the bench, the log.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from importlib import import_module
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

if TYPE_CHECKING:
    from tailor.desk.at_work import AtWork
    from tailor.desk.counter import Counter
    from tailor.desk.habits import Habits
    from tailor.desk.laying_out import LayingOut
    from tailor.desk.logbook import Logbook
    from tailor.desk.orders import Orders
    from tailor.desk.portraits import Portraits
    from tailor.desk.stockroom import Stockroom
    from tailor.desk.workbench import Workbench

SLOW = (
    "tailor.desk.laying_out", "tailor.desk.orders", "tailor.desk.stockroom", "tailor.desk.at_work",
    "tailor.desk.logbook", "tailor.desk.capture.pictured",
)  # fmt: skip


def load() -> None:
    """Load what is slow to load when it is first turned to: off the window's thread, while nothing is asked of it."""
    for name in SLOW:
        import_module(name)


class Rooms(QObject):
    """The rooms, and what they say to the window.

    refused, told, called, made, left: as the rooms have them. taken: a job. stepped: laying out has
    another step to undo. came_to_rest: leather is laid out.
    """

    refused = pyqtSignal(str)
    told = pyqtSignal(str)
    called = pyqtSignal(str, bool)
    made = pyqtSignal(str)
    left = pyqtSignal()
    taken = pyqtSignal(object)
    stepped = pyqtSignal()
    came_to_rest = pyqtSignal()

    def __init__(self, bench: Workbench, counter: Counter, portraits: Portraits) -> None:
        super().__init__(bench)
        self._bench, self._counter, self._portraits = bench, counter, portraits

    @cached_property
    def laying_out(self) -> LayingOut:
        from tailor.desk.laying_out import LayingOut

        room = LayingOut(self._bench, self._counter)
        room.refused.connect(self.refused)
        room.told.connect(self.told)
        room.stepped.connect(self.stepped)
        room.came_to_rest.connect(self.came_to_rest)
        return room

    @cached_property
    def orders(self) -> Orders:
        from tailor.desk.orders import Orders

        room = Orders(self._bench, self._counter, self._portraits)
        room.refused.connect(self.refused)
        room.told.connect(self.told)
        room.left.connect(self.left)
        room.taken.connect(self.taken)
        return room

    @cached_property
    def stockroom(self) -> Stockroom:
        from tailor.desk.stockroom import Stockroom

        room = Stockroom(self._bench, self._counter, lambda: self.orders.to_buy() if self.is_used("orders") else ())
        room.refused.connect(self.refused)
        room.left.connect(self.left)
        return room

    @cached_property
    def habits(self) -> Habits:
        from tailor.desk.habits import Habits

        room = Habits(self._bench)
        room.stepped.connect(self.stepped)
        room.refused.connect(self.refused)
        room.told.connect(self.told)
        room.left.connect(self.left)
        return room

    @cached_property
    def at_work(self) -> AtWork:
        from tailor.desk.at_work import AtWork

        room = AtWork(self._bench, self._counter)
        room.refused.connect(self.refused)
        room.told.connect(self.told)
        room.called.connect(self.called)
        room.made.connect(self.made)
        return room

    @cached_property
    def logbook(self) -> Logbook:
        from tailor.desk.logbook import Logbook

        room = Logbook(self._bench, self._counter)
        room.refused.connect(self.refused)
        room.told.connect(self.told)
        return room

    def is_used(self, name: str) -> bool:
        """Whether a room was turned to."""
        return name in vars(self)

    @property
    def used(self) -> tuple[QWidget, ...]:
        """Those that were turned to."""
        return tuple(room for room in vars(self).values() if isinstance(room, QWidget))

    @property
    def takes(self) -> Mapping[str, float]:
        """What the layout takes of each leather; of none where nothing was laid out."""
        return self.laying_out.takes if self.is_used("laying_out") else {}

    @property
    def steps(self) -> tuple[str, str]:
        """What of laying out would be undone, and done again."""
        return self.laying_out.steps if self.is_used("laying_out") else ("", "")

    @property
    def wait(self) -> bool:
        """Whether something waits at the bench, or a clock runs, of which the maker is to be told."""
        return self.is_used("at_work") and self.at_work.listens

    def finish(self) -> None:
        """Take what is typed and end what is under way in each of them."""
        for room in self.used:
            room.finish()  # type: ignore[attr-defined]
