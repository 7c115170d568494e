"""Tray: one sheet turned up on four sides, its corners pinched or slit, a stiff floor laid in."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import Polygon

from tailor.core import habit, measure
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.built import Cross, Slab
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.piece import Rule
from tailor.core.draft.style import Order, Style
from tailor.core.measure import Theme
from tailor.core.placed.held import Thing
from tailor.core.placed.lies import ACROSS, OUT, UP, Bent, Frame, Lie, Patched
from tailor.core.placed.path import mirrored
from tailor.core.shell.wrap import HALF_PI

MEASURES = (
    measure.length("wall.height", Theme.SHAPE, "wall", "height of the walls", 5, 300, first=True),
    measure.pick("corner.made", Theme.SHAPE, "corners", "how the corners of a tray are made", "pinched",
        ("pinched", "slit"), first=True),
    measure.pick("corner.rivet", Theme.SHAPE, "corner held by", "what holds a corner", "none", ("none",),
        stock=("rivet", "snap", "screw")),
)  # fmt: skip

GAP = habit.bench("tray.gap", 1.0, 0.5, 4, "between the floor and the turn of the walls")
GLUED = habit.bench("tray.glued", 12.0, 6, 25, "border that holds the floor")
NONE = "none"


def draft(order: Order) -> Draft:
    """A tray for what lies in the measured block. Raises InputError where the measures cannot make one."""
    work = Work(order)
    glued = work.habit(GLUED)
    gap = work.habit(GAP)
    leather, thick, radius = work.leather, work.leather.thickness, work.leather.inside_radius
    wide, long = (work.say(f"inside.{side}", size, "the block that was measured", object=size) for side,
        size in zip(("across", "up"), work.size[:2], strict=True))  # fmt: skip
    board = work.given("board.thickness", "stiff enough not to sag")
    lined = work.word("panel.lining") == "lined"
    lining = work.given("lining.thickness", "thin") if lined else 0.0
    under = board + lining  # below what lies in it
    wall = work.say("wall.height", work.size[2], "as high as what lies in it, above the floor", object=work.size[2])
    work.say("inside.through", wall, "above the floor", wall=wall, floor=board)
    made = work.word("corner.made")
    # Flaps of slit corners lie inside the end walls, round where they turn.
    within = thick + (1 - np.sqrt(0.5)) * radius if made == "slit" else 0.0
    bend = HALF_PI * (radius + leather.offset)
    up = wall + under - radius + bend  # flat from where the floor begins to turn
    walls = np.array([wide / 2, long / 2 + within])  # from the middle to the inside of the walls
    fold = walls - radius + bend / 2
    out = walls - radius + up
    ring = paths.closed(paths.box(-out[0], -out[1], out[0], out[1]), 6.0 if made == "pinched" else 2.0)
    folds = [np.array([(x, -out[1]), (x, out[1])]) for x in (-fold[0], fold[0])]
    folds += [np.array([(-out[0], y), (out[0], y)]) for y in (-fold[1], fold[1])]
    inner = np.array([wide / 2, long / 2]) - radius - gap
    glue = np.array(paths.box(*(glued - inner), *(inner - glued)))
    work.cut("tray", ring, folds=folds, rules=[Rule("glue", np.vstack([glue, glue[:1]]))])
    floor = paths.closed(paths.box(-inner[0], -inner[1], inner[0], inner[1]), 2.0)
    work.cut("floor", floor, stuff="board", thick=board)
    if lined:
        work.cut("floor lining", floor, stuff="lining", thick=lining)
        work.lie("floor lining", Bent(Frame(np.array([0.0, board + lining / 2, 0.0]), ACROSS, -OUT)))
    if made == "slit":
        work.mark("tray", *_slits(fold, out))
    rivet = work.word("corner.rivet")
    if rivet != NONE:
        _corners(work, rivet, made, fold, wall + under, out)
    _lies(work, (wide, long + 2 * within, wall + under), fold, out, (board, lining))
    high = float(np.abs(out - fold).min())
    work.claim("Walls stand by themselves", wall / thick, 6.0, 3.0, "It stands when its corners hold.",
        "A wall so low does not pinch: make it higher, or take thinner leather.", unit="times",
        keys=("wall.height",))  # fmt: skip
    work.claim(
        "Floor lies between the turns",
        gap,
        0.5,
        0.0,
        "The floor is measured between the inside ends of the turns.",
        "A floor that reaches into the turn lifts.",
    )
    work.finish_first("tray", "outer edge, before the corners are closed")
    work.tie("tray", inside__across=(0.0, -0.7 * fold[1]), inside__up=(0.5 * fold[0], 0.0), wall__height=(0.0,
        out[1] - high / 2), corner__made=(out[0], out[1]), corner__rivet=(-out[0], out[1]))  # fmt: skip
    work.tie("floor", board__thickness=(0.0, 0.0))
    low = work.loft.tip
    shell = _u(wide / 2, wall + under, thick)
    lying = Slab("board", np.array(paths.box(-inner[0], 0.0, inner[0], board)))
    thing = Slab("thing", np.array(paths.box(-wide / 2 + 2, under, wide / 2 - 2, under + min(work.size[2], wall))))
    beyond = thick + within
    seen = paths.closed(paths.box(-wide / 2 - thick, low - beyond, wide / 2 + thick, low + long + beyond), 4.0)
    return work.built((wide, long, wall), (work.size[0], work.size[1], min(wall, work.size[2])), [Cross(low,
        low + long, (Slab("leather", shell), lying, thing))], [Slab("leather", seen), Slab("board",
        floor + np.array([0.0, low + long / 2]))])  # fmt: skip


def _lies(
    work: Work, inside: tuple[float, float, float], fold: Array, out: Array, floor: tuple[float, float]
) -> None:  # fmt: skip
    """The floor level, its grain below, the walls turned up; corners pinched to ears, or a flap inside each wall."""
    leather, (wide, long, wall) = work.leather, inside
    bend, round_ = leather.quarter_bend, leather.inside_radius + leather.offset
    across, up = (mirrored([(side / 2 - leather.inside_radius, 0.0), (bend, -HALF_PI), (wall, 0.0)])
                  for side in (wide, long))  # fmt: skip
    low = np.array([0.0, -leather.offset, 0.0])
    level = Frame(low, ACROSS, OUT)
    foot = low[1] + round_ - bend / 2  # height of what lies on the fold, of a wall that goes straight on down to it
    corner = np.array([wide / 2 + leather.offset, long / 2 + leather.offset])
    parts = list[tuple[Polygon, Lie]]()
    for x in (-1.0, 1.0):
        if work.word("corner.made") == "slit":
            begins = long / 2 - leather.thickness - leather.inside_radius
            turned = mirrored([(begins, 0.0), (bend, -HALF_PI), (wall, 0.0)])
            side = Frame(np.array([x * corner[0], foot - fold[0], 0.0]), x * UP, OUT)
            near, far = sorted((x * fold[0], x * (out[0] + 1)))
            parts.append((shapely.box(near, -out[1] - 1, far, out[1] + 1), Bent(side, up=turned)))
            continue
        for y in (-1.0, 1.0):
            ear, aside = np.array([x, 0.0, y]) / np.sqrt(2), np.array([x, 0.0, -y]) / np.sqrt(2)
            begins = np.array([x * corner[0], foot, y * corner[1]]) - ear * (round_ - bend / 2)
            for own, ways, tip in ((1.0, (x * UP, y * ear), (1e3, 0.0)), (-1.0, (x * ear, y * UP), (0.0, 1e3))):
                at = begins + own * aside * leather.thickness / 2 - ways[0] * x * fold[0] - ways[1] * y * fold[1]
                ring = np.array([(0.0, 0.0), tip, (1e3, 1e3)]) + fold
                parts.append((Polygon(ring * np.array([x, y])), Bent(Frame(at, *ways))))
    if parts and work.word("corner.made") == "slit":
        free = Bent(level, up=up)
        parts += [(shapely.box(-fold[0], *ends[:1], fold[0], *ends[1:]), free)
                  for ends in ((fold[1], out[1] + 1), (-out[1] - 1, -fold[1]))]  # fmt: skip
    work.lie("tray", Patched(tuple(parts), Bent(level, across, up)))
    work.lie("floor", Bent(Frame(np.array([0.0, floor[0] / 2, 0.0]), ACROSS, OUT)))
    across_, along, tall = work.size
    work.held.append(Thing("what lies in it", (0.0, sum(floor) + tall / 2, 0.0), (across_, tall, along)))


def _u(half: float, high: float, thick: float) -> Array:
    """Floor and two walls cut through, closed."""
    return np.array([(-half - thick, -thick), (half + thick, -thick), (half + thick, high), (half, high), (half, 0.0),
        (-half, 0.0), (-half, high), (-half - thick, high)])  # fmt: skip


def _slits(fold: Array, out: Array) -> list[Rule]:
    """A slit at each corner, from the edge in to the turn: punch its end first."""
    found = []
    for x in (-1.0, 1.0):
        for y in (-1.0, 1.0):
            found.append(Rule("slit", np.array([(x * fold[0], y * out[1]), (x * fold[0], y * fold[1])])))
    return found


def _corners(work: Work, rivet: str, made: str, fold: Array, wall: float, out: Array) -> None:
    """Two holes at each corner that come to lie on one another when it is pinched, or its flap laid behind the wall."""
    thick, deep = work.leather.thickness, float((out - fold).min())
    at, high = 0.38 * deep, 0.62 * deep
    pair = (at, high), (high, at)
    if made != "pinched":  # the flap turns in about its upright fold, and lies a thickness inside the wall
        pair = (high, at), (-at - thick, high)
    for k, (x, y) in enumerate(((1, 1), (-1, 1), (-1, -1), (1, -1)), 1):
        spots = [("tray", (x * (fold[0] + u), y * (fold[1] + v))) for u, v in pair]
        work.fit(rivet, f"corner {k}", "corner.rivet", *spots)


STYLE = Style(
    "Tray",
    "Flat goods",
    draft,
    ("loose kit", "small tools"),
    ("left standing",),
    ("none",),
)
