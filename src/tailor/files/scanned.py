"""Scanned: what is drawn on paper, traced to lines: thin strokes to their middles, what is filled to its outlines."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from tailor.core.carried.loft import Array
from tailor.core.errors import InputError
from tailor.core.units import INCH

WIDEST = 1600  # px of the longer side that a scan is traced at
USUAL = 100.0  # mm that the longer side of a picture is where it notes no resolution
SPECK = 12  # px: what is smaller is dust
THIN = 1 / 40  # of the picture's longer side: strokes that are no wider are lines
FILLED = 0.6  # share of the paper: more ink than that is paper that was read as ink
SHORTEST = 6  # px of a line
NEIGHBOURS = ((-1, 0), (-1, 1), (0, 1), (1, 1), (1, 0), (1, -1), (0, -1), (-1, -1))

Mask = NDArray[np.bool_]


def traced(pixels: NDArray[np.uint8], dpi: float) -> list[Array]:
    """The lines drawn on a scan (h, w, 3), mm, y up; dpi: its resolution, 0 where none is noted. Raises InputError."""
    grey = cv2.cvtColor(pixels, cv2.COLOR_BGR2GRAY)
    shrunk = min(1.0, WIDEST / max(grey.shape))
    if shrunk < 1:
        grey = cv2.resize(grey, None, fx=shrunk, fy=shrunk, interpolation=cv2.INTER_AREA)
    mm = INCH / dpi / shrunk if dpi else USUAL / max(grey.shape)
    _, black = cv2.threshold(grey, 0, 255, cv2.THRESH_BINARY_INV + cv2.THRESH_OTSU)
    ink = _without_dust(black > 0)
    contrast = float(grey.max()) - float(grey.min())
    if contrast < 40 or not ink.any() or ink.mean() > FILLED:
        raise InputError("no drawing stands out on it", "scan", "draw with a dark pen on light paper, and scan it flat")
    deep = cv2.distanceTransform(ink.astype(np.uint8), cv2.DIST_L2, 5)
    middle = thinned(ink)
    wide = 2 * float(np.median(deep[middle])) if middle.any() else np.inf
    lines = _followed(middle) if wide <= THIN * max(grey.shape) else _outlines(ink)
    if not lines:
        raise InputError("no line on it is long enough to follow", "scan", "draw it larger")
    return [line * np.array([mm, -mm]) for line in lines]


def _without_dust(ink: Mask) -> Mask:
    count, labels, stats, _ = cv2.connectedComponentsWithStats(ink.astype(np.uint8), connectivity=8)
    large = stats[:, cv2.CC_STAT_AREA] >= SPECK
    large[0] = False
    return np.asarray(large[labels]) if count > 1 else ink


def _outlines(ink: Mask) -> list[Array]:
    """The edges of what is filled, each closed (n, 2), column and row."""
    found, _ = cv2.findContours(ink.astype(np.uint8), cv2.RETR_LIST, cv2.CHAIN_APPROX_NONE)
    rings = [ring[:, 0, :].astype(float) for ring in found if len(ring) >= SHORTEST]
    return [np.vstack([smooth, smooth[:1]]) for smooth in (_smoothed(ring, closed=True) for ring in rings)]


def thinned(ink: Mask) -> Mask:
    """Ink worn down from all sides to lines one pixel wide. Source: Zhang and Suen's parallel thinning."""
    left = np.pad(ink, 1)
    while True:
        before = int(left.sum())
        for first in (True, False):
            p = [np.roll(left, (-dy, -dx), (0, 1)) for dy, dx in NEIGHBOURS]
            around = sum(each.astype(np.int8) for each in p)
            turns = sum((~p[k] & p[(k + 1) % 8]).astype(np.int8) for k in range(8))
            one, two = (p[0] & p[2] & p[4], p[2] & p[4] & p[6]) if first else (p[0] & p[2] & p[6], p[0] & p[4] & p[6])
            gone = left & (around >= 2) & (around <= 6) & (turns == 1) & ~one & ~two
            left = left & ~gone
        if int(left.sum()) == before:
            return np.asarray(left[1:-1, 1:-1])


def _followed(middle: Mask) -> list[Array]:
    """Lines one pixel wide as rows of places, from end or crossing to the next, (n, 2), column and row."""
    places = {(int(r), int(c)) for r, c in np.argwhere(middle)}
    beside = {at: [to for dr, dc in NEIGHBOURS if (to := (at[0] + dr, at[1] + dc)) in places] for at in places}
    near = {at: _plain(at, to) for at, to in beside.items()}
    knots = {at for at, to in near.items() if len(to) != 2}
    done, lines = set[tuple[tuple[int, int], tuple[int, int]]](), list[Array]()

    def walk(at: tuple[int, int], to: tuple[int, int]) -> list[tuple[int, int]]:
        path = [at, to]
        done.update({(at, to), (to, at)})
        while to not in knots:
            after = [n for n in near[to] if (to, n) not in done]
            if not after:
                break
            done.update({(to, after[0]), (after[0], to)})
            to = after[0]
            path.append(to)
        return path

    for starts in (sorted(knots), sorted(places - knots)):
        for at in starts:
            for to in near[at]:
                if (at, to) not in done:
                    path = np.array(walk(at, to), dtype=float)[:, ::-1]
                    if len(path) >= SHORTEST:
                        shut = bool(np.allclose(path[0], path[-1]))
                        lines.append(_smoothed(path[:-1], closed=True) if shut else _smoothed(path, closed=False))
                        if shut:
                            lines[-1] = np.vstack([lines[-1], lines[-1][:1]])
    return lines


def _plain(at: tuple[int, int], to: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Neighbours, without those askew that are reached by one straight beside them too."""
    straight = {n for n in to if n[0] == at[0] or n[1] == at[1]}
    return [n for n in to if n in straight or not ({(at[0], n[1]), (n[0], at[1])} & straight)]


def _smoothed(path: Array, closed: bool) -> Array:
    """A line without the steps of its pixels; its ends stay."""
    kernel = np.array([1.0, 2.0, 3.0, 2.0, 1.0]) / 9.0
    wide = np.pad(path, ((2, 2), (0, 0)), mode="wrap" if closed else "edge")
    smooth = np.column_stack([np.convolve(wide[:, k], kernel, mode="valid") for k in (0, 1)])
    if not closed:
        smooth[[0, -1]] = path[[0, -1]]
    return smooth
