"""Flap: a back that goes on over the top and comes down on the front, narrower towards its end.

Flat, it is as long as the depth and its reach together, with the share of both bends. Source: geometry, "Carry".
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tailor.core import habit
from tailor.core.carried.loft import Array
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.work import Work
from tailor.core.leather.leather import Leather
from tailor.core.placed.held import Shut
from tailor.core.placed.path import Path
from tailor.core.shell.wrap import HALF_PI

NARROWS = habit.eye(
    "flap.narrows", 0.08, 0.02, 0.2, "of its width, that a bag's flap narrows on either side", habit.SHARE
)
SHARE = habit.eye("flap.front", 0.4, 0.25, 0.7, "of the front, that a bag's flap comes down over", habit.SHARE)
LEAST = habit.bench("flap.least", 30.0, 20, 60, "of the front, that a bag's flap comes down over at the least")
FROM_END = habit.bench("flap.from_end", 6.0, 3, 15, "from a button's least distance to the flap's end")
LEANS = np.radians(25.0)  # that it leans away when it is lifted
NONE = "none"


@dataclass(frozen=True)
class Flap:
    """A back with its flap, flat, mm. outline: of both. folds: where it turns. over: flat length over the depth.

    path: seen from its side, up the back and over; lifted: as far as the back, and leaning away.
    """

    outline: Array
    folds: tuple[Array, ...]
    over: float
    reach: float
    path: Path
    lifted: Path


def over_depth(leather: Leather, through: float) -> float:
    """Flat length of a flap from the back's upper edge, over a depth and the front, to where it lies on that, mm."""
    bends = 2 * HALF_PI * (leather.inside_radius + leather.offset)
    return through + leather.thickness - 2 * leather.inside_radius + bends


def flapped(work: Work, back: Array, out: float, top: float, through: float) -> Flap | None:
    """A back (n, 2) whose upper corners lie at ±out and top, with the flap that is asked for; None where none is."""
    if work.word("flap.closing") == NONE:
        return None
    tall = top - float(back[:, 1].min())
    reach = work.say(
        "flap.reach", max(work.habit(SHARE) * tall, work.habit(LEAST)), "far enough down that it stays shut", front=tall
    )
    over = over_depth(work.leather, through)
    work.say("flap.length", over + reach, "over the depth, with the share of both bends, and down the front",
             depth=through, reach=reach)  # fmt: skip
    end, crest = out * (1 - 2 * work.habit(NARROWS)), top + over
    tongue = min(0.35 * end, 0.8 * reach)
    head = paths.closed(
        [(-out, top), (out, top), (out, crest), (end, crest + reach), (-end, crest + reach), (-out, crest)],
        (0.0, 0.0, 3.0, tongue, tongue, 3.0),
    )
    lower = back[back[:, 1] < top - 2.5]
    quarter = HALF_PI * (work.leather.inside_radius + work.leather.offset)
    turns = (top + quarter / 2, crest - quarter / 2)
    folds = tuple(np.array([(-out, y), (out, y)]) for y in turns)
    runs = [(quarter, -HALF_PI), (over - 2 * quarter, 0.0), (quarter, -HALF_PI), (reach, 0.0)]
    path = Path(tuple(runs), start=(top, 0.0), first=top)
    lifted = Path(((quarter, LEANS), (over + reach - quarter, 0.0)), start=(top, 0.0), first=top)
    return Flap(np.vstack([lower, head[1:], head[:1]]), folds, over, reach, path, lifted)


def closed_by(work: Work, flap: Flap, front: str, back: str, top: float) -> None:
    """The button of a flap, on the front and near the flap's end, where they meet when it is shut."""
    button = work.settings.fastening_if("flap.closing")
    if button is not None:
        up = button.edge + work.habit(FROM_END)
        work.fit(button.name, f"{front}, for the flap", "flap.closing", (front, (0.0, top - flap.reach + up)))
        work.fit(button.name, "flap, its button", "flap.closing", (back, (0.0, top + flap.over + flap.reach - up)))
        work.shuts.append(Shut("flap", f"{front}, for the flap", "flap, its button"))


def lying(out: float, end: float, top: float, reach: float) -> Array:
    """A flap that is shut, seen from the front: its outline from the top down, closed, (n, 2), mm."""
    corners = [(-end, top - reach), (end, top - reach), (out, top), (-out, top)]
    return paths.closed(corners, (0.3 * end, 0.3 * end, 3.0, 3.0))
