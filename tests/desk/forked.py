"""Helper processes for the tests, forked from one that has read all they need: the same work, begun at once.

python -m tests.desk.forked FD
"""

from __future__ import annotations

import contextlib
import importlib
import os
import pickle
import runpy
import signal
import socket
import subprocess
import sys
import time
from dataclasses import dataclass
from pathlib import Path

from tailor.core import apart
from tests import shared

ROOT = Path(__file__).parents[2]
READ = (
    "tailor.core.drafter", "tailor.core.proposer", "tailor.core.portrayer", "tailor.core.shop.foreman",
    "tailor.core.shop.reckoner", "tailor.core.cut.spreader",
)  # fmt: skip
MOST = 1 << 20  # bytes of a request


@dataclass
class Forked:
    """A process that was forked elsewhere, and what is done with one that was begun here."""

    pid: int

    def send_signal(self, which: int) -> None:
        with contextlib.suppress(ProcessLookupError):
            os.kill(self.pid, which)

    def kill(self) -> None:
        self.send_signal(signal.SIGKILL)

    def poll(self) -> int | None:
        try:
            os.kill(self.pid, 0)
        except ProcessLookupError:
            return 0
        return None

    def wait(self) -> int:
        while self.poll() is None:
            time.sleep(0.001)
        return 0


class Forker:
    """The process that is forked from."""

    def __init__(self) -> None:
        self._line, theirs = socket.socketpair()
        with theirs:
            self._process = subprocess.Popen(
                [sys.executable, "-m", __name__, str(theirs.fileno())], pass_fds=(theirs.fileno(),),
                stdin=subprocess.DEVNULL, env={**os.environ, **apart.ONE_THREAD}, cwd=ROOT,
            )  # fmt: skip

    def begun(self, module: str, line: int) -> Forked:
        """A process that runs a module, with a line to it."""
        asked = pickle.dumps((module, apart.environment(), os.getcwd()))
        socket.send_fds(self._line, [asked], [line])
        return Forked(int(self._line.recv(32)))

    def end(self) -> None:
        self._line.close()
        self._process.wait()


def _serve(line: socket.socket) -> None:
    shared.begin()
    for module in READ:
        importlib.import_module(module)
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # what has ended is gone
    while True:
        asked, fds, _, _ = socket.recv_fds(line, MOST, 1)
        if not asked:
            return
        if pid := os.fork():
            os.close(fds[0])
            line.send(str(pid).encode())
            continue
        line.close()
        signal.signal(signal.SIGCHLD, signal.SIG_DFL)
        module, environment, folder = pickle.loads(asked)
        os.environ.clear()
        os.environ.update(environment)
        os.chdir(folder)
        sys.argv = [module, str(fds[0])]
        try:
            runpy.run_module(module, run_name="__main__", alter_sys=True)
        finally:
            os._exit(0)


if __name__ == "__main__":
    _serve(socket.socket(fileno=int(sys.argv[1])))
