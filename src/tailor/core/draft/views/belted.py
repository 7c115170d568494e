"""Belted: the slice straight down through a loop with the belt in it, seen along the belt."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Fitted
from tailor.core.draft.parts.own_loop import FOOT, over_belt
from tailor.core.draft.views.section import band
from tailor.core.draft.worn.carry import ROW_GAP, SLACK, Loop
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


def belted(settings: Settings, draft: Fitted) -> Belted | None:
    """The slice through the loop; None where it rides on the belt by none."""
    on, leather = draft.carriage, draft.shell.leather
    if on is None or (draft.loop is None and "loop.drop" not in draft.reasons):
        return None
    width, thick = settings.number("belt.width"), settings.number("belt.thickness")
    rows = tuple(sorted({round(float(row[:, 1].mean()), 6) for row in on.rows}))
    if draft.loop is not None:
        top, sheet = draft.value("mouth.y") + draft.value("loop.rise"), leather.grain_inside()
        neutral = _folded(draft.loop, sheet, top)
        low, high = min(top - draft.loop.rows[1] - draft.loop.margin, rows[0]), top - draft.loop.begins
    else:
        top, sheet = on.pivot[1] + on.opening / 2, leather
        sewn = 2 * draft.value("seam.margin") + ROW_GAP
        snap = next((settings.maker.fastening(h.name, h.key) for h in draft.hardware if h.place.startswith(FOOT)), None)
        line = over_belt(leather, on.opening, thick + SLACK, sewn, sewn if snap is None else 2 * snap.edge)
        neutral = np.column_stack([line[:, 1], on.pivot[1] - line[:, 0]])
        low, high = float(neutral[:, 1].min()), float(neutral[:, 1].max()) + BELOW
    low -= BELOW
    back = np.array([(0.0, low), (0.0, high), (-leather.thickness, high), (-leather.thickness, low)])
    belt = np.array([(0.0, top - width), (thick, top - width), (thick, top), (0.0, top)])
    posts = tuple({round(h.y, 6) for h in draft.hardware if h.place.startswith(FOOT)})
    return Belted(band(neutral, sheet), belt, back, rows, posts, neutral)


def _folded(loop: Loop, sheet: Leather, top: float) -> Array:
    """The neutral line of a loop out of the back, from the back up over the fold and down over the belt, (n, 2)."""
    radius, reach = sheet.inside_radius, sheet.inside_radius + sheet.offset
    turn = np.linspace(HALF_PI, 0, 24)
    quarter = np.column_stack([radius - reach * np.sin(HALF_PI - turn), -reach * np.sin(turn)])
    over = loop.line.points(0, loop.rows[1] + loop.margin, 0.5)
    along = np.vstack([quarter, over])
    return np.column_stack([along[:, 1] + radius, top - along[:, 0]])
