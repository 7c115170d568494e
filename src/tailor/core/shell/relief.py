"""Relief: the made-up case and its object as heights seen from one side, and lit as a picture.

Heights come from the formed leather itself, row by row; nothing is drawn that was not worked out.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray

from tailor.core.carried.loft import Array, Loft
from tailor.core.shell.run import Run, interpolated

Image = NDArray[np.uint8]
NOTHING, OBJECT, LEATHER = 0, 1, 2
LIGHT = np.array([-0.45, 0.55, 0.7])  # towards the light: from above, the left, and the front
SOFT = 0.7  # mm over which light softens
ACROSS = 120  # points to a run between rows
DIM, SHEEN, SHINE = 0.42, 0.16, 14.0  # what shade keeps, and how much and how sharply leather shines


@dataclass(frozen=True)
class Relief:
    """Heights on a grid, seen from one side.

    across (w,), up (h,): mm, up falling so that rows run down the picture. height: (h, w) mm towards the eye, nan
    where nothing is. what: (h, w) NOTHING, OBJECT or LEATHER.
    """

    across: Array
    up: Array
    height: Array
    what: NDArray[np.uint8]

    def lit(self, leather: tuple[int, int, int], thing: tuple[int, int, int]) -> Image:
        """The relief as a lit picture (h, w, 4), red, green, blue and how solid; nothing is wholly clear."""
        step = abs(float(self.across[1] - self.across[0]))
        filled = np.where(np.isnan(self.height), np.nanmin(self.height) if np.isfinite(self.height).any() else 0.0,
                          self.height)  # fmt: skip
        down, out = (scipy.ndimage.gaussian_filter(part, SOFT / step) for part in np.gradient(filled, step))
        normal = np.stack([-out, down, np.ones_like(out)], axis=2)
        normal /= np.linalg.norm(normal, axis=2)[:, :, None]
        light = LIGHT / np.linalg.norm(LIGHT)
        lambert = np.clip(normal @ light, 0, 1)
        half = light + np.array([0.0, 0.0, 1.0])
        shine = np.clip(normal @ (half / np.linalg.norm(half)), 0, 1) ** SHINE
        made = np.zeros((*self.height.shape, 4), dtype=np.uint8)
        for kind, colour in ((OBJECT, thing), (LEATHER, leather)):
            on = self.what == kind
            shade = DIM + (1.25 - DIM) * lambert[on]
            lit = np.array(colour)[None, :] * shade[:, None] + 255 * SHEEN * shine[on][:, None]
            made[on, :3] = np.clip(lit, 0, 255)
            made[on, 3] = 255
        return made


def grid(low: Array, high: Array, step: float) -> tuple[Array, Array]:
    """Places across and up (falling) for a picture of the room from low (2,) to high (2,), mm."""
    across = np.arange(low[0], high[0] + step, step)
    up = np.arange(low[1], high[1] + step, step)[::-1]
    return across, np.ascontiguousarray(up)


def over(
    loft: Loft, rows: Array, runs: tuple[Run, Run | None], ridge: float | None, outline: Array, skin: float,
    plane: float, front: bool, step: float,
) -> Relief:  # fmt: skip
    """Leather over its object, seen from the front or from behind.

    rows: (n,) rising; runs: right and, of a two-sided case, left as if mirrored. ridge: x they part at; None for a
    folded one. outline: all the leather, closed, as seen from the front. skin: neutral surface to grain face. plane:
    how far heights are reckoned behind the object's middle plane. mm.
    """
    thing = loft.sections(np.array([loft.tip, loft.top]))
    low = np.minimum(outline.min(axis=0), [thing.x.min(), loft.tip]) - 2 * step
    high = np.maximum(outline.max(axis=0), [loft.sizes(loft.ys)[:, :2].sum(axis=1).max(), loft.top]) + 2 * step
    across, up = grid(low, high, step)
    height = np.full((len(up), len(across)), np.nan)
    what = np.zeros(height.shape, dtype=np.uint8)
    on = (up >= loft.tip) & (up <= loft.top)
    sections = loft.sections(up[on])
    seen = _spread(across, sections.x, sections.front if front else sections.back)
    height[on] = seen
    what[on] = np.where(np.isnan(seen), NOTHING, OBJECT)
    leather = _leather(across, up, rows, runs, ridge) + skin - plane
    x, y = np.meshgrid(across, up)
    mine = shapely.contains_xy(shapely.Polygon(outline), x, y)
    height = np.where(mine, leather, height)
    what[mine] = LEATHER
    if front:
        return Relief(across, up, height, what)
    return Relief(-across[::-1], up, height[:, ::-1], what[:, ::-1])


def _spread(across: Array, x: Array, value: Array) -> Array:
    """Rows of values (n, m) at x (n, m) on the places across, nan beyond them, (n, w)."""
    wide = np.broadcast_to(across, (len(x), len(across)))
    found = interpolated(wide, x, value)
    return np.where((wide < x[:, :1]) | (wide > x[:, -1:]), np.nan, found)


def _leather(across: Array, up: Array, rows: Array, runs: tuple[Run, Run | None], ridge: float | None) -> Array:
    right, left = runs
    out = np.concatenate([right.x, right.x_land[:, None] + np.array([0.0, 400.0])], axis=1)
    high = np.concatenate([right.z, np.repeat(right.floor[:, None], 2, axis=1)], axis=1)
    heights = interpolated(np.broadcast_to(across, (len(rows), len(across))), np.maximum.accumulate(out, axis=1), high)
    if left is not None and ridge is not None:
        mirrored = _leather(-across[::-1], rows[::-1], rows, (left, None), None)[::-1, ::-1]
        heights = np.where(across[None, :] < ridge, mirrored, heights)
    k = np.clip(np.searchsorted(rows, up, side="right") - 1, 0, len(rows) - 2)
    share = np.clip((up - rows[k]) / np.maximum(rows[k + 1] - rows[k], 1e-9), 0, 1)[:, None]
    return np.asarray(heights[k] * (1 - share) + heights[k + 1] * share)


def edge_on(
    loft: Loft, rows: Array, front: Run, back: Run | None, edge: Array, floor: float, skin: float, plane: float,
    stack: tuple[float, float], step: float,
) -> Relief:  # fmt: skip
    """The case seen on its seam edge: heights run across the picture, front to the right; x is towards the eye.

    back: None for a flat one. edge: (n,) x of the cut edge at the rows, nan where there is no leather. stack: lowest
    and highest of the stack at the seam, about the middle plane.
    """
    sizes = loft.sizes(loft.ys)
    top = max(float(sizes[:, 2].max()), float((front.z.max() + skin) - plane), stack[1])
    low = -max(float(sizes[:, 3].max()), -stack[0], 0.0 if back is None else float(back.z.max() + skin))
    across, up = grid(np.array([low - 3, rows[0] - 3]), np.array([top + 3, loft.top + 3]), step)
    height = np.full((len(up), len(across)), np.nan)
    what = np.zeros(height.shape, dtype=np.uint8)
    on = (up >= loft.tip) & (up <= loft.top)
    sections = loft.sections(up[on])
    for value, way in ((sections.front, 1.0), (sections.back, -1.0)):
        falls = np.maximum.accumulate(value[:, ::-1], axis=1)  # the side that falls to the seam
        seen = interpolated(np.broadcast_to(way * across, (len(falls), len(across))), falls, sections.x[:, ::-1])
        inside = (way * across[None, :] >= 0) & (way * across[None, :] <= value.max(axis=1)[:, None])
        height[on] = np.where(inside, seen, height[on])
        what[on] = np.where(inside, OBJECT, what[on])
    there = (up >= rows[0]) & (up <= rows[-1])
    for run, way, zero in ((front, 1.0, plane), (back, -1.0, 0.0)):
        if run is None:
            continue
        x, z = _between(run, rows, up[there])
        z = np.maximum.accumulate(z[:, ::-1], axis=1) + skin - zero  # the side that falls to the welt
        seen = interpolated(np.broadcast_to(way * across, (len(z), len(across))), z, x[:, ::-1] + skin)
        inside = (way * across[None, :] >= floor - zero) & (way * across[None, :] <= z[:, -1:])
        height[there] = np.where(inside, seen, height[there])
        what[there] = np.where(inside, LEATHER, what[there])
    band = (across[None, :] >= stack[0]) & (across[None, :] <= stack[1])
    flat = np.interp(up, rows, edge)[:, None]
    height = np.where(band & there[:, None], flat, height)
    what[band & there[:, None]] = LEATHER
    return Relief(across, up, height, what)


def _between(run: Run, rows: Array, up: Array) -> tuple[Array, Array]:
    """x and height (h, p) of a run at heights up (h,), between the rows it was worked at."""
    x, z = run.sampled(run.landed[:, None] * np.linspace(0, 1, ACROSS))
    k = np.clip(np.searchsorted(rows, up, side="right") - 1, 0, len(rows) - 2)
    share = ((up - rows[k]) / np.maximum(rows[k + 1] - rows[k], 1e-9))[:, None]
    at_x, at_z = (part[k] * (1 - share) + part[k + 1] * share for part in (x, z))
    return at_x, at_z
