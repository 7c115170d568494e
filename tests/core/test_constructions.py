"""Constructions: each put together again from its flat pieces by another way, to see that what it holds fits."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from functools import cache
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, Polygon, box

from tailor import demo
from tailor.core.carried.block import block
from tailor.core.carried.stations import Shape, Station
from tailor.core.carried.zones import Zone, ZoneKind
from tailor.core.draft import styles
from tailor.core.draft.draft import Fitted
from tailor.core.draft.style import MOULDED, WHAT, WORN, Asked
from tailor.core.draft.styles.mask import way_of_tie
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.outcome import work_out
from tailor.core.picking import guessed, ranked
from tailor.files import report
from tests.sweeps import about

FINE = 256
BUILT = [name for name in demo.names() if not isinstance(draft(demo.job(name)), Fitted)]


@cache
def reported(name: str, *typed: str) -> dict[str, Any]:
    """The report of a demo job as a script reads it, with further settings typed."""
    job = demo.job(name)
    for each in typed:
        job = job.typed(*each.split("=", 1))
    made = draft(job)
    found: dict[str, Any] = json.loads(report.to_text(job, made, judge(job, made)))
    return found


def settled(found: dict[str, Any], key: str) -> float:
    return float(found["job"]["settings"][key])


def piece(found: dict[str, Any], name: str) -> dict[str, Any]:
    return next(p for p in found["pieces"] if p["name"] == name)


def holes(found: dict[str, Any], name: str, seam: str, edge: str) -> np.ndarray:
    return np.array([(h["x"], h["y"]) for h in piece(found, name)["holes"] if (h["seam"], h["edge"]) == (seam, edge)])


def bend(found: dict[str, Any]) -> tuple[float, float, float]:
    """Thickness, inside radius and neutral offset of the leather."""
    thick = settled(found, "leather.thickness")
    return thick, settled(found, "leather.fold_radius") * thick, settled(found, "leather.neutral") * thick


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
    assert straight == pytest.approx(_run(on_panel, radius) + np.pi * further, abs=0.1)
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
    for piece in map(made.piece, pieces):
        edge = next(h.edge for h in piece.holes if h.seam == seam)
        line = piece.holes_of(seam, edge)
        assert len(line) % 2 == 1
        middle = line[len(line) // 2]
        assert middle - line[0] == pytest.approx((line[-1] - middle) * ([1, -1] if piece.name == pieces[0] else [1, 1]))
        strokes = [m for m in piece.marks if m.kind == "register"]
        assert min(np.hypot(m.x - middle[0], m.y - middle[1]) for m in strokes) < 4.0


def _run(points: np.ndarray, radius: float) -> float:
    """A U-shaped stitch line's length by its two ends, its width and its corners."""
    wide, deep = np.ptp(points[:, 0]), np.ptp(points[:, 1])
    return float(2 * deep + wide - 4 * radius + np.pi * radius)


def test_a_gusset_turned_in_lies_outside_its_stitch_line() -> None:
    out, inward = reported("laser-level"), reported("laser-level", "gusset.flange=in")
    longer = [np.ptp(np.array(piece(f, "gusset")["cut"])[:, 1]) - _run(holes(f, "front", "front seam", "panel"), 12.0)
              for f in (out, inward)]  # fmt: skip
    assert longer[1] > longer[0]
    stitches = [np.ptp(holes(f, "front", "front seam", "panel")[:, 0]) for f in (out, inward)]
    assert stitches[1] < stitches[0]  # the same room inside, with the stitches inside the wall
    assert inward["inside"] == out["inside"]


def over_what_lies(long: float, thick: float, offset: float, steep: float) -> float:
    """Leather from seam to seam over half of a thing that lies between two sheets, the shortest line round it."""
    out = long / 2 + thick / 2 / np.tan(np.radians(steep))
    body = box(-long / 2, -thick / 2, long / 2, thick / 2).buffer(offset, quad_segs=FINE)
    seams = [(-out, offset), (out, offset)]
    down = [Point(x, -1e-9).buffer(offset, quad_segs=FINE) for x in (-out, out)]  # as steep from its bend as it comes
    hull = shapely.union_all([body, *down, shapely.MultiPoint(seams)]).convex_hull
    return float(hull.exterior.intersection(box(-out, offset, out, 1e3)).length)


def test_a_cover_goes_once_round_the_closed_book() -> None:
    found = reported("site-book")
    _, radius, offset = bend(found)
    front, back = (holes(found, "cover", f"{s} pocket", f"{s} pocket") for s in ("front", "back"))
    length = front[:, 0].max() - back[:, 0].min()
    inside = found["inside"]
    turned = np.pi * (radius + offset) - 4 * radius  # two quarter turns, in place of four times the radius of straight
    assert length == pytest.approx(2 * inside[0] + inside[2] + turned, abs=0.2)
    assert np.ptp(front[:, 1]) == pytest.approx(over_what_lies(215, 2.5, offset, 35) + 2.0, abs=0.2)
    folds = [line[0][0] for line in piece(found, "cover")["folds"]]
    glue_free = [min(abs(x) for x, _ in rule) for rule in [[(f, 0)] for f in folds]]
    assert min(glue_free) > inside[2] / 2  # the spine stays free


def test_a_document_cover_shuts_over_papers_in_both_its_pockets() -> None:
    """Round the shut cover by polygons: both pockets full, and room in the fold; its seams stop short of the spine."""
    found = reported("delivery-notes")
    thick, radius, offset = bend(found)
    front, back = (holes(found, "cover", f"{s} pocket", f"{s} pocket") for s in ("front", "back"))
    wide, tall, papers = found["inside"]
    space = settled(found, "fold.space")
    shut = 2 * (papers + thick)
    closed = box(0, 0, wide + space / 2 + 50, shut).buffer(-radius).buffer(radius + offset, quad_segs=FINE)
    round_ = closed.exterior.intersection(box(-9, -9, wide + space / 2, 99)).length
    assert front[:, 0].max() - back[:, 0].min() == pytest.approx(round_, abs=0.2)
    assert front[:, 0].min() - back[:, 0].max() > space + shut  # an open spine
    for side in ("front", "back"):
        pocket = np.array(piece(found, f"{side} pocket")["cut"])
        assert np.ptp(pocket[:, 0]) - settled(found, "seam.margin") == pytest.approx(wide)
    lining, cover = (Polygon(piece(found, name)["cut"]) for name in ("lining", "cover"))
    assert lining.bounds[3] - cover.bounds[3] == pytest.approx(settled(found, "lining.feather"))
    assert tall == pytest.approx(over_what_lies(148, papers, offset, 35) + 3, abs=0.2)
    assert wide - 104 == pytest.approx((tall - 148 - 3) / 2 + 3)  # at the seam, and open at the fold
    (stack,) = {s["stack"] for s in found["seams"]}
    assert stack == pytest.approx(2 * thick + 0.8)  # the lining is caught in them
    assert found["job"]["settings"]["panel.lining"] == "lined"  # as is usual for it


def test_a_covers_strap_goes_round_its_fore_edge() -> None:
    """From its outer rivet on the back, round the edge of the closed book, to its button on the front."""
    found = reported("site-book")
    thick, _, offset = bend(found)
    rivets = [
        [f for f in piece(found, name)["fittings"] if f["name"] == "rapid rivet 7"] for name in ("keeper", "cover")
    ]
    keeper, cover = (np.array([(f["x"], f["y"]) for f in part]) for part in rivets)
    assert np.ptp(keeper[:, 1]) == pytest.approx(np.ptp(cover[:, 0]), abs=0.01)  # as far apart on both
    (button,) = [f["y"] for f in piece(found, "keeper")["fittings"] if f["name"] == "snap 10"]
    (stud,) = [f["x"] for f in piece(found, "cover")["fittings"] if f["name"] == "snap 10"]
    wide, _, deep = found["inside"]
    fore = (
        wide + deep / 2 + bend(found)[1] * (np.pi / 2 - 2) + np.pi / 2 * offset
    )  # with half of both turns of the spine
    on_back, on_front = cover[:, 0].min() + fore, fore - stud
    beyond = settled(found, "cover.edge")
    assert button - keeper[:, 1].max() == pytest.approx(
        on_back + on_front + deep + 2 * (beyond + thick) + np.pi * offset, abs=0.2
    )


def test_boxed_corners_give_the_depth_and_the_girth_goes_round() -> None:
    found = reported("spar-bag")
    _, _, offset = bend(found)
    wide, tall, deep = found["inside"]
    ring = np.array(piece(found, "front")["cut"])
    margin = settled(found, "seam.margin")
    step = np.unique(ring[:, 0].round(4))
    square = step[-1] - step[-2]
    corner = np.unique(ring[:, 1].round(4))
    assert corner[1] - corner[0] == pytest.approx(square)  # a square
    sewn_across = 2 * square  # its two edges, opened to one line
    assert sewn_across - np.pi / 2 * offset == pytest.approx(deep, abs=0.2)
    girth = 2 * (np.ptp(ring[:, 0]) - 2 * margin)
    assert girth == pytest.approx(2 * (wide + deep) + 2 * np.pi * offset, abs=0.2)
    middle = shapely.box(0, 0, wide, deep).buffer(-1.5, join_style="mitre")  # of a 3 mm wire against the leather
    (wire,) = (r["value"] for r in found["reasons"] if r["name"] == "rim.wire")
    assert wire == pytest.approx(middle.length + 40)
    down = -(corner[0] + margin)
    board = settled(found, "board.thickness")  # lies in the bottom, and the room is above it
    assert down == pytest.approx(tall + board + deep / 2 + np.pi / 2 * offset, abs=0.2)
    for panel in ("front", "back"):
        for side in ("right", "left"):
            seam = f"{side} corner of the {panel}"
            legs = [holes(found, panel, seam, edge) for edge in ("upright", "level")]
            start = legs[0][0]
            assert [np.hypot(*(a - start)) for a in legs[0]] == pytest.approx(
                [np.hypot(*(a - b)) for a, b in zip(legs[1], [legs[1][0]] * len(legs[1]), strict=True)], abs=0.05
            )


def test_a_soft_bag_is_turned_and_its_gusset_eased() -> None:
    found = reported("ridge-bag")
    _, _, offset = bend(found)
    lower, upper = (holes(found, "front", f"front to the {n}", f"to the {n}") for n in ("gusset", "front zip strip"))
    every = np.vstack([lower, upper])
    assert np.ptp(every, axis=0) - 2 * offset == pytest.approx([280, 190], abs=0.2)
    sides = [holes(found, "gusset", f"{p} to the gusset", p)[:, 0].mean() for p in ("front", "back")]
    assert sides[1] - sides[0] - 2 * offset - 2 * settled(found, "foam.thickness") == pytest.approx(70, abs=0.2)
    strip = piece(found, "front zip strip")
    edge = holes(found, "front zip strip", "front to the front zip strip", "front")[0, 0]
    fold = strip["folds"][0][0][0]
    assert 2 * (fold - edge) + settled(found, "zip.width") == pytest.approx(sides[1] - sides[0], abs=0.2)
    ease, radius = settled(found, "gusset.ease"), settled(found, "panel.corner")
    flat = np.ptp(holes(found, "gusset", "front to the gusset", "front")[:, 1])
    assert flat == pytest.approx((1 - ease) * _run(lower, radius), abs=0.1)
    foam = np.ptp(np.array(piece(found, "front foam")["cut"]), axis=0)
    assert (foam < np.ptp(every, axis=0) - 8).all()


def test_a_tray_folds_up_to_its_floor_and_walls() -> None:
    for how in ("pinched", "slit"):
        found = reported("peg-tray", f"corner.made={how}")
        _, radius, offset = bend(found)
        quarter = np.pi / 2 * (radius + offset)
        tray = piece(found, "tray")
        fold = max(line[0][0] for line in tray["folds"] if line[0][0] == line[1][0])
        assert 2 * (fold - quarter / 2 + radius) == pytest.approx(150, abs=0.2)
        out = np.array(tray["cut"])[:, 0].max()
        wall_up = out - fold - quarter / 2 + radius
        assert wall_up - settled(found, "board.thickness") == pytest.approx(32, abs=0.2)
        floor = np.ptp(np.array(piece(found, "floor")["cut"]), axis=0)
        assert floor == pytest.approx([150 - 2 * radius - 2, 200 - 2 * radius - 2], abs=0.2)
        assert len(tray["fittings"]) == 8
        if how == "pinched":  # folded along the diagonal, one hole comes to lie on the other
            corner = [np.array([abs(f["x"]), abs(f["y"])]) for f in tray["fittings"][:2]]
            ends = [c - np.array([fold, 200 / 2 + quarter / 2 - radius]) for c in corner]
            assert ends[0] == pytest.approx(ends[1][::-1], abs=0.01)


def test_channels_bow_over_their_tools() -> None:
    found = reported("marking-gauge")
    _, _, offset = bend(found)
    tools = [float(v) for v in str(found["job"]["settings"]["tools.sizes"]).split(";")]
    rows = [holes(found, "base", f"row {k}", f"under row {k}")[0, 0] for k in range(1, len(tools) + 2)]
    runs = [holes(found, "channels", f"row {k}", f"row {k}")[0, 0] for k in range(1, len(tools) + 2)]
    apart = settled(found, "tools.apart")
    for k, tool in enumerate(tools):
        flat, over = rows[k + 1] - rows[k] - apart, runs[k + 1] - runs[k] - apart
        radius = tool / 2 + 0.2
        lying = shapely.union_all(
            [Point(0, radius).buffer(radius, quad_segs=FINE), Point(-flat / 2, 0), Point(flat / 2, 0)]
        )
        arch = shapely.union_all([lying.convex_hull.buffer(offset, quad_segs=FINE),
                                  LineString([(-99, 0), (99, 0)]).buffer(offset, quad_segs=FINE)])  # fmt: skip
        path = arch.exterior.intersection(box(-flat / 2, 1e-6, flat / 2, 99))
        assert over == pytest.approx(path.length, abs=0.2)
        assert flat < over


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


@pytest.mark.parametrize("count", [1, 3, 5])
def test_every_card_slides_stands_on_its_seam_and_shows(count: int) -> None:
    """Put together hole on hole: no card stands out of the back, and each shows a step above its pocket."""
    found = reported("crew-cards", f"pocket.count={count}")
    across = np.ptp(holes(found, "back", "main", "back")[:, 0])
    assert across >= 86 + 2.4 + 2.0 - 0.2
    top = np.array(piece(found, "back")["cut"])[:, 1].max()
    feet, brims = [], []
    for k in range(1, count):
        name = f"pocket {k}"
        rows = [(f"foot of {name}", "foot", f"foot {k}"), (f"right arm of {name}", "right", f"right {k}"),
            (f"left arm of {name}", "left", f"left {k}")]  # fmt: skip
        own, under = (np.vstack([holes(found, on, row[0], row[1 + (on == "back")]) for row in rows])
            for on in (name, "back"))  # fmt: skip
        assert np.ptp(own - under, axis=0) == pytest.approx(0.0, abs=1e-6)
        outline = np.array(piece(found, name)["cut"]) + (under - own)[0]
        assert np.ptp(outline[outline[:, 1] < outline[:, 1].min() + 1][:, 0]) < across  # hidden under the next
        feet.append(holes(found, "back", rows[0][0], rows[0][2])[0, 1])
        brims.append(outline[:, 1].max())
    feet.append(holes(found, "back", "main", "back")[:, 1].min())
    brims.append(np.array(piece(found, "front")["cut"])[:, 1].max())
    cards = np.array(feet) + 54.0
    assert cards.max() < top
    assert cards - brims == pytest.approx(settled(found, "pocket.step"), abs=0.2)


def test_a_box_hangs_from_rings_and_its_corners_are_riveted() -> None:
    found = reported("laser-level")
    names = [p["name"] for p in found["pieces"]]
    assert {"right ring tab", "left ring tab", "shoulder strap", "buckle strap"} <= set(names)
    rings = [h for h in found["hardware"] if h["name"] == "d-ring 20"]
    assert len(rings) == 2
    rivets = [h for h in found["hardware"] if h["key"] == "corner.rivet"]
    assert len(rivets) == 4
    assert all(h["found"] and h["post"] for h in rivets)
    panel = piece(found, "front")
    spots = np.array([(f["x"], f["y"]) for f in panel["fittings"] if f["name"] == "rapid rivet 7"])
    line = holes(found, "front", "front seam", "panel")
    assert np.abs(spots[:, 0]).max() == pytest.approx(np.abs(line[:, 0]).max(), abs=0.01)  # in the line of the stitches
    assert spots[:, 1].min() > line[:, 1].max() + 4  # above the first of them
    gusset = np.array([(f["x"], f["y"]) for f in piece(found, "gusset")["fittings"] if f["name"] == "rapid rivet 7"])
    assert sorted(np.round(np.abs(gusset[:, 0]), 6)) == pytest.approx([np.abs(gusset[0, 0])] * 4)
    ends = np.array(piece(found, "gusset")["cut"])[:, 1]
    assert gusset[:, 1].max() - ends.max() == pytest.approx(spots[0, 1] - np.array(panel["cut"])[:, 1].max(), abs=0.01)
    bare = reported("laser-level", "corner.rivet=none", "strap.buckle=none")
    assert not [h for h in bare["hardware"] if h["key"] in ("corner.rivet", "strap.buckle")]


@pytest.mark.parametrize(("name", "through"), [("whetstone", 25 + 1.2 + 2 * 0.8), ("laser-level", 88 + 2 + 12)])
def test_a_flap_goes_over_the_depth_and_its_button_meets_the_other(name: str, through: float) -> None:
    """Laid round the two edges of the top by polygons: a straight over the depth, and a quarter turn at either end."""
    found = reported(name, "flap.closing=snap 10")
    thick, radius, offset = bend(found)
    top = shapely.box(radius, -50, through + thick - radius, -radius).buffer(radius + offset, quad_segs=FINE).exterior
    over = top.intersection(box(-9, -radius, 999, 99)).length
    back, front = (np.array(piece(found, part)["cut"])[:, 1] for part in ("back", "front"))
    reach = settled(found, "flap.reach")
    assert back.max() - front.max() == pytest.approx(over + reach, abs=0.2)
    (stud,) = [f["y"] for f in piece(found, "front")["fittings"] if f["name"] == "snap 10"]
    (button,) = [f["y"] for f in piece(found, "back")["fittings"] if f["name"] == "snap 10"]
    assert button - front.max() - over == pytest.approx(front.max() - stud, abs=0.2)


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


# The picker


@pytest.mark.parametrize(
    ("name", "best"),
    [("stapler", "holster"), ("leggett", "mask"), ("crew-cards", "card-holder"), ("site-book", "book-cover"),
     ("delivery-notes", "document-cover"),
     ("eaves-blade", "folded-sheath"), ("whetstone", "slip-case")],
)  # fmt: skip
def test_what_is_measured_is_recognised_and_suited(name: str, best: str) -> None:
    job = demo.job(name)
    found = ranked(guessed(job.loft, job.zones), job.loft, job.zones)
    assert found[0].style == best
    assert [f.mark for f in found if not f.never] == sorted((f.mark for f in found if not f.never), reverse=True)
    assert all(f.why for f in found)
    assert len(found) == len(styles.names())


@st.composite
def objects(draw: st.DrawFn) -> Job:
    """Anything a crew might bring: a block, a blade, a head, a tool with a trigger."""
    long, wide, thick = (draw(st.floats(low, high)) for low, high in ((60, 320), (18, 240), (1, 90)))
    zones: tuple[Zone, ...] = ()
    if draw(st.booleans()):
        table = block(long, wide, thick, draw(st.floats(0, min(long, wide, thick) / 4))).stations
    else:
        shape = draw(st.sampled_from(list(Shape)))
        shares = draw(st.lists(st.floats(0.3, 1.0), min_size=3, max_size=5))
        table = tuple(
            Station(k * long / (len(shares) - 1), -wide * s / 2, wide * s / 2, thick * s / 2, thick * s / 2, shape)
            for k, s in enumerate(shares)
        )
        kind = draw(st.sampled_from([None, ZoneKind.EDGE, ZoneKind.TRIGGER, ZoneKind.CONTROL]))
        zones = () if kind is None else (Zone(kind, 0.1 * long, 0.4 * long),)
    job = Job("Drawn", styles.FIRST, table, zones)
    return job.typed("leather.thickness", f"{draw(st.floats(1.0, 3.6)):.2f}")


@given(objects(), st.sampled_from(WHAT), st.sampled_from(WORN), st.sampled_from(MOULDED), st.data())
@settings(max_examples=about(40), deadline=None)
def test_whatever_is_picked_drafts_or_says_why_not(
    job: Job, what: str, worn: str, moulded: str, data: st.DataObject
) -> None:
    admissible = [s.style for s in ranked(Asked(what, worn, moulded), job.loft, job.zones) if not s.never]
    for name in data.draw(st.lists(st.sampled_from(admissible), min_size=1, max_size=3, unique=True)):
        whole(replace(job, style=name))


def whole(job: Job) -> None:
    """A draft with no crossing lines, or one clear sentence."""
    outcome = work_out(job)
    if outcome.made is None:
        assert outcome.error is not None
        assert "at fault" not in str(outcome.error), str(outcome.error)
        return
    for one in outcome.made.pieces:
        assert Polygon(one.cut).is_valid, (job.style, one.name)
        assert np.isfinite(one.cut).all()
    for seam in outcome.made.seams:
        counts = [len(p.holes_of(seam.name, e)) for p in outcome.made.pieces for e in seam.edges]
        assert {n for n in counts if n} == {seam.count}


BROKEN: list[tuple[str, str, str]] = [
    ("laser-level", "gusset.flange=in panel.corner=90", "does not fit its sides"),
    ("kit-bag", "gusset.flange=in inside.through=3", "cannot have corners of 0.0 mm"),
    ("kit-bag", "panel.corner=70 inside.up=60", "cannot have corners of 70.0 mm"),
    ("laser-level", "inside.through=5 foam.thickness=0", "taken up by the two turns"),
    ("leggett", "mouth.y=400", "does not cover a head"),
    ("whetstone", "panel.loop=140", "does not go round it"),
]


@pytest.mark.parametrize(("name", "typed", "said"), BROKEN)
def test_measures_that_cannot_be_are_refused_in_a_sentence(name: str, typed: str, said: str) -> None:
    job = demo.job(name)
    for each in typed.split():
        job = job.typed(*each.split("=", 1))
    with pytest.raises(InputError, match=said):
        draft(job)


def claims(name: str, **typed: str) -> dict[str, str]:
    job = demo.job(name)
    for key, text in typed.items():
        job = job.typed(key.replace("__", "."), text)
    return {v.name: v.ruling.value for v in judge(job, draft(job))}


JUDGED: list[tuple[str, dict[str, str], str, Callable[[str], bool]]] = [
    ("whetstone", {"fit__clearance": "3"}, "Snug enough to stay in", lambda r: r == "stop"),
    ("whetstone", {"notch__radius": "0"}, "Thumb gets hold", lambda r: r != "ok"),
    ("site-book", {"pocket__depth": "150"}, "Pockets can be loaded", lambda r: r == "stop"),
    ("site-book", {"pocket__depth": "20"}, "Pockets hold the boards", lambda r: r == "stop"),
    ("delivery-notes", {"pocket__depth": "112"}, "Fold is free of pockets", lambda r: r != "ok"),
    ("delivery-notes", {"pocket__depth": "40"}, "Pockets hold the papers", lambda r: r != "ok"),
    ("laser-level", {"panel__corner": "5"}, "Corner turns with its gusset", lambda r: r != "ok"),
    ("laser-level", {"inside__across": "70"}, "Room inside", lambda r: r == "stop"),
    ("laser-level", {"handle__reach": "60"}, "A hand goes through", lambda r: r == "stop"),
    ("crew-cards", {"pocket__step": "7"}, "Card can be drawn", lambda r: r != "ok"),
    ("peg-tray", {"wall__height": "5"}, "Walls stand by themselves", lambda r: r != "ok"),
    ("leggett", {"mouth__y": "70"}, "Head covered up to its neck", lambda r: r != "ok"),
]


@pytest.mark.parametrize(("name", "typed", "verdict", "holds"), JUDGED)
def test_what_a_maker_spoils_is_told(
    name: str, typed: dict[str, str], verdict: str, holds: Callable[[str], bool]
) -> None:
    assert claims(name)[verdict] == "ok"
    assert holds(claims(name, **typed)[verdict])
