"""What's next: the steps that come to whoever works, which of them is in hand, and what there is to say of it."""

from __future__ import annotations

import zlib
from collections.abc import Callable
from datetime import datetime, timedelta

from PyQt6.QtGui import QImage

from tailor.core.bench.steps import Steps
from tailor.core.shop.agenda import Agenda
from tailor.core.shop.progress import Progress
from tailor.core.shop.sitting import Turn, holds, turns
from tailor.desk.counter import Counter
from tailor.desk.foresight import Foresight
from tailor.desk.noting import Noting
from tailor.desk.stages import bench as bench_stage
from tailor.desk.whose_hands import WhoseHands
from tailor.desk.work_written import Written

BEHIND = timedelta(minutes=10)  # that a plan may be behind before it is made anew
ALL_DONE = "Everything that was ordered is done. In Orders (F3), S makes an order ready."


class WhatsNext:
    """turns: the steps that come, in their order. chosen: the id of one that was taken hold of; empty for the next."""

    def __init__(
        self, counter: Counter, foresight: Foresight, noting: Noting, whose: WhoseHands, clock: Callable[[], datetime]
    ) -> None:
        self.counter, self.foresight, self.noting, self.whose, self.clock = counter, foresight, noting, whose, clock
        self.turns: list[Turn] = []
        self.chosen = ""

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

    @property
    def place(self) -> str:
        """Where the thing in hand stands among all things; empty where none is."""
        return "" if self.turn is None else self.turn.id.rpartition("/")[0] + "/"

    @property
    def steps(self) -> Steps:
        """All steps of the thing in hand."""
        return Steps() if self.agenda is None else self.agenda.load.things.get(self.place, Steps())

    @property
    def written(self) -> Written | None:
        """What is written out, where there is a plan."""
        agenda, plan = self.agenda, self.foresight.plan
        if agenda is None or plan is None or self.counter.shop is None:
            return None
        return agenda.load, plan, self.progress, self.hand

    def refresh(self) -> None:
        """What comes as it is planned, as far as it was done."""
        agenda, plan = self.agenda, self.foresight.plan
        if agenda is None or plan is None or self.counter.shop is None:
            self.turns = []
            return
        if every := turns(agenda.load, plan, self.progress):
            self.whose.turn_to(every[0].who)  # whoever is next
        self.turns = turns(agenda.load, plan, self.progress, self.hand)

    def beside(self, by: int) -> str:
        """The id of another step of those that come; empty where none does."""
        if not self.turns:
            return ""
        at = self.turns.index(self.turn) if self.turn in self.turns else 0
        return self.turns[min(max(at + by, 0), len(self.turns) - 1)].id

    def said(self) -> str | None:
        """When the order in hand is ready, or why nothing comes; None where there is nothing new to say."""
        agenda, plan, shop = self.agenda, self.foresight.plan, self.counter.shop
        if self.turns and agenda is not None:
            return self._promised(agenda)
        if shop is not None and not any(order.open and order.lines for order in shop.orders):
            return bench_stage.STAGE.empty
        if agenda is not None and not self.foresight.busy:
            left = plan is not None and turns(agenda.load, plan, self.progress)
            return agenda.refused[0] if agenda.refused else f"Nothing is left for {self.hand}." if left else ALL_DONE
        return None

    def _promised(self, agenda: Agenda) -> str:
        """When the order in hand is ready, or that it is being planned."""
        if self.foresight.stale:
            return "Planning …"
        dried = [agenda.load.tasks[one.first] for one in agenda.load.missed]
        if dried:
            return f"Dried: {dried[0].doing.name} ({dried[0].thing}). It is to be done again before it is joined."
        turn = self.turn
        assert turn is not None
        return f"{turn.task.order.name}: {self._ready(agenda, turn.task.order.id)}"

    def _ready(self, agenda: Agenda, order: str) -> str:
        plan = self.foresight.plan
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

    def held(self, now: datetime) -> str:
        """What the step in hand waits for still; empty where it can be done."""
        turn, agenda = self.turn, self.agenda
        return holds(agenda.load, self.progress, turn, now) if turn is not None and agenda else ""

    def closed(self) -> QImage | None:
        """The thing in hand as it is once the step is done; None while it lies flat, or there is no picture yet."""
        turn = self.turn
        if turn is None or self.agenda is None:
            return None
        together, task = self.steps.together.get(turn.task.doing.key, ()), turn.task
        job = next(line.job for line in task.order.lines if line.mark == task.mark)
        found = self.foresight.picture(f"{task.order.id}/{task.mark}", job, together) if together else None
        if found is None:
            return None
        packed, (wide, high) = found
        return QImage(zlib.decompress(packed), wide, high, 4 * wide, QImage.Format.Format_RGBA8888).copy()

    def catch_up(self, now: datetime) -> None:
        """Plan anew where the day goes otherwise than it was planned, or something has dried."""
        asked, agenda = self.foresight.asked, self.agenda
        if agenda is None or asked is None or self.foresight.busy or now - asked < BEHIND:
            return
        begins = min((turn.begins for turn in self.turns), default=None)
        dried = any(self.progress.missed(at, steps, now) for at, steps in agenda.load.things.items())
        if dried or (begins is not None and begins + BEHIND < now):
            self.foresight.ask()
