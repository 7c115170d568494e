"""Loft: the object as closed sections along the draw direction.

Axes: y along the draw, 0 at the tip and growing towards the mouth; x across, from the spine side to the
seam side; z through the thickness, front positive. Sections are sampled alike, at the same shares of the
width, so a whole loft is a few arrays of shape (rows, SAMPLES).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from tailor.core.carried.monotone import Monotone
from tailor.core.carried.stations import Shape, Station

Array = NDArray[np.float64]

FIRST = 50  # places that are looked at, before all others that may be nearer
NEARER = 0.03  # mm
SIDES = 24  # from which a section is looked at
SAMPLES = 65  # odd, so that the middle of a diamond is a sample
# Shares of the width, close together at both ends where ovals and corners turn.
SHARES: Array = (1 - np.cos(np.linspace(0, np.pi, SAMPLES))) / 2
SHARES[SAMPLES // 2] = 0.5


@dataclass(frozen=True)
class Sections:
    """Sections at given rows. y: (n,); x, front, back: (n, SAMPLES), heights outward from z = 0, mm.

    Every profile is concave, so every section is convex.
    """

    y: Array
    x: Array
    front: Array
    back: Array

    @property
    def x_spine(self) -> Array:
        return self.x[:, 0]

    @property
    def x_seam(self) -> Array:
        return self.x[:, -1]

    def rows(self, which: NDArray[np.intp] | slice) -> Sections:
        """Some of the sections, or any of them more than once."""
        return Sections(self.y[which], self.x[which], self.front[which], self.back[which])

    def outline(self, row: int) -> Array:
        """The closed section of one row as (2·SAMPLES, 2) points in x and z, front first."""
        front = np.column_stack([self.x[row], self.front[row]])
        back = np.column_stack([self.x[row], -self.back[row]])
        return np.vstack([front, back[::-1]])

    def girth(self) -> Array:
        """Length round each section, (n,), mm; the section being convex this is its hull girth."""
        return (
            _run(self.x, self.front)
            + _run(self.x, self.back)
            + (self.front[:, 0] + self.back[:, 0])
            + (self.front[:, -1] + self.back[:, -1])
        )

    @cached_property
    def _sides(self) -> tuple[Array, Array, Array, Array, Array]:
        """Each side of each section, as it runs clockwise: where it begins, its way, and its length squared, (n, m)."""
        across = np.hstack([self.x, self.x[:, ::-1], self.x[:, :1]])
        out = np.hstack([self.front, -self.back[:, ::-1], self.front[:, :1]])
        side, rise = np.diff(across), np.diff(out)
        return across[:, :-1], out[:, :-1], side, rise, np.maximum(side**2 + rise**2, 1e-18)

    def clear(self, row: NDArray[np.intp], x: Array, z: Array) -> Array:
        """How far a place lies outside the section of a row, (n,), mm: negative inside it. row, x, z: (n,)."""
        across, out, side, rise, long = (part[row] for part in self._sides)
        across, out = x[:, None] - across, z[:, None] - out
        share = np.clip((across * side + out * rise) / long, 0.0, 1.0)
        near = np.sqrt(((across - share * side) ** 2 + (out - share * rise) ** 2).min(axis=1))
        inside = (side * out - rise * across <= 1e-12).all(axis=1)
        return np.asarray(np.where(inside, -near, near))

    def beyond(self, row: NDArray[np.intp], x: Array, z: Array) -> Array:
        """How far a place at least lies outside the section of a row, (n,), mm: beyond the line that touches it on one
        of many sides. row, x, z: (n,).
        """
        found = np.full(len(x), -np.inf)
        for turn in np.linspace(0, 2 * np.pi, SIDES, endpoint=False):
            c, s = float(np.cos(turn)), float(np.sin(turn))
            reach = c * self.x + s * (self.front if s > 0 else -self.back)
            np.maximum(found, c * x + s * z - reach.max(axis=1)[row], out=found)
        return found


def _beyond(aside: Array, past: Array) -> Array:
    """How far places at least are from what they are so far beside, and so far past an end of, (n,) each, mm: how deep
    in it, where they are past none.
    """
    return np.asarray(np.where(past > 0, np.maximum(aside, past), aside))


def _run(x: Array, z: Array) -> Array:
    return np.asarray(np.hypot(np.diff(x), np.diff(z)).sum(axis=1))


MOST_TOLD = 250  # stations that a draft goes through one by one


@dataclass(frozen=True)
class Loft:
    """The object between its stations (at least two, in rising y)."""

    stations: tuple[Station, ...]

    @property
    def tip(self) -> float:
        return self.stations[0].y

    @property
    def top(self) -> float:
        return self.stations[-1].y

    @cached_property
    def ys(self) -> Array:
        return np.array([s.y for s in self.stations])

    @cached_property
    def box(self) -> tuple[Array, Array]:
        """The middle and the size of a box that it lies in, each (3,)."""
        x, wide, front, back, _ = self.sizes(self.ys).T
        low = np.array([x.min(), self.tip, -back.max()])
        high = np.array([(x + wide).max(), self.top, front.max()])
        return (low + high) / 2, high - low

    @cached_property
    def _sizes(self) -> Monotone:
        rows = [(s.x_spine, s.width, s.front, s.back, s.corner) for s in self.stations]
        return Monotone(self.ys, np.array(rows))

    def sizes(self, y: Array | float) -> Array:
        """(n, 5): x_spine, width, front, back, corner at the rows y, monotone between stations."""
        return np.asarray(self._sizes(np.clip(np.atleast_1d(y), self.tip, self.top)))

    def x_seam(self, y: Array | float) -> Array:
        size = self.sizes(y)
        return np.asarray(size[:, 0] + size[:, 1])

    def sections(self, y: Array | float, toe: float = 0.0, towards: float = 0.0) -> Sections:
        """Sections at rows y, (n,).

        Between stations of different shape the two profiles are blended in proportion. Past the tip the
        object is taken to run out on a straight cone over `toe` mm, to the line that lies `towards` of its width
        from the spine: that is the form the leather takes there.
        """
        return _known(self, np.atleast_1d(np.asarray(y, dtype=float)).tobytes(), toe, towards)

    def _sections(self, y: Array, toe: float, towards: float) -> Sections:
        size = self.sizes(y)
        at = np.clip(np.searchsorted(self.ys, y, side="right") - 1, 0, len(self.stations) - 2)
        share = np.clip((y - self.ys[at]) / (self.ys[at + 1] - self.ys[at]), 0, 1)
        front = np.zeros((len(y), SAMPLES))
        back = np.zeros_like(front)
        for shape in {s.shape for s in self.stations}:
            own = np.array([float(s.shape is shape) for s in self.stations])
            weight = own[at] * (1 - share) + own[at + 1] * share
            rows = weight > 0
            f, b = _profiles(shape, size[rows])
            front[rows] += weight[rows, None] * f
            back[rows] += weight[rows, None] * b
        left = np.clip(1 - (self.tip - y) / toe, 0, 1) if toe > 0 else np.where(y < self.tip, 0.0, 1.0)
        left = np.where(y < self.tip, left, 1.0)[:, None]
        x = size[:, :1] + size[:, 1:2] * ((1 - left) * towards + left * SHARES)
        return Sections(y, x, left * front, left * back)

    def nearest(self, at: Array, thick: Array | float = 0.0) -> tuple[float, int]:
        """How near any of some places, (n, 3), comes to the object, mm, and which: below 0 how far in it is. thick: of
        what lies there on the object's side, which is taken off, (n,). A tenth of a mm up or down is not told apart,
        nor what is nearer by less than three hundredths.
        """
        thick = np.broadcast_to(thick, len(at))
        away = np.abs(at - self.box[0]) - self.box[1] / 2
        off = _beyond(away[:, [0, 2]].max(axis=1), away[:, 1]) - thick
        least, which, order = np.inf, -1, np.argsort(off)
        for some in (order[:FIRST], order[FIRST:]):
            some = some[off[some] < least - NEARER]
            if len(some):
                least, found = self._nearest(at[some], thick[some], least)
                which = int(some[found]) if found >= 0 else which
        return least, which

    def _nearest(self, at: Array, thick: Array, least: float) -> tuple[float, int]:
        """As above, of places that come nearer than so; -1 where none does."""
        on = np.clip(at[:, 1], self.tip, self.top)
        rows, k = np.unique(np.round(on, 1), return_inverse=True)
        known, past = self.sections(np.clip(rows, self.tip, self.top)), np.abs(at[:, 1] - on)
        off = _beyond(known.beyond(k, at[:, 0], at[:, 2]), past) - thick
        which, order = -1, np.argsort(off)
        for some in (order[:FIRST], order[FIRST:]):
            some = some[off[some] < least - NEARER]
            if not len(some):
                continue
            clear = known.clear(k[some], at[some, 0], at[some, 2])
            out = np.where(past[some] > 0, np.hypot(np.maximum(clear, 0.0), past[some]), clear) - thick[some]
            first = int(out.argmin())
            if out[first] < least:
                least, which = float(out[first]), int(some[first])
        return least, which

    def at_stations(self, low: float = -np.inf, high: float = np.inf) -> Array:
        """The y of the stations from low to high; of more than can be told apart, every so many, ends among them."""
        found = self.ys[(self.ys >= low) & (self.ys <= high)]
        if len(found) <= MOST_TOLD:
            return found
        return np.asarray(found[np.linspace(0, len(found) - 1, MOST_TOLD).round().astype(int)])


@dataclass(frozen=True)
class Turned(Loft):
    """The same object seen from behind: x runs the other way, so that its spine side is its seam side."""

    @cached_property
    def _before(self) -> Loft:
        return Loft(self.stations)

    @cached_property
    def box(self) -> tuple[Array, Array]:
        middle, size = self._before.box
        return middle * [-1.0, 1.0, 1.0], size

    def sizes(self, y: Array | float) -> Array:
        size = super().sizes(y).copy()
        size[:, 0] = -(size[:, 0] + size[:, 1])
        return size

    def _sections(self, y: Array, toe: float, towards: float) -> Sections:
        seen = self._before.sections(y, toe, 1 - towards)
        return Sections(seen.y, -seen.x[:, ::-1], seen.front[:, ::-1], seen.back[:, ::-1])


@dataclass(frozen=True)
class Lifted(Loft):
    """The same object with its seam nearer to its back, so that the front goes over more of it; or to its front.

    share: of the half that it is moved over, from -1 (all of it is on the back) to 1 (all on the front).
    """

    share: float = 0.0

    @cached_property
    def _level(self) -> Loft:
        return Loft(self.stations)

    @cached_property
    def box(self) -> tuple[Array, Array]:
        (middle, size), by = self._level.box, self._by(self.ys)
        return middle + np.array([0.0, 0.0, (by.min() + by.max()) / 2]), size + np.array([0.0, 0.0, np.ptp(by)])

    def _by(self, y: Array) -> Array:
        size = self._level.sizes(y)
        return np.asarray(self.share * size[:, 3 if self.share > 0 else 2])

    def sizes(self, y: Array | float) -> Array:
        size = super().sizes(y).copy()
        by = self._by(np.atleast_1d(np.asarray(y, dtype=float)))
        size[:, 2] += by
        size[:, 3] -= by
        return size

    def _sections(self, y: Array, toe: float, towards: float) -> Sections:
        level = self._level.sections(y, toe, towards)
        left = np.clip(1 - (self.tip - y) / toe, 0, 1) if toe > 0 else np.ones(len(y))
        by = (self._by(y) * np.where(y < self.tip, left, 1.0))[:, None]
        return Sections(level.y, level.x, level.front + by, level.back - by)


@lru_cache(maxsize=64)
def _known(loft: Loft, rows: bytes, toe: float, towards: float) -> Sections:
    """The same rows are asked for time and again while one draft is made, and for the next while a measure moves."""
    found = loft._sections(np.frombuffer(rows), toe, towards)
    for part in (found.x, found.front, found.back):
        part.flags.writeable = False
    return found


def _profiles(shape: Shape, size: Array) -> tuple[Array, Array]:
    """Front and back heights, each (n, SAMPLES), of a shape at sizes (n, 5)."""
    width, front, back, corner = (size[:, k : k + 1] for k in (1, 2, 3, 4))
    if shape is Shape.SLAB:
        drop = _corner_drop(width, np.minimum(corner, np.minimum(width, front + back) / 2))
        return front - drop, back - drop
    unit = {
        Shape.OVAL: np.sqrt(np.clip(1 - (2 * SHARES - 1) ** 2, 0, None)),
        Shape.WEDGE: 1 - SHARES,
        Shape.DIAMOND: 1 - np.abs(2 * SHARES - 1),
    }[shape]
    return front * unit, back * unit


def _corner_drop(width: Array, corner: Array) -> Array:
    """How far a rounded corner lies below the flat, (n, SAMPLES)."""
    from_side = np.minimum(SHARES, 1 - SHARES) * width
    reach = np.clip(corner - from_side, 0, None)
    return np.asarray(corner - np.sqrt(np.clip(corner**2 - reach**2, 0, None)))


def at_height(loft: Loft, y: float) -> str:
    """A height in words; or how far it is beyond the object's lower end, where nothing but leather lies."""
    return f"at {round(y)} mm" if y >= loft.tip - 0.5 else f"{round(loft.tip - y)} mm beyond its end"


def outline(loft: Loft, step: float = 1.0) -> Array:
    """The object's outline seen from the front, closed, (m, 2) in x and y."""
    y = np.unique(np.concatenate([loft.ys, np.arange(loft.tip, loft.top, step)]))
    size = loft.sizes(y)
    spine = np.column_stack([size[:, 0], y])
    seam = np.column_stack([size[:, 0] + size[:, 1], y])
    return np.vstack([seam, spine[::-1]])
