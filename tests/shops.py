"""The demo's shop, and whether two shops hold the same."""

from __future__ import annotations

from datetime import date

from tailor.core.shop.shop import Shop
from tailor.demo.shop import shop as of_the_demo
from tailor.files.shop_book import rows

SHOP = of_the_demo(date(2026, 5, 4))


def same(one: Shop, other: Shop) -> bool:
    """Whether two shops hold the same, in whatever order."""
    held = [{table: sorted(map(str, found)) for table, found in rows.all_rows(shop).items()} for shop in (one, other)]
    return held[0] == held[1]
