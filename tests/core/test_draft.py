"""The folded sheath as a whole: what must hold of any draft, and the rules that win."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from shapely.geometry import LineString, Polygon, box

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.fitted.seam import FLOWS
from tailor.core.draft.stitch.holes import equal_chords
from tailor.core.draft.stitch.offset import offset
from tailor.core.draft.styles.folded_sheath import LOOP_ROWS, MAIN
from tailor.core.errors import InputError
from tailor.core.fairing import Line, bumps, fair
from tailor.core.job import Job, draft
from tailor.core.together.assembled import Assembled
from tests.lofts import jobs
from tests.shared import anew
from tests.sweeps import about


def chords(points: Array) -> Array:
    return np.asarray(np.hypot(*np.diff(points, axis=0).T))


def edges(made: Draft) -> dict[str, Array]:
    """Main-seam holes of each edge, in order."""
    body, welt = made.piece("body"), made.piece("welt")
    return {
        "front": body.holes_of(MAIN, "front"),
        "back": body.holes_of(MAIN, "back"),
        "welt": welt.holes_of(MAIN, "welt"),
    }


@settings(max_examples=about(40))
@given(jobs())
def test_holes_are_equal_in_number_equally_spaced_and_land_on_each_other(job: Job) -> None:
    made = draft(job)
    on = edges(made)
    main = made.seam(MAIN)
    for points in on.values():
        assert len(points) == main.count
        assert np.ptp(chords(points)) < 0.02
        assert chords(points).mean() == pytest.approx(main.chord, abs=0.02)
    folded = on["back"] * np.array([-1.0, 1.0])
    assert np.abs(on["front"] - folded).max() < 0.05
    assert np.abs(on["front"] - on["welt"]).max() < 0.05
    assert abs(main.chord - made.value("seam.pitch")) < 0.5 * made.value("seam.pitch") / (main.count - 1) + 0.05


@settings(max_examples=about(40))
@given(jobs(symmetric=False))
def test_pieces_are_simple_and_the_cut_line_keeps_the_margin(job: Job) -> None:
    made = draft(job)
    margin = made.value("seam.margin")
    for piece in made.pieces:
        for ring in (piece.cut, piece.trim):
            if ring is not None:
                assert np.isfinite(ring).all()
                assert Polygon(ring).is_valid
                assert Polygon(ring).exterior.is_simple
        inside = Polygon(piece.cut)
        assert all(inside.contains(p) for p in shapely.points([(h.x, h.y) for h in piece.holes]))
    body = made.piece("body")
    sewn = shapely.union_all([LineString(s) for s in body.stitch[:2]])
    assert sewn.distance(Polygon(body.cut).exterior) == pytest.approx(margin, abs=0.05)
    for side in (made.front, made.back):
        below = shapely.points(side.cut[side.cut[:, 1] < side.holes.points[0, 1]])
        assert shapely.distance(below, LineString(side.line.dense(0, side.line.length, 0.2))).max() <= margin + 0.05
    assert np.ptp(chords(made.front.holes.points)) < 0.02
    assert made.drift < 0.6  # holes of the back as far apart as those, or under them
    for row in made.rows:
        assert row.x_stitch - row.x_welt > made.value("seam.stitch_inset") - 0.02  # square to it; across, no less
        assert np.isfinite([row.front_path, row.back_path]).all()


@settings(max_examples=about(15))
@given(jobs())
def test_the_left_hand_is_the_right_hand_mirrored(job: Job) -> None:
    right, left = (draft(job.typed("hand", hand)) for hand in ("right", "left"))
    for a, b in zip(right.pieces, left.pieces, strict=True):
        assert np.allclose(a.cut[::-1] * np.array([-1, 1]), b.cut)
        assert [(-h.x, h.y) for h in a.holes] == [(h.x, h.y) for h in b.holes]
        assert a.area == pytest.approx(b.area)
    assert {"right hand"} == {m.text for m in right.piece("body").marks if "hand" in m.text}
    assert {"left hand"} == {m.text for m in left.piece("body").marks if "hand" in m.text}


def test_drafting_is_pure_and_follows_the_flat_path(eaves: Job, sheath: Draft) -> None:
    again = anew(eaves)
    assert all(np.array_equal(a.cut, b.cut) for a, b in zip(sheath.pieces, again.pieces, strict=True))
    faired = eaves.settings.number("seam.fairing")
    line = LineString(sheath.front.line.points)
    away = [line.distance(shapely.Point(row.front_path, row.y)) for row in sheath.rows]
    assert np.sort(away)[:-2].max() <= faired + 0.05
    inside = Polygon(sheath.piece("body").cut)
    assert max(away) < 1.0  # where the seam draws in at once from handle to blade the fold's flat is faired
    assert all(inside.contains(shapely.Point(row.front_path, row.y)) for row in sheath.rows)
    assert sheath.front.line.deviation <= faired
    assert len(bumps(sheath.front.line)) <= 1  # where handle meets blade, no more


def test_carried_to_flat_and_back_a_line_is_the_same(sheath: Draft) -> None:
    panel = sheath.shell
    y = np.linspace(-0.5 * panel.toe, 180, 60)
    x = panel.welt_edge(y) + np.linspace(-8, 12, 60)
    x = np.maximum(x, panel.loft.sizes(0.0)[0, 0] + 1.0)
    plan = np.column_stack([x, y])
    flat = panel.to_flat(plan, "front")
    assert (flat[:, 0] > 0).all()
    assert np.abs(panel.to_plan(flat, "front") - plan).max() < 1e-3


def test_stitches_clear_the_edge_by_what_was_asked(sheath: Draft, eaves: Job) -> None:
    loft = eaves.loft
    y = np.linspace(0, 148, 400)
    edge = LineString(np.column_stack([loft.x_seam(y), y]))
    assert LineString(sheath.plan.welt).distance(edge) >= eaves.settings.number("fit.edge") - 0.05
    assert Polygon(np.vstack([sheath.plan.cut, [[-50, -50], [-50, 400]]])).is_valid


def test_the_loop_goes_round_the_belt_and_its_rows_meet(eaves: Job) -> None:
    """The developed loop against polygons: the belt's slab, the fold disc and the back it is sewn to."""
    for keys in ({}, {"belt.thickness": 9.0}, {"belt.width": 60.0, "leather.neutral": 0.35}):
        made = draft(replace(eaves, settings=replace(eaves.settings, pinned={**eaves.settings.pinned, **keys})))
        loop, tab = made.loop, made.tab
        assert loop is not None
        assert tab is not None
        sheet = made.shell.leather.grain_inside()
        r, thick = sheet.inside_radius, made.value("loop.deep")
        assert thick >= keys.get("belt.thickness", 4.0) + 0.5
        lands = loop.first_row - made.value("seam.margin")
        disc = shapely.Point(r, r).buffer(r, quad_segs=800)
        slab = box(r, 0, loop.opening, thick).union(box(0, r, loop.opening, thick))  # its corner in the fold is round
        inner = shapely.union_all([slab, disc, shapely.Point(lands, 0)]).convex_hull
        floor = box(lands, -50, lands + 200, 0)
        skin = inner.buffer(sheet.offset, quad_segs=800).union(floor.buffer(sheet.offset, quad_segs=200))
        # From under the fold's centre, round the top, down to the first row.
        above = LineString(skin.exterior.coords).intersection(box(-99, -sheet.offset - 1e-6, loop.first_row, 99))
        parts = [p for p in getattr(above, "geoms", [above]) if p.length > 1]
        whole = shapely.line_merge(shapely.union_all(parts))
        start = whole.project(shapely.Point(r, -sheet.offset))
        first = shapely.Point(loop.first_row, sheet.offset)
        assert abs(whole.project(first) - start) == pytest.approx(loop.turned, abs=0.05)
        body = made.piece("body")
        for name in LOOP_ROWS:
            up, down = body.holes_of(name, "tab"), body.holes_of(name, "back")
            assert len(up) == len(down)
            assert np.ptp(chords(up)) < 1e-9
        # where it hangs the belt's width below its fold, not where that would be on a back that is plane
        rows = [met.distance for met in Assembled(made.unmarked()).seams if met.name in LOOP_ROWS]
        assert max(rows) < 0.3
        root = made.lies["body"](np.array([(tab.middle, tab.begins)])).at[0]
        first = made.lies["body"](body.holes_of(LOOP_ROWS[0], "back")).at.mean(axis=0)
        assert np.linalg.norm(root - first) == pytest.approx(loop.first_row - loop.begins, abs=0.8)


RULES = [
    ({}, "mouth.y", "leaves three fingers of grip free"),
    ({"leather.thickness": "4"}, "seam.margin", "the stack's height sets the margin"),
    ({"leather.thickness": "6"}, "seam.margin", "half the stack"),
    ({"welt.width": "16"}, "seam.stitch_inset", "welt width less the margin"),
    ({"welt.thickness": "1.2"}, "welt.layers", "as thick as the object is beside the seam"),
    ({"leather.thickness": "1.5"}, "seam.pitch", "fine stitching on thin leather"),
    ({"loop.landing": "handle"}, "loop.rise", "the loop is sewn to itself beside the handle"),
    ({"seam.margin": "4"}, "seam.margin", "pinned by the maker"),
]


@pytest.mark.parametrize(("typed", "name", "rule"), RULES)
def test_the_rule_that_wins_is_told(eaves: Job, typed: dict[str, str], name: str, rule: str) -> None:
    job = eaves
    for key, text in typed.items():
        job = job.typed(key, text)
    assert draft(job).reasons[name].rule == rule


@pytest.mark.parametrize(
    ("typed", "y", "rule"),
    [
        (("fit.edge", "14"), 45, "the welt keeps 14 mm from the edge"),
        (("fit.point", "25"), 0, "the welt keeps 25 mm from the point"),
        (("fit.approach", "20"), 183, "the leather comes down no steeper than 20°, and 20° at the toe"),
        (("fit.edge", "0.5"), 70, "the welt keeps its room beside the object"),
        (("fit.edge", "5"), 153, "the seam line flows on without a hollow"),
    ],
)
def test_the_standoff_can_say_why_at_every_height(eaves: Job, typed: tuple[str, str], y: float, rule: str) -> None:
    stand = draft(eaves.typed(*typed)).standoff
    assert stand.reason_at(int(np.abs(stand.rows - y).argmin())).rule == rule


def test_every_station_and_number_can_say_why(eaves: Job, sheath: Draft) -> None:
    assert [r.y for r in sheath.rows] == [s.y for s in eaves.stations if s.y <= sheath.value("mouth.y")]
    for reason in sheath.reasons.values():
        assert reason.rule
        assert np.isfinite(reason.value)
    pinned = draft(eaves.typed("seam.standoff", "9"))
    assert all(8.99 < r.standoff < 11 for r in pinned.rows)  # more only in hollows
    assert np.median([r.standoff for r in pinned.rows]) == pytest.approx(9.0, abs=0.01)
    assert pinned.reasons["seam.standoff"].pinned
    assert pinned.reasons["seam.standoff"].others  # what would have been computed


IMPOSSIBLE = [
    ("mouth.y", "400", "off the object"), ("mouth.y", "2", "off the object"), ("loop.width", "180", "does not fit"),
    ("seam.fold_hole", "60", "hole"), ("loop.rise", "0", "less than the loop's own fold"),
]  # fmt: skip


@pytest.mark.parametrize(("key", "text", "said"), IMPOSSIBLE)
def test_what_cannot_be_made_says_why(eaves: Job, key: str, text: str, said: str) -> None:
    with pytest.raises(InputError, match=said) as caught:
        draft(eaves.typed(key, text))
    assert "\n" not in str(caught.value)


def test_fairing_flattens_a_bump_within_what_is_allowed() -> None:
    y = np.linspace(100, 0, 60)
    x = 40 + 0.2 * np.exp(-(((y - 50) / 3) ** 2)) - ((y - 60) / 30) ** 2
    toe = np.column_stack([np.linspace(x[-1], 0, 20)[1:], -20 * np.sin(np.linspace(0, np.pi / 2, 20)[1:])])
    rough = np.vstack([np.column_stack([x, y]), toe])
    made = fair(rough, 0.25)
    apart = shapely.distance(shapely.points(made.points), LineString(rough))
    assert apart.max() <= 0.27
    raw = fair(rough, 0.0)
    s = np.linspace(0, raw.length, 400)
    assert np.abs(np.diff(made.curvature(s))).sum() < 0.7 * np.abs(np.diff(raw.curvature(s))).sum()
    assert made.points[-1, 0] == 0.0


def test_an_offset_into_a_tight_hollow_has_no_loop() -> None:
    angle = np.linspace(0.1, np.pi - 0.1, 80)
    hollow = np.column_stack([30 - 3 * np.sin(angle), 3 * np.cos(angle)])
    up = np.column_stack([np.full(20, hollow[0, 0]), np.linspace(40, 3.2, 20)])
    line = Line(np.vstack([up, hollow, up[::-1] * [1, -1]]))
    moved = LineString(offset(line, 6.0))
    assert moved.is_simple
    on = LineString(line.dense(0, line.length, 0.1))
    assert moved.distance(on) == pytest.approx(6.0, abs=0.05)


@given(jobs())
@settings(max_examples=10)
def test_equal_chords_end_where_they_must(job: Job) -> None:
    line = draft(job).front.line
    assume(line.length > 60)
    holes = equal_chords(line, 5.0, line.length - 7.0, 17)
    assert np.ptp(chords(holes.points)) < 1e-6
    assert (holes.at[0], holes.at[-1]) == (5.0, line.length - 7.0)


def test_where_blade_and_handle_meet_the_seam_is_let_out_to_flow(sheath: Draft) -> None:
    """By the plain seam: the welt's edge lies outside what every other rule asks for, just there."""
    stand = sheath.standoff
    asked = np.array([w for rule, w in zip(stand.rules, stand.wanted, strict=True) if rule != FLOWS]).max(axis=0)
    further = stand.x_welt - asked
    assert FLOWS in stand.rules
    assert 0.9 < further.max() < 8.0
    assert 120 < stand.rows[further.argmax()] < 170
