"""The workbench: one job, its undo stack, and its draft worked out off the window's thread.

The window changes the job and draws what comes back; it computes nothing of its own.
"""

from __future__ import annotations

import traceback
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, QTimer, pyqtSignal

from tailor.core.checks.verdict import Verdict
from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.desk import keeping
from tailor.files import job_file

DEEPEST = 500  # changes that can be undone
AUTOSAVE = 800  # ms after the last change


@dataclass(frozen=True)
class Change:
    """A step that can be undone: what it is called, the job before it, and what later steps may join it."""

    name: str
    before: Job
    joins: str = ""


@dataclass(frozen=True)
class Outcome:
    """A draft and its verdicts, for the job they were made from; or why it could not be made.

    beside: what else was worked out of it, for whoever asked.
    """

    job: Job
    made: Draft | None
    said: tuple[Verdict, ...] = ()
    error: InputError | None = None
    beside: object = None


def work_out(job: Job, before: Draft | None = None) -> Outcome:
    """Draft and judge a job, setting out from the draft before. Pure, so it may run on any thread."""
    try:
        made = draft(job, before)
        return Outcome(job, made, judge(job, made))
    except InputError as error:
        return Outcome(job, None, (), error)
    except Exception as fault:  # a fault of ours must not leave the window waiting for ever
        traceback.print_exc()
        said = f"Tailor itself is at fault ({type(fault).__name__}: {fault})"
        return Outcome(job, None, (), InputError(said, "draft", "undo the last change; your work is kept"))


class _Task(QRunnable):
    def __init__(self, work: Callable[[], None]) -> None:
        super().__init__()
        self._work = work

    def run(self) -> None:
        self._work()


class Workbench(QObject):
    """Holds the job and what follows from it.

    changed: the job changed. drafted: the outcome for the present job is there. Until then `fresh` is False and
    `made` is the last good draft. laid: another job lies here. not_kept: why unsaved work could not be kept.
    beside: what else to work out of a draft, off the window's thread.
    """

    changed = pyqtSignal()
    drafted = pyqtSignal()
    saved = pyqtSignal()
    laid = pyqtSignal()
    not_kept = pyqtSignal(str)
    _worked_out = pyqtSignal(object)

    def __init__(
        self, job: Job, path: Path | None = None, parent: QObject | None = None, outcome: Outcome | None = None
    ) -> None:
        super().__init__(parent)
        self.job = job
        self.path = path
        self.outcome = outcome or work_out(job)
        self.made: Draft | None = self.outcome.made
        self.clean: Job | None = job
        self.beside: Callable[[Job, Draft], object] | None = None
        self._undo: list[Change] = []
        self._redo: list[Change] = []
        self._busy = self._finished = False
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        self._worked_out.connect(self._take)
        self._keeper = QTimer(self, interval=AUTOSAVE, singleShot=True, timeout=self.keep)

    @property
    def fresh(self) -> bool:
        """Whether the outcome belongs to the present job."""
        return self.outcome.job is self.job

    @property
    def dirty(self) -> bool:
        return self.job != self.clean

    @property
    def error(self) -> InputError | None:
        return self.outcome.error

    def change(self, name: str, job: Job, joins: str = "") -> None:
        """Take a changed job as one undoable step; steps in a row that join each other become one."""
        if job == self.job:
            return
        top = self._undo[-1] if self._undo else None
        if not (joins and top and top.joins == joins):
            self._undo.append(Change(name, self.job, joins))
            del self._undo[:-DEEPEST]
        self._redo.clear()
        self._set(job)

    def settle(self) -> None:
        """End a run of joining steps, as when a drag is let go."""
        if self._undo and self._undo[-1].joins:
            self._undo[-1] = Change(self._undo[-1].name, self._undo[-1].before)

    def type(self, key: str, text: str, name: str, joins: str = "") -> None:
        """Change a setting by what the maker typed. Raises InputError and changes nothing if it cannot be."""
        self.change(name, self.job.typed(key, text), joins)

    @property
    def undoes(self) -> str:
        return self._undo[-1].name if self._undo else ""

    @property
    def redoes(self) -> str:
        return self._redo[-1].name if self._redo else ""

    def undo(self) -> None:
        if self._undo:
            step = self._undo.pop()
            self._redo.append(Change(step.name, self.job))
            self._set(step.before)

    def redo(self) -> None:
        if self._redo:
            step = self._redo.pop()
            self._undo.append(Change(step.name, self.job))
            self._set(step.before)

    def lay_down(self, job: Job, path: Path | None, clean: bool = True) -> None:
        """Begin with another job. What lay here and was not saved is kept for the next session."""
        if self.dirty:
            self.keep()
            keeping.set_aside()
        self._undo.clear()
        self._redo.clear()
        self.path = path
        self.clean = job if clean else None
        self._set(job)
        self.laid.emit()

    def save(self, path: Path) -> None:
        """Save to a file. Raises InputError when it cannot be written."""
        job_file.save(self.job, path)
        self.path, self.clean = path, self.job
        self._keeper.stop()
        keeping.drop()
        keeping.remember(path)
        self.saved.emit()

    def keep(self) -> None:
        """Keep unsaved work against a crash."""
        try:
            if self.dirty:
                keeping.keep(self.job, self.path)
            else:
                keeping.drop()
        except (InputError, OSError) as error:
            self.not_kept.emit(f"Unsaved work cannot be kept: {error}")

    def finish(self) -> None:
        """The window closes: what is not saved is kept, and no thread is left running."""
        self._finished = True
        self._keeper.stop()
        self.keep()
        self._pool.waitForDone()

    def _set(self, job: Job) -> None:
        self.job = job
        self._keeper.start()
        self.changed.emit()
        self._start()

    def _start(self) -> None:
        if self._busy or self.fresh or self._finished:
            return
        self._busy = True
        job, before, beside = self.job, self.made, self.beside

        def work() -> None:
            found = work_out(job, before)
            if beside is not None and found.made is not None:
                found = replace(found, beside=beside(job, found.made))
            self._worked_out.emit(found)

        self._pool.start(_Task(work))

    def _take(self, outcome: Outcome) -> None:
        """An outcome arrives; if the job has changed meanwhile it is stale and only starts the next."""
        self._busy = False
        if outcome.job is self.job:
            self.outcome = outcome
            self.made = outcome.made or self.made
            self.drafted.emit()
        else:
            if outcome.made is not None:
                self.outcome, self.made = outcome, outcome.made
                self.drafted.emit()
            self._start()
