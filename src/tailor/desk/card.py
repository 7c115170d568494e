"""What is drawn on the card: its rule, the scene, the zones, and the strings of the tags."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPen, QPixmap, QPolygonF, QTransform
from PyQt6.QtWidgets import QWidget

from tailor.core.carried.calipers import Across, Place
from tailor.core.carried.loft import Loft
from tailor.core.corrections import Correction
from tailor.core.measure import Theme
from tailor.core.units import System, format_length
from tailor.desk import theme
from tailor.desk.drawing import path, pen
from tailor.desk.scene import Scene
from tailor.desk.seating import Seat
from tailor.files.dyes import GALL, INK, LOGWOOD, WALNUT
from tailor.files.lettering import Wide
from tailor.files.linework import LINES, lines_of

LETTER = 3.4  # mm: words on pieces, where that is neither too small to read nor larger than it need be
SEEN = 11.0, 15.0  # px that they are seen in
BESIDE = 20.0  # px beside all the pieces, where words may still stand
MEASURED = 100  # px: a size that the width of words is measured in


def draw_rule(painter: QPainter, card: QRectF, view: QTransform, units: System) -> None:
    """A rule along the foot of the card, in the maker's unit."""
    scale = view.m11()
    inch = units is not System.MM
    unit = 25.4 if inch else 10.0
    painter.setFont(theme.text(8.5))
    start = view.inverted()[0].map(QPointF(card.left(), 0)).x()
    first = int(np.floor(start / unit))
    every = max(1, round(45 / (unit * scale)))
    foot = card.bottom()
    last = first + int(card.width() / (unit * scale)) + 2
    marks = {k: view.map(QPointF(k * unit, 0)).x() for k in range(first, last)}
    painter.setPen(QPen(QColor(theme.EDGE), 1))
    painter.drawLines([QLineF(x, foot, x, foot - (5 if k % every else 9)) for k, x in marks.items()])
    painter.setPen(QColor(GALL))
    for k, x in marks.items():
        if k % every == 0:
            painter.drawText(QPointF(x + 3, foot - 3), f"{k}" if inch else f"{k * 10}")


def draw_scene(
    painter: QPainter, view: QTransform, scene: Scene, strong: Sequence[str] = ("cut",), bare: bool = False
) -> None:
    """Everything of a scene. strong: kinds of line that are drawn strongest; bare: the object stands out."""
    painter.setPen(Qt.PenStyle.NoPen)
    for points, colour, alpha in scene.fills:
        painter.fillPath(path(points, view, True), theme.colour(colour, alpha))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(INK if bare else GALL), 1.8 if bare else 1.2))
    for points in scene.outlines:
        painter.drawPath(path(points, view, True))
    painter.setPen(QPen(QColor(GALL), 1, Qt.PenStyle.DashLine))
    for points in scene.behind:
        painter.drawPath(path(points, view, True))
    painter.setOpacity(0.45 if bare else 1.0)
    for kind, points, closed in scene.lines:
        painter.setPen(pen(kind, 1.3 if kind in strong and not bare else 1.0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path(points, view, closed))
    painter.setOpacity(1.0)
    if bare:
        painter.setPen(QPen(QColor(GALL), 1, Qt.PenStyle.DotLine))
        for x0, x1, y in scene.stations:
            painter.drawLine(view.map(QPointF(x0, y)), view.map(QPointF(x1, y)))
    painter.setPen(QPen(QColor(LINES["hole"].colour), 1.3))
    painter.setBrush(QColor(theme.PAPER))
    for x, y, diameter in scene.holes:
        radius = max(diameter / 2 * view.m11(), 1.6)
        painter.drawEllipse(view.map(QPointF(x, y)), radius, radius)
    _draw_words(painter, view, scene)
    painter.setFont(theme.text(11))
    painter.setPen(QColor(INK))
    for x, y, said in scene.captions:
        at = view.map(QPointF(x, y))
        painter.drawText(QRectF(at.x() - 120, at.y() - 10, 240, 20), Qt.AlignmentFlag.AlignCenter, said)


def letters(view: QTransform) -> tuple[float, Wide, float]:
    """How large words on pieces are seen so near, mm, how wide any are, in the unit of their size, and how far beside
    all the pieces they may stand, mm.
    """
    scale = abs(view.m11())
    faces = {}
    for bold, font in ((False, theme.text()), (True, theme.heading())):
        font.setPixelSize(MEASURED)
        faces[bold] = QFontMetricsF(font)

    def wide(text: str, size: float, bold: bool) -> float:
        return faces[bold].horizontalAdvance(text) / MEASURED * size

    return round(float(np.clip(LETTER * scale, *SEEN))) / scale, wide, BESIDE / scale


def _draw_words(painter: QPainter, view: QTransform, scene: Scene) -> None:
    """What is written on pieces, and beside those with no room for it."""
    scale = abs(view.m11())
    size, *_ = letters(view)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for written in scene.written(size):
        for stroke in lines_of(written):
            painter.setPen(pen(stroke.kind, 1.0))
            painter.drawPath(path(stroke.points, view, stroke.closed))
        painter.setPen(QColor(INK))
        for word in written.words:
            font = theme.heading() if word.bold else theme.text()
            font.setPixelSize(round(word.size * scale))
            painter.save()
            painter.translate(view.map(QPointF(word.x, word.y)))
            painter.rotate(-word.angle)
            painter.setFont(font)
            painter.drawText(QRectF(-400, -20, 800, 40), Qt.AlignmentFlag.AlignCenter, word.text)
            painter.restore()


def draw_jaws(painter: QPainter, view: QTransform, place: Place, loft: Loft, left_hand: bool) -> None:
    """Where a caliper's jaws go: on both sides for a width, over the middle for a thickness."""
    x_spine, width, *_ = map(float, loft.sizes(place.y)[0])
    sides = [-x_spine - width, -x_spine] if left_hand else [x_spine, x_spine + width]
    left, right = (view.map(QPointF(x, place.y)) for x in sides)
    painter.setPen(QPen(QColor(INK), 1.4))
    painter.setBrush(QColor(theme.PAPER))
    if place.across is Across.WIDTH:
        for at, out in ((left, -1), (right, 1)):
            tip = [at, at + QPointF(out * 9, -26), at + QPointF(out * 17, -26), at + QPointF(out * 17, 26)]
            painter.drawPolygon(QPolygonF([*tip, at + QPointF(out * 9, 26)]))
    else:
        middle = (left + right) / 2
        painter.drawRoundedRect(QRectF(middle.x() - 8, middle.y() - 30, 16, 60), 5, 5)
        painter.setBrush(QColor(INK))
        painter.drawEllipse(middle, 2.5, 2.5)
    painter.setPen(QColor(INK))
    painter.setFont(theme.text(10, bold=True))
    spot = QRectF((left.x() + right.x()) / 2 - 70, left.y() - 50, 140, 18)
    painter.drawText(spot, Qt.AlignmentFlag.AlignCenter, f"jaws: {place.across.value}")


# Width in px, and lengths on and off in widths, of the bar of each kind of zone.
ZONES: Mapping[str, tuple[float, list[float]]] = {
    "edge": (4, [4, 2]), "point": (4, [1, 2]), "trigger": (6, [3, 1]), "grip": (4, []), "control": (3, [1, 1]),
    "stop": (4, [4, 2, 1, 2]), "hollow": (2, [6, 2]),
}  # fmt: skip


def draw_zones(painter: QPainter, view: QTransform, scene: Scene, left_hand: bool) -> None:
    """The zones as bars beside the object, their names on the outer side."""
    painter.setFont(theme.text(9.5, bold=True))
    bars = [view.map(QPointF(z[2], 0)).x() for z in scene.zones]
    for _, kind, x, low, high in scene.zones:
        a, b = view.map(QPointF(x, low)), view.map(QPointF(x, high))
        width, dashes = ZONES[kind]
        pen = QPen(QColor(LOGWOOD), width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap)
        if dashes:
            pen.setDashPattern(dashes)
        painter.setPen(pen)
        painter.drawLine(a, b)
        painter.setPen(QPen(QColor(LOGWOOD), 2))
        for end in (a, b):
            painter.drawLine(end - QPointF(7, 0), end + QPointF(7, 0))
        painter.setPen(QColor(LOGWOOD))
        middle = (a + b) / 2
        if abs(a.y() - b.y()) < 44:
            side = Qt.AlignmentFlag.AlignLeft if left_hand else Qt.AlignmentFlag.AlignRight
            x = max(bars) + 12 if left_hand else min(bars) - 92
            painter.drawText(QRectF(x, middle.y() - 8, 80, 16), side | Qt.AlignmentFlag.AlignVCenter, kind)
            continue
        painter.save()
        painter.translate(middle)
        painter.rotate(-90)
        painter.drawText(QRectF(-60, -19, 120, 14), Qt.AlignmentFlag.AlignCenter, kind)
        painter.restore()


def draw_eases(
    painter: QPainter, view: QTransform, corrections: Sequence[Correction], right: float, units: System
) -> None:
    """Where the seam is eased after a mock-up: a diamond and how much, at the right of the card."""
    painter.setFont(theme.text(9.5, bold=True))
    for c in corrections:
        if c.easing:
            at = QPointF(right - 62, view.map(QPointF(0, c.y)).y())
            painter.setPen(QPen(QColor(LOGWOOD), 1.4))
            painter.setBrush(QColor(theme.PAPER))
            painter.drawPolygon(QPolygonF([at + QPointF(*d) for d in ((0, -6), (6, 0), (0, 6), (-6, 0))]))
            said = f"{'+' if c.by > 0 else '−'}{format_length(abs(c.by), units)}"
            painter.drawText(QRectF(at.x() + 10, at.y() - 9, 80, 18), Qt.AlignmentFlag.AlignVCenter, said)


def draw_list(painter: QPainter, headed: Sequence[tuple[int, Theme]], width: int, height: int) -> None:
    """The list of measures with no place on the drawing: a strip of paper down the left, a heading for each theme."""
    if not headed:
        return
    painter.setPen(QPen(QColor(theme.EDGE), 1))
    painter.drawLine(QPointF(width + 2, 10), QPointF(width + 2, height - 24))
    painter.setFont(theme.heading(9.5))
    painter.setPen(QColor(WALNUT))
    for y, of in headed:
        painter.drawText(QRectF(14, y, width - 14, 17), Qt.AlignmentFlag.AlignVCenter, of.value.capitalize())


def draw_strings(painter: QPainter, seats: Mapping[str, Seat]) -> None:
    """The string from each tag to what it measures."""
    painter.setPen(QPen(QColor(GALL), 1))
    painter.setBrush(QColor(GALL))
    for seat in seats.values():
        tied, tip = (QPointF(*end) for end in seat.string)
        painter.drawLine(tied, tip)
        painter.drawEllipse(tied, 2.2, 2.2)


def draw_across(painter: QPainter, ends: tuple[float, float], bar: float, said: str, mouth: float | None) -> None:
    """The slice bar with its handle, and the mouth's line with its grip, across the board at heights in px."""
    left, right = ends
    painter.setPen(QPen(QColor(WALNUT), 1.6))
    painter.drawLine(QPointF(left, bar), QPointF(right, bar))
    painter.setBrush(QColor(WALNUT))
    handle = QRectF(right - 56, bar - 9, 64, 18)
    painter.drawRoundedRect(handle, 4, 4)
    painter.setPen(QColor(theme.PAPER))
    painter.setFont(theme.text(9.5, bold=True))
    painter.drawText(handle, Qt.AlignmentFlag.AlignCenter, said)
    if mouth is None:
        return
    painter.setPen(QPen(QColor(INK), 1, Qt.PenStyle.DotLine))
    painter.drawLine(QPointF(left, mouth), QPointF(right, mouth))
    painter.setPen(QPen(QColor(INK), 1.4))
    painter.setBrush(QColor(theme.PAPER))
    grip = QRectF(left - 14, mouth - 8, 48, 16)
    painter.drawRoundedRect(grip, 4, 4)
    painter.setFont(theme.text(9))
    painter.drawText(grip, Qt.AlignmentFlag.AlignCenter, "mouth")


class Drawn:
    """What lies still on the card, drawn once and kept until it or the way it is looked at changes."""

    def __init__(self) -> None:
        self._picture = QPixmap()
        self._of: tuple[object, ...] = ()

    def draw(self, painter: QPainter, on: QWidget, of: tuple[object, ...], paint: Callable[[QPainter], None]) -> None:
        """Draw it over a widget. of: all that it depends on but the widget's size; paint: draws it anew."""
        ratio = on.devicePixelRatioF()
        of = (*of, on.size().width(), on.size().height(), ratio)
        if len(of) != len(self._of) or any(a is not b and a != b for a, b in zip(of, self._of, strict=True)):
            self._picture = QPixmap(on.size() * ratio)
            self._picture.setDevicePixelRatio(ratio)
            self._picture.fill(Qt.GlobalColor.transparent)
            fresh = QPainter(self._picture)
            fresh.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint(fresh)
            fresh.end()
            self._of = of
        painter.drawPixmap(0, 0, self._picture)
