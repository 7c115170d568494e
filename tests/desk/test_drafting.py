"""Drafts are made in a process of their own: what comes back, when, and what is said when it ends."""

from __future__ import annotations

import gc
import sys
from collections.abc import Callable
from types import ModuleType

import numpy as np
import pytest
import shapely
from PyQt6.QtCore import QThreadPool
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.core import outcome
from tailor.core.draft.draft import Draft
from tailor.core.job import Job, draft
from tailor.core.looked import Look
from tailor.core.outcome import Outcome, work_out
from tailor.desk.window import Window
from tests.hostile.monkey import resident
from tests.lofts import CASES, case

Settle = Callable[[], None]


class AtOnce:
    """A room that drafts here and now, and keeps what it was asked, or holds it back until it is let go."""

    def __init__(self, held: bool = False) -> None:
        self.held, self.asked = held, list[tuple[Job, bool, Callable[[], None]]]()

    def ask(self, job: Job, look: Look | None, rough: bool, then: Callable[[Outcome], None]) -> None:
        self.asked.append((job, rough, lambda: then(work_out(job, None, look, rough))))
        if not self.held:
            self.asked[-1][2]()

    def hurry(self) -> None:
        """It never takes long."""


def test_a_fault_in_drafting_is_told_and_the_window_goes_on(
    shown: Window, settle: Settle, monkeypatch: pytest.MonkeyPatch, capfd: pytest.CaptureFixture[str]
) -> None:
    def broken(*_: object) -> Draft:
        raise ZeroDivisionError("never seen")

    made, room = shown.bench.made, shown.bench.room
    with monkeypatch.context() as patch:
        patch.setattr(outcome, "draft", broken)
        shown.bench.room = AtOnce()
        shown.bench.type("welt.proud", "4mm", "proud")
    assert shown.bench.made is made
    assert "Tailor itself is at fault" in shown.ledger._why.text()
    assert "ZeroDivisionError" in capfd.readouterr().err
    shown.bench.room = room
    shown.bench.undo()
    settle()
    assert shown.bench.error is None


def test_a_slow_redraft_gives_way_to_the_newest_and_never_takes_its_place(shown: Window) -> None:
    room = shown.bench.room = AtOnce(held=True)
    for proud in ("4mm", "5mm", "6mm", "7mm"):
        shown.bench.type("welt.proud", proud, "proud")
    assert len(room.asked) == 1  # one at a time; what came between is never drafted
    room.asked[0][2]()
    assert not shown.bench.fresh
    assert not shown.board.tags["welt.proud"].fresh
    assert len(room.asked) == 2
    room.asked[1][2]()
    assert shown.bench.fresh
    assert shown.bench.outcome.job.settings.pinned["welt.proud"] == 7
    assert shown.board.tags["welt.proud"].reading.said == "7.0 mm"


def test_hands_on_a_draft_of_the_job_before_bear_the_job_that_lies_there_now(shown: Window, settle: Settle) -> None:
    shown.bench.type("loop.rise", "70mm", "rise")  # pinned, so that the draft itself does not say what it is
    settle()
    shown.bench.room = AtOnce(held=True)
    shown.bench.lay_down(demo.job("kit-bag"), None)
    shown.show_stage("Carry")
    assert "70.0 mm" in shown.board.tags["loop.rise"].reading.said
    for key in list(shown.board.tags):
        shown.board.tagged._ask(key, True)
    shown.board.tags["loop.rise"].nudge.emit("loop.rise", 1)
    assert shown.bench.job == demo.job("kit-bag") or "loop.rise" in shown.bench.job.settings.pinned


def test_in_hand_it_is_roughed_out_and_drafted_finely_when_the_hand_rests(shown: Window, qtbot: QtBot) -> None:
    shown.bench.lay_down(demo.job("radio"), None)
    room = shown.bench.room = AtOnce()
    qtbot.waitUntil(lambda: shown.bench.fresh)
    room.asked.clear()
    for clearance in ("0.7mm", "0.8mm"):
        shown.bench.type("fit.clearance", clearance, "clearance", joins="drag clearance")
        assert shown.bench.made.rough
        assert not shown.bench.fresh
        assert not shown.board.tags["mouth.y"].fresh
    assert [rough for _, rough, _ in room.asked] == [True, True]
    shown.bench.settle()  # let go
    assert shown.bench.fresh
    assert not shown.bench.made.rough
    shown.bench.type("fit.clearance", "0.9mm", "clearance", joins="nudge clearance")
    assert not shown.bench.fresh
    qtbot.waitUntil(lambda: shown.bench.fresh, timeout=15000)  # a nudge is never let go of
    assert [rough for _, rough, _ in room.asked] == [True, True, False, True, False]


def test_the_drafting_process_begins_anew_when_it_ends(shown: Window, qtbot: QtBot, settle: Settle) -> None:
    room = shown.bench.room
    made_before = shown.bench.made.piece("welt").cut[:, 0].max()
    room.process.kill()
    room.process.wait()
    shown.bench.type("welt.proud", "4mm", "proud")
    settle()
    assert shown.bench.made.piece("welt").cut[:, 0].max() > made_before
    assert shown.bench.error is None
    made, first = shown.bench.made, room.process
    shown.bench.type("welt.proud", "5mm", "proud")
    first.kill()
    qtbot.waitUntil(lambda: room.process is not first, timeout=15000)
    room.process.kill()  # and before it has answered
    qtbot.waitUntil(lambda: shown.bench.error is not None, timeout=15000)
    assert shown.bench.made is made
    assert "ended again" in shown.ledger._why.text()
    shown.bench.undo()
    qtbot.waitUntil(lambda: shown.bench.fresh and shown.bench.error is None, timeout=30000)


@pytest.mark.parametrize("name", [*CASES, "peg-tray", "laser-level"])
def test_another_process_drafts_the_same_and_a_rough_draft_is_close(name: str, shown: Window, qtbot: QtBot) -> None:
    job, found = case(name), list[Outcome]()
    for rough in (False, True):
        shown.bench.room.ask(job, None, rough, found.append)
    qtbot.waitUntil(lambda: len(found) == 2, timeout=30000)
    here = draft(job)
    for sent, near in zip(found, (0.01, 0.5), strict=True):
        assert sent.job is job
        assert [p.name for p in sent.made.pieces] == [p.name for p in here.pieces]
        for piece, own in zip(sent.made.pieces, here.pieces, strict=True):
            apart = shapely.hausdorff_distance(shapely.linearrings(piece.cut), shapely.linearrings(own.cut))
            assert apart < near
            assert len(piece.holes) == len(own.holes)
        threads = [sum(seam.thread for seam in made.seams) for made in (sent.made, here)]
        assert np.isclose(*threads, rtol=0.01)


def test_what_was_loaded_meanwhile_is_no_longer_looked_through(shown: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    shown.thrift._give_back()
    kept = [[] for _ in range(1000)]
    shown.thrift._give_back()
    assert len(gc.get_objects()) > len(kept)  # nothing was loaded, so all that is new is still looked through
    monkeypatch.setitem(sys.modules, "a library", ModuleType("a library"))
    shown.thrift._give_back()
    assert len(gc.get_objects()) < len(kept)
    gc.unfreeze()


def test_memory_that_lies_about_in_gaps_goes_back_to_the_machine(shown: Window, qtbot: QtBot) -> None:
    held = [np.ones(1000) for _ in range(30_000)]  # 240 MB, of which every fiftieth is kept
    held = held[::50]
    full = resident()
    shown.thrift._give_back()
    pool = QThreadPool.globalInstance()
    assert pool is not None
    assert pool.waitForDone(20_000)
    assert resident() < full - 100e6
    assert all(each.sum() == 1000 for each in held)
    shown.bench.type("belt.width", "44mm", "belt")
    qtbot.waitUntil(shown.thrift._timer.isActive, timeout=20_000)  # it is done again some while after each draft
