"""Hides compared: how the pieces would lie on each of them alone, tried one after another, to take one of them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import shapely
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QPushButton, QScrollArea, QVBoxLayout, QWidget

from tailor.core.cut.asking import Asking, Spread
from tailor.core.cut.laying import Hide, Laying
from tailor.desk import theme
from tailor.desk.proposing import ProposingRoom
from tailor.desk.words import Words

if TYPE_CHECKING:
    from tailor.core.shop.leathers import Skin

SPREADER = "tailor.core.cut.spreader"  # which is slow to load, so only in its own process
SECONDS = 1.0  # of work on each
STEPS = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}
HIGH = 176  # px that the list takes at the most
NONE = "There is no leather to compare: take in some among the hides (F4), or name some above."


class _Row(QPushButton):
    """One hide that was tried. stepped: an arrow asks for another, by the list's order and not by that of Tab."""

    stepped = pyqtSignal(int)

    def __init__(self, one: Skin | Hide, told: str) -> None:
        super().__init__(told)
        self.one = one
        self.setToolTip(told)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in STEPS:
            self.stepped.emit(STEPS[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)


class HidesCompared(QFrame):
    """taken: the one to lay on. left: nothing is compared any more. found: what lay on each, once it was tried."""

    taken = pyqtSignal(object)
    left = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("sheet")
        self.setAccessibleName("Other hides")
        self.room = ProposingRoom(self, SPREADER)
        self.room.found.connect(self._take)
        self.room.done.connect(self._next)
        self.found: list[tuple[Skin | Hide, Laying, Spread]] = []
        self._waiting: list[tuple[Skin | Hide, Laying]] = []
        self._last: Spread | None = None
        self._lost: list[str] = []  # hides that nothing could be tried on, with why
        self._said = Words()
        self.rows: list[_Row] = []
        self._list = QVBoxLayout()
        self._list.setSpacing(2)
        inside = QWidget()
        inside.setLayout(self._list)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(inside)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setStyleSheet("QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; }")
        whole = QVBoxLayout(self)
        whole.setContentsMargins(12, 6, 12, 6)
        whole.addWidget(self._said)
        whole.addWidget(scroll)
        self.setFixedHeight(HIGH)
        self.hide()

    def compare(self, hides: Sequence[tuple[Skin | Hide, Laying]]) -> None:
        """Try each, one after another."""
        self.found, self._waiting, self._last, self._lost = [], list(hides), None, []
        self._clear()
        self._said.setText(NONE if not hides else "Trying each hide alone …")
        self.show()
        self.setFocus()
        self._ask()

    def _ask(self) -> None:
        if self._waiting:
            self.room.ask(Asking(self._waiting[0][1], SECONDS, ()))

    def _take(self, found: Spread) -> None:
        self._last = found

    def _next(self) -> None:
        """One was tried: the next."""
        if not self._waiting:
            return
        one, laying = self._waiting.pop(0)
        if self._last is not None and not self._last.said:
            self.found.append((one, laying, self._last))
        else:
            self._lost.append(f"{laying.hides[0].id}: {self._last.said if self._last else 'it could not be tried'}")
        self._last = None
        self._show()
        self._ask()

    def _show(self) -> None:
        """Those that take all first, and of them the smallest; then those that take most."""
        at_hand = self._held is self or self._hand >= 0
        was = self.rows[self._hand].one if self._hand >= 0 else None
        self._clear()
        best = sorted(self.found, key=lambda each: (-each[2].share, each[1].hides[0].whole.area))
        for one, laying, spread in best:
            button = _Row(one, said(laying, spread))
            button.setProperty("plain", "false")
            button.setFont(theme.text(10))
            button.clicked.connect(lambda _, o=one: self.taken.emit(o))
            button.stepped.connect(self._step)
            self._list.addWidget(button)
            button.show()  # at once: what is only shown later cannot be in hand yet
            self.rows.append(button)
        left = f"; {len(self._waiting)} to try" if self._waiting else ". Enter lays on the one in hand, Esc leaves it"
        self._said.setText(" ".join([f"What lies on each alone{left}.", *self._lost]))
        if at_hand:
            same = next((row for row in self.rows if row.one is was), None)
            (same or (self if self._waiting or not self.rows else self.rows[0])).setFocus()

    def _clear(self) -> None:
        for button in self.rows:
            self._list.removeWidget(button)
            button.hide()
            button.deleteLater()
        self.rows = []

    def be_done(self) -> None:
        """Nothing is compared any more."""
        self._waiting.clear()
        self.room.stop()
        if self.isVisible():
            self.hide()
            self.left.emit()

    @property
    def _hand(self) -> int:
        """Which row is in hand; -1: none."""
        held = self._held
        return next((i for i, row in enumerate(self.rows) if row is held), -1)

    @property
    def _held(self) -> QWidget | None:
        """What is in hand in the window, be it in front or not."""
        window = self.window()
        return None if window is None else window.focusWidget()

    def _step(self, by: int) -> None:
        """Take the next one in hand, or the one before."""
        if self.rows:
            self.rows[min(max(self._hand + by, 0), len(self.rows) - 1)].setFocus()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            self.be_done()
        elif event.key() in STEPS:
            self._step(STEPS[Qt.Key(event.key())])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._hand >= 0:
            self.rows[self._hand].click()
        else:
            super().keyPressEvent(event)

    def finish(self) -> None:
        self.room.close()


def said(laying: Laying, spread: Spread) -> str:
    """How it lies on one hide, in a line: what lies, how much of it that is, and what is left."""
    hide, (rest, *_) = laying.hides[0], spread.rests
    many = f"all {len(laying.templates)} lie" if len(spread.laid) == len(laying.templates) else (
        f"{len(spread.laid)} of {len(laying.templates)} lie")  # fmt: skip
    kept = sum(shapely.Polygon(ring).area for ring in rest.offcuts) / 1e6
    of = f" of {hide.sort}" if hide.sort else ""
    return (f"{hide.id}{of}, {hide.whole.area / 1e6:.2f} m²: {many}, {rest.used:.0%} of it used, {kept:.2f} m² left to "
            f"keep, back edge free {rest.edge:.0f} of {rest.edge_before:.0f} mm")  # fmt: skip
