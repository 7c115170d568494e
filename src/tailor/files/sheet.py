"""Sheet: the pieces of a draft laid side by side at true size, as every pattern file shows them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.piece import Piece

GAP = 12.0  # mm between pieces


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
        placed.append(moved(piece, np.array([x, GAP]) - low))
        x += float(high[0] - low[0]) + GAP
        height = max(height, float(high[1] - low[1]))
    return Sheet(tuple(placed), x, height + 2 * GAP)


def moved(piece: Piece, by: Array) -> Piece:
    """The piece moved by (2,) mm."""
    dx, dy = map(float, by)
    return replace(
        piece,
        cut=piece.cut + by,
        trim=None if piece.trim is None else piece.trim + by,
        folds=tuple(f + by for f in piece.folds),
        stitch=tuple(s + by for s in piece.stitch),
        holes=tuple(replace(h, x=h.x + dx, y=h.y + dy) for h in piece.holes),
        fittings=tuple(replace(f, x=f.x + dx, y=f.y + dy) for f in piece.fittings),
        rules=tuple(replace(r, points=r.points + by) for r in piece.rules),
        marks=tuple(
            replace(m, x=m.x + dx, y=m.y + dy, toward=(m.toward[0] + dx, m.toward[1] + dy) if m.toward else None)
            for m in piece.marks
        ),
    )
