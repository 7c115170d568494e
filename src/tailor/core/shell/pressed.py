"""Pressed: a folded sheet moulded over the object, from its fold to the valley at the welt.

Up to the ridge, a line just inside the spine, leather lies on the fold and the object as taut leather does; from
there it is pressed down on a ball. Past the tip, and towards it, it is drawn taut again: a fold cannot be pressed
round an end.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from tailor.core.carried.loft import Array, Loft
from tailor.core.leather.leather import Leather
from tailor.core.leather.moulding import EVERYWHERE, Moulding
from tailor.core.shell.mould import Flank, moulded
from tailor.core.shell.run import Run, joined, of_chain
from tailor.core.shell.wrap import chain

INSIDE = 0.2  # share of its width that the ridge lies within the seam side of any row
HIDDEN = 1e-3  # mm within the object's seam side
TAPER = 12.0  # mm over which leather passes from moulded to taut


def moulded_share(moulding: Moulding, hollows: tuple[tuple[float, float], ...], rows: Array, tip: float) -> Array:
    """How far moulded leather is at rows (n,) of an object that ends at y = tip: 1 wholly, 0 taut."""
    if moulding.taut:
        return np.zeros(len(rows))
    if moulding.where == EVERYWHERE:
        if moulding.end <= 0:
            return np.ones(len(rows))
        up = np.clip((rows - tip) / moulding.end, 0, 1)
        return np.asarray(up * up * (3 - 2 * up))
    near = [np.maximum(np.maximum(low - rows, rows - high), 0.0) for low, high in hollows]
    if not near:
        return np.zeros(len(rows))
    return np.asarray(1 - np.clip(np.minimum.reduce(near) / TAPER, 0, 1))


@dataclass(frozen=True)
class Pressed:
    """A folded panel while it is moulded.

    mouth: its upper end. welt: height of its layers together. mm. coarse: how many times as wide as usual the grid
    is that the ball rolls over. fold: x of the inside of the fold, which is straight.
    """

    loft: Loft
    leather: Leather
    moulding: Moulding
    clearance: float
    welt: float
    mouth: float
    hollows: tuple[tuple[float, float], ...]
    fold: float
    coarse: int = 1

    @property
    def ball(self) -> float:
        return self.moulding.ball(self.leather.thickness)

    @cached_property
    def ridge(self) -> float:
        """x from which the leather is pressed: where the object stands highest, or as near as every row reaches."""
        rows = np.linspace(min(self.loft.tip + TAPER, self.mouth), self.mouth, 24)
        seen = self.loft.sections(rows)
        highest = [np.take_along_axis(seen.x, z.argmax(axis=1)[:, None], axis=1) for z in (seen.front, seen.back)]
        size = self.loft.sizes(rows)
        fold = self.fold + self.leather.inside_radius
        reached = float((size[:, 0] + (1 - INSIDE) * size[:, 1]).min())
        return max(min(float(np.max(highest)), reached), fold)

    def share(self, rows: Array) -> Array:
        """How far moulded it is at rows (n,)."""
        return moulded_share(self.moulding, self.hollows, rows, self.loft.tip)

    def _profile(self, side: str) -> Callable[[Array], tuple[Array, Array]]:
        def at(y: Array) -> tuple[Array, Array]:
            seen = self.loft.sections(y)
            return seen.x, seen.front if side == "front" else seen.back

        return at

    def _flank(self, side: str) -> Flank:
        return Flank(self._profile(side), self.loft.tip, self.mouth, self.ridge, 0.0)

    @cached_property
    def _worked(self) -> dict[tuple[str, bytes], Run]:
        return {}

    def run(self, side: str, rows: Array) -> Run:
        """The moulded neutral line of one side from the fold, at rows (n,) on the object; worked once for each."""
        key = side, rows.tobytes()
        if key not in self._worked:
            self._worked[key] = self._run(side, rows)
        return self._worked[key]

    def _run(self, side: str, rows: Array) -> Run:
        n = len(rows)
        x, z = self._profile(side)(rows)
        fold = np.full(n, self.fold + self.leather.inside_radius)
        low = np.column_stack([x[:, -1] - HIDDEN, np.zeros(n)])  # a welt that the line never comes down to
        up = chain(x, z, self.clearance, fold, self.leather.inside_radius, low, self.leather.offset)
        along = moulded(
            self._flank(side), rows, self.clearance, self.welt / 2, self.leather.offset, self.ball, self.coarse
        )
        return joined(of_chain(up, end=np.full(n, self.ridge)), along)

    def between(self, rows: Array) -> Callable[[Array, Array], Array]:
        """Girth inside leather pressed all over at rows (n,), by where the welt's inner edge lies, (n,)."""
        front, back = self.run("front", rows), self.run("back", rows)
        bend = 2 * self.leather.offset * np.pi / 2

        def girth(left: Array, right: Array) -> Array:
            return np.asarray(front.length_to(right) + back.length_to(right) - bend + self.welt)

        return girth
