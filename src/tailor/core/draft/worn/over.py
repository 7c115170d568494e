"""Over: the way of a strap or a flap that is sewn to the back, goes over the top and comes down on the front.

Looked at straight from the side it is drawn taut over whatever stands in its way: the back it is sewn to, the object
above the mouth, the brim of the front. Its neutral line is that taut line, further out by the leather's offset, so
it is longer by the offset times the angle it turns through. Source: geometry, "Straps and keepers".
"""

from __future__ import annotations

import numpy as np
import shapely

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Fitted, OverTop
from tailor.core.draft.fitted.faces import Face, face
from tailor.core.errors import InputError
from tailor.core.leather.leather import Leather

STEP = 1.0  # mm between the places that are looked at
TILT = 1.0  # mm over which the lean of a face is measured


def neutral(way: OverTop) -> Array:
    """The neutral line of a way, (n, 2), for drawing."""
    line = shapely.LineString(way.inner).simplify(1e-3)
    return np.asarray(shapely.get_coordinates(shapely.offset_curve(line, way.offset, quad_segs=16)))


def taut(points: Array, start: Array, end: Array) -> Array:
    """The taut line from start to end over points (n, 2) on its left, (k, 2)."""
    along = end - start
    left = along[0] * (points[:, 1] - start[1]) - along[1] * (points[:, 0] - start[0])
    hull = shapely.MultiPoint(np.vstack([start, points[left > 1e-9], end])).convex_hull
    if not isinstance(hull, shapely.Polygon):
        return np.vstack([start, end])
    ring = np.asarray(hull.exterior.coords)[:-1]
    ring = ring if not hull.exterior.is_ccw else ring[::-1]  # clockwise: from the start over the top
    first, last = (int(np.hypot(*(ring - at).T).argmin()) for at in (start, end))
    ring = np.roll(ring, -first, axis=0)
    return ring[: (last - first) % len(ring) + 1]


def over(draft: Fitted, leather: Leather, x: float, root: float, end: float) -> OverTop:
    """The way of a leather at x from height `root` on the back to height `end` on the front, flesh side inward."""
    loft, mouth, clear = draft.shell.loft, draft.value("mouth.y"), draft.shell.clearance
    back, front = face(draft, "back"), face(draft, "front")

    def seen(heights: Array) -> Array:
        return np.column_stack([np.full(len(heights), x), heights])

    stands = draft.reasons.get("back.above")
    up = _steps(root, mouth + (stands.value if stands else 0.0))
    down = _steps(end, brim_at(draft, x))
    # Each with two places more, by which the face's lean there is told.
    behind, lean_back = _out(back, seen(np.append(up, root + TILT)), 0)
    before, lean_front = _out(front, seen(np.append(down, end - TILT)), 0)
    behind, lean_front = -behind, -lean_front
    above = _steps(mouth, loft.top)
    sizes = loft.sizes(above)
    high = loft.top + clear
    points = np.vstack([
        np.column_stack([behind, up]),
        np.column_stack([-sizes[:, 3] - clear, above]), np.column_stack([sizes[:, 2] + clear, above]),
        [[-sizes[-1, 3], high], [sizes[-1, 2], high]],
        np.column_stack([before, down]),
    ])  # fmt: skip
    inner = taut(points, np.array([behind[0], root]), np.array([before[0], end]))
    return OverTop(x, inner, float(np.pi + lean_back + lean_front), leather)


def _steps(low: float, high: float) -> Array:
    return np.linspace(low, high, max(int((high - low) / STEP), 1) + 1)


def _out(of: Face, seen: Array, at: int) -> tuple[Array, float]:
    """How far a face stands out at places (n, 2) but the last, and how far it leans outward from one to the last,
    radians: so much the more a strap that comes down on it turns.
    """
    out = of.out(seen)
    return out[:-1], float(np.arctan((out[-1] - out[at]) / TILT))


def brim_at(draft: Fitted, x: float) -> float:
    """Height of the front's edge at the mouth, scooped as it is, mm."""
    edge = draft.plan.mouth[np.argsort(draft.plan.mouth[:, 0])]
    return float(np.interp(x, edge[:, 0], edge[:, 1]))


def middle_of(draft: Fitted) -> float:
    """x of the middle of the back at the mouth, between welts or fold and welt, mm."""
    left, right = across(draft, draft.value("mouth.y") - 0.5)
    return (left + right) / 2


def across(draft: Fitted, y: float) -> tuple[float, float]:
    """x of the back's two sides at a height, between the welts or from fold to welt, mm.

    Raises InputError where nothing of it lies at that height.
    """
    level = shapely.LineString([(-1e4, y), (1e4, y)]).intersection(draft.plan.between)
    if level.is_empty:
        low, high = draft.plan.between.bounds[1::2]
        raise InputError(
            f"something is to be sewn to the back at {y:.0f} mm, and between its welts it reaches from {low:.0f} to "
            f"{high:.0f} mm", "back", "hang it by something shorter, or set that to none",
        )  # fmt: skip
    return float(level.bounds[0]), float(level.bounds[2])
