"""The drafting room: a process of its own that drafts, so that neither the draft nor the window waits for the other.

What passes between them is read and written on the window's own thread: a helper thread would have to wait for the
interpreter at every piece of it.
"""

from __future__ import annotations

import contextlib
import subprocess
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cache

from PyQt6.QtCore import QObject, QSocketNotifier, QTimer

from tailor.core import drafter
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.looked import Look
from tailor.core.outcome import Outcome
from tailor.desk.helper import Helper

LONGEST = 20.0  # s that a draft may take
PATIENCE = 4.0  # s that one may take while another is waiting
ENDED = InputError("the process that drafts ended, and ended again on this job", "draft",
                   "undo the last change; your work is kept")  # fmt: skip
SLOW = InputError(f"it was not worked out within {LONGEST:.0f} s", "draft",
                  "look for a measure that is far too large, or undo the last change; your work is kept")  # fmt: skip


@dataclass(frozen=True)
class Asked:
    """What to draft, how to look at it, whether roughly, and who are told."""

    job: Job
    look: Look | None
    rough: bool
    then: list[Callable[[Outcome], None]]

    def tell(self, outcome: Outcome) -> None:
        for told in self.then:
            told(replace(outcome, job=self.job))


class DraftingRoom(QObject):
    """Drafts one job after another in its process, which is begun when first needed and again should it end."""

    def __init__(self) -> None:
        super().__init__()
        self._asked: deque[Asked] = deque()
        self._helper: Helper | None = None
        self._bell: QSocketNotifier | None = None
        self._again = False  # the first of what is asked was asked of a process that ended, too
        self._slow = False  # the process was ended for taking too long over it
        self._since = 0.0  # when the first of what is asked was begun
        self._watch = QTimer(self, singleShot=True, timeout=self._give_up)

    @property
    def process(self) -> subprocess.Popen[bytes] | None:
        return None if self._helper is None else self._helper.process

    def open(self, begun: Helper | None = None) -> None:
        """Begin the process, so that the first job need not wait for it. begun: one that was begun elsewhere."""
        if self._helper is not None:
            if begun is not None:
                begun.end()
            return
        self._helper = begun or Helper(drafter.__name__)
        self._bell = QSocketNotifier(self._helper.bell, QSocketNotifier.Type.Read, self)
        self._bell.activated.connect(self._answered)

    def ask(self, job: Job, look: Look | None, rough: bool, then: Callable[[Outcome], None]) -> None:
        """Work a job out; `then` is called with its outcome, on the window's thread, in the order of asking.

        What is asked already is worked out once for all who ask.
        """
        for asked in self._asked:
            if asked.job is job and (asked.look, asked.rough) == (look, rough):
                asked.then.append(then)
                return
        self._asked.append(Asked(job, look, rough, [then]))
        if len(self._asked) == 1:
            self._begin()
        self._send(self._asked[-1])

    def hurry(self) -> None:
        """Another job is wanted: what has taken long already is given up."""
        if self._asked and time.monotonic() - self._since > PATIENCE:
            self._give_up()

    def _begin(self) -> None:
        """The first of what is asked is under way from now on, if anything is."""
        self._since = time.monotonic()
        if self._asked:
            self._watch.start(round(1e3 * LONGEST))
        else:
            self._watch.stop()

    def _give_up(self) -> None:
        """End the process over what takes too long; the bell rings then."""
        if self._asked and self._helper is not None:
            self._slow = True
            self._helper.process.kill()

    def _send(self, asked: Asked) -> None:
        self.open()
        assert self._helper is not None
        with contextlib.suppress(OSError):  # where the process has ended the bell rings too
            self._helper.send((asked.job, asked.look, asked.rough))

    def _answered(self) -> None:
        assert self._helper is not None
        try:
            found = self._helper.answer()
        except (EOFError, OSError):
            self._begin_anew()
            return
        self._again = self._slow = False  # it answered after all
        asked = self._asked.popleft()
        self._begin()
        asked.tell(found)

    def _begin_anew(self) -> None:
        """The process has ended: ask another for what is still wanted; what has ended two is given up."""
        assert self._helper is not None
        assert self._bell is not None
        self._bell.setEnabled(False)
        self._helper.end()
        self._helper = None
        error = SLOW if self._slow else ENDED
        given_up = self._asked.popleft() if self._asked and (self._again or self._slow) else None
        self._slow = False
        self._again = given_up is None and bool(self._asked)
        self._begin()
        for asked in self._asked:
            self._send(asked)
        if given_up is not None:
            given_up.tell(Outcome(given_up.job, None, (), error))


@cache
def drafting_room() -> DraftingRoom:
    """The one drafting room of this application."""
    return DraftingRoom()
