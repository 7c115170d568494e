"""The window: masthead, board, slice, ledger and strap round one workbench."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, QThreadPool, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QMainWindow,
    QVBoxLayout,
    QWidget,
)

from tailor.core.carried.zones import ZoneKind
from tailor.core.checks.verdict import Verdict
from tailor.core.job import Job
from tailor.core.outcome import Outcome
from tailor.desk.board import Board
from tailor.desk.calibrating import Calibrating
from tailor.desk.calling import Calling
from tailor.desk.capture.easel import Easel
from tailor.desk.capture.ways import Ways
from tailor.desk.costing import Costing
from tailor.desk.counter import Counter
from tailor.desk.filing import Filing
from tailor.desk.held import Held
from tailor.desk.ledger import Ledger
from tailor.desk.masthead import Masthead
from tailor.desk.menus import Menus
from tailor.desk.middle import Middle
from tailor.desk.notes import NoteLine, Notes
from tailor.desk.notice import Notice
from tailor.desk.outs import WaysOut
from tailor.desk.pages import Pages, take_typing
from tailor.desk.paperwork import Paperwork
from tailor.desk.picker import Picker
from tailor.desk.portraits import Portraits
from tailor.desk.rooms import Rooms
from tailor.desk.shelf import Shelf
from tailor.desk.slice import Slice
from tailor.desk.stages import STAGES, stage_of
from tailor.desk.strap import Strap
from tailor.desk.thrift import Thrift
from tailor.desk.turning import Turning
from tailor.desk.workbench import Workbench
from tailor.files.kinds import kind_of


class Window(QMainWindow):
    """The whole window on one job."""

    written = pyqtSignal(list)

    def __init__(self, job: Job, path: Path | None = None, paper: str = "a4", outcome: Outcome | None = None) -> None:
        super().__init__()
        self.setMinimumSize(1000, 660)
        self.setAcceptDrops(True)
        self.bench = Workbench(job, path, self, outcome)
        self.notice = Notice()
        self.paperwork = Paperwork(self.bench, self.notice, paper, self)
        self.paperwork.written.connect(self.written)
        self.filing = Filing(self.bench, self.notice, self, self._measure)
        self.board = Board(self.bench)
        self.tooling = self.board.tools.strip
        self.tooling.paper = lambda: self.paperwork.paper
        self.notes = Notes(self.bench, NoteLine(self.board))
        self.held = Held(self.bench)
        self.ways_out = WaysOut(self.bench)
        self.slice = Slice(self.bench)
        self.ledger = Ledger(self.bench)
        self.strap = Strap(self.bench)
        self.easel = Easel()
        self.portraits = Portraits(self)
        self.picker = Picker(self.bench, self.portraits)
        self.turning = Turning(self.bench, lambda: self.board.bar)
        self.counter = Counter(self)
        self.calling = Calling(self)
        self.thrift = Thrift(self.bench)
        self.rooms = Rooms(self.bench, self.counter, self.portraits)
        self.shelf = Shelf(self.counter, self.portraits)
        self.pages = Pages(self.bench, self.board, self.shelf, self.rooms, self.counter)
        self.calibrating = Calibrating()
        self._new = False  # the job was begun anew, and is not measured yet
        self.ways = Ways(self.bench, self.easel)
        self.measurements = self.ways.measurements
        strips = (self.notes, self.held, self.ways_out, self.calibrating, self.tooling)
        self.middle = Middle(self.board, strips, self.ways, self.picker, self.turning, self.rooms)
        self.menus = Menus(self, paper)
        self.acts = self.menus.acts
        self.costing = Costing(self.bench, self.counter, lambda: self.rooms.takes)
        self.masthead = Masthead(self.bench, self.menus, self.costing, self)
        self.masthead.steps = lambda: self.pages.steps
        self._lay_out()
        self._wire()
        self.show_stage("Draft")
        self._title()
        self.board.setFocus()

    # Building

    def _lay_out(self) -> None:
        bench = QWidget()
        bench.setObjectName("bench")
        right = QVBoxLayout()
        right.setSpacing(0)
        right.addWidget(self.slice, 10)
        right.addWidget(self.ledger, 15)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.setContentsMargins(4, 0, 4, 0)
        middle.addWidget(self.ways)
        middle.addWidget(self.middle, 1)
        side = QWidget()
        side.setLayout(right)
        right.setContentsMargins(0, 0, 0, 0)
        middle.addWidget(side)
        self._side = side
        all_ = QVBoxLayout(bench)
        all_.setContentsMargins(0, 0, 0, 0)
        all_.setSpacing(0)
        all_.addWidget(self.masthead)
        all_.addLayout(middle, 1)
        all_.addWidget(self.strap)
        self.pages.lay_out(bench)
        self.pages.picking = lambda: self.middle.picking
        whole = QWidget()
        both = QVBoxLayout(whole)
        both.setContentsMargins(0, 0, 0, 0)
        both.setSpacing(0)
        both.addWidget(self.notice)
        both.addWidget(self.pages, 1)
        self.setCentralWidget(whole)

    def _wire(self) -> None:
        self.strap.chosen.connect(self.show_stage)
        self.board.bar_moved.connect(self.slice.cut_at)
        self.board.shape_changed.connect(self._shaped)
        self.board.refused.connect(self._refuse)
        self.board.told.connect(self.notice.say)
        self.board.noting.connect(self.notes.line.open)
        self.notes.refused.connect(self._refuse)
        self.ways.refused.connect(self._refuse)
        self.ways.chosen.connect(lambda _: self.middle.look())
        self.ways.chosen.connect(lambda _: self.notice.forgive())
        self.ways.jaws.connect(self.board.show_jaws)
        self.ways.taken.connect(self._measured)
        self.measurements.kind_chosen.connect(lambda said: setattr(self.board.zoning, "kind", ZoneKind(said)))
        self.ledger.show_me.connect(self.show_verdict)
        self.ledger.ways_out.connect(self.ways_out.ask)
        self.held.held_changed.connect(self._show_held)
        self.filing.laid.connect(self._settle_soon)
        self.filing.laid.connect(self.middle.look)
        self.picker.done.connect(self._picked)
        self.turning.left.connect(self.middle.turn_round)
        self.rooms.stepped.connect(self.masthead.refresh)
        self.rooms.came_to_rest.connect(self.costing.refresh)
        self.pages.turned.connect(self.masthead.refresh)
        self.pages.turned.connect(self._title)
        self.rooms.taken.connect(self.filing.show_job)
        self.rooms.made.connect(self._made)
        self.rooms.called.connect(self._called)
        self.board.shape_changed.connect(lambda _: self.middle.look())
        self.board.bar_moved.connect(lambda _: self.turning.recut())
        self.calibrating.told.connect(self.notice.say)
        self.calibrating.refused.connect(self._refuse)
        self.calibrating.wanted.connect(self.paperwork.print_calibration)
        self.shelf.begun.connect(self.begin_anew)
        self.shelf.opened.connect(self.open)
        self.shelf.copied.connect(self.filing.show_job)
        self.bench.saved.connect(self._shelve)
        self.shelf.taken_up.connect(self.filing.take_up)
        self.shelf.shown_demo.connect(self.filing.show_demo)
        for talks in (self.rooms, self.counter, self.tooling):
            talks.refused.connect(self._refuse)
        for tells in (self.rooms, self.tooling):
            tells.told.connect(self.notice.say)
        self.counter.said.connect(self.notice.say)
        self.counter.came.connect(self.masthead.refresh)
        self.counter.came.connect(self.notice.forgive)
        self.bench.changed.connect(self._title)
        self.bench.changed.connect(self.notice.forgive)
        self.bench.saved.connect(self._title)
        self.bench.not_kept.connect(self._refuse)
        self.slice.cut_at(self.board.bar)

    def _refuse(self, message: str) -> None:
        self.notice.say(message, grave=True)

    def _called(self, message: str, presses: bool) -> None:
        """Something that waited calls: it is said in the window, and where that is not looked at, on the desktop."""
        self.notice.say(message, grave=presses)
        self.calling.call(message)

    def _made(self, line: str) -> None:
        """Something that was ordered is made: it is written up."""
        self.rooms.logbook.made(line)
        self.show_stage("Log")

    def _shaped(self, flat: bool) -> None:
        self.acts["lay"].setText("Make up" if flat else "Lay flat")

    def _title(self) -> None:
        if self.pages.on_shelf:
            self.setWindowTitle("Tailor")
            return
        star = "*" if self.bench.dirty else ""
        self.setWindowTitle(f"{self.bench.job.name}{star} – Tailor")

    # Stages and verdicts

    def show_stage(self, name: str) -> None:
        """Turn to a stage of the work."""
        stage = STAGES[name]
        take_typing()
        self.strap.show_stage(name)
        self.ways.setVisible(stage.bare)
        self.tooling.setVisible(stage.tooled)
        self._side.setVisible(not (stage.worked or stage.logged))
        self.middle.settle()
        self.board.show_stage(stage)
        self.slice.show_stage(stage)
        self.middle.look()
        self.ledger.show_stage(stage)
        self.masthead.refresh()

    def show_verdict(self, verdict: Verdict) -> None:
        """Show the place a verdict speaks of: its stage, with the bar put there."""
        stage = stage_of(verdict.theme)
        if stage is not self.board.stage:
            said = verdict.name
            self.show_stage(stage.name)
            names = [v.name for v in self.ledger.lines.shown]
            self.ledger.lines.choose(names.index(said))
        self.board.move_bar(verdict.y)
        if stage.tooled:
            titles = [asked.title for asked in self.bench.job.tooling]
            self.tooling.choose(next((n for n, title in enumerate(titles, 1) if verdict.name.endswith(title)), 0))

    def _picked(self) -> None:
        self.middle.look()
        self._settle_soon()
        self.board.setFocus()

    def _show_held(self) -> None:
        made = None if self.held.outcome is None else self.held.outcome.made
        self.board.hold(made)
        self.slice.hold(made)
        self.acts["hold"].setText("Hold this draft to compare" if made is None else "Let go of the held draft")

    def flip_hand(self) -> None:
        hand = "right" if self.bench.job.settings.word("hand") == "left" else "left"
        self.bench.type("hand", hand, f"{hand} hand")

    # Files

    def open(self, path: Path) -> bool:
        """Open a job, a station table, or what is to be measured; False where it cannot be."""
        return self.filing.open(path)

    def begin_anew(self, way: str) -> None:
        """A new job, begun with how its object is measured; then a construction."""
        self.filing.begin_plain()
        self.show_stage("Object")
        self.ways.turn_to(way)
        self._new = True

    def _shelve(self) -> None:
        """What was saved can be found again on the shelf."""
        if self.bench.path is not None:
            self.counter.shelve(self.bench.job, self.bench.path)

    def _measured(self) -> None:
        """What was measured is taken: of a new job, a construction is chosen next."""
        self._settle_soon()
        if self._new:
            self._new = False
            self.show_stage("Draft")
            self.middle.pick()

    def _measure(self, way: str, path: Path) -> None:
        """Turn to the way of measuring that a file is for, and begin with it."""
        self.show_stage("Object")
        self.ways.turn_to(way)
        self.ways.panel(way).open(path)

    def _settle_soon(self) -> None:
        """Put another object in view once it is drafted."""
        self.board.anew = True
        self.bench.drafted.connect(self._slice_at_bar, Qt.ConnectionType.SingleShotConnection)

    def _slice_at_bar(self) -> None:
        self.slice.cut_at(self.board.bar)

    # Paper

    def set_paper(self, paper: str) -> None:
        self.paperwork.paper = paper
        for name, action in self.menus.papers.items():
            action.setChecked(name == paper)

    def ask_export(self) -> None:
        found = QFileDialog.getExistingDirectory(self, "Write the pattern into", str(self.filing.folder()))
        if found:
            self.paperwork.export(Path(found))

    # The window itself

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """On a small screen the side panes give way, so that the board keeps its room."""
        self._side.setFixedWidth(min(max(round(0.305 * self.width()), 300), 388))
        self.ways.setFixedWidth(min(max(round(0.325 * self.width()), 300), 392))
        super().resizeEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and _dropped(event) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        path = _dropped(event) if event is not None else None
        if path is not None:
            self.open(path)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        take_typing()
        if event is not None and self.calling.stays and self.rooms.wait:
            event.ignore()
            self.calling.stay()
            return
        self.ways.finish()
        self.ways_out.finish()
        self.turning.finish()
        self.rooms.finish()
        self.tooling.finish()
        self.counter.finish()
        self.filing.finish()
        self.paperwork.finish()
        self.picker.room.close()
        self.ledger.room.close()
        self.portraits.leave()
        QThreadPool.globalInstance().waitForDone()
        self.bench.finish()
        super().closeEvent(event)


def _dropped(event: QDropEvent) -> Path | None:
    data = event.mimeData()
    files = [Path(u.toLocalFile()) for u in data.urls() if u.isLocalFile()] if data is not None else []
    wanted = [path for path in files if kind_of(path) is not None]
    return wanted[0] if wanted else None
