"""How thick a hide is from place to place: what a caliper said here and there, and in between by how near each is."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from tailor.core.carried.loft import Array
from tailor.core.leather.leather import OFF

CELL = 10.0  # mm, the side of a square that is as thick as is asked, or not
ACROSS = 250  # squares at the most, one way
SHARP = 2.0  # power of the distance that a reading's weight falls by: each holds about itself
NEAREST = 0.1  # mm: nearer than that, a reading holds alone


class Gauged(NamedTuple):
    """A place on a hide, mm, and how thick it was found there, mm."""

    x: float
    y: float
    thick: float


def thickness(gauged: Sequence[Gauged], places: Array) -> Array:
    """How thick a hide is at places (..., 2), mm, (...): never thinner than its thinnest reading nor thicker than its
    thickest (Shepard's weights). There must be a reading.
    """
    read = np.array(gauged)
    away = np.maximum(np.linalg.norm(places[..., None, :] - read[:, :2], axis=-1), NEAREST)
    weight = away**-SHARP
    return np.asarray((weight * read[:, 2]).sum(axis=-1) / weight.sum(axis=-1))


def as_thick(gauged: Sequence[Gauged], ring: Array, thick: float) -> BaseGeometry:
    """Where within the bounds of a ring (n, 2) a hide is as thick as is asked, mm, or as near as passes for it."""
    low, size = ring.min(axis=0), np.ptp(ring, axis=0)
    cell = max(CELL, float(size.max()) / ACROSS)
    across, up = np.maximum(np.ceil(size / cell).astype(int), 1)
    x, y = low[0] + cell * np.arange(across + 1), low[1] + cell * np.arange(up + 1)
    near = np.abs(thickness(gauged, np.stack(np.meshgrid(x, y), axis=-1)) - thick) <= OFF
    whole = near[:-1, :-1] & near[1:, :-1] & near[:-1, 1:] & near[1:, 1:]
    edge = np.diff(np.pad(whole, ((0, 0), (1, 1))).astype(int), axis=1)
    (row, first), (_, last) = np.nonzero(edge == 1), np.nonzero(edge == -1)  # row by row, each run from and to
    return shapely.simplify(shapely.union_all(shapely.box(x[first], y[row], x[last], y[row + 1])), cell)
