"""Attached: pockets and reinforcements on any piece, and what goes on to a machine."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import shapely
from shapely.geometry import LineString, Point, Polygon

from tailor import demo
from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tests.lofts import typed
from tests.sweeps import some

PLACES = [
    ("laser-level", "front"),
    ("spar-bag", "back"),
    ("shears", "back"),
    ("peg-tray", "tray"),
    ("eaves-blade", "body"),
]
KINDS = ["pocket", "puckered pocket", "bellows pocket", "reinforcement"]
SMALL = {"moulded pocket": {"patch__tool": "4"}, "loop": {"patch__tool": "4"}, "strap": {"patch__width": "9"},
         "ring tab": {"patch__ring": "d-ring 16"}}  # fmt: skip


def added(name: str, on: str, kind: str, **settings: str) -> Draft:
    return draft(typed(demo.job(name), patch__on=on, patch__kind=kind, **settings))


@pytest.mark.parametrize(("place", "kind"), some(itertools.product(PLACES, KINDS)))
def test_what_is_added_lies_clear_of_edges_folds_and_stitches(place: tuple[str, str], kind: str) -> None:
    name, on = place
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
    assert any(said.piece == kind for said in made.edges_first)


def test_a_puckered_pocket_is_wider_at_its_top_and_sewn_on_parallel() -> None:
    made = added("laser-level", "front", "puckered pocket", patch__fullness="0.3")
    own, under = (
        made.piece("puckered pocket"),
        made.piece("front").holes_of("puckered pocket", "under the puckered pocket"),
    )
    foot = np.ptp(own.cut[own.cut[:, 1] < own.cut[:, 1].min() + 0.01][:, 0]) + 2 * 6.0
    assert np.ptp(own.cut[:, 0]) == pytest.approx(1.3 * made.value("patch.width"), abs=2.5)
    assert foot == pytest.approx(made.value("patch.width"), abs=3.5)
    assert abs(under[0, 0] - under[3, 0]) < 0.01  # straight up
    assert (
        own.holes_of("puckered pocket", "puckered pocket")[0, 0]
        < own.holes_of("puckered pocket", "puckered pocket")[3, 0]
    )


def test_a_bellows_pocket_has_two_pleats_a_side() -> None:
    made = added("spar-bag", "front", "bellows pocket", patch__pleat="15", patch__width="90", patch__height="100")
    own = made.piece("bellows pocket")
    begins, ends = ([tuple(np.round(fold[k], 6)) for fold in own.folds] for k in (0, 1))
    assert begins == [begins[0]] * 2 + [begins[2]] * 2  # either side's from one place, at its foot
    across = sorted(x for x, _ in ends)
    assert [across[1] - across[0], across[3] - across[2]] == pytest.approx([15, 15])
    assert {y for _, y in ends} == {100.0}
    assert np.ptp(made.piece("front").holes_of("bellows pocket", "under the bellows pocket")[:, 0]) < 90


@pytest.mark.parametrize("kind", SMALL)
@pytest.mark.parametrize(("name", "on"), PLACES)
def test_what_holds_small_things_is_sewn_on_in_step(name: str, on: str, kind: str) -> None:
    made = added(name, on, kind, **SMALL[kind])
    seat, own = made.piece(on), made.piece(kind)
    for seam in made.seams[-2:] if kind != "moulded pocket" else made.seams[-1:]:
        counts = [len(p.holes_of(seam.name, edge)) for p in (seat, own) for edge in seam.edges]
        assert {n for n in counts if n} == {seam.count}
    assert Polygon(own.cut).is_valid
    under = [Point(h.x, h.y) for h in seat.holes if h.edge.startswith(f"under the {kind}")]
    assert all(Polygon(seat.cut).exterior.distance(at) > 3.0 for at in under)


@pytest.mark.parametrize(("kind", "steep"), [("loop", 60.0), ("moulded pocket", 50.0)])
def test_leather_over_a_small_tool_goes_round_it(kind: str, steep: float) -> None:
    """Its length between the rows, laid over the tool's circle and down on both sides, by polygons."""
    made = added("spar-bag", "front", kind, patch__tool="15", patch__height="60")
    seam, edges = (kind, (kind, kind)) if kind == "moulded pocket" else (f"{kind} right", ("right",) * 2)
    own = abs(made.piece(kind).holes_of(seam, edges[0])[:, 0]).max()
    flat = np.ptp([h.x for h in made.piece("front").holes if h.edge.startswith(f"under the {kind}")]) / 2
    tool = Point(0, 8.0).buffer(8.0, quad_segs=256)
    out = 8.0 * (1 + np.cos(np.radians(steep))) / np.sin(np.radians(steep))
    offset = 0.5 * 1.6
    hull = shapely.union_all([tool, LineString([(-out, 0), (out, 0)])]).convex_hull.buffer(offset, quad_segs=256)
    skin = shapely.union_all([hull, LineString([(-99, 0), (99, 0)]).buffer(offset)]).exterior
    assert flat == pytest.approx(out, abs=0.05)
    assert own == pytest.approx(skin.intersection(shapely.box(0, 0.0, out, 99)).length, abs=0.1)


def test_a_moulded_pockets_fullness_lies_round_its_toe() -> None:
    """Its sides and foot are as long as their seat; what is too full for the leather is told."""
    firm = demo.job("eaves-blade").typed("patch.on", "body").typed("patch.kind", "moulded pocket")
    firm = firm.typed("patch.tool", "4").typed("leather.thickness", "1.5")
    made = draft(firm)
    own = made.piece("moulded pocket").holes_of("moulded pocket", "moulded pocket")
    under = made.piece("body").holes_of("moulded pocket", "under the moulded pocket")
    straight = [abs(np.diff(side[:6, 1])).sum() for side in (own, under)]
    assert straight[0] == pytest.approx(straight[1], abs=0.05)
    spread = 1 - np.hypot(*np.diff(under, axis=0).T).sum() / np.hypot(*np.diff(own, axis=0).T).sum()
    assert 0 < spread < made.value("patch.taken")
    assert verdict(firm) == "ok"
    soft = firm.typed("leather.temper", "soft")
    assert verdict(soft) != "ok"


def verdict(job: Job) -> str:
    (said,) = [v for v in judge(job, draft(job)) if v.name.startswith("Toe of the")]
    return said.ruling.value


def test_a_gusseted_pocket_has_its_own_strip_and_a_flap_over_it() -> None:
    made = added("spar-bag", "front", "gusseted pocket", patch__depth="30", patch__flap="snap 10",
                 patch__width="120", patch__height="90")  # fmt: skip
    front, strip, flap = (made.piece(f"gusseted pocket{n}") for n in ("", " gusset", " flap"))
    assert made.seam("gusseted pocket").count == len(strip.holes_of("gusseted pocket", "back"))
    panel = front.holes_of("gusseted pocket front", "gusseted pocket")
    on = strip.holes_of("gusseted pocket front", "front")
    thick, radius, offset = 1.6, 0.8, 0.8
    wide, deep = np.ptp(panel, axis=0)
    margin, side = 60.0 - wide / 2, front.cut[np.isclose(np.abs(front.cut[:, 0]), 60.0)]
    round_ = side[:, 1].min() - margin  # its corners are round, and its outline's by a margin more
    run = 2 * deep + wide - (4 - np.pi) * round_
    inset = thick + radius + 2.0 - offset  # its wall's neutral surface, inside the stitch line
    assert abs(np.diff(on[:, 1])).sum() == pytest.approx(run - np.pi * inset, abs=0.1)
    wall = sorted(fold[0, 0] for fold in strip.folds)
    assert np.ptp(wall) + 2 * (thick + radius) == pytest.approx(30, abs=0.01)  # between the inner faces
    (stud,), (socket,) = ([f.y for f in p.fittings] for p in (front, flap))
    root = made.piece("front").holes_of("gusseted pocket flap", "under the gusseted pocket flap")[0, 1]
    foot = made.piece("front").holes_of("gusseted pocket", "under the gusseted pocket")[:, 1].min()
    brim = 90 - made.value("seam.margin") - (root - foot)
    # From its row, out over the brim, and down to the button: as far as the button lies below the brim.
    assert -socket == pytest.approx(np.hypot(brim, 30 + thick) + 90 - stud, abs=0.2)
    assert {h.place for h in made.hardware if h.key == "patch.flap"} == {
        "gusseted pocket, for its flap", "gusseted pocket flap, its end",
    }  # fmt: skip


def test_several_are_sewn_on_one_after_another_and_on_each_other() -> None:
    job = demo.job("spar-bag").typed("patch.on", "front").typed("patch.width", "150").typed("patch.height", "150")
    job = job.typed("patch2.on", "pocket").typed("patch2.width", "60").typed("patch2.height", "50")
    job = job.typed("patch3.on", "back").typed("patch3.kind", "ring tab")
    made = draft(job)
    assert made.added == {"patch": "pocket", "patch2": "pocket 2", "patch3": "ring tab"}
    assert len(made.piece("pocket").holes_of("pocket 2", "under the pocket 2")) == made.seam("pocket 2").count
    assert [h.name for h in made.hardware if h.key == "patch3.ring"] == ["d-ring 20"]
    with pytest.raises(InputError, match=r"no piece called 'pocket'"):
        draft(job.typed("patch.on", "none"))


def test_it_can_be_moved_and_is_refused_off_its_piece() -> None:
    here, there = (
        added("spar-bag", "front", "pocket", patch__width="80", patch__height="80", patch__across=x)
        for x in ("0", "30")
    )
    moved = [m.piece("front").holes_of("pocket", "under the pocket") for m in (here, there)]
    assert moved[1] - moved[0] == pytest.approx(np.tile([30.0, 0.0], (len(moved[0]), 1)))
    for settings, said in (
        ({"patch__across": "300"}, "do not lie clear"),
        ({"patch__width": "500"}, "do not lie clear"),
    ):
        with pytest.raises(InputError, match=said):
            added("spar-bag", "front", "pocket", **settings)
    with pytest.raises(InputError, match="on the front zip strip is too little for a reinforcement"):
        added("ridge-bag", "front zip strip", "reinforcement")
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
