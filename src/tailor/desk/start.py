"""Starting the window.

An opening window is on the screen at once; the core is loaded and the first draft made on another thread, and
then the bench takes its place.
"""

from __future__ import annotations

import gc
import os
import signal
import sys
from dataclasses import replace
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING

from PyQt6.QtCore import QElapsedTimer, QRectF, Qt, QThread, QThreadPool, QTimer, QUrl
from PyQt6.QtGui import QCloseEvent, QColor, QDesktopServices, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QApplication, QWidget

from tailor.core.errors import InputError
from tailor.desk import theme
from tailor.desk.helper import Helper
from tailor.desk.thrift import few_arenas

if TYPE_CHECKING:
    from tailor.core.job import Job
    from tailor.core.outcome import Outcome
    from tailor.desk.window import Window

SIZE = 1280, 800
LONG, LEAST = 1500, 150  # ms from the beginning, and of drafting, after which the bench is laid out without a draft
LATE = InputError("it is not worked out yet", "draft", "wait a moment, or open another job")
SCREENS = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")  # one of these says where windows go
WARM = 1500  # ms after which the process that proposes constructions is begun


def application(dressed: bool = True) -> QApplication:
    """The application, the one there is if there is one; dressed, or only as far as the opening window needs."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        few_arenas()
        app = QApplication(sys.argv[:1])
    app.setApplicationName("tailor")
    app.setDesktopFileName("tailor")
    theme.put_up()
    if dressed:
        theme.dress(app)
    return app


def fit(window: QWidget) -> None:
    """Open a window as large as it likes to be, but no larger than the screen, and all of it on it."""
    screen = window.screen()
    assert screen is not None
    room = screen.availableGeometry()
    window.resize(min(SIZE[0], room.width()), min(SIZE[1], room.height()))
    window.move(room.center() - window.rect().center())


class Opening(QWidget):
    """What is seen while the bench is laid out: the bench, and an empty card on it."""

    def __init__(self) -> None:
        super().__init__()
        self.setWindowTitle("Tailor")
        fit(self)
        self.given_up = False

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(theme.BENCH))
        card = QRectF(self.rect()).adjusted(8, 52, -396, -62)
        painter.setPen(QPen(QColor(theme.EDGE), 1))
        painter.setBrush(QColor(theme.CARD))
        painter.drawRect(card)
        painter.setPen(QColor(theme.STRAP_DARK))
        painter.setFont(theme.heading(15))
        painter.drawText(card, Qt.AlignmentFlag.AlignCenter, "Laying out the bench …")

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.given_up = True
        super().closeEvent(event)


class _Fetching(QThread):
    """Loads the core and the first job, off the window's thread."""

    def __init__(self, demo_name: str | None, path: Path | None) -> None:
        super().__init__()
        self._wanted = demo_name, path
        self.job: Job | None = None
        self.path: Path | None = None
        self.on_shelf = False
        self.told: tuple[str, ...] = ()
        self.trouble: InputError | None = None

    def run(self) -> None:
        import tailor.desk.window  # noqa: F401  loaded here so that laying it out is quick

        try:
            self.job, self.path, self.on_shelf, self.told = first_job(*self._wanted)
        except InputError as error:
            self.trouble = error


def first_job(demo_name: str | None, path: Path | None) -> tuple[Job, Path | None, bool, tuple[str, ...]]:
    """The job to begin with, its file, whether the shelf lies over it, and what to tell of the maker's own tables.

    A demo job, or the file given; where neither is, a plain block with the shelf over it. Raises InputError when the
    demo job or the file given cannot be had.
    """
    from tailor import demo
    from tailor.desk.filing import plain
    from tailor.files import job_file, makers

    maker, told = makers.load()
    if demo_name is not None:
        return demo.job(demo_name).by(maker), None, False, told
    if path is not None:
        return job_file.load(path).by(maker), path, False, told
    return plain().by(maker), None, True, told


def window(demo_name: str | None = None, path: Path | None = None) -> Window:
    """The window on its first job, laid out here and now."""
    from tailor.desk.window import Window

    job, file, on_shelf, told = first_job(demo_name, path)
    made = Window(job, file)
    made.counter.demo = demo_name is not None
    for complaint in told:
        made.notice.say(complaint, grave=True)
    if on_shelf:
        made.pages.show_shelf(can_leave=False)
    return made


class Start:
    """Opens the opening window, and then the bench in its place. bench: the window, once it is there."""

    def __init__(self, demo_name: str | None = None, path: Path | None = None) -> None:
        gc.disable()  # nothing is thrown away while all is loaded, and to look for it takes a tenth of that
        self._app = application(dressed=False)
        self._begun = QElapsedTimer()
        self._begun.start()
        self._demo = demo_name is not None
        self.opening = Opening()
        self.bench: Window | None = None
        self.error: InputError | None = None
        self._helper = Helper("tailor.core.drafter")  # begins beside the window, and is there when the job is
        self._fetching = _Fetching(demo_name, path)
        self._fetching.finished.connect(self._ask)
        self.opening.show()
        QTimer.singleShot(20, self._fetching.start)  # once the opening window has been drawn

    def _ask(self) -> None:
        """Have the first job drafted; where that takes long, the bench is laid out without it."""
        from tailor.desk.drafting import drafting_room

        got = self._fetching
        if got.job is None or self.opening.given_up:
            gc.enable()
            self.error = got.trouble
            self._helper.end()
            QApplication.quit()
            return
        room = drafting_room()
        room.open(self._helper)
        room.ask(got.job, None, False, self._lay_out)
        QTimer.singleShot(max(LEAST, LONG - self._begun.elapsed()), self._lay_out)

    def _lay_out(self, outcome: Outcome | None = None) -> None:
        from tailor.core.outcome import Outcome
        from tailor.desk.window import Window

        got = self._fetching
        if self.bench is not None or got.job is None:
            return
        if self.opening.given_up:
            gc.enable()
            QApplication.quit()
            return
        theme.dress(self._app)
        self.bench = Window(got.job, got.path, outcome=outcome or Outcome(replace(got.job), None, (), LATE))
        self.bench.counter.demo = self._demo
        self.bench.setGeometry(self.opening.geometry())
        if got.on_shelf:
            self.bench.pages.show_shelf(can_leave=False)
        self.bench.show()
        self.opening.hide()
        for complaint in got.told:
            self.bench.notice.say(complaint, grave=True)
        if not got.on_shelf:  # where unsaved work lies too
            self.bench.filing.offer_unsaved()
        gc.freeze()  # what is loaded by now is there to stay
        gc.enable()
        QTimer.singleShot(WARM, self._warm)
        self._tell_faults()

    def _tell_faults(self) -> None:
        """Tell of faults of ours that were written down since last time."""
        from tailor.files import state

        if self.bench is not None and (found := state.untold()):
            where = QUrl.fromLocalFile(str(found[0].parent))
            self.bench.notice.say(
                "Tailor was at fault lately; what happened is written down.",
                ("Open its folder", lambda: QDesktopServices.openUrl(where)),
            )

    def _warm(self) -> None:
        """Begin the process that proposes, so that the first picture is not long in coming; unless all is over.

        What is loaded by now is there to stay: it is kept from every later search for what can be thrown away, which
        would hold the hand up for a tenth of a second.
        """
        if self.bench is not None and self.bench.isVisible():
            from tailor.desk.rooms import load

            gc.freeze()
            self.bench.picker.room.open()
            self.bench.counter.open_if_there()
            pool = QThreadPool.globalInstance()
            assert pool is not None
            pool.start(load)

    def at_fault(self, kind: type[BaseException], fault: BaseException, trace: TracebackType | None) -> None:
        """A fault of ours is told and does not take the window down with it."""
        from tailor.files import job_file, state

        sys.__excepthook__(kind, fault, trace)
        job = "" if self.bench is None else job_file.to_text(self.bench.bench.job)
        state.note_fault(fault, "the window", job)
        if self.bench is not None:
            self.bench.bench.keep()
            said = f"Tailor itself is at fault ({kind.__name__}: {fault}). Your work is kept; undo the last change."
            self.bench.notice.say(said, grave=True)

    def close(self) -> None:
        """Be done, whatever waits."""
        if self.bench is None:
            self.opening.close()
        else:
            self.bench.calling.end()


def run(demo_name: str | None = None, path: Path | None = None) -> int:
    """Open the window and stay until it is closed; the exit status. Raises InputError for a job that is not there."""
    if not any(os.environ.get(name) for name in SCREENS):
        raise InputError("there is no screen to open a window on", "tailor", "start it where there is one")
    start = Start(demo_name, path)
    signal.signal(signal.SIGINT, lambda *_: start.close())
    awake = QTimer(interval=250)  # lets Python see signals
    awake.timeout.connect(lambda: None)
    awake.start()
    sys.excepthook = start.at_fault
    status = QApplication.exec()
    start._fetching.wait()
    if start.error is not None:
        raise start.error
    return status
