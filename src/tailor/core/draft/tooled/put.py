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
from tailor.core.draft.tooled.asked import LARGEST, Asked, Filling, Picture, Tooling
from tailor.core.draft.tooled.came import Field, Tooled
from tailor.core.draft.tooled.field import fields_for, setback
from tailor.core.draft.tooled.patch import Patched, patched
from tailor.core.draft.tooled.picture import laid
from tailor.core.draft.tooled.texture import woven
from tailor.core.settings import Settings

IN_LEATHER = ("border", "texture", "picture", "mark")  # kinds of line that are seen in the leather itself
MARKED = ("field", "guide", *IN_LEATHER)  # and those that are only drawn on its piece besides


def tooled(settings: Settings, every: Sequence[Asked], made: Draft) -> Draft:
    """A draft for the right hand, with every hole, with what is asked for on its pieces."""
    if not every:
        return made
    numbered = list(enumerate(every, 1))
    found, patches = list[Tooled](), list[Patched]()
    for number, asked in sorted(numbered, key=lambda each: isinstance(each[1], Picture)):  # which keep within borders
        found.append(_put(settings, made, number, asked, found, patches))
    found = [_filled(put, found) for put in sorted(found, key=lambda put: put.number)]  # round pictures
    said = setback(settings, made)
    pieces = tuple(_marked(piece, found, patches) for piece in made.pieces)
    lies = {patch.piece.name: patch.lie for patch in patches if patch.lie is not None}
    return replace(
        made, pieces=(*pieces, *(patch.piece for patch in patches)), tooled=tuple(found), lies={**made.lies, **lies},
        hardware=(*made.hardware, *(rivet for patch in patches for rivet in patch.hardware)),
        reasons={**made.reasons, said.name: said},
    )  # fmt: skip


def _put(
    settings: Settings, made: Draft, number: int, asked: Asked, before: Sequence[Tooled], patches: list[Patched]
) -> Tooled:
    """What comes of one thing that is asked for; a patch that it is on comes to the others."""
    there = fields_for(settings, made, asked)
    field = next((each for each in there if asked.side in (LARGEST, each.side, each.plain)), None)
    if field is None:
        return Tooled(number, asked, None, there)
    if isinstance(asked, Picture) and asked.patch:
        patches.append(patched(settings, made, number, asked, field, _within_border(field, before)))
        return replace(patches[-1].put, there=there)
    return replace(_in_field(settings, made, number, asked, field, before), there=there, y=_height(made, field))


def _in_field(
    settings: Settings, made: Draft, number: int, asked: Asked, field: Field, before: Sequence[Tooled]
) -> Tooled:
    if isinstance(asked, Tooling):
        return _tooling(number, asked, field)
    assert isinstance(asked, Picture)
    lie, left = made.lies.get(field.piece), settings.word("hand") == "left"
    put = laid(asked, field, _within_border(field, before), lie, left)
    return Tooled(
        number, asked, field, lines=put.lines, width=put.width, room=put.room, at=put.at, out=put.out, apart=put.apart,
        stretch=put.stretch, longer=put.longer, turned=put.turned, leans=put.leans,
    )  # fmt: skip


def _height(made: Draft, field: Field) -> float:
    lie = made.lies.get(field.piece)
    return float(field.middle[1] if lie is None else lie(field.middle[None, :]).at[0, 1])


def _within_border(field: Field, before: Sequence[Tooled]) -> Polygon:
    """What a border leaves of a field for a picture."""
    mine = [put.asked for put in before if put.field is not None and _same(put.field, field)]
    borders = [asked for asked in mine if isinstance(asked, Tooling) and asked.lines]
    return field.within(max((asked.lines * asked.apart for asked in borders), default=0.0))


def _tooling(number: int, asked: Tooling, field: Field) -> Tooled:
    lines = tuple(ring for k in range(asked.lines) for ring in _rings(field.within(k * asked.apart)))
    return Tooled(number, asked, field, lines=lines, apart=asked.apart if asked.lines > 1 else np.inf)


def _filled(put: Tooled, others: Sequence[Tooled]) -> Tooled:
    """A field with its texture, which keeps clear of the pictures that lie in it; anything else as it is."""
    asked, field = put.asked, put.field
    if not isinstance(asked, Tooling) or field is None or asked.filling == Filling.PLAIN:
        return put
    within = field.within(asked.lines * asked.apart)
    pictures = [other for other in others if isinstance(other.asked, Picture) and other.lines]
    round_ = [_round(each, asked.apart) for each in pictures if each.field is not None and _same(each.field, field)]
    left = within.difference(shapely.union_all(round_))
    put = replace(put, area=float(left.area))
    if asked.filling != Filling.WEAVE or left.is_empty:
        return put
    middle = replace(field, region=within).middle
    repeats, guide, texture = woven(asked, within, left, middle, np.array(field.up))
    return replace(put, repeats=repeats, guide=guide, texture=texture)


def _same(one: Field, other: Field) -> bool:
    return (one.piece, one.side) == (other.piece, other.side)


def _round(put: Tooled, by: float) -> Polygon:
    """What a picture takes up, and so much round it."""
    return Polygon(shapely.MultiPoint(np.vstack(put.lines)).convex_hull.buffer(by).exterior)


def _rings(region: Polygon) -> list[Array]:
    """The edges of a region, closed (n, 2) each; none where it is empty."""
    rings = [] if region.is_empty else [region.exterior, *region.interiors]
    return [np.asarray(shapely.get_coordinates(ring.simplify(0.01))) for ring in rings]


def _marked(piece: Piece, found: Sequence[Tooled], patches: Sequence[Patched]) -> Piece:
    """A piece with what is tooled on it, each kind of line its own."""
    rules = list[Rule]()
    for put in found:
        if put.field is None or put.field.piece != piece.name:
            continue
        if put.patch:
            rules += [Rule("field", line) for line in put.lines]  # where it goes
            continue
        kind = ("mark" if put.asked.mark else "picture") if isinstance(put.asked, Picture) else "border"
        if kind == "border" and not put.lines:
            rules += [Rule("field", ring) for ring in _rings(put.field.region)]
        rules += [Rule(kind, line) for line in put.lines]
        rules += [Rule("texture", line) for line in put.texture]
        if put.guide is not None:
            rules.append(Rule("guide", put.guide))
    punched = tuple(hole for patch in patches if patch.put.asked.piece == piece.name for hole in patch.fittings)
    return replace(piece, rules=(*piece.rules, *rules), fittings=(*piece.fittings, *punched)) if rules else piece
