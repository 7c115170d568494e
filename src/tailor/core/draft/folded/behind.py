"""Behind: how the back of a folded sheath lies where the loop out of it stands, told by its panel."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.folded import body as bodies
from tailor.core.draft.worn.carry import standing_out
from tailor.core.shell.panel import Panel

ASIDE = np.tan(np.radians(70.0))  # steepness over which leather looks aside, and not back
SOUGHT, ALONG = 7, 0.2  # halvings by which that is looked for; mm


def looks_back(panel: Panel) -> Array:
    """How far from the fold the back of a thick object no longer looks aside, at each of its panel's rows (n,), mm."""
    line, deep = panel.wrapped.side("back"), float(panel.loft.sizes(panel.rows)[:, 3].max())
    least = np.zeros(len(panel.rows))
    most = np.full(len(panel.rows), deep + panel.clearance + panel.leather.quarter_bend)
    for _ in range(SOUGHT):
        middle = (least + most) / 2
        x, z = (line.point_at(middle + ALONG) - line.point_at(middle)).T
        aside = np.abs(z) > ASIDE * x
        least, most = np.where(aside, middle, least), np.where(aside, most, middle)
    return most


def ridges(panel: Panel, own: Array) -> tuple[Array, list[Array]]:
    """Where lines straight down the back are that leave its mouth at u (k,), and how far out it is along each: x (k,),
    and (n,) each at the panel's rows, mm.
    """
    line = panel.wrapped.side("back")
    x = panel.to_plan(np.column_stack([-own, np.full(len(own), panel.mouth)]), "back")[:, 0]
    return x, [line.point_at(line.length_to(np.full(len(panel.rows), at)))[:, 1] for at in x]


def stands_under(
    panel: Panel, tab: bodies.Tab, opening: float, ridges: Callable[..., tuple[Array, list[Array]]]
) -> float:
    """By how much the back stands out under a loop; above its mouth it goes straight on, mm. ridges: as `ridges`."""
    if min(tab.back_rows) >= panel.mouth:
        return 0.0
    x, high = ridges(tab.right, tab.middle, tab.left)

    def out(seen: Array) -> Array:
        return np.stack([np.interp(seen[k::3, 1], panel.rows, high[k]) for k in range(3)], axis=1).ravel()

    lands = max(tab.back_rows) + tab.inset
    upper, lower = (np.column_stack([x, np.full(3, v)]) for v in (tab.begins, lands))
    return standing_out(out, upper, lower, (0.0, opening))
