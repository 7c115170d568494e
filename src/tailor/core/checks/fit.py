"""Does it fit: edges clear, no pinch, in and out of the mouth, a grip left for the hand."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon

from tailor.core.carried.guard import guard_of, pushed_out
from tailor.core.carried.loft import Array, Loft, outline
from tailor.core.carried.zones import Zone, ZoneKind, of_kind
from tailor.core.checks.verdict import Ruling, Verdict, at_least, at_most, let_go
from tailor.core.draft.draft import Fitted
from tailor.core.draft.fitted.mouth import COVER, FINGER, FINGERS
from tailor.core.draft.fitted.seam import BESIDE, MOST_WELTS, THREAD_ROOM
from tailor.core.measure import AUTO, Theme
from tailor.core.settings import Settings

SLIGHT = 0.05  # mm that no knife keeps to
OTHERWISE = ("mould.method", "fingers"), ("flap.closing", "snap 10")  # to hold it without a strap behind
UPRIGHT, BENT = 10.0, 25.0  # degrees that leather leans unseen; beyond its limit, that it cannot be brought to


def verdicts(settings: Settings, loft: Loft, zones: Sequence[Zone], draft: Fitted) -> Iterator[Verdict]:
    """Verdicts on how the object lies in the case and comes out of it."""
    if not zones and settings.word("object.sharp") == "unknown":
        yield Verdict(
            "Known what is sharp", Ruling.LOOK, 0, 1, "count",
            "Nothing tells whether it has an edge or a point, so all round it counts as an edge. Say that nothing is "
            "sharp, or mark what is.",
            "object", loft.tip, (("object.sharp", "none"),), Theme.FIT,
        )  # fmt: skip
    for zone in zones:
        if zone.low >= loft.top or zone.high <= loft.tip:
            yield Verdict(
                f"The {zone.kind} lies on the object", Ruling.LOOK, zone.low, loft.top, "mm",
                "It was marked on another object, perhaps; move it or remove it.",
                f"at {zone.low:.0f} mm", loft.top, theme=Theme.FIT, ceiling=True,
            )  # fmt: skip
    yield from _clear(settings, loft, zones, draft)
    yield _room(settings, draft)
    if BESIDE in draft.reasons["welt.layers"].inputs:
        yield _pinch(settings, draft)
    if draft.shell.moulding.taut:
        yield _approach(draft)
    yield _passes(draft)
    yield from _covered(settings, loft, zones, draft)
    yield from _guarded(settings, zones, draft)
    yield from _free(settings, zones, draft)
    yield from _grip(settings, loft, zones, draft)
    yield from _pushed_out(loft, draft)


def _clear(settings: Settings, loft: Loft, zones: Sequence[Zone], draft: Fitted) -> Iterator[Verdict]:
    remedies = let_go("seam.standoff", "seam.toe", "seam.stitch_inset", "fit.approach")
    shapely.prepare(thing := Polygon(outline(loft)))
    for kind, key in ((ZoneKind.EDGE, "fit.edge"), (ZoneKind.POINT, "fit.point")):
        ends = [(z.low, z.high) for z in of_kind(zones, kind)]
        unknown = settings.word("object.sharp") == "unknown" and not of_kind(zones, ZoneKind.EDGE, ZoneKind.POINT)
        if kind is ZoneKind.EDGE and unknown:
            ends = [(loft.tip, draft.value("mouth.y"))]
        wanted = settings.number(key)
        for low, high in ends:
            side = _seam_side(loft, max(low, loft.tip), min(high, draft.value("mouth.y"), loft.top))
            if side is None:
                continue
            for what, curve, limit in (
                ("Welt", draft.plan.welt, wanted),
                ("Stitch", draft.plan.stitch, wanted + settings.habit(THREAD_ROOM)),
            ):
                gap, y = _gap(curve, side, thing)
                yield Verdict(
                    f"{what} clear of the {kind}", at_least(gap, limit - SLIGHT, limit / 2), gap, limit, "mm",
                    f"A sharp {kind} that reaches the {what.lower()} cuts it."
                    + (" Let the standoff go out." if gap < limit - SLIGHT else ""),
                    f"at {y:.0f} mm", y, remedies,
                )  # fmt: skip


def _seam_side(loft: Loft, low: float, high: float) -> LineString | None:
    if high <= low:
        return None
    y = np.linspace(low, high, max(int(high - low), 2) + 1)
    return LineString(np.column_stack([loft.x_seam(y), y]))


def _gap(curve: Array, side: LineString, thing: Polygon) -> tuple[float, float]:
    """Least distance from a curve to the side, mm, below 0 where the curve runs into the object; and its y."""
    within = curve[shapely.contains_xy(thing, *curve.T)]
    if not len(within):
        between = shapely.shortest_line(LineString(curve), side)
        return float(between.length), float(between.coords[1][1])
    apart = shapely.distance(shapely.points(within), side)
    deepest = within[int(apart.argmax())]
    return -float(apart.max()), float(side.interpolate(side.project(shapely.Point(deepest))).y)


def _room(settings: Settings, draft: Fitted) -> Verdict:
    clearance = settings.number("fit.clearance")
    k = int(draft.standoff.distance.argmin())
    least = float(draft.standoff.distance[k])
    return Verdict(
        "Welt outside the clearance", at_least(least, clearance, clearance), least, clearance, "mm",
        "The welt must not stand in the room left round the object.",
        f"at {draft.standoff.rows[k]:.0f} mm", float(draft.standoff.rows[k]), let_go("seam.standoff"),
    )  # fmt: skip


def _pinch(settings: Settings, draft: Fitted) -> Verdict:
    most_welts = settings.habit(MOST_WELTS)
    why = draft.reasons["welt.layers"].inputs
    thick, y, height = why[BESIDE], why["at y"], draft.value("welt.stack")
    wanted = max(int(np.ceil(thick / draft.value("welt.thickness") - 1e-9)), 1)
    steep = np.degrees(draft.shell.steepest().max())
    bare = 0.6 * thick if steep > draft.value("fit.approach") + 1.0 else 0.0  # far enough out, the leather takes it up
    advice = (
        f"Use {wanted} layers, or a thicker welt." if wanted <= most_welts else "So thick an object wants a gusset."
    )
    short = f" {advice}" if height < thick else ""
    more = (("welt.layers", str(wanted)),) if wanted <= most_welts else ()
    return Verdict(
        "No pinch at the welt", at_least(height, thick, bare), height, thick, "mm",
        "A welt thinner than the object beside it lets the seam pinch." + short,
        f"at {y:.0f} mm", y, (*let_go("welt.thickness", "welt.layers"), *more), Theme.LEATHER,
    )  # fmt: skip


def _approach(draft: Fitted) -> Verdict:
    steep = np.degrees(draft.shell.steepest())
    k = int(steep.argmax())
    limit = draft.value("fit.approach")
    y = float(draft.shell.rows[k])
    return Verdict(
        "Leather comes down gently", at_most(steep[k], limit + 1.0, limit + 15.0), float(steep[k]), limit, "°",
        "Steeper than its temper likes, the leather bridges and the seam gapes."
        + (" Let the standoff go out, or add a welt." if steep[k] > limit + 1 else ""),
        f"at {y:.0f} mm", y, let_go("seam.standoff", "welt.layers", "fit.approach"), Theme.LEATHER, ceiling=True,
    )  # fmt: skip


def _passes(draft: Fitted) -> Verdict:
    """Every section still inside must pass each row between it and the mouth."""
    room, girth = draft.shell.girths()
    widest = np.maximum.accumulate(girth)
    spare = room - widest
    k = int(spare.argmin())
    y = float(draft.shell.rows[k])
    from_y = float(draft.shell.rows[int(girth[: k + 1].argmax())])
    return Verdict(
        "The widest part comes out", at_least(spare[k], 0.0, -0.02 * widest[k]), float(room[k]), float(widest[k]), "mm",
        f"The part at {from_y:.0f} mm must pass here on its way out: girth inside against girth of the part."
        + (f" Too tight by {-spare[k]:.1f} mm; let the standoff go out." if spare[k] < 0 else ""),
        f"at {y:.0f} mm", y, let_go("seam.standoff", "fit.clearance", "welt.layers"), Theme.FIT,
    )  # fmt: skip


def _covered(settings: Settings, loft: Loft, zones: Sequence[Zone], draft: Fitted) -> Iterator[Verdict]:
    sharp = of_kind(zones, ZoneKind.EDGE, ZoneKind.POINT)
    if sharp:
        top, mouth = max(z.high for z in sharp), draft.value("mouth.y")
        over, cover = mouth - draft.value("mouth.relief") - top, settings.habit(COVER) / 2
        guard = guard_of(loft)
        if guard is not None and top <= guard.low <= mouth:  # which shuts the mouth that it rests on
            cover = min(cover, guard.low - top)
        yield Verdict(
            "Edge and point covered", at_least(over, cover, 0.0), over, cover, "mm",
            "Every edge and point lies below the mouth, scoop and all."
            + (" Raise the mouth or lessen its scoop." if over < cover else ""),
            f"at {top:.0f} mm", top, let_go("mouth.y", "mouth.relief"), Theme.FIT,
        )  # fmt: skip


def _guarded(settings: Settings, zones: Sequence[Zone], draft: Fitted) -> Iterator[Verdict]:
    triggers = of_kind(zones, ZoneKind.TRIGGER)
    if triggers:
        top, wanted = max(z.high for z in triggers), settings.number("fit.trigger")
        over = draft.value("mouth.y") - draft.value("mouth.relief") - top
        yield Verdict(
            "Trigger covered", at_least(over, wanted, wanted), over, wanted, "mm",
            "Nothing may reach the trigger while it is carried. Fit with an inert dummy or an isolated tool, never a "
            "live one; a hand-made holster's hold is not certified; check your local law."
            + (" Raise the mouth or lessen its scoop." if over < wanted else ""),
            f"at {top:.0f} mm", top, let_go("mouth.y", "mouth.relief"), Theme.FIT,
        )  # fmt: skip


def _free(settings: Settings, zones: Sequence[Zone], draft: Fitted) -> Iterator[Verdict]:
    for zone in of_kind(zones, ZoneKind.CONTROL):
        wanted = settings.number("fit.control")
        free = zone.low - draft.value("mouth.y")
        yield Verdict(
            "Control left free", at_least(free, wanted, 0.0), free, wanted, "mm",
            "A button, aerial or lens must not lie under leather."
            + (" Lower the mouth below it, or choose a construction open there." if free < wanted else ""),
            f"at {zone.low:.0f} mm", zone.low, let_go("mouth.y"), Theme.FIT,
        )  # fmt: skip


def _grip(settings: Settings, loft: Loft, zones: Sequence[Zone], draft: Fitted) -> Iterator[Verdict]:
    grips = of_kind(zones, ZoneKind.GRIP)
    if grips:
        top = min(max(z.high for z in grips), loft.top)
        fingers, wanted = (top - draft.value("mouth.y")) / settings.habit(FINGER), settings.habit(FINGERS)
        yield Verdict(
            "Grip free for the hand", at_least(fingers, wanted - 0.05, 2.0), fingers, wanted, "fingers",
            "Two to three fingers must close on the grip to draw."
            + (" Lower the mouth." if fingers < wanted - 0.05 else ""),
            f"above {draft.value('mouth.y'):.0f} mm", draft.value("mouth.y"), let_go("mouth.y"), Theme.FIT,
        )  # fmt: skip


def _pushed_out(loft: Loft, draft: Fitted) -> Iterator[Verdict]:
    """Whether leather that stands up behind, above the mouth, has what sticks out of the case in its way."""
    of_back = [draft.reasons[key].value for key in ("back.above", "back.tab") if key in draft.reasons]
    stands = max([*of_back, draft.loop.rise.value if draft.loop is not None else 0.0])
    if stands <= 0:
        return
    y, further, leans = pushed_out(loft, draft.value("mouth.y"), stands, draft.value("seam.first_hole"))
    k, limit = int(leans.argmax()), draft.value("fit.approach")
    lean = float(leans[k])
    if lean > UPRIGHT:
        yield Verdict(
            "What stands behind is not pushed out", at_most(lean, limit, limit + BENT), lean, limit, "°",
            f"What sticks out of the mouth is {further[k]:.1f} mm further back there than what is below it, and bends"
            " the leather behind it out from its first stitches on."
            + (" Let none stand there: hold it by another way, and sew its loop on." if lean > limit else ""),
            f"at {y[k]:.0f} mm", float(y[k]),
            (*let_go("keeper.way", "back.above", "back.tab", "loop.rise", "mouth.y"), ("loop.landing", "sewn"),
             ("loop.landing", "dangler")), Theme.FIT, ceiling=True,
            together=tuple((("keeper.way", AUTO), other) for other in OTHERWISE),
        )  # fmt: skip
