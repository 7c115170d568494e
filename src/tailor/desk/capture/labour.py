"""Labour: heavy work off the window's thread, that tells how far it is, can be stopped, and is never late."""

from __future__ import annotations

import traceback
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, pyqtSignal

from tailor.core.errors import InputError

Tell = Callable[[str, float], None]


class StoppedError(Exception):
    """Raised inside work that is no longer wanted."""


class _Job(QRunnable):
    def __init__(self, work: Callable[[], None]) -> None:
        super().__init__()
        self._work = work

    def run(self) -> None:
        self._work()


class Labour(QObject):
    """One piece of work at a time; a newer one takes the place of the one under way.

    begun: what came before is stale now. progress: what it is at, and its share done. done: what came of it.
    failed: why nothing did. idle: nothing is under way any more.
    """

    begun = pyqtSignal()
    progress = pyqtSignal(str, float)
    done = pyqtSignal(object)
    failed = pyqtSignal(str)
    idle = pyqtSignal()
    _came = pyqtSignal(int, object, object)
    _told = pyqtSignal(int, str, float)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._wanted = 0
        self.busy = False
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        self._came.connect(self._take)
        self._told.connect(self._hear)

    def start(self, work: Callable[[Tell], Any]) -> None:
        """Begin work; it is given a function to tell its progress by, which also ends it when it is stopped."""
        self._wanted += 1
        mine = self._wanted
        self.busy = True
        self.begun.emit()

        def tell(said: str, share: float) -> None:
            if self._wanted != mine:
                raise StoppedError
            self._told.emit(mine, said, share)

        def run() -> None:
            try:
                tell("beginning", 0.0)
                self._came.emit(mine, work(tell), None)
            except StoppedError:
                self._came.emit(mine, None, None)
            except InputError as error:
                self._came.emit(mine, None, error)
            except Exception as fault:  # a fault of ours must not leave the panel waiting for ever
                traceback.print_exc()
                said = f"Tailor itself is at fault ({type(fault).__name__}: {fault})"
                self._came.emit(mine, None, InputError(said, "measuring", "nothing was changed; try another way"))

        self._pool.start(_Job(run))

    def stop(self) -> None:
        """Let go of what is under way: nothing of it will be shown."""
        self._wanted += 1
        self.busy = False
        self.idle.emit()

    def finish(self) -> None:
        """Stop, and wait until no thread is left running."""
        self.stop()
        self._pool.waitForDone()

    def _hear(self, mine: int, said: str, share: float) -> None:
        if mine == self._wanted:
            self.progress.emit(said, share)

    def _take(self, mine: int, what: object, error: InputError | None) -> None:
        if mine != self._wanted:
            return  # stale: something newer is wanted
        self.busy = False
        if error is not None:
            self.failed.emit(str(error))
        else:
            self.done.emit(what)
        self.idle.emit()
