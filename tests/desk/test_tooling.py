"""What is put on the leather, in the real window: by mouse and by keys, typed, undone; and its tracing sheet."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pdfplumber
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.core.carried.loft import Array
from tailor.core.draft.tooled.asked import Picture, Tooling
from tailor.core.draft.tooled.came import Tooled
from tailor.desk.window import Window
from tests.desk.hands import typed

Key, Button, Shift = Qt.Key, Qt.MouseButton, Qt.KeyboardModifier.ShiftModifier
HOOK = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="30mm" height="20mm" viewBox="0 0 30 20">'
    '<path d="M2 2 L2 18 L12 18" fill="none"/><circle cx="22" cy="10" r="6"/></svg>'
)


@pytest.fixture
def bench(shown: Window, settle: Callable[[], None], qtbot: QtBot) -> Callable[[], None]:
    """The Tool stage on a job with nothing on its leather; waits until what was done is drafted."""
    shown.bench.lay_down(demo.job("whetstone"), None)
    shown.show_stage("Tool")
    shown.board.setFocus()

    def done() -> None:
        qtbot.waitUntil(lambda: not (shown.tooling.work.busy or shown.tooling.writing.busy), timeout=20000)
        settle()

    done()
    return done


def picture(shown: Window) -> Picture:
    asked = shown.tooling.asked
    assert isinstance(asked, Picture)
    return asked


def put(shown: Window) -> Tooled:
    found = shown.tooling.put
    assert found is not None
    return found


def press(shown: Window, *keys: Qt.Key, shift: bool = False) -> None:
    for key in keys:
        QTest.keyClick(shown.board, key, Shift if shift else Qt.KeyboardModifier.NoModifier)


def seen(shown: Window) -> Array:
    """The middle of what is in hand as it lies on the board, px."""
    frame = shown.board.tools._frame(put(shown))
    assert frame is not None
    spot = shown.board.to_screen(*frame[1])
    return np.array([spot.x(), spot.y()])


def drag(shown: Window, start: Array, by: tuple[float, float]) -> None:
    spots = [QPointF(*(start + np.array(by) * share)).toPoint() for share in (0, 0.5, 1)]
    QTest.mousePress(shown.board, Button.LeftButton, pos=spots[0])
    for spot in spots[1:]:
        QTest.mouseMove(shown.board, spot)
    QTest.mouseRelease(shown.board, Button.LeftButton, pos=spots[-1])


def test_a_picture_is_put_on_moved_sized_turned_and_taken_back(
    shown: Window, bench: Callable[[], None], tmp_path: Path, settle: Callable[[], None]
) -> None:
    assert "F puts a border" in shown.tooling._said.text()
    (tmp_path / "hook.svg").write_text(HOOK)
    shown.tooling.take_picture(tmp_path / "hook.svg")
    bench()
    assert put(shown).out == 0
    widest = put(shown).width
    assert 0.8 * put(shown).room < widest <= put(shown).room  # nothing set: as large as stands right
    shown.board.tagged.take("tooling.1.width", "20mm", "typed")
    bench()
    was, at = seen(shown), put(shown).at
    drag(shown, was, (24.0, -36.0))
    bench()
    scale = shown.board.view.m11()
    assert np.array(put(shown).at) - at == pytest.approx([24 / scale, 36 / scale], abs=0.2)  # up is up
    assert seen(shown) - was == pytest.approx([24, -36], abs=1.5)
    frame = shown.board.tools._frame(put(shown))
    assert frame is not None
    size, turn = (np.array([p.x(), p.y()]) for p in shown.board.tools._handles(frame))
    drag(shown, size, tuple((size - seen(shown)) * 0.5))
    bench()
    assert put(shown).width == pytest.approx(30.0, abs=1.0)
    frame = shown.board.tools._frame(put(shown))
    assert frame is not None
    _, turn = (np.array([p.x(), p.y()]) for p in shown.board.tools._handles(frame))
    middle = seen(shown)
    arm = turn - middle
    drag(shown, turn, (float(arm[1]) - float(arm[0]), -float(arm[0]) - float(arm[1])))  # a quarter turn to the left
    bench()
    assert picture(shown).turn == pytest.approx(90.0)
    for undone in ("turn", "size", "move"):
        assert shown.bench.undoes.startswith(undone)
        shown.pages.undo()
    settle()
    assert put(shown).at == pytest.approx(at, abs=0.01)
    press(shown, Key.Key_Delete)
    bench()
    assert shown.bench.job.tooling == ()
    shown.pages.undo()
    bench()
    assert len(shown.bench.job.tooling) == 1


def test_an_evening_of_lettering_by_keys_alone(shown: Window, bench: Callable[[], None], qtbot: QtBot) -> None:
    press(shown, Key.Key_F)
    bench()
    assert isinstance(shown.tooling.asked, Tooling)
    press(shown, Key.Key_W)
    bench()
    assert put(shown).repeats is not None
    woven = put(shown).repeats
    press(shown, Key.Key_L)
    bench()
    qtbot.waitUntil(lambda: shown.tooling.words.hasFocus())
    typed(shown.tooling.words, "NETT")
    bench()
    assert picture(shown).name == "NETT"
    assert woven is not None
    now = shown.bench.made
    assert now is not None
    assert now.tooled[0].repeats is not None
    assert now.tooled[0].repeats.whole < woven.whole  # the texture goes round the letters
    shown.board.setFocus()
    press(shown, Key.Key_Right, Key.Key_Up)
    press(shown, Key.Key_Up, shift=True)
    bench()
    assert picture(shown).at is not None
    assert picture(shown).at == pytest.approx((0.5, 5.5), abs=0.6)
    wide = put(shown).width
    press(shown, Key.Key_PageDown, Key.Key_PageDown)
    press(shown, Key.Key_BracketLeft, Key.Key_X, Key.Key_U)
    bench()
    asked = picture(shown)
    assert (asked.turn, asked.mirrored, asked.reads) == (1.0, True, "opened")
    assert put(shown).width == pytest.approx(wide / 1.02**2, rel=0.01)
    press(shown, Key.Key_Comma)
    assert shown.tooling.number == 1
    press(shown, Key.Key_Period, Key.Key_A)
    bench()
    assert picture(shown).at is None
    assert picture(shown).width is None
    tag = shown.board.tags["tooling.2.turn"]
    tag.setFocus()
    QTest.keyClick(tag, Key.Key_Up)
    bench()
    assert picture(shown).turn == 2.0
    shown.board.tagged.take("tooling.2.width", "3 km", "typed")
    assert "3 km" in shown.notice.said.text()  # one sentence, and nothing is lost
    assert picture(shown).turn == 2.0


def test_it_goes_on_the_piece_that_the_hand_points_at_or_that_it_is_dropped_on(
    shown: Window, bench: Callable[[], None], tmp_path: Path
) -> None:
    def back() -> QPointF:
        assert shown.board.scene is not None
        piece = next(piece for piece in shown.board.scene.pieces if piece.name == "back")
        return shown.board.to_screen(*piece.cut.mean(axis=0))

    QTest.mouseMove(shown.board, back().toPoint())
    press(shown, Key.Key_F)
    bench()
    assert shown.bench.job.tooling[0].piece == "back"
    (tmp_path / "hook.svg").write_text(HOOK)
    QTest.mouseMove(shown.board, QPoint(300, 20))
    shown.tooling.choose(0)
    shown.tooling.take_picture(tmp_path / "hook.svg")
    bench()
    assert picture(shown).piece == "front"
    start = seen(shown)
    to = back()
    drag(shown, start, (to.x() - start[0], to.y() - start[1]))
    bench()
    assert picture(shown).piece == "back"
    assert put(shown).out == 0
    (tmp_path / "torn.svg").write_text(HOOK[:90])
    shown.tooling.take_picture(tmp_path / "torn.svg")
    bench()
    assert "torn.svg" in shown.notice.said.text()
    assert len(shown.bench.job.tooling) == 2


def turn(hook: np.ndarray) -> float:
    """Twice the area between two strokes, (3, 2): above 0 where the second turns off to the left."""
    (a, b), (c, d) = np.diff(hook, axis=0)
    return float(a * d - b * c)


def test_the_tracing_sheet_is_true_and_turned_over_when_asked(
    shown: Window, bench: Callable[[], None], tmp_path: Path
) -> None:
    (tmp_path / "hook.svg").write_text(HOOK)
    shown.tooling.take_picture(tmp_path / "hook.svg")
    bench()
    shown.board.tagged.take("tooling.1.width", "26mm", "typed")
    bench()
    drawn = put(shown).lines[0]
    legs = np.hypot(*np.diff(drawn, axis=0).T)
    for over in (False, True):
        shown.tooling.over.setChecked(over)
        shown.tooling.write_trace(tmp_path / f"{over}.pdf")
        bench()
        with pdfplumber.open(tmp_path / f"{over}.pdf") as sheet:
            page = sheet.pages[-1]
            told = page.extract_text()
            assert ("mirrored, to be rubbed on" in told) == over
            curves = [c for c in page.curves + page.lines if len(c["pts"]) < 200]
            hook = [c for c in curves if len(c["pts"]) == 3]  # its two strokes, corner and all
            assert len(hook) == 1
            pts = np.array(hook[0]["pts"]) * 25.4 / 72
            assert np.hypot(*np.diff(pts, axis=0).T) == pytest.approx(legs, abs=0.05)
            # Its short stroke turns off to the same side, or, turned over, to the other; y is told from the top there.
            assert np.sign(turn(pts)) == (1.0 if over else -1.0) * np.sign(turn(drawn))
    assert 9.7 < legs[1] < 10.0  # the front is stretched over the stone, and what is on it with it


def test_tooled_leather_is_seen_made_up_and_in_the_round(
    shown: Window, settle: Callable[[], None], qtbot: QtBot
) -> None:
    shown.show_stage("Tool")
    shown.board.lay(False)
    settle()
    assert shown.board.scene is not None
    up = [points for kind, points, _ in shown.board.scene.lines if kind == "mark"]
    assert len(up) == 12
    assert np.ptp(np.vstack(up)[:, 0]) == pytest.approx(17.0, abs=1.0)
    shown.middle.turn_round()
    qtbot.waitUntil(lambda: shown.turning.closing is not None and not shown.turning.labour.busy, timeout=30000)
    assert shown.turning.closing is not None
    plain = shown.turning.closing.at(0.0)
    whole = shown.turning.closing.at(2.0, filled=False)
    dark = np.array((0x5D, 0x3B, 0x1E))
    assert not (plain.colour == dark).all(axis=1).any()
    lines = whole.corners[whole.triangles[(whole.colour == dark).all(axis=1)]].reshape(-1, 3)
    assert np.ptp(lines[:, 1]) > 100
    assert (lines[:, 2] > 0).all()  # on the front, and on its outside


def test_a_left_hand_drags_it_the_way_it_goes(shown: Window, bench: Callable[[], None], tmp_path: Path) -> None:
    shown.flip_hand()
    bench()
    (tmp_path / "hook.svg").write_text(HOOK)
    shown.tooling.take_picture(tmp_path / "hook.svg")
    bench()
    shown.board.tagged.take("tooling.1.width", "20mm", "typed")
    bench()
    was = seen(shown)
    drag(shown, was, (30.0, -12.0))
    bench()
    assert seen(shown) - was == pytest.approx([30, -12], abs=1.5)
    was = seen(shown)
    shown.board.setFocus()
    press(shown, Key.Key_Right, shift=True)
    bench()
    assert seen(shown)[0] - was[0] == pytest.approx(5 * shown.board.view.m11(), abs=1.5)


def test_a_verdict_takes_it_in_hand_and_puts_it_right(
    shown: Window, bench: Callable[[], None], tmp_path: Path, qtbot: QtBot
) -> None:
    (tmp_path / "hook.svg").write_text(HOOK)
    shown.tooling.take_picture(tmp_path / "hook.svg")
    bench()
    shown.board.tagged.take("tooling.1.width", "150mm", "typed")
    bench()
    press(shown, Key.Key_Escape)
    assert shown.tooling.number == 0
    assert not [key for key in shown.board.tags if key.startswith("tooling.")]
    shown.show_stage("Leather")
    lines = shown.ledger.lines
    at = next(k for k, verdict in enumerate(lines.shown) if verdict.name.startswith("Stays in its field"))
    lines.choose(at)
    QTest.mouseClick(shown.ledger.see, Button.LeftButton)
    assert shown.board.stage.tooled
    assert shown.tooling.number == 1
    QTest.mouseClick(shown.ledger.mend, Button.LeftButton)
    qtbot.waitUntil(lambda: shown.bench.job.tooling[0].value("width") != 150.0, timeout=30000)
    bench()
    assert put(shown).out == 0


def test_its_values_are_tags_that_are_pinned_let_go_and_turned(shown: Window, bench: Callable[[], None]) -> None:
    press(shown, Key.Key_L)
    bench()
    shown.board.setFocus()
    wide = shown.board.tags["tooling.1.width"]
    assert not wide.reading.pinned
    wide.setFocus()
    QTest.keyClick(wide, Key.Key_P)
    bench()
    assert shown.board.tags["tooling.1.width"].reading.pinned
    QTest.keyClick(shown.board.tags["tooling.1.width"], Key.Key_P)
    bench()
    assert picture(shown).width is None
    on = shown.board.tags["tooling.1.piece"]
    assert on.reading.said == "front"
    on.setFocus()
    QTest.keyClick(on, Key.Key_Up)
    bench()
    assert picture(shown).piece == "back"
    shown.board.tagged.take("tooling.1.turn", "999", "typed")
    assert shown.notice.said.text().startswith("turned: 999")  # by the name that stands on its tag


def test_words_that_are_typed_are_kept_whatever_comes_next(shown: Window, bench: Callable[[], None]) -> None:
    press(shown, Key.Key_F, Key.Key_L)
    bench()
    words = shown.tooling.words
    words.setFocus()
    words.setText("OAK")
    QTest.mouseClick(shown.tooling.cards[0], Button.LeftButton)  # without Enter, another is taken in hand
    shown.board.setFocus()
    bench()
    assert shown.tooling.number == 1
    assert shown.bench.job.tooling[1].title == "lettering OAK"
    shown.tooling.choose(2)
    words.setFocus()
    words.setText("ELM")
    shown.close()  # at once
    assert shown.bench.job.tooling[1].title == "lettering ELM"
