"""Taut: leather drawn over the whole object at once, down to the seam all round it, ends too.

What it goes over is the convex hull of the object, grown by its clearance, and of the seam's curve at the welt's
face; the neutral surface is that hull grown once more. But leather never comes down to the seam steeper than it
bends: where the hull would, it stands on a slope that rises from the seam instead. And where an object is hollow
along the draw, as between handle and blade, leather is drawn down into the hollow and follows it row by row, no
steeper than LEANS. Source: geometry, "Wrap" and "Anything a maker carries".

The hull is worked as points: every place it touches, pushed out along the normals of the facets that meet there and
along ways between them. A row is then a straight cut through its edges.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from tailor.core import measure
from tailor.core.carried.loft import Array, Sections
from tailor.core.measure import Along, Theme
from tailor.core.shell.hulled import Indices, pushed, unlike
from tailor.core.shell.run import APART, NUDGE, Run, interpolated


def _drawn_taut(job: Any, made: Any) -> bool:
    return not made.wet


MEASURES = (
    measure.angle("fit.approach", Theme.MOULD, "approach",
        "steepest angle at which the leather may come down to the welt", 5, 85, at=(Along.INNER, 0.25),
        applies=_drawn_taut),
    measure.angle("fit.toe", Theme.MOULD, "approach over the end",
        "steepest angle at which the leather may come down over the end", 5, 85, at=(Along.INNER, 0.97),
        applies=_drawn_taut),
)  # fmt: skip


BETWEEN = np.radians(8.0)  # normals pushed along at one place lie no further apart; coarse, half as much again
LEANS = np.radians(12.0)  # along the draw, leather follows the object down a slope no steeper than this
AIR = 1.0  # mm that leather may stand off along the draw before it is drawn down
PLACES = 150  # places to a row, besides those where the hull turns
LATTICE = 0.5  # mm between the places at which hollows along the draw are followed
DENSE = 0.25  # mm between the places of the seam that distance is measured from
LOOKED = 0.4  # mm before its landing over which the lean of a row is measured
NEAR = 1e-3  # mm
JOGGLED = "QJ Pp"  # places moved by some 1e-8 mm, so that no four lie in one plane: half the time of merging those
DEEP = 60.0  # mm below the welt's plane, where the hull is closed


@dataclass(frozen=True)
class Slope:
    """How steeply leather comes down to a seam. angle: at the sides, radians. squeeze: y is shortened by this before
    distance is measured, for ends where it comes down at another angle.
    """

    angle: float
    squeeze: float = 1.0


@dataclass(frozen=True)
class Fold:
    """A straight fold along the draw: x of its middle, its inside radius, and the heights it runs between, mm."""

    x: float
    radius: float
    low: float
    high: float


class Cut(NamedTuple):
    """A hull cut along n rows: x (n, m) rising and height (n, m); the last of a row is repeated at its end."""

    x: Array
    z: Array


class _Touched(NamedTuple):
    """A grown hull: which places it touches and the ways its corners lie outside them, (n,) and (n, 3); which corners
    stand on its foot; and the corners that its edges run between, (m,) each, the foot's own after the others.
    """

    which: Indices
    ways: Array
    foot: Indices
    one: Indices
    other: Indices


@dataclass(frozen=True)
class Drawn:
    """Leather drawn taut over one side of an object.

    seen: what it goes over, rows from the tip up; heights over the plane that `floor`, the welt's face, is measured
    from. seam: (n, 2) the curve it comes down to, from above the mouth round the foot, closed at the top by itself.
    offset: flesh face to neutral surface. coarse: how many times as wide its samples lie. fold: where a sheet is folded
    at the spine, which it then goes over from half way round. like: the same at another offset, by whose hull it goes.
    mm.
    """

    seen: Sections
    seam: Array
    clearance: float
    floor: float
    offset: float
    slope: Slope
    coarse: int = 1
    fold: Fold | None = None
    like: Drawn | None = None

    @cached_property
    def _points(self) -> tuple[Array, Array]:
        """What it may touch, (n, 3), four places far below too; how far outside each the neutral surface is, (n,)."""
        every = 2 * self.coarse
        x, z = self.seen.x[:, ::every], self.seen.front[:, ::every]
        y = np.broadcast_to(self.seen.y[:, None], x.shape)
        thing = np.stack([x, y, z], axis=2).reshape(-1, 3)
        seam = np.column_stack([self.seam, np.full(len(self.seam), self.floor)])
        parts, out = [thing, seam], [self.clearance + self.offset, self.offset]
        if self.fold is not None:
            fold = self.fold
            parts.append(np.array([(fold.x, fold.low, 0.0), (fold.x, fold.high, 0.0)]))
            out.append(fold.radius + self.offset)
        points = np.vstack(parts)
        deep = points[[*points[:, :2].argmin(axis=0), *points[:, :2].argmax(axis=0)]]
        deep[:, 2] = self.floor - DEEP
        return np.vstack([points, deep]), np.repeat([*out, self.offset], [*map(len, parts), len(deep)])

    @cached_property
    def _touched(self) -> _Touched:
        """How the grown hull is made up. Grown by more or by less all round, it is made up alike."""
        if self.like is not None:
            return self.like._touched
        points, out = self._points
        # Which places it touches is told with each raised by what it is grown by more than the seam.
        raised = points + np.array([0.0, 0.0, 1.0]) * (out - self.offset)[:, None]
        which, ways = pushed(scipy.spatial.ConvexHull(raised), BETWEEN * (1 + self.coarse) / 2)
        if self.coarse > 1:
            which, ways = unlike(which, ways)
        cloud = points[which] + out[which, None] * ways
        foot = scipy.spatial.ConvexHull(cloud[:, :2]).vertices.astype(np.intp)
        below = cloud[foot]
        below[:, 2] = self.floor - DEEP
        whole = scipy.spatial.ConvexHull(np.vstack([cloud, below]), qhull_options=JOGGLED)
        upper = whole.simplices[whole.equations[:, 2] > 1e-6]
        count = len(cloud) + len(foot)
        pairs = np.sort(upper[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1).astype(np.int64)
        return _Touched(which, ways, foot, *np.divmod(np.unique(pairs[:, 0] * count + pairs[:, 1]), count))

    @cached_property
    def _edges(self) -> tuple[Array, Array]:
        """Both ends of every edge of the grown hull's upper side, (m, 3) each."""
        (points, out), made = self._points, self._touched
        cloud = points[made.which] + out[made.which, None] * made.ways
        below = cloud[made.foot]
        below[:, 2] = self.floor - DEEP
        corner = np.vstack([cloud, below])
        return corner[made.one], corner[made.other]

    def hull(self, rows: Array) -> Cut:
        """The grown hull cut along rows (n,)."""
        a, b = self._edges
        order = np.argsort(rows, kind="stable")
        first, upto = (np.searchsorted(rows, end(a[:, 1], b[:, 1]), sorter=order) for end in (np.minimum, np.maximum))
        over = upto - first
        edge = np.repeat(np.arange(len(a)), over)
        row = order[np.arange(len(edge)) - np.repeat(np.cumsum(over) - over - first, over)]
        share = (rows[row] - a[edge, 1]) / (b[edge, 1] - a[edge, 1])
        x = a[edge, 0] + share * (b[edge, 0] - a[edge, 0])
        z = a[edge, 2] + share * (b[edge, 2] - a[edge, 2])
        order = np.lexsort((x, row))
        row, x, z = row[order], x[order], z[order]
        count = np.bincount(row, minlength=len(rows))
        place = np.arange(len(row)) - np.repeat(np.cumsum(count) - count, count)
        wide = max(int(count.max()), 2)
        xs, zs = np.full((len(rows), wide), np.nan), np.full((len(rows), wide), np.nan)
        xs[row, place], zs[row, place] = x, z
        last = np.maximum(count - 1, 0)[:, None]
        beyond = np.arange(wide)[None, :] > last
        for part in (xs, zs):
            part[beyond] = np.broadcast_to(np.take_along_axis(part, last, axis=1), part.shape)[beyond]
        empty = count == 0
        xs[empty], zs[empty] = 0.0, self.floor + self.offset
        return Cut(xs, zs)

    @cached_property
    def _seam(self) -> tuple[scipy.spatial.cKDTree, Array]:
        line = self.seam * np.array([1.0, self.slope.squeeze])
        step = np.hypot(*np.diff(line, axis=0).T)
        at = np.concatenate([[0.0], np.cumsum(step)])
        s = np.linspace(0, at[-1], max(int(at[-1] / (DENSE * self.coarse)), 8) + 1)
        dense = np.column_stack([np.interp(s, at, line[:, k]) for k in (0, 1)])
        # along a curve, halves of the room are found sooner than halves of the places
        return scipy.spatial.cKDTree(dense, leafsize=32, compact_nodes=False, balanced_tree=False), dense

    def from_the_seam(self, x: Array, y: Array, most: float) -> Array:
        """How far places inside lie from the seam, y squeezed, or the most where they are further, mm."""
        tree, line = self._seam
        every = np.column_stack([x.ravel(), y.ravel() * self.slope.squeeze])
        k = np.asarray(tree.query(every, distance_upper_bound=most)[1])
        near_it = k < len(line)
        points, k = every[near_it], k[near_it]
        best, (px, py) = np.full(len(points), np.inf), points.T
        for near in (k - 1, k):
            j = np.clip(near, 0, len(line) - 2)
            (ax, ay), (wx, wy) = line[j].T, (line[j + 1] - line[j]).T
            out, up = px - ax, py - ay
            share = np.clip((out * wx + up * wy) / np.maximum(wx**2 + wy**2, 1e-18), 0, 1)
            best = np.minimum(best, np.hypot(out - share * wx, up - share * wy))
        found = np.full(len(every), most)
        found[near_it] = best
        return found.reshape(x.shape)

    def over(
        self,
        rows: Array,
        hull: Cut,
        left: Array,
        right: Array,
        foot: float,
        follows: tuple[Array, Array] | None = None,
    ) -> Surface:
        """The neutral surface along rows (n,), between the seam's left and right there, (n,) each, and a little past.

        hull: cut along them. foot: y of the lowest of the seam. follows: x (m,), and heights (n, m) of leather drawn
        over each row by itself, where hollows along the draw are to be followed.
        """
        hx, hz = hull
        below = rows <= foot + NEAR  # where a level toe lies, its two sides say nothing
        if self.fold is not None:
            hx, hz = self._from_the_fold(rows, hx, hz)
            left = np.full(len(rows), -np.inf)
            low = np.full((len(rows), 1), self.fold.x - self.fold.radius - self.offset)
        else:
            low = np.where(below, np.minimum(hx[:, 0], left), left - self.offset)[:, None]
        high = np.where(below, np.maximum(hx[:, -1], right), right + self.offset)[:, None]
        even = low + (high - low) * np.linspace(0, 1, PLACES // self.coarse)
        x = np.sort(np.concatenate([even, np.clip(hx, low, high)], axis=1), axis=1)
        tan, level = np.tan(self.slope.angle), self.floor + self.offset
        rise = self.floor + self.offset / np.cos(self.slope.angle)
        step = float((high - low).max()) / (even.shape[1] - 1)
        reaches = max(float(hz.max()) - rise, 0.0) / tan + 2 * step  # from further off no slope comes under the hull
        apart = self._apart(rows, even, left, right, foot, below, reaches)
        shift = APART * np.arange(len(rows))[:, None]
        jitter = NUDGE * np.arange(hx.shape[1])
        z = np.interp((x + shift).ravel(), (hx + jitter + shift).ravel(), hz.ravel()).reshape(x.shape)
        z = np.minimum(z, rise + tan * interpolated(x, even, apart))
        if follows is not None:
            at, most = follows
            k = np.clip(np.searchsorted(at, x) - 1, 0, len(at) - 2)
            share = np.clip((x - at[k]) / (at[k + 1] - at[k]), 0, 1)
            n = np.arange(len(rows))[:, None]
            with np.errstate(invalid="ignore"):
                z = np.fmin(z, most[n, k] * (1 - share) + most[n, k + 1] * share)
        return Surface(rows, x, z, level, self.fold is not None)

    def _apart(
        self, rows: Array, x: Array, left: Array, right: Array, foot: float, below: NDArray[np.bool_], most: float
    ) -> Array:
        """How far inside the seam places x (n, m) of rows (n,) lie, or the most; below 0 outside it, mm."""
        y = np.broadcast_to(rows[:, None], x.shape)
        outside = (y < foot) | ((x < left[:, None]) | (x > right[:, None])) & ~below[:, None]
        return self.from_the_seam(x, y, most) * np.where(outside, -1.0, 1.0)

    def _from_the_fold(self, rows: Array, x: Array, z: Array) -> tuple[Array, Array]:
        """The hull cut along rows begun at the middle of the fold, which is as far out as it goes there."""
        assert self.fold is not None
        first = self.fold.x - self.fold.radius - self.offset
        inside = z <= 0
        x = np.maximum(x, first)
        return np.column_stack([np.full(len(rows), first), x]), np.column_stack(
            [np.zeros(len(rows)), np.where(inside & (x < self.fold.x), 0.0, z)]
        )

    def air(self, rows: Array, hull: Cut) -> Array:
        """How far the grown hull, cut along rows (n,), stands off the highest of the object there, (n,), mm."""
        top = np.interp(rows, self.seen.y, self.seen.front.max(axis=1)) + self.clearance + self.offset
        return np.asarray(hull.z.max(axis=1) - np.maximum(top, self.floor + self.offset))

    def toe_ends(self) -> float:
        """y at which leather from the foot of the seam first lies on the object, seen from the side."""
        foot = float(self.seam[:, 1].min())
        top = self.seen.front.max(axis=1)
        run = np.maximum(self.seen.y - foot, 1e-6)
        rise = (top - self.floor) / run
        k = int(rise.argmax())
        return float(self.seen.y[k]) if rise[k] > np.tan(LEANS) else -np.inf


def followed(rows: Array, high: Array, toe_ends: float) -> Array:
    """Leather drawn over each row by itself, (n, m) at rows (n,), let rise along the draw no steeper than LEANS.

    toe_ends: below this y nothing is followed: there leather comes down over the end. inf there.
    """
    order = np.argsort(rows, kind="stable")
    out = high[order]
    falls = np.diff(rows[order]) * np.tan(LEANS)
    for k, fall in enumerate(falls):  # up along the draw, and down again
        np.maximum(out[k + 1], out[k] - fall, out=out[k + 1])
    for k, fall in zip(range(len(falls) - 1, -1, -1), falls[::-1], strict=True):
        np.maximum(out[k], out[k + 1] - fall, out=out[k])
    out[order] = out.copy()
    out[rows < toe_ends] = np.inf
    return np.asarray(out)


@dataclass(frozen=True)
class Surface:
    """A neutral surface along rows (n,): x (n, m) rising, height (n, m) before the welt takes it; level: over it.

    folded: it sets out from a fold on the left.
    """

    rows: Array
    x: Array
    height: Array
    level: float
    folded: bool = False

    def run(self, ridge: Array, way: float) -> Run:
        """One side of it outward from x = ridge, (n,); to the left as if mirrored where way is -1."""
        x, w = (self.x, self.height) if way > 0 else (-self.x[:, ::-1], self.height[:, ::-1])
        start = way * ridge
        n, m = x.shape
        shift = APART * np.arange(n)[:, None]
        jitter = NUDGE * np.arange(m)
        known = x + jitter + shift
        at_ridge = np.interp((start[:, None] + shift).ravel(), known.ravel(), w.ravel())
        inside = x < start[:, None]
        x = np.where(inside, start[:, None], x)
        w = np.where(inside, at_ridge[:, None], w)
        above = w > self.level + 1e-9
        rows = np.arange(n)
        last = np.where(above.any(axis=1), m - 1 - above[:, ::-1].argmax(axis=1), -1)
        if self.folded:  # from a fold that is lower than the welt it rises to it, and is down where it is highest
            last = np.where(last < 0, np.maximum(w.argmax(axis=1) - 1, 0), last)
        k = np.clip(last, 0, m - 2)
        drop = w[rows, k] - w[rows, k + 1]
        share = np.clip((w[rows, k] - self.level) / np.where(drop > 1e-12, drop, 1.0), 0, 1)
        crossed = x[rows, k] + share * (x[rows, k + 1] - x[rows, k])
        landing = np.where(last < 0, start, np.where(drop > 1e-12, crossed, x[rows, np.minimum(k + 1, m - 1)]))
        before = np.maximum(landing - LOOKED, start)
        high = interpolated(before[:, None], x + jitter, w)[:, 0]
        steep = np.where(last < 0, 0.0, np.arctan2(high - self.level, np.maximum(landing - before, 1e-9)))
        x = np.where(np.arange(m)[None, :] > last[:, None], np.maximum(x, landing[:, None]), x)
        after = np.minimum(last + 1, m - 1)
        x[rows, after] = np.where(last + 1 < m, landing, x[rows, after])
        z = np.where(np.arange(m)[None, :] > last[:, None], self.level, w) if self.folded else np.maximum(w, self.level)
        at = np.concatenate(
            [np.zeros((n, 1)), np.cumsum(np.hypot(np.diff(x, axis=1), np.diff(z, axis=1)), axis=1)], axis=1
        )
        landed = at[rows, np.where(last < 0, 0, after)]
        landed = np.where(last < 0, 0.0, landed)
        flat = last < 0
        if flat.any():
            at[flat] = np.maximum(x[flat] - start[flat, None], 0.0)
        return Run(x, z, at, np.full(n, self.level), landing, landed, np.maximum(steep, 0.0))
