"""Change: whether the last readings of a constant are of something else: a new batch of hide, another thread."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from scipy.special import logsumexp

from tailor.core.carried.loft import Array
from tailor.core.log.hierarchy import TAILS, UNSURE

LAST = 8  # readings in which a change is looked for
BEFORE = 3  # readings that must come before it
SURE = 18.0  # times as likely as none, so that some one row in a hundred is told of for nothing
RECORDED = 6.0  # the same where a new hide or thread was recorded
LEVELS = 160
STRANGE = 1.6  # times as far from the table may that be which took the place of what was usual
WIDTHS = np.exp(np.linspace(-0.7, 0.7, 5))  # times the scale that is thought
WIDTH = -(np.log(WIDTHS) ** 2) / (2 * UNSURE**2)


class Changed(NamedTuple):
    """first: the reading from which it is otherwise. times: how much more likely that is than no change."""

    first: int
    times: float

    @property
    def share(self) -> float:
        return self.times / (1 + self.times)


def changed(off: Sequence[float], scales: Sequence[float], whole: float, recorded: bool = False) -> Changed | None:
    """The change in a row of readings, in the order they were made; None where none is sure enough.

    off: how far each is off the table; scales: of each reading; whole: spread of what is read about the table, which
    is unknown before the change and after it.
    """
    n = len(off)
    starts = range(max(BEFORE, n - LAST), n)
    if not starts:
        return None
    y, s = np.array(off), np.array(scales) * WIDTHS[:, None]
    span = 4 * whole + 6 * float(s.max())
    levels = np.linspace(min(-span, float(y.min())), max(span, float(y.max())), LEVELS)
    before, after = (_about(levels, wide * whole) for wide in (1.0, STRANGE))
    far = (y[:, None] - levels) / s[:, :, None]  # (widths, n, levels)
    told = -np.log(s)[:, :, None] - (TAILS + 1) / 2 * np.log1p(far**2 / TAILS)
    up_to = np.concatenate([np.zeros((len(s), 1, LEVELS)), np.cumsum(told, axis=1)], axis=1)

    def likely(run: Array, thought: Array) -> Array:
        """(widths,) of readings, whatever their level is."""
        return np.asarray(logsumexp(run + thought, axis=1))

    none = logsumexp(likely(up_to[:, n], before) + WIDTH)
    each = np.array([
        logsumexp(likely(up_to[:, k], before) + likely(up_to[:, n] - up_to[:, k], after) + WIDTH) - none
        for k in starts
    ])  # fmt: skip
    times = float(np.exp(min(logsumexp(each) - np.log(len(each)), 50.0)))
    if times < (RECORDED if recorded else SURE):
        return None
    return Changed(starts[int(each.argmax())], times)


def _about(levels: Array, wide: float) -> Array:
    """How likely levels are, by logarithm, about the table."""
    thought = -(levels**2) / (2 * wide**2)
    return np.asarray(thought - logsumexp(thought))
