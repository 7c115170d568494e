"""Usual shapes of hides, as tanners cut them, scaled to the area on the tag: to begin with, where none was drawn."""

from __future__ import annotations

import numpy as np
import shapely

from tailor.core.carried.loft import Array
from tailor.core.cut.laying import Grade, Hide, Id, Zone
from tailor.core.errors import InputError

LEAST, MOST = 0.01, 8.0  # m² on a tag

# Half outlines with the backbone along the top, neck at the right, as shares of their length: x, y.
SHAPES = {
    "side": ((0.03, 0.455), (0.0, 0.39), (0.03, 0.2), (0.0, 0.05), (0.06, 0.0), (0.13, 0.06), (0.3, 0.09),
             (0.55, 0.08), (0.7, 0.05), (0.76, 0.0), (0.83, 0.03), (0.82, 0.13), (0.9, 0.22), (1.0, 0.25),
             (0.99, 0.36), (0.93, 0.455)),
    "back": ((0.02, 0.4), (0.0, 0.3), (0.03, 0.02), (0.3, 0.0), (0.7, 0.01), (0.97, 0.04), (1.0, 0.3), (0.98, 0.4)),
    "shoulder": ((0.04, 0.62), (0.0, 0.3), (0.08, 0.0), (0.5, 0.05), (0.92, 0.0), (1.0, 0.3), (0.96, 0.62)),
    "belly": ((0.0, 0.2), (0.04, 0.04), (0.2, 0.03), (0.5, 0.0), (0.8, 0.04), (0.97, 0.02), (1.0, 0.18), (0.5, 0.22)),
}  # fmt: skip
LOOSE = {"side": 0.34, "belly": 1.0}  # share of the height, from the foot, that is loose
FIRM = {"side": 0.45, "back": 0.7}  # share of the height, from the back, that is prime


def usual(shape: str, area: float, id_: Id) -> Hide:
    """A hide of a usual shape and an area, m². Raises InputError for a shape or an area that there is not."""
    if shape not in SHAPES:
        raise InputError(f"'{shape}' is no usual shape", "leather", f"give {' or '.join(SHAPES)}")
    if not LEAST <= area <= MOST:
        raise InputError(f"{area:g} m² is no hide", "leather", f"give {LEAST:g} to {MOST:g} m²")
    ring = np.array(SHAPES[shape])
    ring = ring * np.sqrt(area * 1e6 / shapely.Polygon(ring).area)
    high = float(ring[:, 1].max())
    zones = []
    if shape in LOOSE:
        zones.append(Zone("belly", Grade.LOOSE, _band(ring, 0.0, LOOSE[shape] * high)))
    if shape in FIRM:
        zones.append(Zone("back", Grade.PRIME, _band(ring, (1 - FIRM[shape]) * high, high)))
    return Hide(id_, ring, (), tuple(zones))


def _band(ring: Array, low: float, high: float) -> Array:
    """The greatest part of a ring between two heights."""
    left, _, right, _ = shapely.Polygon(ring).bounds
    parts = shapely.get_parts(shapely.intersection(shapely.Polygon(ring), shapely.box(left, low, right, high)))
    return np.asarray(max(parts, key=lambda part: part.area).exterior.coords)[:-1]
