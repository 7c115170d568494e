"""Something new in the window: picked from pictures, put right to the end, and panels measured or taken over."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.core.carried.traced import runs
from tailor.core.draft.views.seen import Eye
from tailor.desk.stages import STAGES
from tailor.desk.window import Window
from tailor.files import outlines
from tailor.standins.camera import Shot, photograph, prism


def test_the_picker_drafts_what_it_offers_and_is_walked_by_keys(
    shown: Window, settle: Callable[[], None], qtbot: QtBot
) -> None:
    shown.acts["pick"].trigger()
    picker = shown.picker
    qtbot.waitUntil(picker.isVisible)
    assert "38.0 mm across" in picker.measured.text()
    qtbot.waitUntil(lambda: not picker.room.busy, timeout=60000)
    assert len(picker.choices) >= 2
    styles = [choice.offer.style for choice in picker.choices]
    assert "folded-sheath" in styles
    assert all(choice.offer.stops == 0 for choice in picker.choices)
    assert all(choice.picture.scene is not None for choice in picker.choices)
    assert "serves." in picker.others.text()
    QTest.mouseClick(next(b for b in picker.answers[0].buttons() if b.text() == "slab"), Qt.MouseButton.LeftButton)
    assert picker.room.busy
    assert not picker.choices  # what was offered for another answer is not shown
    qtbot.waitUntil(lambda: not picker.room.busy, timeout=60000)
    picker.choices[0].setFocus()
    QTest.keyClick(picker.choices[0], Qt.Key.Key_Right)
    assert picker.choices[1].hasFocus()
    taken = picker.choices[1].offer
    QTest.keyClick(picker.choices[1], Qt.Key.Key_Return)
    settle()
    assert replace(shown.bench.job, tooling=()) == taken.job
    pieces = {piece.name for piece in taken.made.pieces}
    assert {asked.piece for asked in shown.bench.job.tooling} <= pieces  # what was on the leather goes with it
    assert len(shown.bench.job.tooling) == 2
    assert not picker.isVisible()
    shown.bench.undo()
    settle()
    assert shown.bench.job == demo.job()
    shown.acts["pick"].trigger()
    QTest.keyClick(picker, Qt.Key.Key_Escape)
    assert not picker.isVisible()
    assert not picker.room.busy


def test_a_new_block_comes_to_its_pattern_by_keys_alone_and_stays_one_line(
    shown: Window, settle: Callable[[], None], qtbot: QtBot
) -> None:
    shown.acts["measure"].trigger()
    for size in ("105", "38", "16", "3"):
        field = QApplication.focusWidget()
        assert isinstance(field, QLineEdit)
        field.selectAll()
        QTest.keyClicks(field, size)
        QTest.keyClick(field, Qt.Key.Key_Tab)
    QTest.keyClick(field, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: bool(shown.picker.choices), timeout=60000)
    QTest.keyClick(shown.picker.choices[0], Qt.Key.Key_1)  # with the chord that began it, nine presses in all
    settle()
    assert not [v for v in shown.bench.outcome.said if v.ruling == "stop"]
    assert shown.bench.job.settings.word("object.sharp") == "none"
    shown.show_stage("Object")
    lines = shown.ways.measurements
    assert lines.plain_said.text() == "Block 105.0 mm × 38.0 mm × 16.0 mm, edges 3.0 mm"
    assert not lines.stations.isVisible()
    lines.unfold()
    assert lines.stations.isVisible()
    assert lines.stations.rowCount() == len(shown.bench.job.stations)


def test_put_it_right_goes_to_the_end(shown: Window, settle: Callable[[], None], qtbot: QtBot) -> None:
    shown.bench.type("loop.width", "10mm", "narrow")
    shown.bench.type("seam.standoff", "1.2mm", "near")
    settle()
    assert [v for v in shown.bench.outcome.said if v.ruling != "ok"]
    shown.acts["right"].trigger()
    assert shown.ledger.mend.text() == "Stop"
    qtbot.waitUntil(lambda: not shown.ledger.room.busy, timeout=60000)
    settle()
    assert all(v.ruling == "ok" for v in shown.bench.outcome.said)
    shown.bench.undo()  # in one step
    settle()
    assert shown.bench.job.settings.number("loop.width") == 10


def test_a_thing_of_flat_panels_is_looked_at_and_added_to(shown: Window, settle: Callable[[], None]) -> None:
    shown.bench.change("box", demo.job("laser-level"))
    settle()
    for stage in STAGES:
        shown.show_stage(stage)
        shown.grab()
    shown.show_stage("Draft")
    board = shown.board
    board.move_bar(40.0)
    assert shown.slice.cross is not None
    assert {layer.kind for layer in shown.slice.cross.layers} == {"leather", "foam", "thing"}

    def press_on(name: str) -> None:
        middle = shown.bench.made.piece(name).cut.mean(axis=0)
        spot = middle + np.array([board.scene.shifts[name], board.scene.lifts[name]])
        QTest.mouseClick(board, Qt.MouseButton.LeftButton, pos=board.to_screen(*spot).toPoint())
        board.setFocus()
        QTest.keyClick(board, Qt.Key.Key_P)
        settle()

    press_on("gusset")
    assert shown.bench.job.settings.word("patch.on") == "gusset"
    assert "patch.width" in board.tags
    assert shown.acts["undo"].text() == "Undo pocket on the gusset"
    press_on("front")
    assert shown.bench.made.added == {"patch": "pocket", "patch2": "pocket 2"}
    assert {"patch.width", "patch2.width", "patch3.on"} <= set(board.tags)
    shown.bench.type("patch.kind", "loop", "a loop")
    settle()
    assert {"patch.tool", "patch.height"} <= set(board.tags)
    assert not {"patch.width", "patch.flap"} & set(board.tags)
    press_on("loop")  # what is sewn on is taken off
    assert shown.bench.job.settings.word("patch.on") == "none"
    assert shown.bench.made.added == {"patch2": "pocket"}
    press_on("back")
    press_on("side foam")  # nothing is sewn on foam
    assert "no piece called" in str(shown.bench.error)
    shown.acts["undo"].trigger()
    settle()
    said = []
    board.refused.connect(said.append)
    press_on("gusset")
    press_on("gusset")
    assert "3 things are sewn on already" in said[-1]
    shown.acts["strain"].setChecked(True)
    shown.board.lay(False, Eye.FRONT)  # what is not formed has no strain and no relief, and says nothing false
    settle()
    shown.grab()


def test_panels_of_an_old_one_are_taken_over_joined_and_parted(
    shown: Window, settle: Callable[[], None], tmp_path: Path
) -> None:
    drawing = tmp_path / "panels.svg"
    outlines.write(np.array([(0, 0), (60, 0), (60, 90), (0, 90)], dtype=float), drawing)
    taken(shown, drawing)
    taken(shown, drawing)
    settle()
    shown.show_stage("Draft")
    board = shown.board

    def edge(name: str, x: float, y: float) -> None:
        QTest.qWait(60)  # a notice over the board moves it
        at = board.to_screen(x + board.scene.shifts[name], y + board.scene.lifts[name]).toPoint()
        QTest.mouseClick(board, Qt.MouseButton.LeftButton, pos=at)
        QTest.keyClick(board, Qt.Key.Key_E)

    edge("panel 1", 60, 45)
    assert "panel 1 2" in shown.notice.said.text()
    edge("panel 2", 0, 45)
    settle()
    (seam,) = shown.bench.job.traced.seams
    assert seam.edges == ("panel 1 2", "panel 2 4")
    assert shown.bench.made.seam("seam 1").count > 15
    assert shown.acts["undo"].text() == "Undo sew panel 1 2 to panel 2 4"
    edge("panel 1", 30, 0)
    edge("panel 2", 30, 0)
    settle()
    edge("panel 2", 0, 45)
    settle()
    assert [seam.name for seam in shown.bench.job.traced.seams] == ["seam 2"]
    edge("panel 1", 60, 45)
    edge("panel 2", 0, 45)  # sewn anew, it does not take the place of the seam that stayed
    settle()
    assert {seam.name for seam in shown.bench.job.traced.seams} == {"seam 1", "seam 2"}
    for name, x, y in (("panel 2", 0, 45), ("panel 1", 30, 0)):
        edge(name, x, y)
        settle()
    assert shown.bench.job.traced.seams == ()
    edge("panel 2", 0, 45)
    while any(panel.name == "panel 2" for panel in shown.bench.job.traced.panels):
        shown.bench.undo()
    settle()
    edge("panel 1", 60, 45)
    assert "'panel 2 4' is no edge" in shown.notice.said.text()
    edge("panel 1", 30, 45)  # the middle of a panel is no edge
    assert "on the edge" in shown.notice.said.text()
    taken(shown, tmp_path / "none.svg")
    assert "none.svg" in shown.notice.said.text()


def taken(shown: Window, *paths: Path) -> None:
    """Panels taken over from files, and done with it."""
    shown.filing.take_panels(*paths)
    while shown.filing.busy:
        QTest.qWait(20)


def test_panels_are_taken_over_from_photos_on_the_mat(
    shown: Window, settle: Callable[[], None], tmp_path: Path
) -> None:
    """Two photographs of flat leather; its edges come out at their true length, and a run of them is parted as one."""
    photos = [tmp_path / f"{name}.jpg" for name in ("front", "back")]
    for k, photo in enumerate(photos):
        lies = np.array([(60, 80), (140, 80), (140, 190), (60, 190)], dtype=float) + 5 * k
        photo.write_bytes(photograph([prism(lies, 3.0, (92, 70, 48))], Shot(seed=k)))
    shown.filing.take_panels(*photos)
    shown.notice.offer("Stop").click()
    assert not shown.filing.busy
    assert shown.bench.job.traced.panels == ()
    taken(shown, *photos)
    settle()
    panels = shown.bench.job.traced.panels
    assert shown.acts["undo"].text() == "Undo panels of an old one"
    for panel in panels:
        assert np.ptp(np.array(panel.outline), axis=0) == pytest.approx([80, 110], abs=0.6)
        assert len(runs(panel)) == 4
    names = [panel.name for panel in panels]
    shown.bench.change("sewn", shown.bench.job.sewn("sides", [f"{name} 4-2" for name in names]))
    settle()
    shown.show_stage("Draft")
    board = shown.board
    at = board.to_screen(40 + board.scene.shifts[names[0]], 0 + board.scene.lifts[names[0]]).toPoint()
    QTest.mouseClick(board, Qt.MouseButton.LeftButton, pos=at)
    QTest.keyClick(board, Qt.Key.Key_E)
    settle()
    assert shown.bench.job.traced.seams == ()
    (tmp_path / "words.txt").write_text("no picture")
    taken(shown, tmp_path / "words.txt")
    assert "neither a drawing nor a picture" in shown.notice.said.text()
    (tmp_path / "torn.jpg").write_bytes(b"torn")
    taken(shown, tmp_path / "torn.jpg")
    assert "torn.jpg" in shown.notice.said.text()
    assert len(shown.bench.job.traced.panels) == 2
