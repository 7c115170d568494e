"""In the round: the case put together in space, turned in the hand, cut open, and closed piece by piece."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSlider, QVBoxLayout, QWidget

from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Role
from tailor.core.together.assembled import Assembled
from tailor.core.together.closing import CUT, EDGE, FLESH, GRAIN, METAL, THING, THREAD, TOOLED, Closing
from tailor.core.together.solids import Bytes, Sight, Solids
from tailor.desk import theme
from tailor.desk.capture.labour import Labour, Tell
from tailor.desk.words import Words
from tailor.desk.workbench import Workbench
from tailor.files.dyes import INK

SIDES = {"Front": (-28.0, 18.0), "Behind": (152.0, 18.0), "Side": (-90.0, 8.0), "Above": (-20.0, 62.0)}
KEYS = {"Front": Qt.Key.Key_F, "Behind": Qt.Key.Key_B, "Side": Qt.Key.Key_S, "Above": Qt.Key.Key_A}
NO_DRAFT = "There is no draft to put together; what stops it stands in the ledger."
TURN, FINE = 6.0, 1.0  # degrees to an arrow key, and with Shift
DRAG = 0.45  # degrees to a pixel
SETTLE = 140  # ms of rest after which it is drawn finely
TICKS = 20  # of the slider, to a step
FULL = 0.92  # of the room that it fills
OUT = 0.85  # of its height, that what it holds is drawn out
FAR = 1.25  # times as large with what hangs on it, that only the case itself is fitted in
LEAST, MOST = 0.25, 8.0  # times the size that fits


def _rgb(name: str) -> tuple[int, int, int]:
    found = QColor(name)
    return found.red(), found.green(), found.blue()


def dyes() -> dict[str, tuple[int, int, int]]:
    """The dyes of what is seen in the round."""
    named = {
        GRAIN: theme.LEATHER, FLESH: "#e6cfa8", EDGE: theme.STRAP, CUT: "#c08a52", THREAD: "#f7f0dc",
        TOOLED: theme.STRAP_DARK, METAL: "#c8ab62",
        THING: theme.STEEL, "lining": theme.LINED, "foam": theme.FOAM, "board": theme.BOARD, "card": theme.PAPER,
        "zip": theme.STEEL,
    }  # fmt: skip
    return {what: _rgb(dye) for what, dye in named.items()}


class Turning(QWidget):
    """Looks at the draft in the round. left: the maker goes back to the board."""

    left = pyqtSignal()

    def __init__(self, bench: Workbench, bar: Callable[[], float], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("in the round")
        self.setAccessibleName("The case in the round")
        self.bench, self._bar = bench, bar
        self.labour = Labour(self)
        self.labour.done.connect(self._put_together)
        self.labour.failed.connect(self._cannot)
        self.seen = Seen(self)
        self.closing: Closing | None = None
        self._made: Draft | None = None
        self.step = QSlider(Qt.Orientation.Horizontal)
        self.step.setAccessibleName("How far it is closed")
        self.step.setToolTip("From its flat pieces to the whole ( [ and ] )")
        self.step.valueChanged.connect(self._redraw)
        self._said = Words()
        self.open = self._button("Cut open", "O", "Cut away what is above the bar", True)
        self.lift = self._button("Lift", "L", "What shuts it lifted: its flap, its strap", True)
        self.out = self._button("Draw out", "D", "What it holds, drawn out, and what shuts it lifted", True)
        self.open.toggled.connect(self._redraw)
        self.lift.toggled.connect(self._redraw)
        self.out.toggled.connect(self._redraw)
        row = QHBoxLayout()
        row.setContentsMargins(12, 4, 12, 8)
        for name, at in SIDES.items():
            button = self._button(name, KEYS[name].name.removeprefix("Key_"), f"Seen from: {name.lower()}")
            button.clicked.connect(lambda _=False, a=at: self.seen.look(*a))
            row.addWidget(button)
        row.addSpacing(14)
        row.addWidget(self.open)
        row.addWidget(self.lift)
        row.addWidget(self.out)
        row.addSpacing(14)
        row.addWidget(self.step, 1)
        all_ = QVBoxLayout(self)
        all_.setContentsMargins(0, 0, 0, 0)
        all_.setSpacing(0)
        all_.addWidget(self.seen, 1)
        all_.addWidget(self._said)
        all_.addLayout(row)
        self._said.setContentsMargins(14, 2, 14, 2)
        bench.staled.connect(self._stale)
        bench.drafted.connect(self.refresh)

    def _button(self, name: str, key: str, said: str, checks: bool = False) -> QPushButton:
        button = QPushButton(name)
        button.setCheckable(checks)
        button.setToolTip(f"{said} ({key})")
        button.setAccessibleName(name)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        return button

    def show_now(self) -> None:
        """It is turned to: put the present draft together."""
        self.refresh()
        self.seen.setFocus()

    def refresh(self) -> None:
        """Put the present draft together, if it is looked at and that is not done."""
        made = self.bench.outcome.made
        if not self.isVisible() or not self.bench.fresh:
            return
        if made is None:
            self.labour.stop()
            self._made, self.closing = None, None
            self._cannot(NO_DRAFT)
            return
        if made is self._made:
            self.seen.stale = self.labour.busy
            self.seen.update()
            return
        self._made = made
        self._said.setText("Putting it together …")
        self.labour.start(lambda tell: _closing(made, tell))

    def recut(self) -> None:
        """The bar was moved."""
        if self.isVisible() and self.open.isChecked():
            self._redraw()

    def finish(self) -> None:
        """The window closes: leave no thread running."""
        self.labour.finish()
        self.seen.finer.finish()

    def _stale(self) -> None:
        self.seen.stale = True
        self.seen.update()

    def _cannot(self, said: str) -> None:
        self._said.setText(str(said))
        self.seen.show_solids(None)

    def _put_together(self, closing: Closing) -> None:
        first = self.closing is None
        whole = self.step.value() == self.step.maximum()
        self.closing = closing
        if not closing.steps:
            self._cannot("None of its pieces says yet where it goes: it cannot be put together.")
            return
        self.step.blockSignals(True)
        self.step.setRange(0, TICKS * len(closing.steps))
        self.step.setPageStep(TICKS)
        if first or whole:
            self.step.setValue(self.step.maximum())
        self.step.blockSignals(False)
        self.lift.setVisible(closing.lifted is not None)
        self.seen.stale = False
        self._redraw()

    def _redraw(self) -> None:
        if self.closing is None or not self.closing.steps:
            return
        stage = self.step.value() / TICKS
        whole = self.step.value() == self.step.maximum()
        lifts = self.lift.isChecked() or self.out.isChecked()
        shown = self.closing.lifted if lifts and whole and self.closing.lifted is not None else self.closing
        solids = shown.at(stage, OUT * self.closing.tall if self.out.isChecked() else 0.0)
        if self._made is not None and self._made.mirrored:
            solids = solids.mirrored()
        plane = (np.array([0.0, 1.0, 0.0]), self._bar()) if self.open.isChecked() and whole else None
        self.seen.show_solids(solids, plane, shown.hanging)
        self._said.setText(self._told(stage))

    def _told(self, stage: float) -> str:
        assert self.closing is not None
        steps, k = self.closing.steps, int(np.ceil(stage))
        if k == 0:
            said = f"{len(steps)} pieces, flat"
        elif k == len(steps) and stage == k:
            said = "Closed"
        else:
            held = self.closing.reached[k - 1]
            tight = min(held, key=lambda each: min(each.front, each.back)).said if held else ""
            said = f"{k} of {len(steps)}: {steps[k - 1]}{tight and f' · {tight}'}"
        whole = self.closing.whole
        left = [name for name in whole.unplaced if whole.pieces[name].role is not Role.TEMPLATE]
        if left and k == len(steps):
            said += f" · not shown: {', '.join(left)}"
        return said

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key = event.key()
        by = FINE if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else TURN
        side = next((name for name, at in KEYS.items() if at == key), None)
        turns = {Qt.Key.Key_Left: (-by, 0.0), Qt.Key.Key_Right: (by, 0.0), Qt.Key.Key_Up: (0.0, by), Qt.Key.Key_Down: (
            0.0, -by)}  # fmt: skip
        if side is not None:
            self.seen.look(*SIDES[side])
        elif key in turns:
            self.seen.turn(*turns[Qt.Key(key)])
        elif key == Qt.Key.Key_O:
            self.open.toggle()
        elif key == Qt.Key.Key_L:
            self.lift.toggle()
        elif key == Qt.Key.Key_D:
            self.out.toggle()
        elif key in (Qt.Key.Key_BracketLeft, Qt.Key.Key_BracketRight):
            self.step.setValue(self.step.value() + (TICKS if key == Qt.Key.Key_BracketRight else -TICKS))
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            self.seen.closer(1 / 1.15 if key == Qt.Key.Key_Minus else 1.15)
        elif key == Qt.Key.Key_Escape:
            self.left.emit()
        else:
            super().keyPressEvent(event)


def _closing(made: Draft, tell: Tell) -> Closing:
    from tailor.core.together import drawn  # slow to load, so only when it is asked for, and here

    tell("putting it together", 0.1)
    closing = Closing(Assembled(made.unmarked()), dyes())
    if closing.steps:
        closing.at(0.0)  # every piece flat and in its place
        closing.reached  # noqa: B018  worked here, off the window's thread
        if closing.lifted is not None:
            closing.lifted.at(0.0)
    tell("getting ready to draw it", 0.7)
    drawn.ready()
    return closing


class Seen(QWidget):
    """Solids as they are seen, turned by the mouse: coarsely while they move; finely at rest, by a thread apart."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The case, turned by arrow keys or by dragging")
        self.setMinimumSize(300, 240)
        self.sight = Sight(*SIDES["Front"])
        self.stale = False
        self._zoom = 1.0
        self._solids: Solids | None = None
        self._plane: tuple[np.ndarray, float] | None = None
        self._hanging: Sequence[int] = ()
        self._picture: Bytes | None = None
        self._from: QPointF | None = None
        self.finer = Labour(self)
        self.finer.done.connect(self._show)
        self._rest = QTimer(self, interval=SETTLE, singleShot=True, timeout=self._finely)

    @property
    def rests(self) -> bool:
        """Whether no finer picture is to come."""
        return not self._rest.isActive() and not self.finer.busy

    def show_solids(
        self, solids: Solids | None, plane: tuple[np.ndarray, float] | None = None, hanging: Sequence[int] = ()
    ) -> None:
        """hanging: numbers of what hangs on it, which runs out of the picture where it is far longer than the rest."""
        self._solids, self._plane, self._hanging = solids, plane, hanging
        self._moved()

    def look(self, turn: float, tilt: float) -> None:
        """From one side, everything in view."""
        self.sight, self._zoom = replace(self.sight, turn=turn, tilt=tilt), 1.0
        self._moved()

    def turn(self, aside: float, up: float) -> None:
        sight = self.sight
        tilt = float(np.clip(sight.tilt + up, -89.0, 89.0))
        self.sight = replace(sight, turn=(sight.turn + aside + 180.0) % 360.0 - 180.0, tilt=tilt)
        self._moved()

    def closer(self, times: float) -> None:
        self._zoom = float(np.clip(self._zoom * times, LEAST, MOST))
        self._moved()

    def _moved(self) -> None:
        self.finer.stop()
        self._show(None if self._solids is None else self._picturing(1.0)())
        self._rest.start()

    def _finely(self) -> None:
        if self._solids is not None:
            draw = self._picturing(max(2.0, self.devicePixelRatioF()))
            self.finer.start(lambda tell: draw())

    def _picturing(self, ratio: float) -> Callable[[], Bytes]:
        """What draws the solids as they are seen now, so many pixels to one of the widget."""
        from tailor.core.together.drawn import drawn  # loaded by then

        assert self._solids is not None
        size = max(int(self.width() * ratio), 1), max(int(self.height() * ratio), 1)
        return partial(drawn, self._solids, self._fitted(size), size, self._plane)

    def _show(self, picture: Bytes | None) -> None:
        self._picture = picture
        self.update()

    def _fitted(self, size: tuple[int, int]) -> Sight:
        """The sight with everything in view, as near as it was brought."""
        assert self._solids is not None
        shown = self._solids.corners[self._solids.beyond(self._plane) <= 0]
        if not len(shown):  # all of it is cut away
            shown = self._solids.corners
        low, high = shown.min(axis=0), shown.max(axis=0)
        rest = self._solids.corners[self._solids.triangles[~np.isin(self._solids.whose, self._hanging)].ravel()]
        if len(rest) and np.linalg.norm(high - low) > FAR * np.linalg.norm(np.ptp(rest, axis=0)):
            low, high = rest.min(axis=0), rest.max(axis=0)
        wide, tall = float(np.hypot(*(high - low)[[0, 2]])), float(high[1] - low[1])
        tilt = np.radians(abs(self.sight.tilt))
        room = tall * np.cos(tilt) + wide * np.sin(tilt)
        scale = FULL * min(size[0] / max(wide, 1.0), size[1] / max(room, 1.0)) * self._zoom
        return replace(self.sight, about=(low + high) / 2, scale=float(scale))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(theme.CARD))
        if self._picture is None:
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setOpacity(0.45 if self.stale else 1.0)
        h, w = self._picture.shape[:2]
        image = QImage(self._picture.data, w, h, 4 * w, QImage.Format.Format_RGBA8888)
        painter.drawImage(QRectF(self.rect()), image)
        if self.stale:
            painter.setOpacity(1.0)
            painter.setPen(QColor(INK))
            painter.drawText(self.rect().adjusted(14, 10, 0, 0), Qt.AlignmentFlag.AlignTop, "Drafting anew …")

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._moved()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._from = event.position()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._from is None:
            return
        by = event.position() - self._from
        self._from = event.position()
        self.turn(DRAG * by.x(), DRAG * by.y())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._from = None

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self.closer(1.1 ** (event.angleDelta().y() / 120))
