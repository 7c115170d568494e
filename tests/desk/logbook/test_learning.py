"""What is learned from the log in the window: asked, taken, used and let go."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from PyQt6.QtCore import QPoint, QRect, Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.core.bench.rates import Rates
from tailor.core.keys import KEYS
from tailor.core.log.causes import Suspect
from tailor.core.log.effects import REMEDY
from tailor.core.shop.orders import Order
from tailor.desk.log_head import Page
from tailor.desk.logbook import Logbook
from tailor.desk.window import Window
from tailor.files import makers, printer
from tests.desk.hands import Button, Key, typed
from tests.desk.logbook.pages import entry


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
