"""Orders at the window: by the pictures of their things, with what they come to, by keys and by hand."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing
from dataclasses import replace
from datetime import date, timedelta
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.core.shop.orders import Order, State
from tailor.desk.counter import DEMO
from tailor.desk.orders import DONE, MOST
from tailor.desk.start import window
from tailor.desk.window import Window
from tailor.files import state
from tests.desk.hands import laid_down

Key = Qt.Key


@pytest.fixture
def shown(qtbot: QtBot) -> Iterator[Window]:
    """A window with the demo's shop, turned to the orders."""
    with laid_down("whetstone", qtbot) as made:
        made.acts["orders"].trigger()
        settle(made, qtbot)
        yield made


def settle(shown: Window, qtbot: QtBot) -> None:
    """Wait until the book has answered and all is reckoned."""
    qtbot.waitUntil(lambda: shown.counter.shop is not None and not shown.counter.busy, timeout=30_000)
    qtbot.waitUntil(lambda: not shown.rooms.orders.room.busy, timeout=60_000)


def order(shown: Window, name: str) -> Order:
    assert shown.counter.shop is not None
    return shown.counter.shop.order(name)


def typed(shown: Window, key: str, text: str) -> None:
    field = shown.rooms.orders.sheet.fields[key]
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Key.Key_Return)


def test_orders_are_seen_by_what_is_due_and_worked_on_by_keys(shown: Window, qtbot: QtBot) -> None:
    orders = shown.rooms.orders
    assert [row.id for row in orders.rows.rows] == ["kit-1", "fair", "repair", "kit-2"]
    assert "in 9 days" in orders.rows.rows[0].head.text()
    assert "€" in orders.rows.rows[0].head.text()
    assert any(line.startswith("in all €") for line in orders.sheet.bill.said)
    assert "snap 12" in orders._said.text()
    QTest.keyClick(orders, Key.Key_Down)  # on the first heading, then its first card, then the next order
    for _ in range(3):
        QTest.keyClick(orders.focusWidget(), Key.Key_Down)
    assert orders.chosen == "fair"
    assert orders.focusWidget() is orders.rows.rows[1].cards[0]
    before = orders.sheet.bill.said
    QTest.keyClick(orders.focusWidget(), Key.Key_Plus)
    settle(shown, qtbot)
    assert order(shown, "fair").lines[0].count == 7
    assert orders.focusWidget() is orders.rows.rows[1].cards[0]  # the hand stays where it was
    assert orders.sheet.bill.said != before
    QTest.keyClick(orders.focusWidget(), Key.Key_S)
    settle(shown, qtbot)
    assert order(shown, "fair").state is State.READY
    thread = {article.id: article.there for article in shown.counter.shop.stock}["thread06"]
    assert thread == pytest.approx(84 - 7 * 3.612, abs=0.01)  # what seven took is off the shelves
    assert "order Card holders" in shown.acts["undo"].toolTip()
    for _ in range(2):
        shown.acts["undo"].trigger()
        settle(shown, qtbot)
    assert (order(shown, "fair").lines[0].count, order(shown, "fair").state) == (6, State.TAKEN)
    assert {article.id: article.there for article in shown.counter.shop.stock}["thread06"] == 84
    assert shown.bench.job == demo.job("whetstone")  # undo there is of the orders
    QTest.keyClick(orders.focusWidget(), Key.Key_Return)
    qtbot.waitUntil(lambda: not shown.pages.in_the_shop)
    assert shown.bench.job == order(shown, "fair").lines[0].job


def test_an_order_is_begun_filled_and_quoted(shown: Window, qtbot: QtBot, tmp_path: Path) -> None:
    orders = shown.rooms.orders
    QTest.keyClick(orders, Key.Key_N)
    settle(shown, qtbot)
    assert order(shown, "Whetstone").lines[0].job == shown.bench.job
    typed(shown, "name", "Stones for all")
    settle(shown, qtbot)
    typed(shown, "wanted", "in 2 weeks")
    settle(shown, qtbot)
    assert order(shown, "Stones for all").wanted == date.today() + timedelta(days=14)
    typed(shown, "wanted", "soonish")
    assert "no day" in shown.notice.said.text()
    assert orders.sheet.fields["wanted"].text() == str(date.today() + timedelta(days=14))
    typed(shown, "name", "")
    assert order(shown, "Stones for all").name == orders.sheet.fields["name"].text()
    orders.sheet.buttons["add"].click()
    settle(shown, qtbot)
    assert order(shown, "Stones for all").many == 2
    orders.write_quote(tmp_path / "stones.pdf")
    qtbot.waitUntil(lambda: (tmp_path / "stones.pdf").exists(), timeout=10_000)
    settle(shown, qtbot)
    orders.write_sheet(tmp_path / "sheet")  # it is a PDF, whether that is said or not
    qtbot.waitUntil(lambda: (tmp_path / "sheet.pdf").exists(), timeout=20_000)
    settle(shown, qtbot)
    row = next(row for row in orders.rows.rows if "Stones for all" in row.head.text())
    row.cards[0].setFocus()
    QTest.keyClick(row.cards[0], Key.Key_R)
    assert "just so already" in shown.notice.said.text()
    shown.bench.type("leather.thickness", "2.4", "thinner")
    QTest.keyClick(row.cards[0], Key.Key_R)
    settle(shown, qtbot)
    assert order(shown, "Stones for all").lines[0].job == shown.bench.job
    row = next(row for row in orders.rows.rows if "Stones for all" in row.head.text())
    row.cards[0].setFocus()
    QTest.keyClick(row.cards[0], Key.Key_Delete)
    settle(shown, qtbot)
    assert order(shown, "Stones for all").lines == ()
    QTest.keyClick(orders, Key.Key_Escape)
    assert not shown.pages.in_the_shop


def test_how_the_shop_reckons_is_typed_beside_the_quote(shown: Window, qtbot: QtBot) -> None:
    terms = shown.rooms.orders.sheet.terms
    before = shown.rooms.orders.rows.rows[0].head.text()
    for key, text in (("hour", "40"), ("margin", "20 %"), ("waste", "30"), ("currency", "£")):
        terms[key].setFocus()
        terms[key].selectAll()
        QTest.keyClicks(terms[key], text)
        QTest.keyClick(terms[key], Key.Key_Return)
        settle(shown, qtbot)
    said = shown.counter.shop.terms
    assert (said.hour, said.margin, said.waste, said.currency) == (40, 0.2, 0.3, "£")
    assert shown.rooms.orders.rows.rows[0].head.text() != before
    QTest.keyClicks(terms["margin"], "lots")
    QTest.keyClick(terms["margin"], Key.Key_Return)
    assert "no number" in shown.notice.said.text()
    assert terms["margin"].text() == "20%"


def test_what_it_costs_follows_the_draft(shown: Window, qtbot: QtBot) -> None:
    shown.acts["orders"].trigger()
    was = shown.costing.text()
    assert was.startswith("€ ")
    shown.bench.type("panel.lining", "none", "no lining")
    qtbot.waitUntil(lambda: shown.bench.fresh, timeout=20_000)
    now, by = shown.costing.text().split("  ")
    assert float(now[2:]) < float(was[2:])
    assert float(by.strip("()")) == pytest.approx(float(now[2:]) - float(was[2:]), abs=0.006)
    assert "work, Whetstone" in shown.costing.toolTip()


def test_a_book_that_cannot_be_used_is_told_and_the_window_goes_on(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch,
                                                                   tmp_path: Path) -> None:  # fmt: skip
    (tmp_path / "book.tailorshop").write_text("no book at all\n" * 100)
    monkeypatch.setenv(state.SHOP_BOOK, str(tmp_path / "book.tailorshop"))
    shown = window(demo_name="whetstone")
    shown.counter.demo = False
    qtbot.addWidget(shown)
    shown.show()
    shown.pages.turn_to(shown.rooms.orders)
    qtbot.waitUntil(lambda: "no shop book" in shown.notice.said.text(), timeout=10_000)
    QTest.keyClick(shown.rooms.orders, Key.Key_N)
    assert shown.counter.shop is None
    shown.pages.turn_to(shown.rooms.orders)
    assert not shown.pages.in_the_shop
    shown.bench.clean = shown.bench.job
    shown.close()


def test_the_demos_orders_are_wanted_from_today_on_until_a_hand_changes_them(
    shown: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    class Later(date):
        @classmethod
        def today(cls) -> date:
            return date.today() + timedelta(days=40)

    def due() -> date | None:
        again = window(demo_name="radio")
        qtbot.addWidget(again)
        again.counter.open()
        settle(again, qtbot)
        found = order(again, "kit-1").wanted
        again.close()
        return found

    assert due() == date.today() + timedelta(days=9)
    monkeypatch.setattr("tailor.desk.counter.date", Later)
    assert due() == date.today() + timedelta(days=49)
    shown.counter.put("count", (shown.counter.shop.stock[0], replace(shown.counter.shop.stock[0], there=77)))
    settle(shown, qtbot)
    monkeypatch.setattr("tailor.desk.counter.date", date)
    assert due() == date.today() + timedelta(days=49)  # what a hand changed stays as it is


def test_two_windows_on_one_book_tell_each_other(shown: Window, qtbot: QtBot) -> None:
    other = window(demo_name="radio")
    qtbot.addWidget(other)
    other.show()
    other.pages.turn_to(other.rooms.orders)
    settle(other, qtbot)

    def one_more(of: Window) -> None:
        """One more of the card holders, by the keys of one window."""
        of.activateWindow()
        qtbot.waitUntil(of.isActiveWindow, timeout=10_000)
        card = next(row for row in of.rooms.orders.rows.rows if row.id == "fair").cards[0]
        card.setFocus()
        QTest.keyClick(card, Key.Key_Plus)
        settle(of, qtbot)

    one_more(shown)
    assert [order(each, "fair").lines[0].count for each in (shown, other)] == [7, 6]  # it does not know yet
    one_more(other)
    assert "changed by another bench" in other.notice.said.text()
    assert order(other, "fair").lines[0].count == 7  # now it does
    one_more(other)
    assert order(other, "fair").lines[0].count == 8
    other.bench.clean = other.bench.job
    other.close()


def test_a_newer_book_is_shown_and_left_as_it_is(shown: Window, qtbot: QtBot) -> None:
    shown.counter.finish()
    path = state.folder() / DEMO
    with closing(sqlite3.connect(path)) as own:
        own.execute("UPDATE alembic_version SET version_num = 'much later'")
        own.commit()
        own.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    was = path.read_bytes()
    newer = window(demo_name="radio")
    qtbot.addWidget(newer)
    newer.show()
    for page in (newer.rooms.orders, newer.rooms.stockroom):
        newer.pages.turn_to(page)
        settle(newer, qtbot)
    assert "newer Tailor" in newer.rooms.stockroom._said.text()
    assert not any(
        field.isEnabled()
        for field in (*newer.rooms.orders.sheet.fields.values(), *newer.rooms.stockroom.fields.values())
    )
    newer.pages.turn_to(newer.rooms.orders)
    settle(newer, qtbot)
    assert any(line.startswith("in all €") for line in newer.rooms.orders.sheet.bill.said)
    QTest.keyClick(newer.rooms.orders, Key.Key_N)
    newer.rooms.orders.add_in_hand()
    settle(newer, qtbot)
    assert "newer Tailor" in newer.notice.said.text()
    newer.close()
    assert path.read_bytes() == was


def test_of_many_orders_those_to_be_made_are_shown(shown: Window, qtbot: QtBot) -> None:
    first = date.today()
    many = [Order(f"o{n}", f"order {n}", state=State.GONE if n < 40 else State.TAKEN, wanted=first + timedelta(days=n))
            for n in range(140)]  # fmt: skip
    shown.counter.put("many", *((None, each) for each in many))
    settle(shown, qtbot)
    names = [row.id for row in shown.rooms.orders.rows.rows]
    assert len(names) == MOST + DONE
    assert names[:MOST] == sorted(names[:MOST], key=lambda id_: order(shown, id_).due)
    assert names[MOST:] == [f"o{n}" for n in range(39, 27, -1)]  # of what is done with, the last
    assert f"{144 - MOST - DONE} more are in the shop book" in shown.rooms.orders._said.text()
