"""A guard: what stands out of an object between what goes into a case and the grip, and comes to rest on its mouth."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from tailor.core.carried.loft import Array, Loft

OUT, IN = 1.25, 0.75  # times the girth below it that a guard has at the least; of its own that is behind it at the most
COMES, BEHIND, BELOW = 8.0, 40.0, 0.3  # mm in which it comes out, and is in again; share of the object that is below it
GRIPPED = 40.0  # mm of grip behind it, without which it is a head
BEGUN = 0.5  # of how steeply it comes out in the mean, that it begins with
NEAR = 24.0  # mm below it down to which a strap above the mouth has it in its way
LOOKED = 60  # heights at which what sticks out is looked at


@dataclass(frozen=True)
class Guard:
    """low: height of its lower side; high: where the grip behind it begins. mm."""

    low: float
    high: float


@lru_cache(maxsize=16)
def guard_of(loft: Loft) -> Guard | None:
    """The guard of an object, if it has one.

    A guard stands out of what is below it and of the grip behind it, and is short. A handle that is thicker than what
    it holds is none, and goes into the mouth; nor is a head with nothing behind it to hold by.
    """
    y = np.unique(np.concatenate([np.linspace(loft.tip, loft.top, 400), loft.ys]))
    girth = loft.sections(y).girth()
    below = np.maximum.accumulate(girth)
    soon = np.array([girth[(y >= at) & (y <= at + COMES)].max() for at in y])
    out = np.flatnonzero((soon >= OUT * below) & (y >= loft.tip + BELOW * (loft.top - loft.tip)))
    if not len(out):
        return None
    rows = np.flatnonzero((y >= y[out[0]]) & (y <= y[out[-1]] + COMES))
    rises = np.diff(girth[rows]) / np.diff(y[rows])
    steep = BEGUN * (girth[rows].max() - below[out[0]]) / COMES
    gentle = np.flatnonzero(rises[: rises.argmax()] <= steep)
    foot = rows[gentle[-1] + 1] if len(gentle) else rows[0]
    peak = foot + int(girth[foot:][y[foot:] <= y[foot] + COMES].argmax())
    behind = np.flatnonzero((y > y[peak]) & (y <= y[peak] + BEHIND) & (girth <= IN * girth[peak]))
    if not len(behind) or loft.top - y[behind[0]] < GRIPPED:
        return None
    return Guard(float(y[foot]), float(y[behind[0]]))


def above_mouth(loft: Loft, mouth: float) -> float:
    """How far a guard reaches above a mouth, where it is in the way of a strap round the grip, mm; else 0."""
    guard = guard_of(loft)
    return max(guard.high - mouth, 0.0) if guard is not None and mouth >= guard.low - NEAR else 0.0


def pushed_out(loft: Loft, mouth: float, up: float, held: float) -> tuple[Array, Array, Array]:
    """What sticks out of a mouth pushes leather out that stands up behind it: heights up to `up` above the mouth, how
    much further back the object is there, mm, and how far the leather leans out for it, degrees, (n,) each.

    held: how far below the mouth its first stitches are, mm.
    """
    y = np.linspace(mouth, min(mouth + up, loft.top), LOOKED)
    back = loft.sizes(y)[:, 3]
    further = back - back[0]
    return y, further, np.degrees(np.arctan2(further, y - mouth + held))
