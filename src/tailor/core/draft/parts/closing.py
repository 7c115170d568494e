"""Closing: a keeper or a flap sewn to the back, over the top and down on the front."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from shapely.geometry import Point

from tailor.core import habit, measure
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Fitted, Hardware, Lying
from tailor.core.draft.fitted.faces import Face, face
from tailor.core.draft.part import Part
from tailor.core.draft.parts.keeper import keeper_round
from tailor.core.draft.piece import Fitting, Piece, Rule
from tailor.core.draft.stitch.holes import straight_row
from tailor.core.draft.stitch.sewn import even_stack, sewn, stitching_of, two_layers
from tailor.core.draft.stuff import leather_for
from tailor.core.draft.worn.carry import ROW_GAP, row_places
from tailor.core.draft.worn.over import across, brim_at, middle_of, neutral, over
from tailor.core.draft.worn.round import ROUND
from tailor.core.draft.worn.strips import Strip, buttoned, crosswise
from tailor.core.errors import InputError
from tailor.core.leather.fastenings import Fastening
from tailor.core.maker import Maker
from tailor.core.measure import Theme
from tailor.core.placed.lies import ACROSS, UP, Bent, Frame, Lie
from tailor.core.placed.path import Path, through
from tailor.core.placed.sewn import adrift, along, brought, twisted
from tailor.core.reason import Reason, greatest, stated
from tailor.core.settings import Settings

MEASURES = (
    measure.pick("flap.closing", Theme.FLAP, "flap", "a flap over the mouth: plain, or closed with a button", "none",
        ("none", "plain"), stock=("snap", "stud"), first=True),
    measure.length("flap.width", Theme.FLAP, "flap width", "width of the flap where it is sewn on", 8, 400, first=True),
    measure.length("flap.reach", Theme.FLAP, "flap reach", "how far the flap comes down over the front", 4, 400,
        first=True),
    measure.told("flap.length", Theme.FLAP, "flap length"),
)  # fmt: skip

NONE, OVER = "none", "over"
KEEPER, FLAP = "keeper", "flap"
TAPER = habit.eye("flap.taper", 0.1, 0, 0.25, "of its width, that a case's flap narrows on either side", habit.SHARE)
TONGUE = habit.eye("flap.tongue", 0.35, 0.2, 0.48, "of a case's flap, that its end is rounded by", habit.SHARE)
REACH = habit.eye("flap.down", 0.3, 0.15, 0.6, "of the case's depth, that a flap comes down on its front", habit.SHARE)


def closing(settings: Settings, draft: Fitted) -> Fitted:
    """The draft with its keeper and its flap. Raises InputError where there is nothing to hold them."""
    keeper, flap = settings.word("keeper.way"), settings.word("flap.closing")
    if keeper == ROUND:
        draft = keeper_round(settings, draft)
    if flap == NONE and keeper != OVER:
        return draft
    what, key = (FLAP, "flap.closing") if flap != NONE else (KEEPER, "keeper.way")
    if draft.tab is not None:
        raise InputError(
            f"the loop out of the back stands where a {what} would rise", key,
            "set loop.landing to sewn, or keep it by a strap round the object (keeper.way round)",
        )  # fmt: skip
    if flap != NONE and keeper == OVER:
        raise InputError("a flap and a keeper cannot both go over the top", key, "set one of them to none")
    return _flap(settings, draft) if flap != NONE else _keeper(settings, draft)


def _keeper(settings: Settings, draft: Fitted) -> Fitted:
    button = settings.fastening("keeper.button")
    wide = settings.settled(stated("keeper.width", button.cap + 8.0, "mm",
        "the button and a border of leather beside it", button=button.cap))  # fmt: skip
    x = middle_of(draft)
    end = brim_at(draft, x) - button.edge - 2.0
    beyond = button.edge + settings.number("keeper.tab")
    strip = Strip(wide.value / 2, 0.0, 0.0, tongue=wide.value / 2)
    return _sewn_over(settings, draft, KEEPER, strip, (x, end, beyond), button, (wide,))


def _flap(settings: Settings, draft: Fitted) -> Fitted:
    taper = settings.habit(TAPER)
    button = settings.fastening_if("flap.closing")
    mouth, tip = draft.value("mouth.y"), draft.shell.loft.tip
    left, right = across(draft, mouth - 0.5)
    cut = draft.value("seam.stitch_inset") + draft.value("seam.margin")
    whole = right - left + cut * (1.0 if draft.plan.fold is not None else 2.0)
    wide = settings.settled(stated("flap.width", whole, "mm", "as wide as the case at its mouth", between=right - left))
    x = (left + right + (cut if draft.plan.fold is not None else 0.0)) / 2
    tongue = settings.habit(TONGUE) * wide.value
    least = 0.0 if button is None else tongue / 2 + button.edge
    down = settings.habit(REACH) * (mouth - tip)
    rules = {"its share of the way down the front": down, "the button lies on the front": least}
    reach = settings.settled(greatest("flap.reach", "mm", rules, {"depth": mouth - tip}))
    brim = brim_at(draft, x)
    beyond = tongue / 2 if button is not None else 0.0
    end = brim - max(reach.value - beyond, 2.0)
    strip = Strip(wide.value * (0.5 - taper), 0.0, 0.0, tongue, taper * wide.value)
    return _sewn_over(settings, draft, FLAP, strip, (x, end, beyond), button, (wide, reach))


def _sewn_over(
    settings: Settings, draft: Fitted, name: str, strip: Strip, where: tuple[float, float, float],
    button: Fastening | None, why: tuple[Reason, ...],
) -> Fitted:  # fmt: skip
    """A strip sewn to the back by two rows, over the top and down. where: x, the height it closes at, and how far it
    goes on beyond that, mm.
    """
    x, end, beyond = where
    under, margin, mouth = draft.shell.leather.thickness, draft.value("seam.margin"), draft.value("mouth.y")
    how, back = stitching_of(settings, draft.shell.leather, ends=0), face(draft, "back")
    leather = draft.shell.leather
    if name == KEEPER:  # a flap is cut as the body is
        leather, cut_of = leather_for(settings, "strap")
        why = (cut_of, *why)
    lift = (leather.thickness + under) / 2
    root = mouth - margin
    low = -(ROW_GAP + margin)
    way = over(draft, leather, x, root, end)
    left, right = across(draft, root - ROW_GAP)
    room = min(x - left, right - x) - margin
    if room < how.pitch.value:
        raise InputError(
            f"the back has no room for the {name}'s stitches at its mouth", f"{name}.width", "widen the standoff"
        )
    places = row_places(2 * min(room, strip.half + strip.taper - margin), 0.0, how.pitch.value)
    names, heights = (f"{name} row 1", f"{name} row 2"), (0.0, -ROW_GAP)
    rows, holes = crosswise(names, "tab", places, heights, how.hole.value)
    fittings, slits = ((), ()) if button is None else _button(settings.maker, button, way.length)
    whole = replace(strip, low=low, high=way.length + beyond)
    made = whole.piece(name, leather.thickness, rows, holes, fittings, slits, at=way.length / 2)
    run = neutral(way) * [-1.0, 1.0]  # how far out behind, and the height
    straight = Path(start=(float(run[0, 1]), float(run[0, 0])))
    plain = Bent(Frame(np.array([x, 0.0, 0.0]), -ACROSS, UP), up=through(run[:, ::-1]), up_lifted=straight)
    own = [np.column_stack([x - places, np.full(len(places), root + v)]) for v in heights]
    own, lie = _come_down(plain, rows, draft.lies.get(back.piece), back, own, lift)
    pieces = [back.rowed(p, names, own, how.hole.value) for p in draft.pieces]
    hardware = list(draft.hardware)
    if button is not None:
        pieces, more = _closed(pieces, draft, name, leather.thickness, button, (x, end))
        hardware += more
    two = even_stack(two_layers((name, "back"), leather.thickness, under), straight_row(places))
    seams = tuple(sewn(n, (back.piece, name), ("tab", "back"), straight_row(places), two, how, margin) for n in names)
    top = float(way.inner[:, 1].max()) + leather.thickness
    seen = Lying(name, _seen(strip, x, end - beyond, top), False)
    said = (
        *why,
        stated(f"{name}.length", way.length - low + beyond, "mm",
               "taut from its rows over the top to where it closes, and the bend's share",
               over=way.length, bend=way.offset * way.turns, foot=-low, beyond=beyond),
        stated(f"{name}.foot", margin - low, "mm", "its rows below the mouth, and a margin", rows=ROW_GAP),
    )  # fmt: skip
    return replace(
        draft, pieces=(*pieces, made), seams=(*draft.seams, *seams), hardware=tuple(hardware),
        lies={**draft.lies, name: lie} if draft.lies else {}, ways=(*draft.ways, way), lying=(*draft.lying, seen),
        reasons={**draft.reasons, **{r.name: r for r in said}},
    )  # fmt: skip


def _come_down(
    plain: Bent, rows: Sequence[Array], on: Lie | None, back: Face, seen: list[Array], lift: float
) -> tuple[list[Array], Lie]:  # fmt: skip
    """The rows on the back, as seen from the front, where those of a strip come down; and how that lies then, going
    with the back from side to side. plain: as it lies behind a flat one; rows: its own; on: how the back lies.
    """
    if on is None:
        return seen, plain

    def tried(by: Array) -> tuple[Array, tuple[list[Array], Lie]]:
        moved = [row + each for row, each in zip(seen, by, strict=True)]
        placed = [on(row) for row in back.strips(moved)]
        bend = along(rows[0][:, 0], placed[0], lift)
        middle = np.asarray(bend.start) - bend.at(np.zeros(1))[0]
        bent = replace(plain, across=replace(bend, start=(float(middle[0]), float(middle[1]))))
        lie = twisted(bent, list(rows), placed, lift)
        off = [adrift(lie(own), there)[:2] for own, there in zip(rows, placed, strict=True)]
        return np.array(off), (moved, lie)

    return brought(tried, np.zeros((len(seen), 2)))[1]


def _button(maker: Maker, button: Fastening, at: float) -> tuple[tuple[Fitting, ...], tuple[Rule, ...]]:
    fitting, slits = buttoned(maker, button, 0.0, at)
    return (fitting,), slits


def _seen(strip: Strip, x: float, low: float, high: float) -> Array:
    """A strip that has come over the top, seen from the front: its head is down, (n, 2)."""
    whole = replace(strip, low=0.0, high=high - low).outline()
    return np.asarray(whole * [1.0, -1.0] + [x, high])


def _closed(
    pieces: list[Piece], draft: Fitted, name: str, own: float, button: Fastening, at: tuple[float, float]
) -> tuple[list[Piece], list[Hardware]]:
    """The other half of a button on the front, if there is room for it, and what is to be had of both. own: how thick
    the strap is, mm.
    """
    front, thick = face(draft, "front"), draft.shell.leather.thickness
    clear = draft.plan.between.buffer(-button.edge / 2).contains(Point(at))
    found = bool(clear and at[1] + button.edge <= brim_at(draft, at[0]) + 1e-6)
    if found:
        (spot,) = front.flat(np.array([at]))
        fitting = Fitting(button.name, float(spot[0]), float(spot[1]), button.hole, button.cap)
        pieces = [replace(p, fittings=(*p.fittings, fitting)) if p.name == front.piece else p for p in pieces]
    key = "flap.closing" if name == FLAP else "keeper.button"
    halves = [Hardware(button.name, f"{name}, on the front", at[1], thick, button.post(thick), found, 0.0, key)]
    if button.kind == "snap":
        halves.append(Hardware(button.name, f"{name}, on its strap", at[1], own, button.post(own), True, 0.0, key))
    return pieces, halves


PART = Part(20, closing)
