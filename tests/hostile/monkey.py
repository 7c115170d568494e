"""A monkey at the real window: python -m tests.hostile.monkey SECONDS SEED."""

from __future__ import annotations

import gc
import os
import random
import sys
import tempfile
import time
import traceback
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QCoreApplication, QEvent, QPoint, Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QLineEdit, QWidget

from tailor import demo
from tailor.core.together.drawn import ready
from tailor.desk.rooms import load
from tailor.desk.start import application
from tailor.desk.window import Window

FREEZE = 0.3  # s of its own that the window's thread may take over one thing
SETTLED = 300.0  # s after which memory no longer grows
GROWTH, SPAN = 1.1, 60.0  # what it may grow by all the same; s whose least is compared: a large job is let go of again
TYPED = (
    "3", "0", "-1", "9.5mm", "1/0", "3/8", "7-8 oz", "nan", "1e9", "9" * 400, "<b>x</b>", "auto", "", "45°", "50%",
    "snap 10", "a\u2028b", "\u200b",
)  # fmt: skip
KEYS = (
    Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Tab, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left,
    Qt.Key.Key_Right, Qt.Key.Key_Space, Qt.Key.Key_P, Qt.Key.Key_E, Qt.Key.Key_Question, Qt.Key.Key_Delete,
)  # fmt: skip
LEFT_BE = ("close",)  # acts that would end it


Seen = TypeVar("Seen", bound=QWidget)


class Monkey:
    """One window, and what is done to it by chance."""

    def __init__(self, seed: int, folder: Path) -> None:
        self.rng, self.folder = random.Random(seed), folder
        self.app = application()
        load()  # as it is soon after a start
        ready()  # and once a case was seen in the round, which takes a hundred megabytes, once
        self._within = 0.0
        self.faults, self.slowest, self.did = list[str](), (0.0, ""), list[str]()
        sys.excepthook = lambda *fault: self.faults.append("".join(traceback.format_exception(*fault)))
        paths = [str(p) for p in demo.write(folder)]
        QFileDialog.getOpenFileName = lambda *_, **__: (self.rng.choice([*paths, ""]), "")
        QFileDialog.getOpenFileNames = lambda *_, **__: ([], "")
        QFileDialog.getExistingDirectory = lambda *_, **__: self.rng.choice([str(folder / "out"), ""])
        QFileDialog.getSaveFileName = lambda *_, **__: (str(folder / "saved.tailor"), "")
        QFileDialog.exec = lambda _: 0
        self.window = Window(demo.job(self.rng.choice(demo.names())))
        self.window.resize(1280, 800)
        self._closes = QTimer(interval=50, timeout=self._close_menus)
        self._closes.start()
        self.window.show()
        gc.freeze()  # as it is soon after a start

    def turn(self) -> None:
        """One thing by chance, and what follows from it."""
        deeds: tuple[Callable[[], str], ...] = (self.act, self.key, self.key, self.click, self.click, self.drag,
            self.type, self.stage, self.job)  # fmt: skip
        deed = self.rng.choices(deeds, (4, 4, 4, 4, 4, 2, 4, 2, 1))[0]
        self._timed(lambda: self.did.append(deed()))
        self._timed(self.app.processEvents, "then ")
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)  # as the window's own loop does

    def _timed(self, deed: Callable[[], object], after: str = "") -> None:
        """Do one thing, and note how long the window's thread was at it, but for the events within, and for looking
        about.
        """
        begun, within = time.thread_time(), self._within
        deed()
        took = time.thread_time() - begun - (self._within - within)
        self._within += took
        if took > self.slowest[0]:
            self.slowest = took, after + (self.did[-1] if self.did else "begin")

    def _close_menus(self) -> None:
        while (menu := QApplication.activePopupWidget()) is not None:
            menu.close()

    def _seen(self, kind: type[Seen]) -> list[Seen]:
        begun = time.thread_time()
        found = [w for w in self.window.findChildren(kind) if w.isVisible() and w.width() > 2 and w.height() > 2]
        self._within += time.thread_time() - begun
        return found

    def _at(self, widget: QWidget) -> QPoint:
        return QPoint(self.rng.randrange(widget.width()), self.rng.randrange(widget.height()))

    def act(self) -> str:
        name = self.rng.choice([n for n in self.window.acts if n not in LEFT_BE])
        self.window.acts[name].trigger()
        return f"act {name}"

    def key(self) -> str:
        key = self.rng.choice(KEYS)
        QTest.keyClick(QApplication.focusWidget() or self.window, key)
        return f"key {key.name}"

    def click(self) -> str:
        widget = self.rng.choice([self.window.board, *self._seen(QWidget)])
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton, pos=self._at(widget))
        return f"click {type(widget).__name__} {widget.objectName()}"

    def drag(self) -> str:
        board = self.window.board
        QTest.mousePress(board, Qt.MouseButton.LeftButton, pos=self._at(board))
        for _ in range(self.rng.randint(1, 6)):
            self._timed(lambda: QTest.mouseMove(board, self._at(board)))
            self._timed(self.app.processEvents)
        QTest.mouseRelease(board, Qt.MouseButton.LeftButton, pos=self._at(board))
        return "drag"

    def type(self) -> str:
        text = self.rng.choice(TYPED)
        fields = self._seen(QLineEdit)
        if not fields or self.rng.random() < 0.6:
            tags = [t for t in self.window.board.tags.values() if t.isVisible()]
            if tags:
                self.rng.choice(tags).begin()
            fields = self._seen(QLineEdit) or fields
        if fields:
            field = self.rng.choice(fields)
            field.setText(text)
            QTest.keyClick(field, self.rng.choice((Qt.Key.Key_Return, Qt.Key.Key_Tab, Qt.Key.Key_Escape)))
        return f"type {text[:20]}"

    def stage(self) -> str:
        name = self.rng.choice(("Object", "Draft", "Carry", "Bench", "Log"))
        self.window.show_stage(name)
        return f"stage {name}"

    def job(self) -> str:
        name = self.rng.choice(demo.names())
        self.window.bench.lay_down(demo.job(name), None)
        return f"job {name}"

    def end(self) -> None:
        self.window.bench.clean = self.window.bench.job
        self.window.close()


def resident() -> int:
    """Memory of this process, bytes."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE")


def main(seconds: str, seed: str) -> int:
    with tempfile.TemporaryDirectory() as folder:
        os.environ |= {"XDG_STATE_HOME": folder, "XDG_DATA_HOME": folder}
        monkey, end = Monkey(int(seed), Path(folder)), time.monotonic() + float(seconds)
        begun, held = time.monotonic(), list[tuple[float, int]]()
        while time.monotonic() < end and not monkey.faults:
            monkey.turn()
            held.append((time.monotonic() - begun, resident()))
        monkey.end()
    settled = [used for at, used in held if SETTLED - SPAN < at < SETTLED]
    last = [used for at, used in held if at > max(held[-1][0] - SPAN, SETTLED)]
    grown = min(last) / min(settled) if settled and last else 1.0
    slowest, after = monkey.slowest
    print(f"{len(monkey.did)} turns, slowest {slowest:.2f} s ({after}), memory × {grown:.2f}")
    for fault in monkey.faults:
        print(fault, "after", monkey.did[-12:])
    return int(bool(monkey.faults) or slowest > FREEZE or grown > GROWTH)


if __name__ == "__main__":
    raise SystemExit(main(*sys.argv[1:]))
