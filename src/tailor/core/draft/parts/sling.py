"""Sling: a shoulder strap with a buckle, on two rings at the top of the back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from tailor.core import habit, measure
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Fitted, Hardware
from tailor.core.draft.fitted.faces import face, top_of
from tailor.core.draft.part import Part
from tailor.core.draft.parts.hanger import ring_tab
from tailor.core.draft.piece import Fitting, Hole, Piece, Rule, Seam, punched
from tailor.core.draft.stitch.holes import straight_row
from tailor.core.draft.stitch.sewn import Stitching, even_stack, sewn, stitching_of
from tailor.core.draft.stuff import leather_for
from tailor.core.draft.worn.carry import ROW_GAP, row_places
from tailor.core.draft.worn.hung import Halves
from tailor.core.draft.worn.lying import StitchedDown
from tailor.core.draft.worn.over import across
from tailor.core.draft.worn.straps import folded, hole_row
from tailor.core.draft.worn.strips import Strip, stadium
from tailor.core.draft.worn.turned import half_round
from tailor.core.errors import InputError
from tailor.core.leather.leather import Leather
from tailor.core.leather.stack import Layer, Stack
from tailor.core.leather.trimmings import Trimming
from tailor.core.maker import Maker
from tailor.core.measure import Theme
from tailor.core.placed.lies import Bent
from tailor.core.placed.path import looped
from tailor.core.reason import Reason, stated
from tailor.core.settings import Settings

MEASURES = (
    measure.pick("strap.buckle", Theme.STRAP, "shoulder strap", "a shoulder strap, by its buckle", "none", ("none",),
        stock=("buckle",), first=True),
    measure.length("strap.length", Theme.STRAP, "ring to ring",
        "shoulder strap from ring to ring, buckled in its first hole", 200, 2500, usual=1100.0, first=True),
    measure.length("strap.reach", Theme.STRAP, "let out by", "how far the strap can be let out", 0, 600, usual=150.0),
    measure.length("strap.pad", Theme.STRAP, "pad", "foam in a pad for the shoulder; 0 for none", 0, 20, usual=0.0),
    measure.told("strap.cut", Theme.STRAP, "longer half"),
    measure.told("strap.hung", Theme.STRAP, "hangs from ring to ring"),
)  # fmt: skip

NONE = "none"
BUCKLED = habit.bench("sling.buckled", 0.3, 0.25, 0.45, "of a strap's length, the part with the buckle", habit.SHARE)
END = habit.bench("sling.end", 60.0, 30, 90, "strap beyond its last hole")
APART = habit.bench("sling.apart", 25.0, 15, 50, "between the holes a strap is let out by")
TONGUE_HOLE = habit.bench("sling.hole", 4.0, 2.5, 6, "hole for a buckle's tongue")
PRONG = habit.bench("sling.prong", 1.5, 0.5, 4, "room for a prong beside it")
PAD = habit.eye("sling.pad", 9.0, 4, 16, "a strap's width, that its pad is long", habit.TIMES)
LONG, SHORT = "shoulder strap", "buckle strap"


def sling(settings: Settings, draft: Fitted) -> Fitted:
    """The draft with its shoulder strap and the two tabs that hold it. Raises InputError where there is no room."""
    if settings.word("strap.buckle") == NONE:
        return draft
    buckle = settings.trimming("strap.buckle")
    ring = ring_for(settings.maker, buckle)
    how = stitching_of(settings, draft.shell.leather, ends=0)
    leather, cut_of = leather_for(settings, "strap")
    draft = _tabs(draft, ring, leather, how)
    pieces, seams, halves, why = strap_of(settings, leather, buckle, ring, how)
    hardware = (
        *(Hardware(ring.name, f"{side} end of the strap", draft.value("mouth.y"), 0.0, None, True, 0.0, "strap.buckle")
          for side in ("right", "left")),
        Hardware(buckle.name, "shoulder strap", draft.value("mouth.y"), 0.0, None, True, 0.0, "strap.buckle"),
    )  # fmt: skip
    rings = halves.rings(("right tab", "left tab"), ring, buckle)
    on = face(draft, "back").piece
    outward = draft.lies[on](np.array([(0.0, top_of(draft))])).out[0] if on in draft.lies else None
    lies = halves.between(rings[:2], draft.lies, outward)
    return replace(
        draft, pieces=(*draft.pieces, *pieces), seams=(*draft.seams, *seams), hardware=(*draft.hardware, *hardware),
        rings=(*draft.rings, *rings), sling=halves, drawn=(*draft.drawn, *halves.with_it(pieces)),
        lies={**draft.lies, **{p.name: lies[p.name] for p in pieces if p.name in lies}},
        reasons={**draft.reasons, **{r.name: r for r in (cut_of, *why)}},
    )  # fmt: skip


def ring_for(maker: Maker, buckle: Trimming) -> Trimming:
    """The smallest ring that takes a strap as wide as a buckle's."""
    return next(t for t in maker.trimmings.values() if t.kind == "ring" and t.inside >= buckle.inside)


def strap_of(
    settings: Settings, leather: Leather, buckle: Trimming, ring: Trimming, how: Stitching
) -> tuple[tuple[Piece, ...], tuple[Seam, ...], Halves, tuple[Reason, ...]]:
    """The two halves of a shoulder strap, their ends turned round rings and buckle and sewn; and how they hang.

    In soft leather each is folded over webbing; the webbing is a piece of its own.
    """
    end = settings.habit(END)
    buckled = settings.habit(BUCKLED)
    wide = buckle.inside - 1.0
    length = settings.number("strap.length")
    reach = settings.number("strap.reach")
    turned_ring, ring_deep = half_round(leather, ring.wire, ring.wire)
    turned_buckle, buckle_deep = half_round(leather, buckle.wire, buckle.wire)
    foot = 2 * ROW_GAP
    soft = leather.temper == "soft"
    flat = folded(leather, wide, 2, webbing=True) if soft else None
    cut = wide if flat is None else flat.width
    layers = 2 if flat is None else 4
    middles = [0.0] if flat is None else [(wide - cut) / 2, (cut - wide) / 2]  # of it, on each of its legs
    short = buckled * length + foot + 2 * turned_ring + foot + 2 * turned_buckle
    # Let out as far as it goes, from ring to ring; a strap goes on from where its legs meet to its wire.
    long = (1 - buckled) * length + reach + end + foot + 2 * turned_ring - 2 * ring_deep - buckle_deep
    places = row_places(wide - how.pitch.value, 0.0, how.pitch.value)
    pieces, seams = [], []
    for name, total, ends in ((LONG, long, (turned_ring,)), (SHORT, short, (turned_ring, turned_buckle))):
        rows, holes = list[Array](), tuple[Hole, ...]()
        for k, turned in enumerate(ends):
            for n, out in enumerate((foot - ROW_GAP / 2, foot - ROW_GAP / 2 - 5.0)):
                seam = f"{name} end {k + 1} row {n + 1}"
                at = (out, 2 * foot + 2 * turned - out)
                heights = at if k == 0 else tuple(total - v for v in at)
                for edge, v in zip(("turned", "tab"), heights, strict=True):
                    row = np.column_stack([places, np.full(len(places), v)])
                    rows.append(row)
                    holes = (*holes, *punched(seam, edge, row, how.hole.value))
                stack = Stack(tuple(Layer("strap", leather.thickness) for _ in range(layers)))
                line = straight_row(places)
                seams.append(sewn(seam, (name,), ("turned", "tab"), line, even_stack(stack, line), how, 3.0))
        strip = Strip(cut / 2, 0.0, total, tongue=0.6 * wide if name == LONG else 0.0)
        fittings = _let_out(settings, total, reach, middles) if name == LONG else ()
        slots = (
            () if name == LONG else _pronged(settings, total - foot - turned_buckle, 2 * turned_buckle, buckle, middles)
        )
        piece = strip.piece(name, leather.thickness, rows, holes, fittings, openings=slots, at=total / 2)
        if flat is not None:
            piece = _with_folds(piece, flat.folds - cut / 2, flat.gullies - cut / 2, total)
        pieces.append(piece)
    height = flat.height if flat else leather.thickness
    pads = _pad(settings, wide, thick, leather) if (thick := settings.number("strap.pad")) > 0 else ()
    halves = Halves(pieces[0], pieces[1], foot, turned_ring, turned_buckle, height, flat, pads)
    if soft:
        pieces += [
            replace(Strip(wide / 2 - 1.5, foot, p.cut[:, 1].max() - foot).piece(f"{p.name} webbing", 1.2, at=total / 2),
                    leather="webbing")
            for p in tuple(pieces)
        ]  # fmt: skip
    pieces += pads
    why = (
        stated("strap.cut", long, "mm", "its share of the length, one end turned round a ring, its holes and its end",
               length=length, turned=2 * turned_ring, holes=reach, end=end, rings=-2 * ring_deep - buckle_deep),
        stated("strap.wide", cut, "mm", "folded over webbing, since soft leather stretches" if soft
               else "as wide as the buckle takes", buckle=buckle.inside),
        stated("strap.hung", halves.length, "mm", "by the folds and holes of its two halves as they are cut",
               asked=length),
    )  # fmt: skip
    return tuple(pieces), tuple(seams), halves, why


def _pad(settings: Settings, wide: float, thick: float, leather: Leather) -> tuple[Piece, ...]:
    """A pad for the shoulder: foam between two leathers, the strap drawn through slits across the ends of the outer."""
    half, length = 0.9 * wide, settings.habit(PAD) * wide
    slits = tuple(Rule("slit", np.array([(-wide / 2 - 1, y), (wide / 2 + 1, y)])) for y in (18.0, length - 18.0))
    outer = Strip(half, 0.0, length, tongue=0.0).piece("shoulder pad", leather.thickness, rules=slits, at=length / 2)
    under = Strip(half, 0.0, length).piece("shoulder pad lining", leather.thickness, at=length / 2)
    foam = Strip(half - 6.0, 6.0, length - 6.0).piece("shoulder pad foam", thick, at=length / 2)
    return outer, replace(foam, leather="foam"), under


def _pronged(
    settings: Settings, at: float, long: float, buckle: Trimming, middles: Sequence[float]
) -> tuple[Array, ...]:
    """Slots for the buckle's prong over the fold that goes round its bar; one in each leg of a strap that is folded."""
    wide = buckle.wire + settings.habit(PRONG)
    return tuple(stadium(max(long, wide + 2.0), wide, np.array([0.0, 1.0]), np.array([x, at])) for x in middles)


def _let_out(settings: Settings, total: float, reach: float, middles: Sequence[float]) -> tuple[Fitting, ...]:
    """Holes by which it is let out, through each leg of a strap that is folded."""
    tongue_hole = settings.habit(TONGUE_HOLE)
    places = hole_row(total, settings.habit(END), reach, settings.habit(APART))
    return tuple(Fitting("hole", x, float(total - v), tongue_hole, tongue_hole) for v in places for x in middles)


def _with_folds(piece: Piece, folds: Array, gullies: Array, total: float) -> Piece:
    """Fold lines lengthwise, and between which lines each is thinned."""
    lines = tuple(np.array([(x, 0.0), (x, total)]) for x in folds)
    thin = tuple(Rule("skive", np.array([(x, 0.0), (x, total)])) for pair in gullies for x in pair)
    return replace(piece, folds=lines, rules=(*piece.rules, *thin))


def _tabs(draft: Fitted, ring: Trimming, leather: Leather, how: Stitching) -> Fitted:
    """A tab with a ring at either side of the back's upper edge."""
    margin, back = draft.value("seam.margin"), face(draft, "back")
    wide, (turned, _) = ring.inside - 1.0, half_round(leather, ring.wire, ring.wire)
    y = top_of(draft) - margin
    left, right = across(draft, y - ROW_GAP)
    if right - left < 2 * (wide + margin):
        raise InputError(
            f"the back is {right - left:.0f} mm wide, too narrow for two rings of {ring.inside:g} mm side by side",
            "strap.buckle", "take a smaller buckle, or hang it by a dangler",
        )  # fmt: skip
    places = row_places(wide - margin, 0.0, how.pitch.value)
    legs = (Layer(n, leather.thickness) for n in ("leg", "turned leg"))
    stack = Stack((*legs, Layer("back", draft.shell.leather.thickness)))
    line, pieces, seams = straight_row(places), list(draft.pieces), list(draft.seams)
    reach, lies = turned + margin, dict(draft.lies)
    shape = Bent(up=looped(reach + ROW_GAP + margin, reach, leather.thickness), follows=True)
    for side, x in (("right", right - margin - wide / 2), ("left", left + margin + wide / 2)):
        names = (f"{side} tab row 1", f"{side} tab row 2")
        tab = ring_tab(f"{side} tab", names, leather, places, wide, (turned, margin), how.hole.value)
        sewn_down = StitchedDown(tab, names, back, draft.lies, draft.shell.leather.thickness, shape)
        seen = [np.column_stack([x + places, np.full(len(places), y - v)]) for v in (0.0, ROW_GAP)]
        rows, tab, lie = sewn_down.sewn(seen, doubled=True)
        pieces = [*(back.rowed(p, names, rows, how.hole.value) for p in pieces), tab]
        if lie is not None:
            lies[tab.name] = lie
        seams += [sewn(n, (back.piece, f"{side} tab"), ("tab", "turned", "back"), line, even_stack(stack, line), how,
            margin) for n in names]  # fmt: skip
    foot = stated("strap.foot", 2 * margin + ROW_GAP, "mm", "the rows of its tabs, and a margin", rows=ROW_GAP)
    reasons = {**draft.reasons, foot.name: foot}
    return replace(draft, pieces=tuple(pieces), seams=tuple(seams), reasons=reasons, lies=lies)


PART = Part(40, sling)
