"""Pictures of every main view, from demo data: python -m tailor.desk.screenshots FOLDER [WIDTH HEIGHT]."""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from tailor.core.draft.views.seen import Eye
from tailor.desk.stages import STAGES
from tailor.desk.start import application, window
from tailor.desk.window import Window


def main(folder: Path, width: int = 1280, height: int = 800) -> None:
    """Write one picture of each stage, of the draft made up, of a way of measuring, and of the shop."""
    app = application()
    shown = window(demo_name="eaves-blade")
    shown.resize(width, height)
    shown.show()
    folder.mkdir(parents=True, exist_ok=True)

    def shoot(name: str) -> None:
        QTest.qWait(80)
        app.processEvents()
        shown.grab().save(str(folder / f"{name}.png"))

    shown.pages.show_shelf()
    portrayed(shown)
    shoot("shelf")
    shown.pages.read_guide()
    shoot("guide")
    shown.pages.read_guide()
    shown.pages.show_shelf()
    for stage in STAGES.values():
        if not (stage.spread or stage.worked or stage.logged):  # which are seen with something done
            shown.show_stage(stage.name)
            shown.tooling.choose(2 if stage.tooled else 0)
            shoot(stage.name.lower())
    shown.show_stage("Draft")
    shown.board.lay(False)
    shoot("draft-made-up")
    shown.show_stage("Object")
    shown.ways.turn_to("Photo")
    panel = shown.ways.panel("Photo")
    next(b for b in panel.findChildren(QPushButton) if b.accessibleName() == "Demo picture").click()
    while panel.table is None or panel.labour.busy:
        QTest.qWait(50)
    shoot("photo")
    shown.pages.turn_to(shown.rooms.orders)
    while shown.counter.shop is None or "" not in shown.rooms.orders.reckoned or shown.rooms.orders.room.busy:
        QTest.qWait(50)
    portrayed(shown)
    shoot("orders")
    shown.pages.turn_to(shown.rooms.stockroom)
    shoot("stock")
    shown.close()
    looks(folder, width, height)


def portrayed(shown: Window) -> None:
    """Wait until what lies there is seen as it will be made."""
    QTest.qWait(1000)
    while shown.portraits.busy:
        QTest.qWait(50)


def looks(folder: Path, width: int, height: int) -> None:
    """Formed leather, its strain and its ways out; the picker, the round, leather laid out, the bench and the log."""
    app = application()

    def drawn(shown: Window) -> None:
        """Wait until what is asked for is drawn."""
        while not shown.bench.fresh or shown.bench.looking:
            QTest.qWait(20)

    def shoot(demo: str, name: str, act: Callable[[Window], object]) -> None:
        shown = window(demo_name=demo)
        shown.resize(width, height)
        shown.show()
        QTest.qWait(80)
        act(shown)
        drawn(shown)
        QTest.qWait(120)
        app.processEvents()
        shown.grab().save(str(folder / f"{name}.png"))
        shown.close()

    def relieved(shown: Window) -> None:
        shown.show_stage("Leather")
        shown.board.lay(False, Eye.FRONT)

    def ways_out(shown: Window) -> None:
        relieved(shown)
        shown.acts["strain"].trigger()
        shown.ways_out.ask()
        while shown.ways_out.labour.busy:
            QTest.qWait(50)

    def picked(shown: Window) -> None:
        shown.pick()
        while shown.picker.room.busy:
            QTest.qWait(50)
        portrayed(shown)

    shoot("radio", "ways-out", ways_out)
    shoot("stapler", "picker", picked)

    def rounded(shown: Window, closed: float) -> None:
        drawn(shown)
        shown.turn_round()
        while shown.turning.labour.busy:
            QTest.qWait(50)
        shown.turning.step.setValue(round(closed * shown.turning.step.maximum()))
        while not shown.turning.seen.rests:
            QTest.qWait(50)

    shoot("laser-level", "round-closing", lambda shown: rounded(shown, 0.45))

    def laid_out(shown: Window) -> None:
        drawn(shown)
        shown.show_stage("Lay out")
        out = shown.rooms.laying_out
        out.on.count.setValue(6)
        out.on.name("shop")
        while shown.counter.busy or out.busy or not out.rests:
            QTest.qWait(50)
        for key in (Qt.Key.Key_Tab, Qt.Key.Key_P, Qt.Key.Key_Escape):
            QTest.keyClick(out.table, key)

    shoot("stapler", "lay-out", laid_out)

    def at_work(shown: Window) -> None:
        drawn(shown)
        evening = datetime.now().replace(hour=18, minute=20, second=0, microsecond=0)
        work = shown.rooms.at_work
        work.clock = lambda: evening
        shown.show_stage("Bench")
        while shown.counter.busy or work.foresight.busy or not work.next.turns:
            QTest.qWait(50)
        QTest.keyClick(work, Qt.Key.Key_Space)
        while shown.counter.busy or work.foresight.busy:
            QTest.qWait(50)

    shoot("radio", "bench", at_work)

    def logged(shown: Window) -> None:
        drawn(shown)
        book = shown.rooms.logbook
        shown.show_stage("Log")
        while shown.counter.busy or book.entry is None or not book.slip.rows:
            QTest.qWait(50)
        for key in (Qt.Key.Key_W, Qt.Key.Key_W, Qt.Key.Key_4, Qt.Key.Key_4, Qt.Key.Key_4, Qt.Key.Key_G):
            QTest.keyClick(book, key)
        while shown.counter.busy or not book.wrong.suspects:
            QTest.qWait(50)

    def learned(shown: Window) -> None:
        drawn(shown)
        shown.show_stage("Log")
        learning = shown.rooms.logbook.learning
        while shown.counter.busy or shown.counter.shop is None:
            QTest.qWait(50)
        QTest.keyClick(shown.rooms.logbook, Qt.Key.Key_L)
        while not learning.lines.beliefs or learning.trying.busy:
            QTest.qWait(50)
        QTest.keyClick(learning.lines, Qt.Key.Key_Return)

    shoot("eaves-blade", "log", logged)
    shoot("eaves-blade", "learned", learned)


if __name__ == "__main__":
    import os

    with tempfile.TemporaryDirectory() as state:
        os.environ |= {
            "XDG_STATE_HOME": state,
            "XDG_DATA_HOME": state,
            "XDG_CONFIG_HOME": state,
        }  # pictures show no one's own work
        main(Path(sys.argv[1]), *map(int, sys.argv[2:4]))
