"""The looks of the board: relief, strain, a draft held to compare, ways out, and other constructions."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QColor, QImage, QPainterPath, QPolygonF
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.core.draft.views.seen import Eye
from tailor.desk.looks import _joined
from tailor.desk.window import Window
from tailor.desk.words import Words
from tailor.files.dyes import ANNATTO, CORNFLOWER
from tests.desk.hands import shortcut

Key, Button = Qt.Key, Qt.MouseButton


@pytest.fixture
def lay(shown: Window, settle: Callable[[], None]) -> Callable[[str], Window]:
    def laid(name: str) -> Window:
        shown.bench.lay_down(demo.job(name), None)
        settle()
        shown.board.fit()
        return shown

    return laid


def colours(shown: Window) -> set[str]:
    image = shown.board.grab().toImage()
    return {image.pixelColor(x, y).name() for x in range(0, image.width(), 3) for y in range(0, image.height(), 3)}


def seen(shown: Window) -> np.ndarray:
    """The colours of the board, (h, w, 3)."""
    image = shown.board.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
    bits = image.constBits()
    assert bits is not None
    bits.setsize(image.sizeInBytes())
    return np.frombuffer(bits, np.uint8).reshape(image.height(), image.width(), 4)[..., 2::-1].astype(int)


def tinted(name: str, plain: np.ndarray, now: np.ndarray) -> int:
    """At how many places the board came nearer to a dye."""
    dye = QColor(name)
    of = np.array([dye.red(), dye.green(), dye.blue()])
    return int((np.linalg.norm(plain - of, axis=2) - np.linalg.norm(now - of, axis=2) > 12).sum())


@pytest.mark.parametrize("name", ["shears", "eaves-blade"])
def test_the_relief_turns_from_front_to_behind_to_edge_and_back(
    lay: Callable[[str], Window], settle: Callable[[], None], name: str
) -> None:
    shown = lay(name)
    shown.show_stage("Leather")
    drawn = colours(shown)
    tags = list(shown.board.tags)
    for keys, eye in zip(("Ctrl+1", "Ctrl+2", "Ctrl+3"), Eye, strict=True):
        shortcut(shown, keys)
        assert shown.board.looks.eye is eye
        assert shown.bench.looking  # worked out beside the window
        settle()
        assert shown.board.looks._picture.lit.shape[1] > 40
        assert len(colours(shown) - drawn) > 200  # it is lit
        assert (list(shown.board.tags) == tags) == (eye is Eye.FRONT)
        shown.board.move_bar(70.0)
        assert shown.slice.at == pytest.approx(70.0)  # the bar still cuts
    left, _, right, _ = shown.board.scene.bounds
    assert right - left < 60  # on its edge it is narrow
    shortcut(shown, "Ctrl+L")
    assert shown.board.looks.eye is None
    assert shown.board.laid_flat


def test_left_handed_the_relief_is_mirrored(lay: Callable[[str], Window], settle: Callable[[], None]) -> None:
    shown = lay("spar-hook")
    shortcut(shown, "Ctrl+1")
    settle()
    left = shown.board.scene.bounds
    shortcut(shown, "Ctrl+H")
    settle()
    right = shown.board.scene.bounds
    assert right[0] == pytest.approx(-left[2], abs=0.5)


def test_strain_is_tinted_and_its_worst_places_named(lay: Callable[[str], Window], settle: Callable[[], None]) -> None:
    shown = lay("radio")
    for stage in ("Draft", "Leather"):
        shown.show_stage(stage)
        plain = seen(shown)
        shortcut(shown, "Ctrl+K")
        assert shown.acts["strain"].isChecked()
        settle()
        for dye in (ANNATTO, CORNFLOWER):
            assert tinted(dye, plain, seen(shown)) > 1500
        panel, *_ = shown.board.looks._strained
        assert panel.strain.load.max() > 0.3
        shortcut(shown, "Ctrl+K")
    folded = lay("eaves-blade")
    folded.show_stage("Draft")
    shortcut(folded, "Ctrl+K")
    settle()
    assert len(folded.board.looks._strained) == 2  # front and back of one sheet


def test_a_draft_is_held_compared_and_taken_back(lay: Callable[[str], Window], settle: Callable[[], None]) -> None:
    shown = lay("shears")
    before = shown.bench.job
    shortcut(shown, "Ctrl+B")
    assert shown.held.isVisible()
    assert not any(shown.held._changed(d) for d in shown.held.found)
    shown.bench.type("mould.method", "fingers", "fingers")
    settle()
    changed = {d.name: d for d in shown.held.found if shown.held._changed(d)}
    assert changed["standoff"].change > 0
    assert changed["stretch"].change < 0
    assert "valley" in shown.held.accessibleDescription()
    assert shown.board.looks._ghosts
    assert shown.slice.ghost is not None
    assert shown.slice.ghost.front_path != shown.slice.section.front_path
    shown.grab()  # both are drawn over each other
    QTest.mouseClick(shown.held.back, Button.LeftButton)
    settle()
    assert shown.bench.job == before
    assert shown.bench.undoes == "take the held draft back"
    shortcut(shown, "Ctrl+B")
    assert not shown.held.isVisible()
    assert shown.slice.ghost is None


def test_ways_out_are_worked_beside_the_window_and_one_is_taken(
    lay: Callable[[str], Window], settle: Callable[[], None], qtbot: QtBot
) -> None:
    shown = lay("shears")
    shown.bench.type("leather.gather", "0.02", "stiff")  # leather that hardly gathers
    settle()
    shown.show_stage("Leather")
    names = [v.name for v in shown.ledger.lines.shown]
    shown.ledger.lines.choose(names.index("Leather takes up the fullness"))
    assert shown.ledger.outs.isVisible()
    QTest.mouseClick(shown.ledger.outs, Button.LeftButton, pos=QPoint(5, 5))
    assert shown.ways_out.isVisible()
    assert shown.ways_out.labour.busy  # the window does not wait for it
    qtbot.waitUntil(lambda: len(shown.ways_out.found) > 4, timeout=30000)
    lines = shown.ways_out.findChildren(QPushButton)
    assert all("%" in b.text() for b in lines if b.text() != "Close")
    gusset = next(b for b in lines if "gusset" in b.text())
    assert not gusset.isEnabled()  # another construction, told but not taken here
    taken = next(b for b in lines if b.text().startswith("Mould it with fingers"))
    QTest.mouseClick(taken, Button.LeftButton)
    settle()
    assert shown.bench.job.settings.pinned["mould.method"] == "fingers"
    assert not shown.ways_out.isVisible()  # they were for the job as it was
    shown.bench.undo()
    settle()
    shortcut(shown, "Ctrl+J")
    QTest.keyClick(shown.ways_out, Key.Key_Escape)
    assert not shown.ways_out.isVisible()
    shortcut(shown, "Ctrl+J")
    assert shown.ways_out.isVisible()
    shown.bench.redo()
    settle()
    qtbot.wait(600)
    assert shown.ways_out.found == ()  # stopped: nothing stale is shown


def test_another_construction_keeps_object_leather_and_corrections(
    lay: Callable[[str], Window], settle: Callable[[], None]
) -> None:
    shown = lay("shears")
    kept = shown.bench.job
    shown.menus.constructions.styles["two-panel"].trigger()
    settle()
    job = shown.bench.job
    assert job.style == "two-panel"
    assert (job.stations, job.settings, job.zones) == (kept.stations, kept.settings, kept.zones)
    assert [p.name for p in shown.bench.made.pieces] == ["front blank", "back blank", "template", "welt", "loop"]
    shown.menus.constructions.refresh()
    assert [s for s, a in shown.menus.constructions.styles.items() if a.isChecked()] == ["two-panel"]
    shown.bench.undo()
    settle()
    assert shown.bench.job.style == "flat-back"
    for stage in ("Leather", "Draft", "Stitch", "Carry"):
        shown.show_stage(stage)
        assert not shown.grab().isNull()


def test_dragging_never_shows_the_old_as_new(lay: Callable[[str], Window], settle: Callable[[], None]) -> None:
    shown = lay("radio")
    shortcut(shown, "Ctrl+1")
    shortcut(shown, "Ctrl+K")
    for k in range(12):
        shown.bench.type("fit.clearance", f"{0.6 + 0.05 * k:.2f}mm", "clearance", joins="drag clearance")
        stale = [t for t in shown.board.tags.values() if not t.fresh]
        assert stale or shown.bench.fresh
    settle()
    assert shown.bench.made.shell.clearance == pytest.approx(1.15)
    worked = shown.bench.outcome.looked  # relief and strain were worked where the draft was
    assert worked.made is shown.bench.made
    assert shown.board.looks._picture is worked.picture
    assert shown.board.looks._strained[0].strain is worked.strains[0][1]


# In the round


def test_it_is_looked_at_in_the_round(lay: Callable[[str], Window], qtbot: QtBot, settle: Callable[[], None]) -> None:
    shown = lay("laser-level")
    turning = shown.turning

    def together() -> None:
        qtbot.waitUntil(lambda: not turning.labour.busy and turning.closing is not None, timeout=60_000)

    def leather() -> np.ndarray:
        """Where something is drawn, (h, w), once it is at rest."""
        qtbot.waitUntil(lambda: turning.seen.rests)
        image = turning.seen.grab().toImage()
        ground = image.pixelColor(1, 1).rgb()
        return np.array([[image.pixelColor(x, y).rgb() != ground for x in range(0, image.width(), 4)]
                         for y in range(0, image.height(), 4)])  # fmt: skip

    shortcut(shown, "Ctrl+4")
    together()
    front = leather()
    assert 0.1 < front.mean() < 0.6
    assert turning.seen.hasFocus()
    said = turning.findChildren(Words)[0]
    assert said.text().startswith("Closed")
    assert "strap" not in said.text()  # its place is told
    assert front[-1].sum() == 0  # the case is seen whole, and as large as there is room for
    assert front[len(front) // 3 :].any(axis=1).sum() > 0.55 * len(front)
    assert front[0].any()  # the strap runs out at the top
    for _ in range(8):
        QTest.keyClick(turning.seen, Key.Key_Minus)
    far = leather()
    assert not far[0].any()
    assert not far[:, [0, -1]].any()  # all of it, once one steps back
    QTest.keyClick(turning.seen, Key.Key_F)
    QTest.keyClick(turning.seen, Key.Key_Right)
    wide = [turning.seen._picture.shape[1]]
    assert (leather() != front).mean() > 0.005
    assert [*wide, turning.seen._picture.shape[1]] == [turning.seen.width(), 2 * turning.seen.width()]
    QTest.mousePress(turning.seen, Button.LeftButton, pos=QPoint(200, 200))
    QTest.mouseMove(turning.seen, QPoint(300, 180))
    QTest.mouseRelease(turning.seen, Button.LeftButton, pos=QPoint(300, 180))
    QTest.keyClick(turning.seen, Key.Key_F)
    assert (leather() == front).all()
    steps = len(turning.closing.steps)
    QTest.keyClick(turning.seen, Key.Key_BracketLeft)
    assert said.text().startswith(f"{steps - 1} of {steps}: ")
    for _ in range(steps):
        QTest.keyClick(turning.seen, Key.Key_BracketLeft)
    assert said.text() == f"{steps} pieces, flat"
    turning.step.setValue(turning.step.maximum())
    QTest.keyClick(turning.seen, Key.Key_O)
    assert leather().sum() != front.sum()
    QTest.keyClick(turning.seen, Key.Key_O)
    assert turning.lift.isVisible()
    QTest.keyClick(turning.seen, Key.Key_L)  # its flap stands up
    assert (leather() != front).mean() > 0.05
    QTest.keyClick(turning.seen, Key.Key_L)
    assert (leather() == front).all()
    shown.bench.type("leather.thickness", "4", "leather")  # what is shown is not taken for what is wanted
    assert turning.seen.stale
    settle()
    together()
    assert not turning.seen.stale
    assert turning.closing.whole.pieces["front"].thickness == 4
    shown.bench.type("panel.corner", "200", "corner")  # what cannot be drafted is not shown as if it were
    settle()
    assert shown.bench.outcome.made is None
    assert "no draft" in said.text()
    assert not leather().any()
    shown.bench.undo()
    settle()
    together()
    assert said.text().startswith("Closed")
    assert leather().any()
    QTest.keyClick(turning.seen, Key.Key_Escape)
    assert shown.board.isVisible()
    assert not turning.isVisible()
    shortcut(shown, "Ctrl+4")
    shortcut(shown, "Ctrl+L")  # what is laid flat lies on the board
    assert shown.board.isVisible()


def test_what_cannot_be_put_together_is_said(
    lay: Callable[[str], Window], qtbot: QtBot, settle: Callable[[], None]
) -> None:
    shown = lay("old-pouch")
    shown.bench.change("part them", shown.bench.job.sewn("front", ()).sewn("back", ()))
    settle()
    shown.middle.turn_round()
    qtbot.waitUntil(lambda: not shown.turning.labour.busy, timeout=60_000)
    assert "cannot be put together" in shown.turning.findChildren(Words)[0].text()


def test_cells_become_one_path_as_if_each_were_drawn() -> None:
    corner = np.random.default_rng(4).uniform(-200, 200, (500, 1, 2))
    quads = corner + np.array([[0.0, 0.0], [7.0, 1.0], [8.0, 6.0], [-1.0, 5.0]])
    drawn = QPainterPath()
    drawn.setFillRule(Qt.FillRule.WindingFill)
    for cell in quads:
        drawn.addPolygon(QPolygonF([QPointF(*at) for at in (*cell, cell[0])]))
    found = _joined(quads)
    assert found == drawn
    assert found.fillRule() is Qt.FillRule.WindingFill
    assert _joined(quads[:0]).isEmpty()
