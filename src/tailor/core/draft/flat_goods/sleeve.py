"""Sleeve: flat leather drawn over one half of a thing, from its middle out to where it is sewn to its fellow."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import scipy
import shapely

from tailor.core import measure
from tailor.core.carried.loft import Array, Loft
from tailor.core.draft.views.section import band
from tailor.core.errors import InputError
from tailor.core.leather.leather import Leather
from tailor.core.measure import Theme
from tailor.core.shell.run import of_chain
from tailor.core.shell.wrap import Chain, chain

MEASURES = (measure.length("notch.radius", Theme.SHAPE, "thumb notch", "thumb notch at the mouth", 0, 60),)

LOOSEST = 40.0  # mm of room all round that a loop of leather is looked through for


def half_section(loft: Loft) -> Array:
    """The upper half of the fullest section of a thing, either side alike, about its own middle, (k, 2), mm."""
    rows = loft.sections(np.array([s.y for s in loft.stations]))
    middle = (rows.x_spine.min() + rows.x_seam.max()) / 2
    lift = (rows.front.max() - rows.back.max()) / 2
    heights = [rows.front - lift, rows.back + lift]
    return _upper(np.column_stack([np.tile(rows.x.ravel() - middle, 2), np.concatenate([h.ravel() for h in heights])]))


def half_profile(loft: Loft) -> Array:
    """The upper half of a thing looked at from its side, either end alike, about its own middle, (k, 2), mm."""
    ys = np.array([s.y for s in loft.stations])
    front, back = loft.sizes(ys)[:, 2:4].T
    lift = (front.max() - back.max()) / 2
    return _upper(np.column_stack([ys - (loft.tip + loft.top) / 2, np.maximum(front - lift, back + lift)]))


def _upper(points: Array) -> Array:
    """The upper hull of points and their mirror images, from left to right, (k, 2)."""
    both = np.vstack([points * way for way in ((1, 1), (-1, 1), (1, -1), (-1, -1))])
    ring = shapely.get_coordinates(shapely.MultiPoint(both).convex_hull)[:-1]
    top = ring[ring[:, 1] > 1e-9]
    top = top[np.lexsort((-top[:, 1], top[:, 0]))]
    return np.asarray(top[np.append(True, np.diff(top[:, 0]) > 1e-9)])


def drawn_over(leather: Leather, profile: Array, room: float = 0.0, floor: float = 0.0) -> tuple[Chain, float]:
    """The taut neutral line over a profile (k, 2), rising in x and concave, with so much room round it, and how far
    from its middle it is down on what lies so high, as steep as the leather comes down, mm.
    """
    steep = np.radians(leather.approach)
    end = float((profile[:, 0] + (profile[:, 1] - floor) / np.tan(steep)).max() + room / np.sin(steep))
    line = chain(
        profile[None, :, 0], profile[None, :, 1], room, np.array([[-end, floor]]), 0.0, np.array([[end, floor]]),
        leather.offset,
    )  # fmt: skip
    return line, end


@dataclass(frozen=True)
class Sleeve:
    """Leather over a profile, (k, 2) about its middle, with room round it, sewn so far beyond where it is down. floor:
    how high what it is sewn to lies over its middle plane. mm.

    Source: geometry, "Wrap", with no welt.
    """

    leather: Leather
    profile: Array
    room: float
    inset: float
    floor: float = 0.0

    @cached_property
    def _drawn(self) -> tuple[Chain, float]:
        return drawn_over(self.leather, self.profile, self.room, self.floor)

    @property
    def stitch(self) -> float:
        """How far out from the middle the stitch lies."""
        return self._drawn[1] + self.inset

    @property
    def flat(self) -> float:
        """Flat length from the middle to the stitch."""
        return float(of_chain(self._drawn[0], np.zeros(1)).length_to(np.array([self.stitch]))[0])

    @property
    def line(self) -> Array:
        """Its neutral line from the middle out to the stitch, (n, 2): how far out, and above the plane of the seam."""
        points = self._drawn[0].points(0, self.stitch)
        points = points[points[:, 0] > 0]
        return np.vstack([[0.0, points[0, 1]], points])

    def skin(self, out: float) -> Array:
        """The leather cut through, both halves of it, to so far out: its outline (n, 2), closed."""
        right = self._drawn[0].points(0, out)
        right = right[right[:, 0] > 0]
        return band(np.vstack([(right * [-1.0, 1.0])[::-1], right]), self.leather)


def stretched(profile: Array, wide: float, high: float) -> Array:
    """A profile made so wide and so high, (k, 2), mm."""
    return np.asarray(profile * [wide / np.ptp(profile[:, 0]), high / profile[:, 1].max()])


def left_by_a_loop(leather: Leather, profile: Array, inset: float, loop: float) -> float:
    """The room all round that a loop of leather leaves, laid round a thing and marked where its two seams fall, mm.

    loop: once round, from the first mark to it again. Raises InputError for one too short to go round, or far too long.
    """

    def over(room: float) -> float:
        return 4 * Sleeve(leather, profile, room, inset).flat - loop

    if over(0.0) > 0:
        raise InputError(
            f"a loop of {loop:.0f} mm does not go round it: with its seams it takes {loop + over(0.0):.0f} mm",
            "panel.loop", "lay the strip round it again, grain side out, and mark where the seams fall",
        )  # fmt: skip
    if over(LOOSEST) < 0:
        raise InputError(
            f"a loop of {loop:.0f} mm lies more than {LOOSEST:.0f} mm off it all round", "panel.loop",
            "measure once round the strip, from one mark to it again",
        )  # fmt: skip
    return float(scipy.optimize.brentq(over, 0.0, LOOSEST, xtol=1e-4))
