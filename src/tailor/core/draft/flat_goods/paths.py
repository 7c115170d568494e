"""Paths: outlines and stitch lines of flat panels: straight runs with rounded corners, and where their corners are."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.stitch.holes import Edge
from tailor.core.errors import InputError
from tailor.core.fairing import Line

FINE = 0.25  # mm between points of an arc
COARSE = 2.0  # mm between points of a straight run
SHARP = 1e-3  # mm: a smaller radius is none
LEAST = 9  # points to an arc


def straight(start: Sequence[float], end: Sequence[float]) -> Line:
    """A straight line."""
    a, b = np.asarray(start, dtype=float), np.asarray(end, dtype=float)
    return Line(_run(a, b))


def _run(a: Array, b: Array) -> Array:
    n = max(int(np.hypot(*(b - a)) / COARSE), 8)
    return np.asarray(a + np.linspace(0, 1, n + 1)[:, None] * (b - a))


def arc(corner: Array, before: Array, after: Array, radius: float) -> Array:
    """The arc that rounds a corner between two straight runs, (n, 2)."""
    a, b = (before - corner) / np.hypot(*(before - corner)), (after - corner) / np.hypot(*(after - corner))
    half = np.arccos(np.clip(a @ b, -1, 1)) / 2
    reach = radius / np.tan(half)
    centre = corner + (a + b) / np.hypot(*(a + b)) * radius / np.sin(half)
    start = corner + a * reach - centre
    first = np.arctan2(start[1], start[0])
    end = corner + b * reach - centre
    sweep = (np.arctan2(end[1], end[0]) - first + np.pi) % (2 * np.pi) - np.pi
    n = max(int(abs(sweep) * radius / FINE), LEAST)
    turn = first + np.linspace(0, sweep, n + 1)
    return np.asarray(centre + radius * np.column_stack([np.cos(turn), np.sin(turn)]))


def _fit(corners: Array, radii: Array, ring: bool) -> None:
    """Raise InputError where arcs of these radii at the corners (n, 2) do not fit the sides between them."""
    way = np.roll(corners, -1, axis=0) - corners
    long = np.hypot(*way.T)
    heading = way / np.maximum(long, 1e-12)[:, None]
    turn = np.arccos(np.clip((heading * np.roll(heading, 1, axis=0)).sum(axis=1), -1, 1))
    reach = radii * np.tan(turn / 2)
    if not ring:
        reach, long = np.concatenate([[0.0], reach[1:-1], [0.0]]), long[:-1]
    over = reach[: len(long)] + np.roll(reach, -1)[: len(long)] - long
    if (over > 1e-6).any():
        k = int(over.argmax())
        raise InputError(
            f"a corner of {max(radii[k], radii[(k + 1) % len(radii)]):.1f} mm does not fit its sides, "
            f"{long[k]:.1f} mm long", "panel.corner", "give a smaller one, or a larger panel",
        )  # fmt: skip


def bent(corners: Sequence[Sequence[float]], radius: float) -> tuple[Line, tuple[float, ...]]:
    """An open line through corners, each but the ends rounded, and the lengths along it at which arcs begin and end."""
    at = [np.asarray(c, dtype=float) for c in corners]
    _fit(np.array(at), np.full(len(at), radius), ring=False)
    parts, last, anchors, length = list[Array](), at[0], list[float](), 0.0

    def add(points: Array) -> None:
        nonlocal length
        fresh = points if not parts else points[1:]
        parts.append(fresh)
        length += float(np.hypot(*np.diff(points, axis=0).T).sum())

    for before, corner, after in zip(at, at[1:], at[2:], strict=False):
        turn = arc(corner, before, after, radius) if radius > SHARP else corner[None, :]
        add(_run(last, turn[0]))
        anchors.append(length)
        if radius > SHARP:
            add(turn)
            anchors.append(length)
        last = turn[-1]
    add(_run(last, at[-1]))
    return Line(np.vstack(parts)), tuple(anchors)


def edge(line: Line, first: float, last: float | None = None, corners: Sequence[float] = ()) -> Edge:
    """An edge to be sewn, its first and last hole so far in from its ends, anchored at its corners, mm."""
    last = first if last is None else last
    return Edge(line, (first, *(c for c in corners if first < c < line.length - last), line.length - last))


def closed(corners: Sequence[Sequence[float]], radii: Sequence[float] | float) -> Array:
    """A closed outline through corners, each rounded by its own radius, counter-clockwise as given, (n, 2)."""
    at = [np.asarray(c, dtype=float) for c in corners]
    each = [radii] * len(at) if isinstance(radii, int | float) else list(radii)
    _fit(np.array(at), np.array(each, dtype=float), ring=True)
    parts = []
    for k, radius in enumerate(each):
        before, after = at[k - 1], at[(k + 1) % len(at)]
        parts.append(arc(at[k], before, after, radius) if radius > SHARP else at[k][None, :])
    ring = np.vstack(parts)
    keep = np.hypot(*(ring - np.roll(ring, 1, axis=0)).T) > 1e-9
    return np.asarray(ring[keep])


def box(left: float, low: float, right: float, high: float) -> tuple[tuple[float, float], ...]:
    """The corners of a rectangle, counter-clockwise from its lower left."""
    return (left, low), (right, low), (right, high), (left, high)


def circle(x: float, y: float, radius: float) -> Array:
    """A circle, closed, (n, 2)."""
    turn = np.linspace(0, 2 * np.pi, 65)[:-1]
    return np.column_stack([x + radius * np.cos(turn), y + radius * np.sin(turn)])
