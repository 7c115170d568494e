"""Reach: what room a seam or a fastening has on either side when its turn comes, told by the leather that is there."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from tailor.core.placed.lies import Placed
from tailor.core.together.assembled import Assembled
from tailor.core.together.crossed import Crossed, crossed
from tailor.core.together.order import Step

LOOKED = 9  # places along a seam
FREE = 80.0  # mm: a hand goes in, and nothing is in its way


class Way(StrEnum):
    """What holds, and so what has to reach it: awl and needles, setter and anvil, or neither."""

    SEWN = "sewn"
    SET = "set"
    HUNG = "hung"


@dataclass(frozen=True)
class Reach:
    """by: a seam or a fastening. front, back: room over the piece that comes, and under it, before leather that does
    not lie on it there, where that is least, mm; without end where a hand goes in. beside: whose that is.
    """

    by: str
    way: Way
    front: float = np.inf
    back: float = np.inf
    beside: tuple[str, ...] = ()

    @property
    def said(self) -> str:
        """What room there is, where a hand does not go in; else ""."""
        rooms = [f"{room:.0f} mm {where}" for room, where in ((self.front, "before it"), (self.back, "behind it"))
                 if np.isfinite(room)]  # fmt: skip
        return f"{' and '.join(rooms)}, to the {' and the '.join(self.beside)}" if rooms else ""


def reached(whole: Assembled, steps: Sequence[Step]) -> tuple[tuple[Reach, ...], ...]:
    """Of each step what holds its piece, and what room that has there and then."""
    there, found = list[str](), []
    for step in steps:
        there.append(step.piece)
        about = there
        if step.host:  # apart from the rest, with what else is put on that
            about = [step.host, *(each.piece for each in steps[: len(there)] if each.host == step.host)]
        found.append(tuple(_reach(whole, about, step.piece, by) for by in step.seams))
    return tuple(found)


def _reach(whole: Assembled, there: Sequence[str], piece: str, by: str) -> Reach:
    way, placed = _held(whole, (piece, *reversed(there[:-1])), by)
    if placed is None:
        return Reach(by, Way.HUNG)
    sheets = {name: whole.sheets[name] for name in there}
    rooms = [_room(whole, met) for met in crossed(sheets, placed.at, placed.out, 2 * FREE)]
    sides = [min(side, key=lambda each: each[0]) for side in zip(*rooms, strict=True)]
    front, back = (room if room < FREE else np.inf for room, _ in sides)
    return Reach(by, way, front, back, tuple(dict.fromkeys(name for room, name in sides if room < FREE)))


def _held(whole: Assembled, pieces: Collection[str], by: str) -> tuple[Way, Placed | None]:
    """How a seam or fastening holds, and where it goes through the first of some pieces that has holes for it."""
    for name in pieces:
        piece = whole.pieces[name]
        for way, holes in ((Way.SEWN, [(h.x, h.y) for h in piece.holes if h.seam == by]), (Way.SET, [
            (f.x, f.y) for f in piece.fittings if f.place == by])):  # fmt: skip
            if holes:
                return way, whole.lies[name](np.array(holes)[:: max(len(holes) // LOOKED, 1)])
    return Way.HUNG, None


def _room(whole: Assembled, met: Sequence[Crossed]) -> tuple[tuple[float, str], tuple[float, str]]:
    """Room before the layers that are sewn, and behind them, to which piece: without end where there is none, mm."""
    if not met:
        return (np.inf, ""), (np.inf, "")
    under, layers, over = whole.stacked(met)

    def between(one: Crossed, other: Crossed) -> float:
        return other[0] - one[0] - (whole.sheets[one[1]].thickness + whole.sheets[other[1]].thickness) / 2

    front = (between(layers[-1], over[0]), over[0][1]) if over else (np.inf, "")
    return front, (between(under[-1], layers[0]), under[-1][1]) if under else (np.inf, "")
