"""Fanned: a sheet whose sides lean out above a foot that lies level, sewn down with its sides upright.

What its sides have too much of stands up in one bow from side to side; or lies in a pleat down either side, which
begins at nothing where they begin to lean. Turned about that place, each side is as long as what it is sewn to.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from shapely.geometry import Polygon

from tailor.core.carried.loft import Array
from tailor.core.placed.lies import FRONT, NEAR, Bent, Creases, Frame, Patched, Placed
from tailor.core.placed.path import Path

FAR = 1e4  # mm
ROUNDS = 30
STEEPLY = 0.9  # sine of how far a bow may lean down towards its middle


@dataclass(frozen=True)
class Fan:
    """A sheet as it is cut: to either side of its middle, at x = ±half and from y = foot up, its sides lean out by an
    angle, radians. mm.
    """

    half: float
    foot: float
    angle: float

    @property
    def corner(self) -> Array:
        """Where its right side begins to lean, (2,)."""
        return np.array([self.half, self.foot])

    @property
    def way(self) -> Array:
        """Which way its right side leans, (2,) of length 1."""
        return np.array([np.sin(self.angle), np.cos(self.angle)])

    @property
    def outward(self) -> Array:
        """Square out from its right side, (2,) of length 1."""
        return np.array([np.cos(self.angle), -np.sin(self.angle)])

    def notch(self, margin: float) -> Array:
        """Where its edge turns, a margin outside its right side, (2,)."""
        return self.corner + margin * np.array([1.0, -np.tan(self.angle / 2)])

    def opened(self, upright: Array) -> Array:
        """Where places lie as it is cut, (n, 2), that come to lie on or outside its upright sides."""
        side = np.where(upright[:, :1] < 0, -1.0, 1.0)
        away = np.hstack([side * upright[:, :1] - self.half, upright[:, 1:] - self.foot])
        turned = self.corner + away[:, :1] * self.outward + away[:, 1:] * self.way
        return np.where(away[:, 1:] > 0, turned * np.hstack([side, np.ones_like(side)]), upright)

    def pleated(self, level: float, opens: float) -> Patched:
        """How it lies with its pleats folded under, over a plane seat: its middle layer so high at its foot and at its
        sides, its face leaning away from the seat by an angle, radians, no more than its sides lean out.
        """
        lean = self.angle / 2
        face, side = np.array([0.0, np.cos(opens), np.sin(opens)]), np.array([0.0, 1.0, 0.0])
        up, out = np.cos(lean), np.cos(lean) * np.tan(opens / 2)
        crease = np.array([-np.sqrt(1 - up**2 - out**2), up, out])  # as far from the face's edge as from the side
        # Either part of a pleat is plane: told by where two ways of it about the corner lie.
        within = np.column_stack([(crease - np.cos(lean) * face) / np.sin(lean), face])
        both = np.array([[np.sin(lean), np.cos(lean)], [np.sin(2 * lean), np.cos(2 * lean)]])
        under = np.linalg.solve(both, np.vstack([crease, side])).T
        parts = []
        for mirror in (1.0, -1.0):
            flip = np.array([mirror, 1.0, 1.0])
            for (across, upward), angles in (
                (within.T, [0.0, lean]),
                (under.T, np.linspace(lean, np.pi / 2 + lean, 4)),
            ):
                origin = np.array([*self.corner, level]) - self.half * across - self.foot * upward
                frame = Frame(origin * flip, mirror * across * flip, upward * flip)
                rays = self.corner + FAR * np.column_stack([np.sin(angles), np.cos(angles)])
                parts.append((Polygon(np.vstack([self.corner, rays]) * [mirror, 1.0]), Bent(frame)))
        hinged = Path(((1.0, 0.0),), (self.foot, 0.0), first=self.foot, kinks=(opens,))
        return Patched(tuple(parts), Bent(FRONT.moved((0.0, 0.0, level)), up=hinged))

    def bowed(self, level: float) -> Bowed:
        """How it lies with its brim standing up in a bow, over a plane seat, its middle layer so high at its sides."""
        return Bowed(self, level)


@dataclass(frozen=True)
class Bowed:
    """A fanned sheet whose leather between its sides stands up in a bow at every height, leaning down to its middle as
    its sides lean out. level: of its middle layer where it is sewn, mm.
    """

    fan: Fan
    level: float

    def __call__(self, flat: Array) -> Placed:
        near = self._at(flat + np.array([NEAR, 0.0])), self._at(flat - np.array([NEAR, 0.0]))
        low = self._at(flat - np.array([0.0, NEAR]))
        at = self._at(flat)
        out = np.cross(near[0] - near[1], at - low)
        return Placed(at, np.asarray(out / np.maximum(np.linalg.norm(out, axis=1), 1e-18)[:, None]))

    def _at(self, flat: Array) -> Array:
        fan = self.fan
        along = np.maximum(flat[:, 1] - fan.foot, 0.0) / np.cos(fan.angle)
        half = fan.half + along * np.sin(fan.angle)  # from the middle to a side, as it is cut
        bend = _half_bend(fan.half / half)
        radius = half / np.maximum(bend, 1e-9)
        on = np.clip(np.abs(flat[:, 0]), 0.0, half)
        x, high = radius * np.sin(on / radius), radius * (np.cos(on / radius) - np.cos(bend))
        leans = np.minimum(np.sin(fan.angle) / np.maximum(np.sin(np.minimum(bend, np.pi / 2)), 1e-9), STEEPLY)
        y = np.minimum(flat[:, 1], fan.foot) + along - high * leans
        x = np.sign(flat[:, 0]) * (x + np.abs(flat[:, 0]) - on)
        return np.column_stack([x, y, self.level + high * np.sqrt(1 - leans**2)])

    def creases(self) -> Creases:
        top = self.fan.foot + FAR
        return Creases(np.array([-self.fan.half, self.fan.half]), np.array([self.fan.foot, top]))


def _half_bend(share: Array) -> Array:
    """Half the angle that leather bends through over a chord which is so much of it, (n,), radians."""
    bend = np.sqrt(np.maximum(6 * (1 - share), 0.0))
    for _ in range(ROUNDS):
        safe = np.maximum(bend, 1e-6)
        miss = np.sin(safe) / safe - share
        slope = (np.cos(safe) - np.sin(safe) / safe) / safe
        bend = np.clip(safe - miss / np.minimum(slope, -1e-9), 0.0, np.pi)
    return np.where(share >= 1, 0.0, bend)
