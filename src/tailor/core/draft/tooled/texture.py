"""Textures: one woven stamp struck row by row along a light diagonal through the field's middle.

Each row lies half a stamp aside of the last, as bricks do. The stamps are centred on the diagonal; where a hair more or
less between them lets them end whole at both its ends, they are given that. Source: craft, "Tooling, lettering, marks".
"""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from tailor.core.carried.loft import Array
from tailor.core.draft.tooled.asked import Tooling
from tailor.core.draft.tooled.came import Repeats

EASED = 0.03  # share of a stamp's length that the eye forgives between two
TICK = 1.5  # mm to either side of the guide, where a stamp ends
FAR = 3000.0  # mm


def woven(
    asked: Tooling, within: Polygon, left: BaseGeometry, middle: Array, up: Array
) -> tuple[Repeats, Array, tuple[Array, ...]]:
    """How a woven stamp repeats within a region, of which so much is left to be filled: counts; the guide, (2, 2); and
    lines between rows and at its ticks.
    """
    angle = np.arctan2(-up[0], up[1]) + np.radians(asked.lean)
    along, across = np.array([np.cos(angle), np.sin(angle)]), np.array([-np.sin(angle), np.cos(angle)])
    guide = _through(within, middle, along)
    length = float(np.hypot(*(guide[1] - guide[0])))
    count, step, over = repeated(length, asked.along)
    start = guide.mean(axis=0) - along * (count * step / 2)
    corners = (shapely.get_coordinates(within) - start) @ np.column_stack([along, across])
    (a0, b0), (a1, b1) = corners.min(axis=0), corners.max(axis=0)
    rows = np.arange(int(np.floor(b0 / asked.across - 0.5)), int(np.ceil(b1 / asked.across + 0.5)) + 1)
    places = np.arange(int(np.floor(a0 / step)) - 1, int(np.ceil(a1 / step)) + 2)
    at, row = (grid.ravel() for grid in np.meshgrid(places, rows))
    a, b = (at + 0.5 * (row % 2)) * step, (row - 0.5) * asked.across
    half = np.stack([np.column_stack([a + da * step, b + db * asked.across]) for da, db in
                     ((0, 0), (1, 0), (1, 1), (0, 1))], axis=1)  # fmt: skip
    struck = shapely.polygons(start + half @ np.vstack([along, across]))
    whole = shapely.covers(left, struck)
    touched = shapely.area(shapely.intersection(left, struck[~whole])) > 0.1 * step * asked.across
    lines = [start + (r - 0.5) * asked.across * across + np.array([[-FAR], [FAR]]) * along for r in rows]
    parts = shapely.get_parts(shapely.intersection(left, shapely.linestrings(lines)))
    seen = [shapely.get_coordinates(part) for part in parts if part.length > 0]
    ends = start + np.arange(count + 1)[:, None] * step * along
    ticks = [np.array([end - TICK * across, end + TICK * across]) for end in ends]
    counted = Repeats(int(whole.sum()), int(touched.sum()), count, step, over, len({r for r, w in zip(
        row.tolist(), whole.tolist(), strict=True) if w}))  # fmt: skip
    return counted, guide, tuple(seen + ticks)


def repeated(length: float, stamp: float) -> tuple[int, float, float]:
    """How many stamps go along a length, how far apart, and what is left of it, mm: none where they can be eased."""
    count = int(length / stamp)
    for many in (count, count + 1):
        if many and abs(length / many - stamp) <= EASED * stamp:
            return many, length / many, 0.0
    return count, stamp, length - count * stamp


def _through(within: Polygon, middle: Array, along: Array) -> Array:
    """The stretch of a line through a place that lies in a region round it, (2, 2)."""
    line = shapely.LineString([middle - FAR * along, middle + FAR * along])
    parts = [p for p in shapely.get_parts(within.intersection(line)) if p.length > 0]
    spot = shapely.Point(middle)
    return shapely.get_coordinates(min(parts, key=lambda part: part.distance(spot)))[[0, -1]]
