"""Hands on zones: their ends are dragged, and new ones drawn, in the gutter beside the object."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QPointF

from tailor.core.carried.zones import Zone, ZoneKind
from tailor.desk.readings import told

if TYPE_CHECKING:
    from tailor.desk.board import Board

NEAR = 7  # px within which an end can be taken hold of
GUTTER = 2.0, 60.0  # mm from the object where a new zone is drawn
LEAST = 1.0  # mm: a shorter stroke draws nothing


class Zoning:
    """What a hand does to zones on the board. kind: what a new one is."""

    def __init__(self, board: Board) -> None:
        self.board = board
        self.kind = ZoneKind.EDGE

    def under(self, at: QPointF) -> str | None:
        """What of a zone lies under a place on the screen: an end, or the gutter where a new one begins."""
        board, scene = self.board, self.board.scene
        if scene is None or not scene.outlines or board.laid_flat or not board.stage.bare:
            return None
        now = [zone.kind.value for zone in board.bench.job.zones]
        for i, kind, x, low, high in scene.zones:
            if kind not in now[i : i + 1]:
                continue  # what is drawn is of a job that it is no more
            for end, y in (("low", low), ("high", high)):
                spot = board.to_screen(x, y)
                if abs(spot.x() - at.x()) < 10 and abs(spot.y() - at.y()) < NEAR:
                    return f"zone {i} {end}"
        if board.bench.made is None:
            return None
        mm, thing = board.to_mm(at), scene.outlines[0]
        out = mm.x() - thing[:, 0].max() if board.bench.made.mirrored else thing[:, 0].min() - mm.x()
        level = thing[:, 1].min() - 3 < mm.y() < thing[:, 1].max() + 3
        return "gutter" if GUTTER[0] < out < GUTTER[1] and level else None

    def drag(self, held: str, start: float, y: float) -> str | None:
        """Take hold's zone end to a height, or draw a new zone from where it began; what is held from now on: nothing,
        where the zone is gone meanwhile.
        """
        bench = self.board.bench
        loft = bench.job.loft
        y = round(min(max(y, loft.tip), loft.top), 1)
        zones = list(bench.job.zones)
        if held == "gutter":
            start = round(min(max(start, loft.tip), loft.top), 1)
            if abs(y - start) < LEAST:
                return held
            zones.append(Zone(self.kind, min(start, y), max(start, y)))
            number, end = len(zones) - 1, "high" if y > start else "low"
            held, name = f"zone {number} {end}", f"draw {self.kind}"
        else:
            _, number_, end = held.split()
            number = int(number_)
            if number >= len(zones):
                return None
            try:
                moved: dict[str, Any] = {end: y}
                zones[number] = replace(zones[number], **moved)
            except ValueError as error:
                self.board.refused.emit(told(str(error), bench.job.units))
                return held
            name = f"move {zones[number].kind}"
        bench.change(name, replace(bench.job, zones=tuple(zones)), joins=f"zone {number}")
        return held
