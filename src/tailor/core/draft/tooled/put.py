"""Put: what is asked for on the leather, laid on the flat pieces of a draft, live with all that it keeps clear of."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import Polygon

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Piece, Rule
from tailor.core.draft.tooled.asked import Asked, Filling, Picture, Tooling
from tailor.core.draft.tooled.came import Field, Tooled
from tailor.core.draft.tooled.field import field_of, setback
from tailor.core.draft.tooled.picture import laid
from tailor.core.draft.tooled.texture import woven
from tailor.core.settings import Settings


def tooled(settings: Settings, every: Sequence[Asked], made: Draft) -> Draft:
    """A draft for the right hand, with every hole, with what is asked for on its pieces."""
    if not every:
        return made
    found = list[Tooled]()
    for number, asked in enumerate(every, 1):
        found.append(_put(settings, made, number, asked, found))
    said = setback(settings, made)
    pieces = tuple(_marked(piece, found) for piece in made.pieces)
    return replace(made, pieces=pieces, tooled=tuple(found), reasons={**made.reasons, said.name: said})


def _put(settings: Settings, made: Draft, number: int, asked: Asked, before: Sequence[Tooled]) -> Tooled:
    field = field_of(settings, made, asked)
    if field is None:
        return Tooled(number, asked, None)
    y = _height(made, field)
    if isinstance(asked, Tooling):
        return _tooling(number, asked, field, y)
    assert isinstance(asked, Picture)
    lie, left = made.lies.get(field.piece), settings.word("hand") == "left"
    put = laid(asked, field, _within_border(field, before), lie, left)
    return Tooled(
        number, asked, field, put.lines, width=put.width, room=put.room, at=put.at, out=put.out, apart=put.apart,
        stretch=put.stretch, longer=put.longer, turned=put.turned, y=y,
    )  # fmt: skip


def _height(made: Draft, field: Field) -> float:
    lie = made.lies.get(field.piece)
    return float(field.middle[1] if lie is None else lie(field.middle[None, :]).at[0, 1])


def _within_border(field: Field, before: Sequence[Tooled]) -> Polygon:
    """What a border leaves of a field for a picture."""
    mine = [
        t.asked for t in before if t.field is not None and (t.field.piece, t.field.side) == (field.piece, field.side)
    ]
    borders = [asked for asked in mine if isinstance(asked, Tooling) and asked.lines]
    return field.within(max((asked.lines * asked.apart for asked in borders), default=0.0))


def _tooling(number: int, asked: Tooling, field: Field, y: float) -> Tooled:
    lines = [_ring(field.within(k * asked.apart)) for k in range(asked.lines)]
    put = Tooled(number, asked, field, tuple(line for line in lines if len(line)), y=y,
                 apart=asked.apart if asked.lines > 1 else np.inf)  # fmt: skip
    within = field.within(asked.lines * asked.apart)
    if asked.filling != Filling.WEAVE or within.is_empty:
        return put
    middle = replace(field, region=within).middle
    repeats, guide, texture = woven(asked, within, middle, np.array(field.up))
    return replace(put, repeats=repeats, guide=guide, texture=texture)


def _ring(region: Polygon) -> Array:
    """The edge of a region, closed (n, 2); empty where there is none."""
    if region.is_empty:
        return np.empty((0, 2))
    return np.asarray(shapely.get_coordinates(region.exterior.simplify(0.01)))


def _marked(piece: Piece, found: Sequence[Tooled]) -> Piece:
    """A piece with what is tooled on it, each kind of line its own."""
    rules = list[Rule]()
    for put in found:
        if put.field is None or put.field.piece != piece.name:
            continue
        picture = isinstance(put.asked, Picture)
        kind = ("mark" if put.asked.mark else "picture") if isinstance(put.asked, Picture) else "border"
        if not picture and not put.lines:
            rules.append(Rule("field", _ring(put.field.region)))
        rules += [Rule(kind, line) for line in put.lines]
        rules += [Rule("texture", line) for line in put.texture]
        if put.guide is not None:
            rules.append(Rule("guide", put.guide))
    return replace(piece, rules=(*piece.rules, *rules)) if rules else piece
