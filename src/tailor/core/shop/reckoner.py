"""The reckoning process: python -m tailor.core.shop.reckoner FD, on a line to the window that asks.

Each order is drafted and reckoned, and sent as soon as it is; whatever is asked next ends what is under way.
"""

from __future__ import annotations

import sys
import traceback
from collections.abc import Iterator
from multiprocessing.connection import Connection

from tailor.core import apart
from tailor.core.bench.supplies import Need
from tailor.core.errors import InputError
from tailor.core.shop.drafts import Drafts
from tailor.core.shop.needs import needs_still
from tailor.core.shop.quote import quote
from tailor.core.shop.reckoning import Reckon, Reckoned
from tailor.core.shop.stock import against, shopping


def reckon_on(line: Connection) -> None:
    """Reckon what is asked, each time with its number, until the window hangs up; None ends a row."""
    drafts = Drafts()
    while True:
        try:
            number, wanted = line.recv()
            for found in reckoned(wanted, drafts):
                line.send((number, found))
                if line.poll():
                    break  # something else is wanted
            line.send((number, None))
        except (EOFError, OSError):
            return


def reckoned(wanted: Reckon, drafts: Drafts) -> Iterator[Reckoned]:
    """What each order comes to, those still to be made first; at last what all of those need."""
    shop = wanted.shop
    every = list[Need]()
    for order in sorted(shop.orders, key=lambda order: not order.open):
        try:
            things = tuple(drafts.made(line, wanted.maker) for line in order.lines)
            cost = quote(things, shop.sorts, shop.stock, shop.terms, shop.rates)
            left = needs_still(order.id, things, shop)
            every += left if order.open else ()
            yield Reckoned(order.id, cost, against(left, shop.stock))
        except InputError as error:
            yield Reckoned(order.id, said=str(error))
        except Exception as fault:  # a fault of ours must not leave the window waiting for ever
            traceback.print_exc()
            yield Reckoned(order.id, said=f"Tailor itself is at fault ({type(fault).__name__}).")
    yield Reckoned("", wants=shopping(against(every, shop.stock)))


if __name__ == "__main__":
    apart.settle_in()
    reckon_on(Connection(int(sys.argv[1])))
