"""Holes by equal chords: what dividers and pricking irons make."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.errors import InputError
from tailor.core.fairing import Line

ROUNDS = 60
CLOSE = 1e-7  # mm: how equal the chords are made


@dataclass(frozen=True)
class HoleLine:
    """Holes along a line: at, (n,) their lengths along it; points, (n, 2); chord, the divider setting, mm."""

    at: Array
    points: Array
    chord: float


def stitches(length: float, pitch: float) -> int:
    """Whole stitches nearest to a pitch over a length, at least one."""
    return max(1, round(length / pitch))


def equal_chords(line: Line, start: float, end: float, count: int) -> HoleLine:
    """`count` stitches from one anchor to another along the line, every chord the same.

    start, end: lengths of the anchors along the line, mm. The root is found by stepping: as chords are hardly
    shorter than the arcs they span, moving each hole to its share of the summed chords settles quickly.
    """
    if end <= start:
        raise InputError(
            "the first and last holes pass each other",
            "seam.first_hole and seam.fold_hole",
            "give smaller distances",
        )
    at = np.linspace(start, end, count + 1)
    for _ in range(ROUNDS):
        points = line(at)
        chords = np.hypot(*np.diff(points, axis=0).T)
        if np.ptp(chords) < CLOSE:
            break
        run = np.concatenate([[0.0], np.cumsum(chords)])
        at = np.interp(np.linspace(0, run[-1], count + 1), run, at)
    else:
        raise InputError("the stitch line turns too sharply for equal stitches", "seam.pitch", "give a finer pitch")
    return HoleLine(at, points, float(chords.mean()))


def matched(front: Line, back: Line, top: float, fold: float, pitch: float) -> tuple[HoleLine, HoleLine]:
    """Front and back holes, equal in number, each with equal chords.

    top: v of the first hole. fold: u of the last. pitch: spacing aimed at. mm. Lines that are one and the same
    have one and the same holes.
    """
    ends = [(line.where(top, 1, "seam.first_hole"), line.where(fold, 0, "seam.fold_hole")) for line in (front, back)]
    count = stitches(sum(b - a for a, b in ends) / 2, pitch)
    first = equal_chords(front, *ends[0], count)
    return first, first if back is front else equal_chords(back, *ends[1], count)
