"""Panels: every panel of a draft formed and flat, also those of a folded sheet, which is cut row by row."""

from __future__ import annotations

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.shell.formed import Formed, chords
from tailor.core.shell.panel import Panel

SHORT = 0.6  # mm above the foot of the cut line at which a panel ends


def panels(draft: Draft, rowed: bool = False) -> tuple[Formed, ...]:
    """The formed panels, front first. Of a folded sheet front and back each end at the fold.

    rowed: one that is cut row by row is not flattened besides.
    """
    case, plan = draft.shell, draft.plan
    if draft.formed or plan is None or not isinstance(case, Panel):
        return draft.formed
    cut = plan.cut[::-1]
    rising = np.maximum.accumulate(cut[:, 1]) + 1e-9 * np.arange(len(cut))
    return case.panels(lambda y: np.interp(y, rising, cut[:, 0]), float(cut[0, 1]) + SHORT, rowed)


def as_cut(draft: Draft, panel: Formed) -> Array:
    """Where the places of a panel lie on the leather as it is cut, (r, c, 2): a folded sheet's row by row."""
    case = draft.shell
    if not isinstance(case, Panel) or case.whole:
        return panel.uv
    return np.stack([chords(panel.places, panel.middle), panel.places[:, :, 1]], axis=2)
