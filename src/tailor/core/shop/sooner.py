"""Sooner: what would make an order ready before it is, tried one by one: more hands, more hours, another glue, or all
else put off.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import datetime

from tailor.core.bench.planner import Planner
from tailor.core.bench.schools import GLUES
from tailor.core.errors import InputError
from tailor.core.shop.agenda import Sooner
from tailor.core.shop.hands import DAY, Hand
from tailor.core.shop.shop import Shop
from tailor.core.shop.workload import Workload

MORE = 30  # minutes that each evening is longer
SATURDAY = (5, 9 * 60, 13 * 60)
PLANS = 12  # of each way

Loads = Callable[[Shop], Workload]


def ways(shop: Shop, order: str) -> list[tuple[str, Shop]]:
    """What could be otherwise in a shop, in words, and the shop in which it is."""
    first = shop.at_work[0]
    found = [("planned anew, with nothing else changed", shop)]
    helper = Hand("another pair of hands", "another pair of hands", first.hours, first.off)
    found.append(("with another pair of hands in your hours", replace(shop, hands=(*shop.at_work, helper))))
    longer = tuple(replace(hand, hours=_longer(hand)) for hand in shop.at_work)
    found.append((f"with {MORE} minutes more each time", replace(shop, hands=longer)))
    if not any(day == SATURDAY[0] for day, _, _ in first.hours):
        also = replace(first, hours=(*first.hours, SATURDAY))
        found.append(("with Saturday mornings too", replace(shop, hands=(also, *shop.at_work[1:]))))
    for glue in GLUES:
        if glue != shop.school.glue:
            found.append((f"with {glue} glue", replace(shop, school=replace(shop.school, glue=glue))))
    mine = tuple(each for each in shop.orders if each.id == order)
    if sum(each.open for each in shop.orders) > 1:
        found.append(("before everything else", replace(shop, orders=mine)))
    return found


def sooner(shop: Shop, order: str, loads: Loads) -> Iterator[Sooner | None]:
    """When an order is ready in each of the ways; None where there is nothing new yet.

    loads: what a shop's orders ask.
    """
    for said, other in ways(shop, order):
        ready: datetime | None = None
        try:
            load = loads(other)
            planner = Planner(load.work)
            for n, _ in enumerate(planner.run()):
                yield None
                if n >= PLANS and planner.best is not None:
                    break
            assert planner.best is not None
            ready = load.ready(planner.best).get(order)
        except InputError:  # so it cannot be done at all
            ready = None
        yield Sooner(order, said, ready)


def _longer(hand: Hand) -> tuple[tuple[int, int, int], ...]:
    """Hours that end so much later, as far as the next ones and the day let them."""
    found = []
    rows = sorted(hand.hours)
    for n, (day, begin, end) in enumerate(rows):
        after = rows[n + 1][1] if n + 1 < len(rows) and rows[n + 1][0] == day else DAY
        found.append((day, begin, min(end + MORE, after)))
    return tuple(found)
