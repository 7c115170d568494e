"""Will its keeper or its flap close: beside the controls, over the edge, with a button that can be reached."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from tailor.core import habit
from tailor.core.carried.zones import Zone, ZoneKind, of_kind
from tailor.core.checks.verdict import Ruling, Verdict, at_least, at_most, let_go
from tailor.core.draft.draft import Fitted
from tailor.core.measure import Theme
from tailor.core.settings import Settings

OVERLAP = habit.bench("keeper.least_lap", 20.0, 12, 40, "that a keeper's ends lie on one another, for a button")
TAB = habit.hand("keeper.least_tab", 8.0, 5, 25, "strap that two fingers can take hold of")

ACROSS = 19  # places across a keeper at which it is looked how far round it goes
UNEVEN, TIGHT = 6.0, 15.0  # mm of girth that a keeper may be short of somewhere: what leather gives; what it never does


def verdicts(settings: Settings, zones: Sequence[Zone], draft: Fitted) -> Iterator[Verdict]:
    """Verdicts on what closes the case; none where nothing does."""
    said = draft.reasons
    if "keeper.length" in said:
        at = draft.value("keeper.at") if "keeper.at" in said else draft.value("mouth.y")
        yield _tab(settings, at)
        if "keeper.at" in said:
            half = draft.value("keeper.width") / 2
            yield _lap(settings, at)
            yield _even(draft, at, half)
            yield from _beside(settings, zones, at - half, at + half, "keeper", "keeper.at")
    for name in ("keeper", "flap"):
        if f"{name}.foot" in said:
            yield from _beside(settings, zones, draft.value("mouth.y"), draft.shell.loft.top, name, f"{name}.width")


def _tab(settings: Settings, y: float) -> Verdict:
    tab = settings.number("keeper.tab")
    return Verdict(
        "Finger's tab on the keeper", at_least(tab, settings.habit(TAB), 0.0), tab, settings.habit(TAB), "mm",
        "The strap goes on beyond its button, so that a gloved finger can pull it open."
        + (" Leave more." if tab < settings.habit(TAB) else ""), "keeper", y, let_go("keeper.tab"), Theme.BELT,
    )  # fmt: skip


def _lap(settings: Settings, y: float) -> Verdict:
    overlap = settings.habit(OVERLAP)
    lap = settings.number("keeper.overlap")
    return Verdict(
        "Ends of the keeper overlap", at_least(lap, overlap, overlap / 2), lap, overlap, "mm",
        "The button wants leather round it on both ends.", "keeper", y, let_go("keeper.overlap"), Theme.BELT,
    )  # fmt: skip


def _even(draft: Fitted, at: float, half: float) -> Verdict:
    """A strap that lies half on a guard or a step is only as long as the girth at its middle."""
    loft = draft.shell.loft
    girths = loft.sections(np.append(at, np.linspace(at - half, min(at + half, loft.top), ACROSS))).girth()
    more = float(girths.max() - girths[0])
    return Verdict(
        "Keeper lies even", at_most(more, UNEVEN, TIGHT), more, UNEVEN, "mm",
        "All its breadth goes round as much as its middle does."
        + (" Move it, or let it find its place, clear of what stands out there." if more > UNEVEN else ""),
        "keeper", at, let_go("keeper.at", "back.above", "loop.rise", "mouth.y", "keeper.way"), Theme.BELT, ceiling=True,
    )  # fmt: skip


def _beside(
    settings: Settings, zones: Sequence[Zone], low: float, high: float, what: str, key: str
) -> Iterator[Verdict]:
    """A strap across a control presses it, or hides it."""
    keep = settings.number("fit.control")
    for zone in of_kind(zones, ZoneKind.CONTROL):
        apart = max(zone.low - high, low - zone.high)
        yield Verdict(
            f"Control clear of the {what}", Ruling.OK if apart >= keep else Ruling.LOOK, apart, keep, "mm",
            f"A {what} that lies on a button presses it; on a lens or an aerial, hides it."
            + (" See that it passes beside, or move it." if apart < keep else ""),
            f"{zone.low:g} to {zone.high:g} mm", zone.high, let_go(key), Theme.BELT,
        )  # fmt: skip
