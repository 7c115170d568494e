"""Was it measured finely enough for the fit that is asked of it."""

from __future__ import annotations

import math

from tailor.core.carried.capture import Capture
from tailor.core.carried.loft import Loft
from tailor.core.checks.verdict import Verdict, at_most
from tailor.core.measure import Theme
from tailor.core.settings import Settings


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
