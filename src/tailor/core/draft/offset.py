"""True normal offsets of a line, with reversed loops and cusps taken out."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import LineString

from tailor.core.carried.loft import Array
from tailor.core.draft.fairing import Line
from tailor.core.errors import InputError

STEP = 0.5


def offset(line: Line, distance: float, beyond: float = 0.0) -> Array:
    """The line moved `distance` mm along its outward normals, (n, 2); negative moves it inward.

    beyond: mm the line is carried straight on past its first end (the mouth) before it is moved, so that the
    moved line can be cut off level. Where the line is hollow more tightly than the distance, the moved line
    would turn back on itself: what lies nearer than the distance is removed.
    """
    s = np.linspace(0, line.length, max(int(np.ceil(line.length / STEP)), 8) + 1)
    points, normals = line(s), line.normal(s)
    if beyond > 0:
        along = np.array([normals[0, 1], -normals[0, 0]])  # the outward normal turned back a quarter
        ahead = points[0] - np.linspace(beyond, 0, 9)[:-1, None] * along
        points = np.vstack([ahead, points])
        normals = np.vstack([np.repeat(normals[:1], 8, axis=0), normals])
    moved = points + distance * normals
    path = LineString(moved)
    if path.is_simple and not _doubles_back(points, moved):
        return moved
    return _cleared(path, LineString(points), abs(distance))


def _doubles_back(points: Array, moved: Array) -> bool:
    return bool((np.einsum("ij,ij->i", np.diff(points, axis=0), np.diff(moved, axis=0)) < 0).any())


def _cleared(path: LineString, line: LineString, distance: float) -> Array:
    """The offset path without the stretches that lie nearer the line than the distance."""
    parts = np.array(shapely.get_parts(shapely.node(path)))
    middles = shapely.line_interpolate_point(parts, 0.5, normalized=True)
    kept = parts[shapely.distance(middles, line) >= distance - 2e-3]
    joined = shapely.line_merge(shapely.union_all(kept))
    pieces = sorted(shapely.get_parts(joined), key=lambda p: -p.length)
    if not pieces:
        raise InputError("the line is too hollow to be offset", "seam", "give a smaller margin")
    coords = np.asarray(shapely.get_coordinates(pieces[0]))
    start = np.asarray(path.coords[0])
    first, last = np.hypot(*(coords[0] - start)), np.hypot(*(coords[-1] - start))
    return coords if first <= last else coords[::-1]
