"""Will it ride on the belt: room for the belt, a foot that does not tilt, rows clear of the seam."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely
from shapely.geometry import LineString

from tailor.core.checks.verdict import Ruling, Verdict, at_least, let_go
from tailor.core.draft.draft import Draft
from tailor.core.settings import Settings

EASY = 1.5  # mm of play with which a belt goes through
FOOT = 25.0  # mm of loop along the belt, below which a case tilts


def verdicts(settings: Settings, draft: Draft) -> Iterator[Verdict]:
    """Verdicts on the belt loop; none where there is no loop."""
    loop, tab = draft.loop, draft.tab
    if loop is None or tab is None:
        return
    mouth = draft.value("mouth.y")
    belt = settings.number("belt.width")
    play = loop.opening - belt
    yield Verdict(
        "Belt goes through the loop", at_least(play, EASY, 0.5), play, EASY, "mm",
        "A belt wants a little play; without it, it must be forced.", "loop", mouth, let_go("loop.play"),
    )  # fmt: skip
    wide = min(FOOT, 0.6 * belt)
    yield Verdict(
        "Loop is wide enough not to tilt", at_least(loop.width.value, wide, wide / 2), loop.width.value, wide, "mm",
        "A narrow foot on the belt lets the case swing."
        + (" Make the loop wider." if loop.width.value < wide else ""), "loop", mouth, let_go("loop.width"),
    )  # fmt: skip
    margin = draft.value("seam.margin")
    corners = np.array([(abs(u), v) for v in tab.back_rows for u in (tab.places[0], tab.places[-1])])
    apart = shapely.distance(shapely.points(corners), LineString(draft.back.line.points))
    if settings.word("loop.landing") == "back":
        yield Verdict(
            "Loop rows clear of the seam", at_least(float(apart.min()), margin, margin / 2), float(apart.min()),
            margin, "mm", "Rows too near the seam leave no room for glue and awl.",
            f"at {min(tab.back_rows):.0f} mm", min(tab.back_rows), let_go("loop.width", "loop.rise"),
        )  # fmt: skip
    yield _landing(settings, draft, mouth, margin)


def _landing(settings: Settings, draft: Draft, mouth: float, margin: float) -> Verdict:
    """The rows must lie wholly on the back, or wholly on the loop beside the handle."""
    assert draft.tab is not None
    high, low = max(draft.tab.back_rows), min(draft.tab.back_rows)
    if settings.word("loop.landing") == "handle":
        spare = low - margin - mouth
    else:
        spare = min(mouth - high - 3.0, low - margin - (draft.shell.loft.tip - draft.value("seam.toe")))
    ruling = Ruling.OK if spare >= -1e-6 else Ruling.STOP
    return Verdict(
        "Loop lands on leather", ruling, spare, 0.0, "mm",
        "Both rows and the loop's end must lie on one piece of leather."
        + (" Change the rise, or use a narrower belt." if spare < 0 else ""),
        f"at {low:.0f} to {high:.0f} mm", high, let_go("loop.rise"),
    )  # fmt: skip
