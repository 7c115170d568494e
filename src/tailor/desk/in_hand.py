"""The piece in hand: a thing's pieces as they lie on the bench, with what a step touches lit."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen, QTransform
from PyQt6.QtWidgets import QWidget

from tailor.core.bench.steps import Doing
from tailor.core.shop.agenda import Seen
from tailor.desk import theme
from tailor.desk.drawing import fitting, path
from tailor.files.dyes import GALL, INDIGO, INK, MADDER

EDGE = 18.0  # px about it
DOT = 2.3  # px of a hole
BESIDE, CAPTION = 0.36, 16.0  # of the width, for the thing as it is then, and px for its caption
LIT, DIM = theme.LEATHER, "#ead9bd"


class InHand(QWidget):
    """Pieces, drawn as large as there is room."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("The piece in hand")
        self.setMinimumHeight(180)
        self.seen: tuple[Seen, ...] = ()
        self.doing: Doing | None = None
        self.closed: QImage | None = None  # the thing as it is once the step is done, where it is no longer flat

    def show_step(self, seen: tuple[Seen, ...], doing: Doing | None, closed: QImage | None = None) -> None:
        self.seen, self.doing, self.closed = seen, doing, closed
        said = (
            ""
            if doing is None
            else f"Lit: {', '.join(self.lit)}" + (f"; {', '.join(doing.places)}" if doing.places else "")
        )
        if closed is not None:
            said += "; beside it, as it is then"
        self.setAccessibleDescription(said)
        self.update()

    @property
    def lit(self) -> list[str]:
        """The pieces that the step touches: all of them where it names none."""
        names = () if self.doing is None else self.doing.pieces
        return [piece.name for piece in self.seen if not names or piece.name in names]

    def view(self) -> QTransform:
        """From mm to the screen."""
        room = QRectF(self.rect()).adjusted(EDGE, EDGE, -EDGE - self._aside, -EDGE - 8)
        return fitting((piece.ring for piece in self.seen), room)

    @property
    def _aside(self) -> float:
        """px that the picture of the thing takes at the right."""
        return 0.0 if self.closed is None else min(BESIDE * self.width(), self.closed.width())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.CARD))
        if not self.seen:
            return
        self._as_it_is(painter)
        view, lit = self.view(), self.lit
        places = () if self.doing is None else self.doing.places
        for piece in sorted(self.seen, key=lambda piece: piece.name in lit):
            on = piece.name in lit
            shape = path(piece.ring, view, closed=True)
            for ring in piece.openings:
                shape.addPath(path(ring, view, closed=True))
            painter.setPen(QPen(QColor(INK if on else theme.EDGE), 1.6 if on else 1.0))
            painter.setBrush(QColor(LIT if on else DIM))
            painter.drawPath(shape)
            self._places(painter, view, piece, places if on else ())
            self._named(painter, view, piece, on)

    def _as_it_is(self, painter: QPainter) -> None:
        """The thing as it is once the step is done."""
        if self.closed is None:
            return
        wide = self._aside
        high = min(wide * self.closed.height() / self.closed.width(), self.height() - 2 * EDGE - CAPTION)
        wide = high * self.closed.width() / self.closed.height()
        box = QRectF(self.width() - EDGE / 2 - wide, EDGE, wide, high)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(box, self.closed)
        painter.setFont(theme.text(9.5))
        painter.setPen(QColor(GALL))
        under = QRectF(box.left(), box.bottom(), wide, CAPTION)
        painter.drawText(under, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop, "as it is then")

    @staticmethod
    def _places(painter: QPainter, view: QTransform, piece: Seen, places: tuple[str, ...]) -> None:
        """The places on a piece: those of the step strong, the others faint."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for kind, lines in piece.lines.items():
            if kind in places:
                painter.setPen(QPen(QColor(MADDER), 3.2, cap=Qt.PenCapStyle.RoundCap))
                for line in lines:
                    painter.drawPath(path(line, view))
        painter.setPen(Qt.PenStyle.NoPen)
        for place, dots in piece.dots.items():
            on = place in places
            painter.setBrush(QColor(INDIGO if on else GALL))
            radius = DOT if on else 0.9
            for x, y in dots.tolist():
                painter.drawEllipse(view.map(QPointF(x, y)), radius, radius)

    @staticmethod
    def _named(painter: QPainter, view: QTransform, piece: Seen, on: bool) -> None:
        middle = (piece.ring.min(axis=0) + piece.ring.max(axis=0)) / 2
        at = view.map(QPointF(float(middle[0]), float(middle[1])))
        painter.setFont(theme.text(10, on))
        wide = float(np.ptp(piece.ring[:, 0])) * view.m11()
        if painter.fontMetrics().horizontalAdvance(piece.name) > wide:
            return
        painter.setPen(QColor(INK if on else GALL))
        painter.drawText(QRectF(at.x() - wide / 2, at.y() - 9, wide, 18), Qt.AlignmentFlag.AlignCenter, piece.name)
