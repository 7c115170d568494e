"""Calipers, tape, blocks, zones and corrections, through the real window, with mouse and keys."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from tailor.core.carried.capture import Capture, Way
from tailor.core.carried.zones import Zone, ZoneKind
from tailor.core.units import System
from tailor.desk.capture.told import BlockWay, TapeWay
from tailor.desk.capture.wired import CaliperWay
from tailor.desk.window import Window
from tailor.standins.caliper import Caliper
from tests.desk.hands import Button, Key, named, typed

Settle = Callable[[], None]


def test_tape_roll_and_strip_are_typed_and_contradictions_told(shown: Window, way, settle: Settle) -> None:
    panel = way("Tape")
    assert isinstance(panel, TapeWay)
    assert panel.table is not None
    columns = {name: c for c, name in enumerate(("y", "shape", "width", "thickness", "girth"))}

    def put(row: int, name: str, text: str) -> None:
        panel.cells.item(row, columns[name]).setText(text)

    put(10, "shape", "oval")
    put(10, "girth", "95")
    assert "contradict" in panel.said.text()
    put(10, "thickness", "")
    assert "contradict" not in panel.said.text()
    found = panel.table.stations[10]
    assert found.thickness == pytest.approx(32.0, abs=2.0)
    put(10, "girth", "20")
    assert "cannot go round" in panel.said.text()
    assert not panel.take_it.isEnabled()
    put(10, "girth", "95")
    panel.by.setCurrentIndex(1)
    assert panel.cells.isColumnHidden(columns["girth"])
    assert "two readings" in panel.said.text()
    panel.by.setCurrentIndex(0)
    QTest.mouseClick(panel.take_it, Button.LeftButton)
    settle()
    assert shown.bench.job.capture.way is Way.TAPE


def test_a_block_is_told_by_its_sizes(shown: Window, way) -> None:
    panel = way("Block")
    assert isinstance(panel, BlockWay)
    typed(panel.long, "6 in")
    assert panel.table.stations[-1].y == pytest.approx(152.4)
    panel.kind.setCurrentText("cylinder")
    assert panel.table.stations[0].shape == "oval"
    typed(panel.wide, "")
    assert "diameter" in panel.said.text()
    assert not panel.take_it.isEnabled()


def test_the_caliper_drives_the_window_and_unplugging_loses_nothing(shown, way, qtbot: QtBot, settle: Settle) -> None:
    panel = way("Caliper")
    assert isinstance(panel, CaliperWay)
    stations = shown.bench.job.stations
    hand = Caliper([p.expected + 0.4 for p in panel.session.places], seed=5, twice_in=6)
    panel.ports.setCurrentText(hand.port)
    QTest.mouseClick(panel.listen, Button.LeftButton)
    assert panel.wire is not None
    for k in range(7):
        assert shown.board.jaws == panel.session.places[k]
        assert shown.board.bar == pytest.approx(panel.session.places[k].y)
        hand.press()
        qtbot.waitUntil(lambda n=k: panel.session.count == n + 1, timeout=3000)
    qtbot.waitUntil(lambda: len(panel.session.taken[5].readings) == 2)  # the sixth was pressed twice
    hand.say("Err4")
    qtbot.waitUntil(lambda: "is not a reading" in shown.notice.said.text())
    hand.say("+0099.00 mm")
    qtbot.waitUntil(lambda: "is far from" in panel.said.text().lower())
    QTest.mouseClick(named(panel, "Forget the last"), Button.LeftButton)
    assert panel.session.count == 7
    hand.unplug()
    qtbot.waitUntil(lambda: "no longer answers; its 7 readings are kept" in shown.notice.said.text(), timeout=3000)
    assert not panel.listen.isChecked()
    again = Caliper([p.expected + 0.4 for p in panel.session.places[7:]], seed=6, twice_in=0)
    assert panel.plug(again.port)
    while again.press():
        pass
    qtbot.waitUntil(lambda: panel.session.done, timeout=5000)
    QTest.mouseClick(panel.take_it, Button.LeftButton)
    settle()
    made = shown.bench.job
    assert made.capture.way is Way.CALIPER
    for before, after in zip(stations, made.stations, strict=True):
        assert after.width == pytest.approx(before.width + 0.4, abs=0.15)
        assert after.thickness == pytest.approx(before.thickness + 0.4, abs=0.15)
    assert not panel.plug("no-such-port")
    assert "cannot be opened" in shown.notice.said.text()


def test_zones_are_drawn_beside_the_object(shown: Window, settle: Settle) -> None:
    shown.show_stage("Object")
    board = shown.board
    shown.measurements.kind.setCurrentText("control")
    left = min(z[2] for z in board.scene.zones) - 6
    start, end = (board.to_screen(left, y).toPoint() for y in (200.0, 214.0))
    QTest.mousePress(board, Button.LeftButton, pos=start)
    for share in (0.3, 0.6, 1.0):
        QTest.mouseMove(board, start + (end - start) * share)
    QTest.mouseRelease(board, Button.LeftButton, pos=end)
    settle()
    drawn = shown.bench.job.zones[-1]
    assert drawn.kind is ZoneKind.CONTROL
    assert (drawn.low, drawn.high) == (pytest.approx(200, abs=1.5), pytest.approx(214, abs=1.5))
    assert shown.bench.undoes == "draw control"
    shown.bench.undo()
    assert drawn not in shown.bench.job.zones
    for kind in ZoneKind:
        shown.measurements.kind.setCurrentText(kind)
        QTest.mouseClick(named(shown.measurements, "Add zone"), Button.LeftButton)
        settle()
    assert {z.kind for z in shown.bench.job.zones} == set(ZoneKind)
    tag = board.tags["fit.trigger"]  # each kind brings the tag of its distance
    QTest.keyClick(tag, Key.Key_Up)
    settle()
    assert shown.bench.job.settings.pinned["fit.trigger"] > 10
    assert shown.grab().width() > 0
    assert isinstance(shown.bench.job.zones[0], Zone)


def test_a_correction_is_noted_in_place_kept_and_taken_away(shown, settle: Settle, qtbot, tmp_path: Path) -> None:
    board, line = shown.board, shown.notes.line
    before = shown.bench.made
    place = board.to_screen(20.0, 60.0).toPoint()
    QTest.mouseDClick(board, Button.LeftButton, pos=place)
    assert line.isVisible()
    QTest.keyClicks(line, "ease 2mm here: tight at the heel")
    QTest.keyClick(line, Key.Key_Return)
    settle()
    correction = shown.bench.job.settings.corrections[0]
    assert (correction.on, correction.by) == ("ease", 2.0)
    assert correction.y == pytest.approx(60, abs=1.0)
    assert shown.bench.made.piece("body").area > before.piece("body").area + 50
    board.setFocus()
    QTest.keyClick(board, Key.Key_N)
    QTest.keyClicks(line, "mouth 8mm lower: the hand does not reach")
    QTest.keyClick(line, Key.Key_Return)
    settle()
    assert shown.bench.made.value("mouth.y") == pytest.approx(before.value("mouth.y") - 8)
    assert "the hand does not reach" in shown.bench.made.reasons["mouth.y"].rule
    QTest.keyClick(board, Key.Key_N)
    QTest.keyClicks(line, "colour 3 lower")
    QTest.keyClick(line, Key.Key_Return)
    assert "cannot be corrected" in shown.notice.said.text()
    assert line.text() == "colour 3 lower"  # nothing typed is lost
    QTest.keyClick(line, Key.Key_Escape)
    assert shown.bench.job.capture.way is Way.CALIPER
    with qtbot.waitSignal(shown.written, timeout=60000) as wrote:
        shown.paperwork.print_mock_up("card")
    report = json.loads(next(p for p in wrote.args[0] if p.suffix == ".json").read_text())
    assert "mock-up in card" in report["job"]["name"]
    assert report["job"]["settings"]["leather.thickness"] == 0.4
    QTest.mouseClick(shown.notes.slips[0], Button.LeftButton)
    settle()
    assert len(shown.bench.job.settings.corrections) == 1


def test_every_way_can_be_reached_and_looks_whole(shown: Window, way) -> None:
    for size in ((1280, 800), (1000, 700)):
        shown.resize(*size)
        for name in shown.ways.buttons:
            QTest.mouseClick(shown.ways.buttons[name], Button.LeftButton)
            assert shown.ways.way == name
            shown.grab()
            panel = shown.ways.stack.currentWidget()
            wide = [b for b in panel.findChildren(QPushButton) if b.isVisible()]
            over = [b.text() for b in wide if b.mapTo(shown.ways, QPoint(b.width(), 0)).x() > shown.ways.width()]
            assert not over, name
    shown.show_stage("Draft")
    assert shown.board.isVisible()
    assert np.isfinite(shown.board.bar)


def test_each_place_is_read_as_often_as_asked_and_can_be_gone_back_to(shown: Window, way) -> None:
    panel = way("Caliper")
    assert isinstance(panel, CaliperWay)
    clock = iter(np.arange(0.0, 500.0, 2.0))
    panel._clock = lambda: float(next(clock))
    panel.times.setCurrentIndex(1)
    first, second = panel.session.places[:2]
    panel.hear(f"{first.expected:.2f}")
    assert panel.session.at == 0
    panel.hear(f"{first.expected + 0.04:.2f}")
    assert panel.session.at == 1
    assert panel.places.item(0, 4).text() == "0.04"
    panel.hear(f"{second.expected:.2f}")
    panel.hear(f"{second.expected + 5:.2f}")
    assert "measure it again" in panel.said.text()
    panel.hear(f"{second.expected + 0.02:.2f}")
    assert panel.session.at == 2
    assert "(" in panel.places.item(1, 2).text()  # the outlier is shown, in brackets
    QTest.mouseClick(named(panel, "Back"), Button.LeftButton)
    assert panel.session.at == 1
    QTest.mouseClick(named(panel, "Next"), Button.LeftButton)
    QTest.mouseClick(named(panel, "Next"), Button.LeftButton)
    assert panel.session.at == 3
    assert shown.board.jaws == panel.session.places[3]
    panel.times.setCurrentIndex(0)
    assert panel.session.count == 2  # what was read is kept
    assert panel.session.at == 2
    shown.ways.turn_to("Block")
    shown.ways.turn_to("Caliper")
    assert panel.session.count == 2
    shown.show_stage("Draft")
    shown.show_stage("Object")
    assert shown.board.isVisible()


def test_readings_are_added_removed_and_begun_anew(shown: Window, way) -> None:
    panel = way("Tape")
    assert isinstance(panel, TapeWay)
    assert panel.straight.isChecked()  # the demo's blade has a straight spine
    assert panel.table.stations[5].x_spine == 0
    panel.straight.click()
    assert panel.table.stations[5].x_spine == pytest.approx(-panel.table.stations[5].width / 2, abs=0.01)
    count = len(panel.table.stations)
    panel.cells.setCurrentCell(3, 0)
    QTest.mouseClick(named(panel, "Remove"), Button.LeftButton)
    assert len(panel.table.stations) == count - 1
    QTest.mouseClick(named(panel, "Add"), Button.LeftButton)
    assert len(panel.table.stations) == count - 1  # an empty row is no reading
    QTest.mouseClick(named(panel, "As it is now"), Button.LeftButton)
    assert len(panel.table.stations) == count
    panel.cells.item(2, 0).setText("twelve")
    assert "reading 3" in panel.said.text()
    shown.bench.change("inches", replace(shown.bench.job, units=System.INCH))
    QTest.mouseClick(named(panel, "As it is now"), Button.LeftButton)
    assert panel.table.stations[-1].y == pytest.approx(240, abs=0.3)


def test_the_ledger_tells_a_coarse_measurement_and_puts_it_right(shown: Window, way, settle: Settle) -> None:
    coarse = replace(shown.bench.job, capture=Capture(Way.WRAP, 1.25))
    shown.bench.change("measure by wrap", coarse)
    settle()
    names = [v.name for v in shown.ledger.lines.shown]
    shown.ledger.lines.choose(names.index("Measured finely enough"))
    assert shown.strap.keepers["Object"].waiting()[0] >= 1
    QTest.keyClick(shown, Key.Key_R, Qt.KeyboardModifier.AltModifier)
    QTest.qWait(150)
    settle()
    assert shown.bench.job.settings.number("fit.clearance") == pytest.approx(1.3)


def test_a_pin_goes_before_a_correction_and_says_so(shown: Window, settle: Settle) -> None:
    line = shown.notes.line
    shown.notes.write("mouth 5 lower: deep", 60.0)
    settle()
    assert "mouth −5.0 mm" in shown.notes.slips[0].text()
    shown.bench.type("mouth.y", "170mm", "pin the mouth")
    settle()
    assert "(pinned over)" in shown.notes.slips[0].text()
    assert shown.bench.made.value("mouth.y") == 170
    for _ in range(2):
        shown.bench.undo()
    settle()
    assert not shown.notes.isVisible()
    shown.board.setFocus()
    QTest.keyClick(shown.board, Key.Key_N)
    QTest.keyClick(line, Key.Key_Return)
    assert not line.isVisible()  # nothing written, nothing done
    QTest.keyClick(shown.board, Key.Key_N)
    QTest.keyClicks(line, "ease 2")
    shown.ledger.setFocus()
    assert line.isVisible()  # what was typed stays until it is taken or let be
    QTest.keyClick(line, Key.Key_Escape)
    assert not line.isVisible()
    assert shown.bench.job.settings.corrections == ()


def test_a_new_job_begins_at_the_object_and_keeps_what_lay_there(shown: Window, settle: Settle) -> None:
    shown.bench.type("welt.proud", "4.25mm", "pin welt proud")
    settle()
    QTest.keyClick(shown, Key.Key_N, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    settle()
    assert shown.bench.job.name == "New object"
    assert shown.bench.job.zones == ()
    assert shown.board.stage.name == "Object"
    assert shown.bench.error is None
    assert "is kept" in shown.notice.said.text()


def test_readings_of_one_object_are_never_put_to_another(shown: Window, way, settle: Settle) -> None:
    tape = way("Tape")
    caliper = way("Caliper")
    assert isinstance(caliper, CaliperWay)
    caliper.hear("5.00")
    caliper.hear("1.30")
    assert caliper.session.count == 2
    shown.begin_anew("Block")
    settle()
    shown.ways.turn_to("Caliper")
    assert caliper.session.count == 0
    assert [p.y for p in caliper.session.places[::2]] == [s.y for s in shown.bench.job.stations]
    shown.ways.turn_to("Tape")
    assert tape.table.stations[-1].y == pytest.approx(150)
    shown.ways.turn_to("Caliper")
    caliper.hear("30.00")
    shown.measurements.add_station()  # the places are no longer those that were asked for
    shown.ways.turn_to("Caliper")
    assert [p.y for p in caliper.session.places[::2]] == [s.y for s in shown.bench.job.stations]
