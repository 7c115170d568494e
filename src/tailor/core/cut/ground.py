"""The leather as the search knows it: for each kind asked for, how deep every place lies within it, and its edges."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
import shapely
from numba import njit
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from tailor.core.carried.loft import Array

Counts = NDArray[np.int64]
Flags = NDArray[np.bool_]

STEP = 6.0  # mm between the places whose depth is known
BUCKET = 40.0  # mm, the side of a square that knows the edges in it
MARGIN = 24.0  # mm known round about
FAR = -1000.0  # mm, as deep as what is farther out is taken to be


class Ground(NamedTuple):
    """Of q kinds of leather, on a grid of h x w places from `low` (2,).

    depth (q, h, w): mm within the edge, less than nothing outside; edges (e, 4): from and to, those of each kind
    from `begun` (q + 1,) on; first (q, b + 1): where the edges of each square of `across` in a row begin in `which`;
    ring (r, 2) and ringed (q + 1,): a point of each edge that goes round; deep (q, h·w): places by their depth, the
    deepest first, `deepness` (q, h·w) that depth.
    """

    low: Array
    depth: Array
    edges: Array
    begun: Counts
    first: Counts
    which: Counts
    across: int
    ring: Array
    ringed: Counts
    deep: Counts
    deepness: Array


def ground(leathers: Sequence[BaseGeometry]) -> Ground:
    """The ground of leathers, each a part or all of what there is."""
    bounds = np.array([leather.bounds for leather in leathers if not leather.is_empty] or [(0.0, 0.0, 1.0, 1.0)])
    low, high = bounds[:, :2].min(axis=0) - MARGIN, bounds[:, 2:].max(axis=0) + MARGIN
    wide, tall = (int(n) for n in np.ceil((high - low) / STEP) + 1)
    across, up = (int(n) for n in np.ceil((high - low) / BUCKET) + 1)
    depth = np.empty((len(leathers), tall, wide))
    edges, which, first, ring = list[Array](), list[Counts](), list[Counts](), list[Array]()
    begun, ringed, kept = [0], [0], 0
    for k, leather in enumerate(leathers):
        rings = [np.asarray(r.coords) for part in shapely.get_parts(leather) for r in _rings(part)]
        lines = [np.hstack([r[:-1], r[1:]]) for r in rings]
        own = np.vstack(lines) if lines else np.zeros((0, 4))
        depth[k] = FAR
        for part in shapely.get_parts(leather):
            _sounded(part, low, depth[k])
        squares, starts = _squares(own, low, across, up)
        edges.append(own)
        which.append(squares + begun[-1])
        first.append(starts + kept)
        ring += [r[0] for r in rings]
        ringed.append(len(ring))
        begun.append(begun[-1] + len(own))
        kept += len(squares)
    flat = depth.reshape(len(leathers), -1)
    order = np.argsort(-flat, axis=1, kind="stable")
    return Ground(
        low, depth, np.vstack(edges), np.array(begun), np.array(first), np.concatenate(which), across,
        np.array(ring).reshape(-1, 2), np.array(ringed), order, np.take_along_axis(flat, order, axis=1),
    )  # fmt: skip


def _sounded(part: BaseGeometry, low: Array, depth: Array) -> None:
    """Tell the depths (h, w) in and about one part of the leather."""
    if not (rings := [np.asarray(r.coords) for r in _rings(part)]):
        return
    edges = np.vstack([np.hstack([r[:-1], r[1:]]) for r in rings])
    bounds = np.array(part.bounds)
    first = np.maximum(np.floor((bounds[:2] - MARGIN - low) / STEP).astype(int), 0)
    last = np.ceil((bounds[2:] + MARGIN - low) / STEP).astype(int) + 1
    window = depth[first[1] : last[1], first[0] : last[0]]
    own = np.empty(window.shape)
    _depths(edges, low + first * STEP, STEP, own)
    np.maximum(window, own, out=window)


def _rings(part: BaseGeometry) -> list[BaseGeometry]:
    return [part.exterior, *part.interiors] if isinstance(part, shapely.Polygon) and not part.is_empty else []


def _squares(edges: Array, low: Array, across: int, up: int) -> tuple[Counts, Counts]:
    """Which edges may meet each square, square by square, and where each square's begin."""
    a = np.floor((np.minimum(edges[:, :2], edges[:, 2:]) - low) / BUCKET - 1e-9).astype(int)
    b = np.floor((np.maximum(edges[:, :2], edges[:, 2:]) - low) / BUCKET + 1e-9).astype(int)
    pairs = [
        (y * across + x, k)
        for k, ((ax, ay), (bx, by)) in enumerate(zip(a, b, strict=True))
        for y in range(ay, by + 1)
        for x in range(ax, bx + 1)
    ]
    found = np.array(sorted(pairs), dtype=np.int64).reshape(-1, 2)
    starts = np.searchsorted(found[:, 0], np.arange(across * up + 1))
    return found[:, 1], starts.astype(np.int64)


@njit(cache=True, error_model="numpy")
def _depths(edges: Any, low: Any, step: float, depth: Any) -> None:  # pragma: no cover - compiled
    """Depth (h, w) of each place within edges (e, 4), which go round it."""
    tall, wide = depth.shape
    crossed = np.empty(edges.shape[0])
    for row in range(tall):
        y = low[1] + row * step
        n = 0
        for e in range(edges.shape[0]):
            ay, by = edges[e, 1], edges[e, 3]
            if (ay > y) != (by > y):
                crossed[n] = edges[e, 0] + (y - ay) / (by - ay) * (edges[e, 2] - edges[e, 0])
                n += 1
        passed = np.sort(crossed[:n])
        k = 0
        for col in range(wide):
            x = low[0] + col * step
            while k < n and passed[k] <= x:
                k += 1
            least = 1e18
            for e in range(edges.shape[0]):
                ax, ay = edges[e, 0], edges[e, 1]
                ux, uy = edges[e, 2] - ax, edges[e, 3] - ay
                vx, vy = x - ax, y - ay
                along = ux * ux + uy * uy
                share = 0.0 if along == 0.0 else min(1.0, max(0.0, (vx * ux + vy * uy) / along))
                dx, dy = vx - share * ux, vy - share * uy
                least = min(least, dx * dx + dy * dy)
            depth[row, col] = np.sqrt(least) if k % 2 == 1 else -np.sqrt(least)
