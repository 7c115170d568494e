"""What is typed, kept and saved in the window is not lost: to a close, a crash, a full disk or another program."""

from __future__ import annotations

import os
import select
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.core.errors import DiskError
from tailor.core.outcome import Outcome
from tailor.desk import drafting, keeping
from tailor.desk.start import Start
from tailor.desk.window import Window
from tailor.files import atomic, job_file, state

Settle = Callable[[], None]


def begun(shown: Window, key: str, text: str) -> QLineEdit:
    """A tag that is typed on, and not entered."""
    tag = shown.board.tags[key]
    tag.begin("")
    field = tag.findChild(QLineEdit, "typing")
    QTest.keyClicks(field, text)
    return field


def test_what_stands_typed_is_taken_when_the_hand_goes_elsewhere(shown: Window, qtbot: QtBot, settle: Settle) -> None:
    pinned = lambda: shown.bench.job.settings.pinned  # noqa: E731
    begun(shown, "welt.proud", "4mm")
    shown.masthead.name.setFocus()
    assert pinned()["welt.proud"] == 4
    assert shown.masthead.name.hasFocus()
    settle()
    begun(shown, "welt.proud", "5mm")
    shown.show_stage("Carry")
    assert pinned()["welt.proud"] == 5
    settle()
    shown.show_stage("Draft")
    begun(shown, "welt.proud", "6mm")
    shown.close()
    (kept,) = keeping.unsaved()
    assert kept.job.settings.pinned["welt.proud"] == 6


def test_steady_changes_are_kept_meanwhile(shown: Window, qtbot: QtBot) -> None:
    end = time.monotonic() + 1.9
    k = 0
    while time.monotonic() < end:
        k += 1
        shown.bench.type("welt.proud", f"{2 + 0.01 * k:.2f}mm", "drag", joins="drag")
        qtbot.wait(40)
    assert shown.bench.place.path.exists()
    assert shown.bench.place.path.read_text().count("welt.proud") == 1


@pytest.fixture
def filed(shown: Window, settle: Settle, tmp_path: Path) -> Path:
    """A job opened from a file, changed here, and changed there by another."""
    path = tmp_path / "mine.tailor"
    job_file.save(demo.job(), path)
    assert shown.open(path)
    settle()
    shown.bench.type("welt.proud", "4mm", "proud")
    job_file.save(demo.job().typed("belt.width", "44mm"), path)
    shown.filing.save()
    assert "was changed by another program" in shown.notice.said.text()
    assert job_file.load(path).settings.pinned.get("belt.width") == 44  # and is as it was
    return path


def test_both_versions_are_kept(shown: Window, filed: Path) -> None:
    shown.notice.offer("Keep both").click()
    assert job_file.load(filed).settings.pinned["belt.width"] == 44
    assert job_file.load(filed.with_name("mine 2.tailor")).settings.pinned["welt.proud"] == 4
    assert shown.bench.path == filed.with_name("mine 2.tailor")
    assert not shown.bench.dirty


def test_the_other_version_is_taken_and_given_back(shown: Window, filed: Path) -> None:
    shown.notice.offer("Take theirs").click()
    assert shown.bench.job.settings.pinned["belt.width"] == 44
    assert not shown.bench.dirty
    shown.bench.undo()
    assert shown.bench.job.settings.pinned["welt.proud"] == 4
    assert shown.filing.bench.changed_outside(filed) is None


def test_saved_over_the_other_version_is_not_lost(shown: Window, filed: Path) -> None:
    shown.notice.offer("Save over it").click()
    assert shown.acts["undo"].isEnabled()
    assert "over the other version" in shown.acts["undo"].toolTip()
    assert job_file.load(filed).settings.pinned["welt.proud"] == 4
    assert job_file.load(atomic.previous(filed)).settings.pinned["belt.width"] == 44
    shown.bench.undo()
    assert shown.bench.job.settings.pinned["belt.width"] == 44
    shown.filing.save()  # and nobody else has been there since
    assert job_file.load(filed).settings.pinned["belt.width"] == 44


def test_on_a_full_disk_the_only_copy_is_not_thrown_away(shown: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    place = keeping.Place()
    place.keep(demo.job().typed("welt.proud", "4mm"), None)
    place.let_go()
    shown.filing.offer_unsaved()

    def full(*_: object) -> None:
        raise DiskError("no space left on device", "state", "free some room")

    with monkeypatch.context() as patch:
        patch.setattr(keeping.Place, "keep", full)
        shown.notice.offer("Take it up").click()
    assert shown.bench.job.settings.pinned["welt.proud"] == 4
    assert place.path.exists()


def test_a_draft_that_never_ends_is_given_up_and_the_next_is_drafted(
    shown: Window, qtbot: QtBot, settle: Settle, monkeypatch: pytest.MonkeyPatch
) -> None:
    room, done = shown.bench.room, list[object]()
    room.ask(shown.bench.job, None, False, done.append)
    qtbot.waitUntil(lambda: bool(done), timeout=20000)  # what others asked before is done with, too
    monkeypatch.setattr(drafting, "LONGEST", 0.5)
    monkeypatch.setattr(drafting, "PATIENCE", 0.2)
    room.process.send_signal(signal.SIGSTOP)
    shown.bench.type("welt.proud", "4mm", "proud")
    qtbot.waitUntil(lambda: shown.bench.error is not None, timeout=10000)
    assert shown.bench.error is drafting.SLOW
    monkeypatch.setattr(drafting, "LONGEST", 20.0)
    shown.bench.type("welt.proud", "5mm", "proud")
    settle()
    assert shown.bench.error is None
    room.process.send_signal(signal.SIGSTOP)
    shown.bench.type("welt.proud", "6mm", "proud")
    qtbot.wait(300)
    shown.bench.type("welt.proud", "7mm", "proud")  # wanted in its place: it is not waited for to the end
    settle()
    assert shown.bench.outcome.job.settings.pinned["welt.proud"] == 7


def test_an_answer_that_was_there_when_it_was_given_up_counts_and_the_next_is_not_blamed(
    shown: Window, qtbot: QtBot
) -> None:
    room, found = shown.bench.room, list[Outcome]()
    first, second = demo.job().typed("mouth.y", "2mm"), demo.job("whetstone")  # refused: the answer is a short one
    room.ask(shown.bench.job, None, False, found.append)
    qtbot.waitUntil(lambda: len(found) == 1, timeout=20000)
    room.ask(first, None, False, found.append)
    select.select([room._helper.bell], [], [], 20)
    room._give_up()
    room.ask(second, None, False, found.append)
    qtbot.waitUntil(lambda: len(found) == 3, timeout=30000)
    assert "mouth" in str(found[1].error)
    assert found[2].error is None


@pytest.mark.parametrize(
    ("recent", "last"),
    [
        ("null", ""),
        ("3", ""),
        ("[" * 2000 + "]" * 2000, ""),
        ("LAST", '{"format": "tailor-job", "version": ' + "9" * 5000 + "}"),
    ],
)
def test_it_starts_whatever_lies_in_its_state(recent: str, last: str, qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "last.tailor"
    path.write_text(last)
    (state.folder() / "recent.json").write_text(f'["{path}"]' if recent == "LAST" else recent)
    at_once = Start()
    qtbot.waitUntil(lambda: at_once.bench is not None, timeout=20000)
    assert at_once.bench.pages.on_shelf
    at_once.close()


def test_it_starts_and_works_where_nothing_can_be_kept(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "file").write_text("in the way")
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "file" / "in"))
    begun_ = Start()
    qtbot.waitUntil(lambda: begun_.bench is not None, timeout=20000)
    begun_.bench.bench.type("welt.proud", "4mm", "proud")
    qtbot.waitUntil(lambda: "cannot be kept" in begun_.bench.notice.said.text(), timeout=10000)
    begun_.close()


HUNG = """
import subprocess, sys
busy = "import time; from tailor.core import apart; apart.settle_in(); print(); time.sleep(60)"
child = subprocess.Popen([sys.executable, "-c", busy], stdout=subprocess.PIPE)
child.stdout.readline()
print(child.pid, flush=True)
sys.stdin.read()
"""


def test_what_works_apart_ends_with_the_process_that_began_it() -> None:
    run = subprocess.Popen(
        [sys.executable, "-c", HUNG], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, env={**os.environ}
    )
    assert run.stdout is not None
    pid = int(run.stdout.readline())
    run.kill()
    run.communicate()
    end = time.monotonic() + 10

    def there() -> bool:
        try:
            return Path(f"/proc/{pid}/stat").read_text().split()[2] != "Z"
        except OSError:
            return False

    while there() and time.monotonic() < end:
        time.sleep(0.05)
    assert not there()


def test_things_of_flat_panels_and_empty_scenes_bear_every_hand(shown: Window, qtbot: QtBot) -> None:
    shown.show_stage("Object")
    shown.acts["look from the front"].trigger()
    QTest.mouseClick(shown.board, Qt.MouseButton.LeftButton, pos=QPoint(300, 300))
    shown.bench.lay_down(demo.job("kit-bag"), None)
    qtbot.waitUntil(lambda: shown.bench.fresh, timeout=20000)
    shown.acts["ways out"].trigger()
    assert "nothing to ease" in shown.ways_out._head.text()


def test_a_name_is_shown_letter_by_letter(shown: Window, settle: Settle) -> None:
    name = "<b>bold</b><img src=x>"
    shown.bench.change("name", replace(shown.bench.job, name=name))
    settle()
    shown.notice.say(f"{name} is kept.")
    assert shown.notice.said.textFormat() is Qt.TextFormat.PlainText
    assert not Qt.mightBeRichText(shown.notice.said.toolTip().replace("&lt;", "").replace("&gt;", ""))
