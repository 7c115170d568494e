"""Sheet: a placed piece known by places strewn all over it, for what is measured: gaps, layers, weights."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property, lru_cache

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

from tailor.core.carried.loft import Array
from tailor.core.draft.piece import Piece
from tailor.core.placed.lies import Lie
from tailor.core.together.mesh import lines, parts, thickness

STREWN = 6.0  # mm between places by which a piece is weighed, at the most
DRAWN = 1.3  # times its flat length, that leather is drawn out to, at the most
BEND = 3, 1.5  # places to a bend, and mm that they are apart at the least: each lies on it
NEAR = 1.5  # times what places are apart: beside a line, within which lies one near to where it goes through
CELL = 8.0  # mm: of places near a line that lie so near to one another one is gone from
TRIES, SMALL = 6, 1e-4  # steps towards that, and the mm by which leather is told to slope
ASIDE = SMALL * np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]])
LEVEL = 1e-6  # mm, or of 1: it lies in a plane
MET = 2e-4  # mm beside a line, where it is there
SAME = 0.25  # of a thickness: nearer to one another along a line, two places are one
LEAST = 1e-12  # share of its area by which leather is seen along a line, squared: it lies along it

Indices = NDArray[np.intp]


@dataclass(frozen=True)
class _Part:
    """What of a piece lies in one way: its region, and how it lies."""

    region: Polygon
    lie: Lie
    apart: float

    @cached_property
    def _net(self) -> tuple[Array, NDArray[np.bool_], Array, Indices]:
        """Where lines across and up it meet, flat, (n, m, 2), and which of those are of it; places along its edge,
        (k, 2), and of which ring each is.
        """
        left, low, right, high = self.region.bounds
        across, up, finest = self.lie.creases()
        finest = min(finest, self.apart)
        xs, ys = lines(left, right, across, finest, BEND), lines(low, high, up, finest, BEND)
        inside, rim, ring = over(shapely.to_wkb(self.region), xs.tobytes(), ys.tobytes(), self.apart)
        return np.stack(np.meshgrid(xs, ys), axis=2), inside, rim, ring

    @cached_property
    def _placed(self) -> tuple[Array, Array]:
        """Where those lie, (n, m, 3) and (k, 3)."""
        flat, _, rim, _ = self._net
        at = self.lie(np.vstack([flat.reshape(-1, 2), rim])).at
        return at[: len(at) - len(rim)].reshape(*flat.shape[:2], 3), at[len(at) - len(rim) :]

    @cached_property
    def flat(self) -> Array:
        """Flat places all over it, (n, 2)."""
        flat, inside, rim, _ = self._net
        return np.vstack([flat[inside], rim])

    @cached_property
    def at(self) -> Array:
        """Where those lie, (n, 3)."""
        at, rim = self._placed
        return np.vstack([at[self._net[1]], rim])

    def level(self, heights: Array) -> Array:
        """Where it comes to heights along the draw, (m,) in order: on lines all over it and on its edge, (n, 3)."""
        (flat, _, rim, ring), (at, edge) = self._net, self._placed
        within = np.vstack([
            _between(flat[:-1], flat[1:], at[:-1], at[1:], heights),
            _between(flat[:, :-1], flat[:, 1:], at[:, :-1], at[:, 1:], heights),
        ])  # fmt: skip
        on = np.diff(ring) == 0
        edges = _between(rim[:-1][on], rim[1:][on], edge[:-1][on], edge[1:][on], heights)
        return self.lie(np.vstack([within[shapely.contains_xy(self.region, *within.T)], edges])).at

    @cached_property
    def _ball(self) -> tuple[Array, Array, float]:
        """A ball that all of it lies in: its middle, flat, (2,), and in space, (3,), and its radius, mm."""
        corners = shapely.get_coordinates(self.region.exterior)
        left, low, right, high = self.region.bounds
        middle = corners[((corners - [(left + right) / 2, (low + high) / 2]) ** 2).sum(axis=1).argmin()]
        return middle, self.lie(middle[None]).at[0], DRAWN * float(np.hypot(*(corners - middle).T).max())

    @cached_property
    def frame(self) -> tuple[Array, Array, Array] | None:
        """Of a part that bends nowhere its middle, flat, (2,), and in space, (3,), and its x and y there, (2, 3):
        nothing in it tells where a bend would begin, and its rim lies as in a plane. Else None.
        """
        (left, low, right, high), (across, up, step) = self.region.bounds, self.lie.creases()
        if step < np.inf or ((across > left) & (across < right)).any() or ((up > low) & (up < high)).any():
            return None
        rim, (flat, middle, _) = shapely.get_coordinates(self.region.exterior), self._ball
        flats, away = rim - flat, self.lie(rim).at - middle
        ways = np.asarray(np.linalg.lstsq(flats, away)[0], dtype=np.float64)
        level = np.abs(flats @ ways - away).max() < LEVEL and np.abs(ways @ ways.T - np.eye(2)).max() < LEVEL
        return (flat, middle, ways) if level else None

    def about(self, flat: Array, by: float) -> NDArray[np.bool_]:
        """Which flat points, (n, 2), are no further than so from it, about."""
        left, low, right, high = self.region.bounds
        return np.asarray((flat > [left - by, low - by]).all(axis=1) & (flat < [right + by, high + by]).all(axis=1))

    def near(self, at: Array, ways: Array, far: float) -> Indices:
        """Which of some lines may go through it, no further than so from places on them."""
        _, middle, reach = self._ball
        away = middle - at
        off = _dot(away, away)
        return np.flatnonzero((off - _dot(away, ways) ** 2 <= reach**2) & (off <= (reach + far) ** 2))


@dataclass(frozen=True)
class Sheet:
    """A piece, and how it lies. apart: how far the places on it are from one another, at the most, mm; heights: along
    the draw, (m,) in order, at which more are told.
    """

    piece: Piece
    lie: Lie
    apart: float
    heights: Array = field(default_factory=lambda: np.empty(0))

    @cached_property
    def thickness(self) -> float:
        """How thick it is where it lies, mm."""
        return thickness(self.piece)

    @cached_property
    def _parts(self) -> tuple[_Part, ...]:
        return tuple(_Part(part, its, self.apart) for part, its in parts(self.piece, self.lie))

    @cached_property
    def places(self) -> Array:
        """Places all over its middle layer, (k, 3), nearer to one another where it bends, and more at its heights."""
        told = [part.at for part in self._parts]
        if len(self.heights):
            told += [part.level(self.heights) for part in self._parts]
        return np.vstack(told)

    def crossed(self, at: Array, ways: Array, far: float = np.inf) -> list[list[tuple[float, Array]]]:
        """Where each of some lines goes through it: how far along the line, in order, and at which flat point.

        at: (n, 3), a place on each line; ways: (n, 3), of length 1; far: no further than so from the place, mm.
        """
        found: list[list[tuple[float, Array]]] = [[] for _ in at]
        told = list[tuple[Indices, Array, Array]]()
        for part in self._parts:
            near = part.near(at, ways, far)
            if len(near):
                whose, depth, flat = _through(part, at[near], ways[near], far)
                told.append((near[whose], depth, flat))
        if not told:
            return found
        whose, depth, flat = (np.concatenate(each) for each in zip(*told, strict=True))
        for k in np.lexsort((depth, whose)).tolist():
            row, deep = found[whose[k]], float(depth[k])
            if not row or deep - row[-1][0] >= SAME * self.thickness:
                row.append((deep, flat[k]))
        return found


@lru_cache(maxsize=32)
def over(region: bytes, across: bytes, up: bytes, apart: float) -> tuple[NDArray[np.bool_], Array, Indices]:
    """Of where lines across and up (as bytes of their x and y) meet, which are of a region (as WKB), (n, m); places no
    further apart than so along its edge, (k, 2), and of which ring each is.
    """
    whole, xs, ys = shapely.from_wkb(region), np.frombuffer(across), np.frombuffer(up)
    inside = shapely.contains_xy(whole, *np.meshgrid(xs, ys))
    return inside, *shapely.get_coordinates(shapely.get_rings(shapely.segmentize(whole, apart)), return_index=True)


def _between(one: Array, other: Array, begins: Array, ends: Array, heights: Array) -> Array:
    """Where steps from one flat place to another, (…, 2), come to heights, flat, (k, 2). begins, ends: where they lie,
    (…, 3).
    """
    one, other, low, high = one.reshape(-1, 2), other.reshape(-1, 2), begins[..., 1].ravel(), ends[..., 1].ravel()
    first = np.searchsorted(heights, np.minimum(low, high), side="left")
    count = np.searchsorted(heights, np.maximum(low, high), side="right") - first
    k = np.repeat(np.arange(len(one)), count)
    passed = heights[first[k] + np.arange(len(k)) - np.repeat(np.cumsum(count) - count, count)]
    rise = high[k] - low[k]
    share = np.divide(passed - low[k], rise, out=np.zeros(len(k)), where=rise != 0)
    return np.asarray(one[k] + share[:, None] * (other[k] - one[k]))


def _through(part: _Part, at: Array, ways: Array, far: float) -> tuple[Indices, Array, Array]:
    """Where lines go through a part: which line, (k,), how far along it, (k,), and the flat point, (k, 2)."""
    whose, depth, flat = (
        _near_enough(part, at, ways, far) if part.frame is None else _through_plane(part.frame, at, ways)
    )
    there = np.abs(depth) <= far
    there[there] = shapely.intersects_xy(part.region, *flat[there].T)
    return whose[there], depth[there], flat[there]


def _through_plane(frame: tuple[Array, Array, Array], at: Array, ways: Array) -> tuple[Indices, Array, Array]:
    flat, middle, across = frame
    out = np.cross(*across)
    seen = ways @ out
    which = np.flatnonzero(np.abs(seen) > LEAST)  # the others lie along it
    depth = ((middle - at[which]) @ out) / seen[which]
    return which, depth, flat + (at[which] + depth[:, None] * ways[which] - middle) @ across.T


def _near_enough(part: _Part, at: Array, ways: Array, far: float) -> tuple[Indices, Array, Array]:
    """From each place near a line leather is taken to go on as it slopes there, again and again; one point may come
    several times.
    """
    near = NEAR * part.apart
    along = part.at @ ways.T - (at * ways).sum(axis=1)
    off = (part.at**2).sum(axis=1)[:, None] - 2 * part.at @ at.T + (at**2).sum(axis=1) - along**2
    place, whose = np.nonzero((off <= near**2) & (np.abs(along) <= far + near))
    cell = np.floor(np.column_stack([part.flat[place], along[place, whose]]) / CELL)
    order = np.lexsort((off[place, whose], *cell.T, whose))
    first = np.ones(len(order), dtype=bool)  # of the places in one cell the one that is nearest to the line
    first[1:] = (np.diff(np.column_stack([whose, cell])[order], axis=0) != 0).any(axis=1)
    flat, whose = part.flat[place[order[first]]], whose[order[first]]
    here, left = np.full((len(whose), 3), np.inf), np.arange(len(whose))
    for _ in range(TRIES if len(left) else 0):
        on, one, other = part.lie(np.vstack([flat[left] + by for by in ASIDE])).at.reshape(3, -1, 3)
        here[left] = on - at[whose[left]]
        way = ways[whose[left]]
        away, one, other = (_square(each, way) for each in (here[left], (one - on) / SMALL, (other - on) / SMALL))
        a, b, c, u, v = (_dot(p, q) for p, q in ((one, one), (one, other), (other, other), (one, away), (other, away)))
        seen = a * c - b * b
        by = np.array([c * u - b * v, a * v - b * u]).T / np.maximum(seen, LEAST)[:, None]
        by *= np.minimum(1.0, near / np.maximum(np.hypot(*by.T), LEAST))[:, None]
        # What lies along the line, or goes past the part, is none.
        on_it = np.abs(away).max(axis=1, initial=0.0) <= MET
        more = ~on_it & (seen > LEAST) & part.about(flat[left] - by, near)
        flat[left[more]] -= by[more]
        here[left[more]] = np.inf
        left = left[more]
        if not len(left):
            break
    met = np.isfinite(here[:, 0])
    met[met] = np.abs(_square(here[met], ways[whose[met]])).max(axis=1, initial=0.0) <= MET
    return whose[met], _dot(here[met], ways[whose[met]]), flat[met]


def _dot(one: Array, other: Array) -> Array:
    return np.asarray(np.einsum("ij,ij->i", one, other))


def _square(along: Array, way: Array) -> Array:
    """What is left of vectors, (n, 3), square to ways of length 1."""
    return along - _dot(along, way)[:, None] * way


def spread(piece: Piece, lie: Lie) -> tuple[Array, float]:
    """About where the middle of all of a piece lies, (3,), and its area, mm²."""
    found, areas = [], []
    for part, its in parts(piece, lie):
        left, low, right, high = part.bounds
        xs, ys = (
            np.linspace(a, b, max(int((b - a) / STREWN), 4) * 2 + 1)[1::2] for a, b in ((left, right), (low, high))
        )
        x, y = (each.ravel() for each in np.meshgrid(xs, ys))
        inside = shapely.contains_xy(part, x, y)
        if inside.any():
            found.append(its(np.column_stack([x[inside], y[inside]])).at.mean(axis=0))
            areas.append(part.area)
    return np.asarray(np.average(found, axis=0, weights=areas)), sum(areas)
