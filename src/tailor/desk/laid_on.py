"""What is laid on: leather as it is named, or what the shop has of each that the draft asks for; and how many of it."""

from __future__ import annotations

import contextlib
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QLineEdit, QPushButton, QSpinBox, QWidget

from tailor.core.cut import asked
from tailor.core.cut.laying import Hide, Laying, Template
from tailor.core.cut.marked import marks
from tailor.core.errors import DiskError
from tailor.desk.capture.labour import Labour
from tailor.desk.counter import Counter
from tailor.desk.words import Words
from tailor.desk.workbench import Workbench
from tailor.files import hides

if TYPE_CHECKING:
    from tailor.core.draft.draft import Draft
    from tailor.core.shop.cutting import Cutting
    from tailor.core.shop.leathers import Skin
    from tailor.core.shop.made import Made

MOST = 200  # of a job, that are laid at once
APART = ";"
SHOP = "shop"  # named for what the shop book has
TIP = (
    "Rectangles such as 600x300mm, or outlines (SVG, DXF), parted by ; : offcuts first; or shop: what the shop book "
    "has of each leather"
)
OPENING, NONE = "Opening the shop book …", "The shop has none of this leather: name some to lay on."


class LaidOn(QWidget):
    """The line above the table that says what lies there.

    other: there is other leather now than before. counted: so many are to be laid. refused: what was named cannot be
    had, and why.
    """

    other = pyqtSignal()
    counted = pyqtSignal()
    refused = pyqtSignal(str)

    def __init__(self, bench: Workbench, counter: Counter, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bench, self.counter = bench, counter
        self.hides: tuple[Hide, ...] = ()
        self.cutting: Cutting | None = None  # of the shop's leather, where that is laid on
        self._names: tuple[str, ...] = ()  # as it was asked to be read
        self._only: Skin | None = None  # of the shop's, the one of its leather that is laid on
        self.reading = Labour(self)
        self.reading.done.connect(self._take)
        self.reading.failed.connect(self.refused)
        self.named = QLineEdit(f"{APART} ".join(hides.remembered()))
        self.named.setAccessibleName("Leather, what is used first, first")
        self.named.setToolTip(TIP)
        self.named.editingFinished.connect(self._typed)
        outline = QPushButton("Outline …")
        outline.setToolTip("A hide or an offcut from a drawing: its outline, and holes within it")
        outline.clicked.connect(self._ask_outline)
        shops = QPushButton("The shop’s")
        shops.setToolTip("Lay on what the shop book has of each leather that is asked for, offcuts first")
        shops.clicked.connect(self._the_shops)
        self.count = QSpinBox()
        self.count.setRange(1, MOST)
        self.count.setAccessibleName("How many of this are laid")
        self.count.valueChanged.connect(lambda _: self.counted.emit())
        row = QHBoxLayout(self)
        row.setSpacing(8)
        row.setContentsMargins(12, 8, 12, 6)
        for widget, stretch in ((Words("On"), 0), (self.named, 1), (outline, 0), (shops, 0), (Words("how many"), 0), (
            self.count, 0)):  # fmt: skip
            row.addWidget(widget, stretch)
        counter.came.connect(self._shop_came)

    @property
    def of_the_shop(self) -> bool:
        """Whether the shop's leather is laid on."""
        return self._list() == [SHOP]

    def name(self, text: str) -> None:
        """Lay on something else."""
        self.named.setText(text)
        self.named.setModified(True)
        self._typed()

    def _the_shops(self) -> None:
        self._only = None
        self.name(SHOP)

    def each_alone(self) -> tuple[tuple[Skin | Hide, Laying], ...]:
        """Every hide there is, with what would be laid on it alone: of the shop's, all of each leather; else those that
        are named.
        """
        from tailor.core.shop.cutting import each_alone

        made, shop = self.bench.outcome.made, self.counter.shop
        if self.cutting is None or shop is None or made is None:
            return tuple((hide, Laying((hide,), self.templates())) for hide in self.hides)
        return each_alone([self._thing(made)], shop.sorts, shop.skins)

    def only(self, one: Skin | Hide) -> None:
        """Lay on that one alone; of the shop's, as far as its leather goes."""
        if isinstance(one, Hide):
            self.name(str(one.id))
            return
        self._only = one
        self._take_down()
        self.other.emit()

    def _thing(self, made: Draft) -> Made:
        from tailor.core.shop.made import Made

        job = self.bench.made_for
        return Made(made, job.name, job.settings.word("leather.temper"), self.count.value())

    def add(self, text: str) -> None:
        """Lay on this too, before what there is."""
        self.name(f"{APART} ".join([text, *([] if self.of_the_shop else self._list())]))

    def look(self) -> str:
        """See to what there is, for the draft as it is now; why there is nothing, or not yet."""
        if not self.of_the_shop:
            if not self.hides:
                self._read()
            return ""
        return self._take_down()

    def templates(self) -> tuple[Template, ...]:
        """The pieces of so many of the draft, each asking for its leather where the shop's is laid on."""
        made = self.bench.outcome.made
        if made is None:
            return ()
        if self.cutting is not None:
            return self.cutting.laying.templates
        return tuple(asked.templates(made, self.bench.job.name, self.count.value()))

    def _list(self) -> list[str]:
        return [text.strip() for text in self.named.text().split(APART) if text.strip()] or list(hides.USUAL)

    def _typed(self) -> None:
        if not self.named.isModified():
            return
        self.named.setModified(False)
        if self.of_the_shop:
            self._take_down()
            self.other.emit()
        else:
            self._read()

    def _read(self) -> None:
        """Read what leather is named, off the window's thread: a drawing takes a while."""
        names = tuple(self._list())
        if not self.reading.busy or names != self._names:
            self._names = names
            self.reading.start(lambda tell: hides.hides(names, lambda: tell("reading the leather", 0.5)))

    def _take(self, there: tuple[Hide, ...]) -> None:
        self.hides, self.cutting = there, None
        if self._names != hides.remembered():
            with contextlib.suppress(DiskError):  # it is only not remembered then
                hides.remember(self._names)
        self.other.emit()

    def _take_down(self) -> str:
        """What the shop has of each leather that is asked for; its book may have to be opened first."""
        from tailor.core.shop.cutting import cutting

        made, shop = self.bench.outcome.made, self.counter.shop
        if shop is None or made is None:
            self.hides = ()
            self.counter.open()
            return OPENING
        only = self._only
        skins = [skin for skin in shop.skins if only is None or skin.sort != only.sort or skin.id == only.id]
        self.cutting = cutting([self._thing(made)], shop.sorts, skins)
        self.hides = self.cutting.laying.hides
        return "" if self.hides else NONE

    def _shop_came(self) -> None:
        """The shop is read, or read anew: what is laid on may have changed."""
        if self.of_the_shop and self.isVisible():
            before = self.hides
            self._take_down()
            if len(before) != len(self.hides) or not all(map(alike, before, self.hides)):
                self.other.emit()

    def _ask_outline(self) -> None:
        found, _ = QFileDialog.getOpenFileName(self, "The outline of a hide", "", "Drawings (*.svg *.dxf)")
        if found:
            self.add(found)

    def finish(self) -> None:
        self.reading.finish()


def alike(one: Hide, other: Hide) -> bool:
    """Whether two hides are the same leather with the same marks, wherever they stand."""
    ours, theirs = marks(one), marks(other)
    said = [[(mark.kind, mark.thick) for mark in each] for each in (ours, theirs)]
    if (one.id, one.sort, said[0]) != (other.id, other.sort, said[1]):
        return False
    pairs = ((one.ring, other.ring), *((a.ring, b.ring) for a, b in zip(ours, theirs, strict=True)))
    here, there = one.ring.min(axis=0), other.ring.min(axis=0)
    return all(a.shape == b.shape and np.allclose(a - here, b - there) for a, b in pairs)
