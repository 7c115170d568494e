"""Channel body: one sheet down the front, under and up the back, closed by a cap at either end."""

from __future__ import annotations

import numpy as np

from tailor.core.draft import paths
from tailor.core.draft.built import Cross, Layer
from tailor.core.draft.draft import Draft
from tailor.core.draft.gusset import gusset, turned
from tailor.core.draft.holes import from_the_middle
from tailor.core.draft.piece import Rule
from tailor.core.draft.style import Order, Style
from tailor.core.draft.work import Work

STRAP = 25.0  # mm wide, the straps that go under the body
GAP = 2.0  # mm between the bottom board and the turns


def draft(order: Order) -> Draft:
    """A body with end caps to an inside size. Raises InputError where the measures cannot make one."""
    work = Work(order)
    leather, thick = work.leather, work.leather.thickness
    wide, tall, deep = (work.say(f"inside.{side}", size, "the room that was measured", room=size) for side,
        size in zip(("across", "up", "through"), work.size, strict=True))  # fmt: skip
    edge = turned(leather, work.word("gusset.flange"))
    margin = work.margin(2 * thick)
    stitch, bottom = deep / 2 - edge.wall, edge.wall
    corner = work.say("panel.corner", min(max(14.0, 0.2 * deep), 0.9 * stitch),
        "a bottom that stands, round enough to turn", depth=deep)  # fmt: skip
    line, corners = paths.bent([(stitch, tall), (stitch, bottom), (-stitch, bottom), (-stitch, tall)], corner)
    sewn = from_the_middle(paths.edge(line, margin, corners=corners))
    body = gusset(leather, sewn, wide, work.word("gusset.flange"), margin)
    beyond = margin if edge.wall < 0 else edge.wall + thick
    out = stitch + beyond
    for name in ("left cap", "right cap"):
        outline = paths.closed(
            paths.box(-out, bottom - beyond, out, tall), (corner + beyond, corner + beyond, 2.0, 2.0)
        )
        work.cut(name, outline)
        work.finish_first(name, "upper edge, before it is sewn", np.array([(-out, tall), (out, tall)]))
    work.cut("body", body.outline, folds=body.folds, words=(0.0, -0.2 * body.length))
    work.say("gusset.length", body.length,
        "front, bottom and back, longer by the angle turned times how far out it lies", cap=line.length,
        further=edge.neutral)  # fmt: skip
    rows = int(work.say("pocket.count", 0.0, "none unless asked for", "count"))
    if rows:
        _pockets(work, rows, wide, tall, body.length, margin)
    for name, label, on in (("left cap", "left", body.left), ("right cap", "right", body.right)):
        sides = (name, "cap", sewn), ("body", label, on)
        work.join(f"{label} seam", *sides, further=(0.0, edge.neutral), margin=margin)
        work.meet_in_the_middle(f"{label} seam")
    half = body.width / 2
    for y, where in ((0.0, "front"), (-body.length, "back")):
        work.finish_first("body", f"{where} rim, before the caps are sewn", np.array([(-half, y), (half, y)]))
    _bottom(work, wide, deep, corner)
    work.stiff.append(("right seam", GAP + abs(edge.wall)))
    _under(work, body.length, wide)
    work.claim("Ends turn with the body", corner + edge.neutral, 2 * thick, 0.0,
        "The body goes round its caps without a crease.", "So tight a corner creases: round it more.",
        keys=("panel.corner",))  # fmt: skip
    work.tie("body", inside__across=(0.0, -0.1 * body.length), gusset__length=(0.3 * half, -0.6 * body.length))
    work.tie("left cap", inside__through=(0.0, 0.3 * tall), inside__up=(0.6 * stitch, 0.6 * tall),
        panel__corner=(stitch, bottom), seam__margin=(stitch, 0.5 * tall))  # fmt: skip
    low, half_wide = work.loft.tip, wide / 2
    caps = [Layer("leather", np.array(paths.box(x, -stitch - beyond, x + thick,
        stitch + beyond))) for x in (half_wide, -half_wide - thick)]  # fmt: skip
    at = stitch + edge.wall
    walls = [Layer("leather", np.array(paths.box(-half_wide, z, half_wide, z + thick))) for z in (at, -at - thick)]
    thing = Layer("thing", np.array(paths.box(-half_wide + 3, -deep / 2 + 3, half_wide - 3, deep / 2 - 3)))
    shown = paths.closed(
        paths.box(-half_wide - thick, low - thick, half_wide + thick, low + tall), (6.0, 6.0, 1.0, 1.0)
    )
    return work.built(
        (wide, tall, deep), work.size, [Cross(low, low + tall, (*caps, *walls, thing))], [Layer("leather", shown)]
    )


def _bottom(work: Work, wide: float, deep: float, corner: float) -> None:
    """A board laid in at the bottom, clear of the turns, that goes in before the second cap is sewn."""
    thick = work.given("board.thickness", "stiff enough to stand")
    across, through = wide - 2 * GAP, deep - 2 * max(corner - work.leather.inside_radius, GAP)
    if through < 10.0:
        return
    work.cut("bottom board", paths.closed(paths.box(-across / 2, -through / 2, across / 2, through / 2), 4.0),
        stuff="board", thick=thick, said=" · before the second cap")  # fmt: skip


def _under(work: Work, length: float, wide: float) -> None:
    """Where two carrying straps go round under the body, sewn before the caps."""
    x = wide / 4
    rules = [Rule("welt", np.array([(s * x + e, 0.0), (s * x + e, -length)])) for s in (-1, 1) for e in (-STRAP / 2,
        STRAP / 2)]  # fmt: skip
    work.mark("body", *rules)


def _pockets(work: Work, rows: int, wide: float, tall: float, length: float, margin: float) -> None:
    """A row of pockets inside the back, their rows sewn before the caps close the body."""
    depth = work.say("pocket.depth", 0.5 * tall, "half the height, to be reached", height=tall)
    low, high = -length + 0.1 * tall, -length + 0.1 * tall + depth
    half = wide / 2 - margin - 4.0
    strip = paths.closed(paths.box(-half - margin, low, half + margin, high + margin), 2.0)
    work.cut("pocket row", strip)
    foot = paths.edge(paths.straight((-half, high), (half, high)), 2.0)
    work.join("pocket foot", ("pocket row", "foot", foot), ("body", "pocket foot", foot), margin=margin)
    for k, x in enumerate(np.linspace(-half, half, rows + 1), 1):
        # A line stops a stitch short of the foot, where another seam is.
        up = paths.edge(paths.straight((x, low + margin), (x, high)), margin / 2, work.how.pitch.value)
        sides = ("pocket row", f"line {k}", up), ("body", f"pocket {k}", up)
        work.join(f"pocket line {k}", *sides, margin=margin)
    work.finish_first("pocket row", "upper edge, before it is sewn on", np.array([(-half, low), (half, low)]))


STYLE = Style("Channel body with end caps", "Bags and boxes", draft, ("loose kit", "tool"), ("from the shoulder",
    "in the hand", "left standing"), ("none",))  # fmt: skip
