"""Jobs opened, saved, dropped on the window and laid aside; and the window as it starts."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.core.carried.stations import Table
from tailor.core.job import Job
from tailor.desk import keeping
from tailor.desk.start import Start, window
from tailor.desk.window import Window
from tailor.files import job_file
from tests.desk.hands import shortcut
from tests.lofts import as_csv


def test_save_reopen_is_identical_and_bad_files_leave_the_bench_alone(
    shown: Window, settle: Callable[[], None], tmp_path: Path
) -> None:
    shown.bench.type("belt.width", "50mm", "belt")
    path = tmp_path / "bench.tailor"
    assert shown.filing.save_to(path)
    assert not shown.bench.dirty
    kept = shown.bench.job
    shown.bench.type("belt.width", "30mm", "belt")
    shortcut(shown, "Ctrl+S")
    assert job_file.load(path).settings.pinned["belt.width"] == 30
    (tmp_path / "bad.tailor").write_text('{"format": "tailor-job", "version": 99}')
    before = shown.bench.job
    assert not shown.open(tmp_path / "bad.tailor")
    assert "newer Tailor" in shown.notice.said.text()
    assert shown.bench.job is before
    job_file.save(kept, path)
    assert shown.open(path)
    settle()
    assert shown.bench.job == kept
    assert keeping.recent()[0] == path


def test_a_station_table_is_dropped_on_the_window(shown: Window, settle: Callable[[], None], tmp_path: Path) -> None:
    job = demo.job()
    longer = tuple(replace(s, y=s.y * 1.1) for s in job.stations)
    (tmp_path / "ridge_knife.csv").write_text(as_csv(Table(longer, ())))
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(tmp_path / "ridge_knife.csv"))])
    none = Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier
    shown.dropEvent(QDropEvent(QPointF(10, 10), Qt.DropAction.CopyAction, data, *none))
    settle()
    assert shown.bench.job.name == "Ridge knife"
    assert shown.bench.made.shell.loft.top == pytest.approx(264)


def test_work_not_saved_survives_the_window(shown: Window, qtbot: QtBot, settle: Callable[[], None]) -> None:
    shown.bench.type("welt.proud", "4.5mm", "proud")
    settle()
    shown.close()
    (held,) = keeping.folder().glob("unsaved-*.json")
    held.rename(held.with_name("unsaved-999999999.json"))  # as if kept by a session that is gone
    again = window()
    qtbot.addWidget(again)
    again.show()
    again.filing.offer_unsaved()
    again.notice.offer("Take it up").click()
    qtbot.waitUntil(lambda: again.bench.fresh, timeout=15000)
    assert again.bench.job.settings.pinned["welt.proud"] == 4.5
    assert again.bench.dirty
    again.close()


def test_laying_down_another_job_keeps_what_was_not_saved(
    shown: Window, settle: Callable[[], None], tmp_path: Path
) -> None:
    other: Job = demo.job().typed("hand", "left")
    job_file.save(other, tmp_path / "other.tailor")
    shown.bench.type("welt.proud", "5mm", "proud")
    shown.open(tmp_path / "other.tailor")
    settle()
    kept = [u.job.settings.pinned.get("welt.proud") for u in keeping.unsaved()]
    assert kept == [5.0]


def test_starting_shows_a_window_at_once_and_then_the_bench(qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "mine.tailor"
    job_file.save(demo.job().typed("welt.proud", "4"), path)
    begun = Start(path=path)
    assert begun.opening.isVisible()
    qtbot.waitUntil(lambda: begun.bench is not None, timeout=20000)
    assert begun.bench.isVisible()
    assert not begun.opening.isVisible()
    assert begun.bench.bench.job.settings.pinned["welt.proud"] == 4
    qtbot.waitUntil(lambda: keeping.recent() == [path])
    begun.close()
    path.write_text("nonsense")
    again = Start()  # nothing is opened unasked
    qtbot.waitUntil(lambda: again.bench is not None, timeout=20000)
    assert again.bench.pages.on_shelf
    (card,) = [card for card in again.bench.shelf.cards if card.thing.name == "mine"]
    assert card.thing.said == "cannot be read"
    card.click()
    assert "mine.tailor" in again.bench.notice.said.text()
    again.close()


LAZY = """
import sys
from tailor.desk.rooms import SLOW
from tailor.desk.start import application, window
app = application()
shown = window(demo_name="whetstone")
shown.show()
print([name for name in SLOW if name in sys.modules], "cv2" in sys.modules, len(shown.rooms.used))
shown.show_stage("Lay out")
shown.pages.turn_to(shown.rooms.orders)
print(len(shown.rooms.used))
shown.bench.clean = shown.bench.job
shown.close()
"""


def test_no_room_of_the_shop_is_loaded_before_it_is_turned_to() -> None:
    done = subprocess.run([sys.executable, "-c", LAZY], capture_output=True, text=True, timeout=60, check=True)
    assert "Traceback" not in done.stderr
    assert done.stdout.splitlines() == ["[] False 0", "2"]
