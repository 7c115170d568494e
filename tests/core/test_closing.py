"""A case in the round: how it closes from its flat pieces, and how it is drawn."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
import trimesh
from scipy.spatial import cKDTree
from scipy.spatial.distance import pdist

from tailor import demo
from tailor.core.draft.piece import LAID_IN
from tailor.core.job import draft
from tailor.core.together import drawn as compiler
from tailor.core.together.assembled import Assembled
from tailor.core.together.closing import CUT, EDGE, FLESH, GRAIN, METAL, THING, THREAD, TOOLED, Closing
from tailor.core.together.drawn import drawn
from tailor.core.together.shapes import lofted, wire
from tailor.core.together.solids import Sight, Solids

SEEN = (GRAIN, FLESH, EDGE, CUT, THREAD, METAL, THING, TOOLED)
DYES = {what: (10 * k + 100, 90, 60) for k, what in enumerate(SEEN)}
RED, BLUE, RAW = (200, 0, 0), (0, 0, 200), (0, 150, 0)


def cube(middle: tuple[float, float, float], side: float, rgb: tuple[int, int, int], whose: int) -> Solids:
    unit = np.array([(x, y, z) for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)]) / 2
    faces = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
    triangles = np.array([(f[0], f[k], f[k + 1]) for f in faces for k in (1, 2)])
    own = unit[triangles].reshape(-1, 3)
    out = np.cross(own[1::3] - own[::3], own[2::3] - own[::3])
    dye, cut = (np.tile(np.array(each, dtype=np.uint8), (12, 1)) for each in (rgb, RAW))
    order, belongs = np.arange(36, dtype=np.int32).reshape(-1, 3), np.full(12, whose, dtype=np.int32)
    return Solids(own * side + middle, np.repeat(out, 3, axis=0), order, dye, cut, belongs)


def hue(picture: np.ndarray) -> np.ndarray:
    """Which of the three dyes each pixel shows; -1 where there is nothing."""
    return np.where(picture[:, :, 3] > 0, picture[:, :, :3].argmax(axis=2), -1)


def test_what_is_nearest_is_drawn_as_large_as_it_is() -> None:
    near, far = cube((0, 0, 30), 20, RED, 0), cube((15, 0, -30), 20, BLUE, 1)
    seen = hue(drawn(Solids.of(near, far), Sight(0.0, 0.0, np.zeros(3), 4.0), (300, 200)))
    assert (seen == 0).sum() == 80 * 80
    assert (seen == 2).sum() == 60 * 80  # 5 mm of it lie behind the other
    behind = hue(drawn(Solids.of(near, far), Sight(180.0, 0.0, np.zeros(3), 4.0), (300, 200)))
    assert ((behind == 2).sum(), (behind == 0).sum()) == (80 * 80, 60 * 80)
    assert np.flatnonzero((behind == 2).any(axis=0))[0] == 150 - 4 * 25  # what was on the right is on the left
    above = hue(drawn(near, Sight(0.0, 90.0, np.zeros(3), 4.0), (300, 400)))
    assert np.flatnonzero((above == 0).any(axis=1))[[0, -1]].tolist() == [200 + 4 * 20, 200 + 4 * 40 - 1]
    turned = hue(drawn(near, Sight(45.0, 0.0, np.array([0, 0, 30.0]), 4.0), (300, 200)))
    assert (turned == 0).sum() == pytest.approx(80 * 80 * np.sqrt(2), rel=0.02)


def test_nothing_is_compiled_once_one_looks() -> None:
    compiler.ready()
    known, near = len(compiler._filled.signatures), cube((0, 0, 30), 20, RED, 0)
    drawn(replace(near, triangles=np.asfortranarray(near.triangles)), Sight(), (300, 200))
    assert len(compiler._filled.signatures) == known


def test_from_the_right_the_right_side_is_seen_and_what_ends_is_outlined() -> None:
    assert Sight(90.0, 0.0).ways == pytest.approx(np.array([[0, 0, -1], [0, 1, 0], [1, 0, 0]]), abs=1e-12)
    assert Sight(30.0, 40.0).ways[2] @ [0, 1, 0] == pytest.approx(np.sin(np.radians(40)))
    near, far = cube((0, 0, 30), 20, RED, 0), cube((0, 0, -30), 40, BLUE, 0)
    seen = drawn(Solids.of(near, far), Sight(0.0, 0.0, np.zeros(3), 4.0), (300, 300))[:, :, :3].max(axis=2)
    flat, rim = seen[150, 120:180], seen[150, 110]
    assert np.ptp(flat) == 0  # level leather is not darkened
    assert rim == pytest.approx(flat[0] / 2, abs=1.0)  # where it ends before the other it is
    beside = seen[150, 100:108]
    assert np.ptp(beside) == 0
    assert beside[0] == flat[0]  # as light as it, since it looks the same way


def test_it_is_cut_open_and_lit() -> None:
    block = cube((0, 0, 0), 20, RED, 0)
    sight, up = Sight(0.0, 60.0, np.zeros(3), 4.0), np.array([0.0, 1.0, 0.0])
    seen = hue(drawn(block, sight, (300, 300), (up, 0.0)))
    assert set(np.unique(seen)) == {-1, 0, 1}  # its inside is seen where its top was
    whole = hue(drawn(block, sight, (300, 300)))
    assert set(np.unique(whole)) == {-1, 0}
    assert (seen >= 0).sum() < (whole >= 0).sum()
    assert not (drawn(block, sight, (300, 300), (up, -10.5))[:, :, 3]).any()
    kept = Solids(*(getattr(block, f) for f in ("corners", "facing", "triangles", "colour", "cut", "whose")),
                  np.ones(36, dtype=bool))  # fmt: skip
    assert np.array_equal(hue(drawn(kept, sight, (300, 300), (up, -10.5))), whole)
    lit = drawn(block, Sight(0.0, 45.0, np.zeros(3), 4.0), (300, 300))[:, :, 0]
    assert lit[100, 150] > lit[200, 150] + 10  # its top is brighter than its front


@pytest.mark.parametrize("name", ["laser-level", "crew-cards", "shearing-blade", "leggett", "peg-tray"])
def test_it_closes_from_flat_pieces_to_the_whole(name: str) -> None:
    whole = Assembled(draft(demo.job(name)).unmarked())
    closing = Closing(whole, DYES)
    assert {step.piece for step in closing.steps} == set(whole.lies)
    there = set()
    for step in closing.steps:  # each is held to what there is already
        for seam in step.seams:
            pieces = {p for s in whole.draft.seams if s.name == seam for p in s.pieces}
            pieces |= {p for met in whole.fastened if met.name == seam for p in met.names}
            pieces |= {p for ring in whole.draft.rings if ring.name == seam for p in (ring.piece, ring.through)}
            assert step.piece in pieces
            assert pieces & (there | {step.host})
        assert step.seams or not there or whole.pieces[step.piece].leather in LAID_IN
        there.add(step.piece)
    order = [step.piece for step in closing.steps]
    assert all(order.index(n) < order.index("back") for n in order if "foam" in n)  # else no hand gets in
    flat, shut = closing.at(0.0), closing.at(float(len(closing.steps)), filled=False)
    for k, step in enumerate(closing.steps):
        sheet = whole.skins[step.piece]
        n = len(sheet.flat)
        own = flat.corners[np.unique(flat.triangles[flat.whose == k])][: 2 * n]
        middle = (own[:n] + own[n:]) / 2  # the grain side's corners, and the flesh side's
        assert np.ptp(middle[:, 2]) == pytest.approx(0, abs=1e-9)
        some = np.linspace(0, n - 1, 40).astype(int)
        assert pdist(middle[some]) == pytest.approx(pdist(sheet.flat[some]), abs=1e-6)
        own = shut.corners[np.unique(shut.triangles[shut.whose == k])][: 2 * n]
        assert (own[:n] + own[n:]) / 2 == pytest.approx(sheet.placed.at, abs=1e-9)
    half = closing.at(0.5)
    assert np.isfinite(half.corners).all()
    assert np.linalg.norm(half.facing, axis=1) == pytest.approx(1, abs=1e-6)
    threads = [closing.at(float(k)).whose == len(closing.steps) for k in range(len(closing.steps) + 1)]
    counts = [int(t.sum()) for t in threads]
    assert counts == sorted(counts)
    assert counts[0] == 0


def test_what_it_holds_is_drawn_out_and_a_left_hand_sees_it_mirrored() -> None:
    whole = Assembled(draft(demo.job("eaves-blade")).unmarked())
    closing = Closing(whole, DYES)
    end, n = float(len(closing.steps)), len(closing.steps)
    inside, out = closing.at(end), closing.at(end, drawn_out=100.0)
    thing = [s.corners[np.unique(s.triangles[s.whose == n + 2])] for s in (inside, out)]
    assert thing[1] - thing[0] == pytest.approx(np.broadcast_to([0.0, 100.0, 0.0], thing[0].shape), abs=1e-9)
    assert np.ptp(thing[0], axis=0)[1] == pytest.approx(whole.draft.shell.loft.top - whole.draft.shell.loft.tip)
    sight = Sight(0.0, 10.0, np.zeros(3), 1.0)
    one, other = (drawn(s, sight, (400, 600))[:, :, 3] > 0 for s in (inside, inside.mirrored()))
    assert (one[:, ::-1] == other).mean() > 0.999


LIFTED = [
    ("laser-level", {}, "back"),
    ("whetstone", {"flap.closing": "snap 10"}, "back"),
    ("shearing-blade", {"flap.closing": "snap 10"}, "flap"),
    ("site-book", {}, "keeper"),
    ("spar-bag", {"patch.on": "front", "patch.kind": "pocket", "patch.flap": "snap 10"}, "pocket flap"),
]


@pytest.mark.parametrize(("name", "typed", "moves"), LIFTED)
def test_what_shuts_it_is_lifted_and_all_else_stays_together(name: str, typed: dict[str, str], moves: str) -> None:
    job = demo.job(name)
    for key, text in typed.items():
        job = job.typed(key, text)
    shut = Closing(Assembled(draft(job).unmarked()), DYES)
    lifted = shut.lifted
    assert lifted is not None
    assert lifted.steps == shut.steps
    assert lifted.lifted is None
    for name_, skin in shut.whole.skins.items():
        there = lifted.whole.skins[name_].placed.at
        away = np.linalg.norm(there - skin.placed.at, axis=1) if there.shape == skin.placed.at.shape else np.inf
        assert bool(np.max(away) > 20) is (name_ in (moves, "handle"))
    for met, was in zip(lifted.whole.seams, shut.whole.seams, strict=True):
        assert met.distance < max(0.31, was.distance + 1e-6)  # what is sewn stays so
    assert all(met.distance < 0.5 for met in lifted.whole.fastened)
    assert all(each.distance > 20 for each in lifted.whole.shut)


@pytest.mark.parametrize(
    ("name", "settings", "first", "then"),
    [
        ("shearing-blade", {}, "loop", "welt"),  # whose seam shuts the body upon itself
        ("shears", {}, "loop", "front blank"),
        ("radio", {"keeper.way": "over"}, "keeper", "welt"),
        ("stapler", {}, "belt plate", "front"),
        ("stapler", {}, "welt", "front"),  # which goes between
        ("kit-bag", {}, "left under strap", "right cap"),
        ("spar-bag", {}, "front handle", "back"),
        ("spar-bag", {}, "back handle", "back"),  # while that lies flat
        ("laser-level", {}, "handle", "back"),
        ("twine-spool", {}, "right ring tab", "bottom"),  # whose seam goes all round
        ("kit-bag", {}, "bottom board", "right cap"),  # or it does not go in
    ],
)
def test_what_is_sewn_on_one_piece_comes_before_what_shuts_it(
    name: str, settings: dict[str, str], first: str, then: str
) -> None:
    job = demo.job(name)
    for key, text in settings.items():
        job = job.typed(key, text)
    steps = [step.piece for step in Closing(Assembled(draft(job).unmarked()), DYES).steps]
    assert steps.index(first) < steps.index(then)


def test_what_is_put_on_a_piece_that_lies_flat_goes_with_it() -> None:
    """A handle is on the back before the back comes to the rest: as far from it on its way as where it ends."""
    whole = Assembled(draft(demo.job("spar-bag")).unmarked())
    closing = Closing(whole, DYES)
    order = [step.piece for step in closing.steps]
    handle, back = order.index("back handle"), order.index("back")
    assert closing.steps[handle].host == "back"
    near = cKDTree(whole.skins["back"].placed.at).query(whole.skins["back handle"].placed.at)[0]
    least, most = near.min(), near.max()
    for stage in (handle + 1.0, back + 0.4, back + 1.0):
        at = closing.at(stage)
        own, under = (at.corners[np.unique(at.triangles[at.whose == k])] for k in (handle, back))
        apart = cKDTree(under).query(own)[0]
        assert apart.min() == pytest.approx(least, abs=whole.pieces["back"].thickness)
        assert apart.max() == pytest.approx(most, abs=4.0)


def test_what_nothing_shuts_is_not_lifted() -> None:
    assert Closing(Assembled(draft(demo.job("radio")).unmarked()), DYES).lifted is None


def test_the_thing_is_drawn_closed_as_large_as_it_was_measured() -> None:
    loft = demo.job("eaves-blade").loft
    solid = lofted(loft, np.array([0.0, 7.0, 0.0]), (1, 2, 3), 5)
    mesh = trimesh.Trimesh(solid.corners, solid.triangles, process=True)
    assert mesh.is_watertight
    heights = np.linspace(loft.tip, loft.top, 4001)
    sections = loft.sections(heights)
    areas = [shapely.Polygon(sections.outline(k)).area for k in range(0, 4001, 40)]
    assert mesh.volume == pytest.approx(np.trapezoid(areas, heights[::40]), rel=0.02)
    assert (mesh.bounds[:, 1] - 7.0) == pytest.approx([loft.tip, loft.top])


def test_a_ring_is_round_wire_all_the_way() -> None:
    line = np.array([(0.0, 0.0, 0.0), (30.0, 0.0, 0.0), (30.0, 20.0, 0.0), (0.0, 20.0, 0.0)])
    solid = wire(line, 3.0, (1, 2, 3), 5)
    mesh = trimesh.Trimesh(solid.corners, solid.triangles, process=True)
    assert mesh.is_watertight
    assert mesh.volume > 0  # seen from outside
    assert mesh.bounds[:, 2] == pytest.approx([-1.5, 1.5])
    assert mesh.bounds[:, :2] == pytest.approx(np.array([(-1.5, -1.5), (31.5, 21.5)]))
    octagon = 2 * np.sqrt(2) * 1.5**2  # which it is cut across
    assert abs(mesh.volume) == pytest.approx(octagon * 100)
