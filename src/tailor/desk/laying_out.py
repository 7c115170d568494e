"""Laying out: what is laid on what, while one watches, and what the maker's own hand does to it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QBoxLayout, QFileDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from tailor.core.cut import exact
from tailor.core.cut.asking import Asking, Spread
from tailor.core.cut.laying import Hide, Id, Laid, Laying, Template
from tailor.core.cut.left import Rest
from tailor.core.draft.draft import Draft
from tailor.desk import theme
from tailor.desk.capture.labour import Labour
from tailor.desk.counter import Counter
from tailor.desk.cutting_table import CuttingTable
from tailor.desk.hides_compared import SPREADER, HidesCompared
from tailor.desk.laid_on import LaidOn, alike
from tailor.desk.proposing import ProposingRoom
from tailor.desk.stages import lay_out
from tailor.desk.words import Listed
from tailor.desk.workbench import Workbench

if TYPE_CHECKING:
    from tailor.core.shop.leathers import Skin

SECONDS, AFTER_A_HAND = 12.0, 3.0  # of work at the most: from nothing, and after one piece was moved
DEEPEST = 200  # steps that can be undone
LINES = 2  # of what is said at the foot
BESIDE = 800  # px wide, from where it stands beside the buttons and not over them
NOTED = "Noted in the shop book; what is left of each hide is laid on now."
READY = "Getting ready to lay out; the first time after it is installed this takes a minute or two …"


@dataclass(frozen=True)
class Lying:
    """How things lie, as a step back gives it again: pieces, pins, and what was put aside."""

    laid: Mapping[Id, Laid]
    pins: frozenset[Id]
    aside: frozenset[Id]


class LayingOut(QWidget):
    """The leather with what lies on it, what leather that is, and how it goes.

    refused: what was typed or dropped cannot be, and why. told: what was done. stepped: something can be undone.
    came_to_rest: nothing more is laid.
    """

    stepped = pyqtSignal()
    came_to_rest = pyqtSignal()
    refused = pyqtSignal(str)
    told = pyqtSignal(str)

    def __init__(self, bench: Workbench, counter: Counter, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("laying out")
        self.bench, self.counter = bench, counter
        self.room = ProposingRoom(self, SPREADER)
        self.room.found.connect(self._take)
        self.room.done.connect(self._rest)
        self.table = CuttingTable(self)
        self.table.moved.connect(self.move_to)
        self.table.pinned.connect(self._pin)
        self.table.aside.connect(self._put_aside)
        self.table.chosen.connect(self._say)
        self.lying = Lying({}, frozenset(), frozenset())
        self.rests: tuple[Rest, ...] = ()
        self.laying: Laying | None = None
        self._undo: list[tuple[str, Lying]] = []
        self._redo: list[tuple[str, Lying]] = []
        self._for: Draft | None = None  # the draft that is laid
        self._there: tuple[Hide, ...] = ()  # what it is laid on
        self.on = LaidOn(bench, counter)
        self.on.other.connect(self._take_leather)
        self.on.counted.connect(lambda: self._anew(self.lying.laid))
        self.writing = Labour(self)
        self.writing.done.connect(self._written)
        self.writing.failed.connect(self.refused)
        self.on.refused.connect(self.refused)
        self._ever = self._answered = False  # whether anything was ever laid, and of what was asked last
        self.again = QPushButton("Lay again")
        self.again.setToolTip("Let go of how it lies, but not of pins (Alt+G)")
        self.again.setShortcut("Alt+G")
        self.again.clicked.connect(self.lay_again)
        self.stop = QPushButton("Stop")
        self.stop.clicked.connect(self._stop)
        self.cut = QPushButton("It is cut")
        self.cut.setToolTip("Note in the shop book what is cut and what is left; Ctrl+Z among the orders takes it back")
        self.cut.clicked.connect(self.note_cut)
        self.others = QPushButton("Other hides")
        self.others.setToolTip("What would lie on each hide alone (Alt+H)")
        self.others.setShortcut("Alt+H")
        self.others.clicked.connect(self.compare)
        self.compared = HidesCompared()
        self.compared.taken.connect(self._take_one)
        self.compared.left.connect(self.table.setFocus)
        self.write = QPushButton("Write …")
        self.write.setToolTip("The layout as PDF with the cut list, as SVG at true scale, and as JSON")
        self.write.clicked.connect(self._ask_write)
        self._said = Listed()
        self._said.setFont(theme.text(10.5))
        self._said.setFixedHeight(LINES * self._said.fontMetrics().lineSpacing() + 4)  # the leather must not jump
        self._foot = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self._put_together()
        bench.staled.connect(self._stale)
        bench.drafted.connect(self.refresh)

    def _put_together(self) -> None:
        buttons = QHBoxLayout()
        for button in (self.again, self.stop, self.others, self.cut, self.write):
            buttons.addWidget(button)
        foot = self._foot
        foot.addWidget(self._said, 1)
        foot.addLayout(buttons)
        foot.setContentsMargins(12, 4, 12, 8)
        all_ = QVBoxLayout(self)
        all_.setContentsMargins(0, 0, 0, 0)
        all_.setSpacing(0)
        all_.addWidget(self.on)
        all_.addWidget(self.table, 1)
        all_.addWidget(self.compared)
        all_.addLayout(foot)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        ways = QBoxLayout.Direction
        self._foot.setDirection(ways.LeftToRight if self.width() >= BESIDE else ways.TopToBottom)

    # What is laid

    @property
    def busy(self) -> bool:
        """Whether leather is read, or pieces are laid."""
        return self.on.reading.busy or self.room.busy

    def show_now(self) -> None:
        """It is turned to: lay the present draft out."""
        self.refresh()
        self.table.setFocus()

    def refresh(self) -> None:
        """Lay the present draft out, if it is looked at and that is not done."""
        made = self.bench.outcome.made
        if not self.isVisible() or not self.bench.fresh:
            return
        if made is None:
            self.room.stop()
            self._for = None
            self._said.setText(lay_out.STAGE.empty)
        elif made is not self._for or not self._there:
            self._anew(self.lying.laid)

    def _stale(self) -> None:
        self.table.stale = True
        self.table.update()
        self.compared.be_done()

    def _anew(self, begin: Mapping[Id, Laid], seconds: float = SECONDS) -> None:
        """Lay what there is, near to how it lay."""
        made = self.bench.outcome.made
        if made is None:
            return
        if why := self.on.look():
            self._said.setText(why)
        self._there = self.on.hides
        if not self._there:
            return
        self._for = made
        templates = self.on.templates()
        names = {t.id for t in templates}
        kept = {id_: one for id_, one in begin.items() if id_ in names and any(h.id == one.hide for h in self._there)}
        pins = frozenset(id_ for id_ in self.lying.pins if id_ in kept)
        self.laying = Laying(self._there, templates)
        self.lying = Lying(kept, pins, frozenset(id_ for id_ in self.lying.aside if id_ in names))
        self._ask(seconds)

    def lay_again(self) -> None:
        """Let go of how it lies, but not of what is pinned."""
        self._step("laying again")
        self._anew({id_: one for id_, one in self.lying.laid.items() if id_ in self.lying.pins})

    def _ask(self, seconds: float) -> None:
        assert self.laying is not None
        laid, pins, aside = self.lying.laid, self.lying.pins, self.lying.aside

        def wanted(template: Template) -> Template:
            return template.pin(laid[template.id]) if template.id in pins else template

        asked_for = replace(
            self.laying, templates=tuple(wanted(t) for t in self.laying.templates if t.id not in aside)
        )  # fmt: skip
        self._answered = False
        near = tuple(one for one in laid.values() if one.id not in aside | pins)
        self.room.ask(Asking(asked_for, seconds, near))
        self._show()

    def _take(self, found: Spread) -> None:
        self._ever = self._answered = True
        if found.said:
            self.refused.emit(found.said)
        self.lying = replace(self.lying, laid={one.id: one for one in found.laid})
        self.rests = found.rests
        self._show()

    def _rest(self) -> None:
        """Nothing more comes; where nothing came at all, its process ended by itself."""
        if not self._answered:
            self.refused.emit("Laying out ended before it had begun; press Lay again.")
        self._show()
        self.came_to_rest.emit()

    def _stop(self) -> None:
        self.room.close()
        self._show()

    def _show(self) -> None:
        if self.laying is None:
            return
        self.table.stale = not self.bench.fresh
        self.table.show_spread(self.laying, self.lying.laid, self.lying.pins, self.lying.aside, self.rests)
        self.stop.setEnabled(self.room.busy)
        self.cut.setVisible(self.on.cutting is not None)
        self.cut.setEnabled(bool(self.lying.laid) and not self.room.busy and not self.counter.read_only)
        self._say()

    def _say(self) -> None:
        """How it goes: what lies, what is used, what is left; and of the piece in hand its keys."""
        if self.laying is None:
            return
        if self.room.busy and not self._ever:
            self._said.setText(READY)
            return
        if (id_ := self.table.chosen_id) is not None:
            template = self.laying.template(id_)
            if id_ not in self.lying.laid:
                aside = "put aside; Delete takes it back"
                why = aside if id_ in self.lying.aside else self.laying.why_never(template) or "no room is left for it"
                self._said.setText(f"{id_}: {why}")
                return
            over = ", V turns it over" if template.may_flip else ""
            held = "P lets it go" if id_ in self.lying.pins else "P pins it"
            self._said.setText(f"{id_}: arrows move it (Shift: 10 mm), R turns it{over}, {held}, Delete puts it aside")
            return
        lying = sum(t.id in self.lying.laid for t in self.laying.templates)
        parts = [f"{lying} of {len(self.laying.templates)} lie"]
        if never := [t for t in self.laying.templates if t.id not in self.lying.laid and self.laying.why_never(t)]:
            parts.append(f"{never[0].name}: {self.laying.why_never(never[0])}")
        for rest in (rest for rest in self.rests if rest.used):
            kept = f", {len(rest.offcuts)} to keep" if rest.offcuts else ""
            parts.append(f"{rest.hide}: {rest.used:.0%} used{kept}, back edge free {rest.edge:.0f} mm")
        self._said.tell([*(["laying …"] if self.room.busy else []), *parts])

    # By hand

    def move_to(self, one: Laid) -> None:
        """Put a piece somewhere: it stays there, and the rest makes room."""
        assert self.laying is not None
        alone = replace(self.laying, templates=tuple(t.pin(None) for t in self.laying.templates))
        broken = [rule for _, rule in exact.faults(alone, [one])]
        if broken:
            self.refused.emit(f"{one.id} would be {broken[0]}; put it elsewhere.")
            self._show()
            return
        self._step(f"moving {self.laying.template(one.id).name}")
        self.lying = Lying(
            {**self.lying.laid, one.id: one}, self.lying.pins | {one.id}, self.lying.aside - {one.id}
        )  # fmt: skip
        self._ask(AFTER_A_HAND)

    def _pin(self, one: Laid) -> None:
        self._step("a pin")
        self.lying = replace(self.lying, pins=self.lying.pins ^ {one.id})
        self._show()

    def _put_aside(self, id_: Id) -> None:
        self._step("putting aside")
        aside = self.lying.aside ^ {id_}
        laid = {k: v for k, v in self.lying.laid.items() if k not in aside}
        self.lying = Lying(laid, self.lying.pins - aside, aside)
        self._ask(AFTER_A_HAND)

    def _step(self, name: str) -> None:
        self._undo.append((name, self.lying))
        del self._undo[:-DEEPEST]
        self._redo.clear()
        self.stepped.emit()

    @property
    def steps(self) -> tuple[str, str]:
        """What would be undone, and redone."""
        return (self._undo[-1][0] if self._undo else ""), (self._redo[-1][0] if self._redo else "")

    def undo(self) -> bool:
        """Take back what the hand did last; whether there was anything."""
        return self._swap(self._undo, self._redo)

    def redo(self) -> bool:
        return self._swap(self._redo, self._undo)

    def _swap(self, from_: list[tuple[str, Lying]], to: list[tuple[str, Lying]]) -> bool:
        if not from_:
            return False
        name, lying = from_.pop()
        to.append((name, self.lying))
        self.room.stop()
        self.lying = lying
        self._show()
        self.stepped.emit()
        return True

    # What it is laid on

    def _take_leather(self) -> None:
        """Lay on other leather; what lies on a hide that now stands elsewhere goes with it."""
        before = {hide.id: hide for hide in self._there}
        by = {
            hide.id: hide.ring.min(axis=0) - before[hide.id].ring.min(axis=0)
            for hide in self.on.hides if hide.id in before and alike(hide, before[hide.id])
        }  # fmt: skip
        moved = {id_: one.moved(by[one.hide]) for id_, one in self.lying.laid.items() if one.hide in by}
        self._undo.clear()  # how things lay on other leather
        self._redo.clear()
        self.stepped.emit()
        self._anew(moved)

    def compare(self) -> None:
        """What would lie on each hide alone; again, to be done with it."""
        if self.compared.isVisible():
            self.compared.be_done()
        else:
            self.compared.compare(self.on.each_alone())

    def _take_one(self, one: Skin | Hide) -> None:
        self.compared.be_done()
        self.on.only(one)

    @property
    def takes(self) -> dict[str, float]:
        """How much of each of the shop's leathers is taken to a piece of it, where the draft is laid on them."""
        cutting = self.on.cutting
        if cutting is None or self._for is not self.bench.outcome.made or not self.rests or self.room.busy:
            return {}
        if [rest.hide for rest in self.rests] != [hide.id for hide in cutting.laying.hides]:
            return {}  # what was found is of other hides
        return cutting.takes(tuple(self.lying.laid.values()), self.rests)

    def note_cut(self) -> None:
        """What lies there is cut: what is left of each hide is kept in the shop book."""
        if self.on.cutting is None or not self.lying.laid:
            return
        kept: list[tuple[object, object]] = []
        for skin, (used, *left) in self.on.cutting.left(tuple(self.lying.laid.values())):
            kept += [(skin, used), *((None, each) for each in left)]
        self.counter.put(f"cut {self.bench.job.name}", *kept, done=NOTED)

    def _ask_write(self) -> None:
        found = QFileDialog.getExistingDirectory(self, "Write the layout into")
        if found:
            self.write_into(Path(found))

    def write_into(self, folder: Path) -> None:
        """Write the layout as PDF, SVG and JSON into a folder."""
        from tailor.core.cut.found import Found
        from tailor.files import laid_sheet

        if self.laying is None:
            return
        laying, laid = self.laying, tuple(self.lying.laid.values())
        found = Found(laid, laying.share(laid), 0)
        self.writing.start(lambda _: laid_sheet.write(laying, found, folder))

    def _written(self, paths: list[Path]) -> None:
        self.told.emit(f"Written: {', '.join(path.name for path in paths)} in {paths[0].parent.name}.")

    def finish(self) -> None:
        """The window closes: leave no process and no thread running."""
        self.on.finish()
        self.compared.finish()
        self.writing.finish()
        self.room.close()
