"""Panel: the whole surface, laid flat row by row, and the map between the two.

Row development: u is the length of the neutral line from the fold, v is the row's y. Exact while the surface
bends one way only. The panel goes on flat over the welt, and past the tip on the cone the leather takes there.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from tailor.core.carried.loft import Array, Loft
from tailor.core.leather.leather import Leather
from tailor.core.leather.moulding import Moulding
from tailor.core.shell.pressed import Pressed
from tailor.core.shell.run import blended, of_chain
from tailor.core.shell.wrap import Chain, Wrap, folded, inner_girth

ROW_STEP = 2.5  # mm between rows


def covered_rows(loft: Loft, mouth: float, step: float = ROW_STEP) -> Array:
    """Rows to wrap at, (n,) rising: every covered station, the mouth, and even steps between that crowd neither."""
    even = np.linspace(loft.tip, mouth, int(np.ceil((mouth - loft.tip) / step)) + 1)
    fixed = np.unique(np.append(loft.at_stations(high=mouth), mouth))
    clear = np.abs(even[:, None] - fixed[None, :]).min(axis=1) > 0.3 * step
    return np.unique(np.concatenate([fixed, even[clear]]))


@dataclass(frozen=True)
class Panel:
    """A folded panel over a loft.

    clearance and welt (height of its layers together) in mm. rows, x_welt: (n,) the welt's inner edge at
    rising rows. toe: mm from the tip to the welt's inner edge along the fold. pressed: the panel while it is moulded;
    None where it is taut.
    """

    loft: Loft
    leather: Leather
    clearance: float
    welt: float
    rows: Array
    x_welt: Array
    toe: float
    pressed: Pressed | None = None

    @property
    def moulding(self) -> Moulding:
        return Moulding() if self.pressed is None else self.pressed.moulding

    def welt_edge(self, y: Array) -> Array:
        """x of the welt's inner edge at rows y, (n,); past the tip it rounds in to the fold."""
        y = np.asarray(y, dtype=float)
        tip = self.loft.tip
        straight = np.interp(y, self.rows, self.x_welt)
        fold = self.loft.sizes(tip)[0, 0] - self.clearance + self.leather.inside_radius
        past = np.clip((tip - y) / self.toe, 0, 1)
        rounded = fold + (self.x_welt[0] - fold) * np.sqrt(1 - past**2)
        return np.where(y < tip, rounded, straight)

    def wrap(self, y: Array) -> Wrap:
        """The leather round the object at rows y, (n,)."""
        y = np.asarray(y, dtype=float)
        sections = self.loft.sections(y, self.toe)
        taut = folded(sections, self.leather, self.clearance, self.welt, self.welt_edge(y))
        if self.pressed is None:
            return taut
        share = self.pressed.share(y)
        if not share.any():
            return taut
        on = np.maximum(y, self.loft.tip)
        sides = [
            blended(of_chain(line), self.pressed.run(name, on), share)
            for name, line in (("front", taut.front), ("back", taut.back))
            if isinstance(line, Chain)
        ]
        return replace(taut, front=sides[0], back=sides[-1])

    def eased(self, y: Array) -> tuple[Array, Array]:
        """How much shorter front and back are cut at rows y, for what the leather gives in moulding, (n,) each, mm."""
        if self.pressed is None:
            return np.zeros(len(y)), np.zeros(len(y))
        wrapped = self.wrapped if y is self.rows else self.wrap(y)
        short = (1 - self.pressed.moulding.shrink) * self.pressed.share(y)
        return np.asarray(short * wrapped.front.landed), np.asarray(short * wrapped.back.landed)

    @cached_property
    def wrapped(self) -> Wrap:
        """The leather round the object at the rows of the panel."""
        return self.wrap(self.rows)

    def steepest(self) -> Array:
        """Steepest angle at which either side comes down on the welt at each row, (n,), radians."""
        return np.maximum(self.wrapped.front.approach, self.wrapped.back.approach)

    def level_at(self, inset: float) -> Array:
        """How much level leather lies between landing and stitch at each row, (n,), mm."""
        return self.x_welt + inset - np.maximum(self.wrapped.front.x_land, self.wrapped.back.x_land)

    def girths(self) -> tuple[Array, Array]:
        """Length round the inside of the case, and round the object, at each row, (n,) each, mm."""
        return inner_girth(self.wrapped, self.leather), self.wrapped.sections.girth()

    def to_flat(self, plan: Array, side: str) -> Array:
        """Points seen from the front (x, y) to flat (u, v), (n, 2); side is "front" or "back"."""
        line = self.wrap(plan[:, 1]).side(side)
        return np.column_stack([line.length_to(plan[:, 0]), plan[:, 1]])

    def to_plan(self, flat: Array, side: str) -> Array:
        """Flat points (u, v) back to where they are seen from the front (x, y), (n, 2)."""
        line = self.wrap(flat[:, 1]).side(side)
        return np.column_stack([line.point_at(flat[:, 0])[:, 0], flat[:, 1]])
