"""The log in the window: written up by keys, measured, looked for, learned from; and what is used, and let go."""

from __future__ import annotations

import re
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import date, datetime
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QRect, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.core.bench.rates import Rates
from tailor.core.draft.draft import Fitted
from tailor.core.keys import KEYS
from tailor.core.log.case import Fit, When
from tailor.core.log.causes import Suspect
from tailor.core.log.effects import REMEDY
from tailor.core.log.entry import Entry, Feels, Look, Mark, Place
from tailor.core.shop.orders import Order
from tailor.core.shop.progress import Stretch, Worked
from tailor.demo.log import log
from tailor.desk.log_head import Page
from tailor.desk.logbook import Logbook
from tailor.desk.start import window
from tailor.desk.window import Window
from tailor.files import job_file, makers, printer
from tests.desk.hands import typed

Key, Button = Qt.Key, Qt.MouseButton


@pytest.fixture
def shown(qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Window]:
    monkeypatch.setattr(makers, "folder", lambda: tmp_path / "config")
    made = window(demo_name="eaves-blade")
    qtbot.addWidget(made)
    made.resize(1280, 800)
    made.show()
    made.activateWindow()
    qtbot.waitUntil(made.isActiveWindow, timeout=10_000)
    qtbot.waitUntil(lambda: made.bench.fresh, timeout=20_000)
    yield made
    made.bench.clean = made.bench.job
    made.close()


@pytest.fixture
def settle(shown: Window, qtbot: QtBot) -> Callable[[], None]:
    def settled() -> bool:
        book = shown.rooms.logbook
        labours = (book.looking, book.learning.working, book.learning.trying)
        return shown.counter.shop is not None and not shown.counter.busy and not any(each.busy for each in labours)

    return lambda: qtbot.waitUntil(settled, timeout=30_000)


@pytest.fixture
def book(shown: Window, settle: Callable[[], None], qtbot: QtBot) -> Logbook:
    QTest.keyClick(shown, Key.Key_9, Qt.KeyboardModifier.AltModifier)
    settle()
    qtbot.waitUntil(
        lambda: shown.rooms.logbook.entry is not None and bool(shown.rooms.logbook.slip.rows), timeout=10_000
    )
    return shown.rooms.logbook


def entry(book: Logbook) -> Entry:
    assert book.entry is not None
    return book.entry


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


def test_what_is_learned_is_used_when_it_is_taken_and_no_longer_when_it_is_let_go(
    shown: Window, book: Logbook, settle: Callable[[], None], qtbot: QtBot
) -> None:
    old = shown.bench.job
    QTest.keyClick(book, Key.Key_L)
    learning = book.learning
    qtbot.waitUntil(lambda: bool(learning.lines.beliefs), timeout=10_000)
    settle()
    first = learning.lines.belief
    assert first is not None
    assert (first.constant, first.leather) == ("leather.neutral", "firm side, 3 mm")
    assert "body 0." in learning._effect.text()
    assert "less across" in learning._effect.text()
    assert learning._says.width() > 0.7 * learning.width()
    assert learning.lines.visibleRegion().boundingRect().height() > 0.5 * learning.height()
    QTest.keyClick(learning.lines, Key.Key_Return)
    assert [one.constant for one in shown.bench.maker.taken] == ["leather.neutral"]
    assert makers.load()[0].taken == shown.bench.maker.taken  # of the next window too
    assert shown.bench.job == old
    dots = learning.lines._dots(0)
    said = list[object]()
    learning.lines.case.connect(said.append)
    QTest.mouseClick(learning.lines, Button.LeftButton, pos=QPoint(round(dots[0][0].x()), round(dots[0][0].y())))
    assert len(said) == 1
    assert "firm side" in learning._case.text()
    shown.filing.begin_plain()
    assert shown.bench.job.settings.number("leather.neutral") == pytest.approx(0.44, abs=0.01)
    shown.filing._lay(old, None)
    learning.in_this_job()
    assert shown.bench.undoes == "what was learned"
    qtbot.waitUntil(lambda: shown.bench.fresh, timeout=20_000)
    assert "5 of yours" in shown.bench.job.settings.taken[0].said
    shown.bench.undo()
    assert shown.bench.job == old
    book.turn_to(Page.LEARNED)
    QTest.keyClick(learning.lines, Key.Key_Return)
    assert shown.bench.maker.taken == makers.load()[0].taken == ()


def test_what_went_wrong_is_asked_measured_and_put_right(
    shown: Window, book: Logbook, settle: Callable[[], None], qtbot: QtBot
) -> None:
    QTest.keyClick(book, Key.Key_N)
    settle()
    wrong = book.wrong
    QTest.keyClick(book, Key.Key_G)
    assert wrong.isVisible()
    qtbot.waitUntil(lambda: "Say how it fits" in wrong._said.text(), timeout=20_000)
    assert wrong.width() > 0.5 * book.width()
    for key in (Key.Key_3, Key.Key_2, Key.Key_2, Key.Key_2):
        QTest.keyClick(book, key)
    qtbot.waitUntil(lambda: bool(wrong.suspects), timeout=20_000)
    assert "cannot be told" in wrong._said.text()
    shown.resize(1000, 700)
    settle()
    for name in (name for name, _, _ in wrong.rows if name.text()):  # in a small window too nothing is cut off
        wraps = Qt.TextFlag.TextWordWrap if name.wordWrap() else Qt.TextFlag.TextSingleLine
        wanted = name.fontMetrics().boundingRect(QRect(0, 0, name.width(), 500), wraps, name.text())
        assert (wanted.width() <= name.width(), wanted.height() <= name.height()) == (True, True), name.text()
    asked = list[str]()
    while wrong.next is not None:
        asked.append(wrong.next.what)
        typed(wrong.field, f"{wrong.next.drafted:.2f}")  # as it was drafted: it is not that
        settle()
    assert len(asked) == len(set(asked)) > 1
    assert {each.of.what for each in entry(book).measured} == set(asked)
    n = next(n for n, suspect in enumerate(wrong.suspects) if suspect.name in REMEDY)
    key, before = REMEDY[wrong.suspects[n].name], shown.bench.job
    QTest.mouseClick(wrong.rows[n][2], Button.LeftButton)
    qtbot.waitUntil(lambda: bool(re.match(r"Body \d+\.\d mm (less|more) across", wrong._effect.text())), timeout=20_000)
    assert shown.bench.job == before  # it was only shown
    QTest.mouseClick(wrong.scopes["JOB"], Button.LeftButton)
    value = shown.bench.job.settings.pinned[key]
    assert value != before.settings.default(key)
    settle()
    assert f"{KEYS[key].label} {KEYS[key].say(value)} (this job)" in entry(book).next_time
    QTest.mouseClick(wrong.rows[n][2], Button.LeftButton)
    settle()
    QTest.mouseClick(wrong.scopes["ALIKE"], Button.LeftButton)
    (one,) = shown.bench.maker.taken
    assert (one.constant, one.value, one.thing, one.leather) == (key, value, "folded-sheath", "firm side, 3 mm")
    alike = before.begun_by(shown.bench.maker).settings
    assert alike.default(key) == value
    assert demo.job("radio").begun_by(shown.bench.maker).settings.learned(key) is None
    book.turn_to(Page.LEARNED)
    qtbot.waitUntil(lambda: bool(book.learning.lines.beliefs), timeout=10_000)
    settle()
    assert book.learning.others.isVisible()
    QTest.mouseClick(book.learning.drop, Button.LeftButton)
    assert shown.bench.maker.taken == makers.load()[0].taken == ()
    assert not book.learning.others.isVisible()


def test_a_rate_that_is_learned_is_the_shops_and_undone_with_it(
    shown: Window, book: Logbook, settle: Callable[[], None], qtbot: QtBot
) -> None:
    book.turn_to(Page.LEARNED)
    lines = book.learning.lines
    qtbot.waitUntil(lambda: bool(lines.beliefs), timeout=10_000)
    lines.choose([belief.constant for belief in lines.beliefs].index("rate.sewn"))
    QTest.keyClick(lines, Key.Key_Return)
    settle()
    assert shown.counter.shop is not None
    assert shown.counter.shop.rates.sewn == pytest.approx(1.41, abs=0.05)
    shown.pages.undo()
    settle()
    assert shown.counter.shop.rates == Rates()


def test_what_is_measured_is_learned_from_at_once_and_the_entry_is_there_on_coming_back(
    shown: Window, book: Logbook, settle: Callable[[], None], qtbot: QtBot
) -> None:
    lines = book.learning.lines

    def radius() -> float:
        mine = [b for b in lines.beliefs if (b.constant, b.leather) == ("leather.fold_radius", "firm side, 3 mm")]
        return mine[0].mean if mine else 0.0

    book.turn_to(Page.LEARNED)
    qtbot.waitUntil(lambda: radius() > 0, timeout=10_000)
    settle()
    before = radius()
    shown.counter.put("nothing of the log", (None, Order("x", "x")))
    settle()
    book.turn_to(Page.ONE)
    assert entry(book).measured
    typed(book.slip.rows["fold"][1], "8.9 mm")  # of an entry that is else as it was
    settle()
    book.turn_to(Page.LEARNED)
    qtbot.waitUntil(lambda: radius() > before + 0.005, timeout=10_000)


def test_another_thickness_is_each_jobs_own(
    shown: Window, book: Logbook, settle: Callable[[], None], qtbot: QtBot
) -> None:
    QTest.keyClick(book, Key.Key_N)
    QTest.keyClick(book, Key.Key_G)
    settle()
    for key in (Key.Key_3, Key.Key_2, Key.Key_2, Key.Key_2):
        QTest.keyClick(book, key)
    wrong = book.wrong
    qtbot.waitUntil(lambda: bool(wrong.suspects), timeout=20_000)
    settle()
    wrong.suspects = (Suspect("thickness", 0.9, 0.4), Suspect("wish", 0.1, 0.3))
    wrong._offer(0)
    assert [scope for scope, button in wrong.scopes.items() if button.isVisible()] == ["JOB"]
    wrong._offer(1)
    assert all(button.isVisible() for button in wrong.scopes.values())


def test_a_printer_that_is_learned_corrects_every_page(
    shown: Window, book: Logbook, settle: Callable[[], None], qtbot: QtBot
) -> None:
    assert printer.known().true
    for n in range(4):
        QTest.keyClick(book, Key.Key_N)
        settle()
        typed(book.slip.rows["print"][1], f"{99.2 + 0.05 * n}")
        settle()
        book.setFocus()
    book.turn_to(Page.LEARNED)
    lines = book.learning.lines
    qtbot.waitUntil(lambda: "printer.scale" in [belief.constant for belief in lines.beliefs], timeout=10_000)
    settle()
    lines.choose([belief.constant for belief in lines.beliefs].index("printer.scale"))
    QTest.keyClick(lines, Key.Key_Return)
    assert printer.known().across == pytest.approx(0.993, abs=0.0025)
    QTest.keyClick(lines, Key.Key_Return)
    assert printer.known().true


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
