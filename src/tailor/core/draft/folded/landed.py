"""Landed: where the loop out of a folded sheath's back comes down on it, told by the back as it is formed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Fitted
from tailor.core.draft.fitted.faces import Face, face
from tailor.core.draft.fitted.lying import over_the_belt
from tailor.core.draft.piece import Piece
from tailor.core.draft.worn.roomy import BESIDE, FINE, lacking, through
from tailor.core.errors import InputError
from tailor.core.placed.lies import UP, each
from tailor.core.placed.sewn import adrift, brought
from tailor.core.shell.panel import Panel

LEVEL = np.cos(np.radians(40.0))  # of the angle between the loop and the back under it, where a row is sewn well
ONE = 0.1  # mm between two holes of a row that lie on one spot
AROUND = 6.0, 3.0  # mm of loop that is seen below its last row, and above where its fold begins


def landed(draft: Fitted, seams: tuple[str, str]) -> Fitted:
    """The draft with the loop's rows on its back where the loop, which hangs straight, comes to lie.

    A back that goes out and in between the mouth and the rows is longer there than the loop is, and what stands above
    one another on the body does not lie above one another on the leather. seams: names of its rows, the upper first.
    Raises InputError where they do not lie on the back.
    """
    loop, tab = draft.loop, draft.tab
    if loop is None or tab is None:
        return draft
    if not draft.lies:  # a rough one: where it would be if the back were plane
        ends = -np.array([(tab.left, -draft.top), (tab.right, -draft.top)])
        assert isinstance(draft.shell, Panel)
        return _seen(draft, draft.shell.to_plan(ends, "back")[:, 0])
    back = face(draft, "back")
    root = draft.lies["body"](np.column_stack([tab.places, np.full(len(tab.places), tab.begins)])).at
    across = float(root[:, 0].mean()) - (tab.places - tab.middle)
    old = [np.column_stack([tab.places, np.full(len(tab.places), v)]) for v in tab.back_rows]

    def tried(at: Array) -> tuple[Array, Fitted]:
        rows = _rows(tab.places, across + at[:, :1], at[:, 1], back, draft.top)
        if min(float(np.hypot(*np.diff(row, axis=0).T).min()) for row in rows) < ONE:
            raise InputError(
                f"the rows of a loop {tab.width:.1f} mm wide reach round the fold of the back", "loop.width",
                "make it narrower, or set loop.landing to none",
            )  # fmt: skip
        moved = dict(zip(seams, zip(old, rows, strict=True), strict=True))
        pieces = tuple(_with(p, moved) if p.name == "body" else p for p in draft.pieces)
        made = over_the_belt(replace(draft, pieces=pieces), seams)
        body, lie = made.piece("body"), made.lies["body"]
        over = each(lie, [body.holes_of(seam, edge) for edge in ("tab", "back") for seam in seams])
        return np.array([adrift(own, under)[:2] for own, under in zip(over[:2], over[2:], strict=True)]), made

    at, made = brought(tried, np.column_stack([np.zeros(2), tab.back_rows]))  # how far aside each row is, its height
    sides = draft.lies["body"](np.array([(tab.left, draft.top), (tab.right, draft.top)])).at[:, 0]
    return _seen(replace(made, tab=replace(tab, back_rows=(float(at[0, 1]), float(at[1, 1])))), sides)


def astray(draft: Fitted, seams: tuple[str, str]) -> float:
    """How far along the leather the loop's holes lie from those they are sewn to, at the worst, mm; without end where
    they lie on a step of the back, and 0 where there is no loop, or it is not told where it lies.
    """
    if draft.tab is None or "body" not in draft.lies:
        return 0.0
    body, lie = draft.piece("body"), draft.lies["body"]
    placed = each(lie, [body.holes_of(seam, edge) for edge in ("tab", "back") for seam in seams])
    worst = 0.0
    for own, under in zip(placed[:2], placed[2:], strict=True):
        off = own.at - under.at
        off = off - (off * under.out).sum(axis=1, keepdims=True) * under.out
        worst = max(worst, float(np.linalg.norm(off, axis=1).max()))
        if np.abs((own.out * under.out).sum(axis=1)).min() < LEVEL:
            return np.inf
    return worst


def lacks(draft: Fitted, belt: tuple[float, float]) -> float:
    """By how much the room between a loop and its back, as both lie, is too shallow for a belt so wide and thick to go
    through flat, mm; 0 where it is not, where there is no loop, or it is not told where it lies.
    """
    if draft.loop is None or draft.tab is None or "body" not in draft.lies or min(draft.tab.back_rows) >= draft.top:
        return 0.0
    tab, half, top = draft.tab, draft.leather.thickness / 2, draft.top
    rises = np.arange(top, tab.crest, FINE), np.arange(tab.crest, tab.begins + draft.loop.turned, FINE)
    lines = [(tab.middle + aside, rise) for aside in BESIDE * tab.width for rise in rises]
    legs = each(draft.lies["body"], [np.column_stack([np.full(len(rise), at), rise]) for at, rise in lines])
    over_it, behind = legs[::2], face(draft, "back")

    def back(at: Array, which: NDArray[np.intp]) -> Array:
        """The back's outer face; above the mouth that of the loop on its way up."""
        high = -behind.out(np.column_stack([at[:, 0], np.minimum(at[:, 1], top)]))
        for k, leg in enumerate(over_it):
            above = (which == k) & (at[:, 1] > top)
            high[above] = np.interp(at[above, 1], leg.at[:, 1], leg.at[:, 2] - through(leg, half))
        return high

    return lacking(legs[1::2], half, UP[:2], back, belt)


def _seen(draft: Fitted, sides: Array) -> Fitted:
    """The draft with its loop as it is seen from the front. sides: x of its sides, (2,), mm."""
    assert draft.tab is not None
    low, high = min(draft.tab.back_rows) - AROUND[0], draft.tab.begins + AROUND[1]
    left, right = float(sides.min()), float(sides.max())
    outline = np.array([[left, low], [right, low], [right, high], [left, high]])
    return replace(draft, plan=replace(draft.plan, loop=outline))


def _rows(places: Array, x: Array, heights: Array, back: Face, mouth: float) -> list[Array]:
    """Rows at heights, (k,): on the back at x (k, n) as seen from the front; above the mouth on the loop itself."""
    free = [np.column_stack([places, np.full(len(places), v)]) for v in heights]
    on_back = [k for k, v in enumerate(heights) if v < mouth]
    if on_back:
        seen = [np.column_stack([x[k], free[k][:, 1]]) for k in on_back]
        for k, row in zip(on_back, back.strips(seen), strict=True):
            free[k] = row
    return free


def _with(body: Piece, moved: Mapping[str, tuple[Array, Array]]) -> Piece:
    """The body with rows of stitches on its back where they belong."""
    holes = list(body.holes)
    for seam, (_, new) in moved.items():
        at = iter(new)
        for k, hole in enumerate(holes):
            if hole.seam == seam and hole.edge == "back":
                x, y = next(at)
                holes[k] = replace(hole, x=float(x), y=float(y))
    lines = [next((new for was, new in moved.values() if np.array_equal(was, line)), line) for line in body.stitch]
    return replace(body, holes=tuple(holes), stitch=tuple(lines))
