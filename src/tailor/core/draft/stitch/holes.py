"""Holes by equal chords, as dividers and irons make them, equal in number on every edge of a seam."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from tailor.core import measure
from tailor.core.carried.loft import Array
from tailor.core.errors import InputError
from tailor.core.fairing import Line
from tailor.core.measure import Along, Theme


def _folds(job: Any, made: Any) -> bool:
    return bool(made.folds)


MEASURES = (
    measure.length("seam.stitch_inset", Theme.SEAM, "stitch inset", "welt's inner edge to the stitch line", 1, 60,
        at=(Along.INNER, 0.5)),
    measure.length("seam.margin", Theme.SEAM, "margin", "stitch line to the cut line", 1, 40, first=True,
        at=(Along.EDGE, 0.67)),
    measure.pitch("seam.pitch", Theme.SEAM, "stitch spacing",
        "stitch spacing aimed at; holes come out equal and near it", 1.5, 15, first=True, at=(Along.SEAM, 0.2)),
    measure.length("seam.first_hole", Theme.SEAM, "first hole", "first hole to the mouth", 0.5, 60, first=True,
        at=(Along.SEAM, 0.0)),
    measure.length("seam.fold_hole", Theme.SEAM, "last hole", "last hole to the fold line", 0.5, 60,
        at=(Along.SEAM, 1.0), applies=_folds),
    measure.length("seam.hole", Theme.SEAM, "hole", "diameter of a stitch hole", 0.3, 6, at=(Along.SEAM, 0.33)),
    measure.told("seam.stack", Theme.SEAM, "stack"),
    measure.told("seam.chord", Theme.SEAM, "dividers", said=measure.finely, at=(Along.SEAM, 0.27)),
)  # fmt: skip

ROUNDS = 60
CLOSE = 1e-7  # mm: how equal the chords are made
STRAIGHT = 60.0  # mm: an edge that turns on a wider radius than this counts as straight
LOOK = 0.1  # mm between the places where an edge is looked at for corners


@dataclass(frozen=True)
class HoleLine:
    """Holes along a line: at, (n,) their lengths along it; points, (n, 2); chord, the divider setting, mm.

    Where anchors part the line the chord is the mean of its stretches'; where the holes lie under those of another edge
    it is that one's.
    """

    at: Array
    points: Array
    chord: float

    @property
    def chords(self) -> Array:
        """From each hole to the next, (n - 1,), mm."""
        return np.asarray(np.hypot(*np.diff(self.points, axis=0).T))


@dataclass(frozen=True)
class Edge:
    """An edge that is sewn. anchors: rising lengths along its line that get a hole, the first and the last hole first
    and last, mm; between them the corners, or whatever must meet its fellow on the other edges.
    """

    line: Line
    anchors: tuple[float, ...]

    @property
    def stretches(self) -> Array:
        """Length from each anchor to the next, (k,), mm."""
        return np.diff(self.anchors)


def stitches(length: float, pitch: float) -> int:
    """Whole stitches nearest to a pitch over a length, at least one."""
    return max(1, round(length / pitch))


def counts(edges: Sequence[Edge], pitch: float, odd: bool = False) -> tuple[int, ...]:
    """Stitches from each anchor to the next, the same for every edge: as near the pitch as their mean length allows.

    odd: the holes together are to be odd in number, as a running stitch in two passes wants; the stretch that minds
    it least gets a stitch more or less. Raises InputError where the edges' anchors are not equal in number.
    """
    if len({len(edge.anchors) for edge in edges}) != 1:
        raise InputError("its edges have unequal numbers of corners", "seam", "mark as many corners on each edge")
    mean = np.mean([edge.stretches for edge in edges], axis=0)
    found = [stitches(float(length), pitch) for length in mean]
    if odd and sum(found) % 2:
        dearest = [
            (abs(length / other - pitch), k, other)
            for k, length in enumerate(mean)
            for other in (found[k] + 1, found[k] - 1)
            if other >= 1
        ]
        _, k, other = min(dearest)
        found[k] = other
    return tuple(found)


def joined(edges: Sequence[Edge], pitch: float, odd: bool = False) -> tuple[HoleLine, ...]:
    """Holes on every edge of one seam: equal in number between every two anchors, each edge's chords there equal."""
    number = counts(edges, pitch, odd)
    return tuple(holed(edge, number) for edge in edges)


def holed(edge: Edge, number: Sequence[int]) -> HoleLine:
    """Holes on one edge, so many stitches from each anchor to the next."""
    parts = [equal_chords(edge.line, a, b, n) for a, b, n in zip(edge.anchors, edge.anchors[1:], number, strict=False)]
    return HoleLine(
        np.concatenate([parts[0].at, *(p.at[1:] for p in parts[1:])]),
        np.vstack([parts[0].points, *(p.points[1:] for p in parts[1:])]),
        float(np.average([p.chord for p in parts], weights=list(number))),
    )


def from_the_middle(edge: Edge) -> Edge:
    """The edge with an anchor half way between its first hole and its last, to be sewn from there outward."""
    middle = (edge.anchors[0] + edge.anchors[-1]) / 2
    return Edge(edge.line, tuple(sorted({*edge.anchors, middle})))


def cornered(edge: Edge) -> Edge:
    """The edge with an anchor wherever it passes from straight to turning or back."""
    start, end = edge.anchors[0], edge.anchors[-1]
    s = np.linspace(start, end, max(int((end - start) / LOOK), 8) + 1)
    turns = np.abs(edge.line.curvature(s)) > 1 / STRAIGHT
    changes = np.flatnonzero(np.diff(turns.astype(int)))
    own = [float(s[k] + s[k + 1]) / 2 for k in changes if end - start > 0]
    return Edge(edge.line, tuple(sorted({*edge.anchors, *own})))


def turning(line: Line, start: float, end: float) -> float:
    """The angle a line turns through from one length to another, radians, positive where it bulges outward."""
    s = np.linspace(start, end, max(int((end - start) / LOOK), 8) + 1)
    heading = np.unwrap(np.arctan2(*np.asarray(line.curve(s, 1)).T[::-1]))
    return float(heading[0] - heading[-1])


def laid_round(edge: Edge, further: float) -> Edge:
    """The straight edge of a strip that goes round another edge, `further` mm outside it.

    From each anchor to the next it is longer by the angle turned there times how far it lies outside: so gussets,
    laminated folds and welts are cut. Raises InputError where it would have no length left.
    """
    turned = [turning(edge.line, a, b) for a, b in zip(edge.anchors, edge.anchors[1:], strict=False)]
    lengths = edge.stretches + np.array(turned) * further
    if (lengths <= 0).any():
        k = int(lengths.argmin())
        raise InputError(
            f"on the inside of its turn no length is left for a layer {abs(further):.1f} mm in",
            f"stretch {k + 1}", "widen the corner, or use a thinner layer",
        )  # fmt: skip
    at = np.concatenate([[0.0], np.cumsum(lengths)])
    points = np.column_stack([np.zeros(65), np.linspace(0.0, -at[-1], 65)])
    return Edge(Line(points), tuple(map(float, at)))


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


def under(lead: HoleLine, line: Line, there: Array) -> HoleLine:
    """Holes along a line where those of another edge come to lie once both are formed, however far apart that is.

    there: (n, 2) where they come, in their order. Raises InputError where they come in no order along it.
    """
    at = line.nearest(there)
    if (np.diff(at) <= 0).any():
        raise InputError(
            "front and back are so unlike that their stitches pass each other", "fold.uneven",
            "give less, or make it of two panels",
        )  # fmt: skip
    return HoleLine(at, line(at), lead.chord)


def straight_row(places: Array) -> HoleLine:
    """A straight row of evenly spaced holes by their places across it, (n,), mm."""
    return HoleLine(places - places[0], np.column_stack([places, np.zeros(len(places))]), float(places[1] - places[0]))


def matched(front: Line, back: Line, top: float, fold: float, pitch: float, odd: bool) -> tuple[HoleLine, HoleLine]:
    """Front and back holes, equal in number, each with equal chords.

    top: v of the first hole. fold: u of the last. pitch: spacing aimed at. mm. Lines that are one and the same
    have one and the same holes.
    """
    edges = [
        Edge(line, (line.where(top, 1, "seam.first_hole"), line.where(fold, 0, "seam.fold_hole")))
        for line in (front, back)
    ]
    if back is front:
        (both,) = joined(edges[:1], pitch, odd)
        return both, both
    first, second = joined(edges, pitch, odd)
    return first, second
