"""Boxed bag: two panels sewn down the sides and along the bottom, the corners pulled to a triangle and sewn across."""

from __future__ import annotations

import numpy as np
import shapely

from tailor.core import habit, measure
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.built import Cross, Slab
from tailor.core.draft.flat_goods.dividers import Wall, divided
from tailor.core.draft.flat_goods.handle import handle
from tailor.core.draft.flat_goods.roll import roll_top, stayed
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.piece import Rule
from tailor.core.draft.style import Order, Style
from tailor.core.measure import Theme
from tailor.core.placed.held import Room
from tailor.core.placed.lies import ACROSS, OUT, Bent, Frame, Lie, Patched, upon
from tailor.core.placed.path import Path, mirrored
from tailor.core.shell.wrap import HALF_PI

MEASURES = (
    measure.length("rim.bar", Theme.SHAPE, "frame bar", "bar of a frame in a tunnel at either rim; 0 for none", 0, 12,
        usual=0.0),
    measure.angle("corner.dart", Theme.SHAPE, "opens",
        "angle that the corners of a bag are cut out at: a square, or a dart", 40, 90, usual=90.0),
    measure.pick("corner.boxed", Theme.SHAPE, "squares",
        "the squares of boxed corners: cut out, or left on and trimmed when they are sewn", "cut out",
        ("cut out", "left")),
    measure.told("rim.wire", Theme.SHAPE, "wire in the rim"),
    measure.told("rim.length", Theme.SHAPE, "each bar"),
)  # fmt: skip

RIM = habit.bench("bag.rim", 25.0, 15, 50, "turned in at a bag's top, for a wire or a cord")
WIRE, LAP = 3.0, 40.0  # mm: thickness of the rim's wire, and how far its ends lie side by side
NEAR, FAR = 1e-4, 1e4  # mm
SIDES = (("right", 1.0), ("left", -1.0))


def draft(order: Order) -> Draft:
    """A bag with boxed corners to an inside size. Raises InputError where the measures cannot make one."""
    work = Work(order)
    wide, tall, deep = (work.say(f"inside.{side}", size, "the room that was measured", room=size) for side,
        size in zip(("across", "up", "through"), work.size, strict=True))  # fmt: skip
    margin = work.margin(2 * work.leather.thickness)
    board = work.given("board.thickness", "stiff enough not to sag")
    stands = tall + board  # the room is above the board that lies in the bottom
    bend = np.pi / 2 * work.leather.offset  # each edge of the box takes a quarter turn of the leather
    # Half of half the girth, and down to the middle of the bottom, at the neutral surface.
    stitch, down = (wide + deep) / 2 + bend, stands + deep / 2 + bend
    square = (deep + bend) / 2  # from the cut edges: both allowances already lie outside the stitch lines
    out, low = stitch + margin, -down - margin
    roll = roll_top(work)
    top = roll or work.habit(RIM)
    opens = np.radians(work.given("corner.dart", "a square, which gives a flat floor; a dart leaves the corner round"))
    corner = np.array([stitch - square, square - down])  # where the two edges that are sewn to each other meet
    ends, step = _dart(corner, (stitch, -down), (out, low), opens, margin)
    ring, rules = _outline(step, top, work.word("corner.boxed") == "left")
    rules.append(Rule("welt", np.array([(-out, 0.0), (out, 0.0)])))
    for name in ("front", "back"):
        work.cut(name, ring, rules=rules, words=(0.0, -0.4 * down))
        work.finish_first(name, "upper edge, before it is turned in or rolled", np.array([(-out, top), (out, top)]))
    if np.isclose(opens, np.pi / 2):  # a dart leaves the corner round, and the leather as it will
        _lies(work, (wide, stands, deep), corner, top)
        work.held.append(Room("what it is for", (0.0, work.size[1] / 2 - tall, 0.0), work.size))
    stayed(work, ("front", "back"), stitch - 2.0, top)
    walls = Wall("front", "front", 0.0, -tall), Wall("back", "back", 0.0, -tall, turned=-1.0)
    parted = divided(work, walls, deep, wide)
    _sew(work, corner, ends, margin, top)
    across = 2 * float(np.hypot(*(ends[0] - corner)))
    work.say("gusset.width", across, "sewn across the corner: both edges of what is cut out", square=square)
    if not roll:
        work.say("rim.wire", 2 * (wide + deep) - 4 * WIRE + LAP,
            f"round the mouth inside the leather, through a turned rim, ends lapped; {WIRE:g} mm wire", across=wide,
            through=deep, lap=LAP)  # fmt: skip
    work.claim(
        "Boxed corner gives the depth", abs(2 * square - deep - bend), 0.1, 1.0,
        "The square cut out is half the depth, and marked after the allowances.", "Let the inside size go back.",
        keys=("inside.through",), ceiling=True,
    )  # fmt: skip
    floor = paths.closed(paths.box(-wide / 2 + 2, -deep / 2 + 2, wide / 2 - 2, deep / 2 - 2), 4.0)
    work.cut("bottom board", floor, stuff="board", thick=board, said=" · after sewing")
    work.lie("bottom board", Bent(Frame(np.array([0.0, board / 2 - stands, 0.0]), ACROSS, OUT)))
    for name in ("front", "back"):
        handle(work, name, (0.0, -18.0), min(0.5 * wide, 140.0), wide / 2, f"{name} handle")
    work.tie("front", inside__across=(0.0, -0.7 * down), inside__up=(0.5 * stitch, -0.3 * down),
        rim__wire=(-0.7 * stitch, 0.0))  # fmt: skip
    work.tie("front", inside__through=step[1], corner__dart=step[0], gusset__width=(corner[0], corner[1]))
    work.tie("front", seam__margin=(out, -0.5 * down))
    return _made(work, (wide, tall, deep), parted)


def _lies(work: Work, inside: tuple[float, float, float], corner: Array, top: float) -> None:
    """Each panel plane, turned at the sides to meet the other half way round, and below to the middle of the bottom;
    what lies beyond the seams of its corners turned in.
    """
    (wide, tall, deep), offset = inside, work.leather.offset
    turn = HALF_PI * offset
    across = mirrored([(wide / 2, 0.0), (turn, -HALF_PI), (deep, 0.0)])
    runs = ((deep / 2, 0.0), (turn, -HALF_PI), (tall + top, 0.0))
    up = Path(runs, (-tall - offset, -deep / 2 - offset), HALF_PI, -tall - turn - deep / 2)
    x, y = (float(each) for each in corner)
    level, edge = y + NEAR, x + NEAR
    bottom = shapely.Polygon([(-edge, level), (-edge - FAR, level - FAR), (edge + FAR, level - FAR), (edge, level)])
    hemmed = Path(((2 * edge, 0.0), (1.0, 0.0)), (-edge, 0.0), HALF_PI, -edge, (-HALF_PI, -HALF_PI))
    hem = Path(((1.0, 0.0),), (y - NEAR, 0.0), HALF_PI, y - NEAR, (-HALF_PI,))
    for name, side in (("front", 1.0), ("back", -1.0)):
        frame = Frame(np.array([0.0, 0.0, side * (deep / 2 + offset)]), side * ACROSS)
        aside = Bent(frame, across)
        parts: list[tuple[shapely.Polygon, Lie]] = [(bottom, Bent(frame, hemmed, up))]
        for way in (1.0, -1.0):
            beside = shapely.Polygon([(way * x, y - NEAR), (way * FAR, y - NEAR), (way * FAR, -FAR), (way * x, -FAR)])
            at = (way * (wide / 2 + turn + deep / 2), y)  # on its plane wall
            wall = upon(aside, at, 0.0)
            origin = wall.origin - at[0] * wall.across - at[1] * wall.up
            parts.append((beside, Bent(Frame(origin, wall.across, wall.up), up=hem)))
        work.lie(name, Patched(tuple(parts), aside))


def _outline(step: list[tuple[float, float]], top: float, left: bool) -> tuple[Array, list[Rule]]:
    """A panel from the step of its lower right corner up to its top: with the squares cut out; or with them left on,
    where to trim them when the corners are sewn.
    """
    mirrored = [(-x, y) for x, y in reversed(step)]
    if not left:
        return np.array([*step, (step[-1][0], top), (-step[-1][0], top), *mirrored]), []
    out, low = step[-1][0], step[0][1]
    return np.array(paths.box(-out, low, out, top)), [Rule("trim", np.array(line)) for line in (step, mirrored)]


def _dart(
    corner: Array, stitch: tuple[float, float], edge: tuple[float, float], opens: float, margin: float
) -> tuple[tuple[Array, Array], list[tuple[float, float]]]:
    """What is cut out of the lower right corner, opening by an angle about its diagonal: a square where that is a right
    angle, else a dart.

    stitch, edge: x of the side and y of the bottom, of the stitch lines and of the cut lines. Gives the ends of its two
    stitch lines from the corner, on the bottom and on the side, and the cut outside them, from the bottom to the side.
    """
    lean = np.pi / 4 - opens / 2  # of each edge, from where a square's lies
    drop = corner[1] - stitch[1]
    reach = drop * np.tan(lean)
    ends = np.array([corner[0] + reach, stitch[1]]), np.array([stitch[0], corner[1] - reach])
    inner = corner + np.array([1.0, -1.0]) * margin / np.sin(opens / 2) / np.sqrt(2)
    far = (inner[1] - edge[1]) * np.tan(lean)
    return ends, [(inner[0] + far, edge[1]), (inner[0], inner[1]), (edge[0], inner[1] - far)]


def _sew(work: Work, corner: Array, ends: tuple[Array, Array], margin: float, top: float) -> None:
    """Sides and bottom first; then across the corners, where a panel's upright edge comes to lie on its level one."""
    first = max(0.6 * margin, 2.0)
    (x, bottom), (side_x, y) = (map(float, end) for end in ends)
    # The back is seen from its own grain side, so that the front's right is its left.
    for side, way in SIDES:
        front, back = (paths.edge(paths.straight((x * side_x, top), (x * side_x, y)), margin, first)
                       for x in (way, -way))  # fmt: skip
        work.join(f"{side} side", ("front", f"{side} front", front), ("back", f"{side} back", back), margin=margin)
    front, back = (paths.edge(paths.straight((end, bottom), (-end, bottom)), first) for end in (x, -x))
    work.join("bottom", ("front", "front", front), ("back", "back", back), margin=margin)
    for side, way in SIDES:
        turn = np.array([way, 1.0])
        runs = [(name, paths.edge(paths.straight(corner * turn, end * turn), first))
                for name, end in zip(("upright", "level"), ends, strict=True)]  # fmt: skip
        for panel in ("front", "back"):
            work.join(f"{side} corner of the {panel}", *((panel, name, edge) for name, edge in runs), margin=margin)


def _made(work: Work, inside: tuple[float, float, float], parted: tuple[float, ...]) -> Draft:
    wide, tall, deep = inside
    thick, low = work.leather.thickness, work.loft.tip
    across, through = wide / 2, deep / 2
    shell = Slab("leather", np.array(paths.box(-across - thick, -through - thick, across + thick, through + thick)))
    room = Slab("thing", np.array(paths.box(-across, -through, across, through)))
    panels = [Slab("leather", np.array(paths.box(x - thick / 2, -through, x + thick / 2, through))) for x in parted]
    seen = paths.closed(paths.box(-across - thick, low - thick, across + thick, low + tall), 3.0)
    return work.built(inside, work.size, [Cross(low, low + tall, (shell, room, *panels))], [Slab("leather", seen)])


STYLE = Style(
    "Bag with boxed corners", "Bags and boxes", draft, ("loose kit",), ("from the shoulder", "in the hand"), ("none",),
)  # fmt: skip
