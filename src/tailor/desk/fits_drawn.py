"""How it came out, drawn: what was felt at each place of the pieces, and what was measured beside what was drafted."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import shapely
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QTransform
from PyQt6.QtWidgets import QWidget

from tailor.core.carried.loft import Array
from tailor.core.log.case import Fit, When
from tailor.core.log.entry import Entry, Place, Traced
from tailor.core.log.measurable import CameOut
from tailor.core.shop.agenda import Seen
from tailor.desk import theme
from tailor.desk.drawing import fitting, path
from tailor.files.dyes import GALL, INK, WALNUT

EDGE, FOOT, ROW = 20.0, 14.0, 26.0  # px
TAG = 21.0  # px high
APART = 2.0  # px between two
ARROWS = {Fit.STUCK: "▸◂", Fit.TIGHT: "▸◂", Fit.RIGHT: "◆", Fit.LOOSE: "◂▸", Fit.FALLS: "◂▸"}
DYES = {Fit.STUCK: "stop", Fit.TIGHT: "look", Fit.RIGHT: "ok", Fit.LOOSE: "look", Fit.FALLS: "stop"}
NAMED = 15.0  # px over its foot, that a piece is named
THUMB = 74  # px of a picture


@dataclass(frozen=True)
class Over:
    """A piece as it was made: its outline (n, 2) on the board; stretches (m, 2) that are off, where most, by mm."""

    traced: Traced
    ring: Array
    stretches: tuple[tuple[Array, Array, float], ...]


class FitsDrawn(QWidget):
    """chosen: a place was pointed at."""

    chosen = pyqtSignal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("The thing, and how it fits")
        self.setMinimumHeight(200)
        self.seen: tuple[Seen, ...] = ()
        self.spots: Mapping[Place, Array] = {}
        self.entry: Entry | None = None
        self.when = When.NEW
        self.place: Place | None = None
        self.pictures: list[QPixmap] = []
        self.over: list[Over] = []
        self._tags: dict[Place, QRectF] = {}

    def show_over(self, over: list[Over]) -> None:
        """Pieces as they were made, laid over them as they were drafted."""
        if [each.traced for each in over] != [each.traced for each in self.over]:
            self.over = over
            self.update()

    def show_pieces(self, seen: tuple[Seen, ...], spots: Mapping[Place, Array]) -> None:
        self.seen, self.spots = seen, spots
        self.update()

    def show_entry(self, entry: Entry | None, when: When, place: Place | None) -> None:
        self.entry, self.when, self.place = entry, when, place
        said = [f"{each.place}: {each.fit.value}, {each.when.value}" for each in entry.fits] if entry else []
        self.setAccessibleDescription("; ".join(said))
        self.update()

    @property
    def measured(self) -> tuple[CameOut, ...]:
        return self.entry.measured if self.entry is not None else ()

    def view(self) -> QTransform:
        """From mm to the screen, above what was measured and the pictures."""
        foot = FOOT + ROW * len(self.measured) + (THUMB + 8 if self.pictures else 0)
        room = QRectF(self.rect()).adjusted(EDGE, EDGE, -EDGE, -foot)
        return fitting((piece.ring for piece in self.seen), room)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.CARD))
        if not self.seen:
            return
        view = self.view()
        painter.setPen(QPen(QColor(theme.EDGE), 1.2))
        painter.setBrush(QColor(theme.LEATHER))
        for piece in self.seen:
            shape = path(piece.ring, view, closed=True)
            for ring in piece.openings:
                shape.addPath(path(ring, view, closed=True))
            painter.drawPath(shape)
            self._named(painter, view, piece)
        for over in self.over:
            self._laid_over(painter, view, over)
        self._fits(painter, view)
        y = self.height() - ROW * len(self.measured) - FOOT / 2
        for n, measured in enumerate(self.measured):
            self._beside(painter, QRectF(EDGE, y + n * ROW, self.width() - 2 * EDGE, ROW), measured)
        for n, picture in enumerate(self.pictures):
            at = QPointF(EDGE + n * (THUMB * 1.4 + 8), y - THUMB - 6)
            painter.drawPixmap(at, picture)

    def _named(self, painter: QPainter, view: QTransform, piece: Seen) -> None:
        """A piece's name where it has room: in its middle, or at the foot of the one that the places are on."""
        whole = shapely.Polygon(piece.ring)
        spot = whole.centroid
        if any(whole.contains(shapely.Point(*place)) for place in self.spots.values()):
            spot = shapely.Point(spot.x, float(piece.ring[:, 1].min()) + NAMED / abs(view.m11()))
        painter.setFont(theme.text(9.5))
        wide = painter.fontMetrics().horizontalAdvance(piece.name) / abs(view.m11())
        if whole.contains(shapely.box(spot.x - wide / 2, spot.y - 1, spot.x + wide / 2, spot.y + 1)):
            at = view.map(QPointF(spot.x, spot.y))
            painter.save()
            painter.setPen(QColor(INK))
            painter.drawText(QRectF(at.x() - 60, at.y() - 8, 120, 16), Qt.AlignmentFlag.AlignCenter, piece.name)
            painter.restore()

    def _laid_over(self, painter: QPainter, view: QTransform, over: Over) -> None:
        """A piece as it was made, and by how much it is off where it is."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(INK), 1.2, Qt.PenStyle.DashLine))
        painter.drawPath(path(over.ring, view, closed=True))
        painter.setFont(theme.text(9.5, True))
        for stretch, spot, by in over.stretches:
            painter.setPen(QPen(QColor(theme.RULING["look"]), 4.0, cap=Qt.PenCapStyle.RoundCap))
            painter.drawPath(path(stretch, view))
            painter.setPen(QColor(INK))
            at = view.map(QPointF(*spot.tolist()))
            box = QRectF(at.x() - 17, at.y() - 24, 34, 17)
            painter.fillRect(box, QColor(theme.PAPER))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, f"{by:+.1f}")

    def _fits(self, painter: QPainter, view: QTransform) -> None:
        """A tag at each place: what was felt there then, or that nothing is said of it."""
        self._tags = {}
        felt = {each.place: each.fit for each in self.entry.fits if each.when is self.when} if self.entry else {}
        painter.setFont(theme.text(10))
        for place, spot in self.spots.items():
            fit = felt.get(place)
            said = f"{ARROWS[fit]} {fit.value}" if fit else str(place)
            at = view.map(QPointF(*spot.tolist()))
            box = QRectF(0, 0, painter.fontMetrics().horizontalAdvance(said) + 14, TAG)
            box.moveCenter(at)
            for other in self._tags.values():  # each below the one before, where the thing is drawn small
                if box.intersects(other.adjusted(0, -APART, 0, APART)):
                    box.moveTop(other.bottom() + APART)
            self._tags[place] = box
            chosen = place is self.place
            painter.setPen(QPen(QColor(WALNUT if chosen else theme.EDGE), 2.2 if chosen else 1.0))
            painter.setBrush(QColor(theme.PAPER))
            painter.drawRoundedRect(box, 4, 4)
            painter.setPen(QColor(theme.RULING[DYES[fit]] if fit else GALL))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, said)

    def _beside(self, painter: QPainter, box: QRectF, measured: CameOut) -> None:
        """What came out beside what was drafted: a stroke and a dot on a line of what it may be off by."""
        of, drafted, out = measured.of, measured.of.drafted, measured.value
        painter.setFont(theme.text(10))
        painter.setPen(QColor(INK))
        words = QRectF(box.left(), box.top(), box.width() * 0.62, box.height())
        said = f"{of.said}: {drafted:.4g} drafted, {out:.4g} {of.unit}"
        metrics = painter.fontMetrics()
        painter.drawText(words, Qt.AlignmentFlag.AlignVCenter,
                         metrics.elidedText(said, Qt.TextElideMode.ElideRight, int(words.width())))  # fmt: skip
        line = QRectF(words.right() + 12, box.top(), box.width() * 0.38 - 76, box.height())
        span = 1.3 * max(abs(out - drafted), 3 * of.noise)
        middle, y = line.center().x(), line.center().y()
        x = middle + (out - drafted) / span * line.width() / 2
        noise = of.noise / span * line.width() / 2
        painter.setPen(QPen(QColor(theme.EDGE), 1.2))
        painter.drawLine(QPointF(line.left(), y), QPointF(line.right(), y))
        painter.setPen(QPen(QColor(INK), 1.6))
        painter.drawLine(QPointF(middle, y - 7), QPointF(middle, y + 7))
        painter.setPen(QPen(QColor(WALNUT), 3.0))
        painter.drawLine(QPointF(x - noise, y), QPointF(x + noise, y))
        painter.setBrush(QColor(WALNUT))
        painter.drawEllipse(QPointF(x, y), 3.6, 3.6)
        painter.setPen(QColor(GALL))
        painter.drawText(QRectF(line.right() + 6, box.top(), 60, box.height()), Qt.AlignmentFlag.AlignVCenter,
                         f"{out - drafted:+.3g}")  # fmt: skip

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        for place, box in self._tags.items():
            if box.adjusted(-4, -6, 4, 6).contains(event.position()):
                self.chosen.emit(place)
                return
