"""Meshes, girths, outlines and blocks: every way ends in a station table that is true to what was measured."""

import itertools
import math

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from tailor.core.carried import mesh as meshes
from tailor.core.carried import outline as outlines
from tailor.core.carried import readings
from tailor.core.carried.block import KINDS
from tailor.core.carried.capture import Capture, Way
from tailor.core.carried.girth import round_, section, stripped
from tailor.core.carried.loft import Loft
from tailor.core.carried.rows import adaptive
from tailor.core.carried.stations import Shape, Station, neat, parse_csv, to_csv
from tailor.core.errors import InputError
from tests.sweeps import some

INCH = 25.4


def rounded_box(width: float, length: float, thick: float, edge: float) -> trimesh.Trimesh:
    ball = trimesh.creation.icosphere(4, radius=edge).vertices
    middles = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)])
    return trimesh.convex.convex_hull(
        np.vstack([ball + m * (np.array([width, length, thick]) / 2 - edge) for m in middles])
    )


def disc(y: np.ndarray, radius: float, length: float) -> np.ndarray:
    """Radius of a capsule's round section at heights y."""
    end = np.clip(radius - np.minimum(y, length - y), 0, None)
    return np.sqrt(radius**2 - end**2)


SOLIDS = {
    # the solid, and at height y its width, thickness and girth
    "capsule": (
        trimesh.creation.capsule(height=100, radius=20, count=[128, 128]),
        lambda y: (2 * disc(y, 20, 140), 2 * disc(y, 20, 140), 2 * np.pi * disc(y, 20, 140)),
    ),
    "cone": (
        trimesh.creation.cone(radius=20, height=120, sections=256),
        lambda y: (y / 3, y / 3, np.pi * y / 3),
    ),
    "ellipsoid": (
        trimesh.creation.icosphere(6).apply_scale([30, 80, 15]),
        lambda y: (60 * (s := np.sqrt(1 - (y / 80 - 1) ** 2)), 30 * s, s * round_(Shape.OVAL, 60, 30)),
    ),
    "rounded box": (
        rounded_box(60, 120, 30, 6),
        lambda y: (
            60 - 2 * (i := 6 - disc(y, 6, 120)), 30 - 2 * i, 2 * (90 - 4 * i) - (8 - 2 * np.pi) * (6 - i)
        ),
    ),
}  # fmt: skip


@pytest.mark.parametrize(("name", "unit"), some(itertools.product(SOLIDS, ("mm", "in", "m", "cm"))))
def test_a_known_solid_is_sliced_true_however_it_lies(name: str, unit: str) -> None:
    solid, sizes = SOLIDS[name]
    turn = trimesh.transformations.random_rotation_matrix(np.random.default_rng(len(name + unit)).random(3))
    lying = solid.copy().apply_transform(turn).apply_translation([40, -300, 7]).apply_scale(1 / meshes.UNITS[unit])
    found = meshes.sound(lying.vertices, lying.faces)
    if unit in ("mm", "in"):  # centimetres look like inches
        assert meshes.likely_unit(found) == unit
    table, error = meshes.stations(meshes.laid(meshes.scaled(found, unit)))
    assert error < 0.1
    loft = Loft(table.stations)
    y = np.linspace(2.0, loft.top - 2.0, 61)
    width, thick, girth = sizes(y)
    there = loft.sections(y)
    assert there.x_seam - there.x_spine == pytest.approx(width, abs=0.1)
    assert (there.front + there.back).max(axis=1) == pytest.approx(thick, abs=0.1)
    stout = girth > 30
    assert there.girth()[stout] == pytest.approx(girth[stout], rel=0.002)


def test_an_axis_of_the_makers_choice_and_a_tip() -> None:
    box = rounded_box(60, 120, 30, 4)
    solid = meshes.sound(box.vertices, box.faces)
    across = meshes.along(solid, np.array([1.0, 0, 0]))
    assert across.extent == pytest.approx([120, 60, 30], abs=0.1)
    cone = trimesh.creation.cone(radius=20, height=120)
    table, _ = meshes.stations(meshes.laid(meshes.sound(cone.vertices, cone.faces)))
    assert table.stations[0].width < 1 < table.stations[-1].width


def test_soup_is_put_up_with_or_refused() -> None:
    box = rounded_box(60, 120, 30, 4)
    holed = np.delete(box.faces, [3, 400, 401], axis=0)
    found = meshes.sound(box.vertices, np.vstack([holed, holed[:5]]))
    assert len(found.notes) == 2
    whole, _ = meshes.stations(meshes.laid(found))
    assert Loft(whole.stations).sections(60.0).girth()[0] == pytest.approx(2 * 90 - (8 - 2 * np.pi) * 4, rel=0.002)
    for corners, faces, said in (
        (box.vertices, box.faces[::3], "hang open"),
        (box.vertices * [1, 1, 0], box.faces, "flat"),
        (box.vertices, np.array([[0, 1, 999999]]), "do not hang together"),
        (np.where(box.vertices > 20, np.nan, box.vertices), box.faces, "do not hang together"),
    ):
        with pytest.raises(InputError, match=said):
            meshes.sound(corners, faces)
    arch = trimesh.creation.annulus(60, 66, 20).vertices
    arch_faces = trimesh.creation.annulus(60, 66, 20).faces
    with pytest.raises(InputError, match="is likely"):
        meshes.scaled(meshes.sound(arch, arch_faces), "m")


@given(
    shape=st.sampled_from([Shape.OVAL, Shape.SLAB]),
    width=st.floats(5, 200),
    share=st.floats(0.05, 1.0),
    rounded=st.floats(0, 1),
)
def test_any_two_of_width_thickness_and_girth_give_the_third(shape, width, share, rounded) -> None:
    thick = share * width
    corner = rounded * thick / 2
    girth = round_(shape, width, thick, corner)
    assert section(shape, width=width, girth=girth, corner=corner).thickness == pytest.approx(thick, rel=0.01)
    assert section(shape, thickness=thick, girth=girth, corner=corner).width == pytest.approx(width, rel=0.01)
    every = section(shape, width, thick, girth * 1.05, corner)
    assert every.residual == pytest.approx(0.05 * girth, rel=1e-6)
    assert not every.agrees
    with pytest.raises(InputError, match="cannot go round"):
        section(shape, width=width, girth=1.9 * width)


def test_a_stadium_and_an_ellipse_have_the_girths_of_the_books() -> None:
    assert round_(Shape.SLAB, 40, 20, math.inf) == pytest.approx(2 * 20 + math.pi * 20)
    assert round_(Shape.OVAL, 10, 10) == pytest.approx(10 * math.pi)
    assert round_(Shape.OVAL, 40, 20) == pytest.approx(96.8844822, rel=1e-7)
    circle = 2 * math.pi * 15 + 2 * math.pi * 0.5 * 2.4
    assert stripped(circle / 2, 2.4) == pytest.approx(2 * math.pi * 15)


def test_readings_of_tape_roll_and_strip_become_one_table() -> None:
    oval = round_(Shape.OVAL, 30, 22)
    text = f"""# unit: mm
y,shape,width,thickness,girth,rolled,strip,leather,corner
0,oval,30,,{oval:.4f},,,,
40,slab,30,22,,,,,3
80,oval,30,,,52,,,
120,oval,30,,,,{oval / 2 + math.pi * 0.5 * 2:.4f},2,
160,oval,30,22,{oval + 6:.4f},,,,
"""
    found, names = readings.parse_csv(text)
    table, notes = readings.table(found, names)
    assert [s.thickness for s in table.stations] == pytest.approx([22] * 5, rel=0.01)
    assert table.stations[1].corner == 3
    assert readings.contradictions(found) == (4,)
    assert notes == ("line 7: width, thickness and girth contradict each other by 6.0 mm of girth",)
    assert table.capture is not None
    assert table.capture.accuracy == pytest.approx(6 / math.pi, rel=0.01)
    for row, said in (
        ("0,oval,30,,,,,,", "two readings"),
        ("0,oval,30,,50,,,,", "cannot go round a width of 30"),
        ("0,oval,30,,,28,,,", "not wider"),
        ("0,oval,,,,52,,,", "without width"),
        ("0,oval,30,x,,,,,", "thickness"),
        ("0,round,30,22,,,,,", "not a shape"),
        (",oval,30,22,,,,,", "y is missing"),
    ):
        with pytest.raises(InputError, match=said):
            readings.table(*readings.parse_csv("\n".join([text.splitlines()[1], "10,oval,30,22,,,,,", row])))


@pytest.mark.parametrize("kind", KINDS)
def test_blocks_have_the_sizes_they_were_told(kind: str) -> None:
    sizes = (140, 25) if kind == "cylinder" else (140, 60, 25)
    table = KINDS[kind](*sizes)
    loft = Loft(table.stations)
    there = loft.sections(70.0)
    assert loft.top - loft.tip == 140
    assert there.x_seam - there.x_spine == pytest.approx(sizes[1])
    assert (there.front + there.back).max() == pytest.approx(25)
    with pytest.raises(InputError, match="above 0"):
        KINDS[kind](*(0 for _ in sizes))


def test_a_rounded_block_is_the_rounded_box_it_says() -> None:
    _, sizes = SOLIDS["rounded box"]
    loft = Loft(KINDS["block"](120, 60, 30, 6).stations)
    y = np.linspace(1, 119, 50)
    assert loft.sections(y).girth() == pytest.approx(sizes(y)[2], rel=0.003)


def test_an_outline_becomes_stations_that_follow_it() -> None:
    turn = np.linspace(0, 2 * np.pi, 400, endpoint=False)
    drop = np.column_stack([20 * np.sin(turn) * (1 + 0.4 * np.cos(turn)), -80 * np.cos(turn)])
    for angle in (0.0, 0.7, 2.5):
        turned = drop @ np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]]) + [300, -40]
        straight = outlines.laid(outlines.sound(turned))
        assert np.ptp(straight, axis=0) == pytest.approx(np.ptp(drop, axis=0), abs=0.2)
        table = outlines.stations(straight, 12.0, Capture.usual(Way.OUTLINE), Shape.SLAB, 2.0)
        loft = Loft(table.stations)
        y = np.linspace(1, loft.top - 1, 60)
        low, high = outlines.sides(straight, y)
        assert loft.x_seam(y) == pytest.approx(high, abs=0.15)
        assert loft.sizes(y)[:, 0] == pytest.approx(low, abs=0.15)
        assert straight[straight[:, 1] < 8][:, 0].max() < straight[straight[:, 1] > 152][:, 0].max()  # narrow end down
    for bad, said in ((drop * 1e-3, "unit"), (drop[:2], "three points"), (drop * [0, 1], "encloses nothing")):
        with pytest.raises(InputError, match=said):
            outlines.sound(bad)


def test_fairing_stays_within_its_bound_keeps_corners_and_takes_the_bumps_out() -> None:
    rng = np.random.default_rng(3)
    even = outlines.sound(np.array([[0, 0], [50, 0], [50, 120], [0, 120]], dtype=float))
    rough = even + rng.normal(0, 0.08, even.shape)
    fair, moved = outlines.faired(rough, 0.4)
    assert 0 < moved <= 0.4
    assert len(outlines.corners(outlines.evenly(fair, 0.5))) == 4
    straight = np.abs(outlines.curvature(outlines.evenly(rough, 0.5)))
    assert np.median(np.abs(outlines.curvature(outlines.evenly(fair, 0.5)))) < 0.1 * np.median(straight)
    soft, _ = outlines.faired(rough, 3.0, sharp=False)
    assert len(outlines.corners(outlines.evenly(soft, 0.5))) < 4


def test_symmetry_about_the_centre_line_and_how_unlike_the_sides_were() -> None:
    lop = np.array([[-20, 0], [22, 0], [22, 100], [-20, 100], [-20, 60], [-18, 55], [-20, 50]], dtype=float)
    even, unlike = outlines.evened(outlines.laid(outlines.sound(lop), tip_up=False, straighten=False))
    assert unlike == pytest.approx(2.0, abs=0.3)
    low, high = outlines.sides(even, np.linspace(1, 99, 40))
    assert low == pytest.approx(-high, abs=1e-9)


def test_a_table_written_is_read_back_the_same(eaves) -> None:
    table = KINDS["block"](120, 60, 30, 6)
    again = parse_csv(to_csv(table))
    assert again.capture == table.capture
    assert [vars(s) for s in again.stations] == [pytest.approx(vars(s), abs=6e-4) for s in table.stations]
    with pytest.raises(InputError, match=r"line 1.*not a way of measuring"):
        parse_csv("# capture: guess ± 3\n" + to_csv(table))
    with pytest.raises(InputError, match="cannot be"):
        parse_csv("# capture: tape ± 0\n" + to_csv(table))


@given(seed=st.integers(0, 10_000), most=st.floats(0.02, 0.5))
def test_chosen_rows_keep_the_loft_within_the_bound(seed: int, most: float) -> None:
    rng = np.random.default_rng(seed)
    y = np.linspace(0, 200, 400)
    knots = np.sort(rng.uniform(0, 200, 4))
    sizes = np.column_stack(
        [20 + np.cumsum(rng.normal(0, 3)) + 6 * np.tanh((y - k) / rng.uniform(3, 20)) for k in knots]
    )
    kept = adaptive(y, sizes, most)
    assert kept[0] == 0
    assert kept[-1] == len(y) - 1
    assert (np.diff(kept) > 0).all()
    assert np.abs(PchipInterpolator(y[kept], sizes[kept], axis=0)(y) - sizes).max() <= most
    assert len(adaptive(y, sizes, 2 * most)) <= len(kept) + 4  # a looser bound asks for no more


@given(seed=st.integers(0, 10_000))
def test_stations_are_kept_in_hundredths_and_stay_what_they_were(seed: int) -> None:
    rng = np.random.default_rng(seed)
    heights, shares = np.cumsum(rng.uniform(0.001, 9, 9)), rng.uniform(0, 1, 9)
    raw = [
        Station(y, -w / 2, w / 2, t / 2, t / 2, Shape.SLAB, min(w, t) / 2 * c)
        for y, w, t, c in zip(heights.tolist(), *rng.uniform(0.002, 60, (2, 9)).tolist(), shares.tolist(), strict=True)
    ]
    made = neat(raw)
    assert neat(made) == made
    for before, after in zip(raw, made, strict=False) if len(made) == len(raw) else ():
        assert after.width == pytest.approx(before.width, abs=0.012)
        assert after.thickness == pytest.approx(before.thickness, abs=0.025)
        assert after.corner <= min(after.width, after.thickness) / 2
