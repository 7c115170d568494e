"""Strain: how much the leather must give and take up to lie as formed, where, and which way.

Stretch counts against what wet leather bears in that direction (less along the backbone of the hide than across
it); what is taken up counts against where it wrinkles. A single triangle says little, so strain is averaged over
the leather around each place, as leather itself does.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import scipy

from tailor.core.carried.loft import Array
from tailor.core.shell.flatten import Indices, planar_map
from tailor.core.shell.formed import Formed

TEARS, PLEATS = 1.5, 1.8  # times what leather bears, beyond which it tears, or cannot be kept from pleating
NEAR = 4.0  # mm round a place that strain is averaged over, nearest most


@dataclass(frozen=True)
class Bears:
    """What wet leather bears.

    along, across: stretch along and across the backbone of the hide; gather: what it takes up before it wrinkles;
    shares. turn: how far the backbone is turned from the draw, radians.
    """

    along: float
    across: float
    gather: float
    turn: float = 0.0

    def limit(self, way: Array) -> Array:
        """Stretch it bears in directions `way`, radians from the draw."""
        off = way - self.turn
        return np.asarray(1 / np.hypot(np.cos(off) / self.along, np.sin(off) / self.across))


@dataclass(frozen=True)
class Strain:
    """At each place of a formed panel's grid, (r, c) each.

    stretch: the most it must give (0.1: a tenth longer). gather: the most it must take up. way: direction of the
    stretch on the flat leather, radians from the draw. limit: what it bears that way. wrinkles: what it takes up
    before it wrinkles. thickness: share of its thickness left.
    """

    stretch: Array
    gather: Array
    way: Array
    limit: Array
    wrinkles: float
    thickness: Array

    @property
    def load(self) -> Array:
        """Share of what it bears that is used, below 0 where it is more gathered than stretched, (r, c)."""
        give, take = self.stretch / self.limit, self.gather / self.wrinkles
        return np.asarray(np.where(give >= take, give, -take))

    @property
    def beyond(self) -> bool:
        """Whether it is more than leather can be brought to."""
        return bool((self.stretch > TEARS * self.limit).any() or (self.gather > PLEATS * self.wrinkles).any())

    def worst(self) -> tuple[int, int]:
        """Row and column where stretch is most against its limit."""
        return self._where(self.stretch / self.limit)

    def tightest(self) -> tuple[int, int]:
        """Row and column where most is taken up."""
        return self._where(self.gather)

    def thinnest(self) -> tuple[int, int]:
        """Row and column where least of the thickness is left."""
        return self._where(-self.thickness)

    def _where(self, what: Array) -> tuple[int, int]:
        row, column = np.unravel_index(int(what.argmax()), what.shape)
        return int(row), int(column)


def strain(panel: Formed, bears: Bears) -> Strain:
    """The strain of a panel, from the flat leather as it is cut to the leather as formed."""
    sheet, shape = panel.sheet, panel.places.shape[:2]
    z = panel.uv.reshape(-1, 2) @ np.array([1.0, 1.0j])
    p, q = planar_map(z, sheet.triangles, sheet.flat_side, sheet.area)
    wide, narrow = np.abs(p) + np.abs(q), np.maximum(np.abs(np.abs(p) - np.abs(q)), 1e-6)
    give, take = -np.log(narrow), -np.log(wide)  # stretches flat → formed, which average best by their logarithms
    across = np.exp(1j * (np.angle(p) + np.angle(q)))  # twice the direction of least stretch
    mean, swing = (give + take) / 2, -(give - take) / 2 * across
    triangles = np.asarray(sheet.triangles, dtype=np.intp)
    centre, round_ = _around(panel.places.reshape(-1, 3), triangles, sheet.area, (mean, swing))
    greatest, least = np.exp(centre + np.abs(round_)), np.exp(centre - np.abs(round_))
    way = np.angle(round_) / 2 - np.pi / 2  # from u to v, so that 0 is along the draw
    return Strain(
        np.maximum(greatest - 1, 0.0).reshape(shape), np.maximum(1 - least, 0.0).reshape(shape), way.reshape(shape),
        bears.limit(way).reshape(shape), bears.gather, (1 / (greatest * least)).reshape(shape),
    )  # fmt: skip


def _around(places: Array, triangles: Indices, area: Array, parts: Sequence[Any]) -> list[Any]:
    """What each of parts (m,), told of triangles, comes to on average in the leather within NEAR of each place, (n,).

    What touches a place counts as if it were no further than half of NEAR, however large it is.
    """
    middle = places[triangles].mean(axis=1)
    tree, other = (scipy.spatial.cKDTree(each, compact_nodes=False, balanced_tree=False) for each in (places, middle))
    near = tree.sparse_distance_matrix(other, NEAR, output_type="ndarray")
    corner, own = triangles.ravel(), np.repeat(np.arange(len(triangles)), 3)
    apart = np.linalg.norm(places[corner] - middle[own], axis=1)
    place, which = np.concatenate([near["i"], corner]), np.concatenate([near["j"], own])
    weight = np.concatenate([NEAR - near["v"], np.maximum(0.5 * NEAR - np.maximum(NEAR - apart, 0.0), 0.0)])
    weight *= area[which]
    whole = np.bincount(place, weight, len(places))

    def mean(part: Any) -> Any:
        if np.iscomplexobj(part):
            return mean(part.real) + 1j * mean(part.imag)
        return np.bincount(place, weight * part[which], len(places)) / whole

    return [mean(part) for part in parts]
