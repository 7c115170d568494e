"""Leather and stock at the window: taken in, counted, used up, and undone."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit
from pytestqt.qtbot import QtBot

from tailor.core.shop.leathers import Skin, Sort
from tailor.core.shop.stock import Article
from tailor.desk.start import window
from tailor.desk.window import Window

Key = Qt.Key


@pytest.fixture
def shown(qtbot: QtBot) -> Iterator[Window]:
    """A window with the demo's shop, turned to leather and stock."""
    made = window(demo_name="whetstone")
    qtbot.addWidget(made)
    made.resize(1280, 800)
    made.show()
    made.acts["stockroom"].trigger()
    settle(made, qtbot)
    yield made
    made.bench.clean = made.bench.job
    made.close()


def settle(shown: Window, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: shown.counter.shop is not None and not shown.counter.busy, timeout=30_000)
    qtbot.waitUntil(lambda: not shown.stockroom.reading.busy and not shown.counter.busy, timeout=30_000)


def typed(field: QLineEdit, text: str) -> None:
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Key.Key_Return)


def sort(shown: Window, name: str) -> Sort:
    return next(sort for sort in shown.counter.shop.sorts if sort.name == name)


def article(shown: Window, id_: str) -> Article:
    return next(article for article in shown.counter.shop.stock if article.id == id_)


def skins(shown: Window, of: Sort) -> list[Skin]:
    return [skin for skin in shown.counter.shop.skins if skin.sort == of.id and not skin.used]


def test_hides_are_taken_in_and_used_up(shown: Window, qtbot: QtBot, tmp_path: Path) -> None:
    room = shown.stockroom
    shoulder = sort(shown, "shoulder, 2 mm")
    next(row for row in room.rows.rows if row.id == shoulder.id).head.click()
    assert room.fields["name"].text() == "shoulder, 2 mm"
    was = len(skins(shown, shoulder))
    svg = tmp_path / "patch.svg"
    svg.write_text('<svg xmlns="http://www.w3.org/2000/svg" width="300mm" height="200mm" viewBox="0 0 300 200">'
                   '<path d="M0 0 H300 V200 H0 Z"/><path d="M40 40 H60 V60 H40 Z"/></svg>')  # fmt: skip
    for text, area in (("400x250mm", 0.1), ("shoulder 9 ft²", 9 * 0.09290304), (str(svg), 0.06 - 0.0004)):
        typed(room.coming, text)
        settle(shown, qtbot)
        was += 1
        assert len(skins(shown, shoulder)) == was
        newest = max(abs(skin.area / 1e6 - area) < 1e-6 for skin in skins(shown, shoulder))
        assert newest, text
    typed(room.coming, "shoulder 900")
    qtbot.waitUntil(lambda: "no hide" in shown.notice.said.text(), timeout=10_000)
    card = next(row for row in room.rows.rows if row.id == shoulder.id).cards[0]
    card.setFocus()
    QTest.keyClick(card, Key.Key_Delete)
    settle(shown, qtbot)
    assert len(skins(shown, shoulder)) == was - 1
    shown.acts["undo"].trigger()
    settle(shown, qtbot)
    assert len(skins(shown, shoulder)) == was


def test_what_is_typed_is_kept_and_what_cannot_be_is_told(shown: Window, qtbot: QtBot) -> None:
    room = shown.stockroom
    room._choose("firm-2")
    typed(room.fields["price"], "51,5")
    settle(shown, qtbot)
    typed(room.fields["thickness"], "5 oz")
    settle(shown, qtbot)
    assert (sort(shown, "shoulder, 2 mm").price, round(sort(shown, "shoulder, 2 mm").thickness, 2)) == (51.5, 1.98)
    typed(room.fields["thickness"], "40")
    assert "40 mm is no leather" in shown.notice.said.text()
    assert room.fields["thickness"].text().startswith("2.0")
    typed(room.stock.lines["rr9-9"]["there"], "12")
    settle(shown, qtbot)
    assert article(shown, "rr9-9").there == 12
    typed(room.stock.lines["rr9-9"]["there"], "many")
    assert "no number" in shown.notice.said.text()
    assert room.stock.lines["rr9-9"]["there"].text() == "12"
    typed(room.stock.name, "beeswax block, 20mm")
    settle(shown, qtbot)
    assert any(a.name == "beeswax block" and a.size == 20 for a in shown.counter.shop.stock)
    typed(room.fields["name"], "calf, thin")
    settle(shown, qtbot)  # the leather in hand has another name; a new one is begun from it
    room.buttons["new"].click()
    settle(shown, qtbot)
    assert len([each for each in shown.counter.shop.sorts if each.name == "calf, thin"]) == 2
    QTest.keyClick(room, Key.Key_Escape)
    assert not shown.in_the_shop


def test_what_all_orders_lack_is_marked(shown: Window, qtbot: QtBot) -> None:
    assert not any("buy" in said for said in shown.stockroom.stock.said)
    shown.acts["orders"].trigger()
    qtbot.waitUntil(lambda: "" in shown.orders.reckoned, timeout=60_000)
    shown.acts["stockroom"].trigger()
    assert {said for said in shown.stockroom.stock.said if "buy" in said} == {
        "rapid rivet 9, 9.0 mm · buy 3", "snap 12, 4.5 mm · buy 2",
    }  # fmt: skip
