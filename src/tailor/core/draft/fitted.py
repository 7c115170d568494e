"""Fitted: rivets at the ends of a seam, and a drain at the tip, put on the pieces of a draft."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import LinearRing, LineString, Polygon

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft, Hardware
from tailor.core.draft.fastening import Placed, Wanted, placed
from tailor.core.draft.piece import FLIP, Fitting, Piece
from tailor.core.leather.fastenings import FASTENINGS, Fastening
from tailor.core.settings import Settings
from tailor.core.shell.panel import Panel

NONE = "none"
GIVE = 16.0  # mm that a rivet at the end of a seam may be moved
DRAIN_GIVE = 25.0  # mm that a drain may be moved from the tip
INSIDE = 1.5  # mm of welt kept inside a rivet's hole
EDGES = ("front", "welt", "back")


def fitted(settings: Settings, draft: Draft) -> Draft:
    """The draft with the fastenings its settings ask for."""
    pieces, hardware = list(draft.pieces), list[Hardware]()
    if (name := settings.word("seam.rivets")) != NONE:
        pieces, more = _riveted(pieces, draft, FASTENINGS[name])
        hardware += more
    if (name := settings.word("back.drain")) != NONE and not isinstance(draft.shell, Panel) and draft.shell.flat_back:
        pieces, more = _drained(pieces, draft, FASTENINGS[name])
        hardware += more
    return replace(draft, pieces=tuple(pieces), hardware=(*draft.hardware, *hardware)) if hardware else draft


def _riveted(pieces: list[Piece], draft: Draft, rivet: Fastening) -> tuple[list[Piece], list[Hardware]]:
    """A rivet at each open end of the main seam, through all of its stack, in step on every piece."""
    first = next(p for p in pieces if len(p.holes_of("main", "front")))
    holes, inset = first.holes_of("main", "front"), draft.value("seam.stitch_inset")
    leather = Polygon(first.cut)
    if first.name == "template":  # a strip to mark by: the leather goes on inside it
        leather = Polygon(draft.plan.outline * (FLIP if draft.mirrored else 1.0)).buffer(0)
    welt = LineString(holes).buffer(inset - rivet.hole / 2 - INSIDE)
    ends = [0] if isinstance(draft.shell, Panel) else [0, len(holes) - 1]
    way = _way_out(holes, leather)
    spots = [holes[k] - 0.5 * inset * _outward(holes, way)[k] for k in ends]
    wanted = [Wanted(rivet, float(x), float(y), GIVE, welt) for x, y in spots]
    every = np.array([(h.x, h.y) for h in first.holes])
    found = placed(wanted, leather, every, draft.value("seam.hole"))
    stack = float(draft.profile.heights[0].sum())
    for k, spot in zip(ends, found, strict=True):
        if spot.place is None:
            continue
        at, beyond = _along(holes, way, np.array(spot.place), k)
        for n, piece in enumerate(pieces):
            for edge in EDGES:
                own = piece.holes_of("main", edge)
                if len(own) and not (edge == "back" and piece.name == "template"):  # one hole serves for both
                    here = _spot(own, way * _turned(holes, own), at, beyond, k)
                    pieces[n] = _with(pieces[n], rivet, here)
    names = ("mouth",) if len(ends) == 1 else ("mouth, right", "mouth, left")
    return pieces, [_told(rivet, name, spot, stack) for name, spot in zip(names, found, strict=True)]


def _drained(pieces: list[Piece], draft: Draft, grommet: Fastening) -> tuple[list[Piece], list[Hardware]]:
    """A grommet in the flat back, as near the tip as there is room between the welts."""
    case = draft.shell
    assert not isinstance(case, Panel)
    k = next(n for n, p in enumerate(pieces) if p.name == "back")
    back, way = pieces[k], np.ones(2) if draft.mirrored else FLIP
    x, y = np.array([case.ridge, case.loft.tip]) * way
    within = Polygon(draft.plan.welt * way).buffer(-grommet.cap / 2)
    holes = np.array([(h.x, h.y) for h in back.holes]).reshape(-1, 2)
    wanted = Wanted(grommet, float(x), float(y), DRAIN_GIVE, within)
    (spot,) = placed([wanted], Polygon(back.cut), holes, draft.value("seam.hole"))
    if spot.place is not None:
        pieces[k] = _with(back, grommet, spot.place)
    return pieces, [_told(grommet, "tip", spot, case.leather.thickness)]


def _told(fastening: Fastening, place: str, spot: Placed, stack: float) -> Hardware:
    y = spot.wanted.y if spot.place is None else spot.place[1]
    return Hardware(fastening.name, place, y, stack, fastening.post(stack), spot.place is not None, spot.moved)


def _with(piece: Piece, fastening: Fastening, at: tuple[float, float]) -> Piece:
    fitting = Fitting(fastening.name, float(at[0]), float(at[1]), fastening.hole, fastening.cap)
    return replace(piece, fittings=(*piece.fittings, fitting))


def _outward(holes: Array, way: float) -> Array:
    """At every hole the way square to the seam, to one side of it or the other, (n, 2)."""
    along = np.gradient(holes, axis=0)
    return np.asarray(way * along[:, ::-1] * [1.0, -1.0] / np.hypot(*along.T)[:, None])


def _way_out(holes: Array, leather: Polygon) -> float:
    """Which side of the seam its cut edge lies on: the nearer edge of the leather, taken all along."""
    sides = [
        shapely.distance(shapely.points(holes + _outward(holes, way)), leather.exterior).sum() for way in (1.0, -1.0)
    ]
    return 1.0 if sides[0] < sides[1] else -1.0


def _turned(holes: Array, other: Array) -> float:
    """-1 where one edge of a seam is the mirror image of the other, as on a piece that is turned over, else 1."""
    ways = [LinearRing(points).is_ccw for points in (holes, other)]
    return 1.0 if ways[0] == ways[1] else -1.0


def _along(holes: Array, way: float, place: Array, end: int) -> tuple[float, float]:
    """How many stitches from an end a place lies along the seam, and how far out from it, mm."""
    run = holes if end == 0 else holes[::-1]
    step = float(np.hypot(*np.diff(run, axis=0).T).mean())
    line = LineString(np.vstack([run[0] + (run[0] - run[1]) * 8, run[1:]]))  # carried on straight past its end
    s = line.project(shapely.Point(place))
    foot = np.asarray(line.interpolate(s).coords[0])
    return s / step - 8, float((place - foot) @ _outward(holes, way)[end])


def _spot(holes: Array, way: float, at: float, out: float, end: int) -> tuple[float, float]:
    """The place on another edge of the seam, as many stitches along and as far out."""
    run = holes if end == 0 else holes[::-1]
    k = int(np.clip(np.floor(at), 0, len(run) - 2))
    place = run[k] + (at - k) * (run[k + 1] - run[k]) + out * _outward(holes, way)[end]
    return float(place[0]), float(place[1])
