"""Region: the part of the plan that must lie inside the welt's inner edge; its boundary is the seam.

The object is looked at from the front. Each rule claims a part of the plan: a disc round every sample of the object,
as large as the rule asks there. Between neighbouring rows sizes and discs change evenly, so what the two claim
together is the convex hull of their discs, kept as a polygon of supports in so many directions. The claims of all rules
are united and closed by a disc, so that no hollow is tighter than the lines that are drawn outside it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import LineString, MultiPolygon, Polygon, box
from shapely.geometry.base import BaseGeometry

from tailor.core.carried.loft import Array, Loft

# Directions in which a claim is supported, by the radius up to which so many keep within some µm of its discs.
WAYS = ((1.5, 64), (6.0, 96), (np.inf, 128))
ROW = 2.5  # mm between rows
TRUE = 0.01  # mm that the object may be off half way between rows
MOST_ROWS = 400
THINNED = 0.002  # mm
QUARTER = 32  # points to a quarter turn of a line moved outward
ROUND = 128  # the same where it is moved back again, on a wide radius
TOUCHES = 0.06  # mm: a claim so near the seam is what holds it there
SPAN = 1e4  # mm


def plan_rows(loft: Loft, mouth: float, step: float = ROW, also: Sequence[float] = ()) -> Array:
    """Rows up to the mouth at which an object is sampled, (n,) rising: every station, even steps, and more at bends.

    also: further ones, where they lie on it.
    """
    even = np.linspace(loft.tip, mouth, max(int(np.ceil((mouth - loft.tip) / step)), 1) + 1)
    more = [y for y in also if loft.tip < y < mouth]
    rows = np.unique(np.concatenate([even, loft.at_stations(high=mouth), more]))
    for _ in range(6):
        middle = (rows[1:] + rows[:-1]) / 2
        size = loft.sizes(rows)[:, :4]
        off = np.abs(loft.sizes(middle)[:, :4] - (size[1:] + size[:-1]) / 2).max(axis=1)
        bent = (off > TRUE * step / ROW) & (np.diff(rows) > 0.02)
        if not bent.any() or len(rows) + bent.sum() > MOST_ROWS:
            break
        rows = np.unique(np.concatenate([rows, middle[bent]]))
    return rows


def claimed(x: Array, y: Array, radius: Array, squeeze: float = 1.0) -> Polygon | MultiPolygon:
    """What discs round samples claim, united.

    x, radius: (n, k) of the samples in n rows, radius nan where nothing is claimed; y: (n,) rising. squeeze: discs are
    longer along y than across by the inverse of this.
    """
    if not np.isfinite(radius).any():
        return Polygon()
    if ((np.ptp(radius, axis=1) == 0) | np.isnan(radius).all(axis=1)).all():  # discs alike reach out from a row's ends
        x, radius = x[:, [0, -1]], radius[:, [0, -1]]
    return _claimed(x.tobytes(), y.tobytes(), radius.tobytes(), x.shape[1], squeeze)


@lru_cache(maxsize=32)
def _claimed(x_: bytes, y_: bytes, radius_: bytes, count: int, squeeze: float) -> Polygon | MultiPolygon:
    """Claims are asked for again and again while a measure moves that has no part in them."""
    y = np.frombuffer(y_)
    x, radius = (np.frombuffer(part).reshape(len(y), count) for part in (x_, radius_))
    ways = next(n for most, n in WAYS if np.nanmax(radius) <= most)
    turn = 2 * np.pi * np.arange(ways) / ways
    towards = np.column_stack([np.cos(turn), np.sin(turn)])
    grown = 1 / np.sqrt(np.cos(np.pi / ways))  # half way between the polygon inside the disc and the one outside it
    there = np.asarray(np.isfinite(radius).any(axis=1))
    if count == 2 and np.ptp(radius[there]) == 0:
        return _buffered(x, y * squeeze, there, grown * float(radius[there][0, 0]), ways, squeeze)
    reach = np.where(np.isfinite(radius), radius, -np.inf)
    out = x[:, None, :] * towards[:, :1]
    out += reach[:, None, :]
    best = out.argmax(axis=2)
    rows = np.arange(len(y))[:, None]
    up = y * squeeze
    centre = np.stack([x[rows, best], np.broadcast_to(up[:, None], best.shape)], axis=2)
    size = np.maximum(reach[rows, best], 0.0)
    points = centre + grown * size[:, :, None] * towards
    support = np.take_along_axis(out, best[:, :, None], axis=2)[:, :, 0] + up[:, None] * towards[:, 1]
    pair = np.flatnonzero(there[1:] & there[:-1])
    upper = support[pair + 1] > support[pair]
    hulls = np.where(upper[:, :, None], points[pair + 1], points[pair])
    alone = there & ~np.concatenate([[False], there[:-1]]) & ~np.concatenate([there[1:], [False]])
    every = np.concatenate([hulls, points[alone]]) / np.array([1.0, squeeze])
    return areas(shapely.union_all(shapely.convex_hull(shapely.linestrings(every))))


def _buffered(
    x: Array, y: Array, there: NDArray[np.bool_], reach: float, ways: int, squeeze: float
) -> Polygon | MultiPolygon:
    """What discs alike claim that reach out from the ends x (n, 2) of rows y (n,), squeezed, where they are there."""
    rows = np.flatnonzero(there)
    claims = []
    for run in np.split(rows, np.flatnonzero(np.diff(rows) > 1) + 1):
        ring = np.column_stack([np.append(x[run, 1], x[run[::-1], 0]), np.append(y[run], y[run[::-1]])])
        bare = Polygon(ring) if len(ring) > 2 else LineString(ring)
        claims.append(bare.buffer(reach, quad_segs=ways // 4))
    return areas(shapely.transform(shapely.union_all(claims), lambda at: at / np.array([1.0, squeeze])))


def areas(found: BaseGeometry) -> Polygon | MultiPolygon:
    """What of a geometry has an area."""
    parts = [part for part in shapely.get_parts(found) if isinstance(part, Polygon)]
    return parts[0] if len(parts) == 1 else MultiPolygon(parts)


@dataclass(frozen=True)
class Sampled:
    """An object as it is looked at from the front, up to its mouth and on past it as a prism.

    y: (n,) rising. x: (n, k). height: (n, k) of front, and back: of back, over the plane the welt is halved by. mm.
    """

    y: Array
    x: Array
    height: Array
    back: Array


def sampled(loft: Loft, mouth: float, beyond: float, step: float = ROW, also: Sequence[float] = ()) -> Sampled:
    """The object sampled up to the mouth, at rows `also` too, and its section there carried on `beyond` mm."""
    rows = plan_rows(loft, mouth, step, also)
    seen = loft.sections(rows)
    return Sampled(
        np.append(rows, mouth + beyond), *(np.vstack([part, part[-1:]]) for part in (seen.x, seen.front, seen.back))
    )


def approach(height: Array, clearance: float, floor: float, angle: float) -> Array:
    """Radius of the disc within which leather cannot be down on the welt yet, coming no steeper than `angle`.

    height: of the sample over the plane that `floor`, the welt's face, is measured from. angle: radians. mm.
    """
    reach = (height - floor) / np.tan(angle) + clearance / np.sin(angle)
    return np.where(reach > 0, reach, np.nan)


def touch_down(height: Array, clearance: float, floor: float, ball: float) -> Array:
    """Radius within which moulded leather, turning into the valley on a ball, is not down on the welt yet, mm."""
    below = np.maximum(floor + ball - height, 0.0)
    reach = (clearance + ball) ** 2 - below**2
    return np.where(reach > 0, np.sqrt(np.maximum(reach, 0.0)), np.nan)


def squeezed(side: float, toe: float) -> float:
    """How far y is squeezed for leather that comes down at one angle at the sides, another at the toe, radians."""
    return float(np.tan(toe) / np.tan(side))


def closed(parts: Sequence[Polygon | MultiPolygon], radius: float) -> Polygon:
    """Parts of the plan united, with no hollow tighter than a radius, mm."""
    whole = shapely.union_all(list(parts)).simplify(THINNED / 2, preserve_topology=False)
    filled = whole.buffer(radius, quad_segs=ROUND).buffer(-radius, quad_segs=ROUND)
    largest = max(shapely.get_parts(filled), key=lambda part: float(part.area))
    return _thinned(Polygon(largest.exterior))


def _thinned(region: Polygon) -> Polygon:
    """The region with fewer points to its boundary."""
    thin = region.simplify(THINNED, preserve_topology=False)
    if not thin.is_valid:  # which is rare, and slow to keep from
        thin = region.simplify(THINNED)
    assert isinstance(thin, Polygon)
    return thin


def moved_out(region: Polygon, distance: float) -> Polygon:
    """The region with its boundary moved outward, mm."""
    return region.buffer(distance, quad_segs=QUARTER) if distance > 0 else region


@dataclass(frozen=True)
class Edges:
    """The boundary of a region, row by row: x on the left and on the right at any height."""

    region: Polygon

    @cached_property
    def _chains(self) -> tuple[Array, Array]:
        ring = shapely.get_coordinates(shapely.get_exterior_ring(self.region))[:-1]
        if not shapely.is_ccw(shapely.LinearRing(ring)):
            ring = ring[::-1]
        low = int(np.lexsort((ring[:, 0], ring[:, 1]))[0])
        ring = np.roll(ring, -low, axis=0)
        top = int(ring[:, 1].argmax())
        level = np.flatnonzero(ring[:, 1] > ring[top, 1] - 1e-9)
        right = _rising(ring[: level[0] + 1])
        left = _rising(np.vstack([ring[level[-1] :], ring[:1]])[::-1])
        return right, left

    @property
    def foot(self) -> float:
        return float(self.region.bounds[1])

    def __call__(self, y: Array) -> tuple[Array, Array]:
        """x on the right and on the left at heights y, (n,) each; at its foot where it does not reach so low."""
        right, left = self._chains
        return np.interp(y, right[:, 1], right[:, 0]), np.interp(y, left[:, 1], left[:, 0])


def _rising(chain: Array) -> Array:
    """A chain from foot to top as a function of height; what lies level is passed in no height at all."""
    y = np.maximum.accumulate(chain[:, 1]) + 1e-9 * np.arange(len(chain))
    return np.column_stack([chain[:, 0], y])


def outline(region: Polygon, top: float) -> Array:
    """The boundary of a region that reaches above `top`, from the right at that height round its foot to the left."""
    cut = region.intersection(box(-SPAN, -SPAN, SPAN, top))
    ring = shapely.get_coordinates(shapely.get_exterior_ring(cut))[:-1]
    if not shapely.is_ccw(shapely.LinearRing(ring)):
        ring = ring[::-1]
    ring = ring[::-1]  # clockwise: down the right side
    high = ring[:, 1] > top - 1e-9
    begins = np.flatnonzero(high & ~np.roll(high, -1))  # the last place at the top before it goes down
    first = int(begins[ring[begins, 0].argmax()])
    ring, high = np.roll(ring, -first, axis=0), np.roll(high, -first)
    last = int(np.flatnonzero(high[1:])[0]) + 1
    return np.asarray(ring[: last + 1])


def evenly(points: Array, step: float) -> Array:
    """Points at equal lengths along the straight runs between points, no further apart than a step, ends kept."""
    at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    s = np.linspace(0, at[-1], max(int(np.ceil(at[-1] / step)), 1) + 1)
    return np.column_stack([np.interp(s, at, points[:, k]) for k in (0, 1)])


@dataclass(frozen=True)
class Region:
    """What must lie inside the welt's inner edge, and which rules claim it.

    whole: closed. claims: rule to the part of the plan it claims.
    """

    whole: Polygon
    claims: Mapping[str, Polygon | MultiPolygon]

    def holds(self, points: Array) -> list[str | None]:
        """For places on the boundary, (n, 2), the rule whose claim ends there; None where the line only flows on."""
        at = shapely.points(points)
        names = list(self.claims)
        apart = np.array([shapely.distance(at, self.claims[n].boundary) for n in names])
        best = apart.argmin(axis=0)
        return [names[k] if apart[k, j] <= TOUCHES else None for j, k in enumerate(best)]
