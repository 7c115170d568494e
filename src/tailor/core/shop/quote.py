"""The quote: what a thing costs, line by line: leather with its waste, what is used up, hours at the maker's rate."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from tailor.core.bench.labour import SQUARE, labour, minutes
from tailor.core.bench.rates import Rates
from tailor.core.bench.supplies import UNITS, Kind, Need
from tailor.core.errors import InputError
from tailor.core.shop.leathers import Sort
from tailor.core.shop.made import Leathered, Made, leathers
from tailor.core.shop.needs import needs
from tailor.core.shop.stock import Article, against


@dataclass(frozen=True)
class Terms:
    """How a shop reckons. hour: the price of one. waste: share of leather that is paid for and falls between pieces,
    where it has not been laid out. margin: on all of it. currency: a word or a sign, written before a sum.
    """

    hour: float = 28.0
    waste: float = 0.25
    margin: float = 0.15
    currency: str = ""

    def __post_init__(self) -> None:
        for said, number, most in (("hour", self.hour, 1e4), ("waste", self.waste, 0.9), ("margin", self.margin, 10)):
            if not 0 <= number <= most:
                raise InputError(f"{number:g} cannot be", said, f"give 0 to {most:g}")

    def said(self, money: float) -> str:
        return f"{self.currency} {money:.2f}".strip()


@dataclass(frozen=True)
class Item:
    """A line of a quote: so much of something, at a price. price: None where it is not known. why: how it came."""

    what: str
    amount: float
    unit: str
    price: float | None
    why: str

    @property
    def amounting(self) -> str:
        """How much, in words."""
        return f"{self.amount:.0f}" if self.unit == UNITS[Kind.HARDWARE] else f"{self.amount:.3g} {self.unit}"

    @property
    def sum(self) -> float:
        return round(self.amount * (self.price or 0.0), 2)


@dataclass(frozen=True)
class Quote:
    """items: lines; margin: on all of them, as a share."""

    items: tuple[Item, ...]
    margin: float

    @property
    def net(self) -> float:
        return round(sum(item.sum for item in self.items), 2)

    @property
    def added(self) -> float:
        return round(self.net * self.margin, 2)

    @property
    def total(self) -> float:
        return round(self.net + self.added, 2)

    @property
    def unpriced(self) -> tuple[Item, ...]:
        """What has no price, so that the sum is too small."""
        return tuple(item for item in self.items if item.price is None)


def quote(
    things: Sequence[Made], sorts: Sequence[Sort], stock: Sequence[Article], terms: Terms, rates: Rates | None = None,
    takes: Mapping[str, float] | None = None,
) -> Quote:  # fmt: skip
    """What things cost together.

    takes: of each sort by its id, the share of leather that a layout takes to the area of its pieces; where there is
    none, the usual waste counts.
    """
    items = [_leather(each, terms, (takes or {}).get(each.sort.id if each.sort else "")) for each in
             leathers(things, sorts)]  # fmt: skip
    for want in against(needs(things), stock):
        need: Need = want.need
        items.append(Item(need.said, need.amount, need.unit, want.price, f"for {need.why}"))
    for thing in things:
        work = labour(thing.draft, rates)
        hours = thing.count * minutes(work) / 60
        longest = ", ".join(deed.name for deed in sorted(work, key=lambda deed: -deed.minutes)[:3])
        many = f"{thing.count} × " if thing.count > 1 else ""
        items.append(Item(f"work, {many}{thing.name}", hours, "h", terms.hour, f"most of it: {longest}"))
    return Quote(tuple(items), terms.margin)


def _leather(each: Leathered, terms: Terms, takes: float | None) -> Item:
    net = each.area / SQUARE
    if takes is not None:
        taken, why = net * takes, f"{net:.3f} m² of pieces, and what they really take as they are laid out"
    else:
        taken, why = net / (1 - terms.waste), f"{net:.3f} m² of pieces, and {terms.waste:.0%} of the hide lost"
    price = each.sort.price if each.sort and each.sort.price > 0 else None
    return Item(each.said, taken, "m²", price, why)
