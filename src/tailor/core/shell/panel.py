"""Panel: a folded sheet round its object, and laid flat.

Row development: u is the length of the neutral line from the fold, v is the row's y. Exact while the surface
bends one way only. The panel goes on flat over the welt, and past the tip on the cone the leather takes there. Over a
blunt end it is drawn over the whole object at once, and flattened.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from tailor.core.carried.loft import Array, Loft, Sections
from tailor.core.leather.leather import Leather
from tailor.core.leather.moulding import Moulding
from tailor.core.shell.formed import Formed, formed, half
from tailor.core.shell.pressed import Pressed
from tailor.core.shell.region import Edges, outline, sampled
from tailor.core.shell.run import Run, blended, of_chain
from tailor.core.shell.taut import AIR, LATTICE, Cut, Drawn, Fold, Slope, followed
from tailor.core.shell.wrap import Chain, Wrap, folded, inner_girth

ROW_STEP = 2.5  # mm between rows
SAMPLED = 3.0  # mm between rows at which a whole object is sampled
STEEP, MOST_PARTS = 0.5, 5  # mm of thickness from row to row, and parts that a step between two is parted in
JUST = 0.02  # mm: above the foot of the seam
PRISM = 40.0  # mm that the section at the mouth is carried on


def covered_rows(loft: Loft, mouth: float, step: float = ROW_STEP) -> Array:
    """Rows to wrap at, (n,) rising: every covered station, the mouth, and even steps between that crowd neither."""
    even = np.linspace(loft.tip, mouth, int(np.ceil((mouth - loft.tip) / step)) + 1)
    fixed = np.unique(np.append(loft.at_stations(high=mouth), mouth))
    clear = np.abs(even[:, None] - fixed[None, :]).min(axis=1) > 0.3 * step
    return np.unique(np.concatenate([fixed, even[clear]]))


def closer(loft: Loft, rows: Array) -> Array:
    """Rows with more of them where the object's thickness changes by more than STEEP from one to the next."""
    change = np.abs(np.diff(loft.sizes(rows)[:, 2:4], axis=0)).max(axis=1)
    parts = np.clip(np.ceil(change / STEEP), 1, MOST_PARTS).astype(int)
    more = [np.linspace(a, b, n, endpoint=False) for a, b, n in zip(rows, rows[1:], parts, strict=False)]
    return np.append(np.concatenate(more), rows[-1])


@dataclass(frozen=True)
class Panel:
    """A folded panel over a loft.

    clearance and welt (height of its layers together) in mm. rows: (n,) rising. seam: the welt's inner edge, row by
    row. fold: x of the inside of the fold, which is straight. slope: how steeply it
    comes down to the seam. whole: it is drawn over the whole object at once, ends too, and flattened; else each row is
    laid flat by itself, which is exact while it bends one way only. pressed: the panel while it is moulded; None where
    it is taut. coarse: how many times as wide as usual its samples lie. within: the panel whose skin this is.
    """

    loft: Loft
    leather: Leather
    clearance: float
    welt: float
    mouth: float
    rows: Array
    seam: Edges
    slope: Slope
    fold: float
    whole: bool = False
    pressed: Pressed | None = None
    coarse: int = 1
    within: Panel | None = None

    @property
    def moulding(self) -> Moulding:
        return Moulding() if self.pressed is None else self.pressed.moulding

    @property
    def flat_back(self) -> bool:
        """Whether its back stays flat: no half of a folded sheet does."""
        return False

    @property
    def plane(self) -> float:
        """How far a flat back lies behind the object's middle plane, mm."""
        return 0.0

    def bare(self) -> Panel:
        """The same without what it has worked out by now."""
        return replace(self)

    @property
    def toe(self) -> float:
        """From the tip to the foot of the welt's inner edge, mm."""
        return self.loft.tip - self.seam.foot

    @property
    def unlike(self) -> tuple[str, ...]:
        """The sides that differ from each other."""
        return ("front",) if self.wrapped.back is self.wrapped.front else ("front", "back")

    @cached_property
    def x_welt(self) -> Array:
        """x of the welt's inner edge at the rows of the panel, (n,)."""
        return self.welt_edge(self.rows)

    def welt_edge(self, y: Array) -> Array:
        """x of the welt's inner edge at rows y, (n,)."""
        return self.seam(np.asarray(y, dtype=float))[0]

    @cached_property
    def past(self) -> Array:
        """Rows past the tip as far as the leather is not level there, (n,) rising."""
        tip, foot = self.loft.tip, self.seam.foot + JUST
        rows = np.linspace(foot, tip, max(int(np.ceil((tip - foot) / ROW_STEP)), 4) + 1)[:-1]
        if not self.whole:
            return np.asarray(rows)
        bend = self.clearance + self.leather.offset
        return np.unique(np.concatenate([rows, np.arange(tip - bend, tip, 0.5 * self.coarse)]))

    def wrap(self, y: Array) -> Wrap:
        """The leather round the object at rows y, (n,)."""
        y = np.asarray(y, dtype=float)
        taut = self._drawn_at(y) if self.whole else self._rowed(y, self.welt_edge(y))
        if self.pressed is None:
            return taut
        share = self.pressed.share(y)
        if not share.any():
            return taut
        on = np.maximum(y, self.loft.tip)
        sides = [
            blended(of_chain(line) if isinstance(line, Chain) else line, self.pressed.run(name, on), share)
            for name, line in (("front", taut.front), ("back", taut.back))[: 1 if taut.back is taut.front else 2]
        ]
        return replace(taut, front=sides[0], back=sides[-1])

    def _drawn_at(self, y: Array) -> Wrap:
        """Drawn taut over the whole object, at rows y."""
        right, _ = self.seam(y)
        front, back = self._drawn
        own = self._rowed(y, right)
        runs = []
        for drawn, line in ((front, own.front), (back, own.back))[: 1 if back is front else 2]:
            hull = drawn.hull(y)
            over = drawn.over(y, hull, right, right, self.seam.foot, self._followed(y, drawn, hull, line))
            runs.append(over.run(np.full(len(y), self.x_fold), 1.0))
        return Wrap(self.loft.sections(y), np.full(len(y), self.x_fold), right, runs[0], runs[-1])

    def _rowed(self, y: Array, right: Array) -> Wrap:
        """Each row drawn taut by itself."""
        sections = self.loft.sections(y, self.toe)
        return folded(sections, self.leather, self.clearance, self.welt, right, self.fold)

    def _followed(self, y: Array, drawn: Drawn, hull: Cut, line: Chain | Run) -> tuple[Array, Array] | None:
        """Where the object is hollow along the draw, the leather that lies over each row by itself, past its fold."""
        ends = drawn.toe_ends()
        hollow = (y >= self.loft.tip) & (y >= ends)
        if not hollow.any() or drawn.air(y, hull)[hollow].max() < AIR:
            return None
        middle = self.fold + self.leather.inside_radius
        x = np.arange(middle, float(self.seam(y)[0].max()) + 3, LATTICE * self.coarse)
        high = (of_chain(line) if isinstance(line, Chain) else line).heights(x)
        first = np.full((len(y), 1), np.inf)  # round the fold there is nothing to follow
        return np.append(middle - 1e-6, x), np.hstack([first, followed(y, high, ends)])

    @property
    def x_fold(self) -> float:
        """x of the neutral surface at a straight fold."""
        return self.fold - self.leather.offset

    @cached_property
    def _drawn(self) -> tuple[Drawn, Drawn]:
        """Front and back as they are drawn taut; the same where the object is."""
        seen = sampled(self.loft, self.mouth, PRISM, SAMPLED * self.coarse)
        line = outline(self.seam.region, self.mouth + PRISM)
        middle = self.fold + self.leather.inside_radius
        seam = line[: int(np.argmax(line[:, 0] < middle)) or len(line)]
        fold = Fold(middle, self.leather.inside_radius, self.seam.foot, self.mouth + PRISM)
        likes = (None, None) if self.within is None else self.within._drawn
        sides = [
            Drawn(Sections(seen.y, seen.x, z, z), np.vstack([seam, [middle, self.seam.foot]]), self.clearance,
                  self.welt / 2, self.leather.offset, self.slope, self.coarse, fold, like)
            for z, like in zip((seen.height, seen.back), likes, strict=True)
        ]  # fmt: skip
        return sides[0], sides[0] if np.array_equal(seen.height, seen.back) else sides[1]

    def panels(self, edge: Callable[[Array], Array], foot: float, rowed: bool = False) -> tuple[Formed, ...]:
        """Front and back formed and flat, each ended at the fold.

        edge: rows y to x that they go out to. foot: y that they end at. rowed: laid row by row, whatever that strains.
        """
        below = np.linspace(foot, self.past[0], max(int(np.ceil((self.past[0] - foot) / ROW_STEP)), 1) + 1)[:-1]
        rows = np.concatenate([below, self.past, self.rows])
        rows = rows[(rows >= foot) & np.concatenate([[True], np.diff(rows) > JUST])]
        wrapped = self._wrapped_at(np.maximum(rows, self.seam.foot + JUST))
        found: list[Formed] = []
        for side, line in (("front", wrapped.front), ("back", wrapped.back)):
            if side == "back" and line is wrapped.front:
                return found[0], replace(found[0], side="back")
            run = of_chain(line) if isinstance(line, Chain) else line
            whole = half(run, rows, edge(rows), self.coarse, self.leather.quarter_bend)
            found.append(formed(side, whole, None, self.moulding.stretch, self.mouth, rowed=rowed))
        return tuple(found)

    def _wrapped_at(self, y: Array) -> Wrap:
        """The leather at rows that are among those past the tip and its own, (n,)."""
        if not self._by_itself:
            return self.wrap(y)
        return self._every.rows(np.searchsorted(self._every.sections.y, y))

    def eased(self, y: Array) -> tuple[Array, Array]:
        """How much shorter front and back are cut at rows y, for what the leather gives in moulding, (n,) each, mm."""
        if self.pressed is None:
            return np.zeros(len(y)), np.zeros(len(y))
        wrapped = self.wrapped if y is self.rows else self.wrap(y)
        short = (1 - self.pressed.moulding.shrink) * self.pressed.share(y)
        return np.asarray(short * wrapped.front.landed), np.asarray(short * wrapped.back.landed)

    @cached_property
    def skins(self) -> tuple[Panel, Panel]:
        """The panel as its flesh face lies, and as its grain face does."""
        stuffs = [replace(self.leather, neutral=k) for k in (0.0, 1.0)]
        flesh, grain = (
            replace(
                self, leather=s, pressed=None if self.pressed is None else replace(self.pressed, leather=s), within=self
            )
            for s in stuffs
        )
        return flesh, grain

    @cached_property
    def _every(self) -> Wrap:
        """The leather past the tip and at the rows of the panel, where each row is drawn taut by itself."""
        return self.wrap(np.concatenate([self.past, self.rows]))

    @property
    def _by_itself(self) -> bool:
        """Whether each row is as it is whatever rows it is worked with."""
        return not self.whole and self.pressed is None

    @cached_property
    def wrapped(self) -> Wrap:
        """The leather round the object at the rows of the panel."""
        return self._every.rows(slice(len(self.past), None)) if self._by_itself else self.wrap(self.rows)

    @cached_property
    def wrapped_past(self) -> Wrap:
        """The leather at the rows past the tip."""
        return self._every.rows(slice(len(self.past))) if self._by_itself else self.wrap(self.past)

    def steepest(self) -> Array:
        """Steepest angle at which either side comes down on the welt at each row, (n,), radians."""
        return np.maximum(self.wrapped.front.approach, self.wrapped.back.approach)

    def level_at(self, inset: float) -> Array:
        """How much level leather lies between landing and stitch at each row, (n,), mm."""
        return self.x_welt + inset - np.maximum(self.wrapped.front.x_land, self.wrapped.back.x_land)

    def girths(self) -> tuple[Array, Array]:
        """Length round the inside of the case, and round the object, at each row, (n,) each, mm."""
        return inner_girth(self.wrapped, self.leather), self.wrapped.sections.girth()

    def line_at(self, y: Array, side: str) -> Chain | Run:
        """The leather of a side at rows y, (n,), in any order and any of them more than once."""
        heights, which = np.unique(y, return_inverse=True)
        return self._asked(heights).side(side).rows(which)

    @cached_property
    def _last(self) -> dict[bytes, Wrap]:
        return {}

    def _asked(self, y: Array) -> Wrap:
        """The leather at rows y, (n,): what was asked for last is at hand, since where a place lies flat and how far it
        stands out are asked for one after the other.
        """
        name = y.tobytes()
        if name not in self._last:
            self._last.clear()
            self._last[name] = self.wrap(y)
        return self._last[name]

    def to_flat(self, plan: Array, side: str) -> Array:
        """Points seen from the front (x, y) to flat (u, v), (n, 2); side is "front" or "back"."""
        return np.column_stack([self.line_at(plan[:, 1], side).length_to(plan[:, 0]), plan[:, 1]])

    def to_plan(self, flat: Array, side: str) -> Array:
        """Flat points (u, v) back to where they are seen from the front (x, y), (n, 2)."""
        return np.column_stack([self.line_at(flat[:, 1], side).point_at(flat[:, 0])[:, 0], flat[:, 1]])
