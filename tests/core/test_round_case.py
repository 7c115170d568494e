"""Round cases: a wall once round, a bottom let in, a strip over the butt; by where their leather lies."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from shapely.geometry import Point, Polygon

from tailor.core.bench.derived import derived
from tailor.core.carried.block import block, cylinder
from tailor.core.carried.stations import Shape, Station, Table, checked
from tailor.core.carried.zones import Zone, ZoneKind
from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.picking import guessed, picks
from tailor.core.placed.lies import strain
from tailor.core.righting import put_right
from tailor.core.together.assembled import Assembled
from tests.lofts import typed


def job(table: Table, style: str = "round-case", **pinned: str) -> Job:
    return typed(Job("a bottle", style, table.stations, table.zones).measured(table), **pinned)


CASES = [
    (250.0, 70.0, {}),
    (160.0, 40.0, {"gusset__flange": "in"}),
    (120.0, 90.0, {"gusset__flange": "in", "leather__thickness": "2", "strap__buckle": "buckle 20"}),
    (300.0, 45.0, {"leather__temper": "soft", "leather__thickness": "1.6"}),
]


def flesh(made: Draft, piece: str, flat: np.ndarray) -> np.ndarray:
    """Where the flesh side of a piece lies under flat places of it, (n, 3)."""
    placed = made.lies[piece](flat)
    return np.asarray(placed.at - made.piece(piece).thickness / 2 * placed.out)


@pytest.mark.parametrize(("long", "across", "pinned"), CASES)
def test_it_is_as_wide_and_as_high_inside_as_asked_and_every_hole_meets(
    long: float, across: float, pinned: dict[str, str]
) -> None:
    asked = job(cylinder(long, across), **pinned)
    made = draft(asked).unmarked()
    whole = Assembled(made)
    assert whole.unplaced == ()
    assert max(met.distance for met in whole.seams) < 0.05
    assert {met.name for met in whole.seams} >= {"bottom seam", "right of the butt", "left of the butt"}
    wall, bottom = made.piece("wall"), made.piece("bottom")
    high = wall.cut[:, 1].max()  # from where its foot begins to turn to its rim
    round_ = np.linspace(0.0, wall.cut[:, 0].max(), 500)
    for y in (0.0, high / 2, high):
        inner = flesh(made, "wall", np.column_stack([round_, np.full(500, y)]))
        assert np.hypot(inner[:, 0], inner[:, 2]) == pytest.approx(np.full(500, across / 2 + 0.5), abs=0.01)
        assert np.linalg.norm(inner[0] - inner[-1]) < 1e-6  # its ends meet
    rim = made.lies["wall"](np.array([(1.0, high)])).at[0, 1]
    (held,) = made.held
    stands = held.at[1] + asked.loft.tip  # on the bottom, or on the foot that is turned in
    assert rim - stands == pytest.approx(made.value("inside.up"), abs=0.01)
    assert made.value("inside.up") < long - 15  # something is left to take hold of
    grain = made.lies["bottom"](bottom.cut)
    assert (grain.out @ [0.0, -1.0, 0.0] > 0.99).all()
    wide = np.hypot(*grain.at[:, [0, 2]].T)
    outer = across / 2 + 0.5 + wall.thickness
    assert (wide == pytest.approx(np.full(len(wide), outer), abs=0.05)) == ("gusset__flange" in pinned)
    gaps = [gap.gap for gap in whole.gaps]
    assert min(gaps) > -0.1 * wall.thickness
    assert strain(made.lies["wall"], np.column_stack([round_[::10], np.full(50, high / 2)])).max() < 1e-6
    assert not [v for v in judge(asked, draft(asked)) if v.ruling == "stop"]


def test_the_strip_covers_the_butt_and_the_foot_is_notched_as_it_gathers() -> None:
    asked = job(cylinder(250, 70), gusset__flange="in")
    made = draft(asked).unmarked()
    (reach,) = [v for v in judge(asked, made) if v.name == "Hand reaches the bottom seam"]
    assert reach.ruling != "ok"
    righted = put_right(asked)
    assert righted.taken == (("gusset.flange", "auto"),)
    assert righted.left == ()
    wide = job(cylinder(120, 100), gusset__flange="in")
    assert all(v.ruling == "ok" for v in judge(wide, draft(wide)))
    strip = made.piece("back strip")
    wall = made.lies["wall"](np.array([(0.0, 50.0), (made.value("wall.round"), 50.0)])).at
    over = made.lies["back strip"](np.array([(0.0, 50.0), (8.0, 50.0), (-8.0, 50.0)]))
    assert np.hypot(*(over.at[0] - wall[0])[[0, 1]]) < 1e-6  # its middle lies over both ends
    out = np.hypot(over.at[:, 0], over.at[:, 2])
    assert out == pytest.approx(np.full(3, 35.5 + 3.0 + strip.thickness / 2), abs=0.01)  # on the wall's grain
    assert (np.hypot(*over.out[:, [0, 2]].T) > 0.99).all()
    notches = [rule.points for rule in made.piece("wall").rules if rule.kind == "slit"]
    seam = made.seam("bottom seam")
    assert len(notches) >= seam.count - 1  # one between every two stitches, most of them wedges
    gone = sum(np.ptp(points[[0, -1], 0]) for points in notches if len(points) > 2)
    foot = made.piece("wall").cut[:, 1].min()
    at = made.lies["wall"](np.column_stack([np.linspace(1, made.value("wall.round") - 1, 400), np.full(400, foot)])).at
    edge = np.linalg.norm(np.diff(at, axis=0), axis=1).sum()
    assert made.value("wall.round") - gone == pytest.approx(
        edge, rel=0.12
    )  # what is cut away is what there is too much
    steps = derived(made)
    sewn = [step.key for step in steps.doings if "bottom seam" in step.places]
    assert sewn


def test_a_bottle_is_offered_a_round_case_first_and_what_is_not_round_is_refused_one() -> None:
    bottle = job(cylinder(250, 70), "two-panel")
    assert guessed(bottle.loft, ()).what == "round thing"
    offered, _ = picks(bottle)
    assert offered[0].style == "round-case"
    assert len(offered) >= 2
    assert offered[0].leather < 0.8 * min(o.leather for o in offered[1:])
    square = job(block(200, 60, 60))
    assert guessed(square.loft, ()).what != "round thing"
    with pytest.raises(InputError, match="not round") as refused:
        draft(square)
    assert refused.value.ways[0] == ("style", "two-panel")
    edged = checked([Station(y, -20, 20, 20, 20, Shape.OVAL) for y in (0, 150)])
    with pytest.raises(InputError, match="edge or a point"):
        draft(job(Table(edged, (Zone(ZoneKind.EDGE, 0, 40),))))
    with pytest.raises(InputError, match="too small"):
        draft(job(cylinder(30, 12)))


def test_what_it_holds_is_told_where_too_little_room_is_typed() -> None:
    tight = job(cylinder(250, 70), inside__across="66")
    said = {v.name: v for v in judge(tight, draft(tight))}
    assert said["Room inside"].ruling == "stop"
    assert said["What it holds goes in"].ruling != "ok"
    slice_ = draft(job(cylinder(250, 70))).crosses[0]
    hoop = shapely.make_valid(Polygon(slice_.layers[0].outline))
    thing = Polygon(slice_.layers[1].outline)
    assert not hoop.contains(Point(0, 0))
    assert hoop.intersection(thing).area < 1.0


def test_where_its_table_has_it_makes_no_difference() -> None:
    """Off to one side and further up, the same bottle has the same case."""
    rows = [Station(y, 5, 75, 35, 35, Shape.OVAL) for y in (30, 280)]
    aside, plain = (draft(job(t)) for t in (Table(checked(rows)), cylinder(250, 70)))
    assert aside.value("inside.across") == pytest.approx(plain.value("inside.across"), abs=0.01)
    for piece in ("wall", "bottom", "back strip"):
        assert aside.piece(piece).area == pytest.approx(plain.piece(piece).area, rel=1e-3)
    (held,) = aside.held
    outline = held.loft.sections(np.array([100.0])).outline(0) + np.array([held.at[0], held.at[2]])
    assert (outline.max(axis=0) + outline.min(axis=0)) / 2 == pytest.approx([0.0, 0.0], abs=0.01)  # in the middle of it
    assert held.at[1] + 30 == pytest.approx(0.0)  # and on its bottom
