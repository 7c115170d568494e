"""Laid over: the outline of a piece that was made, on the piece as it was drafted: where it differs, and by how much.

The traced outline is turned, shifted and, where it lies face down, turned over until it lies on the drafted one as well
as it can; stretches that differ do not pull at it. Then every place of the drafted edge says how much leather stands
out beyond it, or is wanting. What is unsure of the tracing is taken out by looking at a stretch at a time.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from scipy.spatial import cKDTree

from tailor.core.carried.loft import Array
from tailor.core.errors import InputError

STEP = 1.0  # mm between places along an edge
STRETCH = 9  # places that are looked at together
TOLD = 0.4  # mm: less than this is the tracing's
LEAST = 6.0  # mm along the edge that a difference is long
ROUNDS = 60
LOOSE = 0.35  # mm: places further off pull ever less
ALIKE = 0.08  # mm that a piece must fit better by, to be taken for one that lies face down
FAR = 0.12  # of its size, that a piece may be off and still be taken for it


@dataclass(frozen=True)
class Difference:
    """A stretch of the drafted edge. spot: (2,) where it is most, by: mm of leather too much, wanting below 0.

    along: mm along the drafted edge, from where to where.
    """

    spot: Array
    by: float
    along: tuple[float, float]


@dataclass(frozen=True)
class LaidOver:
    """piece: which of those drafted it is. ring: (n, 2) the traced outline, lying on that. over: it lay face down.

    edge: (m, 2) places along the drafted edge; by: (m,) mm of leather too much at each.
    """

    piece: int
    ring: Array
    over: bool
    edge: Array
    by: Array
    differences: tuple[Difference, ...]


def laid_over(traced: Array, drafted: Sequence[Array]) -> LaidOver:
    """A traced outline (n, 2) laid over the piece it is of, among outlines as they were drafted, mm.

    Raises InputError where it is like none of them.
    """
    sizes = [_size(ring) for ring in drafted]
    mine = _size(traced)
    near = [n for n, size in enumerate(sizes) if np.all(np.abs(size / mine - 1) < FAR)]
    best = None
    for n in near:
        edge = _places(drafted[n])
        for over in (False, True):
            ring, off = _settled(traced * [-1, 1] if over else traced, edge)
            off += ALIKE if over else 0.0  # what is as well the right way up lies so
            if best is None or off < best[0]:
                best = off, n, over, ring, edge
    if best is None:
        raise InputError("it is like none of the pieces", "traced outline", "trace a piece of this job, by itself")
    _, n, over, ring, _ = best
    return LaidOver(n, ring, over, *held_against(ring, drafted[n]))


def held_against(ring: Array, drafted: Array) -> tuple[Array, Array, tuple[Difference, ...]]:
    """Places (m, 2) along a drafted edge, (m,) mm by which a ring that lies on it is beyond each, and where that is
    more than the tracing may be off.
    """
    edge = _places(drafted)
    by = _smooth(_beyond(ring, edge))
    return edge, by, _differences(edge, by)


def _size(ring: Array) -> Array:
    """The two sizes of an outline, whatever way it lies: the sides of the least box about it."""
    box = shapely.get_coordinates(shapely.minimum_rotated_rectangle(shapely.Polygon(ring)))
    return np.sort(np.hypot(*np.diff(box[:3], axis=0).T))


def _places(ring: Array) -> Array:
    """Places along a closed edge, (m, 2), STEP apart."""
    line = shapely.LinearRing(ring)
    many = max(round(line.length / STEP), 8)
    return shapely.get_coordinates(shapely.line_interpolate_point(line, np.arange(many) * line.length / many))


def _settled(ring: Array, edge: Array) -> tuple[Array, float]:
    """A ring moved on to an edge, the same way up, and how far it is off that in the middle, mm."""
    fine, out = _places(ring), _outward(edge)
    found = None
    for turn in range(4):
        placed, whole = _begun(fine, edge, turn), _begun(ring, edge, turn, fine)
        for _ in range(ROUNDS):
            far, nearest = cKDTree(placed).query(edge)
            weights = np.asarray(1 / (1 + (far / max(LOOSE, float(np.median(far)))) ** 2) ** 2)
            move = _rigid(placed[nearest], edge, out, weights)
            placed, whole = _moved(placed, move), _moved(whole, move)
            if abs(move[0]) < 1e-7 and np.hypot(*move[2]) < 1e-4:
                break
        off = float(np.median(np.abs(_beyond(whole, edge))))
        if found is None or off < found[1]:
            found = whole, off
    assert found is not None
    return found


def _begun(ring: Array, edge: Array, turn: int, of: Array | None = None) -> Array:
    """A ring with its long side along that of an edge, turned by so many quarters, middle on middle."""
    ways = []
    for points in (ring if of is None else of, edge):
        middle = points.mean(axis=0)
        ways.append((middle, np.linalg.eigh(np.cov((points - middle).T))[1]))
    (mine, way), (there, other) = ways
    other = other * np.array([1, np.sign(np.linalg.det(other) * np.linalg.det(way))])
    quarter = np.radians(90 * turn)
    spin = np.array([[np.cos(quarter), -np.sin(quarter)], [np.sin(quarter), np.cos(quarter)]])
    return np.asarray((ring - mine) @ way @ other.T @ spin.T + there)


def _outward(edge: Array) -> Array:
    """(m, 2) which way is out of an edge, or into it, at each of its places."""
    along = np.roll(edge, -2, axis=0) - np.roll(edge, 2, axis=0)
    out = np.column_stack([along[:, 1], -along[:, 0]])
    return np.asarray(out / np.maximum(np.hypot(*along.T), 1e-9)[:, None])


def _rigid(from_: Array, to: Array, out: Array, weights: Array) -> tuple[float, Array, Array]:
    """The turn and the shift that bring points nearest to an edge, along which they may slide: angle, about, shift."""
    about = from_.mean(axis=0)
    arm = from_ - about
    rows = np.column_stack([out[:, 1] * arm[:, 0] - out[:, 0] * arm[:, 1], out])
    wanted = (out * (to - from_)).sum(axis=1)
    held = rows * weights[:, None]
    angle, x, y = np.linalg.solve(held.T @ rows + 1e-9 * np.eye(3), held.T @ wanted)
    return float(np.clip(angle, -0.3, 0.3)), about, np.array([x, y])


def _moved(points: Array, move: tuple[float, Array, Array]) -> Array:
    angle, about, shift = move
    spin = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    return np.asarray((points - about) @ spin.T + about + shift)


def _beyond(ring: Array, edge: Array) -> Array:
    """(m,) how far a ring stands out beyond each place of an edge, mm; below 0 where it is wanting."""
    whole = shapely.make_valid(shapely.Polygon(ring))
    spots = shapely.points(edge)
    far = shapely.distance(whole.boundary, spots)
    return np.where(shapely.contains(whole, spots), far, -far)


def _smooth(by: Array) -> Array:
    """Each place with its neighbours: the middle one of them."""
    reach = STRETCH // 2
    around = np.stack([np.roll(by, k) for k in range(-reach, reach + 1)])
    return np.asarray(np.median(around, axis=0))


def _differences(edge: Array, by: Array) -> tuple[Difference, ...]:
    """Stretches that differ by more than the tracing may, the greatest first."""
    m, off = len(by), np.abs(by) > TOLD
    if off.all():
        runs = [np.arange(m)]
    else:
        first = int(np.flatnonzero(~off)[0])
        order = (np.arange(m) + first) % m
        cuts = np.flatnonzero(np.diff(np.concatenate([[0], off[order].astype(int), [0]])))
        runs = [order[a:b] for a, b in zip(cuts[::2], cuts[1::2], strict=True)]
    found = []
    for run in runs:
        for part in np.split(run, np.flatnonzero(np.diff(np.sign(by[run]))) + 1):
            if len(part) * STEP < LEAST:
                continue
            most = part[int(np.abs(by[part]).argmax())]
            found.append(Difference(edge[most], float(by[most]), (float(part[0] * STEP), float(part[-1] * STEP))))
    return tuple(sorted(found, key=lambda each: -abs(each.by)))
