"""Notes, drawn and written: why each rule is as it is, for the guide and for whatever is asked why."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF

from tailor.core.notes.notes import NOTES, Note
from tailor.core.notes.picture import HIGH, WIDE, Stroke
from tailor.desk import theme
from tailor.desk.drawing import pen
from tailor.files.dyes import GALL, INK, LOGWOOD

WHY = "Why it is so"  # heading of the notes
SCALE, EDGE = 3.4, 8  # px to a picture's unit, and about it
FILLS = {"leather": theme.LEATHER, "thing": theme.STEEL, "welt": theme.WELTED, "foam": theme.FOAM}
DOT, BARB = 2.6, 6.0  # px


def pictured(note: Note) -> QImage:
    """The picture of a note."""
    image = QImage(round(WIDE * SCALE) + 2 * EDGE, round(HIGH * SCALE) + 2 * EDGE, QImage.Format.Format_RGB32)
    image.fill(QColor(theme.CARD))
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for stroke in note.picture:
        _drawn(painter, stroke)
    painter.end()
    return image


def _drawn(painter: QPainter, stroke: Stroke) -> None:
    points = [QPointF(EDGE + x * SCALE, EDGE + (HIGH - y) * SCALE) for x, y in stroke.points]
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if stroke.kind in FILLS:
        painter.setPen(QPen(QColor(INK), 1.1))
        painter.setBrush(QColor(FILLS[stroke.kind]))
        painter.drawPolygon(QPolygonF(points))
    elif stroke.kind == "hole":
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(pen("hole").color())
        for point in points:
            painter.drawEllipse(point, DOT, DOT)
    elif stroke.kind == "measure":
        _measure(painter, points[0], points[-1], stroke.said)
    else:
        painter.setPen(
            QPen(QColor(LOGWOOD), 1.8, Qt.PenStyle.DashLine) if stroke.kind == "neutral" else pen(stroke.kind)
        )
        painter.drawPolyline(QPolygonF(points))
        if stroke.said:
            painter.setPen(QColor(INK))
            painter.drawText(points[0] + QPointF(6, 4), stroke.said)


def _measure(painter: QPainter, from_: QPointF, to: QPointF, said: str) -> None:
    """A measure between two points, with its ends and a word beside its middle."""
    painter.setPen(QPen(QColor(GALL), 1.4))
    painter.drawLine(from_, to)
    along = to - from_
    size = max((along.x() ** 2 + along.y() ** 2) ** 0.5, 1.0)
    across = QPointF(-along.y(), along.x()) * (BARB / size)
    for end in (from_, to):
        painter.drawLine(end - across, end + across)
    if said:
        painter.setFont(theme.text(11))
        painter.setPen(QColor(INK))
        middle = (from_ + to) / 2
        wide = painter.fontMetrics().horizontalAdvance(said) + 4
        upright = abs(along.y()) > abs(along.x())
        left = middle.x() + 7 if upright else middle.x() - wide / 2
        left = min(left, WIDE * SCALE + 2 * EDGE - wide - 2)
        top = middle.y() - 9 if upright else middle.y() - 24
        painter.drawText(QRectF(left, top, wide, 18), Qt.AlignmentFlag.AlignLeft, said)


def written() -> str:
    """All notes as a chapter of the guide; the picture of the n-th is named note:n."""
    parts = [f"### {note.title}\n\n![{note.title}](note:{n})\n\n{note.said}\n" for n, note in enumerate(NOTES)]
    head = "Each rule that is drafted by has a reason. F1 on a tag, a step or what was learned opens its own note."
    return f"\n\n## {WHY}\n\n{head}\n\n" + "\n".join(parts)
