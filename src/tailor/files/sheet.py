"""Sheet: the pieces of a draft laid side by side at true size, as every pattern file shows them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.piece import Mark, Piece, Rule

GAP = 12.0  # mm between pieces
LONGEST = 360.0  # mm of a strap that is drawn
SLENDER = 4.0  # times its width that a strap is long at the least
KEPT = 15.0  # mm of it left beside whatever is marked on it


@dataclass(frozen=True)
class Sheet:
    """Placed pieces, their points in sheet millimetres, x right and y up from the lower left corner."""

    pieces: tuple[Piece, ...]
    width: float
    height: float


def lay(pieces: Sequence[Piece]) -> Sheet:
    """The pieces in a row, feet level, GAP apart and GAP from the edges."""
    placed, x, height = [], GAP, 0.0
    for piece in pieces:
        low, high = piece.cut.min(axis=0), piece.cut.max(axis=0)
        placed.append(piece.moved(np.array([x, GAP]) - low))
        x += float(high[0] - low[0]) + GAP
        height = max(height, float(high[1] - low[1]))
    return Sheet(tuple(placed), x, height + 2 * GAP)


def shortened(piece: Piece, longest: float = LONGEST) -> Piece:
    """A long strap as it is drawn: its plain middle left out, and its true length written there.

    Its two ends are true. longest: mm of it that is drawn. Whatever has anything marked on its middle stays whole.
    """
    low, high = float(piece.cut[:, 1].min()), float(piece.cut[:, 1].max())
    if high - low <= max(longest, SLENDER * float(np.ptp(piece.cut[:, 0]))):
        return piece
    middle = (low + high) / 2
    fixed = [*piece.cut[:, 1], *(h.y for h in piece.holes), *(f.y for f in piece.fittings)]
    below, above = max(v for v in fixed if v <= middle), min(v for v in fixed if v > middle)
    begin, end = max(below + KEPT, low + longest / 2), min(above - KEPT, high - longest / 2)
    if end - begin < KEPT:
        return piece
    out = end - begin

    def drawn(points: Array) -> Array:
        down = np.clip(points[:, 1] - begin, 0.0, out)
        return np.column_stack([points[:, 0], points[:, 1] - down])

    half = float(np.abs(piece.cut[:, 0]).max()) + 2.0
    zigzag = np.array([(-half, 0.0), (-half / 4, 0.0), (0.0, 2.5), (half / 4, -2.5), (half / 2, 0.0), (half, 0.0)])
    breaks = tuple(Rule("break", zigzag + np.array([0.0, begin + v])) for v in (-1.5, 1.5))
    title = next(m for m in piece.marks if m.kind == "title")
    length = f"{title.text} · {high - low:.0f} mm long"
    beside = (low + begin) / 2 if begin - low > high - end else (begin + high - out) / 2  # where most of it is left
    words = tuple(_nearer(replace(m, text=length) if m is title else m, beside) for m in piece.marks)
    return replace(piece.mapped(drawn), rules=(*(replace(r, points=drawn(r.points)) for r in piece.rules), *breaks),
                   marks=words)  # fmt: skip


def _nearer(mark: Mark, y: float) -> Mark:
    """A mark brought to another height."""
    toward = None if mark.toward is None else (mark.toward[0], mark.toward[1] - mark.y + y)
    return replace(mark, y=y, toward=toward)
