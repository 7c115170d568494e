"""Plan: the made-up case seen from the front."""

from __future__ import annotations

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.body import Side, Tab
from tailor.core.draft.draft import Plan
from tailor.core.fairing import Line
from tailor.core.shell.panel import Panel


def to_plan(panel: Panel, rows: Array, x_stitch: Array, path: Array, flat: Array) -> Array:
    """Flat points of the front to where they are seen, (n, 2).

    Over the welt the leather is level, so on rows above the tip a point keeps its distance from the stitch.
    """
    shift = np.interp(flat[:, 1], rows, x_stitch - path)
    seen = np.column_stack([flat[:, 0] + shift, flat[:, 1]])
    past = flat[:, 1] < rows[0]
    if past.any():
        seen[past] = panel.to_plan(flat[past], "front")
    return seen


def plan(
    panel: Panel, rows: Array, x_stitch: Array, path: Array, front: Side, inner: Line,
    mouth: float, brim: Array, on: Tab | None,
) -> Plan:  # fmt: skip
    """The case as it is seen from the front. brim: the scooped mouth on the flat, (n, 2)."""
    lines = [inner.dense(0, inner.length, 2.0), front.line.dense(0, front.line.length, 2.0), front.cut[::3]]
    lines[2] = np.vstack([lines[2], front.cut[-1:]])
    joined = to_plan(panel, rows, x_stitch, path, np.vstack(lines))
    welt, stitch, cut = np.split(joined, np.cumsum([len(part) for part in lines])[:-1])
    at_mouth = panel.wrap(np.array([mouth]))
    x = at_mouth.front.along(0, brim[:, 0])[:, 0]
    edge = np.vstack([np.column_stack([x, brim[:, 1]]), [cut[0, 0], mouth]])
    loop = None
    if on is not None:
        fold = float(at_mouth.x_fold[0])
        left, right = fold - on.right, fold - on.left
        low, high = min(on.back_rows) - 6.0, on.begins + 3.0
        loop = np.array([[left, low], [right, low], [right, high], [left, high]])
    fold_line = np.vstack([cut[-1:], np.column_stack([panel.wrapped.x_fold, panel.rows])])
    outline = np.vstack([cut, fold_line, edge])
    return Plan(welt, stitch, cut, edge, outline, np.vstack([welt, cut[::-1]]), fold_line, loop)
