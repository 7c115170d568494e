"""Rooms for what takes long: a process of its own that drafts what the picker offers, puts jobs right, or lays out."""

from __future__ import annotations

import subprocess

from PyQt6.QtCore import QObject, QSocketNotifier, pyqtSignal

from tailor.core import proposer
from tailor.desk.helper import Helper


class ProposingRoom(QObject):
    """Asks its process; what was asked before is given up.

    found: an offer or a refusal, a job put right, or a layout, of what was asked last. done: there are no more. The
    process, a module of the core, is begun when first asked, and goes when the window does.
    """

    found = pyqtSignal(object)
    done = pyqtSignal()

    def __init__(self, parent: QObject | None = None, module: str = proposer.__name__) -> None:
        super().__init__(parent)
        self.module = module
        self.busy = False
        self._number = 0
        self._helper: Helper | None = None
        self._bell: QSocketNotifier | None = None

    @property
    def process(self) -> subprocess.Popen[bytes] | None:
        return None if self._helper is None else self._helper.process

    def ask(self, *wanted: object) -> None:
        """Ask for what the process does: propose for a job and what is asked of it, put it right, or lay out."""
        self._number += 1
        self.busy = True
        for _ in range(2):  # where the process has ended, once more with another
            self.open()
            assert self._helper is not None
            try:
                self._helper.send((self._number, *wanted))
                return
            except OSError:
                self._close()
        self.busy = False
        self.done.emit()

    def stop(self) -> None:
        """Give up what is under way: nothing of it is told any more."""
        self._number += 1
        self.busy = False

    def close(self) -> None:
        """End the process."""
        self.stop()
        self._close()

    def open(self) -> None:
        """Begin the process, so that what is asked first need not wait for it."""
        if self._helper is None:
            self._helper = Helper(self.module)
            self._bell = QSocketNotifier(self._helper.bell, QSocketNotifier.Type.Read, self)
            self._bell.activated.connect(self._answered)

    def _close(self) -> None:
        if self._bell is not None:
            self._bell.setEnabled(False)
            self._bell = None
        if self._helper is not None:
            self._helper.end()
            self._helper = None

    def _answered(self) -> None:
        assert self._helper is not None
        try:
            number, found = self._helper.answer()
        except (EOFError, OSError):
            self._close()
            self.busy = False
            self.done.emit()
            return
        if number != self._number:
            return  # stale: something else is wanted
        if found is None:
            self.busy = False
            self.done.emit()
        else:
            self.found.emit(found)
