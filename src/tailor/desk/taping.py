"""A hide in a photo without marker sheets: four points pressed in the picture, and the tape's six lengths typed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QTransform
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from tailor.core.errors import InputError
from tailor.core.units import System, parse_length
from tailor.desk import theme
from tailor.desk.words import Words
from tailor.files.dyes import INK, WOAD

POINTS = 4
ACROSS = 3  # lengths in a row
SHOWN = 2400.0  # px across, of a photo
BETWEEN = ((0, 1), (1, 2), (2, 3), (3, 0), (0, 2), (1, 3))  # whose lengths are taped, in their order
EDGE = 8.0  # px about the picture
NEAR = 14.0  # px about a point that are it
LOUPE, LARGER = 150.0, 4.0  # px of the picture enlarged about the cross, and how many times it is
STEP = 10.0  # px of the screen that an arrow moves the cross by; with Shift one of the picture
HINT = (
    "Press the four taped points in the picture, one after another round the hide, and drag one to mend it; or arrows, "
    "Shift for fine, Space. Then type the four sides and the two diagonals between them. Esc goes back."
)


@dataclass(frozen=True)
class Untold:
    """A photo that did not tell how large its hide is, and why. image: it, as it is shown; finer: px of the photo to
    one of that.
    """

    path: Path
    image: QImage
    finer: float
    why: str

    @classmethod
    def of(cls, path: Path, why: str) -> Untold:
        """A photo in a file. Raises InputError where it cannot be read."""
        from tailor.files import photos

        pixels = photos.read(path).pixels
        high, wide = pixels.shape[:2]
        whole = QImage(pixels.tobytes(), wide, high, 3 * wide, QImage.Format.Format_BGR888)
        finer = max(max(wide, high) / SHOWN, 1.0)
        smooth = Qt.TransformationMode.SmoothTransformation
        return cls(path, whole.scaledToWidth(round(wide / finer), smooth).copy(), finer, why)


class TapedPhoto(QWidget):
    """A photo with up to four points on it, in its own px. changed: they are others now."""

    changed = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("taped photo")
        self.setAccessibleName("A photo with four taped points: arrows move the cross, Space sets a point")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(320, 200)
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.image = QPixmap()
        self.spots: list[tuple[float, float]] = []
        self.cross = QPointF()
        self._held = -1

    def show_photo(self, image: QPixmap) -> None:
        """Another photo, with no point on it."""
        self.image, self.spots, self._held = image, [], -1
        self.cross = QRectF(image.rect()).center()
        self.changed.emit()
        self.update()

    @property
    def view(self) -> QTransform:
        """From px of the photo to px of the screen."""
        room = QRectF(self.rect()).adjusted(EDGE, EDGE, -EDGE, -EDGE)
        wide, high = self.image.width(), self.image.height()
        scale = min(room.width() / max(wide, 1), room.height() / max(high, 1))
        made = QTransform.fromTranslate(room.center().x() - scale * wide / 2, room.center().y() - scale * high / 2)
        return made.scale(scale, scale)

    def _on(self, screen: QPointF) -> QPointF:
        """A place on the photo, within it."""
        at = self.view.inverted()[0].map(screen)
        return QPointF(min(max(at.x(), 0.0), self.image.width()), min(max(at.y(), 0.0), self.image.height()))

    def set_point(self, at: QPointF) -> int:
        """A further point; where there are four, the nearest comes to lie there. Which it is."""
        spot, n = (at.x(), at.y()), len(self.spots)
        if n < POINTS:
            self.spots.append(spot)
        else:
            n = int(np.argmin(np.hypot(*(np.array(self.spots) - spot).T)))
            self.spots[n] = spot
        self.cross = at
        self.changed.emit()
        self.update()
        return n

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton or self.image.isNull():
            return
        off = [self.view.map(QPointF(*spot)) - event.position() for spot in self.spots]
        near = [n for n, by in enumerate(off) if np.hypot(by.x(), by.y()) <= NEAR]
        self._held = near[0] if near else self.set_point(self._on(event.position()))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._held >= 0:
            self.cross = self._on(event.position())
            self.spots[self._held] = self.cross.x(), self.cross.y()
            self.changed.emit()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._held = -1

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        ways = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        if event.key() in ways:
            fine = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
            step = 1.0 if fine else STEP / max(self.view.m11(), 1e-9)
            by = ways[Qt.Key(event.key())]
            self.cross = self._on(self.view.map(self.cross + QPointF(*by) * step))
            self.update()
        elif event.key() == Qt.Key.Key_Space:
            self.set_point(self.cross)
        elif event.key() in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete) and self.spots:
            self.spots.pop()
            self.changed.emit()
            self.update()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor(theme.CARD))
        if self.image.isNull():
            return
        view = self.view
        painter.drawPixmap(view.mapRect(QRectF(self.image.rect())), self.image, QRectF(self.image.rect()))
        at = [view.map(QPointF(*spot)) for spot in self.spots]
        painter.setPen(QPen(QColor(WOAD), 1.6, Qt.PenStyle.DashLine))
        for a, b in BETWEEN:
            if max(a, b) < len(at):
                painter.drawLine(at[a], at[b])
        painter.setFont(theme.text(10.5, bold=True))
        for n, spot in enumerate(at, start=1):
            painter.setPen(QPen(QColor(WOAD), 2.0))
            painter.setBrush(QColor(theme.CARD))
            painter.drawEllipse(spot, 4, 4)
            beside = 7 if spot.x() < self.width() / 2 else -23
            painter.fillRect(box := QRectF(spot.x() + beside, spot.y() - 9, 16, 18), QColor(theme.CARD))
            painter.setPen(QColor(INK))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(n))
        if self.hasFocus():
            self._draw_loupe(painter, view.map(self.cross), at)

    def _draw_loupe(self, painter: QPainter, at: QPointF, spots: Sequence[QPointF]) -> None:
        """What lies about the cross, enlarged, in the corner that is farthest from it and the points."""
        right, foot = self.width() - LOUPE - 2, self.height() - LOUPE - 2
        corners = [QRectF(x, y, LOUPE, LOUPE) for x in (2, right) for y in (2, foot)]

        def room(corner: QRectF) -> float:
            off = [spot - corner.center() for spot in (at, *spots)]
            return min(float(np.hypot(by.x(), by.y())) for by in off)

        box = max(corners, key=room)
        seen = LOUPE / (LARGER * max(self.view.m11(), 1e-9))
        painter.fillRect(box, QColor(theme.CARD))
        painter.drawPixmap(box, self.image, QRectF(self.cross.x() - seen / 2, self.cross.y() - seen / 2, seen, seen))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(INK), 1.0))
        painter.drawRect(box)
        for middle, arm in ((box.center(), LOUPE / 2), (at, 11.0)):
            painter.drawLine(middle - QPointF(arm, 0), middle + QPointF(arm, 0))
            painter.drawLine(middle - QPointF(0, arm), middle + QPointF(0, arm))


class Taping(QWidget):
    """told: the points, px, and the six lengths, mm, of the photo in hand. refused: what was typed cannot be, and why.

    left: back to all hides.
    """

    told = pyqtSignal(object)
    refused = pyqtSignal(str)
    left = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.units = System.MM
        self.path: Path | None = None
        self._finer, self._why = 1.0, ""
        self.photo, self._said = TapedPhoto(), Words()
        self._said.setWordWrap(True)
        self.photo.changed.connect(self._tell)
        self.fields, form = list[QLineEdit](), QGridLayout()
        for n, (a, b) in enumerate(BETWEEN):
            field = QLineEdit()
            field.setAccessibleName(f"Length from point {a + 1} to point {b + 1}")
            field.setPlaceholderText("taped")
            field.returnPressed.connect(self.read)
            self.fields.append(field)
            form.addWidget(Words(f"{a + 1} to {b + 1}"), n // ACROSS, 2 * (n % ACROSS))
            form.addWidget(field, n // ACROSS, 2 * (n % ACROSS) + 1)
        self.reads, every = QPushButton("Read the hide"), QPushButton("All hides")
        self.reads.clicked.connect(lambda _: self.read())
        every.clicked.connect(lambda _: self.left.emit())
        for button in (self.reads, every):
            button.setProperty("plain", "false")
        top = QHBoxLayout()
        top.addWidget(self._said, 1)
        top.addWidget(every)
        form.addWidget(self.reads, 1, 2 * ACROSS)
        hint = Words(HINT)
        hint.setWordWrap(True)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.addLayout(top)
        inside.addWidget(self.photo, 1)
        inside.addLayout(form)
        inside.addWidget(hint)

    def open(self, untold: Untold, units: System) -> None:
        """Take a photo in hand that did not tell its size by itself: what was taped for another is not of it."""
        for field in self.fields:
            field.clear()
        self.path, self.units, self._why = untold.path, units, untold.why
        self._finer = untold.finer
        self.photo.show_photo(QPixmap.fromImage(untold.image))
        self.show()
        self.photo.setFocus()

    def _tell(self) -> None:
        left = POINTS - len(self.photo.spots)
        now = f"{left} of four points to press." if left else "Now the lengths between them, then Read the hide."
        self._said.setText(f"{self._why} Or by tape: {now}")

    def read(self) -> None:
        """Read the hide by what was pressed and typed, once all is there."""
        lengths = list[float]()
        try:
            if len(self.photo.spots) < POINTS:
                raise InputError(f"{len(self.photo.spots)} points are pressed", "photo", "press four, round the hide")
            for (a, b), field in zip(BETWEEN, self.fields, strict=True):
                where = f"{a + 1} to {b + 1}"
                if not field.text().strip():
                    raise InputError("it is blank", where, "type what the tape says between those points")
                lengths.append(parse_length(field.text(), self.units.bare, where))
        except InputError as error:
            self.refused.emit(str(error))
            return
        spots = tuple((x * self._finer, y * self._finer) for x, y in self.photo.spots)
        self.told.emit((spots, tuple(lengths)))
