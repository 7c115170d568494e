"""Stamp: where the maker's stamp is struck on the front, while its leather lies flat and nothing is sewn."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from tailor.core import habit, measure
from tailor.core.draft.draft import Fitted
from tailor.core.draft.fitted.faces import face
from tailor.core.draft.part import Part
from tailor.core.draft.piece import Rule
from tailor.core.errors import InputError
from tailor.core.measure import Theme
from tailor.core.reason import stated
from tailor.core.settings import Settings

BELOW = habit.eye("stamp.below", 6.0, 3, 15, "from the scoop to the stamp, and from it to the welt")
ROWS = 40  # heights that are tried from there down


def _wanted(job: Any, made: Any) -> bool:
    return bool(job.settings.number("stamp.width") > 0)


MEASURES = (
    measure.length("stamp.width", Theme.SHAPE, "maker's stamp", "width of the maker's stamp on the front; 0 for none",
        0, 80, usual=0.0),
    measure.length("stamp.height", Theme.SHAPE, "stamp's height", "height of the maker's stamp", 3, 80, usual=12.0,
        applies=_wanted),
)  # fmt: skip


def stamp(settings: Settings, draft: Fitted) -> Fitted:
    """The draft with the place of a stamp marked on its front. Raises InputError where there is no room for it."""
    below = settings.habit(BELOW)
    wide, high = settings.number("stamp.width"), settings.number("stamp.height")
    if wide == 0:
        return draft
    front = face(draft, "front")
    free: BaseGeometry = draft.plan.between
    for part in draft.lying:
        if not part.behind:
            free = free.difference(shapely.Polygon(part.outline))
    free = free.buffer(-below)
    top = draft.value("mouth.y") - draft.value("mouth.relief") - below
    middle = float((free.bounds[0] + free.bounds[2]) / 2) if not free.is_empty else 0.0
    foot = draft.shell.loft.tip + high
    lows = np.linspace(top, foot, ROWS) - high if top > foot else np.empty(0)
    left = np.full(len(lows), middle - wide / 2)
    boxes = shapely.box(left, lows, left + wide, lows + high)
    found = np.nonzero(shapely.contains(free, boxes))[0]
    if not len(found):
        raise InputError(
            f"there is no room on the front for a stamp of {wide:.0f} by {high:.0f} mm", "stamp.width",
            "give a smaller one, or 0",
        )  # fmt: skip
    ring = shapely.get_coordinates(boxes[found[0]])
    rule = Rule("stamp", front.flat(ring))
    said = stated("stamp.below", draft.value("mouth.y") - float(ring[:, 1].max()), "mm",
        "as near below the scoop as there is room, struck before anything is sewn")  # fmt: skip
    return replace(
        draft,
        pieces=tuple(replace(p, rules=(*p.rules, rule)) if p.name == front.piece else p for p in draft.pieces),
        reasons={**draft.reasons, said.name: said},
    )


PART = Part(90, stamp)
