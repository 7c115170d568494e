"""The shop book: there and back, undone and done again, by several benches, killed at any instant, older and newer."""

from __future__ import annotations

import json
import sqlite3
import subprocess
import sys
from contextlib import closing
from dataclasses import replace
from pathlib import Path

import pytest
import sqlalchemy as sa
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext

from tailor.cli import main
from tailor.core.bench.supplies import Kind
from tailor.core.errors import DiskError, InputError
from tailor.core.shop.orders import State
from tailor.core.shop.shop import Shop
from tailor.core.shop.stock import Article
from tailor.files.shop_book import exchange, opened, rows, schema
from tailor.files.shop_book.book import Book
from tests.shops import SHOP, same


def test_nothing_is_lost_in_the_book_or_on_the_way_out_and_in(book: Book, tmp_path: Path) -> None:
    assert same(book.shop(), SHOP)
    hard = replace(
        SHOP,
        stock=(Article("odd; \"one\"", Kind.OTHER, 'a, "b"; ʻc’ =1+1', 1 / 3, 1e-9, 123456.789), *SHOP.stock),
        orders=(replace(SHOP.orders[0], note="two\nlines, and a ;", promised=None, state=State.GONE), *SHOP.orders[1:]),
    )  # fmt: skip
    book.lay_in("something odd", hard)
    exchange.write(book.shop(), tmp_path / "out")
    assert same(exchange.read(tmp_path / "out")[0], hard)
    (tmp_path / "out" / exchange.WHOLE).unlink()
    assert same(exchange.read(tmp_path / "out")[0], hard)  # of the tables alone
    jobs = [line.job for order in hard.orders for line in order.lines]
    assert sorted((line.job for order in book.shop().orders for line in order.lines), key=lambda j: j.name) == sorted(
        jobs, key=lambda j: j.name
    )


def test_changes_are_undone_and_done_again_in_their_order(book: Book) -> None:
    before = book.shop()
    article, order = before.stock[0], SHOP.orders[0]
    book.put("count rivets", (article, replace(article, there=article.there + 5)))
    book.put("hand over", (order, replace(order, state=State.GONE, lines=order.lines[:1])))
    after = book.shop()
    assert book.steps() == ("hand over", "")
    assert [book.undo(), book.undo(), book.steps()] == ["hand over", "count rivets", ("the demo", "count rivets")]
    assert same(book.shop(), before)
    assert [book.redo(), book.redo(), book.redo()] == ["count rivets", "hand over", ""]
    assert same(book.shop(), after)
    book.undo()
    book.put("another", (None, Article("new", Kind.OTHER, "wax")))
    assert book.steps() == ("another", "")  # what was undone before it is gone for good
    while book.undo():
        pass
    assert same(book.shop(), Shop())


def test_a_hide_with_too_many_holes_is_told_and_not_half_kept(book: Book) -> None:
    skin = SHOP.skins[0]
    holes = tuple(skin.hide.forbidden[0] + [0.0, n / 10] for n in range(501))
    with pytest.raises(InputError, match="more holes"):
        book.put("cut", (skin, replace(skin, hide=replace(skin.hide, forbidden=holes))))
    assert same(book.shop(), SHOP)


@pytest.mark.parametrize("where", ["tannage", "colour", "note"])
def test_what_is_too_long_to_be_kept_is_told_and_not_half_kept(book: Book, where: str) -> None:
    before = book.shop()
    article, sort = before.stock[0], before.sorts[0]
    wrong = replace(sort, **{where: "9" * 3000})
    with pytest.raises(InputError, match="nothing was changed") as told:
        book.put("both", (article, replace(article, there=7)), (sort, wrong))
    assert told.value.where == where
    assert same(book.shop(), before)


def test_how_a_new_shop_reckons_is_as_usual_until_it_is_said(tmp_path: Path) -> None:
    book = Book.open(tmp_path / "new.tailorshop")
    usual = book.shop().terms
    book.put("an hour", (usual, replace(usual, hour=40.0)))
    book.put("a margin", (replace(usual, hour=40.0), replace(usual, hour=40.0, margin=0.3)))
    assert (book.shop().terms.hour, book.shop().terms.margin) == (40.0, 0.3)
    with pytest.raises(InputError, match="another bench"):
        book.put("an hour", (usual, replace(usual, hour=50.0)))
    book.undo()
    book.undo()
    assert book.shop().terms == usual


def test_what_another_bench_changed_is_not_written_over(book: Book) -> None:
    other = Book.open(book.path)
    article = book.shop().stock[0]
    stamp = other.stamp()
    book.put("count", (article, replace(article, there=1)))
    assert other.stamp() != stamp
    with pytest.raises(InputError, match="changed by another bench"):
        other.put("count", (article, replace(article, there=9)), (None, Article("n", Kind.OTHER, "wax")))
    assert "n" not in {each.id for each in other.shop().stock}  # all of a change, or none
    other.put("count", (replace(article, there=1), replace(article, there=9)))
    assert [book.undo(), {a.id: a.there for a in book.shop().stock}[article.id]] == ["count", 1]
    sort = SHOP.sorts[0]
    with pytest.raises(DiskError):
        book.put("a leather of which there are hides", (sort, None))
    assert same(book.shop(), replace(SHOP, stock=(replace(article, there=1), *[
        each for each in SHOP.stock if each.id != article.id])))  # fmt: skip


def test_a_bench_that_comes_second_waits_or_is_told(book: Book, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(opened, "PATIENCE", 0.05)
    with closing(sqlite3.connect(book.path, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        with pytest.raises(DiskError, match="another bench is writing"):
            book.put("count", (None, Article("n", Kind.OTHER, "wax")))
        other.execute("COMMIT")
    book.put("count", (None, Article("n", Kind.OTHER, "wax")))


def test_copies_are_kept_of_the_last_few_states_and_open_by_themselves(book: Book) -> None:
    for n in range(opened.KEPT + 3):
        book.put("count", (None, Article(f"n{n}", Kind.OTHER, "wax")))
        book.close()
        book = Book.open(book.path)
        Book.open(book.path).close()  # nothing has changed: nothing new is kept
    kept = sorted(opened.backups(book.path).iterdir())
    assert len(kept) == opened.KEPT
    assert same(Book.open(kept[-1]).shop(), book.shop())
    assert len(Book.open(kept[0]).shop().stock) == len(SHOP.stock) + 4


def test_with_no_room_on_the_disk_nothing_is_half_done(book: Book, tmp_path: Path) -> None:
    child = """
import resource, signal, sys
from pathlib import Path
from tailor.core.errors import DiskError
from tailor.core.bench.supplies import Kind
from tailor.core.shop.stock import Article
from tailor.files.shop_book.book import Book
signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
book = Book.open(Path(sys.argv[1]))
resource.setrlimit(resource.RLIMIT_FSIZE, (200_000, 200_000))
for n in range(2000):
    try:
        one, two = Article(f"one-{n}", Kind.OTHER, "x" * 100), Article(f"two-{n}", Kind.OTHER, "y")
        book.put("more", (None, one), (None, two))
    except DiskError as error:
        print(n, error)
        break
"""
    done = subprocess.run([sys.executable, "-c", child, str(book.path)], capture_output=True, text=True, check=True)
    n = int(done.stdout.split()[0])
    stock = {article.id for article in Book.open(book.path).shop().stock}
    assert 0 < n < 1999
    assert {f"one-{n - 1}", f"two-{n - 1}"} <= stock
    assert not {f"one-{n}", f"two-{n}"} & stock


def at_version(path: Path, version: str) -> sa.Engine:
    """A book as an older version left it."""
    engine = opened.reached(path)
    config = opened._config()
    with engine.connect().execution_options(writing=True) as connection, connection.begin():
        config.attributes["connection"] = connection
        command.upgrade(config, version)
        connection.exec_driver_sql("PRAGMA user_version = 7")
        connection.exec_driver_sql("INSERT INTO stock VALUES ('w', 'other', 'wax', 0, 3, 1.5)")
    return engine


def test_an_older_book_is_brought_up_and_kept_as_it_was(tmp_path: Path) -> None:
    path = tmp_path / "old.tailorshop"
    engine = at_version(path, "1")
    book = Book.open(path)
    assert [article.name for article in book.shop().stock] == ["wax"]
    with engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": True})
        assert compare_metadata(context, schema.METADATA) == []  # what the moves lead to is what is worked with
    older = min(opened.backups(path).iterdir())
    with closing(sqlite3.connect(older)) as own:
        assert own.execute("SELECT version_num FROM alembic_version").fetchone() == ("1",)
        assert own.execute("SELECT name FROM stock").fetchall() == [("wax",)]


def test_a_newer_book_is_read_and_left_alone(book: Book) -> None:
    with closing(sqlite3.connect(book.path)) as own:
        own.execute("UPDATE alembic_version SET version_num = '99'")
        own.execute("ALTER TABLE stock ADD COLUMN shelf TEXT")
        own.commit()
        own.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    was = book.path.read_bytes()
    newer = Book.open(book.path)
    assert "newer Tailor" in newer.read_only
    assert same(newer.shop(), SHOP)
    with pytest.raises(DiskError, match="newer Tailor"):
        newer.put("count", (None, Article("n", Kind.OTHER, "wax")))
    assert book.path.read_bytes() == was


def test_what_is_no_book_is_told(tmp_path: Path, book: Book, capsys: pytest.CaptureFixture[str]) -> None:
    text = tmp_path / "notes.tailorshop"
    text.write_text("rivets, thread\n" * 200)
    with closing(sqlite3.connect(tmp_path / "other.db")) as own:
        own.execute("CREATE TABLE songs (name)")
    torn = tmp_path / "torn.tailorshop"
    torn.write_bytes(book.path.read_bytes()[:6000] + b"\0" * 3000)
    for path in (text, tmp_path / "other.db", torn, tmp_path):
        said = path.read_bytes() if path.is_file() else b""
        assert main(["shop", "--book", str(path), "show"]) in (2, 3)
        told = capsys.readouterr().err
        assert told.count("\n") == 1
        assert "fault" not in told
        assert (path.read_bytes() if path.is_file() else b"") == said


@pytest.mark.parametrize(
    ("table", "change", "said"),
    [
        ("stock", {"there": -1}, "cannot be"),
        ("stock", {"kind": "cheese"}, "kind"),
        ("sorts", {"thickness": "thick"}, "thickness"),
        ("skins", {"sort": "none"}, "is not there"),
        ("skins", {"hide": "{"}, "skins, row 1"),
        ("orders", {"wanted": "soon"}, "wanted"),
        ("lines", {"order": "none"}, "no order"),
        ("lines", {"job": "{}"}, "not a Tailor job"),
        ("settings", {"id": "terms.hour", "value": "much"}, "no number"),
    ],
)
def test_a_row_that_cannot_be_used_is_named(table: str, change: dict, said: str) -> None:
    found = rows.all_rows(SHOP)
    found[table][0] |= change
    with pytest.raises(InputError, match=said):
        rows.shop_of(found, "here")


def test_the_commands_take_orders_and_say_what_is_missing(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    place = ["--book", str(tmp_path / "s.tailorshop")]
    assert main(["demo-data", str(tmp_path / "demo")]) == 0
    assert main(["shop", *place, "import", "--demo"]) == 0
    tray = str(tmp_path / "demo" / "peg-tray.tailor")
    assert main(["shop", *place, "order", "Trays", f"{tray}=4", "--for", "the crew", "--wanted", "2026-08-01"]) == 0
    capsys.readouterr()
    assert main(["needs", *place, "--order", "Trays", "--csv", str(tmp_path / "buy.csv")]) == 0
    assert "16 of rapid rivet 9, post 7 (for Peg tray)\n" in capsys.readouterr().out
    assert main(["needs", *place, "--orders", "--csv", str(tmp_path / "buy.csv")]) == 0
    assert "rapid rivet 9, post 9" in (tmp_path / "buy.csv").read_text()
    for suffix in ("pdf", "csv", "json"):
        assert main(["quote", *place, "--order", "Trays", "-o", str(tmp_path / f"q.{suffix}")]) == 0
    assert (tmp_path / "q.pdf").read_bytes().startswith(b"%PDF")
    capsys.readouterr()
    assert main(["lay", *place, "--order", "Trays", "-o", str(tmp_path / "laid"), "--steps", "200", "--cut"]) == 0
    assert (tmp_path / "laid" / "layout.pdf").exists()
    lying = {skin.id: skin.area for skin in Book.open(tmp_path / "s.tailorshop").shop().skins}
    assert lying["shoulder"] < SHOP.skins[1].area
    capsys.readouterr()
    assert main(["shop", *place, "undo"]) == 0
    assert "undone: cut for Trays" in capsys.readouterr().out
    rivets = next(a for a in Book.open(tmp_path / "s.tailorshop").shop().stock if a.id == "rr9-7").there
    assert main(["shop", *place, "order", "Trays", "--state", "ready"]) == 0
    assert next(a for a in Book.open(tmp_path / "s.tailorshop").shop().stock if a.id == "rr9-7").there == rivets - 16
    assert main(["shop", *place, "undo"]) == 0
    calendar, plan = str(tmp_path / "trays.ics"), str(tmp_path / "plan.json")
    when = ["--now", "2026-07-01T12:00", "--plans", "3", "-o", plan]
    assert main(["shop", *place, "hand", "me", "--hours", "Mon-Fri 8-12", "--off", "2026-07-02"]) == 0
    assert main(["shop", *place, "hand", "the maker", "--gone"]) == 0
    capsys.readouterr()
    assert main(["plan", *place, "--order", "Trays", "--ics", calendar, *when]) == 0
    told = capsys.readouterr().out
    assert "Friday, 03 July\n  08:00 to 08:06  me: mark out the pieces (Peg tray " in told
    assert "Thursday, 02 July" not in told
    assert "Trays: ready " in told
    assert Path(calendar).read_bytes().startswith(b"BEGIN:VCALENDAR")
    found = json.loads(Path(plan).read_text())
    assert set(found["what"]) == set(found["steps"])
    for wrong in (
        ["plan", *place, "-o", plan], ["plan", *place, "--orders", "--glue", "spit", "-o", plan],
        ["shop", *place, "hand", "me", "--hours", "always"], ["shop", *place, "hand", "nobody", "--gone"],
        ["quote", *place], ["needs", *place, "--order", "none"], ["quote", *place, "--order", "Trays", "-o", "q.x"],
        ["lay", *place, "--order", "Trays", tray, "-o", "out"], ["lay", *place, tray, "--cut", "-o", "x"],
        ["shop", *place, "order", "Trays", "--state", "lost"], ["shop", *place, "import"],
    ):  # fmt: skip
        assert main(wrong) == 2, wrong
        assert capsys.readouterr().err.count("\n") == 1
