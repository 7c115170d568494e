"""Ridden: whether a belt goes through what a case rides by, and how it hangs, by where its leather lies."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import shapely
import shapely.affinity
import trimesh
from scipy.optimize import differential_evolution

from tailor import demo
from tailor.cli import main
from tailor.core.carried import block
from tailor.core.carried.stations import Shape, Station
from tailor.core.checks.verdict import Verdict
from tailor.core.draft.draft import Fitted
from tailor.core.draft.folded.landed import lacks
from tailor.core.draft.worn.carry import over_what_stands, standing_out
from tailor.core.draft.worn.roomy import SHALLOW
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.settings import Settings
from tailor.core.together.assembled import Assembled
from tailor.core.together.ridden import Ridden, heavy, ridden, sitting
from tests.sweeps import some
from tests.things import job_of

TORN = 1.6  # mm: half of what layers part by where one lies as it will and the other is formed
THROUGH = "Belt goes through the loop"
LOOPS = [
    ("eaves-blade", {}),  # its guard stands out under the loop
    ("eaves-blade", {"loop.landing": "sewn", "carry.cant": "12"}),
    ("spar-hook", {"loop.landing": "sewn"}),
    ("shears", {}),
]


def typed(name: str, settings: dict[str, str]) -> Job:
    job = demo.job(name)
    for key, text in settings.items():
        job = job.typed(key, text)
    return job


def judged(job: Job, name: str) -> Verdict:
    return next(v for v in judge(job, draft(job)) if v.name == name)


def rides(job: Job, thick: float) -> tuple[Assembled, Ridden]:
    made = draft(job)
    whole = Assembled(made.unmarked())
    found = ridden(whole, made.carriage, (job.settings.number("belt.width"), thick))
    assert found is not None
    return whole, found


def caught(whole: Assembled, job: Job, thick: float) -> float:
    """How much of a belt's section lies in leather where it lies best, mm²: another library's cut straight up through
    the middle of the leather, as thick as that is, and a rectangle moved and turned on that.
    """
    on = whole.draft.carriage
    turn = np.radians(on.cant)
    up = np.array([np.sin(turn), np.cos(turn), 0.0])
    cut = []
    for sheet in whole.skins.values():
        middle = trimesh.Trimesh(sheet.placed.at, sheet.triangles, process=False)
        lines = trimesh.intersections.mesh_plane(middle, np.cross(up, [0.0, 0.0, 1.0]), [*on.pivot, 0.0])
        flat = np.stack([(lines - [*on.pivot, 0.0]) @ up, lines[..., 2]], axis=2)
        cut += shapely.buffer(shapely.linestrings(flat), sheet.thickness / 2).tolist()
    leather = shapely.union_all(cut)
    wide = job.settings.number("belt.width")
    filled, around = leather.buffer(TORN).buffer(-TORN), shapely.box(*leather.bounds).buffer(50)
    shut = [part for part in shapely.get_parts(around.difference(filled)) if not part.intersects(around.boundary)]
    behind = [part for part in shut if part.intersects(shapely.box(-wide, -400, wide, 0))]
    within = shapely.union_all(behind).buffer(TORN).difference(leather)

    def lies_in(at: np.ndarray) -> float:
        belt = shapely.affinity.rotate(shapely.box(-wide / 2, -thick / 2, wide / 2, thick / 2), at[2])
        return float(belt.area - shapely.affinity.translate(belt, *at[:2]).intersection(within).area)

    across = within.bounds[1], within.bounds[3]
    return float(differential_evolution(lies_in, [(-15, 15), across, (-20, 20)], seed=1, tol=1e-6, maxiter=60).fun)


@pytest.mark.parametrize(("name", "settings"), some(LOOPS))
def test_a_belt_that_goes_through_has_a_place_in_the_room_that_the_leather_leaves(
    name: str, settings: dict[str, str]
) -> None:
    job = typed(name, settings)
    belt = job.settings.number("belt.thickness")
    whole, found = rides(job, belt)
    assert found.opening > job.settings.number("belt.width")
    assert found.deep > belt
    assert caught(whole, job, belt) < 1.0
    assert {v.name: v for v in judge(job, whole.draft)}[THROUGH].ruling.value == "ok"


@pytest.mark.parametrize("size", [(230.0, 22.0), (140.0, 60.0)])
def test_a_belt_goes_behind_a_round_bar(size: tuple[float, float]) -> None:
    """A loop goes with a round back at its rows and is straight at its fold: a needle between these meets neither."""
    job = replace(job_of(101, "folded-sheath", mould__method="taut"), stations=block.cylinder(*size).stations)
    whole, found = rides(job, 4.0)
    assert found.opening > job.settings.number("belt.width")
    assert 4.0 < found.deep < whole.draft.value("loop.deep")
    assert caught(whole, job, 4.0) < 1.0
    assert {v.name: v for v in judge(job, whole.draft)}[THROUGH].ruling.value == "ok"


def test_a_loop_is_as_deep_as_its_back_wants_where_it_lies() -> None:
    """Over an end that is moulded the back stands out further than it does from row to row; what is pinned stays."""
    job = job_of(159, "folded-sheath", mould__method="fingers")
    whole, found = rides(job, 4.0)
    assert {v.name: v for v in judge(job, whole.draft)}[THROUGH].ruling.value == "ok"
    assert found.deep > 4.0 - 0.25 * whole.draft.leather.thickness  # it gives a little
    shallow = job.typed("loop.deep", "5.4mm")
    assert draft(shallow).value("loop.deep") == pytest.approx(5.4)
    assert {v.name: v for v in judge(shallow, draft(shallow))}[THROUGH].ruling.value == "stop"


def test_a_loop_as_deep_as_the_belt_alone_does_not_go_over_a_guard_and_is_said_to() -> None:
    job = typed("eaves-blade", {"loop.deep": "4.5mm"})
    whole, found = rides(job, 4.0)
    assert found.deep < 1.5
    assert caught(whole, job, 4.0) > 8
    said = {v.name: v for v in judge(job, whole.draft)}[THROUGH]
    assert said.ruling.value == "stop"
    assert "stands out into it" in said.reason
    deeper = [job.typed(key, text) for key, text in said.remedies if key == "loop.deep" and text != "auto"]
    ends = [{v.name: v for v in judge(each, draft(each))}[THROUGH].ruling.value for each in deeper]
    assert "ok" in ends


def test_over_a_flat_back_the_room_is_what_was_asked() -> None:
    job = typed("shears", {"loop.landing": "back", "belt.thickness": "5mm", "belt.width": "32mm"})
    _, found = rides(job, 5.4)
    assert found.opening == pytest.approx(32 + job.settings.number("loop.play"), abs=0.7)
    assert found.deep == pytest.approx(5.5, abs=0.1)
    assert found.foot == pytest.approx(draft(job).carriage.foot, abs=0.6)
    case = draft(job).shell
    assert found.behind == pytest.approx(case.plane + case.leather.thickness + 5.5 / 2, abs=0.1)


SICKLE = ((0, 58, 60, 0.5), (30, 40, 58, 1), (70, 20, 50, 1.2), (120, 4, 38, 1.5), (170, 0, 30, 1.5), (190, 6, 26, 2),
          (200, 4, 30, 13), (320, 2, 32, 14))  # fmt: skip
WEDGE = (0, 0, 36, 6), (30, 0, 36, 20), (120, 0, 36, 25)


def pressed(rows: tuple[tuple[float, float, float, float], ...], round_: bool, method: str) -> Job:
    """A folded sheath moulded over a thing alike in front and behind: y, x of its sides, half its thickness."""
    shape = Shape.OVAL if round_ else Shape.SLAB
    stations = tuple(Station(y, a, b, half, half, shape) for y, a, b, half in rows)
    return Job("thing", "folded-sheath", stations, settings=Settings({"mould.method": method}))


@pytest.mark.parametrize("deep", some([9, 10, 12, 14, 16, 8]))
def test_a_deeper_loop_leaves_a_belt_more_play_however_it_bends_with_its_back(deep: float) -> None:
    """Behind a round handle it is less broad than it is cut, seen from behind, and a needle goes beside its edge."""
    job = pressed(SICKLE, True, "bone")
    plays = [judged(job.typed("loop.deep", f"{at}"), THROUGH).value for at in (6, deep)]
    assert plays[0] < 0 < plays[1]
    less = judged(job.typed("loop.deep", "8"), THROUGH).value
    assert plays[1] >= less
    made = draft(job.typed("loop.deep", "6"))
    assert lacks(made, (40.0, 4.0)) == pytest.approx(4.0 - rides(job.typed("loop.deep", "6"), 4.0)[1].deep, abs=0.4)


def test_a_loop_stands_where_a_thick_back_looks_back() -> None:
    """And not round its corner, on the side that is as long from the fold as the thing is thick there."""
    job = pressed(WEDGE, False, "fingers")
    made = draft(job)
    assert made.tab.middle + made.tab.width / 2 < -25.0
    behind = made.lies["body"](made.piece("body").holes_of("loop row 1", "back")).out[:, 2]
    assert (behind > -0.9).sum() <= 1  # a hole beside the corner
    assert judged(job, THROUGH).ruling == "ok"
    with pytest.raises(InputError, match="reach round the fold"):
        draft(job.typed("loop.width", "80"))


def test_a_loop_stands_by_how_thick_the_thing_is_where_it_stands_and_not_below() -> None:
    def bar(low: float, high: float) -> Fitted:
        rows = (Station(0, 0, 36, low, low, Shape.SLAB), Station(240, 0, 36, high, high, Shape.SLAB))
        made = draft(Job("bar", "folded-sheath", rows, (), Settings({"object.sharp": "none", "belt.width": 30.0})))
        assert isinstance(made, Fitted)
        return made

    tapered = bar(6.5, 1.5)
    assert tapered.tab is not None
    there = 6.5 - 5.0 * min(tapered.tab.back_rows) / 240
    even = bar(there, there)
    assert even.tab is not None
    assert tapered.tab.right == pytest.approx(even.tab.right, abs=0.9)  # 1.6 by how thick it is at its tip


def test_a_loop_of_its_own_is_made_deeper_where_it_lies_too_shallow() -> None:
    """It bends with a back that is round from side to side, and lies less far out at its edges than it was drawn."""
    job = demo.job("eaves-blade").typed("flap.closing", "plain")
    _, found = rides(job, 4.0)
    assert 4.0 - SHALLOW <= found.deep < 4.6
    _, shallow = rides(job.typed("loop.deep", "4.5"), 4.0)
    assert shallow.deep < found.deep - 0.5


@pytest.mark.parametrize(("number", "method"), [(605, "taut"), (614, "fingers")])
def test_where_parts_of_a_loop_come_away_from_each_other_its_room_is_not_shut(number: int, method: str) -> None:
    """The back's mouth is not level, and the loop's bow stands off what goes with the back."""
    assert judged(job_of(number, "folded-sheath", mould__method=method), THROUGH).ruling == "ok"


def test_a_loop_that_goes_with_a_back_is_as_deep_as_where_it_is_least() -> None:
    whole, found = rides(demo.job("shearing-blade"), 4.0)  # canted, its one side on a slope and its other on a blade
    asked = whole.draft.value("loop.deep")
    assert 3.0 < found.deep < asked < 5.0


@pytest.mark.parametrize("landing", ["slots", "ear"])
def test_a_belt_goes_through_the_round_ends_of_a_slot(landing: str) -> None:
    job = typed("eaves-blade", {"loop.landing": landing, "slots.width": "7mm", "slots.length": "45mm"})
    _, found = rides(job, 4.0)
    assert found.opening == pytest.approx(
        45 - 7 + np.sqrt(7**2 - 4**2), abs=0.1
    )  # a stadium, a chord 4 long at its ends
    assert found.deep == pytest.approx(7, abs=0.05)
    assert found.behind > -0.1  # where a belt lies behind the body of the case, not beside its front


def test_leather_weighs_where_it_lies() -> None:
    job = demo.job("eaves-blade")
    whole = Assembled(draft(job).unmarked())
    body = heavy(whole, 0.95)
    solids = [trimesh.Trimesh(*sheet.solid, process=False) for sheet in whole.skins.values()]
    masses = np.array([abs(solid.volume) for solid in solids]) * 0.95 / 1000
    metal = sum(np.pi / 4 * f.cap**2 * 1.6 * 8.5 / 1000 for p in whole.pieces.values() for f in p.fittings)
    assert body.mass == pytest.approx(masses.sum() + metal, rel=0.02)
    middle = masses @ np.array([solid.center_mass for solid in solids]) / masses.sum()
    assert (body.x, body.y) == pytest.approx(middle[:2], abs=1.0)
    sat = sitting(job.settings, whole.draft, whole)
    heavier = job.typed("object.mass", "2kg").typed("object.balance", "20mm")
    low = sitting(heavier.settings, draft(heavier), whole)
    assert low.hang.whole.y < sat.hang.whole.y
    assert low.hang.away > sat.hang.away


def test_what_stands_out_under_a_belt_is_measured_over_what_is_straight_between_the_rows() -> None:
    upper, lower = np.array([(0.0, 60.0), (20.0, 60.0)]), np.array([(0.0, 0.0), (20.0, 0.0)])

    def slope(at: np.ndarray) -> np.ndarray:
        return 3.0 + at[:, 1] * 0.2

    def bump(at: np.ndarray) -> np.ndarray:
        return slope(at) + 5.0 * np.exp(-((at[:, 1] - 40.0) ** 2) / 50) * (at[:, 0] > 10)

    assert standing_out(slope, upper, lower, (5, 55)) == pytest.approx(0, abs=1e-9)
    assert standing_out(bump, upper, lower, (0, 40)) == pytest.approx(5 / np.hypot(1, 0.2), abs=0.05)
    assert standing_out(bump, upper, lower, (50, 60)) < 0.1  # not under the belt


def test_a_loop_is_no_deeper_than_what_stands_out_under_it_there() -> None:
    asked = list[float]()

    def made(stands: float) -> float:
        asked.append(stands)
        if stands > 5:
            raise InputError("there is no room", "loop.landing", "ride by another way")
        return stands

    assert over_what_stands(made, lambda loop: 0.05) == 0.0
    assert over_what_stands(made, lambda loop: 3.0 - loop / 2) == pytest.approx(2.0, abs=0.2)
    assert over_what_stands(made, lambda loop: 7.0 - 2 * loop) == pytest.approx(7 / 3, abs=0.2)  # 7 is refused
    with pytest.raises(InputError, match="no room"):
        over_what_stands(made, lambda loop: 9.0)
    assert len(asked) < 40


def test_what_hangs_from_a_ring_or_a_clip_has_no_room_of_leather() -> None:
    for landing in ("dangler", "clip"):
        made = draft(typed("eaves-blade", {"loop.landing": landing, "belt.width": "38mm"}))
        assert ridden(Assembled(made.unmarked()), made.carriage, (38.0, 4.0)) is None


def test_how_it_rides_is_told_by_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    demo.write(tmp_path)
    job = str(tmp_path / "eaves-blade.tailor")
    assert main(["together", job, "--json"]) == 0
    told = json.loads(capsys.readouterr().out)["rides"]
    whole = Assembled(draft(demo.job("eaves-blade")).unmarked())
    sat = sitting(demo.job("eaves-blade").settings, whole.draft, whole)
    assert told["play"] == pytest.approx(sat.play, abs=1e-3)
    assert told["balance"] == pytest.approx([sat.hang.whole.x, sat.hang.whole.y, sat.hang.whole.z], abs=1e-3)
    assert told["room"] > 4.0
    assert main(["set", job, "loop.deep=4.5"]) == 0
    capsys.readouterr()
    assert main(["together", job]) == 1
    assert THROUGH in capsys.readouterr().out
    assert main(["together", str(tmp_path / "kit-bag.tailor"), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["rides"] is None
