"""Marker sheets: each bears one large marker; lying about a hide, they tell where the camera stood and how large it is.

None knows where it lies. Plane coordinates, mm, are those of the first sheet that is seen: x to the right and y up from
the lower left corner of its marker.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
import scipy
import shapely
from numpy.typing import NDArray

from tailor.core.carried.loft import Array
from tailor.core.carried.photo.view import UNKNOWN, Image, Lens, covariance
from tailor.core.errors import InputError, UnseenError

WHERE = "photo"
DICTIONARY = cv2.aruco.DICT_4X4_50
CELLS = 6  # of a marker, its black border counted
SIDE = 150.0  # mm of a marker, which is on A4 and on Letter
PAPER = 224.0, 305.0  # mm that a sheet covers at the most, its marker in the middle
SHEETS, LEAST = 8, 3  # that there are, and that have to be seen: they lie about the hide, and it is between them
CORNER = 0.15  # px: how well a corner is found, at the least
ALONG, FARTHEST = 40, 3.0  # places along a side that are looked at; px that a corner may lie off its first guess
SLANT = 0.2  # sine of the angle between two sides, at the least
BENDS = 0.3  # how far a lens that nothing is known of may bend, in its first number
BENT = 6.0  # mm rms: markers further off than this, a sheet did not lie flat or the lens bends lines badly
SMALL = 1e-3  # of a spread
SURE = 1.96  # spreads within which 19 of 20 lie


def corners() -> Array:
    """The corners (4, 2) of a marker on its own sheet, from its upper left clockwise as it is printed."""
    return np.array([[0.0, SIDE], [SIDE, SIDE], [SIDE, 0.0], [0.0, 0.0]])


def cells(number: int) -> NDArray[np.bool_]:
    """The black cells of a marker, (CELLS, CELLS), row 0 at the top."""
    drawn = cv2.aruco.generateImageMarker(cv2.aruco.getPredefinedDictionary(DICTIONARY), number, CELLS)
    return np.asarray(drawn < 128)


@dataclass(frozen=True)
class Floor:
    """The camera over the floor. state: log focal length, one number of how the lens bends, turn (3,), way (3,).

    spread: (n, n) covariance of it. size: of the photo, px. seen: the numbers of the sheets. rings: where their markers
    lie, (4, 2) each. residual: mm rms of their corners.
    """

    state: Array
    spread: Array
    size: tuple[int, int]
    distortion: Array
    seen: tuple[int, ...]
    rings: tuple[Array, ...]
    residual: float

    @property
    def _lens(self) -> tuple[Array, Array]:
        return _lens(self.state, self.size, self.distortion)

    @property
    def covers(self) -> tuple[Array, ...]:
        """The sheets of paper themselves, (4, 2) each."""
        lying = []
        for ring in self.rings:
            across, up = ring[1] - ring[0], ring[0] - ring[3]
            across, up = (way / np.linalg.norm(way) * size / 2 for way, size in ((across, PAPER[0]), (up, PAPER[1])))
            middle = ring.mean(axis=0)
            lying.append(np.array([middle + x * across + y * up for x, y in ((-1, 1), (1, 1), (1, -1), (-1, -1))]))
        return tuple(lying)

    def project(self, points: Array) -> Array:
        """Where points (n, 2) on the floor are in the photo, px."""
        return _projected(self.state, points, self.size, self.distortion)

    def on_floor(self, pixels: Array) -> Array:
        """Where rays through pixels (n, 2) meet the floor, mm."""
        matrix, bending = self._lens
        flat = cv2.undistortPoints(np.asarray(pixels, dtype=float)[:, None], matrix, bending)[:, 0]
        turn = np.asarray(cv2.Rodrigues(self.state[2:5])[0])
        eye = -turn.T @ self.state[5:8]
        rays = np.column_stack([flat, np.ones(len(flat))]) @ turn
        return np.asarray(eye[:2] - rays[:, :2] * (eye[2] / rays[:, 2])[:, None])

    def sure(self, ring: Array) -> float:
        """How sure the area of a ring (n, 2) px is, as a share of it: 19 of 20 times it is no further off.

        By how it changes for small changes of the state: seen straight down, focal length and height are hardly known,
        and yet what they are wrong by together changes no length.
        """
        area = shapely.Polygon(self.on_floor(ring)).area
        sizes, ways = np.linalg.eigh(self.spread)
        steps = (ways * np.sqrt(np.clip(sizes, 0, None))).T[:, : len(self.state)]
        near = [shapely.Polygon(replace(self, state=self.state + SMALL * step).on_floor(ring)).area for step in steps]
        return float(SURE * np.linalg.norm(np.array(near) / area - 1) / SMALL)


def _lens(state: Array, size: tuple[int, int], distortion: Array) -> tuple[Array, Array]:
    focal = float(np.exp(state[0]))
    matrix = np.array([[focal, 0, (size[0] - 1) / 2], [0, focal, (size[1] - 1) / 2], [0, 0, 1]])
    return matrix, distortion if distortion.size else np.array([state[1], 0.0, 0.0, 0.0])


def _projected(state: Array, points: Array, size: tuple[int, int], distortion: Array) -> Array:
    space = np.column_stack([points, np.zeros(len(points))])
    found, _ = cv2.projectPoints(space, state[2:5], state[5:8], *_lens(state, size, distortion))
    return np.asarray(found)[:, 0]


def found(image: Image) -> tuple[list[int], Array]:
    """The numbers of the sheets in a grey photo, and the corners of their markers, (n, 4, 2) px, the largest first."""
    settings = cv2.aruco.DetectorParameters()
    settings.cornerRefinementMethod = cv2.aruco.CORNER_REFINE_SUBPIX
    finder = cv2.aruco.ArucoDetector(cv2.aruco.getPredefinedDictionary(DICTIONARY), settings)
    seen, numbers, _ = finder.detectMarkers(image)
    if numbers is None:
        return [], np.zeros((0, 4, 2))
    kept = [k for k, n in enumerate(np.ravel(numbers)) if n < SHEETS]
    pixels = np.array([np.asarray(seen[k]).reshape(4, 2) for k in kept], dtype=float).reshape(-1, 4, 2)
    order = sorted(range(len(kept)), key=lambda k: -shapely.Polygon(pixels[k]).area)
    names = [int(np.ravel(numbers)[kept[k]]) for k in order]
    if len(set(names)) < len(names):
        raise InputError("two sheets bear the same number", WHERE, "print each sheet once, and lay each down once")
    return names, np.array([_by_sides(image, pixels[k]) for k in order]).reshape(-1, 4, 2)


def _by_sides(image: Image, rough: Array) -> Array:
    """The corners of a marker (4, 2), px, where its sides meet: each a line along where dark turns to light.

    A corner that is looked for by itself is found a little within, since blur rounds it off; and how large the floor is
    hangs on how large the markers are.
    """
    lines = []
    for a, b in zip(rough, np.roll(rough, -1, axis=0), strict=True):
        long = float(np.hypot(*(b - a)))
        along = (b - a) / long
        out = np.array([along[1], -along[0]])  # corners run clockwise as rows count down
        reach = float(np.clip(long / CELLS / 2, 2.0, 8.0))
        across = np.arange(-reach, reach + 0.01, 0.25)
        places = a + np.linspace(0.12, 0.88, ALONG)[:, None] * (b - a)
        at = (places[:, None] + across[None, :, None] * out).astype(np.float32)
        seen = cv2.remap(image, at[..., 0], at[..., 1], cv2.INTER_LINEAR).astype(float)
        steep = np.clip(np.gradient(cv2.GaussianBlur(seen, (0, 0), sigmaX=2.0, sigmaY=0.01), axis=1), 0, None)
        steep[steep < steep.max(axis=1, keepdims=True) / 3] = 0
        middle = (steep * across).sum(axis=1) / np.maximum(steep.sum(axis=1), 1e-9)
        near = np.abs(middle - np.median(middle)) < 0.5
        if near.sum() < ALONG / 2:
            return rough  # too little of a side is seen clearly
        spots = places[near] + middle[near, None] * out
        way = np.linalg.svd(spots - spots.mean(axis=0))[2][0]
        lines.append((spots.mean(axis=0), way))
    fine = []
    for (p, u), (q, v) in zip([lines[-1], *lines[:-1]], lines, strict=True):
        if abs(u[0] * v[1] - u[1] * v[0]) < SLANT:
            return rough
        share = np.linalg.solve(np.column_stack([u, -v]), q - p)[0]
        fine.append(p + share * u)
    return np.array(fine) if np.abs(np.array(fine) - rough).max() < FARTHEST else rough


def floor(image: Image, lens: Lens, side: float = SIDE) -> Floor:
    """Where the camera stood over the floor, from a grey photo. side: mm that the printed side of a marker measures.

    Camera, lens and where each sheet lies are solved together by least squares on the corners of the markers. Raises
    InputError where they do not tell enough.
    """
    if not SIDE / 2 <= side <= 2 * SIDE:
        raise InputError(f"the side of a marker cannot measure {side:g} mm", "marker", "measure its black square again")
    numbers, pixels = found(image)
    if len(numbers) < LEAST:
        what = f"only {len(numbers)} marker sheet{'s are' if len(numbers) > 1 else ' is'}" if numbers else (
            "no marker sheet is")  # fmt: skip
        raise UnseenError(
            f"{what} in sight", WHERE,
            "print the sheets with 'tailor mat --sheets', lay four of them about the hide, and keep them in view",
        )  # fmt: skip
    size = image.shape[1], image.shape[0]
    own, distortion = corners() * (side / SIDE), np.asarray(lens.distortion, dtype=float)
    prior = np.log(lens.focal if lens.focal is not None else Lens.equivalent(28.0, *size))
    sure = lens.sure if lens.focal is not None else UNKNOWN

    def misses(values: Array) -> Array:
        lying = _lying(values[8:], own)
        off = (_projected(values[:8], np.vstack(lying), size, distortion) - pixels.reshape(-1, 2)).ravel() / CORNER
        return np.concatenate([off, [(values[0] - prior) / sure, values[1] / BENDS]])

    guesses = [np.exp(prior)] if lens.focal is not None else Lens.equivalent(1.0, *size) * np.array([24.0, 35.0, 60.0])
    tries = [
        scipy.optimize.least_squares(misses, _begun(float(f), pixels, own, size, distortion), loss="soft_l1",
                                     x_scale="jac", max_nfev=200)
        for f in guesses
    ]  # fmt: skip
    best = min(tries, key=lambda t: float(t.cost))
    off = misses(best.x)[:-2]
    noise = max(float(np.sqrt((off**2).sum() / max(off.size - best.x.size, 1))), 1.0)
    slopes = scipy.optimize.approx_fprime(best.x, misses, 1e-6)
    slopes[: off.size] /= noise
    lying = _lying(best.x[8:], own)
    view = Floor(best.x[:8], covariance(slopes.T @ slopes)[:8, :8], size, distortion, tuple(numbers), tuple(lying), 0.0)
    miss = view.on_floor(pixels.reshape(-1, 2)) - np.vstack(lying)
    residual = float(np.sqrt((miss**2).sum(axis=1).mean()))
    if residual > BENT:
        raise InputError(
            f"the markers are off by {residual:.0f} mm: a sheet does not lie flat, or the lens bends straight lines",
            WHERE, "weigh the sheets down, step back, or give the lens's distortion",
        )  # fmt: skip
    return replace(view, residual=residual)


def _lying(values: Array, own: Array) -> list[Array]:
    """Where the markers lie: the first at the origin, the others each by its place and turn."""
    lying = [own]
    for x, y, turn in values.reshape(-1, 3):
        c, s = np.cos(turn), np.sin(turn)
        lying.append(own @ np.array([[c, s], [-s, c]]) + [x, y])
    return lying


def _begun(focal: float, pixels: Array, own: Array, size: tuple[int, int], distortion: Array) -> Array:
    """A first guess: the camera by the largest marker, the others where it sees them."""
    state = np.concatenate([[np.log(focal), 0.0], np.zeros(6)])
    matrix, bending = _lens(state, size, distortion)
    space = np.column_stack([own, np.zeros(4)])
    _, turn, move = cv2.solvePnP(space, pixels[0], matrix, bending, flags=cv2.SOLVEPNP_IPPE)
    state[2:5], state[5:8] = turn[:, 0], move[:, 0]
    seen = Floor(state, np.eye(8), size, distortion, (), (), 0.0)
    lying = list[float]()
    for each in pixels[1:]:
        ring = seen.on_floor(each)
        along = ring[1] - ring[0]
        angle = float(np.arctan2(along[1], along[0]))
        c, s = np.cos(angle), np.sin(angle)
        lying += [*(ring - own @ np.array([[c, s], [-s, c]])).mean(axis=0), angle]
    return np.concatenate([state, lying])
