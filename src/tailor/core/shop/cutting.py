"""What is made, laid out on what the shop has: a laying for each leather, what it takes, and what it leaves."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace

import shapely

from tailor.core.carried.loft import Array
from tailor.core.cut.asked import templates
from tailor.core.cut.laying import Hide, Id, Laid, Laying, in_row
from tailor.core.cut.left import rests
from tailor.core.shop.leathers import Skin, Sort, at_hand, left_of
from tailor.core.shop.made import Made, leathers


@dataclass(frozen=True)
class Cutting:
    """Pieces of one leather, and what there is of it. sort: None where the shop has none like it. skins: of laying's
    hides, by their ids.
    """

    sort: Sort | None
    said: str
    laying: Laying
    skins: dict[Id, Skin]

    def takes(self, laid: Sequence[Laid]) -> float:
        """How much leather is taken to a piece of it, as shares of area: what is worth keeping is not taken."""
        shapes = {t.id: t.shape.area for t in self.laying.templates}
        of = {hide.id: hide for hide in self.laying.hides}
        begun = {one.hide for one in laid}
        net = sum(shapes[one.id] for one in laid)
        taken = sum(
            of[rest.hide].whole.area - sum(shapely.Polygon(ring).area for ring in rest.offcuts)
            for rest in rests(self.laying, laid) if rest.hide in begun
        )  # fmt: skip
        return float(max(taken / net, 1.0)) if net else 1.0

    def left(self, laid: Sequence[Laid]) -> tuple[tuple[Skin, tuple[Skin, ...]], ...]:
        """Each skin that is cut from, with what it then is and what is left of it, to be kept."""
        begun = {one.hide for one in laid}
        found = []
        for rest, lying in zip(rests(self.laying, laid), self.laying.hides, strict=True):
            if rest.hide in begun:
                skin = self.skins[rest.hide]
                found.append((skin, left_of(skin, _back(rest.offcuts, lying, skin))))
        return tuple(found)


def _back(offcuts: Sequence[Array], lying: Hide, skin: Skin) -> list[Array]:
    """Rings on a hide of a row, as they are on the skin."""
    by = skin.hide.ring.min(axis=0) - lying.ring.min(axis=0)
    return [ring + by for ring in offcuts]


def cuttings(things: Sequence[Made], sorts: Sequence[Sort], skins: Sequence[Skin]) -> tuple[Cutting, ...]:
    """A cutting for each leather that things are made of, as the shop has it; offcuts are used first."""
    found = []
    for each in leathers(things, sorts):
        there = at_hand(skins, each.sort) if each.sort else ()
        row = in_row([skin.hide for skin in there])
        drafted = ((replace(thing.draft, pieces=pieces), thing) for thing, pieces in each.parts)
        pieces = itertools.chain.from_iterable(templates(made, thing.name, thing.count) for made, thing in drafted)
        of = dict(zip((hide.id for hide in row), there, strict=True))
        found.append(Cutting(each.sort, each.said, Laying(row, tuple(pieces)), of))
    return tuple(found)
