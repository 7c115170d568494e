"""Leathers that a shop buys, and the skins of them that lie there: whole hides, and what was left of them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import shapely

from tailor.core import incoming
from tailor.core.carried.loft import Array
from tailor.core.cut.laying import Hide
from tailor.core.cut.marked import within
from tailor.core.errors import InputError
from tailor.core.leather.leather import APPROACH, OFF, THICKEST, THINNEST

MOSTLY = 0.5  # share of a hide that is left in one piece, and is that hide still
DEAREST = 1e5  # for a square metre


class Use(StrEnum):
    """What a leather is cut for."""

    BODY = "body"
    LINING = "lining"


@dataclass(frozen=True)
class Sort:
    """A sort of leather. tannage, colour, note: words. thickness: mm. price: of a square metre."""

    id: str
    name: str
    thickness: float
    temper: str = "firm"
    use: Use = Use.BODY
    tannage: str = "vegetable"
    colour: str = ""
    price: float = 0.0
    note: str = ""

    def __post_init__(self) -> None:
        incoming.named(self.name, "name of a leather")
        if self.temper not in APPROACH:
            raise InputError(f"'{self.temper}' is no temper", self.name, f"give {' or '.join(APPROACH)}")
        if not THINNEST <= self.thickness <= THICKEST:
            raise InputError(f"{self.thickness:g} mm is no leather", self.name, f"give {THINNEST} to {THICKEST:g} mm")
        if not 0 <= self.price <= DEAREST:
            raise InputError(f"{self.price:g} is no price", self.name, f"give 0 to {DEAREST:.0f} for a square metre")


@dataclass(frozen=True)
class Skin:
    """A hide, or an offcut of one, of a sort. off: the id of what it was cut from; empty for a whole hide.

    used: nothing worth keeping is left of it.
    """

    id: str
    sort: str
    hide: Hide
    off: str = ""
    used: bool = False

    @property
    def area(self) -> float:
        """What can be used of it, mm²."""
        return float(self.hide.whole.area)


def meant(sorts: Iterable[Sort], use: Use, thickness: float, temper: str) -> Sort | None:
    """The leather that is meant by a thickness, mm, and a temper: the nearest; None where there is none so thick."""
    fitting = [s for s in sorts if s.use is use and abs(s.thickness - thickness) <= OFF]
    if use is Use.BODY:
        fitting = [s for s in fitting if s.temper == temper]
    return min(fitting, key=lambda s: (abs(s.thickness - thickness), s.price, s.name), default=None)


def at_hand(skins: Iterable[Skin], sort: Sort) -> tuple[Skin, ...]:
    """What there is of a sort: offcuts first, the smallest first."""
    of = (skin for skin in skins if skin.sort == sort.id and not skin.used)
    return tuple(sorted(of, key=lambda skin: (not skin.off, skin.area, skin.id)))


def left_of(skin: Skin, offcuts: Iterable[Array], cut: Sequence[Array]) -> tuple[Skin, ...]:
    """What a skin is once it is cut from: itself, smaller, where most of it is left in one piece, else used; then what
    is left besides, as skins of their own. Zones and marks go with the part they lie in; a part is as thick as it was.

    offcuts: outlines of what is left. cut: of what was cut out, which are holes where leather is left round them.
    """
    parts = [_part(skin.hide, ring, cut) for ring in sorted(offcuts, key=lambda ring: -shapely.Polygon(ring).area)]
    if parts and parts[0].whole.area > MOSTLY * skin.area:
        first, parts = replace(skin, hide=parts[0]), parts[1:]
    else:
        first = replace(skin, used=True)
    named = (replace(part, id=f"{skin.hide.id}, offcut {n}") for n, part in enumerate(parts, start=1))
    return first, *(Skin(f"{skin.id}/{_where(part)}", skin.sort, part, off=skin.id) for part in named)


def _where(part: Hide) -> str:
    """Where a part lay on its hide, mm: no other part, of whatever cut, ever lay there."""
    spot = shapely.Polygon(part.ring).representative_point()
    return f"{spot.x:.1f},{spot.y:.1f}"


def _part(hide: Hide, ring: Array, cut: Sequence[Array]) -> Hide:
    """A part of a hide, with what lies in it."""
    whole = shapely.Polygon(ring)
    marks = tuple(mark for mark in (*hide.forbidden, *cut) if whole.intersects(shapely.Polygon(mark)))
    return Hide(hide.id, ring, marks, within(hide.zones, whole), gauged=hide.gauged)
