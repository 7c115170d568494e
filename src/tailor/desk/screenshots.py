"""Pictures of every main view, from demo data: python -m tailor.desk.screenshots FOLDER [NAME ...], all or some."""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Callable, Collection
from datetime import datetime
from functools import partial
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from tailor.core.draft.views.seen import Eye
from tailor.desk.stages import STAGES
from tailor.desk.start import application, window
from tailor.desk.window import Window

SIZE = 1280, 800  # px


def main(folder: Path, names: Collection[str] = (), size: tuple[int, int] = SIZE) -> None:
    """Write a picture of each view that is named, or of all."""
    app = application()
    folder.mkdir(parents=True, exist_ok=True)
    for name in names or VIEWS:
        demo, act = VIEWS[name]
        shown = window(demo_name=demo)
        shown.resize(*size)
        shown.show()
        QTest.qWait(80)
        act(shown)
        drawn(shown)
        QTest.qWait(120)
        app.processEvents()
        shown.grab().save(str(folder / f"{name}.png"))
        shown.close()


def until(there: Callable[[], bool]) -> None:
    """Wait until something is there."""
    while not there():
        QTest.qWait(50)


def drawn(shown: Window) -> None:
    """Wait until what is asked for is drawn."""
    until(lambda: shown.bench.fresh and not shown.bench.looking)


def portrayed(shown: Window) -> None:
    """Wait until what lies there is seen as it will be made."""
    QTest.qWait(1000)
    until(lambda: not shown.portraits.busy)


# What is done to see each


def on_the_shelf(shown: Window) -> None:
    shown.pages.show_shelf()
    portrayed(shown)


def in_the_guide(shown: Window) -> None:
    shown.pages.show_shelf()  # from where it is read from its beginning
    shown.pages.read_guide()


def at_stage(name: str, shown: Window) -> None:
    shown.show_stage(name)
    shown.tooling.choose(2 if STAGES[name].tooled else 0)


def made_up(shown: Window) -> None:
    shown.show_stage("Draft")
    shown.board.lay(False)


def photographed(shown: Window) -> None:
    shown.show_stage("Object")
    shown.ways.turn_to("Photo")
    panel = shown.ways.panel("Photo")
    next(b for b in panel.findChildren(QPushButton) if b.accessibleName() == "Demo picture").click()
    until(lambda: panel.table is not None and not panel.labour.busy)


def ordered(shown: Window) -> None:
    orders = shown.rooms.orders
    shown.pages.turn_to(orders)
    until(lambda: shown.counter.shop is not None and "" in orders.reckoned and not orders.room.busy)
    portrayed(shown)


def in_stock(shown: Window) -> None:
    ordered(shown)
    shown.pages.turn_to(shown.rooms.stockroom)


def eased(shown: Window) -> None:
    shown.show_stage("Leather")
    shown.board.lay(False, Eye.FRONT)
    shown.acts["strain"].trigger()
    shown.ways_out.ask()
    until(lambda: not shown.ways_out.labour.busy)


def picked(shown: Window) -> None:
    shown.middle.pick()
    until(lambda: not shown.picker.room.busy)
    portrayed(shown)


def closing(shown: Window, closed: float = 0.45) -> None:
    drawn(shown)
    shown.middle.turn_round()
    until(lambda: not shown.turning.labour.busy)
    shown.turning.step.setValue(round(closed * shown.turning.step.maximum()))
    until(lambda: bool(shown.turning.seen.rests))


def laid_out(shown: Window) -> None:
    drawn(shown)
    shown.show_stage("Lay out")
    out = shown.rooms.laying_out
    out.on.count.setValue(6)
    out.on.name("shop")
    until(lambda: not shown.counter.busy and not out.busy and bool(out.rests))
    for key in (Qt.Key.Key_Tab, Qt.Key.Key_P, Qt.Key.Key_Escape):
        QTest.keyClick(out.table, key)


def at_work(shown: Window) -> None:
    drawn(shown)
    evening = datetime.now().replace(hour=18, minute=20, second=0, microsecond=0)
    work = shown.rooms.at_work
    work.clock = lambda: evening
    shown.show_stage("Bench")
    until(lambda: not shown.counter.busy and not work.foresight.busy and bool(work.next.turns))
    QTest.keyClick(work, Qt.Key.Key_Space)
    until(lambda: not shown.counter.busy and not work.foresight.busy)


def logged(shown: Window) -> None:
    drawn(shown)
    book = shown.rooms.logbook
    shown.show_stage("Log")
    until(lambda: not shown.counter.busy and book.entry is not None and bool(book.slip.rows))
    for key in (Qt.Key.Key_W, Qt.Key.Key_W, Qt.Key.Key_4, Qt.Key.Key_4, Qt.Key.Key_4, Qt.Key.Key_G):
        QTest.keyClick(book, key)
    until(lambda: not shown.counter.busy and bool(book.wrong.suspects))


def learned(shown: Window) -> None:
    drawn(shown)
    shown.show_stage("Log")
    learning = shown.rooms.logbook.learning
    until(lambda: not shown.counter.busy and shown.counter.shop is not None)
    QTest.keyClick(shown.rooms.logbook, Qt.Key.Key_L)
    until(lambda: bool(learning.lines.beliefs) and not learning.trying.busy)
    QTest.keyClick(learning.lines, Qt.Key.Key_Return)


PLAIN = [stage.name for stage in STAGES.values() if not (stage.spread or stage.worked or stage.logged)]
VIEWS: dict[str, tuple[str, Callable[[Window], None]]] = {  # of which demo job, and what is done to see it
    "shelf": ("eaves-blade", on_the_shelf),
    "guide": ("eaves-blade", in_the_guide),
    **{name.lower(): ("eaves-blade", partial(at_stage, name)) for name in PLAIN},
    "draft-made-up": ("eaves-blade", made_up),
    "photo": ("eaves-blade", photographed),
    "orders": ("eaves-blade", ordered),
    "stock": ("eaves-blade", in_stock),
    "ways-out": ("radio", eased),
    "picker": ("stapler", picked),
    "round-closing": ("laser-level", closing),
    "lay-out": ("stapler", laid_out),
    "bench": ("radio", at_work),
    "log": ("eaves-blade", logged),
    "learned": ("eaves-blade", learned),
}


if __name__ == "__main__":
    import os

    with tempfile.TemporaryDirectory() as state:  # pictures show no one's own work
        os.environ |= dict.fromkeys(("XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_CONFIG_HOME"), state)
        main(Path(sys.argv[1]), sys.argv[2:])
