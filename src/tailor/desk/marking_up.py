"""Marking a hide up: one of the shop's hides, large, with what can be drawn on it and what is in hand."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QImage, QTransform
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from tailor.core.carried.loft import Array
from tailor.core.cut.marked import Marked
from tailor.core.units import System
from tailor.desk.counter import Counter
from tailor.desk.hide_board import SAID, HideBoard
from tailor.desk.words import Words

if TYPE_CHECKING:
    from tailor.core.cut.laying import Hide
    from tailor.core.shop.leathers import Skin
    from tailor.files.hides import Photographed

HINT = (
    "Draw round what is marked, or click its corners and double-click; or arrows, Shift for fine, Space for a corner, "
    "Enter. T turns it, N goes to the next mark, Delete takes it away, Ctrl+Z undoes. Esc goes back."
)


class MarkingUp(QWidget):
    """refused: what cannot be, and why. left: back to all hides, from the one of an id. id: of the hide in hand."""

    refused = pyqtSignal(str)
    left = pyqtSignal(str)

    def __init__(self, counter: Counter, units: Callable[[], System], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.counter, self._units = counter, units
        self.id = ""
        self._skin: Skin | None = None  # the hide in hand as it was marked last, in the book or on its way there
        self._pictures: dict[str, tuple[QImage, QTransform, Array]] = {}  # of hides taken in from photos just now
        self.board, self.in_hand = HideBoard(), Words()
        self.board.changed.connect(self._mark)
        self.board.refused.connect(self.refused)
        self.board.left.connect(self.be_done)
        self.board.turned.connect(self._tell)
        counter.refused.connect(lambda _: self.refresh())
        self.kinds = {kind: QPushButton(f"{kind}  ({n})") for n, kind in enumerate(Marked, start=1)}
        row = QHBoxLayout()
        for kind, button in self.kinds.items():
            button.setCheckable(True)
            button.setToolTip(SAID[kind])
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _, k=kind: self._take(k))
            row.addWidget(button)
        every = QPushButton("All hides")
        every.setProperty("plain", "false")
        every.clicked.connect(self.be_done)
        row.addStretch()
        row.addWidget(every)
        hint = Words(HINT)
        hint.setWordWrap(True)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.addLayout(row)
        inside.addWidget(self.in_hand)
        inside.addWidget(self.board, 1)
        inside.addWidget(hint)

    def keep(self, id_: str, found: Photographed) -> None:
        """Keep the photo that a hide was taken in from, to lie under it until the window closes."""
        high, wide = found.picture.shape[:2]
        image = QImage(found.picture.tobytes(), wide, high, 3 * wide, QImage.Format.Format_BGR888).copy()
        (a, b, x), (c, d, y) = found.to_hide.tolist()
        to_mm = QTransform(a, c, b, d, x - (a + b) / 2, y - (c + d) / 2)
        self._pictures[id_] = image, to_mm, found.hide.ring

    def open(self, id_: str) -> None:
        """Take a hide in hand."""
        self.id = id_
        self.show()
        self.refresh()
        self.board.setFocus()

    def be_done(self) -> None:
        """Back to all hides."""
        id_, self.id = self.id, ""
        self.hide()
        self.left.emit(id_)

    def refresh(self) -> None:
        """Show the hide in hand as the book has it, once what was drawn last is in it."""
        shop = self.counter.shop
        if not self.id or shop is None or self.counter.changing:
            return
        self._skin = next((skin for skin in shop.skins if skin.id == self.id and not skin.used), None)
        if self._skin is None:  # it was used up meanwhile
            self.be_done()
            return
        self.board.picture, self.board.units = self._pictures.get(self.id), self._units()
        self.board.show_hide(self._skin.hide, not self.counter.read_only)

    def _tell(self) -> None:
        """What is in hand, and how much leather there is."""
        leather = self.board.leather
        area = f"{leather.whole.area / 1e6:.3g} m²; " if leather is not None else ""
        self.in_hand.setText(area + self.board.said())
        for kind, button in self.kinds.items():
            button.setChecked(kind is self.board.kind)

    def _take(self, kind: Marked) -> None:
        self.board.take(kind)
        self.board.setFocus()

    def _mark(self, hide: Hide, said: str) -> None:
        if self._skin is not None and not self.counter.read_only:
            was, self._skin = self._skin, replace(self._skin, hide=hide)
            self.counter.put(said, (was, self._skin))
            self.board.show_hide(hide, True)
