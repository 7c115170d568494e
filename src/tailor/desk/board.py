"""The board: a sheet of pattern card at true proportion, with the object and its leather on it."""

from __future__ import annotations

import itertools

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
from PyQt6.QtWidgets import QWidget

from tailor.core.carried.calipers import Place
from tailor.core.draft.draft import Draft
from tailor.core.draft.seen import Eye
from tailor.core.settings import Kind
from tailor.core.units import format_length
from tailor.desk import theme
from tailor.desk.card import Drawn, draw_across, draw_eases, draw_jaws, draw_rule, draw_strings, draw_zones
from tailor.desk.columns import stand
from tailor.desk.looks import Looks
from tailor.desk.measures import AT_STAGE, LABELS, known, nudged, reading, told, why
from tailor.desk.measures import typed as as_typed
from tailor.desk.scene import Scene
from tailor.desk.slip import Slip
from tailor.desk.tag import Tag
from tailor.desk.workbench import Workbench
from tailor.desk.zoning import NEAR, Zoning

EMPTY = "Nothing on the board yet.\nDrop a station table here, or open a job."
SIDE = 148  # px kept clear on each side for tags
TOP, FOOT = 22, 40  # px kept clear above and below
CLOSEST, FURTHEST = 40.0, 0.3  # px per mm


class Board(QWidget):
    """What lies on the board at a stage, and the measures on it.

    bar_moved: the slice bar now stands at y mm. refused: what was typed or dragged cannot be, and why.
    shape_changed: laid flat, or made up. noting: a correction is to be noted for a height, mm, near a place, px.
    """

    bar_moved = pyqtSignal(float)
    refused = pyqtSignal(str)
    shape_changed = pyqtSignal(bool)
    noting = pyqtSignal(float, QPoint)

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
        self._drawn = Drawn()
        self.looks = Looks()
        bench.look = lambda: self.looks.look(self.laid_flat)
        self.bar = 0.0
        self.scene: Scene | None = None
        self.tags: dict[str, Tag] = {}
        self._zoom = 1.0
        self._pan = QPointF(0, 0)
        self._held: str | None = None  # what the hand holds
        self._asked: str | None = None
        self._hold_from = QPointF()
        self._slip = Slip(self)
        self.zoning = Zoning(self)
        self.jaws: Place | None = None
        bench.staled.connect(self._stale)
        bench.drafted.connect(self.refresh)
        self.centre_bar()
        self.show_stage("Draft")

    # What is shown

    def centre_bar(self) -> None:
        if self.bench.made is not None:
            self.bar = round(0.5 * (self.bench.made.shell.loft.tip + self.bench.made.value("mouth.y")), 1)

    def show_stage(self, stage: str) -> None:
        """Show a stage of the work, with its measures."""
        self.stage = stage
        self.laid_flat = stage in ("Draft", "Stitch")
        self.looks.eye = None
        self.shape_changed.emit(self.laid_flat)
        self._make_tags()
        self.fit()

    def lay(self, flat_: bool, eye: Eye | None = None) -> None:
        """Show the pieces laid flat, or the case made up; as a lit relief, with an eye to look with."""
        self.laid_flat, self.looks.eye = flat_, eye
        self.shape_changed.emit(flat_)
        self._make_tags()
        self.fit()

    def hold(self, made: Draft | None) -> None:
        """Show another draft's outlines too, to compare with; or none."""
        self.looks.held = made
        self.refresh()

    def show_strain(self, shown: bool) -> None:
        """Tint the leather by how it is strained, or no longer."""
        self.looks.strain_shown = shown
        self.refresh()

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
        """Whether a measure can be shown: it exists in this draft, and is looked at from where it can be seen."""
        hidden = self.bench.made is None or self.looks.eye in (Eye.BEHIND, Eye.EDGE)
        return not hidden and known(self.bench.job, self.bench.made, key)

    def _stale(self) -> None:
        for tag in self.tags.values():
            tag.show_reading(tag.reading, False)

    def show_jaws(self, place: Place | None) -> None:
        """Show where a caliper's jaws go next, with the bar put there."""
        self.jaws = place
        if place is not None:
            self.move_bar(place.y)
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
        self.scene = self.looks.scene(job, made, self.laid_flat, self.stage == "Object", self.bench.outcome.looked)
        fresh = self.bench.fresh and self.bench.error is None
        for key, tag in self.tags.items():
            if not tag.typing:
                tag.show_reading(
                    reading(self.bench.job if fresh else job, made, key),
                    fresh or self.bench.error is not None,
                )
                if self.bench.error is not None and key in self.bench.error.where:
                    tag.say_wrong(told(str(self.bench.error), self.bench.job.units))
                else:
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
        if self.scene is None:
            return
        places = self.scene.places
        spots = {k: self.to_screen(*places[k]) for k in self.tags if k in places}
        tied = [(t, (spots[k].x(), spots[k].y()) if k in spots else None) for k, t in self.tags.items()]
        stand(tied, self.width(), TOP, self.height() - FOOT, one_sided=self._right != SIDE)
        for before, after in itertools.pairwise(self._in_order()):
            QWidget.setTabOrder(before, after)

    def _in_order(self) -> list[Tag]:
        """The tags as Tab goes through them: down the left column, then down the right."""
        return sorted(self.tags.values(), key=lambda t: (t.x() > self.width() / 2, t.y()))

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
            painter.drawText(card, Qt.AlignmentFlag.AlignCenter, EMPTY)
            return
        painter.setClipRect(card)
        view, bare = self.view, self.stage == "Object" and not self.laid_flat
        made, scene, stage, units = self.bench.made, self.scene, self.stage, self.bench.job.units

        def paint(on: QPainter) -> None:
            draw_rule(on, card, view, units)
            self.looks.draw(on, view, scene, stage, bare)

        self._drawn.draw(painter, self, (scene, view, stage, bare, units), paint)
        if bare and made is not None and self.looks.eye is None:
            draw_zones(painter, view, scene, made.mirrored)
            if self.jaws is not None:
                draw_jaws(painter, view, self.jaws, self.bench.job.loft, made.mirrored)
        mouth = self.to_screen(0, made.value("mouth.y")).y() if made is not None else None
        ends = (SIDE - 8, self.width() - self._right + 8)
        draw_across(painter, ends, self.to_screen(0, self.bar).y(), format_length(self.bar, units), mouth)
        draw_eases(painter, view, self.bench.job.settings.corrections, self.width() - self._right, units)
        draw_strings(painter, view, scene, self.tags)

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
            order = [t for t in self._in_order() if t.reading.setting is not None]
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
        self._slip.tell(said + keys, self.tags[key].geometry(), self.rect(), 2 * SIDE)

    # Hands

    def move_bar(self, y: float) -> None:
        """Put the slice bar at a height, mm, within the case and its object."""
        if self.bench.made is None:
            return
        loft = self.bench.made.shell.loft
        self.bar = float(np.clip(y, loft.tip - self.bench.made.value("seam.toe"), loft.top))
        self.update()
        self.bar_moved.emit(self.bar)

    def _under(self, at: QPointF) -> str | None:
        if self.bench.made is None or self.scene is None:
            return None
        if (zone := self.zoning.under(at)) is not None:
            return zone
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
        elif self._held == "gutter" or self._held.startswith("zone"):
            self._held = self.zoning.drag(self._held, self.to_mm(self._hold_from).y(), y)
        else:
            self._pan += at - self._hold_from
            self._hold_from = at
            self._place_tags()
            self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.stage != "Object" and self.scene is not None:
            self.noting.emit(float(self.to_mm(event.position()).y()), event.position().toPoint())

    def note_here(self) -> None:
        """Begin a note at the slice bar."""
        self.noting.emit(self.bar, self.to_screen(0, self.bar).toPoint())

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
        elif key == Qt.Key.Key_N and self.stage != "Object":
            self.note_here()
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            self.zoom(1 / 1.2 if key == Qt.Key.Key_Minus else 1.2)
        else:
            super().keyPressEvent(event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._place_tags()
