"""What is needed besides leather for what is made, and what of it is needed still once some was used."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from tailor.core.bench import supplies
from tailor.core.bench.labour import glued
from tailor.core.bench.supplies import Need, together
from tailor.core.draft.draft import Draft
from tailor.core.shop.made import Made
from tailor.core.shop.stock import Article, Used

if TYPE_CHECKING:
    from tailor.core.shop.shop import Shop

NOTHING = 1e-9


def needs(things: Iterable[Made]) -> tuple[Need, ...]:
    """What things need together, each need with the things that it is for."""
    return together(
        Need(n.kind, n.name, n.size, n.amount * thing.count, thing.name) for thing in things for n in _of(thing.draft)
    )


def _of(made: Draft) -> Iterator[Need]:
    yield from supplies.hardware(made)
    yield from supplies.thread(made, made.seams)
    yield from supplies.sheets(made)
    yield from supplies.glue(glued(made))


def needs_still(order: str, things: Iterable[Made], shop: Shop) -> tuple[Need, ...]:
    """What the things of an order, by its id, need beyond what was taken off the shelves for it already."""
    return still(needs(things), shop.used(order), shop.stock)


def still(wanted: Iterable[Need], used: Iterable[Used], stock: Sequence[Article]) -> tuple[Need, ...]:
    """What is needed still, where so much of some articles was used for it already."""
    gone = dict[str, float]()
    for one in used:
        gone[one.article] = gone.get(one.article, 0.0) + one.amount
    found = []
    for need in wanted:
        amount = need.amount
        for article in stock:
            if article.serves(need) and (taken := min(gone.get(article.id, 0.0), amount)) > 0:
                gone[article.id] -= taken
                amount -= taken
        if amount > NOTHING:
            found.append(replace(need, amount=amount))
    return tuple(found)
