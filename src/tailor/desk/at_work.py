"""At work: the step in hand with its places lit, what is next, what waits, and the days ahead; by a key each."""

from __future__ import annotations

import uuid
import zlib
from collections.abc import Callable, Mapping
from datetime import datetime, timedelta

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QHideEvent, QImage, QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from tailor.core.bench.altered import Altered
from tailor.core.bench.changed import changed
from tailor.core.bench.steps import Steps
from tailor.core.errors import InputError
from tailor.core.shop.agenda import Agenda
from tailor.core.shop.orders import begun
from tailor.core.shop.progress import Progress, Stands
from tailor.core.shop.sitting import Turn, Waiting, ahead, calls, holds, turns, waiting, when
from tailor.desk import theme
from tailor.desk.counter import Counter
from tailor.desk.days import Days
from tailor.desk.foresight import Foresight
from tailor.desk.in_hand import InHand
from tailor.desk.noting import Noting
from tailor.desk.replanning import Replanning
from tailor.desk.schools import Schools
from tailor.desk.stages import bench as bench_stage
from tailor.desk.step_card import StepCard
from tailor.desk.step_changes import StepChanges
from tailor.desk.step_list import StepList
from tailor.desk.stock_list import typed_number
from tailor.desk.what_holds import TRYING, WhatHolds
from tailor.desk.whose_hands import WhoseHands
from tailor.desk.words import Words
from tailor.desk.work_written import WorkWritten, Written
from tailor.desk.workbench import Workbench

TICK = 1000  # ms
BEHIND = timedelta(minutes=10)  # that a plan may be behind before it is made anew
SHOWN = 3  # waits
OPENING = "Opening the shop book …"
ALL_DONE = "Everything that was ordered is done. In Orders (F3), S makes an order ready."
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
        self.turns: list[Turn] = []
        self.chosen = ""  # the id of a step that was taken hold of; empty for what is next
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
        self.schools = Schools(self.counter)
        self.schools.hide()
        self._waits = Words()
        self._waits.setAccessibleName("What waits")
        self._waits.setWordWrap(True)
        self.chain = WhatHolds()
        self._said = Words(OPENING)
        self._said.setWordWrap(True)
        self.ways = Replanning(self.foresight)
        self.write = WorkWritten(self._written)
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

    @property
    def agenda(self) -> Agenda | None:
        return self.foresight.agenda

    @property
    def progress(self) -> Progress:
        return self.noting.progress

    @property
    def hand(self) -> str:
        """Who works."""
        return self.whose.hand

    @property
    def turn(self) -> Turn | None:
        """The step in hand: the one that was taken hold of, else the first that comes."""
        held = next((turn for turn in self.turns if turn.id == self.chosen), None)
        return held or next(iter(self.turns), None)

    def show_now(self) -> None:
        """It is turned to."""
        self.counter.open()
        self._timer.start(TICK)
        self._heard = self._heard or self.clock()
        if self.counter.shop is not None:
            self._came()
            self._behind(self.clock())
        self.setFocus()

    def _came(self) -> None:
        """The shop was read, or changed."""
        shop = self.counter.shop
        if shop is None or not (self.isVisible() or self._timer.isActive()):
            return
        self.whose.refresh()
        wanted = shop.orders, shop.hands, shop.rates, shop.school, shop.worked, shop.altered
        if self._planned_for != wanted:
            self._planned_for = wanted
            self.foresight.ask()
        self.refresh()
        self.noting.go_on()

    def refresh(self) -> None:
        """Show what is planned, as far as it was done."""
        agenda, plan, shop = self.agenda, self.foresight.plan, self.counter.shop
        now = self.clock()
        if agenda is None or plan is None or shop is None:
            self.turns = []
        else:
            if every := turns(agenda.load, plan, self.progress):
                self.whose.turn_to(every[0].who)  # whoever is next
            self.turns = turns(agenda.load, plan, self.progress, self.hand)
        if self.turns and agenda is not None:
            self._say(self._promised(agenda, now))
        elif shop is not None and not any(order.open and order.lines for order in shop.orders):
            self._say(bench_stage.STAGE.empty)
        elif agenda is not None and not self.foresight.busy:
            left = plan is not None and turns(agenda.load, plan, self.progress)
            self._say(
                agenda.refused[0] if agenda.refused else f"Nothing is left for {self.hand}." if left else ALL_DONE
            )
        self._show(now)

    def _promised(self, agenda: Agenda, now: datetime) -> str:
        """When the order in hand is ready, or that it is being planned."""
        if self.foresight.stale:
            return "Planning …"
        dried = [agenda.load.tasks[one.first] for one in agenda.load.missed]
        if dried:
            return f"Dried: {dried[0].doing.name} ({dried[0].thing}). It is to be done again before it is joined."
        turn = self.turn
        assert turn is not None
        return f"{turn.task.order.name}: {self._ready(turn.task.order.id)}"

    def _ready(self, order: str) -> str:
        agenda, plan = self.agenda, self.foresight.plan
        assert agenda is not None
        assert plan is not None
        at = agenda.load.ready(plan).get(order)
        if at is None:
            return ""
        due = next(each.task.order.due for each in self.turns if each.task.order.id == order)
        share = self.foresight.share(order)
        said = f"ready {at:%A} {at.day} {at:%B}, {at:%H:%M}"
        if due is not None:
            said += f"; due {due:%a} {due.day} {due:%b}"
            if share is not None:
                said += f", kept {round(10 * share)} times in 10"
        return said

    def _say(self, said: str) -> None:
        self._said.setText(said)

    def _show(self, now: datetime) -> None:
        turn, agenda, progress = self.turn, self.agenda, self.progress
        worked = None if turn is None else progress.of(turn.id)
        seen = agenda.seen.get(f"{turn.task.order.id}/{turn.task.mark}", ()) if turn and agenda else ()
        self.drawn.show_step(seen, turn.task.doing if turn else None, self._closed(turn))
        writes = not self.counter.read_only
        self.card.show_turn(turn, worked, self._holds(turn, now), now, writes)
        shop = self.counter.shop
        steps = agenda.load.things.get(turn.id.rpartition("/")[0] + "/", Steps()) if turn and agenda else Steps()
        self.changes.show_turn(turn, steps, shop.altered if shop else (), writes)
        plan = self.foresight.plan
        self.chain.show_order(turn.task.order if turn else None, agenda, plan, self.foresight.tried, now)
        self._show_schools(turn)
        in_hand = turn.id if turn else ""
        self.list.show_turns(self.turns, in_hand, now.date())
        rests = waiting(agenda.load, progress, now) if agenda else []
        self._waits.setText("\n".join(_told(one, now) for one in rests[:SHOWN]))
        self._waits.setVisible(bool(rests))
        self.ways.show_ways(agenda)
        self.write.setEnabled(bool(self.turns))
        if agenda is not None and plan is not None:
            self.days.show_days(now, *ahead(agenda.load, plan, progress, self.turns), in_hand)

    def _written(self) -> Written | None:
        """What is written out, where there is a plan."""
        agenda, plan, shop = self.agenda, self.foresight.plan, self.counter.shop
        if agenda is None or plan is None or shop is None:
            return None
        return agenda.load, plan, self.progress, self.hand

    def _closed(self, turn: Turn | None) -> QImage | None:
        """The thing in hand as it is once the step is done; None while it lies flat, or there is no picture yet."""
        if turn is None or self.agenda is None:
            return None
        steps = self.agenda.load.things.get(turn.id.rpartition("/")[0] + "/", Steps())
        together, task = steps.together.get(turn.task.doing.key, ()), turn.task
        job = next(line.job for line in task.order.lines if line.mark == task.mark)
        found = self.foresight.picture(f"{task.order.id}/{task.mark}", job, together) if together else None
        if found is None:
            return None
        packed, (wide, high) = found
        return QImage(zlib.decompress(packed), wide, high, 4 * wide, QImage.Format.Format_RGBA8888).copy()

    def _holds(self, turn: Turn | None, now: datetime) -> str:
        """What a step in hand waits for still; empty where it can be done."""
        return holds(self.agenda.load, self.progress, turn, now) if turn is not None and self.agenda else ""

    # What a hand does

    def choose(self, id_: str) -> None:
        """Take hold of a step, to look at it or to do it next."""
        self.chosen = id_
        self.refresh()
        self.setFocus()

    def back(self) -> None:
        """Back to what is next; from the schools to the piece in hand first."""
        if self.schools.isVisible():
            self.show_schools()
        else:
            self.choose("")

    def _other_hands(self) -> None:
        self.chosen = ""
        self.refresh()
        self.setFocus()

    def step(self, by: int) -> None:
        """To another step of those that come."""
        if self.turns:
            at = self.turns.index(self.turn) if self.turn in self.turns else 0
            self.choose(self.turns[min(max(at + by, 0), len(self.turns) - 1)].id)

    def go_on(self) -> None:
        """Begin the step in hand; or it is done, and the next is in hand."""
        if (turn := self.turn) is None:
            return
        if turn.stands is Stands.RUNNING:
            self.noting.done(turn, self.hand)
            self._show(self.clock())
            self.chosen = ""
            return
        if (held := self._holds(turn, self.clock())) and not turn.again:
            self.called.emit(f"Begun all the same: {turn.task.doing.name} comes {held}.", False)
        self.whose.named = True
        self.noting.begin(turn, self.hand)
        self._show(self.clock())
        self.chosen = turn.id

    def pause(self) -> None:
        if (turn := self.turn) is not None and turn.stands is Stands.RUNNING:
            self.noting.pause(turn, self.hand)
            self._show(self.clock())

    def done_already(self) -> None:
        """The step in hand was done before, in whatever order."""
        if (turn := self.turn) is None:
            return
        if turn.stands is Stands.TO_DO and (held := self._holds(turn, self.clock())).startswith("after"):
            self.called.emit(
                f"Noted; {turn.task.doing.name} comes {held}. Look whether that can still be reached.", False
            )
        self.noting.done(turn, self.hand)
        self._show(self.clock())
        self.chosen = ""

    def took(self, text: str) -> None:
        """The step in hand is done, in so many minutes as the maker says."""
        if (turn := self.turn) is None or not text:
            return
        try:
            minutes = typed_number(text.removesuffix("min"), "minutes")
            self.noting.done(turn, self.hand, minutes)
        except InputError as error:
            self.refused.emit(str(error))
            return
        self.chosen = ""
        self.setFocus()

    def what_holds(self) -> None:
        """What holds the order in hand to its end; again, to be done with it."""
        self.chain.setVisible(not self.chain.isVisible())
        self.refresh()

    def what_would(self) -> None:
        """Try what would make the order in hand ready sooner."""
        if self.turn is not None and not self.foresight.busy:
            self.chain.show()
            self.chain.setText(TRYING)
            self.foresight.ask_sooner(self.turn.task.order.id)

    def show_schools(self) -> None:
        """By which schools the thing in hand is made; again, to be done with it."""
        self.schools.setVisible(not self.schools.isVisible())
        self.drawn.setVisible(not self.schools.isVisible())
        self.schools.show_moved(())
        self.refresh()
        (self.schools.boxes["glue"] if self.schools.isVisible() else self).setFocus()

    def _show_schools(self, turn: Turn | None) -> None:
        """The schools of the thing in hand; where its steps were derived anew, what is otherwise."""
        things = self.agenda.load.things if self.agenda else {}
        if self.schools.isVisible():
            at = turn.id.rpartition("/")[0] + "/" if turn else ""
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
        now, turn, agenda = self.clock(), self.turn, self.agenda
        if turn is not None and self.isVisible():
            self.card.tick(turn, self.progress.of(turn.id), now)
        if agenda is None or self._heard is None:
            return
        if now.minute != self._heard.minute or now - self._heard > timedelta(minutes=1):
            for said, presses in calls(agenda.load, self.progress, self._heard, now):
                self.called.emit(said, presses)
            self._heard = now
            self._behind(now)
            if self.isVisible():
                self.refresh()

    def _behind(self, now: datetime) -> None:
        """Plan anew where the day goes otherwise than it was planned, or something has dried."""
        asked, agenda = self.foresight.asked, self.agenda
        if agenda is None or asked is None or self.foresight.busy or now - asked < BEHIND:
            return
        begins = min((turn.begins for turn in self.turns), default=None)
        dried = any(self.progress.missed(at, steps, now) for at, steps in agenda.load.things.items())
        if dried or (begins is not None and begins + BEHIND < now):
            self.foresight.ask()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._side.setFixedWidth(min(max(round(0.34 * self.width()), 320), 430))

    def hideEvent(self, event: QHideEvent | None) -> None:
        if not self.listens:
            self._timer.stop()

    @property
    def listens(self) -> bool:
        """Whether a clock runs, or something waits that will call."""
        runs = any(worked.stands is Stands.RUNNING for worked in self.progress)
        return runs or (self.agenda is not None and bool(waiting(self.agenda.load, self.progress, self.clock())))

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
