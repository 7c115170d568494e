"""Pictures of a thing as it closes, for each step at which other pieces are together."""

from __future__ import annotations

import zlib
from collections.abc import Iterator, Mapping

import numpy as np

from tailor.core.bench.steps import Steps
from tailor.core.draft.draft import Draft
from tailor.core.shop.agenda import Closed
from tailor.core.together.assembled import Assembled
from tailor.core.together.closing import Closing
from tailor.core.together.solids import Sight

SIZE = 300, 260  # px
FULL = 0.9  # of it, that the whole fills


def pictures(line: str, made: Draft, steps: Steps, dyes: Mapping[str, tuple[int, int, int]]) -> Iterator[Closed | None]:
    """All of one thing's, in the end; None while they are made. The eye and the size are those of the whole,
    but for what hangs from it, as a strap, which runs out of the picture.
    """
    from tailor.core.together.drawn import drawn

    wanted = dict.fromkeys(steps.together.values())
    whole = made.unmarked()
    if not wanted or not whole.lies:
        return
    closing = Closing(Assembled(whole), dyes)
    yield None
    every = closing.only([piece.name for piece in whole.pieces if piece.name not in closing.swinging])
    turned = (every.corners - every.corners.mean(axis=0)) @ Sight().ways.T
    low, high = turned.min(axis=0), turned.max(axis=0)
    scale = FULL * float(min(SIZE[0] / (high - low)[0], SIZE[1] / (high - low)[1]))
    about = every.corners.mean(axis=0) + ((low + high) / 2) @ Sight().ways
    found = dict[tuple[str, ...], bytes]()
    for names in wanted:
        if not set(names) & set(whole.lies):
            continue
        solids = closing.only(names)
        picture = drawn(solids.mirrored() if made.mirrored else solids, Sight(about=about, scale=scale), SIZE)
        found[names] = zlib.compress(np.ascontiguousarray(picture).tobytes(), 1)
        yield None
    yield Closed(line, found, SIZE)
