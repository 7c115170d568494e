"""Hanger: what a case rides on a belt by where that is no loop: slots in a plate, a dangler on a ring, a clip."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely

from tailor.core import habit, measure
from tailor.core.carried.loft import Array
from tailor.core.carried.weight import together
from tailor.core.draft.draft import Carriage, Fitted, Hardware
from tailor.core.draft.fitted.faces import face, top_of
from tailor.core.draft.part import Part
from tailor.core.draft.piece import Fitting, Piece
from tailor.core.draft.stitch.holes import straight_row
from tailor.core.draft.stitch.sewn import Stitching, even_stack, sewn, stitching_of
from tailor.core.draft.stuff import leather_for
from tailor.core.draft.worn.carry import ROW_GAP, SLACK, cant_of, row_places
from tailor.core.draft.worn.hang import made_up, thing
from tailor.core.draft.worn.lying import StitchedDown
from tailor.core.draft.worn.over import across
from tailor.core.draft.worn.strips import Strip, crosswise, stadium
from tailor.core.draft.worn.turned import half_round
from tailor.core.errors import InputError
from tailor.core.leather.leather import Leather
from tailor.core.leather.stack import Layer, Stack
from tailor.core.measure import Along, Theme
from tailor.core.placed.lies import Bent
from tailor.core.placed.path import looped, twice_looped
from tailor.core.placed.rings import Ring
from tailor.core.reason import Reason, stated
from tailor.core.settings import Settings

MEASURES = (
    measure.length("slots.play", Theme.BELT, "slot play", "how much longer than the belt is wide a slot is", 0, 10,
        usual=1.5, first=True, at=(Along.LOOP_LEFT, 0.6)),
    measure.length("slots.length", Theme.BELT, "slot length", "length of a belt slot", 5, 160, first=True,
        at=(Along.LOOP_LEFT, 0.4)),
    measure.length("slots.width", Theme.BELT, "slot width", "width of a belt slot: of the punch for its ends", 1, 25,
        at=(Along.LOOP_RIGHT, 0.6)),
    measure.length("slots.web", Theme.BELT, "web", "leather left round a belt slot", 4, 60, at=(Along.LOOP_RIGHT, 0.8)),
)  # fmt: skip

SLOTS, DANGLER, CLIP = "slots", "dangler", "clip"
ROOM = habit.bench("slots.room", 1.0, 0.5, 4, "that a slot is wider than the belt is thick")
WEB = habit.bench("slots.web_least", 10.0, 6, 25, "of leather beside a slot, where it is thin")
WEBS = habit.bench("slots.webs", 4.0, 2, 8, "the leather's thickness, that is left beside a slot", habit.TIMES)
FAR = 1000.0  # mm: further than any back is wide
DOWN, STEP = 50.0, 2.0  # mm below its mouth that a case may hang by at the most, and that it is tried down
BESIDE = 3.0  # mm on either side of a row, over which the back's slope is taken
EVEN = 0.2  # mm that a needle may miss by in the outer leg of a folded tab
WINGS = 15.0  # mm: radius with which the ends of a plate turn along the belt
SLOPES = 0.4  # to which a plate still lies down
PLANE = Bent()
PLATE, STRAP, TAB = "belt plate", "dangler", "ring tab"
RIVET = "rapid rivet 7"


def hanger(settings: Settings, draft: Fitted) -> Fitted:
    """The draft with its hanger. Raises InputError where there is no room for it on the back."""
    makes = {SLOTS: _slotted, DANGLER: _dangled, CLIP: _clipped}.get(settings.word("loop.landing"))
    return draft if makes is None else makes(settings, draft)


def _weight_at(settings: Settings, draft: Fitted) -> float:
    """x of the case's and its object's weight together, mm."""
    case = draft.shell
    leather = made_up(settings, draft)
    return together((thing(settings, case.loft)[0], leather)).x


def _row(draft: Fitted, at: tuple[float, float], angle: float, wide: float, pitch: float) -> Array:
    """Places of stitches in a row about a place on the back, a margin clear of its welts and its mouth, (n,).

    angle: of the row to the level, degrees. Raises InputError where there is no room.
    """
    room = draft.plan.between.buffer(-draft.value("seam.margin"))
    turn = np.radians(angle)
    halves = []
    for way in (-1.0, 1.0):
        far = (at[0] + way * FAR * float(np.cos(turn)), at[1] + way * FAR * float(np.sin(turn)))
        beam = shapely.LineString([at, far]).intersection(room)
        near = [part.length for part in shapely.get_parts(beam) if part.distance(shapely.Point(at)) < 1e-6]
        halves.append(max(near, default=0.0))
    half = min(*halves, wide / 2)
    if half < pitch / 2:
        raise InputError(
            f"the back has {2 * half:.0f} mm of room at {at[1]:.0f} mm for the stitches of what it hangs by",
            "loop.landing", "set it to none, or widen the standoff",
        )  # fmt: skip
    return row_places(2 * half, 0.0, pitch)


def _middle(draft: Fitted, x: float, y: float, wide: float) -> float:
    """The place on the back nearest to x where something so wide fits at a height, a margin from its sides."""
    left, right = across(draft, y)
    spare = max((right - left - wide) / 2 - draft.value("seam.margin"), 0.0)
    return float(np.clip(x, (left + right) / 2 - spare, (left + right) / 2 + spare))


def _level(draft: Fitted, x: float, top: float, apart: float, wide: float, even: float) -> tuple[float, float]:
    """The middle of the upper of two rows so far apart, for something so wide: near to x, and as high as the back goes
    on evenly from the one to the other. even: by how much its slope may differ there.
    """
    back, found, least = face(draft, "back"), (0.0, top), np.inf
    rows = np.array([[BESIDE, 0.0, -BESIDE], [BESIDE, 0.0, -BESIDE]]) - [[0.0], [apart]]
    for y in np.arange(top, top - DOWN, -STEP):
        at = _middle(draft, x, y - apart, wide)
        places = np.array(np.meshgrid(at + wide / 3 * np.array([-1.0, 0.0, 1.0]), y + rows.ravel())).reshape(2, -1).T
        out = back.out(places).reshape(2, 3, 3)
        along = (out[0, 1] - out[1, 1]) / apart
        off = float(np.abs(-np.diff(out, axis=1) / BESIDE - along).max())
        if off < least:
            found, least = (at, float(y)), off
        if off <= even or y - STEP - apart - ROW_GAP < draft.shell.loft.tip:
            break
    return found


def _lower(asked: float, y: float) -> tuple[Reason, ...]:
    """By how much it hangs lower than it might, and why; nothing where it does not."""
    if asked - y < STEP / 2:
        return ()
    why = f"above that the back bends too much for both its rows to lie down; {DOWN:g} mm lower at the most"
    return (stated("loop.down", asked - y, "mm", why, highest=asked),)


def slot_sizes(
    settings: Settings, leather: Leather, least: float = 0.0
) -> tuple[Reason, Reason, Reason, float]:  # fmt: skip
    """A belt slot's width and length, the leather left round it, at least so much, and what its round ends take, mm."""
    number = settings.number
    belt, thick = number("belt.width"), number("belt.thickness")
    wide = settings.settled(
        stated("slots.width", thick + settings.habit(ROOM), "mm", "the belt's thickness and a little", belt=thick)
    )
    if wide.value < thick:
        raise InputError(
            f"a slot {wide.value:g} mm wide does not take a belt {thick:g} mm thick", "slots.width", "let it go to auto"
        )
    ends = wide.value - np.sqrt(wide.value**2 - thick**2)
    long = settings.settled(
        stated("slots.length", belt + ends + number("slots.play"), "mm",
               "the belt, a little play, and what its corners lose in the round ends", belt=belt, round_ends=ends)
    )  # fmt: skip
    web = settings.settled(
        stated("slots.web", max(settings.habit(WEB), settings.habit(WEBS) * leather.thickness, least), "mm",
               "enough that the pull does not tear it", leather=leather.thickness)
    )  # fmt: skip
    if long.value - ends < belt:
        raise InputError(
            f"a slot {long.value:g} mm long does not take a belt {belt:g} mm wide", "slots.length", "let it go to auto"
        )
    return wide, long, web, float(ends)


def _slotted(settings: Settings, draft: Fitted) -> Fitted:
    """A plate sewn to the back between two slots: the belt goes in at one, behind the case, and out at the other."""
    leather, cut_of = leather_for(settings, "loop")
    wide, long, web, ends = slot_sizes(settings, leather)
    margin, how = draft.value("seam.margin"), stitching_of(settings, draft.shell.leather, ends=0)
    half = long.value / 2 + web.value
    apart = 2 * (half - margin)
    middle = sum(across(draft, top_of(draft) - margin - half)) / 2
    asked = top_of(draft) - 2 * margin
    upper = _level(draft, middle, asked, apart, apart / 2, SLOPES)[1]
    y = upper - apart / 2
    cant = cant_of(settings)
    turn = np.radians(-cant.value)
    way = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    heights = (half - margin, margin - half)
    reach = shapely.clip_by_rect(shapely.Polygon(draft.plan.outline).buffer(0), -1e4, y - half, 1e4, y + half)
    x = sum(across(draft, y)) / 2
    lying = (shapely.get_coordinates(reach) - [x, y]) @ way.T
    out = float(np.abs(lying[:, 0]).max()) + web.value
    pitch = how.pitch.value
    middles = np.column_stack([np.zeros(2), heights]) @ way + [x, y]
    every = [_row(draft, (float(u), float(v)), -cant.value, FAR, pitch) for u, v in middles]
    places = min(every, key=np.ptp)
    names = ("plate row 1", "plate row 2")
    strip = Strip(out + wide.value + web.value, -half, half)
    rows, holes = crosswise(names, "tab", places, heights, how.hole.value)
    slots = tuple(stadium(long.value, wide.value, np.array([0.0, 1.0]), np.array([side * (out + wide.value / 2),
        0.0])) for side in (-1.0, 1.0))  # fmt: skip
    piece = strip.piece(PLATE, leather.thickness, rows, holes, openings=slots, at=0.0)
    seen = tuple(np.asarray(row @ way + [x, y]) for row in rows)
    carriage = Carriage(
        (x, y), 2 * (out + wide.value), float(long.value - ends), cant.value, seen,
        np.asarray(strip.outline() @ way + [x, y]), slots=tuple(np.asarray(slot @ way + [x, y]) for slot in slots),
    )  # fmt: skip
    stack = Stack((Layer("plate", leather.thickness), Layer("back", draft.shell.leather.thickness)))
    why = (cut_of, long, wide, web, cant, *_lower(asked, upper))
    return _hung_by(draft, piece, names, carriage, stack, how, places, why)


def _dangled(settings: Settings, draft: Fitted) -> Fitted:
    """A ring in a tab on the back, and a strap that goes from the ring round the belt."""
    number, (leather, cut_of) = settings.number, leather_for(settings, "loop")
    ring, how = settings.trimming("loop.ring"), stitching_of(settings, draft.shell.leather, ends=0)
    margin = draft.value("seam.margin")
    opening = number("belt.width") + number("loop.play")
    round_belt, _ = half_round(leather, number("belt.thickness") + settings.habit(SLACK), opening)
    round_ring, ring_deep = half_round(leather, ring.wire, ring.wire)
    tab_names = ("ring row 1", "ring row 2")
    waist = ROW_GAP + 2 * margin
    wide = ring.inside - 1.0
    asked = top_of(draft) - margin
    x, y = _level(draft, _weight_at(settings, draft), asked, ROW_GAP, wide, EVEN / leather.thickness)
    places = _row(draft, (x, y - ROW_GAP), 0.0, wide - margin, how.pitch.value)
    tab = ring_tab(TAB, tab_names, leather, places, wide, (round_ring, margin), how.hole.value)
    seen = tuple(np.column_stack([x + places, np.full(len(places), y - v)]) for v in (0.0, ROW_GAP))
    # The strap: three times through its waist, once round the ring and once round the belt.
    passes = (0.0, waist + 2 * round_ring, 2 * waist + 2 * round_ring + 2 * round_belt)
    names = ("dangler row 1", "dangler row 2")
    sewn_at = [crosswise((n,), e, places, (at + (inset if k != 1 else waist - inset),), how.hole.value) for k, (at,
        e) in enumerate(zip(passes, ("tab", "turned", "outer"), strict=True)) for n, inset in zip(names, (margin,
        margin + ROW_GAP), strict=True)]  # fmt: skip
    length = passes[2] + waist
    strap = Strip(wide / 2, 0.0, length).piece(
        STRAP, leather.thickness, [r for rows, _ in sewn_at for r in rows], tuple(h for _, hs in sewn_at for h in hs),
        at=length / 2,
    )  # fmt: skip
    pivot = y + margin + ring_deep
    half = wide / 2
    outline = np.array([(x - half, y - waist), (x + half, y - waist), (x + half, pivot), (x - half, pivot)])
    carriage = Carriage((x, pivot), 0.0, opening, 0.0, seen, outline, free=True)
    legs = (Layer(n, leather.thickness) for n in ("leg", "turned leg"))
    three = Stack((*legs, Layer("back", draft.shell.leather.thickness)))
    why = (
        cut_of,
        stated("loop.length", length, "mm", "three times through its waist, round the ring and round the belt",
               waist=waist, ring=2 * round_ring, belt=2 * round_belt),
        stated("loop.tab", 2 * (round_ring + waist), "mm", "two legs and once round the ring",
               leg=waist, ring=2 * round_ring),
        *_lower(asked, y),
    )  # fmt: skip
    reach = round_ring + margin  # from the fold to where its legs meet
    folded_ = Bent(up=looped(reach + waist - margin, reach, leather.thickness), follows=True)
    made = _hung_by(draft, tab, tab_names, carriage, three, how, places, why, ("tab", "turned", "back"), folded_)
    folded = Stack(tuple(Layer(n, leather.thickness) for n in ("inner", "middle", "outer")))
    row = straight_row(places)
    more = tuple(
        sewn(n, (STRAP,), ("tab", "turned", "outer"), row, even_stack(folded, row), how, margin) for n in names
    )
    in_tab = Ring(f"ring in the {TAB}", TAB, STRAP, 0.0, round_ring, ring.inside, ring.wire)
    lies = {**made.lies}
    if TAB in lies:
        frame = in_tab.frame(lies[TAB])
        lies[STRAP] = Bent(
            replace(frame, origin=frame.origin + in_tab.deep * frame.up),
            up=twice_looped(waist, round_ring, round_belt, leather.thickness),
        )
    ring_on = Hardware(ring.name, "between tab and dangler", pivot, 0.0, None, True, 0.0, "loop.ring")
    return replace(
        made, pieces=(*made.pieces, strap), seams=(*made.seams, *more), hardware=(*made.hardware, ring_on), lies=lies,
        rings=(*made.rings, in_tab),
    )  # fmt: skip


def ring_tab(
    name: str, rows: tuple[str, str], leather: Leather, places: Array, wide: float, legs: tuple[float, float],
    hole: float,
) -> Piece:  # fmt: skip
    """A tab folded round a ring, its two legs lying on one another. legs: flat half way round the ring, and from where
    they meet to the first row, mm. rows: their names, the nearer to the ring first.
    """
    near = sum(legs)
    far = near + ROW_GAP
    every = [(rows[0], "tab", -near), (rows[1], "tab", -far), (rows[0], "turned", near), (rows[1], "turned", far)]
    if not len(places):  # riveted, not sewn
        every = []
    lines = [crosswise((row,), edge, places, (v,), hole) for row, edge, v in every]
    end = far + legs[1]
    return Strip(wide / 2, -end, end).piece(
        name, leather.thickness, [line for found, _ in lines for line in found],
        tuple(h for _, found in lines for h in found), at=0.0,
    )  # fmt: skip


def _clipped(settings: Settings, draft: Fitted) -> Fitted:
    """A bought clip, held to the back by two rivets one above the other."""
    clip, rivet = settings.trimming("loop.clip"), settings.maker.fastening(RIVET, "loop.clip")
    y, thick, back = top_of(draft) - draft.value("seam.margin"), draft.shell.leather.thickness, face(draft, "back")
    belt = settings.number("belt.width")
    if clip.inside < belt:
        raise InputError(
            f"a {clip.name} takes a belt up to {clip.inside:g} mm, and this is {belt:g} mm wide", "loop.clip",
            "take a larger clip, or a loop",
        )  # fmt: skip
    heights = (y - rivet.edge, y - rivet.edge - clip.rivets)
    x = _middle(draft, _weight_at(settings, draft), heights[-1], clip.wide)
    room = draft.plan.between.buffer(-rivet.edge)
    fits = [bool(room.contains(shapely.Point(x, v))) for v in heights]
    stack = thick + clip.wire
    told = [Hardware(RIVET, f"clip, {end} rivet", v, stack, rivet.post(stack), fit, 0.0, "loop.clip") for end, v,
        fit in zip(("upper", "lower"), heights, fits, strict=True)]  # fmt: skip
    flat = back.flat(np.array([(x, v) for v in heights]))
    on = tuple(Fitting(RIVET, float(u), float(v), rivet.hole, rivet.cap)
               for (u, v), fit in zip(flat, fits, strict=True) if fit)  # fmt: skip
    pieces = tuple(replace(p, fittings=(*p.fittings, *on)) if p.name == back.piece else p for p in draft.pieces)
    half, low = clip.wide / 2, y - clip.inside - 2 * rivet.edge
    middle = y - rivet.edge - clip.inside / 2
    outline = np.array([(x - half, low), (x + half, low), (x + half, y), (x - half, y)])
    carriage = Carriage((x, middle), clip.wide, clip.inside, 0.0, (), outline)
    why = stated("loop.width", clip.wide, "mm", f"of a {clip.name}", inside=clip.inside)
    return replace(
        draft, pieces=pieces, carriage=carriage, hardware=(*draft.hardware, *told),
        reasons={**draft.reasons, why.name: why},
    )  # fmt: skip


def _hung_by(
    draft: Fitted, piece: Piece, names: tuple[str, ...], carriage: Carriage, stack: Stack, how: Stitching,
    places: Array, why: tuple[Reason, ...], edges: tuple[str, ...] = ("tab", "back"), shape: Bent = PLANE,
) -> Fitted:  # fmt: skip
    """The draft with a piece sewn to its back by rows, as the carriage lies. shape: as it is bent."""
    back, row = face(draft, "back"), straight_row(places)
    profile, margin = even_stack(stack, row), draft.value("seam.margin")
    seams = tuple(sewn(n, (back.piece, piece.name), edges, row, profile, how, margin) for n in names)
    level = WINGS if piece.name == PLATE else 0.0  # the belt draws its ends flat
    held = StitchedDown(piece, names, back, draft.lies, draft.shell.leather.thickness, shape, level=level)
    facing, piece, lie = held.sewn(carriage.rows, "turned" in edges)
    own = tuple(back.rowed(p, names, facing, how.hole.value) for p in draft.pieces)
    return replace(
        draft, pieces=(*own, piece), seams=(*draft.seams, *seams),
        carriage=replace(carriage, rows=tuple(row[::-1] for row in facing)),
        lies=draft.lies if lie is None else {**draft.lies, piece.name: lie},
        reasons={**draft.reasons, **{r.name: r for r in why}},
    )  # fmt: skip


PART = Part(60, hanger)
