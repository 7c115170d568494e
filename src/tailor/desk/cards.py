"""Cards: things by their pictures, that arrows go between and Enter takes; as on the shelf and among the orders."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFocusEvent, QKeyEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QAbstractButton, QWidget

from tailor.core.carried.loft import Array, Loft, outline
from tailor.core.carried.stations import Station
from tailor.core.carried.traced import Panel
from tailor.core.job import Job
from tailor.desk import theme
from tailor.files.dyes import GALL, INK, WALNUT

ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
WRITTEN, BELOW = 58.0, 26.0  # px of a card for its words, and for what is said below its name
FINEST = 400.0  # of the size of what is drawn, that a line may be off
MIDDLE = Qt.AlignmentFlag.AlignCenter.value | Qt.TextFlag.TextWordWrap.value


@dataclass(frozen=True)
class Thing:
    """What a card shows: what is written on it, how it is drawn, and what taking it does."""

    name: str
    said: str
    draw: Callable[[QPainter, QRectF], None]
    take: Callable[[], object]


class Card(QAbstractButton):
    """One thing. reached: a hand is on it."""

    reached = pyqtSignal()

    def __init__(self, thing: Thing, parent: QWidget) -> None:
        super().__init__(parent)
        self.thing = thing
        self.setObjectName(f"card {thing.name}")
        self.setAccessibleName(f"{thing.name}, {thing.said}")
        self.setToolTip(f"{thing.name}: {thing.said}")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)
        self.clicked.connect(lambda: thing.take())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5)
        held = self.hasFocus() or self.underMouse()
        painter.setPen(QPen(QColor(WALNUT if held else theme.EDGE), 2.2 if self.hasFocus() else 1.2))
        painter.setBrush(QColor(theme.PAPER if held else theme.CARD))
        painter.drawRoundedRect(box, 5, 5)
        painter.setPen(QPen(QColor(theme.EDGE), 1))
        painter.setBrush(QColor(theme.BENCH))
        painter.drawEllipse(QPointF(box.center().x(), box.top() + 7), 2.4, 2.4)
        painter.save()
        self.thing.draw(painter, box.adjusted(10, 14, -10, -WRITTEN - 2))
        painter.restore()
        below = QRectF(box.left() + 4, box.bottom() - WRITTEN, box.width() - 8, WRITTEN - 3)
        name, said = below.adjusted(0, 0, 0, -BELOW), below.adjusted(0, WRITTEN - 3 - BELOW, 0, 0)
        texts = (name, self.thing.name, 10.5, True, INK), (said, self.thing.said, 9.0, False, GALL)
        for room, text, size, bold, ink in texts:
            painter.setFont(theme.text(size, bold))
            while size > 7.5 and not room.contains(painter.boundingRect(room, MIDDLE, text)):
                size -= 0.5
                painter.setFont(theme.text(size, bold))
            painter.setPen(QColor(ink))
            painter.drawText(room, MIDDLE, text)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.click()
        elif event.key() in ARROWS:
            event.ignore()  # whatever it lies on goes on to the next
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self.reached.emit()
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.update()


def nearest(hand: QWidget, cards: Iterable[QWidget], across: int, down: int) -> QWidget:
    """The card that is nearest to the one in hand in a direction; the one in hand where there is none."""
    at, best = _box(hand), (float("inf"), hand)
    for card in cards:
        box = _box(card)
        off = (box[0] + box[1] - at[0] - at[1]) / 2  # from middle to middle
        apart = np.maximum(np.maximum(box[0] - at[1], at[0] - box[1]), 0.0)  # where neither lies over the other
        ahead = off[0] * across + off[1] * down
        k = 0 if down else 1
        if ahead > 4:
            best = min(best, (ahead + 3 * apart[k] + 0.2 * abs(off[k]), card), key=lambda each: each[0])
    return best[1]


def _box(widget: QWidget) -> Array:
    """Its upper left and its lower right corner in the window, (2, 2), px."""
    at = widget.mapTo(widget.window(), widget.rect().topLeft())
    return np.array([[at.x(), at.y()], [at.x() + widget.width(), at.y() + widget.height()]])


@lru_cache(maxsize=128)
def _shapes(stations: tuple[Station, ...], panels: tuple[Panel, ...]) -> tuple[Array, ...]:
    """Outlines of the object a job is for, or of panels that were traced, no finer than a small picture shows."""
    shapes = [np.array(panel.outline) for panel in panels] or [outline(Loft(stations))]
    fine = [float(np.ptp(points, axis=0).max()) / FINEST for points in shapes]
    rings = (shapely.simplify(shapely.LineString(points), off) for points, off in zip(shapes, fine, strict=True))
    return tuple(shapely.get_coordinates(ring) for ring in rings)


def drawn(job: Job) -> Callable[[QPainter, QRectF], None]:
    """How a job is drawn: the object it is for, or the panels that were traced of an old carrier."""
    panels = job.traced.panels[:3]

    def draw(painter: QPainter, box: QRectF) -> None:
        shapes = _shapes(job.stations, panels)
        x, laid = 0.0, list[Array]()
        for shape in shapes:
            laid.append(shape - shape.min(axis=0) + [x, 0.0])
            x = float(laid[-1][:, 0].max()) + 8.0
        every = np.vstack(laid)
        lies = np.ptp(every[:, 1]) > 1.6 * np.ptp(every[:, 0]) and box.width() > box.height()
        if lies:  # a long thing is seen better lying
            laid = [np.column_stack([points[:, 1], -points[:, 0]]) for points in laid]
            every = np.vstack(laid)
        low, size = every.min(axis=0), np.maximum(np.ptp(every, axis=0), 1.0)
        scale = min(box.width() / size[0], box.height() / size[1])
        painter.setPen(QPen(QColor(GALL), 1.3))
        painter.setBrush(QColor(theme.LEATHER if panels else theme.STEEL))
        for points in laid:
            px = (points - low - size / 2) * scale * [1.0, -1.0] + [box.center().x(), box.center().y()]
            painter.drawPolygon(QPolygonF([QPointF(float(a), float(b)) for a, b in px]))

    return draw
