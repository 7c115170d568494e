"""What is sewn on, put together: pleats, fullness, gussets and flaps as sheets that keep their lengths and meet."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
import shapely

from tailor import demo
from tailor.core.checks import added
from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.placed.fanned import Fan
from tailor.core.placed.lies import FRONT, Bent, Seated, flat_at, strain
from tailor.core.placed.path import rounded
from tailor.core.together.assembled import Assembled
from tailor.core.together.closing import Closing
from tailor.core.together.mesh import skin
from tests.lofts import typed
from tests.sweeps import some

OPENING = ["puckered pocket", "bellows pocket", "gusseted pocket"]
KINDS = [*OPENING, "pocket", "moulded pocket", "loop", "ring tab", "strap"]
PLACES = [("spar-bag", "front"), ("kit-bag", "body"), ("whetstone", "back"), ("eaves-blade", "body")]


def sewn(name: str, on: str, kind: str, **settings: str) -> Job:
    return typed(demo.job(name), patch__on=on, patch__kind=kind, **settings)


def of(made: Draft, kind: str) -> list[str]:
    return [piece.name for piece in made.pieces if piece.name.startswith(kind)]


@pytest.mark.parametrize(("place", "kind"), some(itertools.product(PLACES, KINDS)))
def test_it_meets_what_it_is_sewn_to_and_its_flap_shuts(place: tuple[str, str], kind: str) -> None:
    name, on = place
    flap = {"patch__flap": "snap 10"} if kind in (*OPENING, "pocket") else {}
    if (name, kind) == ("eaves-blade", "gusseted pocket"):
        with pytest.raises(InputError, match="corners of 12 mm"):
            draft(sewn(name, on, kind, **flap))
        return
    made = draft(sewn(name, on, kind, **flap))
    whole, own = Assembled(made), [each for each in of(made, kind) if each != "pocket row"]
    assert set(own) <= made.lies.keys()
    met = [each.distance for each in whole.seams if set(own) & set(each.names)]
    assert len(met) > 5
    assert max(met) < 0.05
    shuts = [each.distance for each in whole.shut if each.name == f"{kind} flap"]
    assert (len(shuts), max(shuts, default=0.0) < 0.05) == (len(flap), True)


@pytest.mark.parametrize(("angle", "opens"), [(0.2, 0.05), (0.2, 0.19), (0.9, 0.3), (0.9, 0.85)])
def test_pleats_fold_without_any_strain(angle: float, opens: float) -> None:
    """Places of one facet lie as far apart as they are flat; either side lies where it is sewn."""
    fan = Fan(40.0, 12.0, angle)
    lie = fan.pleated(0.8, opens)
    rng = np.random.default_rng(3)
    within = [(rng.uniform(-39, 39, 30), rng.uniform(13, 80, 30)), (rng.uniform(-39, 39, 30), rng.uniform(-8, 11, 30))]
    turns = (0.02, angle / 2 - 0.02), (angle / 2 + 0.02, angle)
    for low, high in turns:
        way, far = rng.uniform(low, high, 30), rng.uniform(1, 60, 30)
        within += [(side * (40 + far * np.sin(way)), 12 + far * np.cos(way)) for side in (-1, 1)]
    for across, up in within:
        flat = np.column_stack([across, up])
        apart = np.linalg.norm(np.diff(lie(flat).at, axis=0), axis=1)
        assert apart == pytest.approx(np.hypot(*np.diff(flat, axis=0).T), abs=1e-9)
    side = np.column_stack([np.full(9, 40.0), np.linspace(12.5, 70, 9)])
    assert lie(fan.opened(side)).at == pytest.approx(np.column_stack([side, np.full(9, 0.8)]), abs=1e-9)
    assert fan.opened(side * [-1, 1]) == pytest.approx(fan.opened(side) * [-1, 1])
    turn = fan.notch(5.0)  # where its edge turns, as far outside the side below as outside the side that leans
    assert [turn[0] - 40, (turn - fan.corner) @ fan.outward] == pytest.approx([5.0, 5.0])
    top = lie(np.array([[0.0, 72.0]])).at[0]
    assert top == pytest.approx([0.0, 12 + 60 * np.cos(opens), 0.8 + 60 * np.sin(opens)])


def test_a_puckered_brim_is_as_long_as_it_is_cut() -> None:
    fan = Fan(40.0, 12.0, 0.15)
    lie = fan.bowed(0.8)
    half = 40 + 60 * np.tan(0.15)
    for share in (0.25, 1.0):
        line = np.column_stack([np.linspace(-1, 1, 4001) * (40 + share * (half - 40)), np.full(4001, 12 + 60 * share)])
        placed = lie(line).at
        assert np.linalg.norm(np.diff(placed, axis=0), axis=1).sum() == pytest.approx(2 * line[-1, 0], rel=1e-5)
        assert placed[[0, -1], 0] == pytest.approx([-40, 40])
        assert placed[[0, -1], 2] == pytest.approx([0.8, 0.8])
        assert placed[2000, 2] > 10 * share
    side = np.column_stack([np.full(9, 40.0), np.linspace(13, 70, 9)])
    assert lie(fan.opened(side)).at == pytest.approx(np.column_stack([side, np.full(9, 0.8)]), abs=1e-6)
    within = fan.opened(side[2:]) - [0.02, 0.0]  # beside its stitches it is bent, not sheared
    assert np.abs(strain(lie, within)).max() < 0.01
    below = np.array([[10.0, 3.0], [-39.0, 11.0]])
    assert lie(below).at == pytest.approx(np.column_stack([below, [0.8, 0.8]]))
    assert lie(below).out == pytest.approx(np.tile([0.0, 0.0, 1.0], (2, 1)))


@pytest.mark.parametrize("kind", ["puckered pocket", "bellows pocket"])
def test_its_sides_are_stitched_as_far_apart_as_their_seat(kind: str) -> None:
    made = draft(sewn("spar-bag", "front", kind))
    own = made.piece(kind).holes_of(kind, kind)
    under = made.piece("front").holes_of(kind, f"under the {kind}")
    chords = [np.hypot(*np.diff(row, axis=0).T) for row in (own, under)]
    assert chords[0] == pytest.approx(chords[1], abs=1e-6)
    assert shapely.Polygon(made.piece(kind).cut).buffer(-1.5).contains(shapely.MultiPoint(own))


def test_a_pleat_is_slit_to_its_seam_and_as_deep_as_it_is_asked() -> None:
    made = draft(sewn("spar-bag", "front", "bellows pocket", patch__pleat="15", patch__width="90", patch__height="100"))
    own = made.piece("bellows pocket")
    corner, edge = np.abs(own.folds[-1])
    inner = made.lies["bellows pocket"](np.array([edge * 0.99999])).at[0]  # where the pleat turns back, at the brim
    assert corner[0] - 15.0 < inner[0] < corner[0] - 12.0  # standing open, it lies a little less deep
    slits = [rule.points for rule in own.rules if rule.kind == "slit"]
    assert len(slits) == 2
    outline, holes = shapely.Polygon(own.cut), shapely.MultiPoint([(h.x, h.y) for h in own.holes])
    for line in map(shapely.LineString, slits):
        assert outline.exterior.distance(shapely.Point(line.coords[0])) < 1e-6
        assert 1.0 < line.distance(holes) < 2.0
    shallow = draft(sewn("shears", "back", "bellows pocket"))
    assert 3 < shallow.value("patch.pleat") < 12
    with pytest.raises(InputError, match="too deep for a pocket"):
        draft(sewn("spar-bag", "front", "bellows pocket", patch__pleat="60", patch__height="100"))


def test_a_gussets_edges_are_slit_where_they_turn() -> None:
    made = draft(sewn("spar-bag", "front", "gusseted pocket"))
    strip = made.piece("gusseted pocket gusset")
    slits = [rule.points for rule in strip.rules if rule.kind == "slit"]
    assert len(slits) > 8
    assert 0.5 < made.value("patch.edges") <= 1.0
    asked = next(each for each in Assembled(made).strains if each.piece == strip.name)
    assert asked.most < demo.job("spar-bag").settings.number("leather.stretch_across")
    job, asked_of = sewn("spar-bag", "front", "gusseted pocket"), made.reasons["patch.edges"]
    for share, ruling in ((asked_of.value, "ok"), (1.2, "look"), (1.7, "stop")):
        told = replace(made, reasons={**made.reasons, "patch.edges": replace(asked_of, value=share)})
        (said,) = added.verdicts(job.settings, told)
        assert (said.ruling, said.value) == (ruling, 100 * share)
    assert not list(added.verdicts(job.settings, draft(job.typed(*said.remedies[0]))))
    front = made.lies["gusseted pocket"](np.array([[0.0, 40.0]])).at[0]
    back = made.lies["front"](np.zeros((1, 2))).at[0]
    assert front[2] - back[2] == pytest.approx(20.0 + 1.6)  # the room through it, between the leather's faces


def test_what_is_sewn_round_a_sharp_bend_is_told_and_ended() -> None:
    job = sewn("spar-bag", "front", "pocket", patch__width="270", patch__height="60")
    (said,) = [v for v in judge(job, draft(job)) if v.alike == "Lies down"]
    assert (said.ruling, said.value > 200) == ("stop", True)
    for remedy in said.remedies:
        job = job.typed(*remedy)
    assert not [v for v in judge(job, draft(job)) if v.alike == "Lies down"]


@pytest.mark.parametrize("tool", ["6", "15"])
def test_what_is_pressed_round_a_tools_end_takes_up_what_is_told(tool: str) -> None:
    made = draft(sewn("spar-bag", "front", "moulded pocket", patch__tool=tool, patch__height="80"))
    (asked,) = (each for each in Assembled(made).strains if each.piece == "moulded pocket")
    assert asked.least == pytest.approx(-made.value("patch.taken"), abs=0.01)
    assert asked.most < 1e-3
    top = made.lies["moulded pocket"](np.array([[0.0, 70.0]])).at[0, 2]
    seat = made.lies["front"](np.zeros((1, 2))).at[0, 2]
    assert top - seat == pytest.approx(float(tool) + 1.0 + 1.6, abs=1.0)  # round the tool, less what thread draws down


@pytest.mark.parametrize(("across", "up", "told"), [("0", "0", False), ("0", "28", True)])
def test_what_stands_where_the_flap_comes_down_is_told(across: str, up: str, told: bool) -> None:
    """On the front of a box, below its flap of itself; moved up it stands in the flap's way."""
    job = sewn("laser-level", "front", "bellows pocket", patch__across=across, patch__up=up, patch__height="30",
               patch__width="60")  # fmt: skip
    (said,) = [v for v in judge(job, draft(job)) if v.alike == "Stands clear"]
    assert (said.ruling == "stop") is told
    if told:
        assert "the back would have to lie where it stands out" in said.reason
        ended = job.typed(*said.remedies[0])
        assert not [v for v in judge(ended, draft(ended)) if v.alike == "Stands clear"]


@pytest.mark.parametrize(("name", "on"), [("spar-bag", "front"), ("kit-bag", "body"), ("laser-level", "front")])
def test_of_itself_it_lies_on_level_leather_that_nothing_covers(name: str, on: str) -> None:
    made = draft(sewn(name, on, "pocket"))
    seat, under = made.lies[on], made.piece(on).holes_of("pocket", "under the pocket")
    out = seat(under).out
    assert out @ out[0] == pytest.approx(np.ones(len(out)))
    spot = shapely.Polygon(seat(under).at[:, :2]).buffer(-2.0)
    front = seat(under).at[:, 2].mean()
    for other, lie in made.lies.items():
        if other not in (on, "pocket"):
            at = lie(made.piece(other.split(",")[0]).cut).at
            over = at[(at[:, 2] > front + 0.5) & (at[:, 2] < front + 60)]
            assert not spot.intersects(shapely.MultiPoint(over[:, :2]))


def test_it_stands_on_what_bends_by_the_way_that_looks() -> None:
    seat = Bent(FRONT, across=rounded([(-100.0, 0.0), (0.0, 0.0), (0.0, -100.0)], 10.0))
    on = Seated(seat, flat_at(3.0), (150.0, 20.0), 1.0)
    placed = on(np.array([[0.0, 0.0], [5.0, 7.0]]))
    assert placed.out == pytest.approx(np.tile([1.0, 0.0, 0.0], (2, 1)))
    assert placed.at[:, 0] == pytest.approx([4.0, 4.0])
    assert placed.at[1] - placed.at[0] == pytest.approx([0.0, 7.0, -5.0])


@pytest.mark.parametrize("name", ["spar-bag", "laser-level", "whetstone", "eaves-blade"])
def test_a_skin_covers_its_piece_once_and_closes(name: str) -> None:
    made = draft(demo.job(name))
    for piece in made.pieces:
        if piece.name not in made.lies or piece.trim is not None:
            continue
        found = skin(piece, made.lies[piece.name])
        a, b, c = (found.flat[found.triangles[:, k]] for k in range(3))
        sides, other = b - a, c - a
        area = (sides[:, 0] * other[:, 1] - sides[:, 1] * other[:, 0]) / 2
        assert (area > 0).all()
        assert area.sum() == pytest.approx(shapely.Polygon(piece.cut, list(piece.openings)).area, rel=1e-5)
        pairs = np.sort(found.triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
        assert np.unique(pairs, axis=0, return_counts=True)[1].max() <= 2


def test_nothing_hangs_below_a_boxed_corner() -> None:
    made = draft(demo.job("spar-bag"))
    low = made.lies["bottom board"](made.piece("bottom board").cut).at[:, 1].min()
    for name in ("front", "back"):
        placed = skin(made.piece(name), made.lies[name]).placed.at
        assert placed[:, 1].min() > low - 6.0
        wall = np.abs(placed[placed[:, 1] > low + 30, 0]).max()
        assert np.abs(placed[:, 0]).max() < wall + 0.1  # what lies beyond its seams is turned in


def test_what_hangs_on_one_piece_comes_before_what_closes() -> None:
    def steps(job: Job) -> list[str]:
        return [step.piece for step in Closing(Assembled(draft(job).unmarked()), {}).steps]

    assert steps(demo.job("kit-bag"))[1:] == [
        "pocket row", "right under strap", "left under strap", "left cap", "bottom board", "right cap",
    ]  # fmt: skip
    cards = steps(demo.job("crew-cards"))
    assert cards.index("pocket 1") < cards.index("pocket 2")  # which lies over it
    bag = steps(sewn("spar-bag", "front", "gusseted pocket", patch__flap="snap 10"))
    wanted = ["front", "gusseted pocket gusset", "gusseted pocket", "gusseted pocket flap", "back"]
    assert [each for each in bag if each in wanted] == wanted
    box = steps(sewn("laser-level", "back", "gusseted pocket"))
    assert box.index("floor foam") < box.index("gusseted pocket gusset") < box.index("back")  # on it while that is flat
