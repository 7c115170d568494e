"""Straps: over the top, round the object, round belt and ring, folded lengthwise, and all of them together."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, MultiPoint, Point, Polygon

from tailor.core.checks.verdict import Ruling
from tailor.core.draft.draft import OverTop
from tailor.core.draft.worn.hang import made_up
from tailor.core.draft.worn.over import neutral, taut
from tailor.core.draft.worn.straps import folded, hole_row, wrapped_round
from tailor.core.draft.worn.turned import half_round
from tailor.core.errors import InputError
from tailor.core.job import judge
from tailor.core.leather.leather import Leather
from tailor.core.leather.trimmings import read
from tailor.core.outcome import work_out
from tailor.files.sheet import shortened
from tests.lofts import case, made_with
from tests.sweeps import about

FINE = 256
LEATHER = Leather(2.4, neutral=0.4)


@given(st.lists(st.tuples(st.floats(-30, 30), st.floats(1, 90)), min_size=3, max_size=25), st.floats(0.2, 2))
def test_a_taut_line_goes_round_what_stands_in_its_way_and_nothing_else(
    points: list[tuple[float, float]], offset: float
) -> None:
    """Against the boundary of the hull, grown by the leather's offset, between the two ends."""
    start, end = np.array([-35.0, 0.0]), np.array([35.0, 0.0])
    line = taut(np.array(points), start, end)
    hull = MultiPoint([start, end, *points]).convex_hull
    assert line[0] == pytest.approx(start)
    assert line[-1] == pytest.approx(end)
    assert LineString(line).length == pytest.approx(hull.length - 70.0, abs=1e-6)
    turned = np.unwrap(np.arctan2(*np.diff(line, axis=0).T[::-1]))
    way = OverTop(0.0, line, float(turned[0] - turned[-1]), Leather(2 * offset))
    grown = hull.buffer(offset, quad_segs=FINE).exterior
    # Where the line sets out and ends, square to it:
    first, last = (line[k + 1] - line[k] for k in (0, -2))
    ends = [Point(at + offset * np.array([-d[1], d[0]]) / np.hypot(*d)) for at, d in ((start, first), (end, last))]
    a, b = sorted(grown.project(p) for p in ends)
    runs = (b - a, grown.length - (b - a))
    assert min(abs(way.length - run) for run in runs) < 0.05
    assert LineString(neutral(way)).length == pytest.approx(way.length, abs=0.1)


def test_a_keeper_over_a_slab_by_hand() -> None:
    """Over a stone that stands out of a flat-backed case: up the back, across, and down to the button."""
    job, made = made_with("shears", keeper__way="over")
    (way,), thick = made.ways, made.shell.leather.thickness
    top, clear, back = made.shell.loft.top, made.shell.clearance, -(made.shell.plane + thick)
    sizes = made.shell.loft.sizes(np.array([top]))[0]
    front, mouth = way.inner[-1], made.value("mouth.y")
    assert way.inner[0] == pytest.approx([back, mouth - made.value("seam.margin")])
    brim = float(made.plan.mouth[:, 1].min())
    assert front[1] == pytest.approx(brim - 8.0 - 2.0, abs=0.1)
    line = LineString([way.inner[0], (back, mouth), (-sizes[3], top + clear), (sizes[2], top + clear), front])
    assert LineString(way.inner).length == pytest.approx(MultiPoint(line.coords).convex_hull.length
        - Point(way.inner[0]).distance(Point(front)), abs=0.6)  # fmt: skip  # the stone is not quite flat
    piece = made.piece("keeper")
    assert np.ptp(piece.cut[:, 1]) == pytest.approx(made.value("keeper.length"))
    (socket,), rows = piece.fittings, piece.holes_of("keeper row 1", "tab")
    assert socket.y - rows[0, 1] == pytest.approx(way.length)
    assert len(rows) == len(made.piece("back").holes_of("keeper row 1", "back")) >= 2
    assert all(v.ruling is Ruling.OK for v in judge(job, made) if "keeper" in v.name.lower())
    assert "keeper: all round, before it is sewn on" in map(str, made.edges_first)


def test_a_keeper_goes_over_a_back_that_stands_higher() -> None:
    """With the mouth low and the back up to the top of the object, it leaves the back only there."""
    _, made = made_with("shears", keeper__way="over", back__above="60", mouth__y="140mm")
    (way,) = made.ways
    behind = way.inner[np.abs(way.inner[:, 0] - way.inner[0, 0]) < 1e-6]
    assert behind[:, 1].max() == pytest.approx(200.0)
    assert way.inner[:, 1].max() >= made.shell.loft.top


def test_a_stud_wants_a_smaller_hole_and_a_slit() -> None:
    _, made = made_with("shears", keeper__way="over", keeper__button="stud 8")
    keeper = made.piece("keeper")
    (slit,) = (r.points for r in keeper.rules if r.kind == "slit")
    assert keeper.fittings[0].hole < 8.0
    assert slit[0, 1] == pytest.approx(keeper.fittings[0].y - keeper.fittings[0].hole / 2)
    assert slit[1, 1] < slit[0, 1]


def test_a_keeper_round_the_object_is_its_girth_and_sits_at_the_narrowest_place() -> None:
    _, made = made_with("eaves-blade", keeper__way="round", loop__rise="45")
    loft, at, leather = made.shell.loft, made.value("keeper.at"), made.shell.leather
    outline = Polygon(loft.sections(np.array([at])).outline(0))
    body, keeper = made.piece("body"), made.piece("keeper")
    rows = np.vstack([body.holes_of(f"keeper row {n}", "back") for n in (1, 2)])
    middle = made.lies["body"](rows).at[:, 0].mean()
    seat = [(middle + side * 5.5, outline.bounds[1]) for side in (-1, 1)]  # plane where it is sewn on
    grown = outline.union(MultiPoint(seat)).convex_hull.buffer(made.shell.clearance + leather.offset, quad_segs=FINE)
    assert made.value("keeper.girth") == pytest.approx(grown.length, abs=0.05)
    inner, outer = sorted(f.y for f in made.piece("keeper").fittings)
    turned = (outer - inner - grown.length) / keeper.thickness  # by which it is longer, climbing over its own end
    assert 15.0 / 30.0 < turned < np.pi  # the overlap to its button on this side, on so round a handle
    assert made.tab is not None
    low, high = made.value("mouth.y") + made.value("keeper.width") / 2, made.tab.begins
    girths = loft.sections(np.linspace(low + 3, high - made.value("keeper.width") / 2, 60)).girth()
    assert loft.sections(np.array([at])).girth()[0] <= girths.min() + 0.05
    on_back = made.piece("body").holes_of("keeper row 1", "back")
    assert (on_back[:, 1] > made.value("mouth.y")).all()
    assert len(on_back) == len(made.piece("keeper").holes_of("keeper row 1", "tab"))


@pytest.mark.parametrize("name", ["shears", "spar-hook", "whetstone"])
def test_a_back_that_stands_higher_holds_a_keeper_round_the_object(name: str) -> None:
    _, plain = made_with(name)
    _, made = made_with(name, back__above="26", keeper__way="round", mouth__y=f"{plain.value('mouth.y') - 30}")
    mouth = made.value("mouth.y")
    back = next(p for p in made.pieces if p.name in ("back", "back blank"))
    front = next(p for p in made.pieces if p.name in ("front", "front blank"))
    form = made.reasons["mould.margin"].value if back.name == "back blank" else 0.0
    assert back.cut[:, 1].max() == pytest.approx(mouth + 26 + form, abs=0.6)
    assert front.cut[:, 1].max() < mouth + 8
    rows = back.holes_of("keeper row 1", "back")
    assert ((rows[:, 1] > mouth) & (rows[:, 1] < mouth + 26)).all()
    assert len(rows) == made.seam("keeper row 1").count
    assert [part.name for part in made.lying if part.behind] == ["back above the mouth"]
    assert (
        made.seam("main").count == made_with(name, mouth__y=f"{mouth}")[1].seam("main").count
    )  # the seam is as it was


@pytest.mark.parametrize(
    ("name", "pinned", "said"),
    [
        ("eaves-blade", {"keeper.way": "over", "loop.landing": "back"}, "loop out of the back stands where"),
        ("eaves-blade", {"keeper.way": "round", "loop.rise": "7"}, "too little for a keeper"),
        ("spar-hook", {"keeper.way": "round", "back.above": "0"}, "no leather stands above the mouth"),
        ("shears", {"keeper.way": "over", "flap.closing": "plain"}, "cannot both"),
        ("shears", {"strap.buckle": "buckle 38"}, "too narrow for two rings"),
        ("shears", {"loop.landing": "clip", "belt.width": "50"}, "takes a belt up to 45"),
        ("shears", {"loop.landing": "slots", "slots.width": "3"}, "does not take a belt 4 mm thick"),
        ("shears", {"loop.landing": "slots", "slots.length": "40"}, "does not take a belt 40 mm wide"),
        ("eaves-blade", {"keeper.way": "round", "loop.rise": "45", "keeper.at": "20"}, "lies on the case"),
    ],
)
def test_what_cannot_be_is_said_in_one_sentence(name: str, pinned: dict[str, str], said: str) -> None:
    with pytest.raises(InputError, match=said):
        made_with(name, **{k.replace(".", "__"): v for k, v in pinned.items()})


def test_what_goes_over_or_round_is_made_room_for_where_nothing_is_pinned() -> None:
    """A flap rises where the loop out of the back would, which is sewn on then; a keeper has leather to stand on."""
    flapped, made = made_with("eaves-blade", flap__closing="snap 10")
    assert flapped.settings.word("loop.landing") == "sewn"
    assert made.tab is None
    assert flapped.typed("flap.closing", "none").settings.word("loop.landing") == "back"
    for name in ("eaves-blade", "spar-hook"):
        _, made = made_with(name, keeper__way="round")
        low = made.value("keeper.at") - made.value("keeper.width") / 2
        top = made.value("mouth.y") + made.value("back.above") if made.tab is None else made.tab.begins
        assert low >= made.value("mouth.y") + 2.9
        assert low + made.value("keeper.width") <= top + 0.1


def test_a_flap_covers_the_mouth_and_its_reach_lengthens_it() -> None:
    _, made = made_with("whetstone", flap__closing="snap 10")
    _, longer = made_with("whetstone", flap__closing="snap 10", flap__reach=f"{made.value('flap.reach') + 10}")
    assert longer.value("flap.length") - made.value("flap.length") == pytest.approx(10.0, abs=0.3)
    (lies,) = made.lying
    assert np.ptp(lies.outline[:, 0]) == pytest.approx(np.ptp(made.plan.outline[:, 0]), rel=0.1)
    assert lies.outline[:, 1].min() < made.value("mouth.y") - made.value("flap.reach") * 0.8
    front = next(p for p in made.pieces if p.name == "front")
    assert [f.name for f in front.fittings] == ["snap 10"]


@pytest.mark.parametrize("webbing", [False, True])
def test_a_strap_folded_once_is_as_wide_as_asked(webbing: bool) -> None:
    found = folded(LEATHER, 25.0, 2, webbing)
    radius = max(LEATHER.inside_radius, 0.6 if webbing else 0.0)
    leg = 25.0 - radius - LEATHER.thickness
    line = LineString([(0, 0), (leg, 0)]).buffer(radius + LEATHER.offset, quad_segs=FINE).exterior
    ring = Point(0, 0).buffer(radius + LEATHER.offset, quad_segs=FINE).exterior
    assert found.width == pytest.approx(line.length - ring.length / 2, abs=0.05)
    assert found.folds == pytest.approx([found.width / 2])
    assert np.ptp(found.gullies[0]) == pytest.approx(ring.length / 2, abs=0.05)


def test_a_strap_folded_like_a_letter_has_its_legs_within_its_width() -> None:
    """Laid out again from its folds: no leg goes past the fold on the other side."""
    found = folded(LEATHER, 30.0, 3)
    inner, middle, outer = (
        found.gullies[0, 0],
        found.gullies[1, 0] - found.gullies[0, 1],
        found.width - found.gullies[1, 1],
    )
    crests = [LEATHER.inside_radius + LEATHER.thickness, 1.5 * LEATHER.thickness + LEATHER.inside_radius]
    assert middle + sum(crests) == pytest.approx(30.0)
    assert inner < middle + crests[1] - LEATHER.thickness
    assert outer == pytest.approx(middle + crests[0])
    with pytest.raises(InputError, match="too narrow"):
        folded(LEATHER, 6.0, 3)
    with pytest.raises(InputError, match="two or three"):
        folded(LEATHER, 30.0, 4)


def test_a_wrap_meets_round_its_handle() -> None:
    ring = Point(0, 0).buffer(9.0 + LEATHER.offset, quad_segs=FINE).exterior
    assert wrapped_round(LEATHER, 18.0) == pytest.approx(ring.length - 0.5, abs=0.01)


def test_holes_by_which_a_strap_is_let_out_are_even() -> None:
    row = hole_row(700.0, 60.0, 130.0, 25.0)
    assert (row[0], row[-1]) == (60.0, 190.0)
    assert np.diff(row) == pytest.approx(26.0)
    with pytest.raises(InputError, match="do not fit"):
        hole_row(300.0, 60.0, 130.0, 25.0)


def test_a_shoulder_strap_is_as_long_as_asked_and_soft_leather_has_webbing_in_it() -> None:
    _, made = made_with("whetstone", strap__buckle="buckle 20", strap__length="1000")
    names = [p.name for p in made.pieces]
    assert {"shoulder strap webbing", "buckle strap webbing", "right tab", "left tab"} < set(names)
    long, short = made.piece("shoulder strap"), made.piece("buckle strap")
    leather = made.shell.leather
    turn, deep = half_round(leather, 3.0, 3.0)  # of leather from a wire to where its legs meet, and how far that is
    met = 16.0 + 2 * turn
    buckled = np.ptp(short.cut[:, 1]) - 2 * met + 2 * deep  # from wire to wire, drawn straight
    reaches = sorted(buckled + deep + f.y - met for f in long.fittings)
    assert (reaches[0], reaches[-1]) == (pytest.approx(1000.0), pytest.approx(1150.0))  # ring to ring, let out or not
    assert max(f.y for f in long.fittings) == pytest.approx(long.cut[:, 1].max() - 60.0)
    slots = [Polygon(ring) for ring in short.openings]  # the prong comes through both legs, at the buckle's bar
    assert len(slots) == 2
    for slot in slots:
        assert slot.centroid.y == pytest.approx(short.cut[:, 1].max() - 16.0 - turn)
        assert np.ptp(np.asarray(slot.exterior.coords)[:, 0]) > 3.0
        assert Polygon(short.cut).buffer(-2.0).contains(slot)
        assert not any(slot.buffer(2.0).contains(Point(h.x, h.y)) for h in short.holes)
    assert slots[0].centroid.x == pytest.approx(-slots[1].centroid.x)
    firm = made_with("radio", strap__buckle="buckle 20")[1]
    assert "shoulder strap webbing" not in [p.name for p in firm.pieces]


def test_a_long_strap_is_drawn_short_with_its_ends_true() -> None:
    _, made = made_with("whetstone", strap__buckle="buckle 20")
    whole = made.piece("shoulder strap")
    drawn = shortened(whole)
    out = np.ptp(whole.cut[:, 1]) - np.ptp(drawn.cut[:, 1])
    assert np.ptp(drawn.cut[:, 1]) < 420
    for a, b in zip(whole.holes, drawn.holes, strict=True):
        assert b.y in (pytest.approx(a.y), pytest.approx(a.y - out))
    assert [a.y - b.y for a, b in zip(whole.fittings, drawn.fittings, strict=True)] == pytest.approx(
        [out] * 14
    )  # each hole through both its legs
    assert any(f"{np.ptp(whole.cut[:, 1]):.0f} mm long" in m.text for m in drawn.marks)
    assert shortened(made.piece("front")) is made.piece("front")


def test_metal_weighs_as_much_as_its_caps() -> None:
    job, made = made_with("eaves-blade", seam__rivets="rapid rivet 7")
    bare = replace(made, pieces=tuple(replace(p, fittings=()) for p in made.pieces))
    more = made_up(job.settings, made).mass - made_up(job.settings, bare).mass
    caps = [f.cap for p in made.pieces for f in p.fittings]
    assert caps
    assert more == pytest.approx(sum(np.pi / 4 * cap**2 * 1.6 * 8.5 / 1000 for cap in caps))  # mm of brass, 8.5 g/cm³


# All of them together


CHOICES = {
    "loop.landing": ("back", "handle", "sewn", "slots", "ear", "dangler", "clip", "none"),
    "keeper.way": ("none", "over", "round"),
    "keeper.button": ("snap 10", "stud 8"), "flap.closing": ("none", "plain", "snap 12"),
    "strap.buckle": ("none", "buckle 20"), "seam.rivets": ("none", "rapid rivet 7"),
    "seam.lanyard": ("none", "grommet 5"), "carry.side": ("strong", "cross"), "hand": ("right", "left"),
}  # fmt: skip


@given(
    st.fixed_dictionaries({k: st.sampled_from(v) for k, v in CHOICES.items()}),
    st.sampled_from(["eaves-blade", "shears", "whetstone"]),
)
@settings(max_examples=about(40), deadline=None)
def test_any_parts_together_make_a_whole_draft_or_one_sentence(pinned: dict[str, str], name: str) -> None:
    job = replace(case(name), name="Parts")
    job = replace(job, settings=job.settings.release("mould.method"))  # taut is quick to draft
    for key, text in pinned.items():
        job = job.typed(key, text)
    outcome = work_out(job)
    made = outcome.made
    if made is None:
        assert outcome.error is not None
        assert "at fault" not in str(outcome.error)
        return
    for piece in made.pieces:
        leather = Polygon(piece.cut)
        assert leather.is_valid, piece.name
        assert all(leather.buffer(-2).contains(Polygon(ring)) for ring in piece.openings)
        assert all(leather.contains(Point(h.x, h.y)) for h in piece.holes), piece.name
        assert all(leather.contains(Point(f.x, f.y).buffer(f.hole / 2)) for f in piece.fittings), piece.name
    for seam in made.seams:
        counts = [len(p.holes_of(seam.name, e)) for p in made.pieces for e in seam.edges]
        assert {n for n in counts if n} == {seam.count}, seam.name
    assert judge(job, made)


def test_a_table_of_trimmings_says_what_is_wrong_with_it() -> None:
    head = "name,kind,inside,wire,wide,rivets\n"
    assert read(head + "ring 9,ring,9,2,12,0\n", "mine.csv")["ring 9"].inside == 9
    for row, said in (("ring 9,ring,wide,2,12,0", "no size"), ("ring 9,ring,-9,2,12,0", "cannot be")):
        with pytest.raises(InputError, match=said):
            read(head + row + "\n", "mine.csv")
