"""Wrap: leather drawn taut round each section, from the fold to the seam, exactly.

Looked at from one side (the front, say), what the leather goes over is a row of discs: the fold disc, the
section's points grown by the clearance, and the welt's inner corner, a disc of no size. The neutral line is
the taut line over those discs, each grown by the leather's neutral offset: tangent runs and arcs. The concave
corner where it meets the welt stays sharp. All of it is worked for every station and both sides at once.

An angle phi runs along the taut line: the outward normal is (-cos phi, sin phi), so phi is 0 at the fold,
90° on the top and 180° facing the seam.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tailor.core.carried.loft import Array, Sections
from tailor.core.leather.leather import Leather

Indices = NDArray[np.intp]
HALF_PI = np.pi / 2


@dataclass(frozen=True)
class Chain:
    """The neutral line of one side, from the fold to the welt plane, for n rows.

    centre: (n, m, 2), radius: (n, m): the discs it turns on, in order. turn: (n, m+1) angles phi: disc j is
    turned from turn[j] to turn[j+1]. knots: (n, 2m, 2) points where the line comes on to and leaves each disc;
    at: (n, 2m) its length there. floor: (n,) height of the neutral surface over the welt. x_land, landed: (n,)
    where the line reaches that height, and its length there. approach: (n,) angle at which it comes down on
    the welt, radians (negative where the welt is the higher). Lengths in mm.
    """

    centre: Array
    radius: Array
    turn: Array
    knots: Array
    at: Array
    floor: Array
    x_land: Array
    landed: Array
    approach: Array

    def length_to(self, x: Array) -> Array:
        """Length of the neutral line from the fold to x, (n,), mm; beyond the landing it runs flat."""
        x = np.asarray(x, dtype=float)
        k = (self.knots[..., 0] < x[:, None]).sum(axis=1)
        on_slope = np.minimum(_length_where(self, k, x, axis=0), self.landed)
        return np.where(x >= self.x_land, self.landed + x - self.x_land, on_slope)

    def point_at(self, length: Array) -> Array:
        """The point (x, height) on the neutral line that far from the fold, (n, 2), mm."""
        length = np.asarray(length, dtype=float)
        on = _point_where(self, np.minimum(length, self.landed))
        flat = np.column_stack([self.x_land + length - self.landed, self.floor])
        return np.where((length >= self.landed)[:, None], flat, on)

    def points(self, row: int, end: float, step: float = 0.1) -> Array:
        """The neutral line of one row as points from the fold to x = end, (m, 2), for drawing."""
        last = self.landed[row] + max(end - self.x_land[row], 0.0)
        lengths = np.unique(np.concatenate([self.at[row][self.at[row] < last], np.arange(0, last, step), [last]]))
        one = _row(self, row, len(lengths))
        return one.point_at(lengths)


def _row(line: Chain, row: int, times: int) -> Chain:
    """One row of a chain, repeated."""
    return Chain(**{name: np.repeat(part[row : row + 1], times, axis=0) for name, part in vars(line).items()})


def _normal(phi: Array) -> Array:
    return np.stack([-np.cos(phi), np.sin(phi)], axis=-1)


def _length_where(line: Chain, k: Indices, value: Array, axis: int) -> Array:
    """Length at which x (axis 0, rising) or height (axis 1, falling) reaches a value, on the element that
    ends at knot k."""
    rows, k = np.arange(len(value)), np.clip(k, 1, line.at.shape[1] - 1)
    before, disc = k - 1, (k - 1) // 2
    c0, c1 = line.knots[rows, before, axis], line.knots[rows, k, axis]
    level = np.abs(c1 - c0) < 1e-12
    t = np.clip(np.where(level, 1.0, (value - c0) / np.where(level, 1.0, c1 - c0)), 0, 1)
    straight = line.at[rows, before] + t * (line.at[rows, k] - line.at[rows, before])
    radius = line.radius[rows, disc]
    sine = np.clip((value - line.centre[rows, disc, axis]) / np.maximum(radius, 1e-12), -1, 1)
    phi = np.arccos(-sine) if axis == 0 else np.pi - np.arcsin(sine)
    phi = np.clip(phi, line.turn[rows, disc], line.turn[rows, disc + 1])
    arc = line.at[rows, before] + radius * (phi - line.turn[rows, disc])
    return np.asarray(np.where(before % 2 == 0, arc, straight))


def _point_where(line: Chain, length: Array) -> Array:
    rows = np.arange(len(length))
    k = np.clip((line.at <= length[:, None]).sum(axis=1) - 1, 0, line.at.shape[1] - 2)
    span = line.at[rows, k + 1] - line.at[rows, k]
    t = np.clip(np.where(span > 0, (length - line.at[rows, k]) / np.where(span > 0, span, 1), 0.0), 0, 1)
    straight = line.knots[rows, k] + t[:, None] * (line.knots[rows, k + 1] - line.knots[rows, k])
    disc = k // 2
    phi = line.turn[rows, disc] + t * (line.turn[rows, disc + 1] - line.turn[rows, disc])
    arc = line.centre[rows, disc] + line.radius[rows, disc, None] * _normal(phi)
    return np.asarray(np.where((k % 2 == 0)[:, None], arc, straight))


def _stands_out(a: Array, ra: Array | float, b: Array, rb: Array | float) -> tuple[Array, Array]:
    """The angles phi from and to which disc b stands out further than disc a; equal where it never does."""
    dx, dz = b[..., 0] - a[..., 0], b[..., 1] - a[..., 1]
    apart = np.hypot(dx, dz)
    same = apart < 1e-12
    ratio = np.where(same, np.sign(np.asarray(rb) - ra), (np.asarray(rb) - ra) / np.where(same, 1.0, apart))
    half = np.pi - np.arccos(np.clip(np.where(ratio <= -1 + 1e-12, -1.0, ratio), -1, 1))
    middle = np.pi - np.arctan2(dz, dx)
    middle = np.where(middle > 1.5 * np.pi, middle - 2 * np.pi, middle)
    half = np.where(ratio >= 1, 2 * np.pi, half)
    return np.asarray(middle - half), np.asarray(middle + half)


def chain(x: Array, z: Array, clearance: float, fold: Array, fold_radius: float, corner: Array, offset: float) -> Chain:
    """The taut neutral line over one side of each section.

    x, z: (n, k) points of the profile, x rising, z concave. fold: (n,) x of the fold disc's centre (its height
    is 0) and fold_radius its inside radius. corner: (n, 2) the welt's inner corner. offset: flesh face to
    neutral surface. Lengths in mm. Source: geometry, "Wrap: one section, exactly".
    """
    n, k = x.shape
    points = np.stack([x, z], axis=-1)
    disc = np.stack([fold, np.zeros(n)], axis=-1)[:, None, :]
    # Point i is the section's outermost while phi is between the slopes of its two edges, ...
    edges = np.maximum.accumulate(HALF_PI - np.arctan2(np.diff(z, axis=1), np.diff(x, axis=1)), axis=1)
    low = np.concatenate([np.zeros((n, 1)), edges], axis=1)
    high = np.concatenate([edges, np.full((n, 1), np.pi)], axis=1)
    # ... and it carries the leather where it stands out further than the fold disc too.
    rises, sinks = _stands_out(disc, fold_radius, points, clearance)
    enter, leave = np.clip(rises, low, high), np.clip(sinks, low, high)
    on_a_straight = (high - low < 1e-12) & (rises < low - 1e-9) & (sinks > high + 1e-9)
    carries = (leave - enter > 1e-12) | on_a_straight

    # The fold disc stands between every two points, and takes the line wherever they leave it.
    centre = np.empty((n, 2 * k + 1, 2))
    on_disc = np.ones((n, 2 * k + 1), dtype=bool)
    on_disc[:, 1::2] = ~carries
    gap = enter[:, 1:] - leave[:, :-1] > 0
    on_disc[:, 2:-1:2] = gap | ~(carries[:, 1:] | carries[:, :-1])
    on_disc[:, -1] = ~carries[:, -1]
    centre[:, 1::2] = points
    centre[:, 0] = disc[:, 0]
    centre[:, 2:-1:2] = np.where(carries[:, 1:, None], points[:, 1:], points[:, :-1])
    centre[:, -1] = points[:, -1]
    centre = np.where(on_disc[..., None], disc, centre)
    radius = np.where(on_disc, fold_radius, clearance)
    turn = np.empty((n, 2 * k + 2))
    turn[:, 0], turn[:, 1:-1:2], turn[:, 2:-1:2], turn[:, -1] = 0.0, enter, leave, np.pi
    return _ended(centre, radius, turn, corner, offset)


def _ended(centre: Array, radius: Array, turn: Array, corner: Array, offset: float) -> Chain:
    """The taut line over the discs, brought down to the welt's inner corner and measured."""
    n = len(centre)
    rows = np.arange(n)
    welt = corner[:, None, :]
    rises, sinks = _stands_out(centre, radius, welt, 0.0)
    onto_welt = np.where(sinks - rises > 1e-9, rises, np.pi)
    # A disc holds the line only until its own turn is over, so one hidden behind the next has no say.
    phi_on = np.clip(onto_welt.max(axis=1), 0, np.pi)
    last = np.maximum((turn[:, :-1] < phi_on[:, None] - 1e-12).sum(axis=1) - 1, 0)
    kept = np.minimum(np.arange(centre.shape[1]), last[:, None])
    centre, radius = np.take_along_axis(centre, kept[..., None], axis=1), np.take_along_axis(radius, kept, axis=1)
    turn = np.minimum(turn, phi_on[:, None])

    past = phi_on >= np.pi - 1e-12  # the welt's corner lies inside the grown section: a straight drop on to it
    end = np.where(past[:, None], centre[:, -1], corner)
    end_radius = np.where(past, radius[:, -1], 0.0)
    centre = np.concatenate([centre, end[:, None]], axis=1)
    radius = np.concatenate([radius, end_radius[:, None]], axis=1) + offset
    turn = np.concatenate([turn, np.maximum(phi_on, HALF_PI)[:, None]], axis=1)
    floor = corner[:, 1] + offset

    normals = _normal(turn)
    on = centre + radius[..., None] * normals[:, :-1]
    off = centre + radius[..., None] * normals[:, 1:]
    bottom = np.stack([off[:, -1, 0], np.minimum(off[:, -1, 1], floor)], axis=-1)
    knots = np.stack([on, off], axis=2).reshape(n, -1, 2)
    knots = np.concatenate([knots, np.repeat(bottom[:, None], 2, axis=1)], axis=1)
    centre = np.concatenate([centre, bottom[:, None]], axis=1)
    radius = np.concatenate([radius, np.zeros((n, 1))], axis=1)
    turn = np.concatenate([turn, turn[:, -1:]], axis=1)
    steps = np.empty((n, knots.shape[1]))
    steps[:, 0] = 0
    steps[:, 1::2] = radius * np.diff(turn, axis=1)
    steps[:, 2::2] = np.hypot(*np.moveaxis(knots[:, 2::2] - knots[:, 1:-1:2], -1, 0))
    at = np.cumsum(steps, axis=1)

    angle = np.repeat(turn, 2, axis=1)[:, 1:-1]
    down = (angle >= HALF_PI - 1e-12) & (knots[..., 1] <= floor[:, None] + 1e-12)
    line = Chain(centre, radius, turn, knots, at, floor, floor, at[:, -1], np.asarray(phi_on - HALF_PI))
    landed = _length_where(line, down.argmax(axis=1), floor, axis=1)
    x_land = _point_where(line, landed)[:, 0]
    return Chain(centre, radius, turn, knots, at, floor, x_land, landed, line.approach)


@dataclass(frozen=True)
class Wrap:
    """Leather folded taut round n sections.

    x_fold: (n,) x of the neutral surface at the fold. x_welt: (n,) the welt's inner edge. front, back: the
    neutral lines. sections: what is wrapped.
    """

    sections: Sections
    x_fold: Array
    x_welt: Array
    front: Chain
    back: Chain

    def side(self, name: str) -> Chain:
        return self.front if name == "front" else self.back


def folded(sections: Sections, leather: Leather, clearance: float, welt: Array | float, x_welt: Array) -> Wrap:
    """Leather folded at the spine and drawn taut to a welt.

    sections: n rows. clearance: mm all round. welt: height of the welt's layers together, mm, one or (n,).
    x_welt: (n,) x of the welt's inner edge. Source: geometry, "Folded, taut (not moulded)".
    """
    x0 = sections.x_spine - clearance
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
        turning = HALF_PI + line.approach
        corner = np.where(angle > 0, leather.offset * np.tan(angle / 2), 0.0)
        rounds.append(line.landed - leather.offset * turning + corner)
    height = 2 * (wrap.front.floor - leather.offset)
    return np.asarray(rounds[0] + rounds[1] + height)


def approach_welt(sections: Sections, leather: Leather, clearance: float, welt: float, angle: float) -> Array:
    """Least x of the welt's inner edge, (n,), for the leather to come down no steeper than `angle` (radians).

    The line at that angle touching the outermost of section and fold disc meets the welt's face there.
    """
    normal = np.array([np.sin(angle), np.cos(angle)])
    fold = (sections.x_spine - clearance + leather.inside_radius) * normal[0] + leather.inside_radius
    support = np.maximum(
        (sections.x * normal[0] + np.maximum(sections.front, sections.back) * normal[1]).max(axis=1) + clearance, fold
    )
    return np.asarray((support - welt / 2 * normal[1]) / normal[0])
