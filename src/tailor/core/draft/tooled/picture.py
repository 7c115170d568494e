"""Pictures and lettering laid into a field: upright as they are looked at, as large as there is room, and drawn so that
they stand right once the leather under them is formed.

On leather that lies level or only rolls, a picture is drawn as it is. On a bulge it is laid on a flat sheet of the
formed leather round it, flattened by itself with as little strain as it bears, and carried from there back to the
piece as it is cut: that undoes what moulding does to it. Source: craft, "Tooling, lettering, marks".
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import scipy
import shapely
from shapely.geometry import Polygon

from tailor.core.carried.loft import Array
from tailor.core.draft.tooled.asked import Picture, Reads
from tailor.core.draft.tooled.came import Field
from tailor.core.placed.lies import Lie, strain
from tailor.core.shell.flatten import flatten
from tailor.core.shell.formed import grid_triangles

CELLS = 24  # of a sheet of formed leather, a side
ROUND, BEYOND = 1.03, 2.0  # times a picture's reach, and mm, that it goes out to
LEVEL = 2e-3  # share that a cell of it may be strained where leather is taken to roll, no more
STEPS, CLOSE = 40, 1e-6  # closing in on places of it, mm
LEANS = 60.0  # degrees that part of it may look aside
LONGER, TURNED = 0.01, 1.0  # share that lengths, and degrees that angles may be off once it is formed
KEPT = 0.985  # of the room there is, that a picture takes
AS_GOOD = 0.97  # of the most room, that a place has which is as good, and nearer to the middle
TRIED, ROUNDS, HALVINGS = 17, 3, 14
SMALLEST, HALVED = 0.1, 5  # share of the room, that a picture may have to be to stand right
SPACING, MOST_SPOTS = 0.25, 6000  # mm between places along a picture's lines
BESIDE, RUNS, ALIKE = 24, 6.0, 0.8  # neighbours looked at; times nearer than along its line; cosine of running alike
SHORT = 3.0  # mm of line that may come nearer to another than the rest
STRETCH, OVER = 1.0, 1.5  # mm between places where lengths and angles are compared, and to either side that they are


class Laid(NamedTuple):
    """A picture on its flat piece. lines: (n, 2) each; width, room: as it is seen, and as wide as it could be; at: its
    middle from the field's, as it reads; out: of its field; apart: least room between its lines; stretch: least and
    most of the leather under it, formed; longer: share its lengths are off, turned: degrees its angles are;
    leans: degrees that the part that looks furthest aside is turned from its middle. mm.
    """

    lines: tuple[Array, ...]
    width: float
    room: float
    at: tuple[float, float]
    out: float
    apart: float
    stretch: tuple[float, float]
    longer: float
    turned: float
    leans: float


def laid(asked: Picture, field: Field, within: Polygon, lie: Lie | None, left: bool) -> Laid:
    """A picture in its field, kept within a region of it. left: its piece is mirrored once it is drawn."""
    drawn = [line * np.array([-1.0, 1.0]) if left else line for line in asked.lines]
    base, turn = turning(upward(asked, field)), turned_by(-asked.turn if left else asked.turn)
    drawn = [line @ turn.T for line in drawn]  # about its own middle, upright as it reads
    ring = shapely.get_coordinates(shapely.convex_hull(shapely.multipoints(np.vstack(drawn)))) @ base.T
    own = float(np.hypot(*asked.size)) or 1.0
    middle = field.middle
    spot = _roomiest(within, ring, middle) if asked.at is None else middle + base @ np.array(asked.at)
    most = KEPT * float(_scales(within, ring, spot[None, :])[0])
    if asked.width is None:
        tried = _largest(lie, spot, base, drawn, within, most or 10.0 / own)
    else:
        tried = _tried(lie, spot, base, drawn, within, asked.width / max(asked.size[0], 1e-3 * own))
    scale, lines, out, longer, turned, leans, stretch = tried
    at = base.T @ (spot - middle)
    seen = scale * asked.size[0]
    return Laid(lines, seen, most * asked.size[0], (float(at[0]), float(at[1])), out,
        apart([scale * line for line in drawn]), stretch, longer, turned, leans)  # fmt: skip


class _Tried(NamedTuple):
    """A picture at a scale: its lines on the flat piece, how far they are out of a region, and what comes of them once
    they are formed, as Laid has it.
    """

    scale: float
    lines: tuple[Array, ...]
    out: float
    longer: float
    turned: float
    leans: float
    stretch: tuple[float, float]

    @property
    def right(self) -> bool:
        """Whether it stands right, and is seen at one look."""
        return self.out == 0 and self.longer <= LONGER and self.turned <= TURNED and self.leans <= LEANS


def _tried(lie: Lie | None, spot: Array, base: Array, drawn: list[Array], within: Polygon, scale: float) -> _Tried:
    sheet = _sheet(lie, spot, base, scale * np.abs(np.vstack(drawn)).max(axis=0))
    lines = tuple(sheet.flat(scale * line) for line in drawn)
    off = _off(lie, sheet, [scale * line for line in drawn])
    formed = (0.0, (0.0, 0.0)) if lie is None else (_leans(lie, lines), _stretch(lie, lines))
    return _Tried(scale, lines, _out(lines, within), *off, *formed)


def _largest(lie: Lie | None, spot: Array, base: Array, drawn: list[Array], within: Polygon, most: float) -> _Tried:
    """A picture as large as it may be and still stands right; where none does, as small as is tried."""
    tried = _tried(lie, spot, base, drawn, within, most)
    if tried.right:
        return tried
    low, high, kept = SMALLEST * most, most, tried
    for _ in range(HALVED):
        tried = _tried(lie, spot, base, drawn, within, (low + high) / 2)
        if tried.right:
            low, kept = tried.scale, tried
        else:
            high = tried.scale
    return kept if kept.right else tried


def upward(asked: Picture, field: Field) -> Array:
    """Which way on the flat piece a picture reads upward in a field, before it is turned, (2,) of length 1."""
    way = {Reads.OPENED: (0.0, 1.0), Reads.HELD: (-field.up[0], -field.up[1])}.get(Reads(asked.reads), field.up)
    return np.array(way)


def turned_by(angle: float) -> Array:
    """The turn (2, 2) to the left by an angle, degrees."""
    c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    return np.array([[c, -s], [s, c]])


def turning(up: Array) -> Array:
    """The turn (2, 2) that brings up to a way, (2,)."""
    return np.array([[up[1], up[0]], [-up[0], up[1]]])


def _scales(within: Polygon, ring: Array, spots: Array, as_good: float = 0.0) -> Array:
    """How many times as large a convex ring about each place may be to lie within a region, (n,).

    as_good: share of the most of them; a place that falls short of it is told too small.
    """
    low = np.zeros(len(spots))
    if within.is_empty:
        return low
    high = np.full(len(spots), _widest(within) / max(float(np.ptp(ring, axis=0).max()), 1e-9))
    shapely.prepare(within)
    for _ in range(HALVINGS):
        held = np.flatnonzero(high >= as_good * low.max())
        tried = (low[held] + high[held]) / 2
        shapes = spots[held, None, :] + tried[:, None, None] * ring
        made = shapely.linestrings(shapes) if len(ring) < 4 else shapely.polygons(shapes)
        fits = shapely.covers(within, made)
        low[held], high[held] = np.where(fits, tried, low[held]), np.where(fits, high[held], tried)
    return low


def _widest(within: Polygon) -> float:
    left, bottom, right, top = within.bounds
    return float(max(right - left, top - bottom))


def _roomiest(within: Polygon, ring: Array, middle: Array) -> Array:
    """The place where a convex ring may be largest; of those nearly as good, the one nearest to the middle."""
    if within.is_empty:
        return middle
    left, bottom, right, top = within.bounds
    about, half = np.array([(left + right) / 2, (bottom + top) / 2]), np.array([right - left, top - bottom]) / 2
    share = np.linspace(-1, 1, TRIED)
    offsets = np.stack(np.meshgrid(share, share), axis=2).reshape(-1, 2)
    best = middle
    for _ in range(ROUNDS):
        spots = np.vstack([best, middle, about + offsets * half])
        spots = spots[shapely.contains_xy(within, *spots.T)]
        if not len(spots):
            return middle
        scales = _scales(within, ring, spots, AS_GOOD)
        good = spots[scales >= AS_GOOD * scales.max()]
        best = good[int(np.hypot(*(good - middle).T).argmin())]
        about, half = best, half * 2 / (TRIED - 1)
    return np.asarray(best)


class _Sheet:
    """The way from a picture, about its middle, to the flat piece: straight on to a place, or by a grid of it (k, k, 2)
    that lies apart as the formed leather does when it is flattened by itself; grid: as it was before.
    """

    def __init__(self, spot: Array, base: Array, grid: Array | None = None, apart: Array | None = None) -> None:
        self.spot, self.base, self.ways = spot, base, []
        if grid is not None and apart is not None:
            self.ways = [
                scipy.interpolate.RectBivariateSpline(grid[:, 0, 1], grid[0, :, 0], apart[:, :, k]) for k in (0, 1)
            ]

    def flat(self, line: Array) -> Array:
        return np.asarray(self.spot + self._before(line) @ self.base.T)

    def _before(self, line: Array) -> Array:
        """Where places lie on the piece that come to lie on a line: nearly there already, so that steps close in."""
        at = np.asarray(line, dtype=float).copy()
        for _ in range(STEPS if self.ways else 0):
            miss = line - np.column_stack([way.ev(at[:, 1], at[:, 0]) for way in self.ways])
            at += miss
            if np.abs(miss).max() < CLOSE:
                break
        return at


def _sheet(lie: Lie | None, spot: Array, base: Array, reach: Array) -> _Sheet:
    """The way to a flat piece about a place on it, for a picture that reaches so far to the right and up, (2,), mm."""
    if lie is None:
        return _Sheet(spot, base)
    across, up = np.linspace(-1, 1, CELLS + 1)[:, None].T * (ROUND * reach[:, None] + BEYOND)
    grid = np.stack(np.meshgrid(across, up), axis=2)
    flat = grid.reshape(-1, 2)
    formed = lie(spot + flat @ base.T).at
    if _rolls(formed.reshape(*grid.shape[:2], 3), grid):
        return _Sheet(spot, base)
    apart = flatten(formed, grid_triangles(CELLS + 1, CELLS + 1), start=flat).uv
    k, wide = len(apart) // 2, CELLS + 1
    rise = apart[k + wide] - apart[k - wide]  # up, as it reads
    apart = (apart - apart[k]) @ turning(rise / np.hypot(*rise))
    return _Sheet(spot, base, grid, apart.reshape(grid.shape))


def _rolls(at: Array, flat: Array) -> bool:
    """Whether leather is nowhere strained from cell to cell of a grid (k, k, 3), but for what a chord is short.

    flat: (k, k, 2) before it was formed.
    """
    off = [
        np.linalg.norm(a, axis=2) / np.linalg.norm(b, axis=2) - 1
        for a, b in (
            (at[1:, 1:] - at[:-1, :-1], flat[1:, 1:] - flat[:-1, :-1]),
            (at[1:, :-1] - at[:-1, 1:], flat[1:, :-1] - flat[:-1, 1:]),
            (at[1:] - at[:-1], flat[1:] - flat[:-1]),
            (at[:, 1:] - at[:, :-1], flat[:, 1:] - flat[:, :-1]),
        )
    ]
    return bool(max(np.abs(each).max() for each in off) < LEVEL)


def _out(lines: Sequence[Array], within: Polygon) -> float:
    """How far lines reach out of a region, mm."""
    every = np.vstack(lines)
    if within.is_empty or not np.isfinite(every).all():
        return float(np.ptp(every[np.isfinite(every).all(axis=1)], axis=0).max(initial=1.0))
    strays = shapely.distance(within, shapely.points(every))
    return float(np.where(strays < 1e-6, 0.0, strays).max())


def _off(lie: Lie | None, sheet: _Sheet, lines: list[Array]) -> tuple[float, float]:
    """How far a picture is off once it is formed: the most by which a length is (a share), and an angle (degrees)."""
    if lie is None or not sheet.ways:
        return 0.0, 0.0
    spots = np.vstack([_along(line, STRETCH)[0] for line in lines])
    sides = [(lie(sheet.flat(spots + way)).at - lie(sheet.flat(spots - way)).at) / (2 * OVER)
             for way in (np.array([OVER, 0.0]), np.array([0.0, OVER]))]  # fmt: skip
    most = np.linalg.svd(np.stack(sides, axis=2), compute_uv=False)
    angle = np.degrees(2 * np.arcsin((most[:, 0] - most[:, 1]) / (most[:, 0] + most[:, 1])))
    return float(np.abs(most - 1).max()), float(angle.max())


def _leans(lie: Lie, lines: Sequence[Array]) -> float:
    """How far the part of a picture that looks furthest aside is turned from its middle, degrees."""
    every = np.vstack(lines)
    middle = (every.min(axis=0) + every.max(axis=0)) / 2
    out = lie(np.vstack([middle, every])).out
    return float(np.degrees(np.arccos(np.clip(out[1:] @ out[0], -1, 1)).max()))


def _stretch(lie: Lie, lines: Sequence[Array]) -> tuple[float, float]:
    """The least and the most that the leather gives under lines, when it is formed."""
    found = strain(lie, np.vstack([_along(line, STRETCH)[0] for line in lines]))
    return float(found.min()), float(found.max())


def _along(line: Array, step: float) -> tuple[Array, Array, Array]:
    """Places along a line no further apart than a step (n, 2), how far along it each is, and which way it runs."""
    length = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    kept = np.concatenate([[True], np.diff(length) > 0])
    line, length = line[kept], length[kept]
    if len(line) < 2:
        return line[:1], np.zeros(1), np.array([[1.0, 0.0]])
    at = np.linspace(0, length[-1], int(length[-1] / step) + 2)
    places = np.column_stack([np.interp(at, length, line[:, k]) for k in (0, 1)])
    runs = np.gradient(places, axis=0)
    return places, at, runs / np.maximum(np.hypot(*runs.T), 1e-12)[:, None]


def apart(lines: list[Array]) -> float:
    """The least room between lines that run beside one another, mm, but for a few mm of them; none: infinite.

    Where lines only cross or meet, no leather has to stand between them.
    """
    total = sum(float(np.hypot(*np.diff(line, axis=0).T).sum()) for line in lines)
    step = max(SPACING, total / MOST_SPOTS)
    parts = [_along(line, step) for line in lines]
    places, runs = np.vstack([p[0] for p in parts]), np.vstack([p[2] for p in parts])
    along = np.concatenate([p[1] for p in parts])
    whose = np.repeat(np.arange(len(parts)), [len(p[0]) for p in parts])
    length = np.array([p[1][-1] for p in parts])[whose]
    closed = np.array([bool(np.allclose(line[0], line[-1])) for line in lines])[whose]
    far, other = scipy.spatial.cKDTree(places).query(places, k=min(BESIDE, len(places)))
    off = np.abs(along[other] - along[:, None])
    off = np.where(closed[:, None], np.minimum(off, length[:, None] - off), off)
    mine = (whose[other] == whose[:, None]) & (off < np.maximum(RUNS * far, 4 * step))
    alike = np.abs((runs[other] * runs[:, None, :]).sum(axis=2)) > ALIKE
    near = np.sort(np.where(alike & ~mine, far, np.inf).min(axis=1))
    k = int(SHORT / step)
    return float(near[k]) if k < len(near) else float(np.inf)
