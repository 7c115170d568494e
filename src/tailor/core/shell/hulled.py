"""Hulled: the places where a hull touches what it is drawn over, each as often as it is pushed out another way.

A hull grown by a distance is the hull of its places pushed out along the normals of its facets, and along ways between
those of facets that meet.
"""

from __future__ import annotations

import numpy as np
import scipy
from numpy.typing import NDArray

from tailor.core.carried.loft import Array

Indices = NDArray[np.intp]
ALIKE = 0.1  # of a way's length, coarse: ways that lead nearer together than this are one


def pushed(hull: scipy.spatial.ConvexHull, between: float) -> tuple[Indices, Array]:
    """Every place the hull touches, as often as it has facets there and ways between them, (n,), and those, (n, 3)."""
    normal, corner = hull.equations[:, :3], hull.simplices
    use = normal[:, 2] > -0.3
    facet = np.flatnonzero(use)
    own = corner[facet].ravel()
    which, ways = [own], [np.repeat(normal[facet], 3, axis=0)]
    one = np.repeat(np.arange(len(corner)), 3)
    other = hull.neighbors.ravel()
    ahead = (one < other) & use[one] & use[other]
    one, other, opposite = one[ahead], other[ahead], np.tile(np.arange(3), len(corner))[ahead]
    angle = np.arccos(np.clip((normal[one] * normal[other]).sum(axis=1), -1, 1))
    steps = np.ceil(angle / between).astype(int)
    ends = np.stack([corner[one, (opposite + 1) % 3], corner[one, (opposite + 2) % 3]], axis=1)
    for count in np.unique(steps[steps > 1]):
        mine = np.flatnonzero(steps == count)
        for j in range(1, int(count)):
            way = _between(normal[one[mine]], normal[other[mine]], angle[mine], j / count)
            for end in (0, 1):
                which.append(ends[mine, end])
                ways.append(way)
    return np.concatenate(which), np.vstack(ways)


def unlike(which: Indices, ways: Array) -> tuple[Indices, Array]:
    """Places and ways without those that lead from the same place nearly the same way as another."""
    near = np.rint((ways + 1) / ALIKE).astype(np.int64)
    kept = np.unique(which + (which.max() + 1) * (near @ (1000 ** np.arange(3))), return_index=True)[1]
    return which[kept], ways[kept]


def _between(a: Array, b: Array, angle: Array, share: float) -> Array:
    """Unit vectors a share of the way from a to b, which lie an angle apart, (n, 3)."""
    sine = np.sin(angle)[:, None]
    return np.asarray((np.sin((1 - share) * angle)[:, None] * a + np.sin(share * angle)[:, None] * b) / sine)
