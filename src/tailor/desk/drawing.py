"""Drawing the core's lines with Qt, in the house's line styles."""

from __future__ import annotations

import struct
from collections.abc import Iterable

import numpy as np
import shapely
from PyQt6.QtCore import QByteArray, QDataStream, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from tailor.core.carried.loft import Array
from tailor.core.checks.verdict import Ruling
from tailor.desk import theme
from tailor.files.linework import LINES

UNSEEN, FEW = 0.1, 8  # px a line may be off on the screen; points not worth thinning


def path(points: Array, view: QTransform, closed: bool = False) -> QPainterPath:
    """Points (n, 2) in mm as a path on the screen, without those that nobody could see to be left out."""
    drawn = QPainterPath()
    if len(points) > FEW:
        seen = shapely.simplify(shapely.linestrings(points), UNSEEN / abs(view.m11()), preserve_topology=False)
        points = shapely.get_coordinates(seen)
    drawn.addPolygon(view.map(polygon(points)))
    if closed:
        drawn.closeSubpath()
    return drawn


def fitting(rings: Iterable[Array], room: QRectF) -> QTransform:
    """From mm to the screen, so that outlines (n, 2) fill a room."""
    corners = np.vstack(list(rings))
    low, high = corners.min(axis=0), corners.max(axis=0)
    scale = min(room.width() / max(high[0] - low[0], 1.0), room.height() / max(high[1] - low[1], 1.0))
    middle = (low + high) / 2
    return QTransform(scale, 0, 0, -scale, room.center().x() - scale * middle[0], room.center().y() + scale * middle[1])


def polygon(points: Array) -> QPolygonF:
    """Points (n, 2) as Qt's, by its own stream, which is far quicker than one by one."""
    stream = QDataStream(QByteArray(struct.pack(">I", len(points)) + np.asarray(points, dtype=">f8").tobytes()))
    made = QPolygonF()
    stream >> made  # type: ignore[operator]
    return made


def pen(kind: str, strength: float = 1.0) -> QPen:
    """The pen of a kind of line: its dashes as on paper, at a width that reads on a screen."""
    style = LINES[kind]
    width = max(style.width * 3.2 * strength, 1.0)
    made = QPen(QColor(style.colour), width)
    made.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    made.setCapStyle(Qt.PenCapStyle.FlatCap)
    if style.dashes:
        made.setDashPattern([max(d * 2.6 / width, 0.6) for d in style.dashes])
    return made


def ruling_mark(painter: QPainter, box: QRectF, ruling: Ruling) -> None:
    """The sign of a ruling: a ring that holds, a triangle to look at, a filled square to stop at."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    colour = QColor(theme.RULING[ruling])
    painter.setPen(QPen(colour, 1.8))
    inner = box.adjusted(1.5, 1.5, -1.5, -1.5)
    if ruling is Ruling.OK:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(inner.adjusted(1, 1, -1, -1))
    elif ruling is Ruling.LOOK:
        painter.setBrush(QColor(theme.PAPER))
        painter.drawPolygon(QPolygonF([
            QPointF(inner.center().x(), inner.top()), inner.bottomRight(), inner.bottomLeft()
        ]))  # fmt: skip
    else:
        painter.setBrush(colour)
        painter.drawRect(inner)
    painter.restore()


def pin_mark(painter: QPainter, x: float, y: float, colour: QColor) -> None:
    """A pin seen from the side, its point at the lower left."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(colour, 1.6))
    painter.drawLine(QPointF(x, y + 10), QPointF(x + 4.5, y + 5.5))
    painter.setBrush(colour)
    painter.drawEllipse(QPointF(x + 7, y + 3), 3.2, 3.2)
    painter.restore()
