"""A window whose demo shop has one order and one pair of hands, and its clock."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from tailor.desk import foresight
from tailor.desk.window import Window
from tests.desk.at_work.evening import CARDS, EVENING, Clock
from tests.desk.hands import Key, laid_down


@pytest.fixture
def shown(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> Iterator[Window]:
    """A window whose demo shop has one order, of one thing, and one pair of hands."""
    from tailor.demo import shop as of_the_demo

    whole = of_the_demo.shop(EVENING.date())
    few = replace(whole, orders=(CARDS,), hands=whole.hands[:1], worked=())
    monkeypatch.setattr(of_the_demo, "shop", lambda today: few)
    monkeypatch.setattr(foresight, "SECONDS", 0.2)  # of so few steps a plan is as good as it gets in that
    with laid_down("whetstone", qtbot) as made:
        yield made


@pytest.fixture
def clock(shown: Window, settle: Callable[[], None]) -> Clock:
    held = Clock(shown.rooms.at_work)
    QTest.keyClick(shown, Key.Key_8, Qt.KeyboardModifier.AltModifier)
    settle()
    return held


@pytest.fixture
def settle(shown: Window, qtbot: QtBot) -> Callable[[], None]:
    def settled() -> bool:
        work = shown.rooms.at_work
        return shown.counter.shop is not None and not shown.counter.busy and not work.foresight.busy

    return lambda: qtbot.waitUntil(settled, timeout=60_000)
