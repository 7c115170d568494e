"""Panels: every panel of a draft formed and flat, also those of a folded sheet, which is cut row by row."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Fitted
from tailor.core.shell.formed import Formed, chords, formed, half
from tailor.core.shell.panel import Panel
from tailor.core.shell.run import of_chain
from tailor.core.shell.wrap import Chain

PAST = 8  # rows past the tip


def panels(draft: Fitted) -> tuple[Formed, ...]:
    """The formed panels, front first. Of a folded sheet front and back each end at the fold."""
    case = draft.shell
    if not isinstance(case, Panel):
        return draft.formed
    cut = draft.plan.cut[::-1]
    past = np.linspace(float(cut[0, 1]) + 0.6, case.loft.tip, PAST + 1)[:-1]
    rows = np.concatenate([past, case.rows])
    edge = np.interp(rows, cut[:, 1], cut[:, 0])
    wrapped = case.wrap(rows)
    found: list[Formed] = []
    for side, line in (("front", wrapped.front), ("back", wrapped.back)):
        if side == "back" and line is wrapped.front:
            return found[0], replace(found[0], side="back")
        run = of_chain(line) if isinstance(line, Chain) else line
        found.append(formed(side, half(run, rows, edge), None, case.moulding.stretch, draft.value("mouth.y")))
    return tuple(found)


def as_cut(draft: Fitted, panel: Formed) -> Array:
    """Where the places of a panel lie on the leather as it is cut, (r, c, 2): a folded sheet's row by row."""
    case = draft.shell
    if not isinstance(case, Panel):
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
