"""The board: a sheet of pattern card at true proportion, with the object and its leather on it."""

from __future__ import annotations

import numpy as np
import shapely
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QShowEvent,
    QTransform,
    QWheelEvent,
)  # fmt: skip
from PyQt6.QtWidgets import QWidget

from tailor.core.carried.calipers import Place
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.views.seen import Eye
from tailor.core.job import Job
from tailor.core.measure import Measure
from tailor.core.units import format_length
from tailor.desk import theme
from tailor.desk.card import (
    Drawn,
    draw_across,
    draw_eases,
    draw_jaws,
    draw_list,
    draw_rule,
    draw_strings,
    draw_zones,
    letters,
)
from tailor.desk.grip import HANDLE, Grip
from tailor.desk.joining import Joining
from tailor.desk.looks import Looks
from tailor.desk.scene import Scene
from tailor.desk.seating import Box
from tailor.desk.stages import STAGES
from tailor.desk.stages.stage import Stage
from tailor.desk.tag import Tag
from tailor.desk.tagged import Tags
from tailor.desk.tool_hand import ToolHand
from tailor.desk.tooling import ToolStrip
from tailor.desk.workbench import Workbench
from tailor.desk.zoning import Zoning

LEFT, RIGHT = 26, HANDLE  # px kept clear beside the list of measures, and on the right for the bar's handle
TOP, FOOT = 26, 40  # px kept clear above and below
AT_ONCE = 0.04  # s of writing on pieces, before the hand is looked to again
WRAP = Qt.TextFlag.TextWordWrap
CLOSEST, FURTHEST = 40.0, 0.3  # px per mm


class Board(QWidget):
    """What lies on the board at a stage, and the measures on it.

    bar_moved: the slice bar now stands at y mm. refused: what was typed or dragged cannot be, and why. told: what to do
    next. shape_changed: laid flat, or made up. noting: a correction is to be noted for a height, mm, near a place, px.
    """

    bar_moved = pyqtSignal(float)
    refused = pyqtSignal(str)
    shape_changed = pyqtSignal(bool)
    noting = pyqtSignal(float, QPoint)
    told = pyqtSignal(str)

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("board")
        self.setAccessibleName("Board")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumSize(380, 320)
        self.bench = bench
        self.stage = STAGES["Draft"]
        self.laid_flat = True
        self._drawn = Drawn()
        self.looks = Looks()
        bench.look = lambda: self.looks.look(self.laid_flat)
        self.bar = 0.0
        self.scene: Scene | None = None
        self._zoom = 1.0
        self._pan = QPointF(0, 0)
        self.hand = QPointF()  # where the mouse is
        self.tagged = Tags(bench, self)
        self.tagged.refused.connect(self.refused)
        self.tagged.wanted_all.connect(self.more)
        self._placing = QTimer(self, interval=0, singleShot=True, timeout=self._place_tags)
        self.zoning = Zoning(self)
        self.joining = Joining(self)
        self.tools = ToolHand(self, ToolStrip(bench))
        self.tools.strip.place = lambda: self.tools.piece_under(self.hand)
        self.tools.strip.chosen.connect(self.refresh)
        self.grip = Grip(self)
        self.jaws: Place | None = None
        bench.staled.connect(self.tagged.grow_stale)
        self.anew = False  # the next draft is of another object
        bench.drafted.connect(self._drafted)
        self._centre_bar()
        self.show_stage(self.stage)

    @property
    def tags(self) -> dict[str, Tag]:
        """The tags on the board by what they measure."""
        return self.tagged.by_key

    # What is shown

    def _centre_bar(self) -> None:
        if self.bench.made is not None:
            self.bar = round(0.5 * (self.bench.made.low + self.bench.made.top), 1)

    def show_stage(self, stage: Stage) -> None:
        """Show a stage of the work, with its measures."""
        self.stage = stage
        self.laid_flat = stage.flat
        self.tagged.all_shown = False
        self.looks.eye = None
        self.shape_changed.emit(self.laid_flat)
        self.fit()

    def lay(self, flat_: bool, eye: Eye | None = None) -> None:
        """Show the pieces laid flat, or the case made up; as a lit relief, with an eye to look with."""
        self.laid_flat, self.looks.eye = flat_, eye
        self.shape_changed.emit(flat_)
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

    def show_jaws(self, place: Place | None) -> None:
        """Show where a caliper's jaws go next, with the bar put there."""
        self.jaws = place
        if place is not None:
            self.move_bar(place.y)
        self.update()

    def _drafted(self) -> None:
        """Draw what was just drafted; all of it where it is another object."""
        if self.anew:
            self.anew = False
            self._centre_bar()
            self._zoom, self._pan = 1.0, QPointF(0, 0)
        self.refresh()

    def refresh(self) -> None:
        """Draw the present draft."""
        made = self.bench.made
        if made is None:
            self.scene = None
            self.update()
            return
        job = self.bench.made_for
        hidden = self.looks.eye in (Eye.BEHIND, Eye.EDGE)  # there no measure can be pointed at
        wanted = () if hidden else self._wanted(job, made)
        found = self.bench.outcome.looked if self.bench.outcome.made is made else None
        before = self.scene
        self.tagged.show(wanted, job)  # first: how wide their list is leaves the drawing its room
        self.scene = self.looks.scene(job, made, self.laid_flat, self.stage, found, self._aspect)
        self.scene.borrow(before, self.bench.outcome.rough)
        if self.bench.outcome.made is made and not self.looks.looked_at(made, self.laid_flat, found):
            self.bench.look_again()
        self._place_tags()
        self.tagged.ask_again()
        self.update()

    def _wanted(self, job: Job, made: Draft) -> tuple[Measure, ...]:
        """The measures of the stage; before them those of what is in hand."""
        in_hand = self.tools.strip.measures(job, made) if self.stage.tooled else ()
        return (*in_hand, *self.stage.measures(job, made))

    # Where things are

    @property
    def _aspect(self) -> float:
        """Of the width of the room there is for the drawing to its height."""
        wide, high = self.width() - self.tagged.width - LEFT - RIGHT, self.height() - TOP - FOOT
        return max(wide, 60) / max(high, 60)

    @property
    def view(self) -> QTransform:
        """From mm to the screen."""
        left, bottom, right, top = self.scene.bounds if self.scene else (0.0, 0.0, 100.0, 100.0)
        begin = self.tagged.width + LEFT
        room = QRectF(begin, TOP, max(self.width() - begin - RIGHT, 60), max(self.height() - TOP - FOOT, 60))
        scale = min(room.width() / (right - left), room.height() / (top - bottom)) * self._zoom
        scale = float(np.clip(scale, FURTHEST, CLOSEST))
        middle = room.center() + self._pan
        made = QTransform.fromTranslate(middle.x(), middle.y())
        made.scale(scale, -scale)
        made.translate(-(left + right) / 2, -(bottom + top) / 2)
        return made

    @property
    def _linear(self) -> tuple[Array, Array]:
        """The view as a matrix (2, 2) and a shift (2,), for points (n, 2)."""
        view = self.view
        return np.array([[view.m11(), 0.0], [0.0, view.m22()]]), np.array([view.dx(), view.dy()])

    def to_screen(self, x: float, y: float) -> QPointF:
        return self.view.map(QPointF(x, y))

    def to_mm(self, at: QPointF) -> QPointF:
        return self.view.inverted()[0].map(at)

    def _place_tags(self) -> None:
        self._placing.stop()
        if self.scene is None or not self.isVisible():  # what cannot be seen is placed when it is shown
            return
        scene, view = self.scene, self.view
        if not scene.letter_on(*letters(view), seconds=AT_ONCE):
            self._placing.start()  # tags stand clear of words: they wait for them
            return
        spots = {}
        for key in self.tags:
            if key in scene.places:
                at = view.map(QPointF(*scene.places[key]))
                spots[key] = (at.x(), at.y())
        room = (self.tagged.width + 6.0, 8.0, self.width() - 8.0, self.height() - FOOT + 14.0)
        m, shift = self._linear
        holes = np.array([hole[:2] for hole in scene.holes]).reshape(-1, 2) @ m + shift
        pieces = [shapely.Polygon(points @ m + shift) for points in (p.cut for p in scene.pieces)]
        self.tagged.place(spots, room, self._taken(), holes, pieces)
        self.update()

    def _taken(self) -> list[Box]:
        """Where no tag may stand: on the bar's handle and the mouth's grip, and on what is written."""
        taken = [(self.width() - RIGHT - 48.0, self.to_screen(0, self.bar).y() - 9, self.width() - RIGHT + 16.0,
                  self.to_screen(0, self.bar).y() + 9)]  # fmt: skip
        if self.bench.made is not None and self.bench.made.mouth is not None:
            mouth = self.to_screen(0, self.bench.made.mouth).y()
            left = self.tagged.width + 4.0
            taken.append((left, mouth - 8, left + 60, mouth + 8))
        if self.scene is not None:
            size, wide, _ = letters(self.view)
            m, shift = self._linear
            for written in self.scene.written(size):
                for word in written.words:
                    box = word.corners(wide) @ m + shift
                    (left, top), (right, foot) = box.min(axis=0).tolist(), box.max(axis=0).tolist()
                    taken.append((left, top, right, foot))
        return taken

    def more(self) -> None:
        """Show the measures that few would set too, or no longer."""
        self.tagged.turn()
        self.refresh()

    # Drawing

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        card = QRectF(self.rect()).adjusted(4, 4, -4, -4)
        painter.setPen(QPen(QColor(theme.EDGE), 1))
        painter.setBrush(QColor(theme.CARD))
        painter.drawRect(card)
        if self.scene is None:
            painter.setFont(theme.heading(13))
            painter.drawText(card.adjusted(60, 0, -60, 0), Qt.AlignmentFlag.AlignCenter | WRAP, self.stage.empty)
            return
        painter.setClipRect(card)
        view, bare = self.view, self.stage.bare and not self.laid_flat
        made, scene, stage, units = self.bench.made, self.scene, self.stage, self.bench.job.units

        def paint(on: QPainter) -> None:
            draw_rule(on, card, view, units)
            self.looks.draw(on, view, scene, stage, bare)

        written = scene.is_written(letters(view)[0])
        self._drawn.draw(painter, self, (scene, view, stage, bare, units, written), paint)
        if bare and made is not None and self.looks.eye is None:
            draw_zones(painter, view, scene, made.mirrored)
            if self.jaws is not None:
                draw_jaws(painter, view, self.jaws, self.bench.job.loft, made.mirrored)
        mouth = None if made is None or made.mouth is None else self.to_screen(0, made.mouth).y()
        ends = (self.tagged.width + 26, self.width() - RIGHT + 8)
        if mouth is not None or not self.laid_flat:
            draw_across(painter, ends, self.to_screen(0, self.bar).y(), format_length(self.bar, units), mouth)
        self.tools.draw(painter, view)
        draw_eases(painter, view, self.bench.job.settings.corrections, self.width() - RIGHT, units)
        draw_list(painter, self.tagged.headed, self.tagged.width, self.height())
        draw_strings(painter, self.tagged.seats)

    # Hands

    def move_bar(self, y: float) -> None:
        """Put the slice bar at a height, mm, within the case and its object."""
        if self.bench.made is None:
            return
        self.bar = float(np.clip(y, *self.bench.made.span))
        self.update()
        self.bar_moved.emit(self.bar)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.setFocus()
        self.grip.press(event.position())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.hand = event.position()
        self.grip.move(self.hand)

    def push(self, by: QPointF) -> None:
        """Push the card about, px."""
        self._pan += by
        self._place_tags()
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if not self.stage.bare and self.scene is not None:
            self.noting.emit(float(self.to_mm(event.position()).y()), event.position().toPoint())

    def note_here(self) -> None:
        """Begin a note at the slice bar."""
        self.noting.emit(self.bar, self.to_screen(0, self.bar).toPoint())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self.grip.let_go(None if event is None else event.position())
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
        if self.tools.key(event):
            return
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.move_bar(self.bar + (step if key == Qt.Key.Key_Up else -step))
        elif key == Qt.Key.Key_M:
            self.more()
        elif key == Qt.Key.Key_E and self.laid_flat:
            self.joining.join_edge()
        elif key == Qt.Key.Key_P and self.laid_flat:
            self.joining.sew_on()
        elif key == Qt.Key.Key_N and not self.stage.bare:
            self.note_here()
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            self.zoom(1 / 1.2 if key == Qt.Key.Key_Minus else 1.2)
        else:
            super().keyPressEvent(event)

    def showEvent(self, event: QShowEvent | None) -> None:
        self._place_tags()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._placing.start()  # once, however many sizes it goes through
