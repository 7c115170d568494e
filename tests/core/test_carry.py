"""Carry: what a loop takes to go round a belt, where it lies, and at what angle the case really hangs."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize_scalar
from shapely.geometry import LineString, Point, Polygon, box

from tailor import demo
from tailor.core.carried.loft import Loft
from tailor.core.carried.stations import Shape, Station
from tailor.core.carried.weight import Body, balanced, sheet_of, solid, together
from tailor.core.draft.draft import Carriage, Draft
from tailor.core.draft.parts.own_loop import bridge, over_belt
from tailor.core.draft.views.belted import belted
from tailor.core.draft.worn.hang import STEADY, foot_for, hang, rests, slack_of
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.leather.leather import Leather
from tailor.core.measure import Theme
from tailor.core.together.assembled import Assembled
from tailor.core.units import System, format_mass, parse_mass
from tests.lofts import CASES, case
from tests.sweeps import about

FINE = 256
CARRIED = (Theme.BELT, Theme.HANG, Theme.KEEPER, Theme.FLAP)


def riding(foot: float, play: float, cant: float = 0.0, belt: float = 40.0) -> Carriage:
    return Carriage((0.0, 0.0), foot, belt + play, cant, (), np.zeros((4, 2)))


# Weights


@pytest.mark.parametrize(("shape", "share"), [(Shape.SLAB, 1.0), (Shape.OVAL, np.pi / 4), (Shape.WEDGE, 0.5)])
def test_a_bar_weighs_and_balances_as_it_must(shape: Shape, share: float) -> None:
    s = Station(0, 10, 30, 4, 4, shape)
    bar = Loft((s, Station(100, 10, 30, 4, 4, shape)))
    body = solid(bar, 7.8)
    assert body.mass == pytest.approx(share * 20 * 8 * 100 * 7.8 / 1000, rel=3e-3)
    middle = 10 + 20 / 3 if shape is Shape.WEDGE else 20
    assert (body.x, body.y, body.z) == pytest.approx((middle, 50, 0), abs=0.05)
    assert balanced(bar, 5.0, 30.0) == Body(5.0, pytest.approx(middle, abs=0.05), 30.0, pytest.approx(0))


@given(st.lists(st.tuples(st.floats(1, 900), *(st.floats(-50, 50),) * 3), min_size=2, max_size=5))
def test_bodies_together_balance_between_them(parts: list[tuple[float, float, float, float]]) -> None:
    whole = together(Body(*part) for part in parts)
    assert whole.mass == pytest.approx(sum(p[0] for p in parts))
    for k, at in enumerate((whole.x, whole.y, whole.z), 1):
        assert sum(p[0] * (p[k] - at) for p in parts) == pytest.approx(0, abs=1e-6 * whole.mass)


def test_leather_weighs_by_its_area() -> None:
    body = sheet_of(np.array([(0, 0), (100, 0), (100, 50), (0, 50)]), 3.0, 0.9)
    assert (body.mass, body.x, body.y) == pytest.approx((5000 * 3 * 0.9 / 1000, 50, 25))


@pytest.mark.parametrize(
    ("text", "grams"), [("450", 450), ("1.2 kg", 1200), ("1 lb + 4 oz", 566.99), ("1lb 4oz", 566.99), ("0,5 kg", 500)]
)
def test_weights_are_read_as_makers_say_them(text: str, grams: float) -> None:
    assert parse_mass(text) == pytest.approx(grams, rel=1e-3)


def test_weights_that_are_none() -> None:
    for text in ("", "heavy", "5 stone", "450 g or so", "-3 g", "4 mm"):
        with pytest.raises(InputError, match="is not a weight"):
            parse_mass(text)
    assert parse_mass("16", "in") == pytest.approx(453.6, abs=0.1)
    assert (format_mass(453.59, System.INCH), format_mass(1234), format_mass(87)) == ("16.0 oz", "1.23 kg", "87 g")


# Hanging


@given(st.floats(12, 80), st.floats(0.2, 12), st.floats(20, 60))
def test_a_slot_turns_on_a_belt_until_its_corners_touch(foot: float, play: float, belt: float) -> None:
    slack = slack_of(foot, belt + play, belt)
    slot = shapely.affinity.rotate(box(-foot / 2, -(belt + play) / 2, foot / 2, (belt + play) / 2), slack)
    # square to the belt the room left between the corners that come nearest is the belt itself
    corners = np.asarray(slot.exterior.coords)[:4]
    top, low = sorted(corners[:, 1])[2], sorted(corners[:, 1])[1]
    assert top - low == pytest.approx(belt, abs=1e-6)
    assert foot_for(slack, belt + play, belt) == pytest.approx(foot, rel=1e-6)
    assert slack_of(foot + 1, belt + play, belt) < slack < slack_of(foot, belt + play + 0.1, belt)


@given(
    st.floats(20, 400), st.floats(-40, 40), st.floats(20, 400), st.floats(-60, -10), st.floats(-150, -20),
    st.floats(15, 60), st.floats(0.5, 8), st.floats(-30, 30),
)  # fmt: skip
def test_two_bodies_hang_as_worked_by_hand(
    m1: float, x1: float, m2: float, x2: float, low: float, foot: float, play: float, cant: float
) -> None:
    whole = together([Body(m1, x1, low, 3.0), Body(m2, x2, low / 2, 0.0)])
    found = hang(riding(foot, play, cant), whole, 40.0, 6.0, STEADY.usual)
    x, y = (m1 * x1 + m2 * x2) / (m1 + m2), (m1 * low + m2 * low / 2) / (m1 + m2)
    assert found.free == pytest.approx(np.degrees(np.arctan(x / y)))  # with the weight straight below the pivot
    # Tried out: turned as its play allows, the lower end of its foot on the belt, where is its weight lowest?
    seat = (40.0 + play) / 2
    way = np.radians(cant)
    out, up = x * np.cos(way) - (y - seat) * np.sin(way), x * np.sin(way) + (y - seat) * np.cos(way)
    turns = np.linspace(-found.slack, found.slack, 20001)
    high = out * np.sin(np.radians(turns)) + up * np.cos(np.radians(turns))
    high += foot / 2 * np.abs(np.sin(np.radians(turns)))
    assert found.rest == pytest.approx(cant + turns[high.argmin()], abs=0.02)
    assert found.away == pytest.approx(9.81e-3 * (m1 * 9.0 + m2 * 6.0))
    steady = hang(riding(found.foot + 1e-6, play, cant), whole, 40.0, 6.0, STEADY.usual)
    assert abs(steady.off) <= 3.0 + 1e-6


@given(st.floats(-60, 60), st.floats(-80, 80), st.floats(-40, 10), st.floats(1, 40))
def test_a_weight_comes_to_lie_as_low_as_it_can(x: float, y: float, low: float, wide: float) -> None:
    assume(np.hypot(x, y) > 1)
    at = rests(x, y, low, low + wide)

    def height(angle: float) -> float:
        turn = np.radians(angle)
        return x * np.sin(turn) + y * np.cos(turn)

    least = minimize_scalar(height, bounds=(low, low + wide), method="bounded").fun
    assert height(at) <= least + 1e-6


# Loops


@settings(max_examples=about(60))
@given(st.floats(1, 5), st.floats(0.2, 0.8), st.floats(15, 70), st.floats(1.5, 9), st.floats(2, 20))
def test_a_bridge_is_as_long_as_leather_drawn_over_the_belt(
    thick: float, neutral: float, opening: float, belt: float, out: float
) -> None:
    leather = Leather(thick, neutral)
    down = belt / np.tan(np.radians(leather.approach))
    end = opening / 2 + down
    room = Polygon([(-end, 0), (-opening / 2, belt), (opening / 2, belt), (end, 0)])
    ground = box(-end - 60, -60, end + 60, 0)
    skin = room.buffer(leather.offset, quad_segs=FINE).union(ground.buffer(leather.offset, join_style="mitre"))
    line = LineString(np.asarray(skin.exterior.coords))
    over = line.intersection(box(0, leather.offset - 1e-6, end + out, 999))
    assert bridge(leather, opening, belt, out)[0] == pytest.approx(over.length, abs=0.05)
    drawn = over_belt(leather, opening, belt, out, out)
    assert shapely.distance(shapely.points(drawn), line).max() < 0.05
    assert LineString(drawn).length == pytest.approx(2 * bridge(leather, opening, belt, out)[0], abs=0.05)


@pytest.mark.parametrize("name", CASES)
def test_a_loop_of_its_own_is_sewn_to_every_construction(name: str) -> None:
    job = case(name).typed("loop.landing", "sewn").typed("belt.width", "25mm").typed("loop.play", "2mm")
    made = draft(job)
    strap = made.piece("loop")
    assert np.ptp(strap.cut[:, 1]) == pytest.approx(made.value("loop.length"), abs=1e-6)
    assert np.ptp(strap.cut[:, 0]) == pytest.approx(made.value("loop.width"), abs=1e-6)
    on = made.carriage
    assert on.opening == pytest.approx(27)
    for row, seam in zip(on.rows, made.seams[1:], strict=True):
        back = next(p for p in made.pieces if p.name == seam.pieces[0])
        flat, own = back.holes_of(seam.name, "back"), strap.holes_of(seam.name, "tab")
        assert len(flat) == len(own) == len(row) == seam.count
        assert Polygon(back.cut).buffer(-2).contains(shapely.MultiPoint(flat))
        assert made.plan.between.contains(shapely.MultiPoint(row))
        # as far apart on the back as on the strap, or nearer where that goes over it on a bulge
        apart = np.linalg.norm(np.diff(made.lies[back.name](flat).at, axis=0), axis=1).sum()
        assert 0.85 * np.ptp(own[:, 0]) < apart < np.ptp(own[:, 0]) + 0.1
    joints = [met.distance for met in Assembled(made.unmarked()).seams if met.name.startswith("loop")]
    assert max(joints) < 0.3
    # the strap goes over the belt: its inner rows lie further apart on the strap than on the back
    ys = sorted({round(float(row[:, 1].mean()), 6) for row in on.rows})
    tabs = sorted({round(float(v), 6) for _, v in strap.holes_of("loop row 2", "tab")})
    assert 2 * tabs[-1] > ys[2] - ys[1]
    cut = belted(made, job.settings)
    assert Polygon(cut.loop).is_valid
    assert Polygon(cut.loop).area == pytest.approx(
        made.value("loop.length") * 1.0 * made.shell.leather.thickness, rel=0.06
    )
    assert Polygon(cut.belt).intersection(Polygon(cut.loop)).area < 0.5
    assert {"stop"} & {v.ruling.value for v in judge(job, made) if v.theme in CARRIED} == set()


def test_a_loop_out_of_the_back_is_cut_down_through_too(eaves: Job, sheath: Draft) -> None:
    cut = belted(sheath, eaves.settings)
    loop, belt, back = (Polygon(part) for part in (cut.loop, cut.belt, cut.back))
    assert loop.is_valid
    assert loop.intersection(belt).area < 0.5
    assert loop.distance(back) < 0.05  # it grows out of the back and comes down on it
    assert LineString(cut.neutral).length == pytest.approx(sheath.value("loop.length"), abs=0.1)
    assert belted(draft(eaves.typed("loop.landing", "none")), eaves.settings) is None


@pytest.mark.parametrize("landing", ["back", "handle"])
@pytest.mark.parametrize(("name", "taut"), [("whetstone", True), ("shears", False), ("stapler", False)])
def test_a_back_longer_than_its_front_goes_over_the_belt(name: str, taut: bool, landing: str) -> None:
    """Laid round the belt by polygons: from where it leaves the back, over the belt, down to its first row."""
    job = case(name).typed("loop.landing", landing).typed("belt.width", "25mm").typed("belt.thickness", "3mm")
    job = job.typed("mould.method", "taut" if taut else "auto")
    made = draft(job)
    back, loop = made.piece("back"), made.loop
    assert loop is not None
    cut = Polygon(back.cut)
    assert cut.is_valid
    assert np.ptp(back.cut[:, 1]) > np.ptp(made.pieces[0].cut[:, 1]) + 0.8 * made.value("loop.length") - 30
    for seam in made.seams[1:3]:
        tab, under = back.holes_of(seam.name, "tab"), back.holes_of(seam.name, "back")
        assert len(tab) == len(under) == seam.count
        lies = made.lies["back"](under)
        over = lies.at + made.shell.leather.thickness * lies.out  # though the back under it is not flat
        assert np.linalg.norm(np.diff(over, axis=0), axis=1).sum() == pytest.approx(np.ptp(tab[:, 0]), abs=0.15)
        assert under[:, 0].mean() == pytest.approx(tab[:, 0].mean(), abs=0.1)
        assert cut.buffer(-2).contains(shapely.MultiPoint(np.vstack([tab, under])))
        # What lies between the two rows goes once up, over the belt and down again: a slab of it, taut.
        thick, radius = made.shell.leather.thickness, made.shell.leather.inside_radius
        first = made.carriage.rows[seam.name == "loop row 2"][0, 1]
        over = job.settings.number("belt.thickness") + 0.5
        between = tab[:, 1].mean() - under[:, 1].mean()
        straight = 2 * (made.value("mouth.y") + made.value("loop.rise") - first)
        assert straight < between < straight + np.pi * (over / 2 + radius + thick) + over
    belt = belted(made, job.settings)
    assert Polygon(belt.loop).intersection(Polygon(belt.belt)).area < 0.5
    assert LineString(belt.neutral).length == pytest.approx(made.value("loop.length"), abs=0.1)
    assert {v.ruling.value for v in judge(job, made) if v.name == "Loop lands on leather"} == {"ok"}
    marks = [m for m in back.marks if m.kind == "title"]
    row = min(made.carriage.rows[1][:, 1])
    assert landing == "handle" or marks[0].y < row


def test_every_construction_rides_by_what_is_usual_for_it() -> None:
    usual = {"spar-hook": "none", "shears": "sewn", "stapler": "slots", "eaves-blade": "back"}
    assert {name: demo.job(name).settings.word("loop.landing") for name in usual} == usual
    moved = replace(demo.job("stapler"), style="two-panel")
    assert draft(moved).carriage is None
    with pytest.raises(InputError, match="moulded does not go on as a loop"):
        draft(demo.job("spar-hook").typed("loop.landing", "back"))
    with pytest.raises(InputError, match=r"does not fit the back, which is"):
        draft(demo.job("shears").typed("loop.landing", "back").typed("loop.width", "120mm"))
    kept = draft(demo.job("shears").typed("loop.landing", "handle").typed("keeper.way", "round"))
    assert "keeper" in {p.name for p in kept.pieces}


def test_the_demo_blade_is_told_truly_as_it_hangs(eaves: Job, sheath: Draft) -> None:
    assert sheath.hang.whole.mass == pytest.approx(135 + 62, abs=5)
    assert sheath.hang.rest == pytest.approx(0.0)  # its weight lies within its foot, which sits on the belt
    canted = eaves.typed("loop.landing", "sewn").typed("carry.cant", "12")
    made = draft(canted)
    said = {v.name: v for v in judge(canted, made)}["Hangs as it was drafted"]
    assert said.value == pytest.approx(abs(made.hang.rest - 12), abs=0.5)
    row = made.carriage.rows[0]
    assert np.degrees(np.arctan2(*(row[-1] - row[0])[::-1])) == pytest.approx(-12)
    loose = eaves.typed("loop.play", "8mm").typed("loop.width", "4mm").typed("seam.standoff", "26mm")
    narrow = draft(loose)
    leans = {v.name: v for v in judge(loose, narrow)}["Hangs as it was drafted"]
    assert 1 < leans.value < 4  # its weight lies a little outside so narrow a foot
    assert leans.value == pytest.approx(abs(narrow.hang.rest), abs=1.0)  # put together, its loop weighs too
    slack = eaves.typed("loop.landing", "sewn").typed("carry.cant", "25").typed("loop.play", "8mm")
    worse = {v.name: v for v in judge(slack, draft(slack))}["Hangs as it was drafted"]
    assert worse.ruling.value != "ok"
    assert "foot" in worse.reason


def test_a_left_hand_hangs_as_the_right_does_mirrored(eaves: Job, sheath: Draft) -> None:
    left = draft(eaves.typed("hand", "left"))
    assert left.hang == sheath.hang
    over = Point(sheath.carriage.pivot)
    assert over.distance(Polygon(sheath.carriage.outline)) == 0


def test_a_belt_too_wide_for_the_back_is_said() -> None:
    with pytest.raises(InputError, match="room for a loop"):
        draft(demo.job("radio").typed("loop.landing", "sewn").typed("belt.width", "140mm"))
    shears = demo.job("shears")
    highest = draft(shears).value("loop.drop")
    for drop, where, remedy in ((highest - 1, "stands up beyond", f"at least {np.ceil(10 * highest) / 10:.1f} mm"),
                                (highest + 120, "room for a loop", "give less")):  # fmt: skip
        with pytest.raises(InputError, match=where) as told:
            draft(shears.typed("loop.drop", f"{drop:.2f}"))
        assert (told.value.where, remedy in str(told.value)) == ("loop.drop", True)
    assert draft(shears.typed("loop.drop", f"{highest + 5:.2f}")).value("loop.drop") == pytest.approx(
        highest + 5, abs=0.01
    )


@pytest.mark.parametrize("neutral", ["0.2", "0.8"])
@pytest.mark.parametrize("name", ["eaves-blade", "shears"])
def test_wherever_its_neutral_line_lies_the_loop_goes_round_the_belt_and_lies_on_the_back(
    name: str, neutral: str
) -> None:
    job = case(name).typed("leather.neutral", neutral)
    made = draft(job)
    cut = belted(made, job.settings)
    loop, belt, back = (Polygon(part) for part in (cut.loop, cut.belt, cut.back))
    thick = made.shell.leather.thickness
    assert loop.intersection(belt).area < 0.5
    assert loop.intersection(back).area < 0.5
    assert loop.distance(back) < 0.05
    low = made.carriage.pivot[1]  # beside the belt's middle the leather is just as thick as it is
    over = LineString([(0, low), (99, low)]).intersection(loop)
    assert over.length == pytest.approx(thick, abs=0.05)


def test_a_loop_of_its_own_is_cut_to_the_corners_asked_for(eaves: Job) -> None:
    sewn = eaves.typed("loop.landing", "sewn")
    for radius in (0.0, 3.0, 6.0):
        piece = draft(sewn.typed("loop.corner", f"{radius}mm")).piece("loop")
        box_ = box(*piece.cut.min(axis=0), *piece.cut.max(axis=0))
        assert box_.area - Polygon(piece.cut).area == pytest.approx((4 - np.pi) * radius**2, rel=0.02, abs=1e-9)
