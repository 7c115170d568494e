"""The parts a sheath is put together from: panel, standoff, mouth, welt, loop, outline."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, Polygon

from tailor.core.carried.loft import Loft
from tailor.core.carried.stations import Shape, Station
from tailor.core.carried.zones import Zone, ZoneKind
from tailor.core.draft.draft import Draft
from tailor.core.draft.fitted.mouth import front_edge, rounded
from tailor.core.draft.styles.folded_sheath import LOOP_ROWS, MAIN
from tailor.core.draft.views.section import section
from tailor.core.errors import InputError
from tailor.core.job import Job, draft
from tailor.core.leather.leather import Leather
from tailor.core.settings import Settings
from tailor.core.shell.panel import Panel
from tailor.core.shell.region import Edges
from tailor.core.together.assembled import Assembled
from tests.lofts import CASES, STEEP, between, case, jobs, sizes, typed
from tests.sweeps import about

# Panel


@given(sizes(10, 40), sizes(4, 16), sizes(1, 4), sizes(2, 8))
def test_a_prism_develops_to_straight_level_strips(width: float, thick: float, leather: float, welt: float) -> None:
    station = Station(0, 0, width, thick / 2, thick / 2, Shape.OVAL)
    loft = Loft((station, replace(station, y=100.0)))
    rows = np.linspace(0, 100, 21)
    panel = Panel(loft, Leather(leather), 0.5, welt, 100.0, rows, between(-99, width + 6), STEEP, -0.5)
    y = np.linspace(1, 99, 40)
    for x in (width * 0.4, width + 3, width + 12):
        flat = panel.to_flat(np.column_stack([np.full(40, x), y]), "front")
        assert np.ptp(flat[:, 0]) < 1e-6
        assert np.allclose(flat[:, 1], y)


@given(sizes(20, 60), sizes(6, 20))
def test_a_straight_taper_develops_to_straight_edges(width: float, thick: float) -> None:
    """A cone with its standoff in proportion: the flat half-width grows evenly."""
    tip = Station(0, 0, width / 4, thick / 8, thick / 8, Shape.DIAMOND)
    top = Station(120, 0, width, thick / 2, thick / 2, Shape.DIAMOND)
    middle = Station(60, 0, width * 0.625, thick * 0.3125, thick * 0.3125, Shape.DIAMOND)
    loft = Loft((tip, middle, top))
    rows = np.linspace(0, 120, 49)
    share = 0.25 + 0.75 * rows / 120
    thin = Leather(0.5, fold_radius=0.05)
    seam = np.vstack([[(-99, -1), (-99, 121)], np.column_stack([loft.x_seam(rows) + 8 * share, rows])[::-1]])
    panel = Panel(loft, thin, 0.0, 0.01, 120.0, rows, Edges(Polygon(seam)), STEEP, 0.0)
    path = panel.wrap(rows).front.length_to(panel.x_welt)
    assert np.abs(np.diff(path, 2)).max() < 0.02


# Standoff


@settings(max_examples=about(25))
@given(jobs())
def test_a_computed_standoff_is_enough_and_no_more_than_some_rule_asks(job: Job) -> None:
    stand = draft(job).standoff
    most = stand.wanted.max(axis=0)
    assert (stand.x_welt >= most - 0.01).all()
    assert np.allclose(stand.x_welt, most + stand.let_out, atol=0.01)
    told = [stand.reason_at(k) for k in range(len(stand.rows))]
    assert np.allclose([r.value for r in told], stand.distance, atol=0.01)
    assert all(r.value >= max(r.others.values(), default=0) - 0.51 for r in told)


@given(st.sampled_from(["seam.standoff", "fit.edge", "fit.clearance"]), sizes(2.5, 9), sizes(0.5, 4))
@settings(max_examples=about(15))
def test_the_sheath_grows_with_what_it_must_clear(eaves: Job, name: str, value: float, more: float) -> None:
    areas = [draft(typed(eaves, **{name: f"{v}mm"})).piece("body").area for v in (value, value + more)]
    assert areas[1] > areas[0]


def test_a_zone_moved_moves_the_seam_beside_it(eaves: Job, sheath: Draft) -> None:
    blunt = draft(replace(eaves, zones=(Zone(ZoneKind.GRIP, 156, 240), Zone(ZoneKind.EDGE, 100, 148))))
    near = int(np.abs(blunt.standoff.rows - 50).argmin())
    same = int(np.abs(sheath.standoff.rows - 50).argmin())
    assert blunt.standoff.wanted[0, near] == -np.inf  # no edge there any more
    assert blunt.standoff.wanted[:, near].max() < sheath.standoff.wanted[:, same].max()


# Mouth


@given(sizes(20, 80), sizes(0, 10))
def test_the_scoop_is_level_at_both_ends_and_as_deep_as_said(span: float, relief: float) -> None:
    edge = front_edge(100.0, span, relief)
    assert edge[[0, -1], 1] == pytest.approx([100, 100])
    assert 100 - edge[:, 1].min() == pytest.approx(relief)
    slope = np.diff(edge[:, 1]) / np.diff(edge[:, 0])
    assert abs(slope[[0, -1]]).max() <= 0.06 * relief


@given(st.floats(20, 160), sizes(1, 8))
def test_a_rounded_corner_touches_both_runs(degrees: float, radius: float) -> None:
    angle = np.radians(degrees)
    before, after = np.array([100.0, 0.0]), 100 * np.array([np.cos(angle), np.sin(angle)])
    arc = rounded(np.zeros(2), before, after, radius)
    centre_distance = radius / np.sin(angle / 2)
    assert np.hypot(*arc.mean(axis=0)) < centre_distance + radius
    assert Point(arc[0]).distance(LineString([(0, 0), before])) < 1e-9
    assert Point(arc[-1]).distance(LineString([(0, 0), after])) < 1e-9
    middle = (before / 100 + after / 100) / np.hypot(*(before / 100 + after / 100)) * centre_distance
    assert np.hypot(*(arc - middle).T) == pytest.approx(np.full(13, radius))


@pytest.mark.parametrize(
    ("zones", "rule", "height"),
    [
        ((), "leaves something to take hold of", 202),
        ((Zone(ZoneKind.GRIP, 156, 240),), "leaves three fingers of grip free", 183),
        ((Zone(ZoneKind.GRIP, 120, 240),), "takes in enough of the grip to hold by", 148),
        ((Zone(ZoneKind.GRIP, 100, 240), Zone(ZoneKind.EDGE, 0, 148)), "covers the edge and the point", 152),
        ((Zone(ZoneKind.GRIP, 120, 240), Zone(ZoneKind.STOP, 125, 135)), "takes in enough of the grip to hold by", 163),
    ],
)
def test_the_mouth_stands_where_the_zones_ask(eaves: Job, zones: tuple[Zone, ...], rule: str, height: float) -> None:
    reason = draft(replace(eaves, zones=zones)).reasons["mouth.y"]
    assert (reason.rule, reason.value) == (rule, height)


# Welt


@settings(max_examples=about(20))
@given(jobs(), sizes(0, 5))
def test_the_welt_is_proud_by_what_was_said_and_trims_to_the_margin(job: Job, proud: float) -> None:
    made = draft(typed(job, welt__proud=f"{proud}mm"))
    welt, margin = made.piece("welt"), made.value("seam.margin")
    line = LineString(made.front.line.points) if not made.mirrored else LineString(made.front.line.points * [-1, 1])
    assert welt.count == made.value("welt.layers")
    outer = Polygon(welt.cut)
    trimmed = Polygon(welt.trim if welt.trim is not None else welt.cut)
    assert (welt.trim is None) == (proud == 0)
    assert outer.buffer(1e-6).contains(trimmed)
    holes = shapely.points(welt.holes_of(MAIN, "welt"))
    away = np.abs(np.asarray(trimmed.exterior.coords)[:, 0])
    assert shapely.distance(holes[:-3], trimmed.exterior).min() <= margin + 0.05
    assert outer.hausdorff_distance(trimmed) >= proud - 1e-6
    body = Polygon(made.piece("body").cut)
    assert trimmed.difference(body.buffer(0.05)).area < 2.5  # flush, but for the body's nipped corner
    assert away.min() == pytest.approx(made.shell.leather.quarter_bend)  # it ends where the fold begins to bend
    assert line.distance(outer) < 1e-6


def test_a_welt_pinned_narrow_or_wide_is_cut_so(eaves: Job) -> None:
    inset, margin = 6.0, 5.0
    base = typed(eaves, seam__stitch_inset="6", seam__margin="5")
    for width, beyond, trimmed in (("9", 3.0, False), ("11", margin + 3, True), ("20", 14.0, True)):
        made = draft(typed(base, welt__width=width))
        welt = made.piece("welt")
        hole = Point(welt.holes_of(MAIN, "welt")[20])
        across = LineString([(hole.x, hole.y), (hole.x + 60, hole.y)]).intersection(Polygon(welt.cut))
        assert across.length == pytest.approx(beyond, rel=0.05)
        assert (welt.trim is not None) is trimmed
        assert made.value("welt.width") == float(width)
        assert made.value("seam.stitch_inset") == inset


# Loop


@settings(max_examples=about(25))
@given(jobs(), sizes(20, 60), sizes(1.5, 8), sizes(0, 10))
def test_a_loop_lets_its_belt_through_and_lies_on_its_fellow(job: Job, belt: float, thick: float, play: float) -> None:
    job = typed(job, belt__width=f"{belt}mm", belt__thickness=f"{thick}mm", loop__play=f"{play}mm")
    try:
        made = draft(job)
    except InputError as error:
        assume("does not fit" not in str(error))
        raise
    loop = made.loop
    assert loop.opening == pytest.approx(belt + play)
    # Never shorter than there and back along the belt, nor longer than round a box about it.
    assert loop.turned > loop.first_row
    sheet = made.shell.leather.thickness
    assert loop.turned < loop.first_row + 2 * (thick + 0.5 + 2 * sheet)
    # Folded over and laid down again its rows lie on those of the back, whichever way that goes out and in.
    whole = Assembled(made.unmarked())
    assert max(met.distance for met in whole.seams if met.name in LOOP_ROWS) < 0.3
    body = Polygon(made.piece("body").cut)
    for row in LOOP_ROWS:
        for edge in ("tab", "back"):
            holes = made.piece("body").holes_of(row, edge)
            assert all(body.contains(p) for p in shapely.points(holes)) or edge == "back"


def test_the_loop_may_land_beside_the_handle_or_be_left_off(eaves: Job) -> None:
    handle = draft(typed(eaves, loop__landing="handle"))
    assert min(handle.tab.back_rows) > handle.value("mouth.y")
    none = draft(typed(eaves, loop__landing="none"))
    assert none.loop is None
    assert {s.name for s in none.seams} == {MAIN}
    assert none.piece("body").cut[:, 1].max() == pytest.approx(none.value("mouth.y"))
    assert "loop.width" not in none.reasons
    back = draft(eaves)
    assert max(back.tab.back_rows) < back.value("mouth.y")


@pytest.mark.parametrize("shape", list(Shape))
def test_an_uneven_fold_gives_one_half_more_to_go_over(shape: Shape) -> None:
    """With the seam level with its back, a block is the one that was measured so; any other, longer on that side."""

    def block_of(front: float, back: float) -> Job:
        rows = tuple(Station(y, 0, 30, front, back, shape) for y in (0.0, 50.0, 120.0))
        return Job("Block", "folded-sheath", rows).typed("fit.toe", "12")

    even = draft(block_of(4, 4))
    back, front = (draft(block_of(4, 4).typed("fold.uneven", u)) for u in ("1", "-1"))
    assert [r.front_path for r in back.rows] == pytest.approx([r.back_path for r in front.rows])
    assert back.rows[1].front_path - back.rows[1].back_path > 1.0
    assert even.rows[1].front_path == pytest.approx(even.rows[1].back_path)
    if shape is Shape.SLAB:
        measured = draft(block_of(8, 0))
        for one, other in zip(back.rows, measured.rows, strict=True):
            assert vars(one) == pytest.approx(vars(other))
    cut = section(back, 50.0, 0.5)
    assert np.ptp(cut.thing[:, 1]) == pytest.approx(8, abs=0.05)
    assert not Polygon(cut.front).intersection(Polygon(cut.thing)).area > 0.01


# Robustness


@st.composite
def rough_jobs(draw: st.DrawFn) -> Job:
    """Objects measured carelessly, and settings pinned without a thought."""
    count = draw(st.integers(2, 8))
    ys = sorted(draw(st.lists(st.integers(0, 300), min_size=count, max_size=count, unique=True)))
    assume(ys[-1] - ys[0] > 30)
    shapes = st.sampled_from(list(Shape))
    rows = tuple(
        Station(
            float(y), draw(sizes(-4, 4)), draw(sizes(9, 70)), draw(sizes(0, 12)), draw(sizes(0.2, 12)), draw(shapes)
        )
        for y in ys
    )
    pinned: dict[str, float] = {"leather.thickness": draw(sizes(1, 5))}
    for name, low, high in (
        ("seam.standoff", 0.2, 15), ("fit.clearance", 0, 2), ("seam.stitch_inset", 1, 10), ("seam.margin", 1, 12),
        ("leather.fold_radius", 0.05, 2), ("welt.width", 4, 20), ("mouth.relief", 0, 20), ("loop.rise", 0, 80),
        ("seam.toe", 1, 30), ("welt.proud", 0, 6), ("seam.fairing", 0, 2),
    ):  # fmt: skip
        if draw(st.integers(0, 3)) == 0:
            pinned[name] = draw(sizes(low, high))
    return Job("Rough", "folded-sheath", rows, (), Settings(pinned))


@settings(max_examples=about(60))
@given(rough_jobs())
def test_whatever_is_typed_makes_a_whole_pattern_or_one_clear_sentence(job: Job) -> None:
    try:
        made = draft(job)
    except InputError as error:
        said = str(error)
    else:
        said = ""
    if said:
        assert said.endswith(".")
        assert "\n" not in said
        return
    for piece in made.pieces:
        assert np.isfinite(piece.cut).all()
        assert Polygon(piece.cut).is_valid
        assert piece.area > 0
    assert np.ptp(made.front.holes.chords) < 0.02
    assert np.ptp(made.back.holes.chords) < 0.02 or made.folds  # else they lie under the front's
    assert all(np.isfinite(list(vars(row).values())).all() for row in made.rows)
    assert all(np.isfinite(r.value) for r in made.reasons.values())


@pytest.mark.parametrize("name", CASES)
def test_a_stamp_lies_on_the_front_clear_of_all_else(name: str) -> None:
    job = case(name).typed("stamp.width", "12mm").typed("stamp.height", "8mm")
    made = draft(job)
    ((piece, rule),) = [(p, r) for p in made.pieces for r in p.rules if r.kind == "stamp"]
    spot = Polygon(rule.points)
    assert spot.area == pytest.approx(96.0, rel=0.12)  # laid flat it is a little stretched
    assert Polygon(piece.cut).contains(spot.buffer(3.0))
    assert all(Point(h.x, h.y).distance(spot) > 3.0 for h in piece.holes)
    assert all(LineString(f).distance(spot) > 0 for f in piece.folds)
    with pytest.raises(InputError, match="no room on the front for a stamp of 80 by 80 mm"):
        draft(job.typed("stamp.width", "80mm").typed("stamp.height", "80mm"))
