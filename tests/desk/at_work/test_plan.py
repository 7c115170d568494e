"""What the bench is planned by: hours and hands, schools, drying, steps changed by hand, and orders with a day."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, timedelta
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tailor.core.shop.agenda import Way
from tailor.desk.start import window
from tailor.desk.window import Window
from tailor.files import kept_plan, makers, state
from tests.desk.at_work.evening import CARDS, EVENING, Clock, now, shop
from tests.desk.hands import Key, struck, typed


def test_hours_days_off_and_hands_are_typed_where_they_stand(
    shown: Window, clock: Clock, settle: Callable[[], None]
) -> None:
    work, refused = shown.rooms.at_work, list[str]()
    work.refused.connect(refused.append)
    whose = work.whose
    assert whose.hours.text() == "Mon-Fri 18:00-21:00"

    def typed(field, text: str) -> None:
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Key.Key_Return)
        settle()

    typed(whose.hours, "whenever")
    assert "are no hours" in refused[-1]
    assert shop(shown).worked == ()  # Return in a field begins nothing
    typed(whose.hours, "Tue 9-12, Wed 9-12")
    assert whose.hours.text() == "Tue-Wed 9:00-12:00"
    assert work.next.turns[0].begins == datetime(2026, 5, 5, 9, 0)
    typed(whose.off, "5.5.")
    assert work.next.turns[0].begins == datetime(2026, 5, 6, 9, 0)
    typed(whose.who.lineEdit(), "the helper")
    assert [hand.name for hand in shop(shown).hands][-1] in ("the helper", "the maker")
    assert {hand.name for hand in shop(shown).hands} == {"the maker", "the helper"}
    assert work.next.turns[0].begins == EVENING  # whoever is there first


def test_another_school_is_taken_and_what_it_moved_is_told(
    shown: Window, clock: Clock, settle: Callable[[], None]
) -> None:
    work = shown.rooms.at_work
    names = {turn.task.doing.name for turn in work.next.turns}
    QTest.keyClick(work, Key.Key_S)
    schools = work.schools
    assert schools.isVisible()
    assert not work.drawn.isVisible()
    assert schools.heading.text().endswith(CARDS.lines[0].job.name)
    assert schools.words["welt"].text() == "none"
    assert not schools.boxes["fold"].isVisible()  # nothing of it is folded
    assert schools.boxes["glue"].hasFocus()
    box = schools.boxes["dye"]
    box.setFocus()
    QTest.keyClick(box, Key.Key_Down)
    QTest.keyClick(shown.focusWidget(), Key.Key_Down)  # the hand stays on it
    settle()
    assert box.currentText() == shop(shown).school.dye == "after"
    every = {task.doing.name for task in work.next.agenda.load.tasks.values()}  # type: ignore[union-attr]
    assert every == names | {"dye"}
    assert "dye when" not in schools.moved.text()
    assert "dye" in schools.moved.text()
    assert "whole, thread and edges" in schools.whys["dye"].text()
    QTest.keyClick(box, Key.Key_Escape)
    assert work.drawn.isVisible()
    assert work.hasFocus()
    QTest.keyClick(shown, Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClick(shown, Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settle()
    assert shop(shown).school.dye == "none"


def test_it_is_planned_by_how_long_things_dry_in_ones_own_room(
    shown: Window,
    clock: Clock,
    settle: Callable[[], None],
    qtbot: QtBot,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(makers, "folder", lambda: tmp_path)

    def apart() -> float:
        """Minutes from the last of the wax to the first trial."""
        plan, tasks = shown.rooms.at_work.foresight.plan, shown.rooms.at_work.next.agenda.load.tasks
        (waxed,), (tried,) = ([plan.steps[id_] for id_, task in tasks.items() if task.doing.key == key]
                              for key in ("wax", "try"))  # fmt: skip
        return tried[0].start - waxed[-1].end

    assert 60 <= apart() < 26 * 60
    QTest.keyClick(shown, Key.Key_F5)
    room = shown.rooms.habits
    room.sought.setFocus()
    struck("dries coat")
    struck("1560 min")
    assert [of.name for of in room.shown] == ["dries.coated"]
    qtbot.waitUntil(lambda: "keep to 0.1 – 24 h" in shown.notice.said.text())
    struck("1440 min")
    qtbot.waitUntil(lambda: shown.bench.maker.habits == {"dries.coated": 24.0})
    QTest.keyClick(QApplication.focusWidget(), Key.Key_Escape)
    settle()
    assert shown.rooms.at_work.isVisible()
    assert apart() >= 24 * 60


def test_it_is_planned_anew_from_how_it_was_in_the_last_session(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("TAILOR_SHOP_BOOK", str(tmp_path / "mine.tailorshop"))

    def session(now: datetime) -> Window:
        made = window()
        qtbot.addWidget(made)
        made.show()
        made.rooms.at_work.clock = lambda: now
        made.pages.to_the_bench()
        made.show_stage("Bench")
        work = made.rooms.at_work
        qtbot.waitUntil(
            lambda: made.counter.shop is not None and not made.counter.busy and not work.foresight.busy, timeout=60_000
        )
        return made

    first = session(EVENING)
    first.counter.put("ordered", (None, CARDS))
    work = first.rooms.at_work
    qtbot.waitUntil(lambda: bool(work.next.turns) and not work.foresight.busy, timeout=60_000)
    before = {turn.id: turn.begins for turn in work.next.turns}
    assert set(work.foresight.plans) == {Way.ANEW}  # there was nothing before
    first.close()
    second = session(EVENING + timedelta(days=7))  # counted from another Monday
    work = second.rooms.at_work
    assert Way.ORDER in work.foresight.plans
    assert Way.FEW in work.foresight.plans
    order = sorted(before, key=lambda id_: before[id_])
    again = {turn.id: turn.begins for turn in work.next.turns}
    assert sorted(again, key=lambda id_: again[id_]) == order
    assert min(again.values()) >= EVENING + timedelta(days=7)
    second.close()
    assert not (tmp_path / "plan.json").exists()
    (kept,) = state.folder().glob("plan-*.json")
    kept.write_text("{")  # what cannot be read is as if it were not there
    assert kept_plan.kept(tmp_path / "mine.tailorshop") is None


def test_a_shop_that_names_nobody_has_one_who_works_of_an_evening(
    shown: Window, clock: Clock, settle: Callable[[], None]
) -> None:
    work, (maker,) = shown.rooms.at_work, shop(shown).hands
    shown.counter.put("gone", (maker, None))
    settle()
    assert shop(shown).hands == ()
    assert work.next.hand == "the maker"
    assert work.next.turns[0].begins == EVENING
    work.whose.hours.setFocus()
    QTest.keyClick(work.whose.hours, Key.Key_End)
    QTest.keyClicks(work.whose.hours, ", Sat 9-13")
    QTest.keyClick(work.whose.hours, Key.Key_Return)
    settle()
    assert len(shop(shown).hands) == 1
    assert work.whose.hours.text().endswith("Sat 9:00-13:00")


def test_steps_are_changed_by_hand_and_the_plan_follows(
    shown: Window, clock: Clock, settle: Callable[[], None], qtbot: QtBot
) -> None:
    work, refused = shown.rooms.at_work, list[str]()
    work.refused.connect(refused.append)
    assert now(work) == "mark out the pieces"
    QTest.keyClick(work, Key.Key_E)
    changes = work.changes
    assert changes.isVisible()
    typed(changes.name, "mark with the silver pen")
    settle()
    assert now(work) == "mark with the silver pen"
    typed(changes.minutes, "25")
    settle()
    assert work.card.clock.text() == "25 min"
    typed(changes.minutes, "0")
    typed(changes.minutes, "long")
    assert len(refused) == 2
    assert work.card.clock.text() == "25 min"
    typed(changes.why, "black leather shows no scratch")
    QTest.mouseClick(changes.own, Qt.MouseButton.LeftButton)
    settle()
    mine = next(turn for turn in work.next.turns if turn.task.doing.name == "a step of your own")
    assert mine.begins >= work.next.turns[0].begins + timedelta(minutes=25)
    assert "black leather shows no scratch" in work.card.why.text()
    assert len(shop(shown).altered) == 2  # what was clicked before the words were in the book came after them
    second = "cut out"
    work.choose(next(turn.id for turn in work.next.turns if turn.task.doing.name == second))
    with qtbot.waitSignal(work.called) as called:
        QTest.mouseClick(changes.drop, Qt.MouseButton.LeftButton)
    assert called.args[0].startswith("Left out for good once")
    settle()
    assert second not in [turn.task.doing.name for turn in work.next.turns]
    assert changes.back.count() == 2
    assert len(shop(shown).altered) == 3
    changes.back.setCurrentIndex(1)
    changes.back.activated.emit(1)
    settle()
    assert second in [turn.task.doing.name for turn in work.next.turns]
    work.choose(next(turn.id for turn in work.next.turns if turn.task.doing.name == "mark with the silver pen"))
    assert changes.after.findText("cut out") < 0  # which waits for it
    QTest.mouseClick(changes.plain, Qt.MouseButton.LeftButton)
    settle()
    assert now(work) == "mark out the pieces"
    shown.pages.undo()
    settle()
    assert now(work) == "mark with the silver pen"
    QTest.keyClick(work, Key.Key_E)
    assert not changes.isVisible()


def test_what_holds_an_order_to_its_day_is_told_step_by_step(
    shown: Window, clock: Clock, settle: Callable[[], None]
) -> None:
    work = shown.rooms.at_work
    assert not work.chain.isVisible()
    QTest.keyClick(work, Key.Key_H)
    assert work.chain.isVisible()
    lines = work.chain.text().splitlines()
    assert lines[0] == "What holds cards:"
    assert "try it with the object" in lines[1]
    assert "until the coat is dry, after seal and wax" in lines[1]
    assert all("(Crew's cards)" in line for line in lines[1:7])
    last = max(turn.ends for turn in work.next.turns)
    assert lines[1].startswith(f"{last - timedelta(minutes=5):%a %H:%M}") or f"{last:%a}" in lines[1]
    assert lines[-1] == "Q: what would make it sooner?"
    plan = work.foresight.plan
    QTest.keyClick(work, Key.Key_Q)
    settle()
    tried = {one.said: one.ready for one in work.foresight.tried}
    assert {
        "planned anew, with nothing else changed",
        "with another pair of hands in your hours",
        "with Saturday mornings too",
        "with pva glue",
    } <= set(tried)
    assert all(ready is not None for ready in tried.values())
    assert tried["with another pair of hands in your hours"] <= tried["planned anew, with nothing else changed"]  # type: ignore[operator]
    assert "would be ready" in work.chain.text()
    assert work.foresight.plan is plan  # nothing is changed by asking
    QTest.keyClick(work, Key.Key_H)
    assert work.chain.text() == ""
