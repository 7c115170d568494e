"""Was it measured finely enough for the fit that is asked of it, and is enough known of its leather."""

from __future__ import annotations

import math

from tailor.core.carried.capture import Capture
from tailor.core.carried.loft import Loft
from tailor.core.checks.verdict import Ruling, Verdict, at_most
from tailor.core.draft.draft import Draft
from tailor.core.leather.leather import NEUTRAL_OFF
from tailor.core.measure import Theme
from tailor.core.settings import Settings

SURE = 1.64  # spreads that nine of ten keep within


def known(settings: Settings, made: Draft) -> list[Verdict]:
    """Is enough known of the leather for the fit that is asked of it; nothing where it is, or where it matters not."""
    if made.shell is None or not made.folds or made.wet or "leather.neutral" in settings:
        return []
    learned = settings.learned("leather.neutral")
    room, spread = settings.number("fit.clearance"), NEUTRAL_OFF if learned is None else learned.sd
    off = SURE * spread * settings.number("leather.thickness")
    if off <= room:
        return []
    by = f"learned from {learned.cases} of yours" if learned else "by the table, which no case of yours bears out yet"
    wider = math.ceil(off * 10) / 10
    return [Verdict(
        "Leather known finely enough", Ruling.LOOK, off, room, "mm",
        f"Where this leather bends is known to ± {spread:.2f} of its thickness, {by}: the fit is finer than that. "
        f"Try it on a mock-up of this leather, measure what comes out and write it up, or give {wider:g} mm of room.",
        "body", made.low, (("fit.clearance", f"{wider:g}mm"),), Theme.FIT, ceiling=True,
    )]  # fmt: skip


def verdict(settings: Settings, capture: Capture, loft: Loft) -> Verdict:
    """The room round the object against how true its measurements are."""
    room, off = settings.number("fit.clearance"), capture.accuracy
    wider = math.ceil(off * 10) / 10
    advice = f" Measure again more finely, or give {wider:g} mm of room." if off > room else ""
    return Verdict(
        "Measured finely enough", at_most(off, room, math.inf), off, room, "mm",
        f"Measured by {capture.way.value} to ± {off:.2f} mm; the room round it should be no less." + advice,
        "object", loft.tip, (("fit.clearance", f"{wider:g}mm"),), Theme.FIT, ceiling=True,
    )  # fmt: skip
