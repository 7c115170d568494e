"""A helper: a process apart, and the line to it on which jobs go and answers come."""

from __future__ import annotations

import contextlib
import socket
import subprocess
from multiprocessing.connection import Connection
from typing import Any

from tailor.core import apart


def begun(module: str, line: int) -> subprocess.Popen[bytes]:
    """A process that runs a module, with a line to it."""
    return subprocess.Popen(
        apart.command(module, str(line)), pass_fds=(line,), stdin=subprocess.DEVNULL, env=apart.environment()
    )


class Helper:
    """A process that runs a module of the core, for as long as it is wanted. Nothing of the core is loaded for it."""

    def __init__(self, module: str) -> None:
        ours, theirs = socket.socketpair()
        with theirs:
            self.process = begun(module, theirs.fileno())
        self._line = Connection(ours.detach())

    @property
    def bell(self) -> int:
        """What can be read from once there is an answer, or the process has ended."""
        return self._line.fileno()

    def send(self, what: object) -> None:
        """Raises OSError where the process has ended."""
        self._line.send(what)

    def answer(self) -> Any:
        """The next answer. Raises EOFError or OSError where the process has ended."""
        return self._line.recv()

    def end(self) -> None:
        """End the process, and wait until it has."""
        with contextlib.suppress(OSError):
            self._line.close()
        self.process.kill()
        self.process.wait()
