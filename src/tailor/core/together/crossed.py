"""Crossed: where lines go through placed pieces: what lies over and under a fastening, and all round a room."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import pairwise

import numpy as np
import shapely

from tailor.core.carried.loft import Array
from tailor.core.together.sheet import Indices, Part, Sheet

TRIES, SMALL = 5, 1e-4  # steps from a place to where a line goes through, and the mm by which leather is told to slope
ASIDE = SMALL * np.array([[[0.0, 0.0]], [[1.0, 0.0]], [[0.0, 1.0]]])
BEYOND = np.array([-1.0, -1.0, 1.0, 1.0])
MET = 2e-4  # mm beside a line, where it is there
SAME = 0.25  # of a thickness: nearer to one another along a line, two places are one
LEAST = 1e-12  # share of its area by which leather is seen along a line, squared: it lies along it

Crossed = tuple[float, str, Array]  # how far along a line it goes through a piece, which, and at which flat point, (2,)
Met = tuple[Indices, Array, Array]  # which line goes through, (k,), how far along it, (k,), and where, flat, (k, 2)


def crossed(sheets: Mapping[str, Sheet], at: Array, ways: Array, far: float = np.inf) -> list[list[Crossed]]:
    """What each of some lines goes through, piece by piece in order.

    at: (n, 3), a place on each line; ways: (n, 3), of length 1; far: no further than so from the place, mm.
    """
    bent, met = list[tuple[str, Part, Indices]](), dict[str, list[Met]]()
    for name, sheet in sheets.items():
        for part in sheet.parts:
            near = part.near(at, ways, far)
            if len(near) and part.frame is None:
                bent.append((name, part, near))
            elif len(near) and part.frame is not None:
                plane = _through_plane(part.frame, at[near], ways[near])
                met.setdefault(name, []).append(_within(part, plane, near, far))
    followed = _followed([part for _, part, _ in bent], [(at[near], ways[near]) for *_, near in bent], far)
    for (name, part, near), its in zip(bent, followed, strict=True):
        met.setdefault(name, []).append(_within(part, its, near, far))
    found: list[list[Crossed]] = [[] for _ in at]
    for name in sheets:
        if name not in met:
            continue
        whose, depth, flat = (np.concatenate(each) for each in zip(*met[name], strict=True))
        same, last = SAME * sheets[name].thickness, dict[int, float]()
        order = np.lexsort((depth, whose))
        for line, deep, k in zip(whose[order].tolist(), depth[order].tolist(), order.tolist(), strict=True):
            if deep - last.get(line, -np.inf) >= same:
                found[line].append((deep, name, flat[k]))
                last[line] = deep
    return found


def _through_plane(frame: tuple[Array, Array, Array], at: Array, ways: Array) -> Met:
    flat, middle, across = frame
    out = np.cross(*across)
    seen = ways @ out
    which = np.flatnonzero(np.abs(seen) > LEAST)  # the others lie along it
    depth = ((middle - at[which]) @ out) / seen[which]
    return which, depth, flat + (at[which] + depth[:, None] * ways[which] - middle) @ across.T


def _within(part: Part, met: Met, near: Indices, far: float) -> Met:
    """Of where lines go through how a part lies what is in it, and no further off than so. near: which they are."""
    whose, depth, flat = met
    there = np.abs(depth) <= far
    there[there] = shapely.intersects_xy(part.region, *flat[there].T)
    return near[whose[there]], depth[there], flat[there]


def _followed(parts: Sequence[Part], lines: Sequence[tuple[Array, Array]], far: float) -> list[Met]:
    """Where lines go through parts, those that may of each: from each place near one leather is taken to go on as it
    slopes there, again and again; one point may come several times.
    """
    if not parts:
        return []
    begun = [part.begun(*its, far) for part, its in zip(parts, lines, strict=True)]
    which = np.repeat(np.arange(len(parts)), [len(flat) for _, flat in begun])
    flat = np.vstack([flat for _, flat in begun])
    at, ways = (np.vstack([its[k][whose] for its, (whose, _) in zip(lines, begun, strict=True)]) for k in (0, 1))
    near = np.array([part.near_by for part in parts])[which]
    low, high = np.split(np.array([part.region.bounds for part in parts])[which] + near[:, None] * BEYOND, 2, axis=1)
    depth, left, off = np.full(len(flat), np.nan), np.arange(len(flat)), np.full(len(flat), np.inf)
    for _ in range(TRIES if len(flat) else 0):
        told = np.hstack([
            part.lie((flat[left[its]] + ASIDE).reshape(-1, 2)).at.reshape(3, -1, 3)
            for part, its in zip(parts, _runs(which[left], len(parts)), strict=True)
            if its.stop > its.start
        ])  # fmt: skip
        told[1:] = (told[1:] - told[0]) / SMALL
        told[0] -= at[left]
        along = np.einsum("kij,ij->ki", told, ways[left])
        told -= along[..., None] * ways[left]
        (_, u, v), (_, a, b), (*_, c) = np.einsum("kij,lij->kli", told, told)
        was, off = off, np.abs(told[0]).max(axis=1)
        there, seen = off <= MET, a * c - b * b
        depth[left[there]] = along[0, there]
        by = np.array([c * u - b * v, a * v - b * u]).T / np.maximum(seen, LEAST)[:, None]
        by *= np.minimum(1.0, near[left] / np.maximum(np.hypot(*by.T), LEAST))[:, None]
        to = flat[left] - by
        # What lies along the line, or comes no nearer to it, or goes past the part, is none.
        more = ~there & (off < was) & (seen > LEAST) & ((to > low[left]) & (to < high[left])).all(axis=1)
        left, off = left[more], off[more]
        if not len(left):
            break
        flat[left] = to[more]
    met = np.isfinite(depth)
    return [
        (whose[met[its]], depth[its][met[its]], flat[its][met[its]])
        for (whose, _), its in zip(begun, _runs(which, len(parts)), strict=True)
    ]


def _runs(which: Indices, count: int) -> list[slice]:
    """Of numbers in order, (n,), which are each of the first so many."""
    ends = np.searchsorted(which, np.arange(count + 1))
    return [slice(*both) for both in pairwise(ends.tolist())]
