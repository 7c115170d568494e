"""Passage: what the leather must let through on the way out.

Leather bends but does not stretch, so a tube of it changes its shape and not its girth. At every height the girth
inside must be at least the greatest hull girth, with its clearance, of all that lies below. Where a hollow holds the
object, leather may give a little. Girths are taken by Cauchy's integral: the hull's support over all directions.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from tailor.core.carried.loft import Array, Loft, Sections

WAYS = 256  # directions that girths are summed over
TURN = 2 * np.pi * np.arange(WAYS) / WAYS
ACROSS, UP = np.cos(TURN), np.sin(TURN)
HALVINGS = 24
MOST = 200.0  # mm that a row may be let out
GIVES = 0.02  # share of its girth that leather gives at a hollow
EVERY = 2  # samples of a section that are used, one of so many


@dataclass(frozen=True)
class Tube:
    """A case as what must pass through it sees it, at rows (n,).

    support: (n, WAYS) of each section with its clearance. need: (n,) girth that must pass there; passing: (n,) the y
    of what needs it. low, high: heights of the welt's faces over the object's middle plane. folded: it is sewn on the
    seam side only. formed: the girth inside moulded leather, (n,), with the welt's edges at left and right, (n,) each;
    moulded: (n,) the rows that holds at, all of them if None.
    """

    rows: Array
    support: Array
    need: Array
    passing: Array
    low: float
    high: float
    folded: bool = False
    formed: Callable[[Array, Array], Array] | None = None
    moulded: NDArray[np.bool_] | None = None

    def inside(self, left: Array, right: Array) -> Array:
        """Girth inside, (n,), with the welt's inner edges at left and right, (n,) each."""
        if self.formed is not None and self.moulded is None:
            return self.formed(left, right)
        out = self.support
        for x in (right,) if self.folded else (left, right):
            for z in (self.low, self.high):
                out = np.maximum(out, x[:, None] * ACROSS + z * UP)
        taut = np.asarray(out.sum(axis=1) * (2 * np.pi / WAYS))
        if self.formed is None or self.moulded is None:
            return taut
        return np.where(self.moulded, self.formed(left, right), taut)


def tube(
    loft: Loft, rows: Array, clearance: float, welt: float, middle: float, hollows: tuple[tuple[float, float], ...],
    fold: float | None = None, straight: float | None = None,
    formed: Callable[[Array, Array], Array] | None = None,
) -> Tube:  # fmt: skip
    """A case round an object. middle: of the welt over the object's middle plane. fold: inside radius of a fold at the
    spine, None where it is sewn there; straight: x of its inside, where it is. hollows: where the object may be held.
    """
    support = _supported(loft, rows.tobytes()) + clearance
    girth = support.sum(axis=1) * (2 * np.pi / WAYS)
    need = np.maximum.accumulate(girth)
    last = np.maximum.accumulate(np.where(girth >= need - 1e-9, np.arange(len(rows)), 0))
    for low, high in hollows:
        need = np.where((rows >= low) & (rows <= high), need / (1 + GIVES), need)
    if fold is not None:
        inside = loft.sizes(rows)[:, :1] - clearance if straight is None else np.full((len(rows), 1), straight)
        centre = inside + fold
        support = np.maximum(support, centre * ACROSS + fold)
    return Tube(rows, support, need, rows[last], middle - welt / 2, middle + welt / 2, fold is not None, formed)


@lru_cache(maxsize=16)
def _supported(loft: Loft, rows: bytes) -> Array:
    return supported(loft.sections(np.frombuffer(rows)))


def supported(seen: Sections) -> Array:
    """Support of each section in WAYS directions, (n, WAYS), mm."""
    x = seen.x[:, ::EVERY]
    best = np.full((len(x), WAYS), -np.inf)
    for z in (seen.front[:, ::EVERY], -seen.back[:, ::EVERY]):
        best = np.maximum(best, (x[:, :, None] * ACROSS + z[:, :, None] * UP).max(axis=1))
    return best


def let_out(tube: Tube, left: Array, right: Array) -> Array:
    """How far each row's edges must go out, (n,) mm, for all that is below to pass; both sides alike."""
    lack = tube.need - tube.inside(left, right)
    if lack.max() <= 1e-6:
        return np.zeros(len(tube.rows))
    low, high = np.zeros(len(lack)), np.where(lack > 1e-6, MOST, 0.0)
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        short = tube.inside(left - middle, right + middle) < tube.need - 1e-6
        low, high = np.where(short, middle, low), np.where(short, high, middle)
    return np.where(lack > 1e-6, high, 0.0)
