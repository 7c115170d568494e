"""What is put on the leather: by brute force on flat pieces, and by the assembly, which shares no formula with it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import scipy
import shapely

from tailor import demo
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Fitted
from tailor.core.draft.fitted.panels import as_cut
from tailor.core.draft.piece import Piece
from tailor.core.draft.tooled.asked import Tooling
from tailor.core.draft.tooled.came import Field, Tooled
from tailor.core.draft.tooled.field import fields, is_tooled
from tailor.core.errors import InputError
from tailor.core.job import draft
from tests import things
from tests.sweeps import about, some
from tests.tooling import FLAG, closed, every_field, line, made_of, picture, put_on, signed, to_segments

OFF = 0.05  # mm that a distance may be short


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
