"""The ledger: what an experienced maker would say before the knife goes in."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QKeySequence,
    QPainter,
    QPaintEvent,
    QPen,
    QShortcut,
)
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from tailor.core.checks.verdict import Ruling, Verdict
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.measure import AUTO
from tailor.core.righting import DRAFTED, Mended, PutRight
from tailor.desk import theme
from tailor.desk.lines import NARROW, Lines, limit
from tailor.desk.proposing import ProposingRoom
from tailor.desk.readings import TOOLING, told
from tailor.desk.stages.stage import Stage
from tailor.desk.words import Words
from tailor.desk.workbench import Workbench

EASED = ("Leather stretches that far", "Leather takes up the fullness", "Thickness left where it is drawn")


class Ledger(QWidget):
    """The verdicts, and at its foot the chosen one in full, with ways to see it and put it right."""

    show_me = pyqtSignal(object)
    ways_out = pyqtSignal()

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("ledger")
        self.bench = bench
        self.lines = Lines(bench, self)
        self._head = Words()
        self._head.setFont(theme.heading(12.5))
        self._rest = Words()
        self._rest.setFont(theme.text(9.5))
        self._why = QLabel()  # a name in bold, and plain words
        self._why.setWordWrap(True)
        self._why.setMinimumHeight(54)
        self._why.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._why.setFont(theme.text(10.5))
        self.see = QPushButton("Show me")
        self.mend = QPushButton("Put it right")
        self.outs = QPushButton("Ways out")
        self.outs.clicked.connect(self.ways_out)
        for button, shortcut in ((self.see, "Alt+M"), (self.mend, "Alt+R"), (self.outs, "Alt+W")):
            button.setProperty("plain", "false")
            button.setToolTip(shortcut)
            QShortcut(QKeySequence(shortcut), self, button.click)
        self.see.clicked.connect(self._see)
        self.mend.clicked.connect(self._mend)
        top = QHBoxLayout()
        top.addWidget(self._head)
        top.addStretch()
        top.addWidget(self._rest)
        foot = QHBoxLayout()
        foot.addWidget(self.see)
        foot.addWidget(self.mend)
        foot.addWidget(self.outs)
        foot.addStretch()
        all_ = QVBoxLayout(self)
        all_.setContentsMargins(12, 8, 12, 8)
        all_.setSpacing(4)
        all_.addLayout(top)
        all_.addWidget(self.lines, 1)
        all_.addWidget(self._why)
        all_.addLayout(foot)
        self.room = ProposingRoom(self)
        self.room.found.connect(self._mended)
        self.room.done.connect(self._mending_done)
        self._mending = bench.job
        self._stays: tuple[Job, tuple[str, ...]] = (bench.job, ())  # what nothing that can be set ends, of which job
        self.lines.chosen.connect(self._tell)
        self.lines.show_me.connect(self.show_me)
        bench.drafted.connect(self.lines.note_changes)
        bench.drafted.connect(self.refresh)
        bench.staled.connect(self.lines.update)
        self.refresh()

    def show_stage(self, stage: Stage) -> None:
        self.lines.stage = stage
        self.lines.choose(0)
        self.refresh()

    def refresh(self) -> None:
        """Show the verdicts of the present outcome, or why there is none."""
        verdicts = self.bench.outcome.said
        counts = {r: sum(v.ruling is r for v in verdicts) for r in Ruling}
        error = self.bench.error
        if error is not None:
            self._head.setText("Cannot be drafted")
            self._rest.setText("showing the last good draft")
        else:
            grave = [f"{counts[r]} {theme.SAID[r]}" for r in (Ruling.STOP, Ruling.LOOK) if counts[r]]
            self._head.setText("Ledger: " + (" · ".join(grave) if grave else "all holds"))
            hidden = self.lines.hidden
            said = f"{hidden} elsewhere" if self.width() < NARROW else f"{hidden} more hold elsewhere"
            self._rest.setText(said if hidden else "")
        self.lines.choose(self.lines.at)
        self._tell(self.lines.verdict)

    def _tell(self, verdict: Verdict | None) -> None:
        error = self.bench.error
        if error is not None:
            self._why.setText(
                f"<span style='color:{theme.RULING_STOP}'>{told(str(error), self.bench.job.units)}</span>"
            )
            self.see.setEnabled(False)
            self.outs.hide()
            pinned = self._named_in(error)
            self.mend.setEnabled(bool(pinned or error.ways))
            self.mend.setText("Let go of it" if pinned else "Put it right")
            return
        self.mend.setText("Put it right")
        self.outs.setVisible(verdict is not None and verdict.name in EASED and verdict.ruling is not Ruling.OK)
        self.see.setEnabled(verdict is not None)
        self.mend.setEnabled(verdict is not None and verdict.ruling is not Ruling.OK and self._remedies(verdict))
        if verdict is None:
            self._why.setText("")
            return
        units = self.bench.job.units
        least = limit(verdict, units)
        stays = " Nothing that can be set ends it." if verdict.name in self._stays_now() else ""
        where, reason = (escape(told(said, units)) for said in (verdict.where, verdict.reason))
        self._why.setText(f"<b>{escape(verdict.name)}</b> ({escape(least)}), {where}. {reason}{stays}")

    def _remedies(self, verdict: Verdict) -> bool:
        """Whether any remedy would change anything, and it is not known that none ends it."""
        if verdict.name in self._stays_now():
            return False
        pinned = any(v != AUTO or k in self.bench.job.settings or k.startswith(TOOLING) for k, v in verdict.remedies)
        return pinned or bool(verdict.together)

    def _stays_now(self) -> tuple[str, ...]:
        """Verdicts of the present job that are known to stay."""
        job, names = self._stays
        return names if job == self.bench.job else ()

    def _named_in(self, error: InputError) -> list[str]:
        """Pinned settings that a complaint names."""
        return [key for key in self.bench.job.settings if key in error.where]

    def _see(self) -> None:
        if self.lines.verdict is not None:
            self.show_me.emit(self.lines.verdict)

    def _mend(self) -> None:
        error = self.bench.error
        if error is not None and (pinned := self._named_in(error)):
            job = self.bench.job
            for key in pinned:
                job = job.typed(key, AUTO)
            self.bench.change(f"let go of {error.where}", job)
        elif self.room.busy:
            self.room.stop()
            self._told_mending("")
        elif error is not None:
            self._put_right(DRAFTED)
        elif self.lines.verdict is not None:
            self._put_right(self.lines.verdict.name)

    def put_all_right(self) -> None:
        """Take remedies until none ends anything more."""
        self._put_right(None)

    def _put_right(self, only: str | None) -> None:
        """Try remedies in a process of their own: of one verdict, or of all."""
        self._mending = self.bench.job
        self._told_mending("Trying what puts it right …")
        self.room.ask(self.bench.job, PutRight(only))

    def _told_mending(self, said: str) -> None:
        self.mend.setText("Stop" if said else "Put it right")
        if said:
            self._why.setText(said)
        else:
            self._tell(self.lines.verdict)

    def _mended(self, found: object) -> None:
        """What came of trying; nothing is changed where the job is another by now."""
        if not isinstance(found, Mended) or self.bench.job != self._mending:
            return
        if found.taken:
            said = ", ".join(f"{key} {value}" for key, value in found.taken)
            self.bench.change(f"put right: {said}", found.job)
        else:
            self._stays = self.bench.job, (*self._stays_now(), *found.left)

    def _mending_done(self) -> None:
        self._told_mending("")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setPen(QPen(QColor(theme.EDGE), 1))
        painter.setBrush(QColor(theme.PAPER))
        painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -4, -4))
