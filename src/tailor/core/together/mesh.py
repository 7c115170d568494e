"""Skin: a placed piece as triangles, finer where it bends, for what is looked at all over: layers, gaps, pictures."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from tailor.core.carried.loft import Array
from tailor.core.draft.piece import Piece, Role
from tailor.core.placed.lies import Lie, Patched, Placed

COARSE = 6  # points to the longer side of a piece, where it lies plane
STEP = 60.0  # mm between points, at the most
BEND = 12, 0.25  # points to a bend, and mm that they are apart at the least
THIN = 1e-6  # mm²: a triangle is none
NEAR = 1e-6  # mm: on a line


@dataclass(frozen=True)
class Skin:
    """flat: (n, 2) points of a piece; placed: where they lie; triangles: (m, 3), facing as the grain does."""

    flat: Array
    placed: Placed
    triangles: NDArray[np.intp]
    thickness: float

    @cached_property
    def dense(self) -> Array:
        """Places all over its middle layer: corners and middles of its triangles, (k, 3)."""
        return np.vstack([self.placed.at, self._middles])

    @cached_property
    def solid(self) -> tuple[Array, NDArray[np.intp]]:
        """The leather as a closed solid: its corners, (k, 3), and its triangles, (m, 3), facing out."""
        half, n = self.placed.out * self.thickness / 2, len(self.flat)
        rim, top = self._rim, self._facing
        over = np.column_stack([rim[:, 0], rim[:, 0] + n, rim[:, 1] + n])
        other = np.column_stack([rim[:, 0], rim[:, 1] + n, rim[:, 1]])
        faces = np.vstack([top, top[:, ::-1] + n, over, other])
        return np.vstack([self.placed.at + half, self.placed.at - half]), faces

    @cached_property
    def smooth(self) -> Array:
        """Which way its grain looks at each place, evened out over the triangles about it, (n, 3) of length 1."""
        a, b, c = (self.placed.at[self._facing[:, k]] for k in range(3))
        faces, found = np.cross(b - a, c - a), np.zeros((len(self.flat), 3))
        for k in range(3):
            np.add.at(found, self._facing[:, k], faces)
        long = np.linalg.norm(found, axis=1)[:, None]
        return np.where(long > THIN, found / np.maximum(long, THIN), self.placed.out)

    @cached_property
    def faces_out(self) -> bool:
        """Whether its triangles, as they run on the flat piece, face as its grain does."""
        return float((np.cross(*self._sides[1:]) * self.placed.out[self.triangles[:, 0]]).sum()) >= 0

    @cached_property
    def _facing(self) -> NDArray[np.intp]:
        return self.triangles if self.faces_out else self.triangles[:, ::-1]

    @cached_property
    def _rim(self) -> NDArray[np.intp]:
        """Its outermost sides, (k, 2), leather to the left of each as its grain is seen."""
        a, b, c = self._facing.T
        sides = np.vstack([np.column_stack(pair) for pair in ((a, b), (b, c), (c, a))])
        key = np.sort(sides, axis=1)
        _, first, count = np.unique(key, axis=0, return_index=True, return_counts=True)
        return np.asarray(sides[first[count == 1]], dtype=np.intp)

    @cached_property
    def shell(self) -> tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.intp]]:
        """The solid with corners of their own along its rim: triangles of its two faces, those of its rim, and the
        rim's sides, (k, 2). Its corners are those of its grain side, of its flesh side, and each side's two on either.
        """
        n, k = len(self.flat), 2 * np.arange(len(self._rim))
        a, b, low = 2 * n + k, 2 * n + k + 1, 2 * len(k)
        rim = np.vstack([np.column_stack([a, a + low, b + low]), np.column_stack([a, b + low, b])])
        return np.vstack([self._facing, self._facing[:, ::-1] + n]), rim, self._rim

    @cached_property
    def _sides(self) -> tuple[Array, Array, Array]:
        a, b, c = (self.placed.at[self.triangles[:, k]] for k in range(3))
        return a, b - a, c - a

    @cached_property
    def _middles(self) -> Array:
        a, u, v = self._sides
        return np.asarray(a + (u + v) / 3)

    @cached_property
    def _balls(self) -> tuple[Array, Array]:
        """A ball about the middle of each triangle: its radius squared, and its middle off the origin squared, (m,)."""
        _, u, v = self._sides
        reach = np.stack([((corner - (u + v) / 3) ** 2).sum(axis=1) for corner in (0.0, u, v)]).max(axis=0)
        return (np.sqrt(reach) * (1 + 1e-6) + 1e-6) ** 2, (self._middles**2).sum(axis=1)

    @cached_property
    def _ball(self) -> tuple[Array, float]:
        """A ball about the whole of it: its middle, (3,), and its radius, mm."""
        middle = self.placed.at.mean(axis=0)
        return middle, float(np.linalg.norm(self.placed.at - middle, axis=1).max()) + THIN

    def crossed(self, at: Array, way: Array) -> list[tuple[float, Array]]:
        """Where a line through a place goes through it: how far along the line, and at which flat point.

        way: (3,) of length 1.
        """
        centre, reach = self._ball
        away = centre - at
        if away @ away - (away @ way) ** 2 > reach**2:
            return []
        reaches, off = self._balls
        along, beside = np.stack([way, at]) @ self._middles.T
        near = np.flatnonzero(off - 2 * beside + at @ at - (along - at @ way) ** 2 <= reaches)
        if not len(near):
            return []
        a, u, v = (side[near] for side in self._sides)
        p = np.cross(way, v)
        turn = (u * p).sum(axis=1)
        level = np.abs(turn) < 1e-9
        safe = np.where(level, 1.0, turn)
        from_a = at - a
        s = (from_a * p).sum(axis=1) / safe
        q = np.cross(from_a, u)
        t = (q @ way) / safe
        on = ~level & (s >= -1e-6) & (t >= -1e-6) & (s + t <= 1 + 1e-6)
        depth = (v * q).sum(axis=1) / safe
        found: list[tuple[float, Array]] = []
        flat = self.flat[self.triangles[near]]
        for k in np.flatnonzero(on)[np.argsort(depth[on])]:
            if found and abs(float(depth[k]) - found[-1][0]) < 0.25 * self.thickness:
                continue  # on the side of two triangles
            one, other = flat[k, 1] - flat[k, 0], flat[k, 2] - flat[k, 0]
            found.append((float(depth[k]), flat[k, 0] + s[k] * one + t[k] * other))
        return found

    def pierced(self, at: Array, way: Array) -> tuple[NDArray[np.intp], Array]:
        """Where lines through places go through it: which of them, (k,), and how far along it, (k,). The side of two
        triangles counts for both. at: (n, 3), n at least 2, the quicker the more they lie in a row; way: (3,) of
        length 1.
        """
        across = np.cross(way, at[-1] - at[0])
        across /= np.linalg.norm(across)
        reaches, _ = self._balls
        aside, mine = (self._middles - at[0]) @ across, (at - at[0]) @ across
        near = np.flatnonzero((aside - np.clip(aside, mine.min(), mine.max())) ** 2 <= reaches)
        a, u, v = (side[near] for side in self._sides)
        p = np.cross(way, v)
        turn = (u * p).sum(axis=1)
        level = np.abs(turn) < 1e-9
        safe = np.where(level, 1.0, turn)
        s = (at @ p.T - (a * p).sum(axis=1)) / safe
        square = np.cross(u, way)  # q · way, q the way from a corner crossed with u
        t = (at @ square.T - (a * square).sum(axis=1)) / safe
        which, hit = np.nonzero(~level & (s >= -1e-6) & (t >= -1e-6) & (s + t <= 1 + 1e-6))
        on = a[hit] + s[which, hit][:, None] * u[hit] + t[which, hit][:, None] * v[hit]
        return which, (on - at[which]) @ way


def lines(low: float, high: float, turns: Array, finest: float, bend: tuple[int, float] = BEND) -> Array:
    """Coordinates from low to high, with those where it begins to bend or to lie plane, and more between near ones.

    finest: mm between them, at the most; bend: so many to a bend, if no nearer than so, mm.
    """
    ends = np.unique(np.concatenate([[low, high], np.clip(np.round(turns, 6), low, high)]))
    step = min(max((high - low) / COARSE, 1.0), STEP, finest)
    far = np.diff(ends)
    more = np.minimum(bend[0], np.ceil(far / bend[1]))
    more[0] *= (turns <= low + NEAR).any()  # before where it first begins to bend it is plane
    n = np.maximum(np.ceil(far / step), more)
    count = np.maximum(n, 1).astype(int)
    within = np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count)
    return np.append(np.repeat(ends[:-1], count) + within * np.repeat(far / count, count), high)


def skin(piece: Piece, lie: Lie, within: BaseGeometry | None = None) -> Skin:
    """A piece as it lies, or what of it is within a region; each part by itself where they lie in unlike ways."""
    flats, at, out, corners, n = [], [], [], [], 0
    for part, its in parts(piece, lie, within):
        flat, triangles = _meshed(part, its)
        placed = its(flat)
        flats.append(flat)
        at.append(placed.at)
        out.append(placed.out)
        corners.append(triangles + n)
        n += len(flat)
    return Skin(np.vstack(flats), Placed(np.vstack(at), np.vstack(out)), np.vstack(corners), thickness(piece))


def thickness(piece: Piece) -> float:
    """How thick a piece is where it lies, mm: layers of a welt lie on one another."""
    return piece.thickness * (piece.count if piece.role is Role.WELT else 1)


def parts(piece: Piece, lie: Lie, within: BaseGeometry | None = None) -> Iterator[tuple[Polygon, Lie]]:
    """The parts of a piece that lie in unlike ways, as it is once it is made."""
    region: BaseGeometry = Polygon(_trimmed(piece), list(piece.openings)).buffer(0)
    region = region if within is None else region.intersection(within)
    told = [(region, lie)]
    if isinstance(lie, Patched):
        regions = parted(shapely.to_wkb(region), tuple(shapely.to_wkb(where) for where, _ in lie.parts))
        told = list(zip(regions, (*(its for _, its in lie.parts), lie.rest), strict=True))
    for own, its in told:
        for part in shapely.get_parts(own).tolist():
            if isinstance(part, Polygon) and part.area >= THIN:
                yield part, its


@lru_cache(maxsize=32)
def parted(region: bytes, wheres: tuple[bytes, ...]) -> tuple[BaseGeometry, ...]:
    """What of a region lies in each of some others (as WKB), the first that it lies in; and what lies in none."""
    rest, found = shapely.from_wkb(region), list[BaseGeometry]()
    for where in shapely.from_wkb(list(wheres)):
        found.append(shapely.intersection(rest, where))
        rest = shapely.difference(rest, where)
    return (*found, rest)  # alike pieces are parted once


def _trimmed(piece: Piece) -> Array:
    """A piece's outline once it is made: as it is trimmed when it is glued, or dry."""
    if piece.trim is not None:
        return piece.trim
    rules = {rule.kind: rule.points for rule in piece.rules}
    if piece.role is not Role.BLANK or not rules.keys() >= {"trim", "mouth"}:
        return piece.cut
    trim, mouth = rules["trim"], rules["mouth"]
    if np.hypot(*(trim[-1] - mouth[0])) > np.hypot(*(trim[-1] - mouth[-1])):
        mouth = mouth[::-1]
    return np.vstack([trim, mouth])


def _meshed(region: Polygon, lie: Lie) -> tuple[Array, NDArray[np.intp]]:
    """Points of a region, (n, 2), and its triangles, (m, 3), small enough for how it bends."""
    left, low, right, high = region.bounds
    across, up, finest = lie.creases()
    xs, ys = lines(left, right, across, finest), lines(low, high, up, finest)
    return celled(shapely.to_wkb(region), xs.tobytes(), ys.tobytes())  # alike pieces are parted once


@lru_cache(maxsize=32)
def celled(region: bytes, across: bytes, up: bytes) -> tuple[Array, NDArray[np.intp]]:
    """A region (as WKB) parted by lines across and up (as bytes of their x and y), and each cell of it into triangles.

    Cells that its edge goes through are parted as they are left; all others are two triangles.
    """
    whole, xs, ys = shapely.from_wkb(region), np.frombuffer(across), np.frombuffer(up)
    shapely.prepare(whole)
    cut = _cut(whole, xs, ys)
    x, y = np.meshgrid((xs[:-1] + xs[1:]) / 2, (ys[:-1] + ys[1:]) / 2, indexing="ij")
    i, j = np.nonzero(shapely.contains_xy(whole, x, y) & ~cut)
    west, south = i * len(ys) + j, len(ys)
    square = [(west, west + south, west + south + 1), (west, west + south + 1, west + 1)]
    triangles = [np.column_stack(corners) for corners in square]
    i, j = np.nonzero(cut)
    left = shapely.intersection(whole, shapely.box(xs[i], ys[j], xs[i + 1], ys[j + 1]))
    parted = shapely.get_parts(shapely.constrained_delaunay_triangles(left))
    corners = shapely.get_coordinates(parted).reshape(-1, 4, 2)[:, :3].reshape(-1, 2)
    places, at = np.unique(np.round(corners, 6) @ [1.0, 1.0j], return_inverse=True)
    own = np.column_stack([places.real, places.imag])
    triangles.append(_numbered(own, xs, ys)[at].reshape(-1, 3))
    points = np.vstack([np.stack(np.meshgrid(xs, ys, indexing="ij"), axis=2).reshape(-1, 2), own])
    return _tidied(points, np.vstack(triangles))


def _tidied(points: Array, triangles: NDArray[np.intp]) -> tuple[Array, NDArray[np.intp]]:
    """Triangles that turn to the left, without slivers, and the points that are left in them."""
    a, b, c = (points[triangles[:, k]] for k in range(3))
    area = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    facing = np.where((area < 0)[:, None], triangles[:, ::-1], triangles)[np.abs(area) > THIN]
    used = np.zeros(len(points), dtype=bool)
    used[facing] = True
    return points[used], (np.cumsum(used) - 1)[facing]


def _numbered(points: Array, xs: Array, ys: Array) -> NDArray[np.intp]:
    """Which corner of the cells each of some points is, by its number; else one of their own, after those."""
    i, j = (np.searchsorted(lines, points[:, k] - NEAR).clip(max=len(lines) - 1) for k, lines in enumerate((xs, ys)))
    on = (np.abs(xs[i] - points[:, 0]) <= NEAR) & (np.abs(ys[j] - points[:, 1]) <= NEAR)
    return np.where(on, i * len(ys) + j, len(xs) * len(ys) + np.arange(len(points)))


def _cut(region: BaseGeometry, xs: Array, ys: Array) -> NDArray[np.bool_]:
    """Which cells between lines across and up an edge of a region goes through, (len(xs) - 1, len(ys) - 1); one that
    runs along a line goes through none.
    """
    ring, whose = shapely.get_coordinates(shapely.get_rings(region), return_index=True)
    side = np.flatnonzero(whose[1:] == whose[:-1])
    start, way = ring[side], ring[side + 1] - ring[side]
    turns = [np.repeat([0.0, 1.0], len(side))]
    of = [np.tile(np.arange(len(side)), 2)]
    for k, lines in enumerate((xs, ys)):
        ends = np.sort(np.column_stack([start[:, k], start[:, k] + way[:, k]]), axis=1)
        first, beyond = np.searchsorted(lines, ends[:, 0], "right"), np.searchsorted(lines, ends[:, 1], "left")
        count = np.maximum(beyond - first, 0)
        each = np.repeat(np.arange(len(side)), count)
        line = lines[np.arange(len(each)) - np.repeat(np.cumsum(count) - count - first, count)]
        turns.append((line - start[each, k]) / way[each, k])
        of.append(each)
    turn, whose = np.concatenate(turns), np.concatenate(of)
    order = np.lexsort((turn, whose))
    turn, whose = turn[order], whose[order]
    same = whose[1:] == whose[:-1]
    middle = start[whose[:-1]] + ((turn[:-1] + turn[1:]) / 2)[:, None] * way[whose[:-1]]
    cells = []
    for k, lines in enumerate((xs, ys)):
        at = np.searchsorted(lines, middle[:, k], "right") - 1
        near = lines[np.stack([at, at + 1]).clip(0, len(lines) - 1)]
        along = np.abs(way[whose[:-1], k]) <= NEAR
        same &= ~(along & (np.abs(near - middle[:, k]).min(axis=0) <= NEAR))
        cells.append(at.clip(0, len(lines) - 2))
    found = np.zeros((len(xs) - 1, len(ys) - 1), dtype=bool)
    found[cells[0][same], cells[1][same]] = True
    return found
