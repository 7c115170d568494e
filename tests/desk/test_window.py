"""The real window, driven as a maker drives it: mouse and keys."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit, QWidget
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.core.checks.verdict import Ruling
from tailor.core.keys import MEASURES
from tailor.core.units import System
from tailor.desk.stages import STAGES
from tailor.desk.tag import Tag
from tailor.desk.window import Window
from tests.desk.hands import shortcut
from tests.things import job_of

Key = Qt.Key


def field(tag: Tag) -> QLineEdit:
    found = tag.findChild(QLineEdit, "typing")
    assert found is not None
    return found


def type_on(tag: Tag, text: str, end: Key = Key.Key_Return) -> None:
    tag.setFocus()
    QTest.keyClick(tag, Key.Key_Return)
    QTest.keyClicks(field(tag), text)
    QTest.keyClick(field(tag), end)


def test_a_tag_takes_units_and_everything_follows(shown: Window, settle: Callable[[], None]) -> None:
    before = shown.bench.made.piece("body").area
    tag = shown.board.tags["seam.standoff"]
    QTest.mouseClick(tag, Qt.MouseButton.LeftButton, pos=QPoint(20, 28))
    QTest.keyClicks(field(tag), '1/2"')
    QTest.keyClick(field(tag), Key.Key_Return)
    settle()
    assert shown.bench.job.settings.pinned["seam.standoff"] == pytest.approx(12.7)
    assert tag.reading.said == "12.7 mm"
    assert tag.reading.pinned
    assert shown.bench.made.piece("body").area > before
    assert shown.slice.section.front_path == pytest.approx(
        float(shown.bench.made.shell.wrap([shown.board.bar]).front.length_to([shown.slice.section.stitch[0, 0]])[0]),
        abs=1e-6,
    )
    type_on(tag, "+1")
    settle()
    assert shown.bench.job.settings.pinned["seam.standoff"] == pytest.approx(13.7)


def test_escape_gives_back_the_old_value_and_tab_goes_on(shown: Window, settle: Callable[[], None]) -> None:
    tag = shown.board.tags["welt.proud"]
    type_on(tag, "9", Key.Key_Escape)
    assert shown.bench.job == demo.job()
    assert tag.reading.said == "3.0 mm"
    type_on(tag, "4", Key.Key_Tab)
    settle()
    assert shown.bench.job.settings.pinned["welt.proud"] == 4
    after = shown.focusWidget()
    other = after if isinstance(after, Tag) else after.parentWidget()
    assert isinstance(other, Tag)
    assert other is not tag


def test_wrong_input_reddens_the_tag_keeps_the_draft_and_says_why(shown: Window, settle: Callable[[], None]) -> None:
    tag, made = shown.board.tags["welt.proud"], shown.bench.made
    type_on(tag, "a bit")
    assert tag.wrong
    assert tag.typing
    assert field(tag).text() == "a bit"
    assert "welt proud" in shown.notice.said.text()
    assert shown.bench.made is made
    QTest.keyClick(field(tag), Key.Key_Escape)
    assert not tag.wrong
    shown.show_stage("Carry")
    type_on(shown.board.tags["loop.width"], "180mm")
    settle()
    assert shown.bench.error is not None
    assert shown.bench.made is made
    assert "does not fit" in shown.ledger._why.text()
    assert "does not fit" in shown.board.tags["loop.width"].wrong
    assert [k for k, t in shown.board.tags.items() if t.wrong] == ["loop.width"]
    shown.ledger.mend.click()
    settle()
    assert shown.bench.error is None
    assert not shown.board.tags["loop.width"].wrong
    assert "loop.width" not in shown.bench.job.settings


def test_what_one_sheet_cannot_follow_is_made_of_two_by_a_press(
    shown: Window, settle: Callable[[], None], qtbot: QtBot
) -> None:
    shown.bench.change("a tool", job_of(9, "folded-sheath"))
    settle()
    assert shown.ledger._head.text() == "Cannot be drafted"
    assert "make it of two panels" in shown.ledger._why.text()
    assert shown.ledger.mend.isEnabled()
    shown.ledger.mend.click()
    qtbot.waitUntil(lambda: shown.bench.job.style == "two-panel", timeout=30000)
    settle()
    assert shown.bench.error is None
    shown.bench.undo()
    assert shown.bench.job.style == "folded-sheath"


def test_pin_nudge_unpin_undo_redo_by_keys(shown: Window, settle: Callable[[], None]) -> None:
    tag = shown.board.tags["seam.toe"]
    tag.setFocus()
    computed = shown.bench.made.value("seam.toe")
    QTest.keyClick(tag, Key.Key_P)
    settle()
    assert shown.bench.job.settings.pinned["seam.toe"] == pytest.approx(computed, abs=1e-4)
    for _ in range(3):
        QTest.keyClick(tag, Key.Key_Up)
    QTest.keyClick(tag, Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    settle()
    assert shown.bench.job.settings.pinned["seam.toe"] == pytest.approx(computed + 13 * 0.5, abs=1e-4)
    shortcut(shown, "Ctrl+Z")
    settle()
    assert shown.bench.job.settings.pinned["seam.toe"] == pytest.approx(computed, abs=1e-4)
    QTest.keyClick(tag, Key.Key_P)
    settle()
    assert "seam.toe" not in shown.bench.job.settings
    shortcut(shown, "Ctrl+Z")
    shortcut(shown, "Ctrl+Z")
    settle()
    assert shown.bench.job == demo.job()
    assert not shown.acts["undo"].isEnabled()
    shortcut(shown, "Ctrl+Shift+Z")
    settle()
    assert "seam.toe" in shown.bench.job.settings
    assert shown.acts["undo"].text() == "Undo pin toe"


def test_a_tag_says_why_when_asked(shown: Window) -> None:
    tag = shown.board.tags["seam.standoff"]
    tag.setFocus()
    QTest.keyClicks(tag, "?")
    slip = shown.board.tagged._slip
    assert slip.isVisible()
    assert shown.bench.made.reasons["seam.standoff"].rule in slip.text()
    QTest.keyClick(tag, Key.Key_Escape)
    assert not slip.isVisible()


def drag(on: QWidget, start: QPointF, end: QPointF) -> None:
    QTest.mousePress(on, Qt.MouseButton.LeftButton, pos=start.toPoint())
    for share in (0.3, 0.7, 1.0):
        QTest.mouseMove(on, (start + share * (end - start)).toPoint())
    QTest.mouseRelease(on, Qt.MouseButton.LeftButton, pos=end.toPoint())


def test_the_slice_bar_and_the_mouth_are_dragged(shown: Window, settle: Callable[[], None]) -> None:
    board = shown.board
    x = board.width() / 2
    start, end = (QPointF(x, board.to_screen(0, y).y()) for y in (board.bar, 40.0))
    drag(board, start, end)
    assert board.bar == pytest.approx(40, abs=0.6)
    assert shown.slice.section.y == pytest.approx(board.bar)
    board.setFocus()
    QTest.keyClick(board, Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert shown.slice.section.y == pytest.approx(board.bar)
    assert board.bar == pytest.approx(50, abs=0.6)
    mouth = shown.bench.made.value("mouth.y")
    start, end = (QPointF(x, board.to_screen(0, y).y()) for y in (mouth, mouth - 12))
    drag(board, start, end)
    settle()
    assert shown.bench.made.value("mouth.y") == pytest.approx(mouth - 12, abs=0.7)
    shortcut(shown, "Ctrl+Z")
    settle()
    assert shown.bench.job == demo.job()  # one drag is one step


def test_stages_show_their_measures_and_keep_slice_and_ledger(shown: Window, qtbot: QtBot) -> None:
    for number, stage in enumerate(STAGES, 1):
        shortcut(shown, f"Alt+{number}")
        wanted = [m.name for m in STAGES[stage].measures(shown.bench.job, shown.bench.made)]
        assert list(shown.board.tags) == wanted
        assert not {"fit.trigger", "fit.control"} & set(wanted)  # no zone of theirs is on the blade
        first = {name for name in wanted if MEASURES[name].first or name in shown.bench.job.settings}
        qtbot.waitUntil(lambda w=first: {name for name, tag in shown.board.tags.items() if tag.isVisible()} == w)
        QTest.keyClick(shown.board, Key.Key_M)
        assert all(tag.isVisible() for tag in shown.board.tags.values())
        QTest.keyClick(shown.board, Key.Key_M)
        qtbot.waitUntil(lambda w=first: {name for name, tag in shown.board.tags.items() if tag.isVisible()} == w)
        assert shown.measurements.isVisible() == (stage == "Object")
        if stage == "Object":
            table = shown.measurements.stations
            assert table.viewport().width() - 12 <= table.horizontalHeader().length() <= table.viewport().width() + 2
        assert shown.slice.isVisible() == (not (STAGES[stage].worked or STAGES[stage].logged))
        assert shown.ledger.lines.shown or not STAGES[stage].themes


def test_measurements_are_typed_and_the_object_follows(shown: Window, settle: Callable[[], None]) -> None:
    shortcut(shown, "Alt+1")
    cells = shown.measurements.stations
    cells.item(6, 2).setText("1 5/8")
    settle()
    assert shown.bench.job.stations[6].x_seam == pytest.approx(41.275)
    assert shown.board.scene.outlines[0][:, 0].max() == pytest.approx(41.275, abs=0.01)
    cells.item(6, 3).setText("-2")
    assert "negative height" in shown.notice.said.text()
    assert shown.bench.job.stations[6].front == 2.25
    count = len(shown.bench.job.stations)
    cells.setCurrentCell(3, 0)
    shown.measurements.add_station()
    settle()
    assert len(shown.bench.job.stations) == count + 1
    shown.measurements.remove_station()
    assert len(shown.bench.job.stations) == count
    zones = shown.measurements.zones
    zones.item(1, 2).setText("140")
    settle()
    assert shown.bench.job.zones[1].high == 140
    shown.measurements.add_zone()
    zones.setCurrentCell(len(shown.bench.job.zones) - 1, 0)
    shown.measurements.remove_zone()
    assert len(shown.bench.job.zones) == 4


def test_units_hand_and_name_change_what_is_shown_only(shown: Window, settle: Callable[[], None]) -> None:
    area = shown.bench.made.piece("body").area
    shown.masthead._unit_buttons[System.FRACTION].click()
    settle()
    assert shown.board.tags["welt.proud"].reading.said.endswith('"')
    type_on(shown.board.tags["welt.proud"], "1/8")
    settle()
    assert shown.bench.job.settings.pinned["welt.proud"] == pytest.approx(3.175)
    shortcut(shown, "Ctrl+H")
    settle()
    assert shown.bench.made.mirrored
    assert shown.bench.made.piece("body").area == pytest.approx(area)
    shown.masthead.name.setText("Second try")
    QTest.keyClick(shown.masthead.name, Key.Key_Return)
    assert shown.bench.job.name == "Second try"


def test_the_ledger_shows_the_place_and_puts_it_right(shown: Window, settle: Callable[[], None]) -> None:
    shown.bench.type("leather.fold_radius", "0.2", "sharp fold")
    settle()
    verdict = shown.ledger.lines.shown[0]
    assert verdict.name == "Fold is not too sharp"
    assert verdict.ruling is not Ruling.OK
    shown.ledger.lines.setFocus()
    shown.ledger.lines.choose(0)
    QTest.keyClick(shown.ledger.lines, Key.Key_Return)
    assert shown.board.stage.name == "Leather"
    assert shown.board.bar == pytest.approx(verdict.y)
    shortcut(shown, "Alt+R")
    settle()
    assert "leather.fold_radius" not in shown.bench.job.settings


def test_a_changed_job_is_never_shown_as_fresh(shown: Window, settle: Callable[[], None]) -> None:
    shown.bench.type("welt.proud", "6mm", "proud")
    assert not shown.bench.fresh
    assert not any(t.fresh for t in shown.board.tags.values())
    settle()
    assert shown.bench.outcome.job is shown.bench.job


def test_zoom_keeps_the_point_under_the_hand_and_fit_gives_the_whole(shown: Window) -> None:
    board = shown.board
    at = QPointF(300, 300)
    place = board.to_mm(at)
    board.zoom(2.0, at)
    assert (board.to_mm(at) - place).manhattanLength() < 1e-6
    shortcut(shown, "Ctrl+0")
    left, bottom, right, top = board.scene.bounds
    corners = board.to_screen(left, bottom), board.to_screen(right, top)
    assert all(board.rect().contains(c.toPoint()) for c in corners)
    shortcut(shown, "Ctrl+L")
    assert not board.laid_flat


def test_alike_verdicts_are_one_line_that_opens(shown: Window, settle: Callable[[], None]) -> None:
    shown.bench.lay_down(demo.job("peg-tray"), None)
    settle()
    lines = shown.ledger.lines
    posts = [v for v in shown.bench.outcome.said if v.alike == "Post of the rivet"]
    (row,) = [row for row in lines.rows if row.verdict.alike == "Post of the rivet"]
    assert set(row.folded) == set(posts)
    assert row.verdict.spare == min(v.spare for v in posts)
    assert f"{len(posts)} places" in row.said
    shut = len(lines.rows)
    lines.choose(lines.rows.index(row))
    QTest.keyClick(lines, Key.Key_Right)
    assert len(lines.rows) == shut + len(posts)
    assert {r.verdict for r in lines.rows if r.within} == set(posts)
    QTest.keyClick(lines, Key.Key_Down)
    QTest.keyClick(lines, Key.Key_Left)  # from one within, too
    assert len(lines.rows) == shut


def test_what_a_change_made_another_is_marked_for_a_moment(
    shown: Window, settle: Callable[[], None], qtbot: QtBot
) -> None:
    settle()
    shown.ledger.lines.note_changes()
    shown.bench.type("loop.play", "6mm", "loop play")
    settle()
    changed = shown.ledger.lines.changed
    assert "Belt goes through the loop" in changed
    assert "Welt clear of the edge" not in changed
    qtbot.waitUntil(lambda: not shown.ledger.lines.changed, timeout=6000)
    shown.bench.lay_down(demo.job("peg-tray"), None)
    settle()
    assert not shown.ledger.lines.changed  # another job is no change
