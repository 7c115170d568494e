"""Stock: what there is on the shelves of a shop, leather apart, and what it costs."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from tailor.core import incoming
from tailor.core.errors import InputError

MOST = 1e6  # of one article, or for one
NEAR = 0.26  # mm that foam, board or a lining may be off the thickness that is drafted
POST = 0.05  # mm that a post may be off


class Kind(StrEnum):
    """What an article is, and so what it is counted in."""

    HARDWARE = "hardware"
    THREAD = "thread"
    GLUE = "glue"
    FOAM = "foam"
    BOARD = "board"
    WEBBING = "webbing"
    CARD = "card"
    OTHER = "other"


UNITS = {
    Kind.HARDWARE: "pieces", Kind.THREAD: "m", Kind.GLUE: "ml", Kind.FOAM: "m²", Kind.BOARD: "m²",
    Kind.WEBBING: "m²", Kind.CARD: "m²", Kind.OTHER: "pieces",
}  # fmt: skip
WHOLE = (Kind.HARDWARE, Kind.OTHER)  # bought in whole numbers
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
class Need:
    """So much of something, in the unit of its kind. why: what for."""

    kind: Kind
    name: str
    size: float
    amount: float
    why: str

    @property
    def unit(self) -> str:
        return UNITS[self.kind]

    @property
    def said(self) -> str:
        """What it is, in words."""
        sizes = {Kind.HARDWARE: f", post {self.size:g}", Kind.GLUE: "", Kind.OTHER: ""}
        return self.name + (sizes.get(self.kind, f" {self.size:g} mm") if self.size else "")

    @property
    def amounting(self) -> str:
        """How much, in words."""
        return f"{self.amount:.0f}" if self.kind in WHOLE else f"{self.amount:.3g} {self.unit}"


def together(needs: Iterable[Need]) -> tuple[Need, ...]:
    """Needs of the same thing as one, by kind, name and size."""
    found = dict[tuple[Kind, str, float], Need]()
    for need in needs:
        same = need.kind, need.name, round(need.size, 2)
        before = found.get(same)
        why = need.why if before is None or need.why in before.why.split(", ") else f"{before.why}, {need.why}"
        found[same] = Need(*same, need.amount + (before.amount if before else 0.0), why)
    return tuple(found[key] for key in sorted(found))


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
