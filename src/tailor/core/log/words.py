"""Words: what a maker wishes for, from how cases were said to fit.

A fit is an ordered answer about the clearance there is: what was drafted, the bias of the draft, and what leather has
given by then. Right is a band of unknown width about an unknown wish; a share of what is called right means nothing,
since some are content with everything. All of it is tried on a grid: exact, and quick enough.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
from scipy.special import ndtr

from tailor.core.carried.loft import Array
from tailor.core.log.case import Fit, Said, When
from tailor.core.log.hierarchy import Guess

WIDE = 0.6  # mm: how far wishes are off the table
NOISE = 0.2  # mm that one case is off its draft by itself
BIAS = 0.25  # mm that all are
GIVEN = {When.NEW: 0.0, When.WEEK: 0.5, When.MONTH: 1.0}  # of what leather gives in a month
GIVES, UNSURE = 0.3, 0.2  # mm in a month, and how sure that is
HALVES = np.array([0.12, 0.2, 0.3, 0.45, 0.8, 1.6])  # mm: half of what is right
HALF = np.array([0.16, 0.24, 0.24, 0.18, 0.1, 0.08])  # how likely each is
STEPS = np.array([0.4, 0.8, 1.4])  # mm from tight to what will not go in at all
CONTENT = np.array([0.0, 0.15, 0.4, 0.75, 0.97])  # share of what is called right that means nothing
CONTENTED = np.array([0.34, 0.28, 0.18, 0.11, 0.09])
FITS = list(Fit)


class Wish(NamedTuple):
    """clearance: to be drafted for a fit that is right when new, mm; give: gained in a month, mm."""

    clearance: Guess
    give: Guess


def wish(said: Sequence[Said], usual: float) -> Wish:
    """What is wished for, from all that was said of one kind of thing. usual: clearance by the table, mm."""
    gaps = any(each.gap is not None for each in said)
    wishes = np.linspace(usual - 3.5 * WIDE, usual + 3.5 * WIDE, 85)
    gives = GIVES + UNSURE * np.linspace(-2, 2, 5)
    biases = BIAS * (np.linspace(-2.4, 2.4, 7) if gaps else np.zeros(1))
    w, h, k, g, b, c = (np.asarray(axis) for axis in np.ix_(wishes, HALVES, STEPS, gives, biases, CONTENT))
    wide = WIDE**2 + (0.0 if gaps else BIAS**2)
    told = np.log(HALF)[None, :, None, None, None, None] + np.log(CONTENTED) - np.square(w - usual) / (2 * wide)
    told = told - np.square((g - GIVES) / UNSURE) / 2 - np.square(b / BIAS) / 2
    for each, times in Counter((s.drafted, s.fit, s.when, s.gap, s.spread) for s in said).items():
        told = told + times * _told(each, w, h, k, g, b, c)
    likely = np.exp(told - told.max())
    drafted = np.broadcast_to(w - b, likely.shape)
    return Wish(_guess(drafted, likely), _guess(np.broadcast_to(g, likely.shape), likely))


def _told(each: tuple[float, Fit, When, float | None, float], *grid: Array) -> Array:
    """How likely, by logarithm, one answer is."""
    w, h, k, g, b, c = grid
    drafted, fit, when, gap, spread = each
    there, noise = drafted + b + GIVEN[when] * g, NOISE
    measured: Array | float = 0.0
    if gap is not None:  # what there is is the draft's and the reading's, each as sure as it is
        share = NOISE**2 / (NOISE**2 + spread**2)
        measured = -((gap - there) ** 2) / (2 * (NOISE**2 + spread**2))
        there, noise = there + share * (gap - there), NOISE * np.sqrt(1 - share)
    noise = np.hypot(noise, 0.1)  # nobody feels finer
    edges: list[Any] = [-np.inf, w - h - k, w - h, w + h, w + h + k, np.inf]
    n = FITS.index(fit)
    plain = ndtr((edges[n + 1] - there) / noise) - ndtr((edges[n] - there) / noise)
    content = c if fit is Fit.RIGHT else 0.0
    return np.asarray(np.log((1 - c) * np.maximum(plain, 1e-12) + content) + measured)


def _guess(values: Array, likely: Array) -> Guess:
    """What a weighted grid says of a number."""
    flat, weight = values.ravel(), likely.ravel() / likely.sum()
    mean = float(weight @ flat)
    order = np.argsort(flat)
    low, high = np.interp([0.05, 0.95], np.cumsum(weight[order]), flat[order])
    return Guess(mean, float(np.sqrt(weight @ (flat - mean) ** 2)), float(low), float(high))
