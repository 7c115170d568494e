"""The board and what lies round it, part by part."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QColor, QImage, QWheelEvent
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.core.draft.draft import Draft
from tailor.core.job import Job, draft
from tailor.core.keys import MEASURES
from tailor.core.measure import Kind, Theme
from tailor.core.units import System
from tailor.desk import screenshots, theme
from tailor.desk.hanging import carried, turned
from tailor.desk.readings import nudged, reading, told, typed, why
from tailor.desk.scene import Scene
from tailor.desk.scene_flat import flat
from tailor.desk.scene_made_up import made_up
from tailor.desk.stages import STAGES, stage_of
from tailor.desk.window import Window
from tailor.files.dyes import GALL, INDIGO, INK, LICHEN, LOGWOOD, WALNUT, WOAD
from tests.lofts import CASES, case
from tests.sweeps import some

Key = Qt.Key


# Scenes and measures


def up(job: Job, made: Draft, bare: bool) -> Scene:
    """The scene of a draft made up."""
    return made_up(made, job, bare)


@pytest.mark.parametrize("hand", ["right", "left"])
@pytest.mark.parametrize("name", [*CASES, "laser-level", "leggett", "site-book"])
def test_measures_are_tied_to_places_in_view(name: str, hand: str) -> None:
    job = case(name).typed("hand", hand)
    made = draft(job)
    for scene in (up(job, made, bare=True), flat(made)):
        left, bottom, right, top = scene.bounds
        tied = [m.name for stage in STAGES.values() for m in stage.measures(job, made) if m.name in scene.places]
        for x, y in (scene.places[key] for key in tied):
            assert left - 30 <= x <= right + 30  # zones lie beside the object
            assert bottom - 5 <= y <= top + 5
    assert len(tied) >= 4  # on the pieces laid flat


@pytest.mark.parametrize("name", demo.names())
def test_every_setting_a_draft_consults_is_at_one_stage(name: str) -> None:
    job = demo.job(name)
    made = draft(job)
    at = [m.name for stage in STAGES.values() for theme_ in stage.themes for m in stage.measures(job, made)
          if m.theme is theme_]  # fmt: skip
    assert len(at) == len(set(at))
    idle = {key for key in made.consulted if not MEASURES[key].applies(job, made)}
    assert set(made.consulted) - set(at) == idle
    assert not idle & set(job.settings.pinned)
    assert {theme_ for stage in STAGES.values() for theme_ in stage.themes} == set(Theme)


def test_a_left_hand_scene_is_the_right_hand_one_mirrored(eaves: Job) -> None:
    right, left = (made_up(draft(j), j, bare=True) for j in (eaves, eaves.typed("hand", "left")))
    assert left.bounds[0] == pytest.approx(-right.bounds[2])
    for name, (x, y) in right.places.items():
        assert left.places[name] == pytest.approx((-x, y))


@pytest.mark.parametrize(
    "demo_name", ["eaves-blade", "shears", "shearing-blade", "laser-level", "site-book", "marking-gauge"]
)
def test_every_reading_can_say_why_and_be_nudged(demo_name: str) -> None:
    eaves = demo.job(demo_name)
    sheath = draft(eaves)
    for stage in STAGES.values():
        for measure in stage.measures(eaves, sheath):
            name = measure.name
            now = reading(eaves, sheath, MEASURES[name])
            said = why(now, System.MM)
            assert said.startswith(measure.label.capitalize())
            assert len(said.splitlines()) >= 2
            text = nudged(now, eaves, 1)
            told_by_hand = now.setting is not None and now.setting.kind in (Kind.SIZES, Kind.WORD)
            assert (text is None) == (now.setting is None or told_by_hand)
            if text is not None and now.setting.low < float("inf"):
                assert eaves.typed(name, text).settings.pinned[name] != now.value or now.value in (1, now.setting.high)


@pytest.mark.parametrize(
    ("name", "text", "expected"),
    [("seam.margin", "+1", 6.6), ("seam.margin", "-0.5mm", 5.1), ("seam.margin", "7", 7.0), ("mouth.y", "+10", 193.0)],
)
def test_a_leading_sign_changes_the_present_value(
    eaves: Job, sheath: Draft, name: str, text: str, expected: float
) -> None:
    now = reading(eaves, sheath, MEASURES[name])
    assert eaves.typed(name, typed(now, eaves, text)).settings.pinned[name] == pytest.approx(expected, abs=1e-3)


def test_sentences_name_tags_not_keys() -> None:
    said = told("loop.width: a loop 25.4 mm wide does not fit; set loop.landing to none.", System.FRACTION)
    assert said == 'loop width: a loop 1" wide does not fit; set rides by to none.'


def _luminance(name: str) -> float:
    parts = [c / 255 for c in QColor(name).getRgb()[:3]]
    linear = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    return float(np.dot([0.2126, 0.7152, 0.0722], linear))


@pytest.mark.parametrize("ground", [theme.CARD, theme.PAPER])
@pytest.mark.parametrize("dye", [INK, WOAD, INDIGO, WALNUT, GALL, LICHEN, LOGWOOD, *theme.RULING.values()])
def test_every_colour_reads_on_card_and_paper(dye: str, ground: str) -> None:
    light, dark = sorted((_luminance(dye), _luminance(ground)), reverse=True)
    assert (light + 0.05) / (dark + 0.05) >= 4.5  # WCAG AA


# Hands


def test_a_zone_is_dragged_by_its_end_in_one_step(shown: Window, settle: Callable[[], None]) -> None:
    shown.show_stage("Object")
    board = shown.board
    number, _, x, _, high = next(z for z in board.scene.zones if z[1] == "edge")
    start = board.to_screen(x, high)
    end = board.to_screen(x, high - 20)
    QTest.mousePress(board, Qt.MouseButton.LeftButton, pos=start.toPoint())
    for share in (0.5, 1.0):
        QTest.mouseMove(board, (start + share * (end - start)).toPoint())
    QTest.mouseRelease(board, Qt.MouseButton.LeftButton, pos=end.toPoint())
    settle()
    assert shown.bench.job.zones[number].high == pytest.approx(high - 20, abs=1)
    assert shown.measurements.zones.item(number, 2).text() == f"{shown.bench.job.zones[number].high:g}"
    # A zone that goes while its end is in the hand, or is only drawn still, is not held any more.
    settle()
    at = board.to_screen(x, shown.bench.job.zones[number].high).toPoint()
    QTest.mousePress(board, Qt.MouseButton.LeftButton, pos=at)
    bare = replace(shown.bench.job, zones=shown.bench.job.zones[:number])
    shown.bench.change("no zones", bare)
    assert board.zoning.under(QPointF(at)) == "gutter"
    QTest.mouseMove(board, at + QPoint(0, 30))
    QTest.mouseRelease(board, Qt.MouseButton.LeftButton, pos=at + QPoint(0, 30))
    assert shown.bench.job == bare
    shown.bench.undo()
    shown.bench.undo()
    settle()
    assert shown.bench.job == demo.job()


def test_the_card_is_moved_and_zoomed_by_hand(shown: Window) -> None:
    board = shown.board
    place = board.to_mm(QPointF(200, 600))
    QTest.mousePress(board, Qt.MouseButton.LeftButton, pos=QPoint(200, 600))
    QTest.mouseMove(board, QPoint(240, 570))
    QTest.mouseRelease(board, Qt.MouseButton.LeftButton, pos=QPoint(240, 570))
    assert (board.to_mm(QPointF(240, 570)) - place).manhattanLength() < 1e-6
    scale = board.view.m11()
    none = Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier
    board.wheelEvent(
        QWheelEvent(
            QPointF(300, 300), QPointF(300, 300), QPoint(), QPoint(0, 240), *none, Qt.ScrollPhase.NoScrollPhase, False
        )
    )
    assert board.view.m11() > 1.2 * scale
    board.setFocus()
    QTest.keyClick(board, Key.Key_Minus)
    QTest.keyClick(board, Key.Key_Minus)
    assert board.view.m11() < 1.1 * scale
    assert shown.bench.job == demo.job()


def test_choices_turn_by_click_and_by_arrow(shown: Window, settle: Callable[[], None]) -> None:
    shown.show_stage("Carry")
    tag = shown.board.tags["loop.landing"]
    QTest.mouseClick(tag, Qt.MouseButton.LeftButton, pos=QPoint(20, 28))
    settle()
    assert tag.reading.said == "handle"
    for landing in ("sewn", "slots", "ear", "dangler", "clip", "none"):
        QTest.keyClick(shown.board.tags["loop.landing"], Key.Key_Up)
        settle()
        assert shown.bench.job.settings.word("loop.landing") == landing
    assert "loop.width" not in shown.board.tags  # with no loop there is nothing to measure
    shown.bench.undo()
    settle()
    assert "loop.width" in shown.board.tags


def test_a_pin_is_pulled_by_the_mouse_and_digits_begin_typing(shown: Window, settle: Callable[[], None]) -> None:
    tag = shown.board.tags["welt.proud"]
    tag.setFocus()
    QTest.keyClick(tag, Key.Key_5)
    QTest.keyClick(tag.findChild(type(tag._field), "typing"), Key.Key_Return)
    settle()
    assert shown.bench.job.settings.pinned["welt.proud"] == 5
    QTest.mouseClick(tag, Qt.MouseButton.LeftButton, pos=QPoint(tag.width() - 10, 8))
    settle()
    assert "welt.proud" not in shown.bench.job.settings


def test_the_ledger_is_walked_by_keys_and_counts_wait_on_the_strap(shown: Window, settle: Callable[[], None]) -> None:
    shown.bench.type("mouth.y", "140mm", "low mouth")
    settle()
    keeper = shown.strap.keepers["Object"]
    waiting, ruling = keeper.waiting()
    assert waiting >= 1
    assert ruling == "stop"
    lines = shown.ledger.lines
    lines.setFocus()
    lines.choose(0)
    first = lines.verdict
    QTest.keyClick(lines, Key.Key_Down)
    assert lines.verdict is not first
    QTest.keyClick(lines, Key.Key_Up)
    QTest.keyClick(lines, Key.Key_Return)
    assert shown.board.stage is stage_of(first.theme)
    assert lines.verdict.name == first.name
    assert first.reason.split(".")[0] in shown.ledger._why.text()
    shown.ledger.mend.click()
    settle()
    assert keeper.waiting()[0] == 0


def test_the_slice_follows_the_bar_above_the_mouth_and_below_the_tip(shown: Window) -> None:
    for y, leather in ((220.0, False), (100.0, True), (-3.0, True)):
        shown.board.move_bar(y)
        assert shown.slice.section.y == pytest.approx(y, abs=0.5)
        assert (shown.slice.section.front is not None) is leather
        assert not shown.slice.grab().isNull()


def test_the_pictures_are_made_by_one_command(qtbot: QtBot, tmp_path: Path) -> None:
    views = ("shelf", "guide", "draft-made-up", "photo", "orders", "stock", "ways-out",
             "picker", "round-closing", "learned")  # fmt: skip
    assert set(screenshots.VIEWS) == {*(s.lower().replace(" ", "-") for s in STAGES), *views}
    assert len(screenshots.VIEWS) <= 19
    wanted = some(screenshots.VIEWS)
    screenshots.main(tmp_path, wanted)
    pictures = {p.stem: QImage(str(p)) for p in tmp_path.glob("*.png")}
    assert set(pictures) == set(wanted)
    for picture in pictures.values():
        assert (picture.width(), picture.height()) == (1280, 800)
        colours = {picture.pixelColor(x, y).name() for x in range(10, 1270, 20) for y in range(60, 740, 20)}
        assert len(colours) > 6  # something is drawn


def test_the_caution_stands_where_something_is_sharp(shown: Window, settle: Callable[[], None]) -> None:
    shown.show_stage("Object")
    assert shown.measurements.caution.isVisible()
    blunt = tuple(z for z in shown.bench.job.zones if z.kind in ("grip", "stop"))
    shown.bench.change("blunt", replace(shown.bench.job, zones=blunt))
    settle()
    assert not shown.measurements.caution.isVisible()


def test_the_case_hangs_beside_itself_as_drafted(shown: Window, settle: Callable[[], None]) -> None:
    shown.show_stage("Carry")
    upright = shown.board.scene
    assert [said for _, _, said in upright.captions] == ["as drafted", "as it hangs, 0.0°"]
    assert shown.slice.belted is not None
    job, made = shown.bench.job, shown.bench.made
    aside = carried(job, made)
    hung, drafted = aside.outlines[1], aside.outlines[0]
    back = turned(hung, (0.0, 0.0), -made.hang.rest)
    assert np.ptp(back, axis=0) == pytest.approx(np.ptp(drafted, axis=0), abs=0.01)
    tag = shown.board.tags["loop.play"]
    tag.typed.emit("loop.play", "8mm", 0)
    for key, text in (("loop.width", "4mm"), ("seam.standoff", "26mm")):
        shown.bench.type(key, text, "narrow")  # its weight lies outside so narrow a foot
    settle()
    assert float(shown.board.tags["hang.rest"].reading.value) > 1
    for key, text in (
        ("loop.width", "auto"),
        ("seam.standoff", "auto"),
        ("loop.landing", "sewn"),
        ("carry.cant", "25"),
    ):
        shown.bench.type(key, text, key)
    settle()
    assert "Hangs as it was drafted" in [v.name for v in shown.ledger.lines.shown if v.ruling.value != "ok"]
    for text in ("twice", "3 stone"):
        shown.board.tags["object.mass"].typed.emit("object.mass", text, 0)
        assert "is not a weight" in shown.notice.said.text()
    shown.board.tags["object.mass"].typed.emit("object.mass", "0.4 kg", 0)
    settle()
    assert shown.board.tags["object.mass"].reading.said == "400 g"
    shown.board.tags["loop.landing"].typed.emit("loop.landing", "none", 0)
    settle()
    assert shown.slice.belted is None
    assert list(shown.board.tags) == ["loop.landing", "keeper.way", "flap.closing", "strap.buckle"]


def test_the_stack_is_drawn_along_its_seam(shown: Window, settle: Callable[[], None]) -> None:
    shown.show_stage("Draft")
    plain = shown.slice.grab().toImage()
    shown.show_stage("Stitch")
    settle()
    assert shown.slice.grab().toImage() != plain
    before = shown.slice.grab().toImage()
    shown.board.move_bar(30.0)  # the mark on the stack goes with the bar
    assert shown.slice.grab().toImage() != before
    shown.board.tags["stitch.method"].typed.emit("stitch.method", "machine", 0)
    settle()
    assert "stitch.bed" in shown.board.tags
    assert shown.board.tags["seam.time"].reading.said == "1 min"


def test_the_finger_under_the_object_is_dragged_to_where_it_balances(shown: Window, settle: Callable[[], None]) -> None:
    shown.show_stage("Carry")
    board = shown.board
    assert board.scene is not None
    at = board.to_screen(*board.scene.places["object.balance"]).toPoint() + QPoint(0, 5)
    to = at - QPoint(0, 40)
    wanted = board.to_mm(QPointF(to)).y()
    QTest.mousePress(board, Qt.MouseButton.LeftButton, pos=at)
    QTest.mouseMove(board, to)
    QTest.mouseRelease(board, Qt.MouseButton.LeftButton, pos=to)
    settle()
    assert shown.bench.job.settings.number("object.balance") == pytest.approx(wanted, abs=0.1)
    assert shown.acts["undo"].text() == "Undo balance it on a finger"


def test_a_keeper_and_slots_are_seen_and_cut_through(shown: Window, settle: Callable[[], None]) -> None:
    job = demo.job("shears")
    for key, text in (("keeper.way", "over"), ("loop.landing", "slots")):
        job = job.typed(key, text)
    shown.bench.change("shears", job)
    settle()
    shown.show_stage("Carry")
    assert shown.slice.upright is not None
    assert shown.slice.upright.belt is not None
    tags = shown.board.tags
    assert {"keeper.width", "keeper.length", "slots.length", "carry.cant"} <= set(tags)
    assert not {"loop.width", "loop.foot", "flap.reach"} & set(tags)
    shown.grab()
    shown.board.lay(True)
    assert shown.board.scene is not None
    assert {"keeper", "belt plate"} <= set(shown.board.scene.shifts)
