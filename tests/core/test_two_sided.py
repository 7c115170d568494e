"""Two panels and flat backs as drafts: pieces that meet, an object that fits, and a ledger that tells the truth."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Polygon, box

from tailor import demo
from tailor.core.advice import ways_out
from tailor.core.carried.loft import Loft
from tailor.core.carried.stations import Shape, Station
from tailor.core.carried.zones import Zone, ZoneKind
from tailor.core.checks.verdict import Ruling
from tailor.core.compared import differences
from tailor.core.draft.draft import Draft
from tailor.core.draft.views.section import section
from tailor.core.draft.views.seen import Eye, seen
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.settings import Settings
from tailor.core.shell.inside import inside
from tailor.core.shell.relief import LEATHER, NOTHING, OBJECT
from tailor.core.shell.two_sided import TwoSided
from tests.core.test_mould import moulded_line, one_side, taut_line
from tests.lofts import CASES, case, cases, sizes
from tests.sweeps import about


def verdict(job: Job, name: str):
    return next(v for v in judge(job, draft(job)) if v.name == name)


def edges_of(made: Draft) -> dict[str, np.ndarray]:
    """The holes of the main seam by the edge they are on, as they were drawn for the right hand."""
    hand = np.array([-1.0 if made.mirrored else 1.0, 1.0])
    return {h.edge: p.holes_of("main", h.edge) * hand for p in made.pieces for h in p.holes}


@settings(max_examples=about(40))
@given(cases())
def test_any_object_gives_whole_pieces_that_meet(job: Job) -> None:
    try:
        made = draft(job)
    except InputError:  # a sentence is an answer; but most of forty must be drafts all the same
        assume(False)
        raise
    margin, pitch = made.value("seam.margin"), made.value("seam.pitch")
    feet = set[int]()  # where the chords change: at the one hole that front, welt and back have at the foot
    for piece in made.pieces:
        assert Polygon(piece.cut).is_valid
        assert Polygon(piece.cut).exterior.is_ccw
        assert np.isfinite(piece.cut).all()
        assert {m.kind for m in piece.marks} >= {"title"}
        outline = LineString(piece.cut if piece.trim is None else piece.trim)
        for edge in {h.edge for h in piece.holes}:
            holes = piece.holes_of("main", edge)
            below = holes[holes[:, 1] < made.value("mouth.y") - margin - 0.5]
            assert shapely.distance(shapely.points(below), outline).min() > margin - 0.1
            chords = np.hypot(*np.diff(holes, axis=0).T)
            feet |= set(np.flatnonzero(np.abs(np.diff(chords)) > 1e-5))
            assert chords.mean() == pytest.approx(pitch, abs=0.6)
    assert len(feet) <= 1
    edges = edges_of(made)
    assert set(edges) == {"front", "welt", "back"}
    assert len({len(holes) for holes in edges.values()}) == 1
    assert made.seams[0].count == len(edges["front"])
    said = judge(job, made)
    assert all(np.isfinite(v.value) for v in said)
    if job.settings.word("mould.method") != "taut":
        blank = next(p for p in made.pieces if p.name == "front blank")
        trimmed = Polygon(next(r for r in blank.rules if r.kind == "trim").points)
        assert Polygon(blank.cut).buffer(0.2).contains(trimmed)
        assert edges["front"] == pytest.approx(edges["welt"])  # the template lies true on the dried flange
        assert made.drift < 1e-9
    other = draft(job.typed("hand", "left" if not made.mirrored else "right"))
    assert other.pieces[0].area == pytest.approx(made.pieces[0].area)


@settings(max_examples=about(25))
@given(
    sizes(20, 50), sizes(3, 9), st.sampled_from([Shape.OVAL, Shape.SLAB, Shape.DIAMOND]), sizes(1.2, 3),
    sizes(0.3, 1.5), st.booleans(), st.booleans(), st.floats(0.7, 1.4),
)  # fmt: skip
def test_put_together_from_its_flat_pieces_the_object_fits(
    w: float, t: float, shape: Shape, thick: float, c: float, taut: bool, flat: bool, unlike: float
) -> None:
    """Each piece is measured across as it is cut; laid round the section by polygons it must be as long as that."""
    s = Station(0, 0, w, t, t * unlike, shape)
    job = Job(
        "Drawn", "flat-back" if flat else "two-panel", (s, replace(s, y=220.0)), (), Settings({
            "leather.thickness": thick, "fit.clearance": c, "mouth.y": 210,
            "mould.method": "taut" if taut else "boards",
        }),
    )  # fmt: skip
    made, y = draft(job), 150.0
    case = made.shell
    assert isinstance(case, TwoSided)
    (right,), (left,) = case.edges(np.array([y]))
    for side, panel in zip(case.sides, made.formed, strict=True):
        piece = next(p for p in made.pieces if p.name in (side, f"{side} blank"))
        welt = next(r for r in piece.rules if r.kind == "welt").points
        across = LineString(welt).intersection(LineString([(-500, y), (500, y)]))
        cut = across.bounds[2] - across.bounds[0]  # from welt edge to welt edge on the flat
        region = one_side(s, case, side)
        mirrored = shapely.transform(region, lambda p: p * [-1, 1])
        long, over = 0.0, 0.0
        for part, ridge, own, other, run in (
            (region, float(case.ridge.x[0]), right, left, case.face(side, np.array([y])).right),
            (mirrored, -float(case.ridge.x[0]), -left, -right, case.face(side, np.array([y])).left),
        ):
            line = taut_line(part, case, own, other) if taut else moulded_line(part, case, own + 20)
            long += line.intersection(box(ridge, case.floor + case.leather.offset - 1e-3, own, 999)).length
            over += float(run.landed[0])
        eased = panel.eased / (1 + panel.eased) * over
        assert cut == pytest.approx(long - eased, abs=0.2)
    round_inside, girth = case.girths()
    k = int(np.abs(case.rows - y).argmin())
    assert inside(case, float(case.rows[k])).length == pytest.approx(round_inside[k], abs=0.25)
    grown = Polygon(Loft(job.stations).sections(y).outline(0)).buffer(c - 0.1)
    assert inside(case, y).buffer(1e-6).contains(grown)
    assert round_inside[k] > girth[k]


@pytest.mark.parametrize("name", ["spar-hook", "shears", "radio", "whetstone"])
def test_the_slice_shows_every_layer_without_overlap(name: str) -> None:
    job = case(name)
    made = draft(job)
    for y in (8.0, 40.0, made.value("mouth.y") - 5):
        cut = section(made, y, made.shell.clearance)
        assert cut.two_sided
        assert len(cut.stitches) == 2
        assert len(cut.welts) == 2 * round(made.value("welt.layers"))
        layers = [Polygon(p) for p in (cut.front, cut.back, *cut.welts, cut.thing)]
        assert all(p.is_valid for p in layers)
        for k, one in enumerate(layers):
            for other in layers[k + 1 :]:
                assert one.intersection(other).area < 0.6
        thick = made.shell.leather.thickness
        whole = cut.front_path + 2 * made.value("seam.margin")
        assert layers[0].area == pytest.approx(thick * whole, rel=0.2)
    above = section(made, made.shell.loft.top, 0.5)
    assert above.front is None or made.value("mouth.y") >= made.shell.loft.top


def test_demo_jobs_hold_and_a_radio_is_told_how_to_go_easier() -> None:
    for name in CASES:
        job = case(name)
        grave = {v.name: v.ruling for v in judge(job, draft(job)) if v.ruling is not Ruling.OK}
        assert Ruling.STOP not in grave.values()
        assert len(grave) <= 1
    radio = demo.job("radio")
    ways = ways_out(radio, draft(radio), lambda said, share: None)
    now, gentler = ways[0], next(w for w in ways if w.said == "Mould it with fingers")
    assert gentler.stretch < now.stretch
    assert gentler.job is not None
    again = verdict(gentler.job, "Leather takes up the fullness")
    assert again.value == pytest.approx(100 * gentler.gather, rel=0.02)
    assert [w.load for w in ways[1:]] == sorted(w.load for w in ways[1:])
    gusset = next(w for w in ways if "gusset" in w.said)
    assert gusset.job is None
    assert "18 mm deep" in gusset.said

    def stopped(said: str, share: float) -> None:
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        ways_out(radio, draft(radio), stopped)


def test_deeper_or_tighter_moulding_strains_more_and_beyond_its_limit_it_says_stop() -> None:
    radio = demo.job("radio")
    by = [
        verdict(radio.typed("mould.method", how), "Leather stretches that far").value for how in ("fingers", "boards")
    ]
    assert by[0] < by[1]
    frail = radio.typed("leather.stretch_along", "2%").typed("leather.stretch_across", "3%")
    stretched = verdict(frail, "Leather stretches that far")
    assert stretched.ruling is Ruling.STOP
    assert "Ways out" in stretched.reason


@pytest.mark.parametrize(("neck", "ruling", "said"), [(7.6, Ruling.OK, "clicks"), (10.5, Ruling.STOP, "jams"),
                                                      (5.8, Ruling.LOOK, "slips past")])  # fmt: skip
def test_a_hollow_holds_clicks_or_jams_by_its_depth(neck: float, ruling: Ruling, said: str) -> None:
    job = demo.job("shears")
    waist = [replace(s, x_spine=neck, x_seam=40 - neck) if s.y == 106 else s for s in job.stations]
    lock = verdict(replace(job, stations=tuple(waist)), "Lock at the hollow")
    assert lock.ruling is ruling
    assert said in lock.reason
    assert 98 <= lock.y <= 118


def test_moulded_only_at_its_hollow_it_is_taut_elsewhere() -> None:
    job = demo.job("shears")
    taut, hollows = job.typed("mould.method", "taut"), job.typed("mould.where", "hollows")
    whole, part, none = draft(job), draft(hollows), draft(taut)
    for y, like in ((106.0, whole), (40.0, none)):
        runs = [made.shell.face("front", np.array([y])).right for made in (part, like)]
        x, z = (run.sampled(run.landed[:, None] * np.linspace(0, 1, 9)) for run in runs)
        assert np.ptp(x[1]) > 1
        assert np.abs(x[1] - z[1]).max() < 1.5 if y == 40.0 else np.abs(x[1] - z[1]).max() < 0.3


@pytest.mark.parametrize("slope", [0.3, -0.5])
def test_leather_pressed_over_a_slanting_bar_comes_down_square_to_it(slope: float) -> None:
    """A ball that lies against an upright wall and on the welt is as far from the wall, square to it, however that runs
    along the draw: on both sides, and where panels are measured out from a middle line that slants.
    """
    bar = tuple(Station(y, slope * y, slope * y + 20, 6, 6, Shape.SLAB) for y in (0.0, 160.0))
    made = draft(Job("bar", "two-panel", bar, (), Settings({"mould.method": "fingers", "object.sharp": "none"})))
    case = made.shell
    assert isinstance(case, TwoSided)
    assert not case.ridge.straight
    rows = case.formed_rows
    between = (rows > 30) & (rows < case.mouth - 5)
    ball, reach = case.ball, case.clearance + case.ball
    square = np.sqrt(reach**2 - (case.floor + ball - 6.0) ** 2)
    for run, edge in ((case.front.right, slope * rows + 20), (case.front.left, -slope * rows)):
        out = (run.x_land - edge)[between]
        assert out == pytest.approx(square * np.hypot(1, slope), abs=0.08)


def test_where_a_thing_lies_on_the_plan_changes_nothing() -> None:
    """A steep wedge, pressed over from its highest line to either side: the same pieces, hole by hole, further on."""
    wedge = (Station(0, 0, 12, 5, 5, Shape.WEDGE), Station(150, 0, 14, 7, 7, Shape.WEDGE))
    here = Job("wedge", "two-panel", wedge, (), Settings({"mould.method": "fingers", "object.sharp": "none"}))
    there = replace(here, stations=tuple(replace(s, x_spine=s.x_spine + 37, x_seam=s.x_seam + 37) for s in wedge))
    for one, other in zip(draft(here).pieces, draft(there).pieces, strict=True):
        mine, its = (np.array([(h.x, h.y) for h in piece.holes]).reshape(-1, 2) for piece in (one, other))
        assert mine - mine[:1] == pytest.approx(its - its[:1], abs=0.01)


def test_a_pinned_standoff_inside_the_valley_is_told() -> None:
    job = demo.job("shears").typed("seam.standoff", "2")
    told = verdict(job, "Leather is down before the welt")
    assert told.ruling is Ruling.STOP
    assert told.remedies[0] == ("seam.standoff", "auto")


def test_differences_are_told_in_numbers() -> None:
    job = demo.job("shears")
    other = job.typed("mould.method", "fingers").typed("leather.thickness", "2")
    one, two = draft(job), draft(other)
    found = {d.name: d for d in differences(one, judge(job, one), two, judge(other, two))}
    assert found["leather"].change == pytest.approx(-0.4)
    assert found["valley"].held == pytest.approx(1.0)
    assert found["valley"].now == pytest.approx(2.0)
    leather = sum(p.area * p.count for p in two.pieces if p.leather != "card")
    assert found["leather area"].now == pytest.approx(leather / 100)
    plain = draft(demo.job())
    across = {d.name: d for d in differences(one, (), plain, ())}
    assert across["form margin"].change is None


@pytest.mark.parametrize("name", CASES)
def test_the_relief_is_the_case_itself(name: str) -> None:
    made = draft(case(name))
    front, behind, edge = (seen(made, eye) for eye in Eye)
    step = front.across[1] - front.across[0]
    area = (front.what == LEATHER).sum() * step**2
    assert area == pytest.approx(Polygon(made.plan.outline).area, rel=0.02)
    assert (behind.what == LEATHER).sum() * step**2 == pytest.approx(area, rel=0.02)
    assert {NOTHING, OBJECT, LEATHER} == set(np.unique(front.what))
    y = 0.6 * made.value("mouth.y")
    row = int(np.abs(front.up - y).argmin())
    cut = section(made, float(front.up[row]), made.shell.clearance)
    high = np.nanmax(np.where(front.what[row] == LEATHER, front.height[row], np.nan))
    assert high == pytest.approx(cut.front[:, 1].max(), abs=0.25)
    thick = float(np.ptp(np.concatenate([cut.front[:, 1], cut.back[:, 1]])))
    level = int(np.abs(edge.up - y).argmin())
    seen_there = edge.across[edge.what[level] == LEATHER]
    assert np.ptp(seen_there) == pytest.approx(thick, abs=1.2)
    lit = front.lit((200, 150, 100), (160, 170, 180))
    assert (lit[front.what == NOTHING, 3] == 0).all()
    assert (lit[front.what != NOTHING, 3] == 255).all()
    assert np.ptp(lit[front.what == LEATHER, 0].astype(int)) > 20  # it is lit, not flat


def test_edges_on_both_sides_are_kept_clear_of() -> None:
    job = case("whetstone")
    sharp = replace(job, zones=(*job.zones, Zone(ZoneKind.EDGE, 0, 60)))
    made = draft(sharp)
    near = made.shell.rows < 55
    for stand in made.standoffs:
        assert stand.distance[near].min() >= sharp.settings.number("fit.edge") - 1e-6
    names = [v.name for v in judge(sharp, made)]
    assert names.count("Welt clear of the edge") == 1


@st.composite
def rough(draw: st.DrawFn) -> Job:
    """Whatever somebody might measure: stations close and far, jumps, any shapes, any moulding."""
    shape = st.sampled_from(list(Shape))
    ys = sorted(draw(st.sets(sizes(0, 240), min_size=2, max_size=7)))
    assume(ys[-1] - ys[0] > 25)
    rows = []
    for y in ys:
        half, middle = draw(st.floats(4, 40)), draw(st.floats(-6, 6))
        front, back = draw(st.floats(0.3, 22)), draw(st.floats(0.3, 22))
        rows.append(Station(y, middle - half, middle + half, front, back, draw(shape)))
    low, high = ys[0], ys[-1]
    zones = [Zone(k, low + a * (high - low), low + b * (high - low)) for k, a, b in draw(st.lists(st.sampled_from([
        (ZoneKind.EDGE, 0.0, 0.5), (ZoneKind.POINT, 0.0, 0.05), (ZoneKind.GRIP, 0.6, 1.0), (ZoneKind.HOLLOW, 0.3, 0.5),
    ]), unique=True))]  # fmt: skip
    pinned: dict[str, float | str] = {
        "leather.thickness": draw(sizes(0.6, 5)),
        "mould.method": draw(st.sampled_from(["taut", "fingers", "bone", "boards"])),
        "mould.where": draw(st.sampled_from(["everywhere", "hollows"])),
    }
    for key, least, most in (("seam.standoff", 0.5, 30), ("fit.clearance", 0, 6), ("mould.valley", 0.3, 6)):
        if draw(st.integers(0, 4)) == 0:
            pinned[key] = draw(sizes(least, most))
    style = draw(st.sampled_from(["two-panel", "flat-back", "folded-sheath"]))
    return Job("Rough", style, tuple(rows), tuple(zones), Settings(pinned))


@settings(max_examples=about(40))
@given(rough())
def test_the_roughest_object_gives_a_whole_draft_or_one_sentence(job: Job) -> None:
    sentence = None
    try:
        made = draft(job)
        said = judge(job, made)
        cut = section(made, made.shell.loft.tip + 10, made.shell.clearance)
    except InputError as error:
        sentence = error
    if sentence is not None:
        assert all((sentence.what, sentence.where, sentence.remedy))
        return
    assert all(Polygon(p.cut).is_valid for p in made.pieces)
    assert all(np.isfinite(v.value) for v in said)
    assert cut.thing is not None
