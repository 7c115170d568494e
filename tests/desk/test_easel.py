"""The easel and the notes: what hands and keys do to them."""

from __future__ import annotations

from pathlib import Path

import ezdxf
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QPushButton
from pytestqt.qtbot import QtBot

from tailor.core.carried.block import KINDS
from tailor.core.carried.outline import comb, evenly, pulled
from tailor.core.corrections import Correction
from tailor.core.errors import InputError
from tailor.core.keys import KEYS
from tailor.core.units import System
from tailor.desk.capture.easel import PENS, Easel, Hand, Sketch, of_table, pixmap
from tailor.desk.capture.labour import Labour
from tailor.desk.notes import CORRECTED, parse, told
from tailor.desk.window import Window

Key = Qt.Key


@pytest.fixture
def easel(qtbot: QtBot) -> Easel:
    made = Easel()
    qtbot.addWidget(made)
    made.resize(600, 500)
    made.show()
    qtbot.waitExposed(made)
    return made


def dark(easel: Easel, x: float, y: float) -> int:
    """The least light of the pixels about a place in mm."""
    spot = easel.view.map(QPointF(x, y)).toPoint()
    seen = easel.grab().toImage()
    return min(seen.pixelColor(spot.x() + i, spot.y() + j).lightness() for i in (-2, 0, 2) for j in (-2, 0, 2))


def test_lines_and_pictures_stand_where_they_are_in_mm(easel: Easel) -> None:
    picture = np.full((80, 100, 3), 240, np.uint8)
    picture[60:, :20] = 10  # black in the lower left
    sketch = Sketch(pixmap(picture), (0.0, 0.0, 100.0, 80.0))
    easel.show_sketch(sketch)
    assert dark(easel, 10, 10) < 40
    assert dark(easel, 90, 70) > 200
    plain = Sketch(frame=(0.0, 0.0, 100.0, 80.0))
    for k, kind in enumerate(PENS):
        plain.lines.append((kind, np.array([[5.0, 10.0 + 8 * k], [95.0, 10.0 + 8 * k]]), False))
    easel.show_sketch(plain)
    assert dark(easel, 50, 10) < 90  # the outline
    assert len(set(PENS.values())) == len(PENS)  # no two lines look alike


def test_it_zooms_about_the_hand_and_pans_by_keys(easel: Easel) -> None:
    easel.show_sketch(of_table(KINDS["block"](120, 60, 30, 6), System.MM))
    at = QPointF(200, 150)
    before = easel.to_mm(at)
    wheel = QWheelEvent(
        at, easel.mapToGlobal(at), QPoint(), QPoint(0, 240), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(easel, wheel)
    assert easel.to_mm(at).x() == pytest.approx(before.x(), abs=0.01)
    scale = easel.view.m11()
    QTest.keyClick(easel, Key.Key_Plus)
    assert easel.view.m11() > scale
    held = easel.to_mm(at)
    QTest.keyClick(easel, Key.Key_Right)
    assert easel.to_mm(at).x() > held.x()
    QTest.mousePress(easel, Qt.MouseButton.LeftButton, pos=QPoint(200, 150))
    QTest.mouseMove(easel, QPoint(260, 150))
    QTest.mouseRelease(easel, Qt.MouseButton.LeftButton, pos=QPoint(260, 150))
    assert easel.to_mm(at).x() < held.x() + 100
    QTest.keyClick(easel, Key.Key_0)
    assert easel.view.m11() < scale


def test_hands_draw_in_mm_and_a_click_is_a_dab(easel: Easel) -> None:
    easel.show_sketch(Sketch(frame=(0.0, 0.0, 100.0, 80.0)))
    drawn: list[tuple[np.ndarray, str]] = []
    easel.stroked.connect(lambda points, hand: drawn.append((points, hand)))
    places = [easel.view.map(QPointF(x, y)).toPoint() for x, y in ((20, 20), (50, 60), (80, 20))]
    for hand in Hand:
        easel.take_hand(hand)
        QTest.mousePress(easel, Qt.MouseButton.LeftButton, pos=places[0])
        for place in places[1:]:
            QTest.mouseMove(easel, place)
        easel.grab()
        QTest.mouseRelease(easel, Qt.MouseButton.LeftButton, pos=places[-1])
        QTest.keyClick(easel, Key.Key_0)
    assert [hand for _, hand in drawn] == [h.value for h in Hand if h is not Hand.MOVE]
    for points, hand in drawn:
        assert points[0] == pytest.approx([20, 20], abs=0.4)
        assert points[-1] == pytest.approx([80, 20], abs=0.4)
        assert len(points) == (2 if hand in ("pull", "ruler") else 3)
    easel.take_hand(Hand.KEEP)
    QTest.mouseClick(easel, Qt.MouseButton.LeftButton, pos=places[0])
    assert len(drawn[-1][0]) == 2


@given(radius=st.floats(10, 60))
def test_the_comb_is_as_long_as_the_outline_bends(radius: float) -> None:
    turn = np.linspace(0, 2 * np.pi, 720, endpoint=False)
    ring = evenly(radius * np.column_stack([np.cos(turn), np.sin(turn)]), 0.5)
    teeth = np.array(comb(ring, tooth=90.0))
    assert np.hypot(*(teeth[:, 1] - teeth[:, 0]).T) == pytest.approx(np.full(len(teeth), 90 / radius), rel=0.03)
    assert (np.hypot(*teeth[:, 1].T) > np.hypot(*teeth[:, 0].T)).all()  # it bulges outward
    point = np.array([radius, 0.0])
    moved = pulled(ring, [(point, np.array([5.0, 0.0]), 6.0)])
    assert moved[:, 0].max() == pytest.approx(radius + 5, abs=0.2)
    far = np.hypot(*(ring - point).T) > 15
    assert np.abs(moved - ring)[far].max() < 0.05


NOTES = (
    ("ease 2 here: tight at the heel", Correction("ease", 2.0, "tight at the heel", 60.0)),
    ("ease 2mm at 80 over 40: tight", Correction("ease", 2.0, "tight", 80.0, 40.0)),
    ("take in 1.5", Correction("ease", -1.5, "tried in a mock-up", 60.0)),
    ("ease 1/8 in here: x", Correction("ease", 3.175, "x", 60.0)),
    ("mouth 8 mm lower: no reach", Correction("mouth.y", -8.0, "no reach", 60.0)),
    ("mouth -8: no reach", Correction("mouth.y", -8.0, "no reach", 60.0)),
    ("Loop rise 5 higher: sits low", Correction("loop.rise", 5.0, "sits low", 60.0)),
    ("standoff +1: all along", Correction("seam.standoff", 1.0, "all along", 60.0)),
    ("toe 3 longer: point pricks", Correction("seam.toe", 3.0, "point pricks", 60.0)),
)


@pytest.mark.parametrize(("said", "meant"), NOTES)
def test_a_note_is_understood_as_a_maker_says_it(said: str, meant: Correction) -> None:
    assert parse(said, 60.0, System.MM) == meant
    again = parse(f"{told(meant, System.MM).replace('−', '-')}: x", 60.0, System.MM)
    assert (again.on, again.by) == (meant.on, pytest.approx(meant.by, abs=0.05))


@pytest.mark.parametrize("said", ["", "tight", "ease", "ease lots", "leather 2 more", "mouth eight lower", "ease 900"])
def test_a_note_that_is_not_understood_says_how_to_write_it(said: str) -> None:
    with pytest.raises(InputError) as refused:
        parse(said, 60.0, System.MM)
    assert refused.value.remedy
    assert all(KEYS[key].kind.value == "length" for key in CORRECTED.values())


def test_labour_tells_faults_and_keeps_only_the_newest(qtbot: QtBot) -> None:
    labour, came, failed = Labour(), [], []
    labour.done.connect(came.append)
    labour.failed.connect(failed.append)
    labour.start(lambda tell: 1 / 0)
    qtbot.waitUntil(lambda: bool(failed))
    assert "Tailor itself is at fault" in failed[0]
    labour.start(lambda tell: (_ for _ in ()).throw(InputError("it is bent", "file", "straighten it")))
    qtbot.waitUntil(lambda: len(failed) == 2)
    assert failed[1] == "file: it is bent; straighten it."
    for k in range(5):
        labour.start(lambda tell, k=k: k)
    qtbot.waitUntil(lambda: not labour.busy)
    assert came == [4]
    labour.finish()


def test_mats_and_outlines_are_written_from_the_panel(shown: Window, qtbot: QtBot, tmp_path: Path, monkeypatch) -> None:
    shown.show_stage("Object")
    shown.ways.turn_to("Photo")
    photo = shown.ways.panel("Photo")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(tmp_path / "mat.pdf"), ""))
    QTest.mouseClick(photo.mats["a3"], Qt.MouseButton.LeftButton)
    assert (tmp_path / "mat.pdf").read_bytes().startswith(b"%PDF")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(tmp_path / "no" / "where" / "mat.pdf"), ""))
    QTest.mouseClick(photo.mats["a4"], Qt.MouseButton.LeftButton)
    assert "mat.pdf" in shown.notice.said.text()
    QTest.mouseClick(photo.write, Qt.MouseButton.LeftButton)
    assert "no outline yet" in shown.notice.said.text()
    shown.notice.hide()
    shown.ways.turn_to("Outline")
    panel = shown.ways.panel("Outline")
    QTest.mouseClick(panel.write, Qt.MouseButton.LeftButton)
    assert "no outline yet" in shown.notice.said.text()
    demo = next(b for b in panel.findChildren(QPushButton) if b.accessibleName() == "Demo drawing")
    QTest.mouseClick(demo, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: panel.table is not None, timeout=20000)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(tmp_path / "o.dxf"), ""))
    QTest.mouseClick(panel.write, Qt.MouseButton.LeftButton)
    (line,) = ezdxf.readfile(tmp_path / "o.dxf").modelspace()
    assert np.ptp([p[1] for p in line.get_points()]) == pytest.approx(panel.table.stations[-1].y, abs=0.3)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(tmp_path / "o.txt"), ""))
    QTest.mouseClick(panel.write, Qt.MouseButton.LeftButton)
    assert "name it .svg or .dxf" in shown.notice.said.text()


def test_jaws_and_new_zones_follow_the_left_hand(shown: Window, settle) -> None:
    shown.show_stage("Object")
    shown.flip_hand()
    settle()
    shown.ways.turn_to("Caliper")
    assert shown.board.jaws is not None
    shown.grab()
    shown.ways.turn_to("Stations")
    assert shown.board.jaws is None
    board = shown.board
    right = max(z[2] for z in board.scene.zones) + 6
    count = len(shown.bench.job.zones)
    start, end = (board.to_screen(right, y).toPoint() for y in (30.0, 60.0))
    QTest.mousePress(board, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(board, (start + end) / 2)
    QTest.mouseMove(board, end)
    QTest.mouseRelease(board, Qt.MouseButton.LeftButton, pos=end)
    settle()
    assert len(shown.bench.job.zones) == count + 1
