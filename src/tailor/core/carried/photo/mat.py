"""The measuring mat: a printed sheet whose markers tell where the camera stood.

Mat coordinates, mm: x to the right and y up from the sheet's lower left corner, z up from the sheet.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from types import MappingProxyType

import cv2
import numpy as np
from numpy.typing import NDArray

from tailor.core.carried.loft import Array

CELLS = 7  # of a marker, its black border counted
RULE = 100.0  # mm: the printed check length
EDGE = 9.0  # mm from the sheet's edge to a marker
GAP = 8.0  # mm between the markers and the plain field, where the rules are printed
DICTIONARY = cv2.aruco.DICT_5X5_100


@dataclass(frozen=True)
class Mat:
    """A mat for one paper. first: the number of its first marker, by which a photo tells which mat it shows."""

    paper: str
    width: float
    height: float
    marker: float
    first: int

    @property
    def field(self) -> tuple[float, float, float, float]:
        """Left, bottom, right and top of the plain field where the object lies, mm."""
        inset = EDGE + self.marker + GAP
        return inset, inset, self.width - inset, self.height - inset

    @cached_property
    def markers(self) -> Mapping[int, tuple[float, float]]:
        """Lower left corner of every marker by its number, round the sheet."""
        across = _spread(self.width, self.marker)
        up = _spread(self.height, self.marker)
        low, right, top = EDGE, self.width - EDGE - self.marker, self.height - EDGE - self.marker
        places = [(x, low) for x in across] + [(x, top) for x in across]
        places += [(low, y) for y in up[1:-1]] + [(right, y) for y in up[1:-1]]
        return MappingProxyType({self.first + k: place for k, place in enumerate(places)})

    def corners(self, number: int) -> Array:
        """A marker's corners (4, 2), from its upper left clockwise as it is printed."""
        x, y = self.markers[number]
        m = self.marker
        return np.array([[x, y + m], [x + m, y + m], [x + m, y], [x, y]])


def _spread(length: float, marker: float) -> list[float]:
    """Lower ends of as many markers as stand along a side, a marker's width or a little more apart."""
    room = length - 2 * EDGE - marker
    count = int(room // (2 * marker))
    return [float(EDGE + room * k / count) for k in range(count + 1)]


def cells(number: int) -> NDArray[np.bool_]:
    """The black cells of a marker, (CELLS, CELLS), row 0 at the top."""
    drawn = cv2.aruco.generateImageMarker(cv2.aruco.getPredefinedDictionary(DICTIONARY), number, CELLS)
    return np.asarray(drawn < 128)


MATS: Mapping[str, Mat] = MappingProxyType({
    "a4": Mat("a4", 210.0, 297.0, 17.5, 0),
    "letter": Mat("letter", 215.9, 279.4, 17.5, 28),
    "a3": Mat("a3", 297.0, 420.0, 24.5, 56),
})  # fmt: skip


def bearing(number: int) -> Mat | None:
    """The mat that bears a marker of this number."""
    return next((m for m in MATS.values() if number in m.markers), None)
