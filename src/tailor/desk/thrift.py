"""Thrift: memory that drafts no longer need goes back to the machine, instead of lying about in small gaps; what was
loaded to stay is not looked through again for what can be thrown away.
"""

from __future__ import annotations

import ctypes
import gc
import sys
from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QThreadPool, QTimer

if TYPE_CHECKING:
    from tailor.desk.workbench import Workbench

REST = 4000  # ms after a draft
ARENAS, MOST = -8, 2  # of the allocator: its own number for how many arenas there may be, and how many
LIBRARY = ctypes.CDLL(None)


def few_arenas() -> None:
    """Let threads share their arenas: each would keep what it once needed. Before any thread is begun."""
    _call("mallopt", ARENAS, MOST)


class Thrift(QObject):
    """Gives back what is free once a draft is in its place.

    Libraries that are loaded as they are needed are most of what there is to look through, and looking holds the
    window up; so they are set aside.
    """

    def __init__(self, bench: Workbench) -> None:
        super().__init__(bench)
        self._loaded = 0  # modules, when they were last set aside
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(REST)
        self._timer.timeout.connect(self._give_back)
        bench.drafted.connect(self._soon)

    def _soon(self) -> None:
        if not self._timer.isActive():
            self._timer.start()

    def _give_back(self) -> None:
        if len(sys.modules) > self._loaded:
            gc.freeze()
            self._loaded = len(sys.modules)
        pool = QThreadPool.globalInstance()
        assert pool is not None
        pool.start(lambda: _call("malloc_trim", 0))


def _call(name: str, *numbers: int) -> None:
    """Call the allocator, where it has such a call: other C libraries keep house by themselves."""
    found: Callable[..., int] | None = getattr(LIBRARY, name, None)
    if found is not None:
        found(*numbers)
