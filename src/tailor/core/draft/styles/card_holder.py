"""Card holder: a back with stepped pockets, their sides hidden under the next, and a last one over them all."""

from __future__ import annotations

import numpy as np

from tailor.core import measure
from tailor.core.carried.loft import Loft
from tailor.core.draft.draft import Draft
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.built import Cross, Slab
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.style import Order, Style
from tailor.core.measure import Theme

MEASURES = (
    measure.count("pocket.count", Theme.SHAPE, "pockets", "how many pockets", 0, 12, first=True),
    measure.length("pocket.depth", Theme.SHAPE, "pocket depth", "depth of a pocket", 5, 800, first=True),
    measure.length("pocket.step", Theme.SHAPE, "step", "from the top of one pocket to the next", 3, 80),
)

EASE = 2.0  # mm across, that a pocket is wider than what slides in it
TUCK = 8.0  # mm of a stepped pocket below its own stitches


def draft(order: Order) -> Draft:
    """A holder for cards. Raises InputError where the measures cannot make one."""
    work = Work(order)
    thick = work.leather.thickness
    card = work.size
    count = int(work.say("pocket.count", 3.0, "as many as are reached for", "count"))
    margin = work.margin(3 * thick)
    # A pocket over so many cards stands off by their thickness, half on either side.
    wide = work.say("inside.across", card[0] + EASE + card[2], "the card, ease, and what its thickness takes up",
        card=card[0], ease=EASE, thickness=card[2])  # fmt: skip
    tall = work.say("inside.up", card[1] + EASE, "the card and ease", card=card[1], ease=EASE)
    step = work.say(
        "pocket.step", min(12.0, 0.5 * tall / max(count, 1)), "enough of each card shows to be drawn", height=tall
    )
    half, top = wide / 2, tall
    out = half + margin
    corner = min(6.0, margin + 1.0)
    base = paths.closed(paths.box(-out, -margin, out, top), (corner, corner, 3.0, 3.0))
    for name in ("back", *(["front"] if count else [])):
        high = top if name == "back" else tall - step * (count - 1) - step
        panel = (
            base if name == "back" else paths.closed(paths.box(-out, -margin, out, high), (corner, corner, 2.0, 2.0))
        )
        work.cut(name, panel)
    high = tall - step * count if count else top
    shorter, bends = paths.bent([(half, high), (half, 0.0), (-half, 0.0), (-half, high)], corner)
    for k in range(1, count):
        _stepped(work, k, half, out, tall - step * k, margin)
    if count:
        edge = paths.edge(shorter, 0.7 * margin, corners=bends)
        work.join("main", ("front", "front", edge), ("back", "back", edge), margin=margin)
        work.finish_first("front", "upper edge, before it is sewn on", np.array([(-out, high), (out, high)]))
        for side, way in (("right", 1.0), ("left", -1.0)):
            run = paths.straight((way * half, top), (way * half, high))
            if run.length > 3 * margin:
                up = paths.edge(run, 0.7 * margin, 0.7 * margin)
                names = [f"pocket {k}" for k in range(1, count)]
                work.join(f"{side} edge", ("back", f"{side} edge", up), margin=margin, more=names)
    work.claim(
        "Card can be drawn",
        step,
        8.0,
        5.0,
        "So much of each card shows that a finger draws it.",
        "So little shows that the card is hard to draw: fewer pockets, or a larger step.",
        keys=("pocket.step",),
    )
    work.claim("Edges are not bulky", 3.0 * thick, 5.0, 7.0,
        "At the sides lie the back, one pocket and the front: no more.", "Take thinner leather.",
        keys=("leather.thickness",), ceiling=True, theme=Theme.STITCH)  # fmt: skip
    work.tie("back", inside__across=(0.0, 0.2 * tall), inside__up=(0.5 * half, 0.5 * tall), pocket__step=(half, tall),
        pocket__count=(-half, 0.8 * tall), seam__margin=(out, 0.4 * tall))  # fmt: skip
    low = work.loft.tip
    layers = [Slab("leather", np.array(paths.box(-out, -thick, out, 0.0))), Slab("thing",
        np.array(paths.box(-card[0] / 2, 0.0, card[0] / 2, card[2]))), Slab("leather", np.array(paths.box(-out,
        card[2], out, card[2] + thick)))]  # fmt: skip
    shown = [Slab("leather", base + np.array([0.0, low]))]
    shown.append(Slab("thing", np.array(paths.box(-card[0] / 2, low, card[0] / 2, low + card[1]))))
    for k in range(1, count + 1):
        lies = paths.box(-out, low - margin, out, low + tall - step * k)
        shown.append(Slab("leather", paths.closed(lies, (corner, corner, 2.0, 2.0))))
    return work.built((wide, tall, card[2]), card, [Cross(low, low + top, tuple(layers))], shown)


def _stepped(work: Work, k: int, half: float, out: float, high: float, margin: float) -> None:
    """A pocket like a T: its arms reach the side seams, its tongue hangs inside and is sewn along its foot, hidden."""
    arm = 2.2 * margin
    foot = max(high - 0.55 * high, TUCK)
    ring = [(-half + 1.5, foot - TUCK), (half - 1.5, foot - TUCK), (half - 1.5, high - arm), (out, high - arm), (out,
        high), (-out, high), (-out, high - arm), (-half + 1.5, high - arm)]  # fmt: skip
    name = f"pocket {k}"
    work.cut(name, np.array(ring))
    run = paths.straight((half - 4.0, foot), (-half + 4.0, foot))
    edge = paths.edge(run, 2.0)
    work.join(f"foot of pocket {k}", (name, "foot", edge), ("back", f"foot {k}", edge), margin=margin)
    work.finish_first(name, "upper edge, before it is sewn on", np.array([(-out, high), (out, high)]))


STYLE = Style("Card holder", "Flat goods", draft, ("cards",), ("in a pocket",), ("none",), lambda loft,
    zones: "too thick for a card's pocket; take a slip case" if _thick(loft) > 6.0 else None)  # fmt: skip


def _thick(loft: Loft) -> float:
    rows = loft.sizes(np.array([s.y for s in loft.stations]))
    return float((rows[:, 2] + rows[:, 3]).max())
