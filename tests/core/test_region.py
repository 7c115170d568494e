"""The seam as the boundary of claims, leather over whole objects, and what must pass, by other ways of working."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, MultiPoint, Point, Polygon, box

from tailor.core.carried.block import block, cylinder
from tailor.core.carried.loft import Loft
from tailor.core.carried.stations import Shape, Station, checked
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.settings import Settings
from tailor.core.shell.inside import inside
from tailor.core.shell.passage import let_out, tube
from tailor.core.shell.region import Edges, approach, claimed, closed, sampled, touch_down
from tailor.core.shell.taut import LEANS, followed
from tests.sweeps import about, some
from tests.things import job_of

ANGLE = np.radians(35.0)
CLEAR, FLOOR, BALL = 0.5, 1.5, 9.0


def region(stations: tuple[Station, ...], mouth: float, radius, **kw) -> Polygon:
    seen = sampled(Loft(stations), mouth, 40.0)
    return closed([claimed(seen.x, seen.y, radius(seen.height), **kw)], 15.0)


def gentle(height: np.ndarray) -> np.ndarray:
    return approach(height, CLEAR, FLOOR, ANGLE)


def test_a_slab_a_cylinder_a_cone_and_a_cap_have_their_analytic_seams() -> None:
    slab = region(block(100, 40, 16).stations, 100, gentle)
    out = (8 - FLOOR) / np.tan(ANGLE) + CLEAR / np.sin(ANGLE)
    true = box(-20, 0, 20, 140).buffer(out, quad_segs=400)
    below = shapely.points([p for p in np.asarray(slab.exterior.coords) if p[1] < 130])
    assert shapely.distance(below, true.exterior).max() < 0.02
    bar = region(cylinder(100, 30).stations, 100, gentle)
    slope = (15 - FLOOR * np.cos(ANGLE) + CLEAR) / np.sin(ANGLE)  # where the tangent at that angle meets the floor
    assert Edges(bar)(np.array([60.0]))[0] == pytest.approx(slope, abs=0.02)
    cone = checked([Station(y, -w, w, w / 2, w / 2, Shape.DIAMOND) for y, w in ((0, 10), (60, 16), (120, 22))])
    wide = region(cone, 120, lambda h: np.full(h.shape, 3.0))
    lean = np.arctan(12 / 120)
    right, left = Edges(wide)(np.array([50.0, 90.0]))
    assert right == pytest.approx(10 + 0.1 * np.array([50, 90]) + 3 / np.cos(lean), abs=0.02)
    assert left == pytest.approx(-right, abs=0.01)
    up = 20 * (1 - np.cos(np.linspace(0.03, np.pi / 2, 40)))
    side = np.sqrt(400 - (20 - up) ** 2)
    cap = checked([Station(y, -w, w, w, w, Shape.OVAL) for y, w in zip([*up, 90.0], [*side, 20.0], strict=True)])
    round_ = region(cap, 90, gentle)
    reach = (20 + CLEAR) / np.sin(ANGLE) - FLOOR / np.tan(ANGLE)
    low = shapely.points([p for p in np.asarray(round_.exterior.coords) if p[1] < 19])
    assert np.abs(shapely.distance(low, Point(0, 20)) - reach).max() < 0.02


@given(st.floats(0, 30), st.floats(2, 12))
def test_a_ball_in_the_valley_touches_down_where_its_disc_ends(height: float, ball: float) -> None:
    (reach,) = touch_down(np.array([height]), CLEAR, FLOOR, ball)
    if np.isnan(reach):
        assert height + CLEAR <= FLOOR + 1e-9
        return
    centre = np.array([reach, FLOOR + ball])  # a ball that lies on the floor there
    to_wall = LineString([(0, -50), (0, height)]).distance(Point(centre))
    assert to_wall == pytest.approx(ball + CLEAR, abs=1e-9)


def brute(loft: Loft, rows: np.ndarray, right: np.ndarray) -> np.ndarray:
    """Each section tried through each row above it, by polygons: how much girth each row lacks."""
    lack = np.zeros(len(rows))
    hulls = []
    for k, y in enumerate(rows):
        grown = Polygon(loft.sections(y).outline(0)).buffer(CLEAR, quad_segs=64)
        hulls.append(grown.convex_hull.length)
        edges = MultiPoint([(s * right[k], z) for s in (-1, 1) for z in (-FLOOR, FLOOR)])
        lack[k] = max(hulls) - grown.union(edges).convex_hull.length
    return lack


@settings(max_examples=about(25))
@given(st.lists(st.tuples(st.floats(6, 40), st.floats(2, 15)), min_size=3, max_size=6))
def test_what_is_let_out_is_just_enough_for_all_below_to_pass(sizes: list[tuple[float, float]]) -> None:
    loft = Loft(checked([Station(25.0 * k, -w, w, t, t, Shape.OVAL) for k, (w, t) in enumerate(sizes)]))
    rows = np.linspace(loft.tip, loft.top, 12)
    right = loft.x_seam(rows) + 3.0
    case = tube(loft, rows, CLEAR, 2 * FLOOR, 0.0, ())
    further = let_out(case, -right, right)
    assert (further[brute(loft, rows, right) > 0.05] > 0).all()
    left_over = brute(loft, rows, right + further)
    assert left_over.max() < 0.08
    moved = further > 0.01
    assert np.abs(left_over[moved]).max(initial=0.0) < 0.08


def string(profile: np.ndarray, foot: float, offset: float, clear: float, upto: float) -> float:
    """A taut string over a profile (n, 2), drawn by polygons: its length from the toe to a height."""
    under = [(foot, -50.0), (upto + 60, -50.0), (foot, FLOOR)]
    skin = MultiPoint(profile).buffer(clear, quad_segs=256).union(MultiPoint(under)).convex_hull
    welt = box(foot - 50, -50, foot, FLOOR)
    whole = shapely.union_all(
        [skin.buffer(offset, quad_segs=256), welt.buffer(offset, quad_segs=64, join_style="mitre")]
    )
    return LineString(whole.exterior.coords).intersection(box(foot - 5, FLOOR, upto, 999)).length


ENDS = {
    "box": [(0.0, 8.0), (120.0, 8.0)],
    "hemisphere": [*((12 * (1 - np.cos(t)), 12 * np.sin(t)) for t in np.linspace(0.04, np.pi / 2, 30)), (120.0, 12.0)],
    "slanted": [(0.0, 4.0), (25.0, 11.0), (120.0, 11.0)],
}


@pytest.mark.parametrize("end", list(ENDS))
def test_the_middle_line_over_a_blunt_end_is_a_taut_string(end: str) -> None:
    shape = Shape.OVAL if end == "hemisphere" else Shape.SLAB
    rows = []
    for y, high in ENDS[end]:
        half = high if end == "hemisphere" else 20
        rows.append(Station(round(float(y), 4), -half, half, high, high, shape))
    made = draft(Job("End", "two-panel", checked(rows), (), Settings({"object.sharp": "none"})))
    case, drawn = made.shell, made.shell.drawn("front")
    y = np.linspace(case.seam.foot - 5, 80.0, 4000)
    right, left = case.seam(y)
    over = drawn.over(y, drawn.hull(y), left, right, case.seam.foot)
    middle = np.array([np.interp(0, x + 1e-9 * np.arange(len(x)), z) for x, z in zip(over.x, over.height, strict=True)])
    middle = np.maximum(middle, over.level)
    loft = case.loft
    at = np.linspace(0, 80, 1601)
    profile = np.column_stack([at, loft.sections(at).front.max(axis=1)])
    true = string(profile, case.seam.foot, case.leather.offset, case.clearance, 80.0)
    assert np.hypot(np.diff(y), np.diff(middle)).sum() == pytest.approx(true, abs=0.02)


def gap(made, y: float) -> float:
    """Least distance between object and flesh face at a row, mm; below 0 where leather cuts the object."""
    case = made.shell
    k = int(np.abs(case.formed_rows - y).argmin())
    thing = Polygon(case.loft.sections(case.formed_rows[k]).outline(0)).buffer(0)
    room = inside(case, float(case.formed_rows[k]))
    return thing.distance(room.exterior) if room.buffer(1e-6).contains(thing) else -thing.difference(room).area


@pytest.mark.parametrize("number", some(range(20)))
def test_random_things_hold_in_the_fitted_constructions(number: int) -> None:
    """As a beginner measures them, with nothing set: drafted, no spike in any outline, both panels in step."""
    style = ("two-panel", "flat-back", "folded-sheath")[number % 3]
    job = job_of(number, style, mould__method=("taut", "fingers")[number // 3 % 2])
    try:
        made = draft(job)
    except InputError as error:
        told = str(error)
    else:
        told = ""
    if told:
        assert "where it bears" in told  # the leather cannot be brought to it; the sentence says what can carry it
        return
    assert not [v for v in judge(job, made) if v.ruling == "stop"]
    assert made.drift < 0.4
    for piece in made.pieces:
        ring = Polygon(piece.cut)
        assert ring.is_valid
        opened = ring.buffer(-1.2).buffer(1.2)
        assert ring.difference(opened.buffer(0.8)).area < 1.0  # no spike
    counts = [len(piece.holes_of("main", edge)) for piece in made.pieces for edge in ("front", "back")]
    assert len({c for c in counts if c}) == 1
    for side in (made.front, made.back):
        assert np.ptp(np.hypot(*np.diff(side.holes.points, axis=0).T)) < 1.0
    if style != "folded-sheath" and made.shell.moulding.taut:
        low, high = made.shell.loft.tip + 1.0, made.value("mouth.y") - 1.0
        spare = [gap(made, y) for y in np.linspace(low, high, 7)]
        assert min(spare) > made.shell.clearance - 0.15


def test_what_is_claimed_alike_ends_where_it_is_no_longer_claimed() -> None:
    """Two stretches of a slab, told alike all along and, a hair unlike, disc by disc: each by itself, ends round."""
    y = np.array([0.0, 20.0, 40.0, 60.0, 80.0, 100.0])
    x = np.broadcast_to(np.linspace(-10.0, 10.0, 9), (6, 9))
    there = np.array([True, True, False, False, True, True])[:, None]
    alike = claimed(x, y, np.where(there, 5.0, np.nan) + np.zeros(x.shape), 0.5)
    unlike = claimed(x, y, np.where(there, 5.0, np.nan) + 1e-9 * np.arange(9), 0.5)
    assert len(shapely.get_parts(alike)) == len(shapely.get_parts(unlike)) == 2
    assert alike.symmetric_difference(unlike).area < 0.002 * alike.area
    assert alike.area == pytest.approx(
        2 * (20 * 30 + 2 * 20 * 10 + np.pi * 5 * 10), rel=1e-3
    )  # squeezed, so longer along y


def test_claims_say_which_rule_holds_the_seam_where() -> None:
    made = draft(job_of(3, "two-panel"))
    assert made.standoff.rules
    told = {made.standoff.reason_at(k).rule for k in range(len(made.standoff.rows))}
    assert told <= {*made.standoff.rules, "the seam line flows on without a hollow"}


def test_a_pinned_standoff_is_straight_across_and_a_pinned_toe_as_deep() -> None:
    job = job_of(0, "two-panel")
    wide = draft(job.typed("seam.standoff", "14"))
    rows = wide.standoff.rows
    straight = (rows > wide.shell.loft.tip + 30) & (rows < rows[-1] - 20)
    assert wide.standoff.distance[straight] == pytest.approx(14, abs=0.05)
    deep = draft(job.typed("seam.toe", "31"))
    assert deep.value("seam.toe") == 31
    assert deep.shell.loft.tip - deep.shell.seam.foot == pytest.approx(31, abs=0.01)


def test_leather_follows_hollows_no_steeper_than_it_may() -> None:
    """Each row as high as any other makes it, told for every two of them; rows in any order."""
    rng = np.random.default_rng(8)
    rows, high = rng.permutation(np.cumsum(rng.uniform(0.1, 5, 40))), rng.uniform(0, 20, (40, 12))
    ends = float(np.median(rows))
    apart = np.abs(rows[:, None] - rows) * np.tan(LEANS)
    wanted = (high[None] - apart[:, :, None]).max(axis=1)
    found = followed(rows, high.copy(), ends)
    assert found[rows >= ends] == pytest.approx(wanted[rows >= ends])
    assert np.isinf(found[rows < ends]).all()
