"""Marking a hide up: scars, holes and brands that nothing is laid on, and what is prime or loose of it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from enum import StrEnum
from typing import Any, NamedTuple

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from tailor.core.carried.loft import Array
from tailor.core.cut.laying import Grade, Hide, Zone
from tailor.core.cut.thickness import Gauged
from tailor.core.errors import InputError
from tailor.core.leather.leather import THICKEST, THINNEST

LEAST = 20.0  # mm² of a mark: what is less was a slip of the hand
FINE = 0.5  # mm that a line drawn by hand is smoothed by
MOST = 400  # marks of a hide, and readings of its thickness


class Marked(StrEnum):
    """What is drawn on a hide."""

    SCAR = "scar"
    PRIME = "prime"
    LOOSE = "loose"
    THICKNESS = "thickness"


class Mark(NamedTuple):
    """What is on a hide. ring: (n, 2); of a reading of its thickness, mm, the one place."""

    kind: Marked
    ring: Array
    thick: float = 0.0


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


def on_leather(hide: Hide, at: tuple[float, float]) -> None:
    """See that a place is on a hide. Raises InputError where it is beside it."""
    if not shapely.Polygon(hide.ring).covers(shapely.Point(at)):
        raise InputError("the place is beside the hide", f"{hide.id}, thickness", "take it on the leather")


def gauged(hide: Hide, at: tuple[float, float], thick: float) -> Hide:
    """A hide of which is known how thick it is at one more place, mm. Raises InputError where that cannot be."""
    where = f"{hide.id}, thickness"
    on_leather(hide, at)
    if not THINNEST <= thick <= THICKEST:
        raise InputError(f"{thick:g} mm is no leather", where, f"give {THINNEST} to {THICKEST:g} mm")
    if len(hide.gauged) >= MOST:
        raise InputError(f"it was read at {MOST} places", where, "take one away first")
    return replace(hide, gauged=(*hide.gauged, Gauged(float(at[0]), float(at[1]), thick)))


def marks(hide: Hide) -> tuple[Mark, ...]:
    """All that is drawn on a hide: scars first, then zones as they came, then how thick it was read."""
    scars = (Mark(Marked.SCAR, ring) for ring in hide.forbidden)
    zones = (Mark(Marked(zone.grade), zone.ring) for zone in hide.zones)
    read = (Mark(Marked.THICKNESS, np.array([[x, y]]), thick) for x, y, thick in hide.gauged)
    return *scars, *zones, *read


def without(hide: Hide, n: int) -> Hide:
    """A hide without one of its marks, by its number among them."""
    if n < len(hide.forbidden):
        return replace(hide, forbidden=_but(hide.forbidden, n))
    n -= len(hide.forbidden)
    if n < len(hide.zones):
        return replace(hide, zones=_but(hide.zones, n))
    return replace(hide, gauged=_but(hide.gauged, n - len(hide.zones)))


def _but(things: tuple[Any, ...], n: int) -> tuple[Any, ...]:
    return things[:n] + things[n + 1 :]


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
    read = tuple(Gauged(x, y, one.thick) for one in hide.gauged for x, y in by(np.array([one[:2]])).tolist())
    found = replace(hide, ring=by(hide.ring), forbidden=tuple(map(by, hide.forbidden)), zones=zones, gauged=read)
    return found.moved(-found.ring.min(axis=0))
