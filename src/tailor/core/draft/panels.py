"""Panels: every panel of a draft formed and flat, also those of a folded sheet, which is cut row by row."""

from __future__ import annotations

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Fitted
from tailor.core.shell.formed import Formed, chords
from tailor.core.shell.panel import Panel

SHORT = 0.6  # mm above the foot of the cut line at which a panel ends


def panels(draft: Fitted) -> tuple[Formed, ...]:
    """The formed panels, front first. Of a folded sheet front and back each end at the fold."""
    case = draft.shell
    if draft.formed or not isinstance(case, Panel):
        return draft.formed
    cut = draft.plan.cut[::-1]
    rising = np.maximum.accumulate(cut[:, 1]) + 1e-9 * np.arange(len(cut))
    return case.panels(lambda y: np.interp(y, rising, cut[:, 0]), float(cut[0, 1]) + SHORT)


def as_cut(draft: Fitted, panel: Formed) -> Array:
    """Where the places of a panel lie on the leather as it is cut, (r, c, 2): a folded sheet's row by row."""
    case = draft.shell
    if not isinstance(case, Panel) or case.whole:
        return panel.uv
    y = panel.places[:, :, 1]
    u = chords(panel.places, panel.middle)
    if case.pressed is not None:
        short = (1 - case.moulding.shrink) * case.pressed.share(y[:, 0])
        u = u - short[:, None] * panel.over
    return np.stack([u, y], axis=2)


def disagreement(draft: Fitted, panel: Formed) -> float:
    """Greatest distance between the leather as it is cut and as it flattens, once slid along the fold, mm."""
    apart = as_cut(draft, panel) - panel.uv
    apart[:, :, 1] -= np.median(apart[:, :, 1])
    return float(np.hypot(apart[:, :, 0], apart[:, :, 1])[:, panel.middle :].max())
