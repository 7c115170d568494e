"""The log: learning from all of it against one solve of the same cases, a search against reading the words through."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import date
from pathlib import Path

import numpy as np

from tailor.core.log.learning import learned
from tailor.core.log.logged import found
from tailor.demo.log import log
from tailor.demo.shop import shop
from tailor.files.shop_book.book import Book

MANY = 2000


def _took(work: Callable[[], object], rounds: int = 5) -> float:
    times = []
    for _ in range(rounds):
        begun = time.perf_counter()
        work()
        times.append(time.perf_counter() - begun)
    return min(times)


def report() -> None:
    """Print how long a log of MANY entries takes to be read, searched and learned from."""
    few = log(date(2026, 5, 4))
    many = [
        replace(few[n % len(few)], id=f"more {n}", made_on=date(2010 + n % 16, 1 + n % 12, 1 + n % 28))
        for n in range(MANY)
    ]
    with tempfile.TemporaryDirectory() as folder:
        book = Book.open(Path(folder) / "shop.tailorshop")
        book.lay_in("many", shop(date(2026, 5, 4)), many)
        logged, (cases, said) = book.shop().logged, book.lessons()
        read = _took(book.shop)
        lessons = _took(book.lessons)
    values = np.array([case.value for case in cases])
    rows = np.random.default_rng(0).random((len(cases), 12))
    floor = _took(lambda: np.linalg.lstsq(rows, values, rcond=None))
    learns = _took(lambda: learned(cases, said), 2)
    words = [one.words for one in logged]
    through = _took(lambda: [n for n, text in enumerate(words) if "radio" in text and "2021-07" in text])
    seeks = _took(lambda: found(logged, "radio 2021-07"))
    print(f"one solve of {len(cases)} cases                  {1e3 * floor:7.1f} ms   floor")
    print(f"  learned from all of them                {1e3 * learns:7.1f} ms   {learns / floor:5.2f} × it")
    print(f"reading the words of {MANY} entries through  {1e3 * through:7.1f} ms   floor")
    print(f"  searched                                {1e3 * seeks:7.1f} ms   {seeks / through:5.2f} × floor")
    print(f"  the book read, and what it teaches      {1e3 * (read + lessons):7.1f} ms   (aim 500 ms)")
