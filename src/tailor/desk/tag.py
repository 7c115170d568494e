"""Tag: a paper tag tied to what it measures. Click or type to change it, ? to ask why, P to pin or let go."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QEnterEvent,
    QFocusEvent,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)  # fmt: skip
from PyQt6.QtWidgets import QLineEdit, QWidget

from tailor.core.keys import Kind
from tailor.desk import theme
from tailor.desk.drawing import pin_mark
from tailor.desk.measures import LABELS, Reading
from tailor.files.dyes import GALL, INK, WALNUT

HEIGHT = 38
PIN_ROOM = 20
AWAY = (Qt.FocusReason.ActiveWindowFocusReason, Qt.FocusReason.PopupFocusReason)  # and back again soon
TEXT_KEYS = "0123456789.,+-/½¼¾⅛⅜⅝⅞"


class _Field(QLineEdit):
    """Where a tag is typed on. Leaving it any way but Esc takes what was typed."""

    done = pyqtSignal(str, int)  # text, tags to move on by
    let_be = pyqtSignal()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            self.let_be.emit()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.done.emit(self.text(), 0)
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        """The hand goes elsewhere in the window: what was typed is taken."""
        super().focusOutEvent(event)
        if event is not None and event.reason() not in AWAY:
            self.done.emit(self.text(), 0)

    def focusNextPrevChild(self, forward: bool) -> bool:
        self.done.emit(self.text(), 1 if forward else -1)
        return True


class Tag(QWidget):
    """One measure on the board.

    typed: text for the measure, and how many tags to move on. nudge: steps of an arrow key. pin: pin or let go.
    ask: say why, or (False) no longer.
    """

    typed = pyqtSignal(str, str, int)
    nudge = pyqtSignal(str, int)
    pin = pyqtSignal(str)
    ask = pyqtSignal(str, bool)

    def __init__(self, reading: Reading, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName(f"tag {reading.key}")
        self.setMouseTracking(True)
        self.reading = reading
        self.wrong = ""
        self.fresh = True
        self._field: _Field | None = None
        if reading.setting is not None:
            self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
            self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.show_reading(reading, True)

    def show_reading(self, reading: Reading, fresh: bool) -> None:
        """Show a value; not fresh means it is being worked out anew."""
        self.reading, self.fresh = reading, fresh
        label = LABELS[reading.key]
        self.setAccessibleName(f"{label} {reading.said}{', pinned' if reading.pinned else ''}")
        self.resize(self.sizeHint())
        self.update()

    def sizeHint(self) -> QSize:
        value = QFontMetricsF(theme.text(11.5, bold=True)).horizontalAdvance(self.reading.said)
        label = QFontMetricsF(theme.text(9)).horizontalAdvance(LABELS[self.reading.key])
        return QSize(round(max(value + 22, label + 22 + PIN_ROOM, 92)), HEIGHT)

    @property
    def typing(self) -> bool:
        return self._field is not None

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        follows = self.reading.setting is None
        edge = theme.RULING_STOP if self.wrong else WALNUT if self.hasFocus() else theme.EDGE
        painter.setPen(QPen(QColor(edge), 2 if self.wrong or self.hasFocus() else 1))
        painter.setBrush(QColor("#fbe6df" if self.wrong else theme.CARD if follows else theme.PAPER))
        painter.drawRoundedRect(box, 5, 5)
        painter.setFont(theme.text(9))
        painter.setPen(QColor(GALL))
        painter.drawText(box.adjusted(9, 2, -6, -18), Qt.AlignmentFlag.AlignVCenter, LABELS[self.reading.key])
        painter.setFont(theme.text(11.5, bold=True))
        painter.setPen(QColor(INK if self.fresh else GALL))
        painter.drawText(box.adjusted(9, 15, -4, -1), Qt.AlignmentFlag.AlignVCenter, self.reading.said)
        if self.reading.pinned:
            pin_mark(painter, self.width() - 19, 4, QColor(theme.PINNED))

    def say_wrong(self, message: str) -> None:
        """Redden the tag and keep what was typed on it, for it to be put right."""
        self.wrong = message
        self.setToolTip(message)
        self.update()

    def clear_wrong(self) -> None:
        self.wrong = ""
        self.setToolTip("")
        self.update()

    def begin(self, text: str | None = None) -> None:
        """Begin typing, with text put in or the present value selected."""
        key = self.reading.setting
        if key is None or self._field is not None:
            return
        if key.kind is Kind.CHOICE:
            self.nudge.emit(self.reading.key, 1)
            return
        field = _Field(self)
        field.setObjectName("typing")
        field.setFont(theme.text(11.5, bold=True))
        field.setText(self.reading.said.split(" · ")[0].split(" ×")[0] if text is None else text)
        field.setGeometry(3, 13, self.width() - 6, HEIGHT - 15)
        if text is None:
            field.selectAll()
        field.done.connect(self._done)
        field.let_be.connect(self.let_be)
        self._field = field
        field.show()
        field.setFocus()

    def let_be(self) -> None:
        """Leave the old value."""
        self.clear_wrong()
        self._close()

    def refused(self, message: str) -> None:
        """What was typed cannot be; the field stays open on it."""
        self.say_wrong(message)
        if self._field is not None and self._field.hasFocus():
            self._field.setFocus()

    def taken(self) -> None:
        """What was typed is taken."""
        self.clear_wrong()
        self._close()

    def _done(self, text: str, on: int) -> None:
        if text == self.reading.said.split(" · ")[0].split(" ×")[0]:
            self.let_be()
            self.typed.emit(self.reading.key, "", on)
        else:
            self.typed.emit(self.reading.key, text, on)

    def _close(self) -> None:
        if self._field is not None:
            field, self._field = self._field, None
            field.done.disconnect()  # a field that is hidden passes its focus on, which is not to be taken for Tab
            field.setObjectName("")
            if field.hasFocus():
                self.setFocus()
            field.hide()
            field.deleteLater()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.setFocus()
        if event.position().x() > self.width() - PIN_ROOM and event.position().y() < 17 and self.reading.setting:
            self.pin.emit(self.reading.key)
        else:
            self.begin()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key, many = event.key(), 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.begin()
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.nudge.emit(self.reading.key, many if key == Qt.Key.Key_Up else -many)
        elif key == Qt.Key.Key_P and self.reading.setting is not None:
            self.pin.emit(self.reading.key)
        elif event.text() == "?":
            self.ask.emit(self.reading.key, True)
        elif key == Qt.Key.Key_Escape:
            self.clear_wrong()
            self.ask.emit(self.reading.key, False)
            event.ignore()
        elif event.text() and event.text() in TEXT_KEYS:
            self.begin(event.text())
        else:
            super().keyPressEvent(event)

    def enterEvent(self, event: QEnterEvent | None) -> None:
        self.ask.emit(self.reading.key, True)

    def leaveEvent(self, event: object) -> None:
        self.ask.emit(self.reading.key, False)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.update()

    def tied_at(self, towards: QPoint) -> QPoint:
        """Where the tag's string is tied: the middle of the side nearer to what it measures."""
        right = towards.x() > self.geometry().center().x()
        return QPoint(self.geometry().right() if right else self.geometry().left(), self.geometry().center().y())
