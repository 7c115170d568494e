"""Hides marked up by hand, against areas worked out on paper."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from tailor.core.cut.laying import Grade, Hide, Wanted
from tailor.core.cut.marked import Marked, marked, marks, turned, within, without
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
    assert both.leather(Wanted.PRIME).area == pytest.approx(600 * 100)
    assert both.leather(Wanted.NOT_LOOSE).area == pytest.approx(600 * 240)
    assert both.leather(Wanted.ANY).area == pytest.approx(600 * 300)


def test_each_mark_can_be_taken_away_again() -> None:
    hide = HIDE
    for at, kind in enumerate((Marked.SCAR, Marked.PRIME, Marked.SCAR, Marked.LOOSE)):
        hide = marked(hide, box(100 * at, 10, 100 * at + 50, 60), kind)
    assert [kind for kind, _ in marks(hide)] == [Marked.SCAR, Marked.SCAR, Marked.PRIME, Marked.LOOSE]
    for n, (kind, ring) in enumerate(marks(hide)):
        left = marks(without(hide, n))
        assert len(left) == 3
        assert not any(k is kind and np.array_equal(r, ring) for k, r in left)


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
    once = turned(hide, 1)
    assert np.ptp(once.ring, axis=0) == pytest.approx([300, 600])
    assert once.forbidden[0].min(axis=0) == pytest.approx([300 - 40, 10])  # what was low and left is low and right
    assert once.zones[0].ring.max(axis=0) == pytest.approx([100, 600])
    again = turned(turned(turned(once, 1), 1), 1)
    for one, other in zip((hide.ring, *hide.forbidden), (again.ring, *again.forbidden), strict=True):
        assert one == pytest.approx(other)
    assert turned(hide, 2).whole.area == pytest.approx(hide.whole.area)
