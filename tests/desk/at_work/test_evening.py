"""An evening at the bench in the window, by keys and by hand, with a clock that the test holds."""

from __future__ import annotations

import csv
from collections.abc import Callable
from datetime import timedelta
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QSystemTrayIcon
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.core.shop.agenda import Way
from tailor.core.shop.made import ordered
from tailor.core.shop.needs import needs, still
from tailor.core.shop.progress import Stands
from tailor.desk.window import Window
from tests.desk.at_work.evening import CARDS, EVENING, Clock, now, shop, worked
from tests.desk.hands import Key


def test_an_evening_by_the_space_bar(shown: Window, clock: Clock, settle: Callable[[], None]) -> None:
    work, done = shown.rooms.at_work, list[str]()
    assert shown.focusWidget() is work
    assert not shown._side.isVisible()
    assert "ready" in work._said.text()
    while work.next.turn is not None and clock.now < EVENING + timedelta(days=3):
        if work.next.turn.begins > clock.now:
            clock.later((work.next.turn.begins - clock.now).total_seconds() / 60)
            settle()
        name, minutes = now(work), work.next.turn.task.doing.whole_minutes
        QTest.keyClick(work, Key.Key_Space)
        settle()
        assert (now(work), work.card.go.text()) == (name, "Done  (Space)")
        clock.later(minutes)
        assert work.card.clock.text() == f"0:{minutes:02}:00 of {minutes} min"
        QTest.keyClick(work, Key.Key_Space)
        settle()
        assert worked(shown, name).minutes(clock.now) == minutes
        done.append(name)
    assert done[:2] == ["mark out the pieces", "cut out"]
    assert done[-1].startswith("try it")
    assert len(done) == len(set(done)) == len(shop(shown).worked)
    assert "F3" in work._said.text()  # everything is done
    there = {article.id: article.there for article in shop(shown).stock}
    assert there["thread06"] == pytest.approx(84 - 3.612, abs=0.01)  # cut off when it was sewn
    left = still(needs(ordered(CARDS)), shop(shown).used("cards"), shop(shown).stock)
    assert all(need.kind == "glue" for need in left)
    assert shown.board.stage.name == "Log"  # it is written up as soon as it is made
    assert shown.rooms.logbook.entry is not None
    assert shown.rooms.logbook.entry.line == "cards/0/0"
    assert shown.rooms.logbook.entry.minutes > 60
    shown.pages.undo()
    settle()
    assert "not written up" in shown.rooms.logbook._said.text()
    QTest.keyClick(shown, Key.Key_8, Qt.KeyboardModifier.AltModifier)
    shown.pages.undo()
    settle()
    assert now(work) == done[-1]  # undone, and in hand again


def test_two_presses_at_once_are_two(shown: Window, clock: Clock, settle: Callable[[], None]) -> None:
    work = shown.rooms.at_work
    QTest.keyClick(work, Key.Key_Space)
    QTest.keyClick(work, Key.Key_Space)  # the book has not answered yet
    QTest.keyClick(work, Key.Key_Space)
    settle()
    assert set(work.foresight.plans) == set(Way)  # what was planned first is not lost on the way
    shown.filing.show_job(demo.job("site-book"))  # another job on the bench changes nothing of the work
    assert shown.focusWidget() is work
    assert [(one.name, one.stands) for one in shop(shown).worked] == [
        ("cut out", Stands.RUNNING), ("mark out the pieces", Stands.DONE)
    ]  # fmt: skip


def test_pauses_other_orders_and_minutes_as_the_maker_says(
    shown: Window, clock: Clock, settle: Callable[[], None]
) -> None:
    work, refused = shown.rooms.at_work, list[str]()
    work.refused.connect(refused.append)
    QTest.keyClick(work, Key.Key_Space)
    settle()
    clock.later(3)
    QTest.keyClick(work, Key.Key_P)
    settle()
    clock.later(20)
    assert worked(shown, "mark out the pieces").minutes(clock.now) == 3
    assert work.card.go.text().startswith("Go on")
    QTest.keyClick(work, Key.Key_T)
    QTest.keyClicks(work.card.minutes, "soon")
    QTest.keyClick(work.card.minutes, Key.Key_Return)
    assert "'soon' is no number" in refused[-1]
    QTest.keyClick(work, Key.Key_T)
    QTest.keyClicks(work.card.minutes, "7,5")
    QTest.keyClick(work.card.minutes, Key.Key_Return)
    settle()
    assert worked(shown, "mark out the pieces").took == 7.5
    later = work.next.turns[3]
    QTest.mouseClick(work.list, Qt.MouseButton.LeftButton, pos=work.list._shown()[3][0].center().toPoint())
    assert work.next.turn == later
    QTest.keyClick(work, Key.Key_D)
    settle()
    assert "Look whether that can still be reached" in shown.notice.said.text()
    assert worked(shown, later.task.doing.name).stands is Stands.DONE
    assert now(work) == "cut out"
    QTest.keyClick(work, Key.Key_Space)
    settle()
    QTest.keyClick(work, Key.Key_Down)
    QTest.keyClick(work, Key.Key_Space)  # what was under way rests while these hands are at something else
    settle()
    assert worked(shown, "cut out").stands is Stands.PAUSED


def test_glue_calls_when_it_is_tacky_before_it_is_late_and_when_it_dried(
    shown: Window, clock: Clock, settle: Callable[[], None]
) -> None:
    work = shown.rooms.at_work
    while not now(work).startswith("glue"):
        QTest.keyClick(work, Key.Key_D)
        settle()
    said = list[str]()
    work.called.connect(lambda what, _: said.append(what))
    QTest.keyClick(work, Key.Key_Space)
    settle()
    clock.later(5)
    QTest.keyClick(work, Key.Key_Space)
    settle()
    assert now(work).startswith("join")
    assert work.card.state.text().startswith("not before 18:20")
    assert "by 19:05" in work._waits.text()
    for _ in range(55):
        clock.later(1)
    assert [what.split(":")[0] for what in said] == [f"Now {now(work)} ({CARDS.lines[0].job.name})", "Only until 19"]
    settle()
    for _ in range(12):
        clock.later(1)
        settle()
    assert now(work).startswith("glue")
    assert "dried" in work.card.why.text()
    before = clock.now
    assert work._said.text().startswith("Dried")
    QTest.keyClick(work, Key.Key_D)  # it was spread again without the clock
    settle()
    assert now(work).startswith("join")
    assert f"{before + timedelta(minutes=60):%H:%M}" in work._waits.text()
    QTest.keyClick(work, Key.Key_Space)
    settle()
    clock.later(250)
    work.refresh()
    assert "T says how many minutes" in work.card.state.text()  # a clock that was forgotten


def test_what_comes_is_taken_hold_of_among_the_days_and_written_out(
    shown: Window, clock: Clock, settle: Callable[[], None], qtbot: QtBot, tmp_path: Path
) -> None:
    work = shown.rooms.at_work
    (block,) = [b for b in work.days.blocks if b.said == "cut out"]
    QTest.mouseClick(work.days, Qt.MouseButton.LeftButton, pos=work.days.box(block).center().toPoint())
    assert now(work) == "cut out"
    assert set(work.drawn.lit) == set(work.next.turn.task.doing.pieces)  # type: ignore[union-attr]
    QTest.keyClick(work, Key.Key_Right)
    assert work.days.first == 1
    QTest.keyClick(work, Key.Key_Escape)
    assert now(work) == "mark out the pieces"
    work.write.write_to(tmp_path / "steps.csv")
    qtbot.waitUntil(lambda: not work.write.labour.busy, timeout=20_000)
    rows = list(csv.DictReader((tmp_path / "steps.csv").read_text().splitlines()))
    assert len(rows) == len(work.next.turns)
    assert "steps.csv" in shown.notice.said.text()


def test_nothing_ordered_is_told_and_the_job_in_hand_is_taken(
    shown: Window, clock: Clock, settle: Callable[[], None]
) -> None:
    work, refused = shown.rooms.at_work, list[str]()
    work.refused.connect(refused.append)
    shown.counter.put("dropped", (CARDS, None))
    settle()
    assert work.next.turns == []
    assert "Nothing is ordered" in work._said.text()
    assert refused == []
    QTest.keyClick(work, Key.Key_Space)  # there is nothing to begin
    QTest.keyClick(work, Key.Key_N)
    settle()
    assert {turn.task.thing for turn in work.next.turns} == {shown.bench.job.name}


def test_the_thing_is_shown_as_it_is_once_a_step_has_closed_it(
    shown: Window, clock: Clock, settle: Callable[[], None], qtbot: QtBot
) -> None:
    work = shown.rooms.at_work
    assert work.drawn.closed is None  # marked out, all lies flat
    sew = next(turn for turn in work.next.turns if turn.task.doing.key == "sew the main seam")
    work.choose(sew.id)
    qtbot.waitUntil(lambda: work.drawn.closed is not None, timeout=30_000)
    settle()
    picture = work.drawn.closed
    assert picture is not None
    inked = sum(
        picture.pixelColor(x, y).alpha() > 0
        for x in range(0, picture.width(), 4)
        for y in range(0, picture.height(), 4)
    )
    assert inked > 200
    assert "as it is then" in work.drawn.accessibleDescription()
    assert now(work) == "sew the main seam"
    work.choose("")
    assert work.drawn.closed is None


def test_closed_while_something_waits_it_calls_from_the_tray_if_that_is_wished(
    shown: Window, clock: Clock, settle: Callable[[], None], monkeypatch: pytest.MonkeyPatch
) -> None:
    work, calling = shown.rooms.at_work, shown.calling
    monkeypatch.setattr(QSystemTrayIcon, "isSystemTrayAvailable", lambda: True)
    shown.acts["tray"].trigger()
    assert calling.wished
    QTest.keyClick(work, Key.Key_Space)  # a clock runs
    settle()
    shown.close()
    assert not shown.isVisible()
    assert calling.away
    assert work.foresight.room.process is not None  # it goes on
    clock.later(1)
    calling.call("Now: join it")
    assert calling.said == "Now: join it"
    calling.back()
    assert shown.isVisible()
    assert calling.wished
    shown.bench.clean = shown.bench.job
    calling.end()  # as from the tray, or by an interrupt: it ends, whatever waits
    assert not shown.isVisible()
    assert not calling.away
    assert work.foresight.room.process is None
    shown.acts["tray"].trigger()
    assert not calling.wished
