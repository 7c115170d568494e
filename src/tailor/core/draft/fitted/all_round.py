"""Two-sided cases: two panels with a welt all round, or a front over a flat back. Taut or moulded.

Taut panels are cut and pierced flat, from the flattening. Moulded ones are cut as blanks, pressed, dried, and only
then marked and pierced by a template, which lies true on the dried flange as the welt does.
"""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import replace
from typing import Any

import numpy as np
from shapely.geometry import box

from tailor.core import measure
from tailor.core.carried.guard import above_mouth
from tailor.core.carried.loft import Array, Loft
from tailor.core.carried.zones import Zone, ZoneKind, of_kind
from tailor.core.draft.draft import ROUGH, AtStation, Fitted, Lying, Plan
from tailor.core.draft.fitted.claims import Laid, angles, seam_of
from tailor.core.draft.fitted.lying import laid_out
from tailor.core.draft.fitted.mouth import mouth_height, relief_depth
from tailor.core.draft.fitted.panels_cut import MAIN, Cut, up_to
from tailor.core.draft.fitted.ring import Ring, below, brim, ring
from tailor.core.draft.fitted.seam import (
    Standoff,
    seam_half,
    seam_stack,
    welt_layers,
    widths,
)
from tailor.core.draft.stitch.sewn import even_stack, seam_said, sewn, stitching_of
from tailor.core.draft.stuff import TooSteepError, beyond_bearing, leather_of, moulding_of
from tailor.core.draft.style import Order
from tailor.core.draft.worn.carry import LANDINGS
from tailor.core.draft.worn.hang import thing
from tailor.core.draft.worn.round import STANDS, standing
from tailor.core.fairing import Line, spaced
from tailor.core.leather.leather import Leather
from tailor.core.leather.moulding import EVERYWHERE, GENTLEST, TAUT
from tailor.core.measure import STYLE, Along, Theme
from tailor.core.reason import Reason, stated
from tailor.core.settings import Settings
from tailor.core.shell.panel import covered_rows
from tailor.core.shell.passage import tube
from tailor.core.shell.region import ROW, Edges
from tailor.core.shell.ridge import ridge_of
from tailor.core.shell.taut import Slope
from tailor.core.shell.two_sided import STEP, TwoSided, high_end, plane_of


def _has_back(job: Any, made: Any) -> bool:
    return any(piece.name == "back" for piece in made.pieces)


MEASURES = (
    measure.length("back.above", Theme.SHAPE, "back above", "how far the back stands above the front's mouth", 0, 80,
        usual=0.0, first=True, at=(Along.MOUTH, 0.7)),
    measure.length("back.tab", Theme.SHAPE, "thumb tab",
        "height of a tab on the back above the mouth, for the thumb; 0 for none", 0, 60, usual=0.0,
        at=(Along.MOUTH, 0.8), applies=_has_back),
)  # fmt: skip

UNKNOWN = Edges(box(-1, -1, 1, 1))  # until it is known where the welt lies


def draft(
    order: Order, flat_back: bool, mouth: Reason | None = None, to_thread: float = 0.0, blunt: bool = False
) -> Fitted:  # fmt: skip
    """A two-sided case for the loft. Raises InputError where the measures cannot make one.

    mouth: its height, where the construction knows it. to_thread: least from an edge to the thread, mm. blunt: no
    leather is pressed over its end, however low that is.
    """
    settings, loft, zones, rough = order.settings, order.loft, order.zones, order.rough
    known = () if order.before is None else order.before.formed
    number = settings.number
    leather = leather_of(settings)
    mouth = mouth or mouth_height(settings, loft, zones)
    rows = covered_rows(loft, mouth.value, STEP)
    layer, layers = _welt_layers(settings, leather, loft, rows, zones, flat_back)
    stack = seam_stack(leather, layer.value, int(layers.value))
    height = layer.value * layers.value
    width = widths(settings, stack, to_thread)
    angle = angles(settings, leather)
    hollows = tuple((z.low, z.high) for z in of_kind(zones, ZoneKind.HOLLOW))
    clearance = number("fit.clearance")
    plane = plane_of(loft, rows, clearance) if flat_back else 0.0
    floor = height if flat_back else height / 2
    moulding, said = moulding_of(settings, leather, high_end(loft, clearance) + plane - floor, blunt=blunt)
    bare = TwoSided(
        loft, leather, moulding, clearance, height, mouth.value, ridge_of(loft, rows), UNKNOWN,
        Slope(0.5), hollows, flat_back, coarse=ROUGH if rough else 1,
    )  # fmt: skip
    if all_over := not moulding.taut and moulding.where == EVERYWHERE and moulding.end == 0:
        bare = replace(bare, pressed=bare.press())
    middle = height / 2 - plane if flat_back else 0.0
    through = tube(loft, rows, clearance, height, middle, hollows, formed=bare.between if all_over else None)
    laid = Laid(
        loft, mouth.value, clearance, height, floor, plane, flat_back, through,
        None if moulding.taut else bare.ball, hollows if moulding.where != EVERYWHERE else None, moulding.end,
        step=ROW * bare.coarse,
    )  # fmt: skip
    sewn_on = seam_of(settings, laid, zones, rows, width, angle, order.sharp)
    stands = sewn_on.stands
    inset, margin = width.inset.value, width.margin.value
    back_up = _back_up(settings, above_mouth(loft, mouth.value))
    how = stitching_of(settings, leather, ends=2)
    first = settings.settled(
        Reason("seam.first_hole", margin, "mm", "one margin in from the mouth", {"margin": margin})
    )
    case = replace(bare, seam=sewn_on.edges, slope=sewn_on.slope)
    lines = ring(sewn_on.region.whole, width, mouth.value, first.value, how.pitch.value, how.odd)
    panels = case.panels(lines.cut_edges, lines.foot + 0.6, known)
    deep = float((loft.sections(rows).front + plane).max())
    cannot = f"{deep:.0f} mm is too deep to be {'drawn over' if moulding.taut else 'moulded'}"
    try:
        beyond_bearing(settings, loft, panels, lambda y: cannot, _serves(flat_back, moulding.method))
    except TooSteepError:
        if moulding.taut or moulding.end > 0:
            raise
        with suppress(TooSteepError):  # where it does not help to stop short of the end, the first is told
            return draft(order, flat_back, mouth, to_thread, blunt=True)
        raise
    spread = float(np.ptp(lines.inner.points[[0, -1], 0]))
    relief = relief_depth(settings, mouth.value, spread, zones)
    made = Cut(settings, case, lines, width, leather, how.hole.value, layer.value, int(layers.value),
        relief.value, panels, back_up.value)  # fmt: skip
    pieces, front, back, more = made.pieces()
    profile = even_stack(stack, front.holes)
    names = tuple(p.name for p in pieces if p.holes)
    seam = sewn(MAIN, names, ("front", "welt", "back"), front.holes, profile, how, first.value, how.wrapped)
    faired = max(front.line.deviation, back.line.deviation)
    reasons = (
        mouth, relief, layer, layers, width.width, width.inset, width.margin, *angle, *said,
        max((s.reason() for s in stands), key=lambda r: r.value), sewn_on.toe, first, *more, back_up,
        *seam_said(seam, how, profile, leather, height, faired, number("seam.fairing")), *thing(settings, loft)[1],
    )  # fmt: skip
    seen = _plan(lines, relief.value)
    drawn = Fitted(pieces=pieces, seams=(seam,), rows=_rows(case, stands[0], inset, mouth.value),
        reasons={r.name: r for r in reasons}, leather=leather, shell=case, stack=stack, standoffs=stands,
        front=front, back=back,
        inner=lines.inner if front.line is lines.stitch else Line(spaced(panels[0].to_flat(lines.inner.points))),
        plan=seen, loop=None, tab=None, formed=panels, lying=_standing(seen, mouth.value, back_up.value),
        profile=profile, rough=rough)  # fmt: skip
    return laid_out(drawn)


def _serves(flat_back: bool, method: str) -> dict[str, tuple[str, str]]:
    """What goes where leather formed so does not, and what is typed for it."""
    shared = {"share it between two panels": (STYLE, "two-panel")} if flat_back else {}
    looser = {} if method in (TAUT, GENTLEST) else {"press it with the fingers alone": ("mould.method", GENTLEST)}
    drawn = {} if method == TAUT else {"draw it taut": ("mould.method", TAUT)}
    return {**looser, **shared, **drawn, "make a gusseted box": (STYLE, "gusseted-box")}


def _welt_layers(
    settings: Settings, leather: Leather, loft: Loft, rows: Array, zones: Sequence[Zone], flat_back: bool
) -> tuple[Reason, Reason]:
    """As many layers as keep a sharp object between two panels free of pinch; else one that they come down to."""
    if of_kind(zones, ZoneKind.EDGE, ZoneKind.POINT) and not flat_back:
        return welt_layers(settings, leather, zones, True, *seam_half(loft, rows, zones))
    layer = settings.settled(stated("welt.thickness", leather.thickness, "mm", "welts are cut from the body leather"))
    rule = "the front comes down to it by itself" if flat_back else "the panels come down to it by themselves"
    return layer, settings.settled(stated("welt.layers", 1.0, "count", f"one is enough: {rule}"))


def _rows(case: TwoSided, stand: Standoff, inset: float, mouth: float) -> tuple[AtStation, ...]:
    """What the wrap gives at the measured stations, on the seam side."""
    known = case.loft.at_stations(high=mouth)
    at = np.searchsorted(stand.rows, known)
    x_stitch = stand.x_welt[at] + inset
    on = np.abs(case.formed_rows[None, :] - known[:, None]).argmin(axis=1)
    paths = []
    for side in ("front", "back"):
        face = case.front if side == "front" else case.back
        paths.append(face.right.rows(on).length_to(x_stitch))
    columns = np.column_stack([known, stand.distance[at], stand.x_welt[at], x_stitch, *paths])
    return tuple(AtStation(*map(float, row)) for row in columns)


def _plan(lines: Ring, relief: float) -> Plan:
    level = np.array([[-1e3, lines.mouth], [1e3, lines.mouth]])
    right, left = lines.inner_at_mouth
    edge = np.vstack([level[:1], brim(lines.mouth, left, right, relief), level[1:]])
    strip_ = below((lines.cut.points, lines.inner.points), level, "welt")
    inner, stitch, cut = (up_to(line.points, lines.mouth) for line in (lines.inner, lines.stitch, lines.cut))
    mouth_line = np.vstack([cut[-1:], brim(lines.mouth, left, right, relief), cut[:1]])
    return Plan(inner, stitch, cut, mouth_line, below((lines.cut.points, None), edge, "front"), strip_)


def _standing(seen: Plan, mouth: float, above: float) -> tuple[Lying, ...]:
    """The back where it stands above the front, seen from the front."""
    if above <= 0:
        return ()
    (left, _), (right, _) = seen.cut[-1], seen.cut[0]
    ring = np.array([(left, mouth), (right, mouth), (right, mouth + above), (left, mouth + above)])
    return (Lying("back above the mouth", ring, True),)


def _back_up(settings: Settings, past: float) -> Reason:
    """How far the back stands above the front's mouth. past: what a keeper must lie beyond there, mm."""
    own, stands = settings.number("back.above"), standing(settings, past)
    if stands <= own or "back.above" in settings or settings.word("loop.landing") in LANDINGS:
        return settings.settled(stated("back.above", own, "mm", "level unless asked for"))
    return stated("back.above", stands, "mm", STANDS)
