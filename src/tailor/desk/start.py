"""Starting the window."""

from __future__ import annotations

import signal
import sys
from pathlib import Path

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication

from tailor import demo
from tailor.core.errors import InputError
from tailor.desk import keeping, theme
from tailor.desk.window import Window
from tailor.files import job_file


def application() -> QApplication:
    """The dressed application; the one there is, if there is one."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(sys.argv[:1])
    app.setApplicationName("tailor")
    app.setDesktopFileName("tailor")
    theme.dress(app)
    return app


def window(demo_name: str | None = None, path: Path | None = None) -> Window:
    """The window on a demo job, on a file, or on the last job (the first demo job where there is none)."""
    if demo_name is not None:
        return Window(demo.job(demo_name))
    if path is not None:
        job = job_file.load(path)
        keeping.remember(path)
        return Window(job, path)
    for last in keeping.recent():
        try:
            return Window(job_file.load(last), last)
        except InputError as error:
            opened = Window(demo.job())
            opened.notice.say(str(error), grave=True)
            return opened
    return Window(demo.job())


def run(demo_name: str | None = None, path: Path | None = None) -> int:
    """Open the window and stay until it is closed; the exit status. Raises InputError for a job that is not there."""
    app = application()
    shown = window(demo_name, path)
    shown.resize(1280, 800)
    shown.show()
    shown.offer_unsaved()
    signal.signal(signal.SIGINT, lambda *_: shown.close())
    awake = QTimer(interval=250)  # lets Python see signals
    awake.timeout.connect(lambda: None)
    awake.start()
    return app.exec()
