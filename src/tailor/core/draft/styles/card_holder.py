"""Card holder: a back with stepped pockets, their sides hidden under the next, and a last one over them all."""

from __future__ import annotations

import numpy as np

from tailor.core import habit, measure
from tailor.core.carried.loft import Array, Loft
from tailor.core.draft.draft import Draft
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.built import Cross, Slab
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.style import Order, Style
from tailor.core.errors import InputError
from tailor.core.measure import Theme
from tailor.core.placed.held import Thing
from tailor.core.placed.lies import flat_at

MEASURES = (
    measure.count("pocket.count", Theme.SHAPE, "pockets", "how many pockets", 0, 12, first=True),
    measure.length("pocket.depth", Theme.SHAPE, "pocket depth", "depth of a pocket", 5, 800, first=True),
    measure.length("pocket.step", Theme.SHAPE, "step", "from the top of one pocket to the next", 3, 80),
)

EASE = habit.bench("cards.ease", 2.0, 1, 6, "that a pocket is larger than what slides in it, across and up")
SHOWN = habit.hand("cards.shown", 8.0, 4, 20, "of a card, that a finger draws it by")
TUCK = habit.eye("cards.tuck", 8.0, 4, 20, "stepped pocket below its own stitches, where there is room")


def draft(order: Order) -> Draft:
    """A holder for cards. Raises InputError where the measures cannot make one.

    Every card stands on a seam of its own, a step lower than the one behind it; so the back is as high as a card and a
    step for every pocket but one.
    """
    work = Work(order)
    shown = work.habit(SHOWN)
    ease = work.habit(EASE)
    thick, pocket = work.leather.thickness, work.leather_for("pocket").thickness
    card = work.size
    count = int(work.say("pocket.count", 3.0, "as many as are reached for", "count"))
    margin = work.margin(thick + 2 * pocket)
    # A pocket over so many cards stands off by their thickness, half on either side.
    wide = work.say("inside.across", card[0] + ease + card[2], "the card, ease, and what its thickness takes up",
        card=card[0], ease=ease, thickness=card[2])  # fmt: skip
    least = work.how.pitch.value + margin  # one stitch, and half a margin above and below it
    step = work.say("pocket.step", max(min(12.0, 0.5 * card[1] / max(count, 1)), shown, least),
        "so much of each card shows above its pocket, and its arms are sewn on", height=card[1],
        stitched=least)  # fmt: skip
    tall = work.say("inside.up", card[1] + ease + step * max(count - 1, 0),
        "the card, ease, and a step for every pocket but one", card=card[1], ease=ease, step=step)  # fmt: skip
    if count > 1 and step < least:
        raise InputError(
            f"a step of {step:.1f} mm leaves no room to sew a pocket's arms", "pocket.step",
            f"give {np.ceil(least):.0f} mm or more, or closer stitches",
        )  # fmt: skip
    half, top = wide / 2, tall
    out = half + margin
    corner = min(6.0, margin + 1.0)
    feet = [tall - ease - step * k - card[1] for k in range(count)]  # where each card stands, the hindmost first
    brims = [foot + card[1] - step for foot in feet]  # the upper edge of each pocket
    base = paths.closed(paths.box(-out, -margin, out, top), (corner, corner, 3.0, 3.0))
    work.cut("back", base)
    for k in range(count - 1):
        _stepped(work, k + 1, half, out, (feet[k], brims[k], step), margin)
    if count:
        high = brims[-1]
        work.cut("front", paths.closed(paths.box(-out, -margin, out, high), (corner, corner, 2.0, 2.0)), thick=pocket)
        line, bends = paths.bent([(half, high), (half, 0.0), (-half, 0.0), (-half, high)], corner)
        edge = paths.edge(line, 0.7 * margin, corners=bends)
        work.join("main", ("front", "front", edge), ("back", "back", edge), margin=margin)
        work.finish_first("front", "upper edge, before it is sewn on", np.array([(-out, high), (out, high)]))
    _lies(work, feet, card)
    tops = [foot + card[1] for foot in feet]
    if count:
        work.claim("Cards lie below the upper edge", top - max(tops), 0.5, 0.0, "No card stands out to be bent.",
            "The hindmost card stands out above the back: make it higher, or the steps smaller.",
            keys=("inside.up", "pocket.step"))  # fmt: skip
        work.claim("Card can be drawn", min(t - b for t, b in zip(tops, brims, strict=True)), shown, 5.0,
            "So much of each card shows that a finger draws it.",
            "So little shows that the card is hard to draw: fewer pockets, or a larger step.",
            keys=("pocket.step",))  # fmt: skip
        work.claim("Front card stands on its seam", feet[-1], -0.1, -2.0, "It goes all the way down.",
            "It hangs above the seam: it would stand out higher than it is drawn.", keys=("inside.up",))  # fmt: skip
    work.claim("Edges are not bulky", thick + 2 * pocket, 5.0, 7.0,
        "At the sides lie the back and one pocket or the front: no more.", "Take thinner leather.",
        keys=("leather.thickness", "pocket.thickness"), ceiling=True, theme=Theme.STITCH)  # fmt: skip
    work.tie("back", inside__across=(0.0, 0.2 * tall), inside__up=(0.5 * half, 0.5 * tall), pocket__step=(half, tall),
        pocket__count=(-half, 0.8 * tall), seam__margin=(out, 0.4 * tall))  # fmt: skip
    return _made(work, base, feet, brims, (wide, tall, out))


def _made(work: Work, base: Array, feet: list[float], brims: list[float], size: tuple[float, float, float]) -> Draft:
    """What is shown of it: the cards in their pockets, the hindmost first; and a slice through one."""
    thick, card, low, (wide, tall, out) = work.leather.thickness, work.size, work.loft.tip, size
    front = work.reasons["pocket.thickness"].value
    layers = [Slab("leather", np.array(paths.box(-out, -thick, out, 0.0))), Slab("thing",
        np.array(paths.box(-card[0] / 2, 0.0, card[0] / 2, card[2]))), Slab("leather", np.array(paths.box(-out,
        card[2], out, card[2] + front)))]  # fmt: skip
    shown = [Slab("leather", base + np.array([0.0, low]))]
    for foot, brim in zip(feet or [0.0], brims or [0.0], strict=True):
        shown.append(Slab("thing", np.array(paths.box(-card[0] / 2, low + foot, card[0] / 2, low + foot + card[1]))))
        if brims:
            lies = paths.box(-out, low + float(base[:, 1].min()), out, low + brim)
            shown.append(Slab("leather", paths.closed(lies, (3.0, 3.0, 2.0, 2.0))))
    return work.built((wide, tall, card[2]), card, [Cross(low, low + tall, tuple(layers))], shown)


def _lies(work: Work, feet: list[float], card: tuple[float, float, float]) -> None:
    """All of it plane, a card between every two."""
    back, thick = work.leather.thickness, work.reasons["pocket.thickness"].value
    names = [name for name in work.pieces if name != "back"]
    work.lie("back", flat_at(0.0, behind=True))
    for k, (name, foot) in enumerate(zip(names, feet, strict=True), 1):
        at = (back - thick) / 2 + k * (thick + card[2])
        work.lie(name, flat_at(at))
        out = at - (thick + card[2]) / 2
        work.held.append(Thing(f"card {k}", (0.0, foot + card[1] / 2, out), card))


def _stepped(work: Work, k: int, half: float, out: float, at: tuple[float, float, float], margin: float) -> None:
    """A pocket like a T: its arms are sewn to the sides, its tongue hangs inside and is sewn along its foot, hidden.

    at: height of its foot, on which the card stands, of its upper edge, and of its arms down from there, mm.
    """
    foot, high, arm = at
    tuck = min(work.habit(TUCK), max(foot - margin / 2, 3.0))
    ring = [(-half + 1.5, foot - tuck), (half - 1.5, foot - tuck), (half - 1.5, high - arm), (out, high - arm), (out,
        high), (-out, high), (-out, high - arm), (-half + 1.5, high - arm)]  # fmt: skip
    name = f"pocket {k}"
    work.cut(name, np.array(ring), thick=work.reasons["pocket.thickness"].value)
    run = paths.straight((half - 4.0, foot), (-half + 4.0, foot))
    edge = paths.edge(run, 2.0)
    work.join(f"foot of pocket {k}", (name, "foot", edge), ("back", f"foot {k}", edge), margin=margin)
    for side, way in (("right", 1.0), ("left", -1.0)):
        end = min(margin, (arm - work.how.pitch.value) / 2)
        up = paths.edge(paths.straight((way * half, high), (way * half, high - arm)), end)
        work.join(f"{side} arm of pocket {k}", (name, side, up), ("back", f"{side} {k}", up), margin=margin)
    work.finish_first(name, "upper edge, before it is sewn on", np.array([(-out, high), (out, high)]))


STYLE = Style("Card holder", "Flat goods", draft, ("cards",), ("in a pocket",), ("none",), lambda loft,
    zones: "too thick for a card's pocket; take a slip case" if _thick(loft) > 6.0 else None)  # fmt: skip


def _thick(loft: Loft) -> float:
    rows = loft.sizes(np.array([s.y for s in loft.stations]))
    return float((rows[:, 2] + rows[:, 3]).max())
