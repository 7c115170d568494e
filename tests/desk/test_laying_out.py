"""Laying out in the window: pieces on leather, by mouse and by keys."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest
import shapely
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from tailor.core.cut import exact
from tailor.core.cut.laying import Laying
from tailor.core.cut.marked import gauged
from tailor.desk.start import window
from tailor.desk.window import Window

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def laid(qtbot):
    shown = window(demo_name="kit-bag")
    qtbot.addWidget(shown)
    shown.resize(1280, 800)
    shown.show()
    shown.rooms.laying_out.on.named.setText("1300x700mm")
    QTest.mouseClick(shown.strap.keepers["Lay out"], LEFT)
    settled(qtbot, shown)
    yield shown
    shown.close()


def settled(qtbot, shown: Window) -> None:
    qtbot.waitUntil(
        lambda: bool(shown.rooms.laying_out.rests) and not shown.rooms.laying_out.room.busy, timeout=120_000
    )


def holds(shown: Window) -> Laying:
    laying = shown.rooms.laying_out.laying
    assert laying is not None
    assert not list(exact.faults(laying, list(shown.rooms.laying_out.lying.laid.values())))
    return laying


def name(shown: Window, last: str) -> str:
    return next(t.id for t in shown.rooms.laying_out.laying.templates if t.name == last)


def test_a_draft_lies_on_leather_and_follows_its_changes(qtbot, laid):
    laying = holds(laid)
    assert {t.id for t in laying.templates} == set(laid.rooms.laying_out.lying.laid)
    assert "6 of 6 lie" in laid.rooms.laying_out._said.text()
    before = laying.template(name(laid, "body")).shape.area
    laid.rooms.laying_out.rests = ()
    laid.bench.type("leather.thickness", "3.2", "thicker")
    settled(qtbot, laid)
    assert holds(laid).template(name(laid, "body")).shape.area > before + 50


def test_a_piece_is_dragged_and_the_rest_makes_room(qtbot, laid):
    table, out = laid.rooms.laying_out.table, laid.rooms.laying_out
    cap, body = name(laid, "left cap"), name(laid, "body")
    spot = table.spots()[cap].mean(axis=0)
    onto = table.spots()[body].mean(axis=0)
    QTest.mousePress(table, LEFT, pos=QPoint(*spot.astype(int)))
    out.rests = ()
    table.mouseMoveEvent(_move(onto))
    QTest.mouseRelease(table, LEFT, pos=QPoint(*onto.astype(int)))
    settled(qtbot, laid)
    holds(laid)
    assert cap in out.lying.pins
    assert len(out.lying.laid) == 6
    assert np.linalg.norm(table.spots()[cap].mean(axis=0) - onto) < 3
    laid.acts["undo"].trigger()
    assert np.linalg.norm(table.spots()[cap].mean(axis=0) - spot) < 1
    assert cap not in out.lying.pins
    laid.acts["redo"].trigger()
    assert cap in out.lying.pins


def _move(to):
    from PyQt6.QtCore import QEvent
    from PyQt6.QtGui import QMouseEvent

    return QMouseEvent(QEvent.Type.MouseMove, QPointF(*to), LEFT, LEFT, Qt.KeyboardModifier.NoModifier)


def test_off_the_leather_a_piece_goes_back_with_a_sentence(qtbot, laid):
    table, out = laid.rooms.laying_out.table, laid.rooms.laying_out
    cap = name(laid, "left cap")
    before = out.lying
    spot = table.spots()[cap].mean(axis=0).astype(int)
    QTest.mousePress(table, LEFT, pos=QPoint(*spot))
    table.mouseMoveEvent(_move((3.0, 3.0)))
    QTest.mouseRelease(table, LEFT, pos=QPoint(3, 3))
    assert out.lying == before
    assert "put it elsewhere" in laid.notice.said.text()


def test_pieces_are_gone_through_moved_turned_and_put_aside_by_keys(qtbot, laid):
    table, out = laid.rooms.laying_out.table, laid.rooms.laying_out
    assert laid.focusWidget() is table
    ids = [t.id for t in out.laying.templates]
    for id_ in ids[:3]:
        QTest.keyClick(table, Qt.Key.Key_Tab)
        assert table.chosen_id == id_
    chosen = ids[2]
    was = out.lying.laid[chosen]
    out.rests = ()
    QTest.keyClick(table, Qt.Key.Key_R)
    settled(qtbot, laid)
    turned = out.lying.laid[chosen]
    assert abs((turned.degrees - was.degrees) % 360) == pytest.approx(180)
    ring = out.laying.template(chosen).ring
    assert np.allclose(turned.of(ring).mean(axis=0), was.of(ring).mean(axis=0), atol=1e-6)
    out.rests = ()
    QTest.keyClick(table, Qt.Key.Key_Delete)
    settled(qtbot, laid)
    assert chosen not in out.lying.laid
    assert chosen in table.beside()
    assert "put aside" in out._said.text()
    QTest.keyClick(table, Qt.Key.Key_Delete)
    qtbot.waitUntil(lambda: chosen in out.lying.laid, timeout=30_000)
    holds(laid)


def test_what_is_too_long_says_so_and_leather_is_typed(qtbot, laid, tmp_path):
    out = laid.rooms.laying_out
    out.rests = ()
    out.on.name("400x300mm; 1200x500mm")
    settled(qtbot, laid)
    laying = holds(laid)
    small = shapely.Polygon(laying.hides[0].ring)
    assert small.area == pytest.approx(400 * 300)
    assert any(one.hide == laying.hides[0].id for one in out.lying.laid.values())
    out.rests = ()
    out.on.name("500x800mm")
    settled(qtbot, laid)
    out.table.choose(name(laid, "body"))
    assert "at most 500" in out._said.text()
    out.on.name("wide x 300mm")
    qtbot.waitUntil(lambda: "wide" in laid.notice.said.text(), timeout=20_000)
    out.write_into(tmp_path)
    qtbot.waitUntil(lambda: "Written" in laid.notice.said.text(), timeout=20_000)
    told = json.loads((tmp_path / "layout.json").read_text())
    assert {one["id"] for one in told["placed"]} == set(out.lying.laid)
    assert name(laid, "body") in {one["id"] for one in told["left"]}
    assert (tmp_path / "layout.pdf").read_bytes().startswith(b"%PDF")


def test_pins_outlast_laying_again_and_more_of_the_job_is_laid(qtbot, laid):
    table, out = laid.rooms.laying_out.table, laid.rooms.laying_out
    cap = name(laid, "right cap")
    table.choose(cap)
    at = out.lying.laid[cap]
    QTest.keyClick(table, Qt.Key.Key_P)
    assert out.lying.pins == {cap}
    out.rests = ()
    out.again.click()
    settled(qtbot, laid)
    holds(laid)
    assert out.lying.laid[cap] == at
    QTest.keyClick(table, Qt.Key.Key_P)
    assert not out.lying.pins
    out.rests = ()
    out.on.count.setValue(2)
    settled(qtbot, laid)
    assert len(holds(laid).templates) == 12
    assert "12 of 12 lie" in out._said.text() or out.table.chosen_id == cap


def test_a_welt_is_turned_over_and_a_drawn_offcut_is_used_first(qtbot, tmp_path):
    (hide := tmp_path / "scrap.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="420mm" height="260mm" viewBox="0 0 420 260">'
        '<path d="M0 0 L420 0 L400 260 L20 250 Z"/><circle cx="330" cy="130" r="12"/></svg>'
    )
    shown = window(demo_name="eaves-blade")
    qtbot.addWidget(shown)
    shown.resize(1100, 740)
    shown.show()
    shown.show_stage("Lay out")
    out = shown.rooms.laying_out
    out.on.named.setText("700x500mm")
    out.rests = ()
    out.on.add(str(hide))
    settled(qtbot, shown)
    laying = holds(shown)
    assert [hide.id for hide in laying.hides] == ["scrap", "700x500mm"]
    assert len(laying.hides[0].forbidden) == 1
    assert {one.hide for one in out.lying.laid.values()} == {"scrap"}
    welt = name(shown, "welt")
    out.table.choose(welt)
    out.rests = ()
    was = out.lying.laid[welt]
    QTest.keyClick(out.table, Qt.Key.Key_V)
    if "put it elsewhere" not in shown.notice.said.text():
        settled(qtbot, shown)
        assert out.lying.laid[welt].mirrored != was.mirrored
    holds(shown)
    body = name(shown, "body")
    out.table.choose(body)
    before = out.lying
    QTest.keyClick(out.table, Qt.Key.Key_V)  # which shows its grain, and is not turned over
    assert out.lying == before
    shown.close()
    assert out.room.process is None or out.room.process.poll() is not None


def test_where_the_laying_process_ends_by_itself_that_is_said(qtbot, laid):
    out = laid.rooms.laying_out
    out.on.count.setValue(3)
    assert out.room.process is not None
    out.room.process.kill()
    qtbot.waitUntil(lambda: not out.room.busy, timeout=20_000)
    assert "ended before it had begun" in laid.notice.said.text()
    out.rests = ()
    out.again.click()
    settled(qtbot, laid)
    assert len(holds(laid).templates) == 18


def test_what_is_pinned_goes_with_its_hide_when_an_offcut_is_put_before_it(qtbot, laid):
    out, cap = laid.rooms.laying_out, name(laid, "left cap")
    out.table.choose(cap)
    QTest.keyClick(out.table, Qt.Key.Key_P)
    was, foot = out.lying.laid[cap], out.laying.hides[0].ring.min(axis=0)
    out.rests = ()
    out.on.add("300x250mm")
    qtbot.waitUntil(lambda: len(out.laying.hides) == 2, timeout=20_000)
    settled(qtbot, laid)
    holds(laid)
    now = out.lying.laid[cap]
    assert now.hide == was.hide
    assert np.subtract(now.move, out.laying.hides[1].ring.min(axis=0)) == pytest.approx(np.subtract(was.move, foot))
    assert cap in out.lying.pins


def test_when_all_is_put_aside_nothing_is_laid_and_it_comes_back(qtbot, laid):
    out = laid.rooms.laying_out
    ids = [t.id for t in out.laying.templates]
    for id_ in ids:
        out.table.aside.emit(id_)
    settled(qtbot, laid)
    assert out.lying.laid == {}
    assert "fault" not in laid.notice.said.text()
    for _ in ids:
        laid.acts["undo"].trigger()
    assert set(out.lying.laid) == set(ids)


def test_on_the_shops_leather_each_piece_lies_on_its_own_and_what_is_cut_is_noted(qtbot: QtBot) -> None:
    shown = window(demo_name="whetstone")
    qtbot.addWidget(shown)
    shown.show()
    qtbot.waitUntil(lambda: shown.bench.fresh, timeout=20_000)
    out = shown.rooms.laying_out
    shown.show_stage("Lay out")
    qtbot.waitUntil(lambda: bool(out.lying.laid) and not out.busy, timeout=60_000)
    usual = shown.costing.text()
    assert not out.cut.isVisible()
    out.on.name("shop")
    qtbot.waitUntil(lambda: len(out.lying.laid) == 4 and bool(out.takes), timeout=60_000)
    lies = {one.id.split("/")[1]: one.hide for one in out.lying.laid.values()}
    assert lies == {"front": "soft half", "back": "soft half", "front lining": "lining", "back lining": "lining"}
    shop = shown.counter.shop
    assert shop is not None
    assert shown.costing.text() != usual  # what it takes as it lies, and no longer the usual waste
    found, out.rests = out.rests, out.rests[:-1]
    assert not out.takes  # what was found is of other hides than lie there now
    out.rests = found
    before = {skin.id: skin.area for skin in shop.skins}
    gone = sum(t.shape.area for t in out.laying.templates)
    out.cut.click()
    qtbot.waitUntil(lambda: not shown.counter.busy, timeout=20_000)
    after = {skin.id: skin.area for skin in shown.counter.shop.skins if not skin.used}
    assert sum(before.values()) - sum(after.values()) >= gone
    assert after["half"] < before["half"]
    qtbot.waitUntil(lambda: len(out.lying.laid) == 4 and not out.busy, timeout=60_000)  # once more, on what is left
    assert next(h for h in out.laying.hides if h.id == "soft half").whole.area == pytest.approx(after["half"])
    shown.counter.undo()
    qtbot.waitUntil(lambda: not shown.counter.busy, timeout=20_000)
    assert {skin.id: skin.area for skin in shown.counter.shop.skins} == pytest.approx(before)
    half = next(skin for skin in shown.counter.shop.skins if skin.id == "half")
    too_thick = replace(half, hide=gauged(half.hide, tuple(half.hide.ring.mean(axis=0)), 3.0))
    shown.counter.put("read", (half, too_thick))
    qtbot.waitUntil(lambda: len(out.lying.laid) == 2 and all("lining" in str(id_) for id_ in out.lying.laid))
    front = next(t for t in out.laying.templates if t.name == "front")
    assert "no leather that is not loose" in out.laying.why_never(front)
    assert "mm thick" in out.laying.why_never(front)
    shown.bench.clean = shown.bench.job
    shown.close()


def test_words_at_the_foot_are_whole_in_a_small_window(qtbot, laid):
    out = laid.rooms.laying_out
    out.on.name("; ".join(f"{1300 + n}x700mm" for n in range(8)))
    qtbot.waitUntil(lambda: len(out.on.hides) == 8, timeout=20_000)
    settled(qtbot, laid)
    out.rests = tuple(replace(out.rests[0], hide=hide.id, used=0.5) for hide in out.on.hides)
    out._say()
    for wide, high in ((1280, 800), (1200, 800), (1000, 700)):
        laid.resize(wide, high)
        said, over = out._said, wide < 1100  # the buttons, and not beside them
        qtbot.waitUntil(lambda over=over, said=said: (said.width() > 0.9 * out.width()) == over)
        qtbot.wait(50)
        assert said.text().startswith("6 of 6 lie · 1300x700mm: 50% used")
        assert said.text().endswith("mm · …")  # no more than is whole
        assert said.toolTip().count("50% used") == 8
        needs = said.fontMetrics().boundingRect(
            0, 0, said.contentsRect().width(), 1000, int(Qt.TextFlag.TextWordWrap), said.text()
        )
        assert needs.height() <= said.height()


def test_hides_are_compared_and_one_of_them_is_taken(qtbot, laid):
    out = laid.rooms.laying_out
    out.on.name("1300x700mm; 500x400mm; 2000x900mm")
    qtbot.waitUntil(lambda: len(out.on.hides) == 3, timeout=20_000)
    settled(qtbot, laid)
    QTest.mouseClick(out.others, LEFT)
    qtbot.waitUntil(lambda: len(out.compared.rows) == 3, timeout=60_000)
    sizes = [one.id for one, _, _ in out.compared.found]
    assert sorted(sizes) == sorted(["1300x700mm", "500x400mm", "2000x900mm"])
    told = [button.text() for button in out.compared.rows]
    assert told[0].startswith("1300x700mm, 0.91 m²: all 6 lie")  # the smallest that does
    assert told[1].startswith("2000x900mm, 1.80 m²: all 6 lie")
    assert told[2].startswith("500x400mm, 0.20 m²: ")
    for _, laying, spread in out.compared.found:
        assert not list(exact.faults(laying, list(spread.laid)))
        (rest,) = spread.rests
        area = sum(laying.template(one.id).shape.area for one in spread.laid)
        assert rest.used == pytest.approx(area / laying.hides[0].whole.area)
    out.compared._show()  # as when one more has just been tried: at once in hand
    assert laid.focusWidget() is out.compared.rows[0]
    QTest.keyClick(laid.focusWidget(), Qt.Key.Key_Down)
    assert laid.focusWidget() is out.compared.rows[1]
    out.compared._show()
    assert laid.focusWidget() is out.compared.rows[1]  # the same hide, on a row made anew
    QTest.keyClick(laid.focusWidget(), Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: [hide.id for hide in out.on.hides] == ["2000x900mm"], timeout=20_000)
    settled(qtbot, laid)
    assert not out.compared.isVisible()
    assert {one.hide for one in out.lying.laid.values()} == {"2000x900mm"}
    QTest.mouseClick(out.others, LEFT)
    QTest.keyClick(out.compared, Qt.Key.Key_Escape)
    assert not out.compared.isVisible()
