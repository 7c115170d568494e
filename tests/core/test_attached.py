"""Attached: pockets and reinforcements on any piece, and what goes on to a machine."""

from __future__ import annotations

import numpy as np
import pytest
from shapely.geometry import LineString, Point, Polygon

from tailor import demo
from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import draft, judge

PLACES = [
    ("laser-level", "front"),
    ("spar-bag", "back"),
    ("shears", "back"),
    ("peg-tray", "tray"),
    ("eaves-blade", "body"),
]
KINDS = ["pocket", "puckered pocket", "bellows pocket", "reinforcement"]


def added(name: str, on: str, kind: str, **typed: str) -> Draft:
    job = demo.job(name).typed("patch.on", on).typed("patch.kind", kind)
    for key, text in typed.items():
        job = job.typed(key.replace("__", "."), text)
    return draft(job)


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize(("name", "on"), PLACES)
def test_what_is_added_lies_clear_of_edges_folds_and_stitches(name: str, on: str, kind: str) -> None:
    plain, made = draft(demo.job(name)), added(name, on, kind)
    assert [p.name for p in made.pieces] == [*(p.name for p in plain.pieces), kind]
    seat, own = made.piece(on), made.piece(kind)
    under = seat.holes_of(kind, f"under the {kind}")
    assert len(under) == len(own.holes_of(kind, kind)) == made.seam(kind).count
    leather = Polygon(seat.cut)
    before = [Point(h.x, h.y) for h in plain.piece(on).holes]
    for at in map(Point, under):
        assert leather.exterior.distance(at) > 3.0
        assert all(at.distance(other) > 2.5 for other in before)
        assert all(LineString(fold).distance(at) > 2.0 for fold in seat.folds)
    assert all(Polygon(own.cut).contains(Point(h.x, h.y)) for h in own.holes)
    assert any(said.startswith(f"{kind}:") for said in made.edges_first)


def test_a_puckered_pocket_is_wider_at_its_top_and_sewn_on_parallel() -> None:
    made = added("laser-level", "front", "puckered pocket", patch__fullness="0.3")
    own, under = (
        made.piece("puckered pocket"),
        made.piece("front").holes_of("puckered pocket", "under the puckered pocket"),
    )
    top = own.cut[own.cut[:, 1] > own.cut[:, 1].max() - 0.01]
    foot = np.ptp(own.cut[own.cut[:, 1] < own.cut[:, 1].min() + 0.01][:, 0]) + 2 * 6.0
    assert np.ptp(top[:, 0]) == pytest.approx(1.3 * made.value("patch.width"), abs=2.5)
    assert foot == pytest.approx(made.value("patch.width"), abs=3.5)
    assert abs(under[0, 0] - under[3, 0]) < 0.01  # straight up
    assert (
        own.holes_of("puckered pocket", "puckered pocket")[0, 0]
        < own.holes_of("puckered pocket", "puckered pocket")[3, 0]
    )


def test_a_bellows_pocket_has_two_pleats_a_side() -> None:
    made = added("spar-bag", "front", "bellows pocket", patch__pleat="15", patch__width="90", patch__height="100")
    own = made.piece("bellows pocket")
    assert np.ptp(own.cut[:, 0]) == pytest.approx(90 + 4 * 15)
    assert sorted(fold[0, 0] for fold in own.folds) == pytest.approx([-60, -45, 45, 60])
    assert np.ptp(made.piece("front").holes_of("bellows pocket", "under the bellows pocket")[:, 0]) < 90


def test_it_can_be_moved_and_is_refused_off_its_piece() -> None:
    here, there = (
        added("spar-bag", "front", "pocket", patch__width="80", patch__height="80", patch__across=x)
        for x in ("0", "30")
    )
    moved = [m.piece("front").holes_of("pocket", "under the pocket") for m in (here, there)]
    assert moved[1] - moved[0] == pytest.approx(np.tile([30.0, 0.0], (len(moved[0]), 1)))
    for typed, said in (({"patch__across": "300"}, "do not lie clear"), ({"patch__width": "500"}, "do not lie clear")):
        with pytest.raises(InputError, match=said):
            added("spar-bag", "front", "pocket", **typed)
    with pytest.raises(InputError, match=r"no piece called 'lid'.*give front or back"):
        added("spar-bag", "lid", "pocket")


@pytest.mark.parametrize(
    ("name", "bed", "ruling"),
    [("spar-bag", "flat bed", "stop"), ("spar-bag", "cylinder", "ok"), ("kit-bag", "flat bed", "ok"),
     ("laser-level", "flat bed", "ok"), ("marking-gauge", "flat bed", "ok")],
)  # fmt: skip
def test_a_seam_that_closes_a_tube_wants_a_bed_it_goes_on_to(name: str, bed: str, ruling: str) -> None:
    job = demo.job(name).typed("stitch.method", "machine").typed("stitch.bed", bed)
    (said,) = [v for v in judge(job, draft(job)) if v.name == "Work goes on to the machine"]
    assert said.ruling == ruling
    if ruling == "stop":
        assert "corner" in said.where


def test_what_is_stiff_lies_beside_the_needle() -> None:
    job = demo.job("kit-bag").typed("stitch.method", "machine").typed("leather.thickness", "1mm")
    (said,) = [v for v in judge(job, draft(job)) if v.name == "Machine takes every seam"]
    assert said.where == "seam right seam"
    thick = demo.job("kit-bag").typed("stitch.method", "machine").typed("leather.thickness", "6mm")
    (said,) = [v for v in judge(thick, draft(thick)) if v.name == "Machine takes every seam"]
    assert said.ruling == "stop"
    assert "does not lift" in said.reason
