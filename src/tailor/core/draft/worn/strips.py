"""Strips: straps, keepers, flaps and ties as they are cut, grain side up, their length upright."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from tailor.core import habit, measure
from tailor.core.carried.loft import Array
from tailor.core.draft.fitted.mouth import rounded
from tailor.core.draft.piece import Fitting, Hole, Mark, Piece, Rule, punched, title
from tailor.core.leather.fastenings import Fastening
from tailor.core.maker import Maker
from tailor.core.measure import Theme

MEASURES = (
    measure.length("tie.width", Theme.STRAP, "tie width", "width of a tie", 3, 40, usual=10.0),
    measure.length("tie.length", Theme.STRAP, "tie length", "length of a tie", 50, 2500, first=True),
)

NIPPED = 4.0  # mm: corners that would be sharp outside ones
QUARTER = np.linspace(0.0, np.pi / 2, 25)
HOLE = habit.bench("stud.hole", 0.82, 0.6, 0.95, "of a stud's head, that the hole is which goes over it", habit.SHARE)
SLIT = habit.bench(
    "stud.slit", 0.6, 0.3, 1.2, "of a stud's head, that the hole is slit by to let it through", habit.SHARE
)


@dataclass(frozen=True)
class Strip:
    """A straight strip about the line x = 0, from y = low to high, mm.

    tongue: how deep its upper end is rounded; its other corners are nipped. taper: how much wider each side is at the
    foot than where the tongue begins.
    """

    half: float
    low: float
    high: float
    tongue: float = 0.0
    taper: float = 0.0

    def outline(self) -> Array:
        """Its cut line, closed, counter-clockwise, (n, 2)."""
        foot, top = self.half + self.taper, self.high - self.tongue
        corners = np.array([(-foot, self.low), (foot, self.low), (self.half, top), (-self.half, top)])
        radius = min(NIPPED, self.half / 2, (self.high - self.low) / 4)
        parts = [rounded(corners[k], corners[k - 1], corners[(k + 1) % 4], radius) for k in range(2)]
        if self.tongue <= 0:
            parts += [rounded(corners[k], corners[k - 1], corners[(k + 1) % 4], radius) for k in (2, 3)]
            return np.vstack(parts)
        x, y = self.half * np.cos(QUARTER), top + self.tongue * np.sin(QUARTER)
        return np.vstack([*parts, np.column_stack([x, y]), np.column_stack([-x, y])[::-1][1:]])

    def piece(
        self, name: str, thickness: float, rows: Sequence[Array] = (), holes: tuple[Hole, ...] = (),
        fittings: tuple[Fitting, ...] = (), rules: tuple[Rule, ...] = (), openings: tuple[Array, ...] = (),
        count: int = 1, said: str = "", at: float = 0.0,
    ) -> Piece:  # fmt: skip
        """The strip as a piece. rows: lines of stitches on it. said: a further word. at: height of the words."""
        text, beside = title(name, count, thickness) + said, 0.45 * self.half
        if 2 * self.half > self.high - self.low:  # wider than it is long
            spots = (0.0, at, 0.0), (0.0, at - 7.0, 0.0), (0.0, at + 7.0)
        else:
            spots = (0.0, at, 90.0), (beside, at, 90.0), (-beside, at - 10.0)
        (x, y, turn), (u, v, level), (a, b) = spots
        words = (
            Mark("title", x, y, text, angle=turn), Mark("face", u, v, "grain side up", angle=level),
            Mark("top", a, b, "top", (a, b + 9.0 if turn == 0 else b + 18.0)),
        )  # fmt: skip
        return Piece(
            name, count, "body", thickness, "grain", self.outline(), stitch=tuple(rows), holes=holes, marks=words,
            fittings=fittings, rules=rules, openings=openings,
        )  # fmt: skip


def crosswise(names: Sequence[str], edge: str, across: Array, heights: Sequence[float], diameter: float,
              ) -> tuple[tuple[Array, ...], tuple[Hole, ...]]:  # fmt: skip
    """Rows of stitches straight across a strip, and their holes. across: places in a row; heights: one to a name."""
    rows = tuple(np.column_stack([across, np.full(len(across), v)]) for v in heights)
    holes = tuple(h for name, row in zip(names, rows, strict=True) for h in punched(name, edge, row, diameter))
    return rows, holes


def buttoned(maker: Maker, of: Fastening, x: float, y: float) -> tuple[Fitting, tuple[Rule, ...]]:
    """What closes a strap at a place: a snap's socket; or the hole that goes over a stud, slit towards its root."""
    if of.kind != "stud":
        return Fitting(of.name, x, y, of.hole, of.cap), ()
    hole = maker.habit(HOLE) * of.cap
    slit = np.array([(x, y - hole / 2), (x, y - hole / 2 - maker.habit(SLIT) * of.cap)])
    return Fitting(of.name, x, y, hole, of.cap), (Rule("slit", slit),)


def stadium(length: float, width: float, along: Array, middle: Array) -> Array:
    """A slot between two punched round ends: closed outline (n, 2), its ends on the line `along` (2,), mm."""
    turn = np.linspace(-np.pi / 2, np.pi / 2, 17)
    end = np.column_stack([np.cos(turn), np.sin(turn)]) * width / 2 + [(length - width) / 2, 0.0]
    ring = np.vstack([end, -end])
    way = np.asarray(along) / np.hypot(*along)
    return np.asarray(ring @ np.array([way, [-way[1], way[0]]]) + middle)
