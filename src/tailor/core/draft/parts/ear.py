"""Ear: a belt slot beside the seam of a folded sheath, in leather that goes on past the seam.

In place of the welt a solid filler lies between front and back there, as thick as the welt is, cut in one with it and
sewn round the slot, and the slot goes through all three. Leather over the welt lies level, so it is drawn on the flat
front, as the welt is, and laid beside the back's stitches as it lies beside the front's.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import shapely

from tailor.core import habit
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Carriage, Fitted
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.folded.body import FILLET, TAB_CORNER
from tailor.core.draft.part import Part
from tailor.core.draft.parts.hanger import slot_sizes
from tailor.core.draft.piece import FLIP, Piece, Role, punched
from tailor.core.draft.stitch.holes import joined
from tailor.core.draft.stitch.outgrown import outgrown
from tailor.core.draft.stitch.sewn import even_stack, sewn, stitching_of
from tailor.core.draft.worn.strips import stadium
from tailor.core.errors import InputError
from tailor.core.reason import Reason
from tailor.core.settings import Settings

EAR = "ear"
SHARE = habit.eye("ear.share", 0.75, 0.4, 0.9, "of the seam's height, that an ear may take", habit.SHARE)
BESIDE = habit.bench("ear.beside", 3.0, 2, 8, "from an ear's stitches to a slot or to the seam")


@dataclass(frozen=True)
class _Drawn:
    """On the flat front: its outline closed, its slot, its stitches, each (n, 2), mm."""

    outline: Array
    slot: Array
    holes: Array

    def laid(self, where: Callable[[Array], Array]) -> _Drawn:
        """The same somewhere else."""
        return _Drawn(where(self.outline), where(self.slot), where(self.holes))


def ear(settings: Settings, draft: Fitted) -> Fitted:
    """The draft with its ear, if it rides by one. Raises InputError where there is no seam, or no room, for it."""
    if settings.word("loop.landing") != EAR:
        return draft
    if draft.plan.fold is None:
        raise InputError(
            "an ear stands beside the one seam of a folded sheath", "loop.landing", "take slots, or another way to ride"
        )
    clear = settings.habit(BESIDE)
    leather, margin, mouth = draft.shell.leather, draft.value("seam.margin"), draft.value("mouth.y")
    how = stitching_of(settings, leather, ends=0)
    wide, long, web, ends = slot_sizes(settings, leather, margin + clear)
    high = long.value + 2 * web.value
    if high > settings.habit(SHARE) * (mouth - draft.low):
        raise InputError(
            f"an ear {high:.0f} mm high does not fit beside a seam {mouth - draft.low:.0f} mm long", "loop.landing",
            "take a narrower belt, or another way to ride",
        )  # fmt: skip
    low = mouth - high
    on_front, on_back = (side.holes.points for side in (draft.front, draft.back))
    near = on_front[:, 1] > low
    beside, left = (float(f(on_front[near, 0])) for f in (np.max, np.min))
    middle = beside + web.value + wide.value / 2
    out = middle + wide.value / 2 + web.value
    ring = paths.closed(paths.box(left, low, out, mouth), (0.0, TAB_CORNER, TAB_CORNER, 0.0))
    slot = stadium(long.value, wide.value, np.array([0.0, 1.0]), np.array([middle, mouth - high / 2]))
    row, corners = paths.bent([(beside + clear, mouth - margin), (out - margin, mouth - margin),
                               (out - margin, low + margin), (beside + clear, low + margin)], 4.0)  # fmt: skip
    (line,) = joined([paths.edge(row, 0.0, corners=corners)], how.pitch.value, how.odd)
    front = _Drawn(ring, slot, line.points)
    back = front.laid(_beside(on_front[near], on_back[near])).laid(lambda points: points * FLIP)
    aside = np.array([_aside(draft, low, mouth), 0.0])
    seen = front.laid(lambda points: points + aside)
    proud, hole = settings.number("welt.proud"), how.hole.value
    pieces = tuple(
        _bodied(p, {"front": front, "back": back}, hole) if p.role is Role.BODY
        else _filled(p, front, proud, hole) if p.role is Role.WELT else p
        for p in draft.pieces
    )  # fmt: skip
    ring = _grown(draft.plan.outline, seen.outline)
    carriage = Carriage(
        (float(seen.slot[:, 0].mean()), mouth - high / 2), out - beside, float(long.value - ends), 0.0, (),
        seen.outline, slots=(seen.slot,),
    )  # fmt: skip
    edges = ("front", "welt", "back")
    sewn_round = sewn(EAR, ("body", "welt"), edges, line, even_stack(draft.stack, line), how, margin)
    filler = Reason("ear.filler", draft.shell.welt, "mm", "solid, as thick as the welt that it takes the place of",
                    {"welt": draft.shell.welt})  # fmt: skip
    return replace(
        draft, pieces=pieces, seams=(*draft.seams, sewn_round), carriage=carriage,
        plan=replace(draft.plan, outline=ring),
        reasons={**draft.reasons, **{r.name: r for r in (wide, long, web, filler)}},
    )  # fmt: skip


def _beside(these: Array, those: Array) -> Callable[[Array], Array]:
    """The way in which points are moved and turned, and nothing else, that brings stitches (n, 2) nearest to others."""
    middles = these.mean(axis=0), those.mean(axis=0)
    a, b = these - middles[0], those - middles[1]
    turn = float(np.arctan2((a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum(), (a * b).sum()))
    way = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    return lambda points: (points - middles[0]) @ way + middles[1]


def _aside(draft: Fitted, low: float, mouth: float) -> float:
    """How far the stitches between two heights are seen beside where they lie on the flat front, mm."""
    heights = np.linspace(low, mouth, 33)
    seen, flat = (np.interp(heights, line[::-1, 1], line[::-1, 0])
                  for line in (draft.plan.stitch, draft.front.line.points))  # fmt: skip
    return float((seen - flat).mean())


def _grown(plain: Array, more: Array) -> Array:
    """An outline (n, 2) and what goes on past it as one, filleted below."""
    added = shapely.Polygon(more).buffer(0)
    left, low, right, high = added.bounds
    return outgrown(plain, added, (left, low - 2 * FILLET, right, (low + high) / 2))


def _bodied(piece: Piece, drawn: dict[str, _Drawn], hole: float) -> Piece:
    """The body with an ear on its front and one on its back, slot and stitches through both."""
    cut, openings, holes, stitch = piece.cut, list(piece.openings), list(piece.holes), list(piece.stitch)
    for side, on in drawn.items():
        cut = _grown(cut, on.outline)
        openings.append(on.slot)
        stitch.append(on.holes)
        holes += punched(EAR, side, on.holes, hole)
    return replace(piece, cut=cut, openings=tuple(openings), holes=tuple(holes), stitch=tuple(stitch))


def _filled(piece: Piece, on: _Drawn, proud: float, hole: float) -> Piece:
    """The welt with the filler cut in one with it, proud where that is to be trimmed."""
    left, _, _, top = shapely.Polygon(on.outline).bounds
    wider = shapely.Polygon(on.outline).buffer(proud, join_style="mitre")
    level = shapely.box(left, -1e4, 1e4, top)  # at the mouth it is cut level
    whole = shapely.get_coordinates(shapely.get_exterior_ring(wider.intersection(level)))[:-1]
    return replace(
        piece, cut=_grown(piece.cut, whole), trim=_grown(piece.cut if piece.trim is None else piece.trim, on.outline),
        openings=(*piece.openings, on.slot), holes=(*piece.holes, *punched(EAR, "welt", on.holes, hole)),
        stitch=(*piece.stitch, on.holes),
    )  # fmt: skip


PART = Part(70, ear)
