"""The board: a sheet of pattern card at true proportion, with the object and its leather on it."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QTransform,
    QWheelEvent,
)  # fmt: skip
from PyQt6.QtWidgets import QLabel, QWidget

from tailor.core.settings import Kind
from tailor.core.units import System, format_length
from tailor.desk import theme
from tailor.desk.drawing import path, pen
from tailor.desk.measures import AT_STAGE, LABELS, nudged, reading, told, why
from tailor.desk.measures import typed as as_typed
from tailor.desk.scene import Scene, flat, made_up
from tailor.desk.tag import HEIGHT, Tag
from tailor.desk.workbench import Workbench
from tailor.files.dyes import GALL, INK, LOGWOOD, WALNUT
from tailor.files.linework import LINES

SIDE = 148  # px kept clear on each side for tags
TOP, FOOT = 22, 40  # px kept clear above and below
NEAR = 7  # px within which a line can be taken hold of
CLOSEST, FURTHEST = 40.0, 0.3  # px per mm


class Board(QWidget):
    """What lies on the board at a stage, and the measures on it.

    bar_moved: the slice bar now stands at y mm. said: something to tell the maker. refused: what was typed
    for a key cannot be. shape_changed: folded or flat.
    """

    bar_moved = pyqtSignal(float)
    refused = pyqtSignal(str)
    shape_changed = pyqtSignal(bool)

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("board")
        self.setAccessibleName("Board")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumSize(380, 320)
        self.bench = bench
        self.stage = "Draft"
        self.laid_flat = True
        self.bar = 0.0
        self.scene: Scene | None = None
        self.tags: dict[str, Tag] = {}
        self._zoom = 1.0
        self._pan = QPointF(0, 0)
        self._held: str | None = None
        self._asked: str | None = None
        self._hold_from = QPointF()
        self._slip = QLabel(self)
        self._slip.setObjectName("slip")
        self._slip.setWordWrap(True)
        self._slip.setStyleSheet(
            f"QLabel#slip {{ background: {theme.PAPER}; border: 1px solid {WALNUT}; border-radius: 5px; "
            "padding: 6px 9px; }"
        )
        self._slip.hide()
        bench.changed.connect(self._stale)
        bench.drafted.connect(self.refresh)
        self.centre_bar()
        self.show_stage("Draft")

    # What is shown

    def centre_bar(self) -> None:
        if self.bench.made is not None:
            self.bar = round(0.5 * (self.bench.made.panel.loft.tip + self.bench.made.value("mouth.y")), 1)

    def show_stage(self, stage: str) -> None:
        """Show a stage of the work, with its measures."""
        self.stage = stage
        self.laid_flat = stage in ("Draft", "Stitch")
        self.shape_changed.emit(self.laid_flat)
        self._make_tags()
        self.fit()

    def lay(self, flat_: bool) -> None:
        """Show the pieces laid flat, or the case made up."""
        self.laid_flat = flat_
        self.shape_changed.emit(flat_)
        self._make_tags()
        self.fit()

    def fit(self) -> None:
        """Everything in view."""
        self._zoom, self._pan = 1.0, QPointF(0, 0)
        self.refresh()

    def _make_tags(self) -> None:
        for tag in self.tags.values():
            tag.hide()
            tag.deleteLater()
        self.tags = {}
        if self.bench.made is None:
            return
        for key in AT_STAGE[self.stage]:
            tag = Tag(reading(self.bench.job, self.bench.made, key), self) if self._known(key) else None
            if tag is not None:
                tag.typed.connect(self._typed)
                tag.nudge.connect(self._nudged)
                tag.pin.connect(self._pinned)
                tag.ask.connect(self._ask)
                self.tags[key] = tag

    def _known(self, key: str) -> bool:
        """Whether a measure exists in this draft: without a loop there is none to measure, but for its landing."""
        made = self.bench.made
        return made is not None and (
            made.loop is not None or not key.startswith(("loop.", "belt.")) or key == "loop.landing"
        )

    def _stale(self) -> None:
        for tag in self.tags.values():
            tag.show_reading(tag.reading, False)
        self.update()

    def refresh(self) -> None:
        """Draw the present draft."""
        made = self.bench.made
        if made is None:
            self.scene = None
            self.update()
            return
        wanted = [k for k in AT_STAGE[self.stage] if self._known(k)]
        if list(self.tags) != wanted:
            self._make_tags()
        job = self.bench.outcome.job if self.bench.outcome.made is made else self.bench.job
        self.scene = flat(made) if self.laid_flat else made_up(job, made, bare=self.stage == "Object")
        fresh = self.bench.fresh and self.bench.error is None
        for key, tag in self.tags.items():
            if not tag.typing:
                tag.show_reading(
                    reading(self.bench.job if fresh else job, made, key),
                    fresh or self.bench.error is not None,
                )
                if fresh:
                    tag.clear_wrong()
        self._place_tags()
        if self._asked in self.tags:
            self._ask(self._asked, True)
        self.update()

    # Where things are

    @property
    def view(self) -> QTransform:
        """From mm to the screen."""
        left, bottom, right, top = self.scene.bounds if self.scene else (0.0, 0.0, 100.0, 100.0)
        room = QRectF(SIDE, TOP, max(self.width() - SIDE - self._right, 60), max(self.height() - TOP - FOOT, 60))
        scale = min(room.width() / (right - left), room.height() / (top - bottom)) * self._zoom
        scale = float(np.clip(scale, FURTHEST, CLOSEST))
        middle = room.center() + self._pan
        made = QTransform.fromTranslate(middle.x(), middle.y())
        made.scale(scale, -scale)
        made.translate(-(left + right) / 2, -(bottom + top) / 2)
        return made

    @property
    def _right(self) -> int:
        """px kept clear on the right: for tags, or where all tags stand on the left, for the bar's handle."""
        return 66 if self.stage == "Object" else SIDE

    def to_screen(self, x: float, y: float) -> QPointF:
        return self.view.map(QPointF(x, y))

    def to_mm(self, at: QPointF) -> QPointF:
        return self.view.inverted()[0].map(at)

    def _place_tags(self) -> None:
        """Tags stand in two columns, each level with what it measures as far as its neighbours let it."""
        if self.scene is None:
            return
        middle = self.width() / 2
        columns: dict[bool, list[tuple[float, Tag]]] = {False: [], True: []}
        placed = [(self.to_screen(*self.scene.places[k]), t) for k, t in self.tags.items() if k in self.scene.places]
        for tag in self.tags.values():
            tag.show()
        for at, tag in placed:
            columns[at.x() > middle and self._right == SIDE].append((at.y(), tag))
        strays = [t for k, t in self.tags.items() if k not in self.scene.places]
        for tag in strays:
            columns[len(columns[True]) < len(columns[False])].append((self.height() - FOOT, tag))
        most = max(int((self.height() - TOP - FOOT) // (HEIGHT + 6)), 1)
        for side in (False, True):  # a column too long gives its lowest to the other
            while len(columns[side]) > most and len(columns[not side]) < most:
                columns[side].sort(key=lambda p: p[0])
                columns[not side].append(columns[side].pop())
        for right, column in columns.items():
            column.sort(key=lambda p: p[0])
            step = HEIGHT + 6
            if column and len(column) * step > self.height() - TOP - FOOT:
                step = max((self.height() - TOP - FOOT) / len(column), HEIGHT - 4)
            y = float(TOP)
            tops: list[float] = []
            for at_y, _ in column:
                y = max(y, at_y - HEIGHT / 2)
                tops.append(y)
                y += step
            limit = self.height() - FOOT - HEIGHT
            for k in range(len(tops) - 1, -1, -1):
                tops[k] = min(tops[k], limit)
                limit = tops[k] - step
            for (_, tag), top in zip(column, tops, strict=True):
                tag.move(self.width() - tag.width() - 10 if right else 10, round(max(top, 4)))
        self._order_tabs()

    def _order_tabs(self) -> None:
        order = sorted(self.tags.values(), key=lambda t: (t.x() > self.width() / 2, t.y()))
        for before, after in itertools.pairwise(order):
            QWidget.setTabOrder(before, after)

    # Drawing

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        card = QRectF(self.rect()).adjusted(4, 4, -4, -4)
        painter.setPen(QPen(QColor(theme.EDGE), 1))
        painter.setBrush(QColor(theme.CARD))
        painter.drawRect(card)
        if self.scene is None:
            painter.setFont(theme.heading(15))
            painter.drawText(
                card,
                Qt.AlignmentFlag.AlignCenter,
                "Nothing on the board yet.\nDrop a station table here, or open a job.",
            )
            return
        painter.setClipRect(card)
        self._draw_rule(painter, card)
        view = self.view
        self._draw_scene(painter, view, self.scene)
        self._draw_zones(painter, view, self.scene)
        self._draw_lines_across(painter)
        self._draw_strings(painter)

    def _draw_rule(self, painter: QPainter, card: QRectF) -> None:
        """A rule along the foot of the card, in the maker's unit."""
        view = self.view
        scale = view.m11()
        inch = self.bench.job.units is not System.MM
        unit = 25.4 if inch else 10.0
        painter.setPen(QPen(QColor(theme.EDGE), 1))
        painter.setFont(theme.text(8.5))
        start = self.to_mm(QPointF(card.left(), 0)).x()
        first = int(np.floor(start / unit))
        every = max(1, round(45 / (unit * scale)))
        foot = card.bottom()
        for k in range(first, first + int(card.width() / (unit * scale)) + 2):
            x = self.to_screen(k * unit, 0).x()
            painter.setPen(QPen(QColor(theme.EDGE), 1))
            painter.drawLine(QPointF(x, foot), QPointF(x, foot - (9 if k % every == 0 else 5)))
            if k % every == 0:
                painter.setPen(QColor(GALL))
                painter.drawText(QPointF(x + 3, foot - 3), f"{k}" if inch else f"{k * 10}")

    def _draw_scene(self, painter: QPainter, view: QTransform, scene: Scene) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        for points, colour, alpha in scene.fills:
            painter.fillPath(path(points, view, True), theme.colour(colour, alpha))
        bare = self.stage == "Object" and not self.laid_flat
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(INK if bare else GALL), 1.8 if bare else 1.2))
        for points in scene.outlines:
            painter.drawPath(path(points, view, True))
        painter.setPen(QPen(QColor(GALL), 1, Qt.PenStyle.DashLine))
        for points in scene.behind:
            painter.drawPath(path(points, view, True))
        strong = {"Stitch": ("stitch",), "Leather": ("welt", "fold")}.get(self.stage, ("cut",))
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
        self._draw_words(painter, view, scene)

    def _draw_words(self, painter: QPainter, view: QTransform, scene: Scene) -> None:
        painter.setPen(QColor(INK))
        for x, y, said, angle in scene.words:
            painter.save()
            painter.translate(view.map(QPointF(x, y)))
            painter.rotate(-angle)
            size = float(np.clip(3.0 * view.m11(), 6.5, 13))
            painter.setFont(theme.heading(size * 0.9) if "·" in said else theme.text(size))
            painter.drawText(QRectF(-150, -12, 300, 24), Qt.AlignmentFlag.AlignCenter, said)
            painter.restore()

    def _draw_zones(self, painter: QPainter, view: QTransform, scene: Scene) -> None:
        if self.laid_flat or self.stage != "Object":
            return
        style = {"edge": Qt.PenStyle.DashLine, "point": Qt.PenStyle.DotLine, "grip": Qt.PenStyle.SolidLine,
                 "stop": Qt.PenStyle.DashDotLine}  # fmt: skip
        painter.setFont(theme.text(9.5, bold=True))
        bars = [view.map(QPointF(z[2], 0)).x() for z in scene.zones]
        left_hand = self.bench.made is not None and self.bench.made.mirrored
        for _, kind, x, low, high in scene.zones:
            a, b = view.map(QPointF(x, low)), view.map(QPointF(x, high))
            painter.setPen(QPen(QColor(LOGWOOD), 4, style[kind], Qt.PenCapStyle.FlatCap))
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

    def _draw_lines_across(self, painter: QPainter) -> None:
        y = self.to_screen(0, self.bar).y()
        painter.setPen(QPen(QColor(WALNUT), 1.6))
        painter.drawLine(QPointF(SIDE - 8, y), QPointF(self.width() - self._right + 8, y))
        painter.setBrush(QColor(WALNUT))
        handle = QRectF(self.width() - self._right - 48, y - 9, 64, 18)
        painter.drawRoundedRect(handle, 4, 4)
        painter.setPen(QColor(theme.PAPER))
        painter.setFont(theme.text(9.5, bold=True))
        painter.drawText(handle, Qt.AlignmentFlag.AlignCenter, format_length(self.bar, self.bench.job.units))
        if self.bench.made is not None:
            y = self.to_screen(0, self.bench.made.value("mouth.y")).y()
            painter.setPen(QPen(QColor(INK), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(SIDE - 8, y), QPointF(self.width() - self._right + 8, y))
            painter.setPen(QPen(QColor(INK), 1.4))
            painter.setBrush(QColor(theme.PAPER))
            grip = QRectF(SIDE - 22, y - 8, 48, 16)
            painter.drawRoundedRect(grip, 4, 4)
            painter.setFont(theme.text(9))
            painter.drawText(grip, Qt.AlignmentFlag.AlignCenter, "mouth")

    def _draw_strings(self, painter: QPainter) -> None:
        assert self.scene is not None
        for key, tag in self.tags.items():
            if key in self.scene.places and tag.isVisible():
                at = self.to_screen(*self.scene.places[key]).toPoint()
                painter.setPen(QPen(QColor(GALL), 1))
                painter.drawLine(tag.tied_at(at), at)
                painter.setBrush(QColor(GALL))
                painter.drawEllipse(QPointF(at), 2.2, 2.2)

    # Measures

    def _typed(self, key: str, text: str, on: int) -> None:
        tag = self.tags[key]
        if text:
            try:
                self.bench.type(key, as_typed(tag.reading, self.bench.job, text), f"{LABELS[key]} {text}")
            except ValueError as error:
                tag.refused(told(str(error), self.bench.job.units))
                self.refused.emit(told(str(error), self.bench.job.units))
                return
        tag.taken()
        if on:
            order = sorted(self.tags.values(), key=lambda t: (t.x() > self.width() / 2, t.y()))
            order = [t for t in order if t.reading.setting is not None]
            following = order[(order.index(tag) + on) % len(order)]
            following.setFocus()
            if following.reading.setting is not None and following.reading.setting.kind is not Kind.CHOICE:
                following.begin()

    def _nudged(self, key: str, steps: int) -> None:
        text = nudged(reading(self.bench.job, self.bench.made, key), self.bench.job, steps) if self.bench.made else None
        if text is not None:
            self._take(key, text, f"nudge {LABELS[key]}", joins=f"nudge {key}")

    def _pinned(self, key: str) -> None:
        """Pin a measure where it is, or let a pinned one go back to its computed value."""
        if self.bench.made is None:
            return
        now = reading(self.bench.job, self.bench.made, key)
        if now.pinned:
            self._take(key, "auto", f"let go of {LABELS[key]}")
        else:
            text = now.value if isinstance(now.value, str) else nudged(now, self.bench.job, 0)
            self._take(key, str(text), f"pin {LABELS[key]}")

    def _take(self, key: str, text: str, name: str, joins: str = "") -> None:
        try:
            self.bench.type(key, text, name, joins)
        except ValueError as error:
            self.refused.emit(told(str(error), self.bench.job.units))

    def _ask(self, key: str, wanted: bool) -> None:
        if not wanted or self.bench.made is None:
            self._asked = None
            self._slip.hide()
            return
        self._asked = key
        said = why(reading(self.bench.job, self.bench.made, key), self.bench.job.units)
        keys = "" if self.tags[key].reading.setting is None else "\nEnter types · P pins or lets go · arrows nudge"
        self._slip.setText(said + keys)
        self._slip.setFixedWidth(min(340, self.width() - 2 * SIDE))
        self._slip.adjustSize()
        tag = self.tags[key].geometry()
        left = tag.right() + 8 if tag.center().x() < self.width() / 2 else tag.left() - self._slip.width() - 8
        top = min(max(tag.top(), 8), self.height() - self._slip.height() - 8)
        self._slip.move(QPoint(left, max(top, 4)))
        self._slip.raise_()
        self._slip.show()

    # Hands

    def move_bar(self, y: float) -> None:
        """Put the slice bar at a height, mm, within the case and its object."""
        if self.bench.made is None:
            return
        loft = self.bench.made.panel.loft
        self.bar = float(np.clip(y, loft.tip - self.bench.made.value("seam.toe"), loft.top))
        self.update()
        self.bar_moved.emit(self.bar)

    def _under(self, at: QPointF) -> str | None:
        if self.bench.made is None or self.scene is None:
            return None
        if not self.laid_flat and self.stage == "Object":
            for i, _, x, low, high in self.scene.zones:
                for end, y in (("low", low), ("high", high)):
                    spot = self.to_screen(x, y)
                    if abs(spot.x() - at.x()) < 10 and abs(spot.y() - at.y()) < NEAR:
                        return f"zone {i} {end}"
        mouth = self.to_screen(0, self.bench.made.value("mouth.y")).y()
        bar = self.to_screen(0, self.bar).y()
        if at.x() > self.width() - self._right - 52 and abs(bar - at.y()) < 11:
            return "bar"
        if abs(mouth - at.y()) < NEAR:
            return "mouth"
        return "bar" if abs(bar - at.y()) < NEAR else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.setFocus()
        self._hold_from = event.position()
        self._held = self._under(event.position()) or "card"

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if self._held is None:
            shapes = {None: Qt.CursorShape.ArrowCursor}
            self.setCursor(shapes.get(self._under(at), Qt.CursorShape.SizeVerCursor))
            return
        y = self.to_mm(at).y()
        if self._held == "bar":
            self.move_bar(y)
        elif self._held == "mouth":
            self._take("mouth.y", f"{y:.1f}mm", "drag the mouth", joins="drag mouth")
        elif self._held.startswith("zone"):
            self._drag_zone(y)
        else:
            self._pan += at - self._hold_from
            self._hold_from = at
            self._place_tags()
            self.update()

    def _drag_zone(self, y: float) -> None:
        assert self._held is not None
        _, number, end = self._held.split()
        zones = list(self.bench.job.zones)
        try:
            zones[int(number)] = replace(zones[int(number)], **{end: round(y, 1)})
        except ValueError as error:
            self.refused.emit(str(error))
            return
        self.bench.change(
            f"move {zones[int(number)].kind}", replace(self.bench.job, zones=tuple(zones)), joins=self._held
        )

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._held = None
        self.bench.settle()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self.zoom(1.0015 ** event.angleDelta().y(), event.position())

    def zoom(self, by: float, about: QPointF | None = None) -> None:
        """Zoom about a point of the screen, which stays where it is."""
        about = about or QRectF(self.rect()).center()
        kept = self.to_mm(about)
        self._zoom = float(np.clip(self._zoom * by, 0.4, 14))
        self._pan += about - self.view.map(kept)
        self._place_tags()
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        many = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        step = many * self.bench.job.units.nudge * 2
        key = event.key()
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.move_bar(self.bar + (step if key == Qt.Key.Key_Up else -step))
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            self.zoom(1 / 1.2 if key == Qt.Key.Key_Minus else 1.2)
        else:
            super().keyPressEvent(event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._place_tags()
