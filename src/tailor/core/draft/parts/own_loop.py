"""Belt: what a case rides on a belt by, seen from the front, and the loop that is a piece of its own, sewn to the back.

A sewn loop is a strap that bridges the belt: its two feet are sewn to the back above and below. Its length follows
the neutral line over a slab as wide and thick as the belt with its play. Source: geometry, "Carry".
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely

from tailor.core import measure
from tailor.core.carried.loft import Array
from tailor.core.carried.weight import together
from tailor.core.draft.draft import Carriage, Fitted, Hardware, Plan
from tailor.core.draft.fitted.faces import Face, face, top_of
from tailor.core.draft.fitted.mouth import rounded
from tailor.core.draft.flat_goods.sleeve import drawn_over
from tailor.core.draft.folded.body import Tab
from tailor.core.draft.part import Part
from tailor.core.draft.piece import FLIP, Fitting, Mark, Piece, punched, title
from tailor.core.draft.stitch.holes import straight_row
from tailor.core.draft.stitch.sewn import even_stack, sewn, stitching_of, two_layers
from tailor.core.draft.stuff import leather_for
from tailor.core.draft.worn.carry import (
    FOOT_SHARE,
    ROW_GAP,
    Loop,
    cant_of,
    deep_of,
    loop_width,
    over_what_stands,
    row_places,
    standing_out,
    stands_for,
)
from tailor.core.draft.worn.hang import made_up, thing
from tailor.core.draft.worn.lying import StitchedDown
from tailor.core.draft.worn.roomy import BESIDE, FINE, deepened, lacking
from tailor.core.errors import InputError
from tailor.core.leather.fastenings import Fastening
from tailor.core.leather.leather import Leather
from tailor.core.measure import Along, Theme
from tailor.core.placed.lies import Bent, Lie, each
from tailor.core.placed.path import through
from tailor.core.reason import Reason, stated
from tailor.core.settings import Settings
from tailor.core.shell.run import of_chain
from tailor.core.shell.wrap import Chain

ROWS = ("loop row 1", "loop row 2", "loop row 3", "loop row 4")
FOOT = "loop foot"  # where its snaps are
WORDS = 6.0  # mm between a row of stitches and the words below it
SHARP = 0.2  # mm: a corner that is not rounded
MEASURES = (
    measure.length("loop.corner", Theme.BELT, "loop's corners", "radius of the corners of a loop of its own", 0, 40,
        usual=4.0, at=(Along.LOOP_LEFT, 0.02)),
)  # fmt: skip


@dataclass(frozen=True)
class SewnLoop:
    """A loop of its own, on its flat strap from the middle over the belt, up towards the mouth positive, mm.

    rows: along the strap to each row of stitches, from the top down. low, high: to its ends. across: places of a row's
    holes. snaps: (k, 2) across and along, on_back: (k, 2) the same seen from the front, where its lower foot opens;
    foot: places across it there, (n, 2), on_foot: the same seen from the front.
    """

    carriage: Carriage
    rows: tuple[float, ...]
    low: float
    high: float
    across: Array
    snap: Fastening | None
    snaps: Array
    on_back: Array
    foot: Array
    on_foot: Array
    reasons: tuple[Reason, ...]

    @property
    def deep(self) -> float:
        return next(reason.value for reason in self.reasons if reason.name == "loop.deep")


def of_tab(loop: Loop, tab: Tab, plan: Plan, mouth: float, belt: float) -> Carriage:
    """The carriage of a loop that grows out of the back: the belt hangs in the top of its fold."""
    assert plan.loop is not None
    middle = float(plan.loop[:, 0].mean())
    rows = tuple(
        np.column_stack([middle + tab.places - tab.middle, np.full(len(tab.places), v)]) for v in tab.back_rows
    )
    top = mouth + loop.rise.value
    return Carriage((middle, top - belt / 2), loop.width.value, loop.opening, 0.0, rows, plan.loop)


def taut(leather: Leather, opening: float, thick: float) -> tuple[Chain, float]:
    """The neutral line of a strap over the belt, and how far from its middle it is down on the back again, mm."""
    return drawn_over(leather, np.array([(-opening / 2, thick), (opening / 2, thick)]))


def bridge(leather: Leather, opening: float, thick: float, *outs: float) -> tuple[float, ...]:
    """Neutral lengths of a strap from its middle over the belt to so many mm beyond where it is down again."""
    line, end = taut(leather, opening, thick)
    half = of_chain(line, np.zeros(1))
    return tuple(float(half.length_to(np.array([end + out]))[0]) for out in outs)


def over_belt(leather: Leather, opening: float, thick: float, above: float, below: float) -> Array:
    """The neutral line of a strap over the belt, to so far beyond where it is down on either side of its middle, mm.

    (n, 2): along the back downwards from the belt's middle, and up from the back.
    """
    line, end = taut(leather, opening, thick)
    high, low = (run[run[:, 0] > 0] for run in (line.points(0, end + above), line.points(0, end + below)))
    return np.vstack([(high * FLIP)[::-1], low])


def sewn_loop(
    settings: Settings,
    leather: Leather,
    plan: Plan,
    mouth: float,
    margin: float,
    pitch: float,
    under: float,
    taken: float = 0.0,
    stands: float = 0.0,
) -> SewnLoop:
    """The loop for the belt of the settings.

    margin: row of stitches to the strap's end or side, and to whatever edge of the back is near. under: x of what
    hangs from it; the loop is put over that as nearly as the back allows. taken: by straps sewn to the back above it.
    stands: by how much the back stands out under it. Raises InputError where no loop fits.
    """
    belt, deep = settings.number("belt.width"), deep_of(settings, stands)
    thick = deep.value
    opening = belt + settings.number("loop.play")
    cant = cant_of(settings)
    flat = opening / 2 + thick / np.tan(np.radians(leather.approach))
    reach = flat + margin + ROW_GAP  # from the belt's middle to the further row
    snap = settings.fastening_if("loop.foot")
    below = reach + margin if snap is None else flat + 2 * snap.edge
    drop = settings.settled(
        stated("loop.drop", reach + margin + taken, "mm", "as high as both feet of the loop lie on the back",
               belt=belt, feet=2 * (reach - flat + margin))
    )  # fmt: skip
    y = mouth - drop.value
    highest = reach + margin + taken
    if drop.value < highest - 1e-6:
        raise InputError(
            f"a loop {reach + margin + below:.0f} mm long stands up beyond the back with its middle only "
            f"{drop.value:.1f} mm below the mouth", "loop.drop", f"give at least {np.ceil(10 * highest) / 10:.1f} mm",
        )  # fmt: skip
    left, right = _room(plan.between, y - below + margin, y + reach)
    room = right - left - 2 * margin
    if room < pitch:
        raise InputError(
            f"the back has {max(room, 0.0):.0f} mm of room for a loop {reach + margin + below:.0f} mm long",
            *(("loop.drop", "give less") if drop.value > highest + 1e-6 else
              ("loop.landing", "set it to none, or use a narrower belt")),
        )  # fmt: skip
    aside = np.sin(np.radians(cant.value))  # canted, its lower end lies to the spine side of its middle, its upper away
    low, high = left - min(-below * aside, reach * aside), right - max(-below * aside, reach * aside)
    width = loop_width(settings, min(room + 2 * margin, max(high - low, 0.0) / settings.habit(FOOT_SHARE)))
    half = width.value / 2
    x = float(np.clip(under, min(low + half, high - half), max(low + half, high - half)))
    places = row_places(width.value, margin, pitch)
    turn = np.radians(-cant.value)  # the case hangs turned the other way from the loop drawn on it
    way = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])

    def seen(across: Array, along: float) -> Array:
        return np.asarray(np.column_stack([across, np.full(len(across), along)]) @ way + [x, y])

    near, far = bridge(leather, opening, thick, margin, margin + ROW_GAP)
    rows, along = [reach, reach - ROW_GAP], [far, near]
    if snap is None:
        rows, along, low = [*rows, ROW_GAP - reach, -reach], [*along, -near, -far], far + margin
        beside, at, across = np.empty(0), 0.0, np.empty(0)
    else:
        at, low = bridge(leather, opening, thick, snap.edge, 2 * snap.edge)
        out = half - snap.edge
        beside = np.array([-out, out]) if 2 * out >= snap.apart else np.zeros(1)
        across = places
    feet = "and two feet of two rows each" if snap is None else "a foot of two rows, and one that snaps"
    length = Reason(
        "loop.length", far + margin + low, "mm", f"over the belt and its play, {feet}",
        {"belt": belt, "room": thick, "play": opening - belt},
    )  # fmt: skip
    top = reach + margin
    outline = np.array([(-half, -below), (half, -below), (half, top), (-half, top)]) @ way + [x, y]
    carriage = Carriage((x, y), width.value, opening, cant.value, tuple(seen(places, v) for v in rows), outline)
    snaps = np.column_stack([beside, np.full(len(beside), -at)])
    down = -(flat + snap.edge) if snap is not None else 0.0
    return SewnLoop(
        carriage, tuple(along), -low, far + margin, places, snap, snaps, seen(beside, down),
        np.column_stack([across, np.full(len(across), -at)]), seen(across, down), (width, deep, drop, length, cant)
    )  # fmt: skip


def _room(region: shapely.Geometry, low: float, high: float) -> tuple[float, float]:
    """The greatest x on the left and the least on the right of the back from one height to another."""
    lines = [shapely.LineString([(-1e4, v), (1e4, v)]) for v in np.linspace(low, high, 9)]
    cut = [line.intersection(region) for line in lines]
    if any(part.is_empty for part in cut):
        return 0.0, 0.0
    return max(part.bounds[0] for part in cut), min(part.bounds[2] for part in cut)


def strap(loop: SewnLoop, leather: Leather, hole: float, corner: float) -> Piece:
    """The loop as it is cut, grain side up, its length upright. corner: radius of its corners, mm."""
    half = loop.carriage.foot / 2
    corners = np.array([(-half, loop.low), (half, loop.low), (half, loop.high), (-half, loop.high)])
    radius = min(corner, half / 2)
    cut = corners if radius < SHARP else np.vstack([
        rounded(corners[k], corners[k - 1], corners[(k + 1) % 4], radius) for k in range(4)
    ])  # fmt: skip
    rows = [np.column_stack([loop.across, np.full(len(loop.across), v)]) for v in loop.rows]
    holes = tuple(h for name, row in zip(ROWS, rows, strict=False) for h in punched(name, "tab", row, hole))
    words = (
        Mark("title", 0.0, 0.0, title("loop", 1, leather.thickness), angle=90.0), Mark("face", half * 0.45, 0.0,
        "grain side up", angle=90.0), Mark("top", -half * 0.5, -10.0, "top", (-half * 0.5, 8.0)),
    )  # fmt: skip
    return Piece(
        "loop", 1, "body", leather.thickness, "grain", cut, stitch=tuple(rows), holes=holes, marks=words,
        fittings=_fittings(loop.snap, loop.snaps),
    )  # fmt: skip


def _fittings(snap: Fastening | None, places: Array) -> tuple[Fitting, ...]:
    if snap is None:
        return ()
    return tuple(Fitting(snap.name, float(x), float(y), snap.hole, snap.cap) for x, y in places)


def on_back(piece: Piece, loop: SewnLoop, back: Face, facing: Sequence[Array], hole: float) -> Piece:
    """The back with the rows and the snaps of a loop on it. facing: its rows as seen from the front."""
    rows = back.strips(facing[: len(loop.carriage.rows)])
    snaps = back.strips([loop.on_back])[0] if len(loop.on_back) else loop.on_back
    holes = tuple(h for name, row in zip(ROWS, rows, strict=False) for h in punched(name, "back", row, hole))
    return replace(
        clear_of(piece, np.vstack([*rows, snaps])), holes=(*piece.holes, *holes), stitch=(*piece.stitch, *rows),
        fittings=(*piece.fittings, *_fittings(loop.snap, snaps)),
    )  # fmt: skip


def clear_of(piece: Piece, taken: Array) -> Piece:
    """The back with its words below stitches and snaps at places (n, 2), where they stood on one another."""
    words = [m for m in piece.marks if (m.kind != "register" and m.toward is None) or m.kind == "top"]
    low, high = float(taken[:, 1].min()), float(taken[:, 1].max())
    top = max((m.toward[1] if m.toward else m.y for m in words), default=low)
    beside = float(np.mean([m.x for m in words])) if words else 0.0
    covered = top > low - WORDS and taken[:, 0].min() - WORDS < beside < taken[:, 0].max() + WORDS and bool(words)
    down = top - (low - WORDS) if covered and min(m.y for m in words) < high else 0.0
    return replace(piece, marks=tuple(_lower(m, down) if m in words else m for m in piece.marks))


def _lower(mark: Mark, by: float) -> Mark:
    toward = None if mark.toward is None else (mark.toward[0], mark.toward[1] - by)
    return replace(mark, y=mark.y - by, toward=toward)


def with_loop(settings: Settings, draft: Fitted) -> Fitted:
    """The draft with a loop of its own sewn on its back, where its settings ask for one."""
    if settings.word("loop.landing") != "sewn":
        return draft
    case, under, margin = draft.shell, draft.shell.leather.thickness, draft.value("seam.margin")
    how, back = stitching_of(settings, draft.shell.leather, ends=0), face(draft, "back")
    leather, cut_of = leather_for(settings, "loop")
    whole = together((thing(settings, case.loft)[0], made_up(settings, draft)))

    def over(stands: float) -> SewnLoop:
        return sewn_loop(settings, leather, draft.plan, draft.value("mouth.y"), margin, how.pitch.value, whole.x,
            draft.value("mouth.y") - top_of(draft), stands)  # fmt: skip

    hole, corner = how.hole.value, settings.number("loop.corner")
    belt = settings.number("belt.width"), settings.number("belt.thickness")

    def held(loop: SewnLoop) -> _Held:
        return _Held.of(loop, strap(loop, leather, hole, corner), back, draft.lies, under, _bent(loop, leather))

    on = held(over_what_stands(over, lambda loop: _standing_out(loop, back)))
    if "loop.deep" not in settings:  # sewn on, it may lie less far out than it was bent to
        stands = stands_for(settings, on.loop.deep)
        on = deepened(on, lambda by: held(over(stands + by)), lambda one: one.lacks(belt))
    loop, facing, whole_strap, names = on.loop, on.facing, on.strap, on.names
    own = tuple(on_back(p, loop, back, facing, hole) if p.name == back.piece else p for p in draft.pieces)
    row = straight_row(loop.across)
    two = even_stack(two_layers(("loop", "back"), leather.thickness, under), row)
    seams = tuple(sewn(name, (back.piece, "loop"), ("tab", "back"), row, two, how, margin) for name in names)
    hardware = () if loop.snap is None else _snapped(loop, loop.snap, draft.plan, leather.thickness + under)
    return replace(
        draft, pieces=(*own, whole_strap), seams=(*draft.seams, *seams),
        carriage=replace(loop.carriage, rows=tuple(row[::-1] for row in facing[: len(loop.carriage.rows)])),
        lies=draft.lies if on.lie is None else {**draft.lies, whole_strap.name: on.lie},
        hardware=(*draft.hardware, *hardware),
        reasons={**draft.reasons, **{r.name: r for r in (cut_of, *loop.reasons)}},
    )  # fmt: skip


@dataclass(frozen=True)
class _Held:
    """A loop sewn to the back where it comes to lie. facing: its rows there, seen from the front; with the foot that
    snaps. lie: None where it is not told.
    """

    loop: SewnLoop
    strap: Piece
    names: Sequence[str]
    back: Face
    facing: Sequence[Array]
    lie: Lie | None

    @classmethod
    def of(
        cls, loop: SewnLoop, strap: Piece, back: Face, lies: Mapping[str, Lie], under: float, shape: Bent
    ) -> _Held:  # fmt: skip
        """under: how thick the back is, mm. shape: how it is bent over the belt."""
        names, snapped = ROWS[: len(loop.rows)], loop.snap is not None
        foot = loop.foot if snapped else None
        held = StitchedDown(strap, names, back, lies, under, shape, foot, feet=True)
        seen = [*loop.carriage.rows, *([loop.on_foot] if snapped else [])]
        facing = held.settled([row[::-1] for row in seen])  # in the order that they have seen from behind
        if snapped:
            loop = replace(loop, on_back=loop.on_back + (facing[-1] - seen[-1][::-1]).mean(axis=0))
        return cls(loop, strap, names, back, facing, held.lie(back.strips(facing)))

    def lacks(self, belt: tuple[float, float]) -> float:
        """By how much its room is too shallow for a belt so wide and thick, mm; 0 where it is not, or it is not
        told where it lies.
        """
        if self.lie is None:
            return 0.0
        run = np.arange(self.loop.low, self.loop.high, FINE)
        legs = each(
            self.lie, [np.column_stack([np.full(len(run), at), run]) for at in BESIDE * self.loop.carriage.foot]
        )
        turn = np.radians(self.loop.carriage.cant)
        up = np.array([np.sin(turn), np.cos(turn)])
        return lacking(legs, self.strap.thickness / 2, up, lambda at, _: -self.back.out(at), belt)


def _standing_out(loop: SewnLoop, back: Face) -> float:
    """By how much the back stands out under a loop, mm: between the inner rows of its feet."""
    upper, half = loop.carriage.rows[1], loop.carriage.opening / 2
    lower = loop.on_foot if len(loop.on_foot) else loop.carriage.rows[2]
    reach = float(np.hypot(*(upper.mean(axis=0) - loop.carriage.pivot)))
    return standing_out(back.out, upper, lower, (reach - half, reach + half))


def _bent(loop: SewnLoop, leather: Leather) -> Bent:
    """The loop over a belt as thick as its room, its upper end at its flat upper end."""
    line = over_belt(leather, loop.carriage.opening, loop.deep, 1.0, 1.0)
    up = line[::-1] * [-1.0, 1.0]
    ahead = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(up, axis=0).T))])
    middle = float(np.interp(0.0, up[:, 0], ahead))
    return Bent(up=through(up, -middle))


def _snapped(loop: SewnLoop, snap: Fastening, plan: Plan, stack: float) -> tuple[Hardware, ...]:
    """The snaps of a loop that opens. There is no room for one too near the strap's side, or off the back."""
    back, wide = plan.between.buffer(-snap.cap / 2), loop.carriage.foot / 2 >= snap.edge
    return tuple(
        Hardware(snap.name, f"{FOOT} {k}", float(y), stack, snap.post(stack),
                 wide and bool(back.contains(shapely.Point(x, y))), 0.0, "loop.foot")
        for k, (x, y) in enumerate(loop.on_back, 1)
    )  # fmt: skip


PART = Part(50, with_loop)
