"""Drawn: solids in space as a picture: nearest first by depth, lit, cut open by a plane, outlined where they end.

Compiled on first use, which takes a second or two: ask for `ready` off the window's thread.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit

from tailor.core.carried.loft import Array
from tailor.core.together.solids import Bytes, Sight, Solids

LIGHT = np.array([-0.3, 0.5, 0.8])  # to the light, as it is seen
SHADE = 0.42  # of its colour, that what looks away from the light keeps
FAR = -1e9
STEP = 1.6  # mm of depth from pixel to pixel, and as much more as it slants, at which one thing ends before another
SEAM = 1e-9  # share beyond its side that a triangle is drawn, so that none is left out between two
OUTLINE = 0.5  # of the brightness that is left along an outline


def drawn(solids: Solids, sight: Sight, size: tuple[int, int], plane: tuple[Array, float] | None = None) -> Bytes:
    """The picture, RGBA (h, w, 4), clear where there is nothing. size: width and height, px.

    plane: what lies beyond it is cut away.
    """
    wide, high = size
    ways = sight.ways
    seen = (solids.corners - sight.about) @ ways.T
    lit = (1 + (solids.facing @ ways.T) @ (LIGHT / np.linalg.norm(LIGHT))) / 2
    bright = SHADE + (1 - SHADE) * lit**1.5
    beyond = solids.beyond(plane)
    flat = np.column_stack([wide / 2 + seen[:, 0] * sight.scale, high / 2 - seen[:, 1] * sight.scale, seen[:, 2]])
    colour = np.zeros((high, wide, 4), dtype=np.uint8)
    depth = np.full((high, wide), FAR, dtype=np.float64)
    whose = np.full((high, wide), -1, dtype=np.int32)
    opened = plane is not None
    triangles = np.ascontiguousarray(solids.triangles)  # else it would be compiled once more
    _filled(opened, flat, bright, beyond, triangles, solids.colour, solids.cut, solids.whose, colour, depth, whose)
    _outlined(colour, depth, whose, STEP, OUTLINE)
    return colour


@njit(cache=True, nogil=True)
def _filled(
    opened: bool, corners: Any, bright: Any, beyond: Any, triangles: Any, colours: Any, cuts: Any, owners: Any,
    colour: Any, depth: Any, whose: Any,
) -> None:  # fmt: skip  # pragma: no cover - compiled
    high, wide = depth.shape
    for t in range(triangles.shape[0]):
        i, j, k = triangles[t, 0], triangles[t, 1], triangles[t, 2]
        if beyond[i] > 0 and beyond[j] > 0 and beyond[k] > 0:
            continue
        ax, ay, bx, by, cx, cy = (
            corners[i, 0],
            corners[i, 1],
            corners[j, 0],
            corners[j, 1],
            corners[k, 0],
            corners[k, 1],
        )
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if area == 0.0:
            continue
        inside = area > 0.0  # what faces the eye runs clockwise, as rows count down
        if inside and not opened:
            continue
        left, right = max(int(np.floor(min(ax, bx, cx))), 0), min(int(np.ceil(max(ax, bx, cx))), wide - 1)
        du, dv = (by - cy) / area, (cy - ay) / area
        top, low = max(int(np.floor(min(ay, by, cy))), 0), min(int(np.ceil(max(ay, by, cy))), high - 1)
        for y in range(top, low + 1):
            px, py = left + 0.5, y + 0.5
            u = ((bx - px) * (cy - py) - (by - py) * (cx - px)) / area - du
            v = ((cx - px) * (ay - py) - (cy - py) * (ax - px)) / area - dv
            for x in range(left, right + 1):
                u += du
                v += dv
                w = 1.0 - u - v
                if u < -SEAM or v < -SEAM or w < -SEAM:
                    continue
                z = u * corners[i, 2] + v * corners[j, 2] + w * corners[k, 2]
                if z <= depth[y, x] or u * beyond[i] + v * beyond[j] + w * beyond[k] > 0.0:
                    continue
                depth[y, x], whose[y, x] = z, owners[t]
                if inside:
                    for c in range(3):
                        colour[y, x, c] = cuts[t, c]
                else:
                    shade = u * bright[i] + v * bright[j] + w * bright[k]
                    for c in range(3):
                        colour[y, x, c] = np.uint8(min(255.0, colours[t, c] * shade))
                colour[y, x, 3] = 255


@njit(cache=True, nogil=True)
def _outlined(colour: Any, depth: Any, whose: Any, step: float, left: float) -> None:  # pragma: no cover - compiled
    """Darken what ends before something further off, or beside another thing."""
    high, wide = depth.shape
    for y in range(1, high - 1):
        for x in range(1, wide - 1):
            if whose[y, x] < 0:
                continue
            ends = False
            for dy, dx in ((0, 1), (1, 0), (0, -1), (-1, 0)):
                here, there = depth[y, x], depth[y + dy, x + dx]
                slant = abs(depth[y, x] - depth[y - dy, x - dx]) if whose[y - dy, x - dx] == whose[y, x] else 0.0
                if here - there > step + 2.0 * slant or (whose[y + dy, x + dx] != whose[y, x] and here > there):
                    ends = True
            if ends:
                for c in range(3):
                    colour[y, x, c] = np.uint8(colour[y, x, c] * left)


def ready() -> None:
    """Compile what draws, or load it as it was compiled before."""
    corner = np.array([[0.0, 0.0, 0.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0]])
    dye = np.zeros((1, 3), dtype=np.uint8)
    one = Solids(corner, corner, np.array([[0, 1, 2]], dtype=np.int32), dye, dye, np.zeros(1, dtype=np.int32))
    drawn(one, Sight(), (8, 8))
