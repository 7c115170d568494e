"""What was learned, on its page: the lines, what the one in hand says and would change, and whether it is used."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import fields, replace

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from tailor.core.bench.rates import Rates
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.keys import KEYS
from tailor.core.log.case import Belief, Case, Said
from tailor.core.log.constants import CONSTANTS, RATE
from tailor.core.log.using import rates_of, taken_of, terms_of, with_taken, without
from tailor.core.shop.quote import Terms
from tailor.core.taken import Taken
from tailor.desk import theme
from tailor.desk.capture.labour import Labour, Tell
from tailor.desk.counter import Counter
from tailor.desk.lessons import Lessons, said, title
from tailor.desk.words import Words
from tailor.desk.workbench import Workbench
from tailor.files import makers, printer

CASES, PRINTER = "cases", "printer.scale"
NOTHING = "Nothing is learned yet: write up what was made, and measure what came out."
WHEN_NEW = "New drafts go by it; what was drafted before stays as it is."
SIDE = 170  # px of the buttons
CLOSE = 0.003  # of a number, within which it is the same


class Learning(QWidget):
    """refused: what cannot be, and why. told: what was done."""

    refused = pyqtSignal(str)
    told = pyqtSignal(str)

    def __init__(self, bench: Workbench, counter: Counter, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bench, self.counter = bench, counter
        self.working, self.trying = Labour(self), Labour(self)
        self.working.done.connect(self._learned)
        self.working.failed.connect(self.refused)
        self.trying.done.connect(self._tried)
        self.trying.failed.connect(lambda _: self._effect.setText(""))
        self._of: object = None  # the cases that were learned from
        self.lines = Lessons()
        self.lines.chosen.connect(self._show)
        self.lines.case.connect(self._show_case)
        self.lines.used.connect(self.use)
        area = QScrollArea()
        area.setWidget(self.lines)
        area.setWidgetResizable(True)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._title, self._says, self._why, self._effect, self._case = (Words() for _ in range(5))
        self._title.setFont(theme.heading(13))
        words = QVBoxLayout()
        words.setSpacing(2)
        for each in (self._title, self._says, self._why, self._effect, self._case):
            each.setWordWrap(True)
            words.addWidget(each)
        self.take = QPushButton("Use it  (Enter)")
        self.take.clicked.connect(self.use)
        self.mine = QPushButton("In this job too  (J)")
        self.mine.setToolTip("Draft the job in hand by all that is used too; undo takes it back")
        self.mine.clicked.connect(self.in_this_job)
        for button in (self.take, self.mine):
            button.setProperty("plain", "false")
            button.setMinimumHeight(34)
        buttons = QVBoxLayout()
        buttons.addWidget(self.take)
        buttons.addWidget(self.mine)
        buttons.addStretch(1)
        self.others, self.drop = QComboBox(), QPushButton("Let it go")
        self.others.setAccessibleName("Corrections that are used")
        self.others.setToolTip("What was corrected for more than one job, and is used beside what was learned")
        self.drop.setProperty("plain", "false")
        self.drop.clicked.connect(self._let_go)
        self._corrections = QWidget()
        corrections = QHBoxLayout(self._corrections)
        corrections.setContentsMargins(0, 2, 0, 0)
        corrections.addWidget(self.others, 1)
        corrections.addWidget(self.drop)
        words.addWidget(self._corrections)
        side = QWidget()
        side.setLayout(buttons)
        side.setFixedWidth(SIDE)
        buttons.setContentsMargins(0, 0, 0, 0)
        foot = QHBoxLayout()
        foot.setContentsMargins(14, 4, 10, 8)
        foot.addLayout(words, 1)
        foot.addWidget(side)
        all_ = QVBoxLayout(self)
        all_.setContentsMargins(0, 0, 0, 0)
        all_.addWidget(area, 1)
        all_.addLayout(foot)
        counter.answered.connect(self._answered)
        self._show()

    def refresh(self) -> None:
        """Learn anew from the log, if it is not as it was."""
        shop = self.counter.shop
        if shop is None:
            return
        self._mark()
        self.counter.ask(CASES, lambda book: book.lessons())

    def _answered(self, what: str, answer: object) -> None:
        if what == CASES and answer != self._of:
            self._of = answer
            self._says.setText("Learning …")
            self.working.start(lambda tell: _learn(answer))

    def _learned(self, found: tuple[Sequence[Belief], Sequence[Case]]) -> None:
        beliefs, cases = found
        met = [b for b in beliefs if b.cases and (b.leather or not b.constant.startswith(("leather.", "mould.")))]
        self.lines.show_beliefs(sorted(met, key=lambda b: not b.offered), cases, {})
        self._mark()

    def corrections(self) -> list[Taken]:
        """What is used, and is no belief of the log's."""
        shop = self.counter.shop
        learned = [taken_of(belief, shop.sorts) for belief in self.lines.beliefs] if shop else []
        return [one for one in self.bench.maker.taken if not any(of is not None and one.same(of) for of in learned)]

    def _let_go(self) -> None:
        """Let go of the correction in hand."""
        one = self.others.currentData()
        if isinstance(one, Taken) and self.keep(without(self.bench.maker.taken, one)):
            self.told.emit(f"{_corrected(one)}: let go.")
            self._mark()

    def _mark(self) -> None:
        """Which of them are used."""
        used = {n: one for n, belief in enumerate(self.lines.beliefs) if (one := self.used(belief)) is not None}
        self.lines.show_beliefs(self.lines.beliefs, self.lines.cases, used)
        self.others.clear()
        for one in self.corrections():
            self.others.addItem(_corrected(one), one)
        self._corrections.setVisible(self.others.count() > 0)
        self._show()

    def used(self, belief: Belief) -> Taken | None:
        """What is gone by, where a belief is used."""
        shop = self.counter.shop
        if shop is None:
            return None
        ours = taken_of(belief, shop.sorts)
        if ours is not None:
            return next((one for one in self.bench.maker.taken if one.same(ours)), None)
        if belief.constant == PRINTER:
            scale = printer.known().across
            return None if scale == 1 else Taken(PRINTER, scale, 0.0, belief.cases, belief.prior_mean)
        now = self._reckoned(belief)
        if now is None or abs(now - belief.prior_mean) <= CLOSE * belief.prior_mean:
            return None
        return Taken(belief.constant, now, 0.0, belief.cases, belief.prior_mean)

    def _reckoned(self, belief: Belief) -> float | None:
        """What the shop reckons with, of a rate or of waste."""
        shop = self.counter.shop
        assert shop is not None
        if rates_of(belief, shop.rates) is not None:
            return float(getattr(shop.rates, belief.constant.removeprefix(RATE)))
        return shop.terms.waste if terms_of(belief, shop.terms) is not None else None

    def _show(self) -> None:
        belief, shop = self.lines.belief, self.counter.shop
        for words in (self._title, self._says, self._why, self._effect, self._case):
            words.setText("")
        if belief is None or shop is None:
            self._says.setText(NOTHING)
            self.take.setEnabled(False)
            self.mine.setEnabled(False)
            return
        used = self.used(belief)
        self._title.setText(title(belief))
        since = f" Since {belief.since:%-d %B} they say otherwise: a new hide, or a new thread?" if belief.since else ""
        asks = "In use." if used else f"Use it? {WHEN_NEW}" if belief.offered else "Not sure enough, or not enough off."
        self._says.setText(f"{said(belief)}. {asks}{since}")
        self._why.setText(CONSTANTS[belief.constant].why if belief.constant in CONSTANTS else "")
        usable = taken_of(belief, shop.sorts) is not None or self._reckoned(belief) is not None
        usable = usable or belief.constant == PRINTER
        self.take.setEnabled(usable)
        self.take.setText("Let go  (Enter)" if used else "Use it  (Enter)")
        self.mine.setEnabled(self.bench.job.settings.taken != self.bench.maker.taken)
        ours = taken_of(belief, shop.sorts)
        if ours is not None and not used:
            job = self.bench.job
            self.trying.start(lambda tell: _tried(job, ours, tell))

    def _tried(self, said: str) -> None:
        self._effect.setText(said)

    def _show_case(self, case: Case) -> None:
        where = ", ".join(filter(None, (case.leather, case.method)))
        self._case.setText(
            f"{case.made_on:%-d %B %Y}: {case.value:.3g} ± {case.spread:.2g} ({where or 'one of yours'})"
        )

    # What a hand does

    def use(self) -> None:
        """Use what the line in hand says, or let it go."""
        belief, shop = self.lines.belief, self.counter.shop
        if belief is None or shop is None:
            return
        used, ours = self.used(belief), taken_of(belief, shop.sorts)
        if ours is not None:
            mine = self.bench.maker.taken
            if not self.keep(with_taken(mine, ours) if used is None else without(mine, used)):
                return
            self.told.emit(f"{title(belief)}: {'used from now on' if used is None else 'let go'}.")
        elif belief.constant == PRINTER:
            self._print_by(1.0 if used is not None else belief.mean)
        elif belief.constant.startswith(RATE):
            name = belief.constant.removeprefix(RATE)
            usual = next(float(f.default) for f in fields(Rates) if f.name == name)  # type: ignore[arg-type]
            back = replace(shop.rates, **{name: usual})
            now = (rates_of(belief, shop.rates) or back) if used is None else back
            self.counter.put(f"{title(belief)}", (shop.rates, now))
        elif (terms := terms_of(belief, shop.terms)) is not None:
            back_ = replace(shop.terms, waste=Terms().waste)
            self.counter.put(f"{title(belief)}", (shop.terms, terms if used is None else back_))
        self._mark()

    def _print_by(self, scale: float) -> None:
        """Correct every page for what comes out of the printer."""
        try:
            printer.remember(printer.Printer(scale, scale))
        except (InputError, OSError) as error:
            self.refused.emit(f"The printer's scale cannot be kept: {error}")
            return
        self.told.emit("Pages are printed as they are drawn." if scale == 1 else printer.known().said)

    def keep(self, taken: tuple[Taken, ...]) -> bool:
        """Go by what is taken from now on, in the next window too; whether that can be."""
        try:
            makers.keep_taken(taken)
        except InputError as error:
            self.refused.emit(str(error))
            return False
        self.bench.maker = replace(self.bench.maker, taken=taken)
        return True

    def in_this_job(self) -> None:
        """Draft the job in hand by all that is used."""
        job = self.bench.job
        taken = self.bench.maker.taken
        self.bench.change("what was learned", replace(job, settings=replace(job.settings, taken=taken)))
        self._show()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_J and not event.modifiers():
            self.in_this_job()
        else:
            super().keyPressEvent(event)

    def finish(self) -> None:
        """The window closes: leave no thread running."""
        self.working.finish()
        self.trying.finish()


def _corrected(one: Taken) -> str:
    """A correction in words."""
    of = KEYS.get(one.constant)
    said = f"{of.label} {of.say(one.value)}" if of else f"{one.constant} {one.value:g}"
    return ", ".join(filter(None, (said, one.thing.replace("-", " "), one.leather))) + f" (else {one.table:.3g})"


def _learn(answer: object) -> tuple[Sequence[Belief], Sequence[Case]]:
    from tailor.core.log.learning import learned

    assert isinstance(answer, tuple)
    cases: tuple[Case, ...]
    fits: tuple[Said, ...]
    cases, fits = answer
    return learned(cases, fits), cases


def _tried(job: Job, ours: Taken, tell: Tell) -> str:
    """What a belief would change of the job in hand."""
    from tailor.core.compared import grown
    from tailor.core.job import draft

    settings = job.settings
    suits = ours.suits(settings.number("leather.thickness"), settings.word("leather.temper"),
                       settings.word("mould.method"), job.style)  # fmt: skip
    if not suits:
        return f"{job.name} is of another leather, or made otherwise: it says nothing of it."
    tell("trying it", 0.3)
    now = draft(job)
    new = draft(replace(job, settings=replace(settings, taken=with_taken(settings.taken, ours))))
    if ours.constant in settings.pinned:
        return f"In {job.name} it is pinned."
    return f"{job.name} begun by it: {grown(now, new)}."
