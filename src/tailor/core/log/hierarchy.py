"""Hierarchy: what readings say of a constant, for a leather that was met and for one that was not.

A constant is off its table by what a maker does in everything, by what is alike in a kind of leather, by what is this
leather's own, and by the method. Each part is normal about nothing with a spread of its own; a reading is off the sum
with the tails of a Student t, so that one bad reading moves little; readings of one piece share half of what they are
off by. The parts are worked out in closed form, weights and parts in turn. How wide the spreads themselves are is not
sure: every likely pair of widths is tried, and counts as much as the readings speak for it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from scipy.special import gammaln, ndtr

from tailor.core.carried.loft import Array
from tailor.core.log.spreads import Spreads

Places = npt.NDArray[np.intp]

TAILS = 4.0  # degrees of freedom: how heavy the tails of a reading are
ROUNDS = 12
SHARED = 0.5  # share of a reading's variance that it has in common with others of the same piece
WIDTHS = np.exp(np.linspace(-0.8, 0.8, 7))  # times the spreads that are thought
UNSURE = 0.35  # standard deviation of the logarithm of such a width
KNOWN = 5 / 7  # of the precision of a t that its weights seem to give


class Off(NamedTuple):
    """How far a reading is off the table, with its own scale; where it comes from.

    piece: readings of the same piece are not independent; empty where it is the only one.
    """

    by: float
    scale: float
    kind: str
    leather: str
    method: str
    piece: str = ""


@dataclass(frozen=True)
class Guess:
    """A number that is not sure: its mean and standard deviation, and between what it is in 9 of 10."""

    mean: float
    sd: float
    low: float
    high: float


class Hierarchy:
    """What some readings say. widths: (pairs, 2) that were tried; weights: (pairs,) how much each counts."""

    def __init__(self, readings: Sequence[Off], spreads: Spreads) -> None:
        self.spreads = spreads
        grid = np.array(np.meshgrid(WIDTHS, WIDTHS)).reshape(2, -1).T
        self.widths = grid
        prior = -(np.log(grid) ** 2).sum(axis=1) / (2 * UNSURE**2)
        self._places: dict[tuple[str, str], int] = {}
        own = [spreads.maker**2]
        for part, name in ((spreads.kind, "kind"), (spreads.leather, "leather"), (spreads.method, "method")):
            for called in sorted({getattr(reading, name) for reading in readings}):
                self._places[name, called] = len(own)
                own.append(part**2)
        self._own = np.array(own)[None] * grid[:, :1] ** 2  # (pairs, parts)
        if readings:
            self._parts, self._sure, told = self._fitted(sorted(readings, key=lambda off: (*off[2:],)))
        else:
            self._parts, self._sure, told = np.zeros((len(grid), 1)), self._own[:, :, None], np.zeros(len(grid))
        weights = np.exp(prior + told - (prior + told).max())
        self.weights = weights / weights.sum()

    def guess(self, kind: str, leather: str, method: str) -> Guess:
        """How far the constant is off the table, there; what was never met is as wide as all of its sort."""
        x = self._row(kind, leather, method)
        strange = sum(
            part**2 for part, at in zip((self.spreads.kind, self.spreads.leather, self.spreads.method),
                                        (("kind", kind), ("leather", leather), ("method", method)), strict=True)
            if at not in self._places
        )  # fmt: skip
        means = self._parts @ x
        sds = np.sqrt(np.einsum("k,gkl,l->g", x, self._sure, x) + strange * self.widths[:, 0] ** 2)
        mean = float(self.weights @ means)
        sd = float(np.sqrt(self.weights @ (sds**2 + means**2) - mean**2))
        return Guess(mean, sd, *(self._quantile(means, sds, share) for share in (0.05, 0.95)))

    def _quantile(self, means: Array, sds: Array, share: float) -> float:
        low, high = float((means - 8 * sds).min()), float((means + 8 * sds).max())
        for _ in range(50):
            mid = (low + high) / 2
            low, high = (mid, high) if self.weights @ ndtr((mid - means) / sds) < share else (low, mid)
        return mid

    def _row(self, kind: str, leather: str, method: str) -> Array:
        row = np.zeros(self._own.shape[1])
        row[0] = 1
        for at in (("kind", kind), ("leather", leather), ("method", method)):
            if at in self._places:
                row[self._places[at]] = 1
        return row

    def _fitted(self, readings: Sequence[Off]) -> tuple[Array, Array, Array]:
        """(pairs, parts) what each part is off, (pairs, parts, parts) how surely, (pairs,) the evidence, by logarithm.

        readings: in the order of where they come from, and of their pieces. Those that come from the same are summed
        before anything is solved, so that thousands take no longer than a few.
        """
        off, scale = np.array([r.by for r in readings]), np.array([r.scale for r in readings])
        piece, of_piece = _runs([(r[2:] if r.piece else (*r[2:5], n)) for n, r in enumerate(readings)])
        where, of_where = _runs([readings[n][2:5] for n in piece])
        rows = np.array([self._row(*readings[n][2:5]) for n in piece[where]])
        several = np.bincount(of_piece)[of_piece] > 1
        wide = self.widths[:, 1:] * scale  # (pairs, n)
        noise, common = wide**2 * np.where(several, 1 - SHARED, 1.0), wide * np.where(several, np.sqrt(SHARED), 0.0)

        def solved(precise: Array) -> tuple[Array, ...]:
            q, shared, shared_off = (
                np.add.reduceat(each, piece, axis=1)
                for each in (common**2 * precise, common * precise, common * precise * off)
            )
            alone = np.add.reduceat(precise, piece, axis=1) - shared**2 / (1 + q)
            pull = np.add.reduceat(precise * off, piece, axis=1) - shared * shared_off / (1 + q)
            told = np.einsum("ck,gc,cl->gkl", rows, np.add.reduceat(alone, where, axis=1), rows)
            told[:, range(rows.shape[1]), range(rows.shape[1])] += 1 / self._own
            sure = np.linalg.inv(told)
            parts = np.einsum("gkl,cl,gc->gk", sure, rows, np.add.reduceat(pull, where, axis=1))
            return parts, sure, q, shared, shared_off

        weights = np.ones_like(noise)
        for _ in range(ROUNDS):
            parts, sure, q, shared, shared_off = solved(weights / noise)
            level = (parts @ rows.T)[:, of_where]  # (pairs, pieces)
            spread = np.einsum("ck,gkl,cl->gc", rows, sure, rows)[:, of_where]
            lean = shared / (1 + q)
            own = (shared_off - shared * level) / (1 + q)  # what a piece is off by itself, in standard deviations
            fit = level[:, of_piece] + common * own[:, of_piece]
            doubt = (1 - common * lean[:, of_piece]) ** 2 * spread[:, of_piece] + common**2 / (1 + q)[:, of_piece]
            far = ((off - fit) ** 2 + doubt) / noise
            weights = (TAILS + 1) / (TAILS + far)
        constant = gammaln((TAILS + 1) / 2) - gammaln(TAILS / 2) - np.log(TAILS * np.pi) / 2
        told = (constant - np.log(noise) / 2 - (TAILS + 1) / 2 * np.log1p(far / TAILS)).sum(axis=1)
        known = np.einsum("gkk->gk", sure)
        told -= ((known + parts**2) / self._own - 1 + np.log(self._own)).sum(axis=1) / 2
        told += np.linalg.slogdet(sure)[1] / 2
        told -= (1 / (1 + q) + own**2 + lean**2 * spread - 1 + np.log1p(q)).sum(axis=1) / 2
        return parts, solved(weights / noise * KNOWN)[1], told


def _runs(keys: Sequence[object]) -> tuple[Places, Places]:
    """Where each run of equal keys begins, and (n,) the run that each key is of."""
    begins = np.array([n for n, key in enumerate(keys) if n == 0 or keys[n - 1] != key])
    of = np.zeros(len(keys), dtype=int)
    of[begins[1:]] = 1
    return begins, np.cumsum(of)
