"""The shop book: there and back, undone and done again, by several benches, killed at any instant, older and newer."""

from __future__ import annotations

import csv
import json
import sqlite3
import subprocess
import sys
from contextlib import closing
from dataclasses import replace
from datetime import date, datetime, timedelta
from pathlib import Path

import pytest
import sqlalchemy as sa
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext

from tailor import demo
from tailor.cli import main
from tailor.core.bench.supplies import Kind
from tailor.core.errors import DiskError, InputError
from tailor.core.log.case import Fit, When
from tailor.core.log.entry import Entry, Feels, Look, Mark, Picture, Place, Traced, cases
from tailor.core.log.logged import found
from tailor.core.shop.orders import Order, State
from tailor.core.shop.progress import Stretch, Worked
from tailor.core.shop.shop import Shop
from tailor.core.shop.stock import Article, Used
from tailor.core.shop.workload import steps_of
from tailor.demo.log import log
from tailor.demo.shop import shop as of_the_demo
from tailor.files.shop_book import exchange, opened, rows, schema
from tailor.files.shop_book.book import Book

SHOP = of_the_demo(date(2026, 5, 4))


def same(one: Shop, other: Shop) -> bool:
    """Whether two shops hold the same, in whatever order."""
    held = [{table: sorted(map(str, found)) for table, found in rows.all_rows(shop).items()} for shop in (one, other)]
    return held[0] == held[1]


@pytest.fixture
def book(tmp_path: Path) -> Book:
    made = Book.open(tmp_path / "shop.tailorshop")
    made.lay_in("the demo", SHOP)
    return made


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


def test_what_was_worked_is_kept_and_of_two_benches_the_second_is_told(book: Book) -> None:
    at = datetime(2026, 5, 4, 18, 0)
    new = Worked("kit-2/0/0/mark", "kit-2", "Whetstone", "mark out the pieces", "", 12.0, "the maker")
    running = new.begun(at)
    book.put("begun", (None, running))
    other = Book.open(book.path)
    assert running in other.shop().worked
    other.put("done", (running, running.finished(at + timedelta(minutes=9), used=[Used("thread08", 2.5)])))
    with pytest.raises(InputError, match="changed by another bench"):
        book.put("paused", (running, running.paused(at + timedelta(minutes=3))))
    (kept,) = [one for one in book.shop().worked if one.id == new.id]
    assert kept.used == book.shop().used("kit-2")[-1:] == (Used("thread08", 2.5),)
    assert (kept.done, kept.minutes(at), kept.stretches) == (True, 9.0, (Stretch(at, at + timedelta(minutes=9)),))
    assert book.undo() == "done"
    assert running in book.shop().worked
    book.put("drop the order", (book.shop().order("kit-2"), None))
    assert running in book.shop().worked  # what was done stays, whatever becomes of its order


@pytest.mark.parametrize(
    ("field", "value", "said"),
    [
        ("stretches", "[[1, 2]]", "stretches"),
        ("stretches", '[["2026-05-04T18:00:00+02:00", null]]', "stretches"),
        ("planned", "long", "planned"),
        ("took", -4.0, "-4 minutes cannot be"),
        ("took", 1e9, "minutes cannot be"),
    ],
)
def test_work_that_cannot_have_been_is_told_by_its_row(field: str, value: object, said: str) -> None:
    plain = rows.all_rows(SHOP)
    plain["worked"][2] = {**plain["worked"][2], field: value}
    with pytest.raises(InputError, match=said) as told:
        rows.shop_of(plain, "shop.json")
    assert "worked, row 3" in told.value.where


def test_lines_of_older_books_keep_what_they_were_called_by(book: Book) -> None:
    """A line is known by its mark, so that what was done of it stays its own when another line goes."""
    order = book.shop().order("kit-1")
    assert [line.mark for line in order.lines] == ["0", "1", "2"]
    book.put("without the shears", (order, order.with_count(order.lines[1].job, 0)))
    less = book.shop().order("kit-1")
    assert [(line.mark, line.job.name) for line in less.lines] == [("0", "Eaves blade"), ("2", "Two-way radio")]
    assert {one.id.split("/")[1] for one in book.shop().worked} == {"0", "2"}
    with closing(sqlite3.connect(book.path)) as own:
        found = own.execute("SELECT id, nth FROM lines WHERE \"order\" = 'kit-1' ORDER BY nth").fetchall()
    assert found == [("kit-1/0", 0), ("kit-1/2", 1)]


def test_orders_are_planned_on_from_what_was_done(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.chdir(tmp_path)
    tray = demo.job("peg-tray")
    order = Order("trays", "Trays", promised=date(2026, 5, 8)).with_job(tray)
    steps = steps_of(tray, SHOP.rates, SHOP.school)
    done = [Worked(f"trays/0/0/{doing.key}", "trays", tray.name, doing.name, doing.family, doing.minutes).finished(
        datetime(2026, 5, 4, 18, 0)) for doing in steps.doings]  # fmt: skip
    made = Book.open(tmp_path / "s.tailorshop")
    made.lay_in("", replace(SHOP, orders=(order,), worked=tuple(done[:2])))
    when = ["--book", "s.tailorshop", "--orders", "--now", "2026-05-04T19:00", "--plans", "2", "-o", "plan.json"]
    assert main(["plan", *when, "--cards", "steps.csv"]) == 0
    assert "mark out" not in capsys.readouterr().out
    table = list(csv.DictReader((tmp_path / "steps.csv").read_text().splitlines()))
    assert [row["stands"] for row in table] == ["done"] * 2 + ["to do"] * (len(done) - 2)
    for wrong in (["plan", *when, "--cards", "cards.odt"], ["plan", *when[:-1], "nowhere/plan.json"]):
        assert main(wrong) in (2, 3)
        assert capsys.readouterr().err.count("\n") == 1
    for one in done[2:]:
        made.put("", (None, one))
    assert main(["plan", *when]) == 2
    assert "every step of it is done" in capsys.readouterr().err


# The log

FOLD = {
    "what": "fold",
    "drafted": 9,
    "value": 8,
    "constant": "leather.fold_radius",
    "used": 0.5,
    "per": 0.1,
    "noise": 0.3,
}


def whole_entry() -> Entry:
    """An entry with something of everything in it."""
    one = next(entry for entry in log(date(2026, 5, 4)) if entry.looks and entry.measured)
    one = (
        one.felt(Place.LOOP, Fit.LOOSE, When.WEEK)
        .feeling(Feels.DRAWS, True)
        .looked(Look.GLUE, Mark.POOR, 'ʻodd’; "word"')
    )
    traced = Traced("body", ((0.0, 0.0), (10.125, 0.0), (10.0, 20.5)), True)
    pictures = (Picture("a" * 24 + ".png", date(2026, 5, 3)),)
    return replace(one.with_traced(traced), hide="side", line="kit-1/0/0", pictures=pictures, next_time="two\nlines")


def by_id(entries: tuple[Entry, ...]) -> dict[str, Entry]:
    return {entry.id: entry for entry in entries}


def test_the_log_is_kept_found_learned_from_and_undone(book: Book) -> None:
    entries = log(date(2026, 5, 4))
    book.lay_in("the log", SHOP, entries)
    new = whole_entry()
    new = replace(new, id="new")
    book.put("written up", (None, new))
    assert book.log("new") == (new,)
    assert by_id(book.log()) == by_id((*entries, new))
    shop = book.shop()
    assert len(shop.logged) == 15
    mine = next(one for one in shop.logged if one.id == "new")
    assert new.fit is not None
    assert (mine.fit, mine.line, mine.picture) == (new.fit.value, "kit-1/0/0", "a" * 24 + ".png")
    assert [one.id for one in found(shop.logged, "odd word")] == ["new"]
    readings, said = book.lessons()
    ours, fits = cases((*entries, new))
    assert sorted(map(str, readings)) == sorted(map(str, ours))
    assert sorted(map(str, said)) == sorted(map(str, fits))
    changed = new.came_out(replace(new.measured[0], value=new.measured[0].of.drafted))
    book.put("measured again", (new, changed))
    with pytest.raises(InputError, match="changed by another bench"):
        book.put("by a bench that is late", (new, replace(new, next_time="late")))
    assert book.log("new") == (changed,)
    book.undo()
    assert book.log("new") == (new,)
    book.undo()
    assert book.log("new") == ()
    book.redo()
    assert book.log("new") == (new,)


def test_the_log_is_written_out_with_the_shop_and_nothing_of_it_is_lost(book: Book, tmp_path: Path) -> None:
    entries = (*log(date(2026, 5, 4)), replace(whole_entry(), id="new"))
    book.lay_in("all", SHOP, entries)
    exchange.write(book.shop(), tmp_path / "out", book.log())
    shop, back = exchange.read(tmp_path / "out")
    assert same(shop, SHOP)
    assert by_id(back) == by_id(entries)
    (tmp_path / "out" / exchange.WHOLE).unlink()
    assert by_id(exchange.read(tmp_path / "out")[1]) == by_id(entries)  # of the tables alone
    other = Book.open(tmp_path / "other.tailorshop")
    other.lay_in("another bench", shop, back)
    assert by_id(other.log()) == by_id(entries)


@pytest.mark.parametrize(
    ("column", "value", "said"),
    [
        ("told", "{", "told"),
        ("told", '{"fits": [{"place": "elbow", "fit": "right", "when": "new"}]}', "told.fits.0.place"),
        ("told", '{"took": [{"rate": "rate.hole", "usual": 0, "minutes": 3}]}', "told.took.0.usual"),
        ("told", json.dumps({"measured": [FOLD | {"value": 900}]}), "slip of the hand"),
        ("told", json.dumps({"measured": [FOLD | {"constant": "leather.colour"}]}), "told.measured.0.constant"),
        ("job", "{}", "not a Tailor job"),
        ("made_on", "some day", "made_on"),
    ],
)
def test_an_entry_that_cannot_be_read_is_one_sentence(column: str, value: str, said: str) -> None:
    whole = rows.all_rows(SHOP, (whole_entry(),))
    whole["entries"] = [{**whole["entries"][0], column: value}]
    with pytest.raises(InputError) as error:
        rows.log_of(whole, "shop.json")
    assert "shop.json, entries" in str(error.value)
    assert said in str(error.value)
    assert str(error.value).count("\n") == 0
