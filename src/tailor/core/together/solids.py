"""Solids: triangles in space, and how they are looked at."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from tailor.core.carried.loft import Array

Bytes = NDArray[np.uint8]
Whole = NDArray[np.int32]


@dataclass(frozen=True)
class Solids:
    """Triangles in space. corners: (n, 3) mm; facing: (n, 3) which way leather looks there; triangles: (m, 3), facing
    out of what they bound; colour: (m, 3); cut: (m, 3) of what is seen where it is cut open; whose: (m,) number of the
    thing it belongs to. stays: (n,) whether a corner is never cut away; none where that is None.
    """

    corners: Array
    facing: Array
    triangles: Whole
    colour: Bytes
    cut: Bytes
    whose: Whole
    stays: NDArray[np.bool_] | None = None

    @property
    def _stays(self) -> NDArray[np.bool_]:
        return np.zeros(len(self.corners), dtype=np.bool_) if self.stays is None else self.stays

    def beyond(self, plane: tuple[Array, float] | None) -> Array:
        """How far corners lie beyond a plane, along its normal (3,) from so far along that; below 0 what is not cut."""
        if plane is None:
            return np.full(len(self.corners), -1.0)
        return np.where(self._stays, -1.0, self.corners @ plane[0] - plane[1])

    @staticmethod
    def of(*parts: Solids) -> Solids:
        """Several as one."""
        starts = np.cumsum([0, *(len(p.corners) for p in parts)])[:-1]
        return Solids(
            np.vstack([p.corners for p in parts]), np.vstack([p.facing for p in parts]),
            np.vstack([p.triangles + s for p, s in zip(parts, starts, strict=True)]).astype(np.int32),
            np.vstack([p.colour for p in parts]), np.vstack([p.cut for p in parts]),
            np.concatenate([p.whose for p in parts]), np.concatenate([p._stays for p in parts]),
        )  # fmt: skip

    def mirrored(self) -> Solids:
        """As it is for the other hand."""
        other = np.array([-1.0, 1.0, 1.0])
        return replace(
            self, corners=self.corners * other, facing=self.facing * other, triangles=self.triangles[:, ::-1]
        )


@dataclass(frozen=True)
class Sight:
    """How it is looked at: turned about the upright axis, then tilted towards the eye, degrees; about which place, and
    how many pixels a mm is.
    """

    turn: float = -28.0
    tilt: float = 18.0
    about: Array = field(default_factory=lambda: np.zeros(3))
    scale: float = 1.0

    @property
    def ways(self) -> Array:
        """Unit vectors to the right, up, and towards the eye, (3, 3)."""
        a, b = np.radians(self.turn), np.radians(self.tilt)
        right = np.array([np.cos(a), 0.0, -np.sin(a)])
        level = np.array([np.sin(a), 0.0, np.cos(a)])  # towards the eye, before it is tilted
        up = np.array([0.0, np.cos(b), 0.0]) - np.sin(b) * level
        return np.array([right, up, np.cross(right, up)])
