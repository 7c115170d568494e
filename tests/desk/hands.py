"""What a hand does in the window: clicks, types and drags."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from tailor.desk.capture.easel import Hand
from tailor.desk.capture.way import Form
from tailor.desk.start import window
from tailor.desk.window import Window

Key, Button = Qt.Key, Qt.MouseButton


@contextmanager
def laid_down(demo_name: str, qtbot: QtBot) -> Iterator[Window]:
    """A window, with a demo job drafted on its board and the demo's shop, as it is started."""
    made = window(demo_name=demo_name)
    qtbot.addWidget(made)
    made.resize(1280, 800)
    made.show()
    made.activateWindow()
    qtbot.waitUntil(made.isActiveWindow, timeout=10_000)
    qtbot.waitUntil(lambda: made.bench.fresh, timeout=20_000)
    yield made
    made.bench.clean = made.bench.job
    made.close()


def named(panel: QWidget, name: str) -> QPushButton:
    return next(b for b in panel.findChildren(QPushButton) if name in (b.accessibleName(), b.text()))


def demo(panel: Form, label: str, qtbot: QtBot) -> None:
    """Take the demo's, and wait until it is measured."""
    QTest.mouseClick(named(panel, f"Demo {label}"), Button.LeftButton)
    qtbot.waitUntil(lambda: panel.table is not None and not panel.labour.busy, timeout=30000)


def typed(field: QLineEdit, text: str) -> None:
    field.setFocus()
    field.selectAll()
    QTest.keyClick(field, Key.Key_Delete)
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Key.Key_Return)


def struck(text: str) -> None:
    """By keyboard only, wherever the hand is."""
    for letter in text:
        QTest.keyClick(QApplication.focusWidget(), letter)
    QTest.keyClick(QApplication.focusWidget(), Key.Key_Return)


def drag(shown: Window, hand: Hand, points: list[tuple[float, float]]) -> None:
    """Drag on the easel from place to place, mm."""
    easel = shown.easel
    spots = [easel.view.map(QPointF(*p)).toPoint() for p in points]
    assert easel.hand is hand
    QTest.mousePress(easel, Button.LeftButton, pos=spots[0])
    for spot in spots[1:]:
        QTest.mouseMove(easel, spot)
    QTest.mouseRelease(easel, Button.LeftButton, pos=spots[-1])


def shortcut(shown: Window, keys: str) -> None:
    shown.activateWindow()
    assert QTest.qWaitForWindowActive(shown, 2000)
    combination = QKeySequence(keys)[0]
    QTest.keyClick(shown, combination.key(), combination.keyboardModifiers())
