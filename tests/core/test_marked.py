"""Hides marked up by hand, against areas worked out on paper."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely

from tailor.core.cut import exact
from tailor.core.cut.layer import laid_out
from tailor.core.cut.laying import Asked, Grade, Hide, Laying, Template, Wanted
from tailor.core.cut.marked import Marked, gauged, marked, marks, turned, within, without
from tailor.core.cut.thickness import thickness
from tailor.core.errors import InputError
from tailor.core.shop.leathers import Skin, left_of

HIDE = Hide("side", np.array([[0.0, 0], [600, 0], [600, 300], [0, 300]]))


def box(left: float, low: float, right: float, high: float) -> np.ndarray:
    return np.array([[left, low], [right, low], [right, high], [left, high]], dtype=float)


def test_only_what_lies_on_the_hide_is_marked() -> None:
    scarred = marked(HIDE, box(550, 100, 700, 200), Marked.SCAR)
    assert scarred.whole.area == pytest.approx(180_000 - 50 * 100)
    (ring,) = scarred.forbidden
    assert ring[:, 0].max() == 600
    assert HIDE.forbidden == ()
    for wrong in (box(700, 0, 800, 50), box(10, 10, 12, 12), np.array([[1.0, 1], [50, 50]]), np.empty((0, 2))):
        with pytest.raises(InputError, match="was drawn is"):
            marked(HIDE, wrong, Marked.SCAR)


def test_a_line_that_crosses_itself_marks_what_it_goes_round() -> None:
    eight = np.array([[100.0, 100], [200, 200], [200, 100], [100, 200]])
    crossed = marked(HIDE, eight, Marked.SCAR)
    assert len(crossed.forbidden) == 2
    assert crossed.whole.area == pytest.approx(180_000 - 2 * 2500)


def test_prime_and_loose_leather_are_laid_on_as_they_are_marked() -> None:
    both = marked(marked(HIDE, box(0, 200, 600, 400), Marked.PRIME), box(0, -50, 600, 60), Marked.LOOSE)
    assert [zone.grade for zone in both.zones] == [Grade.PRIME, Grade.LOOSE]
    assert both.leather(Asked(Wanted.PRIME)).area == pytest.approx(600 * 100)
    assert both.leather(Asked(Wanted.NOT_LOOSE)).area == pytest.approx(600 * 240)
    assert both.leather(Asked(Wanted.ANY)).area == pytest.approx(600 * 300)


def test_each_mark_can_be_taken_away_again() -> None:
    hide = HIDE
    for at, kind in enumerate((Marked.SCAR, Marked.PRIME, Marked.SCAR, Marked.LOOSE)):
        hide = marked(hide, box(100 * at, 10, 100 * at + 50, 60), kind)
    hide = gauged(gauged(hide, (300, 200), 3.0), (400, 200), 2.5)
    assert [mark.kind for mark in marks(hide)] == [Marked.SCAR, Marked.SCAR, Marked.PRIME, Marked.LOOSE,
                                                   Marked.THICKNESS, Marked.THICKNESS]  # fmt: skip
    for n, (kind, ring, _) in enumerate(marks(hide)):
        left = marks(without(hide, n))
        assert len(left) == 5
        assert not any(k is kind and np.array_equal(r, ring) for k, r, _ in left)


def test_zones_stay_with_what_of_them_is_left() -> None:
    zoned = marked(HIDE, box(0, 200, 600, 300), Marked.PRIME)
    first, *more = left_of(Skin("s", "sort", zoned), [box(0, 0, 150, 300), box(450, 0, 600, 300)], [])
    assert first.used
    for skin in more:
        (zone,) = skin.hide.zones
        assert shapely.Polygon(zone.ring).area == pytest.approx(150 * 100)
        assert shapely.Polygon(skin.hide.ring).covers(shapely.Polygon(zone.ring))
    assert within(zoned.zones, shapely.box(0, 0, 600, 100)) == ()


def test_a_hide_is_turned_with_all_that_is_on_it() -> None:
    hide = marked(marked(HIDE, box(0, 200, 600, 300), Marked.PRIME), box(10, 20, 60, 40), Marked.SCAR)
    hide = gauged(gauged(hide, (500, 280), 3.4), (30, 30), 2.2)
    once = turned(hide, 1)
    assert np.ptp(once.ring, axis=0) == pytest.approx([300, 600])
    assert once.forbidden[0].min(axis=0) == pytest.approx([300 - 40, 10])  # what was low and left is low and right
    assert once.zones[0].ring.max(axis=0) == pytest.approx([100, 600])
    again = turned(turned(turned(once, 1), 1), 1)
    for one, other in zip((hide.ring, *hide.forbidden), (again.ring, *again.forbidden), strict=True):
        assert one == pytest.approx(other)
    assert once.gauged[0] == pytest.approx((300 - 280, 500, 3.4))
    for at, there in (((500, 280), (20, 500)), ((200, 100), (200, 200))):
        assert thickness(once.gauged, np.array(there)) == pytest.approx(thickness(hide.gauged, np.array(at)))
    assert turned(hide, 2).whole.area == pytest.approx(hide.whole.area)


def test_a_hide_is_as_thick_as_it_was_read_and_between_readings_in_between() -> None:
    read = gauged(gauged(HIDE, (100, 150), 3.2), (500, 150), 2.0)
    at = np.array([[100.0, 150], [500, 150], [300, 150], [300, 10], [0, 150], [560, 150]])
    found = thickness(read.gauged, at)
    assert found[:4] == pytest.approx([3.2, 2.0, 2.6, 2.6])  # half way, whichever way round
    assert 2.6 < found[4] < 3.2  # no thicker than was ever read
    assert 2.0 < found[5] < 2.6
    thick = read.leather(Asked(Wanted.ANY, thick=3.2))
    places = np.random.default_rng(3).uniform((0, 0), (600, 300), (2000, 2))
    inside = shapely.contains_xy(thick, places)
    fits = np.abs(thickness(read.gauged, places) - 3.2) <= 0.45
    assert np.mean(inside == fits) > 0.95
    assert np.abs(thickness(read.gauged, places[inside]) - 3.2).max() <= 0.45 + 0.05  # a square's width beyond
    assert read.leather(Asked(Wanted.ANY)).area == pytest.approx(180_000)
    for wrong, where in (((100, 150), 0.1), ((100, 150), 12.0), ((700, 150), 3.0)):
        with pytest.raises(InputError, match=r"no leather|beside"):
            gauged(HIDE, wrong, where)


def test_pieces_lie_where_the_leather_is_as_thick_as_they_are_drafted() -> None:
    read = gauged(gauged(HIDE, (60, 150), 3.0), (540, 150), 2.0)
    pieces = tuple(Template(n, f"piece {n}", box(0, 0, 90, 60), thick=thick)
                   for n, thick in enumerate((3.0, 3.0, 3.0, 2.0, 2.0, 2.0)))  # fmt: skip
    laying = Laying((read,), (*pieces, Template(9, "sole", box(0, 0, 60, 60), thick=4.5)))
    found = laid_out(laying, seconds=2)
    lying = {one.id: shapely.Polygon(one.of(laying.template(one.id).ring)).centroid.x for one in found.laid}
    assert set(lying) == set(range(6))
    assert max(lying[n] for n in range(3)) < 300 < min(lying[n] for n in range(3, 6))
    assert laying.why_never(laying.templates[-1]) == "there is no leather 4 to 5 mm thick"
    assert not list(exact.faults(laying, found.laid))
    wrong = next(one for one in found.laid if one.id == 3)
    (fault,) = exact.faults(laying, [replace(wrong, id=0)])
    assert "not on the leather 2.5 to 3.5 mm thick" in fault[1]
    plain = Laying((HIDE,), pieces)  # of which nobody knows how thick it is: as thick as is asked
    assert all(plain.why_never(piece) == "" for piece in pieces)
