"""The laying process: python -m tailor.core.cut.spreader FD, on a line to the window that asks.

What is asked is laid out, and every better layout sent as soon as it is found; whatever is asked next ends what is
under way.
"""

from __future__ import annotations

import sys
import time
import traceback
from multiprocessing.connection import Connection

from tailor.core import apart
from tailor.core.cut import layer
from tailor.core.cut.asking import Asking, Spread
from tailor.core.cut.laying import Laying
from tailor.core.cut.left import rests
from tailor.core.cut.search import Search

OFTEN = 0.12  # s between two layouts that are sent
SHARE = 1e-9


def spread_on(line: Connection) -> None:
    """Lay out what is asked, each time with its number, until the window hangs up; None ends a row."""
    layer.warm()
    while True:
        try:
            number, wanted = line.recv()
            try:
                _laid_out(line, number, wanted)
            except (EOFError, OSError):
                return
            except Exception as fault:  # a fault of ours must not leave the window waiting for ever
                traceback.print_exc()
                line.send((number, Spread((), 0.0, (), True, f"Tailor itself is at fault ({type(fault).__name__}).")))
            line.send((number, None))
        except (EOFError, OSError):
            return


def _laid_out(line: Connection, number: int, wanted: Asking) -> None:
    search = Search(wanted.laying, 0, wanted.begin)
    end, told, best = time.process_time() + wanted.seconds, 0.0, -1.0
    for _ in layer.going_on(search):
        if line.poll():
            return  # something else is wanted
        now = time.monotonic()
        if search.best[2] > best + SHARE and now - told > OFTEN:
            line.send((number, _spread(search, wanted.laying, last=False)))
            told, best = time.monotonic(), search.best[2]
        if time.process_time() >= end:
            break
    line.send((number, _spread(search, wanted.laying, last=True)))


def _spread(search: Search, laying: Laying, last: bool) -> Spread:
    found = search.found()
    return Spread(found.laid, found.share, tuple(rests(laying, found.laid)) if last else (), last)


if __name__ == "__main__":
    apart.settle_in()
    spread_on(Connection(int(sys.argv[1])))
