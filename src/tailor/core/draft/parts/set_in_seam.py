"""Fitted: rivets at the ends of a seam, and a drain at the tip, put on the pieces of a draft."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
from shapely.geometry import LineString, Polygon

from tailor.core import measure
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Fitted, Hardware
from tailor.core.draft.part import Part
from tailor.core.draft.piece import FLIP, Fitting, Piece, Role
from tailor.core.draft.stitch.fastening import Placed, Wanted, placed
from tailor.core.draft.stitch.sides import outline_of, outward, turned, way_out
from tailor.core.leather.fastenings import Fastening
from tailor.core.measure import Along, Theme
from tailor.core.settings import Settings
from tailor.core.shell.panel import Panel


def _flat_back(job: Any, made: Any) -> bool:
    return not made.folds and made.shell.plane > 0


MEASURES = (
    measure.pick("seam.rivets", Theme.FASTENING, "rivets", "set at the open ends of the seam", "none", ("none",),
        stock=("rivet", "screw"), first=True, at=(Along.SEAM, 0.03)),
    measure.pick("back.drain", Theme.FASTENING, "drain", "drain in a flat back, at the tip", "none", ("none",),
        stock=("grommet",), at=(Along.SEAM, 0.93), applies=_flat_back),
    measure.pick("seam.lanyard", Theme.FASTENING, "lanyard", "a grommet at the toe of the seam, for a lanyard", "none",
        ("none",), stock=("grommet",), at=(Along.SEAM, 0.97)),
)  # fmt: skip

NONE = "none"
GIVE = 16.0  # mm that a rivet at the end of a seam may be moved
DRAIN_GIVE = 25.0  # mm that a drain may be moved from the tip
LEVEL = 0.5  # mm within which holes at the foot lie as low as each other
LACKS = 0.1  # mm nearer to the edge than asked, which nobody would tell
INSIDE = 1.5  # mm of welt kept inside a rivet's hole
EIGHTH = 8  # points of a stitch line that are enough to tell its sides by
BEYOND = 8  # stitches that a seam is thought to go on past its ends
EDGES = ("front", "welt", "back")


def fitted(settings: Settings, draft: Fitted) -> Fitted:
    """The draft with the fastenings its settings ask for."""
    pieces, hardware = list(draft.pieces), list[Hardware]()
    for key, ends in (("seam.rivets", _mouths), ("seam.lanyard", _toe)):
        if settings.word(key) != NONE:
            pieces, more = _riveted(pieces, draft, settings.fastening(key), key, ends)
            hardware += more
    if settings.word("back.drain") != NONE and draft.shell.flat_back:
        pieces, more = _drained(pieces, draft, settings.fastening("back.drain"))
        hardware += more
    return replace(draft, pieces=tuple(pieces), hardware=(*draft.hardware, *hardware)) if hardware else draft


def _mouths(draft: Fitted, holes: Array) -> dict[str, int]:
    """The open ends of the main seam: what each is called, and its hole."""
    return {"mouth": 0} if draft.folds else {"mouth, right": 0, "mouth, left": len(holes) - 1}


def _toe(draft: Fitted, holes: Array) -> dict[str, int]:
    """The foot of the main seam: where it is level, the middle of that."""
    if draft.plan.fold is not None:
        return {"toe": max(len(holes) - 4, 0)}
    level = np.nonzero(holes[:, 1] < holes[:, 1].min() + LEVEL)[0]
    return {"toe": int(level[len(level) // 2])}


def _riveted(
    pieces: list[Piece], draft: Fitted, rivet: Fastening, key: str, ends: Callable[[Fitted, Array], dict[str, int]]
) -> tuple[list[Piece], list[Hardware]]:
    """A fastening beside some holes of the main seam, through all of its stack, in step on every piece."""
    first = next(p for p in pieces if len(p.holes_of("main", "front")))
    holes, inset = first.holes_of("main", "front"), draft.value("seam.stitch_inset")
    leather = outline_of(first, draft)
    welt = LineString(holes).buffer(max(inset - rivet.hole / 2 - INSIDE, 0.1))
    at = ends(draft, holes)
    way = way_out(holes[::EIGHTH], leather)
    spots = [holes[k] - 0.5 * inset * outward(holes, way)[k] for k in at.values()]
    wanted = [Wanted(rivet, float(x), float(y), GIVE, welt, LACKS) for x, y in spots]
    taken = np.array([(h.x, h.y) for h in first.holes] + [(f.x, f.y) for f in first.fittings])
    found = placed(wanted, leather, taken, draft.value("seam.hole"))
    stack = float(draft.profile.heights[0].sum())
    for spot in found:
        if spot.place is None:
            continue
        along, beyond = _along(holes, way, np.array(spot.place))
        for n, piece in enumerate(pieces):
            for edge in EDGES:
                own = piece.holes_of("main", edge)
                if len(own) and not (edge == "back" and piece.role is Role.TEMPLATE):  # one hole serves for both
                    pieces[n] = _with(pieces[n], rivet, _spot(own, way * turned(holes, own), along, beyond))
    return pieces, [_told(rivet, name, spot, stack, key) for name, spot in zip(at, found, strict=True)]


def _drained(pieces: list[Piece], draft: Fitted, grommet: Fastening) -> tuple[list[Piece], list[Hardware]]:
    """A grommet in the flat back, as near the tip as there is room between the welts."""
    case = draft.shell
    assert not isinstance(case, Panel)
    k = next(n for n, p in enumerate(pieces) if p.name == "back")
    back, way = pieces[k], FLIP
    x, y = np.array([float(case.ridge(np.array([case.loft.tip]))[0]), case.loft.tip]) * way
    within = Polygon(draft.plan.welt * way).buffer(-grommet.cap / 2)
    holes = np.array([(h.x, h.y) for h in back.holes]).reshape(-1, 2)
    wanted = Wanted(grommet, float(x), float(y), DRAIN_GIVE, within)
    (spot,) = placed([wanted], Polygon(back.cut), holes, draft.value("seam.hole"))
    if spot.place is not None:
        pieces[k] = _with(back, grommet, spot.place)
    return pieces, [_told(grommet, "tip", spot, case.leather.thickness, "back.drain")]


def _told(fastening: Fastening, place: str, spot: Placed, stack: float, key: str) -> Hardware:
    y = spot.wanted.y if spot.place is None else spot.place[1]
    return Hardware(fastening.name, place, y, stack, fastening.post(stack), spot.place is not None, spot.moved, key)


def _with(piece: Piece, fastening: Fastening, at: tuple[float, float]) -> Piece:
    fitting = Fitting(fastening.name, float(at[0]), float(at[1]), fastening.hole, fastening.cap)
    return replace(piece, fittings=(*piece.fittings, fitting))


def _carried_on(holes: Array) -> Array:
    """The holes of an edge, and as many again as are wanted to go on straight past either end, (n, 2)."""
    more = np.arange(1, BEYOND + 1)[:, None]
    before, after = holes[0] + more[::-1] * (holes[0] - holes[1]), holes[-1] + more * (holes[-1] - holes[-2])
    return np.vstack([before, holes, after])


def _along(holes: Array, way: float, place: Array) -> tuple[float, float]:
    """How many stitches along the seam a place lies, and how far out from it, mm."""
    line = _carried_on(holes)
    a, step = line[:-1], np.diff(line, axis=0)
    share = np.clip(((place - a) * step).sum(axis=1) / (step**2).sum(axis=1), 0, 1)
    foot = a + share[:, None] * step
    k = int(np.hypot(*(foot - place).T).argmin())
    at = float(k + share[k])
    return at, float((place - foot[k]) @ outward(line, way)[round(at)])


def _spot(holes: Array, way: float, at: float, out: float) -> tuple[float, float]:
    """The place on another edge of the seam, as many stitches along and as far out."""
    line = _carried_on(holes)
    k = min(int(at), len(line) - 2)
    place = line[k] + (at - k) * (line[k + 1] - line[k]) + out * outward(line, way)[round(at)]
    return float(place[0]), float(place[1])


PART = Part(80, fitted)
