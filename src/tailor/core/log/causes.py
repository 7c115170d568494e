"""Causes: what may be behind how a case came out, how likely each is, and what to measure next.

One thing went wrong, by some amount, either way: what each would do at every place and to every measure is known in
proportion. Every likely amount is tried, together with what a whole case is off by that nobody is to blame for; words
are answers about what there is, measures are as sure as they are. The next measure is the one after which, in the
mean, least is left in doubt.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import logsumexp, ndtr

from tailor.core.carried.loft import Array
from tailor.core.log.case import Fit

FITS = list(Fit)
AMOUNTS = np.concatenate([-np.linspace(3.0, 0.4, 9), np.linspace(0.4, 3.0, 9)])  # of what it usually is off by
USUALLY = np.exp(-(AMOUNTS**2) / 4.5)
ALIKE = np.linspace(-2, 2, 9)  # of what a whole case is off by
OFF = 0.12  # mm that a whole case is
AT = 0.18  # mm that one place is
HALF, STEP = 0.3, 0.7  # mm: half of what is right, and from tight to what will not go in
TELLS = 0.05  # share of doubt that a measure must take away to be worth taking
ALIKE_ENOUGH = 2.0  # times as likely: below that two causes are not told apart


@dataclass(frozen=True)
class Cause:
    """Something that may have gone wrong. usual: by how much, in its unit, where it does.

    room: mm of clearance that it makes at each place for each unit. tells: what it does to each measure, in that
    measure's own unit, for each unit. often: how often it is this, against the others.
    """

    name: str
    usual: float
    room: Mapping[str, float]
    tells: Mapping[str, float]
    often: float = 1.0


@dataclass(frozen=True)
class Heard:
    """How it fits at a place."""

    place: str
    fit: Fit


@dataclass(frozen=True)
class Read:
    """By how much a measure is off what was drafted, and how sure the measuring is."""

    measure: str
    off: float
    noise: float


@dataclass(frozen=True)
class Suspect:
    """A cause, how likely it is, and by how much it would be off."""

    name: str
    share: float
    amount: float


@dataclass(frozen=True)
class Found:
    """suspects: the likeliest first. measure: what to measure next; empty where nothing would tell. doubt: two causes
    that cannot be told apart by what is known, if that is so.
    """

    suspects: tuple[Suspect, ...]
    measure: str = ""
    doubt: tuple[str, str] | None = None


def find(causes: Sequence[Cause], heard: Sequence[Heard], read: Sequence[Read], can: Mapping[str, float]) -> Found:
    """What may be behind what was heard and read. can: what could be measured besides, with its noise."""
    told = np.array([_told(cause, heard, read) for cause in causes])  # (causes, amounts)
    told += np.log([cause.often for cause in causes])[:, None] + np.log(USUALLY / USUALLY.sum())
    likely = np.exp(told - logsumexp(told))
    shares = likely.sum(axis=1)
    amounts = (likely @ AMOUNTS) / np.maximum(shares, 1e-300) * [cause.usual for cause in causes]
    order = np.argsort(-shares)
    suspects = tuple(Suspect(causes[k].name, float(shares[k]), float(amounts[k])) for k in order)
    gains = {measure: _gain(causes, likely, measure, noise) for measure, noise in can.items()}
    best = max(gains, key=lambda measure: gains[measure], default="")
    alike = len(suspects) > 1 and suspects[0].share < ALIKE_ENOUGH * suspects[1].share
    return Found(
        suspects, best if best and gains[best] > TELLS else "",
        (suspects[0].name, suspects[1].name) if alike else None,
    )  # fmt: skip


def _told(cause: Cause, heard: Sequence[Heard], read: Sequence[Read]) -> Array:
    """(amounts,) how likely, by logarithm, all that is known would be with a cause of each amount."""
    sizes = cause.usual * AMOUNTS
    room = np.zeros((len(AMOUNTS), len(ALIKE)))
    for each in heard:
        there = cause.room.get(each.place, 0.0) * sizes[:, None] + OFF * ALIKE
        edges = np.array([-np.inf, -HALF - STEP, -HALF, HALF, HALF + STEP, np.inf])
        n = FITS.index(each.fit)
        room += np.log(np.maximum(ndtr((edges[n + 1] - there) / AT) - ndtr((edges[n] - there) / AT), 1e-5))
    whole = logsumexp(room - ALIKE**2 / 2, axis=1)
    for one in read:
        far = (one.off - cause.tells.get(one.measure, 0.0) * sizes) / one.noise
        whole = whole - 2.5 * np.log1p(far**2 / 4) - np.log(one.noise)
    return np.asarray(whole)


def _gain(causes: Sequence[Cause], likely: Array, measure: str, noise: float) -> float:
    """By how much less is in doubt, in the mean, once something is measured; as a share of what is in doubt now."""
    means = np.array([cause.tells.get(measure, 0.0) * cause.usual for cause in causes])[:, None] * AMOUNTS
    low, high = float(means.min()) - 3 * noise, float(means.max()) + 3 * noise
    values = np.linspace(low, high, max(40, min(round((high - low) / noise * 2), 400)))
    density = np.exp(-(((values - means[:, :, None]) / noise) ** 2) / 2)  # (causes, amounts, values)
    joint = (likely[:, :, None] * density).sum(axis=1)
    total = joint.sum(axis=0)
    after = joint / np.maximum(total, 1e-300)
    left = float((total / total.sum()) @ _doubt(after))
    now = float(_doubt(likely.sum(axis=1)[:, None])[0])
    return (now - left) / max(now, 1e-9) if now > 0.05 else 0.0


def _doubt(shares: Array) -> Array:
    """The entropy of shares, (causes, n)."""
    return np.asarray(-(shares * np.log(np.maximum(shares, 1e-12))).sum(axis=0))
