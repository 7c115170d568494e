"""Marking a hide up: scars, holes and brands that nothing is laid on, and what is prime or loose of it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from enum import StrEnum

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from tailor.core.carried.loft import Array
from tailor.core.cut.laying import Grade, Hide, Zone
from tailor.core.errors import InputError

LEAST = 20.0  # mm² of a mark: what is less was a slip of the hand
FINE = 0.5  # mm that a line drawn by hand is smoothed by
MOST = 400  # marks of a hide


class Marked(StrEnum):
    """What is drawn on a hide."""

    SCAR = "scar"
    PRIME = "prime"
    LOOSE = "loose"


def marked(hide: Hide, ring: Array, kind: Marked) -> Hide:
    """A hide with one more mark: what of a ring (n, 2) lies on it, a line that crosses itself as it is filled.

    Raises InputError where nothing of it does, or it is too small to be meant.
    """
    if len(hide.forbidden) + len(hide.zones) >= MOST:
        raise InputError(f"it has {MOST} marks", str(hide.id), "take one away first")
    drawn = shapely.make_valid(shapely.Polygon(ring)) if len(ring) > 2 else shapely.Polygon()
    rings = list(_rings(shapely.intersection(shapely.simplify(drawn, FINE), shapely.Polygon(hide.ring))))
    if not rings:
        where = "beside the hide" if drawn.area >= LEAST else "too small to see"
        raise InputError(f"what was drawn is {where}", f"{hide.id}, {kind}", "draw round it, on the leather")
    if kind is Marked.SCAR:
        return replace(hide, forbidden=(*hide.forbidden, *rings))
    new = tuple(Zone(str(kind), Grade(kind), each) for each in rings)
    return replace(hide, zones=(*hide.zones, *new))


def marks(hide: Hide) -> tuple[tuple[Marked, Array], ...]:
    """All that is drawn on a hide: scars first, then zones as they came."""
    scars = tuple((Marked.SCAR, ring) for ring in hide.forbidden)
    return scars + tuple((Marked(zone.grade), zone.ring) for zone in hide.zones)


def without(hide: Hide, n: int) -> Hide:
    """A hide without one of its marks, by its number among them."""
    scars = len(hide.forbidden)
    if n < scars:
        return replace(hide, forbidden=hide.forbidden[:n] + hide.forbidden[n + 1 :])
    k = n - scars
    return replace(hide, zones=hide.zones[:k] + hide.zones[k + 1 :])


def within(zones: Sequence[Zone], part: BaseGeometry) -> tuple[Zone, ...]:
    """What of zones lies in a part of a hide."""
    found = list[Zone]()
    for zone in zones:
        whole = shapely.make_valid(shapely.Polygon(zone.ring))
        if shapely.covers(part, whole):
            found.append(zone)
        else:
            found += [replace(zone, ring=ring) for ring in _rings(shapely.intersection(whole, part))]
    return tuple(found)


def _rings(shape: BaseGeometry) -> Iterator[Array]:
    """The outlines of what there is of a shape that is large enough, open and counter-clockwise, (n, 2) each."""
    for part in shapely.get_parts(shape):
        if isinstance(part, shapely.Polygon) and part.area >= LEAST:
            yield np.array(shapely.orient_polygons(shapely.Polygon(part.exterior)).exterior.coords)[:-1]


def turned(hide: Hide, quarters: int) -> Hide:
    """A hide turned by quarters of a circle against the clock, with all that is on it; its lower left at 0, 0."""
    c, s = ((1, 0), (0, 1), (-1, 0), (0, -1))[quarters % 4]
    turn = np.array([[c, -s], [s, c]], dtype=float)

    def by(ring: Array) -> Array:
        return np.asarray(ring @ turn.T)

    zones = tuple(replace(zone, ring=by(zone.ring)) for zone in hide.zones)
    found = replace(hide, ring=by(hide.ring), forbidden=tuple(map(by, hide.forbidden)), zones=zones)
    return found.moved(-found.ring.min(axis=0))
