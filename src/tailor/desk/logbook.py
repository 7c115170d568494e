"""The logbook: how this one came out, what was learned from all of them, and everything that was made."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import replace
from datetime import date
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.log.entry import NOTE, Entry
from tailor.core.log.logged import Logged
from tailor.core.log.measurable import Measurable
from tailor.core.log.opening import of_line, opened, unwritten
from tailor.core.log.using import with_taken
from tailor.desk.all_made import AllMade
from tailor.desk.capture.labour import Labour
from tailor.desk.counter import Counter
from tailor.desk.entry_slip import EntrySlip
from tailor.desk.fits_drawn import FitsDrawn
from tailor.desk.keepsakes import Keepsakes
from tailor.desk.learning import Learning
from tailor.desk.log_head import PAGES, LogHead, Page
from tailor.desk.stages import log as log_stage
from tailor.desk.words import Words
from tailor.desk.workbench import Workbench
from tailor.desk.wrong import Wrong
from tailor.files import printer

if TYPE_CHECKING:
    from tailor.core.log.effects import Remedy
    from tailor.core.log.sight import Sight

OPENING = "Opening the shop book …"
KEYS = (
    "N writes up another, 1 to 5 how it fits, 0 nothing, up and down the places, W when; "
    "G asks what went wrong; E, L and A turn the page."
)
DRAWN = "Shaded: what the table says. Rings: your cases. The bar: what is believed, 9 times in 10. A pin: what is used."
ENTRY = "entry"
BAR = 26  # px of a scroll bar, where the slip is higher than there is room


class Logbook(QWidget):
    """refused: what cannot be, and why. told: what was done."""

    refused = pyqtSignal(str)
    told = pyqtSignal(str)

    def __init__(self, bench: Workbench, counter: Counter, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("logbook")
        self.setAccessibleName("The log")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.bench, self.counter = bench, counter
        self.clock: Callable[[], date] = date.today
        self.entry: Entry | None = None
        self.looking = Labour(self)
        self.looking.done.connect(self._looked_at)
        self.looking.failed.connect(self.refused)
        self._looked: Job | None = None  # the job whose pieces are shown
        self._maker = bench.maker  # by whose numbers
        self._wanted = ""  # the id of the entry that is to be shown
        self._of: tuple[Job, Draft, tuple[Measurable, ...]] | None = None  # that job, drafted, and its measures
        self._line = ""  # what was made just now, and is to be written up
        self._put_together()
        counter.came.connect(self._came)
        counter.answered.connect(self._answered)
        bench.laid.connect(self._another)

    def _put_together(self) -> None:
        self.drawn, self.slip = FitsDrawn(), EntrySlip(lambda: self.bench.job.units)
        self.drawn.chosen.connect(self.slip.at)
        self.slip.changed.connect(self.change)
        self.slip.turned.connect(self._show)
        self.slip.refused.connect(self.refused)
        self.kept = Keepsakes(self.drawn, self.counter)
        self.kept.changed.connect(self.change)
        self.kept.told.connect(self.told)
        self.kept.refused.connect(self.refused)
        self.kept.progress.connect(lambda said: self._said.setText(f"{said} …"))
        self.slip.picture.connect(self.kept.ask_picture)
        self.slip.traced.connect(self.kept.ask_traced)
        self.wrong = Wrong(lambda: self.bench.job.units)
        self.wrong.changed.connect(self.change)
        self.wrong.remedied.connect(self._remedied)
        self.wrong.refused.connect(self.refused)
        self.wrong.hide()
        self.learning = Learning(self.bench, self.counter)
        self.learning.refused.connect(self.refused)
        self.learning.told.connect(self.told)
        self.all = AllMade()
        self.all.opened.connect(self.open)
        self.head = LogHead()
        self.head.turned.connect(self.turn_to)
        self.head.opened.connect(self.open)
        self.head.begun.connect(self.write_up)
        self.head.asked.connect(self._asked)
        self._said = Words(OPENING)
        self._said.setWordWrap(True)
        self._side = QScrollArea()
        self._side.setObjectName("sheet")
        self._side.setWidget(self.slip)
        self._side.setWidgetResizable(True)
        self._side.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        one = QWidget()
        both = QHBoxLayout(one)
        both.setContentsMargins(0, 0, 0, 0)
        both.setSpacing(4)
        left = QVBoxLayout()
        left.setSpacing(2)
        left.addWidget(self.drawn, 1)
        left.addWidget(self.wrong)
        both.addLayout(left, 1)
        both.addWidget(self._side)
        self._stack = QStackedWidget()
        for widget in (one, self.learning, self.all):
            self._stack.addWidget(widget)
        all_ = QVBoxLayout(self)
        all_.setContentsMargins(0, 0, 0, 0)
        all_.setSpacing(2)
        all_.addWidget(self.head)
        all_.addWidget(self._said)
        all_.addWidget(self._stack, 1)
        self._said.setContentsMargins(14, 0, 14, 2)
        self.turn_to(Page.ONE)

    # What there is

    @property
    def page(self) -> Page:
        return list(Page)[self._stack.currentIndex()]

    @property
    def mine(self) -> list[Logged]:
        """The entries of the job in hand, the newest first."""
        shop, name = self.counter.shop, self.bench.job.name
        logged = shop.logged if shop is not None else ()
        return sorted((one for one in logged if one.name == name), key=lambda one: (one.made_on, one.id), reverse=True)

    @property
    def constant(self) -> str:
        """The constant that is looked at, on the page of what was learned; else empty."""
        belief = self.learning.lines.belief
        return belief.constant if self.page is Page.LEARNED and belief is not None else ""

    def show_now(self) -> None:
        """It is turned to."""
        self.counter.open()
        if self.counter.shop is not None:
            self._came()
        self.setFocus()

    def made(self, line: str) -> None:
        """Something that was ordered is done: it is written up once that is in the book."""
        self._line = line

    def turn_to(self, page: Page) -> None:
        """Turn to a page."""
        self._stack.setCurrentIndex(list(Page).index(page))
        if page is Page.LEARNED and self.counter.shop is not None:
            self.learning.refresh()
        self._show()
        {Page.ONE: self, Page.LEARNED: self.learning.lines, Page.ALL: self.all.sought}[page].setFocus()

    def _another(self) -> None:
        """Another job lies on the bench: its own entries are shown."""
        self.entry, self._wanted = None, ""
        if self.isVisible():
            self._came()

    def _came(self) -> None:
        """The shop was read, or changed."""
        shop = self.counter.shop
        if shop is None or not self.isVisible():
            return
        if self._line and not self.counter.changing:
            line, self._line = self._line, ""
            self.write_up(line)
            return
        ids = {one.id for one in shop.logged}
        if self._wanted not in ids and not (self.counter.changing and self.entry is not None):
            self.entry, self._wanted = None, next((one.id for one in self.mine), "")
        if self._wanted and not self.counter.changing:
            self.counter.ask(ENTRY, lambda book, id_=self._wanted: book.log(id_))
        self.all.show_logged(shop.logged)
        if self.page is Page.LEARNED:
            self.learning.refresh()
        self._list()
        self._show()

    def _answered(self, what: str, answer: object) -> None:
        if what != ENTRY or self.counter.changing:  # something newer is on its way
            return
        assert isinstance(answer, tuple)
        found = next((entry for entry in answer if entry.id == self._wanted), None)
        if found is not None:
            self.entry = found
            self._list()
            self._show()

    def _list(self) -> None:
        """The entries of this thing, and of the one that is looked at."""
        shop, at = self.counter.shop, self.entry.job.name if self.entry else self.bench.job.name
        rows = [(f"{one.made_on:%-d %b %Y}{f', {one.fit}' if one.fit else ''}", one.id)
                for one in sorted(shop.logged if shop else (), key=lambda one: one.made_on, reverse=True)
                if one.name == at]  # fmt: skip
        self.head.show_entries(rows, self._wanted)

    def _show(self) -> None:
        shop, entry = self.counter.shop, self.entry
        writes = shop is not None and not self.counter.read_only
        self.head.show_page(self.page, writes, entry is not None)
        self.slip.show_entry(entry, shop.sorts if shop else (), self._hides(), writes)
        self.drawn.show_entry(entry, self.slip.when, self.slip.place if entry else None)
        self.wrong.show_entry(entry, self._of)
        self._said.setText(self._what_to_do())
        self._said.setVisible(self.page is not Page.ALL)
        job = (entry.job if entry else self.bench.job).by(maker := self.bench.maker)
        if (self._looked != job or self._maker is not maker) and self.isVisible() and shop is not None:
            self._looked, self._maker = job, maker
            outcome = self.bench.outcome
            made = outcome.made if outcome.job == job and self.bench.fresh else None
            self.drawn.show_pieces((), {})
            self.slip.show_measurable(())
            self._of = None
            self.looking.start(lambda tell: _sight(job, made))
        self.kept.show_entry(entry, None if self._of is None else self._of[1])

    def _hides(self) -> list[str]:
        """The hides and offcuts that there are of the entry's leather."""
        shop, entry = self.counter.shop, self.entry
        sort = next((one.id for one in shop.sorts if entry and one.name == entry.leather), "") if shop else ""
        return [str(skin.hide.id) for skin in shop.skins if skin.sort == sort] if shop and sort else []

    def _what_to_do(self) -> str:
        shop = self.counter.shop
        if shop is None:
            return OPENING
        if self.page is Page.LEARNED:
            return DRAWN
        waits = unwritten(shop)
        if waits:
            more = f" and {len(waits) - 1} more" if len(waits) > 1 else ""
            return f"Made, and not written up: {waits[0][1]}{more}. N writes it up."
        return KEYS if self.entry is not None else log_stage.STAGE.empty

    def _looked_at(self, found: Sight) -> None:
        if found.job is not self._looked:
            return
        self.drawn.show_pieces(found.seen, found.spots)
        self.slip.show_measurable(found.there)
        QTimer.singleShot(0, self._settle_side)  # once its rows are laid out
        self._of = found.job, found.made, (*found.there, *found.besides)
        self._show()

    # What a hand does

    def _asked(self, asked: bool) -> None:
        """What went wrong is asked, or no longer."""
        self.wrong.setVisible(asked)
        self._show()
        self.setFocus()

    def _remedied(self, what: Remedy, said: str, scope: str) -> None:
        """What is put right next time: in the job in hand, in all like it, or in everything of this maker's."""
        from tailor.core.log.effects import Scope, corrected, taken

        if self.entry is None or self._of is None:
            return
        where = Scope[scope]
        if where is not Scope.JOB:
            one = corrected(*self._of[:2], what, where, self.entry.leather)
            if not self.learning.keep(with_taken(self.bench.maker.taken, one)):
                return
            after = f"{where} that is begun from now on has it; What I have learned lets it go."
        elif self.bench.job.name != self.entry.job.name:
            self.refused.emit("Another job is in hand: open that job, and take it there.")
            return
        else:
            self.bench.change(said, taken(self.bench.job, what))
            after = "the job in hand has it from now on; Ctrl+Z at the board takes it back."
        note = f"{self.entry.next_time}; {said} ({where})".removeprefix("; ")
        self.change(replace(self.entry, next_time=note[:NOTE]), said)
        self.told.emit(f"{said}: {after}")

    def open(self, id_: str) -> None:
        """Look at an entry."""
        self._wanted = id_
        self.entry = None
        self.turn_to(Page.ONE)
        self.counter.ask(ENTRY, lambda book: book.log(id_))

    def write_up(self, line: str = "") -> None:
        """Write up what was ordered and made; else what was made and is not written up, else one of the job in hand."""
        shop = self.counter.shop
        if shop is None or self.counter.read_only:
            return
        waits = unwritten(shop)
        line = line or (waits[0][0] if waits else "")
        id_, today = uuid.uuid4().hex[:12], self.clock()
        try:
            entry = of_line(id_, line, shop, today) if line else opened(id_, self.bench.job, shop, today)
        except InputError as error:
            self.refused.emit(str(error))
            entry = opened(id_, self.bench.job, shop, today)
        self.entry, self._wanted = entry, id_
        self.counter.put(f"log of {entry.job.name}", (None, entry))
        self.turn_to(Page.ONE)

    def change(self, entry: Entry, said: str) -> None:
        """Note something in the entry in hand."""
        was, self.entry = self.entry, entry
        if was is not None and was != entry:
            self.counter.put(f"log of {entry.job.name}: {said}", (was, entry))
        self._show()

    def remove(self) -> None:
        """Take the entry in hand out of the log; undo brings it back."""
        if self.entry is not None and not self.counter.read_only:
            entry, self.entry, self._wanted = self.entry, None, ""
            self.counter.put(
                f"log of {entry.job.name} taken out", (entry, None), done="Taken out; Ctrl+Z brings it back"
            )

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key, plain = event.key(), not event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if plain and key in PAGES:
            self.turn_to(PAGES[Qt.Key(key)])
        elif plain and key == Qt.Key.Key_N and self.page is Page.ONE:
            self.write_up()
        elif plain and key == Qt.Key.Key_G and self.page is Page.ONE:
            self.head.ask.click()
        elif plain and key == Qt.Key.Key_Delete and self.page is Page.ONE:
            self.remove()
        elif plain and key == Qt.Key.Key_Escape:
            self.turn_to(Page.ONE)
        elif not (plain and self.page is Page.ONE and self.slip.keyed(key)):
            super().keyPressEvent(event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._settle_side()

    def _settle_side(self) -> None:
        """The slip is as wide as it needs to be."""
        needs = self.slip.minimumSizeHint().width() + BAR
        self._side.setFixedWidth(max(min(round(0.40 * self.width()), 520), needs))

    def finish(self) -> None:
        """The window closes: leave no thread running."""
        self.looking.finish()
        self.kept.finish()
        self.learning.finish()
        self.wrong.finish()


def _sight(job: Job, made: Draft | None) -> Sight:
    from tailor.core.log.sight import sight  # slow to load, so only when it is asked for, and here

    return sight(job, made, printer.known().across)
