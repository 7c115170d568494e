"""What is laid, on what, and how it came to lie: values in mm, y up, the backbone along +x and the back edge on top."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property
from typing import NamedTuple

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from tailor.core.carried.loft import Array
from tailor.core.cut.thickness import Gauged, as_thick
from tailor.core.leather.leather import OFF

Id = str | int  # what a file calls a hide or a piece by

BAND = 170.0  # mm below the back edge that count as the back: firm, straight, stretching least
FREE = 180.0  # degrees to either side at which a piece may lie any way
APART = 100.0  # mm between two hides, side by side
SLENDER, REACH = 0.12, 250.0  # hull over diagonal squared, and mm: what is a strap


class Wanted(StrEnum):
    """Which leather a piece asks for."""

    ANY = "any"
    NOT_LOOSE = "not_loose"
    PRIME = "prime"
    BACK_BAND = "back_band"


LEATHER = {
    Wanted.ANY: "leather", Wanted.NOT_LOOSE: "leather that is not loose", Wanted.PRIME: "prime leather",
    Wanted.BACK_BAND: "leather along the back",
}  # fmt: skip
TINY = 1e-6  # mm


class Asked(NamedTuple):
    """The leather that a piece may lie on: which, of which sort if that matters, and how thick, mm, if that does."""

    wanted: Wanted
    sort: str = ""
    thick: float = 0.0

    def said(self, sort: bool = True) -> str:
        """In words; with its sort, or without."""
        of = f" of {self.sort}" if sort and self.sort else ""
        thick = f" {self.thick - OFF:.2g} to {self.thick + OFF:.2g} mm thick" if self.thick else ""
        return LEATHER[self.wanted] + of + thick


class Grade(StrEnum):
    """What the leather of a zone is like."""

    PRIME = "prime"
    LOOSE = "loose"


@dataclass(frozen=True)
class Zone:
    """A stretch of a hide of one kind, such as the belly. ring: (n, 2), open."""

    name: str
    grade: Grade
    ring: Array


@dataclass(frozen=True)
class Hide:
    """A hide or an offcut, in its place beside the others.

    ring: (n, 2), open. forbidden: scars, holes, brands. priority: what is used first has the lowest. sort: the leather
    it is; empty where it may serve for any. gauged: how thick it was found here and there; unless it was, it is as
    thick as is asked.
    """

    id: Id
    ring: Array
    forbidden: tuple[Array, ...] = ()
    zones: tuple[Zone, ...] = ()
    priority: int = 1
    sort: str = ""
    gauged: tuple[Gauged, ...] = ()

    @cached_property
    def whole(self) -> BaseGeometry:
        """The leather of it that can be used at all."""
        marks = shapely.union_all([shapely.make_valid(shapely.Polygon(ring)) for ring in self.forbidden])
        return shapely.difference(shapely.make_valid(shapely.Polygon(self.ring)), marks)

    def leather(self, asked: Asked, band: float = BAND) -> BaseGeometry:
        """The leather of it that a piece may lie on.

        Where no zone is said to be prime, whatever is not loose is taken for it.
        """
        if asked.sort and self.sort and asked.sort != self.sort:
            return shapely.Polygon()
        key = asked.wanted, asked.thick if self.gauged else 0.0, band
        if key not in self._leathers:
            found = self._leather(asked.wanted, band)
            thick = as_thick(self.gauged, self.ring, key[1]) if key[1] else found
            self._leathers[key] = shapely.intersection(found, thick)
        return self._leathers[key]

    @cached_property
    def _leathers(self) -> dict[tuple[Wanted, float, float], BaseGeometry]:
        return {}

    def _leather(self, wanted: Wanted, band: float) -> BaseGeometry:
        prime, loose = (self._zone(grade) for grade in (Grade.PRIME, Grade.LOOSE))
        match wanted:
            case Wanted.BACK_BAND:
                left, low, right, top = shapely.Polygon(self.ring).bounds
                return shapely.intersection(self.whole, shapely.box(left, max(top - band, low), right, top))
            case Wanted.PRIME if not prime.is_empty:
                return shapely.intersection(self.whole, prime)
            case Wanted.PRIME | Wanted.NOT_LOOSE:
                return shapely.difference(self.whole, loose)
        return self.whole

    def _zone(self, grade: Grade) -> BaseGeometry:
        rings = [zone.ring for zone in self.zones if zone.grade is grade]
        return shapely.union_all([shapely.make_valid(shapely.Polygon(ring)) for ring in rings])

    def moved(self, by: Array) -> Hide:
        """The hide moved by (2,) mm, with all that is on it."""
        zones = tuple(replace(zone, ring=zone.ring + by) for zone in self.zones)
        gauged = tuple(Gauged(x + float(by[0]), y + float(by[1]), thick) for x, y, thick in self.gauged)
        return replace(
            self, ring=self.ring + by, forbidden=tuple(r + by for r in self.forbidden), zones=zones, gauged=gauged
        )


def in_row(hides: Sequence[Hide]) -> tuple[Hide, ...]:
    """Hides side by side with their feet level, to be used in this order; those of one name are told apart."""
    row, x = list[Hide](), 0.0
    for n, hide in enumerate(hides):
        id_ = hide.id if all(hide.id != other.id for other in row) else f"{hide.id} ({n + 1})"
        row.append(replace(hide.moved(np.array([x, 0.0]) - hide.ring.min(axis=0)), id=id_, priority=n))
        x += float(np.ptp(hide.ring[:, 0])) + APART
    return tuple(row)


@dataclass(frozen=True)
class Turns:
    """Which ways round a piece may lie: within so many degrees of one of the bases."""

    bases: tuple[float, ...] = (0.0,)
    play: float = FREE

    @property
    def free(self) -> bool:
        return self.play >= FREE

    def allow(self, degrees: float, slack: float = 1e-6) -> bool:
        """Whether a piece may be turned so."""
        return self.free or min(abs(self._off(degrees, base)) for base in self.bases) <= self.play + slack

    def told(self, degrees: float) -> float:
        """The same turn, as it is told from the base that is nearest."""
        if self.free:
            return degrees % 360.0
        base = min(self.bases, key=lambda base: abs(self._off(degrees, base)))
        return base + self._off(degrees, base)

    @staticmethod
    def _off(degrees: float, base: float) -> float:
        return (degrees - base + 180) % 360 - 180


@dataclass(frozen=True)
class Laid:
    """Where a piece lies: turned over first (y to -y), then turned about its origin, then moved."""

    id: Id
    hide: Id
    mirrored: bool
    degrees: float
    move: tuple[float, float]

    def of(self, ring: Array) -> Array:
        """A ring (n, 2) of the piece, where it lies."""
        turn = np.radians(self.degrees)
        cos, sin = np.cos(turn), np.sin(turn)
        flat = ring * [1.0, -1.0] if self.mirrored else ring
        return np.asarray(flat @ np.array([[cos, sin], [-sin, cos]]) + self.move)

    def moved(self, by: Array) -> Laid:
        """Moved on by (2,) mm."""
        return replace(self, move=(self.move[0] + float(by[0]), self.move[1] + float(by[1])))


@dataclass(frozen=True)
class Template:
    """A piece to be cut. ring: (n, 2), open. gap: mm, the least to another piece; the greater of two counts.

    margin: mm that it would rather keep from the edge of the leather. pinned: where it must stay. sort: the leather it
    is of; empty where that is whatever there is. thick: mm of it; 0 where that is as thick as it comes.
    """

    id: Id
    name: str
    ring: Array
    gap: float = 2.5
    margin: float = 1.25
    turns: Turns = Turns()
    may_flip: bool = False
    wanted: Wanted = Wanted.ANY
    pinned: Laid | None = None
    sort: str = ""
    thick: float = 0.0

    @cached_property
    def shape(self) -> shapely.Polygon:
        return shapely.Polygon(self.ring)

    @cached_property
    def strap(self) -> bool:
        """Whether it is so long and slender that it is laid and cut before all else, along the back edge."""
        span = float(np.linalg.norm(np.ptp(self.ring, axis=0)))
        return bool(self.shape.convex_hull.area < SLENDER * span**2 and span > REACH)

    def pin(self, laid: Laid | None) -> Template:
        return replace(self, pinned=laid)


@dataclass(frozen=True)
class Laying:
    """Pieces to be laid, and what there is to lay them on."""

    hides: tuple[Hide, ...]
    templates: tuple[Template, ...]
    band: float = BAND

    def template(self, id_: Id) -> Template:
        return next(template for template in self.templates if template.id == id_)

    def asked(self, template: Template) -> Asked:
        """The leather a piece asks for; how thick, only where it is known of some of the hides."""
        return Asked(template.wanted, template.sort, template.thick if self._gauged else 0.0)

    @cached_property
    def _gauged(self) -> bool:
        return any(hide.gauged for hide in self.hides)

    @cached_property
    def _sizes(self) -> dict[Asked, Array]:
        """How wide and how high the parts are, (n, 2), of each kind of leather that is asked for."""
        found = {}
        for asked in {self.asked(template) for template in self.templates}:
            leathers = [hide.leather(asked, self.band) for hide in self.hides]
            bounds = shapely.bounds([part for each in leathers for part in shapely.get_parts(each) if part.area])
            found[asked] = (bounds[:, 2:] - bounds[:, :2]) if len(bounds) else np.zeros((0, 2))
        return found

    def why_never(self, template: Template) -> str:
        """Why a piece cannot lie on any of the leather it asks for, whatever else lies there; empty where it may."""
        asked = self.asked(template)
        sizes, kind = self._sizes[asked], asked.said(sort=False)
        if not len(sizes):
            return f"there is no {asked.said()}"
        if np.linalg.norm(np.ptp(template.ring, axis=0)) <= sizes.min(axis=1).max():
            return ""  # however it is turned
        turns = template.turns
        play = np.linspace(-1.0, 1.0, 37) * min(turns.play, FREE)
        spans = np.array([
            np.ptp(Laid("", "", over, degrees, (0.0, 0.0)).of(template.ring), axis=0)
            for base in turns.bases for degrees in base + play for over in {False, template.may_flip}
        ])  # fmt: skip
        if (spans[:, None] <= sizes[None] + TINY).all(axis=2).any():
            return ""
        wide, high = sizes[np.argmax(sizes.prod(axis=1))]
        least = spans[np.argmin(spans[:, 1])]
        return f"it is {least[0]:.0f} × {least[1]:.0f} mm as it may lie, the {kind} at most {wide:.0f} × {high:.0f} mm"

    def share(self, laid: Sequence[Laid]) -> float:
        """Share of the pieces' area that lies on leather."""
        areas = {template.id: template.shape.area for template in self.templates}
        return float(sum(areas[one.id] for one in laid) / max(sum(areas.values()), 1e-9))
