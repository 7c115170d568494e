"""Parallax: what is seen against the mat is further out than the object is, the more so the higher it stands.

A camera over F at height Z sees a point at height z against the mat z/(Z − z) of its distance from F too far
out. Sharp-sided objects show their upper edge where they face away from the camera and their foot where they
face it; round-sided ones show the place where the ray just touches.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon

from tailor.core.carried.loft import Array
from tailor.core.carried.outline import STEP, evenly
from tailor.core.carried.photo.edge import normals
from tailor.core.carried.photo.view import WHERE
from tailor.core.errors import InputError
from tailor.core.units import parse_length

WHERE_HEIGHT = "height over the mat"


@dataclass(frozen=True)
class Rise:
    """How high the object stands over the mat along its axis.

    along: (k,) mm from its lower end, rising; foot, top: (k,) mm over the mat. round: whether its sides are
    round (an oval between foot and top) or upright.
    """

    along: Array
    foot: Array
    top: Array
    round: bool = False

    def __post_init__(self) -> None:
        if not (np.isfinite(self.top).all() and np.isfinite(self.foot).all() and np.isfinite(self.along).all()):
            raise InputError("a height is not a number", WHERE, "give heights in mm, such as 4.5")
        if (self.foot < 0).any() or (self.top <= self.foot).any():
            raise InputError(
                "the object's height over the mat is not above its foot",
                WHERE,
                "give the thickness by caliper, above 0",
            )
        if (np.diff(self.along) <= 0).any():
            raise InputError("the heights along the object are out of order", WHERE, "give each place once, rising")

    @staticmethod
    def level(height: float, round: bool = False) -> Rise:
        """The same height all over, lying on the mat."""
        return Rise(np.array([0.0]), np.array([0.0]), np.array([float(height)]), round)

    @staticmethod
    def parse(text: str, unit: str, round: bool = False) -> Rise:
        """Heights as typed: `5`, or places and heights such as `0: 4.5, 128: 11.7..16.2, 140: 28`.

        Two heights with `..` between are the foot and the top of an object that does not lie on the mat there.
        Raises InputError.
        """
        rows = []
        for part in text.split(","):
            place, colon, heights = part.rpartition(":")
            foot, dots, top = heights.rpartition("..")
            rows.append((
                parse_length(place, unit, WHERE_HEIGHT) if colon else 0.0,
                parse_length(foot, unit, WHERE_HEIGHT) if dots else 0.0,
                parse_length(top, unit, WHERE_HEIGHT),
            ))  # fmt: skip
        along, feet, tops = np.array(sorted(rows)).T
        return Rise(along, feet, tops, round)

    def at(self, along: Array) -> tuple[Array, Array]:
        return np.interp(along, self.along, self.foot), np.interp(along, self.along, self.top)


def settled(seen: Array, along: Array, half: Array, eye: Array, rise: Rise) -> Array:
    """The object's own outline, (m, 2) mm, from what was seen of it against the mat, (n, 2).

    along: (n,) place of each point along the object, mm; half: (n,) half the object's width there. Raises
    InputError where the object would reach the camera or nothing is left.
    """
    foot, top = rise.at(along)
    if float(top.max()) > 0.6 * float(eye[2]):
        raise InputError(
            f"the object would stand {top.max():.0f} mm high under a camera only {eye[2]:.0f} mm up", WHERE,
            "check the height, and take the photo from further away",
        )  # fmt: skip
    if rise.round:
        return _touching(seen, (foot + top) / 2, (top - foot) / 2, half, eye)
    upper, lower = (eye[:2] + (seen - eye[:2]) * (1 - z / eye[2])[:, None] for z in (top, foot))
    both = shapely.make_valid(Polygon(upper)).intersection(shapely.make_valid(Polygon(lower)))
    parts = [p for p in shapely.get_parts(shapely.get_parts(both)) if isinstance(p, Polygon)]
    if not parts:
        raise InputError("nothing is left of the outline at that height", WHERE, "check the height")
    whole = max(parts, key=lambda p: p.area)
    loop = np.asarray(shapely.orient_polygons(whole).exterior.coords)[:-1]
    return evenly(loop, STEP)


def _touching(seen: Array, middle: Array, rising: Array, half: Array, eye: Array) -> Array:
    """Round sides: back from where each ray touches the side to its widest line."""
    out = normals(seen, 3.0)
    lean = (seen - eye[:2]) / eye[2]  # across, for each mm up
    slope = (lean * out).sum(axis=1)
    reach = np.sqrt(half**2 + (slope * rising) ** 2)
    share = slope * rising / reach  # of the way up from the middle
    z = middle + rising * share
    inward = half * (1 - np.sqrt(1 - share**2))
    return np.asarray(seen - lean * z[:, None] + out * inward[:, None])
