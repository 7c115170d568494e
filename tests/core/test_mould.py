"""Two-sided and moulded wraps against polygons grown and shrunk, and against a ball rolled over a fine height field."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
import shapely.ops
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy import ndimage
from scipy.optimize import brentq
from shapely.geometry import LineString, Point, Polygon, box

from tailor.core.carried import block
from tailor.core.carried.loft import Loft, Turned
from tailor.core.carried.stations import Shape, Station, Table
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.leather.leather import Leather
from tailor.core.leather.moulding import Moulding
from tailor.core.settings import Settings
from tailor.core.shell.mould import Flank, moulded
from tailor.core.shell.panel import Panel
from tailor.core.shell.pressed import Pressed
from tailor.core.shell.region import touch_down
from tailor.core.shell.ridge import ridge_of
from tailor.core.shell.two_sided import TwoSided
from tests.core.test_wrap import FINE, true_outline
from tests.lofts import STEEP, between, sections, sizes
from tests.sweeps import about


def case_of(s: Station, leather: Leather, how: Moulding, c: float, welt: float, d: float, flat: bool) -> TwoSided:
    loft = Loft((replace(s, y=0.0), replace(s, y=100.0)))
    ridge = ridge_of(loft, np.array([0.0, 90.0]))
    seam = between(s.x_spine - d, s.x_seam + d)
    return TwoSided(loft, leather, how, c, welt, 90.0, ridge, seam, STEEP, (), flat)


def one_side(s: Station, case: TwoSided, side: str) -> Polygon:
    """What the leather of one side goes over, drawn from the section's definition; heights over the plane."""
    outline = true_outline(s)
    if side == "back":
        outline = shapely.transform(outline, lambda p: p * [1, -1])
    upper = outline.intersection(box(-999, 0, 999, 999))
    up = shapely.transform(upper, lambda p: p + np.array([0.0, case.plane]))
    return up.union(box(s.x_spine, -1, s.x_seam, max(case.plane, 1e-3)))


def taut_line(region: Polygon, case: TwoSided, own: float, other: float) -> LineString:
    """The taut neutral line over a region to a welt at x = own on its right and x = other on its left."""
    off, floor = case.leather.offset, case.floor
    grown = region.buffer(case.clearance, quad_segs=FINE) if case.clearance else region
    hull = shapely.union_all([grown, Point(own, floor), Point(other, floor)]).convex_hull
    welts = [box(own, -99, 300, floor), box(-300, -99, other, floor)]
    whole = shapely.union_all([part.buffer(off, quad_segs=FINE) for part in (hull, *welts)])
    return LineString(whole.exterior.coords)


def moulded_line(region: Polygon, case: TwoSided, end: float) -> LineString:
    """The moulded neutral line: round the grown region, down an arc about where the ball comes to rest, and level."""
    off, rest = case.leather.offset, case.floor + case.ball
    reach = case.clearance + case.ball
    level = case.floor + off

    def room(x: float) -> float:
        return Point(x, rest).distance(region) - reach

    top = region.bounds[3]
    if top + case.clearance <= case.floor:
        return LineString([(-300, level), (end, level)])
    highest = shapely.get_coordinates(region)
    crest = float(highest[highest[:, 1].argmax(), 0])  # there the ball is held up; beyond it comes down
    x = brentq(room, crest, region.bounds[2] + reach + 1)
    near = shapely.ops.nearest_points(region, Point(x, rest))[0]
    way = np.array([near.x - x, near.y - rest]) / reach
    touch = np.array([x, rest]) + way * (case.ball - off)
    ring = np.asarray(
        shapely.geometry.polygon.orient(region.buffer(case.clearance + off, quad_segs=FINE), -1).exterior.coords
    )[:-1]
    outer = LineString(
        np.roll(ring, -int((ring @ [1e-3, 1]).argmin()), axis=0)
    )  # clockwise from its lowest on the left
    over = np.asarray(shapely.ops.substring(outer, 0, outer.project(Point(touch))).coords)
    start = np.arctan2(way[1], way[0]) % (2 * np.pi)
    turn = np.linspace(start, 1.5 * np.pi, 200)
    arc = np.array([x, rest]) + (case.ball - off) * np.column_stack([np.cos(turn), np.sin(turn)])
    return LineString(np.vstack([over, arc, [[end, level]]]))


@settings(max_examples=about(80))
@given(
    sections(), sizes(1, 4), sizes(0.2, 0.8), sizes(0, 2), sizes(0.5, 8), sizes(2, 18), sizes(0.4, 3),
    st.booleans(), st.booleans(),
)  # fmt: skip
def test_two_sided_wraps_agree_with_polygons(
    s: Station, thick: float, neutral: float, c: float, welt: float, d: float, valley: float, taut: bool, flat: bool
) -> None:
    leather, how = Leather(thick, neutral), Moulding() if taut else Moulding("bone", valley)
    case = case_of(s, leather, how, c, welt, d + c, flat)
    row = np.array([50.0])
    (right,), (left,) = case.edges(row)
    level, x = case.floor + leather.offset, float(case.ridge.x[0])
    for side in case.sides:
        face, region = case.face(side, row), one_side(s, case, side)
        turned = shapely.transform(region, lambda p: p * [-1, 1])
        for run, ridge, shape, own, other in (
            (face.right, x, region, right, left), (face.left, -x, turned, -left, -right),
        ):  # fmt: skip
            end = own + 30.0
            line = taut_line(shape, case, own, other) if taut else moulded_line(shape, case, end)
            if not taut:  # the leather lies on the welts where the object is lower than they
                line = shapely.transform(
                    line.segmentize(0.1), lambda p: np.column_stack([p[:, 0], np.maximum(p[:, 1], level)])
                )
            true = line.intersection(box(ridge, level - 1e-3, end, 999)).length
            assert run.length_to(np.array([end]))[0] == pytest.approx(true, abs=0.05)
            apart = shapely.distance(shapely.points(run.points(0, end)), line)
            assert np.median(apart) < 0.05
            assert apart.max() < 0.35  # beside a wall that stands up straight


@settings(max_examples=about(40))
@given(sections(), sizes(1, 4), sizes(0.2, 0.8), sizes(0.1, 1.2), sizes(0, 2), sizes(0.5, 6), sizes(0.4, 3))
def test_a_folded_moulded_wrap_agrees_with_polygons(
    s: Station, thick: float, neutral: float, fold: float, c: float, welt: float, valley: float
) -> None:
    leather, how = Leather(thick, neutral, fold), Moulding("bone", valley, 0.02)
    loft = Loft((replace(s, y=0.0), replace(s, y=100.0)))
    assume(leather.inside_radius - c < 0.15 * s.width)  # the fold lies within the spine side of the object,
    assume(leather.inside_radius < 0.7 * (min(s.front, s.back) + c))  # and is not thicker than it
    assume(welt / 2 < min(s.front, s.back) + c)  # no more than the welt is
    how = replace(how, end=12.0)
    fold = s.x_spine - c
    pressed = Pressed(loft, leather, how, c, welt, 90.0, (), fold)
    rows = np.array([0.0, 30.0, 50.0, 90.0])
    seen = loft.sections(rows)
    reach = touch_down(np.maximum(seen.front, seen.back), c, welt / 2, pressed.ball)
    x_welt = np.nanmax(seen.x + reach, axis=1) + 1.0
    seam = between(-99, float(x_welt.max()))
    panel = Panel(loft, leather, c, welt, 90.0, rows, seam, STEEP, fold, pressed=pressed)
    wrapped, end = panel.wrap(rows), x_welt + 8.0
    case = case_of(s, leather, how, c, welt, 30.0, False)
    disc = Point(s.x_spine - c + leather.inside_radius, 0).buffer(leather.inside_radius, quad_segs=FINE)
    for side, run in (("front", wrapped.front), ("back", wrapped.back)):
        region = one_side(s, case, side)
        down = moulded_line(region, case, float(end[2]))
        level = welt / 2 + leather.offset
        long = down.intersection(box(pressed.ridge, level - 1e-3, end[2], 999)).length
        grown = region.buffer(c, quad_segs=FINE) if c else region
        hull = shapely.union_all([grown, disc]).convex_hull.buffer(leather.offset, quad_segs=FINE)
        over = LineString(hull.exterior.coords).intersection(box(-999, 0, pressed.ridge, 999)).length
        assert run.length_to(end)[2] == pytest.approx(long + over, abs=0.06)
        taut = panel.wrap(np.array([-5.0]))  # past the tip it is drawn taut
        assert taut.front.floor[0] == pytest.approx(level)
    assert panel.eased(rows)[0][2] == pytest.approx(wrapped.front.landed[2] * (1 - 1 / 1.02))
    assert panel.eased(rows)[0][0] == 0.0  # at the tip it is not pressed


@given(sections(), sizes(1, 4), sizes(0, 2), sizes(0.4, 3))
@settings(max_examples=about(40))
def test_moulded_paths_are_no_shorter_than_taut_ones_and_touch_down_later_with_a_wider_valley(
    s: Station, thick: float, c: float, valley: float
) -> None:
    leather, row = Leather(thick), np.array([50.0])
    taut, tight, wide = (
        case_of(s, leather, how, c, 1.0, 30.0, True).face("front", row)
        for how in (Moulding(), Moulding("bone", valley), Moulding("bone", valley + 1))
    )
    end = np.array([s.x_seam + 60.0])
    assert taut.right.length_to(end)[0] <= wide.right.length_to(end)[0] + 0.02
    assert wide.right.length_to(end)[0] <= tight.right.length_to(end)[0] + 0.02
    assert wide.right.x_land[0] >= tight.right.x_land[0] - 1e-6
    mirrored = replace(s, x_spine=-s.x_seam, x_seam=-s.x_spine)
    if s.shape is not Shape.WEDGE:  # which alone is not the same turned round
        other = case_of(mirrored, leather, Moulding("bone", valley), c, 1.0, 30.0, True).face("front", row)
        assert other.left.landed[0] == pytest.approx(tight.right.landed[0], abs=0.01)


WAISTED = Loft(tuple(
    Station(y, -w, w, h, h, Shape.OVAL)
    for y, w, h in ((0, 15, 4), (25, 20, 6), (45, 9, 5), (70, 18, 6), (95, 12, 4))
))  # fmt: skip


def on_a_grid(clearance: float, floor: float, offset: float, ball: float, g: float = 0.2):
    """Heights (rows, places) of the same leather: a ball rolled over a fine grid of heights, by another library."""
    y, x = np.arange(-12, 95 + g / 2, g), np.arange(-3, 34, g)
    high = np.full((len(y), len(x)), -1e3)
    seen = WAISTED.sections(y[y >= 0])
    high[y >= 0] = [np.interp(x, a, b, left=-1e3, right=-1e3) for a, b in zip(seen.x, seen.front, strict=True)]

    def ball_of(r: float):
        q = np.arange(-int(r / g), int(r / g) + 1) * g
        deep = r * r - q[:, None] ** 2 - q[None] ** 2
        return {"footprint": deep >= 0, "structure": np.where(deep >= 0, np.sqrt(np.maximum(deep, 0)), 0)}

    centre = np.maximum(ndimage.grey_dilation(high, **ball_of(clearance + ball)), floor + ball)
    return y, x, ndimage.grey_erosion(centre, **ball_of(ball - offset))


def test_in_three_dimensions_the_ball_rolls_over_the_whole_field() -> None:
    c, floor, offset, ball = 0.5, 1.0, 1.0, 4.0
    flank = Flank(lambda y: (WAISTED.sections(y).x, WAISTED.sections(y).front), 0.0, 95.0, 0.0, 0.0)
    y, x, height = on_a_grid(c, floor, offset, ball)
    rows = y[(y > 1.5) & (y < 85)][::13]
    run = moulded(flank, rows, c, floor, offset, ball)
    for k, row in enumerate(rows):
        known = run.points(k, 33.0)
        mine = np.interp(x, known[:, 0], known[:, 1])
        gentle = (np.abs(np.gradient(mine, x)) < 1) & (x > 0.5) & (x < 32)
        assert np.abs(mine - height[np.abs(y - row).argmin()])[gentle].max() < 0.08
    # at the waist a section by itself would touch down nearer than the ball can, wedged between the wide parts
    ends, neck = (Station(0, -18, 18, 5, 5, Shape.OVAL), Station(0, -9, 9, 5, 5, Shape.OVAL))
    notched = Loft(tuple(replace(s, y=y) for y, s in ((0, ends), (43, ends), (45, neck), (47, ends), (95, ends))))
    alone = Loft((replace(neck, y=0.0), replace(neck, y=95.0)))
    landed = [
        moulded(
            replace(flank, profile=lambda v, o=o: (o.sections(v).x, o.sections(v).front)), np.array([45.0]), c, floor,
            offset, ball,
        ).x_land[0]
        for o in (notched, alone)
    ]  # fmt: skip
    assert landed[0] > landed[1] + 2
    seen = WAISTED.sections(rows)
    alone = np.nanmax(seen.x + touch_down(seen.front, c, floor, ball), axis=1)  # its own row can only be nearer
    assert (run.x_land > alone - 0.1).all()


def test_the_grid_hardly_matters() -> None:
    flank = Flank(lambda y: (WAISTED.sections(y).x, WAISTED.sections(y).front), 0.0, 95.0, 0.0, 0.0)
    rows = np.arange(0.0, 80.0, 5.3)
    coarse = moulded(flank, rows, 0.5, 1.0, 1.0, 4.0)
    fine = moulded(flank, rows, 0.5, 1.0, 1.0, 4.0, coarse=0.35)
    end = np.full(len(rows), 30.0)
    assert np.abs(coarse.length_to(end) - fine.length_to(end)).max() < 0.05


def test_a_turned_loft_is_the_same_object_from_behind() -> None:
    s = Station(0, -3, 21, 4, 2, Shape.WEDGE)
    loft = Loft((s, replace(s, y=50.0)))
    seen, turned = loft.sections(20.0), Turned(loft.stations).sections(20.0)
    assert turned.x[0] == pytest.approx(-seen.x[0, ::-1])
    assert turned.front[0] == pytest.approx(seen.front[0, ::-1])
    assert Turned(loft.stations).x_seam(20.0)[0] == pytest.approx(3)


def test_an_object_that_bends_aside_is_measured_from_its_own_middle_line() -> None:
    bent = Loft((Station(0, 0, 10, 2, 2, Shape.OVAL), Station(80, 30, 40, 2, 2, Shape.OVAL)))
    rows = np.linspace(0, 80, 20)
    ridge, size = ridge_of(bent, rows), bent.sizes(rows)
    assert not ridge.straight
    assert (ridge(rows) > size[:, 0] + 1).all()
    assert (ridge(rows) < size[:, 0] + size[:, 1] - 1).all()
    straight = ridge_of(Loft((Station(0, 0, 10, 2, 2, Shape.OVAL), Station(80, 4, 20, 2, 2, Shape.OVAL))), rows)
    assert straight.straight
    assert straight.x[0] == pytest.approx(7)


@pytest.mark.parametrize(
    ("sizes_", "method", "clearance"), [((50, 14), "fingers", 0.5), ((50, 8), "bone", 0.8), ((60, 10), "fingers", 0.5)]
)
def test_the_middle_line_over_a_rounded_end_is_the_closing_of_its_side(
    sizes_: tuple[float, float], method: str, clearance: float
) -> None:
    """By polygons: the side of a wide block, grown, joined to the welt, closed by the ball; leather lies on that."""
    table = block.block(120, *sizes_, edge=2.0)
    settings_ = Settings({"mould.method": method, "fit.clearance": clearance})
    job = Job("Block", "two-panel", table.stations, table.zones, settings_).measured(table).typed("mould.end", "0")
    made = draft(job)
    case, panel = made.shell, made.formed[0]
    assert isinstance(case, TwoSided)
    side = np.array([(s.y, s.front) for s in table.stations])
    thing = shapely.Polygon([(side[0, 0], -50), *side, (300, side[-1, 1]), (300, -50)])
    ground = shapely.box(-200, -50, 300, case.floor)
    pressed = shapely.union_all([thing.buffer(clearance, 200), ground]).buffer(case.ball, 200).buffer(-case.ball, 200)
    neutral = pressed.buffer(case.leather.offset, 200)
    line = panel.places[panel.places[:, panel.middle, 1] < 100, panel.middle, 1:]
    places = shapely.points(line)
    apart = shapely.distance(neutral.exterior, places)
    assert apart.max() < 0.3
    assert apart[shapely.contains(neutral, places)].max(initial=0.0) < 0.06  # nowhere does it take of the clearance


NARROW, BROAD = (30, 55, 12, 12, Shape.OVAL), (0, 90, 12, 12, Shape.SLAB)
HAMMER = tuple(
    Station(y, *at) for y, at in ((0, NARROW), (25, NARROW), (27, BROAD), (50, BROAD), (52, NARROW), (300, NARROW))
)


@pytest.mark.parametrize(
    ("style", "method", "table"),
    [("two-panel", "fingers", block.cylinder(330, 19)), ("two-panel", "bone", block.cylinder(120, 14)),
     ("flat-back", "bone", block.cylinder(120, 8))],
)  # fmt: skip
def test_where_leather_cannot_be_pressed_over_an_end_however_low_it_is_drawn_taut_there(
    style: str, method: str, table: Table
) -> None:
    job = Job("Bar", style, table.stations, settings=Settings({"object.sharp": "none", "mould.method": method}))
    end = draft(job).reasons["mould.end"]
    made = draft(job)
    assert not any(verdict.ruling == "stop" for verdict in judge(job, made))
    assert end.value == pytest.approx(end.inputs["height"])
    assert 0 < end.value <= made.shell.ball  # type: ignore[union-attr]  # low enough, if it were but round
    assert "too blunt" in end.rule
    with pytest.raises(InputError, match="too deep to be moulded") as refused:
        draft(Job("Block", style, block.block(120, 60, 50).stations, settings=job.settings.pin("mould.method", "bone")))
    assert "press it with the fingers alone" in refused.value.remedy
    assert refused.value.ways[0] == ("mould.method", "fingers")
    with pytest.raises(InputError, match="too deep to be moulded") as refused:
        draft(Job("Head", style, HAMMER, settings=job.settings.pin("mould.method", "fingers")))
    assert "fingers" not in refused.value.remedy
