"""Kills at random instants: python -m tests.hostile.kills DEED COUNT SEED FOLDER.

A child does its deed over and over and says after each how far it is; it is killed, and what lies on the disk is looked
at: nothing that was said to be done is lost, nothing is half there, and after a sweep nothing is left over.
"""

from __future__ import annotations

import contextlib
import json
import os
import random
import signal
import sqlite3
import sys
import time
from collections.abc import Callable, Mapping
from dataclasses import replace
from hashlib import sha256
from pathlib import Path

from tailor import demo
from tailor.core.bench.supplies import Kind
from tailor.core.job import Job
from tailor.core.shop.orders import Line, Order
from tailor.core.shop.stock import Article
from tailor.desk import keeping
from tailor.files import atomic, job_file, pattern
from tailor.files.shop_book.book import Book
from tailor.files.shop_book.opened import backups

LONGEST = 0.12  # s until the plug is pulled, at the least


def numbered(n: int) -> Job:
    return replace(demo.job(), name=f"job {n}")


def number(job: Job) -> int:
    return int(job.name.split()[1])


class Saves:
    """A job is saved again and again."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / "mine.tailor"
        job_file.save(numbered(0), self.path)

    def do(self, n: int) -> None:
        job_file.save(numbered(n), self.path)

    def see(self, done: int) -> None:
        found = number(job_file.load(self.path))
        assert found in (done, done + 1)
        if found > 0 and atomic.previous(self.path).exists():
            assert number(job_file.load(atomic.previous(self.path))) in (found - 1, found)
        atomic.sweep(self.path.parent)
        assert {p.name for p in self.path.parent.iterdir()} <= {"mine.tailor", "mine.tailor~"}


class Keeps:
    """A window keeps its work, or takes up what another kept, and throws that away."""

    def __init__(self, folder: Path) -> None:
        os.environ["XDG_STATE_HOME"] = str(folder)
        self.place = keeping.Place()

    def do(self, n: int) -> None:
        older = keeping.unsaved()
        place = self.place if n % 2 else keeping.Place()
        place.keep(numbered(n), None)
        for held in older:
            keeping.discard(held)
        if place is not self.place:
            place.let_go()

    def see(self, done: int) -> None:
        found = [number(held.job) for held in keeping.unsaved()]
        assert max(found, default=0) in (done, done + 1)
        left = {p.suffix for p in keeping.folder().iterdir()}
        assert left <= {".json", ".lock"}
        self.place = keeping.Place()


class Patterns:
    """Patterns of two jobs are written into one folder by turns."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder / "out"
        self.jobs = [demo.job("eaves-blade"), demo.job("delivery-notes")]
        made = {job.name: dict(pattern.made(job, "a4")) for job in self.jobs}
        self.hashes = [{n: sha256(c).hexdigest() for n, c in made[job.name].items()} for job in self.jobs]
        pattern.made = lambda job, paper, printer=None: made[job.name]

    def do(self, n: int) -> None:
        pattern.write(self.jobs[n % 2], self.folder)

    def see(self, done: int) -> None:
        if not self.folder.exists():
            return
        atomic.sweep(self.folder)
        there = {p.name: sha256(p.read_bytes()).hexdigest() for p in self.folder.iterdir()}
        assert any(there.items() <= of_one.items() for of_one in self.hashes), "files of two jobs"
        if pattern.REPORT in there:
            listed: Mapping[str, str] = json.loads((self.folder / pattern.REPORT).read_text())["files"]
            assert listed == {name: said for name, said in there.items() if name != pattern.REPORT}


class Shops:
    """Things are moved from one shelf of the shop to another, an order is filled, and now and then that is undone."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / "shop.tailorshop"
        first = [Article(id_, Kind.OTHER, id_, 0, 500_000) for id_ in ("one", "other")]
        with contextlib.closing(Book.open(self.path)) as book:
            book.put("begin", *((None, article) for article in first), (None, Order("order", "0")))

    def do(self, n: int) -> None:
        with contextlib.closing(Book.open(self.path)) as book:
            shop = book.shop()
            one, other = sorted(shop.stock, key=lambda article: article.id)
            moved = (one, replace(one, there=one.there + 1)), (other, replace(other, there=other.there - 1))
            order = replace(shop.order("order"), name=str(n), lines=(Line(numbered(n)),))
            book.put("move", *moved, (shop.order("order"), order))
            if n % 3 == 0:
                book.undo()
                book.redo()

    def see(self, done: int) -> None:
        with contextlib.closing(Book.open(self.path)) as book:
            shop = book.shop()
        assert sum(article.there for article in shop.stock) == 1_000_000
        order = shop.order("order")
        assert int(order.name) in (done - 1, done, done + 1)  # one that was just being undone
        assert [number(line.job) for line in order.lines] == [int(order.name)] * len(order.lines)
        with contextlib.closing(sqlite3.connect(self.path)) as own:
            assert own.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        assert {p.suffix for p in backups(self.path).iterdir()} <= {".tailorshop", ".part"}


Deed = Saves | Keeps | Patterns | Shops
DEEDS: Mapping[str, Callable[[Path], Deed]] = {"save": Saves, "keep": Keeps, "pattern": Patterns, "shop": Shops}


def pulled(deed: Deed, first: int, after: float | None) -> int:
    """Do a deed in a child from number `first` on, kill it after so many s, and give the number it had come to.

    after: None to let it do one, however long that takes.
    """
    ours, theirs = os.pipe()
    child = os.fork()
    if child == 0:
        with contextlib.suppress(BaseException):
            for n in range(first, first + 100_000):
                deed.do(n)
                os.write(theirs, f"{n}\n".encode())
        os._exit(1)
    os.close(theirs)
    if after is None:
        os.read(ours, 1)
        first += 1  # what is left to read has lost its first letter
    else:
        time.sleep(after)
    os.kill(child, signal.SIGKILL)
    _, status = os.waitpid(child, 0)
    assert os.WIFSIGNALED(status), "the deed itself failed"
    with open(ours, encoding="utf-8") as said:
        return int((said.read().split() or [first - 1])[-1])


def main(name: str, count: str, seed: str, folder: str) -> None:
    rng, deed = random.Random(int(seed)), DEEDS[name](Path(folder))
    done = pulled(deed, 1, None)  # the first is slow, where nothing was compiled yet
    first, begun = done, time.monotonic()
    done = pulled(deed, done + 1, None)
    spent = time.monotonic() - begun
    for _ in range(int(count)):
        # On a slow disk, or one that has become slow, a deed takes longer: it is killed within three of them.
        after = rng.uniform(0.001, max(LONGEST, 3 * spent / max(done - first, 1)))
        done = pulled(deed, done + 1, after)
        spent += after
        deed.see(done)
    print(f"{name}: {count} kills, {done} done")


if __name__ == "__main__":
    main(*sys.argv[1:])
