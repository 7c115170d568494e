"""A hide, large, to be marked up by hand: its scars, what is prime or loose of it, and how thick it is where."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import shapely
from PyQt6.QtCore import QEvent, QObject, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QTransform
from PyQt6.QtWidgets import QLineEdit, QWidget

from tailor.core.carried.loft import Array
from tailor.core.cut.laying import Hide
from tailor.core.cut.marked import Mark, Marked, gauged, marked, marks, on_leather, turned, without
from tailor.core.cut.thickness import thickness
from tailor.core.errors import InputError
from tailor.core.units import System, format_length, parse_length
from tailor.desk import theme
from tailor.desk.drawing import fitting, path
from tailor.files.dyes import GALL, INK, LICHEN, MADDER, WALNUT, WOAD

EDGE = 24.0  # px about it
STEP, FINE = 10.0, 1.0  # mm that the cross is moved by a key, and with Shift
DRAGGED = 5.0  # px from which a line is drawn freehand
CROSS = 11  # px of either arm
TOUCH = 9.0  # px about a reading that are it
WIDE = 90  # px, where a thickness is typed
TINTED = 120  # places across that are tinted by how thick they are
PALE, DEEP = 20, 150  # of 255, where it is thinnest and thickest
DYES = {Marked.SCAR: MADDER, Marked.PRIME: LICHEN, Marked.LOOSE: WALNUT, Marked.THICKNESS: WOAD}
KINDS = dict(zip((Qt.Key.Key_1, Qt.Key.Key_2, Qt.Key.Key_3, Qt.Key.Key_4), Marked, strict=True))
SAID = {
    Marked.SCAR: "scar, hole or brand: nothing is laid on it", Marked.PRIME: "prime: what asks for the best lies there",
    Marked.LOOSE: "loose, as at the belly: only what may be is laid there",
    Marked.THICKNESS: "how thick it is: press a place, or Space, and type it",
}  # fmt: skip
Hand = tuple[float, float]


class HideBoard(QWidget):
    """One hide. changed: as it was marked, and in words. refused: why it cannot be. left: back to all of them.

    A mark is drawn round with the hand held down, or corner by corner; it is of the kind in hand. How thick it is is
    typed at the place where it was read.
    """

    changed = pyqtSignal(object, str)
    refused = pyqtSignal(str)
    left = pyqtSignal()
    turned = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("hide board")
        self.setAccessibleName("A hide to be marked up: arrows move the cross, Space sets a corner, Enter closes")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(320, 220)
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.leather: Hide | None = None
        self.kind = Marked.SCAR
        self.units = System.MM
        self.writes = True
        self.chosen = -1  # the number of the mark in hand
        self.corners: list[Hand] = []
        self.cross: Hand = (0.0, 0.0)
        self.picture: tuple[QImage, QTransform, Array] | None = None  # its photo, from that's px to mm, its ring then
        self._pressed: QPointF | None = None
        self._drawn: list[Hand] = []  # freehand
        self._tint: tuple[tuple[object, ...], QImage] | None = None  # of what it was made, and how thick that is
        self.field = QLineEdit(self)
        self.field.setAccessibleName("How thick the hide is at the cross")
        self.field.setPlaceholderText("thickness")
        self.field.editingFinished.connect(self._read)
        self.field.installEventFilter(self)
        self.field.hide()

    def show_hide(self, hide: Hide, writes: bool) -> None:
        """Show a hide; another one anew."""
        if self.leather is None or self.leather.id != hide.id:
            middle = shapely.Polygon(hide.ring).representative_point()
            self.cross, self.corners, self.chosen = (middle.x, middle.y), [], -1
            self._put_away()  # what was typed of another, and could not be
        self.leather, self.writes = hide, writes
        self.chosen = min(self.chosen, len(marks(hide)) - 1)
        self.turned.emit()
        self.update()

    @property
    def view(self) -> QTransform:
        """From mm to px."""
        assert self.leather is not None
        return fitting([self.leather.ring], QRectF(self.rect()).adjusted(EDGE, EDGE, -EDGE, -EDGE))

    def _at(self, px: QPointF) -> Hand:
        back, _ = self.view.inverted()
        at = back.map(px)
        return at.x(), at.y()

    @property
    def in_hand(self) -> Mark | None:
        """The mark in hand."""
        found = marks(self.leather) if self.leather is not None else ()
        return found[self.chosen] if 0 <= self.chosen < len(found) else None

    def said(self) -> str:
        """What is in hand, in words."""
        if (mark := self.in_hand) is not None:
            area = "" if mark.thick else f", {shapely.Polygon(mark.ring).area / 100:.0f} cm²"
            told = format_length(mark.thick, self.units) if mark.thick else mark.kind
            return f"{told} in hand{area}: Delete takes it away"
        if self.kind is Marked.THICKNESS and self.leather is not None and self.leather.gauged:
            here = float(thickness(self.leather.gauged, np.array(self.cross)))
            return f"{format_length(here, self.units)} at the cross; {SAID[self.kind]}"
        begun = f"; {len(self.corners)} corner{'s' * (len(self.corners) > 1)} set" if self.corners else ""
        return f"{SAID[self.kind]}{begun}"

    # What a hand does

    def take(self, kind: Marked) -> None:
        """What is drawn next is of this kind."""
        self.kind, self.chosen = kind, -1
        self.turned.emit()
        self.update()

    def close_ring(self) -> None:
        """What was begun is done: it is a mark, if there is enough of it."""
        if self.kind is Marked.THICKNESS:
            self._ask_thickness(self.cross)
            return
        ring, self.corners = np.array(self.corners).reshape(-1, 2), []
        self._mark(ring)

    def _mark(self, ring: Array) -> None:
        hide = self.leather
        if hide is None or not self.writes:
            return
        try:
            found = marked(hide, ring, self.kind)
        except InputError as error:
            self.refused.emit(str(error))
        else:
            self.changed.emit(found, f"{self.kind} on {hide.id}")
        self.turned.emit()
        self.update()

    def _ask_thickness(self, at: Hand) -> None:
        """How thick it is at a place is typed there."""
        if self.leather is None or not self.writes:
            return
        self._read()  # what was typed elsewhere
        if not self.field.isHidden():  # and cannot be
            self.field.setFocus()
            return
        try:
            on_leather(self.leather, at)
        except InputError as error:
            self.refused.emit(str(error))
            return
        self.cross, self.chosen = at, -1
        px = self.view.map(QPointF(*at))
        high = self.field.sizeHint().height()
        self.field.setGeometry(
            round(min(max(px.x() + CROSS, 0), self.width() - WIDE)), round(min(max(px.y(), 0), self.height() - high)),
            WIDE, high,
        )  # fmt: skip
        self.field.show()
        self.field.setFocus()
        self.update()

    def _read(self) -> None:
        """What was typed is how thick it is at the cross; what cannot be is put right in its place."""
        text, hide = self.field.text().strip(), self.leather
        if self.field.isHidden() or hide is None:
            return
        if text:
            try:
                found = gauged(hide, self.cross, parse_length(text, self.units.bare, "thickness"))
            except InputError as error:
                self.refused.emit(str(error))
                return
            self.changed.emit(found, f"{text} on {hide.id}")
        self._put_away()

    def _put_away(self) -> None:
        """Nothing is typed any more."""
        held = self.field.hasFocus()
        self.field.clear()
        self.field.hide()
        if held:
            self.setFocus()
        self.turned.emit()
        self.update()

    def take_away(self) -> None:
        """The mark in hand is none."""
        if self.leather is not None and self.writes and (mark := self.in_hand) is not None:
            self.changed.emit(without(self.leather, self.chosen), f"{mark.kind} taken off {self.leather.id}")

    def _next(self, by: int) -> None:
        many = len(marks(self.leather)) if self.leather is not None else 0
        self.chosen = (self.chosen + by + 1) % (many + 1) - 1 if many else -1
        self.turned.emit()
        self.update()

    def _set_corner(self, at: Hand) -> None:
        if self.kind is Marked.THICKNESS:
            self._ask_thickness(at)
            return
        self.corners.append(at)
        self.chosen = -1
        self.turned.emit()
        self.update()

    def _move(self, across: float, down: float, fine: bool) -> None:
        step = FINE if fine else STEP
        self.cross = self.cross[0] + across * step, self.cross[1] - down * step
        if self.kind is Marked.THICKNESS:
            self.turned.emit()
        self.update()

    def _back(self) -> None:
        """The last corner is taken back; without one, to all hides."""
        if self.corners:
            self.corners.clear()
        elif self.chosen >= 0:
            self.chosen = -1
        else:
            self.left.emit()
        self.turned.emit()
        self.update()

    def _turn(self) -> None:
        """A quarter round, so that its back edge comes to be on top."""
        if self.leather is not None and self.writes and not self.corners:
            self.changed.emit(turned(self.leather, 1), f"{self.leather.id} turned")

    def _photo(self) -> tuple[QImage, QTransform] | None:
        """The photo it was taken from, if there is one, and the way from its px to the hide as it is turned now."""
        if self.picture is None or self.leather is None or len(self.picture[2]) != len(self.leather.ring):
            return None
        image, to_mm, was = self.picture
        then, now = was[1] - was[0], self.leather.ring[1] - self.leather.ring[0]
        angle = np.degrees(np.arctan2(now[1], now[0]) - np.arctan2(then[1], then[0]))
        back = QTransform.fromTranslate(*(-was[0]).tolist())
        return image, to_mm * back * QTransform().rotate(float(angle)) * QTransform.fromTranslate(
            *self.leather.ring[0].tolist())  # fmt: skip

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Enter and Esc in the field are its own."""
        if watched is self.field and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            deeds: dict[int, Callable[[], object]] = {
                Qt.Key.Key_Return: self._read, Qt.Key.Key_Enter: self._read, Qt.Key.Key_Escape: self._put_away,
            }  # fmt: skip
            if event.key() in deeds:
                deeds[event.key()]()
                return True
        return super().eventFilter(watched, event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        deeds: dict[int, Callable[[], object]] = {
            Qt.Key.Key_Left: lambda: self._move(-1, 0, fine), Qt.Key.Key_Right: lambda: self._move(1, 0, fine),
            Qt.Key.Key_Up: lambda: self._move(0, -1, fine), Qt.Key.Key_Down: lambda: self._move(0, 1, fine),
            Qt.Key.Key_Space: lambda: self._set_corner(self.cross), Qt.Key.Key_Return: self.close_ring,
            Qt.Key.Key_Enter: self.close_ring, Qt.Key.Key_Escape: self._back, Qt.Key.Key_Delete: self.take_away,
            Qt.Key.Key_T: self._turn, Qt.Key.Key_N: lambda: self._next(1), Qt.Key.Key_B: lambda: self._next(-1),
            Qt.Key.Key_Backspace: lambda: self.corners and self.corners.pop(),
            **{key: (lambda k=kind: self.take(k)) for key, kind in KINDS.items()},
        }  # fmt: skip
        if event.key() in deeds:
            deeds[event.key()]()
            self.update()
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton and self.leather is not None:
            self._pressed, self._drawn = event.position(), [self._at(event.position())]

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._pressed is not None:
            self._drawn.append(self._at(event.position()))
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._pressed is None or self.leather is None:
            return
        away = np.hypot(*np.ptp([[self.view.map(QPointF(*at)).x(), self.view.map(QPointF(*at)).y()]
                                 for at in self._drawn], axis=0))  # fmt: skip
        drawn, self._pressed, self._drawn = self._drawn, None, []
        if away >= DRAGGED and self.kind is not Marked.THICKNESS:
            self._mark(np.array(drawn))
            return
        at = self._at(event.position())
        under = [n for n, mark in enumerate(marks(self.leather)) if self._under(mark, event.position())]
        if under and not self.corners:
            self.chosen = under[-1]
        else:
            self.cross = at
            self._set_corner(at)
        self.turned.emit()
        self.update()

    def _under(self, mark: Mark, px: QPointF) -> bool:
        """Whether a place is on a mark; of those of another kind none is when it is read how thick the hide is."""
        if mark.kind is Marked.THICKNESS:
            off = self.view.map(QPointF(*mark.ring[0])) - px
            return bool(np.hypot(off.x(), off.y()) <= TOUCH)
        inside = shapely.Polygon(mark.ring).contains(shapely.Point(self._at(px)))
        return bool(inside) and self.kind is not Marked.THICKNESS

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if len(self.corners) > 2:
            self.close_ring()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.CARD))
        if self.leather is None:
            return
        view = self.view
        if (lies := self._photo()) is not None:
            image, to_mm = lies
            painter.save()
            painter.setTransform(to_mm * view)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(0, 0, image)
            painter.restore()
        painter.setPen(QPen(QColor(theme.STRAP), 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush if lies is not None else QColor(theme.LEATHER))
        painter.drawPath(path(self.leather.ring, view, closed=True))
        if self.kind is Marked.THICKNESS and self.leather.gauged:
            self._draw_thickness(painter, view)
        for n, mark in reversed(list(enumerate(marks(self.leather)))):  # zones below scars
            painter.setPen(QPen(QColor(DYES[mark.kind]), 3.0 if n == self.chosen else 1.4))
            if mark.kind is Marked.THICKNESS:
                self._draw_reading(painter, view.map(QPointF(*mark.ring[0])), mark.thick)
                continue
            painter.setBrush(theme.colour(DYES[mark.kind], 130 if mark.kind is Marked.SCAR else 40))
            painter.drawPath(path(mark.ring, view, closed=True))
        begun = self._drawn or self.corners
        if begun:
            painter.setPen(QPen(QColor(DYES[self.kind]), 1.8, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(path(np.array(begun), view))
            painter.setBrush(QColor(DYES[self.kind]))
            for at in self.corners:
                painter.drawEllipse(view.map(QPointF(*at)), 3, 3)
        if self.hasFocus():
            spot = view.map(QPointF(*self.cross))
            painter.setPen(QPen(QColor(INK), 1.2))
            painter.drawLine(QPointF(spot.x() - CROSS, spot.y()), QPointF(spot.x() + CROSS, spot.y()))
            painter.drawLine(QPointF(spot.x(), spot.y() - CROSS), QPointF(spot.x(), spot.y() + CROSS))
        painter.setFont(theme.text(9.5))
        top = view.map(QPointF(float(np.ptp(self.leather.ring[:, 0]) / 2), float(self.leather.ring[:, 1].max())))
        said = QRectF(top.x() - 34, max(top.y() - 18, 1), 68, 16)
        painter.fillRect(said, QColor(theme.CARD))
        painter.setPen(QColor(GALL))
        painter.drawText(said, Qt.AlignmentFlag.AlignCenter, "back edge")

    def _draw_reading(self, painter: QPainter, at: QPointF, thick: float) -> None:
        """A reading: its place, and how thick it is there."""
        said = format_length(thick, self.units)
        painter.setBrush(QColor(theme.CARD))
        painter.drawEllipse(at, 4, 4)
        painter.setFont(theme.text(9.5))
        wide = painter.fontMetrics().horizontalAdvance(said) + 6
        painter.fillRect(box := QRectF(at.x() + 7, at.y() - 8, wide, 16), theme.colour(theme.CARD, 210))
        painter.setPen(QColor(GALL))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, said)

    def _draw_thickness(self, painter: QPainter, view: QTransform) -> None:
        """How thick it is everywhere, the thicker the deeper."""
        assert self.leather is not None
        ring, read = self.leather.ring, self.leather.gauged
        low, size = ring.min(axis=0), np.ptp(ring, axis=0)
        key = (read, *low.tolist(), *size.tolist())
        if self._tint is None or self._tint[0] != key:
            across, up = (max(int(n), 2) for n in np.ceil(TINTED * size / size.max()))
            x, y = low[0] + size[0] * (np.arange(across) + 0.5) / across, low[1] + size[1] * (np.arange(up) + 0.5) / up
            thick = thickness(read, np.stack(np.meshgrid(x, y[::-1]), axis=-1))
            thin, most = min(one.thick for one in read), max(one.thick for one in read)
            dye = QColor(DYES[Marked.THICKNESS])
            seen = np.empty((up, across, 4), dtype=np.uint8)
            seen[..., :3] = dye.blue(), dye.green(), dye.red()
            seen[..., 3] = PALE + (DEEP - PALE) * (thick - thin) / max(most - thin, 1e-9)
            image = QImage(seen.tobytes(), across, up, 4 * across, QImage.Format.Format_ARGB32).copy()
            self._tint = key, image
        painter.save()
        painter.setClipPath(path(ring, view, closed=True))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(view.mapRect(QRectF(*low, *size)), self._tint[1])
        painter.restore()
