"""Closes: which seams close a thing, which pieces each joins on the bench, and what is folded for it."""

from __future__ import annotations

import numpy as np
import shapely

from tailor.core.bench.folding import folded, shuts
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Role, Seam

NARROW = 60.0  # mm: of a strap
MARGIN = 5.0  # mm, where a draft has none of its own
FLANGE = 2.5  # times the margin that a flange is wide at the most, from its fold to its holes
INNER = 1.6  # times the margin that a seam lies in from the edge of a piece it is sewn on to


class Closes:
    """How a draft is closed. cut: what is cut for it. seams: those that close it, of all its seams."""

    def __init__(self, made: Draft) -> None:
        self.made = made
        self.cut = [piece for piece in made.pieces if piece.role is not Role.TEMPLATE]
        self.seams = [seam for seam in made.seams if self._closes(seam)]

    def joined(self, seam: Seam) -> tuple[str, ...]:
        """The pieces that a seam joins, as they lie on the bench: blanks, and not what they are trimmed by."""
        blanks = [piece.name for piece in self.cut if piece.role is Role.BLANK]
        cut = {piece.name for piece in self.cut}
        return tuple(dict.fromkeys(n for name in seam.pieces for n in ([name] if name in cut else blanks)))

    def by_folding(self) -> list[str]:
        """The pieces that are folded to be closed: what is sewn shut lies on either side of a fold; where nothing is
        sewn, what is riveted.
        """
        if not self.seams:
            return [piece.name for piece in self.cut if folded(piece) and piece.fittings]
        flange = FLANGE * self._margin
        names = {piece for seam in self.seams for piece in self.joined(seam)}
        return [piece.name for piece in self.cut if piece.name in names and folded(piece) and any(
            shuts(piece, seam.name, flange) for seam in self.seams)]  # fmt: skip

    def _closes(self, seam: Seam) -> bool:
        """Whether a seam closes the thing: it runs along the edge of all that it joins, and so does every other of the
        same pieces; a strap's own end turned in closes nothing.
        """
        if self.made.shell is not None:
            return seam == self.made.seams[0]
        if len(seam.pieces) == 1 and self._narrow(seam.pieces[0]):
            return False
        return all(self._at_edges(other) for other in self.made.seams if set(other.pieces) == set(seam.pieces))

    def _narrow(self, name: str) -> bool:
        corners = shapely.get_coordinates(shapely.Polygon(self.made.piece(name).cut).minimum_rotated_rectangle)
        return bool(np.hypot(*np.diff(corners[:3], axis=0).T).min() < NARROW)

    @property
    def _margin(self) -> float:
        return self.made.value("seam.margin") if "seam.margin" in self.made.reasons else MARGIN

    def _at_edges(self, seam: Seam) -> bool:
        margin = self._margin
        for piece in self.made.pieces:
            rim = shapely.LinearRing(piece.cut)
            for edge in seam.edges:
                holes = piece.holes_of(seam.name, edge)
                if len(holes) and np.median(shapely.distance(rim, shapely.points(holes))) > INNER * margin:
                    return False
        return True
