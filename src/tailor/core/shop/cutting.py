"""What is made, laid out on what the shop has of each leather: what to lay on, what that takes, and what it leaves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import shapely

from tailor.core.carried.loft import Array
from tailor.core.cut.asked import templates
from tailor.core.cut.laying import Hide, Id, Laid, Laying, Template, in_row
from tailor.core.cut.left import Rest, rests
from tailor.core.draft.piece import Piece
from tailor.core.shop.leathers import Skin, Sort, at_hand, left_of
from tailor.core.shop.made import Leathered, Made, leathers

OFFCUTS = 6  # of a leather that are laid on, the largest
ENOUGH = 2.5  # times the area of the pieces: beyond that no further hide is taken down


@dataclass(frozen=True)
class Cutting:
    """skins: of the hides that are laid on, by their ids. sorts: of the leathers, by the names they are laid by."""

    laying: Laying
    skins: dict[Id, Skin]
    sorts: dict[str, Sort]

    def takes(self, laid: Sequence[Laid], left: Sequence[Rest] = ()) -> dict[str, float]:
        """How much of each sort, by its id, is taken to a piece of it, as shares of area: what is worth keeping is not
        taken. left: of each hide, if that is known.
        """
        areas = {t.id: t.shape.area for t in self.laying.templates}
        net, taken = dict[str, float](), dict[str, float]()
        for rest, hide in zip(left or rests(self.laying, laid), self.laying.hides, strict=True):
            mine = sum(areas[one.id] for one in laid if one.hide == hide.id)
            if mine:
                sort = self.sorts[hide.sort].id
                net[sort] = net.get(sort, 0.0) + mine
                kept = shapely.union_all([shapely.Polygon(ring) for ring in rest.offcuts])
                holes = shapely.union_all([shapely.Polygon(ring) for ring in self._cut_from(hide, laid)])
                there = shapely.difference(shapely.intersection(kept, hide.whole), holes)
                taken[sort] = taken.get(sort, 0.0) + float(hide.whole.area - there.area)
        return {sort: max(taken[sort] / net[sort], 1.0) for sort in net}

    def left(self, laid: Sequence[Laid]) -> tuple[tuple[Skin, tuple[Skin, ...]], ...]:
        """Each skin that is cut from, with what it then is and what is left of it, to be kept."""
        found = []
        for rest, lying in zip(rests(self.laying, laid), self.laying.hides, strict=True):
            if cut := self._cut_from(lying, laid):
                skin = self.skins[rest.hide]
                found.append((skin, left_of(skin, _back(rest.offcuts, lying, skin), _back(cut, lying, skin))))
        return tuple(found)

    def _cut_from(self, hide: Hide, laid: Sequence[Laid]) -> list[Array]:
        """The outlines of what lies on a hide: holes, where leather is left round them."""
        rings = {template.id: template.ring for template in self.laying.templates}
        return [one.of(rings[one.id]) for one in laid if one.hide == hide.id]


def _back(rings: Sequence[Array], lying: Hide, skin: Skin) -> list[Array]:
    """Rings on a hide of a row, as they are on the skin."""
    by = skin.hide.ring.min(axis=0) - lying.ring.min(axis=0)
    return [ring + by for ring in rings]


def cutting(things: Sequence[Made], sorts: Sequence[Sort], skins: Sequence[Skin]) -> Cutting:
    """Pieces of things, each asking for its leather, and what the shop has of it, offcuts first."""
    every = leathers(things, sorts)
    there, known = list[Skin](), dict[str, Sort]()
    for each in every:
        if each.sort is not None:
            known[each.said] = each.sort
            there += _taken_down(each, skins)
    row = in_row([replace(skin.hide, sort=_said(skin, known)) for skin in there])
    asking = {id(piece): each.said for each in every for _, pieces in each.parts for piece in pieces}

    def sort(piece: Piece) -> str:
        return asking[id(piece)]

    pieces, names = list[Template](), list[str]()
    for thing in things:
        names.append(thing.name)
        again = names.count(thing.name)  # two of one name are told apart
        name = thing.name if again == 1 else f"{thing.name} ({again})"
        pieces += templates(thing.draft, name, thing.count, sort)
    return Cutting(Laying(row, tuple(pieces)), dict(zip((hide.id for hide in row), there, strict=True)), known)


def each_alone(things: Sequence[Made], sorts: Sequence[Sort], skins: Sequence[Skin]) -> tuple[tuple[Skin, Laying], ...]:
    """Every skin at hand of the leathers that things ask for, offcuts first, with what is asked of that leather to be
    laid on it alone.
    """
    found = list[tuple[Skin, Laying]]()
    for each in leathers(things, sorts):
        for skin in at_hand(skins, each.sort) if each.sort is not None else ():
            laying = cutting(things, sorts, [skin]).laying
            asked = tuple(template for template in laying.templates if template.sort == each.said)
            if asked and laying.hides:
                found.append((skin, replace(laying, templates=asked)))
    return tuple(found)


def _said(skin: Skin, known: dict[str, Sort]) -> str:
    return next(said for said, sort in known.items() if sort.id == skin.sort)


def _taken_down(each: Leathered, skins: Sequence[Skin]) -> list[Skin]:
    """Of what there is of a leather, what is laid on: offcuts, then hides until they are enough."""
    assert each.sort is not None
    lying = at_hand(skins, each.sort)
    taken = [skin for skin in lying if skin.off][-OFFCUTS:]
    for skin in (skin for skin in lying if not skin.off):
        if sum(one.area for one in taken if not one.off) > ENOUGH * each.area:
            break
        taken.append(skin)
    return taken
