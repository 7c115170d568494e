"""What is put on the leather: by brute force on flat pieces, and by the assembly, which shares no formula with it."""

from __future__ import annotations

import json
from dataclasses import replace
from functools import cache
from itertools import pairwise

import numpy as np
import pytest
import scipy
import shapely

from tailor import demo
from tailor.core.bench.derived import derived
from tailor.core.bench.labour import labour, minutes
from tailor.core.bench.rates import Rates
from tailor.core.bench.schools import School
from tailor.core.carried.loft import Array
from tailor.core.checks.verdict import Ruling
from tailor.core.draft.draft import Draft, Fitted
from tailor.core.draft.fitted.panels import as_cut
from tailor.core.draft.piece import Piece
from tailor.core.draft.tooled.asked import Line, Picture, Tooling
from tailor.core.draft.tooled.came import Field, Tooled
from tailor.core.draft.tooled.field import _bent, fields, is_tooled
from tailor.core.draft.tooled.picture import apart
from tailor.core.draft.tooled.texture import repeated
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.measure import Theme
from tailor.core.placed.lies import Placed
from tailor.core.righting import put_right
from tailor.files import job_file
from tailor.files.tooling import asked_of
from tests import things
from tests.sweeps import about, some

OFF = 0.05  # mm that a distance may be short
TURN = np.linspace(0, 2 * np.pi, 25)[:-1]
LEAF = np.column_stack([14 * np.cos(TURN), 8 * np.sin(TURN) + 3 * np.cos(TURN) ** 2])
FLAG = ((0.0, 0.0), (0.0, 20.0), (9.0, 16.0), (0.0, 12.0))  # of no symmetry


def line(points: Array | tuple[tuple[float, float], ...], closed: bool = True) -> Line:
    return Line(tuple((float(x), float(y)) for x, y in points), closed)


def picture(piece: str, **more: object) -> Picture:
    told = {"name": "leaf", "drawn": (line(LEAF), line(((-14.0, 0.0), (14.0, 0.0)), closed=False))} | more
    return Picture(piece=piece, **told)  # type: ignore[arg-type]


@cache
def made_of(name: str) -> Draft:
    return draft(demo.job(name)).unmarked()


def put_on(name: str, *asked: Tooling | Picture, **settings: str) -> tuple[Job, Draft]:
    job = replace(demo.job(name), tooling=asked)
    for key, text in settings.items():
        job = job.typed(key.replace("_", ".", 1), text)
    return job, draft(job)


def every_field(name: str, **settings: str) -> list[tuple[Piece, Field]]:
    job, made = demo.job(name), made_of(name)
    for key, text in settings.items():
        job = job.typed(key.replace("_", ".", 1), text)
    pieces = [piece for piece in made.pieces if is_tooled(piece)]
    return [(piece, field) for piece in pieces for field in fields(job.settings.afresh(), made, piece)]


def to_segments(places: Array, ring: Array) -> Array:
    """How far places are from a polyline (n, 2), by hand."""
    a, b = ring[:-1], ring[1:]
    along = b - a
    share = ((places[:, None] - a) * along).sum(axis=2) / np.maximum((along**2).sum(axis=1), 1e-12)
    foot = a + np.clip(share, 0, 1)[:, :, None] * along
    return np.asarray(np.hypot(*(places[:, None] - foot).transpose(2, 0, 1)).min(axis=1))


def closed(ring: Array) -> Array:
    return np.vstack([ring, ring[:1]])


def shortfall(piece: Piece, spots: Array, back: float, clear: float) -> Array:
    """How much further off than they must be places (n, 2) are from all that a tool keeps clear of, by hand."""
    edges = [closed(piece.cut), *map(closed, piece.openings)]
    edges += [] if piece.trim is None else [closed(piece.trim)]
    edges += [rule.points for rule in piece.rules if rule.kind in ("trim", "mouth")]
    found = [to_segments(spots, edge) - back for edge in edges]
    found += [np.hypot(*(spots - [h.x, h.y]).T) - h.diameter / 2 - clear for h in piece.holes]
    found += [np.hypot(*(spots - [f.x, f.y]).T) - f.cap / 2 - clear for f in piece.fittings]
    found += [to_segments(spots, kept) - clear for kept in (*piece.folds, *piece.stitch)]
    return np.asarray(np.min(found, axis=0))


def rims(found: list[tuple[Piece, Field]], piece: Piece) -> Array:
    mine = [field.region for p, field in found if p is piece]
    return np.vstack([shapely.get_coordinates(shapely.segmentize(region, 1.5)) for region in mine])


@pytest.mark.parametrize("name", some(demo.names()))
def test_fields_keep_their_distances_whatever_is_asked_and_are_no_smaller_than_that(name: str) -> None:
    r = np.random.default_rng(demo.names().index(name))
    margin = made_of(name).reasons["seam.margin"].value if "seam.margin" in made_of(name).reasons else 4.0
    asked = [(None, 3.0, 4.0), *((r.uniform(3, 16), r.uniform(0, 8), r.uniform(1, 9)) for _ in range(2))]
    for back, clear, round_ in asked:
        typed = {"tool_clear": f"{clear:.3f}mm", "tool_round": f"{round_:.3f}mm"}
        typed |= {} if back is None else {"tool_setback": f"{back:.3f}mm"}
        least = 2 * margin if back is None else back
        found = every_field(name, **typed)
        assert found or back is not None
        for piece in {p.name: p for p, _ in found}.values():
            assert shortfall(piece, rims(found, piece), least, clear).min() > -OFF
            if piece.name in ("left cap", "channels"):  # on which nothing lies
                spots = r.uniform(piece.cut.min(axis=0), piece.cut.max(axis=0), (400, 2))
                spots = spots[shapely.contains_xy(shapely.Polygon(piece.cut), *spots.T)]
                roomy = spots[shortfall(piece, spots, least, clear) > round_ + 6]  # by no rule out, nor in a corner
                every = shapely.union_all([field.region for p, field in found if p is piece])
                assert len(roomy) > 5
                assert shapely.distance(every, shapely.points(roomy)).max() < OFF


def test_a_field_found_for_a_glance_is_not_taken_for_the_true_one() -> None:
    job, made = demo.job("spar-hook"), made_of("spar-hook")
    piece = next(piece for piece in made.pieces if is_tooled(piece))
    glance, true = (
        fields(job.settings.afresh(), replace(made, rough=rough), piece)[0].region for rough in (True, False)
    )
    assert len(shapely.get_coordinates(glance)) < len(shapely.get_coordinates(true)) - 50
    assert shapely.hausdorff_distance(glance, true) < 1.0


def fields_of_a_random_thing(number: int) -> bool:
    """Whether there are any; they keep their distances."""
    r = np.random.default_rng(number)
    style = str(r.choice(["two-panel", "folded-sheath", "flat-back", "slip-case", "gusseted-box", "boxed-bag", "tray"]))
    back, clear = r.uniform(3, 14), r.uniform(0, 6)
    try:
        job = things.job_of(number, style).typed("tool.setback", f"{back}mm").typed("tool.clear", f"{clear}mm")
        made = draft(job).unmarked()
    except InputError:
        return False
    found = [(p, f) for p in made.pieces if is_tooled(p) for f in fields(job.settings.afresh(), made, p)]
    for piece in {p.name: p for p, _ in found}.values():
        assert shortfall(piece, rims(found, piece), back, clear).min() > -OFF, (number, style, piece.name)
    return bool(found)


def test_fields_keep_their_distances_on_random_things() -> None:
    assert sum(map(fields_of_a_random_thing, range(about(12)))) >= about(12) / 3


LIFTED = {("laser-level", "front", "back"), ("site-book", "cover", "keeper")}  # a flap and a strap, lifted to open it


@pytest.mark.parametrize("name", some(demo.names()))
def test_nothing_lies_on_a_field_once_it_is_put_together(name: str) -> None:
    made = made_of(name)
    solids = {}
    for piece in made.pieces:
        if piece.name in made.lies:
            low, high = piece.cut.min(axis=0), piece.cut.max(axis=0)
            grid = np.stack(np.meshgrid(*(np.arange(low[k], high[k], 2.0) for k in (0, 1))), axis=2).reshape(-1, 2)
            grid = grid[shapely.contains_xy(shapely.Polygon(piece.cut), *grid.T)]
            solids[piece.name] = made.lies[piece.name](grid).at
    for piece, field in every_field(name):
        if piece.name not in solids:
            continue
        rim = shapely.get_coordinates(shapely.segmentize(field.region, 3.0))
        spots = made.lies[piece.name](np.vstack([rim, field.middle]))
        for other, solid in solids.items():
            if other == piece.name or (name, piece.name, other) in LIFTED:
                continue
            thick = (piece.thickness + made.piece(other).thickness) / 2
            off, near = scipy.spatial.cKDTree(solid).query(spots.at, distance_upper_bound=thick + 1.0)
            found = np.isfinite(off)
            above = ((solid[near[found]] - spots.at[found]) * spots.out[found]).sum(axis=1)
            assert not (above > 0.6 * thick).any(), (piece.name, field.side, other)


def test_a_field_follows_a_measure_that_is_dragged() -> None:
    low, high = (put_on("eaves-blade", Tooling(piece="body"), mouth_y=y)[1].tooled[0].field for y in ("170mm", "180mm"))
    assert low is not None
    assert high is not None
    assert high.region.bounds[3] - low.region.bounds[3] == pytest.approx(10.0, abs=0.6)
    assert high.side == low.side == "front"


def formed_by_hand(made: Fitted, put: Tooled, lines: list[Array]) -> list[Array]:
    """Lines on a formed panel in space, straight from its grid, by triangles: what the lies are not asked."""
    assert put.field is not None
    front = not put.field.piece.startswith("back")
    panel = made.formed[0 if front else -1]
    uv, at = as_cut(made, panel).reshape(-1, 2), panel.places.reshape(-1, 3)
    where = scipy.interpolate.LinearNDInterpolator(uv, at)
    return [where(each * (1 if front else np.array([-1.0, 1.0]))) for each in lines]


MOULDED = [("radio", "front blank"), ("radio", "back blank"), ("shears", "front blank"), ("stapler", "front"),
           ("leggett", "front"), ("spar-hook", "front blank")]  # fmt: skip


@pytest.mark.parametrize(("name", "piece"), MOULDED)
def test_a_picture_on_a_moulded_front_stands_right_by_another_mapping(name: str, piece: str) -> None:
    t = np.linspace(-1, 1, 41)
    rows = [line(np.column_stack([15 * t, np.full(41, y)]), closed=False) for y in (-10.0, 0.0, 10.0)]
    posts = [line(np.column_stack([np.full(41, x), 10 * t]), closed=False) for x in (-15.0, 0.0, 15.0)]
    _, made = put_on(name, picture(piece, drawn=(*rows, *posts)))
    (put,) = made.tooled
    assert isinstance(made, Fitted)
    assert put.out == 0
    assert put.width > 8
    scale = put.width / 30.0
    seen = formed_by_hand(made, put, list(put.lines))
    for flat, drawn in zip(seen, (*rows, *posts), strict=True):
        steps = np.linalg.norm(np.diff(flat[::4], axis=0), axis=1)  # past the corners of single triangles
        own = np.hypot(*np.diff(np.array(drawn.points)[::4], axis=0).T) * scale
        assert np.abs(steps / own - 1).max() < 0.01
        assert steps.sum() == pytest.approx(own.sum(), rel=0.006)
    for row, y in zip(seen[:3], (0, 20, 40), strict=True):
        for post, x in zip(seen[3:], (0, 20, 40), strict=True):
            way, up = row[min(x + 5, 40)] - row[max(x - 5, 0)], post[min(y + 5, 40)] - post[max(y - 5, 0)]
            off = np.degrees(np.arcsin(way @ up / np.linalg.norm(way) / np.linalg.norm(up)))
            assert abs(off) < 1.0
    up = seen[4][-1] - seen[4][0]
    assert up[1] / np.linalg.norm(up) > 0.9  # and its head is up
    plain = put.lines[1][-1] - put.lines[1][0]
    if name == "radio":  # moulded leather gives: on the flat it is drawn smaller than it is seen
        assert np.hypot(*plain) < 0.985 * put.width


def test_a_picture_stands_upright_as_it_is_looked_at() -> None:
    for reads, way in (("worn", 1), ("held", -1)):
        _, made = put_on("kit-bag", picture("body", side="back", drawn=(line(FLAG),), reads=reads))
        (put,) = made.tooled
        assert put.field is not None
        foot, head = made.lies["body"](put.lines[0][:2]).at  # there the piece runs down
        assert way * (head - foot)[1] > 0.9 * np.linalg.norm(head - foot)
    _, made = put_on("kit-bag", picture("body", side="back", drawn=(line(FLAG),), reads="opened"))
    pole = made.tooled[0].lines[0]
    assert pole[1, 1] - pole[0, 1] == pytest.approx(np.hypot(*(pole[1] - pole[0])))


def signed(ring: Array) -> float:
    return float((ring[:-1, 0] * ring[1:, 1] - ring[1:, 0] * ring[:-1, 1]).sum())


def test_it_reads_the_same_on_a_left_hand_and_only_mirrored_turns_it_over() -> None:
    asked = picture("body", side="front", drawn=(line(FLAG),), width=9.0, turn=20.0, at=(2.0, 5.0))
    way = signed(asked.drawn[0].array)
    shapes = {}
    for hand in ("right", "left"):
        job = replace(demo.job("shearing-blade"), tooling=(asked,)).typed("hand", hand)
        rules = [r.points for r in draft(job).piece("body").rules if r.kind == "picture"]
        shapes[hand] = rules[0] - rules[0].mean(axis=0)
        assert signed(rules[0]) * way > 0
    assert np.abs(shapes["left"] - shapes["right"]).max() < 0.01  # the same picture, turned the same way
    _, made = put_on("shearing-blade", replace(asked, mirrored=True))
    assert signed(made.tooled[0].lines[0]) * way < 0


def test_where_it_is_put_is_from_the_middle_of_its_field_as_it_reads() -> None:
    _, made = put_on("kit-bag", picture("left cap", width=20.0, at=(7.0, -11.0)))
    put = made.tooled[0]
    assert put.field is not None
    every = np.vstack(put.lines)
    middle = (every.min(axis=0) + every.max(axis=0)) / 2
    assert middle - put.field.middle == pytest.approx([7.0, -11.0], abs=0.3)
    assert np.ptp(every[:, 0]) == pytest.approx(20.0, abs=0.1)


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


def test_a_picture_as_large_as_stands_right_is_the_largest_that_fits() -> None:
    square = picture("left cap", drawn=(line(((0.0, 0.0), (10.0, 0.0), (10.0, 10.0), (0.0, 10.0))),))
    _, made = put_on("kit-bag", square)
    put = made.tooled[0]
    assert put.field is not None
    every = np.vstack(put.lines)
    assert put.field.region.covers(shapely.MultiPoint(every))
    middle, r = every[:-1].mean(axis=0), np.random.default_rng(5)
    half = put.width / 2
    for _ in range(300):  # no place at all takes one that is much larger
        at = middle + r.uniform(-40, 40, 2)
        larger = shapely.box(*(at - 1.06 * half), *(at + 1.06 * half))
        assert not put.field.region.covers(larger)


def test_a_fold_bends_as_far_as_the_further_of_its_sides() -> None:
    def lie(flat: Array) -> Placed:  # a quarter turn that begins at the fold, on one side of it only
        turn = np.clip(flat[:, 0] / 10.0, 0, np.pi / 2)
        return Placed(np.zeros((len(flat), 3)), np.column_stack([np.sin(turn), np.zeros(len(flat)), np.cos(turn)]))

    assert _bent(lie, np.array([(0.0, 0.0), (0.0, 50.0)])) == pytest.approx(10 * np.pi / 2, abs=0.3)  # type: ignore[arg-type]
