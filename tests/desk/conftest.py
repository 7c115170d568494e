"""A window on the demo job, and a way to wait until its draft is fresh."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.desk import helper
from tailor.desk.capture.way import Form
from tailor.desk.start import application
from tailor.desk.window import Window
from tests.desk.forked import Forker


@pytest.fixture(scope="session", autouse=True)
def _helpers_at_once() -> Iterator[None]:
    """Helper processes are forked from one that has read what they need, not begun anew for every window."""
    forker = Forker()
    was, helper.begun = helper.begun, forker.begun  # type: ignore[assignment]
    yield
    helper.begun = was
    forker.end()


@pytest.fixture
def shown(qtbot: QtBot) -> Iterator[Window]:
    application()
    made = Window(demo.job())
    qtbot.addWidget(made)
    made.resize(1280, 800)
    made.show()
    made.activateWindow()  # shortcuts are those of the active window
    qtbot.waitUntil(made.isActiveWindow, timeout=10000)
    yield made
    made.close()


@pytest.fixture
def settle(qtbot: QtBot, shown: Window) -> Callable[[], None]:
    def settled() -> bool:
        return shown.bench.fresh and not shown.bench.looking and not shown.ledger.room.busy

    return lambda: qtbot.waitUntil(settled, timeout=30000)


@pytest.fixture
def way(shown: Window, qtbot: QtBot) -> Callable[[str], Form]:
    shown.show_stage("Object")

    def turn(name: str) -> Form:
        QTest.mouseClick(shown.ways.buttons[name], Qt.MouseButton.LeftButton)
        panel = shown.ways.panel(name)
        qtbot.waitUntil(panel.isVisible)
        return panel

    return turn
