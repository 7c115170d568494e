"""Flat lines of a folded body: the stitch line and the welt's inner edge, from the mouth round the toe."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely

from tailor.core.carried.loft import Array, Loft
from tailor.core.draft.seam import THREAD_ROOM, Standoff
from tailor.core.errors import InputError
from tailor.core.fairing import Line, fair
from tailor.core.leather.leather import Leather
from tailor.core.reason import Reason, greatest
from tailor.core.settings import Settings
from tailor.core.shell.panel import Panel

ROUNDS, CLOSE = 5, 0.2  # tries at a seam line without hollows, and the mm that fairing then takes up
DEEPEST = 40.0  # mm that a toe goes down to round a corner
WIDEST_HOLLOW = 45.0  # mm: radius of the tightest hollow that the seam of a two-sided case is given
ROUND = 0.45  # share of the half-width at the tip over which the toe is level


def toe_depth(settings: Settings, loft: Loft, stand: Standoff, inset: float, welt: float, angle: float) -> Reason:
    """From the tip down to the welt's inner edge along the fold, mm.

    inset: inner edge to stitch; welt: its height; angle: steepest approach, degrees.
    """
    tip, size = loft.stations[0], loft.sizes(loft.tip)[0]
    over = float(max(size[2], size[3])) - welt / 2
    room = settings.number("fit.edge") + settings.number("seam.fairing")
    rules = {
        "the toe rounds the tip's corner with room": round_corner(
            stand, tip.width, min(room, stand.distance[0]), inset
        ),
        "room below the point": settings.number("fit.point"),
        "as far as the seam stands off at the tip": float(stand.distance[0]),
        f"the end slopes down to the welt no steeper than {angle:g}°": float(over / np.tan(np.radians(angle))),
    }
    return settings.settled(greatest("seam.toe", "mm", rules, {"thickness at the tip": tip.thickness, "welt": welt}))


def stitch_line(rows: Array, path: Array, depth: float, most: float) -> Line:
    """The faired stitch line of one side.

    rows: (n,) rising from the tip. path: (n,) flat half-width to the stitch. depth: tip to the stitch line
    along the fold. most: greatest deviation of the fairing. mm.
    """
    return fair(_with_toe(rows, path, depth), most)


def inner_line(rows: Array, path: Array, inset: float, toe: float, most: float) -> Line:
    """The welt's inner edge on the flat front, faired like the stitch line. mm."""
    inner = path - inset
    if inner.min() <= 0:
        raise InputError(
            f"a stitch inset of {inset:g} mm leaves no room between fold and welt",
            "seam.stitch_inset",
            f"give less than {path.min():.1f} mm",
        )
    return fair(_with_toe(rows, inner, toe), most)


def round_corner(stand: Standoff, width: float, room: float, inset: float) -> float:
    """The least depth of toe that keeps welt and stitch their room from the corner of a blunt tip, mm."""
    slope = float((stand.x_welt[1] - stand.x_welt[0]) / (stand.rows[1] - stand.rows[0]))
    first = np.array([width + stand.distance[0], 0.0])
    for depth in np.arange(room, DEEPEST, 0.5):
        clear = True
        for out, wanted in ((0.0, 0.98 * room), (inset, room + min(inset, THREAD_ROOM))):
            apart = toe_curve(first + np.array([out, 0.0]), slope, float(depth) + out) - [width, 0.0]
            clear &= float(np.hypot(*apart.T).min()) >= wanted
        if clear:
            return float(depth)
    return DEEPEST


def _with_toe(rows: Array, path: Array, depth: float) -> Array:
    """The line down the rows, then round the toe to meet the fold square, (n, 2)."""
    slope = (path[1] - path[0]) / (rows[1] - rows[0])
    toe = toe_curve(np.array([path[0], rows[0]]), float(slope), depth)
    return np.vstack([np.column_stack([path, rows])[::-1], toe])


def toe_curve(first: Array, slope: float, depth: float) -> Array:
    """The toe from a point of the seam, which comes down with a slope (across over down), to the fold, (n, 2)."""
    out, tip = map(float, first)
    last = np.array([0.0, tip - depth])
    # Carried straight on, the seam would meet the level of the toe here; the toe rounds that corner off.
    meets = np.array([np.clip(out - slope * depth, 0.3 * out, out), tip - depth])
    second, third = first + 0.75 * (meets - first), last + 0.75 * (meets - last)
    t = np.linspace(0, 1, max(int((depth + out) / 2), 10) + 1)[1:, None]
    return np.asarray((1 - t) ** 3 * first + 3 * (1 - t) ** 2 * t * second + 3 * (1 - t) * t**2 * third + t**3 * last)


def hollows(rows: Array, path: Array, depth: float) -> Array:
    """How far the stitch line must go out at each row to have no hollow in it, (n,), mm.

    The line with its toe (level over ROUND of its half-width) is held against the tightest outline that bulges
    everywhere.
    """
    foot = rows[0] - depth
    ends = [(-1.0, foot), (-1.0, rows[-1]), (0.0, rows[-1]), (ROUND * path[0], foot)]
    hull = shapely.convex_hull(shapely.multipoints(np.vstack([ends, np.column_stack([path, rows])])))
    ring = shapely.get_coordinates(shapely.get_exterior_ring(hull))[:-1]
    seam = ring[ring[:, 0] > 0]
    seam = seam[seam[:, 1].argsort()]
    return np.asarray(np.maximum(np.interp(rows, seam[:, 1], seam[:, 0]) - path, 0.0))


def rolled(rows: Array, x: Array, radius: float = WIDEST_HOLLOW) -> Array:
    """How far out a line x (n,) over rows (n,) must go for no hollow in it to turn tighter than the radius, (n,), mm.

    The line is closed by a disc: where its centre can go, and how near the line it then comes.
    """
    y = np.arange(rows[0] - radius, rows[-1] + radius, 1.0)
    apart = radius**2 - (y[:, None] - y[None, :]) ** 2
    high = np.sqrt(np.maximum(apart, 0.0))
    slope = max((x[1] - x[0]) / (rows[1] - rows[0]), 1.0)  # below its end the line turns in to the toe
    line = np.interp(y, rows, x) + slope * np.minimum(y - rows[0], 0.0)
    centre = np.where(apart > 0, line[None, :] + high, -np.inf).max(axis=1)
    filled = np.where(apart > 0, centre[None, :] - high, np.inf).min(axis=1)
    return np.asarray(np.maximum(np.interp(rows, y, filled - line), 0.0))


def end_holes(settings: Settings, margin: float, leather: Leather) -> tuple[Reason, Reason]:
    """First hole to the mouth, and last hole to the fold, mm."""
    first = Reason("seam.first_hole", margin, "mm", "one margin in from the mouth", {"margin": margin})
    last = greatest(
        "seam.fold_hole",
        "mm",
        {
            "past the bend of the fold, where the leather lies flat": leather.quarter_bend + 1.0,
            "half a margin": margin / 2,
        },
        {"fold radius": leather.inside_radius, "neutral": leather.offset},
    )
    return settings.settled(first), settings.settled(last)


def flowing(stand: Standoff, panel: Panel, inset: float, depth: float) -> tuple[Standoff, Panel]:
    """The standoff taken out where front or back would have a hollow in its seam line, and the panel on it.

    Going out by one millimetre lengthens the path by about the cosine of the approach.
    """
    if stand.pinned is not None:
        return stand, panel
    for _ in range(ROUNDS):
        wrapped = panel.wrapped
        lines = (wrapped.front,) if wrapped.back is wrapped.front else (wrapped.front, wrapped.back)
        further = np.maximum.reduce([
            hollows(stand.rows, line.length_to(stand.x_welt + inset), depth) / np.cos(np.clip(line.approach, 0, 1.2))
            for line in lines
        ])  # fmt: skip
        if further.max() < CLOSE:
            break
        stand = stand.flowing(further)
        panel = replace(panel, x_welt=stand.x_welt)
    return stand, panel
