"""Belted: the slice straight down through a loop with the belt in it, seen along the belt."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import singledispatch

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Carriage, Draft, Fitted
from tailor.core.draft.fitted.faces import face
from tailor.core.draft.parts.own_loop import FOOT, over_belt
from tailor.core.draft.views.section import band
from tailor.core.draft.worn.carry import ROW_GAP
from tailor.core.settings import Settings

BELOW = 25.0  # mm of the back that is shown beyond the loop
LOOKED = 61  # heights at which the back is drawn


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


@singledispatch
def belted(draft: Draft, settings: Settings) -> Belted | None:
    """The slice through the loop; None where it rides on the belt by none."""
    return None


@belted.register
def _(draft: Fitted, settings: Settings) -> Belted | None:
    on, leather = draft.carriage, draft.shell.leather
    if on is None or (draft.loop is None and "loop.drop" not in draft.reasons):
        return None
    width, thick = settings.number("belt.width"), settings.number("belt.thickness")
    rows = tuple(sorted({round(float(row[:, 1].mean()), 6) for row in on.rows}))
    if draft.loop is not None:
        top, sheet = draft.value("mouth.y") + draft.value("loop.rise"), leather.grain_inside()
        neutral = draft.loop.neutral(sheet) * [1.0, -1.0] + [0.0, top]
        low, high = min(top - draft.loop.rows[1] - draft.loop.margin, rows[0]), top - draft.loop.begins
    else:
        top, sheet = on.pivot[1] + on.opening / 2, replace(leather, thickness=draft.value("loop.thickness"))
        sewn = 2 * draft.value("seam.margin") + ROW_GAP
        snap = next((settings.maker.fastening(h.name, h.key) for h in draft.hardware if h.place.startswith(FOOT)), None)
        line = over_belt(sheet, on.opening, draft.value("loop.deep"), sewn, sewn if snap is None else 2 * snap.edge)
        neutral = np.column_stack([line[:, 1], on.pivot[1] - line[:, 0]])
        low, high = float(neutral[:, 1].min()), float(neutral[:, 1].max()) + BELOW
    low -= BELOW
    heights = np.linspace(low, high, LOOKED)
    stands = _stands(draft, on, heights)
    skin = np.column_stack([stands, heights])
    back = np.vstack([skin, skin[::-1] - [leather.thickness, 0.0]])
    lies = max(float(stands[(heights > top - width) & (heights < top)].max(initial=0.0)), 0.0)
    belt = np.array([(lies, top - width), (lies + thick, top - width), (lies + thick, top), (lies, top)])
    posts = tuple({round(h.y, 6) for h in draft.hardware if h.place.startswith(FOOT)})
    return Belted(band(neutral, sheet), belt, back, rows, posts, neutral)


def _stands(draft: Fitted, on: Carriage, heights: Array) -> Array:
    """How far the back's grain face is out at heights, (n,), over what is straight from where the loop leaves it to
    where it is down on it again, mm.
    """
    back, upper = face(draft, "back"), on.rows[1].mean(axis=0)
    lower = on.rows[2 if len(on.rows) > 2 else 0].mean(axis=0)
    if draft.loop is not None and draft.tab is not None:  # it comes out of the back above the mouth
        lower = on.rows[0].mean(axis=0) + np.array([0.0, draft.tab.inset])
        upper = np.array([lower[0], draft.value("mouth.y") + draft.value("loop.rise") - draft.loop.begins])
    elif len(on.rows) < 3:  # its lower foot snaps
        lower = 2 * np.array(on.pivot) - upper
    way = (upper - lower) / np.hypot(*(upper - lower))
    places = lower + (heights - lower[1])[:, None] * way
    ends = np.stack([lower, upper])
    out = back.out(np.minimum(np.vstack([places, ends]), [np.inf, draft.value("mouth.y")]))
    straight = np.interp(heights, ends[:, 1], out[-2:])
    return np.asarray(out[:-2] - straight)
