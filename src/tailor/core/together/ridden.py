"""Ridden: how a case, put together from its flat pieces, sits on a belt: the room its loop leaves for it, the foot that
stands on it, and where leather, metal and object weigh.

Nothing is asked of the formulas that drew the loop. A needle is put through from behind, square to the back: between
the first layer that it meets and the next is the room of the belt.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
import shapely.affinity
from numpy.typing import NDArray

from tailor.core import habit
from tailor.core.carried.loft import Array
from tailor.core.carried.weight import Body, together
from tailor.core.draft.draft import Carriage, Draft, Hang
from tailor.core.draft.worn.hang import STEADY, hang, thing, weight_of_cap
from tailor.core.placed.gap import STEP, Gap
from tailor.core.placed.lies import each
from tailor.core.settings import Settings
from tailor.core.together.assembled import Assembled
from tailor.core.together.mesh import Skin, skin, thickness
from tailor.core.together.sheet import spread

LOOP, ROWS = "loop", "loop row"  # what a strap of its own is called, and what the seams of any loop begin with
GIVES = habit.stuff(
    "leather.gives", 0.25, 0.15, 0.5, "of a thickness, that leather gives when pressed into", habit.SHARE
)
ALIKE = 4.0  # mm that the outermost layer of a loop may come nearer or go further along its foot
THERE = 25.0  # mm from where a slot is seen, that it may lie once its plate goes with a bulging back
TORN = 8.0  # mm of a line that no leather is met along, where there is leather all the same
ROUND = 40.0  # mm beyond a belt and a foot, within which their loop ends
FINE = 0.25  # mm between the places along a loop that are looked at
INSIDE = 0.8  # of half its foot: where it is looked at beside its middle
TOWARDS = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True)
class Ridden:
    """opening: room for the belt's width, and pressed, where the leather gives; deep: room for its thickness. foot:
    width of the loop along the belt. at: the belt's middle, x and y, behind: from there to the plane z = 0 of the case,
    mm.
    """

    at: tuple[float, float]
    opening: float
    pressed: float
    deep: float
    foot: float
    behind: float


@dataclass(frozen=True)
class Sat:
    """A case on its belt. on: what it rides by, with the room and the foot that are there. play: of the belt's width,
    where it is pressed through; deep: room for its thickness, None where that is not told. mm.
    """

    on: Carriage
    hang: Hang
    play: float
    deep: float | None = None


def sitting(settings: Settings, draft: Draft, whole: Assembled) -> Sat | None:
    """How a case sits on its belt, its object in it, by the room and the weights that are there; None where it rides by
    nothing.
    """
    if draft.shell is None or draft.carriage is None:
        return None
    belt, thick = settings.number("belt.width"), settings.number("belt.thickness")
    body = together((thing(settings, draft.shell.loft)[0], heavy(whole, settings.number("leather.density"))))
    found = ridden(whole, draft.carriage, (belt, thick), settings.habit(GIVES) * draft.leather.thickness)
    if found is None:
        return Sat(
            draft.carriage, hang(draft.carriage, body, belt, 0.0, settings.habit(STEADY)), draft.carriage.opening - belt
        )
    rooms = [room for room in (found.opening, found.pressed) if room >= belt]
    opening = rooms[0] if rooms else draft.carriage.opening  # where it does not go through at all, as is told
    on = replace(draft.carriage, opening=opening, foot=found.foot, pivot=found.at)
    return Sat(on, hang(on, body, belt, found.behind, settings.habit(STEADY)), found.pressed - belt, found.deep)


def heavy(whole: Assembled, density: float) -> Body:
    """All leather and metal of an assembled case, where it lies. density: of leather, g/cm³."""
    bodies = []
    for name, lie in whole.lies.items():
        piece = whole.pieces[name]
        if piece.leather != "card":
            middle, area = spread(piece, lie)
            bodies.append(Body(area * thickness(piece) * density / 1000, *middle.tolist()))
    for spots in whole.set_in.values():
        bodies += [Body(weight_of_cap(spot.fitting.cap), *spot.at.tolist()) for spot in spots]
    return together(bodies)


def ridden(whole: Assembled, on: Carriage, belt: tuple[float, float], gives: float = 0.0) -> Ridden | None:
    """How a case rides by what it has; None where nothing of leather goes over the belt. belt: its width and thickness;
    gives: what leather gives where that is pressed into it, mm.
    """
    if on.slots:
        return _by_slots(whole, on, belt[1])
    turn = np.radians(on.cant)
    along, up = np.array([np.cos(turn), -np.sin(turn), 0.0]), np.array([np.sin(turn), np.cos(turn), 0.0])
    if on.free or not on.rows or (middle := _middle(whole, belt[0])) is None:
        return None
    wide, thick = belt
    near = _about_the_loop(whole, ROUND + (wide if len(on.rows) == 2 else 0.0))  # its lower foot may snap
    beside = _about(on.foot + ROUND, FINE)
    outer, inner = _rooms(near, middle + beside[:, None] * along)
    here = len(beside) // 2
    if np.isnan(outer[here]):
        return None
    left, right = beside[list(_run(np.abs(outer - outer[here]) <= ALIKE))].tolist()
    heights = _about(wide + ROUND, STEP)
    asides = _along_the_loop(whole, middle, along, up, heights)
    rooms = [_room(near, heights, middle + aside[:, None] * along + heights[:, None] * up) for aside in asides]
    opening, pressed = (min(room.opening(through) for room in rooms) for through in (thick, max(thick - gives, 0.0)))
    x, y, _ = middle.tolist()
    return Ridden((x, y), opening, pressed, min(room.deep(wide) for room in rooms), right - left + FINE,
        -float(outer[here] + inner[here]) / 2)  # fmt: skip


def _loop(whole: Assembled) -> str | None:
    """The piece that a loop is of; None where that is untold."""
    return next(
        (name for name in ([LOOP] if whole.draft.tab is None else ["body", "back"]) if name in whole.lies), None
    )


def _middle(whole: Assembled, belt: float) -> Array | None:
    """The middle of a loop over a belt, so wide, where it lies, in the plane z = 0, (3,); None where that is untold."""
    tab, name = whole.draft.tab, _loop(whole)
    if name is None:
        return None
    flat = (0.0, 0.0) if tab is None else (tab.middle, tab.crest + belt / 2)
    return np.asarray(whole.lies[name](np.array([flat])).at[0] * [1.0, 1.0, 0.0])


def _along_the_loop(whole: Assembled, middle: Array, along: Array, up: Array, heights: Array) -> list[Array]:
    """How far aside a loop's leather lies at heights over its middle, near either edge of it and in its middle, (n,)
    each: it bends from side to side with what it comes down on, and is the less broad for it, seen from behind.
    """
    tab, name = whole.draft.tab, _loop(whole)
    assert name is not None
    if tab is None:
        (left, low), (right, high) = whole.pieces[name].cut.min(axis=0), whole.pieces[name].cut.max(axis=0)
    else:
        left, right, low, high = tab.middle - tab.width / 2, tab.middle + tab.width / 2, *sorted((tab.crest, tab.end))
    run = np.arange(low, high, STEP)
    across = (left + right) / 2 + INSIDE * (right - left) / 2 * np.array([-1.0, 0.0, 1.0])
    placed = each(whole.lies[name], [np.column_stack([np.full(len(run), at), run]) for at in across])
    asides = []
    for line in placed:
        off = line.at - middle
        rising = np.argsort(off @ up, kind="stable")
        asides.append(np.interp(heights, (off @ up)[rising], (off @ along)[rising]))
    return asides


def _about_the_loop(whole: Assembled, far: float) -> list[Skin]:
    """The loop, and what it is sewn to, so far about its stitches, mm."""
    found = []
    for name, lie in whole.lies.items():
        piece = whole.pieces[name]
        at = [(hole.x, hole.y) for hole in piece.holes if hole.seam.startswith(ROWS)]
        if at:
            found.append(skin(piece, lie, shapely.box(*shapely.multipoints(at).bounds).buffer(far)))
    return found


def _about(far: float, step: float) -> Array:
    """Places evenly on either side of 0, as far as so."""
    return np.arange(-np.ceil(far / step), np.ceil(far / step) + 1) * step


def _run(holds: NDArray[np.bool_]) -> tuple[int, int]:
    """The first and the last place of those in a row, about the middle of them all, at which something holds."""
    here = len(holds) // 2
    off = np.flatnonzero(~holds)
    return int(off[off < here].max(initial=-1)) + 1, int(off[off > here].min(initial=len(holds))) - 1


def _room(near: Sequence[Skin], heights: Array, at: Array) -> Gap:
    """The room between a loop and the back, up through it at heights about its middle, (n,): at places (n, 3)."""
    low, high = (_mended(heights, side) for side in _missed(_rooms(near, at)))
    first, last = _run(high > low)
    part = slice(min(first, len(heights) // 2), max(last, len(heights) // 2) + 1)
    shut = np.isnan(low[part]) | np.isnan(high[part])
    return Gap(heights[part], np.where(shut, np.inf, low[part]), np.where(shut, -np.inf, high[part]))


def _rooms(near: Sequence[Skin], at: Array) -> tuple[Array, Array]:
    """Where needles put through from behind, in a row (n, 3), come out of the first leather that they meet, and into
    the next, as heights towards the front, (n,) each; nan where they do not meet two layers.
    """
    which, depths, halves = [], [], []
    for sheet in near:
        needle, depth = sheet.pierced(at, TOWARDS)
        which.append(needle)
        depths.append(depth)
        halves.append(np.full(len(depth), sheet.thickness / 2))
    needle, depth, half = (np.concatenate(told) for told in (which, depths, halves))
    order = np.lexsort((depth, needle))
    needle, depth, half = needle[order], depth[order], half[order]
    again = np.zeros(len(needle), dtype=bool)  # the side of two triangles
    again[1:] = (np.diff(needle) == 0) & (np.diff(depth) < half[1:] / 2)
    needle, depth, half = needle[~again], depth[~again], half[~again]
    low, high = np.full(len(at), np.nan), np.full(len(at), np.nan)
    first = np.flatnonzero(np.diff(needle, prepend=-1) > 0)
    two = first[(first + 1 < len(needle)) & (needle[np.minimum(first + 1, len(needle) - 1)] == needle[first])]
    low[needle[two]] = depth[two] + half[two]
    high[needle[two]] = depth[two + 1] - half[two + 1]
    return low, high


def _missed(sides: tuple[Array, Array]) -> tuple[Array, Array]:
    """The sides of a room without where a needle went through a tear, or met leather twice where the parts of one sheet
    come away from each other: where above and below it, within TORN, the outer leather was met further out by more than
    ALIKE, or the inner further in.
    """
    low, high = sides
    torn = (low > _beyond(low, 1.0) + ALIKE) | (high < _beyond(high, -1.0) - ALIKE)
    return np.where(torn, np.nan, low), np.where(torn, np.nan, high)


def _beyond(side: Array, way: float) -> Array:
    """How far out (1) or in (-1) a side of a room is met at the least both above and below each height, within TORN."""
    count = round(TORN / STEP)
    far = np.full(count, np.inf)
    met = np.concatenate([far, np.nan_to_num(way * side, nan=np.inf), far])
    around = np.lib.stride_tricks.sliding_window_view(met, 2 * count + 1)
    return np.asarray(way * np.maximum(around[:, :count].min(axis=1), around[:, count + 1 :].min(axis=1)))


def _mended(heights: Array, side: Array) -> Array:
    """A side of a room with the little filled in by which a part that lies as it will and one that is formed part."""
    met = heights[~np.isnan(side)]
    if len(met) < 2:
        return side
    at = np.searchsorted(met, heights).clip(1, len(met) - 1)
    torn = np.isnan(side) & (met[at] - met[at - 1] <= TORN) & (heights > met[at - 1]) & (heights < met[at])
    return np.where(torn, np.interp(heights, met, side[~np.isnan(side)]), side)


def _by_slots(whole: Assembled, on: Carriage, belt: float) -> Ridden | None:
    """By the slots of a plate or an ear: how wide a belt goes through the shortest, and how far apart their outer edges
    are. belt: its thickness, mm.
    """
    turn, rooms, asides, heights = np.radians(on.cant), [], [], []
    middles = np.array([slot.mean(axis=0) for slot in on.slots])
    for name, lie in whole.lies.items():
        for ring in whole.pieces[name].openings:
            at = lie(ring).at
            if np.hypot(*(middles - at[:, :2].mean(axis=0)).T).min() > THERE:
                continue
            rooms.append(_through(ring, belt))
            asides += (at[:, :2] @ [np.cos(turn), -np.sin(turn)]).tolist()
            heights.append(float(at[:, 2].mean()))
    if not rooms:
        return None
    long, wide = np.min(rooms, axis=0).tolist()
    foot = on.foot if len(on.slots) < 2 else max(asides) - min(asides)
    return Ridden(on.pivot, long, long, wide, foot, -float(np.mean(heights)))


def _through(ring: Array, thick: float) -> tuple[float, float]:
    """How wide a belt goes through a slot, if so thick, and how wide the slot is."""
    slot = shapely.Polygon(ring)
    corners = shapely.get_coordinates(slot.minimum_rotated_rectangle)
    sides = np.diff(corners[:3], axis=0)
    long, wide = sides[np.argsort(-np.hypot(*sides.T))]
    aside = wide / np.hypot(*wide) * thick / 2
    one, other = (shapely.affinity.translate(slot, *(way * aside)) for way in (-1.0, 1.0))
    room = shapely.get_coordinates(one.intersection(other)) @ long / np.hypot(*long)
    return float(np.ptp(room)) if len(room) else 0.0, float(np.hypot(*wide))
