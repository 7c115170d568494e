"""Paper: the pattern written to files and sent to the printer, off the window's thread."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, QProcess, QRunnable, QThreadPool, QTimer, pyqtSignal

from tailor.core.errors import DiskError, InputError
from tailor.core.job import Job, mocked
from tailor.desk.notice import Notice
from tailor.desk.workbench import Workbench
from tailor.files import atomic, job_file, printer, state
from tailor.files.printer import Printer

TRUE = Printer()  # what is written to a file is not corrected
PATIENCE = 30_000  # ms that the printer is waited for


class _Written(QObject):
    """Carries what a writing thread says back to the window."""

    done = pyqtSignal(list)
    failed = pyqtSignal(str)


class _Writing(QRunnable):
    def __init__(self, job: Job, folder: Path, paper: str, tell: _Written, on: Printer) -> None:
        super().__init__()
        self._job, self._folder, self._paper, self._tell, self._on = job, folder, paper, tell, on

    def run(self) -> None:
        from tailor.files import pattern  # the paper and drawing libraries are slow to load, so only when wanted

        try:
            self._tell.done.emit(pattern.write(self._job, self._folder, self._paper, self._on))
        except InputError as error:
            self._tell.failed.emit(str(error))
        except Exception as fault:  # a fault of ours is told, and written down
            state.note_fault(fault, "writing the pattern", job_file.to_text(self._job))
            self._tell.failed.emit(f"Tailor itself is at fault ({type(fault).__name__}); the pattern is not written.")


class Paperwork(QObject):
    """Writes and prints the pattern of the job on the bench. written: the files that were."""

    written = pyqtSignal(list)

    def __init__(self, bench: Workbench, notice: Notice, paper: str, parent: QObject) -> None:
        super().__init__(parent)
        self.bench, self.notice, self.paper = bench, notice, paper
        self._printing: QProcess | None = None
        self._unsent = Path()
        self._patience = QTimer(self, interval=PATIENCE, singleShot=True, timeout=self._no_printer)

    def export(self, folder: Path) -> None:
        """Write the pattern into a folder."""
        self._write(
            folder,
            lambda paths: self.notice.say(f"Pattern written to {paths[0].parent}: " + ", ".join(p.name for p in paths)),
        )

    def print_(self) -> None:
        """Send the pattern to the printer at true scale; where there is none, say where the PDF lies."""
        self._write(state.folder() / "print", lambda paths: self._send(paths[0]), on=printer.known())

    def print_strip(self) -> None:
        """Send the strip that stitches are marked by to the printer."""

        def send(paths: list[Path]) -> None:
            if paths[-1].name == "marking-strip.pdf":
                self._send(paths[-1])
            else:
                self.notice.say("Nothing is sewn here, so there is no marking strip.")

        self._write(state.folder() / "print", send, on=printer.known())

    def print_calibration(self) -> None:
        """Send the sheet that the printer is measured by to it."""
        from tailor.files import pdf

        path = state.folder() / "calibration.pdf"
        try:
            atomic.write(path, pdf.calibration(self.paper))
        except DiskError as error:
            self.notice.say(str(error), grave=True)
            return
        self._send(path)

    def print_mock_up(self, material: str) -> None:
        """Send the pattern for a mock-up to the printer: the same lines, in card or foam."""
        made = self.bench.made
        job = self.bench.job if made is None else mocked(self.bench.job, made, material)
        self._write(state.folder() / f"mock-up-{material}", lambda paths: self._send(paths[0]), job, on=printer.known())

    def _send(self, path: Path) -> None:
        """Hand a file to the printer, without waiting for it; it can be cancelled until the printer has it."""
        self.cancel()
        self._unsent = path
        command = shutil.which("lp")
        if command is None:
            self._no_printer()
            return
        self._printing = QProcess(self)
        self._printing.finished.connect(self._sent)
        self._printing.errorOccurred.connect(lambda _: self._no_printer())
        self.notice.say("Sending to the printer …", ("Cancel", self.cancel))
        self._patience.start()
        options = ["-o", "print-scaling=none", "-o", f"media={self.paper.capitalize()}"]
        self._printing.start(command, [*options, str(path)])

    def _sent(self, status: int) -> None:
        self._patience.stop()
        if status == 0:
            self.notice.say("Sent to the printer at 100 %. Measure the check square before you cut.")
        else:
            self._no_printer()

    def _no_printer(self) -> None:
        self._let_go()
        self.notice.say(f"No printer answers; print {self._unsent} at 100 % from another program.", grave=True)

    def cancel(self) -> None:
        """Send no more of what is being sent to the printer."""
        if self._let_go():
            self.notice.say(f"Not printed. The pattern lies in {self._unsent}.")

    def _let_go(self) -> bool:
        """End what sends to the printer; whether it was at it."""
        self._patience.stop()
        if self._printing is None:
            return False
        process, self._printing = self._printing, None
        process.blockSignals(True)
        busy = process.state() != QProcess.ProcessState.NotRunning
        if busy:
            process.kill()
            process.waitForFinished(200)
        process.deleteLater()
        return busy

    def finish(self) -> None:
        """The window closes."""
        self._let_go()

    def _write(
        self, folder: Path, then: Callable[[list[Path]], None], job: Job | None = None, on: Printer = TRUE
    ) -> None:
        """Write a pattern, its pages corrected for the printer they go on."""
        if self.bench.error is not None:
            self.notice.say(f"The pattern cannot be written: {self.bench.error}", grave=True)
            return
        self.notice.say("Writing the pattern …")
        tell = _Written(self)
        tell.done.connect(then)
        tell.done.connect(self.written)
        tell.failed.connect(lambda said: self.notice.say(said, grave=True))
        QThreadPool.globalInstance().start(_Writing(job or self.bench.job, folder, self.paper, tell, on))
