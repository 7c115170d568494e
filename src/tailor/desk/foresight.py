"""Foresight: the shop's orders as they are planned, in a process of its own; what was before stays until then."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date, datetime

from PyQt6.QtCore import QObject, QThreadPool, pyqtSignal

from tailor.core.bench.work import Plan
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.shop.agenda import Agenda, Answer, Closed, Drafting, NoPlan, Planned, Sooner, Sure, Wanted, Way
from tailor.desk.counter import Counter
from tailor.desk.proposing import ProposingRoom
from tailor.desk.turning import dyes
from tailor.desk.workbench import Workbench
from tailor.files import kept_plan

FOREMAN = "tailor.core.shop.foreman"  # drafting and planning take long, so in their own process
SECONDS = 2.0  # of work on a plan


class Foresight(QObject):
    """came: there is another agenda or plan, or it is known how sure it is. said: how far it is. refused: why not.

    agenda: what is to be done. plans: of it, by their way. stale: something was changed since.
    """

    came = pyqtSignal()
    said = pyqtSignal(str)
    refused = pyqtSignal(str)

    def __init__(self, bench: Workbench, counter: Counter, now: Callable[[], datetime], parent: QObject | None = None):
        super().__init__(parent)
        self.bench, self.counter, self.now = bench, counter, now
        self.room = ProposingRoom(self, FOREMAN)
        self.room.found.connect(self._take)
        self.room.done.connect(self._rest)
        self.agenda: Agenda | None = None
        self._next: Agenda | None = None  # that takes its place with its first plan
        self.plans: dict[Way, Planned] = {}
        self.shares: dict[Way, Sure] = {}
        self.tried: list[Sooner] = []  # what would make an order ready sooner
        self._closed: dict[str, tuple[Job, Closed]] = {}  # pictures of things as they close, by their lines
        self._maker = bench.maker  # by whom they are drawn
        self._jobs: dict[str, Job] = {}  # of the lines that pictures are asked of
        self._kept: Plan | None = None  # the plan that was kept last
        self._keeping = QThreadPool(self)
        self._keeping.setMaxThreadCount(1)  # one after another
        self._seen = set[str]()  # lines that were asked of since it was planned
        self.way = Way.ORDER
        self.stale = True
        self.asked: datetime | None = None  # when it was asked last

    @property
    def busy(self) -> bool:
        return self.room.busy

    @property
    def taken(self) -> Way | None:
        """The way of the plan that is worked by: the one that was chosen, where there is a plan of it."""
        return self.way if self.way in self.plans else next(iter(self.plans), None)

    @property
    def plan(self) -> Plan | None:
        return self.plans[self.taken].plan if self.taken is not None else None

    def share(self, order: str) -> float | None:
        """How likely an order is ready by its date; None where that is not known yet."""
        sure = self.shares.get(self.taken) if self.taken is not None else None
        return None if sure is None else sure.shares.get(order)

    def ask(self) -> None:
        """Plan what the orders ask now, from how it was planned."""
        if self.counter.shop is None:
            return
        self.stale, self.asked, self._next, self.tried = True, self.now(), None, []
        self._seen.clear()
        before, counted = self._before()
        maker = self.bench.job.settings.maker
        self.room.ask(Wanted(self.counter.shop, maker, self.asked, before, counted, SECONDS))

    def _before(self) -> tuple[Plan | None, date | None]:
        """How it was planned, in this session or the last, and the Monday that is counted from."""
        if self.plan is not None and self.agenda is not None:
            return self.plan, self.agenda.load.monday
        if self.counter.demo:
            return None, None  # its orders are laid in anew each day
        return kept_plan.kept(self.counter.place) or (None, None)

    def _keep(self) -> None:
        """Keep the plan that is worked by for the next session."""
        if self.plan is None or self.agenda is None or self.stale or self.counter.demo or self._kept is self.plan:
            return
        self._kept, plan, monday, book = self.plan, self.plan, self.agenda.load.monday, self.counter.place

        def keep() -> None:
            try:
                kept_plan.keep(plan, monday, book)
            except InputError as error:
                self.refused.emit(str(error))

        self._keeping.start(keep)

    def finish(self) -> None:
        """The window closes: what is to be kept is, and no process is left."""
        self._keeping.waitForDone()
        self.room.close()

    def picture(self, line: str, job: Job, together: tuple[str, ...]) -> tuple[bytes, tuple[int, int]] | None:
        """The packed picture of a line's thing with those pieces together, and its size; asked for where it is not
        there yet, once nothing else is under way.
        """
        if (maker := self.bench.maker) is not self._maker:  # what they show is drawn by other numbers
            self._maker = maker
            for known in (self._closed, self._jobs, self._seen):
                known.clear()
        there = self._closed.get(line)
        if there is not None and there[0] == job:
            packed = there[1].pictures.get(together)
            return None if packed is None else (packed, there[1].size)
        if together and not self.busy and self.counter.shop is not None and line not in self._seen:
            self._seen.add(line)
            self._jobs[line] = job
            self.room.ask(Wanted(self.counter.shop, maker, self.now(), closing=line, dyes=dyes()))
        return None

    def ask_sooner(self, order: str) -> None:
        """Try what would make an order ready sooner; `tried` has it, way by way."""
        if self.counter.shop is not None and not self.busy:
            self.tried = []
            maker = self.bench.job.settings.maker
            self.room.ask(Wanted(self.counter.shop, maker, self.now(), sooner=order))

    def choose(self, way: Way) -> None:
        """Work by the plan that was made in a way."""
        self.way = way
        self._keep()
        self.came.emit()

    def _take(self, found: Answer) -> None:
        match found:
            case Drafting():
                self.said.emit(found.said)
                return
            case NoPlan():
                self.refused.emit(found.said)
                self.said.emit(found.said)
                return
            case Agenda():
                self._next = found
                for refused in found.refused:
                    self.refused.emit(refused)
                if found.load.work.steps:
                    return  # its first plan comes at once; what was planned before stays till then
                self._turn_over()
            case Planned():
                self._turn_over()
                self.plans[found.way] = found
            case Sooner():
                self.tried.append(found)
            case Closed() if found.line in self._jobs:
                self._closed[found.line] = self._jobs[found.line], found
            case Sure():
                self.shares[found.way] = found
        self.came.emit()

    def _turn_over(self) -> None:
        """The agenda that came takes the place of the one before, with what was planned of that."""
        if self._next is not None:
            self.agenda, self.plans, self.shares, self._next = self._next, {}, {}, None
        self.stale = False

    def _rest(self) -> None:
        """No more comes; where nothing came, its process ended by itself."""
        if self.agenda is None and self.counter.shop is not None:
            self.said.emit("Planning ended before it had begun; R plans again.")
        self._keep()
        self.came.emit()
