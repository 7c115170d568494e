"""Photos on the mat, against a simulated camera whose scenes are known to the last digit."""

import cv2
import numpy as np
import pytest
import shapely
from shapely.geometry import LinearRing, Polygon

from tailor.core.carried.photo import scan
from tailor.core.carried.photo.mat import MATS
from tailor.core.carried.photo.parallax import Rise
from tailor.core.carried.photo.segment import Stroke
from tailor.core.carried.photo.trace import look, trace
from tailor.core.carried.photo.view import NOMINAL, Lens, find
from tailor.core.errors import InputError
from tailor.standins.camera import Shot, Solid, lying, photograph, prism, stand
from tests.sweeps import some

DARK = ((92, 70, 48), (38, 40, 44), (150, 60, 40), (60, 90, 140), (24, 70, 44))
BLOCK = np.array([[70, 70], [122, 70], [122, 200], [96, 226], [70, 200]], dtype=float)


def seen(solids: list[Solid], shot: Shot, paper: str = "a4") -> np.ndarray:
    return cv2.imdecode(np.frombuffer(photograph(solids, shot, paper), np.uint8), cv2.IMREAD_COLOR)


def noted(shot: Shot) -> Lens:
    """What the photo notes of its lens: the equivalent focal length in whole millimetres."""
    return Lens(Lens.equivalent(round(shot.focal), *shot.size), NOMINAL)


def shape(rng: np.random.Generator) -> np.ndarray:
    """A random outline in the middle of the A4 mat: a rounded slab, a pointed one, or a waisted oval."""
    length, width = rng.uniform(60, 180), rng.uniform(25, 70)
    turn = np.linspace(0, 2 * np.pi, 240, endpoint=False)
    kind = rng.integers(0, 3)
    if kind == 0:
        c, s, power = np.cos(turn), np.sin(turn), 2 / rng.uniform(2, 5)
        flat = np.column_stack([np.sign(c) * abs(c) ** power, np.sign(s) * abs(s) ** power])
    elif kind == 1:
        flat = np.array([[-1, -1], [1, -1], [1, 0.65], [0, 1], [-1, 0.65]], dtype=float)
    else:
        flat = np.column_stack([np.cos(turn) * (1 + 0.25 * np.sin(2 * turn)), np.sin(turn)])
    a = rng.uniform(-0.3, 0.3)
    placed = flat * [width / 2, length / 2] @ np.array([[np.cos(a), np.sin(a)], [-np.sin(a), np.cos(a)]])
    return placed - (placed.max(axis=0) + placed.min(axis=0)) / 2 + np.array([105.0, 148.5])


def misses(truth: np.ndarray, found: np.ndarray) -> np.ndarray:
    """Distances from each outline to the other, mm."""
    there, here = LinearRing(truth), LinearRing(found)
    points = shapely.points(shapely.get_coordinates(there.segmentize(0.5)))
    return np.concatenate([shapely.distance(points, here), shapely.distance(shapely.points(found), there)])


def test_random_photos_come_within_the_promised_bounds_and_state_their_error() -> None:
    covered, seeds = 0, some(range(50))
    for seed in seeds:
        rng = np.random.default_rng(seed)
        truth, height = shape(rng), rng.uniform(5, 40)
        shot = Shot(
            size=(1700, 1275), tilt=rng.uniform(0, 20), around=rng.uniform(0, 360), roll=rng.uniform(-10, 10),
            focal=rng.uniform(24, 70), noise=rng.uniform(1, 6), shadow=rng.uniform(0.1, 0.5),
            blur=rng.uniform(0.4, 1.1), seed=seed,
        )  # fmt: skip
        photo = seen([prism(truth, height, DARK[seed % len(DARK)])], shot)
        found = trace(look(photo, noted(shot)), Rise.level(height))
        off = misses(truth, found.outline)
        assert np.sqrt(np.mean(off**2)) < 0.35, seed
        assert off.max() < 0.8, seed
        assert found.error < 0.6, seed  # and does not cover itself by saying little
        covered += np.quantile(off, 0.95) <= found.error
    assert covered >= 0.9 * len(seeds)


@pytest.mark.parametrize(("tilt", "distance"), [(15.0, None), (0.5, 1.0)])
def test_a_photo_without_focal_length_is_solved_from_its_tilt_or_from_the_distance(tilt, distance) -> None:
    shot = Shot(tilt=tilt, focal=35, notes_focal=False)
    _, turn, move = stand(MATS["a4"], shot)
    eye = -turn.T @ move
    photo = seen([prism(BLOCK, 25, DARK[0])], shot)
    lens = Lens(None, distance=distance and eye[2])
    found = trace(look(photo, lens), Rise.level(25.0))
    assert found.view.eye == pytest.approx(eye, rel=0.03, abs=3)
    assert np.quantile(misses(BLOCK, found.outline), 0.95) < found.error < 1.2
    if distance:
        with pytest.raises(InputError, match=r"focal length.*distance.*tilt"):
            trace(look(photo, Lens(None)), Rise.level(25.0))


def test_round_sides_are_measured_at_their_widest_not_where_the_ray_touches() -> None:
    turn = np.linspace(0, 2 * np.pi, 48, endpoint=False)
    ring = np.column_stack([105 + 15 * np.cos(turn), 12 + 12 * np.sin(turn)])  # an oval bar 30 wide, 24 high
    ends = [np.insert(ring, 1, y, axis=1) for y in (80.0, 210.0)]
    n = len(turn)
    faces = (*((k, (k + 1) % n, n + (k + 1) % n, n + k) for k in range(n)), tuple(range(n)), tuple(range(n, 2 * n)))
    bar = Solid(np.vstack(ends), faces, np.tile([90.0, 60.0, 40.0], (n + 2, 1)))
    shot = Shot(tilt=18, around=0, focal=40)
    photo = look(seen([bar], shot), noted(shot))
    widths = {}
    for sides in (True, False):
        outline = trace(photo, Rise.level(24.0, round=sides)).outline
        middle = outline[np.abs(outline[:, 1] - 145) < 30]
        widths[sides] = middle[:, 0].max(), middle[:, 0].min()
    assert widths[True] == pytest.approx((120, 90), abs=0.2)
    assert abs(widths[False][0] - 120) + abs(widths[False][1] - 90) > 1.0  # upright sides are another matter


def test_distortion_is_corrected_where_it_is_given_and_told_where_it_is_not() -> None:
    bent = (-0.14, 0.05, 0.001, -0.001)
    shot = Shot(distortion=bent, tilt=6, focal=28)
    photo = seen([prism(BLOCK, 12, DARK[1])], shot)
    lens = noted(shot)
    told = trace(look(photo, Lens(lens.focal, 0.01, distortion=bent)), Rise.level(12.0))
    assert misses(BLOCK, told.outline).max() < 0.8
    assert not told.notes
    with pytest.raises(InputError, match="lens bends"):
        look(photo, lens)


def test_a_print_that_came_out_small_is_put_right_by_its_rule() -> None:
    shot = Shot(tilt=5)
    photo = seen([prism(BLOCK, 8, DARK[0])], shot)
    found = trace(look(photo, noted(shot), rule=97.0), Rise.level(8.0 * 0.97))
    assert np.ptp(found.outline, axis=0) == pytest.approx(np.ptp(BLOCK, axis=0) * 0.97, abs=0.3)


def test_a_shine_on_the_object_does_not_eat_into_it() -> None:
    for seed in some(range(4)):
        shot = Shot(tilt=9, focal=30, glare=0.85, seed=seed)
        found = trace(look(seen([prism(BLOCK, 14, DARK[seed])], shot), noted(shot)), Rise.level(14.0))
        off = misses(BLOCK, found.outline)
        assert np.sqrt(np.mean(off**2)) < max(0.35, found.error), seed


def test_the_brush_keeps_and_removes() -> None:
    crumb = prism(np.array([[122, 100], [150, 100], [150, 125], [122, 125]], dtype=float), 8, DARK[0])
    shot = Shot(tilt=4)
    photo = look(seen([prism(BLOCK, 8, DARK[0]), crumb], shot), noted(shot))
    rise = Rise.level(8.0)
    whole, block = Polygon(trace(photo, rise).outline).area, Polygon(BLOCK).area
    assert whole == pytest.approx(block + 28 * 25, rel=0.01)
    off = Stroke(np.array([[130.0, 104.0], [146.0, 112.0], [130.0, 121.0]]), 3.0, False)
    fence = Stroke(np.array([[123.0, 97.0], [123.0, 128.0]]), 1.0, False)
    less = trace(photo, rise, [off, fence])
    assert Polygon(less.outline).area == pytest.approx(block, rel=0.02)
    back = Stroke(np.array([[118.0, 104.0], [146.0, 112.0], [130.0, 121.0]]), 3.0, True)
    assert Polygon(trace(photo, rise, [off, fence, back]).outline).area > block + 300


def _without(photo: np.ndarray, shot: Shot, numbers: set[int]) -> np.ndarray:
    """The photo with markers covered by a hand-sized patch."""
    matrix, turn, move = stand(MATS["a4"], shot)
    photo = photo.copy()
    for number in numbers:
        corners = np.column_stack([MATS["a4"].corners(number), np.zeros(4)]) @ turn.T + move
        px = (corners @ matrix.T)[:, :2] / corners[:, 2:]
        cv2.fillConvexPoly(photo, np.round(px + (px - px.mean(axis=0)) * 0.3).astype(np.int32), (120, 140, 180))
    return photo


def test_hidden_markers_are_put_up_with_until_too_few_are_left() -> None:
    shot = Shot(tilt=8)
    photo = seen([prism(BLOCK, 15, DARK[2])], shot)
    every = set(MATS["a4"].markers)
    most = _without(photo, shot, every - {0, 4, 8, 12, 15, 19})
    assert misses(BLOCK, trace(look(most, noted(shot)), Rise.level(15.0)).outline).max() < 0.8
    with pytest.raises(InputError, match=r"only 3 of the mat's 22 markers are in sight.*at least 4"):
        look(_without(photo, shot, every - {0, 8, 15}), noted(shot))
    with pytest.raises(InputError, match="only one side"):
        look(_without(photo, shot, every - {0, 1, 2, 3, 4}), noted(shot))


def test_photos_that_cannot_be_measured_are_refused_in_a_sentence() -> None:
    shot = Shot(tilt=5, size=(1200, 900))
    lens = noted(shot)
    block = [prism(BLOCK, 15, DARK[0])]
    with pytest.raises(InputError, match="no marker of the measuring mat"):
        find(np.random.default_rng(0).integers(0, 255, (600, 800), dtype=np.uint8), lens)
    with pytest.raises(InputError, match="blurred"):
        look(seen(block, Shot(tilt=5, size=(1200, 900), blur=9)), lens)
    with pytest.raises(InputError, match="no object stands out"):
        trace(look(seen([], shot), lens), Rise.level(5.0))
    over = prism(BLOCK + np.array([90, 0]), 5, DARK[0])
    with pytest.raises(InputError, match="edge of the plain field"):
        trace(look(seen([over], shot), lens), Rise.level(5.0))
    photo = look(seen(block, shot), lens)
    for height, said in ((-1.0, "height"), (float("nan"), "not a number"), (400.0, "under a camera only")):
        with pytest.raises(InputError, match=said):
            trace(photo, Rise.level(height))


def test_an_object_as_grey_as_its_shadow_is_not_passed_off_as_sure() -> None:
    shot = Shot(tilt=16, around=287, shadow=0.35, noise=4, focal=43, seed=45)
    grey = seen([prism(BLOCK, 23, (180, 184, 188))], shot)
    found = trace(look(grey, noted(shot)), Rise.level(23.0))
    off = misses(BLOCK, found.outline)
    assert np.sqrt(np.mean(off**2)) < found.error


def test_a_blade_that_rises_to_its_handle_is_traced_with_its_profile(eaves) -> None:
    shot = Shot(tilt=10, focal=35, size=(3000, 2200), shadow=0.3)
    at = np.array([150.0, 70.0])
    colour = (96, 104, 118)
    photo = seen([lying(eaves.loft, 14.0, at, 0.0, colour, 131.0)], shot, "a3")
    foot = np.array([11.75, 11.75, 3.0, 3.0])
    rise = Rise(np.array([0.0, 128.0, 140.0, 240.0]), foot, 28.0 - foot, round=False)
    found = trace(look(photo, noted(shot)), rise)
    size = np.ptp(found.outline, axis=0)
    assert size == pytest.approx([38.0, eaves.loft.top], abs=0.8)


def test_a_scan_of_known_fineness_gives_the_outline_at_true_size() -> None:
    fine = 200 / 25.4
    flat = np.full((1500, 900, 3), 246, np.uint8)
    px = np.column_stack([BLOCK[:, 0] - 50, 240 - BLOCK[:, 1]]) * fine - 0.5
    cv2.fillPoly(flat, [np.round(px * 16).astype(np.int32)], (60, 80, 110), shift=4, lineType=cv2.LINE_AA)
    flat = cv2.add(flat, cv2.randn(np.empty(flat.shape, np.int16), 0, 3), dtype=cv2.CV_8U)
    outline, error = scan.trace(flat, fine, scan.look(flat, fine))
    truth = np.column_stack([BLOCK[:, 0] - 50, BLOCK[:, 1] - 240 + 1500 / fine])
    assert np.quantile(misses(truth, outline), 0.95) < error < 0.4
    assert scan.ruled((100, 50), (100, 50 + 100 * fine), 100.0) == pytest.approx(fine)
    card = np.full((1500, 900, 3), 225, np.uint8)
    cv2.polylines(card, [np.round(px * 16).astype(np.int32)], True, (70, 70, 70), 5, cv2.LINE_AA, 4)
    traced, _ = scan.trace(card, fine, scan.look(card, fine))  # a pencil line round the object
    assert np.quantile(misses(truth, traced), 0.95) < 0.5
    with pytest.raises(InputError, match="dpi"):
        scan.look(flat, 0.5)
