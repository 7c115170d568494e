"""The mouth: how high it stands, how it is scooped, and its edge."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from tailor.core import habit, measure
from tailor.core.carried.guard import guard_of
from tailor.core.carried.loft import Array, Loft
from tailor.core.carried.zones import Zone, ZoneKind, of_kind
from tailor.core.errors import InputError
from tailor.core.measure import Along, Theme
from tailor.core.reason import Reason, stated
from tailor.core.settings import Settings

MEASURES = (
    measure.length("mouth.y", Theme.MOUTH, "mouth", "height of the mouth on the object", -1e4, 1e4, first=True,
        at=(Along.MOUTH, 0.0)),
    measure.length("mouth.relief", Theme.MOUTH, "scoop", "depth of the scoop in the front of the mouth", 0, 60,
        first=True, at=(Along.MOUTH, 0.5)),
)  # fmt: skip

FINGER = habit.hand("hand.finger", 19.0, 14, 25, "width of a finger")
FINGERS = habit.bench(
    "hand.fingers", 3.0, 2, 4, "a finger's width, that a hand wants of the grip to draw by", habit.TIMES
)
HOLD = habit.bench("mouth.holds", 28.0, 15, 45, "grip that the mouth takes in, to hold by")
COVER = habit.bench("mouth.covers", 4.0, 2, 12, "height of the mouth above an edge or a point")
RELIEF = habit.eye("mouth.scoop", 5.0, 2, 12, "of scoop at the mouth, where nothing sharp comes up to it")
TAKEN, THUMB = 1 / 6, 15.0  # share of an object left out to take hold of, and the least, mm
FULL = 0.995  # share of its upper half's girth down to which an object is full
SHORTEST = habit.bench("mouth.shortest", 12.0, 8, 40, "case that can be sewn at all")


CLEAR = "leaves the controls free"


def covering(sharp: Sequence[Zone], triggers: Sequence[Zone]) -> str:
    """What the mouth must cover, in words."""
    return "covers " + " and ".join(["the edge and the point"] * bool(sharp) + ["the trigger"] * bool(triggers))


def mouth_height(settings: Settings, loft: Loft, zones: Sequence[Zone]) -> Reason:
    """Where the mouth stands on the object, mm along y.

    High enough to hold and to cover every edge and point; low enough to leave three fingers of grip free. A guard comes
    to rest on it. Raises InputError when it is pinned off the object.
    """
    shortest = settings.habit(SHORTEST)
    cover = settings.habit(COVER)
    finger = settings.habit(FINGER)
    grips, stops = of_kind(zones, ZoneKind.GRIP), of_kind(zones, ZoneKind.STOP)
    sharp, triggers = of_kind(zones, ZoneKind.EDGE, ZoneKind.POINT), of_kind(zones, ZoneKind.TRIGGER)
    triggers_up_to = [z.high + settings.number("fit.trigger") for z in triggers]
    over = [z.high + cover for z in sharp] + triggers_up_to
    covered, must = max(over, default=loft.tip + cover), covering(sharp, triggers)
    controls = [z.low for z in of_kind(zones, ZoneKind.CONTROL) if z.low - settings.number("fit.control") >= covered]
    clear = min(controls, default=np.inf) - settings.number("fit.control")
    guard, sharp_up_to = guard_of(loft), max((z.high for z in sharp), default=loft.tip)
    rests = guard is not None and not closes_over(settings) and loft.tip + shortest <= guard.low < clear
    if guard is not None and rests and guard.low >= max([sharp_up_to, *triggers_up_to]):
        reason = stated("mouth.y", guard.low, "mm", "a guard comes to rest on it", top=loft.top)
    elif grips:
        grip = max(grips, key=lambda z: z.high)
        hold = max([grip.low, *(s.high for s in stops)]) + settings.habit(HOLD)
        free = grip.high - settings.habit(FINGERS) * finger
        rules = {"takes in enough of the grip to hold by": hold, "leaves three fingers of grip free": free}
        if clear < np.inf:
            rules[CLEAR] = clear
        rule = min(rules, key=lambda r: rules[r])
        if covered > rules[rule]:
            rules[must] = covered
            rule = must
        inputs = {"grip from": grip.low, "grip to": grip.high, "finger": finger}
        others = {r: v for r, v in rules.items() if r != rule}
        reason = Reason("mouth.y", min(rules[rule], loft.top), "mm", rule, inputs, others)
    elif clear < loft.top:
        reason = stated("mouth.y", clear, "mm", CLEAR, control=clear + settings.number("fit.control"))
    elif closes_over(settings):
        top = drawn_in(loft)
        reason = stated("mouth.y", top, "mm", "what closes it goes over the top, so it is covered as far as it is full",
                        top=loft.top)  # fmt: skip
    else:
        hold = float(np.clip(TAKEN * (loft.top - loft.tip), THUMB, 2 * finger))
        top = max(loft.top - hold, covered)
        rules = {"leaves something to take hold of": top, "as far as it is full": drawn_in(loft)}
        rule = min(rules, key=lambda r: rules[r])
        top = max(rules[rule], min(loft.tip + shortest, loft.top))
        reason = Reason("mouth.y", top, "mm", rule, {"top": loft.top, "a sixth, a thumb to two fingers": hold},
                        {r: v for r, v in rules.items() if r != rule})  # fmt: skip
    reason = settings.settled(reason)
    if reason.value > loft.top or reason.value < loft.tip + shortest:
        raise InputError(
            f"the mouth at {reason.value:g} mm is off the object, which runs from {loft.tip:g} to {loft.top:g} mm",
            "mouth.y",
            f"give a height between {loft.tip + shortest:g} and {loft.top:g} mm",
        )
    return reason


def closes_over(settings: Settings) -> bool:
    """Whether something goes over the top of the case or reaches into its mouth, so that nothing need stand out."""
    return (
        settings.word("flap.closing") != "none"
        or settings.word("keeper.way") == "over"
        or settings.number("back.tab") > 0
    )


def drawn_in(loft: Loft) -> float:
    """The height up to which an object is full: above it, it draws in at its own top end, mm."""
    y = np.linspace(loft.tip, loft.top, 400)
    girth = loft.sections(y).girth()
    upper = y >= (loft.tip + loft.top) / 2
    full = upper & (girth >= FULL * girth[upper].max())
    return float(y[full].max())


def relief_depth(settings: Settings, mouth: float, width: float, zones: Sequence[Zone]) -> Reason:
    """How deep the front of the mouth is scooped, mm. width: flat width of the front at the mouth."""
    sharp = [z.high for z in of_kind(zones, ZoneKind.EDGE, ZoneKind.POINT)]
    triggers = [z.high + settings.number("fit.trigger") for z in of_kind(zones, ZoneKind.TRIGGER)]
    over_edge = mouth - max(sharp, default=-np.inf) - settings.habit(COVER) / 2
    over_trigger = mouth - max(triggers, default=-np.inf)
    rules = {
        "usual scoop": settings.habit(RELIEF),
        "an eighth of the front's width": width / 8,
        "keeps the edge covered": max(over_edge, 0.0),
        "keeps the trigger covered": max(over_trigger, 0.0),
    }
    rule = min(rules, key=lambda r: rules[r])
    others = {r: float(v) for r, v in rules.items() if r != rule and np.isfinite(v)}
    return settings.settled(Reason("mouth.relief", float(rules[rule]), "mm", rule, {"width": width}, others))


def front_edge(mouth: float, span: float, relief: float) -> Array:
    """The scooped front edge from the fold (u = 0) to u = span, (n, 2): level and flowing at both ends."""
    u = np.linspace(0, span, 61)
    return np.column_stack([u, mouth - relief * np.sin(np.pi * u / span) ** 2])


def rounded(corner: Array, before: Array, after: Array, radius: float) -> Array:
    """An arc in place of a corner between two straight runs, (n, 2), from the first run to the second.

    corner, before, after: (2,) the corner and a point on each run. The arc touches both runs.
    """
    a, b = (before - corner) / np.hypot(*(before - corner)), (after - corner) / np.hypot(*(after - corner))
    half = np.arccos(np.clip(a @ b, -1, 1)) / 2
    if half < 1e-6 or np.pi / 2 - half < 1e-6:
        return corner[None, :]
    middle = (a + b) / np.hypot(*(a + b))
    centre = corner + middle * radius / np.sin(half)
    start, end = corner + a * radius / np.tan(half) - centre, corner + b * radius / np.tan(half) - centre
    first = np.arctan2(start[1], start[0])
    sweep = (np.arctan2(end[1], end[0]) - first + np.pi) % (2 * np.pi) - np.pi
    angle = first + np.linspace(0, sweep, 13)
    return np.asarray(centre + radius * np.column_stack([np.cos(angle), np.sin(angle)]))
