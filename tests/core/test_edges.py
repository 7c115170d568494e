"""Edges that are finished first: against what is worked by hand for each construction, and no other."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from shapely.geometry import LineString, MultiLineString, box

from tailor import demo
from tailor.core.draft.draft import Draft
from tailor.core.job import draft, judge
from tailor.core.shell.panel import Panel
from tests.lofts import CASES, case


def marked(made: Draft, name: str) -> MultiLineString:
    return MultiLineString([r.points for r in made.piece(name).rules if r.kind == "finish"])


def shares(found: shapely.Geometry, wanted: shapely.Geometry, near: float = 0.6) -> tuple[float, float]:
    """Share of what is wanted that was found, and of what was found that is wanted."""
    return (
        wanted.intersection(found.buffer(near)).length / wanted.length,
        found.intersection(wanted.buffer(near)).length / found.length,
    )


@pytest.mark.parametrize("hand", ["right", "left"])
def test_a_folded_sheath_by_hand(hand: str) -> None:
    made = draft(demo.job("eaves-blade").typed("hand", hand))
    way = -1 if made.mirrored else 1
    body, holes = made.piece("body"), made.piece("body").holes_of("main", "front")
    # by hand: all of the body's edge above the first holes and between the two seams: mouth, loop, mouth
    ring = LineString(np.vstack([body.cut, body.cut[:1]]))
    top = holes[0, 1] + 1.0
    low, high = sorted((holes[0, 0], -holes[0, 0]))
    assert min(shares(marked(made, "body"), ring.intersection(box(low, top, high, 999)))) > 0.97
    # by hand: the welt's edge towards the blade, and its end at the mouth as far as the stitches
    welt, inner = made.piece("welt"), made.inner.points * [way, 1]
    edge = LineString(
        inner[(inner[:, 1] < welt.cut[:, 1].max()) & (np.abs(inner[:, 0]) > np.abs(welt.cut[:, 0]).min())]
    )
    found, wanted = shares(marked(made, "welt"), edge)
    assert found > 0.97
    assert wanted > 0.9  # what is more is the end at the mouth
    assert [said.piece for said in made.edges_first] == ["body", "welt"]
    assert isinstance(made.shell, Panel)


def test_two_taut_panels_by_hand() -> None:
    made = draft(case("whetstone"))
    for name in ("front", "back"):
        piece = made.piece(name)
        holes = piece.holes_of("main", name)
        ring = LineString(np.vstack([piece.cut, piece.cut[:1]]))
        low, high = sorted((holes[0, 0], holes[-1, 0]))
        mouth = ring.intersection(box(low, holes[0, 1] - 8.0, high, 999))  # its scoop comes down so far
        assert min(shares(marked(made, name), mouth)) > 0.97
    assert len(made.edges_first) == 3


def test_a_moulded_front_over_a_flat_back_by_hand() -> None:
    made = draft(demo.job("shears"))
    names = [said.piece for said in made.edges_first]
    assert names == ["front blank", "welt", "back", "loop"]  # never the template, which is card
    back = made.piece("back")
    holes = back.holes_of("main", "back")
    level = LineString([(holes[0, 0], back.cut[:, 1].max()), (holes[-1, 0], back.cut[:, 1].max())])
    assert min(shares(marked(made, "back"), level)) > 0.97
    loop = made.piece("loop")
    assert marked(made, "loop").length == pytest.approx(LineString([*loop.cut, loop.cut[0]]).length)
    blank = made.piece("front blank")
    assert marked(made, "front blank").within(shapely.Polygon(blank.cut).buffer(0.01))
    welt = made.piece("welt")
    inner = LineString(made.plan.welt)
    assert min(shares(marked(made, "welt"), inner)) > 0.93
    assert not marked(made, "welt").intersects(LineString(welt.stitch[0]))


def test_the_ledger_names_them() -> None:
    job = demo.job("radio")
    said = {v.name: v for v in judge(job, draft(job))}["Edges to finish first"]
    assert said.value == 3
    assert "buried between front and back" in said.reason
    assert "template" not in said.reason


@pytest.mark.parametrize("name", CASES)
def test_glue_stops_outside_the_welts_inner_edge_on_every_piece_that_is_glued(name: str) -> None:
    job = case(name)
    made = draft(job)
    glued = {p.name for p in made.pieces if any(r.kind == "glue" for r in p.rules)}
    wanted = {"eaves-blade": {"body"}, "whetstone": {"front", "back"}, "shears": {"template", "back"}}
    assert glued == wanted.get(name, {"template"})
    inset = made.value("seam.stitch_inset")
    for piece in (p for p in made.pieces if p.name in glued):
        lines = [LineString(s) for s in piece.stitch[: 2 if piece.name == "body" else 1]]
        for rule in (r for r in piece.rules if r.kind == "glue"):
            high = piece.stitch[0][:, 1].max()
            low = piece.stitch[0][:, 1].min() + (10.0 if piece.name == "body" else -99.0)  # it goes on to the fold
            beside = rule.points[(rule.points[:, 1] < high) & (rule.points[:, 1] > low)]
            apart = min(shapely.distance(shapely.points(beside), line).max() for line in lines)
            assert apart < 0.95 * inset  # between the stitches and the welt's inner edge
    said = {v.name: v for v in judge(job, made)}["Glue clear of the object"]
    assert said.ruling.value == "ok"
    assert said.value > made.standoff.distance.min()
    tight = job.typed("seam.standoff", "0.8mm").typed("fit.clearance", "1.6mm").typed("seam.stitch_inset", "4mm")
    assert {v.name: v.ruling.value for v in judge(tight, draft(tight))}["Glue clear of the object"] != "ok"
