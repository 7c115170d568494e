"""A window turned to its log, and a way to wait until it has looked and learned."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from tailor.desk.logbook import Logbook
from tailor.desk.window import Window
from tailor.files import makers
from tests.desk.hands import Key, laid_down


@pytest.fixture
def shown(qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Window]:
    monkeypatch.setattr(makers, "folder", lambda: tmp_path / "config")
    with laid_down("eaves-blade", qtbot) as made:
        yield made


@pytest.fixture
def settle(shown: Window, qtbot: QtBot) -> Callable[[], None]:
    def settled() -> bool:
        book = shown.rooms.logbook
        labours = (book.looking, book.learning.working, book.learning.trying)
        return shown.counter.shop is not None and not shown.counter.busy and not any(each.busy for each in labours)

    return lambda: qtbot.waitUntil(settled, timeout=30_000)


@pytest.fixture
def book(shown: Window, settle: Callable[[], None], qtbot: QtBot) -> Logbook:
    QTest.keyClick(shown, Key.Key_9, Qt.KeyboardModifier.AltModifier)
    settle()
    qtbot.waitUntil(
        lambda: shown.rooms.logbook.entry is not None and bool(shown.rooms.logbook.slip.rows), timeout=10_000
    )
    return shown.rooms.logbook
