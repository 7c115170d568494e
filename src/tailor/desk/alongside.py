"""Alongside the slice: the stack along its seam, layer by layer, and the loop with the belt in it."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QTransform

from tailor.core.carried.loft import Array
from tailor.core.draft.flat_goods.built import Cross
from tailor.core.draft.views.belted import Belted
from tailor.core.draft.views.upright import Upright
from tailor.core.leather.stack import Profile
from tailor.core.units import System, format_length
from tailor.desk import theme
from tailor.desk.drawing import path
from tailor.files.dyes import GALL, INDIGO, INK


def draw_profile(painter: QPainter, room: QRectF, profile: Profile, bar: float, units: System) -> None:
    """The layers of the main seam from its first hole to its last, and where along it the bar crosses it, mm."""
    whole = float(profile.heights.sum(axis=1).max())
    across = room.width() / max(float(profile.at[-1]), 1.0)
    up = min((room.height() - 18) / whole, 4 * across, 9.0)
    view = QTransform.fromTranslate(room.left(), room.bottom() - 2)
    view.scale(across, -up)
    base = np.zeros(len(profile.at))
    for k in range(len(profile.names) - 1, -1, -1):
        top = base + profile.heights[:, k]
        ring = np.vstack([np.column_stack([profile.at, base]), np.column_stack([profile.at, top])[::-1]])
        painter.setPen(QPen(QColor(INK), 0.8))
        painter.setBrush(QColor(theme.WELTED if profile.names[k] == "welt" else theme.LEATHER))
        painter.drawPath(path(ring, view, True))
        base = top
    painter.setPen(QColor(GALL))
    painter.setFont(theme.text(9.5))
    thin = float(profile.heights.sum(axis=1).min())
    said = f"Stack along the seam: {format_length(whole, units)}"
    if thin < whole - 0.05:
        said += f", thinned to {format_length(thin, units)}"
    painter.drawText(QPointF(room.left(), room.top() + 9), said)
    x = view.map(QPointF(bar, 0)).x()
    painter.setPen(QPen(QColor(INDIGO), 1.8))
    painter.drawLine(QPointF(x, room.top() + 14), QPointF(x, room.bottom()))


def _centred(field: QRectF, scale: float, middle: Array) -> QTransform:
    """From mm to a field of the pane, px to the mm, with a place (2,) in its middle."""
    view = QTransform.fromTranslate(field.center().x(), field.center().y())
    view.scale(scale, -scale)
    view.translate(-float(middle[0]), -float(middle[1]))
    return view


def draw_belted(painter: QPainter, room: QRectF, cut: Belted, units: System) -> None:
    """The loop, the belt in it and the back, cut straight down; the back on the left, the wearer on the right."""
    painter.setPen(QColor(INK))
    painter.setFont(theme.heading(12.5))
    painter.drawText(QPointF(14, 26), "Slice down through the loop")
    every = np.vstack([cut.loop, cut.belt, cut.back])
    low, high = every.min(axis=0), every.max(axis=0)
    field = room.adjusted(20, 40, -20, -14)
    scale = min(field.width() / (high[1] - low[1]), field.height() / (high[0] - low[0]), 5.0)
    view = _centred(field, scale, (low + high)[::-1] / 2)

    def lying(points: Array) -> Array:  # laid on its side: the pane is wide; up is to the right
        return np.asarray(points[:, ::-1])

    for points, colour in ((cut.back, theme.LEATHER), (cut.belt, theme.STRAP_DARK), (cut.loop, theme.LEATHER)):
        painter.setPen(QPen(QColor(INK), 1.1))
        painter.setBrush(QColor(colour))
        painter.drawPath(path(lying(points), view, True))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(GALL), 1, Qt.PenStyle.DotLine))
    painter.drawPath(path(lying(cut.neutral), view))
    outer = float(cut.loop[:, 0].max())
    for places, colour, wide in ((cut.rows, INDIGO, 2.4), (cut.posts, GALL, 5.0)):
        painter.setPen(QPen(QColor(colour), wide))
        for y in places:
            near = cut.loop[np.abs(cut.loop[:, 1] - y) < 3.0]
            top = float(near[:, 0].max()) if len(near) else outer
            painter.drawLine(view.map(QPointF(y, float(cut.back[:, 0].min()))), view.map(QPointF(y, top)))
    painter.setFont(theme.text(9.5))
    painter.setPen(QColor(theme.PAPER))
    middle = view.map(QPointF(*map(float, lying(cut.belt).mean(axis=0))))
    painter.drawText(QRectF(middle.x() - 60, middle.y() - 8, 120, 16), Qt.AlignmentFlag.AlignCenter, "belt")
    painter.setPen(QColor(GALL))
    painter.drawText(QPointF(14, room.height() - 14), "towards the tip")
    said = "towards the mouth"
    wide = painter.fontMetrics().horizontalAdvance(said)
    painter.drawText(QPointF(room.width() - 14 - wide, room.height() - 14), said)
    loose = cut.neutral[-1, 1], cut.neutral[0, 1]
    painter.drawText(
        QPointF(14, 44), f"from {format_length(min(loose), units)} to {format_length(max(loose), units)} on the object"
    )


def draw_upright(painter: QPainter, room: QRectF, cut: Upright) -> None:
    """A case cut straight down its middle, laid on its side: the mouth on the right, the body it is worn on above."""
    painter.setPen(QColor(INK))
    painter.setFont(theme.heading(12.5))
    painter.drawText(QPointF(14, 26), "Slice straight down")
    every = np.vstack([*cut.leather, cut.thing, *([] if cut.belt is None else [cut.belt])])
    low, high = every.min(axis=0), every.max(axis=0)
    field = room.adjusted(20, 40, -20, -34)
    scale = min(field.width() / (high[1] - low[1]), field.height() / (high[0] - low[0]), 5.0)
    view = _centred(field, scale, (low + high)[::-1] / 2)
    layers = [(cut.thing, theme.STEEL), *((p, theme.LEATHER) for p in cut.leather)]
    if cut.belt is not None:
        layers.append((cut.belt, theme.STRAP_DARK))
    for points, colour in layers:
        painter.setPen(QPen(QColor(INK), 1.0))
        painter.setBrush(QColor(colour))
        painter.drawPath(path(points[:, ::-1], view, True))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for lines, colour, wide in ((cut.stitches, INDIGO, 2.2), (cut.posts, GALL, 4.0)):
        painter.setPen(QPen(QColor(colour), wide))
        for line in lines:
            painter.drawPath(path(line[:, ::-1], view))
    painter.setPen(QPen(QColor(GALL), 1, Qt.PenStyle.DotLine))
    for line in cut.dashed:
        painter.drawPath(path(line[:, ::-1], view))
    painter.setFont(theme.text(9.5))
    painter.setPen(QColor(GALL))
    painter.drawText(QPointF(14, 44), "the body it is worn on is above")
    painter.drawText(QPointF(14, room.height() - 14), "towards the tip")
    said = "over the top"
    wide = painter.fontMetrics().horizontalAdvance(said)
    painter.drawText(QPointF(room.width() - 14 - wide, room.height() - 14), said)


def draw_cross(painter: QPainter, room: QRectF, cut: Cross) -> None:
    """A thing of flat panels cut straight through at one height, its front up."""
    every = np.vstack([layer.outline for layer in cut.layers])
    low, high = every.min(axis=0), every.max(axis=0)
    field = room.adjusted(20, 58, -20, -24)
    scale = min(field.width() / max(high[0] - low[0], 1), field.height() / max(high[1] - low[1], 1), 6.0)
    view = _centred(field, scale, (low + high) / 2)
    for layer in cut.layers:
        painter.setPen(QPen(QColor(INK), 1.0))
        painter.setBrush(QColor(theme.STUFF[layer.kind]))
        painter.drawPath(path(layer.outline, view, True))
    painter.setFont(theme.text(9.5))
    painter.setPen(QColor(GALL))
    names = list(dict.fromkeys(layer.kind for layer in cut.layers))
    painter.drawText(QPointF(14, 44), f"front up: {', '.join(n if n != 'thing' else 'what it holds' for n in names)}")
