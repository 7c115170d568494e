"""The leather on the table: hides with what lies on them, moved about by hand or by keys."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
import shapely
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QTransform
from PyQt6.QtWidgets import QWidget

from tailor.core.carried.loft import Array
from tailor.core.cut.laying import Grade, Id, Laid, Laying
from tailor.core.cut.left import Rest
from tailor.desk import theme
from tailor.desk.drawing import path, pin_mark
from tailor.files.dyes import GALL, INK, LICHEN, MADDER, WALNUT

ROOM = 0.14  # of the width, on the right, where what finds no room stands
EDGE = 22.0  # px round about
MIDDLE = 0.8  # of the room where a piece is widest, that its middle needs to be named there
TURN = 15.0  # degrees by a key, of what may lie any way
BESIDE, NAMED = 8.0, 16.0  # px between what stands beside, and for its name


class CuttingTable(QWidget):
    """Hides, and what lies on them.

    moved: a piece was put somewhere by hand. pinned: it was pinned, or let go of. aside: it was put aside, or taken
    back. chosen: what the hand is on changed.
    """

    moved = pyqtSignal(object)
    pinned = pyqtSignal(object)
    aside = pyqtSignal(object)
    chosen = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("cutting table")
        self.setAccessibleName("Cutting table, leather with the pieces on it: Tab to the next piece, arrows move it")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(380, 260)
        self.laying: Laying | None = None
        self.laid: Mapping[Id, Laid] = {}
        self.pins: frozenset[Id] = frozenset()
        self.put_aside: frozenset[Id] = frozenset()
        self.rests: tuple[Rest, ...] = ()
        self.stale = False
        self.chosen_id: Id | None = None
        self._hand: tuple[Laid, QPointF] | None = None  # what is dragged as it lay, and from where
        self._at: Laid | None = None

    def show_spread(
        self,
        laying: Laying,
        laid: Mapping[Id, Laid],
        pins: frozenset[Id],
        aside: frozenset[Id],
        rests: tuple[Rest, ...],
    ) -> None:
        """Show what lies now."""
        self.laying, self.laid, self.pins, self.put_aside, self.rests = laying, laid, pins, aside, rests
        if self.chosen_id not in {t.id for t in laying.templates}:
            self.chosen_id = None
        self.update()

    @property
    def view(self) -> QTransform:
        """From mm to px: all hides in view, y up."""
        assert self.laying is not None
        every = np.vstack([hide.ring for hide in self.laying.hides])
        low, high = every.min(axis=0), every.max(axis=0)
        wide, tall = self.width() * (1 - ROOM) - 2 * EDGE, self.height() - 2 * EDGE
        scale = min(wide / (high[0] - low[0]), tall / (high[1] - low[1]))
        aside = EDGE + (wide - scale * (high[0] - low[0])) / 2
        up = EDGE + (tall - scale * (high[1] - low[1])) / 2
        return QTransform(scale, 0, 0, -scale, aside - scale * low[0], up + scale * high[1])

    def spots(self) -> dict[Id, Array]:
        """Where each piece that lies is drawn, px (n, 2)."""
        assert self.laying is not None
        view = self.view
        scale, dx, dy = view.m11(), view.dx(), view.dy()
        found = {}
        for template in self.laying.templates:
            one = self._at if self._at is not None and self._at.id == template.id else self.laid.get(template.id)
            if one is not None:
                found[template.id] = one.of(template.ring) * np.array([scale, -scale]) + np.array([dx, dy])
        return found

    def beside(self) -> dict[Id, Array]:
        """Where each piece that does not lie stands beside, px (n, 2), smaller than it is."""
        assert self.laying is not None
        left = [t for t in self.laying.templates if t.id not in self.laid]
        room = self.width() * ROOM - EDGE
        found, y = {}, EDGE + 22.0
        for template in left:
            size = np.ptp(template.ring, axis=0)
            scale = min(self.view.m11(), room / size[0], 70.0 / size[1])
            ring = (template.ring - template.ring.min(axis=0)) * [scale, -scale]
            found[template.id] = ring + np.array([self.width() - room - 8, y + scale * size[1]])
            y += scale * size[1] + BESIDE + NAMED
        return found

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.CARD))
        if self.laying is None:
            return
        view = self.view
        for hide in self.laying.hides:
            painter.setPen(QPen(QColor(theme.STRAP), 1.2))
            painter.setBrush(QColor(theme.LEATHER))
            painter.drawPath(path(hide.ring, view, closed=True))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for zone in hide.zones:
                dye = LICHEN if zone.grade is Grade.PRIME else WALNUT
                painter.setPen(QPen(QColor(dye), 1.0, Qt.PenStyle.DashLine))
                painter.drawPath(path(zone.ring, view, closed=True))
            painter.setPen(QPen(QColor(MADDER), 1.0))
            painter.setBrush(theme.colour(MADDER, 110))
            for mark in hide.forbidden:
                painter.drawPath(path(mark, view, closed=True))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour(GALL, 150), 1.0, Qt.PenStyle.DotLine))
        for rest in self.rests:
            for ring in rest.offcuts:
                painter.drawPath(path(ring, view, closed=True))
        painter.setOpacity(0.55 if self.stale else 1.0)
        for id_, ring in self.spots().items():
            self._draw(painter, id_, ring)
        painter.setOpacity(1.0)
        if beside := self.beside():
            painter.setPen(QColor(INK))
            painter.setFont(theme.text(9.5))
            left, high = self.width() * (1 - ROOM) + 8, 3 * painter.fontMetrics().height()
            room = QRectF(left, EDGE + 11 - high, self.width() - left - 4, high)
            painter.drawText(room, Qt.AlignmentFlag.AlignBottom | Qt.TextFlag.TextWordWrap, "no room, or aside")
            for id_, ring in beside.items():
                self._draw(painter, id_, ring)
                painter.setPen(QColor(INK))
                painter.setFont(theme.text(9.0))
                name = painter.fontMetrics().elidedText(
                    self.laying.template(id_).name, Qt.TextElideMode.ElideRight, int(self.width() * ROOM) - 14
                )
                painter.drawText(QPointF(float(ring[:, 0].min()), float(ring[:, 1].max()) + 13), name)

    def _draw(self, painter: QPainter, id_: Id, ring: Array) -> None:
        assert self.laying is not None
        in_hand = id_ == self.chosen_id
        painter.setPen(QPen(QColor(WALNUT if in_hand else INK), 2.4 if in_hand else 1.1))
        painter.setBrush(QColor(theme.PAPER if id_ not in self.put_aside else theme.BENCH))
        painter.drawPath(path(ring, QTransform(), closed=True))
        (x, y), radius = _middle(shapely.Polygon(ring))
        low, high = ring.min(axis=0), ring.max(axis=0)
        upright = high[1] - low[1] > 2 * (high[0] - low[0])
        name = self.laying.template(id_).name
        painter.setFont(theme.text(9.0))
        long = painter.fontMetrics().horizontalAdvance(name)
        if id_ in self.laid and 2 * radius > 11 and long < max(2 * radius, 0.8 * float(max(high - low))):
            painter.save()
            painter.setPen(QColor(INK))
            painter.translate(x, y)
            if upright:
                painter.rotate(-90)
            painter.drawText(QRectF(-long / 2 - 2, -8, long + 4, 16), Qt.AlignmentFlag.AlignCenter, name)
            painter.restore()
        if id_ in self.pins:
            pin_mark(painter, x - 3, y + 6, QColor(theme.PINNED))

    # By hand

    def piece_at(self, spot: QPointF) -> Id | None:
        """The piece that is drawn at a place, px."""
        point = shapely.Point(spot.x(), spot.y())
        for id_, ring in {**self.beside(), **self.spots()}.items():
            if shapely.Polygon(ring).contains(point):
                return id_
        return None

    def choose(self, id_: Id | None) -> None:
        self.chosen_id = id_
        self.chosen.emit()
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.laying is None:
            return
        self.setFocus()
        found = self.piece_at(event.position())
        self.choose(found)
        if found is not None:
            self._hand = self.laid.get(found) or self._taken_up(found, event.position()), event.position()

    def _taken_up(self, id_: Id, spot: QPointF) -> Laid:
        """What stands beside, in the hand: turned as it may lie, its middle under the hand."""
        assert self.laying is not None
        template = self.laying.template(id_)
        middle = Laid(id_, "", False, template.turns.bases[0], (0.0, 0.0)).of(template.ring).mean(axis=0)
        x, y = self._mm(spot)
        return Laid(
            id_, self.laying.hides[0].id, False, template.turns.bases[0] % 360.0, (x - middle[0], y - middle[1])
        )

    def _mm(self, spot: QPointF) -> tuple[float, float]:
        back, _ = self.view.inverted()
        found = back.map(spot)
        return found.x(), found.y()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._hand is None:
            return
        was, begun = self._hand
        (x, y), (u, v) = self._mm(event.position()), self._mm(begun)
        self._at = replace(was, move=(was.move[0] + x - u, was.move[1] + y - v))
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        dropped, self._hand, self._at = self._at, None, None
        if dropped is not None:
            self.moved.emit(self._on_a_hide(dropped))
        self.update()

    def _on_a_hide(self, one: Laid) -> Laid:
        """With the hide that it lies on most."""
        assert self.laying is not None
        shape = shapely.Polygon(one.of(self.laying.template(one.id).ring))
        hides = self.laying.hides
        return replace(one, hide=max(hides, key=lambda h: float(shapely.intersection(h.whole, shape).area)).id)

    # By keys

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if self.laying is None or not self._by_key(Qt.Key(event.key()), event.modifiers()):
            super().keyPressEvent(event)

    def focusNextPrevChild(self, forward: bool) -> bool:
        """Tab goes from piece to piece, and on when all were gone through."""
        ids = [] if self.laying is None else [t.id for t in self.laying.templates]
        at = ids.index(self.chosen_id) if self.chosen_id in ids else (-1 if forward else len(ids))
        if 0 <= (to := at + (1 if forward else -1)) < len(ids):
            self.choose(ids[to])
            return True
        self.choose(None)
        return super().focusNextPrevChild(forward)

    def _by_key(self, key: Qt.Key, held: Qt.KeyboardModifier) -> bool:
        """What a key does to the chosen piece; whether it does anything."""
        assert self.laying is not None
        if self.chosen_id is None:
            return False
        one, template = self.laid.get(self.chosen_id), self.laying.template(self.chosen_id)
        far = 10.0 if held & Qt.KeyboardModifier.ShiftModifier else 1.0
        ways = {Qt.Key.Key_Left: (-far, 0.0), Qt.Key.Key_Right: (far, 0.0), Qt.Key.Key_Up: (0.0, far),
                Qt.Key.Key_Down: (0.0, -far)}  # fmt: skip
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.aside.emit(self.chosen_id)
        elif one is None:
            return False
        elif key in ways:
            x, y = ways[key]
            self.moved.emit(self._on_a_hide(replace(one, move=(one.move[0] + x, one.move[1] + y))))
        elif key == Qt.Key.Key_R:
            self.moved.emit(self._about_its_middle(one, self._next_turn(one), one.mirrored))
        elif key == Qt.Key.Key_V and template.may_flip:
            self.moved.emit(self._about_its_middle(one, one.degrees, not one.mirrored))
        elif key == Qt.Key.Key_P:
            self.pinned.emit(one)
        else:
            return False
        return True

    def _next_turn(self, one: Laid) -> float:
        """The next way round that a piece may lie, to the left."""
        assert self.laying is not None
        turns = self.laying.template(one.id).turns
        if turns.free:
            return one.degrees + TURN
        return min(turns.bases, key=lambda base: (base - one.degrees - turns.play - 1e-3) % 360.0)

    def _about_its_middle(self, one: Laid, degrees: float, mirrored: bool) -> Laid:
        """Turned so, and over, about the middle of where it lies."""
        assert self.laying is not None
        ring = self.laying.template(one.id).ring
        middle = one.of(ring).mean(axis=0)
        bare = Laid(one.id, one.hide, mirrored, degrees % 360.0, (0.0, 0.0))
        x, y = (float(v) for v in middle - bare.of(ring).mean(axis=0))
        return self._on_a_hide(replace(bare, move=(x, y)))


def _middle(shape: shapely.Polygon) -> tuple[tuple[float, float], float]:
    """Where a piece's name stands, and how much room there is about it: its middle, or where it is widest."""
    circle = shapely.maximum_inscribed_circle(shape, 2.0)
    widest, radius = shapely.get_coordinates(circle)[0], float(shapely.length(circle))
    middle = shape.centroid
    if shape.contains(middle) and middle.distance(shape.exterior) > MIDDLE * radius:
        return (float(middle.x), float(middle.y)), radius
    return (float(widest[0]), float(widest[1])), radius
