"""Gusset: the strip that goes round a panel and gives a box its depth, its two edges turned to be sewn.

Out: the edges stand out round the box, the wall lies inside the stitch line. In: the panel covers the wall, the edges
lie inside. Round a corner the wall is longer or shorter than the stitch line by the angle times how far out it lies;
the strip is flat, so its stitch lines are as long as its wall. Source: geometry, "Seam, stitch, cut".
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tailor.core import habit, measure
from tailor.core.carried.loft import Array
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.piece import Piece, Rule
from tailor.core.draft.stitch.holes import Edge, laid_round
from tailor.core.errors import InputError
from tailor.core.fairing import Line
from tailor.core.leather.leather import Leather
from tailor.core.measure import Theme
from tailor.core.placed.lies import Frame, Lie, Swept, strain
from tailor.core.placed.path import Path, mirrored
from tailor.core.shell.wrap import HALF_PI

MEASURES = (
    measure.pick("gusset.flange", Theme.SHAPE, "flange", "whether the edges of a gusset are turned out or in", "out",
        ("out", "in")),
    measure.ratio("gusset.ease", Theme.SHAPE, "gusset shorter by",
        "share by which a gusset is cut shorter than its panel", 0, 0.06, said=measure.percent),
    measure.told("gusset.length", Theme.SHAPE, "gusset length", first=True),
    measure.told("gusset.width", Theme.SHAPE, "gusset width", first=True),
)  # fmt: skip

ROUND = habit.eye("gusset.round", 0.6, 0.3, 0.9, "of half its width, that a panel's corners round at most", habit.SHARE)
SPARE = 0.95  # of what it bears, that the leather is asked for at the end of a slit
FLAT = habit.bench("gusset.flat", 2.0, 1, 6, "of flat leather from the turn of a gusset's edge to its stitches")
OUT, IN = "out", "in"


@dataclass(frozen=True)
class Turned:
    """How a gusset's edge is turned, mm.

    wall: from the stitch line out to the wall's inner face, negative where it lies inside. neutral: out to its neutral
    surface. flange: flat length from where the wall ends to the stitch. taken: by each turn of the depth. out: 1 where
    it is turned out, -1 where in. flat: leather between the turn and the stitch.
    """

    wall: float
    neutral: float
    flange: float
    taken: float
    out: float
    flat: float

    @property
    def bend(self) -> float:
        """Flat length of the turn."""
        return self.flange - self.flat


def turned(leather: Leather, way: str, flat: float) -> Turned:
    """A gusset's edge turned out or in. flat: mm of leather between the turn and the stitch."""
    thick, radius = leather.thickness, leather.inside_radius
    if way == OUT:
        wall = thick + radius + flat
        bend = HALF_PI * (radius + thick - leather.offset)
        return Turned(-wall, leather.offset - wall, bend + flat, thick + radius, 1.0, flat)
    wall = radius + flat
    bend = HALF_PI * (radius + leather.offset)
    return Turned(wall, wall + leather.offset, bend + flat, thick + radius, -1.0, flat)


@dataclass(frozen=True)
class Gusset:
    """A gusset flat: its outline, the edges on its left and right from one end to the other, and its two folds.

    Its middle line is x = 0, its upper end y = 0. width: between its stitch lines. length: from end to end. section: it
    cut across, as it lies. bend: of each edge, flat. mm.
    """

    outline: Array
    left: Edge
    right: Edge
    folds: tuple[Array, Array]
    width: float
    length: float
    further: float
    section: Path
    bend: float

    def lie(self, frame: Frame, stitches: Path) -> Swept:
        """How it lies: its wall beside the path of the panels' stitch line, in the plane midway between them."""
        return Swept(frame, stitches.beside(-self.further), self.section)


def gusset(edge: Turned, panel: Edge, depth: float, margin: float) -> Gusset:
    """The gusset round a panel's stitch line, `depth` between the panels' inner faces, its ends level with the line's.

    Raises InputError where the depth is less than its two turns take.
    """
    straight = depth / 2 - edge.taken
    if straight <= 0:
        raise InputError(
            f"a depth of {depth:.1f} mm is taken up by the two turns of its edges", "inside.through",
            "give more depth, thinner leather, or sew two panels to each other",
        )  # fmt: skip
    half = straight + edge.flange
    laid = laid_round(panel, edge.neutral)
    before, after = panel.anchors[0], panel.line.length - panel.anchors[-1]
    length = before + laid.line.length + after
    anchors = tuple(before + a for a in laid.anchors)

    def side(x: float) -> Edge:
        n = max(int(length / 4), 8)
        return Edge(Line(np.column_stack([np.full(n, x), np.linspace(0.0, -length, n)])), anchors)

    out = half + margin
    outline = np.array([(-out, -length), (out, -length), (out, 0.0), (-out, 0.0)])
    folds = tuple(np.array([(x, 0.0), (x, -length)]) for x in (-straight, straight))
    return Gusset(
        outline, side(-half), side(half), (folds[0], folds[1]), 2 * half, length, edge.neutral,
        mirrored([(straight, 0.0), (edge.bend, edge.out * HALF_PI), (edge.flat + margin, 0.0)]),
        edge.bend,
    )  # fmt: skip


def corner_for(leather: Leather, edge: Turned, bears: float, roundest: float) -> float:
    """Radius at the stitch line of a panel's corners, about which a gusset's edges go when they are slit down to where
    they lie flat: as round as the leather wants that bears so much, but no rounder than its panel has room for, mm.

    roundest: what room it has, mm.
    """
    least = max(12.0, 1.5 * abs(edge.wall) + leather.inside_radius + 3.0)
    wanted = (abs(edge.neutral) - edge.flat / 2) / bears - edge.neutral
    return max(least, min(wanted, roundest))


def stands_clear(radius: float, clear: float) -> float:
    """How far above a floor a square corner stands that is so far from a wall with a turn at its foot, mm."""
    return radius - float(np.sqrt(radius**2 - (radius - clear) ** 2)) if clear < radius else 0.0


def sunk_for(radius: float, clear: float) -> float:
    """How much deeper than a room a bottom must lie whose corners are rounded, for a square corner to stand in it, mm.

    clear: room beside and below it.
    """
    return max(stands_clear(radius, clear) - clear, 0.0)


def slit(piece: Piece, lie: Lie, strip: Gusset, bears: tuple[float, float]) -> tuple[list[Rule], float]:
    """Slits in the edges of a gusset where they would have to stretch, or notches where they would have to gather, more
    than the leather bears: one between every two stitches, as far in from the edge as it must be.

    bears: stretch and gather, as shares. And the share of them that is asked of it then.
    """
    edge, fold = float(piece.cut[:, 0].max()), strip.folds[1][0, 0]
    depth = np.linspace(edge, fold, 81)  # from the edge in to where the wall ends
    rules, most = list[Rule](), 0.0
    for seam in dict.fromkeys(h.seam for h in piece.holes):
        holes = np.array([(h.x, h.y) for h in piece.holes if h.seam == seam and abs(abs(h.x) - strip.width / 2) < 0.5])
        if len(holes) < 2:
            continue
        asked = strain(lie, holes)
        for k, middle in enumerate((holes[1:] + holes[:-1]) / 2):
            here = asked[k : k + 2]
            least, stretched = float(here[:, 0].min()), float(here[:, 1].max())
            if stretched <= bears[0] and -least <= bears[1]:
                most = max(most, stretched / bears[0], -least / bears[1])
                continue
            way = float(np.sign(middle[0]))
            along = strain(lie, np.column_stack([way * depth, np.full(len(depth), middle[1])]))
            share = np.maximum(along[:, 1] / bears[0], -along[:, 0] / bears[1])
            inner = int(np.argmax(share <= SPARE)) if (share <= SPARE).any() else len(depth) // 2
            most = max(most, float(share[inner]))
            open_ = float(max(-along[0, 0], 0.0)) * abs(holes[k + 1, 1] - holes[k, 1]) / 2  # what gathers is cut away
            tip, far = (way * depth[inner], middle[1]), way * edge
            ends = [(far, middle[1])] if open_ == 0 else [(far, middle[1] - open_), (far, middle[1] + open_)]
            rules.append(Rule("slit", np.array([ends[0], tip, *ends[1:]])))
    return rules, most


def notched(work: Work, name: str, strip: Gusset, bears: tuple[float, float]) -> None:
    """A gusset with its slits and notches, and what is asked of it then, to be answered for."""
    rules, most = slit(work.pieces[name], work.lies[name], strip, bears)
    if not rules and most == 0.0:
        return
    work.mark(name, *rules)
    work.claim(
        "Edges go round their corners", 100 * most, 100.0, 150.0,
        f"Slit between the stitches at its corners ({len(rules)} slits), its edges lie down." if rules else
        "Its edges lie down round the corners as they are.",
        "Even slit, its edges stretch or gather more than they bear: round the corners more, or take thinner leather.",
        keys=("panel.corner", "leather.thickness"), unit="%", ceiling=True,
    )  # fmt: skip
