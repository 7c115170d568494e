"""Every way of measuring, through the real window, with mouse and keys."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

import pytest
from PIL import Image as Photo
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot
from shapely.geometry import Polygon

from tailor.core.carried.capture import Way
from tailor.core.carried.loft import Loft
from tailor.desk.capture.drawn import MeshWay, OutlineWay
from tailor.desk.capture.easel import Hand
from tailor.desk.capture.pictured import PhotoWay, ScanWay
from tailor.desk.window import Window
from tailor.standins.camera import Shot, photograph
from tests.desk.hands import Button, Key, demo, drag, named, typed

Settle = Callable[[], None]


def test_a_photo_is_measured_mended_by_hand_and_taken(shown: Window, way, qtbot: QtBot, settle: Settle) -> None:
    panel = way("Photo")
    assert isinstance(panel, PhotoWay)
    demo(panel, "picture", qtbot)
    before = shown.bench.job
    assert panel.table.stations[-1].y == pytest.approx(150, abs=0.8)
    assert max(s.width for s in panel.table.stations) == pytest.approx(50, abs=0.8)

    def again() -> Polygon:
        qtbot.waitUntil(lambda: not panel.labour.busy and panel.table is not None, timeout=10000)
        return Polygon(panel.found.outline)

    whole = again()
    QTest.mouseClick(named(panel, "Remove"), Button.LeftButton)
    typed(panel.brush, "8 mm")
    assert shown.easel.radius == 8.0
    middle = whole.centroid
    drag(shown, Hand.REMOVE, [(middle.x - 40, 95), (middle.x, 94), (middle.x + 40, 93)])  # off with its foot
    assert again().area < 0.95 * whole.area
    QTest.mouseClick(named(panel, "Undo touch"), Button.LeftButton)
    assert again().area == pytest.approx(whole.area, rel=1e-6)
    QTest.mouseClick(named(panel, "Pull"), Button.LeftButton)
    edge = panel.found.seen[panel.found.seen[:, 0].argmax()]
    drag(shown, Hand.PULL, [tuple(edge), (edge[0] + 6, edge[1])])
    assert again().bounds[2] > whole.bounds[2] + 2
    QTest.mouseClick(named(panel, "Undo touch"), Button.LeftButton)
    again()
    typed(panel.thick, "1 in")
    assert again().area > 0
    assert panel.table.stations[3].thickness == pytest.approx(25.4)
    QTest.mouseClick(panel.take_it, Button.LeftButton)
    settle()
    assert shown.bench.job.capture.way is Way.PHOTO
    assert shown.ways.way == "Stations"
    assert shown.bench.undoes == "measure by photo"
    shown.bench.undo()
    assert shown.bench.job == before


def test_a_photo_that_cannot_be_measured_says_so_and_changes_nothing(shown, way, qtbot: QtBot, tmp_path: Path) -> None:
    panel = way("Photo")
    before = shown.bench.job
    (tmp_path / "bad.jpg").write_bytes(b"no picture")
    panel.thick.setText("9")
    shown.open(tmp_path / "bad.jpg")
    qtbot.waitUntil(lambda: "cannot be read" in shown.notice.said.text(), timeout=10000)
    assert not panel.take_it.isEnabled()
    typed(panel.thick, "nine")
    assert "height" in panel.said.text()
    assert shown.bench.job == before


def test_what_stands_out_nowhere_can_be_painted(shown: Window, way, qtbot: QtBot, tmp_path: Path) -> None:
    panel = way("Photo")
    panel.thick.setText("3mm")
    shown.open(tmp_path / "bare.jpg")
    qtbot.waitUntil(lambda: "no such file" in panel.said.text(), timeout=10000)
    assert shown.easel.sketch is None
    (tmp_path / "bare.jpg").write_bytes(photograph([], Shot(size=(1600, 1200), tilt=4)))
    shown.open(tmp_path / "bare.jpg")
    qtbot.waitUntil(lambda: "no object stands out" in panel.said.text(), timeout=10000)
    assert shown.easel.sketch.picture is not None  # it can be painted on all the same
    assert panel.table is None
    QTest.mouseClick(named(panel, "Keep"), Button.LeftButton)
    shown.easel.radius = 12.0
    drag(shown, Hand.KEEP, [(105.0, 100.0), (105.0, 150.0), (105.0, 190.0)])
    qtbot.waitUntil(lambda: panel.table is not None, timeout=10000)
    assert panel.table.capture.accuracy > 0.5  # there is no edge there, and it says so


def test_long_work_can_be_stopped_and_what_is_stale_is_never_shown(shown, way, qtbot: QtBot) -> None:
    panel = way("Photo")
    told = []

    def slow(tell) -> str:
        for k in range(400):
            tell("working", k / 400)
            time.sleep(0.01)
        return "late"

    panel.labour.done.disconnect(panel._came)
    panel.labour.done.connect(told.append)
    panel.labour.start(slow)
    qtbot.waitUntil(lambda: panel.bar.isVisible() and panel.bar.value() > 1)
    assert not panel.take_it.isEnabled()
    QTest.mouseClick(panel.halt, Button.LeftButton)
    assert "Stopped" in panel.said.text()
    panel.labour.start(lambda tell: "fresh")
    qtbot.waitUntil(lambda: bool(told), timeout=6000)
    QTest.qWait(60)
    assert told == ["fresh"]


def test_a_scan_is_measured_and_scaled_by_a_ruler_in_it(shown, way, qtbot: QtBot, tmp_path: Path) -> None:
    panel = way("Scan")
    assert isinstance(panel, ScanWay)
    demo(panel, "picture", qtbot)
    assert panel.table.stations[-1].y == pytest.approx(178, abs=0.6)
    assert panel._read is not None
    Photo.fromarray(panel._read[1].pixels[..., ::-1]).save(tmp_path / "plain.png")  # says nothing of its fineness
    panel.open(tmp_path / "plain.png")
    qtbot.waitUntil(lambda: "does not say how fine" in panel.said.text(), timeout=10000)
    assert not panel.take_it.isEnabled()
    typed(panel.ruler, "50mm")
    QTest.mouseClick(named(panel, "Ruler"), Button.LeftButton)
    fifty = 50 * 200 / 300  # mm of the scan as it is shown, at 300 dpi
    drag(shown, Hand.RULER, [(10.0, 40.0), (10.0, 60.0), (10.0, 40.0 + fifty)])
    qtbot.waitUntil(lambda: panel.table is not None, timeout=10000)
    assert panel.table.stations[-1].y == pytest.approx(178, abs=3.0)


def test_an_outline_comes_in_is_picked_faired_and_written_back(shown, way, qtbot: QtBot, tmp_path: Path) -> None:
    panel = way("Outline")
    assert isinstance(panel, OutlineWay)
    demo(panel, "drawing", qtbot)
    long = panel.table.stations[-1].y
    tip = panel.straight[panel.straight[:, 1].argmin(), 0]
    panel.over.click()
    qtbot.waitUntil(lambda: not panel.labour.busy and panel.table is not None)
    assert panel.table.stations[-1].y == pytest.approx(long, abs=0.5)
    assert panel.straight[panel.straight[:, 1].argmax(), 0] == pytest.approx(-tip, abs=1)
    panel.comb.click()
    qtbot.waitUntil(lambda: any(kind == "comb" for kind, *_ in shown.easel.sketch.lines))
    (tmp_path / "n.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg"><rect width="4" height="9"/></svg>')
    shown.open(tmp_path / "n.svg")
    qtbot.waitUntil(lambda: "does not say its unit" in panel.said.text(), timeout=10000)
    panel.unit.setCurrentText("in")
    qtbot.waitUntil(lambda: panel.table is not None, timeout=10000)
    assert panel.table.stations[-1].y == pytest.approx(9 * 25.4, abs=0.2)


def test_a_solid_is_sliced_on_the_axis_chosen(shown: Window, way, qtbot: QtBot, settle: Settle) -> None:
    panel = way("Mesh")
    assert isinstance(panel, MeshWay)
    demo(panel, "solid", qtbot)
    there = Loft(panel.table.stations).sections(60.0)
    assert float(there.x_seam[0] - there.x_spine[0]) == pytest.approx(58, abs=0.2)
    assert panel.table.stations[-1].y > 130  # the aerial stands out
    panel.along.setCurrentText("x")
    qtbot.waitUntil(lambda: panel.table is not None and panel.table.stations[-1].y < 60, timeout=20000)
    QTest.keyClick(shown, Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: shown.bench.job.capture.way is Way.MESH)
    settle()


def test_a_photos_fields_are_checked_and_followed(shown: Window, way, qtbot: QtBot) -> None:
    panel = way("Photo")
    demo(panel, "picture", qtbot)
    wide = max(s.width for s in panel.table.stations)

    def ready() -> None:
        qtbot.waitUntil(lambda: not panel.labour.busy, timeout=20000)

    typed(panel.rule, "98mm")
    ready()
    assert max(s.width for s in panel.table.stations) == pytest.approx(0.98 * wide, abs=0.3)
    typed(panel.rule, "20mm")
    ready()
    assert "rule of the mat" in panel.said.text()
    assert panel.table is None
    typed(panel.rule, "100mm")
    ready()
    typed(panel.distance, "4 in")
    ready()
    assert panel.table is None or panel.table.capture.accuracy > 0
    typed(panel.distance, "")
    typed(panel.lens, "0.1, soft")
    assert "not a distortion" in panel.said.text()
    typed(panel.lens, "0, 0, 0, 0")
    ready()
    panel.round.click()
    ready()
    round_sides = max(s.width for s in panel.table.stations)
    assert abs(round_sides - wide) > 0.5  # taken for round, the same edge lies elsewhere
    panel.round.click()
    panel.shape.setCurrentText("oval")
    ready()
    assert {s.shape for s in panel.table.stations} == {"oval"}
    typed(panel.thick, "0: 20, 150: 30")
    ready()
    assert panel.table.stations[-1].thickness == pytest.approx(30, abs=1.0)
    assert panel.table.stations[0].thickness == pytest.approx(20, abs=1.0)
    panel.over.click()
    ready()
    assert panel.table.stations[0].thickness == pytest.approx(30, abs=1.0)
    panel.comb.click()
    ready()
    assert any(kind == "comb" for kind, *_ in shown.easel.sketch.lines)
    typed(panel.fair, "-1")
    ready()
    panel.even.click()
    ready()
    assert "sides were unlike" in panel.said.text()
    shown.ways.turn_to("Block")
    shown.ways.turn_to("Photo")
    assert shown.easel.sketch.picture is not None  # what was found is still there


def test_nothing_stale_can_be_taken(shown: Window, way, qtbot: QtBot) -> None:
    panel = way("Outline")
    demo(panel, "drawing", qtbot)
    before = shown.bench.job
    typed(panel.thick, "8mm")  # worked out anew from here on
    assert panel.labour.busy
    assert panel.table is None
    panel.take()
    assert shown.bench.job == before
    typed(panel.thick, "thick")  # and what is under way is not for this
    assert not panel.labour.busy
    QTest.qWait(1500)
    assert panel.table is None
    assert "thick" in panel.said.text()
    typed(panel.thick, "8mm")
    qtbot.waitUntil(lambda: panel.table is not None, timeout=10000)
    assert panel.table.stations[3].thickness == 8
