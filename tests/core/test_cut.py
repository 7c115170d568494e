"""Pieces laid on leather: what lies is asked of the real outlines, by arithmetic of its own."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
import shapely.affinity

from tailor import demo
from tailor.core.cut import asked, exact, knife, layer
from tailor.core.cut.gathered import gathered
from tailor.core.cut.laying import Asked, Hide, Laid, Laying, Template, Turns, Wanted, in_row
from tailor.core.cut.left import rests
from tailor.core.cut.search import Search
from tailor.core.job import draft
from tests.leather import HIGH, WIDE, box, holds, pieces, side, star
from tests.sweeps import some


@pytest.mark.parametrize("seed", some(range(4)))
def test_all_pieces_find_room_where_there_is_plenty_and_every_rule_holds(seed):
    hide = side(seed)
    laying = Laying((hide,), pieces(seed, 0.45, hide))
    found = layer.laid_out(laying, seed, seconds=20)
    assert found.share == pytest.approx(1.0)
    holds(laying, found.laid)


def test_where_there_is_too_much_what_lies_holds_and_the_same_steps_give_the_same():
    hide = side(7)
    laying = Laying((hide,), pieces(7, 0.85, hide))
    first = layer.laid_out(laying, 4, seconds=None, steps=60)
    holds(laying, first.laid)
    assert 0.75 < first.share < 1.0
    assert layer.laid_out(laying, 4, seconds=None, steps=60) == first
    longer = layer.laid_out(laying, 4, seconds=None, steps=160)
    assert longer.share > first.share
    holds(laying, longer.laid)


def test_an_offcut_is_used_first_and_a_pin_stays():
    offcut, whole = Hide("offcut", box(300, 200), priority=0), Hide("whole", box(900, 600, (400, 0)), priority=1)
    pin = Laid("pinned", "whole", False, 30.0, (700.0, 200.0))
    small = [Template(f"s{n}", "s", box(90, 90)) for n in range(4)]
    big, pinned = Template("big", "b", box(400, 250)), Template("pinned", "p", box(120, 80), pinned=pin)
    laying = Laying((whole, offcut), (big, pinned, *small))
    found = layer.laid_out(laying, 0, seconds=10)
    holds(laying, found.laid)
    where = {one.id: one for one in found.laid}
    assert {where[t.id].hide for t in small} == {"offcut"}
    assert where["big"].hide == "whole"
    assert where["pinned"] == pin
    spread = [Laid(t.id, "whole", False, 0.0, (420.0 + 100 * n, 500.0)) for n, t in enumerate(small)]
    again = layer.laid_out(laying, 0, seconds=10, begin=spread)  # as they lay before: on the hide
    assert {one.hide for one in again.laid if str(one.id).startswith("s")} == {"offcut"}


def test_a_pin_stays_wherever_it_is_and_what_it_lies_on_makes_way():
    hide = Hide("h", box(300, 200))
    pin = Laid("pin", "h", False, 0.0, (-20.0, 20.0))  # a little off the leather
    turned = Template("turned", "t", box(90, 60), turns=Turns((-90.0,), 3.0))
    laying = Laying(
        (hide,), (Template("pin", "p", box(120, 120), pinned=pin), Template("b", "b", box(120, 150)), turned)
    )
    found = layer.laid_out(laying, 0, seconds=5, begin=[Laid("b", "h", False, 0.0, (30.0, 30.0))])
    where = {one.id: one for one in found.laid}
    assert where["pin"] == pin
    assert len(where) == 3
    assert not [id_ for id_, _ in exact.faults(laying, found.laid) if id_ != "pin"]
    assert where["turned"].degrees == pytest.approx(-90, abs=3)  # told as it was asked
    two = replace(
        laying, templates=(laying.templates[0], replace(laying.templates[0], id="c", pinned=replace(pin, id="c")))
    )
    assert len(layer.laid_out(two, 0, seconds=1).laid) == 2  # and so do two that lie on one another


def test_what_lies_under_a_pin_is_taken_up_and_laid_on_other_leather():
    hides = in_row([Hide("one", box(200, 100)), Hide("two", box(200, 100))])
    pin = Laid("a", "one", False, 0.0, (20.0, 5.0))
    laying = Laying(hides, (Template("a", "a", box(150, 90), pinned=pin), Template("b", "b", box(150, 90))))
    found = layer.laid_out(laying, 0, 5.0, 40, begin=(replace(pin, id="b"),))
    assert {one.id: one.hide for one in found.laid} == {"a": "one", "b": "two"}
    assert not list(exact.faults(laying, found.laid))


def test_a_piece_that_is_dragged_stays_and_only_its_neighbours_make_room():
    hide = side(2)
    laying = Laying((hide,), pieces(2, 0.4, hide))
    before = layer.laid_out(laying, 1, seconds=20).laid
    dragged = next(one for one in before if laying.template(one.id).wanted is Wanted.ANY and "p" in str(one.id)[:1])
    to = replace(dragged, move=(dragged.move[0] + 60.0, dragged.move[1] + 25.0))
    held = replace(laying, templates=tuple(t.pin(to) if t.id == to.id else t for t in laying.templates))
    if any(id_ == to.id and "leather" in rule for id_, rule in exact.faults(held, [to])):
        pytest.skip("it was dragged off the leather")
    after = layer.laid_out(held, 1, seconds=5, begin=before)
    holds(held, after.laid)
    now = {one.id: one for one in after.laid}
    assert now[to.id] == to
    assert len(now) >= len(before) - 1
    same = sum(now.get(one.id) is not None and np.allclose(now[one.id].move, one.move) for one in before)
    assert same >= len(before) / 2


def test_the_rules_are_seen_to_be_broken():
    hide = side(0)
    square = Template("a", "a", box(60, 60), turns=Turns((0.0,), 5.0), wanted=Wanted.PRIME)
    laying = Laying((hide,), (square, replace(square, id="b")))
    good = [Laid("a", "side", False, 0.0, (300.0, 500.0)), Laid("b", "side", False, 3.0, (400.0, 500.0))]
    assert not list(exact.faults(laying, good))
    for bad, said in (
        (replace(good[0], move=(300.0, 100.0)), "leather"),
        (replace(good[0], degrees=6.0), "stretch"),
        (replace(good[0], mirrored=True), "turned over"),
        (replace(good[0], move=(338.0, 500.0)), "knife"),
    ):
        assert [id_ for id_, rule in exact.faults(laying, [bad, good[1]]) if said in rule] == ["a"]
    level = replace(good[1], degrees=0.0)
    assert list(exact.faults(laying, [replace(good[0], move=(337.6, 500.0)), level]))  # 2.4 mm
    assert not list(exact.faults(laying, [replace(good[0], move=(337.4, 500.0)), level]))  # 2.6 mm


def test_what_is_left_is_told_as_shapes_and_as_a_length_of_the_back():
    hide = Hide("h", box(1000, 500))
    laying = Laying((hide,), (Template("a", "a", box(400, 498), gap=4), Template("b", "b", box(100, 26), gap=4)))
    laid = [Laid("a", "h", False, 0.0, (0.0, 1.0)), Laid("b", "h", False, 0.0, (700.0, 462.0))]
    (rest,) = rests(laying, laid)
    assert rest.used == pytest.approx((400 * 498 + 100 * 26) / 500_000)
    assert shapely.Polygon(rest.offcuts[0]).area == pytest.approx(596 * 500 - 108 * 42, rel=0.01)
    assert shapely.Polygon(rest.offcuts[0]).distance(shapely.box(0, 1, 400, 499)) >= 4 - 1e-6
    assert (rest.edge, rest.edge_before) == (pytest.approx(296, abs=4), pytest.approx(1000, abs=4))


def test_a_drafts_pieces_lie_along_the_backbone_and_straps_are_cut_first():
    laying = Laying((Hide("h", box(1900, 900)),), tuple(asked.templates(draft(demo.job("laser-level")), "level")))
    assert {t.name for t in laying.templates}.isdisjoint({"front foam", "floor foam"})
    strap = next(t for t in laying.templates if t.name == "shoulder strap")
    assert strap.wanted is Wanted.BACK_BAND
    found = layer.laid_out(laying, 0, seconds=10)
    holds(laying, found.laid)
    assert found.share == pytest.approx(1.0)
    for one in found.laid:
        ring = one.of(laying.template(one.id).ring)
        if one.id == strap.id:
            assert np.ptp(ring[:, 0]) > 5 * np.ptp(ring[:, 1])
    assert knife.in_order(laying, found.laid)[0].id == strap.id


def test_nothing_is_laid_where_nothing_is_asked():
    assert layer.laid_out(Laying((side(0),), ()), 0, seconds=5).laid == ()


def test_a_stop_comes_between_two_steps():
    class StopError(Exception):
        pass

    def stop(share: float, steps: int) -> None:
        raise StopError

    hide = side(1)
    with pytest.raises(StopError):
        layer.laid_out(Laying((hide,), pieces(1, 0.9, hide)), tell=stop)
    assert Search(Laying((hide,), pieces(1, 0.3, hide))).found().laid == ()


@pytest.mark.parametrize("seed", some([1, 2]))
def test_what_is_left_is_gathered_once_all_lie(seed):
    hide = side(seed)
    pin = Laid("pinned", hide.id, False, 15.0, (700.0, 330.0))
    laying = Laying((hide,), (*pieces(30 + seed, 0.5, hide), Template("pinned", "p", box(120, 80), pinned=pin)))
    search = Search(laying, seed)
    for _ in search.run():
        pass
    laid, steps = search.found().laid, search.steps
    for _ in gathered(search):
        pass
    now = search.found()
    holds(laying, now.laid)
    assert now.share == pytest.approx(1.0)
    assert pin in now.laid
    assert now.steps > steps
    before, after = (rests(laying, each)[0] for each in (laid, now.laid))
    assert after.edge > 0.97 * before.edge
    assert shapely.Polygon(after.offcuts[0]).area > 1.03 * shapely.Polygon(before.offcuts[0]).area
    assert len(after.offcuts) <= len(before.offcuts)
    assert layer.laid_out(laying, seed, seconds=None, steps=now.steps) == now


def test_what_is_left_is_gathered_round_a_scar() -> None:
    rng = np.random.default_rng(1)
    hide = Hide("h", box(1000, 500), forbidden=(box(30, 30, (700, 235)),))
    laying = Laying((hide,), tuple(Template(f"p{n}", "p", star(rng, rng.uniform(40, 110))) for n in range(16)))
    search = Search(laying, 1)
    for _ in search.run():
        pass
    (before,), _ = rests(laying, search.found().laid), [*gathered(search)]
    (after,) = rests(laying, search.found().laid)
    holds(laying, search.found().laid)
    assert shapely.Polygon(after.offcuts[0]).area > 1.03 * shapely.Polygon(before.offcuts[0]).area


def test_no_other_hide_is_begun_to_gather_what_is_left() -> None:
    rng = np.random.default_rng(1)
    one, other = Hide("one", box(1000, 500)), Hide("other", box(1200, 600, (2000, 0)))
    laying = Laying((one, other), tuple(Template(f"p{n}", "p", star(rng, rng.uniform(40, 110))) for n in range(16)))
    search = Search(laying, 1)
    for _ in search.run():
        pass
    assert {each.hide for each in search.found().laid} == {"one"}
    assert [*gathered(search)]
    assert {each.hide for each in search.found().laid} == {"one"}


def test_where_nothing_can_be_gathered_all_stays() -> None:
    hide = Hide("h", box(400, 300))
    full = Laying((hide,), tuple(Template(f"p{n}", "p", box(190, 140)) for n in range(4)))
    over = Laying((hide,), tuple(Template(f"p{n}", "p", box(300, 200)) for n in range(3)))  # of which one finds room
    for laying in (full, over, Laying((hide,), ())):
        search = Search(laying)
        for _, _ in zip(search.run(), range(30), strict=False):
            pass
        laid = search.found().laid
        for _ in gathered(search):
            pass
        assert search.found().laid == laid


def test_straps_lie_along_the_back_and_the_back_is_left_where_there_is_room():
    hide = Hide("h", box(1600, 700))
    straps = [Template(f"strap {n}", "strap", box(30, 700), turns=Turns((90.0, -90.0), 5.0), wanted=Wanted.BACK_BAND)
              for n in range(3)]  # fmt: skip
    rest = [Template(f"p{n}", "p", box(150, 120), turns=Turns((0.0, 180.0), 0.0)) for n in range(14)]
    laying = Laying((hide,), (*rest, *straps))
    found = layer.laid_out(laying, 0, seconds=10)
    holds(laying, found.laid)
    assert found.share == pytest.approx(1.0)
    assert all(laying.template(t.id).strap for t in straps)
    (left,) = rests(laying, found.laid)
    assert left.edge > 0.5 * left.edge_before  # the straps lie on one another, and nothing else along it


@pytest.mark.parametrize(
    ("wanted", "there", "not_there"),
    [
        (Wanted.ANY, [(50, 50), (700, 500)], [(400, 300)]),
        (Wanted.NOT_LOOSE, [(700, 500)], [(300, 200), (400, 300)]),
        (Wanted.PRIME, [(500, 600)], [(100, 600), (300, 200)]),
        (Wanted.BACK_BAND, [(50, 790), (1300, 640)], [(700, 500)]),
    ],
)
def test_each_kind_of_leather_is_where_it_is_said_to_be(wanted, there, not_there):
    hide = Hide("h", box(WIDE, HIGH), (box(60, 60, (370, 270)),), side(0).zones)
    leather = hide.leather(Asked(wanted))
    assert all(leather.contains(shapely.Point(spot)) for spot in there)
    assert not any(leather.contains(shapely.Point(spot)) for spot in not_there)
    bare = replace(hide, zones=hide.zones[:1])
    assert bare.leather(Asked(Wanted.PRIME)).equals(bare.leather(Asked(Wanted.NOT_LOOSE)))


@pytest.mark.parametrize(
    ("ring", "turns", "said"),
    [
        (box(590, 20), Turns(), ""),
        (box(620, 20), Turns((0.0, 180.0), 0.0), "620 × 20"),
        (box(620, 20), Turns(), ""),  # aslant
        (box(280, 320), Turns((0.0,), 0.0), "280 × 320"),
        (box(280, 320), Turns((0.0, 90.0), 0.0), ""),
        (box(310, 320), Turns(), "as it may lie"),
    ],
)
def test_what_never_has_room_is_told_beforehand(ring, turns, said):
    laying = Laying(
        (Hide("h", box(600, 300)), Hide("small", box(90, 90, (700, 0)))), (Template("a", "a", ring, turns=turns),)
    )
    why = laying.why_never(laying.templates[0])
    assert bool(why) == bool(said)
    assert said in why
    if said:
        assert layer.laid_out(laying, 0, seconds=60).laid == ()  # and is not looked for


def test_it_is_cut_from_the_offcut_first_then_straps_then_from_the_left():
    hides_ = (Hide("whole", box(900, 500), priority=3), Hide("offcut", box(300, 300, (1000, 0)), priority=0))
    strap, square = box(700, 25), box(80, 80)
    laying = Laying(hides_, tuple(Template(n, n, strap if n == "s" else square) for n in "sabcd"))
    laid = [
        Laid("a", "whole", False, 0.0, (600.0, 100.0)), Laid("b", "whole", False, 0.0, (10.0, 300.0)),
        Laid("c", "whole", False, 0.0, (10.0, 100.0)), Laid("s", "whole", False, 0.0, (100.0, 450.0)),
        Laid("d", "offcut", False, 0.0, (1100.0, 50.0)),
    ]  # fmt: skip
    assert [one.id for one in knife.in_order(laying, laid)] == ["d", "s", "b", "c", "a"]


def test_the_laying_process_answers_what_was_asked_last():
    import socket
    import threading
    from multiprocessing.connection import Connection

    from tailor.core.cut.asking import Asking
    from tailor.core.cut.spreader import spread_on

    ours, theirs = socket.socketpair()
    line = Connection(ours.detach())
    thread = threading.Thread(target=spread_on, args=(Connection(theirs.detach()),), daemon=True)
    thread.start()
    hide = side(3)
    line.send((1, Asking(Laying((hide,), pieces(3, 1.6, hide)), 600.0)))  # for which there is no room in ten minutes
    line.send((2, Asking(Laying((hide,), pieces(4, 0.2, hide)), 20.0)))
    line.send((3, Asking(None, 5.0)))
    answers = []
    while not answers or answers[-1] != (3, None):
        assert line.poll(60)
        answers.append(line.recv())
    last = {number: found for number, found in answers if found is not None and found.last}
    assert 1 not in last
    if 2 in last:  # else it was given up for the third
        holds(Laying((hide,), pieces(4, 0.2, hide)), last[2].laid)
        assert last[2].rests
    assert "fault" in last[3].said  # which is told, and does not end it
    line.close()
    thread.join(timeout=20)
    assert not thread.is_alive()
