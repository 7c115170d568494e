"""Room: where on a piece something is sewn of itself: clear of edges, folds, stitches, bends, and what lies over it."""

from __future__ import annotations

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Piece
from tailor.core.placed.lies import Lie

BESIDE = 3.0  # mm of leather from an attached piece to whatever is near
CELLS = 40  # to the longer side of a piece, where room is looked for
ROUND, FORMED = 60.0, 20.0  # mm: nothing is sewn of itself where leather bends more tightly; where it is formed
OVER = 60.0  # mm over a piece within which nothing else may lie


def room_on(on: Piece, draft: Draft, stands: bool) -> tuple[float, float, float, float]:
    """Left, low, right and high of the largest rectangle on a piece where something can be sewn. stands: it stands out
    from the piece, and wants it level even where that is formed.
    """
    low, high = on.cut.min(axis=0), on.cut.max(axis=0)
    step = max(float((high - low).max()) / CELLS, 1.0)
    x, y = (np.arange(a + step / 2, b, step) for a, b in zip(low, high, strict=True))
    plain = shapely.Polygon(on.cut, list(on.openings)).simplify(step / 8)
    leather = plain.buffer(-BESIDE - step, quad_segs=2)
    holes = shapely.multipoints(np.array([(h.x, h.y) for h in on.holes]).reshape(-1, 2))
    taken = shapely.buffer(holes, BESIDE + step, quad_segs=2)
    creased = shapely.union_all([shapely.LineString(fold).buffer(BESIDE + step) for fold in on.folds])
    free = shapely.difference(shapely.difference(leather, taken), creased)
    shapely.prepare(free)
    at = np.stack(np.meshgrid(x, y), axis=2)
    open_ = shapely.contains_xy(free, at[:, :, 0].ravel(), at[:, :, 1].ravel()).reshape(at.shape[:2])
    lie = draft.lies.get(on.name)
    if lie is not None:
        open_ &= _round(lie, at, step) >= (FORMED if draft.shell is not None and not stands else ROUND)
        open_ &= ~_covered(on, lie, draft, at, step)
    a, c, b, d = _largest(open_)
    return float(low[0] + a * step), float(low[1] + c * step), float(low[0] + b * step), float(low[1] + d * step)


def _largest(open_: NDArray[np.bool_]) -> tuple[int, int, int, int]:
    """First column, first row, last column and last row, beyond them, of the largest open rectangle of cells (r, c)."""
    best, found = 0, (0, 0, 0, 0)
    tall = np.zeros(open_.shape[1], dtype=int)
    for row, line in enumerate(open_):  # the tallest run of free cells up to each row, and how wide it goes on
        tall = np.where(line, tall + 1, 0)
        if line.sum() * (row + 1) <= best:
            continue
        for deep in set(tall[tall > 0].tolist()):
            if deep * int(line.sum()) <= best:
                continue
            runs = np.flatnonzero(np.diff(np.concatenate([[0], (tall >= deep).astype(int), [0]])))
            for a, b in zip(runs[::2], runs[1::2], strict=True):
                if deep * (b - a) > best:
                    best, found = deep * (b - a), (int(a), row - deep + 1, int(b), row + 1)
    return found


def _round(lie: Lie, at: Array, step: float) -> Array:
    """The radius on which leather bends over cells about places (r, c, 2), (r, c), mm."""
    corners = [lie((at + step / 2 * np.array(way)).reshape(-1, 2)).out for way in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
    alike = [(corners[k] * corners[k - 2]).sum(axis=1) for k in (0, 1)]  # from corner to corner
    turned = np.arccos(np.clip(np.minimum(*alike), -1, 1))
    return np.asarray(np.sqrt(2) * step / np.maximum(turned, 1e-9)).reshape(at.shape[:2])


def _covered(on: Piece, lie: Lie, draft: Draft, at: Array, step: float) -> NDArray[np.bool_]:
    """Over which cells about places (r, c, 2) of a piece another lies, once it is put together."""
    places, out = lie(at.reshape(-1, 2))
    others = [draft.lies[p.name](_all_over(p, step)).at for p in draft.pieces if p.name in draft.lies and p is not on]
    found = np.zeros(len(places), dtype=bool)
    if others:
        every = np.vstack(others)
        under = np.asarray(scipy.spatial.cKDTree(places).query(every, distance_upper_bound=OVER)[1])
        near = under < len(places)
        every, under = every[near], under[near]
        away = every - places[under]
        high = (away * out[under]).sum(axis=1)
        beside = np.linalg.norm(away - high[:, None] * out[under], axis=1)
        found[under[(high > on.thickness / 4) & (beside < step)]] = True
    return np.asarray(found.reshape(at.shape[:2]))


def _all_over(piece: Piece, step: float) -> Array:
    """Places all over a piece, (n, 2), no further apart than a step."""
    low, high = piece.cut.min(axis=0), piece.cut.max(axis=0)
    x, y = (np.linspace(a, b, int((b - a) / step) + 2) for a, b in zip(low, high, strict=True))
    grid = np.stack(np.meshgrid(x, y), axis=2).reshape(-1, 2)
    leather = shapely.Polygon(piece.cut)
    shapely.prepare(leather)
    return np.vstack([grid[shapely.contains_xy(leather, *grid.T)], piece.cut])
