"""The drafting process: python -m tailor.core.drafter FD, on a line to the window that asks."""

from __future__ import annotations

import sys
from multiprocessing.connection import Connection

from tailor.core import apart
from tailor.core.outcome import work_out


def draft_on(line: Connection) -> None:
    """Work out what is asked for, each draft from the one before, until the window hangs up."""
    before = None
    while True:
        try:
            job, look, rough = line.recv()
        except (EOFError, OSError):
            return
        found = work_out(job, before, look, rough)
        before = found.made or before
        try:
            line.send(found)
        except OSError:
            return


if __name__ == "__main__":
    apart.settle_in()
    draft_on(Connection(int(sys.argv[1])))
