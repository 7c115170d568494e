"""What hangs or ties: shoulder straps, danglers, ties, and what they go round, by where their leather lies."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
from shapely.geometry import Point, Polygon

from tailor import demo
from tailor.core.checks import together
from tailor.core.draft.draft import Draft
from tailor.core.draft.styles.mask import way_of_tie
from tailor.core.job import Job, draft, judge
from tailor.core.placed.lies import Bent, strain
from tailor.core.placed.path import looped, twice_looped
from tailor.core.placed.ribbon import Ribbon
from tailor.core.placed.rings import Ring
from tailor.core.together.assembled import Assembled
from tailor.core.together.closing import Closing
from tests.core.test_closing import DYES
from tests.core.test_straps import made_with
from tests.things import job_of

LONG, SHORT = "shoulder strap", "buckle strap"
SLUNG = [
    ("laser-level", {"strap__pad": "8"}),  # its rings look along the strap's plane, 190 mm apart
    ("radio", {"strap__buckle": "buckle 20"}),  # beside one another on a back
    ("stapler", {"strap__buckle": "buckle 20", "strap__length": "800"}),  # on a back that bulges
    ("whetstone", {"strap__buckle": "buckle 20"}),  # soft: folded lengthwise over webbing
]


def whole(name: str, pinned: dict[str, str]) -> tuple[Job, Draft]:
    job, made = made_with(name, **pinned)
    return job, made.unmarked()


def along(made: Draft, name: str, low: float, high: float) -> np.ndarray:
    """Places along the middle of a strap, a tenth of a mm apart."""
    v = np.arange(low, high, 0.1)
    return np.asarray(made.lies[name](np.column_stack([np.zeros(len(v)), v])).at)


@pytest.mark.parametrize(("name", "pinned"), SLUNG)
def test_a_strap_hangs_from_ring_to_ring_sewn_and_buckled(name: str, pinned: dict[str, str]) -> None:
    job, made = whole(name, pinned)
    assert not [p for p in Assembled(made).unplaced if p.startswith((LONG, SHORT, "right", "left"))]
    company = {p.name for p in made.pieces if p.name.endswith("webbing") or "pad" in p.name}
    assert Closing(Assembled(made), DYES).swinging == {LONG, SHORT} | company  # they run out of the picture together
    strapped = [met for met in Assembled(made).seams if met.name.startswith((LONG, SHORT))]
    assert len(strapped) > 12
    assert max(met.distance for met in strapped) < 0.02
    right, left, buckle = made.rings
    thick = made.piece(LONG).thickness * (4 if (soft := bool(made.piece(LONG).folds)) else 1)
    crests = {}
    for ring, strap in ((right, SHORT), (left, LONG)):
        frame = ring.frame(made.lies[ring.piece])
        reach = along(made, strap, 0.0, 80.0) - frame.origin
        k = int((reach @ frame.up).argmin())  # where it goes round the wire it is nearest to the tab
        assert np.linalg.norm(reach[k] - ring.deep * frame.up) < 1.5 * thick
        crests[strap] = k * 0.1
    hole = min(f.y for f in made.piece(LONG).fittings)
    middles = [o.mean(axis=0) for o in made.piece(SHORT).openings]
    holes = made.lies[LONG](np.array([(f.x, f.y) for f in made.piece(LONG).fittings if f.y == hole]))
    prong = made.lies[SHORT](np.array(middles)).at.mean(axis=0)
    for at, out in zip(*holes, strict=True):  # through each leg, where the strap is folded
        apart = at - prong
        assert np.linalg.norm(apart - (apart @ out) * out) < 1.0
    # From ring to ring it is as long as was asked: measured along where it lies, its folds as they stand.
    step = [np.linalg.norm(np.diff(along(made, *run), axis=0), axis=1).sum() for run in (
        (LONG, crests[LONG] + 20.0, hole), (SHORT, crests[SHORT] + 20.0, buckle.at - 20.0))]  # fmt: skip
    ends = [np.linalg.norm(np.diff(along(made, s, a, b)[[0, -1]], axis=0)) for s, a, b in (
        (LONG, crests[LONG], crests[LONG] + 20.0), (SHORT, crests[SHORT], crests[SHORT] + 20.0),
        (SHORT, buckle.at - 20.0, buckle.at))]  # fmt: skip
    assert sum(step) + sum(ends) == pytest.approx(job.settings.number("strap.length"), abs=8.0 if soft else 5.0)
    main = np.column_stack([np.full(50, 3.0), np.linspace(crests[SHORT] + 25, buckle.at - 25, 50)])
    assert strain(made.lies[SHORT], main).max() < 1e-6


@pytest.mark.parametrize("by", [-12.0, 12.0])
def test_a_strap_whose_hole_is_set_off_is_told(by: float) -> None:
    job, made = whole(*SLUNG[1])
    said = {v.name: v for v in together.verdicts(job.settings, made)}
    name = "Strap goes from ring to ring"
    assert said[name].ruling == "ok"
    strap = made.piece(LONG)
    moved = replace(strap, fittings=tuple(replace(f, y=f.y + by) for f in strap.fittings))
    other = replace(made, pieces=tuple(moved if p is strap else p for p in made.pieces))
    verdict = {v.name: v for v in together.verdicts(job.settings, other)}[name]
    assert verdict.ruling == "look"
    assert verdict.value == pytest.approx(12.0 + np.sign(by) * said[name].value, abs=0.01)


@pytest.mark.parametrize("name", ["eaves-blade", "radio", "spar-hook"])
def test_a_dangler_goes_through_its_ring_and_its_three_legs_meet(name: str) -> None:
    _, made = whole(name, {"loop__landing": "dangler"})
    met = [each for each in Assembled(made).seams if each.name.startswith(("dangler", "ring"))]
    assert {each.name for each in met} == {"dangler row 1", "dangler row 2", "ring row 1", "ring row 2"}
    assert max(each.distance for each in met) < 0.2
    (ring,) = made.rings
    frame = ring.frame(made.lies["ring tab"])
    strap = along(made, "dangler", 0.0, float(made.piece("dangler").cut[:, 1].max())) - frame.origin
    assert (strap @ frame.up).min() == pytest.approx(ring.deep, abs=0.2)
    assert np.abs(strap @ frame.across).max() < 0.01
    wires = ring.wires(made.lies["ring tab"])
    assert np.ptp((wires - frame.origin) @ frame.across) == pytest.approx(ring.inside)


def test_a_strip_looped_at_both_ends_is_as_long_as_it_is_cut_with_its_legs_beside_one_another() -> None:
    path = twice_looped(24.0, 9.0, 60.0, 3.0)
    s = np.linspace(0.0, 3 * 24 + 2 * (9.0 + 60.0), 20001)
    at = path.at(s)
    assert np.hypot(*np.diff(at, axis=0).T).sum() == pytest.approx(s[-1], rel=2e-5)  # chords
    legs = [at[(s > low + 1) & (s < low + 23)] for low in (0.0, 24 + 18, 48 + 18 + 120)]
    for leg, out in zip(legs, (-3.0, 0.0, 3.0), strict=True):
        assert np.abs(leg[:, 1] - out).max() < 1e-6
    assert [leg[:, 0].mean() for leg in legs] == pytest.approx([legs[0][:, 0].mean()] * 3, abs=0.01)
    assert at[:, 0].min() == pytest.approx(0.0, abs=0.05)  # the crest of its foot
    tall = looped(84.0, 60.0, 3.0).at(np.linspace(-60, 60, 999))[:, 0].max()
    assert at[:, 0].max() == pytest.approx(legs[1][:, 0].mean() + 12.0 + tall, abs=0.1)


def test_the_tie_of_a_mask_is_taut_from_its_row_round_the_handle_to_its_loop() -> None:
    job, made = demo.job("leggett"), draft(demo.job("leggett")).unmarked()
    whole_ = Assembled(made)
    assert whole_.unplaced == ()
    assert max(met.distance for met in whole_.seams if "tie" in met.name) < 0.3
    tie, thick = made.piece("tie"), made.piece("tie").thickness
    at = along(made, "tie", 0.0, float(tie.cut[:, 1].max()))
    assert np.linalg.norm(np.diff(at, axis=0), axis=1).sum() == pytest.approx(np.ptp(tie.cut[:, 1]), abs=0.6)
    run = way_of_tie(job.settings, made, made.value("tie.width"), replace(made.shell.leather, thickness=thick))
    level = run.sides[0, 1]
    handle = Polygon(job.loft.sections(np.array([level])).outline(0))
    near = np.abs(at[:, 1] - level) < 0.5
    apart = shapely.distance(shapely.points(at[near][:, [0, 2]]), handle)
    assert apart.min() > thick / 2 - 0.1  # it lies on the handle, and not in it
    assert apart.min() < thick / 2 + 0.1
    assert at[near][:, 2].max() > handle.bounds[3]  # round the front of it
    loop = made.lies["tuck loop"](np.array([made.piece("tuck loop").cut.mean(axis=0)])).at[0]
    assert np.linalg.norm(at - loop, axis=1).min() < 3 * thick  # and under its loop
    said = {v.name: v for v in judge(job, draft(job))}["End of the tie is tucked"]
    assert said.value == pytest.approx(made.value("tie.length") - run.length, abs=2.0)
    short = job.typed("tie.length", f"{made.value('tie.length') - 60}mm")
    assert {v.name: v for v in judge(short, draft(short))}["End of the tie is tucked"].ruling != "ok"


def test_the_tie_of_a_roll_goes_in_at_one_slot_and_out_at_the_other() -> None:
    made = draft(demo.job("marking-gauge")).unmarked()
    base, tie = made.piece("base"), made.piece("tie")
    slots = [Polygon(o) for o in base.openings]
    channels = Polygon(made.piece("channels").cut)
    assert len(slots) == 2
    assert all(Polygon(base.cut).exterior.distance(slot) > 5.0 for slot in slots)
    assert min(slot.bounds[1] for slot in slots) > channels.bounds[3]  # which would cover them
    at = along(made, "tie", 0.0, float(tie.cut[:, 1].max()))
    middle = -base.thickness / 2
    through = np.flatnonzero(np.diff(np.sign(at[:, 2] - middle)))
    assert len(through) == 2
    for k, slot in zip(through, sorted(slots, key=lambda s: s.bounds[0]), strict=True):
        assert slot.contains(Point(*at[k, :2]))
        assert np.ptp(np.array(slot.exterior.coords)[:, 1]) > np.ptp(tie.cut[:, 0])
    inside = at[through[0] + 40 : through[1] - 40]
    assert inside[:, 2].mean() == pytest.approx(tie.thickness / 2, abs=0.01)  # on the base, not in it
    assert at[100, 2] == pytest.approx(-base.thickness - tie.thickness / 2)


@pytest.mark.parametrize("name", ["eaves-blade", "spar-hook", "shears", "radio"])
def test_a_keeper_goes_round_the_object_and_closes_on_itself(name: str) -> None:
    job, made = whole(name, {"keeper__way": "round", **({"loop__rise": "45"} if name == "eaves-blade" else {})})
    assert Assembled(made).unplaced in ((), ("template",))
    met = [each for each in Assembled(made).seams if each.name.startswith("keeper")]
    assert len(met) >= 4
    assert max(each.distance for each in met) < 0.1
    keeper, at = made.piece("keeper"), made.value("keeper.at")
    lie, thick = made.lies["keeper"], keeper.thickness
    girth = made.value("keeper.girth")
    ends = lie(np.array([(f.x, f.y) for f in keeper.fittings]))
    apart = ends.at[0] - ends.at[1]
    assert np.linalg.norm(apart - (apart @ ends.out[0]) * ends.out[0]) < 0.5  # its button's halves meet
    assert np.linalg.norm(apart) == pytest.approx(thick, abs=0.1)  # on its own end
    hull = Polygon(job.loft.sections(np.array([at])).outline(0)).convex_hull
    round_ = along(made, "keeper", 0.0, girth - 45.0)
    assert np.abs(round_[:, 1] - at).max() < 1e-6
    reach = shapely.distance(shapely.points(round_[:, [0, 2]]), hull)
    neutral = made.shell.clearance + thick * job.settings.number("leather.neutral")
    before = round_[:, 2] > hull.centroid.y
    assert reach[before] == pytest.approx(np.full(before.sum(), neutral), abs=0.05)  # snug all round
    assert reach.min() > neutral - 0.05
    assert reach.max() < neutral + 2.0  # but where it lies plane on the leather it is sewn to
    outer = lie(np.array([(0.0, 10.0)])).out[0]
    assert outer @ (lie(np.array([(0.0, 10.0)])).at[0] - [*hull.centroid.coords[0][:1], at, hull.centroid.y]) > 0


def test_the_taut_line_over_a_deep_hollow_is_one_line() -> None:
    job = job_of(13, "folded-sheath")
    for key, text in {"flap.closing": "snap 10", "leather.thickness": "1.6"}.items():
        job = job.typed(key, text)
    made = draft(job.typed("leather.temper", "soft"))
    assert "flap" in [piece.name for piece in made.pieces]


def test_a_ribbon_goes_straight_on_before_and_after_its_line_and_turns_with_it_between() -> None:
    turn = np.linspace(0.0, np.pi / 2, 91)
    line = np.column_stack(
        [30 * np.sin(turn), np.zeros(91), 30 - 30 * np.cos(turn)]
    )  # a quarter, from level to upright
    out = np.column_stack([np.sin(turn), np.zeros(91), -np.cos(turn)])
    lie = Ribbon(line, out, first=5.0)
    assert lie.length == pytest.approx(15 * np.pi, abs=0.01)
    before, after = lie(np.array([(2.0, -5.0), (2.0, 5.0 + lie.length + 10.0)])).at
    assert before == pytest.approx([-10.0, 2.0, 0.0], abs=0.6)  # its x runs to the left of it, seen from its grain
    assert after == pytest.approx([30.0, 2.0, 40.0], abs=0.6)
    middle = lie(np.array([(0.0, 5.0 + lie.length / 2)]))
    assert middle.at[0] == pytest.approx([30 * np.sin(np.pi / 4), 0.0, 30 - 30 * np.cos(np.pi / 4)], abs=0.1)
    assert middle.out[0] == pytest.approx([np.sin(np.pi / 4), 0.0, -np.cos(np.pi / 4)], abs=0.01)


def test_a_ring_stands_away_from_its_fold_and_is_pulled_where_it_is_deep() -> None:
    fold = Bent(up=looped(26.0, 10.0, 3.0))  # a tab whose fold stands away along the frame's y
    for square in (False, True):
        ring = Ring("ring", "tab", "strap", 0.0, 8.0, 25.0, 3.0, square)
        frame = ring.frame(fold)
        crest = fold(np.array([(0.0, 0.0)])).at[0]
        assert frame.origin == pytest.approx(crest)
        assert frame.up[1] > 0.95
        wires = (ring.wires(fold) - crest) @ np.array([frame.across, frame.up, frame.out]).T
        assert np.abs(wires[:, 2]).max() < 1e-9  # plane
        assert wires[:, 0].min() == pytest.approx(-12.5)
        assert wires[:, 1].min() == pytest.approx(-3.0)  # its bar lies in the fold
        assert wires[:, 1].max() == pytest.approx(ring.deep + 3.0)
        assert 15.0 < ring.deep < 25.0
