"""Lying: what is sewn on the back of a case lies where its stitches hold it, and its stitches where it comes to lie."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from shapely.geometry import box

from tailor.core.carried.loft import Array
from tailor.core.draft.fitted.faces import Face
from tailor.core.draft.piece import Piece, punched
from tailor.core.placed.lies import Bent, Laid, Lie, Patched, Placed
from tailor.core.placed.path import levelled
from tailor.core.placed.sewn import adrift, along, brought, sewn_on, slid, twisted

FAR = 1e4  # mm
ROUNDS = 4  # in which the stitches of an outer leg come to where they lie
ASIDE = np.array([1.0, 0.0])


@dataclass(frozen=True)
class StitchedDown:
    """A part held to the back by rows of stitches. lies: of the pieces there are. under: how thick the back is, mm.
    shape: as it is bent, besides going with the back from side to side. foot: places (n, 2) across
    it where it comes down without a seam, which meet a last row there. feet: it lies on the back beyond its first row
    and its last. level: with which radius its ends turn level beyond its rows, mm; 0 where they go on as they are.
    """

    part: Piece
    seams: Sequence[str]
    back: Face
    lies: Mapping[str, Lie]
    under: float
    shape: Bent = field(default_factory=Bent)
    foot: Array | None = None
    feet: bool = False
    level: float = 0.0

    @property
    def _own(self) -> list[Array]:
        own = [self.part.holes_of(seam, "tab") for seam in self.seams]
        return own if self.foot is None else [*own, self.foot]

    def lie(self, rows: Sequence[Array]) -> Lie | None:
        """Where the part lies that is sewn by rows as they are on the back, (n, 2) each; None where it is not told."""
        under = self.lies.get(self.back.piece)
        if under is None:
            return None
        placed = [under(row) for row in rows]
        own, lift = self._own, (self.part.thickness + self.under) / 2
        whole = Placed(*(np.vstack(side) for side in zip(*placed, strict=True)))
        across = along(own[0][:, 0], placed[0], lift)
        bent = replace(self.shape, across=levelled(across, self.level) if self.level else across)
        held = slid(sewn_on(bent, np.vstack(own), whole, lift), own, placed, lift)
        bridge = twisted(held, own, placed, lift)
        if not self.feet:
            return bridge
        high, low, turn = float(own[0][0, 1]), float(own[-1][0, 1]), _angle(rows[0]) - _angle(own[0])
        return Patched((
            (box(-FAR, high, FAR, FAR), _on(under, own[0], rows[0], lift, turn)),
            (box(-FAR, -FAR, FAR, low), _on(under, own[-1], rows[-1], lift, turn)),
        ), bridge)  # fmt: skip

    def sewn(self, rows: Sequence[Array], doubled: bool) -> tuple[list[Array], Piece, Lie | None]:
        """Where rows come to lie, seen from the front, the part, and how it lies. rows: as seen from the front, (n, 2)
        each. doubled: the part is folded over, and sewn through both its legs.
        """
        facing = self.settled([row[::-1] for row in rows])  # in the order that they have seen from behind
        on = self.back.strips(facing)
        lie, part = self.lie(on), self.part
        if lie is not None and doubled:
            part = _outer_leg(part, self.seams, lie, [self.lies[self.back.piece](row) for row in on])
        return facing, part, lie

    def settled(self, seen: Sequence[Array]) -> list[Array]:
        """Rows as seen from the front, each (n, 2), moved along the back to where those of the part come to lie,
        by where the first of them is.
        """
        rows = [np.asarray(row) for row in seen]
        under = self.lies.get(self.back.piece)
        if under is None:
            return rows

        def tried(by: Array) -> tuple[Array, list[Array]]:
            moved = [row + each for row, each in zip(rows, by, strict=True)]
            flat = self.back.strips(moved)
            lie = self.lie(flat)
            assert lie is not None
            off = np.array([adrift(lie(own), under(row))[:2] for own, row in zip(self._own, flat, strict=True)])
            return off - off[0], moved  # the first stays where it is

        return brought(tried, np.zeros((len(rows), 2)))[1]


def _outer_leg(piece: Piece, names: Sequence[str], lie: Lie, rows: Sequence[Placed]) -> Piece:
    """A folded tab whose outer leg has its stitches where the needle comes out that went in square to the back: on a
    back that bulges further apart. rows: the same stitches where they lie on the back.
    """
    for name, under in zip(names, rows, strict=True):
        outer = piece.holes_of(name, "turned")
        wider = outer.copy()
        for _ in range(ROUNDS):
            over = lie(wider)
            way = lie(wider + ASIDE).at - over.at
            off = over.at - under.at
            off -= (off * under.out).sum(axis=1, keepdims=True) * under.out
            wider[:, 0] -= (off * way).sum(axis=1) / (way * way).sum(axis=1)
        stitch = tuple(wider if np.array_equal(line, outer) else line for line in piece.stitch)
        others = tuple(h for h in piece.holes if (h.seam, h.edge) != (name, "turned"))
        holes = punched(name, "turned", wider, piece.holes[0].diameter)
        piece = replace(piece, stitch=stitch, holes=(*others, *holes))
    return piece


def _angle(row: Array) -> float:
    way = row[-1] - row[0]
    return float(np.arctan2(way[1], way[0]))


def _on(under: Lie, own: Array, row: Array, lift: float, turn: float) -> Laid:
    """A part laid on a piece by a row of its own that meets a row there. turn: of the one to the other, radians."""
    c, s = np.cos(turn), np.sin(turn)
    at = row.mean(axis=0) - own.mean(axis=0) @ np.array([[c, s], [-s, c]])
    return Laid(under, lift, (float(at[0]), float(at[1])), turn)
