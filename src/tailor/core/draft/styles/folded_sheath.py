"""Folded sheath: one sheet folded at the spine, a welt in its one seam, a belt loop out of the back."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import cache

import numpy as np

from tailor.core.carried.guard import COMES, above_mouth, guard_of, pushed_out
from tailor.core.carried.loft import Array, Lifted, Loft
from tailor.core.carried.stations import Station
from tailor.core.carried.zones import ZoneKind, of_kind
from tailor.core.draft.draft import ROUGH, AtStation, Fitted
from tailor.core.draft.fitted.claims import Laid, angles, seam_of
from tailor.core.draft.fitted.lying import laid_out
from tailor.core.draft.fitted.mouth import front_edge, mouth_height, relief_depth
from tailor.core.draft.fitted.plan import plan
from tailor.core.draft.fitted.seam import (
    seam_half,
    seam_stack,
    welt_layers,
    widths,
)  # fmt: skip
from tailor.core.draft.fitted.welt import SKIVED, Skive, thinned, welt
from tailor.core.draft.folded import body as bodies
from tailor.core.draft.folded.behind import looks_back, ridges, stands_under
from tailor.core.draft.folded.flat import LaidFlat, StitchedFlat, end_holes
from tailor.core.draft.folded.landed import astray, lacks, landed
from tailor.core.draft.parts.own_loop import of_tab
from tailor.core.draft.piece import Seam
from tailor.core.draft.stitch.holes import matched
from tailor.core.draft.stitch.sewn import Stitching, even_stack, seam_said, sewn, stitching_of, two_layers
from tailor.core.draft.stuff import beyond_bearing, leather_of, moulding_of
from tailor.core.draft.style import Order, Style
from tailor.core.draft.worn.carry import LANDINGS, Loop, belt_loop, loop_width, over_what_stands
from tailor.core.draft.worn.hang import thing
from tailor.core.draft.worn.roomy import deepened
from tailor.core.leather.leather import Leather
from tailor.core.leather.moulding import EVERYWHERE, TAUT
from tailor.core.leather.stack import Profile
from tailor.core.measure import STYLE as STYLE_KEY
from tailor.core.reason import stated
from tailor.core.settings import Settings
from tailor.core.shell.panel import Panel, closer, covered_rows
from tailor.core.shell.passage import tube
from tailor.core.shell.pressed import TAPER, Pressed
from tailor.core.shell.region import ROW
from tailor.core.shell.two_sided import high_end

MAIN = "main"
LET_OUT = 2  # times that front and back, which are not alike, are let out together until neither is hollow
HOLLOW = 0.2  # mm: a flat line with deeper hollows is let out
NEAR_END = 12.0  # mm from the tip that are its end
BLUNT = 1.0  # mm over the welt above which an end is drawn over as a whole
LOOP_ROWS = ("loop row 1", "loop row 2")


def draft(order: Order) -> Fitted:
    """A folded sheath for the loft. Raises InputError where the measures cannot make one."""
    settings, zones, rough = order.settings, order.zones, order.rough
    number = settings.number
    uneven = settings.settled(
        stated("fold.uneven", number("fold.uneven"), "", "front and back go over as they measure")
    )
    loft = order.loft if uneven.value == 0 else Lifted(order.loft.stations, uneven.value)
    leather = leather_of(settings)
    mouth = mouth_height(settings, loft, zones)
    rows = covered_rows(loft, mouth.value)
    if not rough and (uneven.value or any(s.front != s.back for s in loft.stations)):
        rows = closer(loft, rows)  # two halves that are not alike come together the more exactly

    layer, layers = welt_layers(settings, leather, zones, order.sharp, *seam_half(loft, rows, zones))
    stack = seam_stack(leather, layer.value, int(layers.value))
    height = layer.value * layers.value
    width = widths(settings, stack)
    inset, margin = width.inset.value, width.margin.value
    angle = angles(settings, leather)
    clearance, coarse = number("fit.clearance"), ROUGH if rough else 1
    over_end = high_end(loft, clearance) - height / 2
    whole = over_end - clearance > BLUNT or settings.word("mould.method") != TAUT
    fold = float(loft.sizes(rows)[:, 0].min()) - clearance
    moulding, moulded = moulding_of(settings, leather, over_end, TAPER)
    hollows = tuple((z.low, z.high) for z in of_kind(zones, ZoneKind.HOLLOW))
    pressed = None
    if not moulding.taut:
        pressed = Pressed(loft, leather, moulding, clearance, height, mouth.value, hollows, fold, coarse)
    through = tube(loft, rows, clearance, height, 0.0, hollows, leather.inside_radius, fold)
    if pressed is not None:
        formed = pressed.share(rows) >= 1
        through = replace(through, formed=pressed.between(rows), moulded=formed)
    laid = Laid(
        loft, mouth.value, clearance, height, height / 2, 0.0, False, through,
        None if pressed is None else pressed.ball, hollows if moulding.where != EVERYWHERE else None, moulding.end,
        fold, ROW * coarse,
    )  # fmt: skip
    sewn_on = seam_of(settings, laid, zones, rows, width, angle, order.sharp)
    bare = Panel(
        loft, leather, clearance, height, mouth.value, rows, sewn_on.edges, sewn_on.slope, fold, whole, pressed, coarse
    )
    fairing = number("seam.fairing")
    panel, sewn_flat = bare, StitchedFlat.of(bare, sewn_on.region.whole, inset, margin, fairing)
    for _ in range(LET_OUT if len(sewn_flat.stitch) > 1 else 1):
        if sewn_flat.hollow.max() <= HOLLOW:
            break
        sewn_on = sewn_on.let_out(laid, rows, sewn_flat.hollow / np.cos(panel.steepest()))
        panel = replace(bare, seam=sewn_on.edges)
        sewn_flat = StitchedFlat.of(panel, sewn_on.region.whole, inset, margin, fairing)
    flat = LaidFlat.of(sewn_flat)
    (stand,) = sewn_on.stands
    beyond_bearing(settings, loft, flat.panels, lambda y: _cannot(loft, y), SERVES)
    x_stitch = flat.x_stitch
    paths = flat.paths
    front_line, back_line = flat.stitch
    inner, back_inner = flat.inner
    how = stitching_of(settings, leather, ends=1)
    first, last = end_holes(settings, margin, leather)
    holes = matched(front_line, back_line, mouth.value - first.value, last.value, how.pitch.value, how.odd)
    front = bodies.side(front_line, holes[0], margin, mouth.value)
    back = front if back_line is front_line else bodies.side(back_line, flat.in_step(*holes), margin, mouth.value)

    relief = relief_depth(settings, mouth.value, float(front.line.points[0, 0]), zones)
    scooped = max(min(float(inner.points[0, 0]), float(holes[0].points[0, 0]) - inset), 1.0)
    hole = how.hole.value
    skive = Skive(number("welt.skive"), settings.habit(SKIVED))
    welt_piece = welt(
        front, inner, width, leather, layer.value, int(layers.value),
        number("welt.proud"), skive, mouth.value, MAIN, hole,
    )  # fmt: skip
    profile = thinned(even_stack(stack, front.holes), front.holes.points[:, 0], leather, skive)
    seen = plan(panel, flat, mouth.value, front_edge(mouth.value, scooped, relief.value))
    known = np.isin(rows, loft.at_stations(high=mouth.value))
    columns = np.column_stack([rows, stand.distance, stand.x_welt, x_stitch, *paths])

    aside = cache(lambda: looks_back(panel))

    def closed(up: float, deeper: float = 0.0) -> Fitted:
        """The sheath with its loop so much higher than it need be, and so much deeper, mm."""
        loop = tab = None
        if settings.word("loop.landing") in LANDINGS:
            loop, tab = _loop(settings, leather, back, panel, aside(), margin, (up, deeper), how.pitch.value)
        cut = bodies.outline(front, back, mouth.value, relief.value, scooped, tab)
        body_piece = bodies.body(
            front,
            back,
            (inner, back_inner),
            cut,
            mouth.value,
            margin,
            leather,
            MAIN,
            LOOP_ROWS,
            tab,
            hole,
            settings.habit(bodies.GLUE_BACK),
        )
        seams = _seams(front, profile, how, leather, first.value, tab)
        reasons = (
            uneven, mouth, relief, layer, layers, width.width, width.inset, width.margin, *angle, stand.reason(),
            sewn_on.toe, first, last, *moulded,
            *seam_said(seams[0], how, profile, leather, height, front.line.deviation, fairing),
            stated("fold.radius", leather.inside_radius, "mm", "thickness times the fold radius",
                   thickness=leather.thickness, fold_radius=leather.fold_radius),
            *((loop.width, loop.deep, loop.rise, loop.length) if loop else ()),
            *thing(settings, loft)[1],
        )  # fmt: skip
        made = Fitted(
            pieces=(body_piece, welt_piece),
            seams=seams,
            rows=tuple(AtStation(*map(float, row)) for row in columns[known]),
            reasons={r.name: r for r in reasons},
            leather=leather,
            shell=panel,
            stack=stack,
            standoffs=(stand,),
            front=front,
            back=back,
            inner=inner,
            plan=seen,
            loop=loop,
            tab=tab,
            profile=profile,
            formed=flat.panels,
            rough=rough,
        )  # fmt: skip
        made = landed(laid_out(made), LOOP_ROWS)
        if made.loop is None or made.tab is None:
            return made
        return replace(made, carriage=of_tab(made.loop, made.tab, made.plan, mouth.value, number("belt.width")))

    made, up = closed(0.0), 0.0
    if rough or made.loop is None:
        return made
    # A step of the back lies under its rows: past that.
    for higher in PAST if "loop.rise" not in settings else ():
        if astray(made, LOOP_ROWS) <= EVEN:
            break
        made, up = min((made, up), (closed(higher), higher), key=lambda each: astray(each[0], LOOP_ROWS))
    if "loop.deep" in settings:
        return made
    belt = number("belt.width"), number("belt.thickness")
    # Where it lies, the back stands out further under it than from row to row.
    return deepened(made, lambda by: closed(up, by), lambda one: lacks(one, belt))


def _loop(
    settings: Settings, leather: Leather, back: bodies.Side, panel: Panel, aside: Array, margin: float,
    more: tuple[float, float], pitch: float,
) -> tuple[Loop, bodies.Tab]:  # fmt: skip
    """The loop out of the back, as wide as the mouth allows, then no wider than the back is where it lands, and as deep
    as the back stands out under it; and where it stands on the back. aside: how far from the fold that looks aside, at
    each of the panel's rows; more: as much higher and deeper than it need be, mm.
    """
    mouth, depth, (up, deeper) = panel.mouth, panel.mouth - panel.loft.tip, more
    past = above_mouth(panel.loft, mouth)

    def first(foot: float) -> float:
        return max(leather.quarter_bend, float(aside[panel.rows >= foot].max(initial=0.0)))

    def room(foot: float) -> float:
        return bodies.narrowest(back, mouth, foot) - 2 * margin - first(foot)

    def over(stands: float) -> tuple[Loop, bodies.Tab]:
        widest = belt_loop(settings, leather, room(mouth), depth, margin, margin, up, stands + deeper, past)
        foot = mouth + widest.rise.value - widest.rows[1] - margin
        loop = replace(widest, width=loop_width(settings, room(foot)))
        return loop, bodies.tab(loop, back, mouth, first(foot), margin, pitch)

    told = cache(lambda *own: ridges(panel, np.array(own)))

    def stands(made: tuple[Loop, bodies.Tab]) -> float:
        return stands_under(panel, made[1], made[0].opening, told)

    return over_what_stands(over, stands)


def _cannot(loft: Loft, y: float) -> str:
    """What a folded sheet cannot do with the object at y."""
    if y < loft.tip + NEAR_END:
        return f"{loft.stations[0].thickness:.0f} mm thick at its end, and a fold cannot turn a square corner"
    return "its thickness changes faster along the draw than one folded sheet can follow"


def _seams(
    front: bodies.Side, profile: Profile, how: Stitching, leather: Leather, first: float, tab: bodies.Tab | None
) -> tuple[Seam, ...]:
    seams = [sewn(MAIN, ("body", "welt"), ("front", "welt", "back"), front.holes, profile, how, first, how.wrapped)]
    if tab is not None:
        two = even_stack(two_layers(("loop", "back"), leather.thickness), tab.row)
        seams += [sewn(name, ("body",), ("tab", "back"), tab.row, two, how, tab.inset) for name in LOOP_ROWS]
    return tuple(seams)


LEANS, HELD = 50.0, 6.0  # degrees that leather leans out at the most, from stitches so many mm below the mouth
PAST, EVEN = (8.0, 16.0, 24.0), 0.2  # mm that a loop is raised by, past a step under its rows, and that they may be off
SERVES = {"make it of two panels": (STYLE_KEY, "two-panel"), "make a gusseted box": (STYLE_KEY, "gusseted-box")}


def _beside(settings: Settings, stations: tuple[Station, ...]) -> Mapping[str, str]:
    """A loop of its own beside what goes over the top, which rises where the loop out of the back would; and under a
    guard that would push that out.
    """
    pinned = settings.pinned
    over = pinned.get("flap.closing", "none") != "none" or pinned.get("keeper.way") == "over"
    return {"loop.landing": "sewn"} if over or _stands_back(stations) else {}


def _stands_back(stations: tuple[Station, ...]) -> bool:
    """Whether a guard, or the grip behind it, stands so far back that no leather leans out for it."""
    loft = Loft(stations)
    guard = guard_of(loft) if len(stations) > 1 else None
    return guard is not None and bool((pushed_out(loft, guard.low, COMES, HELD)[2] > LEANS).any())


STYLE = Style(
    "Folded sheath", "Fitted", draft, ("blade", "tool"), ("on the belt",), ("none", "some"), beside=_beside,
)  # fmt: skip
