"""What is left, gathered: once all lie, pieces beside the largest offcut are laid elsewhere, and it grows by them."""

from __future__ import annotations

from collections.abc import Generator, Iterator, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np
import shapely

from tailor.core.cut import exact
from tailor.core.cut.laying import Hide, Id, Laid, Template
from tailor.core.cut.left import rests
from tailor.core.cut.search import Search

TRIES, VAIN = 12, 6  # pieces that are tried elsewhere; and of them in vain, one after another, before that is left
PATIENCE = 40  # rounds without gain before one is left where it lay
NEAR = 12.0  # mm from the offcut, within which a piece lies beside it
INSET = 6.0  # mm from what it lies beside, more than a corner is grown for the search
KEPT = 0.98  # of the free back edge there was, that must be left
MORE = 1.01  # times as large, that an offcut must be at the least to be worth the change
ROOM = "what is left"  # as a piece that stays


class Left(NamedTuple):
    """The largest offcut that a layout leaves of a hide, and how much of its back edge, mm."""

    offcut: shapely.Polygon
    edge: float


def gathered(search: Search) -> Iterator[None]:
    """Gather what is left of the hide that is used last, where all pieces lie; what is pinned stays."""
    laid: tuple[Laid, ...] = search.found().laid
    hides = [hide for hide in search.laying.hides if any(one.hide == hide.id for one in laid)]
    if not hides or len(laid) < len(search.laying.templates):
        return
    hide, tried = max(hides, key=lambda each: (each.priority, each.whole.area)), set[Id]()
    yield
    left, vain = _left(search, laid, hide), 0
    for _ in range(TRIES):
        yield
        beside = _beside(search, laid, hide, left.offcut)
        one = next((one for one in beside if one.id not in tried), None)
        if one is None or vain == VAIN:
            return
        tried.add(one.id)
        vain += 1
        room = _room(search, one, hide, left.offcut)
        yield
        moved = (yield from _elsewhere(search, laid, one, room)) if room is not None else None
        if moved is None:
            continue
        yield
        now = _left(search, moved, hide)
        if now.offcut.area > MORE * left.offcut.area and now.edge >= KEPT * left.edge:
            laid, left, vain = moved, now, 0
            search.take(laid)


def _left(search: Search, laid: Sequence[Laid], hide: Hide) -> Left:
    (rest,) = rests(replace(search.laying, hides=(hide,)), laid)
    return Left(shapely.Polygon(rest.offcuts[0] if rest.offcuts else None), rest.edge)


def _beside(search: Search, laid: Sequence[Laid], hide: Hide, offcut: shapely.Polygon) -> list[Laid]:
    """The pieces beside an offcut that may be laid elsewhere, the smallest first."""
    templates = {t.id: t for t in search.laying.templates}
    free = [one for one in laid if one.hide == hide.id and not (templates[one.id].pinned or templates[one.id].strap)]
    near = [one for one in free if offcut.distance(shapely.Polygon(one.of(templates[one.id].ring))) < NEAR]
    return sorted(near, key=lambda one: templates[one.id].shape.area)


def _room(search: Search, one: Laid, hide: Hide, offcut: shapely.Polygon) -> Template | None:
    """An offcut and the place of a piece beside it, as a piece that stays; None where they are too slender."""
    laying = search.laying
    like = laying.templates[int(np.argmax(search.areas[search.shapes.kind]))]  # which may lie on most of it
    was = shapely.Polygon(one.of(laying.template(one.id).ring))
    both = shapely.union(offcut.buffer(NEAR), was.buffer(NEAR)).buffer(-NEAR - INSET)
    leather = hide.leather(laying.asked(like), laying.band).buffer(-max(INSET, like.margin))
    room = shapely.intersection(both, leather).simplify(INSET / 2)
    slits = [
        shapely.shortest_line(hole, part.exterior).buffer(INSET)
        for part in shapely.get_parts(room) if isinstance(part, shapely.Polygon) for hole in part.interiors
    ]  # fmt: skip
    parts = shapely.get_parts(shapely.difference(room, shapely.union_all(slits)))
    largest = max(parts, key=lambda part: part.area, default=None)
    if not isinstance(largest, shapely.Polygon) or largest.area < INSET**2:
        return None
    here = Laid(ROOM, hide.id, False, 0.0, (0.0, 0.0))
    return replace(like, id=ROOM, ring=shapely.get_coordinates(largest.exterior)[:-1], pinned=here)


def _elsewhere(
    search: Search, laid: Sequence[Laid], one: Laid, room: Template
) -> Generator[None, None, tuple[Laid, ...] | None]:
    """How pieces lie with one of them laid elsewhere, and room left free; None where it finds no place."""
    laying = search.laying
    others = [each for each in laid if each.id != one.id]
    on = {each.hide for each in laid}  # no other is begun for it
    used = tuple(hide for hide in laying.hides if hide.id in on)
    beside = Search(replace(laying, hides=used, templates=(*laying.templates, room)), search.steps, others)
    yield
    left = yield from beside.put_in(one.id, PATIENCE)
    search.steps += beside.steps + 1
    if left > 0.0:
        return None
    moved = tuple(each for each in beside.lying() if each.id != ROOM)
    return None if any(exact.faults(laying, moved)) else moved
