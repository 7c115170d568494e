"""Put together: maps that keep lengths, joints that meet, and faults planted that must be found."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from tailor import demo
from tailor.core.carried.loft import Lifted, Loft, Turned
from tailor.core.carried.stations import Shape, Station
from tailor.core.checks import together
from tailor.core.job import Job, draft
from tailor.core.placed.lies import FRONT, Bent, Frame, Laid, Lie, Swept, strain, upon
from tailor.core.placed.path import Path, alike, arched, bowed, levelled, looped, mirrored, rounded, through
from tailor.core.placed.sewn import sewn_on, slid, twisted
from tailor.core.together.assembled import Assembled
from tailor.core.together.mesh import celled
from tests.sweeps import about

RUNS = st.lists(
    st.tuples(st.floats(0.5, 40), st.floats(-2.5, 2.5)), min_size=1, max_size=6,
).map(tuple)  # fmt: skip
GOODS = [name for name in demo.names() if draft(demo.job(name)).lies]


def walked(lie: Lie, flat: np.ndarray) -> float:
    """How long a line of flat points (n, 2) is once it lies."""
    return float(np.linalg.norm(np.diff(lie(flat).at, axis=0), axis=1).sum())


@settings(max_examples=about(40))
@given(RUNS, st.floats(-1.2, 1.2), st.floats(-30, 30), st.floats(2, 40))
def test_ends_of_a_path_turn_level_and_go_on_so(runs: tuple, heading: float, first: float, radius: float) -> None:
    path = Path(runs, (3.0, -2.0), heading, first)
    flat, s = levelled(path, radius), np.linspace(first, first + path.length, 50)
    assert flat.at(s) == pytest.approx(path.at(s), abs=1e-6)
    far = np.linspace(first - 200, first + path.length + 200, 40001)
    assert np.hypot(*np.diff(flat.at(far), axis=0).T).sum() == pytest.approx(far[-1] - far[0], rel=1e-6)
    assert flat.heads(far[[0, -1]]) == pytest.approx(0.0, abs=1e-9)
    bends = np.abs(np.diff(flat.heads(far)) / np.diff(far))[(far[1:] < first - 0.1) | (far[:-1] > s[-1] + 0.1)]
    assert bends.max() <= 1 / radius + 1e-6


def test_a_long_bend_is_told_at_least_every_quarter_turn() -> None:
    path = Path(((10.0, 0.0), (40.0, 1.2 * np.pi), (10.0, 0.0)), first=5.0)
    assert path.turns == pytest.approx([5.0, 15.0, 15.0 + 40 / 3, 15.0 + 80 / 3, 55.0, 65.0])
    assert len(Path(((30.0, 0.0),)).turns) == 0


@pytest.mark.parametrize("seed", range(4))
def test_a_piece_is_parted_into_triangles_without_gap_or_overlap(seed: int) -> None:
    rng = np.random.default_rng(seed)
    turn, far = np.sort(rng.uniform(0, 2 * np.pi, 23)), rng.uniform(12, 30, 23)
    ring = np.vstack([np.column_stack([far * np.cos(turn), far * np.sin(turn)]), [(40, 0), (40, -35), (-30, -35)]])
    region = shapely.Polygon(ring, [shapely.box(-3, -3, 2.5, 3).exterior, shapely.Point(5, 1).buffer(0.4).exterior])
    region = region.buffer(0)
    left, low, right, high = region.bounds
    xs = np.unique([left, *np.linspace(-28, 38, 40), -3.0, 2.5, right])
    ys = np.unique([low, *np.linspace(-30, 20, 17), high])
    points, triangles = celled(shapely.to_wkb(region), xs.tobytes(), ys.tobytes())
    parts = shapely.polygons(points[triangles])
    assert parts.size == len(triangles)
    assert shapely.area(parts).sum() == pytest.approx(region.area, rel=1e-6)
    assert shapely.union_all(parts).symmetric_difference(region).area < 1e-3
    assert (np.sort(np.unique(triangles)) == np.arange(len(points))).all()  # no place that is in none
    assert shapely.is_ccw(shapely.linearrings(points[triangles])).all()
    cells = np.searchsorted(xs, points[triangles][:, :, 0].mean(axis=1))
    assert (points[triangles][:, :, 0].max(axis=1) <= xs[cells] + 1e-6).all()  # none reaches over a line


@settings(max_examples=about(60), deadline=None)
@given(RUNS, RUNS, st.floats(-3, 3), st.floats(-30, 30))
def test_bent_sheets_keep_every_length(one: tuple, other: tuple, heading: float, first: float) -> None:
    path = Path(one, (3.0, -2.0), heading, first)
    s = np.linspace(first - 5, first + path.length + 5, 20001)
    assert np.hypot(*np.diff(path.at(s), axis=0).T).sum() == pytest.approx(s[-1] - s[0], rel=1e-6)
    within = np.linspace(first + 1e-3, first + path.length - 1e-3, 17)
    ahead = np.column_stack([np.cos(path.heads(within)), np.sin(path.heads(within))])
    assert (path.at(within + 1e-6) - path.at(within - 1e-6)) / 2e-6 == pytest.approx(ahead, abs=1e-4)
    across = Bent(FRONT, across=path, up=Path(start=(0.0, 4.0)))
    wound = Swept(Frame(up=np.array([0.0, 0.0, 1.0])), path, eased=0.0)
    rng = np.random.default_rng(7)
    flat = np.column_stack([rng.uniform(s[0], s[-1], 40), rng.uniform(-50, 50, 40)])
    for lie, points in ((across, flat), (wound, flat[:, ::-1] * [1.0, -1.0])):
        # one bend may be looked at across where it begins; all others are exact
        assert np.sort(np.abs(strain(lie, points)).max(axis=1))[-3] < 1e-6
        line = points[0] + np.linspace(0, 1, 4001)[:, None] * (points[1] - points[0])
        assert walked(lie, line) == pytest.approx(np.hypot(*(points[1] - points[0])), rel=1e-6, abs=1e-6)


def test_what_is_strained_is_told() -> None:
    """A flange 5 mm out of a wall bent to 20 mm is longer there by a quarter; one turned in is as much shorter."""
    for side in (1.0, -1.0):
        section = mirrored([(10.0, 0.0), (np.pi / 2 * 2, side * np.pi / 2), (9.0, 0.0)])
        lie = Swept(FRONT, rounded([(50, 100), (50, 0), (-50, 0), (-50, 100)], 20.0), section)
        corner = 80.0 + np.pi / 4 * 20
        low, high = strain(lie, np.array([[10 + np.pi + 3.0, -corner], [0.0, -corner], [10 + np.pi + 3.0, -10.0]])).T
        assert (high if side > 0 else -low) == pytest.approx([5 / 20, 0, 0], abs=1e-6)


@pytest.mark.parametrize("quarters", range(4))
def test_what_is_laid_on_turned_bends_where_that_bends(quarters: int) -> None:
    base = Bent(across=Path(((30.0, 0.0), (5.0, 0.4), (20.0, 0.0))), up=Path(((20.0, 0.0), (10.0, 1.2), (25.0, 0.0))))
    laid, there = Laid(base, 0.0, (3.0, 4.0), quarters * np.pi / 2).creases(), base.creases()
    c, s = np.cos(quarters * np.pi / 2), np.sin(quarters * np.pi / 2)
    for k, own in enumerate((laid.across, laid.up)):
        at = np.zeros((len(own), 2))
        at[:, k] = own
        on = at @ np.array([[c, s], [-s, c]]) + [3.0, 4.0]
        which = (k + quarters) % 2
        assert np.sort(on[:, which]) == pytest.approx(np.sort((there.across, there.up)[which]))


def test_known_things_close() -> None:
    """A sheet round a tube meets itself, a strip round a box does; folds lie on one another; arches come down."""
    tube = Bent(FRONT, across=Path(((2 * np.pi * 30, 2 * np.pi),)))
    ends = tube(np.array([[0.0, 5.0], [2 * np.pi * 30, 5.0]]))
    assert ends.at[0] == pytest.approx(ends.at[1], abs=1e-9)
    box = Swept(FRONT, rounded([(0, 40), (0, 0), (60, 0), (60, 80), (0, 80), (0, 40)], 0.0))
    assert box(np.array([[3.0, 0.0], [3.0, -280.0]])).at[0] == pytest.approx([0, 40, -3])
    assert np.ptp(box(np.array([[3.0, 0.0], [3.0, -280.0]])).at, axis=0) == pytest.approx(0, abs=1e-9)
    folded = Bent(FRONT, up=looped(60.0, 20.0, 2.5))
    leg = folded(np.array([[1.0, -20.0], [1.0, 20.0], [1.0, -50.0], [1.0, 50.0]])).at
    assert leg[1] - leg[0] == pytest.approx([0, 0, 2.5], abs=1e-9)
    assert leg[3] - leg[2] == pytest.approx([0, 0, 2.5], abs=1e-9)
    loop = folded(np.column_stack([np.zeros(401), np.linspace(-60, 60, 401)])).at
    assert loop[:, 2].min() > -1e-9  # what it lies on is not in its way
    assert np.linalg.norm(np.diff(loop, axis=0), axis=1).sum() == pytest.approx(120, rel=1e-3)
    for chord, length in ((100.0, 101.0), (100.0, 150.0), (40.0, 300.0)):
        runs, up = arched(chord, length)
        path = Path(runs, kinks=(up, *(0.0,) * (len(runs) - 1)))
        assert path.length == pytest.approx(length)
        assert path.at(np.array([length]))[0] == pytest.approx([chord, 0.0], abs=1e-6)
    half = np.array([[0.0, 9.0], [12.0, 8.0], [20.0, 0.5]])
    assert alike(half).at(np.array([-12.0416 - 11, 0.0]))[1] == pytest.approx([0, 9])
    assert through(half).length == pytest.approx(np.hypot(12, 1) + np.hypot(8, 7.5))
    hem = Path(((100.0, 0.0),)).hemmed(15.0, 2.0, 10.0)
    assert hem.at(np.array([15.0]))[0] - hem.at(np.array([-15.0]))[0] == pytest.approx([0, 2.0], abs=1e-9)
    assert hem.at(np.array([85.0]))[0] - hem.at(np.array([115.0]))[0] == pytest.approx([0, 2.0], abs=1e-9)
    assert bowed(10.0, 10.0) == ((10.0, -0.0), 0.0)
    seat = upon(tube, (30 * np.pi, 0.0), 3.0)
    assert seat.origin == pytest.approx([0, 0, 60 - 3.0], abs=1e-6)  # its grain is inside the tube
    assert Laid(tube, 3.0)(np.array([[30 * np.pi, 0.0]])).at[0] == pytest.approx(seat.origin, abs=1e-6)


@pytest.mark.parametrize("name", GOODS)
def test_every_piece_of_the_demo_comes_together(name: str) -> None:
    job = demo.job(name)
    made = draft(job).unmarked()
    whole = Assembled(made)
    assert max((met.distance for met in whole.seams), default=0.0) <= 0.3
    assert max((met.distance for met in whole.fastened), default=0.0) <= 0.5
    assert max((met.distance for met in whole.shut), default=0.0) <= 0.5
    for each in whole.layered:
        assert each.thickness == pytest.approx(each.told, abs=0.01)
        assert not each.unpierced
    assert {v.ruling.value for v in together.verdicts(job.settings, made)} == {"ok"}
    loose = {s.name for s in made.seams} - {met.name for met in whole.seams}
    assert all(set(made.seam(s).pieces) & set(whole.unplaced) for s in loose)  # only of what has no place


@settings(max_examples=about(40), deadline=None)
@given(st.integers(0, 10**6))
def test_what_is_sewn_on_lies_where_its_stitches_hold_it(seed: int) -> None:
    """A loop over a belt, turned and moved anyhow with the holes under it, is found where it was put."""
    r = np.random.default_rng(seed)
    turn, _ = np.linalg.qr(r.normal(size=(3, 3)))
    turn[:, 2] *= np.sign(np.linalg.det(turn))
    shape = Bent(up=Path(((20.0, 0.0), (12.0, 1.2), (30.0, -2.4), (12.0, 1.2), (20.0, 0.0)), first=-47.0))
    rows = [np.column_stack([np.linspace(-12, 12, 7), np.full(7, y)]) for y in (-44.0, -36.0, 36.0, 44.0)]
    put = Bent(Frame(r.uniform(-50, 50, 3), turn[:, 0], turn[:, 1]), up=shape.up)
    over = [put(row) for row in rows]
    under = [type(p)(p.at - 3.0 * p.out, p.out) for p in over]
    whole = type(under[0])(np.vstack([p.at for p in under]), np.vstack([p.out for p in under]))
    found = sewn_on(shape, np.vstack(rows), whole, 3.0)
    some = np.column_stack([r.uniform(-12, 12, 30), r.uniform(-47, 47, 30)])
    assert found(some).at == pytest.approx(put(some).at, abs=1e-6)
    assert found(some).out == pytest.approx(put(some).out, abs=1e-6)
    # Put aside it is slid back, however far out it lies, where all its rows look the same way.
    askew = replace(found, frame=found.frame.moved(tuple(turn @ [1.5, -2.0, 0.7])))
    assert slid(askew, rows, under, 3.0)(some).at - found(some).at == pytest.approx(
        np.broadcast_to(0.7 * turn[:, 2], (30, 3)), abs=1e-6
    )
    # What each row is askew it follows, how far it lies along the leather as a whole it does not.
    aside, bow = r.uniform(-2, 2), r.uniform(-2, 2, 7)
    askew = [type(p)(p.at + aside * turn[:, :1].T + (bow - bow.mean())[:, None] * turn[:, 1], p.out) for p in under]
    followed = twisted(found, rows, askew, 3.0)
    for row, p in zip(rows, askew, strict=True):
        assert p.at + 3.0 * p.out - followed(row).at == pytest.approx(
            np.broadcast_to(aside * turn[:, 0], (7, 3)), abs=1e-6
        )


@settings(max_examples=about(30), deadline=None)
@given(st.sampled_from(list(Shape)), st.floats(4, 60), st.floats(2, 25), st.floats(0, 3), st.integers(0, 10**6))
def test_how_far_a_place_is_from_a_section_is_as_shapely_has_it(
    shape: Shape, wide: float, high: float, corner: float, seed: int
) -> None:
    loft = Loft(tuple(Station(y, -wide / 3, wide, high, 0.7 * high, shape, corner) for y in (0.0, 50.0, 100.0)))
    r = np.random.default_rng(seed)
    y, x, z = r.uniform(0, 100, 60), r.uniform(-wide, 1.5 * wide, 60), r.uniform(-1.5 * high, 1.5 * high, 60)
    sections = loft.sections(y)
    told = sections.clear(np.arange(60), x, z)
    for k in range(60):
        ring = shapely.Polygon(sections.outline(k))
        at = shapely.Point(x[k], z[k])
        far = ring.exterior.distance(at) * (-1 if ring.contains(at) else 1)
        assert told[k] == pytest.approx(far, abs=1e-6)


@settings(max_examples=about(200), deadline=None)
@given(st.sampled_from(list(Shape)), st.floats(4, 60), st.floats(2, 25), st.floats(0.3, 3), st.integers(0, 10**6))
def test_the_nearest_of_many_places_is_the_one_that_is_nearest_by_itself(
    shape: Shape, wide: float, high: float, taper: float, seed: int
) -> None:
    stations = tuple(
        Station(y, -wide / 3, wide * k, high * k, 0.7 * high, shape, 0.2)
        for y, k in ((0.0, 1.0), (50.0, taper), (60.0, 1.0))
    )
    loft = (Loft(stations), Turned(stations), Lifted(stations, -0.8), Lifted(stations, 1.0))[seed % 4]
    r = np.random.default_rng(seed)
    low, top = r.choice([(-20.0, 80.0), (5.0, 55.0)])
    at = r.uniform((-wide, low, 0.6 * high), (1.5 * wide, top, 2 * high), (r.integers(2, 400), 3))
    at *= [1.0, 1.0, r.choice([-1.0, 1.0])]
    at[:, 0] += r.choice([0.0, 3 * wide])  # about its front or its back, or all beside it
    at[-1] = wide / 6, r.choice([0.05, 30.0]), 0.0  # but for one, deep in it
    thick = r.uniform(0, 3, len(at))
    on = np.clip(at[:, 1], 0.0, 60.0)
    aside, past = loft.sections(on).clear(np.arange(len(at)), at[:, 0], at[:, 2]), np.abs(at[:, 1] - on)
    alone = np.where(past > 0, np.hypot(np.maximum(aside, 0.0), past), aside) - thick
    least, which = loft.nearest(at, thick)
    assert least == pytest.approx(alone.min(), abs=0.2)  # heights are told to a tenth of a mm
    assert alone[which] == pytest.approx(least, abs=0.2)
    whole, (middle, size) = loft.sections(np.linspace(0.0, 60.0, 61)), loft.box
    for part, k in ((whole.x, 0), (whole.front, 2), (-whole.back, 2)):
        assert np.abs(part - middle[k]).max() <= size[k] / 2 + 1e-9


@pytest.mark.parametrize("style", ["two-panel", "folded-sheath"])
def test_leather_round_a_bar_keeps_the_room_that_is_asked(style: str) -> None:
    """Taut over a round bar it touches its room and goes no nearer, however thick it is; pinched, it is told."""
    stations = tuple(Station(y, -9.0, 9.0, 9.0, 9.0, Shape.OVAL) for y in (0.0, 60.0, 120.0))
    for thick, room in (("2", 0.5), ("3", 1.2), ("4", 0.8)):
        job = Job("Bar", style, stations, ()).typed("leather.thickness", thick).typed("fit.clearance", str(room))
        job = job.typed("mould.method", "taut").typed("object.sharp", "none").typed("loop.landing", "none")
        made = draft(job).unmarked()
        (gap,) = Assembled(made).gaps
        assert gap.gap == pytest.approx(room, abs=0.12)
        fatter = Loft(tuple(replace(s, front=s.front + 2.5, back=s.back + 2.5) for s in stations))
        (tight,) = Assembled(replace(made, held=tuple(replace(h, loft=fatter) for h in made.held))).gaps
        assert tight.gap == pytest.approx(room - 2.5, abs=0.6)
