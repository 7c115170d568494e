"""What went wrong: the likeliest causes of how a case came out, what each would change, and what to measure next."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLineEdit, QProgressBar, QPushButton, QVBoxLayout, QWidget

from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.keys import KEYS
from tailor.core.log.entry import Entry
from tailor.core.log.measurable import SAID as MEASURED
from tailor.core.log.measurable import CameOut, Measurable
from tailor.core.taken import DECIDING
from tailor.core.units import System, format_length, parse_length
from tailor.desk import theme
from tailor.desk.capture.labour import Labour, Tell
from tailor.desk.words import Words

if TYPE_CHECKING:
    from tailor.core.log.causes import Cause, Suspect

SHOWN = 3  # suspects
SCOPES = {"JOB": "This job", "ALIKE": "All like it, of this leather", "MAKER": "All of mine"}
ASKS = "Say how it fits at its places, or measure something; then it can be asked what went wrong."


class Wrong(QFrame):
    """changed: the entry with another measure. remedied: what puts it right. Both with what it is in words."""

    changed = pyqtSignal(object, str)
    remedied = pyqtSignal(object, str, str)
    refused = pyqtSignal(str)

    def __init__(self, units: Callable[[], System], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("sheet")
        self.setAccessibleName("What went wrong")
        self._units = units
        self.entry: Entry | None = None
        self.causes: tuple[Cause, ...] = ()
        self._of: tuple[Job, Draft, Sequence[Measurable]] | None = None
        self._known: Job | None = None  # the job whose causes are known
        self.suspects: tuple[Suspect, ...] = ()
        self.next: Measurable | None = None
        self.working, self.trying = Labour(self), Labour(self)
        self.working.done.connect(self._came)
        self.working.failed.connect(self._cannot)
        self.trying.done.connect(lambda said: self._effect.setText(said))
        self.trying.failed.connect(lambda said: self._effect.setText(said))
        self._said, self._effect = Words(), Words()
        self._said.setFont(theme.text(10.5, True))
        for words in (self._said, self._effect):
            words.setWordWrap(True)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        self.rows = []
        for n in range(SHOWN):
            name, bar, take = Words(), QProgressBar(), QPushButton()
            name.setWordWrap(True)
            bar.setRange(0, 100)
            bar.setFixedWidth(90)
            bar.setFixedHeight(16)
            take.setProperty("plain", "false")
            take.clicked.connect(lambda _, k=n: self.take(k))
            for column, widget in enumerate((name, bar, take)):
                grid.addWidget(widget, n, column)
            grid.setColumnStretch(0, 1)
            self.rows.append((name, bar, take))
        self.field = QLineEdit()
        self.field.setFixedWidth(80)
        self.field.returnPressed.connect(self._typed)
        self._measure = Words()
        self.scopes = {scope: QPushButton(said) for scope, said in SCOPES.items()}
        scopes = QHBoxLayout()
        scopes.addWidget(self._effect, 1)
        for scope, button in self.scopes.items():
            button.setProperty("plain", "false")
            button.clicked.connect(lambda _, s=scope: self._remedy(s))
            scopes.addWidget(button)
        self._next = QWidget()
        last = QHBoxLayout(self._next)
        last.setContentsMargins(0, 0, 0, 0)
        last.addWidget(self._measure, 1)
        last.addWidget(self.field)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(12, 6, 12, 6)
        inside.setSpacing(4)
        inside.addWidget(self._said)
        inside.addLayout(grid)
        inside.addWidget(self._next)
        inside.addLayout(scopes)

    def show_entry(self, entry: Entry | None, of: tuple[Job, Draft, Sequence[Measurable]] | None) -> None:
        """What may have gone wrong with an entry. of: its job, its draft and what can be measured of it."""
        self.entry, self._of = entry, of
        if not self.isVisible():
            return
        if entry is None or of is None or of[0] != entry.job:
            self._say(ASKS)
            return
        if self._known != entry.job:
            self._known, self.causes = entry.job, ()
            self._say("Looking what each cause would do …")
            self.working.start(lambda tell: _causes(of, tell))
        elif self.causes:
            self._find()

    def _came(self, found: tuple[Cause, ...]) -> None:
        self.causes = found
        self._find()

    def _cannot(self, said: str) -> None:
        self._say(said)

    def _say(self, said: str) -> None:
        self._said.setText(said)
        self._effect.setText("")
        self.suspects, self.next = (), None
        self._show()

    def _find(self) -> None:
        from tailor.core.log.effects import SAID, wrong

        assert self._of is not None
        if self.entry is None or not (self.entry.fits or self.entry.measured):
            self._say(ASKS)
            return
        found = wrong(self.entry, self.causes, self._of[2])
        self.suspects = found.suspects[:SHOWN]
        self.next = next((each for each in self._of[2] if each.what == found.measure), None)
        first = self.suspects[0]
        if found.doubt is None:
            said = f"Most likely {SAID[first.name]}."
        else:
            one, other = (SAID[name] for name in found.doubt)
            said = f"It cannot be told whether {one}, or {other}."
        self._said.setText(said)
        self._show()

    def _show(self) -> None:
        from tailor.core.log.effects import remedy, said

        for n, (name, bar, take) in enumerate(self.rows):
            there = n < len(self.suspects)
            for widget in (name, bar, take):
                widget.setVisible(there)
            if not there or self._of is None:
                continue
            suspect = self.suspects[n]
            what = remedy(*self._of[:2], suspect)
            share = round(100 * suspect.share)
            name.setText(said(suspect))
            bar.setValue(share)
            bar.setFormat(f"{share} in 100")
            take.setText(f"{KEYS[what.key].label} {KEYS[what.key].say(what.value)} …" if what.key else "What to do …")
            take.setToolTip("See what it would change; then it can be taken")
        self._next.setVisible(self.next is not None)
        if self.next is not None:
            self._measure.setText(f"To know more, measure {MEASURED[self.next.what]}:")
            drafted = (
                f"{self.next.drafted:.2f} m"
                if self.next.unit == "m"
                else format_length(self.next.drafted, self._units())
            )
            self.field.setPlaceholderText(drafted)
            self.field.setAccessibleName(MEASURED[self.next.what])
        self._offer(-1)

    def _offer(self, n: int) -> None:
        """Offer to take a remedy; below 0 none."""
        self._offered = n
        from tailor.core.log.effects import REMEDY

        alone = n >= 0 and REMEDY.get(self.suspects[n].name) in DECIDING  # which is each job's own
        for scope, button in self.scopes.items():
            button.setVisible(n >= 0 and (scope == "JOB" or not alone))

    # What a hand does

    def take(self, n: int) -> None:
        """See what a remedy would change, and of what it may become the correction."""
        from tailor.core.log.effects import remedy, taken

        if self._of is None or n >= len(self.suspects):
            return
        job, made, _ = self._of
        what = remedy(job, made, self.suspects[n])
        if not what.key:
            self._effect.setText(what.does)
            self._offer(-1)
            return
        self._offer(n)
        self._effect.setText("Drafting it …")
        self.trying.start(lambda tell: _effect(job, made, taken(job, what)))

    def _remedy(self, scope: str) -> None:
        from tailor.core.log.effects import remedy

        if self._of is None or not 0 <= self._offered < len(self.suspects):
            return
        what = remedy(*self._of[:2], self.suspects[self._offered])
        self.remedied.emit(what, f"{KEYS[what.key].label} {KEYS[what.key].say(what.value)}", scope)
        self._offer(-1)

    def _typed(self) -> None:
        text, of, entry = self.field.text().strip(), self.next, self.entry
        self.field.clear()
        if not text or of is None or entry is None:
            return
        try:
            value = parse_length(text, self._units().bare, of.said)
            entry = entry.came_out(CameOut(of, value))
        except InputError as error:
            self.refused.emit(str(error))
            return
        self.changed.emit(entry, f"{of.said}: {text}")

    def finish(self) -> None:
        """The window closes: leave no thread running."""
        self.working.finish()
        self.trying.finish()


def _causes(of: tuple[Job, Draft, Sequence[Measurable]], tell: Tell) -> tuple[Cause, ...]:
    from tailor.core.log.effects import causes

    return causes(*of, tell)


def _effect(job: Job, made: Draft, new: Job) -> str:
    """What a changed job would change in the pattern."""
    from tailor.core.compared import grown
    from tailor.core.job import draft, judge

    other = draft(new)
    stops = sum(verdict.ruling.value == "stop" for verdict in judge(new, other))
    after = f"; {stops} verdicts would say stop" if stops else ""
    told = grown(made, other)
    return f"{told[0].upper()}{told[1:]}{after}."
