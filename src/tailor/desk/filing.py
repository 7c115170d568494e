"""Filing: jobs and tables opened, laid on the bench, saved, and offered again."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QMenu, QWidget

from tailor.core.carried.block import block
from tailor.core.carried.stations import read_csv
from tailor.core.draft import styles
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.desk import keeping
from tailor.desk.notice import Notice
from tailor.desk.workbench import Workbench
from tailor.files import job_file

JOBS = "Tailor jobs (*.tailor)"
PLAIN = 150.0, 40.0, 20.0, 3.0  # mm: the block that a new job begins with
MEASURED = {
    **dict.fromkeys((".jpg", ".jpeg", ".png", ".webp"), "Photo"), **dict.fromkeys((".tif", ".tiff"), "Scan"),
    **dict.fromkeys((".svg", ".dxf"), "Outline"), **dict.fromkeys((".stl", ".obj", ".ply"), "Mesh"),
}  # fmt: skip
OPENS = f"Jobs, tables and what to measure (*.tailor *.csv {' '.join('*' + kind for kind in MEASURED)})"


class Filing(QObject):
    """Files of the bench. laid: another job lies there. measure: turns to a way of measuring with a file."""

    laid = pyqtSignal()

    def __init__(
        self, bench: Workbench, notice: Notice, window: QWidget, measure: Callable[[str, Path], object]
    ) -> None:
        super().__init__(window)
        self.bench, self.notice, self._window, self._measure = bench, notice, window, measure

    def open(self, path: Path) -> bool:
        """Open a job or a station table; False, with the reason on the notice, where it cannot be."""
        try:
            if path.suffix.lower() in MEASURED:
                self._measure(MEASURED[path.suffix.lower()], path)
            elif path.suffix.lower() == ".csv":
                self._lay_table(path)
            else:
                self._lay(job_file.load(path), path)
                keeping.remember(path)
        except InputError as error:
            self.notice.say(str(error), grave=True)
            return False
        return True

    def begin_plain(self) -> None:
        """A new job on a plain block."""
        plain = Job("New object", styles.FIRST, block(*PLAIN).stations, units=self.bench.job.units)
        self._lay(plain, None, clean=False)

    def _lay_table(self, path: Path) -> None:
        table = read_csv(path)
        job = Job(
            path.stem.replace("_", " ").replace("-", " ").capitalize(),
            styles.FIRST,
            table.stations,
        ).measured(table)
        self._lay(replace(job, units=self.bench.job.units), None, clean=False)

    def _lay(self, job: Job, path: Path | None, clean: bool = True) -> None:
        self.notice.hide()
        kept = self.bench.dirty
        name = self.bench.job.name
        self.bench.lay_down(job, path, clean)
        if kept:
            self.notice.say(f"Unsaved work on {name} is kept; it is offered when Tailor starts again.")
        self.laid.emit()

    def offer_unsaved(self) -> None:
        """Offer work that an earlier window kept and did not save."""
        held = keeping.unsaved()
        if held:
            newest = held[0]

            def take_up() -> None:
                self._lay(newest.job, newest.path, clean=False)
                self.bench.keep()
                keeping.discard(newest)

            self.notice.say(
                f"Unsaved work on {newest.job.name} was kept.", ("Take it up", take_up),
                ("Throw it away", lambda: keeping.discard(newest)),
            )  # fmt: skip

    def save(self) -> None:
        """Save to the job's own file, or ask for one."""
        if self.bench.path is None:
            self.ask_save_as()
        else:
            self.save_to(self.bench.path)

    def save_to(self, path: Path) -> bool:
        """Save to a file; False, with the reason on the notice, where it cannot be."""
        try:
            self.bench.save(path)
        except InputError as error:
            self.notice.say(str(error), grave=True)
            return False
        self.notice.say(f"Saved to {path.name}.")
        return True

    def ask_new(self) -> None:
        """Ask for a station table, and begin a job with it."""
        self._ask("New from a station table", "Station tables (*.csv)")

    def ask_open(self) -> None:
        """Ask for a file, and open it."""
        self._ask("Open", OPENS)

    def _ask(self, title: str, kinds: str) -> None:
        found, _ = QFileDialog.getOpenFileName(self._window, title, str(self.folder()), kinds)
        if found:
            self.open(Path(found))

    def ask_panels(self) -> None:
        """Ask for a drawing of an old carrier's panels, and take them over into the job."""
        found, _ = QFileDialog.getOpenFileName(
            self._window, "Panels from a drawing", str(self.folder()), "Drawings (*.svg *.dxf)"
        )
        if found:
            self.take_panels(Path(found))

    def take_panels(self, path: Path) -> bool:
        """Take over the closed lines of a drawing as panels; False, with the reason on the notice, where not."""
        from tailor.files import outlines  # reads by a child process, which is slow to begin

        try:
            job = self.bench.job.taken_over(outlines.read(path, "mm"))
        except InputError as error:
            self.notice.say(str(error), grave=True)
            return False
        self.bench.change("panels of an old one", job)
        self.notice.say("Panels taken over. Put the mouse on an edge and press E, then on the edge it is sewn to.")
        return True

    def ask_save_as(self) -> None:
        """Ask where to save, and save there."""
        start = self.folder() / f"{self.bench.job.name.lower().replace(' ', '-').replace('/', '-')}.tailor"
        found, _ = QFileDialog.getSaveFileName(self._window, "Save as", str(start), JOBS)
        if found:
            path = Path(found)
            self.save_to(path if path.suffix else path.with_suffix(".tailor"))

    def folder(self) -> Path:
        """Where the maker's files lie."""
        return self.bench.path.parent if self.bench.path else Path.home()

    def list_recent(self, menu: QMenu) -> None:
        """Fill a menu with the jobs last opened."""
        menu.clear()
        for path in keeping.recent():
            menu.addAction(path.name, lambda p=path: self.open(p))
        if menu.isEmpty():
            menu.addAction("none yet").setEnabled(False)
