"""Dividers: panels that part the inside, a flange folded at either side and sewn to a wall that still lies flat."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from tailor.core import habit, measure
from tailor.core.carried.loft import Array
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.work import Work
from tailor.core.errors import InputError
from tailor.core.measure import Theme
from tailor.core.placed.lies import Bent, Frame
from tailor.core.placed.path import mirrored
from tailor.core.shell.wrap import HALF_PI

MEASURES = (
    measure.count("divider.count", Theme.SHAPE, "dividers", "how many dividers part the inside", 0, 8, first=True),
    measure.length("divider.height", Theme.SHAPE, "divider height", "height of a divider", 10, 800),
    measure.told("divider.room", Theme.SHAPE, "between dividers"),
)

CLEAR = habit.bench("divider.clear", 2.0, 1, 6, "flat flange of a divider between its fold and the stitch")
SHARE = habit.eye("divider.tall", 0.85, 0.5, 0.95, "of the height inside, that a divider stands", habit.SHARE)
LOW = habit.eye("divider.low", 6.0, 3, 15, "that it stays above where the wall begins to turn")
NARROW = habit.hand("divider.narrow", 15.0, 10, 40, "between two dividers, below which they are no use")


@dataclass(frozen=True)
class Wall:
    """A wall that lies flat, as how high it goes on its piece, its rim and its foot.

    turned: -1 for a panel that lies grain side up the other way round than the first does. mm.
    """

    piece: str
    label: str
    rim: float
    foot: float
    turned: float = 1.0


def divided(
    work: Work, walls: tuple[Wall, Wall], across: float, along: float, taken: str = ""
) -> tuple[float, ...]:  # fmt: skip
    """As many dividers as are asked for, evenly apart, and where the middle of each is.

    across: between the two walls' inner faces. along: the room that they part. mm. taken: what lies on the walls
    already and leaves no place for them. Raises InputError where they have none, or leave too little.
    """
    low = work.habit(LOW)
    clear = work.habit(CLEAR)
    count = int(work.say("divider.count", 0.0, "none unless asked for", "count"))
    if not count:
        return ()
    if taken:
        raise InputError(
            f"a divider is sewn to the wall, where {taken}", "divider.count", "set it to 0, or leave the other off"
        )
    leather, thick, margin = work.leather, work.leather.thickness, work.reasons["seam.margin"].value
    room = work.say("divider.room", (along - count * thick) / (count + 1), "what each part of it is left", along=along)
    if room < work.habit(NARROW):
        raise InputError(
            f"{count} dividers leave {room:.0f} mm between them", "divider.count", "give fewer, or more room inside"
        )
    # The panel stands between the walls; its flanges turn along them.
    plain = across / 2 - leather.inside_radius - thick
    stitch = plain + leather.quarter_bend + clear
    deep = min(abs(wall.rim - wall.foot) for wall in walls)
    tall = work.say("divider.height", min(work.habit(SHARE) * deep, deep - low),
        "below the rim, above where the wall turns", wall=deep)  # fmt: skip
    if tall > deep - low / 2:
        raise InputError(
            f"a divider {tall:.0f} mm high does not stay on a wall {deep:.0f} mm high",
            "divider.height",
            "make it lower",
        )
    out = stitch + margin
    fold = plain + leather.quarter_bend / 2
    folds = [np.array([(s * fold, 0.0), (s * fold, tall)]) for s in (-1, 1)]
    beside = thick / 2 + leather.inside_radius + clear  # from its middle to the stitches on the wall
    middles = [-along / 2 + k * (room + thick) - thick / 2 for k in range(1, count + 1)]
    for k, middle in enumerate(middles, 1):
        name = "divider" if count == 1 else f"divider {k}"
        work.cut(name, paths.closed(paths.box(-out, 0.0, out, tall), 3.0), folds=folds)
        _sewn_in(work, name, walls, middle + beside, (stitch, tall), margin)
        if all(wall.piece in work.lies for wall in walls):
            work.lie(name, _stands(work, walls, middle + beside, (plain, tall), beside))
        work.parting.append(name)
        work.finish_first(name, "upper edge, before it is sewn in", np.array([(-plain, tall), (plain, tall)]))
    return tuple(middles)


def _stands(work: Work, walls: Sequence[Wall], at: float, size: tuple[float, float], beside: float) -> Bent:
    """A divider as it stands: plane from wall to wall, a flange at either end turned along the wall it is sewn to."""
    (plain, tall), leather = size, work.leather
    heads, feet, asides = list[Array](), list[Array](), list[Array]()
    for wall in walls:
        low = wall.foot + (wall.rim - wall.foot) * (1 - tall / abs(wall.rim - wall.foot)) / 2
        spots = np.array([(wall.turned * at, wall.rim), (wall.turned * at, low), (wall.turned * (at + 1), low)])
        head, foot, aside = work.lies[wall.piece](spots).at
        heads.append(head)
        feet.append(foot)
        asides.append(aside - foot)
    across, up, aside = feet[1] - feet[0], heads[0] - feet[0], asides[0]
    across, up = across / np.linalg.norm(across), up / np.linalg.norm(up)
    turn = HALF_PI * float(np.sign(np.cross(across, up) @ aside))
    flange = [(plain, 0.0), (leather.quarter_bend, turn), (work.habit(CLEAR) + 20.0, 0.0)]
    return Bent(Frame((feet[0] + feet[1]) / 2 - beside * aside, across, up), mirrored(flange))


def _sewn_in(work: Work, name: str, walls: Sequence[Wall], at: float, size: tuple[float, float], margin: float) -> None:
    """A flange on each wall, its stitches `at` beside the wall's middle, its foot so far above the wall's own."""
    stitch, tall = size
    for wall, way in zip(walls, (-1.0, 1.0), strict=True):
        up = 1.0 if wall.rim > wall.foot else -1.0
        low = wall.rim - up * (abs(wall.rim - wall.foot) - (abs(wall.rim - wall.foot) - tall) / 2)
        own = paths.edge(paths.straight((way * stitch, 0.0), (way * stitch, tall)), margin)
        x = wall.turned * at
        on = paths.edge(paths.straight((x, low), (x, low + up * tall)), margin)
        label = wall.label
        work.join(f"{name} to the {label}", (name, label, own), (wall.piece, f"{name} at the {label}", on),
            margin=margin)  # fmt: skip
