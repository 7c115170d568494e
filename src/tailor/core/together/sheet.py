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
from tailor.core.together import mesh
from tailor.core.together.mesh import lines, thickness

STREWN = 6.0  # mm between places by which a piece is weighed, at the most
DRAWN = 1.3  # times its flat length, that leather is drawn out to, at the most
BEND = 3, 1.5  # places to a bend, and mm that they are apart at the least: each lies on it
RIM = 20.0  # mm between places on its edge by which it is told whether a line may go through it
NEAR = 0.8  # of what places are apart crosswise: as near to a line lies one, where that goes through
CELL = 3.0  # mm: of places near a line that lie so near to one another one is gone from
LEVEL = 1e-6  # mm, or of 1: it lies in a plane

Indices = NDArray[np.intp]


@dataclass(frozen=True)
class Part:
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
    def near_by(self) -> float:
        """How near to a line a place lies where that goes through it, mm."""
        flat = self._net[0]
        return NEAR * float(np.hypot(np.diff(flat[0, :, 0]).max(), np.diff(flat[:, 0, 1]).max()))

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
    def _rim(self) -> tuple[Array, Array]:
        """Places along its edge, flat, (n, 2), and where they lie, (n, 3)."""
        rim = shapely.get_coordinates(shapely.segmentize(self.region.exterior, RIM))
        return rim, self.lie(rim).at

    @cached_property
    def frame(self) -> tuple[Array, Array, Array] | None:
        """Of a part that bends nowhere a corner, flat, (2,), and in space, (3,), and its x and y there, (2, 3):
        nothing in it tells where a bend would begin, and its rim lies as in a plane. Else None.
        """
        (left, low, right, high), (across, up, step) = self.region.bounds, self.lie.creases()
        if step < np.inf or ((across > left) & (across < right)).any() or ((up > low) & (up < high)).any():
            return None
        rim, at = self._rim
        flats, away = rim - rim[0], at - at[0]
        ways = np.asarray(np.linalg.lstsq(flats, away)[0], dtype=np.float64)
        level = np.abs(flats @ ways - away).max() < LEVEL and np.abs(ways @ ways.T - np.eye(2)).max() < LEVEL
        return (rim[0], at[0], ways) if level else None

    def near(self, at: Array, ways: Array, far: float) -> Indices:
        """Which of some lines may go through it, no further than so from places on them: nothing in it lies further
        from its edge than half as far as it is wide.
        """
        left, low, right, high = self.region.bounds
        rim, reach = self._rim[1], DRAWN * (min(right - left, high - low) + RIM) / 2
        along, off = _beside(rim, at, ways)
        return np.flatnonzero(((off <= reach**2) & (np.abs(along) <= far + reach)).any(axis=0))

    def begun(self, at: Array, ways: Array, far: float) -> tuple[Indices, Array]:
        """Places near lines, from which each is followed to where it goes through: which, (k,), and flat, (k, 2)."""
        along, off = _beside(self.at, at, ways)
        place, whose = np.nonzero((off <= self.near_by**2) & (np.abs(along) <= far + self.near_by))
        if not len(place):
            return whose, np.empty((0, 2))
        cell = np.floor(np.column_stack([self.flat[place], along[place, whose]]) / CELL)
        order = np.lexsort((off[place, whose], *cell.T, whose))
        first = np.ones(len(order), dtype=bool)  # of the places in one cell the one that is nearest to the line
        first[1:] = (np.diff(np.column_stack([whose, cell])[order], axis=0) != 0).any(axis=1)
        return whose[order[first]], self.flat[place[order[first]]]


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
    def parts(self) -> tuple[Part, ...]:
        return tuple(Part(part, its, self.apart) for part, its in mesh.parts(self.piece, self.lie))

    @cached_property
    def places(self) -> Array:
        """Places all over its middle layer, (k, 3), nearer to one another where it bends, and more at its heights."""
        told = [part.at for part in self.parts]
        if len(self.heights):
            told += [part.level(self.heights) for part in self.parts]
        return np.vstack(told)


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


def _beside(places: Array, at: Array, ways: Array) -> tuple[Array, Array]:
    """How far along lines places, (k, 3), lie, and how far beside them, squared, each (k, n)."""
    along = places @ ways.T - (at * ways).sum(axis=1)
    return along, (places**2).sum(axis=1)[:, None] - 2 * places @ at.T + (at**2).sum(axis=1) - along**2


def spread(piece: Piece, lie: Lie) -> tuple[Array, float]:
    """About where the middle of all of a piece lies, (3,), and its area, mm²."""
    found, areas = [], []
    for part, its in mesh.parts(piece, lie):
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
