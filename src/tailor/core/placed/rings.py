"""Rings: metal that a fold of leather goes round, where it lies once the leather does."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.placed.lies import Frame, Lie

DEEP = 0.7  # of a ring's width inside, that it is deep


@dataclass(frozen=True)
class Ring:
    """A ring, or a buckle, in the fold of a piece, and what goes through it: what it is called as both are joined.

    at: where the crest of the fold lies on the piece, its y; turned: from there to where both legs have met. inside: as
    wide as it is between its sides; wire: as thick as it is, mm. square: a buckle, else round where it is pulled.
    """

    name: str
    piece: str
    through: str
    at: float
    turned: float
    inside: float
    wire: float
    square: bool = False

    @property
    def deep(self) -> float:
        """From the crest of the fold to where a strap pulls it."""
        return DEEP * self.inside

    def frame(self, lie: Lie) -> Frame:
        """In the crest of its fold, across along its bar, up the way it stands away; lie: of its piece."""
        flat = np.array([(0.0, self.at), (1.0, self.at), (0.0, self.at + self.turned), (0.0, self.at - self.turned)])
        crest, right, one, other = lie(flat).at
        across = (right - crest) / np.linalg.norm(right - crest)
        up = crest - (one + other) / 2
        up -= (up @ across) * across
        return Frame(crest, across, up / np.linalg.norm(up))

    def wires(self, lie: Lie) -> Array:
        """The line of its wire, closed, (n, 3); lie: of its piece."""
        half, foot, top = self.inside / 2, -self.wire, self.deep + self.wire
        if self.square:
            line = np.array([(-half, foot), (half, foot), (half, top), (-half, top)])
        else:
            turn = np.linspace(0.0, np.pi, 13)
            bow = np.column_stack([half * np.cos(turn), foot + (top - foot) * np.sin(turn)])
            line = np.vstack([[(-half, foot)], bow[:-1]])
        frame = self.frame(lie)
        return np.asarray(frame.origin + line[:, :1] * frame.across + line[:, 1:] * frame.up)
