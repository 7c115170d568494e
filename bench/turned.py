"""A case turned in the round: a frame of it against copying the picture, and putting it together against its draft."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from tailor import demo
from tailor.core.checks import carry, together
from tailor.core.draft.draft import Fitted
from tailor.core.job import draft
from tailor.core.together import mesh, sheet
from tailor.core.together.assembled import Assembled
from tailor.core.together.closing import Closing
from tailor.core.together.drawn import drawn, ready
from tailor.core.together.ridden import sitting
from tailor.core.together.solids import Sight, Solids
from tailor.desk.turning import dyes

SIZE, COUNT = (900, 700), 30_000


def works() -> tuple[Callable[[], object], Callable[[], object], int]:
    """Copying a picture, drawing one of some thirty thousand triangles lit and outlined, and how many there are."""
    ready()
    parts, n = list[Solids](), 0
    for name in ("shears", "crew-cards", "peg-tray", "spar-bag", "radio", "site-book"):
        closing = Closing(Assembled(draft(demo.job(name)).unmarked()), dyes())
        solids = closing.at(float(len(closing.steps)))
        if n + len(solids.triangles) > 1.1 * COUNT:
            continue
        parts.append(solids)
        n += len(solids.triangles)
    whole = Solids.of(*parts)
    low, high = whole.corners.min(axis=0), whole.corners.max(axis=0)
    sight = Sight(-28.0, 18.0, (low + high) / 2, 0.9 * SIZE[1] / float(np.linalg.norm(high - low)))
    picture = drawn(whole, sight, SIZE)
    return picture.copy, lambda: drawn(whole, sight, SIZE), n


def checked(name: str) -> tuple[Callable[[], object], Callable[[], object]]:
    """Drafting a demo, and drafting it, putting it together and judging that."""
    job = demo.job(name)

    def judged() -> object:
        for known in (mesh.celled, mesh.parted, sheet.over):
            known.cache_clear()
        made = draft(job).unmarked()
        whole = Assembled(made)
        said = list(together.verdicts(job.settings, made, whole))
        sat = sitting(job.settings, made, whole)
        return [*said, *(carry.verdicts(job.settings, made, sat) if isinstance(made, Fitted) else ())]

    return lambda: draft(job), judged
