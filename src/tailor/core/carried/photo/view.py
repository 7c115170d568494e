"""The view: where the camera stood over the mat, found from the markers, with how sure that is."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property

import cv2
import numpy as np
import scipy
from numpy.typing import NDArray

from tailor.core.carried.loft import Array
from tailor.core.carried.photo.mat import DICTIONARY, Mat, bearing
from tailor.core.errors import InputError
from tailor.core.incoming import quoted

Image = NDArray[np.uint8]

WHERE = "photo"
LEAST_MARKERS = 4
FULL_FRAME = float(np.hypot(36.0, 24.0))  # mm: the diagonal that equivalent focal lengths are told for
WILDEST = 5.0  # that any number of a lens's distortion is
KNOWN = 0.005  # how sure a focal length given in pixels is, as a share
NOMINAL = 0.03  # how sure the one that a camera notes in its photo is
MEASURED = 0.02  # how sure a camera distance taken with a tape is
UNKNOWN = 3.0  # nothing known: the logarithm may be off by this much
CORNER = 0.15  # px: how well a corner of a marker is found, at the least
BENT = 1.0  # mm: markers further off than this, the sheet was not flat or the lens bends lines badly
SMEARED = 1.3  # mm over which the border of a marker spreads when the photo is too blurred


@dataclass(frozen=True)
class Lens:
    """What is known of the camera beforehand.

    focal: px, or None. sure: its relative uncertainty. distance: camera to mat, mm, or None.
    distortion: k1, k2, p1, p2[, k3] as lens calibration gives them; empty for none.
    """

    focal: float | None = None
    sure: float = KNOWN
    distance: float | None = None
    distortion: tuple[float, ...] = ()

    @staticmethod
    def equivalent(mm: float, width: int, height: int) -> float:
        """Focal length in px of a full-frame equivalent one, for a photo of width by height px."""
        return mm * float(np.hypot(width, height)) / FULL_FRAME


def distortion(text: str, where: str) -> tuple[float, ...]:
    """A lens's distortion as typed, `k1, k2, p1, p2[, k3]`; empty for none. Raises InputError."""
    try:
        found = tuple(float(k) for k in text.replace(";", ",").split(",") if k.strip())
    except ValueError:
        found = (np.nan,)
    if len(found) not in (0, 4, 5) or not (np.abs(found) <= WILDEST).all():
        raise InputError(
            f"{quoted(text.strip())} is not a distortion", where, "give K1,K2,P1,P2[,K3] as a calibration has them"
        )
    return found


@dataclass(frozen=True)
class View:
    """The camera over the mat. state: log focal length px, rotation vector (3,), translation (3,), mm.

    spread: (7, 7) covariance of state. residual: mm rms of the markers on the mat. size: width, height, px.
    rule: what the printed 100 mm rule really measures, as a share of 100 mm.
    """

    mat: Mat
    state: Array
    spread: Array
    size: tuple[int, int]
    distortion: Array
    residual: float
    seen: tuple[int, ...]
    rule: float = 1.0
    notes: tuple[str, ...] = field(default=())

    @property
    def focal(self) -> float:
        return float(np.exp(self.state[0]))

    @property
    def focal_sure(self) -> float:
        """Relative uncertainty of the focal length."""
        return float(np.sqrt(self.spread[0, 0]))

    @cached_property
    def matrix(self) -> Array:
        w, h = self.size
        return np.array([[self.focal, 0, (w - 1) / 2], [0, self.focal, (h - 1) / 2], [0, 0, 1]])

    @cached_property
    def rotation(self) -> Array:
        return np.asarray(cv2.Rodrigues(self.state[1:4])[0])

    @cached_property
    def eye(self) -> Array:
        """Where the camera stood, (3,), mm over the mat."""
        return np.asarray(-self.rotation.T @ self.state[4:7])

    @property
    def tilt(self) -> float:
        """Degrees between the camera's axis and straight down."""
        return float(np.degrees(np.arccos(min(abs(self.rotation[2, 2]), 1.0))))

    def project(self, points: Array) -> Array:
        """Where points (n, 3) over the mat are in the photo, (n, 2), px."""
        return _project(self.state, points, self.size, self.distortion)

    def project_flat(self, points: Array) -> Array:
        """Where points (n, 2) on the mat are in the photo, (n, 2), px."""
        return self.project(np.column_stack([points, np.zeros(len(points))]))

    def on_mat(self, pixels: Array) -> Array:
        """Where rays through pixels (n, 2) meet the mat, (n, 2), mm."""
        flat = cv2.undistortPoints(np.asarray(pixels, dtype=float)[:, None], self.matrix, self.distortion)[:, 0]
        rays = np.column_stack([flat, np.ones(len(flat))]) @ self.rotation
        return np.asarray(self.eye[:2] - rays[:, :2] * (self.eye[2] / rays[:, 2])[:, None])

    def shaken(self) -> list[View]:
        """The same view moved by one spread along each of its uncertain directions."""
        sizes, directions = np.linalg.eigh(self.spread)
        steps = directions * np.sqrt(np.clip(sizes, 0, None))
        return [replace(self, state=self.state + step) for step in steps.T]


def _project(state: Array, points: Array, size: tuple[int, int], distortion: Array) -> Array:
    focal = float(np.exp(state[0]))
    matrix = np.array([[focal, 0, (size[0] - 1) / 2], [0, focal, (size[1] - 1) / 2], [0, 0, 1]])
    found, _ = cv2.projectPoints(np.ascontiguousarray(points), state[1:4], state[4:7], matrix, distortion)
    return np.asarray(found)[:, 0]


def find(image: Image, lens: Lens, rule: float = 100.0) -> View:
    """The view in a grey photo (h, w). rule: mm that the printed 100 mm rule really measures.

    The pose and the focal length are solved together by least squares on the marker corners, with what is known
    of the lens as a soft constraint. Raises InputError where the markers do not tell enough.
    """
    if not 50.0 <= rule <= 200.0:
        raise InputError(f"its 100 mm cannot measure {rule:g} mm", "rule of the mat", "measure it from 0 to 100 again")
    for name, value in (("focal length", lens.focal), ("camera distance", lens.distance)):
        if value is not None and not 1.0 < value < 1e6:
            raise InputError(f"it is {value:g}", name, "give a number above 1, or leave it out")
    mat, numbers, pixels = _markers(image)
    size = image.shape[1], image.shape[0]
    scale = rule / 100.0
    flat = np.concatenate([mat.corners(n) for n in numbers]) * scale
    points = np.column_stack([flat, np.zeros(len(flat))])
    distortion = np.asarray(lens.distortion, dtype=float)
    prior = np.log(lens.focal if lens.focal is not None else Lens.equivalent(28.0, *size))
    sure = lens.sure if lens.focal is not None else UNKNOWN

    def first_guess(focal: float) -> Array:
        matrix = np.array([[focal, 0, (size[0] - 1) / 2], [0, focal, (size[1] - 1) / 2], [0, 0, 1]])
        _, turn, move = cv2.solvePnP(points, pixels, matrix, distortion, flags=cv2.SOLVEPNP_IPPE)
        return np.concatenate([[np.log(focal)], turn[:, 0], move[:, 0]])

    def misses(state: Array) -> Array:
        off = (_project(state, points, size, distortion) - pixels).ravel() / CORNER
        known = [(state[0] - prior) / sure]
        if lens.distance is not None:
            eye = -cv2.Rodrigues(state[1:4])[0].T @ state[4:7]
            known.append((eye[2] - lens.distance) / (MEASURED * lens.distance))
        return np.concatenate([off, known])

    guesses = [np.exp(prior)] if lens.focal is not None else Lens.equivalent(1.0, *size) * np.array([24.0, 45.0, 85.0])
    tries = [
        scipy.optimize.least_squares(misses, first_guess(float(f)), loss="soft_l1", x_scale="jac", max_nfev=60)
        for f in guesses
    ]
    best = min(tries, key=lambda t: float(t.cost))
    off = _project(best.x, points, size, distortion) - pixels
    noise = max(float(np.sqrt((off**2).sum() / max(off.size - 7, 1))) / CORNER, 1.0)
    slopes = scipy.optimize.approx_fprime(best.x, misses, 1e-6)
    slopes[: off.size] /= noise
    spread = covariance(slopes.T @ slopes)
    view = View(mat, best.x, spread, size, distortion, 0.0, tuple(numbers), scale)
    residual = float(np.sqrt(((view.on_mat(pixels) - flat) ** 2).sum(axis=1).mean()))
    _check(view, image, residual, pixels)
    return replace(view, residual=residual, notes=_notes(residual))


def covariance(information: Array) -> Array:
    """The covariance from an information matrix whose states have very unlike sizes."""
    size = np.sqrt(np.diag(information))
    return np.asarray(np.linalg.inv(information / np.outer(size, size)) / np.outer(size, size))


def _markers(image: Image) -> tuple[Mat, list[int], Array]:
    """The mat, the numbers of the markers in sight, and their corners (4 each, stacked), px."""
    settings = cv2.aruco.DetectorParameters()
    settings.cornerRefinementMethod = cv2.aruco.CORNER_REFINE_SUBPIX
    settings.adaptiveThreshWinSizeMin = settings.adaptiveThreshWinSizeMax = 23
    finder = cv2.aruco.ArucoDetector(cv2.aruco.getPredefinedDictionary(DICTIONARY), settings)
    shrink = max(image.shape) / 2000
    small = (
        image if shrink <= 1 else cv2.resize(image, None, fx=1 / shrink, fy=1 / shrink, interpolation=cv2.INTER_AREA)
    )
    corners, numbers, _ = finder.detectMarkers(small)
    found = [] if numbers is None else [int(n) for n in np.ravel(numbers)]
    mats = [bearing(n) for n in found]
    known = [m for m in mats if m is not None]
    if not known:
        what = "it is too blurred to read" if _sharpness(small) < 25 else "no marker of the measuring mat is in sight"
        raise InputError(
            what, WHERE, "print the mat with 'tailor mat', lay the object on it, hold still and keep its border in view"
        )
    mat = max(set(known), key=known.count)
    kept = [k for k, m in enumerate(mats) if m is mat]
    if len(kept) < LEAST_MARKERS:
        raise InputError(
            f"only {len(kept)} of the mat's {len(mat.markers)} markers {'is' if len(kept) == 1 else 'are'} in sight",
            WHERE, f"keep at least {LEAST_MARKERS} in view, on more than one side of the object",
        )  # fmt: skip
    pixels = np.concatenate([np.asarray(corners[k]).reshape(4, 2) for k in kept]).astype(float)
    if shrink > 1:
        pixels = (pixels + 0.5) * shrink - 0.5
    reach = int(np.clip(round(shrink * 2), 3, 9))
    stop = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 30, 0.01)
    fine = cv2.cornerSubPix(
        image, np.ascontiguousarray(pixels[:, None], dtype=np.float32), (reach, reach), (-1, -1), stop
    )[:, 0]
    numbers_kept = [found[k] for k in kept]
    places = np.concatenate([mat.corners(n) for n in numbers_kept])
    if min(np.ptp(places, axis=0)) < 2.2 * mat.marker:
        raise InputError("only one side of the mat is in sight", WHERE, "keep markers of two sides or more in view")
    return mat, numbers_kept, fine.astype(float)


def _sharpness(image: Image) -> float:
    return float(cv2.Laplacian(image, cv2.CV_64F).var())


def _check(view: View, image: Image, residual: float, pixels: Array) -> None:
    if residual > BENT:
        raise InputError(
            f"the markers are off by {residual:.1f} mm: the sheet is not flat, or the lens bends straight lines",
            WHERE, "weigh the sheet down, step back, or give the lens's distortion",
        )  # fmt: skip
    smear = _smear(view, image)
    if smear > SMEARED:
        raise InputError(
            f"it is too blurred: an edge spreads over {smear:.1f} mm", WHERE, "focus on the mat, hold still, add light"
        )


def _smear(view: View, image: Image) -> float:
    """How far the border of the markers spreads, mm, as the middle of what is seen."""
    across = np.arange(-2.5, 2.51, 0.1)
    sides = []
    for number in view.seen:
        c = view.mat.corners(number) * view.rule
        for a, b, out in ((c[0], c[1], (0, 1)), (c[1], c[2], (1, 0)), (c[2], c[3], (0, -1)), (c[3], c[0], (-1, 0))):
            sides.append((a + b) / 2 + across[:, None] * np.array(out))
    places = np.array(sides)
    at = view.project(np.column_stack([places.reshape(-1, 2), np.zeros(places.size // 2)])).astype(np.float32)
    seen = cv2.remap(image, at[:, 0], at[:, 1], cv2.INTER_LINEAR).reshape(places.shape[:2]).astype(float)
    low, high = np.percentile(seen, [5, 95], axis=1)
    steep = np.abs(np.diff(seen, axis=1)).max(axis=1) / 0.1
    return float(np.median((high - low) / np.maximum(steep, 1e-6)))


def _notes(residual: float) -> tuple[str, ...]:
    if residual <= 0.25:
        return ()
    return (f"the markers are off by {residual:.2f} mm: flatten the sheet, or give the lens's distortion",)
