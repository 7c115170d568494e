"""Flat panels: paths with round corners, gussets, bows and sleeves, handles, and how a thing is put together."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
import shapely.affinity
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, Polygon, box

from tailor import demo
from tailor.core.carried import block
from tailor.core.carried.loft import Loft
from tailor.core.carried.stations import Shape, Station
from tailor.core.checks.built import verdicts
from tailor.core.draft import styles
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.bow import arch, bowed_over, channel_for
from tailor.core.draft.flat_goods.built import Built, Joint
from tailor.core.draft.flat_goods.gusset import gusset, turned
from tailor.core.draft.flat_goods.sleeve import Sleeve, half_section, left_by_a_loop
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.stitch.holes import laid_round
from tailor.core.draft.style import Asked, Order, suited
from tailor.core.draft.views.upright import upright
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.leather.leather import Leather
from tailor.core.maker import Maker, usual
from tailor.core.picking import guessed
from tailor.core.settings import Settings
from tailor.core.together.assembled import Assembled

LEATHER = Leather(2.0, neutral=0.45)
U = [(30.0, 80.0), (30.0, 0.0), (-30.0, 0.0), (-30.0, 80.0)]


@given(st.floats(0, 29.9))
def test_a_path_is_as_long_as_its_straights_and_its_arcs(radius: float) -> None:
    line, corners = paths.bent(U, radius)
    assert line.length == pytest.approx(220 - 4 * radius + np.pi * radius, abs=0.01)
    assert len(corners) == (4 if radius > 1e-3 else 2)
    assert all(0 < c < line.length for c in corners)
    for at in corners:
        assert abs(float(line(np.array([at]))[0, 0])) <= 30.001


@given(st.floats(0.1, 30), st.floats(0.1, 30))
def test_a_closed_outline_loses_its_corners_and_nothing_else(one: float, other: float) -> None:
    ring = Polygon(paths.closed(paths.box(-40, -30, 40, 30), (one, other, one, other)))
    assert ring.is_valid
    assert ring.area == pytest.approx(80 * 60 - 2 * (1 - np.pi / 4) * (one**2 + other**2), rel=2e-3)


@pytest.mark.parametrize(("corners", "radius"), [(U, 31.0), ([(0, 0), (10, 0), (10, 10)], 11.0)])
def test_arcs_that_do_not_fit_are_refused(corners: list[tuple[float, float]], radius: float) -> None:
    with pytest.raises(InputError, match="does not fit its sides"):
        paths.bent(corners, radius)
    with pytest.raises(InputError, match="does not fit its sides"):
        paths.closed(corners, radius * 3)


# Gussets


@given(st.sampled_from(["out", "in"]), st.floats(14, 28), st.floats(25, 90), st.floats(1, 3), st.floats(1, 3))
def test_a_gusset_is_longer_or_shorter_by_its_half_turn(
    way: str, radius: float, depth: float, thick: float, flat: float
) -> None:
    leather = Leather(thick, 0.4)
    line, corners = paths.bent(U, radius)
    panel = paths.edge(line, 4.0, corners=corners)
    edge = turned(leather, way, flat)
    found, further = gusset(edge, panel, depth, 4.0), edge.neutral
    assert np.sign(further) == (-1 if way == "out" else 1)
    assert found.length - line.length == pytest.approx(np.pi * further, abs=0.02)
    sewn = found.left.anchors[-1] - found.left.anchors[0]
    assert sewn == pytest.approx(laid_round(panel, further).line.length, abs=1e-6)
    assert found.left.anchors == found.right.anchors
    # Folded up, its two walls' ends are a turn of its edge short of the depth on either side.
    straight = found.folds[1][0, 0] - found.folds[0][0, 0]
    across = thick if way == "out" else 0.0
    assert abs(edge.wall) == pytest.approx(across + leather.inside_radius + flat)  # from its wall to the stitches
    assert straight == pytest.approx(depth - 2 * (thick + leather.inside_radius))


def test_a_gusset_with_no_depth_left_is_refused() -> None:
    line, corners = paths.bent(U, 12.0)
    with pytest.raises(InputError, match="taken up by the two turns"):
        gusset(turned(LEATHER, "out", 2.0), paths.edge(line, 4.0, corners=corners), 5.0, 4.0)


@pytest.mark.parametrize(
    ("second", "amiss"), [(100 - np.pi * 4, 0.0), (100.0, np.pi * 4), (90.0, abs(90 - 100 + np.pi * 4))]
)
def test_a_joint_knows_how_far_off_its_rule_it_is(second: float, amiss: float) -> None:
    assert Joint("s", (100.0, second), (0.0, -4.0), np.pi).amiss == pytest.approx(amiss)
    assert Joint("s", (100.0, 99.0), (0.0, 0.0), 0.0, eased=0.01).amiss == pytest.approx(0.0)


# Sleeves and bows


def slab(half: float, high: float, corner: float) -> Loft:
    ends = (0.0, 100.0)
    return Loft(tuple(Station(y, -half, half, high, high, Shape.SLAB, corner) for y in ends))


@given(st.floats(10, 60), st.floats(1, 20), st.floats(0.05, 1), st.floats(0, 4), st.floats(0, 4))
def test_leather_over_a_slab_by_polygons(half: float, high: float, round_: float, room: float, inset: float) -> None:
    """Round corners take less leather than square ones; the room goes round them all."""
    corner = 0.9 * round_ * min(half, high)
    sleeve = Sleeve(LEATHER, half_section(slab(half, high, corner)), room, inset)
    core = box(corner - half, corner - high, half - corner, high - corner)
    grown = core.buffer(corner + room, quad_segs=128)
    steep = np.radians(35.0)
    end = half - corner + (high - corner) / np.tan(steep) + (corner + room) / np.sin(steep)
    hull = shapely.union_all([grown, LineString([(-end, 0), (end, 0)])]).convex_hull
    flat = LineString([(-200, 0), (200, 0)]).buffer(LEATHER.offset)
    skin = shapely.union_all([hull.buffer(LEATHER.offset, quad_segs=128), flat]).exterior
    assert sleeve.stitch == pytest.approx(end + inset, abs=0.1)
    assert sleeve.flat == pytest.approx(skin.intersection(box(0, 0.0, sleeve.stitch, 199)).length, abs=0.1)


@given(st.floats(15, 60), st.floats(2, 12), st.floats(0, 6))
def test_a_loop_of_leather_tells_the_room_it_leaves(half: float, high: float, room: float) -> None:
    section = half_section(slab(half, high, 1.5))
    loop = 4 * Sleeve(LEATHER, section, room, 1.5).flat
    assert left_by_a_loop(LEATHER, section, 1.5, loop) == pytest.approx(room, abs=1e-3)
    with pytest.raises(InputError, match="does not go round it"):
        left_by_a_loop(LEATHER, section, 1.5, 0.9 * loop - 8 * room)
    with pytest.raises(InputError, match=r"more than 40 mm off it"):
        left_by_a_loop(LEATHER, section, 1.5, loop + 400)


@given(st.floats(4, 60), st.floats(0.8, 3), st.floats(40, 80))
def test_leather_bows_over_a_tool_and_clears_it(size: float, thick: float, steep: float) -> None:
    leather = Leather(thick, 0.5)
    flat, over = bowed_over(leather, size, steep)
    assert flat == pytest.approx(size / np.tan(np.radians(steep / 2)))
    assert over > flat * 1.05
    ring = Polygon(arch(leather, size, steep))
    assert ring.is_valid
    tool = Point(0, size / 2).buffer(size / 2)
    assert ring.intersection(tool).area < 0.02 * tool.area
    assert ring.bounds[3] == pytest.approx(size + thick, abs=0.1)


@given(
    st.sampled_from(["oval", "slab", "wedge"]), st.floats(4, 60), st.floats(0.1, 1), st.floats(0, 1), st.floats(45, 75)
)
def test_a_tool_goes_in_the_channel_that_a_roll_has_for_it(
    shape: str, wide: float, flat: float, back: float, steep: float
) -> None:
    """By polygons: it lies on its back inside the hull of a bar and of where the leather comes down beside that."""
    thick = wide * flat
    table = tuple(Station(y, 3, 3 + wide, thick * (1 - back), thick * back, Shape(shape)) for y in (0, 150))
    loft = Loft(table)
    size = channel_for(loft, steep)

    def room(bar: float) -> Polygon:
        half = bar / 2 / np.tan(np.radians(steep / 2))
        return shapely.union(Point(0, bar / 2).buffer(bar / 2, 200), LineString([(-half, 0), (half, 0)])).convex_hull

    rows = loft.sections(np.array([75.0]))
    x = rows.x[0] - 3 - wide / 2
    lies = Polygon([*zip(x, rows.front[0], strict=True), *zip(x[::-1], -rows.back[0][::-1], strict=True)])
    lies = shapely.affinity.translate(lies, 0, float(rows.back.max()))
    assert lies.difference(room(size).buffer(0.02)).area < 1e-3
    assert lies.difference(room(size - 0.3)).area > 0


def test_a_roll_begins_with_a_channel_for_what_was_measured() -> None:
    bar = Job("bar", "tool-roll", block.cylinder(150, 23.2).stations)
    assert bar.settings.word("tools.sizes") == "23.5;9;9;9;9"
    claim = "It goes in a channel"
    assert {v.name: v.ruling for v in judge(bar, draft(bar))}[claim] == "ok"
    slab, plain = Job("slab", "tool-roll", block.block(150, 30, 8).stations), usual()
    steep = slab.by(Maker(plain.fastenings, plain.trimmings, habits={"bow.steep": 80.0}))
    assert steep.settings.word("tools.sizes") != slab.settings.word("tools.sizes")
    for job in (slab, steep):
        assert {v.name: v.ruling for v in judge(job, draft(job))}[claim] == "ok"
    assert Job("nothing yet", "tool-roll", ()).settings.word("tools.sizes") == "14;9;9;9;9"
    tight = bar.typed("tools.sizes", "14;9")
    told = next(v for v in judge(tight, draft(tight)) if v.name == claim)
    assert (told.ruling, told.limit) == ("stop", pytest.approx(23.2, abs=0.1))
    assert ("tools.sizes", "auto") in told.remedies
    why = suited("tool-roll", styles.style("tool-roll"), Asked("tool", "in the hand", "none"),
                 Loft(block.block(200, 90, 40).stations), ())  # fmt: skip
    assert why.never
    assert "not rolled up" in why.why


# Put together


def work() -> Work:
    job = demo.job("whetstone")
    return Work(Order(Settings({"leather.thickness": 2.0}), job.loft))


def test_numbers_keep_their_reasons_and_pins() -> None:
    made = work()
    assert made.say("panel.corner", 12.0, "a rule") == 12.0
    assert made.reasons["panel.corner"].rule == "a rule"
    pinned = Work(Order(Settings({"panel.corner": 7.0}), demo.job("whetstone").loft))
    assert pinned.say("panel.corner", 12.0, "a rule") == 7.0
    assert pinned.reasons["panel.corner"].pinned
    assert made.size == pytest.approx((50, 150, 25))


def test_a_fastening_says_whether_it_has_room() -> None:
    made = work()
    made.cut("front", np.array(paths.box(0, 0, 60, 40)))
    made.fit("rapid rivet 9", "middle", "corner.rivet", ("front", (30, 20)))
    made.fit("rapid rivet 9", "edge", "corner.rivet", ("front", (59, 20)))
    edge = paths.edge(paths.straight((10, 5), (10, 35)), 2.0)
    made.cut("back", np.array(paths.box(0, 0, 60, 40)))
    made.join("side", ("front", "f", edge), ("back", "b", edge))
    x, y = made.pieces["front"].holes_of("side", "f")[3]
    made.fit("rapid rivet 9", "in a hole", "corner.rivet", ("front", (x, y)))
    assert [h.found for h in made.hardware] == [True, False, False]
    assert made.hardware[0].post == 6.0 or made.hardware[0].post == 7.0


def test_edges_with_unlike_corners_are_refused_with_the_seam_named() -> None:
    made = work()
    for name in ("front", "back"):
        made.cut(name, np.array(paths.box(-40, -10, 40, 90)))
    line, corners = paths.bent(U, 10.0)
    bare, round_ = paths.edge(line, 4.0), paths.edge(line, 4.0, corners=corners)
    with pytest.raises(InputError, match="seam side: its edges have unequal numbers of corners"):
        made.join("side", ("front", "f", bare), ("back", "b", round_))


@pytest.mark.parametrize("kind", ["strap", "wrapped"])
def test_a_handle_is_long_enough_for_a_hand_and_riveted_at_both_ends(kind: str) -> None:
    made = draft(demo.job("spar-bag").typed("handle.kind", kind))
    for side in ("front", "back"):
        handle = made.piece(f"{side} handle")
        rivets = sorted({f.y for f in handle.fittings})
        assert len(rivets) == 4
        layers = 3 if kind == "strap" else 2  # a folded strap lies double
        assert [h.stack for h in made.hardware] == pytest.approx([layers * made.value("leather.thickness")] * 8)
        assert rivets[2] - rivets[1] > 110
        on = sorted(f.x for f in made.piece(side).fittings)
        assert on == pytest.approx([-x for x in reversed(on)])
    wide = np.ptp(made.piece("front handle").cut[:, 0])
    assert wide == pytest.approx(np.pi * (10 + 2 * 0.8) - 0.5 if kind == "wrapped" else wide)


@pytest.mark.parametrize("kind", ["strap", "wrapped"])
def test_a_handle_keeps_to_a_narrow_front_or_says_that_there_is_no_room(kind: str) -> None:
    bag = demo.job("spar-bag").typed("handle.kind", kind)
    for wide in (150, 90, 76):
        met = Assembled(draft(bag.typed("inside.across", f"{wide}mm")).unmarked())
        assert max(each.distance for each in met.fastened) < 0.1
        assert all(abs(each.thickness - each.told) < 0.1 for each in met.layered)
    with pytest.raises(InputError, match="no room for both ends of a handle"):
        draft(bag.typed("inside.across", "70mm"))


BUILT = [name for name in demo.names() if isinstance(draft(demo.job(name)), Built)]


@pytest.mark.parametrize("name", BUILT)
def test_measures_are_tied_to_their_pieces_and_slices_hold_what_is_carried(name: str) -> None:
    job = demo.job(name)
    made = draft(job)
    assert isinstance(made, Built)
    for key, (piece, x, y) in made.tied.items():
        cut = made.piece(piece).cut
        assert (cut.min(axis=0) - 1 <= (x, y)).all(), key
        assert ((x, y) <= cut.max(axis=0) + 1).all(), key
    low, high = made.span
    for y in (low, (low + high) / 2, high):
        layers = made.cross(y).layers
        assert {layer.kind for layer in layers} >= {"leather", "thing"}
        assert all(Polygon(layer.outline).is_valid for layer in layers)
    assert all(verdict.reason for verdict in verdicts(job.settings, made))
    left = draft(job.typed("hand", "left"))
    for own, other in zip(made.pieces, left.pieces, strict=True):
        assert Polygon(own.cut * [-1, 1]).symmetric_difference(Polygon(other.cut)).area < 1e-6


@pytest.mark.parametrize("name", [n for n in demo.names() if n not in ("old-pouch", "marking-gauge", "kit-bag")])
def test_what_an_object_looks_like_is_a_fair_guess(name: str) -> None:
    """Its own construction is among those made for what it looks like, or is at least not refused."""
    from tailor.core.draft import styles

    job = demo.job(name)
    style = styles.style(job.style)
    assert style.unless(job.loft, job.zones) is None
    assert guessed(job.loft, job.zones).what in style.what or name in (
        "peg-tray",
        "laser-level",
        "ridge-bag",
        "spar-bag",
    )


# Straight down


def test_the_slice_straight_down_has_its_straps_outside_the_object() -> None:
    job = demo.job("shears").typed("keeper.way", "over").typed("loop.landing", "slots")
    made = draft(job)
    cut = upright(made, job.settings)
    assert cut is not None
    assert cut.belt is not None
    thing = Polygon(cut.thing).buffer(-0.6)
    for ring in cut.leather:
        assert Polygon(ring).buffer(0).intersection(thing).area < 2.0
    belt = Polygon(cut.belt)
    assert all(belt.intersection(Polygon(ring).buffer(0)).area < 0.5 for ring in cut.leather)
    assert belt.area == pytest.approx(job.settings.number("belt.width") * job.settings.number("belt.thickness"))
    assert len(cut.posts) == 1
    assert upright(draft(demo.job()), demo.job().settings) is None


def test_closing_is_judged() -> None:
    job = demo.job("radio").typed("keeper.way", "over")
    said = {v.name: v for v in judge(job, draft(job))}
    assert said["Control clear of the keeper"].ruling == "look"
    assert said["Finger's tab on the keeper"].ruling == "ok"
    short = job.typed("keeper.tab", "2mm")
    assert {v.name: v for v in judge(short, draft(short))}["Finger's tab on the keeper"].ruling != "ok"
    blade = demo.job("eaves-blade").typed("loop.rise", "45").typed("keeper.way", "round").typed("keeper.overlap", "9")
    assert {v.name: v for v in judge(blade, draft(blade))}["Ends of the keeper overlap"].ruling != "ok"
