"""Tag: a paper tag tied to what it measures. Click or type to change it, ? to ask why, P to pin or let go."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
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

from tailor.core.measure import Kind
from tailor.desk import theme
from tailor.desk.drawing import pin_mark
from tailor.desk.readings import Reading
from tailor.files.dyes import GALL, INK, WALNUT

HEIGHT, SMALL = 38, 20  # px: of a tag that is open, and of one that is not
PIN_ROOM, PIN = 20, 14  # px that a pin takes on either
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
    """One measure on the board: a slip of paper at what it measures, or a line on the list beside it.

    Small, it says what it is and its value; touched, it opens. typed: text for the measure, and how many tags to move
    on. nudge: steps of an arrow key. pin: pin or let go. ask: say why, or (False) no longer.
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
        self.listed = False
        self._home = QRect()
        self._touched = False
        self._field: _Field | None = None
        if reading.setting is not None:
            self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
            self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.show_reading(reading, True)

    def show_reading(self, reading: Reading, fresh: bool) -> None:
        """Show a value; not fresh means it is being worked out anew."""
        self.reading, self.fresh = reading, fresh
        self.setAccessibleName(f"{reading.label} {reading.said}{', pinned' if reading.pinned else ''}")
        self._settle()
        self.update()

    def sizeHint(self) -> QSize:
        """How large it is where it stands at what it measures, not touched."""
        value = QFontMetricsF(theme.text(10.5, bold=True)).horizontalAdvance(self.reading.said)
        label = QFontMetricsF(theme.text(9)).horizontalAdvance(self.reading.label)
        return QSize(round(value + label + 18 + (PIN if self.reading.pinned else 0)), SMALL)

    def _opened(self) -> QSize:
        value = QFontMetricsF(theme.text(11.5, bold=True)).horizontalAdvance(self.reading.said)
        label = QFontMetricsF(theme.text(9)).horizontalAdvance(self.reading.label)
        return QSize(round(max(value + 22, label + 22 + PIN_ROOM, 92)), HEIGHT)

    def stand(self, home: QRect, listed: bool) -> None:
        """Stand at a place of the board, as a line of the list or by itself."""
        self._home, self.listed = home, listed
        self._settle()
        self.show()

    @property
    def home(self) -> QRect:
        """Where it stands when it is not touched."""
        return self._home

    @property
    def open(self) -> bool:
        """Whether it is touched, and so as large as it gets."""
        return not self.listed and (self._touched or self.typing or bool(self.wrong) or self.hasFocus())

    def _settle(self) -> None:
        """Be as large as it should be, within the board."""
        at, board = self._home, self.parentWidget()
        if self.open and board is not None:
            size = self._opened()
            at = QRect(self._home.topLeft(), size)
            at.moveCenter(self._home.center())
            at.moveLeft(min(max(at.left(), 2), board.width() - size.width() - 2))
            at.moveTop(min(max(at.top(), 2), board.height() - size.height() - 2))
            self.raise_()
        self.setGeometry(at)
        if self._field is not None:
            self._field.setGeometry(self._typed_in())

    def _typed_in(self) -> QRect:
        """Where the field lies that it is typed on."""
        if self.listed:
            return QRect(self.width() // 2 - 8, 0, self.width() // 2 + 8, self.height())
        return QRect(3, 13, self.width() - 6, HEIGHT - 15)

    @property
    def typing(self) -> bool:
        return self._field is not None

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        bold = self.wrong or self.hasFocus()
        edge = theme.RULING_STOP if self.wrong else WALNUT if self.hasFocus() else theme.EDGE
        if not self.listed or bold or self._touched:
            painter.setPen(QPen(QColor(edge), 2 if bold else 1))
            follows = self.reading.setting is None
            painter.setBrush(QColor("#fbe6df" if self.wrong else theme.CARD if follows else theme.PAPER))
            painter.drawRoundedRect(box, 4, 4)
        middle, right = Qt.AlignmentFlag.AlignVCenter, Qt.AlignmentFlag.AlignRight
        ink = QColor(INK if self.fresh else GALL)
        painter.setFont(theme.text(9))
        painter.setPen(QColor(GALL))
        if self.open:
            painter.drawText(box.adjusted(9, 2, -6, -18), middle, self.reading.label)
            painter.setFont(theme.text(11.5, bold=True))
            painter.setPen(ink)
            painter.drawText(box.adjusted(9, 15, -4, -1), middle, self.reading.said)
            if self.reading.pinned:
                pin_mark(painter, self.width() - 19, 4, QColor(theme.PINNED))
            return
        if not self.listed or not self.typing:
            painter.drawText(box.adjusted(5, 0, -5, 0), middle, self.reading.label)
            painter.setFont(theme.text(10.5, bold=True))
            painter.setPen(ink)
            value = box.adjusted(5, 0, -5 - (PIN if self.reading.pinned else 0), 0)
            painter.drawText(value, middle | right, self.reading.said)
        else:
            painter.drawText(box.adjusted(5, 0, -self.width() / 2, 0), middle, self.reading.label)
        if self.reading.pinned:
            pin_mark(painter, self.width() - PIN - 3, 2, QColor(theme.PINNED))

    def say_wrong(self, message: str) -> None:
        """Redden the tag and keep what was typed on it, for it to be put right."""
        self.wrong = message
        self.setToolTip(message)
        self._settle()
        self.update()

    def clear_wrong(self) -> None:
        self.wrong = ""
        self.setToolTip("")
        self._settle()
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
        if text is None:
            field.selectAll()
        field.done.connect(self._done)
        field.let_be.connect(self.let_be)
        self._field = field
        self._settle()
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
            self._settle()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.setFocus()
        if self.reading.setting is not None and self._on_pin(event.position()):
            self.pin.emit(self.reading.key)
        else:
            self.begin()

    def _on_pin(self, at: QPointF) -> bool:
        """Whether a place is on its pin, or where that would be."""
        if self.open:
            return at.x() > self.width() - PIN_ROOM and at.y() < 17
        return self.reading.pinned and at.x() > self.width() - PIN - 5

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
        self._touch(True)
        self.ask.emit(self.reading.key, True)

    def leaveEvent(self, event: object) -> None:
        self._touch(False)
        self.ask.emit(self.reading.key, False)

    def _touch(self, touched: bool) -> None:
        self._touched = touched
        self._settle()
        self.update()

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self._settle()
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self._settle()
        self.update()
