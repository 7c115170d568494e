"""What a maker goes by, seen and changed at the window."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.core.habit import declared
from tailor.desk.start import application
from tailor.desk.window import Window
from tailor.files import makers
from tests.desk.hands import struck

Key = Qt.Key


@pytest.fixture
def shown(qtbot: QtBot) -> Iterator[Window]:
    application()
    made = Window(demo.job("stapler"))
    qtbot.addWidget(made)
    made.resize(1000, 700)
    made.show()
    made.activateWindow()
    qtbot.waitUntil(made.isActiveWindow, timeout=10000)
    QTest.keyClick(made, Key.Key_F5)
    yield made
    made.close()


def test_a_maker_types_his_own_and_what_he_makes_goes_by_it(
    shown: Window, settle: Callable[[], None], qtbot: QtBot
) -> None:
    room, bench = shown.rooms.habits, shown.bench
    settle()
    wide = bench.outcome.made.value("slots.width")
    room.sought.setFocus()
    struck("slot belt")
    assert [of.name for of in room.shown] == ["slots.room"]
    struck("1/8 in")
    qtbot.waitUntil(lambda: bool(bench.maker.habits))
    settle()
    assert bench.outcome.made.value("slots.width") - wide == pytest.approx(3.175 - declared()["slots.room"].usual)
    assert not bench.dirty
    assert makers.load()[0].habits == {"slots.room": 3.175}

    struck("9 mm")  # which no maker does
    refused = "slots.room is 9.0 mm, and makers keep to 0.5 – 4.0 mm"
    qtbot.waitUntil(lambda: refused in shown.notice.said.text())
    assert room.table.item(0, 1).text() == "3.2 mm"

    QTest.keyClick(QApplication.focusWidget(), Key.Key_Delete)
    assert bench.maker.habits == {}
    QTest.keyClick(shown, Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert bench.maker.habits == {"slots.room": 3.175}
    shown.acts["redo"].trigger()
    assert shown.pages.steps == ("slots.room", "")
    settle()
    assert bench.outcome.made.value("slots.width") == wide
    assert makers.load()[0].habits == {}
    QTest.keyClick(QApplication.focusWidget(), Key.Key_Escape)
    assert not room.isVisible()


def test_nothing_in_the_table_is_cut_off(shown: Window) -> None:
    table = shown.rooms.habits.table
    assert table.rowCount() == len(declared())
    for row in range(table.rowCount()):
        for column in range(table.columnCount()):
            assert table.sizeHintForIndex(table.model().index(row, column)).width() <= table.columnWidth(column)


def test_what_suits_is_drafted_anew_by_other_numbers(shown: Window, qtbot: QtBot) -> None:
    QTest.keyClick(shown, Key.Key_F5)  # back to the bench
    shown.middle.pick()
    asked: list[object] = []
    shown.picker.room.ask = lambda job, _: asked.append(job.settings.maker)  # type: ignore[method-assign]
    for number in (3.0, None):
        shown.pages.turn_to(shown.rooms.habits)
        if number is not None:
            shown.rooms.habits.go_by(declared()["slots.room"], f"{number}mm")
        shown.pages.turn_to(shown.rooms.habits)
    assert asked == [shown.bench.maker]
    shown.rooms.habits.undo()


def test_a_step_that_cannot_be_kept_is_not_lost(shown: Window) -> None:
    room, of = shown.rooms.habits, declared()["slots.room"]
    room.go_by(of, "3mm")
    table = makers.folder() / "habits.csv"
    kept = table.read_text()
    table.write_text("name\nslots.room\n")
    room.undo()
    assert "mine" in shown.notice.said.text()
    assert room.steps == ("slots.room", "")
    table.write_text(kept)
    room.undo()
    assert room.steps == ("", "slots.room")
    assert shown.bench.maker.habits == {}
