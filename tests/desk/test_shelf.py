"""The shelf: what a maker sees first, and goes on from."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.core.job import Job
from tailor.core.portrayer import portrait
from tailor.desk import keeping
from tailor.desk.capture.told import BlockWay
from tailor.desk.capture.ways import WAYS
from tailor.desk.cards import Card, Thing
from tailor.desk.portraits import Portraits
from tailor.desk.start import window
from tailor.desk.turning import dyes
from tailor.desk.window import Window
from tailor.files import job_file

Key = Qt.Key


@pytest.fixture
def begun(qtbot: QtBot, tmp_path: Path) -> Iterator[Window]:
    """A window as it is begun with nothing asked for, after one job was saved and another was not."""
    job_file.save(demo.job("whetstone"), tmp_path / "stone.tailor")
    keeping.remember(tmp_path / "stone.tailor")
    shown = window()
    qtbot.addWidget(shown)
    shown.resize(1280, 800)
    shown.show()
    yield shown
    shown.bench.clean = shown.bench.job
    shown.close()


def card(shown: Window, name: str) -> Card:
    return next(card for card in shown.shelf.cards if card.thing.name == name)


def test_everything_to_begin_with_lies_on_the_shelf(begun: Window) -> None:
    assert begun.pages.on_shelf
    names = [each.thing.name for each in begun.shelf.cards]
    assert {*WAYS, "Stations", "Whetstone"} <= set(names)
    assert names.count("Whetstone") == 2  # saved, and the crew's
    assert {demo.job(name).name for name in demo.names()} <= set(names)
    for size in ((1280, 800), (1000, 700)):
        begun.resize(*size)
        boxes = [each.geometry() for each in begun.shelf.cards]
        assert all(begun.shelf.rect().contains(box) for box in boxes)
        assert not any(a.intersects(b) for k, a in enumerate(boxes) for b in boxes[:k])
    QTest.keyClick(begun.shelf, Key.Key_Escape)
    assert begun.pages.on_shelf  # there is nothing to go back to yet


def test_a_hand_goes_along_it_with_arrows_and_takes_with_enter(begun: Window, qtbot: QtBot) -> None:
    assert QApplication.focusWidget() is begun.shelf.first
    assert begun.shelf.first.thing.name == "Whetstone"
    QTest.keyClick(QApplication.focusWidget(), Key.Key_Up)
    assert QApplication.focusWidget() is card(begun, "Block")
    QTest.keyClick(QApplication.focusWidget(), Key.Key_Right)
    assert QApplication.focusWidget() is card(begun, "Caliper")
    QTest.keyClick(QApplication.focusWidget(), Key.Key_Down)
    QTest.keyClick(QApplication.focusWidget(), Key.Key_Left)
    QTest.keyClick(QApplication.focusWidget(), Key.Key_Return)
    qtbot.waitUntil(lambda: begun.bench.fresh, timeout=15000)
    assert not begun.pages.on_shelf
    assert begun.bench.job.name in ("Whetstone", "Eaves blade")
    QTest.keyClick(begun, Key.Key_F2)
    assert begun.pages.on_shelf
    QTest.keyClick(begun.shelf, Key.Key_Escape)
    assert not begun.pages.on_shelf


def test_work_that_was_not_saved_is_gone_on_with(begun: Window, qtbot: QtBot, tmp_path: Path) -> None:
    place = keeping.Place()
    place.keep(demo.job("radio").typed("hand", "left"), None)
    place.let_go()
    begun.shelf.fill(can_leave=False)
    left = begun.shelf.first
    assert (left.thing.name, left.thing.said) == ("Two-way radio", "not saved yet")
    QTest.mouseClick(left, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: begun.bench.fresh, timeout=15000)
    assert begun.bench.job.settings.pinned["hand"] == "left"
    assert begun.bench.dirty


def test_from_the_shelf_to_the_pattern_of_a_block_by_keys_alone(
    begun: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    done = 0

    def press(key: Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        nonlocal done
        done += 1
        QTest.keyClick(QApplication.focusWidget() or begun, key, modifier)

    press(Key.Key_Up)
    press(Key.Key_Return)  # the block
    panel = begun.ways.panel("Block")
    assert isinstance(panel, BlockWay)
    qtbot.waitUntil(panel.isVisible)
    assert QApplication.focusWidget() is panel.long
    for text in ("105", "62", "24"):
        QTest.keyClicks(QApplication.focusWidget(), text)
        press(Key.Key_Tab)
    press(Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: begun.picker.isVisible(), timeout=15000)
    qtbot.waitUntil(lambda: len(begun.picker.choices) > 1 and not begun.picker.room.busy, timeout=40000)
    press(Key.Key_1)
    qtbot.waitUntil(lambda: begun.bench.fresh and not begun.picker.isVisible(), timeout=20000)
    assert begun.bench.outcome.error is None
    assert not [v for v in begun.bench.outcome.said if v.ruling.value == "stop"]
    monkeypatch.setattr("tailor.desk.window.QFileDialog.getExistingDirectory", lambda *_: str(tmp_path / "out"))
    with qtbot.waitSignal(begun.written, timeout=20000) as written:
        press(Key.Key_E, Qt.KeyboardModifier.ControlModifier)
    assert {path.name for path in written.args[0]} >= {"pattern.pdf", "report.json"}
    assert done <= 10


def test_much_that_was_never_saved_leaves_room_for_the_rest(begun: Window, tmp_path: Path) -> None:
    for n in range(20):
        kept = {"job": job_file.to_text(replace(demo.job("peg-tray"), name=f"tray {n}")), "path": None}
        path = keeping.folder() / f"unsaved-{n:032x}.json"
        path.write_text(json.dumps(kept))
        os.utime(path, (1_700_000_000 + n, 1_700_000_000 + n))
    begun.shelf.fill(can_leave=False)
    names = [each.thing.name for each in begun.shelf.cards]
    assert [name for name in names if name.startswith("tray")] == [f"tray {n}" for n in range(19, 11, -1)]
    assert any("older work" in head.text() for head, _ in begun.shelf._rows)
    assert len(keeping.unsaved()) == 20


def test_what_was_saved_is_found_again_as_one_types(begun: Window, qtbot: QtBot, tmp_path: Path) -> None:
    tray = replace(demo.job("peg-tray"), name="Olive tray").typed("leather.thickness", "2.6")
    for job in (tray, replace(demo.job("radio"), name="Olive radio"), demo.job("whetstone")):
        begun.filing.show_job(job)
        assert begun.filing.save_to(tmp_path / f"{job.name}.tailor")
        qtbot.waitUntil(lambda: not begun.counter.busy, timeout=20_000)
    begun.bench.clean = begun.bench.job
    begun.pages.show_shelf()

    def seek(text: str) -> list[str]:
        begun.shelf.sought.clear()
        begun.shelf.first.setFocus()
        QTest.keyClicks(begun.shelf.first, text[0])  # whoever types looks for something
        QTest.keyClicks(begun.shelf.sought, text[1:])
        qtbot.waitUntil(lambda: not begun.counter.busy, timeout=10_000)
        assert begun.shelf.sought.text() == text
        return [each.thing.name for each in begun.shelf.cards]

    assert seek("olive") == ["Olive radio", "Olive tray"]  # the newest first
    assert seek("2.6 mm tray") == ["Olive tray"]
    assert seek("50%") == []
    begun.pages.read_guide()  # there and back, with nothing found
    begun.pages.read_guide()
    assert begun.shelf.sought.hasFocus()
    (tmp_path / "Olive tray.tailor").unlink()
    assert seek("oliv tra") == ["Olive tray"]
    QTest.keyClick(begun.shelf.sought, Key.Key_Down)
    QTest.keyClick(begun.shelf.cards[0], Key.Key_Return)
    qtbot.waitUntil(lambda: not begun.pages.on_shelf)
    assert (begun.bench.job, begun.bench.path) == (tray, None)  # its file is gone: the copy that was kept


# Portraits


def leather(portraits: Portraits, qtbot: QtBot, *names: str) -> list[float]:
    """Of the pictures on cards of demo jobs the share that is brown as leather is, once nothing more is to come."""
    table = QWidget()
    qtbot.addWidget(table)
    cards = [Card(Thing(name, "", portraits.drawn(demo.job(name)), lambda: None), table) for name in names]
    for card in cards:
        card.resize(160, 140)
        card.grab()
    qtbot.waitUntil(lambda: not portraits.busy, timeout=60_000)
    found = []
    for card in cards:
        image = card.grab().toImage()
        inks = [image.pixelColor(x, y) for x in range(12, 148, 2) for y in range(16, 90, 2)]
        found.append(sum(ink.red() > ink.blue() + 45 for ink in inks) / len(inks))
    return found


def test_what_lies_on_the_shelf_is_seen_as_it_will_be_made(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    portraits = Portraits()
    stone, cards, pouch = leather(portraits, qtbot, "whetstone", "crew-cards", "old-pouch")
    assert min(stone, cards, pouch) > 0.15  # leather, where there were outlines of steel
    portraits.leave()
    assert portraits.room.process is None
    # The next time they are there at once, and nothing is begun for them.
    again = Portraits()
    assert leather(again, qtbot, "whetstone", "crew-cards") == pytest.approx([stone, cards], abs=0.01)
    assert again.room.process is None
    # What takes too long, or ends its process, stays an outline, and does not hold up the next.
    monkeypatch.setattr("tailor.desk.portraits.LOOK", "another")
    slow = Portraits()
    slow._late.setInterval(1)
    assert max(leather(slow, qtbot, "whetstone", "spar-bag")) == 0.0
    ended = Portraits()
    asked = ended.room.ask

    def dies(job: Job, *how: object) -> None:
        asked(job, *how)
        if job.name == "Whetstone":
            ended.room.process.kill()

    monkeypatch.setattr(ended.room, "ask", dies)
    stone, bag = leather(ended, qtbot, "whetstone", "spar-bag")
    assert stone == 0.0
    assert bag > 0.2
    for each in (again, slow, ended):
        each.leave()


def test_a_portrait_fills_its_room() -> None:
    for name, hand in (("shearing-blade", "left"), ("kit-bag", "right")):
        seen = portrait(demo.job(name).typed("hand", hand), dyes(), (260, 170))
        high, wide = seen.shape[:2]
        assert (wide <= 260 and high == 170) or (wide == 260 and high < 170)
        lit = seen[..., 3] > 0
        for axis in (0, 1):
            there = np.flatnonzero(lit.any(axis=axis))
            assert there[0] <= 4
            assert there[-1] >= lit.shape[1 - axis] - 5
    assert wide < 260  # a tall one stands, a long one lies
    apart = demo.job("old-pouch").sewn("front", ()).sewn("back", ())  # of which nothing says where its pieces go
    assert portrait(apart, dyes(), (260, 170)) is None
