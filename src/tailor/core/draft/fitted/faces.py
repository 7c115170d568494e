"""Faces: the front and the back of a made-up case, as parts are put on them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Fitted
from tailor.core.draft.piece import FLIP, Piece, punched
from tailor.core.shell.panel import Panel

FEET = ("keeper.foot", "flap.foot", "strap.foot")  # how far below the mouth what is sewn there reaches


@dataclass(frozen=True)
class Face:
    """One side of a case. piece: the name of the piece it is made of.

    flat: points seen from the front (n, 2) to where they lie on that piece. out: how far the grain face there stands
    out from the object's middle plane, (n,), mm.
    """

    piece: str
    flat: Callable[[Array], Array]
    out: Callable[[Array], Array]

    def each(self, rows: Sequence[Array]) -> tuple[Array, ...]:
        """Several rows of points seen from the front, laid on the piece at once: far quicker than one by one."""
        ends = np.cumsum([len(row) for row in rows])[:-1]
        return tuple(np.split(self.flat(np.vstack(rows)), ends))

    def strips(self, rows: Sequence[Array]) -> tuple[Array, ...]:
        """Rows across flat strips, each (n, 2) as seen from the front, as they are sewn on the piece.

        A back that is not flat is longer than it looks; the strip is not, and its stitches stay as far apart.
        """
        return tuple(_as_long(row, flat) for row, flat in zip(rows, self.each(rows), strict=True))

    def rowed(self, piece: Piece, names: Sequence[str], rows: Sequence[Array], diameter: float, edge: str = "back",
              ) -> Piece:  # fmt: skip
        """A piece with rows of stitches on it, each (n, 2) as seen from the front, if it is the one of this face."""
        if piece.name != self.piece:
            return piece
        flat = self.strips(rows)
        holes = tuple(h for n, row in zip(names, flat, strict=True) for h in punched(n, edge, row, diameter))
        return replace(piece, stitch=(*piece.stitch, *flat), holes=(*piece.holes, *holes))


def _as_long(row: Array, flat: Array) -> Array:
    """A row as it lies on a piece (n, 2), its places moved along until they are as far from its middle as in `row`."""
    if len(row) < 2:
        return flat
    own, on = (np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))]) for line in (row, flat))
    first, last = flat[0] - flat[1], flat[-1] - flat[-2]
    ends = own[-1] * np.array([first / np.hypot(*first), last / np.hypot(*last)])
    line = np.vstack([flat[0] + ends[0], flat, flat[-1] + ends[1]])
    along = np.concatenate([[-own[-1]], on, [on[-1] + own[-1]]])
    at = own + (on[-1] - own[-1]) / 2
    return np.column_stack([np.interp(at, along, line[:, k]) for k in (0, 1)])


def face(draft: Fitted, side: str) -> Face:
    """The front or the back of a case drawn for the right hand."""
    if isinstance(draft.shell, Panel):
        return _folded(draft, draft.shell, side)
    case, way = draft.shell, FLIP if side == "back" else np.ones(2)
    skin = case.leather.thickness - case.leather.offset
    if side == "back" and case.flat_back:
        plane = case.plane + case.leather.thickness
        return Face("back", lambda seen: np.asarray(seen * way), lambda seen: np.full(len(seen), plane))
    panel = draft.formed[0 if side == "front" else -1]
    return Face(side if case.moulding.taut else f"{side} blank", lambda seen: np.asarray(panel.to_flat(seen) * way),
        lambda seen: np.asarray(panel.at(panel.spot(seen), panel.places)[:, 2] - case.plane + skin))  # fmt: skip


def _folded(draft: Fitted, case: Panel, side: str) -> Face:
    """A half of a folded sheet: shorter, row by row, by what the leather gives in moulding."""
    skin = case.leather.thickness - case.leather.offset
    eased = case.eased(case.rows)[0 if side == "front" else 1]
    path = case.wrapped.side(side).length_to(draft.standoff.x_welt + draft.value("seam.stitch_inset")) - eased
    left, way = 1 - eased / np.maximum(path, 1e-9), 1.0 if side == "front" else -1.0

    def flat(seen: Array) -> Array:
        whole = case.to_flat(seen, side)
        return np.column_stack([way * whole[:, 0] * np.interp(seen[:, 1], case.rows, left), whole[:, 1]])

    def out(seen: Array) -> Array:
        line = case.wrap(seen[:, 1]).side(side)
        return np.asarray(line.point_at(line.length_to(seen[:, 0]))[:, 1] + skin)

    return Face("body", flat, out)


def top_of(draft: Fitted) -> float:
    """Height on the back above which straps are sewn on already; else the mouth, mm."""
    taken = [r.value for name, r in draft.reasons.items() if name in FEET]
    return draft.value("mouth.y") - sum(taken)
