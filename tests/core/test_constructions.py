"""Constructions: each put together again from its flat pieces by another way, to see that what it holds fits."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
import shapely
from shapely.geometry import LineString, Point, Polygon, box

from tailor import demo
from tailor.core.carried.stations import Shape, Station
from tailor.core.carried.zones import Zone, ZoneKind
from tailor.core.draft import styles
from tailor.core.draft.draft import Fitted
from tailor.core.draft.styles.mask import way_of_tie
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tests.reports import FINE, bend, claims, holes, piece, reported, run_of, settled

# From the report alone


@pytest.mark.parametrize("name", demo.names())
def test_every_demo_job_is_whole_by_its_report(name: str) -> None:
    found = reported(name)
    assert {"parts", "hardware", "edges_first", "pieces", "seams"} <= set(found)
    assert not [c for c in found["checks"] if c["verdict"] == "stop"]
    for one in found["pieces"]:
        cut = Polygon(one["cut"])
        assert cut.is_valid, one["name"]
        assert cut.exterior.is_simple
        assert one["face"] == "grain"
        assert one["count"] >= 1
        for hole in one["holes"]:
            least = 0.9 if one["name"] == "welt" else 1.4  # a welt is trimmed with what it is glued to
            assert cut.exterior.distance(Point(hole["x"], hole["y"])) > least, one["name"]
        for fitting in one["fittings"]:
            assert cut.contains(Point(fitting["x"], fitting["y"]).buffer(fitting["hole"] / 2)), (one["name"], fitting)
    for seam in found["seams"]:
        pierced = [h["edge"] for p in found["pieces"] for h in p["holes"] if h["seam"] == seam["name"]]
        assert pierced
        assert {pierced.count(edge) % seam["count"] for edge in set(pierced)} == {0}, seam["name"]
        assert seam["thread"] > 2 * seam["length"]


@pytest.mark.parametrize("name", demo.names())
def test_every_seam_is_marked_on_one_edge_where_the_rest_is_pierced_through(name: str) -> None:
    every, marked = (draft(demo.job(name).typed("stitch.marks", how)) for how in ("all", "front"))
    for seam in every.seams:
        holes = [(p.name, h) for p in marked.pieces for h in p.holes if h.seam == seam.name]
        assert {h.edge for _, h in holes} == {seam.edges[0]}
        assert len(holes) % seam.count == 0
        assert {h for _, h in holes} <= {h for p in every.pieces for h in p.holes}


@pytest.mark.parametrize("name", demo.names())
def test_every_piece_says_what_it_is_which_face_and_which_way_up(name: str) -> None:
    for one in draft(demo.job(name)).pieces:
        kinds = {m.kind for m in one.marks}
        assert "title" in kinds, one.name
        if one.leather == "body":
            said = " ".join(m.text for m in one.marks)
            assert {"face", "top"} <= kinds
            assert "grain side up" in said
            assert f"cut {one.count}" in said


def test_every_construction_is_a_file_with_a_demo_job() -> None:
    assert {demo.job(name).style for name in demo.names()} == set(styles.names())
    assert len({styles.style(name).said for name in styles.names()}) == len(styles.names())


# Room inside, put together again


def test_a_slip_case_goes_round_its_stone() -> None:
    found = reported("whetstone")
    thick, _, offset = bend(found)
    lining, clear, give = (
        settled(found, "lining.thickness"),
        settled(found, "fit.clearance"),
        settled(found, "panel.give"),
    )
    across = np.ptp(holes(found, "front", "main", "front")[:, 0]) / (1 - give)
    stone = box(-21.0, -8.5, 21.0, 8.5).buffer(4.0 + clear + lining, quad_segs=FINE)  # its corners are round, 4 mm
    steep = np.radians(50.0)  # as soft leather comes down
    end = 21.0 + (8.5 - lining) / np.tan(steep) + (4.0 + clear + lining) / np.sin(steep)  # down on its lining
    stitch = end + 1.5
    hull = shapely.union_all([stone, LineString([(-end, lining), (end, lining)])]).convex_hull
    level = LineString([(-stitch, lining), (stitch, lining)])
    whole = shapely.union_all([hull.buffer(offset, quad_segs=FINE), level.buffer(offset, quad_segs=FINE)])
    over = whole.exterior.intersection(box(-stitch, lining, stitch, 99))
    assert across == pytest.approx(over.length, abs=0.2)
    assert thick == 1.8
    lined = piece(found, "front lining")["cut"]
    assert Polygon(lined).buffer(1e-6).contains(Polygon(piece(found, "front")["cut"]))


def wall(found: dict[str, Any], name: str, panel: str, seam: str) -> tuple[float, float]:
    """A gusset's edge folded up again: how far inside the stitch line its wall's inner face stands, and how deep it is
    between the panels. By laying its neutral line round a quarter turn.
    """
    thick, radius, offset = bend(found)
    folds = sorted(line[0][0] for line in piece(found, name)["folds"])
    stitched = sorted({round(h["x"], 3) for h in piece(found, name)["holes"] if h["seam"] == seam})
    quarter = np.pi / 2 * (radius + thick - offset)
    flat = abs(stitched[0]) - folds[1] - quarter
    return flat + radius + thick, 2 * (folds[1] + radius + thick)


def test_a_padded_box_has_the_room_that_was_asked_for() -> None:
    found = reported("laser-level")
    foam, clear = settled(found, "foam.thickness"), settled(found, "fit.clearance")
    inset, deep = wall(found, "gusset", "front", "front seam")
    across = np.ptp(holes(found, "front", "front seam", "panel")[:, 0]) - 2 * inset - 2 * foam
    assert across == pytest.approx(80 + 2 * clear, abs=0.2)
    assert deep - 2 * foam == pytest.approx(88 + 2 * clear, abs=0.2)
    assert across < np.ptp(holes(found, "front", "front seam", "panel")[:, 0]) - 2 * (foam + 2.0)


@pytest.mark.parametrize(
    ("name", "strip", "panel", "seam", "edge"),
    [("laser-level", "gusset", "front", "front seam", "front"), ("kit-bag", "body", "left cap", "left seam", "left")],
)
def test_a_gusset_is_as_long_as_the_angle_makes_it(name: str, strip: str, panel: str, seam: str, edge: str) -> None:
    """Round both corners its wall lies further in: shorter by the half turn times how far."""
    found = reported(name)
    thick, _, offset = bend(found)
    label = "cap" if name == "kit-bag" else "panel"
    on_panel, on_strip = holes(found, panel, seam, label), holes(found, strip, seam, edge)
    assert len(on_panel) == len(on_strip)
    inset, _ = wall(found, strip, panel, seam)
    radius = settled(found, "panel.corner")
    further = -(inset - offset)
    straight = np.abs(np.diff(on_strip[:, 1])).sum()
    assert straight == pytest.approx(run_of(on_panel, radius) + np.pi * further, abs=0.1)
    assert thick > 0


def test_a_slip_case_may_take_its_width_from_a_loop_of_leather() -> None:
    """Half of the loop from seam to seam, less what soft leather gives; the room is what the loop leaves."""
    loop = reported("whetstone", "panel.lining=none", "panel.loop=180")
    across = np.ptp(holes(loop, "front", "main", "front")[:, 0])
    assert across == pytest.approx(180 / 2 * (1 - settled(loop, "panel.give")), abs=0.05)
    (room,) = (r["value"] for r in loop["reasons"] if r["name"] == "panel.room")
    assert loop["inside"] == pytest.approx([50 + 2 * room, 150 + 2 * room, 25 + 2 * room])
    asked = reported("whetstone", "panel.lining=none", f"fit.clearance={room}")
    assert np.ptp(holes(asked, "front", "main", "front")[:, 0]) == pytest.approx(across, abs=0.05)
    assert claims("whetstone", panel__lining="none", panel__loop="200")["Snug enough to stay in"] == "stop"


@pytest.mark.parametrize(("name", "seam", "pieces"), [("laser-level", "front seam", ("front", "gusset")),
                                                       ("kit-bag", "left seam", ("left cap", "body"))])  # fmt: skip
def test_a_gusset_is_sewn_from_the_middle_of_the_bottom_outward(name: str, seam: str, pieces: tuple[str, str]) -> None:
    """A hole lies in the very middle on both, with a stroke across the edge beside it."""
    made = draft(demo.job(name))
    for cut in map(made.piece, pieces):
        edge = next(h.edge for h in cut.holes if h.seam == seam)
        line = cut.holes_of(seam, edge)
        assert len(line) % 2 == 1
        middle = line[len(line) // 2]
        assert middle - line[0] == pytest.approx((line[-1] - middle) * ([1, -1] if cut.name == pieces[0] else [1, 1]))
        strokes = [m for m in cut.marks if m.kind == "register"]
        assert min(np.hypot(m.x - middle[0], m.y - middle[1]) for m in strokes) < 4.0


def test_a_gusset_turned_in_lies_outside_its_stitch_line() -> None:
    out, inward = reported("laser-level"), reported("laser-level", "gusset.flange=in")
    longer = [np.ptp(np.array(piece(f, "gusset")["cut"])[:, 1]) - run_of(holes(f, "front", "front seam", "panel"), 12.0)
              for f in (out, inward)]  # fmt: skip
    assert longer[1] > longer[0]
    stitches = [np.ptp(holes(f, "front", "front seam", "panel")[:, 0]) for f in (out, inward)]
    assert stitches[1] < stitches[0]  # the same room inside, with the stitches inside the wall
    assert inward["inside"] == out["inside"]


@pytest.mark.parametrize("radius", [60.0, 140.0, 400.0])
def test_a_mask_follows_the_curve_of_its_bit_and_its_tie_goes_round_the_handle(radius: float) -> None:
    half = 45.0
    rise = radius - np.sqrt(radius**2 - half**2)
    low = np.linspace(0.02, rise, 14)
    rows = [
        Station(y, -w, w, 0.6 + y / 8, 0.6 + y / 8, Shape.SLAB)
        for y, w in zip(low, np.sqrt(radius**2 - (radius - low) ** 2), strict=True)
    ]
    rows += [Station(rise + 60, -25, 25, 10, 10, Shape.SLAB), Station(rise + 70, -12, 12, 9, 9, Shape.OVAL),
             Station(rise + 200, -12, 12, 9, 9, Shape.OVAL)]  # fmt: skip
    job = Job(
        "Head", "mask", tuple(rows), (Zone(ZoneKind.EDGE, 0, rise + 1), Zone(ZoneKind.GRIP, rise + 80, rise + 200))
    )
    made = draft(job)
    assert not [v for v in judge(job, made) if v.ruling == "stop"]
    turn = np.linspace(-1, 1, 400) * np.arcsin(0.9 * half / radius)
    bit = LineString(np.column_stack([radius * np.sin(turn), radius - radius * np.cos(turn)]))
    inner = made.shell.seam.region.exterior
    beside = shapely.distance(shapely.points(np.asarray(bit.coords)[::20]), inner)
    assert np.ptp(beside) < 0.5  # it follows the bit
    assert beside.min() > job.settings.number("fit.edge") - 0.3  # between stations the table is not quite the arc
    stitch = LineString(made.plan.stitch)
    assert bit.distance(stitch) > 13.5  # so much welt stands between the bit and the thread
    welt = Polygon(made.plan.strip)
    assert welt.buffer(0.1).contains(stitch.intersection(box(-999, -999, 999, made.value("mouth.y") - 1)))
    assert Polygon(made.plan.outline).area < 0.95 * Polygon(made.plan.outline).envelope.area  # it is no rectangle
    run = way_of_tie(job.settings, made, made.value("tie.width"), made.shell.leather)
    way = run.sides[1] - run.end
    girth = job.loft.sections(float(run.sides[0, 1])).girth()[0]
    assert made.value("tie.length") > 2 * np.hypot(*way) + 0.5 * girth
    holes = {s.name: s.count for s in made.seams}
    assert (holes["tie row"], holes["tuck row 1"]) == (3, 3)


def test_a_holster_may_be_folded() -> None:
    made = draft(demo.job("stapler").typed("holster.made", "folded"))
    assert isinstance(made, Fitted)
    assert made.plan.fold is not None
    assert {"body", "welt", "belt plate"} == {p.name for p in made.pieces}


def test_a_pull_tab_goes_under_and_a_lining_lies_inside_the_bends() -> None:
    stone = reported("whetstone", "pull.tab=under")
    tab = np.ptp(np.array(piece(stone, "pull tab")["cut"]), axis=0)
    room = 2 * settled(stone, "fit.clearance")
    assert tab[1] == pytest.approx(2 * (150 + room) + 25 + room + 30, abs=0.01)
    book = reported("site-book", "panel.lining=lined")
    cover, lining = (np.ptp(np.array(piece(book, name)["cut"]), axis=0) for name in ("cover", "lining"))
    feather = settled(book, "lining.feather")
    assert lining[1] - cover[1] == pytest.approx(2 * feather)
    # Half a turn nearer to the inside, from the middle of the cover to that of the lining:
    assert cover[0] + 2 * feather - lining[0] == pytest.approx(np.pi * (1.8 + 0.8) / 2, abs=1e-4)


def test_a_soft_strap_can_have_a_pad() -> None:
    padded = reported("laser-level", "strap.pad=6")
    pad, foam = (np.ptp(np.array(piece(padded, f"shoulder pad{n}")["cut"]), axis=0) for n in ("", " foam"))
    assert (foam < pad - 8).all()
    assert piece(padded, "shoulder pad foam")["thickness"] == 6
    assert piece(padded, "shoulder pad foam")["leather"] == "foam"


def test_a_holster_wants_a_trigger_and_covers_it() -> None:
    job = demo.job("stapler")
    assert any(v.name.startswith("Trigger") or "trigger" in v.name.lower() for v in judge(job, draft(job)))
    with pytest.raises(InputError, match="no trigger is marked"):
        draft(replace(job, zones=()))
