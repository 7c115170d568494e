"""A simulated camera: photographs solids on the measuring mat, as a JPEG with what a camera notes in it."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image as Photo

from tailor.core.carried.loft import Array, Loft
from tailor.core.carried.photo.mat import CELLS, MATS, Mat, cells
from tailor.core.carried.photo.view import Image, Lens
from tailor.files.photos import EXIF_BLOCK, FOCAL_35MM

FINE = 10  # px of the mat's own picture to the mm
LAMPS = 40  # points of light that make a soft shadow
ACROSS = 2  # samples a side in every pixel


@dataclass(frozen=True)
class Solid:
    """Flat faces with their colours. corners: (n, 3) mm over the mat; faces: indices; colours: (len(faces), 3) RGB."""

    corners: Array
    faces: tuple[tuple[int, ...], ...]
    colours: Array


def prism(outline: Array, height: float, colour: Sequence[float], foot: float = 0.0) -> Solid:
    """A slab with upright sides over an outline (n, 2), from `foot` to `height` over the mat."""
    n = len(outline)
    corners = np.vstack([np.column_stack([outline, np.full(n, z)]) for z in (foot, height)])
    sides = [(k, (k + 1) % n, n + (k + 1) % n, n + k) for k in range(n)]
    along = np.roll(outline, -1, axis=0) - outline
    lit = 0.62 + 0.2 * along[:, 0] / np.maximum(np.hypot(*along.T), 1e-9)
    shades = np.concatenate([lit, [1.0]])
    return Solid(corners, (*sides, tuple(range(n, 2 * n))), shades[:, None] * np.asarray(colour, dtype=float))


def lying(loft: Loft, level: float, at: Array, angle: float, colour: Sequence[float], split: float | None = None,
          handle: Sequence[float] = (150, 104, 62)) -> Solid:  # fmt: skip
    """A loft on the mat, its middle plane `level` mm up, turned by `angle` degrees about its tip at `at`.

    Above y = split it is of the handle's colour.
    """
    y = np.unique(np.concatenate([loft.ys, np.arange(loft.tip, loft.top, 2.0)]))
    s = loft.sections(y)
    x, front, back = s.x[:, ::4], s.front[:, ::4], s.back[:, ::4]
    ring = np.stack([np.hstack([x, x[:, ::-1]]), np.hstack([front, -back[:, ::-1]])], axis=2)
    rows, around = ring.shape[:2]
    turn = np.radians(angle)
    flat = np.stack([ring[..., 0], np.broadcast_to(y[:, None] - loft.tip, ring.shape[:2])], axis=2)
    flat = flat @ np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]]) + at
    corners = np.concatenate([flat, ring[..., 1:] + level], axis=2).reshape(-1, 3)
    faces, colours = list[tuple[int, ...]](), list[Array]()
    for r in range(rows - 1):
        tint = np.asarray(handle if split is not None and y[r] >= split else colour, dtype=float)
        for k in range(around):
            j = (k + 1) % around
            faces.append((r * around + k, r * around + j, (r + 1) * around + j, (r + 1) * around + k))
            colours.append(tint * (0.7 + 0.3 * np.cos(4.0 * (k / around - 0.2))))
    faces += [tuple(range(around)), tuple(range((rows - 1) * around, rows * around))]
    colours += [colours[0] * 0.6, colours[-1] * 0.6]
    return Solid(corners, tuple(faces), np.array(colours))


@dataclass(frozen=True)
class Shot:
    """How a photo is taken. distance: eye to the middle of the mat, mm. tilt, around, roll: degrees.

    focal: full-frame equivalent, mm. noise: levels of 255. shadow: how dark, glare: how bright a
    shine on the object, 0 to 1. blur: px.
    """

    size: tuple[int, int] = (2400, 1800)
    focal: float = 35.0
    tilt: float = 8.0
    around: float = 30.0
    roll: float = 0.0
    noise: float = 3.0
    shadow: float = 0.35
    glare: float = 0.0
    blur: float = 0.6
    fill: float = 0.93
    distortion: tuple[float, ...] = ()
    notes_focal: bool = True
    seed: int = 0


@cache
def printed(paper: str) -> Image:
    """The mat as it is printed, grey, FINE px to the mm, row 0 at the top."""
    mat = MATS[paper]
    height, width = round(mat.height * FINE), round(mat.width * FINE)
    page = np.full((height, width), 244, dtype=np.uint8)
    for number, (x, y) in mat.markers.items():
        cell = mat.marker * FINE / CELLS
        edges = [round(k * cell) for k in range(CELLS + 1)]
        left, top = round(x * FINE), height - round((y + mat.marker) * FINE)
        for r, c in zip(*np.nonzero(cells(number)), strict=True):
            page[top + edges[r] : top + edges[r + 1], left + edges[c] : left + edges[c + 1]] = 26
    begins, bottom, ends, _ = mat.field
    for tick in np.arange(0, ends - begins, 5.0).tolist():
        across, down = round((begins + tick) * FINE), height - round((bottom - 2) * FINE)
        page[down : down + 2 * FINE, across : across + 2] = 60
    return page


def stand(mat: Mat, shot: Shot) -> tuple[Array, Array, Array]:
    """Camera matrix, rotation and translation that bring the whole mat into the picture."""
    focal = Lens.equivalent(shot.focal, *shot.size)
    matrix = np.array([[focal, 0, (shot.size[0] - 1) / 2], [0, focal, (shot.size[1] - 1) / 2], [0, 0, 1.0]])
    tilt, around, roll = np.radians([shot.tilt, shot.around, shot.roll])
    upright = mat.height > mat.width and shot.size[0] > shot.size[1]
    spin = roll + (np.pi / 2 if upright else 0.0)
    back = np.array([np.sin(tilt) * np.cos(around), np.sin(tilt) * np.sin(around), np.cos(tilt)])
    up = np.array([-np.sin(spin), np.cos(spin), 0.0])
    right = np.cross(up, back)
    right /= np.linalg.norm(right)
    turn = np.vstack([right, -np.cross(back, right), -back])
    middle = np.array([mat.width / 2, mat.height / 2, 0.0])
    sheet = np.array([[0, 0, 0], [mat.width, 0, 0], [mat.width, mat.height, 0], [0, mat.height, 0]], dtype=float)
    distance = 200.0
    while distance < 5000:
        seen = (sheet - middle - back * distance) @ turn.T @ matrix.T
        spot = np.abs(seen[:, :2] / seen[:, 2:] - matrix[:2, 2]) / (np.array(shot.size) / 2)
        if spot.max() < shot.fill:
            break
        distance *= 1.02
    return matrix, turn, -turn @ (middle + back * distance)


def photograph(solids: Sequence[Solid], shot: Shot, paper: str = "a4") -> bytes:
    """A JPEG of solids lying on a mat."""
    mat, rng = MATS[paper], np.random.default_rng(shot.seed)
    cv2.setRNGSeed(shot.seed)
    matrix, turn, move = stand(mat, shot)
    fine = np.diag([ACROSS, ACROSS, 1.0]) @ matrix
    fine[:2, 2] += (ACROSS - 1) / 2
    width, height = (n * ACROSS for n in shot.size)
    page = printed(paper).astype(np.float32) / 255
    page = page * _shade(solids, mat, shot, rng)
    to_mat = np.array([[1 / FINE, 0, 0.5 / FINE], [0, -1 / FINE, mat.height - 0.5 / FINE], [0, 0, 1]])
    plane = fine @ np.column_stack([turn[:, 0], turn[:, 1], move]) @ to_mat
    table = np.full((height, width), 0.42, dtype=np.float32)
    grey = cv2.warpPerspective(
        page, plane, (width, height), dst=table, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_TRANSPARENT
    )
    tint = np.array([1.0, 0.99, 0.96]) * (1 + 0.03 * rng.standard_normal(3))
    seen = np.asarray(cv2.merge([cv2.convertScaleAbs(grey, alpha=255 * float(t)) for t in tint]), dtype=np.uint8)
    bare = seen.copy() if shot.glare else seen
    for solid in solids:
        _paint(seen, solid, fine, turn, move)
    if shot.glare:
        seen = _shining(seen, (seen != bare).any(axis=2), shot.glare, rng)
    seen = cv2.resize(seen, shot.size, interpolation=cv2.INTER_AREA)
    if shot.distortion:
        seen = _bent(seen, matrix, shot.distortion)
    if shot.blur:
        seen = cv2.GaussianBlur(seen, (0, 0), shot.blur)
    if shot.noise:
        grain = cv2.randn(np.empty(seen.shape, dtype=np.int16), 0, shot.noise)
        seen = cv2.add(seen, grain, dtype=cv2.CV_8U)
    notes = Photo.Exif()
    if shot.notes_focal:
        notes.get_ifd(EXIF_BLOCK)[FOCAL_35MM] = round(shot.focal)
    file = io.BytesIO()
    Photo.fromarray(seen).save(file, "JPEG", quality=93, exif=notes)
    return file.getvalue()


def _shade(solids: Sequence[Solid], mat: Mat, shot: Shot, rng: np.random.Generator) -> NDArray[np.float32]:
    """Light on the mat: uneven, and a soft shadow of every solid, as a share."""
    coarse = 2
    shape = round(mat.height * coarse), round(mat.width * coarse)
    dark = np.zeros(shape, dtype=np.float32)
    way = rng.uniform(0, 2 * np.pi)
    lamps = np.array([np.cos(way), np.sin(way)]) * rng.uniform(0.3, 0.7) + rng.normal(0, 0.16, (LAMPS, 2))
    for lamp in lamps:
        mask = np.zeros(shape, dtype=np.uint8)
        for solid in solids:
            cast = solid.corners[:, :2] + solid.corners[:, 2:] * lamp
            spots = np.column_stack([cast[:, 0] * coarse, shape[0] - cast[:, 1] * coarse])
            fixed = _fixed(spots)
            for face in solid.faces:
                if len(face) == 4:
                    cv2.fillConvexPoly(mask, fixed[np.array(face)], 1, shift=4)
                else:
                    cv2.fillPoly(mask, [fixed[np.array(face)]], 1, shift=4)
        dark += mask / len(lamps)
    dark = cv2.GaussianBlur(dark, (0, 0), 1.2 * coarse)
    slope = rng.normal(0, 0.06, 2)
    across, down = np.meshgrid(np.linspace(-1, 1, shape[1]), np.linspace(-1, 1, shape[0]))
    light = (0.88 + slope[0] * across + slope[1] * down) * (1 - shot.shadow * dark)
    return np.asarray(cv2.resize(light.astype(np.float32), (round(mat.width * FINE), round(mat.height * FINE))))


def _fixed(points: Array) -> NDArray[np.int32]:
    """Points with four bits below the pixel, as OpenCV's drawing takes them."""
    return np.round(points * 16).astype(np.int32)


def _paint(seen: Image, solid: Solid, matrix: Array, turn: Array, move: Array) -> None:
    """Paint a solid's faces over the picture, the furthest first."""
    space = solid.corners @ turn.T + move
    spots = (space @ matrix.T)[:, :2] / space[:, 2:]
    depth = [float(space[list(f), 2].mean()) for f in solid.faces]
    for k in np.argsort(depth)[::-1]:
        cv2.fillPoly(seen, [_fixed(spots[list(solid.faces[k])])], solid.colours[k].clip(0, 255).tolist(), shift=4)


def _shining(seen: Image, there: NDArray[np.bool_], glare: float, rng: np.random.Generator) -> Image:
    """The picture with a shine somewhere on what stands in it."""
    y, x = np.nonzero(there)
    k = int(rng.integers(len(x)))
    across, down = np.arange(seen.shape[1]) - x[k], np.arange(seen.shape[0]) - y[k]
    size = 0.06 * seen.shape[1]
    spot = np.exp(-((down[:, None] / size) ** 2)) * np.exp(-((across[None, :] / (0.4 * size)) ** 2))
    share = (glare * spot * there)[..., None]
    return np.asarray(seen * (1 - share) + 255 * share, dtype=np.uint8)


def _bent(seen: Image, matrix: Array, distortion: tuple[float, ...]) -> Image:
    """The picture as a lens with this distortion would give it."""
    h, w = seen.shape[:2]
    grid = np.stack(np.meshgrid(np.arange(w, dtype=float), np.arange(h, dtype=float)), axis=2).reshape(-1, 1, 2)
    straight = cv2.undistortPoints(grid, matrix, np.array(distortion), P=matrix).reshape(h, w, 2).astype(np.float32)
    return np.asarray(cv2.remap(seen, straight[..., 0], straight[..., 1], cv2.INTER_LINEAR), dtype=np.uint8)
