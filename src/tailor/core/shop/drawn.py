"""Pieces of leather as they are seen at the bench and in the log: laid beside each other, with the places on them."""

from __future__ import annotations

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.piece import Piece, Role
from tailor.core.packing import filling
from tailor.core.shop.agenda import Seen

ASPECT, APART = 1.6, 12.0  # of the board that pieces are laid on, and mm between them


def drawn(pieces: tuple[Piece, ...]) -> tuple[Seen, ...]:
    """Pieces of leather laid beside each other, with the places on them where work is done."""
    found = [piece for piece in pieces if piece.role is not Role.TEMPLATE]
    lows = np.array([piece.cut.min(axis=0) for piece in found])
    sizes = np.array([np.ptp(piece.cut, axis=0) for piece in found]) + APART
    return tuple(_seen(piece, at - low) for piece, at, low in zip(found, filling(sizes, ASPECT), lows, strict=True))


def _seen(piece: Piece, by: Array) -> Seen:
    holes = dict[str, list[tuple[float, float]]]()
    for hole in piece.holes:
        holes.setdefault(hole.seam, []).append((hole.x, hole.y))
    for fitting in piece.fittings:
        holes.setdefault(fitting.place or fitting.name, []).append((fitting.x, fitting.y))
    kinds = dict.fromkeys(rule.kind for rule in piece.rules)
    lines = {kind: tuple(rule.points + by for rule in piece.rules if rule.kind == kind) for kind in kinds}
    if piece.folds:
        lines["fold"] = tuple(line + by for line in piece.folds)
    dots = {place: np.array(points) + by for place, points in holes.items()}
    return Seen(piece.name, piece.cut + by, tuple(ring + by for ring in piece.openings), dots, lines)
