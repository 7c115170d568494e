"""Upright: the slice straight down through a case where a strap goes over its top or a belt passes behind a plate."""

from __future__ import annotations

from dataclasses import dataclass
from functools import singledispatch

import numpy as np
import shapely

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft, Fitted
from tailor.core.draft.fitted.faces import face
from tailor.core.draft.parts.hanger import PLATE
from tailor.core.draft.views.belted import belted
from tailor.core.draft.views.section import band
from tailor.core.draft.worn.carry import ROW_GAP
from tailor.core.draft.worn.over import brim_at, neutral
from tailor.core.settings import Settings

BEYOND = 22.0  # mm that is shown below what it is about
STEP = 1.0  # mm


@dataclass(frozen=True)
class Upright:
    """Closed outlines (n, 2): x is how far behind the object's middle plane, towards the body, y the height, mm.

    thing: the object. leather: front, back, plate and whatever is sewn on. belt: where it passes, if it does. dashed:
    neutral lines (n, 2). stitches, posts: (2, 2) each, through what they hold.
    """

    thing: Array
    leather: tuple[Array, ...]
    belt: Array | None
    dashed: tuple[Array, ...]
    stitches: tuple[Array, ...]
    posts: tuple[Array, ...]


@singledispatch
def upright(draft: Draft, settings: Settings) -> Upright | None:
    """The slice; None where there is neither a strap over the top nor a plate."""
    return None


@upright.register
def _(draft: Fitted, settings: Settings) -> Upright | None:
    plate = next((p for p in draft.pieces if p.name == PLATE), None)
    if not draft.ways and plate is None:
        return None
    case, on = draft.shell, draft.carriage
    thick, mouth = case.leather.thickness, draft.value("mouth.y")
    x = draft.ways[0].x if draft.ways else on.pivot[0] if on else 0.0
    spread = [float(v) for way in draft.ways for v in (way.inner[0, 1], way.inner[-1, 1])]
    if on is not None:
        spread.append(float(on.outline[:, 1].min()))
    low = max(min(spread) - BEYOND, case.loft.tip)
    heights = np.arange(low, case.loft.top + STEP / 2, STEP)
    sizes = case.loft.sizes(np.minimum(heights, case.loft.top))
    thing = np.vstack([np.column_stack([-sizes[:, 2], heights]), np.column_stack([sizes[:, 3], heights])[::-1]])
    leather = []
    for side, top, turn in (("front", brim_at(draft, x), -1.0), ("back", mouth, 1.0)):
        down = np.linspace(low, top, max(int((top - low) / STEP), 2))
        out = turn * face(draft, side).out(np.column_stack([np.full(len(down), x), down]))
        leather.append(np.vstack([np.column_stack([out, down]), np.column_stack([out - turn * thick, down])[::-1]]))
    behind = float(face(draft, "back").out(np.array([[x, mouth]]))[0])
    stitches = [
        _through(behind - thick, behind + way.leather.thickness, way.inner[0, 1] - down)
        for way in draft.ways for down in (0, 8)
    ]  # fmt: skip
    posts, dashed = [], []
    for way in draft.ways:
        line = neutral(way) * [-1.0, 1.0]
        foot = line[0] - [0.0, ROW_GAP + draft.value("seam.margin")]
        line = np.vstack([foot, line])
        dashed.append(line)
        leather.append(band(line[::-1], way.leather))
        end = way.inner[-1]
        if any(h.post is not None and h.key in ("keeper.button", "flap.closing") for h in draft.hardware):
            posts.append(_through(-end[0] - thick, -end[0] + way.leather.thickness, end[1]))
    belt = None
    cut = belted(draft, settings) if plate is None else None
    if on is not None and plate is not None:
        half, outside = float(np.ptp(plate.cut[:, 1])) / 2, behind + plate.thickness
        leather.append(_box(behind, outside, on.pivot[1] - half, on.pivot[1] + half))
        wide = settings.number("belt.width") / 2
        belt = _box(outside, outside + settings.number("belt.thickness"), on.pivot[1] - wide, on.pivot[1] + wide)
        stitches += [_through(behind - thick, outside, float(row[:, 1].mean())) for row in on.rows]
    elif cut is not None:
        aside = np.array([behind, 0.0])
        leather.append(cut.loop + aside)
        belt = cut.belt + aside
        dashed.append(cut.neutral + aside)
        over = behind + (draft.value("loop.thickness") if "loop.thickness" in draft.reasons else thick)
        stitches += [_through(behind - thick, over, y) for y in cut.rows]
        posts += [_through(behind - thick, over, y) for y in cut.posts]
    return Upright(thing, tuple(leather), belt, tuple(dashed), tuple(stitches), tuple(posts))


def _box(left: float, right: float, low: float, high: float) -> Array:
    return shapely.get_coordinates(shapely.box(left, low, right, high))[:-1]


def _through(left: float, right: float, y: float) -> Array:
    return np.array([(left, y), (right, y)])
