"""Leather in stock: what is taken down, what is left of it, and what it costs as it lies."""

from __future__ import annotations

import itertools
from dataclasses import replace
from datetime import date

import numpy as np
import pytest
import shapely

from tailor import demo
from tailor.core.cut.laying import Asked, Laid, Wanted
from tailor.core.cut.usual import SHAPES, usual
from tailor.core.errors import InputError
from tailor.core.shop.cutting import cutting, each_alone
from tailor.core.shop.leathers import Skin, at_hand, left_of
from tailor.core.shop.made import leathers, made, ordered
from tailor.core.shop.orders import Order
from tailor.core.shop.quote import Terms, quote
from tailor.demo.shop import shop as of_the_demo

SHOP = of_the_demo(date(2026, 5, 4))


@pytest.mark.parametrize("shape", sorted(SHAPES))
def test_a_usual_shape_has_the_area_on_its_tag(shape: str) -> None:
    hide = usual(shape, 1.7, "it")
    whole = shapely.Polygon(hide.ring)
    assert whole.is_valid
    assert whole.area == pytest.approx(1.7e6)
    assert all(whole.buffer(1e-6).contains(shapely.Polygon(zone.ring)) for zone in hide.zones)
    with pytest.raises(InputError, match="no hide"):
        usual(shape, 90, "it")


def test_what_is_cut_leaves_offcuts_that_are_used_first() -> None:
    things = ordered(SHOP.order("kit-1"))
    whole = cutting(things, SHOP.sorts, SHOP.skins)
    assert [hide.id for hide in whole.laying.hides] == [
        "corner", "long offcut", "firm side", "shoulder offcut", "shoulder",
    ]  # fmt: skip
    for each in leathers(things, SHOP.sorts):
        mine = [t for t in whole.laying.templates if t.sort == each.said]
        assert sum(t.shape.area for t in mine) == pytest.approx(each.area)
        assert {hide.id for hide in whole.laying.hides if hide.leather(Asked(Wanted.ANY, each.said)).area} == {
            skin.hide.id for skin in SHOP.skins if skin.sort == each.sort.id
        }
    strip = whole.laying.hides[1]  # moved aside, in the row
    template = min((t for t in whole.laying.templates if t.sort == strip.sort), key=lambda t: t.shape.area)
    at = strip.ring.mean(axis=0) - template.ring.mean(axis=0)
    laid = [Laid(template.id, "long offcut", False, 0.0, (float(at[0]), float(at[1])))]
    assert 1.0 < whole.takes(laid)["firm-3"] < strip.whole.area / template.shape.area
    ((was, after),) = whole.left(laid)
    assert was.id == "side-old-1"
    gone = shapely.Polygon(laid[0].of(template.ring) + (was.hide.ring.min(axis=0) - strip.ring.min(axis=0)))
    for skin in after:
        if not skin.used:
            assert was.hide.whole.buffer(1).contains(skin.hide.whole)
            assert skin.hide.whole.intersection(gone).area < 1
    assert at_hand((*after, *SHOP.skins[:1]), SHOP.sorts[0])[-1].id == "side"
    # Of a large hide most is left: it is the same hide, smaller; cut in two, it is used, and leaves two offcuts.
    skin = SHOP.skins[0]
    most, *_ = left_of(skin, [skin.hide.ring * 0.9], [])
    assert (most.id, most.used, most.off) == (skin.id, False, "")
    first, *others = left_of(skin, [skin.hide.ring * 0.3, skin.hide.ring * 0.4 + np.array([1200.0, 0.0])], [])
    assert first.used
    assert [other.off for other in others] == [skin.id, skin.id]
    assert len({other.id for other in others}) == 2


def test_leather_costs_what_it_takes_as_it_lies() -> None:
    thing = made(demo.job("eaves-blade"), 3)
    usual_ = quote([thing], SHOP.sorts, (), Terms(hour=0, waste=0.5, margin=0))
    laid = quote([thing], SHOP.sorts, (), Terms(hour=0, waste=0.5, margin=0), takes={"firm-3": 1.3})
    net = leathers([thing], SHOP.sorts)[0].area / 1e6
    assert usual_.items[0].amount == pytest.approx(net / 0.5)
    assert laid.items[0].amount == pytest.approx(net * 1.3)
    assert laid.items[0].sum == round(net * 1.3 * 62.0, 2)
    with pytest.raises(InputError, match="waste"):
        Terms(waste=1.0)


def test_hides_are_taken_down_until_there_is_enough_and_the_largest_offcuts_with_them() -> None:
    hides = [Skin(f"h{n}", "firm-3", usual("back", 0.08, f"h{n}")) for n in range(4)]
    offcuts = [Skin(f"o{n}", "firm-3", usual("belly", 0.02 + 0.001 * n, f"o{n}"), off="x") for n in range(9)]
    used = Skin("gone", "firm-3", usual("side", 2.0, "gone"), used=True)
    whole = cutting([made(demo.job("eaves-blade"), 2)], SHOP.sorts, [*hides, *offcuts, used])
    lying = [hide.id for hide in whole.laying.hides]
    assert lying[:6] == [f"o{n}" for n in range(3, 9)]  # the smallest first, of the six largest
    area = sum(t.shape.area for t in whole.laying.templates)
    enough = next(n for n in range(1, 5) if n * 0.08e6 > 2.5 * area)
    assert len(lying) == 6 + enough
    assert all(a.ring[:, 0].max() < b.ring[:, 0].min() for a, b in itertools.pairwise(whole.laying.hides))


def test_a_piece_whose_leather_is_not_there_says_so() -> None:
    things = [made(demo.job("shearing-blade"))]  # 2.5 mm: of neither the 2 nor the 3
    whole = cutting(things, SHOP.sorts, SHOP.skins)
    assert whole.laying.hides == ()
    laying = replace(whole.laying, hides=(usual("side", 2.0, "other"),))
    assert not any(laying.why_never(t) for t in laying.templates)  # what is named for it serves
    other = replace(laying, hides=(replace(laying.hides[0], sort="firm side, 3 mm"),))
    assert {other.why_never(t).split(" of ")[1] for t in other.templates} == {"body leather 2.5 mm, firm"}


def test_an_offcut_is_used_before_a_hide_however_small_the_hide() -> None:
    small, large = Skin("h", "firm-3", usual("back", 0.1, "h")), Skin("o", "firm-3", usual("back", 0.4, "o"), off="x")
    assert [skin.id for skin in at_hand([small, large], SHOP.sorts[0])] == ["o", "h"]


def test_what_is_cut_out_of_the_middle_is_a_hole_in_what_is_left() -> None:
    whole = cutting([made(demo.job("eaves-blade"))], SHOP.sorts, SHOP.skins[:1])
    (side,) = whole.laying.hides
    laid, gone = [], []
    for n, template in enumerate(whole.laying.templates):  # in the midst of it, leather all round
        move = np.array([700.0 + 320 * n, 700.0]) - template.ring.mean(axis=0)
        laid.append(Laid(template.id, side.id, False, 0.0, (float(move[0]), float(move[1]))))
        gone.append(shapely.Polygon(laid[-1].of(template.ring)))
    assert all(side.whole.contains(shape.buffer(60)) for shape in gone)
    ((was, (after, *others)),) = whole.left(laid)
    assert (after.id, others) == (was.id, [])
    by = was.hide.ring.min(axis=0) - side.ring.min(axis=0)
    for shape in gone:
        there = shapely.transform(shape, lambda points: points + by)
        assert after.hide.whole.intersection(there).area < 1e-6
    net = sum(shape.area for shape in gone)
    assert was.area - after.area >= net - 1e-6
    assert whole.takes(laid)["firm-3"] == pytest.approx((was.area - after.area) / net, rel=1e-6)


def test_two_offcuts_as_large_as_each_other_are_two() -> None:
    skin = Skin("s", "firm-3", usual("back", 1.0, "s"))
    square = np.array([(0.0, 0.0), (200.0, 0.0), (200.0, 200.0), (0.0, 200.0)])
    used, *offcuts = left_of(skin, [square, square + np.array([400.0, 0.0])], [])
    assert used.used
    assert len({offcut.id for offcut in offcuts}) == 2


def test_two_jobs_of_one_name_are_laid_out_both() -> None:
    job = demo.job("peg-tray")
    order = Order("o", "trays").with_job(job).with_job(job.typed("inside.across", "250"))
    ids = [t.id for t in cutting(ordered(order), SHOP.sorts, SHOP.skins).laying.templates]
    assert sorted(ids) == ["Peg tray (2)/tray", "Peg tray/tray"]


def test_each_hide_alone_is_asked_for_what_its_leather_is_for() -> None:
    things = [made(demo.job("laser-level"))]
    together_ = cutting(things, SHOP.sorts, SHOP.skins).laying
    alone = each_alone(things, SHOP.sorts, SHOP.skins)
    assert len({skin.id for skin, _ in alone}) == len(alone)
    for skin, laying in alone:
        (hide,) = laying.hides
        assert not skin.used
        assert hide.whole.area == pytest.approx(skin.area)
        wanted = {t.id for t in together_.templates if t.sort == hide.sort}
        assert {t.id for t in laying.templates} == wanted
    sorts = {each.sort.id for each in leathers(things, SHOP.sorts) if each.sort is not None}
    assert {skin.sort for skin, _ in alone} == {s.sort for s in SHOP.skins if s.sort in sorts and not s.used}
