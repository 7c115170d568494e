"""True normal offsets of a line, with reversed loops and cusps taken out."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import LineString

from tailor.core.carried.loft import Array
from tailor.core.errors import InputError
from tailor.core.fairing import Line

STEP = 0.5  # mm between points
FINE = 0.08  # the same where the line is hollow
HOLLOW = 0.85  # with less than this over the distance for its radius, a hollow is gone over finely
TRUE = 0.04  # mm by which the moved line may at most be nearer than the distance
# How much nearer a point may be, mm, and by how many points runs that overlap at a cusp are shortened: gently first.
TRIES = ((1e-3, 0), (1e-3, 3), (1e-4, 3), (1e-6, 6), (1e-6, 12))


def offset(line: Line, distance: float, beyond: float = 0.0) -> Array:
    """The line moved `distance` mm along its outward normals, (n, 2); negative moves it inward.

    beyond: mm the line is carried straight on past its first end (the mouth) before it is moved, so that the
    moved line can be cut off level. Where the line is hollow more tightly than the distance, the moved line
    would turn back on itself: what lies nearer than the distance is taken out, and the ends are joined.
    """
    s = np.linspace(0, line.length, max(int(np.ceil(line.length / STEP)), 8) + 1)
    points, moved, bend = _moved(line, distance, beyond, s)
    if float((-bend * distance).max()) < HOLLOW and LineString(moved).is_simple:
        return moved
    from scipy.spatial import cKDTree  # slow to load, and hardly ever wanted

    points, moved, _ = _moved(line, distance, beyond, _finer(line, s, bend * distance < -HOLLOW / 2, abs(distance)))
    near = cKDTree(points)
    apart, _ = near.query(moved)
    for nearer, short in TRIES:
        kept = np.flatnonzero(apart >= abs(distance) - nearer)
        runs = [moved[run] for run in np.split(kept, np.flatnonzero(np.diff(kept) > 1) + 1)]
        path = _joined([run for run in runs if len(run) > 2 * short], short)
        if len(path) > 2 and LineString(path).is_simple:
            between, _ = near.query((path[1:] + path[:-1]) / 2)  # where runs were joined
            if np.min(between) > abs(distance) - TRUE:
                return path
    raise InputError(
        f"it is too hollow to be moved out by {abs(distance):.1f} mm",
        "stitch line",
        "widen seam.standoff or let it go, or lessen seam.margin",
    )


def _joined(runs: list[Array], short: int) -> Array:
    """Runs of points end to end, each shortened by so many points where it meets another."""
    if not runs:
        return np.empty((0, 2))
    last = len(runs) - 1
    return np.vstack([run[short * (k > 0) : len(run) - short * (k < last)] for k, run in enumerate(runs)])


def _finer(line: Line, s: Array, hollow: NDArray[np.bool_], around: float) -> Array:
    """Lengths along the line, close together near where it is hollow and as they were elsewhere."""
    every = np.linspace(0, line.length, int(np.ceil(line.length / FINE)) + 1)
    if not hollow.any():
        return every  # it crosses itself elsewhere, as where it turns right round
    near = np.abs(every - s[hollow][np.searchsorted(s[hollow], every).clip(0, hollow.sum() - 1)]) < 2 * around
    near |= np.abs(every - s[hollow][(np.searchsorted(s[hollow], every) - 1).clip(0)]) < 2 * around
    return np.union1d(s, every[near])


def _moved(line: Line, distance: float, beyond: float, s: Array) -> tuple[Array, Array, Array]:
    """Points of the line at lengths s, the same moved, and the line's curvature at them."""
    points, normals, bend = line(s), line.normal(s), line.curvature(s)
    if beyond > 0:
        along = np.array([normals[0, 1], -normals[0, 0]])  # the outward normal turned back a quarter
        count = max(int(beyond / STEP), 8)
        points = np.vstack([points[0] - np.linspace(beyond, 0, count + 1)[:-1, None] * along, points])
        normals = np.vstack([np.repeat(normals[:1], count, axis=0), normals])
    return points, points + distance * normals, bend
