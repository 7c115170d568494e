"""Inside: the room that leather sewn on both sides leaves, cut through, and what it must give for more to pass."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import Polygon, box

from tailor.core.shell.two_sided import TwoSided

TIDY = 1e-4  # mm: places of a section that lie nearer together than this are one


def inside(case: TwoSided, y: float) -> Polygon:
    """The room inside the leather at the formed row nearest to y as a polygon in x and z, from welt to welt."""
    k = int(np.abs(case.formed_rows - y).argmin())
    right, left = (float(x[0]) for x in case.edges(case.formed_rows[k : k + 1]))
    off, level = case.leather.offset, case.floor
    halves = []
    for face, up in ((case.front, 1.0), (case.back, -1.0)):
        if up < 0 and case.flat_back:
            halves.append(np.array([(left, 0.0), (right, 0.0)]))
            continue
        over = [face.left.points(k, -left + off)[::-1] * np.array([-1.0, 1.0]), face.right.points(k, right + off)]
        skin = np.vstack([[(left - off, -2 * off - 1)], *over, [(right + off, -2 * off - 1)]])
        flesh = Polygon(skin).simplify(TIDY).buffer(0).buffer(-off, join_style="mitre")
        room = flesh.intersection(box(left, 0, right, 1e3)).union(box(left, 0, right, level))
        halves.append(np.asarray(Polygon(shapely.get_exterior_ring(room)).exterior.coords) * np.array([1.0, up]))
    if case.flat_back:
        return shapely.transform(Polygon(halves[0]), lambda p: p - np.array([0.0, case.plane]))
    return Polygon(halves[0]).union(Polygon(halves[1])).buffer(0)


def pushed(case: TwoSided, neck: float, wide: float) -> float:
    """How much longer, as a share, the leather at row `neck` must grow for the section at row `wide` to pass it."""
    held = inside(case, neck)
    passing = Polygon(case.loft.sections(np.array([wide])).outline(0)).buffer(0)
    return float(held.union(passing).length / held.length - 1)
