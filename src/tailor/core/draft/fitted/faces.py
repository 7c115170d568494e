"""Faces: the front and the back of a made-up case, as parts are put on them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import singledispatch

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft, Fitted
from tailor.core.draft.piece import FLIP, Piece, punched
from tailor.core.shell.panel import Panel

FINE = 33  # places along a row by which its length on a piece is told
FEET = ("keeper.foot", "flap.foot", "strap.foot")  # how far below the mouth what is sewn there reaches


@dataclass(frozen=True)
class Face:
    """One side of a case. piece: the name of the piece it is made of.

    flat: points seen from the front (n, 2) to where they lie on that piece. out: how far the grain face there stands
    out from the object's middle plane, (n,), mm. lift: from there to the middle of leather that lies on it, mm.
    """

    piece: str
    flat: Callable[[Array], Array]
    out: Callable[[Array], Array]
    lift: float

    def each(self, rows: Sequence[Array]) -> tuple[Array, ...]:
        """Several rows of points seen from the front, laid on the piece at once: far quicker than one by one."""
        ends = np.cumsum([len(row) for row in rows])[:-1]
        return tuple(np.split(self.flat(np.vstack(rows)), ends))

    def strips(self, rows: Sequence[Array]) -> tuple[Array, ...]:
        """Rows across flat strips, each (n, 2) as seen from the front, as they are sewn on the piece.

        A back that is not flat is longer than it looks, and what lies on it longer still; the strip is not, and its
        stitches stay as far apart.
        """
        dense = [_dense(row) for row in rows]
        flats = self.each(dense)
        outs = np.split(self.out(np.vstack(dense)), np.cumsum([len(row) for row in dense])[:-1])
        return tuple(
            self.flat(row) if len(row) < 2 else _as_long(row, line, flat, self.lift, out)
            for row, line, flat, out in zip(rows, dense, flats, outs, strict=True)
        )

    def rowed(self, piece: Piece, names: Sequence[str], rows: Sequence[Array], diameter: float, edge: str = "back",
              ) -> Piece:  # fmt: skip
        """A piece with rows of stitches on it, each (n, 2) as seen from the front, if it is the one of this face."""
        if piece.name != self.piece:
            return piece
        flat = self.strips(rows)
        holes = tuple(h for n, row in zip(names, flat, strict=True) for h in punched(n, edge, row, diameter))
        return replace(piece, stitch=(*piece.stitch, *flat), holes=(*piece.holes, *holes))


def _dense(row: Array) -> Array:
    """More places along a row, (n, 2), from its first to its last."""
    if len(row) < 2:
        return row
    at = np.linspace(0, len(row) - 1, FINE)
    return np.column_stack([np.interp(at, np.arange(len(row)), row[:, k]) for k in (0, 1)])


def _as_long(row: Array, line: Array, flat: Array, lift: float, out: Array) -> Array:
    """A row as it lies on a piece (n, 2), its places moved along until what lies on that is as long from its middle to
    each as the row is. line: (m, 2) places along it; flat: where those lie on the piece; out: how far its grain stands
    out there, (m,); lift: from there to the middle of what lies on it.
    """
    own, along = (np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(way, axis=0).T))]) for way in (row, line))
    lean = np.arctan(np.gradient(out, along))
    over = np.column_stack([along - lift * np.sin(lean), out + lift * np.cos(lean)])
    on = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(over, axis=0).T))])
    at = own + (on[-1] - own[-1]) / 2
    return np.column_stack([np.interp(at, on, flat[:, k]) for k in (0, 1)])


@singledispatch
def faces(draft: Draft) -> Mapping[str, Face]:
    """The faces that parts may lie on, by side: none on a thing of flat panels."""
    return {}


@faces.register
def _(draft: Fitted) -> Mapping[str, Face]:
    return {side: face(draft, side) for side in ("front", "back")}


def face(draft: Fitted, side: str) -> Face:
    """The front or the back of a case drawn for the right hand."""
    if isinstance(draft.shell, Panel):
        return _folded(draft, draft.shell, side)
    case, way = draft.shell, FLIP if side == "back" else np.ones(2)
    lift = case.leather.offset
    skin = case.leather.thickness - lift
    if side == "back" and case.flat_back:
        plane = case.plane + case.leather.thickness
        return Face("back", lambda seen: np.asarray(seen * way), lambda seen: np.full(len(seen), plane), lift)
    panel = draft.formed[0 if side == "front" else -1]

    def out(seen: Array) -> Array:
        return np.asarray(panel.at(panel.spot(seen), panel.places)[:, 2] - case.plane + skin)

    name = side if case.moulding.taut else f"{side} blank"
    return Face(name, lambda seen: np.asarray(panel.to_flat(seen) * way), out, lift)


def _folded(draft: Fitted, case: Panel, side: str) -> Face:
    """A half of a folded sheet: shorter, row by row, by what the leather gives in moulding."""
    skin = case.leather.thickness - case.leather.offset
    eased = case.eased(case.rows)[0 if side == "front" else 1]
    path = case.wrapped.side(side).length_to(draft.standoff.x_welt + draft.value("seam.stitch_inset")) - eased
    left, way = 1 - eased / np.maximum(path, 1e-9), 1.0 if side == "front" else -1.0

    def laid(seen: Array) -> Array:
        panel = draft.formed[0 if side == "front" else -1]
        return np.asarray(panel.to_flat(seen) * [way, 1.0])

    def rowed(seen: Array) -> Array:
        whole = case.to_flat(seen, side)
        return np.column_stack([way * whole[:, 0] * np.interp(seen[:, 1], case.rows, left), whole[:, 1]])

    def out(seen: Array) -> Array:
        line = case.line_at(seen[:, 1], side)
        return np.asarray(line.point_at(line.length_to(seen[:, 0]))[:, 1] + skin)

    return Face("body", laid if case.whole and draft.formed else rowed, out, case.leather.offset)


def top_of(draft: Fitted) -> float:
    """Height on the back above which straps are sewn on already; else the mouth, mm."""
    taken = [r.value for name, r in draft.reasons.items() if name in FEET]
    return draft.value("mouth.y") - sum(taken)
