"""Whole: which pieces are closed to one thing once a step is done, so that it can be shown as it is then."""

from __future__ import annotations

from collections.abc import Collection, Iterable

from tailor.core.bench.steps import Steps

OF_ALL = ("boards", "mould", "edges", "coat", "wax", "try")  # keys of steps on the whole


def put_together(
    steps: Steps, whole: tuple[str, ...], closing: Iterable[tuple[str, tuple[str, ...]]], on: Collection[str]
) -> None:
    """Note of each step which pieces are together after it: those of the seam that it is of, with what was put on them
    and what was closed before; of a step on the whole, all of them.

    whole: the pieces of leather; closing: seams one after another, with what they join; on: keys of the steps that put
    something on a piece while all lies flat.
    """
    there, put = set[str](), [set(doing.pieces) for doing in steps.doings if doing.key in on]
    for seam, pieces in closing:
        there |= set(pieces)
        while more := set().union(*(each for each in put if each & there)) - there:
            there |= more
        for doing in steps.doings:
            if seam in doing.places:
                steps.together[doing.key] = tuple(name for name in whole if name in there)
    for key in OF_ALL:
        if key in steps:
            steps.together[key] = whole
    if "dye" in steps and "edges" in steps.earlier("dye"):
        steps.together["dye"] = whole
