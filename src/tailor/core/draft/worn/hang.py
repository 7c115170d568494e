"""Hang: at what angle a case really hangs on its belt, and how hard its top is pulled away from the body.

The case with its object sits on the belt by the foot of its loop: to turn, it must climb on one end of it. So weight
within half the foot keeps it at the angle it was drafted for. Beyond, it turns about that end as far as the free play
of its loop lets it, a slot so high and as wide as the foot turning until its corners touch the belt; or until its
weight lies lowest. Source: geometry, "Hang"; statics.
"""

from __future__ import annotations

from dataclasses import replace
from functools import singledispatch

import numpy as np
import shapely

from tailor.core import habit, measure
from tailor.core.carried.loft import Loft
from tailor.core.carried.weight import Body, balanced, sheet_of, solid, together
from tailor.core.draft.draft import Carriage, Draft, Fitted, Hang
from tailor.core.measure import Theme
from tailor.core.reason import Reason, stated
from tailor.core.settings import Settings

MEASURES = (
    measure.pick("carry.side", Theme.HANG, "worn", "worn on the drawing hand's side, or across the body", "strong",
        ("strong", "cross")),
    measure.angle("carry.cant", Theme.HANG, "cant", "angle the case is to hang at, its tip towards the seam side", -60,
        60, first=True),
    measure.density("leather.density", Theme.HANG, "leather weighs", "weight of the leather", 0.3, 2, usual=0.95),
    measure.told("hang.rest", Theme.HANG, "hangs at", first=True, said=measure.degrees),
    measure.told("hang.slack", Theme.HANG, "turns on the belt", said=measure.degrees),
    measure.told("hang.foot", Theme.HANG, "steady foot"),
    measure.told("hang.away", Theme.HANG, "pulls away", said=measure.torque),
)  # fmt: skip

GUESSED = habit.stuff("object.density", 2.5, 0.8, 8, "of an object that was never weighed: wood to steel", "g/cm³")
GRAVITY = 9.81e-3  # N to the gram
BODY = {"body", "front", "back", "welt", "template"}  # pieces that the plan tells of
CAP, BRASS = 1.6, 8.5  # mm of metal in a fastening for the width of its cap, and its g/cm³
STEADY = habit.eye("hang.steady", 3.0, 1, 10, "off its drafted angle, that nobody minds", habit.ANGLE)


def slack_of(foot: float, opening: float, belt: float) -> float:
    """How far a slot `opening` high and `foot` wide turns on a belt, degrees."""
    if opening <= belt:
        return 0.0
    across = np.hypot(opening, foot)
    return float(np.degrees(np.arccos(min(belt / across, 1.0)) - np.arctan2(foot, opening)))


def foot_for(angle: float, opening: float, belt: float) -> float:
    """Foot width that lets a slot turn by no more than an angle, degrees, mm."""
    if opening <= belt:
        return 0.0
    turn = np.radians(angle)
    return max(float((opening * np.cos(turn) - belt) / np.sin(turn)), 0.0)


def rests(x: float, y: float, low: float, high: float) -> float:
    """The angle from low to high, degrees, to which a weight at (x, y) from its pivot turns: where it lies lowest."""

    def height(angle: float) -> float:
        turn = np.radians(angle)
        return float(x * np.sin(turn) + y * np.cos(turn))

    free = _free(x, y)
    return min([low, high, *([free] if low <= free <= high else [])], key=height)


def _free(x: float, y: float) -> float:
    """The angle at which a weight at (x, y) hangs straight below its pivot, degrees."""
    return float(np.degrees(np.arctan2(-x, -y)))


def hang(carriage: Carriage, whole: Body, belt: float, behind: float, steady: float) -> Hang:
    """How a case hangs. belt: its width. behind: from the belt's middle to the plane z = 0 of the case, mm. steady:
    degrees off its drafted angle that are minded by nobody.
    """
    x, y = whole.x - carriage.pivot[0], whole.y - carriage.pivot[1]
    away = whole.mass * GRAVITY * (behind + whole.z)
    if carriage.free:
        return Hang(whole, _free(x, y), 180.0, _free(x, y), carriage.cant, away, 0.0)
    slack = slack_of(carriage.foot, carriage.opening, belt)
    turn = np.radians(carriage.cant)
    seat = y - carriage.opening / 2  # the top of the loop sits on the belt
    out, up = float(x * np.cos(turn) - seat * np.sin(turn)), float(x * np.sin(turn) + seat * np.cos(turn))
    past = max(abs(out) - carriage.foot / 2, 0.0) * np.sign(out)
    more = 0.0
    if past:  # it turns about the end of its foot that the weight lies beyond
        low, high = sorted((0.0, float(-np.sign(past)) * slack))
        more = rests(float(past), up, low, high)
    wide = min(2 * abs(out), foot_for(steady, carriage.opening, belt))
    return Hang(whole, _free(x, y), slack, carriage.cant + more, carriage.cant, away, wide)


def thing(settings: Settings, loft: Loft) -> tuple[Body, tuple[Reason, ...]]:
    """The object with its mass and its balance, and where they are known from."""
    guessed = settings.habit(GUESSED)
    guess = solid(loft, guessed)
    mass = settings.settled(
        stated("object.mass", guess.mass, "g", "guessed from its size, between wood and steel; weigh it",
               volume_cm3=guess.mass / guessed)
    )  # fmt: skip
    balance = settings.settled(
        stated(
            "object.balance", guess.y, "mm", "guessed from its shape, as if all of one stuff; balance it on a finger"
        )
    )
    return balanced(loft, mass.value, balance.value), (mass, balance)


def made_up(settings: Settings, draft: Fitted) -> Body:
    """The leather of a case and all that is sewn and set on it."""
    plan, case, density = draft.plan, draft.shell, settings.number("leather.density")
    bodies = [sheet_of(plan.outline, 2 * case.leather.thickness, density), sheet_of(plan.strip, case.welt, density)]
    place = {part.name: shapely.Polygon(part.outline).centroid for part in draft.lying}
    middle = shapely.Polygon(plan.outline).centroid
    pivot = draft.carriage.pivot if draft.carriage is not None else (middle.x, middle.y)
    for piece in draft.pieces:
        if piece.name.split(" ")[0] in BODY or piece.leather == "card":
            continue
        at = place.get(piece.name)
        x, y = (at.x, at.y) if at is not None else pivot
        bodies.append(Body(piece.area * piece.thickness * piece.count * density / 1000, x, y, 0.0))
    for fitting in (f for piece in draft.pieces for f in piece.fittings):
        bodies.append(Body(weight_of_cap(fitting.cap), *pivot, 0.0))
    return together(bodies)


def weight_of_cap(wide: float) -> float:
    """What one half of a fastening weighs, g, by the width of its cap, mm."""
    return float(np.pi / 4 * wide**2 * CAP * BRASS / 1000)


@singledispatch
def hung(draft: Draft, settings: Settings) -> Draft:
    """The draft with how it hangs, its object in it; as it is where it has nothing to hang by."""
    return draft


@hung.register
def _(draft: Fitted, settings: Settings) -> Draft:
    if draft.carriage is None:
        return draft
    loft, case, belt = draft.shell.loft, draft.shell, settings.number("belt.width")
    seen = loft.sections(np.array([np.clip(draft.carriage.pivot[1], loft.tip, draft.value("mouth.y"))]))
    back = float(seen.back.max()) + case.clearance + case.leather.thickness
    leather = made_up(settings, draft)
    whole = together((thing(settings, loft)[0], leather))
    steady = settings.habit(STEADY)
    found = hang(draft.carriage, whole, belt, back + settings.number("belt.thickness") / 2, steady)
    more = {r.name: r for r in _said(found, draft.carriage, belt, steady)}
    return replace(draft, hang=found, reasons={**draft.reasons, **more})


def _said(found: Hang, on: Carriage, belt: float, steady: float) -> tuple[Reason, ...]:
    if on.free:
        return (
            stated("hang.rest", found.rest, "°", "it swings freely from its ring, its weight straight below"),
            stated("hang.away", found.away, "N·mm", "its weight hangs in front of the belt",
                   weight_g=found.whole.mass, belt=belt),
        )  # fmt: skip
    kept = abs(found.rest - found.drafted) < 1e-6
    rule = "its weight lies within the foot of its loop, which sits on the belt" if kept else (
        "its weight lies beyond the foot of its loop, so it turns as far as the belt's play lets it"
    )  # fmt: skip
    return (
        stated("hang.rest", found.rest, "°", rule, drafted=found.drafted, hanging_free=found.free, play=found.slack),
        stated("hang.slack", found.slack, "°", "until the corners of the loop touch the belt",
               foot=on.foot, opening=on.opening, belt=belt),
        stated("hang.foot", found.foot, "mm", f"within so wide a foot its weight turns it no more than {steady:g}°",
               opening=on.opening, belt=belt),
        stated("hang.away", found.away, "N·mm", "its weight hangs in front of the belt",
               weight_g=found.whole.mass, belt=belt),
    )  # fmt: skip
