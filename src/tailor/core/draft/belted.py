"""Belted: the slice straight down through a loop with the belt in it, seen along the belt."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import LineString

from tailor.core.carried.loft import Array
from tailor.core.draft.belt import FOOT, over_belt
from tailor.core.draft.carry import Loop
from tailor.core.draft.draft import Draft
from tailor.core.leather.leather import Leather
from tailor.core.settings import Settings
from tailor.core.shell.wrap import HALF_PI

BELOW = 25.0  # mm of the back that is shown beyond the loop


@dataclass(frozen=True)
class Belted:
    """Outlines (n, 2), closed: x is how far behind the back's grain face, y the height on the object, mm.

    loop: its leather. belt: where it hangs, at the top of its room. back: the leather it is sewn to. rows: heights of
    the stitches that go through both, posts: of the snaps. neutral: the line its length is measured along, (n, 2).
    """

    loop: Array
    belt: Array
    back: Array
    rows: tuple[float, ...]
    posts: tuple[float, ...]
    neutral: Array


def belted(settings: Settings, draft: Draft) -> Belted | None:
    """The slice through the loop; None where there is none."""
    on, leather = draft.carriage, draft.shell.leather
    if on is None:
        return None
    width, thick = settings.number("belt.width"), settings.number("belt.thickness")
    rows = tuple(sorted({round(float(row[:, 1].mean()), 6) for row in on.rows}))
    if draft.loop is not None:
        top = draft.value("mouth.y") + draft.value("loop.rise")
        neutral, sheet = _folded(draft.loop, leather.grain_inside(), top), leather.grain_inside()
        low = top - draft.loop.rows[1] - draft.loop.margin
        lowest = min(low, rows[0]) - BELOW
        back = np.array([(0.0, lowest), (0.0, top - draft.loop.begins), (-leather.thickness, top - draft.loop.begins),
                         (-leather.thickness, lowest)])  # fmt: skip
        face = 0.0
    else:
        out = draft.value("seam.margin") * 2 + 8.0
        line = over_belt(leather, on.opening, thick, out)
        neutral, sheet = np.column_stack([line[:, 1], on.pivot[1] - line[:, 0]]), leather
        top = on.pivot[1] + on.opening / 2
        low, high = float(neutral[:, 1].min()) - BELOW, float(neutral[:, 1].max()) + BELOW
        back = np.array([(0.0, low), (0.0, high), (-leather.thickness, high), (-leather.thickness, low)])
        face = 0.0
    belt = np.array([(face, top - width), (face + thick, top - width), (face + thick, top), (face, top)])
    posts = tuple({round(h.y, 6) for h in draft.hardware if h.place.startswith(FOOT)})
    return Belted(_band(neutral, sheet), belt, back, rows, posts, neutral)


def _folded(loop: Loop, sheet: Leather, top: float) -> Array:
    """The neutral line of a loop out of the back, from the back up over the fold and down over the belt, (n, 2)."""
    radius, reach = sheet.inside_radius, sheet.inside_radius + sheet.offset
    turn = np.linspace(HALF_PI, 0, 24)
    quarter = np.column_stack([radius - reach * np.sin(HALF_PI - turn), -reach * np.sin(turn)])
    over = loop.line.points(0, loop.rows[1] + loop.margin, 0.5)
    along = np.vstack([quarter, over])
    return np.column_stack([along[:, 1] + radius, top - along[:, 0]])


def _band(neutral: Array, sheet: Leather) -> Array:
    """Leather about its neutral line, as thick as it is square to it, closed."""
    middle = LineString(neutral).simplify(0.003)
    inside, outside = sheet.offset, sheet.thickness - sheet.offset
    halves = [middle.buffer(out, single_sided=True) for out in (inside, -outside) if out]
    whole = max(shapely.get_parts(shapely.union_all(halves)), key=lambda part: part.area)
    return np.asarray(whole.exterior.coords)[:-1]
