"""Ribbon: a narrow strip that goes along a line in space, as a tie does from one face round another to a third."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.placed.lies import Creases, Placed

STEP = 1.0  # mm along the line between the places where it is told
EASED = 4  # such places to either side over which it turns where its line does
DRAWN = 5.0  # mm of it that are drawn straight


@dataclass(frozen=True)
class Ribbon:
    """A strip along a line of its middle layer, (m, 3), which it keeps its length along; before and after that it goes
    straight on. out: (m, 3) which way its grain looks there, nearly. first: its y where the line begins. Aside from its
    middle it is strained as much as it turns aside.
    """

    line: Array
    out: Array
    first: float = 0.0

    @cached_property
    def _told(self) -> tuple[Array, Array, Array, Array]:
        """Lengths along it, (n,), its places there, which way it runs and which way it looks, (n, 3) each."""
        cut = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(self.line, axis=0), axis=1))])
        at = np.linspace(0.0, cut[-1], max(int(np.ceil(cut[-1] / STEP)), 2) + 1)
        places = np.column_stack([np.interp(at, cut, side) for side in self.line.T])
        looks = np.column_stack([np.interp(at, cut, side) for side in self.out.T])
        runs = np.gradient(places, at, axis=0)
        padded = np.pad(runs, ((EASED, EASED), (0, 0)), mode="edge")
        eased = np.lib.stride_tricks.sliding_window_view(padded, 2 * EASED + 1, axis=0).mean(axis=2)
        return at, places, eased, looks

    @property
    def length(self) -> float:
        return float(self._told[0][-1])

    def __call__(self, flat: Array) -> Placed:
        at, places, runs, looks = self._told
        s = flat[:, 1] - self.first
        on = np.clip(s, 0.0, at[-1])
        here, along, out = (
            np.column_stack([np.interp(on, at, side) for side in told.T]) for told in (places, runs, looks)
        )
        along /= np.linalg.norm(along, axis=1)[:, None]
        out -= (out * along).sum(axis=1, keepdims=True) * along
        out /= np.linalg.norm(out, axis=1)[:, None]
        return Placed(here + (s - on)[:, None] * along + flat[:, :1] * np.cross(along, out), out)

    def creases(self) -> Creases:
        return Creases(np.empty(0), np.array([self.first, self.first + self.length]), DRAWN)
