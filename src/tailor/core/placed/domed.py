"""Domed: a sheet bowed from side to side over something long, and pressed round its end down to a seam."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.placed.lies import NEAR, Creases, Placed
from tailor.core.placed.path import Path


@dataclass(frozen=True)
class Domed:
    """Above its toe a sheet is bent as a path is, s = 0 over its middle; below, that goes round either corner of it, at
    x = ±half and y = toe, as on a lathe, and the leather takes up what it has too much of there. level: of its middle
    layer beside it. mm.
    """

    across: Path
    half: float
    toe: float
    level: float

    def __call__(self, flat: Array) -> Placed:
        at, low = self._at(flat), self._at(flat - np.array([0.0, NEAR]))
        right, left = (self._at(flat + np.array([step, 0.0])) for step in (NEAR, -NEAR))
        out = np.cross(right - left, at - low)
        return Placed(at, np.asarray(out / np.maximum(np.linalg.norm(out, axis=1), 1e-18)[:, None]))

    def _at(self, flat: Array) -> Array:
        side, below = np.where(flat[:, 0] < 0, -1.0, 1.0), np.maximum(self.toe - flat[:, 1], 0.0)
        beyond = np.maximum(np.abs(flat[:, 0]) - self.half, 0.0)
        far = np.hypot(beyond, below)  # from the corner it goes round
        seen = self.across.at(far + self.half)
        out = seen[:, 0] - self.across.at(np.array([self.half]))[0, 0]
        share = np.divide(np.stack([beyond, below]), far, out=np.zeros((2, len(far))), where=far > 0)
        over = np.abs(flat[:, 0]) < self.half  # its middle, which is level across
        x = np.where(over, np.abs(flat[:, 0]), self.half + out * share[0])
        y = np.where(flat[:, 1] > self.toe, flat[:, 1], self.toe - out * share[1])
        return np.column_stack([side * x, y, self.level + seen[:, 1]])

    def creases(self) -> Creases:
        turns = self.across.turns
        return Creases(turns, self.toe - turns[turns > 0])
