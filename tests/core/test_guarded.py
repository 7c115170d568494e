"""Guards: what stands out above the mouth comes to rest on it, and neither widens the case nor lifts its leather."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from shapely.geometry import Polygon

from tailor.core.carried.stations import Shape, Station
from tailor.core.carried.zones import Zone, ZoneKind
from tailor.core.draft.draft import Draft, Fitted
from tailor.core.job import Job, draft, judge
from tailor.core.picking import picks
from tailor.core.righting import put_right
from tests.lofts import typed

PUSHED, RESTS = "What stands behind is not pushed out", "a guard comes to rest on it"
BLADE = (
    Station(0, 14, 26, 0.5, 0.5, Shape.WEDGE), Station(30, 4, 40, 2, 2, Shape.WEDGE),
    Station(140, 0, 40, 2.2, 2.2, Shape.WEDGE), Station(150, 0, 40, 2.2, 2.2, Shape.WEDGE),
)  # fmt: skip
GUARD = Station(151, -12, 56, 6, 6, Shape.SLAB), Station(159, -12, 56, 6, 6, Shape.SLAB)
GRIP = Station(160, 6, 34, 10, 10, Shape.OVAL), Station(270, 6, 36, 11, 11, Shape.OVAL)
THICK = Station(160, -5, 45, 16, 16, Shape.OVAL), Station(270, -5, 45, 16, 16, Shape.OVAL)
KNOB = Station(151, -12, 56, 12, 12, Shape.OVAL), Station(190, 12, 32, 6, 6, Shape.OVAL)
EDGE = (Zone(ZoneKind.EDGE, 0, 150),)


def guarded(style: str = "two-panel", stations: tuple[Station, ...] = BLADE + GUARD + GRIP, **pinned: str) -> Job:
    return typed(Job("guarded", style, stations, EDGE), **pinned)


def rulings(job: Job, made: Draft) -> dict[str, str]:
    return {v.name: v.ruling.value for v in judge(job, made)}


@pytest.mark.parametrize("style", ["two-panel", "flat-back", "folded-sheath"])
@pytest.mark.parametrize("method", ["taut", "fingers"])
def test_a_case_is_cut_for_what_goes_in_and_not_for_what_stays_out(style: str, method: str) -> None:
    """As if the blade went on as it is at the mouth: the same pieces, hole by hole."""
    job = guarded(style, mould__method=method, loop__landing="none")
    made = draft(job)
    assert (made.value("mouth.y"), made.reasons["mouth.y"].rule) == (150, RESTS)
    said = rulings(job, made)
    assert "stop" not in said.values()
    assert said["Edge and point covered"] == "ok"  # right up to the guard, which shuts the mouth
    on = replace(BLADE[-1], y=270.0)
    plain = draft(replace(job, stations=(*BLADE, on)).typed("mouth.y", "150"))
    for one, other in zip(made.pieces, plain.pieces, strict=True):
        assert one.cut == pytest.approx(other.cut, abs=0.02)
        mine, its = (np.array([(h.x, h.y) for h in each.holes]) for each in (one, other))
        assert mine == pytest.approx(its, abs=0.02)


def test_leather_is_down_before_the_welt_up_to_a_mouth_that_widens() -> None:
    """A set square is as far from its seam at its mouth as below it; what stands out above is as wide again."""
    square = (Station(0, 0, 4, 1.5, 1.5, Shape.SLAB), Station(160, 0, 160, 1.5, 1.5, Shape.SLAB))
    for style in ("two-panel", "flat-back"):
        job = typed(Job("set square", style, square), mould__method="fingers", object__sharp="none")
        assert rulings(job, draft(job))["Leather is down before the welt"] == "ok"


@pytest.mark.parametrize(
    ("stations", "zones", "pinned", "rests"),
    [
        (BLADE + GUARD + GRIP, (*EDGE, Zone(ZoneKind.GRIP, 160, 270)), {}, True),
        (BLADE + GUARD + GRIP, (*EDGE, Zone(ZoneKind.STOP, 151, 159), Zone(ZoneKind.GRIP, 160, 270)), {}, True),
        (BLADE[:2] + BLADE[3:] + GUARD + GRIP, EDGE, {}, True),  # a blade that widens up to it
        (BLADE + GUARD + GRIP, (Zone(ZoneKind.EDGE, 0, 155),), {}, False),  # it is sharp on into the guard
        (BLADE + GUARD + GRIP, (Zone(ZoneKind.TRIGGER, 120, 134),), {"fit.trigger": "16"}, True),
        (BLADE + GUARD + GRIP, (Zone(ZoneKind.TRIGGER, 120, 135),), {"fit.trigger": "16"}, False),  # too near it
        (BLADE + GUARD + GRIP, EDGE, {"flap.closing": "snap 10"}, False),  # which goes over all of it
        (BLADE + THICK, EDGE, {}, False),  # a handle goes in
        (BLADE + GRIP, EDGE, {}, False),
        (BLADE + KNOB, EDGE, {}, False),  # a head, which nothing holds by
    ],
)
def test_a_guard_is_told_from_a_handle(
    stations: tuple[Station, ...], zones: tuple[Zone, ...], pinned: dict[str, str], rests: bool
) -> None:
    job = replace(guarded(stations=stations), zones=zones)
    for key, text in pinned.items():
        job = job.typed(key, text)
    mouth = draft(job).reasons["mouth.y"]
    assert (mouth.rule == RESTS) == rests
    assert (mouth.value == 150) == rests


def test_a_scoop_below_a_guard_bares_the_edge_and_is_told() -> None:
    job = guarded().typed("mouth.relief", "6")
    assert rulings(job, draft(job))["Edge and point covered"] == "stop"


def test_what_is_held_by_too_little_is_held_by_a_strap_round_its_grip() -> None:
    """And not by a flap over all of the grip, where that stands far out."""
    slim = tuple(replace(s, x_spine=(s.x_spine + 18) / 2, x_seam=(s.x_seam + 18) / 2) for s in BLADE)
    job = guarded(stations=slim + GUARD + GRIP)
    said = next(v for v in judge(job, draft(job)) if v.name == "Hold by friction")
    assert said.ruling == "look"
    assert said.remedies[0] == ("keeper.way", "round")
    fitted = [offer for offer in picks(job)[0] if isinstance(offer.made, Fitted)]
    assert len(fitted) == 3
    for offer in fitted:
        assert offer.job.settings.word("flap.closing") == "none"
        assert offer.made.value("mouth.y") == 150


@pytest.mark.parametrize(("back", "ruling"), [(3.0, None), (6.0, "ok"), (8.0, "look"), (14.0, "stop")])
def test_what_stands_behind_a_guard_is_told_how_far_that_pushes_it_out(back: float, ruling: str | None) -> None:
    """Its angle is that of a line from its first stitches to the guard, which one press ends that asks for it."""
    guard = tuple(replace(s, back=back) for s in GUARD)
    grip = tuple(replace(s, back=3.0) for s in GRIP)
    job = guarded(stations=BLADE + guard + grip, keeper__way="round", object__sharp="none")
    made = draft(job)
    said = {v.name: v for v in judge(job, made)}.get(PUSHED)
    assert (said and said.ruling) == ruling
    if said is not None:
        run = 1.0 + made.value("seam.first_hole")  # the guard is as far back as it is 1 mm above the mouth
        assert said.value == pytest.approx(np.degrees(np.arctan2(back - 2.2, run)), abs=2.0)
    if ruling == "stop":
        assert put_right(job).said[0].ruling != "stop"


def test_a_loop_of_its_own_is_sewn_on_where_a_guard_would_push_one_out() -> None:
    thick = tuple(replace(s, back=14.0) for s in GUARD)
    for guard, landing in ((GUARD, "back"), (thick, "sewn")):
        job = guarded("folded-sheath", BLADE + guard + GRIP)
        assert job.settings.word("loop.landing") == landing
        assert rulings(job, draft(job)).get(PUSHED) in (None, "ok")


@pytest.mark.parametrize(
    ("style", "landing"), [("two-panel", "sewn"), ("flat-back", "sewn"), ("folded-sheath", "back")]
)
def test_a_keeper_lies_all_on_the_grip_beyond_a_guard(style: str, landing: str) -> None:
    """As long as a belt of string round the thing at its middle and at both its edges, which are alike."""
    job = guarded(style, keeper__way="round", loop__landing=landing)
    made = draft(job)
    at, half = made.value("keeper.at"), made.value("keeper.width") / 2
    assert at - half >= GUARD[-1].y
    rounds = [job.loft.sections(np.array([y])).outline(0) for y in (at - half, at, at + half)]
    long = [Polygon(each).convex_hull.length for each in rounds]
    assert np.ptp(long) < 3.0
    assert rulings(job, made)["Keeper lies even"] == "ok"
    low = job.typed("keeper.at", f"{160 + half - 5:.1f}mm")  # half on the guard
    assert rulings(low, draft(low))["Keeper lies even"] == "stop"
    assert put_right(low).job.settings.pinned.get("keeper.at") is None
