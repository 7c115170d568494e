"""Fitted: rivets at the ends of a seam, and a drain at the tip, put on the pieces of a draft."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft, Hardware
from tailor.core.draft.fastening import Placed, Wanted, placed
from tailor.core.draft.piece import FLIP, Fitting, Piece
from tailor.core.draft.sides import outline_of, outward, turned, way_out
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
    leather = outline_of(first, draft)
    welt = LineString(holes).buffer(inset - rivet.hole / 2 - INSIDE)
    ends = [0] if isinstance(draft.shell, Panel) else [0, len(holes) - 1]
    way = way_out(holes, leather)
    spots = [holes[k] - 0.5 * inset * outward(holes, way)[k] for k in ends]
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
                    here = _spot(own, way * turned(holes, own), at, beyond, k)
                    pieces[n] = _with(pieces[n], rivet, here)
    names = ("mouth",) if len(ends) == 1 else ("mouth, right", "mouth, left")
    return pieces, [_told(rivet, name, spot, stack) for name, spot in zip(names, found, strict=True)]


def _drained(pieces: list[Piece], draft: Draft, grommet: Fastening) -> tuple[list[Piece], list[Hardware]]:
    """A grommet in the flat back, as near the tip as there is room between the welts."""
    case = draft.shell
    assert not isinstance(case, Panel)
    k = next(n for n, p in enumerate(pieces) if p.name == "back")
    back, way = pieces[k], FLIP
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


def _along(holes: Array, way: float, place: Array, end: int) -> tuple[float, float]:
    """How many stitches from an end a place lies along the seam, and how far out from it, mm."""
    run = holes if end == 0 else holes[::-1]
    step = float(np.hypot(*np.diff(run, axis=0).T).mean())
    line = LineString(np.vstack([run[0] + (run[0] - run[1]) * 8, run[1:]]))  # carried on straight past its end
    s = line.project(shapely.Point(place))
    foot = np.asarray(line.interpolate(s).coords[0])
    return s / step - 8, float((place - foot) @ outward(holes, way)[end])


def _spot(holes: Array, way: float, at: float, out: float, end: int) -> tuple[float, float]:
    """The place on another edge of the seam, as many stitches along and as far out."""
    run = holes if end == 0 else holes[::-1]
    k = int(np.clip(np.floor(at), 0, len(run) - 2))
    place = run[k] + (at - k) * (run[k + 1] - run[k]) + out * outward(holes, way)[end]
    return float(place[0]), float(place[1])
