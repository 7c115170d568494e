"""Which way a piece is pushed by all it is in the way of: the slope of what `meeting` tells. Compiled."""

from __future__ import annotations

from typing import Any

import numpy as np

from tailor.core.cut.meeting import (
    FAR,
    QUICK,
    SHALLOW,
    SOFT,
    apart,
    depth_at,
    far_off,
    felt,
    laid,
    leaf,
    on_it,
    outlines_meet,
)

DIP = 1.0  # mm to each side, over which the leather's depth is seen to fall


@leaf()
def slope(
    shapes: Any, ground: Any, state: Any, k: int, pose: Any, lying: Any, up: Any
) -> None:  # pragma: no cover - compiled
    """How much more piece k, laid to try it, is in the way, weighed: to a mm along, a mm up and a radian.

    Into `up` (3,).
    """
    laid(shapes, k, pose, lying)
    up[0], up[1], up[2] = 0.0, 0.0, 0.0
    for j in range(state.on.shape[0]):
        if j != k and state.on[j] and not apart(lying.box, state.box[j]):
            _by_piece(shapes, k, pose, lying, state, j, up)
    if not on_it(shapes, ground, k, lying):
        _by_edge(shapes, ground, k, pose, lying, state.wall[k], up)


@leaf()
def _by_piece(
    shapes: Any, k: int, pose: Any, lying: Any, state: Any, j: int, up: Any
) -> None:  # pragma: no cover - compiled
    """Add the slope that piece j makes."""
    soft = np.float32(SOFT * max(shapes.span[k], shapes.span[j]))
    total, deepest, along, across, turn = _by_all(
        lying.circles, shapes.filled[k], state.circles[j], shapes.filled[j], soft, state.box[j],
        np.float32(pose[2]), np.float32(pose[3]),
    )  # fmt: skip
    if deepest <= SHALLOW and not outlines_meet(shapes, k, lying, state, j):
        return
    by = state.weight[k, j] * shapes.size[k] * shapes.size[j] / (2.0 * np.sqrt(total))
    up[0] += by * along
    up[1] += by * across
    up[2] += by * turn


@leaf(fastmath=QUICK)
def _by_all(
    one: Any, n: int, other: Any, m: int, soft: np.float32, box: Any, mx: np.float32, my: np.float32
) -> Any:  # pragma: no cover - compiled
    """What `_felt_by_all` tells, and how it grows along, up and by turning about a middle."""
    least, twice = soft * soft, soft + soft
    total, deepest, along, across, turn = (
        np.float32(0.0),
        np.float32(-1e9),
        np.float32(0.0),
        np.float32(0.0),
        np.float32(0.0),
    )
    for row in range(3, 8):
        for b in range(m):
            one[row, b] = np.float32(-1e9 if row == 4 else 0.0)
    for a in range(n):
        x, y, r = one[0, a], one[1, a], one[2, a]
        if far_off(x, y, r + np.float32(FAR) * soft, box):
            total += r * soft / np.float32(2.0 + FAR)
            continue
        for b in range(m):
            dx, dy, s = other[0, b] - x, other[1, b] - y, other[2, b]
            long = np.sqrt(dx * dx + dy * dy + np.float32(1e-6))
            into, small = r + s - long, min(r, s)
            faint = least / (twice - min(into, soft))
            one[4, b] = max(one[4, b], into)
            one[3, b] += max(into, faint) * small
            steep = small * faint * faint / (least * long)
            one[5, b] += steep * dx
            one[6, b] += steep * dy
            one[7, b] += steep * ((x - mx) * dy - (y - my) * dx)
    for b in range(m):
        total += one[3, b]
        deepest = max(deepest, one[4, b])
        along += one[5, b]
        across += one[6, b]
        turn += one[7, b]
    return total, deepest, along, across, turn


@leaf()
def _by_edge(
    shapes: Any, ground: Any, k: int, pose: Any, lying: Any, weight: float, up: Any
) -> None:  # pragma: no cover - compiled
    """Add the slope that the leather's edge makes."""
    q, circles, soft = shapes.kind[k], lying.circles, SOFT * shapes.span[k]
    total, along, across, turn = 0.0, 0.0, 0.0, 0.0
    for a in range(shapes.filled[k]):
        x, y, r = circles[0, a], circles[1, a], circles[2, a]
        into = r - depth_at(ground, q, x, y)
        total += felt(into, soft) * r
        by = r * (soft / (2.0 * soft - min(into, soft))) ** 2 / (2.0 * DIP)
        dx = by * (depth_at(ground, q, x - DIP, y) - depth_at(ground, q, x + DIP, y))
        dy = by * (depth_at(ground, q, x, y - DIP) - depth_at(ground, q, x, y + DIP))
        along += dx
        across += dy
        turn += (x - pose[2]) * dy - (y - pose[3]) * dx
    by = weight * shapes.size[k] ** 2 / (2.0 * np.sqrt(total))
    up[0] += by * along
    up[1] += by * across
    up[2] += by * turn
