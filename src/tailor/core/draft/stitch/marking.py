"""Marking: strips of card with every hole of a seam on them, to be laid along a stitch line and pricked through."""

from __future__ import annotations

import itertools

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Mark, Piece, punched

WIDE = 18.0  # mm
LONGEST = 220.0  # mm from the first hole of a strip to its last, so that it goes on one page
BEYOND = 9.0  # mm of strip beyond its first and last hole
CARD = 0.4  # mm
EVERY = 10  # holes between those that are numbered
SAME = 0.02  # mm by which two edges may differ and share a strip


def marking_strips(draft: Draft) -> tuple[Piece, ...]:
    """The strips of the main seam, upright, from the mouth down: for front and back in one where they are alike.

    Places along a strip are lengths along the stitch line, which a strip of card follows when it is bent along it.
    """
    if draft.sides:
        front, back = (_run(side.holes.at) for side in draft.sides)
        chords = [side.holes.chord for side in draft.sides]
        if len(front) == len(back) and float(np.abs(front - back).max()) < SAME:
            return _strips(front, chords[0], "front and back")
        return (*_strips(front, chords[0], "front"), *_strips(back, chords[1], "back"))
    if not draft.seams:
        return ()
    longest = max(draft.seams, key=lambda seam: seam.length)
    piece = draft.piece(longest.pieces[0])
    holes = piece.holes_of(longest.name, longest.edges[0])
    run = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(holes, axis=0).T))])
    return _strips(run, longest.chord, longest.name)


def _run(at: Array) -> Array:
    return np.asarray(at - at[0])


def _strips(run: Array, chord: float, name: str) -> tuple[Piece, ...]:
    parts = max(int(np.ceil(run[-1] / LONGEST)), 1)
    ends = [int(np.abs(run - share * run[-1]).argmin()) for share in np.linspace(0, 1, parts + 1)]
    strips = []
    for k, (first, last) in enumerate(itertools.pairwise(ends)):
        at = run[last] - run[first : last + 1]  # the mouth is at the top
        points = np.column_stack([np.zeros(len(at)), at])
        low, high, half = -BEYOND, float(at[0]) + BEYOND, WIDE / 2
        cut = np.array([(-half, low), (half, low), (half, high), (-half, high)])
        numbers = [
            Mark("note", half * 0.55, float(at[n - first]), f"{n + 1}")
            for n in range(first, last + 1)
            if (n + 1) % EVERY == 0 or n in (first, last)
        ]
        part = f" {k + 1} of {parts}" if parts > 1 else ""
        said = f"Marking strip{part} · {name} · {chord:.2f} mm"
        strips.append(
            Piece(
                f"strip {name} {k + 1}", 1, "card", CARD, "grain", cut, stitch=(points,),
                holes=punched("main", name, points, 0.8),
                marks=(*numbers, Mark("title", -half * 0.55, float(at[0]) / 2, said, angle=90.0),
                       Mark("top", -half * 0.55, high - 14, "", (-half * 0.55, high - 3))),
            )
        )  # fmt: skip
    return tuple(strips)
