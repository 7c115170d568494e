"""A shop: all that its book holds, as one value."""

from __future__ import annotations

from dataclasses import dataclass, field

from tailor.core.bench.altered import Altered
from tailor.core.bench.rates import Rates
from tailor.core.bench.schools import School
from tailor.core.errors import InputError
from tailor.core.incoming import quoted
from tailor.core.log.logged import Logged
from tailor.core.shop.hands import Hand
from tailor.core.shop.leathers import Skin, Sort
from tailor.core.shop.orders import Order
from tailor.core.shop.progress import Worked
from tailor.core.shop.quote import Terms
from tailor.core.shop.stock import Article, Used

USUAL = (Hand("maker", "the maker"),)


@dataclass(frozen=True)
class Shop:
    """sorts and skins: leathers, and what lies there of them. stock: all else. hands: who works there. terms, rates and
    school: how it reckons, how fast and in which way it works. worked: how far the steps of its orders have come.
    altered: what was changed of those steps by hand. logged: what was written up of things that were made, at a glance.
    """

    sorts: tuple[Sort, ...] = ()
    skins: tuple[Skin, ...] = ()
    stock: tuple[Article, ...] = ()
    orders: tuple[Order, ...] = ()
    hands: tuple[Hand, ...] = ()
    terms: Terms = field(default_factory=Terms)
    rates: Rates = field(default_factory=Rates)
    school: School = field(default_factory=School)
    worked: tuple[Worked, ...] = ()
    altered: tuple[Altered, ...] = ()
    logged: tuple[Logged, ...] = ()

    @property
    def at_work(self) -> tuple[Hand, ...]:
        """Who works: where nobody is named, one who does it of an evening."""
        return self.hands or USUAL

    def used(self, order: str) -> tuple[Used, ...]:
        """What was taken off the shelves already for an order, by its id."""
        return tuple(one for worked in self.worked if worked.order == order for one in worked.used)

    def order(self, name: str) -> Order:
        """An order by its name or its id. Raises InputError where there is none."""
        found = [order for order in self.orders if name in (order.name, order.id)]
        if not found:
            names = ", ".join(order.name for order in self.orders) or "there is none yet"
            raise InputError(f"there is no order called {quoted(name)}", "shop book", f"name one of: {names}")
        return found[0]
