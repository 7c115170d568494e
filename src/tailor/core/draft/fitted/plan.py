"""Plan: the made-up case seen from the front."""

from __future__ import annotations

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Plan
from tailor.core.draft.folded.flat import LaidFlat
from tailor.core.shell.panel import Panel


def plan(panel: Panel, flat: LaidFlat, mouth: float, brim: Array) -> Plan:
    """The case as it is seen from the front. brim: the scooped mouth on the flat, (n, 2)."""
    welt, stitch, cut = flat.seen
    at_mouth = panel.wrap(np.array([mouth]))
    x = at_mouth.front.along(0, brim[:, 0])[:, 0]
    edge = np.vstack([np.column_stack([x, brim[:, 1]]), [cut[0, 0], mouth]])
    fold_line = np.vstack([cut[-1:], np.column_stack([panel.wrapped.x_fold, panel.rows])])
    outline = np.vstack([cut, fold_line, edge])
    return Plan(welt, stitch, cut, edge, outline, np.vstack([welt, cut[::-1]]), fold_line)
