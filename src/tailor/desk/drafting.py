"""The drafting room: a process of its own that drafts, so that neither the draft nor the window waits for the other.

What passes between them is read and written on the window's own thread: a helper thread would have to wait for the
interpreter at every piece of it.
"""

from __future__ import annotations

import contextlib
import os
import socket
import subprocess
import sys
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cache
from multiprocessing.connection import Connection

from PyQt6.QtCore import QObject, QSocketNotifier

from tailor.core import drafter
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.looked import Look
from tailor.core.outcome import Outcome

ENDED = InputError("the process that drafts ended, and ended again on this job", "draft",
                   "undo the last change; your work is kept")  # fmt: skip
ONE_THREAD = {
    "OPENBLAS_NUM_THREADS": "1",
    "OMP_NUM_THREADS": "1",
}  # more would only wait for each other on small meshes


@dataclass(frozen=True)
class Asked:
    """What to draft, how to look at it, whether roughly, and who is told."""

    job: Job
    look: Look | None
    rough: bool
    then: Callable[[Outcome], None]


class DraftingRoom(QObject):
    """Drafts one job after another in its process, which is begun when first needed and again should it end."""

    def __init__(self) -> None:
        super().__init__()
        self.process: subprocess.Popen[bytes] | None = None
        self._asked: deque[Asked] = deque()
        self._line: Connection | None = None
        self._bell: QSocketNotifier | None = None
        self._again = False  # the first of what is asked was asked of a process that ended, too

    def open(self) -> None:
        """Begin the process, so that the first job need not wait for it."""
        if self._line is not None:
            return
        ours, theirs = socket.socketpair()
        with theirs:
            command = [sys.executable, "-m", drafter.__name__, str(theirs.fileno())]
            self.process = subprocess.Popen(
                command, pass_fds=(theirs.fileno(),), stdin=subprocess.DEVNULL, env={**os.environ, **ONE_THREAD}
            )
        self._line = Connection(ours.detach())
        self._bell = QSocketNotifier(self._line.fileno(), QSocketNotifier.Type.Read, self)
        self._bell.activated.connect(self._answered)

    def ask(self, job: Job, look: Look | None, rough: bool, then: Callable[[Outcome], None]) -> None:
        """Work a job out; `then` is called with its outcome, on the window's thread, in the order of asking."""
        self._asked.append(Asked(job, look, rough, then))
        self._send(self._asked[-1])

    def _send(self, asked: Asked) -> None:
        self.open()
        assert self._line is not None
        with contextlib.suppress(OSError):  # where the process has ended the bell rings too
            self._line.send((asked.job, asked.look, asked.rough))

    def _answered(self) -> None:
        assert self._line is not None
        try:
            found = self._line.recv()
        except (EOFError, OSError):
            self._begin_anew()
            return
        self._again = False
        asked = self._asked.popleft()
        asked.then(replace(found, job=asked.job))

    def _begin_anew(self) -> None:
        """The process has ended: ask another for what is still wanted; what has ended two is given up."""
        assert self._line is not None
        assert self._bell is not None
        assert self.process is not None
        self._bell.setEnabled(False)
        self._line.close()
        self._line = None
        self.process.wait()
        given_up = self._asked.popleft() if self._again else None
        self._again = given_up is None and bool(self._asked)
        for asked in self._asked:
            self._send(asked)
        if given_up is not None:
            given_up.then(Outcome(given_up.job, None, (), ENDED))


@cache
def drafting_room() -> DraftingRoom:
    """The one drafting room of this application."""
    return DraftingRoom()
