"""Noting: what hands do at the bench is written in the shop book, one after another."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime

from PyQt6.QtCore import QObject, pyqtSignal

from tailor.core.log.opening import LAST
from tailor.core.shop.progress import Progress, Stands, Worked
from tailor.core.shop.sitting import Turn
from tailor.core.shop.stock import against, amounts, used_up
from tailor.desk.counter import Counter


class Noting(QObject):
    """made: a thing is done; where it stands in its order. clock: the bench's."""

    made = pyqtSignal(str)

    def __init__(self, counter: Counter, clock: Callable[[], datetime], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.counter, self._clock = counter, clock
        self._soon: list[Callable[[], object]] = []  # what hands did while something was being noted
        counter.refused.connect(lambda _: self._soon.clear())  # it was meant for what is not as it was

    @property
    def progress(self) -> Progress:
        return Progress(self.counter.shop.worked if self.counter.shop else ())

    def when_noted(self, deed: Callable[[], object]) -> None:
        """Do something once what was noted before is in the book: what hands do twice at once is done twice."""
        if self.counter.busy:
            self._soon.append(deed)
        else:
            deed()

    def go_on(self) -> None:
        """The book has answered: what hands did meanwhile comes next."""
        if self._soon:
            self.when_noted(self._soon.pop(0))

    def begin(self, turn: Turn, hand: str) -> None:
        """A step is begun by some hands; another that runs under the same rests meanwhile."""
        now, progress = self._clock(), self.progress
        others = (one for one in progress if one.id != turn.id and one.hand == hand)
        rests = [(one, one.paused(now)) for one in others if one.stands is Stands.RUNNING]
        self._note(turn, "begun", hand, lambda worked: worked.begun(now, hand), *rests)

    def pause(self, turn: Turn, hand: str) -> None:
        """A step that is under way rests."""
        now = self._clock()
        self._note(turn, "paused", hand, lambda worked: worked.paused(now))

    def done(self, turn: Turn, hand: str, minutes: float | None = None) -> None:
        """A step is done, in so many minutes where the maker says it. Raises InputError."""
        now = self._clock()
        wants = against(turn.task.doing.takes, self.counter.shop.stock if self.counter.shop else ())
        taken = used_up(wants)
        lacks = ", ".join(want.missing.said for want in wants if want.buy > 0)
        said = f"{turn.task.doing.name}: the shelves had too little of {lacks}. Count them (F4)." if lacks else ""
        self._note(turn, "done", hand, lambda worked: worked.finished(now, minutes, amounts(taken)), *taken, said=said)
        if turn.task.doing.key == LAST and not self.counter.read_only:
            self.made.emit(turn.id.rpartition("/")[0])

    def _note(
        self, turn: Turn, what: str, hand: str, change: Callable[[Worked], Worked], *besides: tuple[object, object],
        said: str = "",
    ) -> None:  # fmt: skip
        if self.counter.read_only:
            return
        task, was = turn.task, self.progress.of(turn.id)
        doing = task.doing
        new = Worked(turn.id, task.order.id, task.thing, doing.name, doing.family, doing.minutes, hand)
        self.counter.put(f"{doing.name}, {what}", (was, change(was or new)), *besides, done=said)
