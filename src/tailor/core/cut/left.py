"""What a layout leaves: offcuts worth keeping, and how much of the straight back edge."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from tailor.core.carried.loft import Array
from tailor.core.cut.laying import Hide, Id, Laid, Laying

NARROW = 40.0  # mm: what is narrower is not worth keeping
WORTH = 5_000.0  # mm² that an offcut has at the least
STRAP = 40.0  # mm below the back edge that a strap takes
ROUND = 4  # parts of a quarter turn
EDGE = 3.0  # mm a strap may keep from the edge


@dataclass(frozen=True)
class Rest:
    """Of a hide: the share used of what can be; rings worth keeping, the largest first; and the longest stretch of its
    back edge, mm, that is free for a strap, and that was before.
    """

    hide: Id
    used: float
    offcuts: tuple[Array, ...]
    edge: float
    edge_before: float


def rests(laying: Laying, laid: Sequence[Laid]) -> list[Rest]:
    """What is left of each hide."""
    gap = max((t.gap for t in laying.templates), default=0.0)
    rings = {t.id: t.ring for t in laying.templates}
    found = []
    for hide in laying.hides:
        shapes = [shapely.Polygon(one.of(rings[one.id])) for one in laid if one.hide == hide.id]
        taken = shapely.union_all(shapes)
        free = shapely.difference(hide.whole, taken.buffer(gap, quad_segs=ROUND))
        used = float(sum(s.area for s in shapes) / max(hide.whole.area, 1e-9))
        found.append(Rest(hide.id, used, offcuts(free), _edge(hide, free), _edge(hide, hide.whole)))
    return found


def offcuts(free: BaseGeometry) -> tuple[Array, ...]:
    """The rings of free leather that are worth keeping, the largest first, without what is too narrow to be of use."""
    broad = free.buffer(-NARROW / 2, quad_segs=ROUND).buffer(NARROW / 2 * 0.999, quad_segs=ROUND)
    parts = [part for part in shapely.get_parts(shapely.intersection(broad, free)) if part.area >= WORTH]
    return tuple(np.asarray(part.exterior.coords)[:-1] for part in sorted(parts, key=lambda p: -p.area))


def _edge(hide: Hide, free: BaseGeometry) -> float:
    """The longest stretch along the back edge, mm, where leather is free as deep as a strap is wide."""
    left, _, right, top = shapely.Polygon(hide.ring).bounds
    places = np.arange(left, right, 2.0)
    lines = shapely.linestrings([[(x, top - EDGE), (x, top - STRAP)] for x in places])
    shapely.prepare(free)
    runs = np.diff(np.concatenate([[0], shapely.covers(free, lines).astype(int), [0]]))
    begins, ends = np.nonzero(runs == 1)[0], np.nonzero(runs == -1)[0]
    return float((ends - begins).max(initial=0) * 2.0)
