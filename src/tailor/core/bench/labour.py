"""Labour: the work that a draft takes, counted on its pieces and seams, and the minutes of it at a maker's rates."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tailor.core.bench.rates import Rates
from tailor.core.bench.tooling import works
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import LAID_IN, Piece, Role, Seam

LEATHER = ("body", "lining", "welt")
CORNER = 30.0  # degrees that an outline turns by within a point, where the knife is set anew
LINE = 2.0  # minutes to mark a metre of stitch line
GLUE = 250.0  # ml to a square metre that is glued, on both faces: two thin coats
METRE, SQUARE = 1000.0, 1e6  # mm, and mm² in a square metre


@dataclass(frozen=True)
class Deed:
    """Work of one kind. amount: how much of it is counted on the draft, in its unit; minutes: of hands."""

    name: str
    amount: float
    unit: str
    minutes: float


def labour(made: Draft, rates: Rates | None = None) -> tuple[Deed, ...]:
    """The work of one of a draft, in the order it is done; what there is none of is left out."""
    at = rates or Rates()
    cut = [piece for piece in made.pieces if piece.role is not Role.TEMPLATE]
    metres = sum(_round(ring) * piece.count for piece in cut for ring in (piece.cut, *piece.openings)) / METRE
    corners = sum(_corners(piece.cut) * piece.count for piece in cut)
    pieces = sum(piece.count for piece in cut)
    holes = sum(seam.count * len(seam.edges) for seam in made.seams)
    metal, edge = len(made.hardware), edges(made) / METRE
    ups, area = _glue_ups(made), glued(made) / SQUARE
    sewing = sum(seam.seconds for seam in made.seams) / 60
    deeds = (
        Deed("begin and clear away", 1, "", at.begin),
        Deed("mark", pieces, "pieces", pieces * at.mark),
        Deed("cut", metres, "m", metres * at.cut + corners * at.corner),
        Deed("tool", sum(put.metres for put in made.tooled), "m", sum(work.minutes for work in works(made, at))),
        Deed("mould", int(made.wet), "", int(made.wet) * at.mould),
        Deed("glue", ups, "times", ups * at.glue_up + area * at.glue),
        Deed("pierce", holes, "holes", sum(holing(seam, at) for seam in made.seams)),
        Deed("sew", sum(seam.length for seam in made.seams) / METRE, "m", sewing * at.sewn),
        Deed("hardware", metal, "pieces", metal * at.hardware),
        Deed("edges", edge, "m", edge * at.edge),
    )
    return tuple(deed for deed in deeds if deed.amount > 0 or deed.minutes > 0)


def holing(seam: Seam, at: Rates) -> float:
    """Minutes to mark a seam and to make its holes on every edge; of one that its needle makes, to mark it."""
    return LINE * seam.length / METRE if seam.holed == "needle" else seam.count * len(seam.edges) * at.hole


def minutes(deeds: tuple[Deed, ...]) -> float:
    """Of hands, for all of it."""
    return sum(deed.minutes for deed in deeds)


def edges(made: Draft) -> float:
    """Edge to be finished, mm: round every piece of leather that is seen, where layers are sewn together as one."""
    round_ = sum(_round(p.cut) * p.count for p in made.pieces if p.leather == "body" and p.role is not Role.TEMPLATE)
    return max(round_ - sum(seam.length * (_layers(made, seam.edges) - 1) for seam in made.seams), 0.0)


def _layers(made: Draft, names: tuple[str, ...]) -> int:
    """Edges of a seam that are of leather that is seen: a welt's is no edge of its own."""
    return sum(name != "welt" for name in names)


def glued(made: Draft) -> float:
    """Area that is glued, mm²: every seam as wide as its margin, between each two of its layers; and linings whole."""
    margin = made.value("seam.margin") if "seam.margin" in made.reasons else 0.0
    seams = sum(seam.length * margin * (len(seam.edges) - 1) for seam in made.seams)
    return float(seams + sum(piece.area * piece.count for piece in _sheets(made)))


def _glue_ups(made: Draft) -> int:
    return sum(len(seam.edges) - 1 for seam in made.seams) + sum(piece.count for piece in _sheets(made))


def _sheets(made: Draft) -> list[Piece]:
    """What is glued on whole: linings, foam and board."""
    return [piece for piece in made.pieces if piece.leather in LAID_IN]


def length(line: Array) -> float:
    """The way along a line (n, 2), mm."""
    return float(np.hypot(*np.diff(line, axis=0).T).sum())


def _round(ring: Array) -> float:
    """The way round an outline (n, 2), mm."""
    return float(np.hypot(*(np.roll(ring, -1, axis=0) - ring).T).sum())


def _corners(ring: Array) -> int:
    """Where an outline (n, 2) turns sharply."""
    ways = np.roll(ring, -1, axis=0) - ring
    angles = np.arctan2(ways[:, 1], ways[:, 0])
    turns = np.abs((np.diff(angles, append=angles[0]) + np.pi) % (2 * np.pi) - np.pi)
    return int((np.degrees(turns) > CORNER).sum())
