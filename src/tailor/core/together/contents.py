"""Contents: how near leather comes, where it lies, to what is carried in it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Point, Polygon

from tailor.core.carried.loft import Array
from tailor.core.draft.piece import Piece
from tailor.core.placed.held import Carried, Room, Round, Spot, Thing
from tailor.core.together.crossed import crossed
from tailor.core.together.sheet import Sheet

STEEP = np.radians(60.0)  # at which a held thing's leather comes down to its stitches, at the most


@dataclass(frozen=True)
class Gap:
    """How near leather comes to what lies in it, mm: negative where it would have to be inside. piece: which one."""

    name: str
    gap: float
    piece: str


def about(held: Carried | Room | Thing, sheets: Mapping[str, Sheet]) -> Gap:
    """How near leather comes to what is put in it, by where it lies."""
    if isinstance(held, Carried):
        return _carried(held, sheets)
    return _inside(held, sheets) if isinstance(held, Room) else _beside(held, sheets)


def _carried(carried: Carried, sheets: Mapping[str, Sheet]) -> Gap:
    """Leather where it lies against the object's section at its height, and against its ends."""
    told = [(name, by.places(), within) for name, by, within in carried.leather]
    told = told or [(name, sheet.places, sheet.thickness / 2) for name, sheet in sheets.items()]
    at = np.vstack([places for _, places, _ in told]) - np.array(carried.at)
    whose, thick = (np.repeat(each, [len(places) for _, places, _ in told]) for each in
                    (np.arange(len(told)), [within for _, _, within in told]))  # fmt: skip
    low, high = carried.within
    some = (at[:, 1] > low) & (at[:, 1] < high)
    if not some.any():
        return Gap(carried.name, np.inf, "")
    gap, k = carried.loft.nearest(at[some], thick[some])
    return Gap(carried.name, gap, told[whose[some][k]][0])


def _inside(room: Room, sheets: Mapping[str, Sheet]) -> Gap:
    """What leather leaves on either side of a room's middle, beyond the room: the least of all six ways."""
    nearest, whose = np.inf, ""
    beside = {name: sheet for name, sheet in sheets.items() if name not in room.past}
    for size, met in zip(room.size, crossed(beside, np.tile(room.middle, (3, 1)), np.eye(3)), strict=True):
        for depth, name, _ in met:
            gap = abs(depth) - sheets[name].piece.thickness / 2 - size / 2
            if gap < nearest:
                nearest, whose = gap, name
    return Gap(room.name, nearest, whose)


def _beside(thing: Thing, sheets: Mapping[str, Sheet]) -> Gap:
    nearest, whose = np.inf, ""
    for name, sheet in sheets.items():
        if name in thing.past:
            continue
        away = np.abs(sheet.places - np.array(thing.middle)) - np.array(thing.size) / 2
        beside = _beyond(away[:, [0, 2]] + thing.corner) - thing.corner
        out = _beyond(np.column_stack([beside, away[:, 1]]))
        gap = float(out.min()) - sheet.piece.thickness / 2
        if gap < nearest:
            nearest, whose = gap, name
    return Gap(thing.name, nearest, whose)


def _beyond(away: Array) -> Array:
    """How far points are beyond a box that each axis says they are so far beyond, (n, k); negative inside."""
    return np.asarray(np.linalg.norm(np.maximum(away, 0.0), axis=1) + np.minimum(away.max(axis=1), 0.0))


def round_it(each: Round, pieces: Mapping[str, Piece]) -> Gap:
    """Leather to spare round a thing, by the shortest line round it and the stitches on either side."""

    def apart(a: Spot, b: Spot) -> float:
        one, other = (pieces[s.piece].holes_of(s.seam, s.edge)[s.place] for s in (a, b))
        return float(np.hypot(*(one - other)))

    one, other = (apart(*side) for side in each.sides)
    half = pieces[each.sides[0][0].piece].thickness / 2
    wide, thick = each.thing
    high = thick if each.flat else thick / 2  # above the plane of the stitches
    body: Polygon = Point(0.0, high - thick / 2 if each.round else 0.0).buffer(thick / 2, 64) if each.round else \
        shapely.box(-wide / 2, high - thick, wide / 2, high)  # fmt: skip
    grown = body.buffer(half, 64)
    down = high / np.tan(STEEP)
    out = other / 2 if each.flat else (0.0 if each.round else wide / 2) + (thick if each.round else down)
    ends = [(-out, half), (out, half)]
    hull = shapely.convex_hull(shapely.multipoints(np.vstack([shapely.get_coordinates(grown), ends])))
    needed = float(shapely.length(shapely.intersection(shapely.boundary(hull), shapely.box(-1e4, half, 1e4, 1e4))))
    spare = one - needed if each.flat else min(one, other) - needed
    return Gap(each.name, spare / 2, each.sides[0][0].piece)
