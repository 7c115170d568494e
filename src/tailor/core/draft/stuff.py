"""Stuff: the leather of a job and how it is moulded, as its settings say."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

import numpy as np

from tailor.core import measure
from tailor.core.carried.loft import Loft, at_height
from tailor.core.errors import InputError
from tailor.core.leather.leather import Leather
from tailor.core.leather.moulding import METHODS, TAUT, Method, Moulding
from tailor.core.measure import Theme
from tailor.core.reason import Reason, stated
from tailor.core.settings import Settings
from tailor.core.shell.formed import Formed
from tailor.core.shell.strain import PLEATS, TEARS, Bears, strain
from tailor.core.taken import DRYING

MEASURES = (
    measure.length("inside.across", Theme.INSIDE, "inside across", "room inside, across", 5, 1500, first=True),
    measure.length("inside.up", Theme.INSIDE, "inside up", "room inside, from the bottom up", 5, 1500, first=True),
    measure.length("inside.through", Theme.INSIDE, "inside through", "room inside, through its thickness", 0.5, 1000,
        first=True),
    measure.length("panel.corner", Theme.INSIDE, "corner", "radius of a panel's corners at the stitch line", 0, 200,
        first=True),
    measure.pick("panel.traced", Theme.INSIDE, "traced along", "what was traced: its cut edge, or its stitch line",
        "cut", ("cut", "stitch")),
    measure.length("panel.loop", Theme.INSIDE, "loop of leather",
        "loop of leather laid round it, once round from mark to mark where its seams fall; 0 for none", 0, 2000,
        usual=0.0),
    measure.ratio("panel.give", Theme.INSIDE, "gives in use",
        "share that the leather gives in use, and is cut smaller by", 0, 0.15, said=measure.percent),
    measure.pick("panel.lining", Theme.INSIDE, "lining", "whether the panels are lined", "none", ("none", "lined"),
        first=True),
    measure.length("lining.thickness", Theme.LINING, "lining thickness", "thickness of the lining", 0.2, 5, usual=0.8),
    measure.length("lining.feather", Theme.LINING, "feather", "lining cut proud of its panel, trimmed after gluing", 0,
        15, usual=3.0),
    measure.length("foam.thickness", Theme.LINING, "foam", "padding between the panels and what is inside", 0, 40,
        first=True),
    measure.length("board.thickness", Theme.LINING, "board", "stiff board inside", 0.5, 12, usual=2.0),
    measure.told("panel.room", Theme.INSIDE, "room it leaves"),
    *(
        measure.length(f"{part}.thickness", Theme.LEATHER, f"{part} leather", f"thickness of the leather of {what}",
            0.3, 10)
        for part, what in (("gusset", "a gusset"), ("pocket", "pockets"), ("strap", "straps, keepers and handles"),
                           ("loop", "a loop, plate or dangler of its own"))
    ),
)  # fmt: skip


class TooSteepError(InputError):
    """Leather that is formed so would have to give or take up more than it can be brought to."""


def moulding_of(
    settings: Settings, leather: Leather, over_end: float, least: float = 0.0, blunt: bool = False
) -> tuple[Moulding, tuple[Reason, ...]]:
    """How the leather is moulded, and why its numbers are what they are.

    over_end: how high the object's end stands over the welt, mm. Pressed over a low end, leather gathers; over a high
    one it would have to give and take up more than it bears, so there it is drawn taut. least: how far from an end
    that cannot be pressed over it passes to taut, mm. blunt: the end is too blunt to be pressed over, however low.
    """
    method = settings.word("mould.method")
    gives = METHODS.get(method, Method(1.0, 0.0))
    said = "leather that is only drawn taut" if method == TAUT else f"what {method} can press"
    valley = settings.settled(stated("mould.valley", gives.valley, "", said))
    stretch = settings.settled(stated("mould.stretch", gives.stretch, "", said))
    if method != TAUT and not stretch.pinned and (dries := settings.learned(DRYING)) is not None:
        rule = f"{stretch.rule}; less what it draws in on drying, {dries.said}"
        stretch = stretch.corrected(stretch.value - dries.value, rule)
    moulding = Moulding(method, valley.value, stretch.value if method != TAUT else 0.0, settings.word("mould.where"))
    low = moulding.ball(leather.thickness)
    if over_end > low or blunt:
        pressed = {} if blunt else {"pressed_up_to": low}
        end = stated("mould.end", over_end, "mm", "too blunt an end to press leather over: it is drawn taut there, and "
                     "moulded as far from the end as that is high", height=over_end, **pressed)  # fmt: skip
        end = replace(end, value=max(end.value, least))
    elif least > 0:
        end = stated("mould.end", least, "mm", "a fold cannot be pressed round an end", height=over_end)
    else:
        end = stated("mould.end", 0.0, "mm", "so low an end is pressed over too", height=over_end, pressed_up_to=low)
    end = settings.settled(end)
    return replace(moulding, end=end.value), (() if method == TAUT else (valley, stretch, end))


def leather_of(settings: Settings) -> Leather:
    number = settings.number
    return Leather(
        number("leather.thickness"), number("leather.neutral"), number("leather.fold_radius"),
        settings.word("leather.temper"),
    )  # fmt: skip


def leather_for(settings: Settings, part: str) -> tuple[Leather, Reason]:
    """The leather that a part of its own is cut from, and why: "gusset", "pocket", "strap" or "loop"."""
    body = leather_of(settings)
    rule = "cut from the leather of the body"
    thick = settings.settled(stated(f"{part}.thickness", body.thickness, "mm", rule, body=body.thickness))
    return replace(body, thickness=thick.value), thick


def bears(settings: Settings) -> Bears:
    """What the leather of a job bears when it is wet."""
    number = settings.number
    return Bears(
        number("leather.stretch_along"), number("leather.stretch_across"), number("leather.gather"),
        float(np.radians(number("leather.turn"))),
    )  # fmt: skip


OWN = ("fit.toe", "fit.approach", "seam.toe", "seam.standoff", "mould.end", "mould.valley", "leather.gather",
       "leather.stretch_along", "leather.stretch_across", "leather.thickness")  # fmt: skip


def beyond_bearing(
    settings: Settings, loft: Loft, panels: Sequence[Formed], said: Callable[[float], str],
    serves: Mapping[str, tuple[str, str]],
) -> None:  # fmt: skip
    """Raises TooSteepError where formed leather must give or take up more than it can be brought to, and no measure of
    the maker's own asks for it. said: what it cannot do, by the y where it cannot; serves: what can, and what is typed.
    """
    if any(key in settings for key in OWN):
        return
    for panel in {id(p.sheet): p for p in panels}.values():
        found = strain(panel, bears(settings))
        if not found.beyond:
            continue
        give, take = found.worst(), found.tightest()
        torn = found.stretch[give] / found.limit[give] / TEARS >= found.gather[take] / found.wrinkles / PLEATS
        at, how, value, limit = (
            (give, "give", found.stretch[give], found.limit[give]) if torn
            else (take, "take up", found.gather[take], found.wrinkles)
        )  # fmt: skip
        y = panel.places[at][1]
        raise TooSteepError(
            f"{said(y)}: {at_height(loft, y)} its {panel.side} would have to {how} {100 * value:.0f} %, where it bears "
            f"{100 * limit:.0f} %", "leather", ", or ".join(serves), tuple(serves.values()),
        )  # fmt: skip
