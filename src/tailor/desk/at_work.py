"""At work: the step in hand with its places lit, what is next, what waits, and the days ahead; by a key each."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Mapping
from datetime import datetime, timedelta

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QHideEvent, QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from tailor.core.bench.altered import Altered
from tailor.core.bench.changed import changed
from tailor.core.bench.steps import Steps
from tailor.core.errors import InputError
from tailor.core.shop.orders import begun
from tailor.core.shop.progress import Stands
from tailor.core.shop.sitting import Turn, Waiting, ahead, calls, waiting, when
from tailor.desk import theme
from tailor.desk.counter import Counter
from tailor.desk.days import Days
from tailor.desk.foresight import Foresight
from tailor.desk.in_hand import InHand
from tailor.desk.noting import Noting
from tailor.desk.replanning import Replanning
from tailor.desk.schools import Schools
from tailor.desk.step_card import StepCard
from tailor.desk.step_changes import StepChanges
from tailor.desk.step_list import StepList
from tailor.desk.stock_list import typed_number
from tailor.desk.what_holds import TRYING, WhatHolds
from tailor.desk.whats_next import WhatsNext
from tailor.desk.whose_hands import WhoseHands
from tailor.desk.words import Words
from tailor.desk.work_written import WorkWritten
from tailor.desk.workbench import Workbench

TICK = 1000  # ms
SHOWN = 3  # waits
OPENING = "Opening the shop book …"
KEYS = (
    "Space goes on, P pauses, D done already, T it took …, E changes the step, S schools, H what holds it, arrows "
    "look at others, Esc back to what is next."
)


class AtWork(QWidget):
    """The bench, while hands are at it.

    refused: what cannot be, and why. told: what was done. called: something that waited calls; whether it presses.
    made: a thing is done; where it stands in its order.
    """

    refused = pyqtSignal(str)
    told = pyqtSignal(str)
    called = pyqtSignal(str, bool)
    made = pyqtSignal(str)

    def __init__(self, bench: Workbench, counter: Counter, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("atwork")
        self.setAccessibleName("The bench")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.bench, self.counter = bench, counter
        self.clock: Callable[[], datetime] = lambda: datetime.now().replace(microsecond=0)
        self.foresight = Foresight(bench, counter, lambda: self.clock(), self)
        self.foresight.came.connect(self.refresh)
        self.foresight.said.connect(self._say)
        self.foresight.refused.connect(self.refused)
        self._heard: datetime | None = None  # until when it was listened for calls
        self._were: Mapping[str, Steps] = {}  # the steps of things, before they were derived anew
        self._planned_for: object = None  # what of the shop the plan is of
        self.noting = Noting(counter, lambda: self.clock(), self)
        self.noting.made.connect(self.made)
        self._put_together()
        counter.came.connect(self._came)
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._tick)

    def _put_together(self) -> None:
        self.drawn = InHand()
        self.days = Days()
        self.days.chosen.connect(self.choose)
        self.card = StepCard()
        when_noted = self.noting.when_noted
        self.card.on.connect(lambda: when_noted(self.go_on))
        self.card.paused.connect(lambda: when_noted(self.pause))
        self.card.already.connect(lambda: when_noted(self.done_already))
        self.card.took.connect(lambda said: when_noted(lambda: self.took(said)))
        self.changes = StepChanges(when_noted)
        self.changes.hide()
        self.changes.changed.connect(self._altered)
        self.changes.refused.connect(self.refused)
        self.changes.warned.connect(lambda said: self.called.emit(said, False))
        self.list = StepList()
        self.list.chosen.connect(self.choose)
        self.whose = WhoseHands(self.counter, lambda: self.clock())
        self.whose.other.connect(self._other_hands)
        self.whose.refused.connect(self.refused)
        self.next = WhatsNext(self.counter, self.foresight, self.noting, self.whose, lambda: self.clock())
        self.schools = Schools(self.counter)
        self.schools.hide()
        self._waits = Words()
        self._waits.setAccessibleName("What waits")
        self._waits.setWordWrap(True)
        self.chain = WhatHolds()
        self._said = Words(OPENING)
        self._said.setWordWrap(True)
        self.ways = Replanning(self.foresight)
        self.write = WorkWritten(lambda: self.next.written)
        self.write.refused.connect(self.refused)
        self.write.told.connect(self.told)
        row = QHBoxLayout()
        row.addWidget(self._said, 1)
        row.addWidget(self.write)
        rows = QVBoxLayout()
        rows.setSpacing(2)
        rows.addLayout(row)
        rows.addLayout(self.ways)
        rows.setContentsMargins(12, 4, 8, 4)
        self._keys = Words(KEYS)
        self._keys.setWordWrap(True)
        self._keys.setFont(theme.text(9.5))
        self._side = QWidget()
        side = QVBoxLayout(self._side)
        side.setContentsMargins(8, 0, 4, 4)
        side.setSpacing(5)
        for widget, stretch in (
            (self.whose, 0),
            (self.card, 0),
            (self.changes, 0),
            (self._waits, 0),
            (self.chain, 0),
            (self.list, 1),
            (self._keys, 0),
        ):
            side.addWidget(widget, stretch)
        left = QVBoxLayout()
        left.setSpacing(2)
        left.setContentsMargins(0, 0, 0, 0)
        left.addWidget(self.drawn, 1)
        left.addWidget(self.schools, 1)
        left.addLayout(rows)
        left.addWidget(self.days)
        both = QHBoxLayout(self)
        both.setContentsMargins(0, 0, 0, 0)
        both.setSpacing(0)
        both.addLayout(left, 1)
        both.addWidget(self._side)

    # What there is

    def show_now(self) -> None:
        """It is turned to."""
        self.counter.open()
        self._timer.start(TICK)
        self._heard = self._heard or self.clock()
        if self.counter.shop is not None:
            self._came()
            self.next.catch_up(self.clock())
        self.setFocus()

    def _came(self) -> None:
        """The shop was read, or changed."""
        shop = self.counter.shop
        if shop is None or not (self.isVisible() or self._timer.isActive()):
            return
        self.whose.refresh()
        own = self.bench.maker.habits  # how long what is wet is left to dry
        wanted = shop.orders, shop.hands, shop.rates, shop.school, shop.worked, shop.altered, own
        if self._planned_for != wanted:
            self._planned_for = wanted
            self.foresight.ask()
        self.refresh()
        self.noting.go_on()

    def refresh(self) -> None:
        """Show what is planned, as far as it was done."""
        self.next.refresh()
        if (said := self.next.said()) is not None:
            self._say(said)
        self._show(self.clock())

    def _say(self, said: str) -> None:
        self._said.setText(said)

    def _show(self, now: datetime) -> None:
        turn, agenda, progress = self.next.turn, self.next.agenda, self.next.progress
        worked = None if turn is None else progress.of(turn.id)
        seen = agenda.seen.get(f"{turn.task.order.id}/{turn.task.mark}", ()) if turn and agenda else ()
        self.drawn.show_step(seen, turn.task.doing if turn else None, self.next.closed())
        writes = not self.counter.read_only
        self.card.show_turn(turn, worked, self.next.held(now), now, writes)
        shop = self.counter.shop
        self.changes.show_turn(turn, self.next.steps, shop.altered if shop else (), writes)
        plan = self.foresight.plan
        self.chain.show_order(turn.task.order if turn else None, agenda, plan, self.foresight.tried, now)
        self._show_schools(turn)
        in_hand = turn.id if turn else ""
        self.list.show_turns(self.next.turns, in_hand, now.date())
        rests = waiting(agenda.load, progress, now) if agenda else []
        self._waits.setText("\n".join(_told(one, now) for one in rests[:SHOWN]))
        self._waits.setVisible(bool(rests))
        self.ways.show_ways(agenda)
        self.write.setEnabled(bool(self.next.turns))
        if agenda is not None and plan is not None:
            self.days.show_days(now, *ahead(agenda.load, plan, progress, self.next.turns), in_hand)

    # What a hand does

    def choose(self, id_: str) -> None:
        """Take hold of a step, to look at it or to do it next."""
        self.next.chosen = id_
        self.refresh()
        self.setFocus()

    def back(self) -> None:
        """Back to what is next; from the schools to the piece in hand first."""
        if self.schools.isVisible():
            self.show_schools()
        else:
            self.choose("")

    def _other_hands(self) -> None:
        self.next.chosen = ""
        self.refresh()
        self.setFocus()

    def step(self, by: int) -> None:
        """To another step of those that come."""
        if beside := self.next.beside(by):
            self.choose(beside)

    def go_on(self) -> None:
        """Begin the step in hand; or it is done, and the next is in hand."""
        if (turn := self.next.turn) is None:
            return
        if turn.stands is Stands.RUNNING:
            self.noting.done(turn, self.next.hand)
            self._show(self.clock())
            self.next.chosen = ""
            return
        if (held := self.next.held(self.clock())) and not turn.again:
            self.called.emit(f"Begun all the same: {turn.task.doing.name} comes {held}.", False)
        self.whose.named = True
        self.noting.begin(turn, self.next.hand)
        self._show(self.clock())
        self.next.chosen = turn.id

    def pause(self) -> None:
        if (turn := self.next.turn) is not None and turn.stands is Stands.RUNNING:
            self.noting.pause(turn, self.next.hand)
            self._show(self.clock())

    def done_already(self) -> None:
        """The step in hand was done before, in whatever order."""
        if (turn := self.next.turn) is None:
            return
        if turn.stands is Stands.TO_DO and (held := self.next.held(self.clock())).startswith("after"):
            self.called.emit(
                f"Noted; {turn.task.doing.name} comes {held}. Look whether that can still be reached.", False
            )
        self.noting.done(turn, self.next.hand)
        self._show(self.clock())
        self.next.chosen = ""

    def took(self, text: str) -> None:
        """The step in hand is done, in so many minutes as the maker says."""
        if (turn := self.next.turn) is None or not text:
            return
        try:
            minutes = typed_number(text.removesuffix("min"), "minutes")
            self.noting.done(turn, self.next.hand, minutes)
        except InputError as error:
            self.refused.emit(str(error))
            return
        self.next.chosen = ""
        self.setFocus()

    def what_holds(self) -> None:
        """What holds the order in hand to its end; again, to be done with it."""
        self.chain.setVisible(not self.chain.isVisible())
        self.refresh()

    def what_would(self) -> None:
        """Try what would make the order in hand ready sooner."""
        if self.next.turn is not None and not self.foresight.busy:
            self.chain.show()
            self.chain.setText(TRYING)
            self.foresight.ask_sooner(self.next.turn.task.order.id)

    def show_schools(self) -> None:
        """By which schools the thing in hand is made; again, to be done with it."""
        self.schools.setVisible(not self.schools.isVisible())
        self.drawn.setVisible(not self.schools.isVisible())
        self.schools.show_moved(())
        self.refresh()
        (self.schools.boxes["glue"] if self.schools.isVisible() else self).setFocus()

    def _show_schools(self, turn: Turn | None) -> None:
        """The schools of the thing in hand; where its steps were derived anew, what is otherwise."""
        things = self.next.agenda.load.things if self.next.agenda else {}
        if self.schools.isVisible():
            at = self.next.place
            self.schools.show_taken(turn.task.thing if turn else "", things[at].schools if at in things else ())
            if self._were and things is not self._were:
                places = sorted(things, key=lambda place: place != at)  # the one in hand first
                lines = (changed(self._were[place], things[place]) for place in places if place in self._were)
                self.schools.show_moved(next((found for found in lines if found), ()))
        self._were = things

    def change_step(self) -> None:
        """Change the step in hand; again, to be done with it."""
        self.changes.setVisible(not self.changes.isVisible())
        self._keys.setVisible(not self.changes.isVisible())  # where room is short
        self.refresh()
        (self.changes.name if self.changes.isVisible() else self).setFocus()

    def _altered(self, was: Altered | None, now: Altered | None, said: str) -> None:
        """A step is changed, in the book too; what is planned follows."""
        if not self.counter.read_only:
            self.counter.put(said, (was, now))

    def take_in_hand(self) -> None:
        """The job in hand is ordered, so that its steps come here."""
        shop = self.counter.shop
        if shop is not None and not self.counter.read_only:
            order = begun(uuid.uuid4().hex[:12], self.bench.job, shop.orders)
            done = f"{order.name} is ordered, and its steps come here; Ctrl+Z takes it back."
            self.counter.put(f"new order {order.name}", (None, order), done=done)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        deeds: dict[int, Callable[[], object]] = {
            Qt.Key.Key_Space: self.card.on.emit, Qt.Key.Key_P: self.card.paused.emit,
            Qt.Key.Key_D: self.card.already.emit, Qt.Key.Key_T: self.card.minutes.setFocus,
            Qt.Key.Key_Down: lambda: self.step(1), Qt.Key.Key_Up: lambda: self.step(-1),
            Qt.Key.Key_Left: lambda: self.days.go(-1), Qt.Key.Key_Right: lambda: self.days.go(1),
            Qt.Key.Key_Escape: self.back, Qt.Key.Key_R: self.foresight.ask, Qt.Key.Key_W: self.write.ask,
            Qt.Key.Key_N: self.take_in_hand, Qt.Key.Key_E: self.change_step,
            Qt.Key.Key_S: self.show_schools, Qt.Key.Key_H: self.what_holds, Qt.Key.Key_Q: self.what_would,
        }  # fmt: skip
        if event.key() in deeds and not event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier:
            deeds[event.key()]()
        else:
            super().keyPressEvent(event)

    # The clock

    def _tick(self) -> None:
        """A second later: the clock, and whatever calls."""
        now, turn, agenda = self.clock(), self.next.turn, self.next.agenda
        if turn is not None and self.isVisible():
            self.card.tick(turn, self.next.progress.of(turn.id), now)
        if agenda is None or self._heard is None:
            return
        if now.minute != self._heard.minute or now - self._heard > timedelta(minutes=1):
            for said, presses in calls(agenda.load, self.next.progress, self._heard, now):
                self.called.emit(said, presses)
            self._heard = now
            self.next.catch_up(now)
            if self.isVisible():
                self.refresh()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._side.setFixedWidth(min(max(round(0.34 * self.width()), 320), 430))

    def hideEvent(self, event: QHideEvent | None) -> None:
        if not self.listens:
            self._timer.stop()

    @property
    def listens(self) -> bool:
        """Whether a clock runs, or something waits that will call."""
        runs = any(worked.stands is Stands.RUNNING for worked in self.next.progress)
        return runs or (
            self.next.agenda is not None and bool(waiting(self.next.agenda.load, self.next.progress, self.clock()))
        )

    def finish(self) -> None:
        """The window closes: leave no process and no thread running."""
        self._timer.stop()
        self.write.labour.finish()
        self.foresight.finish()


def _told(one: Waiting, now: datetime) -> str:
    """What waits, in a line."""
    if one.over(now):
        assert one.latest is not None
        return f"Now, by {when(one.latest, now)}: {one.then.doing.name} ({one.then.thing})"
    by = f", by {when(one.latest, now)}" if one.latest else ""
    return f"From {when(one.until, now)}{by}: {one.then.doing.name} ({one.then.thing}) – {one.why}"
