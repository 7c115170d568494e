"""Draft: everything that follows from a job, as values."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.body import Side, Tab
from tailor.core.draft.carry import Loop
from tailor.core.draft.piece import Piece, Seam
from tailor.core.draft.seam import Standoff
from tailor.core.fairing import Line
from tailor.core.leather.stack import Stack
from tailor.core.reason import Reason
from tailor.core.shell.panel import Panel
from tailor.core.shell.wrap import Wrap


@dataclass(frozen=True)
class Row:
    """What the wrap gives at one station of the measured table, mm."""

    y: float
    standoff: float
    x_welt: float
    x_stitch: float
    front_path: float
    back_path: float


@dataclass(frozen=True)
class Plan:
    """The made-up case seen from the front, as curves (n, 2) in x and y, mm."""

    welt: Array
    stitch: Array
    cut: Array
    mouth: Array
    loop: Array | None = None


@dataclass(frozen=True)
class Draft:
    """Pieces, seams and the numbers behind them.

    pieces are as cut, mirrored for a left hand; everything else is drawn for the right. wrap is the leather at
    panel.rows. front, back, inner are the flat lines of the seam. loop and tab are None where there is none.
    """

    pieces: tuple[Piece, ...]
    seams: tuple[Seam, ...]
    rows: tuple[Row, ...]
    reasons: Mapping[str, Reason]
    panel: Panel
    wrap: Wrap
    stack: Stack
    standoff: Standoff
    front: Side
    back: Side
    inner: Line
    plan: Plan
    loop: Loop | None
    tab: Tab | None
    mirrored: bool

    def value(self, name: str) -> float:
        """The settled number of a dimension by its name."""
        return self.reasons[name].value

    def piece(self, name: str) -> Piece:
        return next(p for p in self.pieces if p.name == name)

    def seam(self, name: str) -> Seam:
        return next(s for s in self.seams if s.name == name)

    @property
    def drift(self) -> float:
        """Greatest distance along the draw by which front and back holes miss each other, mm."""
        return float(np.abs(self.front.holes.points[:, 1] - self.back.holes.points[:, 1]).max())
