"""Outlines: a closed line seen from the front, and how it becomes stations with a thickness.

An outline is (n, 2), mm, counter-clockwise. Laid straight, x is across and y along the draw, 0 at the tip.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

from tailor.core.carried.capture import Capture
from tailor.core.carried.loft import Array
from tailor.core.carried.rows import adaptive
from tailor.core.carried.stations import REACH, Shape, Station, Table, neat
from tailor.core.errors import InputError
from tailor.core.fairing import flowed

WHERE = "outline"
STEP = 0.5  # mm between points of an outline once it is evened out
TRUE_TO = 0.04  # mm within which stations follow the outline
WAVES = 30.0  # times the bound: bumps shorter than this are faired out, what is longer is the object's
CORNER = 40.0  # degrees of turning within a short stretch that make a corner
ARM = 4  # points to either side that a corner's turning is measured over


def sound(points: Array, reach: float = REACH) -> Array:
    """A closed outline made counter-clockwise and even, (n, 2). reach: mm that it may be long.

    Raises InputError for one that encloses nothing.
    """
    points = np.asarray(points, dtype=float)
    if points.ndim != 2 or len(points) < 3 or not np.isfinite(points).all():
        raise InputError("it has no three points, or one that is not a number", WHERE, "draw it again as a closed line")
    size = float(np.ptp(points, axis=0).max())
    if not 1.0 <= size <= reach:
        asked = f"check its unit; it may be 1 mm to {reach / 1000:g} m long"
        raise InputError(f"it is {size:g} mm long", WHERE, asked)
    whole = shapely.make_valid(Polygon(points))
    parts = [p for p in shapely.get_parts(whole) if p.geom_type == "Polygon"]
    if not parts or max(p.area for p in parts) < 1.0:
        raise InputError("it encloses nothing", WHERE, "draw it as one closed line")
    biggest = max(parts, key=lambda p: p.area)
    loop = np.asarray(shapely.orient_polygons(Polygon(biggest.exterior)).exterior.coords)
    return evenly(loop[:-1], min(STEP, size / 50))


def evenly(loop: Array, step: float) -> Array:
    """A closed line (n, 2) at even lengths about `step` apart."""
    closed = np.vstack([loop, loop[:1]])
    at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(closed, axis=0).T))])
    s = np.linspace(0, at[-1], max(round(at[-1] / step), 8), endpoint=False)
    return np.column_stack([np.interp(s, at, closed[:, k]) for k in (0, 1)])


def axis(outline: Array) -> tuple[Array, Array]:
    """Middle and long direction of an outline, each (2,), by area."""
    x, y = outline.T
    nx, ny = np.roll(x, -1), np.roll(y, -1)
    cross = x * ny - nx * y
    area = cross.sum() / 2
    centre = np.array([((x + nx) * cross).sum(), ((y + ny) * cross).sum()]) / (6 * area)
    x, y, nx, ny = x - centre[0], y - centre[1], nx - centre[0], ny - centre[1]
    cross = x * ny - nx * y
    xx = ((x * x + x * nx + nx * nx) * cross).sum() / 12
    yy = ((y * y + y * ny + ny * ny) * cross).sum() / 12
    xy = ((2 * x * y + x * ny + nx * y + 2 * nx * ny) * cross).sum() / 24
    _, directions = np.linalg.eigh(np.array([[xx, xy], [xy, yy]]) / area)
    way = directions[:, 1]
    return centre, np.asarray(way if (way[1], way[0]) > (0, 0) else -way)


def breadth(along: Array, across: Array, step: float = 2.0) -> Array:
    """Width of the outline at each of its points, (n,), from its points' places along and across."""
    bins = np.round((along - along.min()) / step).astype(int)
    low, high = np.full(bins.max() + 1, np.inf), np.full(bins.max() + 1, -np.inf)
    np.minimum.at(low, bins, across)
    np.maximum.at(high, bins, across)
    return np.asarray((high - low)[bins])


def laid(outline: Array, tip_up: bool | None = None, straighten: bool = True) -> Array:
    """The outline laid straight: long axis up, tip at y = 0, the middle of its width at x = 0.

    tip_up: whether the tip is its upper end as given; None takes the narrower end. straighten: else only moved.
    """
    straight = _upright(outline) if straighten else outline
    turned = -straight if (narrow_end_up(straight) if tip_up is None else tip_up) else straight
    return np.asarray(turned - [float(turned[:, 0].max() + turned[:, 0].min()) / 2, float(turned[:, 1].min())])


def _upright(outline: Array) -> Array:
    """The outline turned so that its long axis is up, about its middle."""
    centre, way = axis(outline)
    return np.column_stack([(outline - centre) @ [way[1], -way[0]], (outline - centre) @ way])


def narrow_end_up(straight: Array) -> bool:
    """Whether an upright outline is clearly narrower at its upper end."""
    low, high = straight[:, 1].min(), straight[:, 1].max()
    ends = [np.ptp(_crossings(straight, np.array([y]))) for y in (0.9 * low + 0.1 * high, 0.1 * low + 0.9 * high)]
    return bool(ends[1] < 0.95 * ends[0])


def _crossings(outline: Array, y: Array) -> Array:
    """Least and greatest x of a closed outline at heights y, (2, m)."""
    a, b = outline, np.roll(outline, -1, axis=0)
    low, high = np.minimum(a[:, 1], b[:, 1]), np.maximum(a[:, 1], b[:, 1])
    across = (low[:, None] <= y) & (high[:, None] >= y) & (high > low)[:, None]
    share = (y - a[:, 1:]) / np.where(b[:, 1:] == a[:, 1:], 1.0, b[:, 1:] - a[:, 1:])
    x = a[:, :1] + share * (b[:, :1] - a[:, :1])
    return np.array([np.where(across, x, np.inf).min(axis=0), np.where(across, x, -np.inf).max(axis=0)])


def sides(outline: Array, y: Array) -> tuple[Array, Array]:
    """Spine and seam side of a laid outline at heights y, each (m,)."""
    low, high = _crossings(outline, np.clip(y, outline[:, 1].min() + 1e-9, outline[:, 1].max() - 1e-9))
    return low, high


def corners(outline: Array) -> NDArray[np.intp]:
    """Which points of an even outline are corners."""
    before = outline - np.roll(outline, ARM, axis=0)
    after = np.roll(outline, -ARM, axis=0) - outline
    turn = np.abs(np.degrees(np.arctan2(
        before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0], (before * after).sum(axis=1)
    )))  # fmt: skip
    around = np.max([np.roll(turn, k) for k in range(-ARM, ARM + 1)], axis=0)
    found = np.flatnonzero((turn >= around) & (turn > CORNER))
    return found[np.concatenate([[True], np.diff(found) > ARM])] if len(found) else found


def faired(outline: Array, most: float, sharp: bool = True) -> tuple[Array, float]:
    """The outline made to flow, moved nowhere by more than `most` mm, and the most it was moved.

    sharp: corners are kept, and only the runs between them flow.
    """
    even = evenly(outline, STEP)
    kept = corners(even) if sharp else np.array([], dtype=np.intp)
    if len(kept) == 0:
        return flowed(even, most, loop=True, waves=WAVES * most)
    turned = np.roll(even, -int(kept[0]), axis=0)
    ends = [*(int(k - kept[0]) for k in kept), len(turned)]
    closed = np.vstack([turned, turned[:1]])
    runs = [flowed(closed[a : b + 1], most, waves=WAVES * most) for a, b in pairwise(ends)]
    return np.vstack([run[:-1] for run, _ in runs]), max(moved for _, moved in runs)


def curvature(outline: Array) -> Array:
    """Curvature at each point of an even outline, (n,), 1/mm; positive bulges outward."""
    step = float(np.hypot(*(outline[1] - outline[0])))
    d = (np.roll(outline, -1, axis=0) - np.roll(outline, 1, axis=0)) / (2 * step)
    dd = (np.roll(outline, -1, axis=0) - 2 * outline + np.roll(outline, 1, axis=0)) / step**2
    return np.asarray((d[:, 0] * dd[:, 1] - d[:, 1] * dd[:, 0]) / np.maximum(np.hypot(*d.T), 1e-9) ** 3)


def comb(outline: Array, tooth: float = 90.0, every: int = 4) -> list[Array]:
    """Teeth that stand out from an outline by its curvature, each (2, 2); `tooth` mm for each 1/mm, 25 mm at most."""
    even = evenly(outline, STEP)
    bend = scipy.ndimage.gaussian_filter1d(curvature(even), 2.0, mode="wrap")
    along = np.roll(even, -1, axis=0) - np.roll(even, 1, axis=0)
    out = np.column_stack([along[:, 1], -along[:, 0]]) / np.maximum(np.hypot(*along.T), 1e-9)[:, None]
    ends = even + out * np.clip(tooth * bend, -25.0, 25.0)[:, None]
    return [np.array([even[k], ends[k]]) for k in range(0, len(even), every)]


def pulled(outline: Array, pulls: Sequence[Pull]) -> Array:
    """The outline with places pulled by hand, each taking along what is near."""
    moved = outline.copy()
    for point, by, near in pulls:
        share = np.exp(-(np.hypot(*(moved - point).T) ** 2) / (2 * (near / 2) ** 2))
        moved = moved + share[:, None] * by
    return np.asarray(moved)


def evened(outline: Array) -> tuple[Array, float]:
    """A laid outline made the same on both sides of its centre line, and how unlike they were: mm, the most."""
    y = np.linspace(outline[:, 1].min(), outline[:, 1].max(), max(int(np.ptp(outline[:, 1]) / STEP), 16))
    low, high = sides(outline, y)
    middle, half = (low + high) / 2, (high - low) / 2
    centre = float(np.average(middle, weights=half + 1e-9))
    right = np.column_stack([half, y])
    return np.vstack([right, (right * [-1, 1])[::-1]]), float(2 * np.abs(middle - centre)[half > 0.5].max())


Pull = tuple[Array, Array, float]  # a point (2,), by how much (2,), and what is taken along, all mm


@dataclass(frozen=True)
class Finish:
    """How a traced outline is finished: its sections' shape, how far it may be faired (mm), and how it lies.

    sharp: corners are kept when fairing. even: both sides are made the same. tip_up: which end is the tip; None
    for the narrower. other_end: the other one than that.
    """

    shape: Shape = Shape.SLAB
    corner: float = 0.0
    fair: float = 0.0
    sharp: bool = True
    even: bool = False
    tip_up: bool | None = None
    other_end: bool = False


def finished(
    outline: Array, finish: Finish, thickness: Array | float, capture: Capture, at: Array | None = None
) -> tuple[Table, Array, tuple[str, ...]]:
    """The station table of a traced outline (n, 2), the outline laid straight, and what was done to it, in words.

    thickness: mm, one for all or (k,) at places `at` (k,) along its long axis from its lower end. Raises
    InputError.
    """
    notes = []
    if finish.fair > 0:
        outline, moved = faired(outline, finish.fair)
        notes.append(f"faired by {moved:.2f} mm at the most")
    tip_up = narrow_end_up(_upright(outline)) if finish.tip_up is None else finish.tip_up
    tip_up = tip_up != finish.other_end
    straight = laid(outline, tip_up)
    if at is not None and tip_up:
        at, thickness = (float(straight[:, 1].max()) - at)[::-1], np.asarray(thickness)[::-1]
    if finish.even:
        straight, unlike = evened(straight)
        notes.append(f"its sides were unlike by {unlike:.2f} mm at the most")
    return stations(straight, thickness, capture, finish.shape, finish.corner, at), straight, tuple(notes)


def stations(
    outline: Array,
    thickness: Array | float,
    capture: Capture,
    shape: Shape = Shape.SLAB,
    corner: float = 0.0,
    at: Array | None = None,
) -> Table:
    """The station table of a laid outline (n, 2).

    thickness: mm, one for all or (k,) at heights `at` (k,). corner: of a slab; cut to what fits. Raises InputError.
    """
    thickness = np.atleast_1d(np.asarray(thickness, dtype=float))
    if not np.isfinite(thickness).all() or (thickness <= 0).any():
        raise InputError(
            f"a thickness of {thickness.min():g} mm cannot be", WHERE, "measure the thickness by caliper, above 0"
        )
    length = float(outline[:, 1].max())
    y = np.linspace(0, length, max(int(length / 0.4), 40))
    low, high = sides(outline, np.clip(y, min(0.2, length / 50), length - min(0.2, length / 50)))
    places = np.zeros(1) if at is None else np.asarray(at, dtype=float)
    thick = np.interp(y, places, thickness) if len(thickness) > 1 else np.full_like(y, thickness[0])
    kept = adaptive(y, np.column_stack([low, high, thick]), TRUE_TO)
    made = [
        Station(float(y[k]), float(low[k]), float(max(high[k], low[k] + 0.05)), *(float(thick[k]) / 2,) * 2, shape,
                corner if shape is Shape.SLAB else 0.0)
        for k in kept
    ]  # fmt: skip
    return Table(neat(made), capture=capture)
