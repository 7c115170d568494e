"""Shapes: solids of what is not leather, or is not laid: thread, caps of fastenings, boxes, the measured object."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from tailor.core.carried.loft import Array, Loft
from tailor.core.together.solids import Bytes, Solids

Rgb = tuple[int, int, int]

THREAD_WIDE, THREAD_HIGH, THREAD_SHORT = 0.9, 0.35, 0.14  # mm, mm over the leather, and share of a stitch at its ends
CAP_HIGH, CAP_SIDES = 1.2, 20  # mm, and corners of a cap
WIRE_SIDES = 8
AROUND, ALONG = 48, 90  # places round the object, and heights of it


def _dye(rgb: Rgb, count: int) -> Bytes:
    return np.tile(np.array(rgb, dtype=np.uint8), (count, 1))


def _meshed(corners: Array, triangles: NDArray[np.intp], rgb: Rgb, whose: int) -> Solids:
    """A solid whose triangles each have a face of their own."""
    own = corners[triangles].reshape(-1, 3)
    a, b, c = (corners[triangles[:, k]] for k in range(3))
    facing = np.cross(b - a, c - a)
    facing /= np.maximum(np.linalg.norm(facing, axis=1), 1e-12)[:, None]
    n, dye = len(triangles), _dye(rgb, len(triangles))
    order = np.arange(3 * n, dtype=np.int32).reshape(-1, 3)
    return Solids(own, np.repeat(facing, 3, axis=0), order, dye, dye, np.full(n, whose, dtype=np.int32))


def rods(start: Array, end: Array, out: Array, rgb: Rgb, whose: int, short: float = THREAD_SHORT) -> Solids:
    """Short lengths of thread on leather, from start to end, (n, 3) each. short: share of each that its ends lack."""
    along = end - start
    side = np.cross(out, along)
    side *= THREAD_WIDE / 2 / np.maximum(np.linalg.norm(side, axis=1), 1e-12)[:, None]
    a, b, up = start + short * along, end - short * along, THREAD_HIGH * out
    corners = np.stack([a - side, a + side, b + side, b - side, a - side / 2 + up, a + side / 2 + up, b + side / 2 + up,
        b - side / 2 + up], axis=1)  # fmt: skip
    faces = np.array([(4, 7, 6), (4, 6, 5), (0, 3, 7), (0, 7, 4), (2, 1, 5), (2, 5, 6), (1, 0, 4), (1, 4, 5), (3, 2, 6),
        (3, 6, 7)])  # fmt: skip
    n = len(start)
    triangles = (faces[None] + 8 * np.arange(n)[:, None, None]).reshape(-1, 3)
    return _meshed(corners.reshape(-1, 3), triangles, rgb, whose)


def cap(at: Array, out: Array, radius: float, rgb: Rgb, whose: int) -> Solids:
    a = np.cross(out, [1.0, 0.0, 0.0] if abs(out[0]) < 0.9 else [0.0, 1.0, 0.0])
    a /= np.linalg.norm(a)
    b = np.cross(out, a)
    turn = np.linspace(0, 2 * np.pi, CAP_SIDES, endpoint=False)[:, None]
    ring = np.cos(turn) * a + np.sin(turn) * b
    n = CAP_SIDES
    corners = np.vstack([at + radius * ring, at + 0.8 * radius * ring + CAP_HIGH * out, [at + 1.2 * CAP_HIGH * out]])
    k, m = np.arange(n), (np.arange(n) + 1) % n
    triangles = np.vstack([np.column_stack([k, m, n + m]), np.column_stack([k, n + m, n + k]),
        np.column_stack([n + k, n + m, np.full(n, 2 * n)])])  # fmt: skip
    return _meshed(corners, triangles, rgb, whose)


def wire(line: Array, thick: float, rgb: Rgb, whose: int) -> Solids:
    """Round wire that is bent in a plane and closed: along a line, (n, 3)."""
    n = len(line)
    square = np.cross(line[1] - line[0], line[2] - line[1])
    square /= np.linalg.norm(square)
    way = np.roll(line, -1, axis=0) - line
    after = np.cross(way / np.linalg.norm(way, axis=1)[:, None], square)
    before = np.roll(after, 1, axis=0)
    out = (before + after) / (1 + (before * after).sum(axis=1, keepdims=True))  # mitred where it turns
    turn = np.linspace(0, 2 * np.pi, WIRE_SIDES, endpoint=False)
    ring = np.cos(turn)[:, None, None] * out + np.sin(turn)[:, None, None] * square
    corners = (line + thick / 2 * ring).reshape(-1, 3)  # side by side, round the line
    k = np.arange(WIRE_SIDES * n)
    ahead, beside = k - k % n + (k % n + 1) % n, (k + n) % (WIRE_SIDES * n)
    other = (ahead + n) % (WIRE_SIDES * n)
    return _meshed(corners, np.vstack([np.column_stack([k, ahead, other]), np.column_stack([k, other, beside])]), rgb,
        whose)  # fmt: skip


def box(middle: Array, size: Array, rgb: Rgb, whose: int) -> Solids:
    unit = np.array([(x, y, z) for x in (-1.0, 1.0) for y in (-1.0, 1.0) for z in (-1.0, 1.0)])
    corners = np.asarray(unit * size / 2 + middle)
    faces = np.array([(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)])
    triangles = np.vstack([faces[:, [0, 1, 2]], faces[:, [0, 2, 3]]])
    return _meshed(corners, triangles, rgb, whose)


def lofted(loft: Loft, moved: Array, rgb: Rgb, whose: int) -> Solids:
    """The measured object, closed at both ends."""
    heights = np.linspace(loft.tip, loft.top, ALONG)
    sections = loft.sections(heights)
    rings = np.stack([sections.outline(k) for k in range(ALONG)])
    rings = rings[:, :: max(rings.shape[1] // AROUND, 1)]
    n = rings.shape[1]
    corners = np.stack([rings[:, :, 0], np.broadcast_to(heights[:, None], rings.shape[:2]), rings[:, :, 1]], axis=2)
    ends = np.array([corners[0].mean(axis=0), corners[-1].mean(axis=0)])
    k, m = np.arange(n), (np.arange(n) + 1) % n
    around = np.vstack([np.column_stack([k, n + m, n + k]), np.column_stack([k, m, n + m])])
    sides = (around[None] + n * np.arange(ALONG - 1)[:, None, None]).reshape(-1, 3)
    last = ALONG * n
    low = np.column_stack([np.full(n, last), m, k])
    high = np.column_stack([np.full(n, last + 1), last - n + k, last - n + m])
    return _meshed(np.vstack([corners.reshape(-1, 3), ends]) + moved, np.vstack([sides, low, high]), rgb, whose)
