"""What holds to a belt, and what stands up beside the seam or the mouth: slots, plates, danglers, ears and tabs."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, MultiPoint, Point, Polygon, box

from tailor.core.checks.verdict import Ruling
from tailor.core.draft.worn.strips import stadium
from tailor.core.draft.worn.turned import half_round
from tailor.core.errors import InputError
from tailor.core.job import draft, judge
from tailor.core.leather.leather import Leather
from tests.lofts import made_with
from tests.sweeps import about

FINE = 256


def test_slots_take_the_belt_and_no_more_than_the_play() -> None:
    for play, belt, thick in ((1.5, 40.0, 4.0), (0.5, 32.0, 3.0), (3.0, 38.0, 5.5)):
        _, made = made_with("whetstone", loop__landing="slots", slots__play=f"{play}", belt__width=f"{belt}",
                            belt__thickness=f"{thick}")  # fmt: skip
        for slot in map(Polygon, made.piece("belt plate").openings):
            at = slot.centroid
            through = box(at.x - thick / 2, at.y - belt / 2, at.x + thick / 2, at.y + belt / 2)
            for up in (-play / 2, play / 2):
                assert slot.buffer(0.02).contains(shapely.affinity.translate(through, 0, up))
                assert not slot.buffer(0.02).contains(shapely.affinity.translate(through, 0, 1.2 * up))
            assert Polygon(made.piece("belt plate").cut).exterior.distance(slot) >= made.value("slots.web") - 1e-6
        assert made.carriage is not None
        case = Polygon(made.plan.outline)
        assert all(case.distance(Polygon(s)) > 5.0 for s in made.carriage.slots)


def test_a_canted_plate_keeps_its_rows_on_the_back() -> None:
    job, made = made_with("radio", loop__landing="slots", carry__cant="25")
    assert made.carriage is not None
    assert not [v for v in judge(job, made) if v.name == "Loop lands on leather" and v.ruling is not Ruling.OK]
    assert made.hang is not None
    assert made.hang.rest == pytest.approx(25, abs=1.5)  # two slots far apart hardly turn on the belt


@given(st.floats(0, 12), st.floats(1, 60), st.floats(1, 4), st.floats(0.3, 0.7))
@settings(max_examples=about(60))
def test_half_way_round_belt_or_ring_by_polygons(thick: float, deep: float, leather: float, neutral_at: float) -> None:
    sheet = Leather(leather, neutral_at)
    length, end = half_round(sheet, thick, deep)
    half = thick / 2
    radius = max(sheet.inside_radius, half)
    bar = box(half, -half, max(deep, half) + 1e-9, half)
    inner = shapely.union_all([bar, Point(radius, 0).buffer(radius, quad_segs=FINE), Point(end, 0)]).convex_hull
    # Both legs lie on one another from where they meet; the sharp hollow there is kept.
    whole = shapely.union_all([inner.buffer(sheet.offset, quad_segs=FINE),
                               LineString([(end, 0), (end + 90, 0)]).buffer(sheet.offset, quad_segs=FINE)])  # fmt: skip
    above = whole.exterior.intersection(box(-99, 0, end, 99))
    assert length == pytest.approx(above.length, abs=0.05)


def test_a_dangler_is_sewn_three_times_through_one_waist_and_swings_free() -> None:
    _, made = made_with("shears", loop__landing="dangler")
    strap, leather = made.piece("dangler"), made.shell.leather
    rows = [strap.holes_of("dangler row 1", edge)[0, 1] for edge in ("tab", "turned", "outer")]
    ring, _ = half_round(leather, 3.5, 3.5)
    belt, _ = half_round(leather, 4.5, 43.0)
    margin = made.value("seam.margin")
    assert rows[1] - rows[0] == pytest.approx(2 * ring + 2 * (8.0 + margin), abs=1e-6)
    assert rows[2] - rows[1] == pytest.approx(2 * belt + 2 * margin, abs=1e-6)
    assert made.hang is not None
    assert made.hang.rest == pytest.approx(made.hang.free)
    tab = made.piece("ring tab")
    for row in ("ring row 1", "ring row 2"):
        legs = tab.holes_of(row, "tab"), tab.holes_of(row, "turned")
        assert legs[0] == pytest.approx(legs[1] * [1, -1])
        assert len(legs[0]) == len(made.piece("back").holes_of(row, "back"))


def test_worn_across_the_body_it_is_canted_to_the_hand() -> None:
    _, strong = made_with("shears")
    _, cross = made_with("shears", carry__side="cross")
    assert strong.value("carry.cant") == 0
    assert cross.value("carry.cant") == 20
    assert cross.carriage is not None
    assert cross.carriage.cant == 20


def test_an_ear_has_its_web_all_round_its_slot_clear_of_the_seam() -> None:
    _, made = made_with("eaves-blade", loop__landing="ear")
    body, web, wide = made.piece("body"), made.value("slots.web"), made.value("slots.width")
    slots = [Polygon(o) for o in body.openings]
    assert len(slots) == 2  # in the front's ear and in the back's
    leather = Polygon(body.cut)
    holes = MultiPoint([(h.x, h.y) for h in body.holes if h.seam == "main"])
    for slot in slots:
        low, high = sorted(np.ptp(np.array(slot.minimum_rotated_rectangle.exterior.coords), axis=0))
        assert (low, high) == pytest.approx((wide, made.value("slots.length")), abs=0.5)
        assert leather.exterior.distance(slot) == pytest.approx(web, abs=0.1)
        assert slot.distance(holes) > web - 1.0


def test_a_slot_is_a_stadium() -> None:
    slot = Polygon(stadium(40.0, 5.0, np.array([0.0, 2.0]), np.array([3.0, 4.0])))
    assert slot.bounds == pytest.approx((0.5, -16.0, 5.5, 24.0), abs=1e-6)
    assert slot.area == pytest.approx(35 * 5 + np.pi * 6.25, rel=2e-3)


# An ear beside the seam


@pytest.mark.parametrize(("name", "uneven"), [("eaves-blade", "0"), ("shearing-blade", "0"), ("eaves-blade", "0.15")])
def test_an_ear_is_filled_solid_and_its_slot_goes_through_all_of_it(name: str, uneven: str) -> None:
    job, made = made_with(name, loop__landing="ear", belt__width="25", belt__thickness="3", fold__uneven=uneven,
                          carry__cant="auto")  # fmt: skip
    body, welt = made.piece("body"), made.piece("welt")
    cut, filler = Polygon(body.cut), Polygon(welt.trim)
    assert cut.is_valid
    assert filler.is_valid
    assert Polygon(welt.cut).buffer(1e-3).contains(filler)
    (through,) = welt.openings
    front, back = sorted(body.openings, key=lambda ring: -ring[:, 0].mean())
    assert front == pytest.approx(through)
    for ring in (front, back):  # the corners of a belt go through its round ends
        assert Polygon(ring).area == pytest.approx(Polygon(through).area)
        assert cut.contains(Polygon(ring).buffer(made.value("slots.web") - 0.1))
    belt = shapely.box(-1.5, -12.5, 1.5, 12.5)
    assert Polygon(through - through.mean(axis=0)).contains(belt)
    assert filler.contains(Polygon(through).buffer(made.value("slots.web") - 0.1))  # solid all round it
    on = [body.holes_of("ear", "front"), welt.holes_of("ear", "welt"), body.holes_of("ear", "back")]
    assert {len(row) for row in on} == {made.seam("ear").count}
    assert on[0] == pytest.approx(on[1])
    rows = [made.front.holes.points, made.back.holes.points]
    k = int(np.abs(rows[0][:, 1] - on[0][:, 1].mean()).argmin())
    apart = [np.hypot(*(row - side[k]).T) for row, side in zip((on[0], on[2] * [-1, 1]), rows, strict=True)]
    assert apart[0] == pytest.approx(apart[1], abs=1e-6 if uneven == "0" else 1.5)  # as they lie beside the seam
    assert {v.ruling.value for v in judge(job, made) if "lot" in v.name} == {"ok"}
    assert made.value("ear.filler") == pytest.approx(made.shell.welt)
    assert made.carriage.pivot[0] > made.plan.stitch[:, 0].max()
    assert made.hang.rest > 0  # its weight lies on one side of the belt


@pytest.mark.parametrize(
    ("name", "typed", "said"),
    [("shears", {}, "beside the one seam of a folded sheath"),
     ("eaves-blade", {"belt__width": "150"}, "does not fit beside a seam")],
)  # fmt: skip
def test_an_ear_that_has_no_place_is_refused(name: str, typed: dict[str, str], said: str) -> None:
    with pytest.raises(InputError, match=said):
        made_with(name, loop__landing="ear", **typed)


@pytest.mark.parametrize("above", ["0", "20mm"])
@pytest.mark.parametrize("name", ["shears", "whetstone", "stapler"])
def test_a_thumb_tab_stands_on_the_back_above_the_mouth(name: str, above: str) -> None:
    job, plain = made_with(name, back__above=above)
    made = draft(job.typed("back.tab", "22mm"))
    own, whole = Polygon(plain.piece("back").cut), Polygon(made.piece("back").cut)
    assert whole.is_valid
    assert whole.buffer(1e-3).contains(own)
    tab = whole.difference(own.buffer(1e-3))
    assert np.ptp(made.piece("back").cut[:, 1]) - np.ptp(plain.piece("back").cut[:, 1]) == pytest.approx(22, abs=0.01)
    level = plain.piece("back").cut[:, 1].max() + 8.0
    (left, _, right, _) = tab.intersection(LineString([(-999, level), (999, level)])).bounds
    assert right - left == pytest.approx(made.value("back.thumb"), abs=0.01)
    assert made.piece("back").holes == plain.piece("back").holes
    assert any(part.name == "thumb tab" and part.behind for part in made.lying)


@pytest.mark.parametrize(
    ("name", "typed"),
    [
        ("eaves-blade", {}),
        ("spar-hook", {}),
        ("shears", {"keeper__way": "over"}),
        ("shears", {"loop__landing": "back"}),
    ],
)
def test_a_thumb_tab_wants_a_flat_back_with_nothing_on_its_edge(name: str, typed: dict[str, str]) -> None:
    with pytest.raises(InputError, match="wants a flat back with nothing else"):
        made_with(name, back__tab="20mm", **typed)
