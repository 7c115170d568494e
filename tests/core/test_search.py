"""What the search for a place is told: where a piece may lie, how much it is in the way, and nothing compiled twice."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
import shapely
import shapely.affinity
from hypothesis import given, settings
from hypothesis import strategies as st

from tailor.core.cut import layer, meeting, moves, pushing, shapes
from tailor.core.cut.ground import ground
from tailor.core.cut.laying import Asked, Laying, Template, Wanted
from tailor.core.cut.search import Search
from tests.leather import HIGH, WIDE, pieces, side, star
from tests.sweeps import about, some


@settings(max_examples=about(60), deadline=None)
@given(st.integers(0, 10**6), st.floats(0, 260), st.floats(0, 2 * np.pi), st.booleans())
def test_pieces_are_in_each_others_way_just_where_they_meet(seed, far, turn, over):
    rng = np.random.default_rng(seed)
    two = (Template("a", "a", star(rng, 100), gap=0), Template("b", "b", star(rng, 60), gap=0))
    known = shapes.shapes(two, [0, 0], 0.0)
    lie = moves.state(known)
    for k, pose in enumerate(np.array([[0, 0.3, 0, 0], [over, turn, far, 0.3 * far]])):
        moves.put(known, lie, k, pose)
    met = shapely.intersects(*(shapely.Polygon(lie.corners[k, : known.sides[k]]) for k in (0, 1)))
    assert (meeting.between(known, 0, meeting.own.py_func(lie, 0), lie, 1) > 0) == met
    assert meeting.meets(known, 0, meeting.own.py_func(lie, 0), lie, 1) == met


@settings(max_examples=about(60), deadline=None)
@given(st.integers(0, 10**6), st.floats(-150, WIDE + 150), st.floats(0, HIGH), st.floats(0, 2 * np.pi))
def test_a_piece_is_off_the_leather_just_where_it_leaves_it(seed, x, y, turn):
    leather = side(seed % 5).leather(Asked(Wanted.NOT_LOOSE))
    known = shapes.shapes((Template("a", "a", star(np.random.default_rng(seed), 70), gap=0),), [0], 0.0)
    lie = moves.state(known)
    moves.put(known, lie, 0, np.array([0.0, turn, x, y]))
    off = meeting.beyond(known, ground([leather]), 0, meeting.own.py_func(lie, 0))
    assert (off == 0) == shapely.covers(leather, shapely.Polygon(lie.corners[0, : known.sides[0]]))


@settings(max_examples=about(40), deadline=None)
@given(st.integers(0, 10**6), st.floats(0, 6))
def test_what_the_search_knows_of_a_piece_holds_it_and_its_circles_lie_within(seed, grown):
    shape = shapely.Polygon(star(np.random.default_rng(seed), 120))
    wide = shapes.few_corners(shape, grown)
    assert wide.buffer(1e-6).covers(shape.buffer(grown))
    assert wide.area < shape.buffer(grown + 3).area * 1.1
    x, y, r = shapes.inscribed(wide).T
    assert np.all(shapely.distance(shapely.points(x, y), wide.exterior) >= r - 1e-6)
    apart = np.hypot(x[:, None] - x, y[:, None] - y) - r[:, None] - r
    assert apart[~np.eye(len(x), dtype=bool)].min(initial=0.0) >= -1e-6
    held = shapely.union_all([shapely.Point(x, y).buffer(r + 1e-6, 256) for x, y, r in shapes.covers(wide) if r > 0])
    assert wide.difference(held).area < 0.002 * wide.area  # but for the polygons that the circles are drawn as here
    u, v, long, across, cos, sin = shapes.framed(wide)
    frame = shapely.affinity.affine_transform(shapely.box(-long, -across, long, across), [cos, -sin, sin, cos, u, v])
    assert frame.buffer(1e-6).covers(wide)
    assert frame.area == pytest.approx(wide.minimum_rotated_rectangle.area)


@pytest.mark.parametrize("seed", some(range(3)))
def test_what_the_search_takes_to_lie_does(seed):
    """Nothing it holds for laid is taken up again at the end, where the real outlines are asked."""
    hide = side(10 + seed)
    search = Search(Laying((hide,), pieces(20 + seed, 0.75, hide)), seed)
    for _, _ in zip(search.run(), range(60), strict=False):
        pass
    assert len(search.found().laid) == search.best[1].sum() > 20


def test_how_much_circles_are_felt_grows_evenly_and_fades_where_they_part() -> None:
    felt = meeting.felt.py_func
    deep = np.linspace(-5.0, 5.0, 2001)
    told = np.array([felt(d, 0.3) for d in deep])
    assert (np.diff(told) > 0).all()
    assert felt(4.0, 0.3) == 4.0
    assert felt(0.3, 0.3) == pytest.approx(0.3)
    assert felt(0.0, 0.3) == pytest.approx(0.15)  # half of that where they touch
    slope = np.diff(told) / np.diff(deep)
    assert np.abs(np.diff(slope)).max() < 0.05  # without a kink


def test_what_is_far_off_a_box_does_not_reach_it() -> None:
    for x, y, reach, left, low, wide, high in np.random.default_rng(3).uniform(0.5, 8.0, (400, 7)):
        seen = shapely.box(x - reach, y - reach, x + reach, y + reach).disjoint(
            shapely.box(left, low, left + wide, low + high)
        )
        assert meeting.far_off.py_func(x, y, reach, (left, low, left + wide, low + high)) == seen


def test_the_slope_is_that_of_what_is_in_the_way() -> None:
    """Along, up and by turning, against differences, between those to both sides where what is felt bends."""
    layer.warm()
    search = Search(crowded(), 5)
    for _, _ in zip(search.run(), range(20), strict=False):
        pass
    state, random = search.state, np.random.default_rng(5)
    state.weight[:] = random.uniform(1.0, 3.0, state.weight.shape)
    state.wall[:] = random.uniform(1.0, 3.0, state.wall.shape)
    lying, up, right = meeting.trial(state), np.zeros(4), list[bool]()
    for k in random.choice(np.nonzero(state.on)[0], 60):
        pose = state.pose[k] + [0.0, random.normal(0, 0.2), *random.normal(0, 25.0, 2)]

        def cost(*by: float, k: int = k, pose: np.ndarray = pose) -> float:
            return float(moves._cost(search.shapes, search.ground, state, k, pose + np.array([0.0, *by]), lying, 1e300))

        pushing.slope(search.shapes, search.ground, state, k, pose, lying, up)
        if (here := cost(0.0, 0.0, 0.0)) == 0.0:
            assert not up[:3].any()
            continue
        for n, step in ((2, 0.02), (0, 0.02), (1, 0.02)):
            by = np.zeros(3)
            by[n] = step / (100.0 if n == 0 else 1.0)
            ahead, behind = (cost(*by) - here) / by[n], (here - cost(*-by)) / by[n]
            least, most = min(ahead, behind), max(ahead, behind)
            slack = 0.02 * abs(up[[2, 0, 1][n]]) + 2e-6 * here / by[n]
            right.append(bool(least - slack <= up[[2, 0, 1][n]] <= most + slack))
    assert len(right) > 100
    assert np.mean(right) > 0.95


def test_closely_laid_pieces_are_brought_apart_in_few_steps() -> None:
    layer.warm()
    shares = list[float]()
    for seed in (1, 2):
        hide = side(seed)
        search = Search(Laying((hide,), pieces(30 + seed, 0.7, hide)), seed)
        for _ in search.run():
            if search.steps >= 600:
                break
        shares.append(search.found().share)
    assert np.mean(shares) > 0.993  # 0.981 where they are brought up the slope, and by chance alone


COMPILED = """
from numba.core.dispatcher import Dispatcher
from tailor.core.cut import layer, meeting, moves, pushing, raster
from tests.core.test_search import crowded
def made():
    return {(m.__name__, n): len(f.signatures) for m in (meeting, moves, pushing, raster) for n, f in vars(m).items()
            if isinstance(f, Dispatcher)}
layer.warm()
before = made()
assert layer.laid_out(crowded(), 0, seconds=None, steps=120).share < 1
assert made() == before, set(made().items()) - set(before.items())
"""


def crowded() -> Laying:
    """More than has room."""
    hide = side(2)
    return Laying((hide,), pieces(6, 1.1, hide))


def test_once_warm_nothing_more_is_compiled_while_laying() -> None:
    subprocess.run([sys.executable, "-c", COMPILED], check=True, cwd=Path(__file__).parents[2])
