"""What the reckoning process is asked, and what it answers: values that load nothing slow."""

from __future__ import annotations

from dataclasses import dataclass

from tailor.core.maker import Maker
from tailor.core.shop.quote import Quote
from tailor.core.shop.shop import Shop
from tailor.core.shop.stock import Want


@dataclass(frozen=True)
class Reckon:
    """What the orders of a shop cost, and what all that are still to be made need."""

    shop: Shop
    maker: Maker


@dataclass(frozen=True)
class Reckoned:
    """What an order comes to. wants: what is missing of each thing it needs, or of all orders, where it is for none.

    said: why it cannot be told.
    """

    order: str
    quote: Quote | None = None
    wants: tuple[Want, ...] = ()
    said: str = ""
