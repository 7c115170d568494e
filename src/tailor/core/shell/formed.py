"""Formed: one panel as it will lie round the object, the same panel laid flat, and the map between the two.

The panel is a grid: rows across the draw, columns along it at the same shares of each row's way over the object
and over the welt. Laid flat with as little strain as it will bear, then cut shorter over the object by the share
that wet leather stretches when it is moulded.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray
from shapely import STRtree

from tailor.core.carried.loft import Array
from tailor.core.errors import InputError
from tailor.core.shell.flatten import Flattening, Sheet
from tailor.core.shell.run import Run

Indices = NDArray[np.intp]

OVER, WELT = 16, 4  # columns to a side over the object, and over the welt
BEND = 6  # columns round the quarter turn of a fold
LEAST_OVER, MOST_OVER = 0.35, 0.9  # share of a row's way that its columns over the object may take
ROW = 2.5  # mm between rows that lie level
WALL = 3.5  # mm from row to row above which a wall is given rows of its own
STIFF = 40.0  # times as much as elsewhere leather minds being strained where it lies level on the welt
ON_THE_WELT = 1e-6  # mm past its landing
PAST = 3.0  # columns that a point may lie past a panel's side
ROUNDS, CLOSE = 40, 1e-9
NEARLY = 0.1  # mm off a panel that a point may lie


class Spot(NamedTuple):
    """Places on a panel's grid, in rows and columns and parts of them, (n,) each."""

    row: Array
    column: Array


@dataclass(frozen=True)
class Formed:
    """A panel formed and flat.

    side: "front" or "back". places: (r, c, 3) mm, z outward from the middle plane or the flat back. middle: the
    column that is the ridge or the fold. over: (r, c) the part of each place's way that lies over the object.
    laid: as it flattens. uv: (r, c, 2) as it is cut, ridge or fold upright at u = 0 and level with the case at its
    mouth. eased: share by which leather is cut shorter over the object.
    """

    side: str
    places: Array
    middle: int
    over: Array
    laid: Flattening
    sheet: Sheet
    uv: Array
    eased: float

    @property
    def rows(self) -> Array:
        """y of every row, (r,); two of a wall may be the same."""
        return np.asarray(self.places[:, 0, 1])

    @property
    def triangles(self) -> Indices:
        return np.asarray(self.sheet.triangles, dtype=np.intp)

    def spot(self, plan: Array) -> Spot:
        """Where points (n, 2) seen from the front lie on the panel, or nearest to it; a little past its sides."""
        rows = self.rows
        k = np.clip(np.searchsorted(rows, plan[:, 1], side="right") - 1, 0, len(rows) - 2)
        share = np.clip((plan[:, 1] - rows[k]) / np.maximum(rows[k + 1] - rows[k], 1e-12), 0, 1)
        x = self.places[k, :, 0] * (1 - share)[:, None] + self.places[k + 1, :, 0] * share[:, None]
        j = np.clip((x <= plan[:, :1]).sum(axis=1) - 1, 0, x.shape[1] - 2)
        n = np.arange(len(plan))
        apart = x[n, j + 1] - x[n, j]
        out = np.where(apart > 1e-9, (plan[:, 0] - x[n, j]) / np.maximum(apart, 1e-9), 0.0)
        return Spot(k + share, np.clip(j + out, -PAST, x.shape[1] - 1 + PAST))

    def at(self, spot: Spot, what: Array) -> Array:
        """A value (r, c, d) of the grid at spots, (n, d)."""
        k, j, a, b = self._cell(spot)
        a, b = a[:, None], b[:, None]
        low = what[k, j] * (1 - b) + what[k, j + 1] * b
        high = what[k + 1, j] * (1 - b) + what[k + 1, j + 1] * b
        return np.asarray(low * (1 - a) + high * a)

    def _cell(self, spot: Spot) -> tuple[Indices, Indices, Array, Array]:
        r, c = self.places.shape[:2]
        k = np.clip(np.floor(spot.row), 0, r - 2).astype(np.intp)
        j = np.clip(np.floor(spot.column), 0, c - 2).astype(np.intp)
        return k, j, spot.row - k, spot.column - j

    def to_flat(self, plan: Array) -> Array:
        """Points (n, 2) seen from the front to where they lie on the flat leather, (n, 2).

        Past its mouth and its foot the leather goes on straight.
        """
        past = plan[:, 1] - np.clip(plan[:, 1], self.rows[0], self.rows[-1])
        return self.at(self.spot(plan), self.uv) + np.column_stack([np.zeros(len(plan)), past])

    def to_plan(self, flat: Array) -> Array:
        """Flat points (n, 2) back to where they are seen from the front, (n, 2). Raises InputError far off it."""
        return self.at(self.spot_of(flat), self.places)[:, :2]

    @cached_property
    def _tree(self) -> scipy.spatial.cKDTree:
        middles = (self.uv[:-1, :-1] + self.uv[1:, :-1] + self.uv[:-1, 1:] + self.uv[1:, 1:]) / 4
        return scipy.spatial.cKDTree(middles.reshape(-1, 2))

    def spot_of(self, flat: Array) -> Spot:
        """Where flat points (n, 2) lie on the panel. Raises InputError far off it."""
        spot, miss = self.nearest(flat)
        if miss.max() > NEARLY:
            far = flat[int(miss.argmax())]
            raise InputError(
                f"the point {far[0]:.1f}, {far[1]:.1f} mm lies on no part of it", f"flat {self.side}",
                "keep within the leather",
            )  # fmt: skip
        return spot

    def nearest(self, flat: Array) -> tuple[Spot, Array]:
        """Where flat points (n, 2) lie on the panel, or nearest to it, and how far off they are, (n,), mm.

        Newton's way over its four-sided cells, from the nearest. Where cells are slivers, as at a level toe, it can
        lose its way; there the triangle that is nearest tells.
        """
        _, nearest = self._tree.query(flat)
        width = self.places.shape[1] - 1
        row, column, miss = self._sought(flat, nearest // width + 0.5, nearest % width + 0.5)
        lost = miss > CLOSE
        if lost.any():
            row[lost], column[lost], miss[lost] = self._in_triangles(flat[lost])
        return Spot(row, column), miss

    def facing(self, spot: Spot) -> Array:
        """Which way leather looks at spots, (n, 3) of length 1, where u runs to the right of v."""
        k, j, a, b = self._cell(spot)
        a, b = a[:, None], b[:, None]
        ways = []
        for what in (self.places, self.uv):
            low, high = what[k, j + 1] - what[k, j], what[k + 1, j + 1] - what[k + 1, j]
            left, right = what[k + 1, j] - what[k, j], what[k + 1, j + 1] - what[k, j + 1]
            ways += [low * (1 - a) + high * a, left * (1 - b) + right * b]
        across, up, u, v = ways
        turn = np.sign(u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0])[:, None]
        out = np.cross(across, up) * np.where(turn == 0, 1.0, turn)
        return np.asarray(out / np.maximum(np.linalg.norm(out, axis=1), 1e-12)[:, None])

    def _sought(self, flat: Array, row: Array, column: Array) -> tuple[Array, Array, Array]:
        """Spots from rows and columns to begin at, and how far each misses, mm."""
        apart = np.full(len(flat), np.inf)
        for _ in range(ROUNDS):
            k, j, a, b = self._cell(Spot(row, column))
            corner = [self.uv[k + i, j + m] for i in (0, 1) for m in (0, 1)]
            low, high = (corner[2 * i] + (corner[2 * i + 1] - corner[2 * i]) * b[:, None] for i in (0, 1))
            miss = flat - (low + (high - low) * a[:, None])
            apart = np.abs(miss).max(axis=1)
            if apart.max() < CLOSE:
                break
            up = high - low
            out = (corner[1] - corner[0]) * (1 - a)[:, None] + (corner[3] - corner[2]) * a[:, None]
            turn = up[:, 0] * out[:, 1] - up[:, 1] * out[:, 0]
            turn = np.where(np.abs(turn) < 1e-12, 1e-12, turn)
            row = row + np.clip((miss[:, 0] * out[:, 1] - miss[:, 1] * out[:, 0]) / turn, -1.5, 1.5)
            column = column + np.clip((up[:, 0] * miss[:, 1] - up[:, 1] * miss[:, 0]) / turn, -1.5, 1.5)
        return row, column, apart

    @cached_property
    def _flat_triangles(self) -> tuple[Array, STRtree]:
        corners = self.uv.reshape(-1, 2)[self.triangles]
        return corners, STRtree(np.asarray(shapely.polygons(corners)))

    def _in_triangles(self, flat: Array) -> tuple[Array, Array, Array]:
        """Spots in the nearest triangles of the panel, and how far each lies from its own, mm."""
        c, (corners, tree) = self.places.shape[1], self._flat_triangles
        points = shapely.points(flat)
        at = np.asarray(tree.nearest(points), dtype=np.intp)
        apart = np.asarray(shapely.distance(points, tree.geometries[at]))
        a, b, d = (corners[at, k] for k in range(3))
        one, two, out = b - a, d - a, flat - a
        area = one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]
        share = np.column_stack([
            out[:, 0] * two[:, 1] - out[:, 1] * two[:, 0], one[:, 0] * out[:, 1] - one[:, 1] * out[:, 0],
        ]) / np.where(np.abs(area) < 1e-15, 1e-15, area)[:, None]  # fmt: skip
        share = np.clip(share, 0, 1)
        weight = np.column_stack([1 - share.sum(axis=1), share])
        rows, columns = np.divmod(self.triangles[at], c)
        return (weight * rows).sum(axis=1), (weight * columns).sum(axis=1), apart


def _welt_columns(coarse: int) -> int:
    return WELT if coarse == 1 else WELT - 1


def columns(run: Run, edge: Array, coarse: int = 1, bend: float = 0.0) -> tuple[Array, Array]:
    """Lengths (n, c) of a row's columns out to x = edge, (n,), and how much of each lies over the object.

    coarse: how many times as wide the columns are. bend: length of the turn that a row sets out from, at a fold; it
    has columns of its own, so that it is cut into the same chords on every row.
    """
    whole = run.length_to(edge)
    turn = np.full(len(whole), bend)
    turn = np.minimum(turn, 0.5 * whole)
    over = np.clip(run.landed, turn + LEAST_OVER * (whole - turn), turn + MOST_OVER * (whole - turn))
    first = turn[:, None] + (over - turn)[:, None] * np.linspace(0, 1, OVER // coarse + 1)
    then = over[:, None] + (whole - over)[:, None] * np.linspace(0, 1, _welt_columns(coarse) + 1)[1:]
    parts = [first, then]
    if bend > 0:
        parts.insert(0, turn[:, None] * np.linspace(0, 1, BEND + 1)[:-1])
    length = np.concatenate(parts, axis=1)
    return length, np.minimum(length, run.landed[:, None])


class Half(NamedTuple):
    """One side of a panel, outward from its ridge or fold.

    places: (n, c, 3). way, over: (n, c) how far it is to each, and how much of that lies over the object, mm.
    """

    places: Array
    way: Array
    over: Array


def half(run: Run, rows: Array, edge: Array, coarse: int = 1, bend: float = 0.0) -> Half:
    """One side of a panel from its run at rows (n,), out to x = edge, (n,). bend: length of the turn at its fold."""
    length, over = columns(run, edge, coarse, bend)
    x, z = run.sampled(length)
    return Half(np.stack([x, np.broadcast_to(rows[:, None], x.shape), z], axis=2), length, over)


def formed(
    side: str, right: Half, left: Half | None, eased: float, mouth: float, before: Formed | None = None,
    rowed: bool = False,
) -> Formed:  # fmt: skip
    """The panel laid flat, from its halves, the left as if mirrored.

    left: None where the panel ends at a fold, which is then held straight. before: an earlier one to set out from.
    rowed: laid row by row, whatever that strains.
    """
    middle, whole = 0, right
    if left is not None:
        middle = left.way.shape[1] - 1
        turned = left.places * np.array([-1.0, 1.0, 1.0])
        both = zip((turned, left.way, left.over), right, strict=True)
        whole = Half(*(np.concatenate([a[:, :0:-1], b], axis=1) for a, b in both))
    missed = np.maximum(whole.way - chords(whole.places, middle), 0.0)  # what the chords of the mesh cut off its bends
    level = (whole.way - whole.over > ON_THE_WELT).astype(float)
    level[:, middle] = level[:, middle + 1]  # below the foot the ridge lies on the welt too
    places, missed, over, level = _with_walls(whole.places, missed, whole.over, level)
    flange = level > 0.5
    r, c = places.shape[:2]
    fold = np.arange(r) * c if left is None else None
    triangles = grid_triangles(r, c)
    sheet = Sheet(
        places.reshape(-1, 3),
        triangles,
        fold,
        grid=True,
        stiff=np.where(flange.ravel()[triangles].all(axis=1), STIFF, 1.0),
    )
    if rowed:
        flat = np.stack([chords(places, middle), places[:, :, 1]], axis=2)
        laid = Flattening(flat.reshape(-1, 2), np.ones((len(triangles), 2)), 0.0, 0, True)
        return Formed(side, places, middle, over, laid, sheet, flat, eased)
    laid = sheet.laid(None if before is None else _taken_over(before, r, c))
    uv = _upright(laid.uv.reshape(r, c, 2), middle, mouth, free=left is not None)
    laid = replace(laid, uv=uv.reshape(-1, 2))
    out = np.sign(np.arange(c) - middle)
    cut = uv.copy()
    cut[:, :, 0] += out * (missed - (1 - 1 / (1 + eased)) * over)
    return Formed(side, places, middle, over, laid, sheet, cut, eased)


def _taken_over(before: Formed, r: int, c: int) -> Array:
    """An earlier laying on a grid of r rows and c columns, (r·c, 2)."""
    uv = before.laid.uv.reshape(*before.places.shape[:2], 2)
    for axis, count in ((0, r), (1, c)):
        n = uv.shape[axis]
        if n == count:
            continue
        at = np.linspace(0, n - 1, count)
        k = np.minimum(at.astype(int), n - 2)
        share = (at - k).reshape((-1, 1, 1) if axis == 0 else (1, -1, 1))
        uv = uv.take(k, axis) * (1 - share) + uv.take(k + 1, axis) * share
    return np.asarray(uv.reshape(-1, 2))


def chords(places: Array, middle: int) -> Array:
    """The way to each column from the middle one as the mesh goes, (r, c), mm."""
    step = np.hypot(np.diff(places[:, :, 0], axis=1), np.diff(places[:, :, 2], axis=1))
    run = np.concatenate([np.zeros((len(step), 1)), np.cumsum(step, axis=1)], axis=1)
    return np.asarray(np.abs(run - run[:, middle : middle + 1]))


def grid_triangles(r: int, c: int) -> Indices:
    """Triangles (m, 3) of a grid of r rows and c columns, facing up where columns run right and rows up."""
    at = np.arange(r * c).reshape(r, c)
    a, b, d, e = at[:-1, :-1].ravel(), at[:-1, 1:].ravel(), at[1:, 1:].ravel(), at[1:, :-1].ravel()
    return np.vstack([np.column_stack([a, b, d]), np.column_stack([a, d, e])])


def _with_walls(places: Array, *parts: Array) -> tuple[Array, ...]:
    """Values (r, c) of a grid of places with rows put in where leather goes down a wall from one row to the next."""
    quarter = places.shape[1] // 4
    apart = np.linalg.norm(np.diff(places, axis=0), axis=2)[:, quarter:-quarter].max(axis=1)
    more = np.where(apart > WALL, np.ceil(apart / WALL), 1).astype(int)
    last = len(places) - 1
    at = np.concatenate([k + np.arange(n) / n for k, n in enumerate(more)] + [[float(last)]])
    k = np.minimum(at.astype(int), last - 1)
    share = (at - k)[:, None]
    mixed = [part[k] * (1 - share) + part[k + 1] * share for part in parts]
    share = share[:, :, None]
    return places[k] * (1 - share) + places[k + 1] * share, *mixed


def _upright(uv: Array, middle: int, mouth: float, free: bool) -> Array:
    """Moved so that the ridge's upper end lies at (0, mouth), and turned so that the ridge runs up from its lower."""
    if not free:
        return np.asarray(uv + np.array([0.0, mouth - uv[-1, middle, 1]]))
    z = uv @ np.array([1.0, 1.0j])
    along = z[-1, middle] - z[0, middle]
    z = (z - z[-1, middle]) * 1j * np.conj(along) / abs(along)
    return np.stack([z.real, z.imag + mouth], axis=2)


def level_half(rows: Array, ridge: Array, edge: Array, floor: float, coarse: int = 1) -> Half:
    """Rows that lie level all the way out from x = ridge to x = edge, (n,) each."""
    share = np.concatenate(
        [np.linspace(0, 0.6, OVER // coarse + 1), np.linspace(0.6, 1, _welt_columns(coarse) + 1)[1:]]
    )
    x = ridge[:, None] + (edge - ridge)[:, None] * share
    places = np.stack([x, np.broadcast_to(rows[:, None], x.shape), np.full_like(x, floor)], axis=2)
    return Half(places, x - ridge[:, None], np.zeros_like(x))


def stacked(*parts: Half) -> Half:
    """Halves one above the other, lowest first."""
    return Half(*(np.concatenate(same) for same in zip(*parts, strict=True)))
