"""Lying: what is sewn on the back of a case lies where its stitches hold it, and its stitches where it comes to lie."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.fitted.faces import Face
from tailor.core.draft.piece import Piece
from tailor.core.placed.lies import Bent, Lie, Placed
from tailor.core.placed.sewn import Ruled, along, sewn_on, twisted

CLOSE, ROUNDS = 0.02, 5  # mm, and steps to it


@dataclass(frozen=True)
class Held:
    """A part held to the back by rows of stitches. lies: of the pieces there are. shape: as it is bent; None where it
    goes straight from its first row to its last.
    """

    part: Piece
    seams: Sequence[str]
    back: Face
    lies: Mapping[str, Lie]
    shape: Bent | None = None

    @property
    def _own(self) -> list[Array]:
        return [self.part.holes_of(seam, "tab") for seam in self.seams]

    def lie(self, rows: Sequence[Array]) -> Lie | None:
        """Where the part lies that is sewn by rows as they are on the back, (n, 2) each; None where it is not told."""
        under = self.lies.get(self.back.piece)
        if under is None:
            return None
        placed = [under(row) for row in rows]
        own, lift = self._own, self.part.thickness
        if self.shape is None:
            ends = [p.at + lift * p.out for p in (placed[0], placed[-1])]
            return Ruled((float(own[0][0, 1]), float(own[-1][0, 1])), own[0][:, 0], (ends[0], ends[1]))
        whole = Placed(*(np.vstack(side) for side in zip(*placed, strict=True)))
        bent = replace(self.shape, across=along(own[0][:, 0], placed[0], lift))
        return twisted(sewn_on(bent, np.vstack(own), whole, lift), own, placed, lift)

    def settled(self, seen: Sequence[Array]) -> list[Array]:
        """Rows as seen from the front, each (n, 2), moved along the back to where those of the part come to lie."""
        rows = [np.asarray(row) for row in seen]
        under = self.lies.get(self.back.piece)
        if under is None:
            return rows
        for _ in range(ROUNDS):
            flat = self.back.strips(rows)
            lie = self.lie(flat)
            assert lie is not None
            missed = []
            for own, row in zip(self._own, flat, strict=True):
                here = under(row)
                apart = lie(own).at - here.at
                apart -= (apart * here.out).sum(axis=1)[:, None] * here.out
                missed.append(apart.mean(axis=0)[:2])
            rows = [row + miss for row, miss in zip(rows, missed, strict=True)]
            if np.abs(missed).max() < CLOSE:
                break
        return rows
