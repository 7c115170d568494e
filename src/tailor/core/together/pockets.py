"""Pockets: what is sewn on a piece and left open along one edge, told by its flat pieces alone."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely

from tailor.core.carried.loft import Array
from tailor.core.draft.piece import Piece
from tailor.core.placed.fanned import Bowed
from tailor.core.placed.lies import Laid, Lie, Patched, Seated

STEP = 1.0  # mm between the places an edge is looked at
NEXT = 2.5  # times the usual way from hole to hole, beyond which there is no stitch between them
OPEN = 20.0  # mm: a shorter open edge lets nothing in
STRAIGHT = 1.3  # times the way from end to end, that an open edge may be long: a strap's is far longer
FAR = 2e3  # mm


@dataclass(frozen=True)
class Pocket:
    """One open edge. piece: whose; width: of the edge, deep: from its middle square down to the stitches, mm."""

    piece: str
    width: float
    deep: float


def pockets(pieces: dict[str, Piece], lies: dict[str, Lie]) -> Iterator[Pocket]:
    """The pockets of pieces that lie on others, or stand open on them; none of what is pressed round a tool."""
    for name, lie in lies.items():
        opens = isinstance(lie, Seated) and isinstance(lie.own, Bowed | Patched)
        if (isinstance(lie, Laid) or opens) and pieces[name].holes:
            yield from _of(pieces[name])


def _of(piece: Piece) -> Iterator[Pocket]:
    rows = _stitched(piece)
    if rows.is_empty:
        return
    outline = shapely.Polygon(piece.cut)
    holes = np.array([(h.x, h.y) for h in piece.holes])
    margin = float(np.median(shapely.distance(outline.exterior, shapely.points(holes))))
    ring = shapely.get_coordinates(shapely.segmentize(outline.exterior, STEP))[:-1]
    beside = 2.0 * margin + STEP
    free = shapely.distance(rows, shapely.points(ring)) > beside
    if free.all() or not free.any():
        return
    first = int(np.flatnonzero(~free)[0])
    ring, free = np.roll(ring, -first, axis=0), np.roll(free, -first)
    ends = np.flatnonzero(np.diff(np.concatenate([[0], free.astype(int), [0]])))
    for a, b in zip(ends[::2], ends[1::2], strict=True):
        run = ring[a:b]
        across = float(np.hypot(*(run[-1] - run[0])))
        width = across + 2 * float(np.sqrt(beside**2 - margin**2))
        deep = _deep(run, outline, rows) if STEP * len(run) < STRAIGHT * across else None
        if width > OPEN and deep is not None:
            yield Pocket(piece.name, width, deep)


def _stitched(piece: Piece) -> shapely.MultiLineString:
    """The rows of stitches on a piece."""
    lines = list[Array]()
    for seam, edge in dict.fromkeys((h.seam, h.edge) for h in piece.holes):
        at = piece.holes_of(seam, edge)
        away = np.hypot(*np.diff(at, axis=0).T)
        if len(away):
            lines += [part for part in np.split(at, np.flatnonzero(away > NEXT * np.median(away)) + 1) if len(part) > 1]
    return shapely.MultiLineString([line.tolist() for line in lines])


def _deep(run: Array, outline: shapely.Polygon, rows: shapely.MultiLineString) -> float | None:
    """How far it is from the middle of an open edge square across the piece to stitches; None where there are none."""
    way = run[-1] - run[0]
    inward = np.array([-way[1], way[0]]) / max(float(np.hypot(*way)), 1e-9)
    middle = run[len(run) // 2]
    if not outline.contains(shapely.Point(middle + STEP * inward)):
        inward = -inward
    met = shapely.LineString([middle, middle + FAR * inward]).intersection(rows)
    return None if met.is_empty else float(shapely.distance(met, shapely.Point(middle)))
