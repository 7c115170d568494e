"""The workbench: one job, its undo stack, and its draft, worked out in the drafting room.

The window changes the job and draws what comes back; it computes nothing of its own.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.looked import Look
from tailor.core.maker import Maker
from tailor.core.outcome import Outcome, work_out
from tailor.desk import keeping
from tailor.desk.drafting import drafting_room
from tailor.files import atomic, job_file

DEEPEST = 500  # changes that can be undone
AUTOSAVE = 800  # ms after the first change that is not kept yet
REST = 250  # ms without a change after which a hand is taken to rest


@dataclass(frozen=True)
class Change:
    """A step that can be undone: what it is called, the job before it, and what later steps may join it."""

    name: str
    before: Job
    joins: str = ""


class Workbench(QObject):
    """Holds the job and what follows from it.

    changed: the job changed. staled: it did, and what is shown no longer belongs to it. drafted: an outcome is there;
    until it is the present job's, and no rough one, `fresh` is False. made: the last good draft, and made_for its job.
    laid: another job lies here. not_kept: why unsaved work could not be kept. look: how each draft is to be looked at,
    in the drafting room too. While a measure is in hand drafts are rough; when the hand rests the fine one follows.
    """

    changed = pyqtSignal()
    staled = pyqtSignal()
    drafted = pyqtSignal()
    saved = pyqtSignal()
    laid = pyqtSignal()
    not_kept = pyqtSignal(str)

    def __init__(
        self, job: Job, path: Path | None = None, parent: QObject | None = None, outcome: Outcome | None = None
    ) -> None:
        """outcome: what was worked out of the job already; where it is not the job's own, that is worked out now."""
        super().__init__(parent)
        self.job = job
        self.maker = job.settings.maker
        self.path = path
        self.outcome = outcome or work_out(job)
        self.made: Draft | None = self.outcome.made
        self.made_for = job
        self.clean: Job | None = job
        self.place = keeping.Place()
        self._remembered: Path | None = None
        self._on_disk = None if path is None else _lying(path, job)
        self.look: Callable[[], Look | None] = lambda: None
        self.room = drafting_room()
        self.room.open()
        self._undo: list[Change] = []
        self._redo: list[Change] = []
        self._busy = self._finished = self._in_hand = self._look_anew = self._looking = False
        self._rest = QTimer(self, interval=REST, singleShot=True, timeout=self._let_go)
        self._keeper = QTimer(self, interval=AUTOSAVE, singleShot=True, timeout=self.keep)
        self._remember()
        self._start()

    @property
    def fresh(self) -> bool:
        """Whether the outcome belongs to the present job, and is as fine as it will be."""
        return self.outcome.job is self.job and not self.outcome.rough

    @property
    def dirty(self) -> bool:
        return self.job != self.clean

    @property
    def error(self) -> InputError | None:
        return self.outcome.error

    @property
    def looking(self) -> bool:
        """Whether the present draft is being looked at in another way than it was."""
        return self._look_anew or self._looking

    def look_again(self) -> None:
        """The present draft is to be looked at in another way, in the drafting room; `drafted` tells when it is."""
        if self.outcome.made is not None:
            self._look_anew = True
            self._start()

    def change(self, name: str, job: Job, joins: str = "") -> None:
        """Take a changed job as one undoable step; steps in a row that join each other become one."""
        job = self._mine(job)
        if job == self.job:
            return
        top = self._undo[-1] if self._undo else None
        if not (joins and top and top.joins == joins):
            self._undo.append(Change(name, self.job, joins))
            del self._undo[:-DEEPEST]
        self._redo.clear()
        self._in_hand = bool(joins)
        self._set(job)

    def _mine(self, job: Job) -> Job:
        """A job as the bench's maker works it."""
        return job if job.settings.maker is self.maker else job.by(self.maker)

    def go_by(self, maker: Maker) -> None:
        """Work as a maker does from now on; what lies here is drafted anew, and is no other job for it."""
        self.maker = maker
        self._set(self._mine(self.job))

    def settle(self) -> None:
        """End a run of joining steps, as when a drag is let go."""
        if self._undo and self._undo[-1].joins:
            self._undo[-1] = Change(self._undo[-1].name, self._undo[-1].before)
        self._let_go()

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
            self._set(self._mine(step.before))

    def redo(self) -> None:
        if self._redo:
            step = self._redo.pop()
            self._undo.append(Change(step.name, self.job))
            self._set(self._mine(step.before))

    def lay_down(self, job: Job, path: Path | None, clean: bool = True, lying: str | None = None) -> None:
        """Begin with another job. What lay here and was not saved is kept for the next session.

        lying: SHA-256 of its file as it was read.
        """
        job = self._mine(job)
        if self.dirty:
            self.keep()
            self.place.let_go()
            self.place = keeping.Place()
        self._undo.clear()
        self._redo.clear()
        self.path = path
        self.clean = job if clean else None
        self._on_disk = lying
        self._set(job)
        self.laid.emit()

    def changed_outside(self, path: Path) -> Job | None:
        """The job that lies in the bench's own file, where another has put it there meanwhile. Raises InputError."""
        if path != self.path or self._on_disk is None or not path.exists():
            return None
        theirs, content = job_file.read(path)
        return theirs if hashed(content) != self._on_disk and theirs != self.job else None

    def save(self, path: Path, over: Job | None = None) -> None:
        """Save to a file. Raises InputError when it cannot be written.

        over: what another had put there meanwhile; undo brings it back on to the bench.
        """
        with atomic.held(path):
            self._on_disk = hashed(job_file.save(self.job, path))
        if over is not None:
            self._undo.append(Change("saving over the other version", over))
            self._redo.clear()
        self.path, self.clean = path, self.job
        self._keeper.stop()
        self.place.drop()
        keeping.remember(path)
        self.saved.emit()

    def take(self) -> None:
        """Take what another put into the bench's own file; undo brings back what lay here. Raises InputError."""
        assert self.path is not None
        self.clean, content = job_file.read(self.path)
        self._on_disk = hashed(content)
        self.change("taking the version on the disk", self.clean)
        self.saved.emit()

    def keep(self) -> bool:
        """Keep unsaved work against a crash; whether it is kept, or needs not be."""
        self._keeper.stop()
        try:
            if self.dirty:
                self.place.keep(self.job, self.path, self._on_disk)
            else:
                self.place.drop()
        except (InputError, OSError) as error:
            self.not_kept.emit(f"Unsaved work cannot be kept: {error}")
            return False
        return True

    def finish(self) -> None:
        """The window closes: what is not saved is kept, and no answer is waited for."""
        self._finished = True
        self._keeper.stop()
        self._rest.stop()
        self.keep()
        self.place.let_go()

    def _set(self, job: Job) -> None:
        was_fresh, self.job = self.fresh, job
        if not self._keeper.isActive():  # steady changes do not put it off
            self._keeper.start()
        if self._in_hand:
            self._rest.start()
        self.changed.emit()
        if was_fresh and not self.fresh:
            self.staled.emit()
        self._start()

    def _remember(self) -> None:
        """Remember the job as the last one, but not before it is known that it can be drafted."""
        drafted = self.outcome.made is not None and self.outcome.job is self.job
        if self.path is not None and drafted and self.path != self._remembered:
            keeping.remember(self.path)
            self._remembered = self.path

    def _let_go(self) -> None:
        """The hand rests: what was roughed out is drafted finely."""
        self._in_hand = False
        self._rest.stop()
        self._start()

    def _start(self) -> None:
        wanted = self._look_anew or (not self.fresh and not (self._in_hand and self.outcome.job is self.job))
        if wanted and self._busy and self.outcome.job is not self.job:
            self.room.hurry()
        if wanted and not self._busy and not self._finished:
            if not self._in_hand and self._keeper.isActive():
                self.keep()  # whatever the draft does, what it is made from is safe
            self._busy = True
            self._look_anew, self._looking = False, self._look_anew
            self.room.ask(self.job, self.look(), self._in_hand, self._take)

    def _take(self, outcome: Outcome) -> None:
        """An outcome arrives; where the job has changed meanwhile, the next is begun before this one is shown."""
        self._busy = self._looking = False
        if self._finished:
            return
        shown = outcome.job is self.job or outcome.made is not None
        if shown:
            self.outcome = outcome
            if outcome.made is not None:
                self.made, self.made_for = outcome.made, outcome.job
            self._remember()
        self._start()
        if shown:
            self.drafted.emit()


def hashed(content: bytes) -> str:
    """The SHA-256 of a file's content."""
    return hashlib.sha256(content).hexdigest()


def _lying(path: Path, job: Job) -> str | None:
    """The hash of the file that a job was read from; None where it cannot be read any more."""
    try:
        lying, content = job_file.read(path)
    except InputError:
        return None
    return hashed(content if lying == job else b"")
