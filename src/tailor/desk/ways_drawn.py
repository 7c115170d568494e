"""How each way of measuring is drawn on its card: a few strokes of ink round a thing of steel."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from types import MappingProxyType

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from tailor.desk import theme
from tailor.files.dyes import GALL, INK, LOGWOOD

Draw = Callable[[QPainter, QRectF], None]


def _square(box: QRectF) -> QRectF:
    """The middle of a box, three wide and two high."""
    high = min(box.height(), box.width() / 1.5)
    return QRectF(box.center().x() - 0.75 * high, box.center().y() - high / 2, 1.5 * high, high)


def _at(box: QRectF, x: float, y: float) -> QPointF:
    return QPointF(box.left() + x * box.width(), box.top() + y * box.height())


def _pen(painter: QPainter, colour: str = INK, width: float = 1.5, dash: bool = False) -> None:
    painter.setPen(QPen(QColor(colour), width, Qt.PenStyle.DashLine if dash else Qt.PenStyle.SolidLine))


def _thing(painter: QPainter, box: QRectF, left: float, top: float, right: float, foot: float, round_: float) -> None:
    _pen(painter, GALL, 1.3)
    painter.setBrush(QColor(theme.STEEL))
    painter.drawRoundedRect(QRectF(_at(box, left, top), _at(box, right, foot)), round_, round_)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _measured(painter: QPainter, start: QPointF, end: QPointF, tick: QPointF) -> None:
    _pen(painter, LOGWOOD, 1.3)
    painter.drawLine(start, end)
    for at in (start, end):
        painter.drawLine(QLineF(at - tick, at + tick))


def block(painter: QPainter, box: QRectF) -> None:
    """A block, and its sizes."""
    b = _square(box)
    _pen(painter, GALL, 1.3)
    painter.setBrush(QColor(theme.STEEL))
    for face in (((0.15, 0.35), (0.7, 0.35), (0.7, 0.85), (0.15, 0.85)), ((0.15, 0.35), (0.32, 0.12), (0.87, 0.12),
                 (0.7, 0.35)), ((0.7, 0.35), (0.87, 0.12), (0.87, 0.62), (0.7, 0.85))):  # fmt: skip
        painter.drawPolygon(QPolygonF([_at(b, *p) for p in face]))
    _measured(painter, _at(b, 0.15, 1.0), _at(b, 0.7, 1.0), QPointF(0, 4))
    _measured(painter, _at(b, 0.02, 0.35), _at(b, 0.02, 0.85), QPointF(4, 0))


def caliper(painter: QPainter, box: QRectF) -> None:
    """Jaws on a thing."""
    b = _square(box)
    _thing(painter, b, 0.34, 0.42, 0.62, 0.95, 6)
    _pen(painter)
    painter.setBrush(QColor(theme.PAPER))
    painter.drawRect(QRectF(_at(b, 0.05, 0.08), _at(b, 0.98, 0.24)))
    for x, way in ((0.34, -1), (0.62, 1)):
        painter.drawPolygon(QPolygonF([_at(b, x, 0.24), _at(b, x, 0.72), _at(b, x + 0.08 * way, 0.5),
                                       _at(b, x + 0.08 * way, 0.24)]))  # fmt: skip
    for k in range(9):
        painter.drawLine(_at(b, 0.12 + 0.09 * k, 0.24), _at(b, 0.12 + 0.09 * k, 0.17 if k % 2 else 0.13))


def tape(painter: QPainter, box: QRectF) -> None:
    """A tape round a thing."""
    b = _square(box)
    _thing(painter, b, 0.3, 0.05, 0.7, 0.95, 16)
    _pen(painter, LOGWOOD, 2.2)
    painter.drawArc(QRectF(_at(b, 0.28, 0.38), _at(b, 0.72, 0.66)), 180 * 16, 180 * 16)
    painter.drawLine(_at(b, 0.72, 0.52), _at(b, 0.98, 0.3))
    _pen(painter, LOGWOOD, 1.1)
    for k in range(4):
        painter.drawLine(_at(b, 0.78 + 0.055 * k, 0.43 - 0.048 * k), _at(b, 0.8 + 0.055 * k, 0.52 - 0.048 * k))


def outline(painter: QPainter, box: QRectF) -> None:
    """A pencil going round a thing."""
    b = _square(box)
    path = QPainterPath(_at(b, 0.1, 0.6))
    path.cubicTo(_at(b, 0.2, 0.1), _at(b, 0.5, 0.2), _at(b, 0.72, 0.3))
    path.cubicTo(_at(b, 0.95, 0.42), _at(b, 0.8, 0.85), _at(b, 0.55, 0.88))
    path.cubicTo(_at(b, 0.3, 0.92), _at(b, 0.05, 0.95), _at(b, 0.1, 0.6))
    painter.setBrush(QColor(theme.STEEL))
    _pen(painter, INK, 1.6)
    painter.drawPath(path)
    painter.setBrush(QColor(theme.STRAP))
    _pen(painter)
    painter.drawPolygon(QPolygonF([_at(b, 0.72, 0.3), _at(b, 0.78, 0.2), _at(b, 0.98, -0.02), _at(b, 1.02, 0.06),
                                   _at(b, 0.82, 0.28)]))  # fmt: skip


def photo(painter: QPainter, box: QRectF) -> None:
    """A thing on the mat, between its marks."""
    b = _square(box)
    _pen(painter)
    painter.setBrush(QColor(theme.PAPER))
    painter.drawRect(QRectF(_at(b, 0.1, 0.02), _at(b, 0.9, 0.98)))
    painter.setBrush(QColor(INK))
    for x in (0.15, 0.77):
        for y in (0.08, 0.8):
            painter.drawRect(QRectF(_at(b, x, y), _at(b, x + 0.08, y + 0.12)))
    _thing(painter, b, 0.32, 0.24, 0.68, 0.76, 8)


def scan(painter: QPainter, box: QRectF) -> None:
    """A thing on glass, and the light that goes along it."""
    b = _square(box)
    _pen(painter)
    painter.setBrush(QColor(theme.ROOM))
    painter.drawRoundedRect(QRectF(_at(b, 0.05, 0.15), _at(b, 0.95, 0.95)), 4, 4)
    _thing(painter, b, 0.2, 0.36, 0.8, 0.72, 6)
    _pen(painter, LOGWOOD, 2.4)
    painter.drawLine(_at(b, 0.58, 0.19), _at(b, 0.58, 0.91))


def mesh(painter: QPainter, box: QRectF) -> None:
    """A solid of many faces."""
    b = _square(box)
    middle, ring = _at(b, 0.52, 0.42), [_at(b, *p) for p in (
        (0.2, 0.3), (0.42, 0.06), (0.74, 0.12), (0.88, 0.46), (0.74, 0.84), (0.4, 0.94), (0.16, 0.68))]  # fmt: skip
    _pen(painter, GALL, 1.2)
    painter.setBrush(QColor(theme.STEEL))
    painter.drawPolygon(QPolygonF(ring))
    for at in ring:
        painter.drawLine(middle, at)


def stations(painter: QPainter, box: QRectF) -> None:
    """A blade with rungs across it."""
    b = _square(box)
    painter.setBrush(QColor(theme.STEEL))
    _pen(painter, GALL, 1.3)
    painter.drawPolygon(QPolygonF([_at(b, *p) for p in ((0.3, 0.0), (0.62, 0.0), (0.66, 0.6), (0.3, 1.0))]))
    for k in range(5):
        y = 0.08 + 0.2 * k
        _pen(painter, LOGWOOD, 1.1, dash=True)
        painter.drawLine(_at(b, 0.14, y), _at(b, 0.82, y))


DRAWN: Mapping[str, Draw] = MappingProxyType({
    "Block": block, "Caliper": caliper, "Tape": tape, "Outline": outline, "Photo": photo, "Scan": scan, "Mesh": mesh,
    "Stations": stations,
})  # fmt: skip
