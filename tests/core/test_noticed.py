"""What small changes in the code once went unnoticed by: each is looked at here from outside."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import shapely
from shapely.geometry import LineString, Point, Polygon

from tailor import demo
from tailor.core.carried.calipers import parse_line
from tailor.core.carried.stations import Shape, Station
from tailor.core.draft.draft import Fitted
from tailor.core.draft.stitch.marking import marking_strips
from tailor.core.draft.views.section import section
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.demo import captures
from tailor.files import panels
from tests.lofts import CASES, case


def fittings(made: Fitted, name: str) -> list[Point]:
    return [Point(f.x, f.y) for f in made.piece(name).fittings]


@pytest.mark.parametrize("name", ["eaves-blade", "whetstone"])
def test_a_lanyard_hangs_at_the_toe(name: str) -> None:
    job = case(name).typed("seam.lanyard", "grommet 5")
    if name == "eaves-blade":  # where there is no room for it as it is
        assert not draft(job).hardware[0].found
        job = job.typed("welt.width", "26mm").typed("seam.stitch_inset", "16mm")
    made = draft(job)
    assert [h.found for h in made.hardware] == [True]
    for piece in made.pieces:
        edges = [holes for e in ("front", "welt", "back") if len(holes := piece.holes_of("main", e))]
        assert len(fittings(made, piece.name)) == len(edges)
        for spot, holes in zip(fittings(made, piece.name), edges, strict=True):
            level = holes[holes[:, 1] < holes[:, 1].min() + 0.5]
            foot = holes[-4] if made.plan.fold is not None else level.mean(axis=0)
            assert np.hypot(*(foot - [spot.x, spot.y])) < 13  # where there is room, no further than a dozen mm


def test_front_and_back_get_a_strip_each_where_they_differ() -> None:
    made = draft(case("eaves-blade").typed("fold.uneven", "0.8"))
    strips = marking_strips(made)
    assert {strip.name.split()[1] for strip in strips} == {"front", "back"}
    for side, of in (("front", made.front), ("back", made.back)):
        runs = [np.sort([h.y for h in s.holes])[::-1] for s in strips if s.name.split()[1] == side]
        steps = np.concatenate([-np.diff(run) for run in runs])
        assert steps == pytest.approx(np.diff(of.holes.at), abs=1e-9)
    alike = marking_strips(draft(case("eaves-blade")))
    assert {strip.name.split(" ", 1)[1].rsplit(" ", 1)[0] for strip in alike} == {"front and back"}


def test_the_slice_of_a_back_unlike_its_front_shows_its_own_height() -> None:
    rows = tuple(Station(y, 0, 40, 6.0, 15.0, Shape.SLAB, 3.0) for y in (0.0, 60.0, 120.0))
    job = Job("Unlike", "two-panel", rows).typed("object.sharp", "none")
    for method in ("taut", "fingers"):
        made = draft(job.typed("mould.method", method))
        cut = section(made, 60.0, made.shell.clearance)
        thick, room = made.shell.leather.thickness, made.shell.clearance
        assert cut.front[:, 1].max() == pytest.approx(6.0 + room + thick, abs=0.05)
        assert cut.back[:, 1].min() == pytest.approx(-(15.0 + room + thick), abs=0.05)
        assert cut.back_path > cut.front_path + 6


def test_a_caliper_may_speak_in_centimetres() -> None:
    assert parse_line("2.54 cm") == pytest.approx(25.4)
    assert parse_line("+1.000 in") == pytest.approx(25.4)
    assert parse_line("01A+0012.34") == pytest.approx(12.34)


@pytest.mark.parametrize("name", CASES)
def test_what_is_sewn_over_the_top_has_its_stitches_within_the_back(name: str) -> None:
    made = draft(case(name).typed("loop.landing", "none").typed("keeper.way", "over"))
    seam = next(s.name for s in made.seams if s.name.startswith("keeper"))
    piece = next(p for p in made.pieces if p.name != "keeper" and len(p.holes_of(seam, "back")))
    holes = piece.holes_of(seam, "back")
    leather = Polygon(piece.cut)
    main = [Point(h.x, h.y) for h in piece.holes if h.seam == "main"]
    for spot in map(Point, holes):
        assert leather.contains(spot.buffer(2.0))
        assert all(spot.distance(other) > 2.0 for other in main)
    strap = made.piece("keeper")
    for snap in fittings(made, "keeper"):
        assert Polygon(strap.cut).contains(snap.buffer(4.0))
    on_front = [f for p in made.pieces if p.name not in ("keeper", piece.name) or p.name == "body" for f in p.fittings]
    assert on_front  # the other half of its button


def test_a_keeper_round_the_object_stands_on_the_leather_above_the_mouth() -> None:
    job = case("shears").typed("back.above", "45mm").typed("keeper.way", "round")
    made = draft(job)
    at, wide = made.value("keeper.at"), made.value("keeper.width")
    mouth, above = made.value("mouth.y"), made.value("back.above")
    assert mouth < at - wide / 2
    assert at + wide / 2 < mouth + above
    girth = LineString(made.shell.loft.outline(0.0)).length if hasattr(made.shell.loft, "outline") else 0.0
    assert made.value("keeper.length") > girth
    with pytest.raises(InputError, match="no leather stands above the mouth"):
        draft(case("shears").typed("keeper.way", "round").typed("back.above", "0mm"))


def test_the_worst_channel_of_a_roll_is_judged() -> None:
    job = demo.job("marking-gauge").typed("tools.sizes", "9;9;9;30")
    said = {v.name: v for v in judge(job, draft(job))}["Channels bow over their tools"]
    each = [
        {v.name: v for v in judge(one, draft(one))}["Channels bow over their tools"].value
        for one in (job.typed("tools.sizes", f"{size}") for size in (9, 30))
    ]
    assert said.value == pytest.approx(min(each), abs=1e-6)
    assert each[0] != pytest.approx(each[1], abs=1e-3)


def test_panels_come_from_a_file_by_what_its_suffix_says(tmp_path: Path) -> None:
    (tmp_path / "a.svg").write_text(captures.drawing())
    drawn = panels.read(tmp_path / "a.svg", 3.0)
    (tmp_path / "A.TIF").write_bytes(captures.scan())
    (scanned,) = panels.read(tmp_path / "A.TIF", 3.0)
    assert len(drawn) >= 1
    assert Polygon(scanned).area > 500
    for name in ("a.stl", "a.csv", "a"):
        (tmp_path / name).write_bytes(b"x")
        with pytest.raises(InputError, match="neither a drawing nor a picture"):
            panels.read(tmp_path / name, 3.0)


@pytest.mark.parametrize("name", ["eaves-blade", "shears", "radio"])
def test_a_draft_that_sets_out_from_another_ends_where_it_would_have(name: str) -> None:
    job = case(name)
    other = job.typed("fit.clearance", "1.4mm")
    cold, warm = draft(other), draft(other, draft(job))
    for one, same in zip(cold.pieces, warm.pieces, strict=True):
        assert shapely.hausdorff_distance(Polygon(one.cut), Polygon(same.cut)) < 0.02
        assert len(one.holes) == len(same.holes)
    assert {v.name: v.ruling for v in judge(other, cold)} == {v.name: v.ruling for v in judge(other, warm)}


def test_a_loop_out_of_the_back_is_sewn_between_its_own_edges() -> None:
    made = draft(replace(case("eaves-blade"), name="Loop"))
    assert made.tab is not None
    tab = made.tab
    assert tab.right - tab.left == pytest.approx(made.value("loop.width"), abs=1e-9)
    assert (tab.left + tab.right) / 2 == pytest.approx(tab.middle)
    assert tab.left + tab.inset == pytest.approx(float(tab.places[0]), abs=1e-6)  # as far in on either side
