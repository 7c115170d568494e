"""A cut straight through object and leather at one height, every layer at its real thickness."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry import Polygon

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.reason import Reason
from tailor.core.shell.wrap import Wrap, folded


@dataclass(frozen=True)
class Section:
    """The slice at y. Closed outlines are (n, 2) in x and z, mm; z is up towards the front.

    thing: the object, or None past the tip. room: the object with its clearance. front, back: the leather, or
    None above the mouth. welts: each layer from the front. stitch: (2, 2) the thread through the stack.
    front_path, back_path: flat lengths from the fold to the stitch. reason: why the standoff is what it is.
    """

    y: float
    thing: Array | None
    room: Array | None
    front: Array | None
    back: Array | None
    welts: tuple[Array, ...]
    stitch: Array | None
    neutral: Array | None
    front_path: float
    back_path: float
    reason: Reason | None


def section(draft: Draft, y: float, clearance: float) -> Section:
    """The slice through a draft at height y, mm; clamped between the toe and the top of the object."""
    panel = draft.panel
    y = float(np.clip(y, panel.loft.tip - 0.98 * panel.toe, panel.loft.top))
    sections = panel.loft.sections(np.array([y]), panel.toe)
    thing = sections.outline(0) if y >= panel.loft.tip else None
    room = None
    if thing is not None and clearance > 0:
        room = np.asarray(Polygon(thing).buffer(clearance).exterior.coords)
    if y > draft.value("mouth.y"):
        return Section(y, thing, None, None, None, (), None, None, 0.0, 0.0, None)
    x_welt = panel.welt_edge(np.array([y]))

    def skin(neutral: float) -> Wrap:
        return folded(sections, replace(panel.leather, neutral=neutral), panel.clearance, panel.welt, x_welt)

    flesh, grain, middle = skin(0.0), skin(1.0), skin(panel.leather.neutral)
    x_stitch = float(x_welt[0]) + draft.value("seam.stitch_inset")
    x_cut = max(_edge_at(draft.plan.cut, y), x_stitch + 0.5)
    sides = []
    for name, up in (("front", 1.0), ("back", -1.0)):
        ring = np.vstack([flesh.side(name).points(0, x_cut), grain.side(name).points(0, x_cut)[::-1]])
        sides.append(ring * np.array([1.0, up]))
    layers = round(draft.value("welt.layers"))
    thick, top = draft.value("welt.thickness"), panel.welt / 2
    welts = tuple(
        np.array([(x_welt[0], top - k * thick), (x_cut, top - k * thick), (x_cut, top - (k + 1) * thick),
                  (x_welt[0], top - (k + 1) * thick)])
        for k in range(layers)
    )  # fmt: skip
    half = draft.stack.height / 2
    lengths = [float(middle.side(side).length_to(np.array([x_stitch]))[0]) for side in ("front", "back")]
    return Section(
        y, thing, room, sides[0], sides[1], welts,
        np.array([(x_stitch, half), (x_stitch, -half)]), middle.front.points(0, x_stitch), lengths[0], lengths[1],
        draft.standoff.reason_at(int(np.abs(draft.standoff.rows - y).argmin())),
    )  # fmt: skip


def _edge_at(curve: Array, y: float) -> float:
    """x of a curve (n, 2) where it is furthest out at height y."""
    level = shapely.LineString([(-1e4, y), (1e4, y)]).intersection(shapely.LineString(curve))
    return float(level.bounds[2]) if not level.is_empty else float("-inf")
