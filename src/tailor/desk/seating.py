"""Seating: where tags stand on the board: each beside what it measures, where nothing else stands."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np
import shapely
from numpy.typing import NDArray

Array = NDArray[np.float64]
Box = tuple[float, float, float, float]  # left, top, right, bottom, px

NEAREST, FURTHEST = 9.0, 88.0  # px from what it measures to the nearest edge of a tag
RINGS, TURNS = 7, 24  # of places that are tried: how many distances, and ways round
APART = 3.0  # px from tag to tag
BUSY = 6.0  # px of string that a tag would rather be longer by than cover one hole
CROSSED = 200.0  # px that it would rather be longer by than hide what another is tied to
STRANGE = 70.0  # px that it would rather be longer by than lie on a piece that it does not belong to
SQUARE = 2.0  # px, in which what is covered is counted
OWN = 2.0  # px from a piece within which what is measured belongs to it
STAYS = 40.0  # px that it would rather be longer by than stand elsewhere than it did


@dataclass(frozen=True)
class Seat:
    """Where a tag stands: its box, and both ends of its string, px."""

    box: Box
    string: tuple[tuple[float, float], tuple[float, float]]


NOWHERE: Mapping[str, Seat] = MappingProxyType({})


def seated(
    wanted: Mapping[str, tuple[tuple[float, float], tuple[float, float]]], room: Box, taken: Sequence[Box], dots: Array,
    pieces: Sequence[shapely.Polygon] = (), before: Mapping[str, Seat] = NOWHERE,
) -> dict[str, Seat]:  # fmt: skip
    """Seats for tags, in the order they are wanted; who finds none is left out.

    wanted: by name what each is tied to and how wide and high it is. taken: boxes that stay free. dots: (n, 2) places
    that a tag covers only where it must. pieces: what no string crosses that is not tied to it. before: where they
    stood. All px.
    """
    shapely.prepare(pieces)
    seats: dict[str, Seat] = {}
    boxes = np.array(taken, dtype=float).reshape(-1, 4)
    strings = np.empty((0, 4))
    counted = _counted(dots, room)
    ends = np.array([at for at, _ in wanted.values()]).reshape(-1, 2)
    for name, (at, size) in wanted.items():
        tried, reach = _tried(np.array(at), size)
        if name in before:  # as it stood to what it measures
            was = before[name]
            half = np.array(size) / 2
            middle = np.add(was.box[:2], was.box[2:]) / 2 + np.subtract(at, was.string[0])
            tried, reach = np.vstack([tried, [*(middle - half), *(middle + half)]]), np.append(reach, -STAYS)
        tips = np.clip(np.array(at), tried[:, :2], tried[:, 2:])
        free = np.asarray((tried[:, :2] >= room[:2]).all(axis=1) & (tried[:, 2:] <= room[2:]).all(axis=1))
        free &= ~_meet(tried, boxes, APART).any(axis=1)
        lines = np.column_stack([np.broadcast_to(np.array(at), tips.shape), tips])
        free &= ~_cut(strings, tried).any(axis=0)
        free &= ~_cut(lines, boxes).any(axis=1)
        free &= ~_cross(lines, strings).any(axis=1)
        others = [piece for piece in pieces if piece.distance(shapely.Point(at)) > OWN]
        strange = np.zeros(len(tried))
        if others and free.any():
            drawn, covered = shapely.linestrings(lines[free].reshape(-1, 2, 2)), shapely.box(*tried[free].T)
            strange[free] = np.array([shapely.intersects(piece, covered) for piece in others]).any(axis=0) * STRANGE
            free[free] = ~np.array([shapely.intersects(piece, drawn) for piece in others]).any(axis=0)
        if not free.any():
            continue
        hides = CROSSED * _within(ends, tried).sum(axis=1)
        cost = strange + reach + BUSY * _within_each(counted, room, tried) + hides
        best = int(np.where(free, cost, np.inf).argmin())
        left, top, right, bottom = map(float, tried[best])
        tip = (float(tips[best, 0]), float(tips[best, 1]))
        seats[name] = Seat((left, top, right, bottom), (at, tip))
        boxes, strings = np.vstack([boxes, tried[best]]), np.vstack([strings, lines[best]])
    return seats


def _tried(at: Array, size: tuple[float, float]) -> tuple[Array, Array]:
    """Boxes (n, 4) all round a place, and how far each is from it, (n,)."""
    reach = np.repeat(np.linspace(NEAREST, FURTHEST, RINGS), TURNS)
    turn = np.tile(np.linspace(0, 2 * np.pi, TURNS, endpoint=False), RINGS)
    way = np.column_stack([np.cos(turn), np.sin(turn)])
    half = np.array(size) / 2
    # Far enough along its way that the box's edge, not its middle, is as far off as it should be.
    along = np.minimum(*(half / np.maximum(np.abs(way), 1e-9)).T)
    middle = at + way * (reach + along)[:, None]
    return np.hstack([middle - half, middle + half]), reach


def _meet(boxes: Array, others: Array, apart: float) -> NDArray[np.bool_]:
    """Whether boxes (n, 4) come nearer to others (m, 4) than so much, (n, m)."""
    a, b = boxes[:, None], others[None]
    return np.asarray(
        (a[..., 0] < b[..., 2] + apart) & (b[..., 0] < a[..., 2] + apart)
        & (a[..., 1] < b[..., 3] + apart) & (b[..., 1] < a[..., 3] + apart)
    )  # fmt: skip


def _within(points: Array, boxes: Array) -> NDArray[np.bool_]:
    """Whether points (m, 2) lie in boxes (n, 4), (n, m)."""
    p, b = points[None], boxes[:, None]
    return np.asarray((p >= b[..., :2]).all(axis=2) & (p <= b[..., 2:]).all(axis=2))


def _counted(points: Array, room: Box) -> NDArray[np.int64]:
    """How many points (n, 2) lie in a room left of and above each corner of its squares, (h + 1, w + 1)."""
    wide, high = (max(int(np.ceil((room[k + 2] - room[k]) / SQUARE)), 1) for k in (0, 1))
    edges = [room[1] + SQUARE * np.arange(high + 1), room[0] + SQUARE * np.arange(wide + 1)]
    many, *_ = np.histogram2d(points[:, 1], points[:, 0], bins=edges)
    return np.pad(many.cumsum(axis=0).cumsum(axis=1), ((1, 0), (1, 0))).astype(np.int64)


def _within_each(counted: NDArray[np.int64], room: Box, boxes: Array) -> NDArray[np.int64]:
    """How many points lie in the squares of a room that boxes (n, 4) touch, (n,)."""
    high, wide = np.array(counted.shape) - 1
    at = (boxes - np.array([*room[:2], *room[:2]])) / SQUARE
    left, top = (np.clip(np.floor(at[:, k]).astype(int), 0, most) for k, most in ((0, wide), (1, high)))
    right, low = (np.clip(np.ceil(at[:, k]).astype(int), 0, most) for k, most in ((2, wide), (3, high)))
    return np.asarray(counted[low, right] - counted[low, left] - counted[top, right] + counted[top, left])


def _cut(lines: Array, boxes: Array) -> NDArray[np.bool_]:
    """Whether lines (n, 4) go through boxes (m, 4), (n, m). Clipped between the box's sides."""
    start, way = lines[:, None, :2], (lines[:, 2:] - lines[:, :2])[:, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        one, other = (boxes[None, :, :2] - start) / way, (boxes[None, :, 2:] - start) / way
    low, high = np.fmin(one, other), np.fmax(one, other)
    still = way == 0  # along a side: between it and its fellow, or never
    inside = (start >= boxes[None, :, :2]) & (start <= boxes[None, :, 2:])
    low = np.where(still, np.where(inside, -np.inf, np.inf), low)
    high = np.where(still, np.where(inside, np.inf, -np.inf), high)
    return np.asarray(np.maximum(low.max(axis=2), 0.0) <= np.minimum(high.min(axis=2), 1.0))


def _cross(lines: Array, others: Array) -> NDArray[np.bool_]:
    """Whether lines (n, 4) cross others (m, 4), (n, m)."""
    a, b = lines[:, None], others[None]

    def side(p: Array, q: Array, r: Array) -> Array:
        u, v = q - p, r - p
        return np.asarray(u[..., 0] * v[..., 1] - u[..., 1] * v[..., 0])

    one = side(a[..., :2], a[..., 2:], b[..., :2]) * side(a[..., :2], a[..., 2:], b[..., 2:])
    two = side(b[..., :2], b[..., 2:], a[..., :2]) * side(b[..., :2], b[..., 2:], a[..., 2:])
    return np.asarray((one < 0) & (two < 0))
