"""Thumb tab: a tongue of the back above the mouth, which the thumb holds against while the object is drawn."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from tailor.core import habit
from tailor.core.draft.draft import Fitted, Lying
from tailor.core.draft.fitted.faces import face
from tailor.core.draft.folded.body import FILLET
from tailor.core.draft.part import Part
from tailor.core.draft.stitch.outgrown import outgrown, strip_up
from tailor.core.draft.worn.over import across
from tailor.core.errors import InputError
from tailor.core.reason import stated
from tailor.core.settings import Settings

WIDE = habit.hand("thumb.width", 26.0, 18, 40, "width of a thumb tab")
SHARE = habit.eye(
    "thumb.share", 0.5, 0.25, 0.8, "of the back between its welts, that a thumb tab may take", habit.SHARE
)
NARROW = habit.hand("thumb.narrow", 12.0, 8, 18, "width of a thumb tab at the least")
OVERLAP = 8.0  # mm that it reaches down on the back where the two are drawn as one


def thumb_tab(settings: Settings, draft: Fitted) -> Fitted:
    """The draft with its thumb tab, if one is asked for. Raises InputError where the back has no edge to grow it."""
    high = settings.number("back.tab")
    if high == 0:
        return draft
    back, mouth = face(draft, "back"), draft.value("mouth.y")
    if back.piece != "back" or draft.tab is not None or draft.ways:
        raise InputError(
            "a thumb tab wants a flat back with nothing else on its upper edge", "back.tab",
            "set it to 0, or take off the flap, the keeper over the top, or the loop out of the back",
        )  # fmt: skip
    left, right = across(draft, mouth - 0.5)
    wide = min(settings.habit(WIDE), settings.habit(SHARE) * (right - left))
    if wide < settings.habit(NARROW):
        raise InputError(
            f"the back is {right - left:.0f} mm wide between its welts, too narrow for a thumb", "back.tab",
            "set it to 0",
        )  # fmt: skip
    above = draft.reasons["back.above"].value if "back.above" in draft.reasons else 0.0
    middle = (left + right) / 2
    x, y = (float(v) for v in back.flat(np.array([(middle, mouth)]))[0])
    top = y + above
    tongue = strip_up(x - wide / 2, top - OVERLAP, x + wide / 2, top + high, 0.48 * min(wide, high))
    foot = (x - wide / 2 - 2 * FILLET, top - 0.5, x + wide / 2 + 2 * FILLET, top + 2 * FILLET)
    pieces = tuple(replace(p, cut=outgrown(p.cut, tongue, foot)) if p.name == "back" else p for p in draft.pieces)
    said = stated("back.thumb", wide, "mm", "as wide as a thumb, no more than half the back", back=right - left)
    seen = np.array([(middle - wide / 2, mouth + above), (middle + wide / 2, mouth + above),
                     (middle + wide / 2, mouth + above + high), (middle - wide / 2, mouth + above + high)])  # fmt: skip
    return replace(
        draft, pieces=pieces, lying=(*draft.lying, Lying("thumb tab", seen, True)),
        reasons={**draft.reasons, said.name: said},
    )  # fmt: skip


PART = Part(30, thumb_tab)
