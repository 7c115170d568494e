"""Laying out for so long or so many steps, told of as it goes on."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Sequence
from functools import cache

import numpy as np

from tailor.core.cut.found import Found
from tailor.core.cut.gathered import gathered
from tailor.core.cut.laying import Hide, Laid, Laying, Template
from tailor.core.cut.search import Search

SECONDS = 10.0


def laid_out(
    laying: Laying, seed: int = 0, seconds: float | None = SECONDS, steps: int | None = None,
    tell: Callable[[float, int], object] | None = None, begin: Sequence[Laid] = (),
) -> Found:  # fmt: skip
    """Lay pieces out, until all lie and what is left is gathered, or the time (s of work, warm) or the steps are up.

    tell: called with the share laid so far and the steps taken; what it raises ends the search. begin: as they lay
    before. The same steps give the same layout; the same time need not.
    """
    warm()
    search = Search(laying, seed, begin)
    end = None if seconds is None else time.process_time() + seconds
    for _ in going_on(search):
        if tell is not None:
            tell(search.best[2], search.steps)
        if (end is not None and time.process_time() >= end) or (steps is not None and search.steps >= steps):
            break
    return search.found()


def going_on(search: Search) -> Iterator[None]:
    """Go on until all lie and, where nothing lay before, what is left is gathered; a step at a time."""
    yield from search.run()
    if not search.begun:
        yield from gathered(search)


@cache
def warm() -> None:
    """See that everything is compiled, which takes a good while the first time after it was installed."""
    square = np.array([[0.0, 0.0], [90.0, 0.0], [90.0, 90.0], [0.0, 90.0]])
    hide = Hide("warm", np.array([[0.0, 0.0], [130.0, 0.0], [130.0, 130.0], [0.0, 130.0]]))
    pieces = tuple(Template(str(n), "", square * size) for n, size in enumerate((1.0, 0.9, 0.2)))
    search = Search(Laying((hide,), pieces))
    for _, _ in zip(search.run(), range(600), strict=False):
        pass
    search.found()
