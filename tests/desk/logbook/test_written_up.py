"""The log in the window: written up by keys, measured, looked for, learned from; and what is used, and let go."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace
from datetime import date, datetime
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.core.draft.draft import Fitted
from tailor.core.log.case import Fit, When
from tailor.core.log.entry import Feels, Look, Mark, Place
from tailor.core.shop.orders import Order
from tailor.core.shop.progress import Stretch, Worked
from tailor.demo.log import log
from tailor.desk.log_head import Page
from tailor.desk.logbook import Logbook
from tailor.desk.window import Window
from tailor.files import job_file
from tests.desk.hands import Button, Key, typed
from tests.desk.logbook.pages import entry


def test_one_is_written_up_by_keys_and_stays_written(
    shown: Window, book: Logbook, settle: Callable[[], None], qtbot: QtBot
) -> None:
    assert shown.focusWidget() is book
    assert not shown._side.isVisible()
    assert [each.fit for each in entry(book).fits] == [Fit.RIGHT] * 3  # the newest of the demo's own
    assert len(book.mine) == 5
    QTest.keyClick(book, Key.Key_N)
    settle()
    assert (len(book.mine), entry(book).leather, entry(book).fits) == (6, "firm side, 3 mm", ())
    for key in (Key.Key_3, Key.Key_2, Key.Key_2, Key.Key_1):  # from the mouth down
        QTest.keyClick(book, key)
    QTest.keyClick(book, Key.Key_W)
    QTest.keyClick(book, Key.Key_W)
    QTest.keyClick(book, Key.Key_4)
    settle()
    felt = {(each.place, each.when): each.fit for each in entry(book).fits}
    assert felt == {
        (Place.MOUTH, When.NEW): Fit.RIGHT, (Place.THROAT, When.NEW): Fit.TIGHT, (Place.BELLY, When.NEW): Fit.TIGHT,
        (Place.TIP, When.NEW): Fit.STUCK, (Place.LOOP, When.MONTH): Fit.LOOSE,
    }  # fmt: skip
    typed(book.slip.rows["fold"][1], "5/16")  # inches, in one breath with the rest
    typed(book.slip.next, "skive the fold")
    QTest.mouseClick(book.slip.marks[Look.FLOW, Mark.POOR], Button.LeftButton)
    typed(book.slip.words[Look.FLOW], "a bump")
    QTest.mouseClick(book.slip.feels[Feels.RATTLES], Button.LeftButton)
    settle()
    kept = shown.counter._opened().log(entry(book).id)[0]
    assert kept == entry(book)
    assert kept.measured[0].value == pytest.approx(25.4 * 5 / 16)
    assert (kept.next_time, kept.looks[0].word, kept.feels) == ("skive the fold", "a bump", (Feels.RATTLES,))
    assert "bump" in next(one for one in book.mine if one.id == kept.id).words
    QTest.keyClick(shown, Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settle()
    qtbot.waitUntil(lambda: not entry(book).feels)
    assert not book.slip.feels[Feels.RATTLES].isChecked()
    book.setFocus()
    QTest.keyClick(book, Key.Key_Delete)
    settle()
    assert len(book.mine) == 5


def test_places_are_where_they_are_on_the_drawing_and_can_be_pointed_at(shown: Window, book: Logbook) -> None:
    made, drawn = shown.bench.made, book.drawn
    assert isinstance(made, Fitted)
    closed = next(piece for piece in drawn.seen if piece.name == "closed")
    by = made.plan.outline[:, 1].min() - closed.ring[:, 1].min()
    heights = {place: spot[1] + by for place, spot in drawn.spots.items() if place is not Place.LOOP}
    assert (
        made.low < heights[Place.TIP] < heights[Place.BELLY] < heights[Place.THROAT] < heights[Place.MOUTH] < made.top
    )
    assert heights[Place.BELLY] == pytest.approx((made.low + made.top) / 2, abs=6)
    body = next(piece for piece in drawn.seen if piece.name == "body")
    assert drawn.spots[Place.LOOP][1] > body.ring[:, 1].min() + made.top - made.low  # out of the back
    drawn.grab()
    QTest.mouseClick(drawn, Button.LeftButton, pos=drawn._tags[Place.BELLY].center().toPoint())
    assert book.slip.place is Place.BELLY


@pytest.mark.parametrize("size", [(1000, 700), (1280, 800)])
def test_nothing_of_the_slip_is_cut_off_at_its_side(
    shown: Window, book: Logbook, settle: Callable[[], None], qtbot: QtBot, size: tuple[int, int]
) -> None:
    shown.resize(*size)
    settle()
    there = book._side.viewport()
    assert there is not None
    for widget in (
        *book.slip.fits.values(),
        *book.slip.words.values(),
        *(field for _, field in book.slip.rows.values()),
    ):
        right = widget.mapTo(book.slip, QPoint(widget.width(), 0)).x()
        assert right <= there.width() - 4, widget.accessibleName()
    book.drawn.grab()
    tags = list(book.drawn._tags.values())
    assert len(tags) == len(book.drawn.spots)
    assert not any(one.intersects(other) for k, one in enumerate(tags) for other in tags[k + 1 :])


def test_what_cannot_be_is_said_and_changes_nothing(shown: Window, book: Logbook, settle: Callable[[], None],
                                                    tmp_path: Path) -> None:  # fmt: skip
    before, said = entry(book), list[str]()
    book.refused.connect(said.append)
    for what, text in (("fold", "82"), ("fold", "wide"), ("thread", "x")):
        typed(book.slip.rows[what][1], text)
    (tmp_path / "no.png").write_text("no picture")
    book.kept.add_picture(tmp_path / "no.png")
    book.kept.add_picture(tmp_path / "there is none.png")
    settle()
    assert len(said) == 5
    assert "no slip of the hand" in said[0]
    assert "give a .png or a .jpg" in said[3]
    assert entry(book) == before
    assert book.slip.rows["fold"][1].text() == "8.1 mm"  # what it was


def test_a_picture_is_copied_in(
    shown: Window, book: Logbook, settle: Callable[[], None], tmp_path: Path, qtbot: QtBot
) -> None:
    image = QImage(60, 40, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.darkGreen)
    image.save(str(tmp_path / "one.png"))
    book.kept.add_picture(tmp_path / "one.png")
    settle()
    (tmp_path / "one.png").unlink()
    assert len(entry(book).pictures) == 1
    qtbot.waitUntil(lambda: len(book.drawn.pictures) == 1)
    assert book.drawn.pictures[0].toImage().pixelColor(5, 5).green() == 128


def test_a_piece_that_was_made_is_laid_over_its_draft(
    shown: Window, book: Logbook, settle: Callable[[], None], tmp_path: Path, qtbot: QtBot
) -> None:
    assert shown.bench.made is not None
    made = shown.bench.made.piece("body").cut.copy()
    made[made[:, 1] < 30] += [0.0, -1.5]  # cut too long at the tip
    told = list[str]()
    book.told.connect(told.append)
    points = " ".join(f"{x:.3f},{300 - y:.3f}" for x, y in made)
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="300mm" height="400mm" viewBox="-150 0 300 400">'
    (tmp_path / "body.svg").write_text(f'{head}<polygon points="{points}"/></svg>')
    book.kept.add_traced(tmp_path / "body.svg")
    qtbot.waitUntil(lambda: bool(entry(book).traced), timeout=20_000)
    settle()
    assert told[0].startswith("Body is off at")
    ((_, spot, by),) = book.drawn.over[0].stretches
    assert by == pytest.approx(1.5, abs=0.3)
    body = next(piece for piece in book.drawn.seen if piece.name == "body")
    assert spot[1] < body.ring[:, 1].min() + 25
    assert shown.counter._opened().log(entry(book).id)[0].traced == entry(book).traced
    refused = list[str]()
    book.refused.connect(refused.append)
    (tmp_path / "body.svg").write_text("<svg/>")
    book.kept.add_traced(tmp_path / "body.svg")
    qtbot.waitUntil(lambda: bool(refused), timeout=20_000)


def test_everything_made_is_found_as_one_types(book: Logbook, settle: Callable[[], None]) -> None:
    QTest.keyClick(book, Key.Key_A)
    assert len(book.all.shown) == 14
    QTest.keyClicks(book.all.sought, "loose 3 mm")
    assert {one.name for one in book.all.shown} == {"Eaves blade"}
    assert 0 < len(book.all.shown) < 5
    book.all.sought.clear()
    QTest.keyClicks(book.all.sought, "lid")  # a word that was said of the glue
    assert [one.name for one in book.all.shown] == ["Laser level"]
    assert "made in" in book.all.years.text()
    QTest.keyClick(book.all.sought, Key.Key_Return)
    settle()
    assert (book.page, entry(book).job.name) == (Page.ONE, "Laser level")
    assert "gap" not in book.slip.rows  # a box is not bent round anything


def test_what_was_made_at_the_bench_is_written_up_with_what_it_took(
    shown: Window, book: Logbook, settle: Callable[[], None]
) -> None:
    at = datetime(2026, 5, 4, 18, 0)
    order = Order("one", "one more").with_job(demo.job("radio"))
    done = [
        Worked(f"one/0/0/{key}", "one", "Two-way radio", key, "", planned, "me", (Stretch(at, at),), True, took)
        for key, planned, took in (("pierce main", 12.0, 18.0), ("sew main", 19.0, 25.0), ("try", 5.0, 4.0))
    ]
    shown.counter.put("an order that is made", (None, order), *((None, one) for one in done))
    settle()
    assert "Made, and not written up: Two-way radio" in book._said.text()
    shown.rooms.at_work.made.emit("one/0/0")
    shown.counter.put("something else", (None, replace(order, id="two", name="two")))
    settle()
    assert (entry(book).line, entry(book).made_on, entry(book).job.name) == ("one/0/0", at.date(), "Two-way radio")
    assert {took.rate: took.minutes / took.usual for took in entry(book).took} == {
        "rate.hole": 1.5, "rate.sewn": pytest.approx(25 / 19)
    }  # fmt: skip
    assert "not written up" not in book._said.text()


def test_two_thousand_entries_open_and_are_searched_at_once(
    shown: Window, settle: Callable[[], None], qtbot: QtBot
) -> None:
    shown.counter.open()
    settle()
    few = log(date(2026, 5, 4))
    many = [
        replace(few[n % 14], id=f"more {n}", made_on=date(2020 + n % 6, 1 + n % 12, 1 + n % 28)) for n in range(2000)
    ]
    shown.counter.put("many", *((None, one) for one in many))
    settle()
    assert shown.counter.shop is not None
    assert len(shown.counter.shop.logged) == 2014
    book = shown.rooms.logbook
    shown.show_stage("Log")
    settle()
    qtbot.waitUntil(lambda: book.entry is not None)
    QTest.keyClick(book, Key.Key_A)
    begun = time.perf_counter()
    book.all.sought.setText("radio 2021-07")
    assert time.perf_counter() - begun < 1.0  # some 20 ms on a quiet machine
    july = [one for one in many if one.job.name == "Two-way radio" and f"{one.made_on:%Y-%m}" == "2021-07"]
    assert len(book.all.shown) == len(july)
    book.turn_to(Page.LEARNED)
    settle()
    neutral = next(b for b in book.learning.lines.beliefs if b.constant == "leather.neutral")
    assert neutral.cases == 5 + sum(one.measured[-1].of.what == "gap" for one in many if one.measured)
    assert np.isclose(neutral.mean, 0.44, atol=0.01)
    assert job_file.to_text(shown.bench.job)
