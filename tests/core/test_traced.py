"""From an old one: panels traced, their edges found and joined, their counts and lengths checked."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, Polygon

from tailor import cli, demo
from tailor.core.carried.traced import Panel, Sewn, Traced, corners, runs
from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.together.assembled import Assembled
from tailor.files import job_file, outlines


def box(wide: float, high: float) -> tuple[tuple[float, float], ...]:
    return (0.0, 0.0), (wide, 0.0), (wide, high), (0.0, high)


@given(st.integers(3, 9), st.floats(40, 120), st.floats(0, 6))
def test_edges_run_from_corner_to_corner_and_round_again(sides: int, size: float, turn: float) -> None:
    at = turn + 2 * np.pi * np.arange(sides) / sides
    panel = Panel("any", tuple((float(size * np.cos(a)), float(size * np.sin(a))) for a in at))
    found = runs(panel)
    assert len(found) == (sides if sides < 9 else len(found))
    assert sum(LineString(run).length for run in found) == pytest.approx(Polygon(panel.outline).length, rel=2e-3)
    for run, after in zip(found, [*found[1:], found[0]], strict=True):
        assert run[-1] == pytest.approx(after[0])
    assert found[0][0][1] == pytest.approx(min(y for _, y in panel.outline), abs=1.0)


def test_a_round_panel_is_one_edge() -> None:
    a = np.linspace(0, 2 * np.pi, 90)[:-1]
    panel = Panel("lid", tuple((float(40 * np.cos(t)), float(40 * np.sin(t))) for t in a))
    assert corners(panel.ring) == [0]
    assert len(runs(panel)) == 1


def test_an_edge_may_go_round_corners() -> None:
    traced = Traced((Panel("front", box(60, 100)),))
    run = traced.edge("front 4-2")
    assert LineString(run).length == pytest.approx(260)
    assert run[0] == pytest.approx((0, 100))
    assert run[-1] == pytest.approx((60, 100))


WRONG: list[tuple[tuple[Panel, ...], tuple[Sewn, ...], str]] = [
    ((Panel("a", box(50, 50)), Panel("a", box(60, 60))), (), "two panels have one name"),
    ((Panel("a", box(50, 50)),), (Sewn("s", ("a 1",)),), "two edges or more"),
    ((Panel("a", box(50, 50)),), (Sewn("s", ("a 1", "a 7")),), "a has 4 edges"),
    ((Panel("a", box(50, 50)),), (Sewn("s", ("a 1", "b 1")),), "is no edge of a panel"),
    ((Panel("a", box(50, 50)),), (Sewn("s", ("a 1", "a 2")), Sewn("s", ("a 3", "a 4"))), "two seams have one name"),
]


@pytest.mark.parametrize(("panels", "seams", "said"), WRONG)
def test_what_cannot_be_joined_is_said(panels: tuple[Panel, ...], seams: tuple[Sewn, ...], said: str) -> None:
    with pytest.raises(InputError, match=said):
        Traced(panels, seams)


@pytest.mark.parametrize(
    ("outline", "count", "said"),
    [(((0, 0), (50, 50), (50, 0), (0, 50)), 1, "crosses itself"), (((0, 0), (1, 0)), 1, "hardly there"),
     (box(50, 50), 0, "0 of it cannot be")],
)  # fmt: skip
def test_a_panel_that_is_none_is_said(outline: tuple[tuple[float, float], ...], count: int, said: str) -> None:
    with pytest.raises(InputError, match=said):
        Panel("a", outline, count)


def old(told: str = "cut", gusset: float = 266.0) -> tuple[Job, Draft]:
    job = demo.job("old-pouch").typed("panel.traced", told)
    panels = tuple(Panel(p.name, box(30, gusset) if p.name == "gusset" else p.outline) for p in job.traced.panels)
    job = Job(job.name, job.style, job.stations, settings=job.settings, traced=Traced(panels, job.traced.seams))
    return job, draft(job)


def test_an_old_pouch_is_sewn_again_with_equal_counts() -> None:
    _, made = old()
    for seam in made.seams:
        counts = [len(p.holes_of(seam.name, e)) for p in made.pieces for e in seam.edges]
        assert {n for n in counts if n} == {seam.count}
    front, margin = made.piece("front"), made.value("seam.margin")
    assert Polygon(front.cut).area == pytest.approx(62 * 110, rel=1e-6)
    apart = [Polygon(front.cut).exterior.distance(Point(h.x, h.y)) for h in front.holes]
    assert min(apart) == pytest.approx(margin, abs=0.05)
    steps = np.hypot(*np.diff(front.holes_of("front", "front: front 4-2"), axis=0).T)
    assert np.ptp(steps) < 0.02  # equal, also round its corners
    numbers = {m.text for m in made.piece("back").marks if m.kind == "note"}
    assert numbers == {str(n) for n in range(1, 9)}


def test_a_traced_stitch_line_gets_its_allowance_outside_it() -> None:
    _, cut = old("cut")
    _, stitch = old("stitch")
    margin = stitch.value("seam.margin")
    sizes = [np.ptp(made.piece("front").cut, axis=0) for made in (cut, stitch)]
    assert sizes[1] - sizes[0] == pytest.approx([2 * margin] * 2, abs=0.01)
    inside = Polygon(box(62, 110))
    for hole in stitch.piece("front").holes:
        assert inside.exterior.distance(Point(hole.x, hole.y)) < 1.5  # on the line, but for its rounded corners


def test_edges_that_differ_are_told_by_how_much() -> None:
    rulings = {}
    for gusset in (266.0, 272.0, 300.0):
        job, made = old(gusset=gusset)
        said = {v.name: v for v in judge(job, made)}
        rulings[gusset] = said["Edges of front are of a length"].ruling.value
        assert "Room inside" not in said  # panels alone do not tell
    assert rulings == {266.0: "ok", 272.0: "look", 300.0: "stop"}


def test_with_no_panels_it_says_where_to_take_them_from() -> None:
    job = demo.job("old-pouch")
    with pytest.raises(InputError, match="no panel of an old carrier"):
        draft(Job(job.name, job.style, job.stations))


def test_a_job_keeps_its_panels_and_older_files_open(tmp_path: Path) -> None:
    job, _ = old()
    path = tmp_path / "old.tailor"
    job_file.save(job, path)
    assert job_file.load(path) == job
    text = job_file.to_text(demo.job()).replace('"version": 3', '"version": 2')
    assert job_file.from_text(text).traced == Traced()


def test_panels_are_taken_over_and_sewn_on_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path, drawing = tmp_path / "job.tailor", tmp_path / "panels.svg"
    job_file.save(demo.job("whetstone"), path)
    outlines.write(np.array(box(60, 100)), drawing)
    assert cli.main(["panels", str(path), str(drawing), "--names", "front"]) == 0
    assert cli.main(["panels", str(path), str(drawing)]) == 0
    assert capsys.readouterr().out.split("\n")[:2] == ["front", "panel 1"]
    assert cli.main(["sew", str(path), "round", "front 4-2", "panel 1 4-2"]) == 0
    job = job_file.load(path)
    assert job.style == "from-an-old-one"
    assert draft(job).seam("round").count > 40
    assert cli.main(["sew", str(path), "again", "front 9", "panel 1 1"]) == 2
    assert "front has 4 edges" in capsys.readouterr().err


def test_traced_panels_are_put_together_by_their_seams() -> None:
    """A leaning panel and its fellow, each seen from its grain, go on one another; a strip goes round a panel."""
    leaning = Panel("leaning", ((0.0, 0.0), (60.0, 0.0), (80.0, 90.0), (0.0, 110.0)))
    fellow = Panel("fellow", tuple((-x, y) for x, y in leaning.outline))
    two = replace(
        demo.job("old-pouch"), traced=Traced((leaning, fellow), (Sewn("round", ("leaning 4-2", "fellow 4-2")),))
    )
    whole = Assembled(draft(two).unmarked())
    assert max(met.distance for met in whole.seams) < 0.05
    spots = [whole.lies[name](np.array([[x, 20.0], [x, 80.0]])) for name, x in (("leaning", 10.0), ("fellow", -10.0))]
    assert spots[0].out @ spots[1].out.T == pytest.approx(-np.ones((2, 2)))  # grain outward, both
    assert spots[0].at - spots[1].at == pytest.approx(np.broadcast_to(2.0 * spots[0].out[0], (2, 3)), abs=0.05)
    pouch = Assembled(draft(demo.job("old-pouch")).unmarked())
    assert max(met.distance for met in pouch.seams) < 0.3
    front, back = (pouch.lies[name](np.array([[x, 55.0]])) for name, x in (("front", 31.0), ("back", 131.0)))
    assert front.out @ back.out.T == pytest.approx(-1.0)
    margin = pouch.draft.value("seam.margin")
    assert (front.at - back.at)[0] == pytest.approx(
        front.out[0] * (30 - 2 * margin - 1.0 + 2 * 2.0), abs=0.3
    )  # its edges turn half a mm inside their stitches
    wall = pouch.lies["gusset"](np.array([[235.0, 40.0]]))
    assert abs(wall.out @ front.out.T) == pytest.approx(0.0, abs=1e-6)  # square to the panels,
    assert (wall.at - (front.at + back.at) / 2) @ wall.out.T > 20  # and its grain looks out
    flange = pouch.lies["gusset"](np.array([[221.0, 133.0], [249.0, 133.0]]))  # half way along it, at both its edges
    assert flange.at[:, 1] == pytest.approx([1.0, 1.0], abs=0.3)  # turned out: level with the panels' edges, at nought
    # Nothing is told of what hangs together with nothing, nor of what could turn about one straight edge.
    assert not draft(replace(two, traced=Traced((leaning, fellow)))).lies
    # nor of what would have to be bent in another way: this one is sewn on by an edge that is bowed otherwise.
    bowed = Panel("bowed", ((0.0, 0.0), (-90.0, 0.0), (-80.0, 90.0), (0.0, 110.0)))
    unlike = Traced((leaning, bowed), (Sewn("round", ("leaning 4-2", "bowed 4-2")),))
    assert set(draft(replace(two, traced=unlike)).lies) == {"leaning"}
    hinged = Traced((leaning, fellow), (Sewn("round", ("leaning 4", "fellow 2")),))
    assert set(draft(replace(two, traced=hinged)).lies) == {"leaning"}
