"""Sewn: where a part lies that is held by its stitches: as near to the holes it is sewn to as its own shape lets it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np
import scipy

from tailor.core.carried.loft import Array
from tailor.core.placed.lies import Bent, Creases, Frame, Placed
from tailor.core.placed.path import Path, through

CLOSE, ROUNDS = 0.02, 8  # mm, and steps in which a row is brought to where it lies
GAINS, ALIKE = (0.3, 1.6), 1e-9  # how much shorter or longer than it misses by a step may be; mm
FINE = 6  # places from one hole to the next, between which leather bends evenly
Made = TypeVar("Made")
LEVER = 10.0  # mm: how much a part minds lying askew, beside lying aside


def sewn_on(shape: Bent, own: Array, under: Placed, lift: float) -> Bent:
    """A part where its holes lie on those of what is under it, in the least squares of all, and it lies level there.

    shape: the part as it is bent, wherever it is. own: its holes, flat, (n, 2); under: the holes they meet, where they
    lie. lift: middle to middle, mm; below 0 it lies on the flesh side, and looks the other way.
    """
    has, way = shape(own), np.sign(lift)
    here = np.vstack([has.at + LEVER * has.out, has.at - LEVER * has.out])
    wanted = under.at + lift * under.out
    there = np.vstack([wanted + way * LEVER * under.out, wanted - way * LEVER * under.out])
    middle, target = here.mean(axis=0), there.mean(axis=0)
    left, _, right = np.linalg.svd((here - middle).T @ (there - target))
    flip = np.diag([1.0, 1.0, np.sign(np.linalg.det(left @ right))])
    turn = left @ flip @ right  # rows are turned by it
    f = shape.frame
    return replace(shape, frame=Frame((f.origin - middle) @ turn + target, f.across @ turn, f.up @ turn))


def slid(base: Bent, own: Sequence[Array], under: Sequence[Placed], lift: float) -> Bent:
    """A part slid along to where its rows, each (n, 2), lie as little beside those under it as they can together."""
    square, wanted = np.zeros((3, 3)), np.zeros(3)
    for row, placed in zip(own, under, strict=True):
        out = placed.out.mean(axis=0)
        out /= np.linalg.norm(out)
        level = len(row) * (np.eye(3) - np.outer(out, out))
        square += level
        wanted += level @ (placed.at + lift * placed.out - base(row).at).mean(axis=0)
    by = (float(way) for way in np.linalg.lstsq(square, wanted, rcond=1e-3)[0])  # what no row minds is left alone
    return replace(base, frame=base.frame.moved(tuple(by)))


def adrift(over: Placed, under: Placed) -> Array:
    """How far along the leather a row of holes lies as a whole from the row it is sewn to, (3,), mm."""
    return _level((over.at - under.at).mean(axis=0), under)


def brought(tried: Callable[[Array], tuple[Array, Made]], at: Array) -> tuple[Array, Made]:
    """Rows brought to where they are sewn, (k, 2), mm, and what came of them there.

    tried: how far each still lies aside from where it is, (k, 2), and what comes of it. Where leather goes over a step
    no place may be right; then the best that was tried is taken.
    """
    off, made = tried(at)
    best, least = (at, made), np.abs(off).max()
    gain = np.ones_like(off)
    for _ in range(ROUNDS - 1):
        if least < CLOSE:
            break
        before, at = off, at + gain * off
        off, made = tried(at)
        came = before - off  # nearer by the last step, which tells how far the next must go
        gain = np.clip(np.divide(gain * before, came, out=np.ones_like(off), where=np.abs(came) > ALIKE), *GAINS)
        if np.abs(off).max() < least:
            best, least = (at, made), np.abs(off).max()
    return best


def _level(way: Array, under: Placed) -> Array:
    """What of a way runs along the leather, as it looks in the mean."""
    out = under.out.mean(axis=0)
    out /= np.linalg.norm(out)
    return np.asarray(way - (way @ out) * out)


def along(own: Array, under: Placed, lift: float) -> Path:
    """How a part bends from side to side that lies on holes in a row, so far over them. own: x of its holes, (n,), mm.

    Its middle is level, and as far across as it is on the part.
    """
    if len(own) < 3:
        return Path()
    at = under.at + lift * under.out
    level = at[-1] - at[0]
    level /= np.linalg.norm(level)
    out = under.out.mean(axis=0)
    out -= (out @ level) * level
    over = np.column_stack([at @ level, at @ (out / np.linalg.norm(out))])
    way = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(over, axis=0).T))])
    smooth = scipy.interpolate.CubicSpline(way, over - over.mean(axis=0))(
        np.linspace(0.0, way[-1], FINE * (len(way) - 1) + 1)
    )
    return through(smooth, float(own.mean() - way[-1] / 2))


@dataclass(frozen=True)
class Twisted:
    """A bent part that turns and bows a little with what it is sewn to, no row of it going anywhere as a whole.

    base: the part without that. heights: of its rows, (m,) rising; own: x of their holes, (n,) rising; by: what each is
    moved by, (m, n, 3), mm.
    """

    base: Bent
    heights: Array
    own: Array
    by: Array

    def lifted(self) -> Twisted:
        base = self.base.lifted()
        return self if base is self.base else replace(self, base=base)

    def __call__(self, flat: Array) -> Placed:
        placed = self.base(flat)
        shares = []
        for at, known in ((flat[:, 0], self.own), (flat[:, 1], self.heights)):
            k = np.clip(np.searchsorted(known, at, side="right") - 1, 0, max(len(known) - 2, 0))
            after = np.minimum(k + 1, len(known) - 1)
            step = np.where(after > k, known[after] - known[k], 1.0)
            shares.append((k, after, np.clip((at - known[k]) / step, 0.0, 1.0)[:, None]))
        (j, right, a), (k, above, b) = shares
        low, high = (self.by[row, j] * (1 - a) + self.by[row, right] * a for row in (k, above))
        return Placed(placed.at + low * (1 - b) + high * b, placed.out)

    def creases(self) -> Creases:
        return self.base.creases()


def twisted(base: Bent, own: Sequence[Array], under: Sequence[Placed], lift: float) -> Twisted:
    """A part that follows its rows, each (n, 2), in all but how far along the leather each of them lies as a whole; a
    row of other places than the first one's it does not follow.
    """
    by = []
    for row, placed in zip(own, under, strict=True):
        missed = placed.at + lift * placed.out - base(row).at
        follows = len(row) == len(own[0])
        aside = _level(missed.mean(axis=0), placed)  # however far out, it comes down
        by.append((missed - aside)[np.argsort(row[:, 0])] if follows else np.zeros((len(own[0]), 3)))
    heights = np.array([row[0, 1] for row in own])
    order = np.argsort(heights)
    return Twisted(base, heights[order], np.sort(own[0][:, 0]), np.array(by)[order])
