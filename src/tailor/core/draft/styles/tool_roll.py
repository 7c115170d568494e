"""Tool roll: a base with a second sheet bowed over it in channels, one to a tool, rolled up and tied."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache

import numpy as np

from tailor.core import habit, measure
from tailor.core.carried.loft import Array, Loft
from tailor.core.carried.stations import Station
from tailor.core.carried.zones import Zone
from tailor.core.draft.draft import Draft
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.bow import STEEP, arch, bowed_over, channel_for
from tailor.core.draft.flat_goods.built import Cross, Slab
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.style import Order, Style
from tailor.core.draft.worn.strips import Strip, stadium
from tailor.core.measure import Theme
from tailor.core.placed.held import Round, Spot
from tailor.core.placed.lies import FRONT, Bent, Frame, flat_at
from tailor.core.placed.path import LANDS, Path, bowed

USUAL = "14;9;9;9;9"  # mm
WIDEST, ROUNDED = 45.0, 0.1  # mm: the widest bar that is rolled up with others, and what sizes are rounded by
MEASURES = (
    measure.sizes("tools.sizes", Theme.SHAPE, "tools", "diameters of the tools, parted by ;", 2, 120,
        usual=USUAL, first=True),
    measure.length("tools.apart", Theme.SHAPE, "between tools", "leather left flat between two tools", 0, 80,
        usual=6.0),
)  # fmt: skip

EDGE, APART = 9.0, 16.0  # mm from the side to the nearer of the tie's two slots, and between them
THROUGH = habit.bench("roll.through", 1.0, 0.5, 4, "that a slot is longer and wider than the tie")
SHARE = habit.eye("roll.share", 0.62, 0.4, 0.9, "of a tool's length, that its channel covers", habit.SHARE)
FLAP = habit.eye("roll.flap", 0.35, 0.15, 0.6, "of a tool's length, that the top folds over", habit.SHARE)
EASE = habit.bench("roll.ease", 0.4, 0.2, 2, "room round a tool in its channel")
BOWS = habit.bench("roll.bows", 1.08, 1.02, 1.3, "the flat between its rows, that leather over a tool is", habit.TIMES)


def draft(order: Order) -> Draft:
    """A roll with a channel to each tool. Raises InputError where the measures cannot make one."""
    work = Work(order)
    tools = np.array([float(size) for size in work.word("tools.sizes").split(";")])
    tall = work.say("inside.up", work.size[1], "the longest tool", tool=work.size[1])
    apart = work.given("tools.apart", "flat leather between two rows of stitches")
    bows = work.leather_for("pocket")
    margin = work.margin(work.leather.thickness + bows.thickness)
    flat, over = (
        np.array(side)
        for side in zip(*(bowed_over(bows, s + work.habit(EASE), work.habit(STEEP)) for s in tools), strict=True)
    )
    rows, runs = (np.concatenate([[0.0], np.cumsum(part + apart)]) for part in (flat, over))
    depth = work.say(
        "pocket.depth", work.habit(SHARE) * tall, "more than half of a tool, so that it cannot tip out", tool=tall
    )
    flap = work.say("flap.reach", work.habit(FLAP) * tall, "folds over the ends, so that nothing slides out", tool=tall)
    right, end = rows[-1] + margin, runs[-1] + margin
    fold = np.array([(-margin, tall + 4.0), (right, tall + 4.0)])
    base = paths.closed(paths.box(-margin, -margin, right, tall + flap), 8.0)
    work.cut("base", base, folds=[fold], words=(0.5 * right, 0.82 * tall))
    channels = paths.closed(paths.box(-margin, -margin, end, depth), 3.0)
    work.cut("channels", channels, words=(0.5 * end, 0.8 * depth), thick=bows.thickness)
    for k, (x, u) in enumerate(zip(rows, runs, strict=True), 1):
        above, below = (paths.edge(paths.straight((v, depth), (v, 0.0)), margin, margin) for v in (u, x))
        work.join(f"row {k}", ("channels", f"row {k}", above), ("base", f"under row {k}", below), margin=margin)
    work.finish_first("channels", "upper edge, out of reach once sewn", np.array([(-margin, depth), (end, depth)]))
    own = channel_for(work.loft, work.habit(STEEP))
    work.claim(
        "It goes in a channel", float(tools.max()), own, own - ROUNDED,
        "The widest channel takes what was measured.", "No channel is wide enough for what was measured: give one the "
        "size of a bar that it goes in beside, or let the sizes go.", keys=("tools.sizes",),
    )  # fmt: skip
    _lies(work, tools, flat, over, apart)
    _tie(work, tools, right, (depth + tall) / 2)
    work.claim(
        "Channels bow over their tools", float((over / flat).min()), work.habit(BOWS), 1.0,
        "The leather over a tool is longer than the flat between its rows, so it bows.",
        "A channel so flat pinches its tool.", keys=("tools.sizes",), unit="times",
    )  # fmt: skip
    work.tie("base", inside__up=(0.1 * right, 0.9 * tall), flap__reach=(0.5 * right, tall + flap / 2))
    work.tie("base", tools__sizes=(0.5 * right, 0.1 * tall))
    work.tie("channels", pocket__depth=(0.0, depth / 2), tools__apart=(float(runs[1]), 0.3 * depth))
    return _made(work, tools, (rows[:-1] + rows[1:] - apart) / 2, base, depth)


def _lies(work: Work, tools: Array, flat: Array, over: Array, apart: float) -> None:
    """The base plane, the sheet over it bowed from row to row, and a tool to each channel."""
    thick, runs, kinks = work.pieces["channels"].thickness, list[tuple[float, float]](), list[float]()
    for chord, length in zip(flat, over, strict=True):
        arc, up = bowed(float(chord) - 2 * LANDS, float(length) - 2 * LANDS)
        runs += [(LANDS, 0.0), arc, (apart + LANDS, 0.0)]
        kinks += [0.0, up, up]
    work.lie("base", flat_at(-work.leather.thickness / 2, behind=True))
    work.lie("channels", Bent(FRONT.moved((0.0, 0.0, thick / 2)), across=Path(tuple(runs), kinks=tuple(kinks))))
    for k, size in enumerate(tools, 1):
        above, below = (
            (Spot(piece, f"row {k}", row.format(k), 0), Spot(piece, f"row {k + 1}", row.format(k + 1), 0))
            for piece, row in (("channels", "row {}"), ("base", "under row {}"))
        )
        work.rounds.append(Round(f"tool {k}", (size, size), (above, below), round=True, flat=True))


def _tie(work: Work, tools: Array, right: float, up: float) -> None:
    """A tie drawn through two slots at the side, in the one and out at the other, twice round the roll. up: how high,
    above the channels, which would cover it.
    """
    thick = work.leather_for("strap").thickness
    layers = work.leather.thickness + work.pieces["channels"].thickness
    rolled = np.sqrt(4 / np.pi * right * (float(tools.mean()) + layers))  # across, of so much rolled up
    length = work.say("tie.length", 2 * np.pi * rolled + 220.0, "twice round the roll, and a bow", roll=rolled)
    width = work.given("tie.width", "wide enough not to cut in")
    work.pieces["tie"] = Strip(width / 2, 0.0, length, tongue=width).piece("tie", thick, at=min(length / 2, 150.0))
    base, upright = work.pieces["base"], np.array([0.0, 1.0])
    through = work.habit(THROUGH)
    places = right - EDGE, right - EDGE - APART
    slots = tuple(stadium(width + through, thick + through, upright, np.array([x, up])) for x in places)
    work.pieces["base"] = replace(base, openings=(*base.openings, *slots))
    # It comes from behind, lies on the grain inside from slot to slot, and goes behind again: seen from its edge.
    out = (work.leather.thickness + thick) / 2
    steep = float(np.arctan2(2 * out, through + thick))
    rise = float(np.hypot(2 * out, through + thick))
    inside = APART - (through + thick)
    ends = (float(length) - inside) / 2 - rise
    runs = (ends, 0.0), (rise, 0.0), (inside, 0.0), (rise, 0.0), (ends, 0.0)
    start = -ends - (through + thick) - inside / 2, -out - work.leather.thickness / 2
    middle = sum(places) / 2
    frame = Frame(np.array([middle, up, 0.0]), np.array([0.0, -1.0, 0.0]), np.array([1.0, 0.0, 0.0]))
    work.drawn.append(("tie", "base"))
    work.lie("tie", Bent(frame, up=Path(runs, start, kinks=(0.0, steep, -steep, -steep, steep))))


def _made(work: Work, tools: Array, middles: Array, base: Array, depth: float) -> Draft:
    ease = work.habit(EASE)
    thick, low, tall = work.leather.thickness, work.loft.tip, work.size[1]
    left, right = float(base[:, 0].min()), float(base[:, 0].max())
    layers = [Slab("leather", np.array(paths.box(left, -thick, right, 0.0)))]
    held = [Slab("leather", base + np.array([0.0, low]))]
    for x, size in zip(middles, tools, strict=True):
        layers.append(
            Slab("leather", arch(work.leather_for("pocket"), size + ease, work.habit(STEEP)) + np.array([x, 0.0]))
        )
        layers.append(Slab("thing", paths.circle(float(x), (size + ease) / 2, size / 2)))
        held.append(Slab("thing", np.array(paths.box(x - size / 2, low + 2, x + size / 2, low + tall))))
    held.append(Slab("leather", np.array(paths.box(left, low + left, right, low + depth))))
    most = float(tools.max())
    room = (most + ease, work.reasons["inside.up"].value, most + ease)
    return work.built(room, (most, tall, most), [Cross(low, low + tall, tuple(layers))], held)


@lru_cache(maxsize=8)
def _sizes(stations: tuple[Station, ...], steep: float) -> str:
    """A channel for what was measured, and the usual ones for what is smaller."""
    if len(stations) < 2:  # nothing is measured yet, as is told when it is drafted
        return USUAL
    own = np.ceil(2 * channel_for(Loft(stations), steep) - 1e-3) / 2
    return ";".join([f"{min(max(own, 2.0), 120.0):g}", *USUAL.split(";")[1:]])


def _unless(loft: Loft, zones: Sequence[Zone]) -> str | None:
    own = channel_for(loft, STEEP.usual)
    if own <= WIDEST:
        return None
    return f"it wants a channel for a bar of {own:.0f} mm, which is not rolled up; take a box"


STYLE = Style(
    "Tool roll", "Flat goods", draft, ("small tools", "tool"), ("in the hand", "left standing"), ("none",),
    unless=_unless, beside=lambda settings, stations: {"tools.sizes": _sizes(stations, settings.habit(STEEP))},
)  # fmt: skip
