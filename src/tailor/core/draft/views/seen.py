"""Seen: a draft as it will look made up, from the front, from behind or on its edge."""

from __future__ import annotations

from enum import StrEnum

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Fitted
from tailor.core.shell.panel import Panel
from tailor.core.shell.relief import Relief, edge_on, over
from tailor.core.shell.run import Run, level, of_chain
from tailor.core.shell.wrap import Chain

STEP = 0.5  # mm between points of the picture


class Eye(StrEnum):
    FRONT = "from the front"
    BEHIND = "from behind"
    EDGE = "on its edge"


def seen(draft: Fitted, eye: Eye, step: float = STEP) -> Relief:
    """The case and its object as heights towards the eye, mm, drawn for the right hand."""
    case = draft.shell
    leather = case.leather
    skin = leather.thickness - leather.offset
    rows, front, back, plane, ridge = _runs(draft)
    floor = draft.stack.height / 2 - leather.thickness  # the welt's face over the middle of the stack
    if eye is Eye.EDGE:
        edge = _edge(draft, rows)
        middle = -plane + floor if case.flat_back else 0.0
        half = draft.stack.height / 2
        return edge_on(
            case.loft, rows, front[0], None if back is None else back[0], edge,
            (case.welt if plane else floor) + leather.offset, skin, plane, (middle - half, middle + half), step,
        )  # fmt: skip
    if eye is Eye.FRONT or back is not None:
        runs = front if eye is Eye.FRONT or back is None else back
        return over(
            case.loft, rows, runs, ridge, draft.plan.outline, skin, plane if eye is Eye.FRONT else 0.0,
            eye is Eye.FRONT, step,
        )  # fmt: skip
    n = len(rows)
    flat = level(np.full(n, -1e3), np.full(n, leather.offset + plane))
    return over(case.loft, rows, (flat, None), None, draft.plan.outline, skin, 0.0, False, step)


Sides = tuple[Run, Run | None]


def _runs(draft: Fitted) -> tuple[Array, Sides, Sides | None, float, float | None]:
    """Rows, the formed leather of front and back at them, how far the flat back lies behind, and the ridge."""
    case = draft.shell
    foot = float(draft.plan.outline[:, 1].min())
    if isinstance(case, Panel):
        rows = np.concatenate([np.linspace(foot, case.loft.tip, 9)[:-1], case.rows])
        wrapped = case.wrap(rows)
        front, back = (of_chain(s) if isinstance(s, Chain) else s for s in (wrapped.front, wrapped.back))
        return rows, (front, None), (back, None), 0.0, None
    back_ = None if case.flat_back else (case.back.right, case.back.left)
    return (
        case.formed_rows,
        (case.front.right, case.front.left),
        back_,
        case.plane,
        float(case.ridge(np.array([case.loft.tip]))[0]),
    )


def _edge(draft: Fitted, rows: Array) -> Array:
    """x of the cut edge on the seam side at rows (n,)."""
    cut = draft.plan.cut
    down = cut[: int(cut[:, 1].argmin()) + 1][::-1]
    return np.asarray(np.interp(rows, down[:, 1], down[:, 0]))
