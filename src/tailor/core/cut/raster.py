"""A first layout, at once: pieces as rows of squares, each put where it touches most and takes least that is scarce.

Compiled, with what it lays pieces by: where that changes this must too, for numba looks at one file only when it asks
whether to compile anew. Nothing so laid meets anything, so it is valid as it stands.
"""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numba import njit

from tailor.core.carried.loft import Array
from tailor.core.cut.ground import STEP, Counts, Flags, Ground
from tailor.core.cut.meeting import laid, trial
from tailor.core.cut.moves import put, slid

SQUARE = 8.0  # mm
HAIR = 1e-3  # mm kept from the sides of squares, so that rounding cannot count one more
BACK, EDGE = 60.0, 0.5  # mm along the back edge that are kept for straps, and how dear they are
ANGLES = 8  # ways round that are tried of a piece which may lie any way
TOUCH, SCARCE = 0.15, 0.35  # what touching all round, and leather that others need, weigh against the length of a hide


class Squares(NamedTuple):
    """q kinds of leather as squares from `low`: free (q, h, w): how many squares in a row are free from each on to the
    right; held (h, w): what is taken or no leather at all; dear (q, h, w + 1): summed along each row, how much others
    need it; hides (n, 2): the columns of each hide, what is used first, first.
    """

    low: Array
    free: Counts
    held: Flags
    dear: Array
    hides: Counts


def squares(ground: Ground, hides: Array, needed: Array, backs: Array) -> Squares:
    """The squares of a ground.

    hides (n, 2): from and to along x; needed (q,): how much of each kind will be asked for; backs (m, 3): from and to
    along x, and how high, of the back edges, which are left for straps where there is other room.
    """
    low = ground.low
    kinds, tall, wide = ground.depth.shape
    across, up = (int(n * STEP // SQUARE) for n in (wide - 1, tall - 1))
    free = np.zeros((kinds, up, across), dtype=np.int64)
    for q in range(kinds):
        _blank(ground, q, free[q])
    held = free.max(axis=0) == 0
    dear = np.zeros((kinds, up, across + 1))
    area = free.sum(axis=(1, 2))
    for q in range(kinds):
        others = [n for n in range(kinds) if area[n] < area[q]]
        need = sum((needed[n] * free[n] for n in others), np.zeros((up, across)))
        for left, right, top in backs:
            row, col = (
                int(np.clip(v / SQUARE, 0, most)) for v, most in ((top - BACK - low[1], up), (left - low[0], across))
            )
            need[row : int((top - low[1]) / SQUARE) + 1, col : int((right - low[0]) / SQUARE) + 1] += EDGE
        dear[q, :, 1:] = np.cumsum(need, axis=1)
    for q in range(kinds):
        for row in range(up):
            _rows(free[q], held, row)
    columns = np.clip((hides - ground.low[0]) / SQUARE, 0, across - 1).astype(np.int64)
    return Squares(ground.low, free, held, dear, columns)


@njit(cache=True, error_model="numpy")
def _blank(ground: Any, q: int, free: Any) -> None:  # pragma: no cover - compiled
    """1 where a square lies whole within the leather, 0 where not."""
    up, across = free.shape
    inside = np.zeros((up, across), dtype=np.bool_)
    crossed = np.empty(ground.begun[q + 1] - ground.begun[q])
    for row in range(up):
        y = ground.low[1] + (row + 0.5) * SQUARE
        n = 0
        for e in range(ground.begun[q], ground.begun[q + 1]):
            ax, ay, bx, by = ground.edges[e]
            if (ay > y) != (by > y):
                crossed[n] = ax + (y - ay) / (by - ay) * (bx - ax)
                n += 1
        passed = np.sort(crossed[:n])
        for k in range(0, n - 1, 2):
            first = int(np.ceil((passed[k] - ground.low[0]) / SQUARE - 0.5))
            last = int(np.floor((passed[k + 1] - ground.low[0]) / SQUARE - 0.5))
            inside[row, max(first, 0) : min(last, across - 1) + 1] = True
    spans = np.empty((up, 2))
    for e in range(ground.begun[q], ground.begun[q + 1]):
        ax, ay, bx, by = ground.edges[e]
        first, last = _strips(ax - ground.low[0], ay - ground.low[1], bx - ground.low[0], by - ground.low[1], spans)
        for row in range(max(first, 0), min(last, up - 1) + 1):
            a, b = int(np.floor(spans[row, 0] / SQUARE)), int(np.floor(spans[row, 1] / SQUARE))
            inside[row, max(a, 0) : min(b, across - 1) + 1] = False
    for row in range(up):
        for col in range(across):
            free[row, col] = 1 if inside[row, col] else 0


@njit(cache=True, error_model="numpy")
def _strips(ax: float, ay: float, bx: float, by: float, spans: Any) -> tuple[int, int]:  # pragma: no cover - compiled
    """How far an edge reaches along x in each row it passes, into spans (rows, 2); the first row and the last."""
    if ay > by:
        ax, ay, bx, by = bx, by, ax, ay
    first, last = int(np.floor(ay / SQUARE)), int(np.floor(by / SQUARE))
    for row in range(max(first, 0), min(last, spans.shape[0] - 1) + 1):
        low, top = max(row * SQUARE, ay), min((row + 1) * SQUARE, by)
        if by > ay:
            x, z = ax + (low - ay) / (by - ay) * (bx - ax), ax + (top - ay) / (by - ay) * (bx - ax)
        else:
            x, z = ax, bx
        spans[row, 0], spans[row, 1] = min(x, z), max(x, z)
    return first, last


@njit(cache=True, error_model="numpy")
def _rows(free: Any, held: Any, row: int) -> None:  # pragma: no cover - compiled
    """How many squares are free from each on to the right, told anew for a row."""
    run = 0
    for col in range(free.shape[1] - 1, -1, -1):
        run = 0 if held[row, col] or free[row, col] == 0 else run + 1
        free[row, col] = run


@njit(cache=True, error_model="numpy")
def _covered(corners: Any, count: int, x: float, y: float, held: Any) -> tuple[int, int]:  # pragma: no cover - compiled
    """Mark the squares (h, w) from x, y on that an outline touches or holds; the first row of them, and the last."""
    up, across = held.shape
    spans = np.empty((up, 2))
    low, top = up, -1
    i = count - 1
    for c in range(count):
        first, last = _strips(corners[i, 0] - x, corners[i, 1] - y, corners[c, 0] - x, corners[c, 1] - y, spans)
        first, last = max(first, 0), min(last, up - 1)
        for row in range(first, last + 1):
            a, b = int(np.floor(spans[row, 0] / SQUARE)), int(np.floor(spans[row, 1] / SQUARE))
            held[row, max(a, 0) : max(min(b, across - 1) + 1, 0)] = True
        low, top = min(low, first), max(top, last)
        i = c
    crossed = np.empty(count)
    for row in range(low, top + 1):
        level = y + (row + 0.5) * SQUARE
        n = 0
        i = count - 1
        for c in range(count):
            ay, by = corners[i, 1], corners[c, 1]
            if (ay > level) != (by > level):
                crossed[n] = corners[i, 0] + (level - ay) / (by - ay) * (corners[c, 0] - corners[i, 0])
                n += 1
            i = c
        passed = np.sort(crossed[:n])
        for k in range(0, n - 1, 2):
            a, b = int(np.floor((passed[k] - x) / SQUARE)), int(np.floor((passed[k + 1] - x) / SQUARE))
            held[row, max(a, 0) : max(min(b, across - 1) + 1, 0)] = True
    return low, top


@njit(cache=True, error_model="numpy")
def _runs(corners: Any, count: int, box: Any, runs: Any) -> int:  # pragma: no cover - compiled
    """The squares an outline touches or holds, row by row, into runs (n, 3): row, column and length; how many runs."""
    touched = np.zeros(
        (int((box[3] - box[1] + 2 * HAIR) / SQUARE) + 1, int((box[2] - box[0] + 2 * HAIR) / SQUARE) + 1), dtype=np.bool_
    )
    _covered(corners, count, box[0] - HAIR, box[1] - HAIR, touched)
    n = 0
    for row in range(touched.shape[0]):
        col = 0
        while col < touched.shape[1] and n < runs.shape[0]:
            if not touched[row, col]:
                col += 1
                continue
            begun = col
            while col < touched.shape[1] and touched[row, col]:
                col += 1
            runs[n, 0], runs[n, 1], runs[n, 2] = row, begun, col - begun
            n += 1
    return n


@njit(cache=True, error_model="numpy")
def blocked(squares: Any, shapes: Any, state: Any, k: int) -> None:  # pragma: no cover - compiled
    """Take the squares of a piece, wherever it lies, and tell anew what is free."""
    low, top = _covered(state.corners[k], shapes.sides[k], squares.low[0], squares.low[1], squares.held)
    for row in range(low, top + 1):
        for q in range(squares.free.shape[0]):
            _rows(squares.free[q], squares.held, row)


@njit(cache=True, error_model="numpy")
def _fits(free: Any, low_x: int, low_y: int, runs: Any, n: int) -> bool:  # pragma: no cover - compiled
    fit = True
    for r in range(n):
        fit = free[low_y + runs[r, 0], low_x + runs[r, 1]] >= runs[r, 2]
        if not fit:
            break
    return fit


@njit(cache=True, error_model="numpy")
def _touching(held: Any, low_x: int, low_y: int, runs: Any, n: int) -> float:  # pragma: no cover - compiled
    """Share of the squares about runs that are held."""
    up, across = held.shape
    met, of = 0, 0
    for r in range(n):
        row, a = low_y + runs[r, 0], low_x + runs[r, 1]
        b = a + runs[r, 2]
        of += 2
        met += 1 if a == 0 or held[row, a - 1] else 0
        met += 1 if b == across or held[row, b] else 0
    for r in (0, n - 1):  # below and above it
        row = low_y + runs[r, 0] + (-1 if r == 0 else 1)
        for col in range(low_x + runs[r, 1], low_x + runs[r, 1] + runs[r, 2]):
            of += 1
            met += 1 if row < 0 or row >= up or held[row, col] else 0
    return met / of


@njit(cache=True, error_model="numpy")
def spread(
    shapes: Any, ground: Any, squares: Any, state: Any, order: Any, left: bool, low: bool
) -> None:  # pragma: no cover - compiled
    """Lay pieces in an order, each where it lies best among what is free; what has no room is left.

    left, low: whether they are pushed to the left, else the right, and down, else up.
    """
    lying = trial(state)
    corners, box = lying.corners, lying.box
    pose, best_pose = np.empty(4), np.empty(4)
    runs = np.empty((2000, 3), dtype=np.int64)
    for k in order:
        q = shapes.kind[k]
        free = squares.free[q]
        up, across = free.shape
        for hide in range(squares.hides.shape[0]):
            best = -1e300
            from_, to = squares.hides[hide, 0], squares.hides[hide, 1]
            ways = ANGLES if shapes.play[k] >= np.pi else shapes.ways[k]
            for way in range(ways * (2 if shapes.flips[k] else 1)):
                pose[0] = 1.0 if way >= ways else 0.0
                if shapes.play[k] >= np.pi:
                    pose[1] = shapes.bases[k, 0] + (way % ways) * 2 * np.pi / ANGLES
                else:
                    pose[1] = shapes.bases[k, way % ways]
                pose[2] = pose[3] = 0.0
                laid(shapes, k, pose, lying)
                n = _runs(corners, shapes.sides[k], box, runs)
                tall = runs[n - 1, 0] + 1
                wide = int((box[2] - box[0] + 2 * HAIR) / SQUARE) + 1
                cells = 0
                for r in range(n):
                    cells += runs[r, 2]
                end = min(to, across - wide)
                for step in range(max(end - from_ + 1, 0)):
                    col = from_ + step if left else end - step
                    place = -(step + wide) / across
                    if place + TOUCH <= best:
                        break
                    for row in range(up - tall + 1):
                        if not _fits(free, col, row, runs, n):
                            continue
                        dear = 0.0
                        for r in range(n):
                            a = col + runs[r, 1]
                            dear += (
                                squares.dear[q, row + runs[r, 0], a + runs[r, 2]] - squares.dear[q, row + runs[r, 0], a]
                            )
                        score = place - SCARCE * dear / cells
                        if score + TOUCH <= best:
                            continue
                        score += TOUCH * _touching(squares.held, col, row, runs, n)
                        if score > best:
                            best = score
                            best_pose[:] = pose
                            best_pose[2] = squares.low[0] + col * SQUARE + HAIR - box[0]
                            best_pose[3] = squares.low[1] + row * SQUARE + HAIR - box[1]
            if best > -1e299:
                slid(shapes, ground, state, k, best_pose, SQUARE, left, low)
                put(shapes, state, k, best_pose)
                blocked(squares, shapes, state, k)
                break
