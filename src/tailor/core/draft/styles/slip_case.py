"""Slip case: two panels sewn round three sides of a slab, which slides in at the top."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from tailor.core import habit, measure
from tailor.core.carried.loft import Array, Loft
from tailor.core.draft.draft import Draft
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.built import Cross, Slab
from tailor.core.draft.flat_goods.flap import NARROWS, Flap, closed_by, flapped, lying
from tailor.core.draft.flat_goods.reached import reached
from tailor.core.draft.flat_goods.sleeve import Sleeve, half_profile, half_section, left_by_a_loop, stretched
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.piece import Rule
from tailor.core.draft.style import Order, Style
from tailor.core.draft.worn.strips import Strip
from tailor.core.measure import Theme
from tailor.core.placed.held import Carried
from tailor.core.placed.lies import FRONT, Bent, Laid
from tailor.core.placed.path import alike, through

MEASURES = (
    measure.pick("pull.tab", Theme.SHAPE, "pull tab", "a strip under what is inside, to draw it out by", "none",
        ("none", "under"), first=True),
    measure.told("pull.length", Theme.SHAPE, "pull tab length"),
)  # fmt: skip

LEAST = 1.0  # mm: no room inside is less
FLIPPED = np.array([1.0, -1.0])
INSET = habit.bench("slip.inset", 1.5, 0.5, 5, "from where both panels have met to the stitch")
PULLED = habit.hand("slip.pulled", 30.0, 15, 60, "pull tab that stands out at the mouth")
THUMB = habit.hand("slip.thumb", 11.0, 8, 20, "notch that a thumb gets hold in")
STRETCHES = {"firm": 0.0, "soft": 0.015}  # share that leather gives in a month of use


def draft(order: Order) -> Draft:
    """A slip case for a slab. Raises InputError where the measures cannot make one."""
    work = Work(order)
    inset = work.habit(INSET)
    leather, thick = work.leather, work.leather.thickness
    lined = work.word("panel.lining") == "lined"
    lining = work.given("lining.thickness", "thin, so that it slides") if lined else 0.0
    section, profile = half_section(work.loft), half_profile(work.loft)
    clear = _room(work, section)
    wide, tall, deep = (work.say(f"inside.{side}", size + 2 * clear, "the object and room on both sides", object=size,
        room=clear) for side, size in zip(("across", "up", "through"), work.size, strict=True))  # fmt: skip
    give = work.say("panel.give", STRETCHES[leather.temper], f"what {leather.temper} leather gives in a month", "")
    margin = work.margin(2 * (thick + lining))
    high = max(deep / 2 - clear, LEAST)
    across = Sleeve(leather, stretched(section, max(wide - 2 * clear, LEAST), high), clear + lining, inset, lining)
    along = Sleeve(leather, stretched(profile, max(tall - 2 * clear, LEAST), high), clear + lining, inset, lining)
    stitch, down, foot = across.stitch, along.flat, along.stitch
    flat, up = across.flat * (1 - give), tall / 2
    corner = work.say("panel.corner", min(deep / 2 + lining + inset + 4.0, 0.6 * flat),
                      "rounded as the slab's end is thick", thickness=deep)  # fmt: skip
    notch = work.say(
        "notch.radius", max(work.habit(THUMB), 0.16 * wide), "a thumb takes hold of what is inside", width=wide
    )
    line, corners = paths.bent([(flat, up), (flat, -down), (-flat, -down), (-flat, up)], corner)
    plain = paths.closed(paths.box(-flat - margin, -down - margin, flat + margin, up),
                         (corner + margin, corner + margin, 2.0, 2.0))  # fmt: skip
    outline = _mouth(plain, up, notch)
    flap = flapped(work, plain, flat + margin, up, deep + 2 * lining)
    glue = [Rule("glue", _inner(flat, down, up, 1.0))]
    work.cut("front", outline, rules=glue, words=(0.0, -0.2 * down))
    work.cut("back", outline if flap is None else flap.outline, rules=glue, words=(0.0, -0.2 * down),
             folds=() if flap is None else flap.folds)  # fmt: skip
    edge = paths.edge(line, margin, corners=corners)
    pocket = work.say("pocket.count", 0.0, "none unless asked for", "count")
    if pocket >= 1:
        _pocket(work, flat, down, up - notch, margin)
    _lies(work, across, along, give, flap)
    linings = ("front lining", "back lining") if lined else ()
    if lined:
        feather = work.given("lining.feather", "cut proud, trimmed after gluing")
        wider = flat + margin + feather
        for name in linings:
            ring = paths.closed(
                paths.box(-wider, -down - margin - feather, wider, up), (corner + margin + feather,) * 2 + (2.0, 2.0)
            )
            work.cut(name, _mouth(ring, up, notch), stuff="lining", thick=lining)
            work.lie(name, Laid(work.lies[name.split()[0]], -leather.offset - lining / 2))
    work.join("main", ("front", "front", edge), ("back", "back", edge), margin=margin, more=linings)
    for name in ("front", "back") if flap is None else ("front",):
        work.finish_first(name, "mouth and notch, out of reach once sewn", _brim(outline, up, notch))
    if flap is not None:
        closed_by(work, flap, "front", "back", up)
    if work.word("pull.tab") == "under":
        _pull_tab(work, wide, tall, deep)
    _claims(work, notch, clear, leather.temper)
    work.tie("front", panel__loop=(-flat, 0.2 * up), inside__across=(0.0, 0.4 * up), inside__up=(0.3 * flat, 0.0),
             seam__margin=(flat + 2.0, 0.0),
             panel__corner=(flat, -down), notch__radius=(0.0, up - notch), seam__chord=(flat, 0.3 * up))  # fmt: skip
    skins = across.skin(stitch + margin)
    slab = np.vstack([section, (section * FLIPPED)[::-1]])
    layers = [Slab("leather", skins), Slab("leather", skins * FLIPPED)]
    if lined:
        room = replace(across, room=clear, floor=0.0, leather=replace(leather, thickness=lining)).skin(stitch)
        layers += [Slab("lining", room), Slab("lining", room * FLIPPED)]
    middle = work.loft.tip + tall / 2 - clear
    body = paths.closed(
        paths.box(-stitch - margin, middle - foot - margin, stitch + margin, middle + up), (corner, corner, 2.0, 2.0)
    )
    thing = np.array(paths.box(-work.size[0] / 2, work.loft.tip, work.size[0] / 2, work.loft.top))
    seen = [Slab("leather", body), Slab("thing", thing), Slab("leather", _mouth(body, middle + up, notch))]
    if flap is not None:
        out = stitch + margin
        seen.append(
            Slab("leather", lying(out, out * (1 - 2 * work.habit(NARROWS)), middle + up + thick, flap.reach + thick))
        )
    return work.built(
        (wide, tall, deep),
        work.size,
        [Cross(middle - foot, middle + up, (*layers, Slab("thing", slab)))],
        seen,
    )


def _room(work: Work, section: Array) -> float:
    """The room all round: what is asked for, or what a loop of leather laid round the thing leaves."""
    loop = work.given("panel.loop", "none was laid round it")
    if loop == 0.0:
        return work.given("fit.clearance", "room all round")
    room = left_by_a_loop(work.leather, section, work.habit(INSET), loop)
    return work.say("panel.room", room, "what the loop of leather leaves all round the thing", loop=loop)


def _lies(work: Work, across: Sleeve, along: Sleeve, give: float, flap: Flap | None) -> None:
    """Either panel bowed over the slab from side to side, and down to its stitches over the slab's end."""
    half = along.line
    x, y = alike(across.line), through(np.vstack([half[::-1] * [-1.0, 1.0], [1.0, half[0, 1]]]), -along.flat)
    work.lie("front", Bent(FRONT, x, y, False, True, give))
    work.lie("back", Bent(FRONT, x, y if flap is None else y.then(flap.path), True, True, give,
        up_lifted=None if flap is None else y.then(flap.lifted)))  # fmt: skip
    if "pocket" in work.pieces:
        work.lie("pocket", Laid(work.lies["front"], work.leather.thickness))
    loft = work.loft
    sizes = loft.sizes(np.array([s.y for s in loft.stations]))
    middle = (sizes[:, 0].min() + (sizes[:, 0] + sizes[:, 1]).max()) / 2, (loft.tip + loft.top) / 2
    lift = (sizes[:, 2].max() - sizes[:, 3].max()) / 2
    work.held.append(Carried("what it is for", loft, (-np.inf, np.inf), at=(-middle[0], -middle[1], -lift)))


def _mouth(ring: Array, top: float, notch: float) -> Array:
    """An outline whose upper edge is scooped by a round notch in its middle."""
    if notch <= 0:
        return ring
    turn = np.linspace(0, np.pi, 33)
    arc = np.column_stack([notch * np.cos(turn), top - notch * np.sin(turn)])
    k = int(np.flatnonzero((ring[:, 1] > top - 1e-6) & (ring[:, 0] > 0))[-1]) + 1
    return np.vstack([ring[:k], arc, ring[k:]])


def _brim(outline: Array, top: float, notch: float) -> Array:
    return outline[outline[:, 1] >= top - notch - 1e-6]


def _inner(flat: float, down: float, up: float, keep: float) -> Array:
    """Where the glue stops, inside the stitch line."""
    return np.array([(flat - keep, up), (flat - keep, -down + keep), (keep - flat, -down + keep), (keep - flat, up)])


def _pocket(work: Work, flat: float, down: float, top: float, margin: float) -> None:
    """An outside pocket for cards, sewn to the front before the case is closed."""
    half, low = flat - margin - 2.0, -down + margin + 2.0
    reach = reached(2 * half)
    depth = work.say("pocket.depth", min(0.55 * (top + down), reach), "deep enough to hold, and no deeper than the "
        "fingers reach", panel=top + down, reach=reach)  # fmt: skip
    high = low + depth
    work.cut("pocket", paths.closed(paths.box(-half - margin / 2, low - margin / 2, half + margin / 2, high), 3.0))
    line, corners = paths.bent([(half, high), (half, low), (-half, low), (-half, high)], 4.0)
    edge = paths.edge(line, margin / 2, corners=corners)
    work.join("pocket", ("pocket", "pocket", edge), ("front", "under pocket", edge), margin=margin / 2)
    work.finish_first("pocket", "upper edge, before it is sewn on", np.array([(-half, high), (half, high)]))


def _pull_tab(work: Work, wide: float, tall: float, deep: float) -> None:
    """A strip down the back, under the object and up its front, that draws it out when it is pulled."""
    thick = min(work.leather.thickness, 1.2)
    length = 2 * tall + deep + work.habit(PULLED)
    work.say("pull.length", length, "down the back, under, up the front, and an end to pull", across=deep, up=tall)
    half = min(0.2 * wide, 12.0)
    work.pieces["pull tab"] = Strip(half, 0.0, length, tongue=half).piece("pull tab", thick, at=0.5 * length)
    work.finish_first("pull tab", "all round, before it is caught in the seam")


def _claims(work: Work, notch: float, clear: float, temper: str) -> None:
    work.claim("Thumb gets hold", notch, work.habit(THUMB) - 3.0, 0.0, "What is inside is drawn out by the thumb.",
        "Cut a deeper notch, or leave a pull tab.", keys=("notch.radius",), y=work.loft.top)  # fmt: skip
    most = 1.0 if temper == "firm" else 0.6
    work.claim(
        "Snug enough to stay in", clear, most, 2 * most, "It holds what is in it by its own closeness.",
        "Too loose never gets better: give less room, or a flap.", keys=("fit.clearance", "panel.loop"), ceiling=True,
        y=work.loft.top,
    )  # fmt: skip


STYLE = Style(
    "Slip case", "Flat goods", draft, ("slab", "cards", "device"), ("in a pocket", "in the hand"), ("none",),
    lambda loft, zones: "too thick to be slipped between two panels; take a box" if _stout(loft) else None,
)  # fmt: skip


def _stout(loft: Loft) -> bool:
    rows = loft.sizes(np.array([s.y for s in loft.stations]))
    return bool((rows[:, 2] + rows[:, 3]).max() > 0.8 * rows[:, 1].max())
