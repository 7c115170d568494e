"""What is stamped, put on a patch and kept: counted, judged, worked in its order and read again."""

from __future__ import annotations

import json
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
import shapely

from tailor import demo
from tailor.core.bench.derived import derived
from tailor.core.bench.labour import labour, minutes
from tailor.core.bench.rates import Rates
from tailor.core.bench.schools import School
from tailor.core.carried.loft import Array
from tailor.core.checks.verdict import Ruling
from tailor.core.draft.draft import Draft
from tailor.core.draft.tooled.asked import Picture, Tooling
from tailor.core.draft.tooled.field import _bent
from tailor.core.draft.tooled.picture import apart
from tailor.core.draft.tooled.texture import repeated
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.measure import Theme
from tailor.core.placed.lies import Placed
from tailor.core.righting import put_right
from tailor.files import job_file
from tailor.files.tooling import asked_of
from tests.tooling import FLAG, LEAF, TURN, closed, every_field, line, picture, put_on, signed, to_segments


def test_a_woven_texture_is_counted_stamp_by_stamp() -> None:
    asked = Tooling(piece="left cap", lines=0, filling="weave", along=11.0, across=7.0, lean=30.0)
    _, made = put_on("kit-bag", asked)
    put = made.tooled[0]
    assert put.field is not None
    assert put.guide is not None
    assert put.repeats is not None
    region, found = put.field.region, put.repeats
    guide = put.guide[1] - put.guide[0]
    assert np.degrees(np.arctan2(*guide[::-1])) == pytest.approx(30.0)
    assert found.along * found.step + found.left == pytest.approx(np.hypot(*guide))
    start, whole = put.guide.mean(axis=0) - guide / np.hypot(*guide) * found.along * found.step / 2, 0
    u = guide / np.hypot(*guide)
    v = np.array([-u[1], u[0]])
    for row in range(-60, 60):
        for n in range(-60, 60):
            corner = start + (n + 0.5 * (row % 2)) * found.step * u + (row - 0.5) * 7.0 * v
            stamp = shapely.Polygon([corner, corner + found.step * u, corner + found.step * u + 7 * v, corner + 7 * v])
            whole += region.covers(stamp)
    assert found.whole == whole > 100
    assert found.whole * found.step * 7.0 < region.area < (found.whole + found.parts) * found.step * 7.0
    assert shapely.Point(*put.guide.mean(axis=0)).within(region)


@pytest.mark.parametrize(("length", "told"), [(90.0, (10, 9.0, 0.0)), (92.0, (10, 9.2, 0.0)), (88.5, (10, 8.85, 0.0)),
                         (94.0, (10, 9.0, 4.0)), (4.0, (0, 9.0, 4.0))])  # fmt: skip
def test_stamps_end_whole_where_a_hair_between_them_does_it(length: float, told: tuple[int, float, float]) -> None:
    assert repeated(length, 9.0) == pytest.approx(told)


def test_lines_that_run_beside_one_another_are_told_apart_from_lines_that_cross_or_meet() -> None:
    long = np.column_stack([np.linspace(0, 40, 9), np.zeros(9)])
    assert apart([long, long + np.array([0.0, 0.7])]) == pytest.approx(0.7, abs=0.01)
    assert apart([long, long[:, ::-1] - np.array([-20.0, 20.0])]) == np.inf or apart([long, long[:, ::-1]]) > 1.0
    ring = np.column_stack([10 * np.cos(TURN), 10 * np.sin(TURN)])
    assert apart([closed(ring)]) > 2.0
    hairpin = np.array([(0.0, 0.0), (30.0, 0.0), (30.0, 0.8), (0.0, 0.8)])
    assert apart([hairpin]) == pytest.approx(0.8, abs=0.05)


def of(job: Job, made: Draft, name: str) -> Ruling:
    return next(v.ruling for v in judge(job, made) if v.theme is Theme.TOOLING and v.name.startswith(name))


def test_what_does_not_stand_is_told_and_put_right() -> None:
    big = picture("body", side="front", width=120.0, depth=2.5)
    job, made = put_on("eaves-blade", big)
    assert of(job, made, "Stays in its field") is Ruling.STOP
    assert of(job, made, "Leaves leather under it") is Ruling.STOP
    put = put_right(job)
    left = [v.name for v in judge(put.job, draft(put.job)) if v.theme is Theme.TOOLING and v.ruling is not Ruling.OK]
    assert left == []
    fine = picture("cover", drawn=tuple(line(LEAF + np.array([0, 0.4 * k])) for k in range(4)), width=20.0)
    job, made = put_on("site-book", fine)
    assert of(job, made, "Lines a knife can follow") is not Ruling.OK
    assert of(*put_on("crew-cards", Tooling(piece="front")), "Leather takes it") is Ruling.LOOK
    job, made = put_on("radio", picture("front blank", width=74.0, at=(0.0, 0.0)))
    assert of(job, made, "Stands right once formed") is Ruling.LOOK
    job, made = put_on("laser-level", Tooling(piece="front"))
    assert of(job, made, "Seen once it is whole") is Ruling.LOOK  # its flap comes down over it
    job, made = put_on("eaves-blade", Tooling(piece="lid", side="left"))
    assert of(job, made, "Has a field") is Ruling.STOP
    put = put_right(job)  # it goes where there is room
    assert draft(put.job).tooled[0].field is not None
    job, made = put_on("eaves-blade", Tooling(piece="body", lines=2), picture("body", side="front"))
    assert all(v.ruling is Ruling.OK for v in judge(job, made) if v.theme is Theme.TOOLING)
    inner = made.tooled[0].lines[1]
    rim = to_segments(np.vstack(made.tooled[1].lines), inner)
    assert shapely.Polygon(inner).covers(shapely.MultiPoint(np.vstack(made.tooled[1].lines)))
    assert rim.min() > 2.4  # a border and its picture stand apart


def test_it_is_tooled_flat_damp_and_backed_after_cutting_and_before_dye_and_glue() -> None:
    asked = Tooling(piece="body", side="front", filling="weave"), picture("body", side="back")
    _, made = put_on("eaves-blade", *asked)
    steps = derived(made, Rates(), School(dye="before"))
    work = ["trace body", "carve body", "bevel body", "strike body"]
    order = ["cut", "back body", "damp body to tool", *work, "peel body", "dye"]
    for before, after in pairwise(order):
        assert before in steps.earlier(after)
    assert "peel body" in steps.earlier("glue main seam" if "glue main seam" in steps else "glue the main seam")
    waits = {(f.before, f.after): f.least for f in steps.follows}
    assert waits["damp body to tool", "trace body"] == 20
    assert waits["strike body", "peel body"] == 120
    weave, leaf = made.tooled
    assert weave.repeats is not None
    metres = sum(shapely.LineString(each).length for each in leaf.lines) / 1000
    edge = sum(shapely.LineString(each).length for each in weave.lines) / 1000
    assert steps["bevel body"].minutes == pytest.approx(10.0 * metres)
    assert steps["carve body"].minutes == pytest.approx(8.0 * (metres + edge))
    assert steps["strike body"].minutes == pytest.approx(0.05 * (weave.repeats.whole + weave.repeats.parts))
    own = sum(steps[key].minutes for key in work)
    assert minutes(labour(made)) - minutes(labour(put_on("eaves-blade")[1])) == pytest.approx(own)


@pytest.mark.parametrize(("name", "piece", "hand"), [("kit-bag", "left cap", "right"), ("spar-bag", "front", "left"),
                         ("radio", "front blank", "right"), ("kit-bag", "body", "right")])  # fmt: skip
def test_a_mark_on_a_patch_is_riveted_on_where_it_is_put(name: str, piece: str, hand: str) -> None:
    asked = picture(piece, drawn=(line(FLAG),), width=20.0, mark=True, patch=True, turn=15.0)
    job = replace(demo.job(name), tooling=(asked,)).typed("hand", hand)
    made = draft(job).unmarked()
    patch, ground = made.piece("patch 1"), made.piece(piece)
    rivets = [f for f in patch.fittings if f.place]
    assert len(rivets) == 2
    for rivet in rivets:  # each goes through both, where they lie on one another
        below = next(f for f in ground.fittings if f.place == rivet.place)
        on, under = (made.lies[n](np.array([[f.x, f.y]])) for n, f in (("patch 1", rivet), (piece, below)))
        assert np.linalg.norm(on.at - under.at) == pytest.approx(ground.thickness, abs=0.05)
        assert ((on.at - under.at) * under.out).sum() > 0  # on the grain
        post = next(h.post for h in made.hardware if h.place == rivet.place)
        assert post is not None
        assert post > 2 * ground.thickness
    drawn = next(rule.points for rule in patch.rules if rule.kind == "mark")
    assert np.ptp(drawn[:, 0]) < np.ptp(patch.cut[:, 0]) - 2 * rivets[0].cap
    assert signed(drawn) * signed(asked.drawn[0].array) * (1 if hand == "right" else -1) > 0
    pole = made.lies["patch 1"](drawn[:2]).at
    lean = np.degrees(np.arccos((pole[1] - pole[0])[1] / np.linalg.norm(pole[1] - pole[0])))
    if piece in ("left cap", "front"):  # which stand upright
        assert lean == pytest.approx(15.0, abs=1.5)
    steps = derived(made, Rates())
    assert "peel patch 1" in steps.earlier("hardware")
    grave = [v for v in judge(job, made) if v.ruling is Ruling.STOP]
    assert [v.name for v in grave if "patch" in v.name or "Fasten" in v.name] == []


def test_it_is_kept_in_the_job_and_typed_by_name() -> None:
    job, made = put_on("eaves-blade", Tooling(piece="body", filling="weave", along=8.5), picture("body", mark=True))
    again = job_file.from_text(job_file.to_text(job))
    assert draft(again).tooled[1].width == pytest.approx(made.tooled[1].width, abs=0.01)
    assert again.tooling[0] == job.tooling[0]
    assert '"version": 5' in job_file.to_text(job)
    assert '"version": 3' in job_file.to_text(replace(job, tooling=()))
    job = job.typed("tooling.1.lean", "30").typed("tooling.2.width", "1in").typed("tooling.2.x", "-3mm")
    assert (job.tooling[0].value("lean"), job.tooling[1].value("width")) == (30.0, pytest.approx(25.4))
    assert job.tooling[1].value("x") == -3.0
    assert job.typed("tooling.2.x", "auto").tooling[1].value("x") is None
    wrong = [("3.width", "3mm", "tooling.1 to tooling.2"), ("1.width", "3", "give one of")]
    for key, text, said in [*wrong, ("1.lean", "400", "above the most"), ("2.mirrored", "so", "no or yes")]:
        with pytest.raises(InputError, match=said):
            job.typed(f"tooling.{key}", text)
    least = '{"kind": "picture", "piece": "body", "name": "x", "drawn": [{"points": "0,0 3,4"}]}'
    plain = asked_of(json.loads(least))
    assert plain == Picture(piece="body", name="x", drawn=(line(((0.0, 0.0), (3.0, 4.0)), closed=False),))
    with pytest.raises(InputError, match="row of places"):
        job_file.from_text(job_file.to_text(job).replace('"points": "', '"points": "nan,1 '))
    with pytest.raises(InputError, match="no size"):
        Picture(piece="body", name="dot", drawn=(line(((1.0, 1.0), (1.0, 1.0))),))


@pytest.mark.parametrize(
    ("name", "piece", "sides"),
    [
        ("peg-tray", "tray", {"under": (0, 1), "right": (1, 0), "left": (-1, 0), "front": (0, 1), "back": (0, -1)}),
        ("eaves-blade", "body", {"front": (0, 1), "back": (0, 1)}),
        ("site-book", "cover", {"front": (0, 1), "back": (0, 1), "left": (0, 1)}),
        ("laser-level", "back", {"back": (0, 1), "top": (0, 1), "top 2": (0, 1), "front": (0, -1)}),
        ("old-pouch", "front", {"front": (0, 1)}),
    ],
)
def test_sides_are_named_by_where_they_look_and_know_which_way_is_up(
    name: str, piece: str, sides: dict[str, tuple[int, int]]
) -> None:
    found = {field.side: field for p, field in every_field(name) if p.name == piece}
    assert set(found) == set(sides)
    assert next(iter(found.values())).region.area == max(field.region.area for field in found.values())
    for side, up in sides.items():
        assert found[side].up == pytest.approx(up, abs=0.03)
    # What was put there before it was known how the piece lies stays on its largest field.
    assert put_on(name, Tooling(piece=piece, side="face"))[1].tooled[0].field == next(iter(found.values()))


def test_seed_and_random_stamps_are_counted_by_the_leather_they_cover() -> None:
    minutes_ = {}
    for filling in ("plain", "seed", "random"):
        _, made = put_on("kit-bag", Tooling(piece="left cap", lines=0, filling=filling))
        steps = derived(made, Rates())
        area = made.tooled[0].area
        minutes_[filling] = steps["strike left cap"].minutes if "strike left cap" in steps else 0.0
        assert [rule.kind for rule in made.piece("left cap").rules if rule.kind == "field"] == ["field"]
    region = made.tooled[0].field
    assert region is not None
    assert area == pytest.approx(region.region.area)
    assert minutes_["plain"] == 0.0
    assert minutes_["seed"] == pytest.approx(0.05 * area / 9.0)
    assert minutes_["random"] == pytest.approx(0.05 * area / 40.0)


def test_a_fold_bends_as_far_as_the_further_of_its_sides() -> None:
    def lie(flat: Array) -> Placed:  # a quarter turn that begins at the fold, on one side of it only
        turn = np.clip(flat[:, 0] / 10.0, 0, np.pi / 2)
        return Placed(np.zeros((len(flat), 3)), np.column_stack([np.sin(turn), np.zeros(len(flat)), np.cos(turn)]))

    assert _bent(lie, np.array([(0.0, 0.0), (0.0, 50.0)])) == pytest.approx(10 * np.pi / 2, abs=0.3)  # type: ignore[arg-type]
