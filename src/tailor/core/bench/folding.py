"""Folding: how leather is bent over where it is folded, by the maker's school, and why.

Source: craft, "Numbers" (folds) and "Where makers disagree".
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from tailor.core.bench.labour import METRE, length
from tailor.core.bench.schools import School
from tailor.core.bench.steps import DAMP, KNIFE, Doing
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Piece, Role

BEND, AWAY = 3.0, 8.0  # minutes: to bend one fold, and to take leather away along a metre of it
SHORT, EITHER = 0.5, 3  # of the longest fold, what is creased; holes on either side that are shut by it
CHANNEL, SKIVED = 0.4, 0.5  # share of thickness that a gouge takes, and that is left where it is skived


def folded(piece: Piece) -> bool:
    """Whether a piece of leather is folded."""
    return bool(piece.folds) and piece.role is not Role.TEMPLATE and piece.leather == "body"


def sharp(piece: Piece) -> list[Array]:
    """The folds that are creased: a tongue's own, which bends round something, is short beside them."""
    longest = max((length(line) for line in piece.folds), default=0.0)
    return [line for line in piece.folds if length(line) >= SHORT * longest]


def shuts(piece: Piece, seam: str, flange: float) -> bool:
    """Whether a seam shuts what is folded of a piece: it has holes on either side of a fold; or all along a fold, no
    further from it than a flange is wide, mm.
    """
    holes = np.array([(hole.x, hole.y) for hole in piece.holes if hole.seam == seam])
    if not len(holes):
        return False
    for a, b in (line[[0, -1]] for line in sharp(piece)):
        beside = (b[0] - a[0]) * (holes[:, 1] - a[1]) - (b[1] - a[1]) * (holes[:, 0] - a[0])
        if min((beside > 0).sum(), (beside < 0).sum()) >= EITHER:
            return True
        if np.median(np.abs(beside)) <= flange * np.hypot(*(b - a)):
            return True
    return False


def fold(made: Draft, piece: Piece, school: School, cased: int) -> Iterator[tuple[Doing, str, int]]:
    """Steps that fold a piece: each, why it follows, and how many minutes after what is before it. cased: minutes until
    damp leather has its colour again.
    """
    name, mine = piece.name, (piece.name,)
    lines = sharp(piece)
    many, metres = len(lines), sum(length(line) for line in lines) / METRE
    radius = made.value("leather.fold_radius") if "leather.fold_radius" in made.reasons else 0.5
    rod = f"over a rod of {2 * radius * piece.thickness:.1f} mm"
    count = f"{many} fold{'s' * (many > 1)}, {metres:.2f} m"
    flat = "all that is done to it flat is done"
    bend = Doing(f"fold {name}", f"fold {name}", mine, BEND * many, count, look="it lies shut without a wrinkle",
                 places=("fold",), tools=rod)  # fmt: skip
    if school.fold == "wet":
        yield Doing(f"fold damp {name}", f"damp {name} along its fold", mine, DAMP, count, places=("fold",)), flat, 0
        yield bend, "until it returns to its colour", cased
        return
    depth = CHANNEL if school.fold == "gouged" else 1 - SKIVED
    verb = "gouge" if school.fold == "gouged" else "skive"
    yield Doing(f"fold thin {name}", f"{verb} {name} along its fold", mine, AWAY * metres, count, caution=KNIFE,
                look="one depth, and none through", places=("fold",),
                tools=f"{depth * piece.thickness:.1f} mm deep, on the flesh side"), flat, 0  # fmt: skip
    yield bend, "it turns where it is thin", 0
