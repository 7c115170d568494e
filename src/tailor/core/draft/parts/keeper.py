"""Keeper: a strap round the object above the mouth, sewn to the loop that stands there out of the back."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from tailor.core.draft.carry import row_places
from tailor.core.draft.draft import Fitted, Hardware, Lying
from tailor.core.draft.holes import straight_row
from tailor.core.draft.piece import Fitting, punched
from tailor.core.draft.sewn import even_stack, sewn, stitching_of, two_layers
from tailor.core.draft.strips import Strip, buttoned, crosswise
from tailor.core.errors import InputError
from tailor.core.leather.fastenings import FASTENINGS, Fastening
from tailor.core.reason import Reason, stated
from tailor.core.settings import Settings

BORDER = 4.0  # mm of keeper on either side of its button
ABOVE = 3.0  # mm that it stays above the mouth
UPRIGHT = 7.0  # mm between the two upright rows that hold it


def keeper_width(settings: Settings, button: Fastening) -> Reason:
    """Width of a keeper that closes with a button, mm."""
    rule = "the button and a border of leather beside it"
    return settings.settled(stated("keeper.width", button.cap + 2 * BORDER, "mm", rule, button=button.cap))


def keeper_round(settings: Settings, draft: Fitted) -> Fitted:
    """The draft with its keeper, at the narrowest place in reach. Raises InputError where nothing holds one there."""
    tab, loft, leather = draft.tab, draft.shell.loft, draft.shell.leather
    button, mouth = FASTENINGS[settings.word("keeper.button")], draft.value("mouth.y")
    if tab is None:
        raise InputError(
            "no leather stands above the mouth to hold a keeper round the object", "keeper.way",
            "set it to over, or use a folded sheath with a loop out of its back",
        )  # fmt: skip
    wide = settings.settled(stated("keeper.width", button.cap + 8.0, "mm",
        "the button and a border of leather beside it", button=button.cap))  # fmt: skip
    half = wide.value / 2
    low, high = mouth + half + ABOVE, min(tab.begins - half, loft.top - half)
    if high < low:
        raise InputError(
            f"the loop leaves {max(tab.begins - mouth, 0):.0f} mm above the mouth, too little for a keeper "
            f"{wide.value:.0f} mm wide", "keeper.width", "raise the loop (loop.rise), or take a smaller button",
        )  # fmt: skip
    heights = np.linspace(low, high, max(int(high - low), 1) + 1)
    girths = loft.sections(heights).girth()
    k = int(girths.argmin())
    at = settings.settled(stated("keeper.at", heights[k], "mm", "the narrowest place within reach", girth=girths[k]))
    if not mouth <= at.value - half + 1e-6 or at.value > loft.top:
        raise InputError(
            f"a keeper at {at.value:g} mm lies on the case or off the object", "keeper.at",
            f"give a height between {low:.0f} and {high:.0f} mm",
        )  # fmt: skip
    own = float(loft.sections(np.array([at.value])).girth()[0])
    clear, offset = draft.shell.clearance, leather.offset
    girth = own + 2 * np.pi * (clear + offset)
    lap, tab_ = settings.number("keeper.overlap"), settings.number("keeper.tab")
    how = stitching_of(settings, leather, ends=0)
    places = row_places(wide.value, draft.value("seam.margin") / 2, how.pitch.value)
    names = ("keeper row 1", "keeper row 2")
    behind = girth / 2  # the closing lies on the front; half way round is the middle of the back
    strip = Strip(half, -lap / 2, girth + lap / 2 + tab_, tongue=half)
    sides = (-UPRIGHT / 2, UPRIGHT / 2)
    rows, holes = crosswise(names, "tab", places, [behind + s for s in sides], how.hole.value)
    (socket, slits), under = buttoned(button, 0.0, girth), Fitting(button.name, 0.0, 0.0, button.hole, button.cap)
    made = strip.piece("keeper", leather.thickness, rows, holes, (socket, under), slits, at=behind * 0.5)
    seen = [np.column_stack([np.full(len(places), tab.middle + s), at.value + places]) for s in sides]
    flat = tuple(h for n, row in zip(names, seen, strict=True) for h in punched(n, "back", row, how.hole.value))
    pieces = tuple(
        replace(p, stitch=(*p.stitch, *seen), holes=(*p.holes, *flat)) if p.name == "body" else p for p in draft.pieces
    )
    two = even_stack(two_layers(("keeper", "back"), leather.thickness), straight_row(places))
    seams = tuple(sewn(n, ("body", "keeper"), ("tab", "back"), straight_row(places), two, how, half) for n in names)
    thick = leather.thickness
    halves = tuple(
        Hardware(
            button.name,
            f"keeper, {end}",
            at.value,
            thick,
            button.post(thick),
            lap / 2 >= button.edge,
            0.0,
            "keeper.button",
        )
        for end in ("inner end", "outer end")
    )  # fmt: skip
    x = loft.sizes(np.array([at.value]))[0]
    left, right = x[0] - clear - thick, x[0] + x[1] + clear + thick
    low, high = at.value - half, at.value + half
    band = np.array([(left, low), (right, low), (right, high), (left, high)])
    said = (
        wide, at,
        stated("keeper.girth", girth, "mm", "round the object and its clearance, at the leather's neutral line",
               object=own, clearance=clear, neutral=offset),
        stated("keeper.length", girth + lap + tab_, "mm", "its girth, the overlap and a finger's tab",
               girth=girth, overlap=lap, tab=tab_),
    )  # fmt: skip
    return replace(
        draft, pieces=(*pieces, made), seams=(*draft.seams, *seams), hardware=(*draft.hardware, *halves),
        lying=(*draft.lying, Lying("keeper", band, False)),
        reasons={**draft.reasons, **{r.name: r for r in said}},
    )  # fmt: skip
