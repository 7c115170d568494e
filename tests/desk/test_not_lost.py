"""Nothing typed is lost: undone and done again, kept aside, recent, and after the window was killed."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest

from tailor import demo
from tailor.core.job import Job
from tailor.desk import keeping
from tailor.desk.window import Window


def test_a_complaint_goes_when_something_is_put_right(shown: Window, settle: Callable[[], None]) -> None:
    assert not shown.open(Path("absent.tailor"))
    assert shown.notice.isVisible()
    shown.bench.type("welt.proud", "2mm", "proud")
    assert not shown.notice.isVisible()
    settle()


# Keeping


def test_recent_jobs_are_newest_first_and_only_those_still_there(tmp_path: Path) -> None:
    paths = [tmp_path / f"{k}.tailor" for k in range(12)]
    for path in paths:
        path.write_text("x")
        keeping.remember(path)
    keeping.remember(paths[8])
    paths[11].unlink()
    assert keeping.recent()[:2] == [paths[8], paths[10]]
    assert len(keeping.recent()) == keeping.MOST_RECENT - 1
    (keeping.folder() / "recent.json").write_text("{broken")
    assert keeping.recent() == []


def test_kept_work_that_is_damaged_is_left_alone_and_not_offered(eaves: Job) -> None:
    place = keeping.Place()
    place.keep(eaves, None)
    assert keeping.unsaved() == []  # while its window lives its work is its own
    place.let_go()
    bad = keeping.folder() / "unsaved-999999999.json"
    bad.write_text('{"path": null, "job": "half')
    (kept,) = keeping.unsaved()
    assert kept.job == eaves
    assert bad.exists()
    keeping.discard(kept)
    assert keeping.unsaved() == []


CRASH = """
import sys, time
from tailor.desk.start import application, window
app = application()
shown = window(demo_name="eaves-blade")
shown.show()
shown.bench.type("welt.proud", "4.25mm", "proud")
print("typed", flush=True)
end = time.time() + 60
while time.time() < end:
    app.processEvents()
    time.sleep(0.01)
"""


def test_a_killed_window_loses_nothing_that_was_typed() -> None:
    run = subprocess.Popen([sys.executable, "-c", CRASH], stdout=subprocess.PIPE, text=True, env={**os.environ})
    assert run.stdout is not None
    assert run.stdout.readline() == "typed\n"
    end = time.monotonic() + 20
    while not list(keeping.folder().glob("unsaved-*.json")) and time.monotonic() < end:
        time.sleep(0.05)
    assert keeping.unsaved() == []
    run.send_signal(signal.SIGKILL)
    run.communicate()
    (kept,) = keeping.unsaved()
    assert kept.job == replace(demo.job(), settings=demo.job().settings.pin("welt.proud", 4.25))


def test_hundreds_of_changes_can_be_undone_in_order(shown: Window, settle: Callable[[], None]) -> None:
    widths = [30 + 0.1 * k for k in range(60)]
    for width in widths:
        shown.bench.type("belt.width", f"{width}mm", f"belt {width}")
    settle()
    for width in reversed(widths[:-1]):
        shown.bench.undo()
        assert shown.bench.job.settings.pinned["belt.width"] == pytest.approx(width)
    shown.bench.undo()
    shown.bench.undo()  # nothing left to undo
    assert shown.bench.job == demo.job()
    for width in widths:
        shown.bench.redo()
        assert shown.bench.job.settings.pinned["belt.width"] == pytest.approx(width)
    shown.bench.undo()
    shown.bench.type("hand", "left", "left hand")
    assert shown.bench.redoes == ""  # a new change ends what could be done again
    settle()


def test_steps_join_only_while_the_hand_holds(shown: Window, settle: Callable[[], None]) -> None:
    for width in (41, 42, 43):
        shown.bench.type("belt.width", f"{width}mm", "drag", joins="drag belt")
    shown.bench.settle()
    for width in (44, 45):
        shown.bench.type("belt.width", f"{width}mm", "drag", joins="drag belt")
    shown.bench.undo()
    assert shown.bench.job.settings.pinned["belt.width"] == 43
    shown.bench.undo()
    assert shown.bench.job == demo.job()
    settle()


def test_work_that_cannot_be_kept_is_said(
    shown: Window, settle: Callable[[], None], monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(*_: object) -> None:
        raise OSError("no space left")

    monkeypatch.setattr(keeping.Place, "keep", full)
    shown.bench.type("welt.proud", "4mm", "proud")
    settle()
    shown.bench.keep()
    assert "no space left" in shown.notice.said.text()
