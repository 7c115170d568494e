"""Channel body: one sheet down the front, under and up the back, closed by a cap at either end."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import shapely

from tailor.core import habit, measure
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.built import Cross, Slab
from tailor.core.draft.flat_goods.dividers import Wall, divided
from tailor.core.draft.flat_goods.gusset import FLAT, IN, ROUND, Gusset, corner_for, gusset, notched, turned
from tailor.core.draft.flat_goods.reached import reached
from tailor.core.draft.flat_goods.under import CLEAR, Trough, straps_under
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.stitch.holes import from_the_middle
from tailor.core.draft.style import Order, Style
from tailor.core.draft.worn.turned import half_round
from tailor.core.errors import InputError
from tailor.core.measure import Theme
from tailor.core.placed.held import Room
from tailor.core.placed.lies import ACROSS, OUT, UP, Bent, Frame, Laid, Patched, Swept
from tailor.core.placed.path import Path, rounded

MEASURES = (
    measure.pick("bottom.made", Theme.SHAPE, "bottom", "a board in the bottom, or leather glued in bent layers",
        "board", ("board", "laminated")),
)  # fmt: skip

MEASURED = "the room that was measured"
RISES = habit.eye(
    "channel.rises", 0.25, 0.1, 0.6, "of the height, that a laminated bottom goes up either side", habit.SHARE
)
GAP = 2.0  # mm between the bottom board and the turns


def draft(order: Order) -> Draft:
    """A body with end caps to an inside size. Raises InputError where the measures cannot make one."""
    work = Work(order)
    leather, thick = work.leather, work.leather.thickness
    way = work.word("gusset.flange")
    edges: dict[str, Any] = {"edges": thick} if way == IN else {}
    wide = work.say("inside.across", work.size[0] + 2 * sum(edges.values()), MEASURED + (", and the edges that lie "
        "inside on either side of it" if edges else ""), room=work.size[0], **edges)  # fmt: skip
    tall, deep = (work.say(f"inside.{side}", size, MEASURED, room=size)
                  for side, size in zip(("up", "through"), work.size[1:], strict=True))  # fmt: skip
    doubled = work.word("bottom.made") == "laminated"
    floor = 2 * thick if doubled else work.given("board.thickness", "stiff enough to stand")
    stands = tall + floor  # the room is above what lies in the bottom
    edge = turned(leather, way, work.habit(FLAT))
    margin = work.margin(2 * thick)
    stitch, bottom = deep / 2 - edge.wall, edge.wall
    bears = work.settings.number("leather.stretch_across"), work.settings.number("leather.gather")
    round_ = max(14.0, 0.2 * deep, corner_for(leather, edge, bears[way == IN], work.habit(ROUND) * stitch))
    wall = stands - bottom - 2 * margin  # above the corners as much stays straight
    corner = work.say("panel.corner", min(round_, 0.9 * stitch, wall), "a bottom that stands, round enough to turn",
        depth=deep, bears=bears[way == IN])  # fmt: skip
    if not paths.SHARP < corner <= wall:
        raise InputError(
            f"caps {deep:.1f} mm deep and {tall:.1f} mm high cannot have corners of {max(corner, 0.0):.1f} mm",
            "panel.corner", "let it go to auto, or make it deeper, higher, or a slip case",
        )  # fmt: skip
    line, corners = paths.bent([(stitch, stands), (stitch, bottom), (-stitch, bottom), (-stitch, stands)], corner)
    sewn = from_the_middle(paths.edge(line, margin, corners=corners))
    body = gusset(edge, sewn, wide, margin)
    beyond = margin if edge.wall < 0 else edge.wall + thick
    out = stitch + beyond
    for name in ("left cap", "right cap"):
        outline = paths.closed(
            paths.box(-out, bottom - beyond, out, stands), (corner + beyond, corner + beyond, 2.0, 2.0)
        )
        work.cut(name, outline)
        work.finish_first(name, "upper edge, before it is sewn", np.array([(-out, stands), (out, stands)]))
    tunnel = _tunnel(work, body, wide)
    work.cut("body", _outline(body, tunnel), folds=body.folds, words=(0.0, -0.2 * body.length))
    if tunnel:
        _tunnelled(work, body, tunnel)
    stitches = rounded([(stitch, stands), (stitch, bottom), (-stitch, bottom), (-stitch, stands)], corner)
    lies = _lies(work, body, stitches, wide, tunnel)
    work.held.append(Room("what it is for", (0.0, floor + work.size[1] / 2, 0.0), work.size, ("pocket row",)))
    work.say("gusset.length", body.length,
        "front, bottom and back, longer by the angle turned times how far out it lies", cap=line.length,
        further=edge.neutral)  # fmt: skip
    rows = int(work.say("pocket.count", 0.0, "none unless asked for", "count"))
    taken = _pockets(work, rows, wide, tall, body.length, margin, tunnel) if rows else None
    *_, first, second, _, third, fourth, _ = body.left.anchors
    flat = Trough("body", body.length, (first, second, third, fourth), lies, taken)
    straps_under(work, flat, wide / 4, body.folds[1][0, 0] - GAP, tunnel)
    fore_and_aft = Wall("body", "front", -tunnel, -first), Wall("body", "back", tunnel - body.length, -fourth)
    parted = divided(work, fore_and_aft, deep, wide, "a row of pockets is sewn" if rows else "")
    for name, label, on in (("left cap", "left", body.left), ("right cap", "right", body.right)):
        sides = (name, "cap", sewn), ("body", label, on)
        work.join(f"{label} seam", *sides, further=(0.0, edge.neutral), margin=margin)
        work.meet_in_the_middle(f"{label} seam")
    notched(work, "body", body, bears)
    half = body.width / 2
    for y, where in ((0.0, "front"), (-body.length, "back")):
        work.finish_first("body", f"{where} rim, before the caps are sewn", np.array([(-half, y), (half, y)]))
    _bottom(work, (wide, tall, deep), corner + edge.wall)
    work.stiff.append(("right seam", GAP + abs(edge.wall)))
    work.claim("Ends turn with the body", corner + edge.neutral, 2 * thick, 0.0,
        "The body goes round its caps without a crease.", "So tight a corner creases: round it more.",
        keys=("panel.corner",))  # fmt: skip
    work.tie("body", inside__across=(0.0, -0.1 * body.length), gusset__length=(0.3 * half, -0.6 * body.length))
    work.tie("left cap", inside__through=(0.0, 0.3 * tall), inside__up=(0.6 * stitch, 0.6 * tall),
        panel__corner=(stitch, bottom), seam__margin=(stitch, 0.5 * tall))  # fmt: skip
    low, half_wide = work.loft.tip, wide / 2
    caps = [Slab("leather", np.array(paths.box(x, -stitch - beyond, x + thick,
        stitch + beyond))) for x in (half_wide, -half_wide - thick)]  # fmt: skip
    at = stitch + edge.wall
    walls = [Slab("leather", np.array(paths.box(-half_wide, z, half_wide, z + thick))) for z in (at, -at - thick)]
    thing = Slab("thing", np.array(paths.box(-half_wide + 3, -deep / 2 + 3, half_wide - 3, deep / 2 - 3)))
    panels = [Slab("leather", np.array(paths.box(x - thick / 2, -deep / 2, x + thick / 2, deep / 2))) for x in parted]
    shown = paths.closed(
        paths.box(-half_wide - thick, low - thick, half_wide + thick, low + tall), (6.0, 6.0, 1.0, 1.0)
    )
    return work.built(
        (wide, tall, deep),
        work.size,
        [Cross(low, low + tall, (*caps, *walls, thing, *panels))],
        [Slab("leather", shown)],
    )


def _lies(work: Work, body: Gusset, stitches: Path, wide: float, tunnel: float) -> Swept:
    """The caps plane to the left and right, the body down the front, under and up the back, its rims turned in; and how
    the body lies without those.
    """
    aside = np.array([-wide / 2 - work.leather.offset, 0.0, 0.0])
    work.lie("left cap", Bent(Frame(aside, OUT, UP)))
    work.lie("right cap", Bent(Frame(-aside, OUT, UP), behind=True))
    plain = body.lie(Frame(across=OUT, up=UP), stitches)
    work.lie("body", plain)
    if tunnel:
        hemmed = replace(plain, line=plain.line.hemmed(tunnel, work.leather.thickness, tunnel))
        half = body.folds[1][0, 0] - GAP
        beside = [shapely.box(*ends) for ends in ((half, -1e4, 1e4, 1e4), (-1e4, -1e4, -half, 1e4))]
        work.lie("body", Patched(tuple((each, plain) for each in beside), hemmed))
    return plain


def _tunnel(work: Work, body: Gusset, wide: float) -> float:
    """From a rim down to the row that closes the tunnel of a frame's bar; 0 where there is no frame, mm."""
    bar = work.given("rim.bar", "none unless asked for")
    if not bar:
        return 0.0
    work.say("rim.length", wide - 2 * GAP, "two bars, each clear of the caps", across=wide)
    return half_round(work.leather, bar, bar)[0] + work.reasons["seam.margin"].value


def _outline(body: Gusset, tunnel: float) -> Array:
    """The body with a tongue at either rim to be turned in for a tunnel, clear of the folds beside it."""
    if not tunnel:
        return body.outline
    half, far = body.folds[1][0, 0] - GAP, 2 * tunnel
    whole = shapely.union_all([shapely.Polygon(body.outline), shapely.box(-half, -body.length - far, half, far)])
    return shapely.get_coordinates(shapely.get_exterior_ring(shapely.orient_polygons(whole)))[:-1]


def _tunnelled(work: Work, body: Gusset, tunnel: float) -> None:
    """The row that closes each tunnel, through the body and the tongue that is turned in, before the caps."""
    half = body.folds[1][0, 0] - GAP - work.reasons["seam.margin"].value
    for rim, y, way in (("front", 0.0, -1.0), ("back", -body.length, 1.0)):
        runs = [paths.edge(paths.straight((-half, y + v), (half, y + v)), 0.0) for v in (way * tunnel, -way * tunnel)]
        sides = zip(("tunnel", "turned in"), runs, strict=True)
        work.join(f"{rim} tunnel", *(("body", f"{rim} {label}", run) for label, run in sides),
            margin=work.reasons["seam.margin"].value)  # fmt: skip


def _bottom(work: Work, inside: tuple[float, float, float], radius: float) -> None:
    """What stiffens the bottom, clear of the turns, and goes in before the second cap: a board, or leather laid double.

    radius: inside the body where it turns, mm. Two layers that are bent are glued bent: the inner is shorter by the
    angle they turn through times its distance from the outer. Source: craft, "Laminated layers".
    """
    wide, tall, deep = inside
    across = wide - 2 * GAP
    if work.word("bottom.made") == "laminated":
        _laminated(work, across, (deep, tall), radius)
        return
    thick = work.reasons["board.thickness"].value
    through = deep - 2 * max(radius, GAP)
    if through >= 10.0:
        work.cut("bottom board", paths.closed(paths.box(-across / 2, -through / 2, across / 2, through / 2), 4.0),
            stuff="board", thick=thick, said=" · before the second cap")  # fmt: skip
        work.lie("bottom board", Bent(Frame(np.array([0.0, thick / 2, 0.0]), ACROSS, OUT)))


def _laminated(work: Work, across: float, size: tuple[float, float], radius: float) -> None:
    leather, thick, (deep, tall) = work.leather, work.leather.thickness, size
    up = work.habit(RISES) * tall
    outer = radius - (thick - leather.offset)  # of its neutral surface, its grain to the body
    for name, bend in (("bottom outer", outer), ("bottom inner", outer - thick)):
        length = deep - 2 * radius + np.pi * bend + 2 * up
        starts = (deep / 2 - radius, deep / 2 - radius + np.pi / 2 * bend)
        folds = [np.array([(-across / 2, s * y), (across / 2, s * y)]) for s in (-1, 1) for y in starts]
        work.cut(name, paths.closed(paths.box(-across / 2, -length / 2, across / 2, length / 2), 4.0), folds=folds,
            said=" · glue bent")  # fmt: skip
    work.say("bottom.shorter", np.pi * thick, "the inner layer, by the half turn of both bends times its thickness",
        thickness=thick)  # fmt: skip
    work.claim("Bottom bends without a crease", radius - 2 * thick, leather.inside_radius, 0.0,
        "Both layers go round inside the body.", "So tight a turn creases: round it more, or take a board.",
        keys=("panel.corner", "bottom.made"))  # fmt: skip


def _pockets(
    work: Work, rows: int, wide: float, tall: float, length: float, margin: float, tunnel: float
) -> tuple[float, float]:  # fmt: skip
    """A row of pockets inside the back, their rows sewn before the caps close the body; and from where to where along
    the body they lie, mm.
    """
    half = wide / 2 - margin - 4.0
    reach = reached(2 * half / rows)
    depth = work.say("pocket.depth", min(0.5 * tall, reach), "half the height, and no deeper than the fingers reach",
        height=tall, reach=reach)  # fmt: skip
    clear = work.habit(CLEAR)
    first = margin + (tunnel + clear if tunnel else 0.0)  # the row of a strap under the body, which must stay
    low = -length + max(0.1 * tall, first + clear + 1.0)
    high = low + depth
    strip = paths.closed(paths.box(-half - margin, low, half + margin, high + margin), 2.0)
    thick = work.leather_for("pocket").thickness
    work.cut("pocket row", strip, thick=thick)
    work.lie("pocket row", Laid(work.lies["body"], -(thick + work.leather.thickness) / 2))
    foot = paths.edge(paths.straight((-half, high), (half, high)), 2.0)
    work.join("pocket foot", ("pocket row", "foot", foot), ("body", "pocket foot", foot), margin=margin)
    for k, x in enumerate(np.linspace(-half, half, rows + 1), 1):
        # A line stops a stitch short of the foot, where another seam is.
        up = paths.edge(paths.straight((x, low + margin), (x, high)), margin / 2, work.how.pitch.value)
        sides = ("pocket row", f"line {k}", up), ("body", f"pocket {k}", up)
        work.join(f"pocket line {k}", *sides, margin=margin)
    work.finish_first("pocket row", "upper edge, before it is sewn on", np.array([(-half, low), (half, low)]))
    return -high - margin, -low


STYLE = Style("Channel body with end caps", "Bags and boxes", draft, ("loose kit", "tool"), ("from the shoulder",
    "in the hand", "left standing"), ("none",), usual={"under.ring": "d-ring 25"})  # fmt: skip
