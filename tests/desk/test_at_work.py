"""An evening at the bench in the window, by keys and by hand, with a clock that the test holds."""

from __future__ import annotations

import csv
from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import date, datetime, timedelta
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QSystemTrayIcon
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.core.shop.agenda import Way
from tailor.core.shop.made import ordered
from tailor.core.shop.needs import needs, still
from tailor.core.shop.orders import Order
from tailor.core.shop.progress import Stands, Worked
from tailor.core.shop.shop import Shop
from tailor.desk import foresight
from tailor.desk.at_work import AtWork
from tailor.desk.start import window
from tailor.desk.window import Window
from tailor.files import kept_plan, makers, state
from tests.desk.hands import struck, typed

Key = Qt.Key
EVENING = datetime(2026, 5, 4, 18, 0)  # a Monday
CARDS = Order("cards", "cards", promised=date(2026, 5, 8)).with_job(demo.job("crew-cards"))


class Clock:
    """The bench's clock, in the hands of the test."""

    def __init__(self, work: AtWork) -> None:
        self.work, self.now = work, EVENING
        work.clock = lambda: self.now

    def later(self, minutes: float) -> None:
        self.now += timedelta(minutes=minutes)
        self.work._tick()


@pytest.fixture
def shown(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> Iterator[Window]:
    """A window whose demo shop has one order, of one thing, and one pair of hands."""
    from tailor.demo import shop as of_the_demo

    whole = of_the_demo.shop(EVENING.date())
    few = replace(whole, orders=(CARDS,), hands=whole.hands[:1], worked=())
    monkeypatch.setattr(of_the_demo, "shop", lambda today: few)
    monkeypatch.setattr(foresight, "SECONDS", 0.2)  # of so few steps a plan is as good as it gets in that
    made = window(demo_name="whetstone")
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
def clock(shown: Window, settle: Callable[[], None]) -> Clock:
    held = Clock(shown.rooms.at_work)
    QTest.keyClick(shown, Key.Key_8, Qt.KeyboardModifier.AltModifier)
    settle()
    return held


@pytest.fixture
def settle(shown: Window, qtbot: QtBot) -> Callable[[], None]:
    def settled() -> bool:
        work = shown.rooms.at_work
        return shown.counter.shop is not None and not shown.counter.busy and not work.foresight.busy

    return lambda: qtbot.waitUntil(settled, timeout=60_000)


def shop(shown: Window) -> Shop:
    assert shown.counter.shop is not None
    return shown.counter.shop


def worked(shown: Window, name: str) -> Worked:
    return next(one for one in shop(shown).worked if one.name == name)


def now(work: AtWork) -> str:
    assert work.next.turn is not None
    return work.next.turn.task.doing.name


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
