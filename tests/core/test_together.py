"""Put together: maps that keep lengths, joints that meet, and faults planted that must be found."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path as File

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from tailor import demo
from tailor.cli import main
from tailor.core.carried.loft import Lifted, Loft, Turned
from tailor.core.carried.stations import Shape, Station
from tailor.core.checks import together
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Piece
from tailor.core.job import Job, draft
from tailor.core.placed.lies import FRONT, Bent, Frame, Laid, Lie, Swept, strain, upon
from tailor.core.placed.path import Path, alike, arched, bowed, levelled, looped, mirrored, rounded, through
from tailor.core.placed.sewn import sewn_on, slid, twisted
from tailor.core.settings import Settings
from tailor.core.together.assembled import Assembled
from tailor.core.together.closing import Closing
from tailor.core.together.mesh import celled
from tailor.core.together.order import ordered
from tailor.core.together.reach import Way, reached
from tests.sweeps import about, some

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


def changed(made: Draft, name: str, by: Callable[[Piece], Piece]) -> Draft:
    return replace(made, pieces=tuple(by(p) if p.name == name else p for p in made.pieces))


def shifted(place: int, seam: str, x: float) -> Callable[[Piece], Piece]:
    def by(piece: Piece) -> Piece:
        holes = tuple(replace(h, x=h.x + x) if h.seam == seam and h.place == place else h for h in piece.holes)
        return replace(piece, holes=holes)

    return by


def unpunched(piece: Piece) -> Piece:
    return replace(piece, fittings=piece.fittings[1:])


def told_thinner(made: Draft, place: str) -> Draft:
    return replace(made, hardware=tuple(replace(h, stack=h.stack - made.value("leather.thickness"))
        if h.place == place else h for h in made.hardware))  # fmt: skip


PLANTED: dict[str, tuple[str, Callable[[Draft], Draft], str]] = {
    "a hole moved": ("crew-cards", lambda d: changed(d, "front", shifted(4, "main", 0.7)), "Stitches come together"),
    "a pocket shorter": ("site-book", lambda d: changed(d, "front pocket", lambda p: p.mapped(
        lambda at: at * [1.0, 0.97])), "Stitches come together"),
    "a pocket too near": ("site-book", lambda d: replace(changed(changed(d, "front pocket", lambda p: p.mapped(
        lambda at: at * [1.0, 0.97])), "cover", lambda p: p.mapped(lambda at: at * [1.0, 0.97]))),
        "What it holds goes in"),
    "a post a layer short": ("peg-tray", lambda d: told_thinner(d, "corner 2"), "Leather under the rapid rivet 9"),
    "a post of one layer": ("spar-bag", lambda d: told_thinner(d, "front handle, rivet 1"),
        "Leather under the rapid rivet 9"),
    "a hole left out": ("spar-bag", lambda d: changed(d, "front handle", unpunched), "Leather under the rapid rivet 9"),
    "a strap 5 mm off": ("kit-bag", lambda d: changed(d, "right under strap", lambda p: p.moved(np.array([0.0, 5.0]))),
        "Stitches come together"),
    "a piece mirrored": ("kit-bag", lambda d: changed(d, "body", lambda p: p.mapped(lambda at: at * [-1.0, 1.0])),
        "Stitches come together"),
    "a gusset too long": ("laser-level", lambda d: changed(d, "gusset", lambda p: p.mapped(lambda at: at * [1, 1.01])),
        "Stitches come together"),
    "a gusset too narrow": ("laser-level", lambda d: changed(d, "gusset", lambda p: p.mapped(
        lambda at: at * [0.96, 1])), "Stitches come together"),
    "a flap too short": ("laser-level", lambda d: changed(d, "back", lambda p: replace(p, fittings=tuple(
        replace(f, y=f.y - 2.0) if f.place == "flap, its button" else f for f in p.fittings))), "Shuts in its place"),
    "a tie a hole on": ("ridge-bag", lambda d: changed(d, "front zip strip", lambda p: replace(p, holes=tuple(
        replace(h, place=h.place + 1) for h in p.holes)[:-1])), "Stitches come together"),
    "a corner's hole in": ("spar-bag", lambda d: changed(d, "front", shifted(2, "right corner of the front", 0.8)),
        "Stitches come together"),
    "a corner's hole up": ("spar-bag", lambda d: changed(d, "front", lambda p: replace(p, holes=tuple(replace(h,
        y=h.y + 0.8) if (h.seam, h.place) == ("right corner of the front", 2) else h for h in p.holes))),
        "Stitches come together"),
    "a plate's row too high": ("stapler", lambda d: changed(d, "back", lambda p: replace(p, holes=tuple(replace(h,
        y=h.y + 1.5) if h.seam == "plate row 2" else h for h in p.holes))), "Stitches come together"),
    "a hole beside the leather": ("leggett", lambda d: changed(d, "front", shifted(9, "main", 12.0)),
        "Stitches come together"),
    "a panel mirrored": ("leggett", lambda d: changed(d, "front", lambda p: p.mapped(lambda at: at * [-1.0, 1.0])),
        "Stitches come together"),
    "a loop's row too low": ("eaves-blade", lambda d: changed(d, "body", lambda p: replace(p, holes=tuple(replace(h,
        y=h.y - 1.5) if (h.seam, h.edge) == ("loop row 2", "back") else h for h in p.holes))),
        "Stitches come together"),
    "a seam of another pitch": ("shearing-blade", lambda d: changed(d, "body", lambda p: replace(p, holes=tuple(
        replace(h, y=1.004 * h.y) if (h.seam, h.edge) == ("main", "back") else h for h in p.holes))),
        "Stitches come together"),
    "a larger thing": ("radio", lambda d: replace(d, held=tuple(replace(h, loft=Loft(tuple(replace(s, front=s.front +
        3.0) for s in h.loft.stations))) for h in d.held)), "What it holds goes in"),
    "a channel for less": ("marking-gauge", lambda d: replace(d, rounds=tuple(replace(r, thing=(r.thing[0] + 3.0,
        r.thing[1] + 3.0)) for r in d.rounds)), "What it holds goes in"),
}  # fmt: skip


@pytest.mark.parametrize("fault", PLANTED)
def test_a_fault_that_is_planted_is_found(fault: str) -> None:
    name, plant, verdict = PLANTED[fault]
    job = demo.job(name)
    made = draft(job).unmarked()
    before = {v.alike for v in together.verdicts(job.settings, made) if v.ruling != "ok"}
    after = {v.alike for v in together.verdicts(job.settings, plant(made)) if v.ruling != "ok"}
    assert not before
    assert verdict in after


@pytest.mark.parametrize(("into", "ruling"), [(0.2, "ok"), (0.55, "look"), (1.3, "stop")])
def test_leather_gives_a_share_of_its_thickness_and_no_more(into: float, ruling: str) -> None:
    job = demo.job("radio")
    made = draft(job).unmarked()

    def larger(by: float) -> Draft:
        grown = [
            replace(h, loft=Loft(tuple(replace(s, front=s.front + by) for s in h.loft.stations))) for h in made.held
        ]
        return replace(made, held=tuple(grown))

    thick = job.settings.number("leather.thickness")
    gap, by = Assembled(made).gaps[0].gap, 0.0
    for _ in range(5):  # grown until its leather would have to lie so far inside
        by += gap + into * thick
        gap = min(g.gap for g in Assembled(larger(by)).gaps)
    assert gap == pytest.approx(-into * thick, abs=0.02)
    told = {v.alike: v.ruling.value for v in together.verdicts(job.settings, larger(by))}
    assert told["What it holds goes in"] == ruling


def test_a_panel_goes_on_level_where_a_piece_reaches_beyond_it() -> None:
    lie = draft(demo.job("shears")).lies["front blank"]
    panel = lie.panel
    for row in (1, len(panel.uv) // 2, -2):
        for side, out in ((0, -1.0), (-1, 1.0)):
            edge = panel.uv[row, side]
            beyond = lie(edge + np.outer(np.array([0.5, 3.0, 8.0]), [out, 0.0])).at
            steps = np.diff(beyond, axis=0)
            assert np.linalg.norm(steps, axis=1) == pytest.approx([2.5, 5.0], rel=0.03)
            ways = steps / np.linalg.norm(steps, axis=1)[:, None]
            assert ways[0] @ ways[1] == pytest.approx(1.0, abs=1e-3)


def spoken(name: str, **typed: str) -> tuple[Settings, Draft]:
    job = demo.job(name)
    for key, text in typed.items():
        job = job.typed(key.replace("__", "."), text)
    return job.settings, draft(job).unmarked()


SOUND = [
    ("peg-tray", {"corner__made": "slit"}), ("peg-tray", {"corner__rivet": "snap 10", "leather__thickness": "3.2"}),
    ("laser-level", {"gusset__flange": "in"}), ("laser-level", {"gusset__flange": "in", "foam__thickness": "0"}),
    ("laser-level", {"foam__thickness": "0", "divider__count": "2"}),
    ("laser-level", {"handle__kind": "wrapped", "handle__reach": "300"}), ("spar-bag", {"divider__count": "2"}),
    ("kit-bag", {"pocket__count": "0", "divider__count": "3"}), ("kit-bag", {"rim__bar": "6", "pocket__count": "0"}),
    ("kit-bag", {"under__ring": "none", "bottom__made": "laminated"}), ("spar-bag", {"handle__kind": "strap"}),
    ("whetstone", {"flap__closing": "snap 10"}), ("whetstone", {"panel__lining": "none", "pocket__count": "1"}),
    ("crew-cards", {"pocket__count": "6"}), ("site-book", {"leather__thickness": "3"}),
    ("marking-gauge", {"tools__sizes": "30;4;22"}), ("ridge-bag", {"gusset__ease": "0.03"}),
    ("stapler", {"keeper__way": "over", "loop__landing": "sewn"}), ("leggett", {"loop__landing": "dangler"}),
    ("spar-hook", {"loop__landing": "dangler"}), ("eaves-blade", {"loop__landing": "dangler"}),
    ("kit-bag", {"gusset__flange": "in"}), ("spar-bag", {"handle__reach": "90"}),
    ("shearing-blade", {"leather__temper": "soft"}),
    ("shears", {"loop__landing": "back", "belt__width": "25"}), ("eaves-blade", {"loop__landing": "slots"}),
    ("eaves-blade", {"loop__landing": "handle"}), ("spar-hook", {"loop__landing": "sewn", "carry__cant": "15"}),
    ("radio", {"loop__landing": "sewn", "belt__width": "15", "flap__closing": "snap 10"}),
    ("radio", {"mould__where": "hollows"}),  # of which it has none, so that it is taut
    ("radio", {"patch__on": "front blank", "patch__kind": "reinforcement"}),
]  # fmt: skip


@pytest.mark.parametrize(("name", "typed"), some(SOUND))
def test_what_is_sound_is_not_called_amiss(name: str, typed: dict[str, str]) -> None:
    found = list(together.verdicts(*spoken(name, **typed)))
    assert not [v for v in found if v.ruling != "ok"]
    assert found


BACKED = [
    ("delivery-notes", {}, "lining", "cover"), ("site-book", {"panel__lining": "lined"}, "lining", "cover"),
    ("whetstone", {}, "front lining", "front"), ("whetstone", {}, "back lining", "back"),
    ("peg-tray", {"panel__lining": "lined", "lining__thickness": "1.5"}, "floor lining", "floor"),
    ("peg-tray", {}, "floor", "tray"), ("ridge-bag", {}, "front foam", "front"), ("ridge-bag", {}, "back foam", "back"),
    ("laser-level", {}, "front foam", "front"), ("laser-level", {"foam__thickness": "11"}, "back foam", "back"),
    ("laser-level", {}, "side foam", "gusset"), ("laser-level", {}, "side foam, the other", "gusset"),
    ("laser-level", {}, "floor foam", "gusset"),
]  # fmt: skip


def met(lie: Lie, at: np.ndarray, out: np.ndarray, flat: np.ndarray) -> float:
    """How far along a line from a place a piece lies, closed in on by its map from a flat point near there."""
    square = np.linalg.svd(out[None, :])[2][1:]  # two ways across the line
    for _ in range(6):
        here, right, up = (lie(np.array([flat + way])).at[0] for way in ([0.0, 0.0], [1e-4, 0.0], [0.0, 1e-4]))
        slope = square @ np.column_stack([right - here, up - here]) / 1e-4
        flat = flat - np.linalg.lstsq(slope, square @ (here - at), rcond=None)[0]
    return float(abs((lie(flat[None, :]).at[0] - at) @ out))


@pytest.mark.parametrize(("name", "typed", "inner", "outer"), BACKED)
def test_what_is_glued_or_laid_in_lies_on_the_leather(name: str, typed: dict[str, str], inner: str, outer: str) -> None:
    """A line square through it meets what it lies on half of both further out; no room is lost, nor any piece."""
    whole = Assembled(spoken(name, **typed)[1])
    lies_on = (whole.skins[inner].thickness + whole.skins[outer].thickness) / 2
    low, high = whole.pieces[inner].cut.min(axis=0), whole.pieces[inner].cut.max(axis=0)
    placed = whole.lies[inner](low + (high - low) * np.random.default_rng(3).uniform(0.06, 0.94, (40, 2)))
    between = [
        min(met(whole.lies[outer], at, out, flat) for _, flat in whole.skins[outer].crossed(at, out))
        for at, out in zip(placed.at, placed.out, strict=True)
    ]
    assert np.median(between) == pytest.approx(lies_on, abs=0.02)
    # where its leather goes round a corner a lining stands off a little, and foam is pressed
    assert min(between) > lies_on - (0.6 * whole.skins[inner].thickness if inner == "floor foam" else 0.05)
    assert max(between) < lies_on + 1.0
    assert min((gap.gap for gap in whole.gaps), default=0.0) > -0.6
    if inner == "lining":  # its feather stands out beyond the cover at both ends, glued round the spine
        ends = [np.abs(whole.skins[piece].placed.at).max(axis=0)[:2] for piece in (inner, outer)]
        assert ends[0] - ends[1] == pytest.approx([3.0, 3.0], abs=0.02)
    assert inner in [step.piece for step in Closing(whole, {}).steps[1:]]


@pytest.mark.parametrize("foam", ["6", "11"])
def test_foam_does_not_stand_through_rounded_corners(foam: str) -> None:
    """From the middle of the box no lower corner of it lies further out than the gusset there."""
    whole = Assembled(spoken("laser-level", foam__thickness=foam)[1])
    inside = whole.skins["front foam"].placed.at.mean(axis=0) * [1.0, 1.0, 0.0]
    for name, outer in (("floor foam", -1.0), ("side foam", 1.0), ("side foam, the other", 1.0)):
        cut = whole.pieces[name].cut
        ends = [(cut[:, 0].min(), 50.0), (cut[:, 0].max(), 50.0)] if outer < 0 else [(50.0, cut[:, 1].min())]
        for end in ends:
            placed = whole.lies[name](np.array([end]))
            corner = placed.at[0] + outer * placed.out[0] * whole.skins[name].thickness / 2
            way = corner - inside
            far = float(np.linalg.norm(way))
            out = min(deep for deep, _ in whole.skins["gusset"].crossed(inside, way / far) if deep > 0)
            assert far < out + whole.skins["gusset"].thickness / 2 + 0.3


@pytest.mark.parametrize(("wide", "tall", "ruling"), [("60", "70", "ok"), ("60", "110", "look"), ("120", "110", "ok")])
def test_a_pocket_is_no_deeper_than_fingers_reach(wide: str, tall: str, ruling: str) -> None:
    asked = {"patch__on": "front", "patch__width": wide, "patch__height": tall}
    job, made = spoken("spar-bag", **asked)
    margin = made.value("seam.margin")
    (pocket,) = Assembled(made).pockets
    assert pocket.piece == "pocket"
    assert pocket.deep == pytest.approx(float(tall) - margin, abs=1.0)
    assert pocket.width == pytest.approx(float(wide) - 2 * margin, abs=2.0)
    (told,) = [v for v in together.verdicts(job, made) if v.name == "Fingers reach down the pocket"]
    assert told.ruling == ruling
    for key, text in told.remedies:
        again = spoken("spar-bag", **{**asked, key.replace(".", "__"): text})
        assert all(v.ruling == "ok" for v in together.verdicts(*again))
    for kind in ("puckered pocket", "bellows pocket"):
        (opens,) = Assembled(spoken("spar-bag", **asked, patch__kind=kind)[1]).pockets
        assert opens.deep == pytest.approx(pocket.deep, abs=2.0)
        assert opens.width > pocket.width + 5
    for kind in ("reinforcement", "strap", "loop", "moulded pocket"):  # nothing is put in, or falls through, or shows
        assert not Assembled(spoken("spar-bag", patch__on="front", patch__kind=kind)[1]).pockets
    left = spoken("spar-bag", patch__on="front", patch__width=wide)[1]
    assert Assembled(left).pockets[0].deep < (81 if wide == "60" else 191)  # of itself it is reached


@pytest.mark.parametrize("over", [{"flap__closing": "plain"}, {"flap__closing": "snap 10"}, {"keeper__way": "over"}])
@pytest.mark.parametrize("name", ["shearing-blade", "leggett"])
def test_what_goes_over_the_top_is_sewn_where_it_comes_down(name: str, over: dict[str, str]) -> None:
    rows = [met for met in Assembled(spoken(name, **over)[1]).seams if met.name.startswith(("flap", "keeper"))]
    assert rows
    assert max(met.distance for met in rows) < 0.05


@pytest.mark.parametrize("landing", ["dangler", "slots"])
def test_what_hangs_below_a_flap_is_sewn_where_the_back_goes_on_evenly(landing: str) -> None:
    """Just below this flap the handle ends, and the back comes down by its thickness."""
    _, made = spoken("eaves-blade", flap__closing="plain", loop__landing=landing)
    rows = [met for met in Assembled(made).seams if met.name.startswith(("flap row", "ring row", "plate row"))]
    assert {met.name.split()[0] for met in rows} == {"flap", {"dangler": "ring", "slots": "plate"}[landing]}
    assert max(met.distance for met in rows) < 0.1
    _, bare = spoken("eaves-blade", flap__closing="none", loop__landing=landing)
    assert "loop.down" not in bare.reasons  # on an even back it hangs as high as it can
    lower = made.reasons["loop.down"]
    upper = max(row[:, 1].mean() for row in made.carriage.rows)
    assert dict(lower.inputs)["highest"] - upper == pytest.approx(lower.value, abs=1e-6)
    assert 0 < lower.value <= 50


def test_it_is_told_and_written_by_the_command_line(tmp_path: File, capsys: pytest.CaptureFixture[str]) -> None:
    demo.write(tmp_path)
    job = str(tmp_path / "kit-bag.tailor")
    for kind, unit in (("stl", 1.0), ("obj", 1.0), ("glb", 0.001)):
        model = tmp_path / f"bag.{kind}"
        assert main(["together", job, "--json", "-o", str(model)]) == 0
        found = json.loads(capsys.readouterr().out)
        solid = trimesh.load(model, force="mesh")
        # the caps' outer faces: the room across, and on either side where the leather lies, and half of it more
        asked, thick = draft(demo.job("kit-bag")), 2.2
        assert solid.extents[0] / unit == pytest.approx(asked.value("inside.across") + 2 * thick, abs=0.3)
    assert found["format"] == "tailor-together/1"
    assert {joint["name"] for joint in found["joints"]} >= {"left seam", "right seam", "pocket foot"}
    assert max(joint["distance"] for joint in found["joints"]) <= 0.3
    assert found["fails"] == []
    assert [step["piece"] for step in found["order"]] == [
        str(step.piece) for step in ordered(Assembled(asked.unmarked()))
    ]
    assert found["order"][1]["held"][0] == {
        "by": "pocket foot",
        "way": "sewn",
        "front": None,
        "back": None,
        "beside": [],
    }
    assert main(["set", job, "inside.across=150"]) == 0
    assert main(["together", job]) == 1
    assert "What it holds goes in" in capsys.readouterr().out
    assert main(["together", job, "-o", str(tmp_path / "bag.step")]) == 2
    assert "end its name in" in capsys.readouterr().err


def test_what_has_to_reach_a_seam_has_the_room_that_is_there_then() -> None:
    """Across a wall to its other side; into a case whose other panel is there, not to one that comes yet."""
    made = draft(demo.job("twine-spool"))
    whole = Assembled(made.unmarked())
    steps = ordered(whole)
    by = {step.piece: held for step, held in zip(steps, reached(whole, steps), strict=True)}
    for butt in by["back strip"]:
        assert (butt.way, butt.front, butt.beside) == (Way.SEWN, np.inf, ("wall",))
        assert butt.back == pytest.approx(made.value("inside.across"), abs=0.1)
    assert {each.way for each in by["right ring tab"]} == {Way.SET}
    assert {each.way for each in by["shoulder strap"]} == {Way.HUNG}
    whole = Assembled(draft(demo.job("whetstone")).unmarked())
    steps = ordered(whole)
    first, second, last = (held[0] for held in reached(whole, steps)[1:])
    assert (first.front, first.back) == (np.inf, np.inf)  # the other side is not there yet
    faces = [whole.skins[name] for name in ("front lining", "back lining")]
    apart = faces[0].placed.at[:, 2].max() - faces[1].placed.at[:, 2].min() - faces[0].thickness
    assert 5.0 < second.back == last.back < apart  # nearer to one another at their seam than over the stone


def test_a_seam_through_linings_is_as_thick_as_all_that_lies_there() -> None:
    """A lined slip case, its panels apart by their linings where they are sewn; a lined cover, its pockets on it."""
    job = demo.job("whetstone")
    made = draft(job)
    thick, lining = made.piece("front").thickness, made.piece("front lining").thickness
    (main,) = made.seams
    assert main.stack == pytest.approx(2 * (thick + lining))
    holes = [made.lies[name](made.piece(name).holes_of("main", name)[3:5]).at for name in ("front", "back")]
    offset = made.lies["front"](np.zeros((1, 2))).at[0, 2] - made.lies["front lining"](np.zeros((1, 2))).at[0, 2]
    apart = holes[0][:, 2] - holes[1][:, 2]
    assert apart == pytest.approx(2 * offset + lining, abs=0.01)
    cover = draft(demo.job("delivery-notes"))
    spot = cover.piece("front pocket").cut.mean(axis=0)[None, :]
    pocket = cover.lies["front pocket"](spot).at[0, 2]
    walls = [cover.lies[name](np.array([[x, 0.0]])).at[0] for name in ("lining", "cover") for x in (-120.0, 120.0)]
    near = min(abs(at[2] - pocket) for at in walls[:2])
    assert near == pytest.approx(
        (cover.piece("front pocket").thickness + cover.piece("lining").thickness) / 2, abs=0.15
    )
