"""Cover: one sheet round something that opens at a spine: how wide it is flat, its pockets, its lining."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tailor.core import measure
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.piece import Rule
from tailor.core.measure import Theme

MEASURES = (
    measure.length("fold.space", Theme.SHAPE, "fold space", "room kept free of pockets in the fold of a cover", 0, 80),
    measure.length("cover.edge", Theme.SHAPE, "beyond the book", "cover beyond the book all round", 0, 40),
)

CORNER = 5.0  # mm
GLUED = 2.0  # mm beside the spine where the glue begins


@dataclass(frozen=True)
class Cover:
    """A cover flat, about the middle of its spine. across, up: to its stitch line; beyond: from there to the edge.

    spine: half of what goes round the thickness, with the share of both bends. mm.
    """

    across: float
    up: float
    beyond: float
    spine: float

    @property
    def out(self) -> tuple[float, float]:
        """To its edge, across and up."""
        return self.across + self.beyond, self.up + self.beyond


def cover(work: Work, inside: tuple[float, float, float], beyond: float) -> Cover:
    """The sheet for an inside across, up and through: a board, a bend of a quarter, the thickness, a bend, a board."""
    wide, tall, deep = inside
    leather = work.leather
    bends = np.pi * (leather.inside_radius + leather.offset) - 4 * leather.inside_radius
    spine = float(deep / 2 + bends / 2)
    sheet = Cover(wide + spine, tall / 2, beyond, spine)
    x, y = sheet.out
    folds = [np.array([(s * spine, -y), (s * spine, y)]) for s in (-1, 1)]
    free = spine + GLUED  # the spine stays free of glue
    glued = [Rule("glue", np.array([(s * free, -y), (s * free, y)])) for s in (-1, 1)]
    work.cut("cover", paths.closed(paths.box(-x, -y, x, y), CORNER), folds=folds, rules=glued, words=(0.55 * x, 0.0))
    return sheet


def pocketed(work: Work, sheet: Cover, depth: float, margin: float, also: tuple[str, ...] = ()) -> None:
    """A pocket at either end, open towards the spine. also: what is caught in their seams."""
    x, y = sheet.out
    for side, name in ((1.0, "front pocket"), (-1.0, "back pocket")):
        inner, end = side * (sheet.across - depth), side * sheet.across
        low, high = sorted((inner, side * x))
        work.cut(name, paths.closed(paths.box(low, -y, high, y), 2.0))
        line, corners = paths.bent([(inner, sheet.up), (end, sheet.up), (end, -sheet.up), (inner, -sheet.up)], CORNER)
        edge = paths.edge(line, margin, corners=corners)
        work.join(name, (name, "pocket", edge), ("cover", name, edge), margin=margin, more=also)
        work.finish_first(name, "inner edge, out of reach once sewn", np.array([(inner, -y), (inner, y)]))


def lining(work: Work, sheet: Cover) -> None:
    """A lining cut with a feather; it lies inside the bends of the spine, so it is shorter by the half turn times how
    far in. Source: geometry, "Seam, stitch, cut".
    """
    feather = work.given("lining.feather", "cut proud, trimmed after gluing")
    x, y = sheet.out
    shorter = np.pi * work.leather.thickness / 4  # at either end
    ring = paths.box(shorter - x - feather, -y - feather, x + feather - shorter, y + feather)
    work.cut("lining", paths.closed(ring, CORNER), stuff="lining", said=" · glued with the cover bent")
