"""Edges first: those that are buried or out of reach once the case is sewn, found on the pieces.

What lies outside the main seam is glued, sewn and then trued together, so it is finished last. What lies inside it,
mouths, the inner edge of a welt, a loop that grows out of the back, cannot be got at on both sides any more; nor can
the edges of a strap that is sewn on. Source: craft, "Prepare flat".
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import LineString, Polygon

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Fitted
from tailor.core.draft.piece import Finish, Piece, Role, Rule
from tailor.core.draft.stitch.sides import outline_of, outward, turned, way_out

NOT_LEATHER = ("card", "webbing", "foam")
EIGHTH = 8  # points of a stitch line that are enough to tell its sides by
PAST, FURTHER = 10.0, 500.0  # mm that a seam is thought to go on past its ends, as it ran, and then
UPRIGHT = 0.5  # share of a seam's last step that goes up, where it ends at the mouth
STEP = 1.0  # mm between the places that a straight edge is looked at
FAR = 1000.0  # mm: further than any case is wide
SHORT = 2.0  # mm: a run of edge not worth naming
ON_LINE = 0.05  # mm within which an edge lies on the line of its seam


def edges_first(draft: Fitted) -> Fitted:
    """The draft with the edges to be finished first marked on its pieces, and named."""
    seam = draft.seams[0]
    lead = next(p for p in draft.pieces if p.name in seam.pieces and p.stitch)
    way = way_out(lead.stitch[0][::EIGHTH], outline_of(lead, draft))
    pieces, named = [], list[Finish]()
    for piece in draft.pieces:
        runs = _runs(piece, draft, lead.stitch[0], way)
        pieces.append(replace(piece, rules=(*piece.rules, *(Rule("finish", run) for run in runs))))
        if runs:
            named.append(Finish(piece.name, _name(piece, draft)))
    return replace(draft, pieces=tuple(pieces), edges_first=tuple(named))


def _runs(piece: Piece, draft: Fitted, lead: Array, way: float) -> list[Array]:
    """The runs of a piece's edge that are finished first, (n, 2) each."""
    if piece.leather in NOT_LEATHER:
        return []
    if piece.role is Role.BLANK:  # its mouth is cut when it is dry, and finished then
        return [rule.points for rule in piece.rules if rule.kind == "mouth"]
    if piece.name not in draft.seams[0].pieces:  # a strap that is sewn on
        return [np.vstack([piece.cut, piece.cut[:1]])]
    lines = piece.stitch[:2] if piece.role is Role.BODY else piece.stitch[:1]
    ring = shapely.get_coordinates(shapely.segmentize(shapely.linearrings(piece.cut), STEP))[:-1]
    inside = np.logical_and.reduce([_inside(ring, line, way * turned(lead, line)) for line in lines])
    return _parts(ring, inside)


def _inside(points: Array, line: Array, way: float) -> NDArray[np.bool_]:
    """Which points lie on the object's side of a seam, its line carried on straight past its ends, (n,) bool."""
    first, last = _carried_on(line[0], line[0] - line[1]), _carried_on(line[-1], line[-1] - line[-2])
    inward = -outward(line, way).mean(axis=0)
    far = FAR * inward / np.hypot(*inward)
    ring = np.vstack([first[::-1], line, last, last[-1] + far, first[-1] + far])
    side = Polygon(ring).buffer(-ON_LINE, quad_segs=1)
    shapely.prepare(side)
    return np.asarray(shapely.contains_xy(side, *points.T))


def _carried_on(end: Array, step: Array) -> Array:
    """Two points past the end of a seam: past the mouth, and then straight up; or past the fold, straight on."""
    way = step / np.hypot(*step)
    past = end + PAST * way
    return np.array([past, past + FURTHER * (np.array([0.0, 1.0]) if way[1] > UPRIGHT else way)])


def _parts(ring: Array, inside: NDArray[np.bool_]) -> list[Array]:
    """The runs of a closed ring (n, 2) that are marked, each as one line."""
    if inside.all():
        return [np.vstack([ring, ring[:1]])]
    start = int(np.flatnonzero(~inside)[0])
    turn, ring = np.roll(inside, -start), np.roll(ring, -start, axis=0)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], turn.astype(int), [0]])))
    runs = [ring[a:b] for a, b in zip(edges[::2], edges[1::2], strict=True)]
    return [run for run in runs if len(run) > 1 and LineString(run).length > SHORT]


def _name(piece: Piece, draft: Fitted) -> str:
    if piece.role is Role.WELT:
        return "inner edge, buried between front and back"
    if piece.role is Role.BLANK:
        return "mouth, when it is dry and cut, before it is sewn"
    if piece.name not in draft.seams[0].pieces:
        return "all round, before it is sewn on"
    return "mouth and loop, out of reach once it is sewn" if draft.tab is not None else "mouth, out of reach once sewn"
