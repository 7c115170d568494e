"""Mask: one sheet wrapped over the face of a head, its sides whipped, a welt at the bit, tied round the handle."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from tailor.core.carried.loft import Loft, outline
from tailor.core.carried.zones import Zone, ZoneKind, of_kind
from tailor.core.draft import paths
from tailor.core.draft.built import Cross, Layer
from tailor.core.draft.draft import Draft
from tailor.core.draft.over import taut
from tailor.core.draft.piece import Rule
from tailor.core.draft.strips import Strip
from tailor.core.draft.style import Order, Style
from tailor.core.draft.work import Work
from tailor.core.errors import InputError

WHIPPED = 4.0  # mm from a side's edge to its whip stitches
HOLE = 6.0  # mm: for the tie
TURNS = 2.0  # times round the handle
BOW = 160.0  # mm of ends to pull and tuck


def draft(order: Order) -> Draft:
    """A mask over a head, from its face up to its neck. Raises InputError where there is no head to cover."""
    work = Work(order)
    leather, thick = work.leather, work.leather.thickness
    clear = work.given("fit.clearance", "room all round")
    neck = _neck(work.loft)
    cover = work.say("mouth.y", neck, "up to the neck, where the head goes over into its handle", neck=neck)
    if not work.loft.tip + 10.0 <= cover <= work.loft.top:
        raise InputError(f"a mask up to {cover:.0f} mm does not cover a head that begins at {work.loft.tip:.0f} mm",
            "mouth.y", f"give a height between {work.loft.tip + 10:.0f} and {work.loft.top:.0f} mm",)  # fmt: skip
    heights = np.linspace(work.loft.tip, cover, 61)
    rows = work.loft.sizes(heights)
    left, wide = float(rows[:, 0].min()), float((rows[:, 0] + rows[:, 1]).max() - rows[:, 0].min())
    sharp = of_kind(order.zones, ZoneKind.EDGE, ZoneKind.POINT)
    welt = thick if sharp else 0.0
    room = clear + welt
    # Straight from the side: up the front, over the face, up the back, as taut as it is drawn.
    tip = work.loft.tip
    corners = [[-rows[0, 3], tip - room], [rows[0, 2], tip - room]]
    front, back = (np.column_stack([s * (rows[:, k] + clear), heights]) for s, k in ((1.0, 2), (-1.0, 3)))
    ring = np.vstack([back, corners, front])
    turned_over = ring * np.array([1.0, -1.0])
    inner = taut(turned_over, turned_over[np.argmax(ring[:61, 1])], turned_over[-1])
    length = float(np.hypot(*np.diff(inner, axis=0).T).sum()) + np.pi * leather.offset
    work.say("panel.length", length, "taut from the neck over the face and up the other side", offset=leather.offset)
    deep = float((rows[:, 2] + rows[:, 3]).max())
    half = wide / 2 + clear + deep / 2 + np.pi / 2 * leather.offset  # to where the sides meet, half way through
    stitch = half - WHIPPED
    ends = paths.box(-half, -length / 2, half, length / 2)
    work.cut(
        "mask", paths.closed(ends, 8.0), folds=[np.array([(-half, 0.0), (half, 0.0)])], words=(0.0, -0.25 * length)
    )
    first = 12.0
    for side, way in (("right", 1.0), ("left", -1.0)):
        runs = [paths.straight((way * stitch, s * length / 2), (way * stitch, s * deep / 2)) for s in (1.0, -1.0)]
        edges = [paths.edge(run, first, 3.0) for run in runs]
        work.join(
            f"{side} side", ("mask", f"{side} front", edges[0]), ("mask", f"{side} back", edges[1]), margin=WHIPPED
        )
    if sharp:
        width = work.say("welt.width", max(12.0, 3.0 * thick), "between the bit and its fold", thickness=thick)
        work.cut("welt", np.array(paths.box(-wide / 2, -width / 2, wide / 2, width / 2)), said=" · glued at the bit")
        work.mark("mask", *(Rule("welt", np.array([(-wide / 2, y), (wide / 2, y)])) for y in (-width / 2, width / 2)))
    reach = length / 2 - 10.0
    for x in (-half + 16.0, half - 16.0):
        for y in (-reach, reach):
            work.hole("mask", (x, y), HOLE)
    girth = float(work.loft.sections(np.array([min(cover + 8.0, work.loft.top)])).girth()[0])
    tie = work.say("tie.length", TURNS * (girth + np.pi * thick) + 2 * wide + BOW,
        "through four holes, twice round the handle, and ends to tuck", girth=girth, across=wide)  # fmt: skip
    width = work.given("tie.width", "narrow enough to draw through its holes")
    strip = Strip(width / 2, 0.0, tie, tongue=width)
    work.pieces["tie"] = strip.piece("tie", thick, at=min(0.5 * tie, 150.0))
    tuck = width + 2 * thick + 2.0
    loop = Strip(width / 2, 0.0, 2 * tuck + 20.0)
    work.pieces["tuck loop"] = loop.piece("tuck loop", thick, at=tuck + 10.0)
    work.finish_first("mask", "all round, before it is whipped")
    _claims(work, cover, neck, tuck, width + thick, sharp != ())
    work.tie(
        "mask", mouth__y=(0.0, 0.5 * length), panel__length=(0.4 * half, 0.2 * length), tie__length=(half - 16.0, reach)
    )
    middle = left + wide / 2
    body = paths.closed(
        paths.box(middle - half + deep / 2, work.loft.tip - room - thick, middle + half - deep / 2, cover), 4.0
    )
    out = deep / 2 + clear
    sides = [Layer("leather", np.array(paths.box(-wide / 2 - clear - thick, s * out + min(0, s) * thick,
        wide / 2 + clear + thick, s * out + max(0, s) * thick))) for s in (-1, 1)]  # fmt: skip
    sides += [Layer("leather", np.array(paths.box(x, -out, x + thick, out))) for x in (wide / 2 + clear,
        -wide / 2 - clear - thick)]  # fmt: skip
    thing = Layer("thing", np.array(paths.box(-wide / 2, -deep / 2, wide / 2, deep / 2)))
    seen = [Layer("leather", body), Layer("thing", outline(work.loft)), Layer("leather", body)]
    inside = (wide + 2 * clear, cover - tip, deep + 2 * clear)
    return work.built(inside, (wide, cover - tip, deep), [Cross(tip, cover, (*sides, thing))], seen, centred=False)


def _neck(loft: Loft) -> float:
    """Where the head goes over into its handle: the lowest above the widest that is at most half as wide."""
    heights = np.linspace(loft.tip, loft.top, 201)
    wide = loft.sizes(heights)[:, 1]
    after = np.flatnonzero((np.arange(201) > int(wide.argmax())) & (wide <= 0.5 * wide.max()))
    return round(float(heights[after[0]]), 1) if len(after) else loft.top


def _claims(work: Work, cover: float, neck: float, tuck: float, bundle: float, sharp: bool) -> None:
    work.claim("Head covered up to its neck", cover, neck - 3.0, work.loft.tip + 10.0,
        "Nothing of the face stands out.", "Cover it further up.", keys=("mouth.y",), y=cover)  # fmt: skip
    work.claim("Tie goes through its tuck loop", tuck - bundle, 1.0, 0.0, "Two ends go through, and stay.",
        "Make the tie narrower.", keys=("tie.width",), stage="Carry")  # fmt: skip
    if sharp:
        work.claim("Bit lies on a welt", work.leather.thickness, 2.0, 1.0,
            "The bit cannot reach the thread. Tape it while you fit the mask; never draw towards your hand.",
            "A welt so thin is cut through: take thicker leather.", keys=("leather.thickness",))  # fmt: skip


def _headless(loft: Loft, zones: Sequence[Zone]) -> str | None:
    return None if _neck(loft) < loft.top else "it has no neck: nothing to tie a mask round"


STYLE = Style("Mask", "Fitted", draft, ("head on a handle",), ("in the hand", "left standing", "from the shoulder"),
    ("none", "some"), _headless)  # fmt: skip
