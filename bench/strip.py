"""Laying out against an open strip-packing engine, at the same seconds of one core: how short a strip takes all pieces.

The engine is a library of general use; it knows no hides, and so only this can be asked of both.
"""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import spyrrow

from bench.shop import laying
from tailor.core.cut import exact, layer
from tailor.core.cut.laying import Hide, Laid, Laying, Template, Turns
from tailor.core.cut.search import Search

HIGH = 600.0  # mm of strip
APART = 0.2  # mm between pieces
SHORTER = 0.015  # of what it took, that the next strip is shorter at first; half as much where that does not go twice
PATIENCE = 0.1  # of all the time, until that is given up
SEED = 1
ALONG = Turns((0.0, 180.0), 0.0)


def pieces(count: int, turns: Turns) -> tuple[Template, ...]:
    """Pieces of the crew's things that fit the strip as they lie, so many."""
    found = [t for t in laying(2.0).templates if not t.strap and np.ptp(t.ring, axis=0).max() < 0.8 * HIGH]
    return tuple(
        replace(t, id=n, turns=turns, gap=APART, margin=0.0, wanted=Template.wanted, may_flip=False, sort="")
        for n, t in enumerate(found[:count])
    )


def theirs(asked: Sequence[Template], seconds: float) -> tuple[float, float]:
    """How densely the engine lays pieces, and how many seconds of work that took."""
    turns = None if asked[0].turns.free else [0.0, 180.0]
    items = [spyrrow.Item(str(t.id), [(float(x), float(y)) for x, y in t.ring], 1, turns) for t in asked]
    how = spyrrow.StripPackingConfig(
        early_termination=False, total_computation_time=round(seconds), num_workers=1, seed=SEED,
        min_items_separation=APART,
    )  # fmt: skip
    begun = time.process_time()
    found = spyrrow.StripPackingInstance("strip", HIGH, items).solve(how)
    return sum(t.shape.area for t in asked) / (found.width * HIGH), time.process_time() - begun


def ours(asked: Sequence[Template], seconds: float) -> float:
    """How densely ours lays them in as many seconds: on shorter and shorter strips, each set out from the last.

    Where that does not go, from nothing by other chances; and where that does not either, on a strip less short.
    """
    layer.warm()
    area, end = sum(t.shape.area for t in asked), time.process_time() + seconds
    rings = {t.id: t.ring for t in asked}
    best, shorter, long, seed = np.inf, SHORTER, area / HIGH / 0.6, SEED
    begin = tuple[Laid, ...]()
    while (now := time.process_time()) < end:
        hide = Hide("strip", np.array([[0.0, 0], [long, 0], [long, HIGH], [0, HIGH]]))
        whole = Laying((hide,), tuple(asked))
        search = Search(whole, seed, begin)
        for _ in search.run():
            if time.process_time() >= min(end, now + PATIENCE * seconds if best < np.inf else end):
                break
        if search.all_lie:
            laid = begin = search.found().laid
            assert not list(exact.faults(whole, laid))
            best = max(float(one.of(rings[one.id])[:, 0].max()) for one in laid)
        elif best < np.inf:
            seed += 1
            begin, shorter = ((), shorter) if begin else (laid, shorter / 2)
        long = (1 - shorter) * best if best < np.inf else 1.1 * long
    return area / (best * HIGH)


def compared(count: int, turns: Turns, seconds: float) -> tuple[float, float]:
    """How densely the engine and ours lay so many pieces in the same seconds of work."""
    asked = pieces(count, turns)
    dense, took = theirs(asked, seconds)
    return dense, ours(asked, took)
