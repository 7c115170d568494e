"""The parts of photo measuring, each against what can be worked out without a camera."""

from __future__ import annotations

from itertools import pairwise

import cv2
import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import Polygon

from tailor.core.carried.outline import evenly, sound
from tailor.core.carried.photo.edge import normals
from tailor.core.carried.photo.mat import CELLS, DICTIONARY, EDGE, MATS, bearing, cells
from tailor.core.carried.photo.parallax import Rise, settled
from tailor.core.carried.photo.segment import GRAIN, Field, Stroke, doubled, rim_crossed, segment, study
from tailor.core.carried.photo.view import Lens, find
from tailor.core.errors import InputError
from tailor.standins.camera import Shot, printed, stand

EYE = np.array([260.0, 40.0, 420.0])


def swept(outline: np.ndarray, foot: float, top: float, eye: np.ndarray = EYE) -> np.ndarray:
    """What an upright slab covers of the mat as seen from the eye: its sections at every height, joined."""
    shadows = []
    for z in np.linspace(foot, top, 40):
        shadows.append(Polygon(eye[:2] + (outline - eye[:2]) * eye[2] / (eye[2] - z)))
    joined = shapely.union_all([s1.union(s2).convex_hull for s1, s2 in pairwise(shadows)])
    return evenly(np.asarray(shapely.orient_polygons(joined).exterior.coords)[:-1], 0.4)


@given(
    width=st.floats(15, 80),
    length=st.floats(40, 180),
    turn=st.floats(-np.pi, np.pi),
    foot=st.floats(0, 10),
    thick=st.floats(2, 40),
)
def test_parallax_gives_back_a_convex_slab_from_what_it_covers(width, length, turn, foot, thick) -> None:
    angle = np.linspace(0, 2 * np.pi, 200, endpoint=False)
    flat = np.column_stack([width / 2 * np.cos(angle), length / 2 * np.sin(angle)])
    truth = flat @ np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]]) + [105, 148]
    seen = swept(truth, foot, foot + thick)
    n = len(seen)
    found = settled(seen, np.zeros(n), np.ones(n), EYE, Rise(np.zeros(1), np.array([foot]), np.array([foot + thick])))
    assert Polygon(found).hausdorff_distance(Polygon(truth)) < 0.35
    assert Polygon(seen).area > Polygon(truth).area


@given(half=st.floats(5, 40), rising=st.floats(2, 20), aside=st.floats(-200, 200), up=st.floats(250, 900))
def test_a_round_bar_is_found_from_where_the_rays_touch_it(half: float, rising: float, aside: float, up: float) -> None:
    """An endless oval bar along y: its rays touch at heights that follow from the polar line of the eye."""
    eye = np.array([aside, 0.0, up])
    # the tangents from the eye to the ellipse x²/a² + (z−b)²/b² = 1, met with z = 0
    a, b = half, rising
    x0, z0 = eye[0], eye[2] - b
    touched = []
    for sign in (-1, 1):
        # a line x = x0 + m (z − z0) touches where a² + m² b² = (x0 − m z0)²
        roots = np.roots([b**2 - z0**2, 2 * x0 * z0, a**2 - x0**2])
        m = float(np.real(roots[0 if (roots[0] > roots[1]) == (sign > 0) else 1]))
        touched.append(x0 + m * (-b - z0))
    low, high = sorted(touched)
    y = np.linspace(-100, 100, 401)
    seen = np.vstack([np.column_stack([np.full_like(y, high), y]), np.column_stack([np.full_like(y, low), y[::-1]])])
    n = len(seen)
    found = settled(seen, np.zeros(n), np.full(n, a), eye, Rise.level(2 * b, round=True))
    middle = found[np.abs(found[:, 1]) < 60]
    assert middle[:, 0].max() == pytest.approx(a, abs=0.05)
    assert middle[:, 0].min() == pytest.approx(-a, abs=0.05)


def test_heights_are_typed_as_said() -> None:
    assert Rise.parse("5", "mm").top.tolist() == [5.0]
    assert Rise.parse("1/4", "in").top.tolist() == [pytest.approx(6.35)]
    steps = Rise.parse("128: 11.7..16.2, 0: 4.5, 140: 28", "mm")
    assert steps.along.tolist() == [0.0, 128.0, 140.0]
    foot, top = steps.at(np.array([0.0, 64.0, 128.0, 200.0]))
    assert foot == pytest.approx([0, 5.85, 11.7, 0])
    assert top == pytest.approx([4.5, 10.35, 16.2, 28])
    for bad, said in (("", "height"), ("five", "five"), ("0: 4, 0: 5", "out of order"), ("9..4", "not above its foot")):
        with pytest.raises(InputError, match=said):
            Rise.parse(bad, "mm")


@pytest.mark.parametrize("paper", MATS)
def test_the_mats_markers_stand_on_the_sheet_apart_and_clear_of_the_field(paper: str) -> None:
    mat = MATS[paper]
    boxes = [shapely.box(*mat.corners(n).min(axis=0), *mat.corners(n).max(axis=0)) for n in mat.markers]
    sheet = shapely.box(EDGE - 1e-9, EDGE - 1e-9, mat.width - EDGE + 1e-9, mat.height - EDGE + 1e-9)
    assert all(sheet.contains(b) for b in boxes)
    assert not any(b.intersects(shapely.box(*mat.field)) for b in boxes)
    apart = min(a.distance(b) for k, a in enumerate(boxes) for b in boxes[:k])
    assert apart > mat.marker / 2
    assert all(bearing(n) is mat for n in mat.markers)
    book = cv2.aruco.getPredefinedDictionary(DICTIONARY)
    for number in mat.markers:
        drawn = np.where(cells(number), 0, 255).astype(np.uint8)
        big = np.pad(np.kron(drawn, np.ones((12, 12), np.uint8)), 24, constant_values=255)
        _, read, _ = cv2.aruco.ArucoDetector(book).detectMarkers(big)
        assert read is not None
        assert [int(n) for n in np.ravel(read)] == [number]
        assert drawn.shape == (CELLS, CELLS)
    assert bearing(99) is None


def placed(shot: Shot) -> np.ndarray:
    """The bare mat as the shot would see it, grey."""
    matrix, turn, move = stand(MATS["a4"], shot)
    to_mat = np.array([[0.1, 0, 0.05], [0, -0.1, 297 - 0.05], [0, 0, 1]])
    plane = matrix @ np.column_stack([turn[:, 0], turn[:, 1], move]) @ to_mat
    seen = cv2.warpPerspective(cv2.GaussianBlur(printed("a4"), (0, 0), 2), plane, shot.size, borderValue=110)
    grain = np.random.default_rng(shot.seed).normal(0, 2, seen.shape)
    return np.clip(seen + grain, 0, 255).astype(np.uint8)


def test_the_view_knows_how_sure_it_is() -> None:
    """Over many shots the eye lies within three spreads of the truth, and a straight view leaves the focal open."""
    for seed in range(8):
        rng = np.random.default_rng(seed)
        shot = Shot(size=(1500, 1125), tilt=rng.uniform(6, 20), around=rng.uniform(0, 360), focal=rng.uniform(24, 60))
        matrix, turn, move = stand(MATS["a4"], shot)
        view = find(placed(shot), Lens(None))
        assert abs(np.log(view.focal / matrix[0, 0])) < 4 * view.focal_sure + 0.004
        assert view.focal_sure < 0.05
        assert view.tilt == pytest.approx(shot.tilt, abs=0.5)
        there = view.on_mat(view.project_flat(np.array([[50.0, 60.0], [150.0, 250.0]])))
        assert there == pytest.approx(np.array([[50.0, 60.0], [150.0, 250.0]]), abs=1e-6)
    straight = Shot(size=(1500, 1125), tilt=0.0, focal=35)
    _, turn, move = stand(MATS["a4"], straight)
    assert find(placed(straight), Lens(None)).focal_sure > 0.5
    told = find(placed(straight), Lens(None, distance=float((-turn.T @ move)[2])))
    assert told.focal_sure < 0.03
    for lens, said in ((Lens(-4.0), "focal length"), (Lens(None, distance=0.0), "camera distance")):
        with pytest.raises(InputError, match=said):
            find(placed(straight), lens)
    with pytest.raises(InputError, match="rule of the mat"):
        find(placed(straight), Lens(None), rule=20.0)


def painted(shade: tuple[int, int, int], shadow: bool = False) -> tuple[Field, np.ndarray]:
    """A field of paper, lit from one side, with a plate on it; and where the plate truly is."""
    h, w = 600, 500
    light = np.linspace(0.85, 1.05, w)[None, :, None] * np.array([225, 230, 232])
    page = np.broadcast_to(light, (h, w, 3)).copy()
    if shadow:
        soft = cv2.GaussianBlur(cv2.rectangle(np.zeros((h, w)), (170, 190), (370, 470), 0.4, -1), (0, 0), 14)
        page *= (1 - soft)[..., None]
    truth = np.zeros((h, w), np.uint8)
    cv2.ellipse(truth, (240, 310), (110, 170), 20, 0, 360, 1, -1)
    page[truth.astype(bool)] = shade
    seen = cv2.GaussianBlur(page, (0, 0), 1.0) + np.random.default_rng(2).normal(0, 2.5, page.shape)
    return Field(np.clip(seen, 0, 255).astype(np.uint8), 0.0, h / GRAIN), truth.astype(bool)


@pytest.mark.parametrize("shade", [(30, 30, 34), (60, 90, 150), (120, 60, 50), (250, 252, 255)])
@pytest.mark.parametrize("shadow", [False, True])
def test_the_object_is_told_from_paper_and_from_its_shadow(shade: tuple[int, int, int], shadow: bool) -> None:
    field, truth = painted(shade, shadow)
    scene = study(field)
    found = segment(scene)
    wrong = (found != truth).sum() / truth.sum()
    assert wrong < 0.03
    assert not rim_crossed(found)
    assert doubled(scene, found) < 0.1


def test_strokes_count_for_more_than_what_is_seen() -> None:
    field, truth = painted((40, 60, 90))
    scene = study(field)
    across = field.to_mm(np.array([[60.0, 310.0], [420.0, 310.0]]))
    cut = segment(scene, [Stroke(across, 4.0, keeps=False)])
    assert not cut[305:315, 100:380].any()
    assert 0.2 < cut.sum() / truth.sum() < 0.8  # the larger half is left
    more = segment(scene, [Stroke(field.to_mm(np.array([[240.0, 310.0], [470.0, 310.0]])), 4.0, keeps=True)])
    assert more[310, 440]
    everywhere = field.to_mm(np.array([[x, y] for y in range(0, 600, 20) for x in (0.0, 500.0)], dtype=float))
    with pytest.raises(InputError, match="nothing of the object is left"):
        segment(scene, [Stroke(everywhere, 8.0, keeps=False)])


@given(turn=st.floats(-3, 3), width=st.floats(20, 60))
def test_normals_point_outward_all_round(turn: float, width: float) -> None:
    box = np.array([[-1, -2], [1, -2], [1, 2], [-1, 2]]) * width / 2
    loop = sound(box @ np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]]) + [90, 120])
    out = normals(loop)
    assert np.hypot(*out.T) == pytest.approx(np.ones(len(loop)))
    inside = shapely.contains(Polygon(loop), shapely.points(loop - 0.8 * out))
    assert inside.all()
