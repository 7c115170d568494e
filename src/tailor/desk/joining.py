"""Hands on flat pieces: a pocket is sewn on the one under the hand; edges of traced panels are joined."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import shapely

from tailor.core.carried.traced import runs
from tailor.core.draft.draft import Draft
from tailor.core.draft.parts.attached import PATCHES
from tailor.core.errors import InputError
from tailor.desk.zoning import NEAR

if TYPE_CHECKING:
    from tailor.desk.board import Board


class Joining:
    """What a hand sews together on the board."""

    def __init__(self, board: Board) -> None:
        self.board = board
        self._first: str | None = None  # edge of a traced panel, to be sewn to another

    def sew_on(self) -> None:
        """Sew a pocket on the piece under the hand; or take that off, where it is one."""
        board, made, scene = self.board, self.board.bench.made, self.board.scene
        if made is None or scene is None:
            return
        at = board.to_mm(board.hand)
        for piece in made.pieces:
            shift = np.array([scene.shifts[piece.name], scene.lifts[piece.name]])
            if shapely.Polygon(piece.cut + shift).contains(shapely.Point(at.x(), at.y())):
                self._sew_on(made, piece.name)
                return
        board.refused.emit("Put the mouse over a piece to sew a pocket on it.")

    def _sew_on(self, made: Draft, name: str) -> None:
        """Sew a pocket on a piece by its name; what was sewn on already is taken off itself."""
        bench = self.board.bench
        own = next((slot for slot, added in made.added.items() if added == name), None)
        free = next((s for s in PATCHES if bench.job.settings.word(f"{s}.on") == "none"), None)
        if own is not None:
            bench.type(f"{own}.on", "none", f"{name} taken off")
        elif free is not None:
            bench.type(f"{free}.on", name, f"pocket on the {name}")
        else:
            self.board.refused.emit(
                f"{len(PATCHES)} things are sewn on already. Take one off: put the mouse on it, press P."
            )

    def join_edge(self) -> None:
        """Take the edge of a traced panel under the hand; the second joins it to the first, the same again parts it."""
        board, bench = self.board, self.board.bench
        job, said = bench.job, self._edge_under()
        if said is None:
            board.refused.emit("Put the mouse on the edge of a traced panel to sew it to another.")
        elif (seam := job.traced.holding(said)) is not None:
            bench.change(f"part {seam.name}", job.sewn(seam.name, ()))
        elif self._first in (None, said):
            self._first = said
            board.told.emit(f"{said}: now put the mouse on the edge it is sewn to, and press E.")
        else:
            first, self._first = str(self._first), None
            try:
                bench.change(f"sew {first} to {said}", job.sewn(job.traced.unused(), (first, said)))
            except InputError as error:  # the first edge's panel has gone since
                board.refused.emit(str(error))

    def _edge_under(self) -> str | None:
        """The edge of a traced panel that the mouse is on."""
        board, made, scene = self.board, self.board.bench.made, self.board.scene
        if made is None or scene is None:
            return None
        at, way = board.to_mm(board.hand), -1.0 if made.mirrored else 1.0
        near = dict[str, float]()
        for panel in board.bench.job.traced.panels:
            if panel.name in scene.shifts:
                x, y = (at.x() - scene.shifts[panel.name]) * way, at.y() - scene.lifts[panel.name]
                for k, run in enumerate(runs(panel), 1):
                    near[f"{panel.name} {k}"] = float(np.hypot(*(run - [x, y]).T).min())
        said = min(near, key=lambda name: near[name], default=None)
        return said if said is not None and near[said] * board.view.m11() < 3 * NEAR else None
