"""Hang: at what angle a case really hangs on its belt, and how hard its top is pulled away from the body.

The case with its object is a pendulum on the belt. Its loop holds it square to the belt but for the free play: a slot
so high and as wide as the foot turns until its corners touch the belt. Within that it turns until its weight lies
lowest. Source: geometry, "Hang"; statics.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from tailor.core.carried.loft import Loft
from tailor.core.carried.weight import Body, balanced, sheet_of, solid, together
from tailor.core.draft.draft import Carriage, Fitted, Hang, Plan
from tailor.core.reason import Reason, stated
from tailor.core.settings import Settings

GUESSED = 2.5  # g/cm³: an object that was never weighed, somewhere between wood and steel
GRAVITY = 9.81e-3  # N to the gram
STEADY = 3.0  # degrees off its drafted angle that nobody minds


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


def hang(carriage: Carriage, whole: Body, belt: float, behind: float) -> Hang:
    """How a case hangs. belt: its width. behind: from the belt's middle to the plane z = 0 of the case, mm."""
    x, y = whole.x - carriage.pivot[0], whole.y - carriage.pivot[1]
    slack = 180.0 if carriage.free else slack_of(carriage.foot, carriage.opening, belt)
    rest = _free(x, y) if carriage.free else rests(x, y, carriage.cant - slack, carriage.cant + slack)
    away = whole.mass * GRAVITY * (behind + whole.z)
    return Hang(whole, _free(x, y), slack, rest, carriage.cant, away, foot_for(STEADY, carriage.opening, belt))


def thing(settings: Settings, loft: Loft) -> tuple[Body, tuple[Reason, ...]]:
    """The object with its mass and its balance, and where they are known from."""
    guess = solid(loft, GUESSED)
    mass = settings.settled(
        stated("object.mass", guess.mass, "g", "guessed from its size, between wood and steel; weigh it",
               volume_cm3=guess.mass / GUESSED)
    )  # fmt: skip
    balance = settings.settled(
        stated(
            "object.balance", guess.y, "mm", "guessed from its shape, as if all of one stuff; balance it on a finger"
        )
    )
    return balanced(loft, mass.value, balance.value), (mass, balance)


def made_up(settings: Settings, plan: Plan, thickness: float, welt: float) -> Body:
    """The leather of a case. thickness: of front and of back; welt: height of its layers together. mm."""
    density = settings.number("leather.density")
    return together((sheet_of(plan.outline, 2 * thickness, density), sheet_of(plan.strip, welt, density)))


def hung(settings: Settings, draft: Fitted) -> Fitted:
    """The draft with how it hangs, its object in it; as it is where it has nothing to hang by."""
    if draft.carriage is None:
        return draft
    loft, case, belt = draft.shell.loft, draft.shell, settings.number("belt.width")
    seen = loft.sections(np.array([np.clip(draft.carriage.pivot[1], loft.tip, draft.value("mouth.y"))]))
    back = float(seen.back.max()) + case.clearance + case.leather.thickness
    leather = made_up(settings, draft.plan, case.leather.thickness, case.welt)
    whole = together((thing(settings, loft)[0], leather))
    found = hang(draft.carriage, whole, belt, back + settings.number("belt.thickness") / 2)
    more = {r.name: r for r in _said(found, draft.carriage, belt)}
    return replace(draft, hang=found, reasons={**draft.reasons, **more})


def _said(found: Hang, on: Carriage, belt: float) -> tuple[Reason, ...]:
    if on.free:
        return (
            stated("hang.rest", found.rest, "°", "it swings freely from its ring, its weight straight below"),
            stated("hang.away", found.away, "N·mm", "its weight hangs in front of the belt",
                   weight_g=found.whole.mass, belt=belt),
        )  # fmt: skip
    at_rest = abs(found.rest - found.free) < 1e-6
    rule = "its weight hangs straight below the belt" if at_rest else "it turns as far as the belt's play lets it"
    return (
        stated("hang.rest", found.rest, "°", rule, drafted=found.drafted, hanging_free=found.free, play=found.slack),
        stated("hang.slack", found.slack, "°", "until the corners of the loop touch the belt",
               foot=on.foot, opening=on.opening, belt=belt),
        stated("hang.foot", found.foot, "mm", f"a foot so wide turns by no more than {STEADY:g}°",
               opening=on.opening, belt=belt),
        stated("hang.away", found.away, "N·mm", "its weight hangs in front of the belt",
               weight_g=found.whole.mass, belt=belt),
    )  # fmt: skip
