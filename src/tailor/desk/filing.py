"""Filing: jobs and tables opened, laid on the bench, saved, and offered again."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QMenu, QWidget

from tailor import demo
from tailor.core import incoming
from tailor.core.carried.block import block
from tailor.core.carried.loft import Array
from tailor.core.carried.stations import read_csv
from tailor.core.draft import styles
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.desk import keeping
from tailor.desk.capture.labour import Labour, Tell
from tailor.desk.notice import Notice
from tailor.desk.workbench import Workbench, hashed
from tailor.files import job_file, kinds

JOBS = "Tailor jobs (*.tailor)"
PLAIN = 150.0, 40.0, 20.0, 3.0  # mm: the block that a new job begins with
OPENS = f"Jobs, tables and what to measure ({kinds.patterns()})"


def plain() -> Job:
    """A job on a plain block, as a new one begins."""
    table = block(*PLAIN)
    return Job("New object", styles.FIRST, table.stations).measured(table)


class Filing(QObject):
    """Files of the bench. laid: another job lies there. measure: turns to a way of measuring with a file."""

    laid = pyqtSignal()

    def __init__(
        self, bench: Workbench, notice: Notice, window: QWidget, measure: Callable[[str, Path], object]
    ) -> None:
        super().__init__(window)
        self.bench, self.notice, self._window, self._measure = bench, notice, window, measure
        self._tracing = Labour(self)
        self._tracing.begun.connect(lambda: self._tell_tracing("beginning", 0.0))
        self._tracing.progress.connect(self._tell_tracing)
        self._tracing.done.connect(self._panels_found)
        self._tracing.failed.connect(lambda said: notice.say(said, grave=True))
        bench.laid.connect(self._tracing.stop)  # what was asked for another job is not for this one

    def open(self, path: Path) -> bool:
        """Open a job or a station table; False, with the reason on the notice, where it cannot be."""
        try:
            kind = kinds.kind_of(path)
            if kind is not None and kind.way:
                self._measure(kind.way, path)
            elif kind is not None and kind.name == "table":
                self._lay_table(path)
            else:
                job, content = job_file.read(path)
                self._lay(job, path, lying=hashed(content))
        except InputError as error:
            self.notice.say(str(error), grave=True)
            return False
        return True

    def begin_plain(self) -> None:
        """A new job on a plain block."""
        self._lay(replace(plain(), units=self.bench.job.units).begun_by(self.bench.maker), None, clean=False)

    def _lay_table(self, path: Path) -> None:
        table = read_csv(path)
        job = Job(
            incoming.name_from(path.stem.replace("_", " ").replace("-", " ")).capitalize() or "Object",
            styles.FIRST,
            table.stations,
        ).measured(table)
        self._lay(replace(job, units=self.bench.job.units).begun_by(self.bench.maker), None, clean=False)

    def _lay(self, job: Job, path: Path | None, clean: bool = True, lying: str | None = None) -> None:
        self.notice.hide()
        kept = self.bench.dirty
        name = self.bench.job.name
        self.bench.lay_down(job, path, clean, lying)
        if kept:
            self.notice.say(f"Unsaved work on {name} is kept; it is offered when Tailor starts again.")
        self.laid.emit()

    def offer_unsaved(self) -> None:
        """Offer work that an earlier window kept and did not save."""
        held = keeping.unsaved(most=1)
        if held:
            newest = held[0]
            self.notice.say(
                f"Unsaved work on {newest.job.name} was kept.", ("Take it up", lambda: self.take_up(newest)),
                ("Throw it away", lambda: keeping.discard(newest)),
            )  # fmt: skip

    def take_up(self, held: keeping.Unsaved) -> None:
        """Go on with work that was kept and not saved."""
        self._lay(held.job, held.path, clean=False, lying=held.lying)
        if self.bench.keep():  # there is another copy of it on the disk
            keeping.discard(held)

    def show_demo(self, name: str) -> None:
        """Lay a demo job on the bench."""
        self._lay(demo.job(name), None)

    def show_job(self, job: Job) -> None:
        """Lay a job on the bench that lies in no file, as one that was ordered."""
        self._lay(job, None)

    def save(self) -> None:
        """Save to the job's own file, or ask for one; ask, too, where another has changed that file meanwhile."""
        path = self.bench.path
        if path is None:
            self.ask_save_as()
            return
        try:
            theirs = self.bench.changed_outside(path)
        except InputError as error:
            self.notice.say(
                f"What lies there now is no job any more. {error}", ("Save over it", self._save_over), grave=True
            )
            return
        if theirs is None:
            self.save_to(path)
            return
        self.notice.say(
            f"{path.name} was changed by another program since it was opened here.",
            ("Keep both", lambda: self.save_to(_beside(path))),
            ("Take theirs", self._take_theirs),
            ("Save over it", lambda: self._save_over(theirs)),
            grave=True,
        )

    def _save_over(self, theirs: Job | None = None) -> None:
        assert self.bench.path is not None
        try:
            self.bench.save(self.bench.path, over=theirs)
        except InputError as error:
            self.notice.say(str(error), grave=True)
            return
        self.notice.say(
            f"Saved to {self.bench.path.name}." + (" Undo brings the other version back." if theirs else "")
        )

    def _take_theirs(self) -> None:
        try:
            self.bench.take()
        except InputError as error:
            self.notice.say(str(error), grave=True)

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
        """Ask for drawings or pictures of an old carrier's panels, and take them over into the job."""

        found, _ = QFileDialog.getOpenFileNames(
            self._window,
            "Panels of an old one",
            str(self.folder()),
            f"Drawings, photos on the mat, scans ({kinds.patterns(panels=True)})",
        )
        if found:
            self.take_panels(*map(Path, found))

    def take_panels(self, *paths: Path) -> None:
        """Take over the closed lines of drawings, and what pictures show, as panels: off the window's thread."""
        thickness = self.bench.job.settings.number("leather.thickness")

        def work(tell: Tell) -> list[Array]:
            from tailor.files import panels

            found = list[Array]()
            for k, path in enumerate(paths):
                start = k / len(paths)

                def tell_on(said: str, share: float, path: Path = path, start: float = start) -> None:
                    tell(f"{path.name}: {said}", start + share / len(paths))

                found += panels.read(path, thickness, "mm", tell_on)
            return found

        self._tracing.start(work)

    def _tell_tracing(self, said: str, share: float) -> None:
        self.notice.say(f"Taking panels over, {100 * share:.0f} %: {said}", ("Stop", self._tracing.stop))

    @property
    def busy(self) -> bool:
        """Whether panels are being read."""
        return self._tracing.busy

    def finish(self) -> None:
        """Let go of what is being read, and leave no thread running."""
        self._tracing.finish()

    def _panels_found(self, found: list[Array]) -> None:
        try:
            self.bench.change("panels of an old one", self.bench.job.taken_over(found))
        except InputError as error:
            self.notice.say(str(error), grave=True)
            return
        self.notice.say("Panels taken over. Put the mouse on an edge and press E, then on the edge it is sewn to.")

    def ask_save_as(self) -> None:
        """Ask where to save, and save there. The suffix is settled before it is asked whether to write over a file."""
        start = self.folder() / f"{self.bench.job.name.lower().replace(' ', '-').replace('/', '-')}.tailor"
        asked = QFileDialog(self._window, "Save as", str(start.parent), JOBS)
        asked.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
        asked.setDefaultSuffix("tailor")
        asked.selectFile(start.name)
        if asked.exec():
            self.save_to(Path(asked.selectedFiles()[0]))

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


def _beside(path: Path) -> Path:
    """A name beside a file's that is not taken yet."""
    return next(p for n in itertools.count(2) if not (p := path.with_stem(f"{path.stem} {n}")).exists())
