"""Cover: one sheet round something that opens at a spine: how wide it is flat, its pockets, its lining."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tailor.core import habit, measure
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.sleeve import Sleeve
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.piece import Rule
from tailor.core.leather.leather import Leather
from tailor.core.measure import Theme
from tailor.core.placed.held import Round, Spot
from tailor.core.placed.lies import ACROSS, OUT, UP, Bent, Frame
from tailor.core.placed.path import mirrored
from tailor.core.shell.wrap import HALF_PI

MEASURES = (
    measure.length("fold.space", Theme.SHAPE, "fold space", "room kept free of pockets in the fold of a cover", 0, 80),
    measure.length("cover.edge", Theme.SHAPE, "beyond the book", "cover beyond the book all round", 0, 40),
)

CORNER = habit.eye("cover.corner", 5.0, 2, 12, "rounding of a cover's corners")
GLUED = habit.bench("cover.glued", 2.0, 1, 8, "beside the spine, where the glue begins")


@dataclass(frozen=True)
class Cover:
    """A cover flat, about the middle of its spine. across, up: to its stitch line; beyond: from there to the edge.

    spine: half of what goes round the thickness, with the share of both bends. deep: that thickness. mm.
    """

    across: float
    up: float
    beyond: float
    spine: float
    deep: float

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
    sheet = Cover(wide + spine, tall / 2, beyond, spine, deep)
    x, y = sheet.out
    folds = [np.array([(s * spine, -y), (s * spine, y)]) for s in (-1, 1)]
    free = spine + work.habit(GLUED)  # the spine stays free of glue
    glued = [Rule("glue", np.array([(s * free, -y), (s * free, y)])) for s in (-1, 1)]
    ring = paths.closed(paths.box(-x, -y, x, y), work.habit(CORNER))
    work.cut("cover", ring, folds=folds, rules=glued, words=(0.55 * x, 0.0))
    # Its spine looks to the left; from there a board goes to the right in front and behind.
    half = [(deep / 2 - leather.inside_radius, 0.0), (leather.quarter_bend, -HALF_PI), (wide + beyond, 0.0)]
    work.lie("cover", Bent(Frame(np.array([-leather.offset, 0.0, 0.0]), OUT, UP), mirrored(half)))
    return sheet


def pocketed(work: Work, sheet: Cover, depth: float, margin: float, also: tuple[str, ...] = ()) -> None:
    """A pocket at either end, open towards the spine. also: what is caught in their seams."""
    x, y = sheet.out
    thick, under = work.leather_for("pocket").thickness, sum(work.pieces[name].thickness for name in also)
    for side, name in ((1.0, "front pocket"), (-1.0, "back pocket")):
        inner, end = side * (sheet.across - depth), side * sheet.across
        low, high = sorted((inner, side * x))
        work.cut(name, paths.closed(paths.box(low, -y, high, y), 2.0), thick=thick)
        line, corners = paths.bent(
            [(inner, sheet.up), (end, sheet.up), (end, -sheet.up), (inner, -sheet.up)], work.habit(CORNER)
        )
        edge = paths.edge(line, margin, corners=corners)
        inside = np.array([-sheet.spine, 0.0, side * (sheet.deep / 2 - under - thick / 2)])
        work.lie(name, Bent(Frame(inside, side * ACROSS, UP), behind=True))
        work.join(name, (name, "pocket", edge), ("cover", name, edge), margin=margin, more=also)
        work.finish_first(name, "inner edge, out of reach once sewn", np.array([(inner, -y), (inner, y)]))


def taken_up(leather: Leather, thick: float) -> float:
    """How much more leather than what lies in a pocket is long goes over each end of it, down to the stitches, mm."""
    half = 10.0 * thick  # long enough that its ends know nothing of one another
    return Sleeve(leather, np.array([(-half, thick / 2), (half, thick / 2)]), 0.0, 0.0).flat - half


def goes_round(work: Work, name: str, thing: tuple[float, float]) -> None:
    """What slides into a pocket must have leather enough to go round it, from seam to seam across its height.

    thing: how high and how thick it is, mm.
    """
    spots = tuple(
        (Spot(piece, name, edge, 0), Spot(piece, name, edge, -1)) for piece, edge in ((name, "pocket"), ("cover", name))
    )
    work.rounds.append(Round(f"what lies in the {name}", thing, (spots[0], spots[1])))


def lining(work: Work, sheet: Cover) -> None:
    """A lining cut with a feather, glued while the cover is bent: it goes round the spine further in, and is shorter by
    what its bends are. Source: geometry, "Seam, stitch, cut".
    """
    feather = work.given("lining.feather", "cut proud, trimmed after gluing")
    thick = work.given("lining.thickness", "thin, so that it folds")
    radius = max(work.leather.inside_radius, thick / 2)
    spine, bend = sheet.deep / 2 - radius, HALF_PI * (radius - thick / 2)
    board = sheet.out[0] - sheet.spine + feather - radius
    half, high = spine + bend + board, sheet.out[1] + feather
    ring = paths.closed(paths.box(-half, -high, half, high), work.habit(CORNER))
    work.cut("lining", ring, stuff="lining", thick=thick, said=" · glued with the cover bent")
    way = mirrored([(spine, 0.0), (bend, -HALF_PI), (board, 0.0)])
    work.lie("lining", Bent(Frame(np.array([thick / 2, 0.0, 0.0]), OUT, UP), way))
