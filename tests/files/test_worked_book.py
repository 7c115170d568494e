"""What was worked and the log, in the shop book: kept, told from another bench's, written out and read again."""

from __future__ import annotations

import csv
import json
import sqlite3
from contextlib import closing
from dataclasses import replace
from datetime import date, datetime, timedelta
from pathlib import Path

import pytest

from tailor import demo
from tailor.cli import main
from tailor.core.errors import InputError
from tailor.core.log.case import Fit, When
from tailor.core.log.entry import Entry, Feels, Look, Mark, Picture, Place, Traced, cases
from tailor.core.log.logged import found
from tailor.core.shop.orders import Order
from tailor.core.shop.progress import Stretch, Worked
from tailor.core.shop.stock import Used
from tailor.core.shop.workload import steps_of
from tailor.demo.log import log
from tailor.files.shop_book import exchange, rows
from tailor.files.shop_book.book import Book
from tests.shops import SHOP, same


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
