"""The edge of the object to a fraction of a pixel, looked for across the rough outline in the photo itself."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
import scipy
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

from tailor.core.carried.loft import Array
from tailor.core.carried.outline import STEP, evenly
from tailor.core.carried.photo.segment import GRAIN, Field, Mask
from tailor.core.carried.photo.view import Image

REACH = 1.2  # mm to either side of the rough outline
FINE = 0.06  # mm between samples across the edge
LIKELY = 0.6  # mm: the edge is likely to be this near the rough outline
FAINT = 32.0  # levels of 255 to the mm: a gentler edge cannot be told from a shadow's
SHORT = 12.0  # mm: a faint stretch longer than this is left as it was found
SLIP = 0.3  # mm off its neighbours, an edge point is taken for a slip
FIRST_SLIP = 0.9  # the same while the outline is still rough, so that a sharp tip is reached


def rough(mask: Mask, field: Field) -> Array:
    """The outline of a mask, (n, 2) mm on the mat, counter-clockwise, STEP apart."""
    found, _ = cv2.findContours(mask.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    px = max(found, key=cv2.contourArea)[:, 0].astype(float)
    mm = field.to_mm(scipy.ndimage.gaussian_filter1d(px, 0.25 * GRAIN, axis=0, mode="wrap"))
    area = float((mm[:, 0] * np.roll(mm[:, 1], -1) - mm[:, 1] * np.roll(mm[:, 0], -1)).sum())
    return evenly(mm if area > 0 else mm[::-1], STEP)


def normals(loop: Array, soft: float = 2.0) -> Array:
    """Outward normals (n, 2) of a counter-clockwise loop, smoothed over `soft` points."""
    even = scipy.ndimage.gaussian_filter1d(loop, soft, axis=0, mode="wrap")
    along = np.roll(even, -1, axis=0) - np.roll(even, 1, axis=0)
    out = np.column_stack([along[:, 1], -along[:, 0]])
    return np.asarray(out / np.maximum(np.hypot(*out.T), 1e-12)[:, None])


def follow(photo: Image, project: Callable[[Array], Array], mask: Mask, field: Field) -> tuple[Array, float, float]:
    """The edge round a mask: refined time and again, so that sharp tips are reached; what refine gives at last."""
    outline = rough(mask, field)
    for _ in range(2):
        outline = evenly(_simple(refine(photo, project, outline, FIRST_SLIP)[0]), STEP)
    return refine(photo, project, outline)


def _simple(loop: Array) -> Array:
    """The loop (n, 2) without the knots that neighbouring points can tie where normals cross."""
    ring = Polygon(loop)
    if ring.is_valid:
        return loop
    parts = [p for p in shapely.get_parts(shapely.make_valid(ring)) if isinstance(p, Polygon)]
    biggest = shapely.orient_polygons(Polygon(max(parts, key=lambda p: p.area).exterior))
    return np.asarray(biggest.exterior.coords)[:-1]


def refine(
    photo: Image, project: Callable[[Array], Array], outline: Array, slip: float = SLIP
) -> tuple[Array, float, float]:
    """The edge itself near a rough outline (n, 2), how far its points scatter, mm, and what share of it is faint.

    project: where points (n, 2), mm, are in the photo, px. slip: mm off its neighbours that an edge point may be.

    Across the outline the steepest change of colour is found, weighed by how near it lies, and set between
    samples by a parabola; points that slip off their neighbours are put back among them.
    """
    out = normals(outline)
    across = np.arange(-REACH, REACH + FINE / 2, FINE)
    places = outline[:, None, :] + across[None, :, None] * out[:, None, :]
    at = project(places.reshape(-1, 2)).reshape(places.shape).astype(np.float32)
    profiles = cv2.remap(photo, at[..., 0], at[..., 1], cv2.INTER_LINEAR).astype(float)
    slope = scipy.ndimage.gaussian_filter1d(profiles, 0.14 / FINE, axis=1, order=1)
    plain = np.sqrt((slope**2).sum(axis=2))
    steep = plain * np.exp(-((across / LIKELY) ** 2) / 2)
    k = np.clip(steep.argmax(axis=1), 1, len(across) - 2)
    rows = np.arange(len(outline))
    before, here, after = steep[rows, k - 1], steep[rows, k], steep[rows, k + 1]
    bend = before - 2 * here + after
    shift = np.where(np.abs(bend) > 1e-9, 0.5 * (before - after) / np.where(bend == 0, 1.0, bend), 0.0)
    off = across[k] + np.clip(shift, -1, 1) * FINE
    usual = scipy.ndimage.median_filter(off, 9, mode="wrap")
    off = np.where(np.abs(off - usual) > slip, usual, off)
    smooth = scipy.ndimage.gaussian_filter1d(off, 1.2, mode="wrap")
    scatter = float(np.sqrt(np.mean((off - smooth) ** 2)))
    smooth = np.where(np.abs(off - smooth) > 3 * scatter, off, smooth)  # a tip is not a scatter
    faint = plain[rows, k] < FAINT * FINE
    return _bridged(outline + smooth[:, None] * out, faint), scatter, float(faint.mean())


def _bridged(loop: Array, faint: NDArray[np.bool_]) -> Array:
    """The loop (n, 2) with its short faint stretches, where a shadow leads astray, drawn on from what is sure."""
    doubtful = scipy.ndimage.binary_dilation(faint, iterations=2)
    runs, count = scipy.ndimage.label(doubtful)
    long = np.flatnonzero(np.bincount(runs.ravel(), minlength=count + 1)[1:] > SHORT / STEP) + 1
    doubtful &= ~np.isin(runs, long)
    sure, n = np.flatnonzero(~doubtful), len(loop)
    if len(sure) == n or len(sure) < n // 2:
        return loop
    at = np.concatenate([sure - n, sure, sure + n])
    drawn = scipy.interpolate.Akima1DInterpolator(at, np.vstack([loop[sure]] * 3))(np.arange(n))
    return np.asarray(np.where(doubtful[:, None], drawn, loop))
