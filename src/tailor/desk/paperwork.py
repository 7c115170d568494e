"""Paper: the pattern written to files and sent to the printer, off the window's thread."""

from __future__ import annotations

import shutil
import subprocess
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, pyqtSignal

from tailor.core.errors import InputError
from tailor.core.job import Job, mocked
from tailor.desk import keeping
from tailor.desk.notice import Notice
from tailor.desk.workbench import Workbench


class _Written(QObject):
    """Carries what a writing thread says back to the window."""

    done = pyqtSignal(list)
    failed = pyqtSignal(str)


class _Writing(QRunnable):
    def __init__(self, job: Job, folder: Path, paper: str, tell: _Written) -> None:
        super().__init__()
        self._job, self._folder, self._paper, self._tell = job, folder, paper, tell

    def run(self) -> None:
        from tailor.files import pattern  # the paper and drawing libraries are slow to load, so only when wanted

        try:
            self._tell.done.emit(pattern.write(self._job, self._folder, self._paper))
        except InputError as error:
            self._tell.failed.emit(str(error))


class Paperwork(QObject):
    """Writes and prints the pattern of the job on the bench. written: the files that were."""

    written = pyqtSignal(list)

    def __init__(self, bench: Workbench, notice: Notice, paper: str, parent: QObject) -> None:
        super().__init__(parent)
        self.bench, self.notice, self.paper = bench, notice, paper

    def export(self, folder: Path) -> None:
        """Write the pattern into a folder."""
        self._write(
            folder,
            lambda paths: self.notice.say(f"Pattern written to {paths[0].parent}: " + ", ".join(p.name for p in paths)),
        )

    def print_(self) -> None:
        """Send the pattern to the printer at true scale; where there is none, say where the PDF lies."""
        self._write(keeping.folder() / "print", lambda paths: self._send(paths[0]))

    def print_strip(self) -> None:
        """Send the strip that stitches are marked by to the printer."""

        def send(paths: list[Path]) -> None:
            if paths[-1].name == "marking-strip.pdf":
                self._send(paths[-1])
            else:
                self.notice.say("Nothing is sewn here, so there is no marking strip.")

        self._write(keeping.folder() / "print", send)

    def print_mock_up(self, material: str) -> None:
        """Send the pattern for a mock-up to the printer: the same lines, in card or foam."""
        made = self.bench.made
        job = self.bench.job if made is None else mocked(self.bench.job, made, material)
        self._write(keeping.folder() / f"mock-up-{material}", lambda paths: self._send(paths[0]), job)

    def _send(self, path: Path) -> None:
        command = shutil.which("lp")
        sent = command and subprocess.run(
            [command, "-o", "print-scaling=none", "-o", f"media={self.paper.capitalize()}", str(path)],
            capture_output=True,
        )  # fmt: skip
        if sent and sent.returncode == 0:
            self.notice.say("Sent to the printer at 100 %. Measure the check square before you cut.")
        else:
            self.notice.say(f"No printer answers; print {path} at 100 % from another program.", grave=True)

    def _write(self, folder: Path, then: Callable[[list[Path]], None], job: Job | None = None) -> None:
        if self.bench.error is not None:
            self.notice.say(f"The pattern cannot be written: {self.bench.error}", grave=True)
            return
        self.notice.say("Writing the pattern …")
        tell = _Written(self)
        tell.done.connect(then)
        tell.done.connect(self.written)
        tell.failed.connect(lambda said: self.notice.say(said, grave=True))
        QThreadPool.globalInstance().start(_Writing(job or self.bench.job, folder, self.paper, tell))
