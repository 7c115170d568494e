"""Roomy: the room that a loop leaves for its belt, by how the loop and the back under it lie once they are sewn."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from tailor.core.carried.loft import Array
from tailor.core.errors import InputError
from tailor.core.placed.gap import STEP, Gap
from tailor.core.placed.lies import Placed

FINE = 0.25  # mm between places along a loop
BESIDE = 0.4 * np.array([-1.0, 0.0, 1.0])  # of its width: where it is looked at
SHALLOW, DEEPEST = 0.3, 12.0  # mm that a loop may lack of room, and that it is made deeper by for that
TRIES = 2  # in a row that bring it no nearer, since its rows may come to lie on the far side of a step

T = TypeVar("T")
Back = Callable[[Array, NDArray[np.intp]], Array]


def deepened(made: T, deeper: Callable[[float], T], lacks: Callable[[T], float]) -> T:
    """A loop, or one made deeper as far as that brings its room nearer to what its belt wants. deeper: it so much
    deeper, mm, which may raise InputError where there is no back for one to come down on; then it is left as it is, and
    told so. lacks: by how much the room of one is too shallow, mm.
    """
    least = lack = lacks(made)
    more, tries = 0.0, 0
    while lack > SHALLOW and more < DEEPEST and tries < TRIES:
        more += lack + SHALLOW
        try:
            other = deeper(more)
        except InputError:
            break
        lack = lacks(other)
        made, least, tries = (other, lack, 0) if lack < least else (made, least, tries + 1)
    return made


def lacking(legs: Sequence[Placed], half: float, up: Array, back: Back, belt: tuple[float, float]) -> float:
    """By how much the room under a loop is too shallow for a belt so wide and thick to go through flat, mm; 0 where it
    is not.

    legs: lines along its leather over the belt. half: of its thickness. up: (2,) of length 1, across the belt. back:
    how far out the back's outer face is, towards the front, at places seen from there (n, 2) under legs by number (n,).
    """
    heights, inner, under = list[Array](), list[Array](), list[Array]()
    for leg in legs:
        own = leg.at[:, :2] @ up
        order = np.argsort(own, kind="stable")
        # The same heights under all, without the end of a fold that a needle would meet first.
        ends = np.ceil(np.array([own.min(), own.max() - half]) / STEP)
        at = np.asarray(STEP * np.arange(*ends), dtype=np.float64)
        x, y, z = (np.interp(at, own[order], v[order]) for v in (*leg.at[:, :2].T, leg.at[:, 2] + through(leg, half)))
        heights.append(at)
        inner.append(z)
        under.append(np.column_stack([x, y]))
    counts = [len(at) for at in heights]
    outer = np.split(back(np.vstack(under), np.repeat(np.arange(len(legs)), counts)), np.cumsum(counts)[:-1])
    gaps = (Gap(at, low, high) for at, low, high in zip(heights, inner, outer, strict=True))
    return max(belt[1] - min(gap.deep(belt[0]) for gap in gaps), 0.0)


def through(leg: Placed, half: float) -> Array:
    """How far out from a loop's middle layer its face lies, at points of it, (n,), mm. half: of its thickness."""
    return np.asarray(np.abs(half * leg.out[:, 2]))
