"""What must pass through a case on its way out, against hulls drawn by polygons."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from shapely.geometry import MultiPoint, Point, Polygon

from tailor.core.carried.loft import Loft
from tailor.core.carried.stations import Shape, Station
from tailor.core.shell.passage import GIVES, Tube, let_out, tube

CLEAR, WELT = 0.8, 6.0
ROWS = np.linspace(0.0, 100.0, 41)
FINE = 128


def necked(wide: float, thick: float, neck: float, shape: Shape) -> Loft:
    """A thing that is wide below and has a neck above, as a head on a handle."""
    sizes = ((0.0, wide), (50.0, wide), (60.0, neck), (100.0, neck))
    return Loft(tuple(Station(y, -w / 2, w / 2, thick / 2, thick / 2, shape) for y, w in sizes))


def girth(loft: Loft, y: float, edges: tuple[float, ...] = ()) -> float:
    """The hull's girth of a section with its clearance and the welts' edges, mm."""
    thing = Polygon(loft.sections(np.array([y])).outline(0)).buffer(CLEAR, quad_segs=FINE)
    welts = MultiPoint([(x, z) for x in edges for z in (-WELT / 2, WELT / 2)])
    return float(shapely.union_all([thing, welts]).convex_hull.length if edges else thing.convex_hull.length)


def of(loft: Loft, hollows: tuple[tuple[float, float], ...] = ()) -> Tube:
    return tube(loft, ROWS, CLEAR, WELT, 0.0, hollows)


@pytest.mark.parametrize("shape", [Shape.SLAB, Shape.OVAL, Shape.DIAMOND])
@pytest.mark.parametrize(("wide", "thick", "neck"), [(60.0, 20.0, 24.0), (44.0, 30.0, 30.0), (90.0, 9.0, 12.0)])
def test_a_neck_is_let_out_until_what_is_below_just_passes(
    wide: float, thick: float, neck: float, shape: Shape
) -> None:
    loft = necked(wide, thick, neck, shape)
    near = loft.sizes(ROWS)[:, 1] / 2 + CLEAR + 1.0
    found = of(loft)
    moved = let_out(found, -near, near)
    widest = girth(loft, 20.0)
    assert found.need[ROWS >= 50] == pytest.approx(widest, rel=2e-3)
    assert ((found.passing[ROWS >= 60] >= 0) & (found.passing[ROWS >= 60] <= 55)).all()  # it says what needs it
    assert moved[ROWS < 50] == pytest.approx(0.0)  # below the widest nothing passes that would not anyhow
    for k in np.flatnonzero(ROWS >= 62)[::6]:
        x = float(near[k] + moved[k])
        assert moved[k] > 0.5
        assert girth(loft, float(ROWS[k]), (-x, x)) == pytest.approx(widest, rel=2e-3)
        assert girth(loft, float(ROWS[k]), (-x + 1, x - 1)) < widest


def test_a_fold_lets_out_on_its_seam_only_and_a_hollow_may_hold() -> None:
    loft = necked(60.0, 20.0, 24.0, Shape.SLAB)
    near = loft.sizes(ROWS)[:, 1] / 2 + CLEAR + 1.0
    both, above = of(loft), ROWS > 62
    folded = tube(loft, ROWS, CLEAR, WELT, 0.0, (), fold=1.5)
    one = let_out(folded, -near, near)
    assert folded.inside(-near - 9, near) == pytest.approx(folded.inside(-near, near))  # no welt on that side
    assert (one[above] > let_out(both, -near, near)[above] + 5).all()  # all of it has to be found on one side
    held = of(loft, ((70.0, 80.0),))
    within = (ROWS >= 70) & (ROWS <= 80)
    assert held.need[within] == pytest.approx(both.need[within] / (1 + GIVES))
    assert held.need[~within] == pytest.approx(both.need[~within])
    easy = let_out(held, -near, near)
    assert (easy[within] < let_out(both, -near, near)[within]).all()


def test_a_round_thing_needs_no_more_than_its_own_girth() -> None:
    loft = necked(30.0, 30.0, 30.0, Shape.OVAL)
    found = of(loft)
    assert found.need == pytest.approx(Point(0, 0).buffer(15 + CLEAR, quad_segs=FINE).length, rel=2e-3)
    wide = np.full(len(ROWS), 16.0)
    assert let_out(found, -wide, wide) == pytest.approx(0.0)
