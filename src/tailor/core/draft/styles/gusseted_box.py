"""Gusseted box: front and back joined by a gusset, padded or not, the back going on as a flap over the top."""

from __future__ import annotations

from typing import Any

import numpy as np

from tailor.core import habit, measure
from tailor.core.carried.loft import Loft
from tailor.core.draft.draft import Draft
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.built import Cross, Slab
from tailor.core.draft.flat_goods.dividers import Wall, divided
from tailor.core.draft.flat_goods.flap import NARROWS, Flap, closed_by, flapped, lying
from tailor.core.draft.flat_goods.gusset import FLAT, IN, ROUND, Gusset, corner_for, gusset, notched, sunk_for, turned
from tailor.core.draft.flat_goods.handle import handle
from tailor.core.draft.flat_goods.slung import slung
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.stitch.holes import from_the_middle
from tailor.core.draft.style import Order, Style
from tailor.core.measure import Theme
from tailor.core.placed.held import Thing
from tailor.core.placed.lies import ACROSS, FRONT, OTHER, OUT, UP, Bent, Frame, flat_at
from tailor.core.placed.path import Path, rounded

PLAY = habit.bench("box.play", 2.0, 1, 8, "room over the top, for the flap")
NONE = "none"
ROOM = "the object and room on both sides"
MEASURES = (measure.told("corner.sunk", Theme.INSIDE, "bottom lower by"),)


def draft(order: Order) -> Draft:
    """A box with a gusset for the object. Raises InputError where the measures cannot make one."""
    work = Work(order)
    thick, own = work.leather.thickness, work.leather_for("gusset")
    clear = work.given("fit.clearance", "room all round")
    foam = work.say("foam.thickness", 0.0, "none unless asked for: a thickness pads it all round")
    way = work.word("gusset.flange")
    wide, tall = (work.say(f"inside.{side}", size + 2 * clear, ROOM, object=size, room=clear)
                  for side, size in zip(("across", "up"), work.size[:2], strict=True))  # fmt: skip
    edges: dict[str, Any] = {"edges": max(own.thickness - foam, 0.0)} if way == IN else {}
    deep = work.say("inside.through", work.size[2] + 2 * (clear + sum(edges.values())), ROOM + (", and the edges that "
        "lie inside before and behind it" if edges else ""), object=work.size[2], room=clear, **edges)  # fmt: skip
    edge = turned(own, way, work.habit(FLAT))
    rivet = work.word("corner.rivet")
    first = margin = work.margin(thick + own.thickness)
    if rivet != NONE:  # in place of the first stitches, on their line
        margin = max(margin, work.settings.fastening("corner.rivet").edge)
        first = 2 * work.settings.fastening("corner.rivet").edge
    stitch = wide / 2 + foam - edge.wall  # from the middle out to the stitch line, so that the wall leaves the room
    bears = work.settings.number("leather.stretch_across"), work.settings.number("leather.gather")
    corner = work.say("panel.corner", corner_for(own, edge, bears[way == IN], work.habit(ROUND) * stitch),
        "round enough for its gusset to turn", wall=abs(edge.wall), bears=bears[way == IN])  # fmt: skip
    sunk = work.say("corner.sunk", sunk_for(corner + edge.wall, clear + foam),
        "the bottom lies so much lower that what stands in it clears the rounded corners", corner=corner)  # fmt: skip
    top, bottom = tall + foam + work.habit(PLAY), -foam - sunk + edge.wall
    line, corners = paths.bent([(stitch, top), (stitch, bottom), (-stitch, bottom), (-stitch, top)], corner)
    sewn = from_the_middle(paths.edge(line, first, corners=corners))
    through = deep + 2 * foam
    strip = gusset(edge, sewn, through, margin)
    beyond = margin if way != IN else abs(edge.wall) + own.thickness
    out, low = stitch + beyond, bottom - beyond
    front = paths.closed(paths.box(-out, low, out, top), (corner + beyond, corner + beyond, 2.0, 2.0))
    work.cut("front", front)
    flap = flapped(work, front, out, top, through)
    work.cut("back", front if flap is None else flap.outline, folds=() if flap is None else flap.folds,
        words=(0.0, 0.45 * top))  # fmt: skip
    work.cut("gusset", strip.outline, folds=strip.folds, thick=own.thickness)
    _lies(work, strip, rounded([(stitch, top), (stitch, bottom), (-stitch, bottom), (-stitch, top)], corner), through,
        flap)  # fmt: skip
    work.say("gusset.length", strip.length, "round the panel; longer by the angle turned times how far out it lies",
        panel=line.length, further=edge.neutral)  # fmt: skip
    work.say("gusset.width", strip.width, "the depth, the turns of its edges and their flanges", depth=through)
    further = [0.0, edge.neutral]
    *_, right, _, _, _, left, _ = strip.left.anchors
    sides = Wall("gusset", "left", -strip.length, -left), Wall("gusset", "right", 0.0, -right)
    parted = divided(work, sides, wide, deep, "foam lies against it" if foam > 0 else "")
    for side, panel, on in (("front", "front", strip.left), ("back", "back", strip.right)):
        work.join(f"{side} seam", (panel, "panel", sewn), ("gusset", side, on), further=further, margin=margin)
        work.meet_in_the_middle(f"{side} seam")
    notched(work, "gusset", strip, bears)
    for name, at in (("front", front), ("gusset", strip.outline)):
        high = at[at[:, 1] > at[:, 1].max() - 1e-6]
        work.finish_first(name, "upper edge, before it is sewn", high)
    if foam > 0:
        _padded(work, (wide, tall, deep), foam, corner + edge.wall, sunk)
    slung(work, "gusset", (0.0, -16.0), (0.0, 16.0 - strip.length))
    if rivet != NONE:
        _riveted(work, rivet, stitch, top, strip)
    if flap is not None:
        handle(work, "back", (0.0, top + flap.over / 2), 2 * stitch - 52.0, stitch + margin)
        closed_by(work, flap, "front", "back", top)
    work.held.append(Thing("what it is for", (0.0, clear + work.size[1] / 2, 0.0), work.size))
    work.claim("Corner turns with its gusset", corner + edge.neutral, 2.0 * own.thickness, 0.0,
        "The gusset's wall goes round without a crease.", "So tight a corner creases: round it more.",
        keys=("panel.corner",), theme=Theme.SHAPE)  # fmt: skip
    work.tie("front", inside__across=(0.0, 0.15 * top), inside__up=(0.5 * stitch, 0.5 * top), panel__corner=(stitch,
        bottom), seam__margin=(stitch, 0.6 * top))  # fmt: skip
    work.tie(
        "gusset",
        inside__through=(0.0, -0.3 * strip.length),
        gusset__length=(0.0, -0.7 * strip.length),
        gusset__width=(strip.width / 2, -0.5 * strip.length),
        gusset__flange=(strip.width / 2, -0.15 * strip.length),
    )
    return _made(work, work.loft, (wide, tall, deep), foam, stitch, beyond, through, edge.wall, parted)


def _lies(work: Work, strip: Gusset, stitches: Path, through: float, flap: Flap | None) -> None:
    """The panels plane before and behind, the gusset between them, the flap over the top."""
    offset = work.leather.offset
    work.lie("front", flat_at(through / 2 + offset))
    work.lie("gusset", strip.lie(FRONT, stitches))
    work.lie("back", Bent(FRONT.moved((0.0, 0.0, -through / 2 - offset)), up=Path() if flap is None else flap.path,
        behind=True, up_lifted=None if flap is None else flap.lifted))  # fmt: skip


def _riveted(work: Work, rivet: str, stitch: float, top: float, strip: Gusset) -> None:
    """A rivet in place of the first stitches at each end of both seams, where a box is pulled open most."""
    down, half = work.settings.fastening("corner.rivet").edge, strip.width / 2
    for panel, x in (("front", -half), ("back", half)):
        for side, way, y in (("right", 1.0, -down), ("left", -1.0, down - strip.length)):
            on = (panel, (way * stitch, top - down)), ("gusset", (x, y))
            work.fit(rivet, f"{side} corner of the {panel}", "corner.rivet", *on)


def _padded(work: Work, inside: tuple[float, float, float], foam: float, radius: float, sunk: float) -> None:
    """Foam for the panels and round the wall, cut to lie close: the walls' foam stands between the panels', the floor's
    lies level so much above the lowest of rounded corners of a radius; what reaches into those is left off, as far as
    it cannot be pressed in.
    """
    wide, tall, deep = inside
    level = wide / 2 + foam - radius + float(np.sqrt(max(radius**2 - max(radius - sunk, 0.0) ** 2, 0.0)))
    floor = max(level, wide / 4)
    pressed = work.leather_for("gusset").thickness / 2
    foot = min(max(radius - foam - sunk - float(np.sqrt((radius + pressed) ** 2 - radius**2)), 0.0), tall / 2)
    for name in ("front foam", "back foam"):
        work.cut(name, np.array(paths.box(-wide / 2, 0.0, wide / 2, tall)), stuff="foam", thick=foam)
    work.cut("floor foam", np.array(paths.box(-floor, 0.0, floor, deep + 2 * foam)), stuff="foam",
        thick=foam)  # fmt: skip
    work.cut("side foam", np.array(paths.box(0.0, foot, deep + 2 * foam, tall)), stuff="foam", thick=foam, count=2)
    work.lie("front foam", flat_at((deep + foam) / 2))
    work.lie("back foam", flat_at(-(deep + foam) / 2, behind=True))
    before, side = deep / 2 + foam, (wide + foam) / 2
    work.lie("floor foam", Bent(Frame(np.array([0.0, -foam / 2, before]), ACROSS, -OUT)))
    work.lie("side foam", Bent(Frame(np.array([side, 0.0, before]), -OUT, UP)))
    work.lie(f"side foam{OTHER}", Bent(Frame(np.array([-side, 0.0, -before]), OUT, UP)))
    work.claim("Foam takes the knock", foam, 5.0, 2.0, "Foam so thick takes a knock.", "Thin foam only rattles less.",
        keys=("foam.thickness",), theme=Theme.LEATHER)  # fmt: skip


def _made(
    work: Work,
    loft: Loft,
    inside: tuple[float, float, float],
    foam: float,
    stitch: float,
    beyond: float,
    through: float,
    wall: float,
    parted: tuple[float, ...],
) -> Draft:
    play = work.habit(PLAY)
    thick, (wide, tall, deep) = work.leather.thickness, inside
    half, low = through / 2, loft.tip - work.settings.number("fit.clearance")
    panels = [Slab("leather", np.array(paths.box(-stitch - beyond, y, stitch + beyond, y + thick))) for y in (half,
        -half - thick)]  # fmt: skip
    at = stitch + wall
    side = work.reasons["gusset.thickness"].value
    walls = [Slab("leather", np.array(paths.box(x, -half, x + side, half))) for x in (at, -at - side)]
    padding = list[Slab]()
    if foam > 0:
        ring = [(-wide / 2 - foam, -half), (wide / 2 + foam, -half), (wide / 2 + foam, half), (-wide / 2 - foam, half)]
        padding = [Slab("foam", np.array(ring))]
    thing = Slab("thing", np.array(paths.box(-work.size[0] / 2, -work.size[2] / 2, work.size[0] / 2, work.size[2] / 2)))
    dividers = [Slab("leather", np.array(paths.box(-wide / 2, z - thick / 2, wide / 2, z + thick / 2))) for z in parted]
    bottom = low - foam - work.reasons["corner.sunk"].value + wall - beyond
    corner = work.reasons["panel.corner"].value + beyond
    body = paths.closed(
        paths.box(-stitch - beyond, bottom, stitch + beyond, low + tall + foam + play), (corner, corner, 2.0, 2.0)
    )
    pages = np.array(paths.box(-work.size[0] / 2, loft.tip, work.size[0] / 2, loft.top))
    seen = [Slab("leather", body), Slab("thing", pages), Slab("leather", body)]
    if "flap.reach" in work.reasons:
        out, up = stitch + beyond, low + tall + foam + play + thick
        end, reach = out * (1 - 2 * work.habit(NARROWS)), work.reasons["flap.reach"].value + thick
        seen.append(Slab("leather", lying(out, end, up, reach)))
    crosses = [Cross(low - foam, low + tall + foam, (*panels, *walls, *padding, thing, *dividers))]
    return work.built((wide, tall, deep), work.size, crosses, seen)


STYLE = Style(
    "Gusseted box", "Bags and boxes", draft, ("device", "slab", "tool", "round thing", "loose kit"),
    ("from the shoulder", "in the hand", "on the belt"), ("none",),
)  # fmt: skip
