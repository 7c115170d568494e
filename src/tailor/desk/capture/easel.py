"""The easel: what is being measured, at true proportion: a picture, the lines found in it, and hands to mend them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QTransform,
    QWheelEvent,
)  # fmt: skip
from PyQt6.QtWidgets import QWidget

from tailor.core.carried.loft import Array, Loft
from tailor.core.carried.loft import outline as loft_outline
from tailor.core.carried.stations import Table
from tailor.core.units import System, format_length
from tailor.desk import theme
from tailor.desk.card import draw_rule
from tailor.desk.drawing import path
from tailor.files.dyes import GALL, INK, LOGWOOD, WALNUT, WOAD

if TYPE_CHECKING:
    from tailor.core.carried.photo.view import Image

MARGIN = 42  # px kept clear all round
APART = 16.0  # mm between front and side view
COMB = 90.0  # mm of comb tooth for each 1/mm of curvature


class Hand(StrEnum):
    """What dragging does on the easel."""

    MOVE = "move"
    KEEP = "keep"
    REMOVE = "remove"
    PULL = "pull"
    RULER = "ruler"


PENS = {
    "outline": (INK, 2.2, Qt.PenStyle.SolidLine),
    "true": (LOGWOOD, 1.8, Qt.PenStyle.DotLine),
    "other": (GALL, 1.2, Qt.PenStyle.DashLine),
    "comb": (WOAD, 1.0, Qt.PenStyle.SolidLine),
    "station": (GALL, 1.0, Qt.PenStyle.DotLine),
    "ruler": (WALNUT, 2.0, Qt.PenStyle.SolidLine),
    "keep": (WOAD, 3.0, Qt.PenStyle.SolidLine),
    "remove": ("#a3312a", 3.0, Qt.PenStyle.DashLine),
}


@dataclass
class Sketch:
    """picture with its left, bottom, right and top, mm; lines: (kind, points, closed); words: (x, y, text)."""

    picture: QPixmap | None = None
    frame: tuple[float, float, float, float] = (0.0, 0.0, 100.0, 100.0)
    lines: list[tuple[str, Array, bool]] = field(default_factory=list)
    fills: list[Array] = field(default_factory=list)
    words: list[tuple[float, float, str]] = field(default_factory=list)


class Easel(QWidget):
    """Shows a sketch. stroked: a line drawn by hand, (n, 2) mm, and with which hand. chosen: a place clicked."""

    stroked = pyqtSignal(object, str)
    hand_changed = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("easel")
        self.setAccessibleName("Easel")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumSize(380, 320)
        self.sketch: Sketch | None = None
        self.asks = "Choose what to measure from."
        self.units = System.MM
        self.hand = Hand.MOVE
        self.radius = 3.0  # mm of the brush, or of what is pulled along
        self._zoom, self._pan = 1.0, QPointF()
        self._drawn: list[QPointF] = []
        self._at = QPointF()

    def show_sketch(self, sketch: Sketch | None, asks: str = "") -> None:
        """Show something else; the view stays when the frame does."""
        if sketch is None or self.sketch is None or sketch.frame != self.sketch.frame:
            self._zoom, self._pan = 1.0, QPointF()
        self.sketch = sketch
        self.asks = asks or self.asks
        self.update()

    def take_hand(self, hand: Hand) -> None:
        self.hand = hand
        self.setCursor(Qt.CursorShape.OpenHandCursor if hand is Hand.MOVE else Qt.CursorShape.CrossCursor)
        self.hand_changed.emit(hand.value)
        self.update()

    @property
    def view(self) -> QTransform:
        """From mm to the screen."""
        left, bottom, right, top = self.sketch.frame if self.sketch else (0.0, 0.0, 100.0, 100.0)
        room = QRectF(self.rect()).adjusted(MARGIN, MARGIN - 12, -MARGIN, -MARGIN)
        scale = min(room.width() / (right - left), room.height() / (top - bottom)) * self._zoom
        middle = room.center() + self._pan
        made = QTransform.fromTranslate(middle.x(), middle.y())
        made.scale(scale, -scale)
        made.translate(-(left + right) / 2, -(bottom + top) / 2)
        return made

    def to_mm(self, at: QPointF) -> QPointF:
        return self.view.inverted()[0].map(at)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        card = QRectF(self.rect()).adjusted(4, 4, -4, -4)
        painter.setPen(QPen(QColor(theme.EDGE), 1))
        painter.setBrush(QColor(theme.CARD))
        painter.drawRect(card)
        if self.sketch is None:
            painter.setPen(QColor(theme.STRAP_DARK))
            painter.setFont(theme.heading(14))
            inside = card.adjusted(60, 40, -60, -40)
            painter.drawText(inside, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.asks)
            return
        painter.setClipRect(card)
        view, sketch = self.view, self.sketch
        if sketch.picture is not None:
            left, bottom, right, top = sketch.frame
            spot = QRectF(view.map(QPointF(left, top)), view.map(QPointF(right, bottom)))
            painter.drawPixmap(spot, sketch.picture, QRectF(sketch.picture.rect()))
        draw_rule(painter, card, view, self.units)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour(theme.STEEL, 150))
        for fill in sketch.fills:
            painter.drawPath(path(fill, view, True))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for kind, points, closed in sketch.lines:
            colour, width, style = PENS[kind]
            if sketch.picture is not None and kind in ("outline", "true"):
                painter.setPen(QPen(QColor(theme.PAPER), width + 2.4))
                painter.drawPath(path(points, view, closed))
            painter.setPen(QPen(QColor(colour), width, style))
            painter.drawPath(path(points, view, closed))
        painter.setPen(QColor(INK))
        painter.setFont(theme.text(10.5, bold=True))
        for x, y, said in sketch.words:
            spot_ = view.map(QPointF(x, y))
            painter.drawText(QRectF(spot_.x() - 220, spot_.y() - 10, 440, 20), Qt.AlignmentFlag.AlignCenter, said)
        self._draw_hand(painter, view)

    def _draw_hand(self, painter: QPainter, view: QTransform) -> None:
        if self.hand in (Hand.KEEP, Hand.REMOVE, Hand.PULL):
            radius = self.radius * view.m11()
            painter.setPen(QPen(QColor(WALNUT), 1.4))
            painter.drawEllipse(self._at, radius, radius)
        if len(self._drawn) > 1:
            kind = {Hand.KEEP: "keep", Hand.REMOVE: "remove"}.get(self.hand, "ruler")
            colour, width, style = PENS[kind]
            painter.setPen(QPen(QColor(colour), width, style))
            painter.drawPolyline([view.map(p) for p in self._ends()])

    def _ends(self) -> list[QPointF]:
        straight = self.hand in (Hand.PULL, Hand.RULER)
        return [self._drawn[0], self._drawn[-1]] if straight else self._drawn

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.setFocus()
        self._at = event.position()
        if self.sketch is not None:
            self._drawn = [self.to_mm(event.position())]

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        moved, self._at = event.position() - self._at, event.position()
        if self._drawn and self.hand is Hand.MOVE:
            self._pan += moved
        elif self._drawn:
            self._drawn.append(self.to_mm(event.position()))
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        drawn, self._drawn = [(p.x(), p.y()) for p in self._ends()] if self._drawn else [], []
        if self.hand is not Hand.MOVE and drawn:
            if len(drawn) == 1:
                drawn.append((drawn[0][0] + 0.01, drawn[0][1]))
            self.stroked.emit(np.array(drawn), self.hand.value)
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self._zoom_by(1.0015 ** event.angleDelta().y(), event.position())

    def _zoom_by(self, by: float, about: QPointF | None = None) -> None:
        about = about or QRectF(self.rect()).center()
        kept = self.to_mm(about)
        self._zoom = float(np.clip(self._zoom * by, 0.5, 30))
        self._pan += about - self.view.map(kept)
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key = event.key()
        pans = {Qt.Key.Key_Left: (40, 0), Qt.Key.Key_Right: (-40, 0), Qt.Key.Key_Up: (0, 40), Qt.Key.Key_Down: (0, -40)}
        if key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            self._zoom_by(1 / 1.25 if key == Qt.Key.Key_Minus else 1.25)
        elif key in pans:
            self._pan += QPointF(*pans[Qt.Key(key)])
            self.update()
        elif key == Qt.Key.Key_0:
            self._zoom, self._pan = 1.0, QPointF()
            self.update()
        else:
            super().keyPressEvent(event)


def pixmap(colours: Image) -> QPixmap:
    """A picture (h, w, 3) in BGR as Qt draws it."""
    rgb = np.ascontiguousarray(colours[..., ::-1])
    return QPixmap.fromImage(
        QImage(rgb.data, rgb.shape[1], rgb.shape[0], 3 * rgb.shape[1], QImage.Format.Format_RGB888)
    )


def of_table(table: Table, units: System, comb: Sequence[Array] | None = None) -> Sketch:
    """A station table from the front, and beside it from the seam side, with its sizes."""
    loft = Loft(table.stations)
    front = loft_outline(loft)
    y = np.unique(np.concatenate([loft.ys, np.arange(loft.tip, loft.top, 1.0)]))
    sizes = loft.sizes(y)
    width, thick = front[:, 0].max() - front[:, 0].min(), float((sizes[:, 2] + sizes[:, 3]).max())
    at = float(front[:, 0].max()) + APART + float(sizes[:, 3].max())
    side = np.vstack([np.column_stack([at + sizes[:, 2], y]), np.column_stack([at - sizes[:, 3], y])[::-1]])
    sketch = Sketch(fills=[front, side], lines=[("outline", front, True), ("outline", side, True)])
    for s in table.stations if len(table.stations) < 40 else ():
        sketch.lines.append(("station", np.array([[s.x_spine, s.y], [s.x_seam, s.y]]), False))
    if comb is not None:
        sketch.lines += [("comb", tooth, False) for tooth in comb]
    low, high = loft.tip, loft.top
    words = (
        (float(front[:, 0].mean()), low - 6, f"front · {format_length(width, units)}"),
        (float(side[:, 0].mean()), low - 6, f"side · {format_length(thick, units)}"),
        (
            (float(front[:, 0].max()) + at - float(sizes[:, 3].max())) / 2,
            high + 6,
            f"{format_length(high - low, units)} long",
        ),
    )
    sketch.words += words
    sketch.frame = (float(front[:, 0].min()) - 12, low - 12, float(side[:, 0].max()) + 12, high + 12)
    return sketch
