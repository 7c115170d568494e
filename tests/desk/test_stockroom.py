"""Leather and stock at the window: taken in, counted, used up, and undone."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import shapely
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit
from pytestqt.qtbot import QtBot

from tailor.core.cut.usual import usual
from tailor.core.shop.leathers import Skin, Sort
from tailor.core.shop.stock import Article
from tailor.desk.cards import Card
from tailor.desk.window import Window
from tailor.standins.hide_camera import Over, about, photograph, seen_at
from tests.desk.hands import laid_down

Key = Qt.Key


@pytest.fixture
def shown(qtbot: QtBot) -> Iterator[Window]:
    """A window with the demo's shop, turned to leather and stock."""
    with laid_down("whetstone", qtbot) as made:
        made.acts["stockroom"].trigger()
        settle(made, qtbot)
        yield made


def settle(shown: Window, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: shown.counter.shop is not None and not shown.counter.busy, timeout=30_000)
    qtbot.waitUntil(lambda: not shown.rooms.stockroom.taking.reading.busy and not shown.counter.busy, timeout=30_000)


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
    room = shown.rooms.stockroom
    shoulder = sort(shown, "shoulder, 2 mm")
    next(row for row in room.rows.rows if row.id == shoulder.id).head.click()
    assert room.fields["name"].text() == "shoulder, 2 mm"
    was = len(skins(shown, shoulder))
    svg = tmp_path / "patch.svg"
    svg.write_text('<svg xmlns="http://www.w3.org/2000/svg" width="300mm" height="200mm" viewBox="0 0 300 200">'
                   '<path d="M0 0 H300 V200 H0 Z"/><path d="M40 40 H60 V60 H40 Z"/></svg>')  # fmt: skip
    for text, area in (("400x250mm", 0.1), ("shoulder 9 ft²", 9 * 0.09290304), (str(svg), 0.06 - 0.0004)):
        typed(room.taking.coming, text)
        settle(shown, qtbot)
        was += 1
        assert len(skins(shown, shoulder)) == was
        newest = max(abs(skin.area / 1e6 - area) < 1e-6 for skin in skins(shown, shoulder))
        assert newest, text
    typed(room.taking.coming, "shoulder 900")
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
    room = shown.rooms.stockroom
    room._choose("firm-2")
    typed(room.fields["price"], "51,5")
    settle(shown, qtbot)
    typed(room.fields["thickness"], "5 oz")
    settle(shown, qtbot)
    assert (sort(shown, "shoulder, 2 mm").price, round(sort(shown, "shoulder, 2 mm").thickness, 2)) == (51.5, 1.98)
    typed(room.fields["thickness"], "40")
    assert "40 mm is no leather" in shown.notice.said.text()
    assert room.fields["thickness"].text().startswith("2.0")
    typed(room.fields["tannage"], "9" * 400)
    settle(shown, qtbot)
    assert "tannage: it should have at most 120 characters" in shown.notice.said.text()
    assert room.fields["tannage"].text() == sort(shown, "shoulder, 2 mm").tannage
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
    room.new.click()
    settle(shown, qtbot)
    assert len([each for each in shown.counter.shop.sorts if each.name == "calf, thin"]) == 2
    QTest.keyClick(room, Key.Key_Escape)
    assert not shown.pages.in_the_shop


def test_a_fault_of_ours_is_told_and_nobody_waits_for_ever(
    shown: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fails(*_: object) -> str:
        raise RuntimeError("broken")

    before = shown.counter.shop
    monkeypatch.setattr("tailor.files.shop_book.book.Book.put", fails)
    with qtbot.capture_exceptions() as written:
        typed(shown.rooms.stockroom.fields["colour"], "olive")
        settle(shown, qtbot)
    assert [str(fault[1]) for fault in written] == ["broken"]  # and goes on to be written down
    assert "Tailor itself is at fault (RuntimeError)" in shown.notice.said.text()
    assert shown.counter.shop.sorts == before.sorts


def test_what_all_orders_lack_is_marked(shown: Window, qtbot: QtBot) -> None:
    assert not any("buy" in said for said in shown.rooms.stockroom.stock.said)
    shown.acts["orders"].trigger()
    qtbot.waitUntil(lambda: "" in shown.rooms.orders.reckoned, timeout=60_000)
    shown.acts["stockroom"].trigger()
    assert {said for said in shown.rooms.stockroom.stock.said if "buy" in said} == {
        "rapid rivet 9, 9.0 mm · buy 3", "snap 12, 4.5 mm · buy 2",
    }  # fmt: skip


def test_a_hide_is_marked_up_by_mouse_and_by_keys(shown: Window, qtbot: QtBot) -> None:
    room = shown.rooms.stockroom
    typed(room.taking.coming, "800x400mm")
    settle(shown, qtbot)
    skin = next(skin for skin in skins(shown, room.sort) if skin.area == pytest.approx(320_000))

    def now() -> Skin:
        return next(each for each in shown.counter.shop.skins if each.id == skin.id)

    card = next(c for c in room.rows.findChildren(Card) if c.property("skin") == skin.id)
    card.setFocus()
    QTest.keyClick(card, Key.Key_Return)
    board = room.marking.board
    assert board.hasFocus()
    assert not room.rows.isVisible()
    assert board.cross == (400, 200)
    for key, many in ((Key.Key_Space, 1), (Key.Key_Right, 10), (Key.Key_Space, 1), (Key.Key_Up, 5), (Key.Key_Space, 1),
                      (Key.Key_Left, 10), (Key.Key_Space, 1), (Key.Key_Return, 1)):  # fmt: skip
        for _ in range(many):
            QTest.keyClick(board, key)
    px = board.view.map(QPointF(100, 100)).toPoint(), board.view.map(QPointF(300, 250)).toPoint()
    QTest.keyClick(board, Key.Key_3)
    QTest.mousePress(board, Qt.MouseButton.LeftButton, pos=px[0])  # drawn round, before the first is in the book
    for at in (QPoint(px[1].x(), px[0].y()), px[1], QPoint(px[0].x(), px[1].y())):
        QTest.mouseMove(board, at)
    QTest.mouseRelease(board, Qt.MouseButton.LeftButton, pos=QPoint(px[0].x(), px[1].y()))
    settle(shown, qtbot)
    assert now().area == pytest.approx(320_000 - 100 * 50)
    (zone,) = now().hide.zones
    assert zone.grade == "loose"
    assert shapely.Polygon(zone.ring).area == pytest.approx(200 * 150, rel=0.05)
    for key in (Key.Key_Space, Key.Key_Return):  # one corner is nothing
        QTest.keyClick(board, key)
    assert "too small" in shown.notice.said.text()
    QTest.keyClick(board, Key.Key_N)
    assert "scar in hand, 50 cm²" in room.marking.in_hand.text()
    QTest.keyClick(board, Key.Key_Delete)
    settle(shown, qtbot)
    assert now().area == pytest.approx(320_000)
    shown.acts["undo"].trigger()
    settle(shown, qtbot)
    assert len(board.leather.forbidden) == len(now().hide.forbidden) == 1  # type: ignore[union-attr]
    board.chosen = -1
    QTest.keyClick(board, Key.Key_4)
    QTest.keyClick(board, Key.Key_Space)
    assert board.field.hasFocus()
    QTest.keyClicks(board.field, "3.1")
    QTest.keyClick(board.field, Key.Key_Return)
    assert board.hasFocus()
    QTest.mouseClick(board, Qt.MouseButton.LeftButton, pos=board.view.map(QPointF(100, 100)).toPoint())  # loose or not
    QTest.keyClicks(board.field, "2,2 mm")
    QTest.mouseClick(board, Qt.MouseButton.LeftButton, pos=px[1])  # typed, not confirmed, and not lost
    QTest.keyClicks(board.field, "45")
    QTest.keyClick(board.field, Key.Key_Return)
    assert "45 mm is no leather" in shown.notice.said.text()
    assert board.field.text() == "45"
    QTest.keyClick(board.field, Key.Key_Escape)
    assert board.hasFocus()
    settle(shown, qtbot)
    assert [each.thick for each in now().hide.gauged] == [3.1, 2.2]
    assert now().hide.gauged[1][:2] == pytest.approx((100, 100), abs=2)
    board.grab()
    QTest.keyClick(board, Key.Key_B)
    assert "2.2 mm in hand" in room.marking.in_hand.text()
    QTest.keyClick(board, Key.Key_Delete)
    settle(shown, qtbot)
    assert [each.thick for each in now().hide.gauged] == [3.1]
    board.chosen = -1
    QTest.keyClick(board, Key.Key_Escape)
    assert room.rows.isVisible()
    assert "3.1 mm" in next(c for c in room.rows.findChildren(Card) if c.property("skin") == skin.id).thing.said
    assert room.focusWidget().property("skin") == skin.id


def test_a_hide_is_taken_in_from_a_photo_and_looked_at(shown: Window, qtbot: QtBot, tmp_path: Path) -> None:
    room = shown.rooms.stockroom
    hide = usual("shoulder", 0.9, "shoulder").ring
    shot = Over((1600, 1200), floor="stone", leather="brown", seed=4)
    (tmp_path / "new one.jpg").write_bytes(photograph(hide, about(hide, np.random.default_rng(4)), shot))
    room.taking.photographed(tmp_path / "new one.jpg")
    qtbot.waitUntil(lambda: room.marking.board.isVisible(), timeout=60_000)
    settle(shown, qtbot)
    skin = next(skin for skin in shown.counter.shop.skins if skin.hide.id == "new one")
    assert skin.area == pytest.approx(0.9e6, rel=0.01)
    assert "m² ±" in shown.notice.said.text()
    assert room.marking.board.picture is not None
    shot_ = room.marking.board.grab().toImage()
    at = room.marking.board.view.map(QPointF(*skin.hide.ring.mean(axis=0).tolist())).toPoint()
    inside, edge = shot_.pixelColor(at), shot_.pixelColor(4, 4)
    assert inside.red() > inside.blue() + 30  # the leather of the photo
    assert edge.red() - edge.blue() < 30
    for _ in range(2):  # its back edge on top; the photo turns with it
        QTest.keyClick(room.marking.board, Key.Key_T)
    settle(shown, qtbot)
    turned = next(each for each in shown.counter.shop.skins if each.id == skin.id).hide
    corner = skin.hide.ring[skin.hide.ring[:, 1].argmax()]
    assert turned.ring[turned.ring[:, 1].argmin()] == pytest.approx(skin.hide.ring.max(axis=0) - corner, abs=1e-6)
    found = room.marking.board._photo()
    assert found is not None
    image, to_mm = found
    for at in (turned.ring.mean(axis=0), np.array([-150.0, -150.0])):
        px = to_mm.inverted()[0].map(QPointF(*at.tolist())).toPoint()
        colour = image.pixelColor(px)
        assert (colour.red() > colour.blue() + 30) == (at[0] > 0)
    QTest.keyClick(room.marking.board, Key.Key_Escape)
    assert room.rows.isVisible()


def test_a_photo_without_sheets_is_read_by_tape(shown: Window, qtbot: QtBot, tmp_path: Path) -> None:
    room = shown.rooms.stockroom
    hide = usual("shoulder", 0.9, "shoulder").ring
    low, high = hide.min(axis=0) - 30, hide.max(axis=0) + 30
    corners = np.array([low, [high[0], low[1]], high, [low[0], high[1]]])
    shot = Over((1600, 1200), floor="stone", leather="brown", seed=4)
    (tmp_path / "floor.jpg").write_bytes(photograph(hide, [], shot))
    px = seen_at(corners, hide, [], shot)
    room.taking.photographed(tmp_path / "floor.jpg")
    tape = room.taking.taping
    qtbot.waitUntil(tape.isVisible, timeout=30_000)
    assert "no marker sheet" in tape._said.text()
    assert not room.rows.isVisible()
    tape.read()
    assert "0 points are pressed" in shown.notice.said.text()
    photo = tape.photo
    for at in px[:3]:
        QTest.mouseClick(photo, Qt.MouseButton.LeftButton, pos=photo.view.map(QPointF(*at.tolist())).toPoint())
    photo.cross = QPointF(*px[3].tolist()) + QPointF(3, 0)
    QTest.keyClick(photo, Key.Key_Left, Qt.KeyboardModifier.ShiftModifier, 0)
    for _ in range(2):
        QTest.keyClick(photo, Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    QTest.keyClick(photo, Key.Key_Space)
    assert photo.spots[3] == pytest.approx(tuple(px[3]), abs=0.01)
    first = photo.view.map(QPointF(*px[0].tolist())).toPoint()
    QTest.mousePress(photo, Qt.MouseButton.LeftButton, pos=first + QPoint(25, -25))  # near the first, which comes there
    QTest.mouseMove(photo, first)
    QTest.mouseRelease(photo, Qt.MouseButton.LeftButton, pos=first)
    assert ((px > 0) & (px < [1600, 1200])).all()
    assert np.abs(np.array(photo.spots) - px).max() < 2 / photo.view.m11()
    typed(tape.fields[0], "1")
    assert "2 to 3: it is blank" in shown.notice.said.text()
    pairs = ((0, 1), (1, 2), (2, 3), (3, 0), (0, 2), (1, 3))
    for field, (a, b) in zip(tape.fields, pairs, strict=True):
        field.setText(f"{np.hypot(*(corners[a] - corners[b])) / 10:.1f} cm")
    QTest.mouseClick(tape.reads, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: room.marking.board.isVisible(), timeout=60_000)
    settle(shown, qtbot)
    skin = next(skin for skin in shown.counter.shop.skins if skin.hide.id == "floor")
    assert skin.area == pytest.approx(0.9e6, rel=0.025)
    assert not tape.isVisible()
    room.taking.photographed(tmp_path / "floor.jpg")
    qtbot.waitUntil(tape.isVisible, timeout=30_000)
    assert not photo.spots
    assert not any(field.text() for field in tape.fields)  # of another photo, for all one knows
    QTest.keyClick(photo, Key.Key_Escape)
    assert room.rows.isVisible()
