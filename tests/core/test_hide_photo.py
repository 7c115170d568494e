"""Hides out of simulated photos, against the outlines that were photographed."""

from __future__ import annotations

import json
from functools import cache
from pathlib import Path
from unittest import mock

import cv2
import numpy as np
import pytest
import shapely

from tailor.cli import main
from tailor.core.carried.photo.sheets import CELLS, SIDE, Floor, cells, floor
from tailor.core.carried.photo.spread_out import by_tape, seen_by_sheets, spread_out
from tailor.core.carried.photo.view import Lens
from tailor.core.cut.usual import usual
from tailor.core.errors import InputError
from tailor.files import hides
from tailor.standins.hide_camera import FLOORS, LEATHERS, Over, about, photograph
from tests.sweeps import some

SCENES = {  # tilt, focal length noted, bending of the lens, floor, leather
    "over boards": Over((2600, 1950), tilt=6, around=200, floor="boards", leather="natural", seed=1),
    "aslant on stone": Over((2600, 1950), tilt=19, around=60, bending=-0.03, floor="stone", leather="brown", seed=2),
    "on carpet, no focal length": Over((2600, 1950), tilt=13, around=310, bending=0.02, floor="carpet",
                                       leather="black", notes_focal=False, seed=3),
}  # fmt: skip


def ring(seed: int) -> np.ndarray:
    """A side of 2 m² as no other is."""
    rng = np.random.default_rng(seed)
    found = usual("side", 2.0, "side").ring
    return found + rng.normal(0, 12, found.shape)


@cache
def taken(name: str) -> tuple[np.ndarray, list[tuple[float, float, float]], np.ndarray]:
    shot = SCENES[name]
    hide = ring(shot.seed)
    sheets = about(hide, np.random.default_rng(shot.seed))
    photo = cv2.imdecode(np.frombuffer(photograph(hide, sheets, shot), np.uint8), cv2.IMREAD_COLOR)
    return hide, sheets, photo


def lens(name: str) -> Lens:
    shot = SCENES[name]
    return Lens(Lens.equivalent(shot.focal, *shot.size), 0.03) if shot.notes_focal else Lens()


@cache
def seen(name: str) -> Floor:
    return seen_by_sheets(taken(name)[2], lens(name))


def off(found: np.ndarray, true: np.ndarray) -> np.ndarray:
    """How far an outline is off another, mm, once it is laid on it as well as it can be; from each to the other."""
    one, other = shapely.LinearRing(found), shapely.LinearRing(true)
    spots = shapely.get_coordinates(one.interpolate(np.arange(0, one.length, 12.0)))
    for _ in range(25):
        near = shapely.get_coordinates(other.interpolate(other.project(shapely.points(spots))))
        a, b = spots - spots.mean(axis=0), near - near.mean(axis=0)
        u, _, v = np.linalg.svd(a.T @ b)
        spots = a @ u @ np.diag([1.0, np.linalg.det(u @ v)]) @ v + near.mean(axis=0)
    laid = shapely.LinearRing(spots)
    there = shapely.points(shapely.get_coordinates(other.interpolate(np.arange(0, other.length, 12.0))))
    return np.concatenate([shapely.distance(shapely.points(spots), other), shapely.distance(there, laid)])


def begun(found: np.ndarray, view: Floor, sheets: list[tuple[float, float, float]]) -> np.ndarray:
    """An outline by its first sheet, as that lay on the floor."""
    x, y, turn = sheets[view.seen[0]]
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    return (found - SIDE / 2) @ np.array([[c, s], [-s, c]]) + [x, y]


@pytest.mark.parametrize("name", some(SCENES))
def test_a_hide_is_as_large_and_lies_as_it_was_photographed(name: str) -> None:
    hide, sheets, photo = taken(name)
    view = seen(name)
    assert set(view.seen) == {0, 1, 2, 3}
    found = spread_out(photo, view)
    true = shapely.Polygon(hide).area
    assert found.area == pytest.approx(true, rel=0.01)
    assert abs(found.area / true - 1) < 2 * found.sure + 0.002
    misses = off(begun(found.ring, view, sheets), hide)
    assert np.percentile(misses, 95) < 4.0
    assert misses.max() < 8.0
    found_at = np.array(
        [lying.mean(axis=0) for lying in view.rings]
    )  # each sheet lies as far from the others as it lay
    laid_at = np.array([sheets[number][:2] for number in view.seen])
    apart = [np.hypot(*(at[:, None] - at[None]).transpose(2, 0, 1)) for at in (found_at, laid_at)]
    assert apart[0] == pytest.approx(apart[1], abs=2.5)


def test_four_taped_points_do_where_there_are_no_sheets() -> None:
    name = "over boards"
    hide, sheets, photo = taken(name)
    view = seen(name)
    low, high = hide.min(axis=0), hide.max(axis=0)
    points = np.array([low - 60, [high[0] + 60, low[1] - 60], high + 60, [low[0] - 60, high[1] + 60]])
    x, y, turn = sheets[view.seen[0]]
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    px = view.project((points - [x, y]) @ np.array([[c, -s], [s, c]]) + SIDE / 2)
    pairs = ((0, 1), (1, 2), (2, 3), (3, 0), (0, 2), (1, 3))
    lengths = [float(np.hypot(*(points[a] - points[b]))) for a, b in pairs]
    found = spread_out(photo, by_tape([tuple(at) for at in px.tolist()], np.round(lengths)))
    assert found.area == pytest.approx(shapely.Polygon(hide).area, rel=0.025)
    swapped = [*lengths[:4], lengths[4] * 1.4, lengths[5]]
    for wrong, why in ((lengths[:5], "six lengths"), (swapped, "miss one another"), ([*lengths[:5], -1.0], "six")):
        with pytest.raises(InputError, match=why):
            by_tape([tuple(at) for at in px.tolist()], wrong)


def test_points_that_go_round_nothing_are_refused() -> None:
    square = [2000.0, 1400, 2000, 1400, 2441, 2441]
    for wrong in ([(0, 0)] * 4, [(0, 0), (1, 0), (2, 0), (3, 0)], [(1e300, 1), (1, 5), (2, 9), (3, 0)],
                  [(0, 0), (100, 100), (100, 0), (0, 100)], [(0, 0), (100, 0), (10, 10), (0, 100)]):  # fmt: skip
        with pytest.raises(InputError, match="do not go round"):
            by_tape(wrong, square)
    assert by_tape([(0, 0), (100, 0), (100, 70), (0, 70)], square).off < 1e-3


def test_a_hide_that_cannot_be_told_is_refused_and_not_guessed() -> None:
    """Leather like the floor, a hide that runs out of the photo, sheets on one side: no area is made up of those."""
    hide = usual("shoulder", 0.9, "shoulder").ring
    sheets = about(hide, np.random.default_rng(9))

    def read(shot: Over, crop: slice = slice(None), which: slice = slice(None)) -> float:
        photo = cv2.imdecode(np.frombuffer(photograph(hide, sheets[which], shot), np.uint8), cv2.IMREAD_COLOR)
        photo = np.ascontiguousarray(photo[crop])
        return spread_out(photo, seen_by_sheets(photo, Lens(1150.0, 0.05))).area

    plain = Over((1500, 1125), floor="stone", leather="brown", seed=9)
    assert read(plain) == pytest.approx(0.9e6, rel=0.015)
    with mock.patch.dict(LEATHERS, {"brown": FLOORS["stone"]}), pytest.raises(InputError, match="stand"):
        read(plain)
    with pytest.raises(InputError, match="only 2 marker sheets are in sight"):
        read(plain, which=slice(2))
    black = cv2.imdecode(np.frombuffer(photograph(hide, sheets, plain), np.uint8), cv2.IMREAD_COLOR)
    view = seen_by_sheets(black, Lens(1150.0, 0.05))
    left, right = (view.project(np.array([[x, 0.0]]))[0, 0] for x in (0.0, 700.0))
    cut_ = np.ascontiguousarray(black[:, int(min(left, right)) :]) if left < right else black
    with pytest.raises(InputError):  # half of it is out of sight
        spread_out(cut_, seen_by_sheets(cut_, Lens(1150.0, 0.05)))


def test_what_does_not_tell_enough_is_told() -> None:
    _, _, photo = taken("over boards")
    grey = cv2.cvtColor(photo, cv2.COLOR_BGR2GRAY)
    with pytest.raises(InputError, match="no marker sheet is in sight"):
        floor(np.full_like(grey, 120), Lens())
    one = grey.copy()
    view = seen("over boards")
    for lying in view.rings[1:]:
        middle = view.project(lying.mean(axis=0)[None])[0].astype(int)
        one[middle[1] - 150 : middle[1] + 150, middle[0] - 150 : middle[0] + 150] = 120
    with pytest.raises(InputError, match="only 1 marker sheet is in sight"):
        floor(one, Lens())
    with pytest.raises(InputError, match="cannot measure 20 mm"):
        floor(grey, Lens(), side=20.0)
    larger = floor(grey, lens("over boards"), side=153.0)  # it was printed larger than it says
    spread = [np.ptp(np.vstack(each.rings), axis=0).max() for each in (view, larger)]
    assert spread[1] / spread[0] == pytest.approx(153 / 150, rel=1e-3)


def test_a_photo_is_named_like_any_other_leather(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    name = "over boards"
    hide, _, photo = taken(name)
    path = tmp_path / "bought in may.jpg"
    cv2.imwrite(str(path), photo, [cv2.IMWRITE_JPEG_QUALITY, 95])
    looked, once = hides.photographed, dict[Path, hides.Photographed]()

    def photographed(at: Path, *how: object, **more: object) -> hides.Photographed:
        return once.get(at) or once.setdefault(at, looked(at, *how, **more))  # type: ignore[arg-type]

    monkeypatch.setattr(hides, "photographed", photographed)  # it is the same photo each time
    found = hides.named(str(path))
    assert found.id == "bought in may"
    assert found.ring.min(axis=0) == pytest.approx([0, 0])
    wide, high = np.ptp(found.ring, axis=0)
    assert wide > high  # it lies along
    out = tmp_path / "outline.svg"
    assert main(["hide", str(path), "-o", str(out), "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["area_m2"] == pytest.approx(shapely.Polygon(hide).area / 1e6, rel=0.012)
    again = hides.named(str(out))  # an outline that is longer than any object may be
    assert again.whole.area / 1e6 == pytest.approx(said["area_m2"], rel=1e-3)
    assert len(again.ring) < 1000
    seen_ = hides.photographed(path)
    at = seen_.hide.ring.mean(axis=0)  # the middle of the hide is leather in the picture too
    px = np.linalg.solve(seen_.to_hide[:, :2], at - seen_.to_hide[:, 2]).round().astype(int)
    blue, green, red = seen_.picture[px[1], px[0]].astype(int)
    assert red > blue + 40 > green - 60
    assert main(["hide", str(path), "--points", "1,2 3,4 5,6 7"]) == 2
    assert main(["hide", str(path), "--points", "1,2 3,4 5,6 7,x", "--lengths", "1"]) == 2


def test_sheets_are_printed_at_true_size(tmp_path: Path) -> None:
    import pdfplumber

    assert main(["mat", "--sheets", "-o", str(tmp_path / "sheets.pdf")]) == 0
    with pdfplumber.open(tmp_path / "sheets.pdf") as pdf:
        assert len(pdf.pages) == 4
        for number, page in enumerate(pdf.pages):
            squares = [r for r in page.rects if abs(r["width"] - r["height"]) < 0.01]
            left, right = min(r["x0"] for r in squares), max(r["x1"] for r in squares)
            assert (right - left) * 25.4 / 72 == pytest.approx(SIDE, abs=0.05)
            top, bottom = min(r["top"] for r in squares), max(r["bottom"] for r in squares)
            assert (left + right, top + bottom) == pytest.approx((page.width, page.height), abs=0.2)  # in its middle
            assert len(squares) == cells(number).sum()
            assert squares[0]["width"] * 25.4 / 72 == pytest.approx(SIDE / CELLS, abs=0.05)
            assert f"Marker sheet {number + 1}" in page.extract_text()
