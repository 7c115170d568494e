"""A book of the demo's shop."""

from __future__ import annotations

from pathlib import Path

import pytest

from tailor.files.shop_book.book import Book
from tests.shops import SHOP


@pytest.fixture
def book(tmp_path: Path) -> Book:
    made = Book.open(tmp_path / "shop.tailorshop")
    made.lay_in("the demo", SHOP)
    return made
