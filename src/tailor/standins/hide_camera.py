"""A simulated camera over a hide that is spread out on the floor, with marker sheets about it."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from PIL import Image as Photo

from tailor.core.carried.loft import Array
from tailor.core.carried.photo.sheets import CELLS, SIDE, cells
from tailor.core.carried.photo.view import Lens
from tailor.files.photos import EXIF_BLOCK, FOCAL_35MM

PAPER = 210.0, 297.0  # mm of a sheet, its marker in the middle
BEYOND = 350.0  # mm of floor about all that lies there
FLOORS = {"boards": (118, 126, 134), "stone": (150, 152, 150), "carpet": (96, 84, 70)}  # BGR
LEATHERS = {"natural": (120, 168, 214), "brown": (46, 74, 112), "black": (38, 38, 42)}
FINE = 1.0  # px of the floor's picture to the mm, before the camera
PRINTED = 4  # px of a printed sheet to the mm


@dataclass(frozen=True)
class Over:
    """How a hide is photographed. tilt, around: degrees off straight down, and to which side. focal: full-frame, mm.

    bending: the first number of the lens's distortion.
    """

    size: tuple[int, int] = (4000, 3000)
    focal: float = 26.0
    tilt: float = 12.0
    around: float = 40.0
    bending: float = 0.0
    noise: float = 3.0
    blur: float = 0.7
    floor: str = "boards"
    leather: str = "natural"
    notes_focal: bool = True
    seed: int = 0


def about(ring: Array, rng: np.random.Generator, many: int = 4) -> list[tuple[float, float, float]]:
    """Where sheets are laid down about a hide, each its middle, mm, and turned, degrees: near its corners, off it."""
    low, high = ring.min(axis=0), ring.max(axis=0)
    places = [(low[0] - 170, low[1]), (high[0] + 170, low[1]), (high[0] + 170, high[1]), (low[0] - 170, high[1]),
              ((low[0] + high[0]) / 2, low[1] - 200), ((low[0] + high[0]) / 2, high[1] + 200)]  # fmt: skip
    return [(float(x + rng.uniform(-15, 15)), float(y + rng.uniform(-40, 40)), float(rng.uniform(0, 360)))
            for x, y in places[:many]]  # fmt: skip


def photograph(
    ring: Array, sheets: Sequence[tuple[float, float, float]], shot: Over, scars: Sequence[Array] = ()
) -> bytes:
    """A JPEG of a hide (n, 2) mm on the floor with marker sheets at places."""
    rng = np.random.default_rng(shot.seed)
    every = _every(ring, sheets)
    low, high = every.min(axis=0) - BEYOND, every.max(axis=0) + BEYOND
    page, fine = _floor(ring, sheets, shot, scars, low, high, rng)
    matrix, to_photo = _eye(every, shot)
    to_floor = np.array([[1 / fine, 0, low[0] + 0.5 / fine], [0, -1 / fine, high[1] - 0.5 / fine], [0, 0, 1]])
    plane = to_photo @ to_floor
    seen = cv2.warpPerspective(page, plane, shot.size, flags=cv2.INTER_AREA, borderMode=cv2.BORDER_REPLICATE)
    if shot.bending:
        h, w = seen.shape[:2]
        grid = np.stack(np.meshgrid(np.arange(w, dtype=float), np.arange(h, dtype=float)), axis=2).reshape(-1, 1, 2)
        lens = np.array([shot.bending, 0.0, 0.0, 0.0])
        straight = cv2.undistortPoints(grid, matrix, lens, P=matrix).reshape(h, w, 2).astype(np.float32)
        seen = cv2.remap(seen, straight[..., 0], straight[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    seen = cv2.GaussianBlur(seen, (0, 0), shot.blur)
    cv2.setRNGSeed(shot.seed)
    seen = cv2.add(seen, cv2.randn(np.empty(seen.shape, dtype=np.int16), 0, shot.noise), dtype=cv2.CV_8U)
    notes = Photo.Exif()
    if shot.notes_focal:
        notes.get_ifd(EXIF_BLOCK)[FOCAL_35MM] = round(shot.focal)
    file = io.BytesIO()
    Photo.fromarray(cv2.cvtColor(seen, cv2.COLOR_BGR2RGB)).save(file, "JPEG", quality=92, exif=notes)
    return file.getvalue()


def seen_at(points: Array, ring: Array, sheets: Sequence[tuple[float, float, float]], shot: Over) -> Array:
    """Where places on the floor (n, 2), mm, are in such a photograph, px (n, 2), through a lens that bends nothing."""
    _, to_photo = _eye(_every(ring, sheets), shot)
    seen = np.column_stack([points, np.ones(len(points))]) @ to_photo.T
    return np.asarray(seen[:, :2] / seen[:, 2:])


def _every(ring: Array, sheets: Sequence[tuple[float, float, float]]) -> Array:
    """All that must be in the picture, (n, 2) mm."""
    return np.vstack([ring, *([[x, y]] for x, y, _ in sheets)])


def _eye(every: Array, shot: Over) -> tuple[Array, Array]:
    """The camera's matrix, and the way from mm on the floor to px (3, 3) from where it stands."""
    focal = Lens.equivalent(shot.focal, *shot.size)
    matrix = np.array([[focal, 0, (shot.size[0] - 1) / 2], [0, focal, (shot.size[1] - 1) / 2], [0, 0, 1.0]])
    turn, move = _stood(every, matrix, shot)
    return matrix, matrix @ np.column_stack([turn[:, 0], turn[:, 1], move])


def _floor(
    ring: Array, sheets: Sequence[tuple[float, float, float]], shot: Over, scars: Sequence[Array], low: Array,
    high: Array, rng: np.random.Generator,
) -> tuple[NDArray[np.uint8], float]:  # fmt: skip
    """The floor seen straight down, BGR, and how many px there are to the mm."""
    fine = FINE
    wide, tall = (int((high - low)[k] * fine) for k in (0, 1))

    def px(points: Array) -> NDArray[np.int32]:
        at = np.column_stack([points[:, 0] - low[0], high[1] - points[:, 1]]) * fine - 0.5
        return np.asarray(np.round(at * 16), dtype=np.int32)

    def clouds(size: float, strong: float) -> NDArray[np.float32]:
        few = rng.normal(0, strong, (max(int(tall / size), 2), max(int(wide / size), 2))).astype(np.float32)
        return np.asarray(cv2.resize(few, (wide, tall), interpolation=cv2.INTER_CUBIC))

    page = np.empty((tall, wide, 3), dtype=np.float32)
    page[:] = FLOORS[shot.floor]
    page += (clouds(9, 4.0) + clouds(140, 6.0))[..., None]
    if shot.floor == "boards":
        page[(np.arange(tall) % int(120 * fine)) < 3] -= 30
    hide = np.zeros((tall, wide), dtype=np.uint8)
    cv2.fillPoly(hide, [px(_less(ring, 0.5 / fine))], 255, cv2.LINE_AA, 4)
    skin = np.empty_like(page)
    skin[:] = LEATHERS[shot.leather]
    skin += (clouds(5, 5.0) + clouds(220, 9.0))[..., None]
    for scar in scars:
        cv2.fillPoly(skin, [px(scar)], tuple(0.7 * c for c in LEATHERS[shot.leather]), cv2.LINE_AA, 4)
    share = (hide / 255.0).astype(np.float32)[..., None]
    page = page * (1 - share) + skin * share
    for number, (x, y, turn) in enumerate(sheets):
        _laid(page, number, np.array([x, y]) - low, turn, fine)
    slope = rng.normal(0, 0.07, 2)
    across, down = np.meshgrid(np.linspace(-1, 1, wide), np.linspace(-1, 1, tall))
    light = (0.95 + slope[0] * across + slope[1] * down)[..., None]
    return np.asarray(np.clip(page * light, 0, 255), dtype=np.uint8), fine


def _less(ring: Array, by: float) -> Array:
    """A ring drawn in by as much as the drawing of it goes beyond it."""
    return np.asarray(shapely.Polygon(ring).buffer(-by, join_style="mitre").exterior.coords)[:-1]


def _laid(page: NDArray[np.float32], number: int, at: Array, turn: float, fine: float) -> None:
    """Lay a sheet on the floor, its middle at a place, mm from the floor's lower left corner; turned by degrees."""
    wide, tall = (round(side * PRINTED) for side in PAPER)
    sheet = np.full((tall, wide), 240, dtype=np.float32)
    cell = SIDE * PRINTED / CELLS
    left, top = wide / 2 - SIDE * PRINTED / 2, tall / 2 - SIDE * PRINTED / 2
    for row, column in zip(*np.nonzero(cells(number)), strict=True):
        across, down = round(left + column * cell), round(top + row * cell)
        sheet[down : round(top + (row + 1) * cell), across : round(left + (column + 1) * cell)] = 28
    soft = cv2.GaussianBlur(sheet, (0, 0), 0.4 * PRINTED / fine)
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    # A px of the sheet to mm about its middle, turned, then to a px of the floor.
    to_mm = np.array(
        [[1 / PRINTED, 0, (0.5 - wide / 2) / PRINTED], [0, -1 / PRINTED, (tall / 2 - 0.5) / PRINTED], [0, 0, 1]]
    )
    turned = np.array([[c, -s, at[0]], [s, c, at[1]], [0, 0, 1]])
    to_px = np.array([[fine, 0, -0.5], [0, -fine, page.shape[0] - 0.5], [0, 0, 1]])
    way = (to_px @ turned @ to_mm)[:2]
    size = page.shape[1::-1]
    seen = cv2.warpAffine(soft, way, size, flags=cv2.INTER_LINEAR)
    share = cv2.warpAffine(np.ones_like(soft), way, size, flags=cv2.INTER_LINEAR)[..., None]
    page[:] = page * (1 - share) + seen[..., None]


def _stood(every: Array, matrix: Array, shot: Over) -> tuple[Array, Array]:
    """How the camera is turned and where it stands, so that all is in the picture."""
    tilt, around = np.radians([shot.tilt, shot.around])
    back = np.array([np.sin(tilt) * np.cos(around), np.sin(tilt) * np.sin(around), np.cos(tilt)])
    right = np.cross([0.0, 1.0, 0.0], back)
    right /= np.linalg.norm(right)
    turn = np.vstack([right, -np.cross(back, right), -back])
    middle = np.append((every.min(axis=0) + every.max(axis=0)) / 2, 0.0)
    rim = np.column_stack([every, np.zeros(len(every))])
    distance = 400.0
    while distance < 12_000:
        seen = (rim - middle - back * distance) @ turn.T @ matrix.T
        spot = np.abs(seen[:, :2] / seen[:, 2:] - matrix[:2, 2]) / (np.array(shot.size) / 2)
        if spot.max() < 0.86:
            break
        distance *= 1.02
    return turn, -turn @ (middle + back * distance)
