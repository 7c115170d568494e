"""Stock: what there is on the shelves of a shop, leather apart, and what it costs."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

from tailor.core import incoming
from tailor.core.bench.supplies import UNITS, Kind, Need, together
from tailor.core.errors import InputError

MOST = 1e6  # of one article, or for one
NEAR = 0.26  # mm that foam, board or a lining may be off the thickness that is drafted
POST = 0.05  # mm that a post may be off


BY_SIZE = (Kind.THREAD, Kind.FOAM, Kind.BOARD, Kind.WEBBING, Kind.CARD)  # found by how thick it is, whatever its name


@dataclass(frozen=True)
class Article:
    """Something that is used up. size: mm, of a post, or how thick it is; 0 where that says nothing. there: how much
    there is, and price: of one, both in the unit of its kind.
    """

    id: str
    kind: Kind
    name: str
    size: float = 0.0
    there: float = 0.0
    price: float = 0.0

    def __post_init__(self) -> None:
        incoming.named(self.name, "name of an article")
        for said, number in (("size", self.size), ("there", self.there), ("price", self.price)):
            if not 0 <= number <= MOST:
                raise InputError(f"{number:g} cannot be", f"{self.name}, {said}", f"give 0 to {MOST:.0f}")

    @property
    def unit(self) -> str:
        return UNITS[self.kind]

    def serves(self, need: Need) -> bool:
        """Whether it is what is needed: of its name and post, or as thick."""
        if self.kind is not need.kind:
            return False
        if self.kind in BY_SIZE:
            return abs(self.size - need.size) <= (POST if self.kind is Kind.THREAD else NEAR)
        return self.kind is Kind.GLUE or (self.name == need.name and abs(self.size - need.size) <= POST)


@dataclass(frozen=True)
class Want:
    """A need against what there is. there: of what serves it. buy: what is missing."""

    need: Need
    there: float
    articles: tuple[Article, ...]

    @property
    def buy(self) -> float:
        return max(self.need.amount - self.there, 0.0)

    @property
    def missing(self) -> Need:
        """What is missing, as a need of its own."""
        return replace(self.need, amount=self.buy)

    @property
    def price(self) -> float | None:
        """Of one, of what is cheapest of what serves; None where nothing does that has a price."""
        prices = [article.price for article in self.articles if article.price > 0]
        return min(prices) if prices else None


def against(needs: Iterable[Need], stock: Sequence[Article]) -> tuple[Want, ...]:
    """What is needed, each against the stock of it."""
    wants = []
    for need in together(needs):
        serving = tuple(article for article in stock if article.serves(need))
        wants.append(Want(need, sum(article.there for article in serving), serving))
    return tuple(wants)


def shopping(wants: Iterable[Want]) -> tuple[Want, ...]:
    """What must be bought."""
    return tuple(want for want in wants if want.buy > 1e-9)


class Used(NamedTuple):
    """So much of an article, by its id, that was used."""

    article: str
    amount: float


def amounts(taken: Iterable[tuple[Article, Article]]) -> tuple[Used, ...]:
    """How much of each article was taken, as it was and as it is."""
    return tuple(Used(was.id, was.there - now.there) for was, now in taken)


def used_up(wants: Iterable[Want]) -> tuple[tuple[Article, Article], ...]:
    """Articles as they are and as they are once the needs are met, no less than none of any; those that change."""
    were, left = dict[str, Article](), dict[str, Article]()
    for want in wants:
        amount = want.need.amount
        for found in want.articles:
            article = left.get(found.id, found)
            taken = min(amount, article.there)
            if taken > 0:
                amount -= taken
                were.setdefault(found.id, found)
                left[found.id] = replace(article, there=article.there - taken)
    return tuple((were[id_], article) for id_, article in left.items())
