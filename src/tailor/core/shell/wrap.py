"""Wrap: leather drawn taut round each section, from the fold to the seam, exactly.

Looked at from one side (the front, say), what the leather goes over is a row of discs: the fold disc, the
section's points grown by the clearance, and the welt's inner corner, a disc of no size. The neutral line is
the taut line over those discs, each grown by the leather's neutral offset: tangent runs and arcs. The concave
corner where it meets the welt stays sharp. All of it is worked for every station and both sides at once.

An angle phi runs along the taut line: the outward normal is (-cos phi, sin phi), so phi is 0 at the fold,
90° on the top and 180° facing the seam.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from tailor.core.carried.loft import Array, Sections
from tailor.core.leather.leather import Leather

if TYPE_CHECKING:
    from tailor.core.shell.run import Run

Indices = NDArray[np.intp]
HALF_PI = np.pi / 2


@dataclass(frozen=True)
class Chain:
    """The neutral line of one side, from the fold to the welt plane, for n rows.

    cx, cz, radius: (n, m) the discs it turns on, in order. turn: (n, m+1) angles phi: disc j is turned from
    turn[j] to turn[j+1]. kx, kz: (n, 2m) knots, where the line comes on to and leaves each disc; at: (n, 2m)
    its length there. floor: (n,) height of the neutral surface over the welt. x_land, landed: (n,) where the
    line reaches that height, and its length there. approach: (n,) angle at which it comes down on the welt,
    radians (negative where the welt is the higher). Lengths in mm.
    """

    cx: Array
    cz: Array
    radius: Array
    turn: Array
    kx: Array
    kz: Array
    at: Array
    floor: Array
    x_land: Array
    landed: Array
    approach: Array

    def rows(self, which: NDArray[np.intp] | slice) -> Chain:
        """Some of the rows, or any of them more than once."""
        return Chain(**{name: part[which] for name, part in vars(self).items()})

    def length_to(self, x: Array) -> Array:
        """Length of the neutral line from the fold to x, (n,), mm; beyond the landing it runs flat."""
        x = np.asarray(x, dtype=float)
        k = (self.kx < x[:, None]).sum(axis=1)
        on_slope = np.minimum(self._length_where(k, x, falling=False), self.landed)
        return np.where(x >= self.x_land, self.landed + x - self.x_land, on_slope)

    def point_at(self, length: Array) -> Array:
        """The point (x, height) on the neutral line that far from the fold, (n, 2), mm."""
        length = np.asarray(length, dtype=float)
        on = self._point_where(np.minimum(length, self.landed))
        flat = np.column_stack([self.x_land + length - self.landed, self.floor])
        return np.where((length >= self.landed)[:, None], flat, on)

    def points(self, row: int, end: float, step: float = 0.1) -> Array:
        """The neutral line of one row as points from the fold to x = end, (m, 2), for drawing."""
        last = self.landed[row] + max(end - self.x_land[row], 0.0)
        knots = np.append(self.at[row], self.landed[row])
        lengths = np.unique(np.concatenate([knots[knots < last], np.arange(0, last, step), [last]]))
        return self.along(row, lengths)

    def along(self, row: int, lengths: Array) -> Array:
        """Points on the neutral line of one row at lengths from the fold, (m, 2), mm."""
        one = Chain(**{name: part[row : row + 1] for name, part in vars(self).items()})
        past = lengths - self.landed[row]
        x, z = one.sampled(np.minimum(lengths, self.landed[row])[None, :])
        level = np.column_stack([self.x_land[row] + past, np.full(len(past), self.floor[row])])
        return np.where((past >= 0)[:, None], level, np.column_stack([x[0], z[0]]))

    def _length_where(self, k: Indices, value: Array, falling: bool) -> Array:
        """Length at which x, rising, or height, falling, reaches a value, on the element that ends at knot k."""
        rows, k = np.arange(len(value)), np.clip(k, 1, self.at.shape[1] - 1)
        before, disc = k - 1, (k - 1) // 2
        knots, centre = (self.kz, self.cz) if falling else (self.kx, self.cx)
        c0, c1 = knots[rows, before], knots[rows, k]
        level = np.abs(c1 - c0) < 1e-12
        t = np.clip(np.where(level, 1.0, (value - c0) / np.where(level, 1.0, c1 - c0)), 0, 1)
        straight = self.at[rows, before] + t * (self.at[rows, k] - self.at[rows, before])
        radius = self.radius[rows, disc]
        share = np.clip((value - centre[rows, disc]) / np.maximum(radius, 1e-12), -1, 1)
        phi = np.pi - np.arcsin(share) if falling else np.arccos(-share)
        phi = np.clip(phi, self.turn[rows, disc], self.turn[rows, disc + 1])
        arc = self.at[rows, before] + radius * (phi - self.turn[rows, disc])
        return np.asarray(np.where(before % 2 == 0, arc, straight))

    def _point_where(self, length: Array) -> Array:
        """Points (n, 2) on the line at lengths (n,)."""
        return np.column_stack([part[:, 0] for part in self.sampled(length[:, None])])

    def sampled(self, length: Array) -> tuple[Array, Array]:
        """x and height, (n, m) each, on the line at lengths (n, m), none of them past its landing."""
        rows = np.arange(len(length))[:, None]
        k = np.clip((self.at[:, None, :] <= length[:, :, None]).sum(axis=2) - 1, 0, self.at.shape[1] - 2)
        span = self.at[rows, k + 1] - self.at[rows, k]
        t = np.clip(np.where(span > 0, (length - self.at[rows, k]) / np.where(span > 0, span, 1), 0.0), 0, 1)
        disc = k // 2
        phi = self.turn[rows, disc] + t * (self.turn[rows, disc + 1] - self.turn[rows, disc])
        radius = self.radius[rows, disc]
        turning = k % 2 == 0
        x, z = (
            np.where(turning, c[rows, disc] + radius * n, m[rows, k] + t * (m[rows, k + 1] - m[rows, k]))
            for c, m, n in ((self.cx, self.kx, -np.cos(phi)), (self.cz, self.kz, np.sin(phi)))
        )
        return x, z


def _stands_out(dx: Array, dz: Array, wider: float) -> tuple[Array, Array]:
    """The angles phi from and to which one disc stands out further than another; equal where it never does.

    dx, dz: from the other's centre to its own. wider: its radius less the other's.
    """
    apart = np.hypot(dx, dz)
    ratio = np.where(apart < 1e-12, np.sign(wider), wider / np.maximum(apart, 1e-12))
    half = np.pi - np.arccos(np.clip(np.where(ratio <= -1 + 1e-12, -1.0, ratio), -1, 1))
    half = np.where(ratio >= 1, 2 * np.pi, half)
    middle = np.pi - np.arctan2(dz, dx)
    middle = np.where(middle > 1.5 * np.pi, middle - 2 * np.pi, middle)
    return np.asarray(middle - half), np.asarray(middle + half)


def chain(x: Array, z: Array, clearance: float, fold: Array, fold_radius: float, corner: Array, offset: float) -> Chain:
    """The taut neutral line over one side of each section.

    x, z: (n, k) points of the profile, x rising, z concave. fold: (n,) x of the fold disc's centre (its height
    is 0), or (n, 2) x and height of whatever disc the line sets out from; fold_radius: its inside radius. corner:
    (n, 2) the welt's inner corner. offset: flesh face to neutral surface. Lengths in mm. Source: geometry, "Wrap:
    one section, exactly".
    """
    n, k = x.shape
    fold, fold_z = (fold, np.zeros(n)) if fold.ndim == 1 else (fold[:, 0], fold[:, 1])
    # Point i is the section's outermost while phi is between the slopes of its two edges, ...
    edges = np.maximum.accumulate(HALF_PI - np.arctan2(np.diff(z, axis=1), np.diff(x, axis=1)), axis=1)
    low = np.concatenate([np.zeros((n, 1)), edges], axis=1)
    high = np.concatenate([edges, np.full((n, 1), np.pi)], axis=1)
    # ... and it carries the leather where it stands out further than the fold disc too.
    rises, sinks = _stands_out(x - fold[:, None], z - fold_z[:, None], clearance - fold_radius)
    enter, leave = np.clip(rises, low, high), np.clip(sinks, low, high)
    on_a_straight = (high - low < 1e-12) & (rises < low - 1e-9) & (sinks > high + 1e-9)
    carries = (leave - enter > 1e-12) | on_a_straight

    # The fold disc stands between every two points, and takes the line wherever they leave it.
    on_fold = np.ones((n, 2 * k + 1), dtype=bool)
    on_fold[:, 1::2] = ~carries
    on_fold[:, 2:-1:2] = (enter[:, 1:] > leave[:, :-1]) | ~(carries[:, 1:] | carries[:, :-1])
    on_fold[:, -1] = ~carries[:, -1]
    later = carries[:, 1:]
    cx, cz = (_interleaved(part, later) for part in (x, z))
    cx, cz = np.where(on_fold, fold[:, None], cx), np.where(on_fold, fold_z[:, None], cz)
    turn = np.empty((n, 2 * k + 2))
    turn[:, 0], turn[:, 1:-1:2], turn[:, 2:-1:2], turn[:, -1] = 0.0, enter, leave, np.pi

    # The welt's corner takes over once it stands out further than every one of them.
    onto = [_stands_out(corner[:, :1] - x, corner[:, 1:] - z, -clearance),
            _stands_out(corner[:, :1] - fold[:, None], corner[:, 1:] - fold_z[:, None], -fold_radius)]  # fmt: skip
    phi_on = np.concatenate([np.where(sinks - rises > 1e-9, rises, np.pi) for rises, sinks in onto], axis=1).max(axis=1)
    return _brought_down(
        cx, cz, np.where(on_fold, fold_radius, clearance), turn, np.clip(phi_on, 0, np.pi), corner, offset
    )


def _interleaved(part: Array, later: NDArray[np.bool_]) -> Array:
    """Coordinates (n, k) with a place between every two, (n, 2k+1): there the later one's, or the earlier's."""
    between = np.where(later, part[:, 1:], part[:, :-1])
    out = np.empty((part.shape[0], 2 * part.shape[1] + 1))
    out[:, 1::2], out[:, 2:-1:2], out[:, 0], out[:, -1] = part, between, part[:, 0], part[:, -1]
    return out


def _brought_down(
    cx: Array, cz: Array, radius: Array, turn: Array, phi_on: Array, corner: Array, offset: float
) -> Chain:
    """The line over the discs up to phi_on, where the welt's corner takes it, brought down and measured."""
    n, rows = len(cx), np.arange(len(cx))
    last = np.maximum((turn[:, :-1] < phi_on[:, None] - 1e-12).sum(axis=1) - 1, 0)
    beyond = np.arange(cx.shape[1]) > last[:, None]
    cx, cz, radius = (np.where(beyond, part[rows, last][:, None], part) for part in (cx, cz, radius))
    turn = np.minimum(turn, phi_on[:, None])
    past = phi_on >= np.pi - 1e-12  # the corner lies inside the grown section: a straight drop on to the welt
    floor = corner[:, 1] + offset

    # Two more discs: the corner, and a point at the foot of such a drop.
    end = np.where(past, cx[:, -1], corner[:, 0]), np.where(past, cz[:, -1], corner[:, 1])
    end_radius = np.where(past, radius[:, -1], 0.0) + offset
    end_turn = np.maximum(phi_on, HALF_PI)
    foot = end[0] - end_radius * np.cos(end_turn), np.minimum(end[1] + end_radius * np.sin(end_turn), floor)
    cx, cz = (np.column_stack([c, e, f]) for c, e, f in zip((cx, cz), end, foot, strict=True))
    radius = np.column_stack([radius + offset, end_radius, np.zeros(n)])
    turn = np.column_stack([turn, end_turn, end_turn])

    kx, kz, at = (np.empty((n, 2 * cx.shape[1])) for _ in range(3))
    across, up = -np.cos(turn), np.sin(turn)
    kx[:, ::2], kx[:, 1::2] = cx + radius * across[:, :-1], cx + radius * across[:, 1:]
    kz[:, ::2], kz[:, 1::2] = cz + radius * up[:, :-1], cz + radius * up[:, 1:]
    at[:, 0] = 0.0
    at[:, 1::2] = radius * np.diff(turn, axis=1)
    at[:, 2::2] = np.hypot(kx[:, 2::2] - kx[:, 1:-1:2], kz[:, 2::2] - kz[:, 1:-1:2])
    np.cumsum(at, axis=1, out=at)

    down = kz <= floor[:, None] + 1e-12
    down[:, ::2] &= turn[:, :-1] >= HALF_PI - 1e-12
    down[:, 1::2] &= turn[:, 1:] >= HALF_PI - 1e-12
    line = Chain(cx, cz, radius, turn, kx, kz, at, floor, floor, at[:, -1], phi_on - HALF_PI)
    landed = line._length_where(down.argmax(axis=1), floor, falling=True)
    return replace(line, landed=landed, x_land=line._point_where(landed)[:, 0])


@dataclass(frozen=True)
class Wrap:
    """Leather folded round n sections, taut or moulded.

    x_fold: (n,) x of the neutral surface at the fold. x_welt: (n,) the welt's inner edge. front, back: the
    neutral lines. sections: what is wrapped.
    """

    sections: Sections
    x_fold: Array
    x_welt: Array
    front: Chain | Run
    back: Chain | Run

    def side(self, name: str) -> Chain | Run:
        return self.front if name == "front" else self.back

    def rows(self, which: NDArray[np.intp] | slice) -> Wrap:
        """Some of the rows, or any of them more than once."""
        front = self.front.rows(which)
        back = front if self.back is self.front else self.back.rows(which)
        return Wrap(self.sections.rows(which), self.x_fold[which], self.x_welt[which], front, back)


def folded(
    sections: Sections,
    leather: Leather,
    clearance: float,
    welt: Array | float,
    x_welt: Array,
    fold: float | None = None,
) -> Wrap:
    """Leather folded at the spine and drawn taut to a welt.

    sections: n rows. clearance: mm all round. welt: height of the welt's layers together, mm, one or (n,).
    x_welt: (n,) x of the welt's inner edge. fold: x of the inside of a straight fold; None where it follows the spine
    row by row. Source: geometry, "Folded, taut (not moulded)".
    """
    x0 = sections.x_spine - clearance if fold is None else np.full(len(sections.y), fold)
    centre = x0 + leather.inside_radius
    corner = np.column_stack([x_welt, np.broadcast_to(np.asarray(welt, dtype=float) / 2, x0.shape)])

    def side(z: Array) -> Chain:
        return chain(sections.x, z, clearance, centre, leather.inside_radius, corner, leather.offset)

    front = side(sections.front)
    back = front if np.array_equal(sections.front, sections.back) else side(sections.back)
    return Wrap(sections, x0 - leather.offset, np.asarray(x_welt, dtype=float), front, back)


def inner_girth(wrap: Wrap, leather: Leather) -> Array:
    """Length round the inside of the case at each row, from welt edge over the object to welt edge, (n,), mm.

    The inside is the flesh face: the neutral line less its offset times its turning, and plus what the sharp
    corner at the welt gave away.
    """
    rounds = []
    for line in (wrap.front, wrap.back):
        angle = np.clip(line.approach, 0, HALF_PI)
        level = np.maximum(wrap.x_welt - line.x_land, 0.0)
        rounds.append(line.landed + level - leather.offset * (HALF_PI + angle - np.tan(angle / 2)))
    height = 2 * (wrap.front.floor - leather.offset)
    return np.asarray(rounds[0] + rounds[1] + height)
