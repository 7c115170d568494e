"""Document cover: papers lie in a deep pocket on either side; its spine is left open, with room to fold."""

from __future__ import annotations

import numpy as np

from tailor.core import habit
from tailor.core.carried.loft import Loft
from tailor.core.draft.draft import Draft
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.built import Cross, Slab
from tailor.core.draft.flat_goods.cover import CORNER, cover, goes_round, lining, pocketed, taken_up
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.style import Order, Style

LEAST = habit.bench("papers.least", 6.0, 3, 15, "of room in the fold of a cover for papers, at the least")
EASE = habit.bench("papers.ease", 3.0, 1, 8, "that a cover is larger than its papers, across and up")
THICK, SMALL = 12.0, 60.0  # mm: papers are no thicker, nor smaller


def draft(order: Order) -> Draft:
    """A cover for papers. Raises InputError where the measures cannot make one."""
    work = Work(order)
    ease = work.habit(EASE)
    thick, papers, pocket = work.leather.thickness, work.size, work.leather_for("pocket").thickness
    lined = work.word("panel.lining") == "lined"
    stack = thick + pocket + (work.settings.number("lining.thickness") if lined else 0.0)
    margin = work.margin(stack)
    up = taken_up(work.leather, papers[2])
    wide, tall = (
        work.say(f"inside.{side}", size + ease + ends * up, "the papers, ease, and what their thickness takes up",
                 papers=size, ease=ease, taken=ends * up)
        for side, size, ends in (("across", papers[0], 1), ("up", papers[1], 2))
    )  # fmt: skip
    deep = work.say("inside.through", papers[2], "the papers", papers=papers[2])
    shut = 2 * (deep + pocket)  # the two pockets and all that is in them, on one another
    space = work.say(
        "fold.space", max(work.habit(LEAST), 2 * stack), "so that the pockets keep out of its bends", layers=stack
    )
    sheet = cover(work, (wide + space / 2, tall, shut), margin)
    depth = work.say("pocket.depth", wide, "as deep as the papers, clear of the fold", papers=papers[0])
    if lined:
        lining(work, sheet)
    pocketed(work, sheet, depth, margin, ("lining",) if lined else ())
    for name in ("front pocket", "back pocket"):
        goes_round(work, name, (papers[1], papers[2]))
    clear = 2 * (sheet.across - sheet.spine - depth)
    work.claim("Fold is free of pockets", clear, space, space / 2, "The spine is open, and bends without pulling.",
        "Pockets that meet in the fold hold it open: make them shallower.",
        keys=("pocket.depth", "fold.space"))  # fmt: skip
    work.claim("Pockets hold the papers", depth, 0.6 * wide, 0.3 * wide, "The papers stay in.",
        "Pockets so shallow let papers slip out into the fold.", keys=("pocket.depth",))  # fmt: skip
    x, y = sheet.out
    work.tie("cover", inside__across=(0.5 * x, -0.5 * y), inside__up=(0.3 * x, 0.3 * y), fold__space=(0.0, 0.6 * y),
        inside__through=(0.0, -0.6 * y), seam__margin=(0.8 * x, -y))  # fmt: skip
    work.tie("front pocket", pocket__depth=(sheet.across - depth / 2, 0.0))
    return _made(work, (wide, tall, deep), margin, depth, pocket)


def _made(work: Work, inside: tuple[float, float, float], margin: float, depth: float, pocket: float) -> Draft:
    """Shut, its spine on the left, papers in both pockets. pocket: how thick those are, mm."""
    corner = work.habit(CORNER)
    (wide, tall, deep), thick, papers = inside, work.leather.thickness, work.size
    left, right, half = -wide / 2, wide / 2, pocket + deep
    layers = []
    for side in (-1.0, 1.0):
        for z, sheet, from_x in ((half + thick, thick, left - thick), (half - deep, pocket, right - depth)):
            low, high = sorted((side * (z - sheet), side * z))
            layers.append(Slab("leather", np.array(paths.box(from_x, low, right + margin, high))))
        low, high = sorted((side * pocket, side * half))
        layers.append(Slab("thing", np.array(paths.box(left, low, left + papers[0], high))))
    spine = paths.box(left - thick, -half - thick, left, half + thick)
    layers.append(Slab("leather", np.array(spine)))
    low = work.loft.tip
    radii = (2.0, corner, corner, 2.0)
    body = paths.closed(paths.box(left - thick, low - margin, right + margin, low + tall + margin), radii)
    sheets = np.array(paths.box(-papers[0] / 2, low, papers[0] / 2, work.loft.top))
    seen = [Slab("leather", body), Slab("thing", sheets), Slab("leather", body)]
    return work.built((wide, tall, deep), papers, [Cross(low, low + tall, tuple(layers))], seen)


def _unlike(loft: Loft) -> str | None:
    rows = loft.sizes(np.array([s.y for s in loft.stations]))
    if (rows[:, 2] + rows[:, 3]).max() > THICK:
        return "too thick for papers; take a book cover"
    return "too small for papers; take a card holder" if rows[:, 1].max() < SMALL else None


STYLE = Style("Document cover", "Flat goods", draft, ("papers", "book"), ("in the hand", "in a pocket"), ("none",),
    lambda loft, zones: _unlike(loft), usual={"panel.lining": "lined"})  # fmt: skip
