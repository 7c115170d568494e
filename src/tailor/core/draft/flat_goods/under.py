"""Under: carrying straps that go down the front of a body, under it and up its back, a ring in either end.

They are sewn on across, while the body lies flat: at both rims and beside the bottom. Round the bottom a strap lies a
thickness outside the body, so it is longer by the angle turned times that. Source: geometry, "Seam, stitch, cut".
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tailor.core import habit, measure
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.stitch.holes import Edge
from tailor.core.draft.worn.strips import Strip
from tailor.core.draft.worn.turned import half_round
from tailor.core.errors import InputError
from tailor.core.measure import Theme
from tailor.core.placed.lies import Swept
from tailor.core.shell.wrap import HALF_PI

MEASURES = (
    measure.pick("under.ring", Theme.SHAPE, "straps under", "straps under the body, by the rings in their ends", "none",
        ("none",), stock=("ring",)),
    measure.told("under.length", Theme.SHAPE, "strap under"),
)  # fmt: skip

NONE = "none"
BEFORE = habit.bench("under.before", 7.0, 4, 20, "from where a body begins to turn to a row of a strap under it")
CLEAR = habit.bench("under.clear", 8.0, 4, 20, "from a row of a strap under a body to other stitches")
BESIDE = habit.bench("under.beside", 2.0, 0, 40, "between two straps under a body, at the least")


@dataclass(frozen=True)
class Trough:
    """A body that lies flat: its name, its length from rim to rim, where its turns begin and end. mm.

    lies: how it lies. taken: along it, from where to where stitches of a pocket lie.
    """

    name: str
    length: float
    turns: tuple[float, float, float, float]
    lies: Swept
    taken: tuple[float, float] | None = None

    def outside(self, along: float, further: float) -> float:
        """How far along something is that lies so much further out, mm."""
        first, second = ((along - a) / (b - a) for a, b in (self.turns[:2], self.turns[2:]))
        return along + HALF_PI * further * float(np.clip(first, 0, 1) + np.clip(second, 0, 1))

    def free(self, along: float, clear: float) -> bool:
        """Whether a row at that length keeps so far clear of a pocket."""
        return self.taken is None or not self.taken[0] - clear < along < self.taken[1] + clear


def straps_under(work: Work, body: Trough, aside: float, half: float, below: float) -> None:
    """Straps under a body, if rings are asked for: two, or one where there is no room for two. aside: where they had
    best go, from its middle; half: from there to where it turns on either side; below: so far below the rim to begin,
    mm. Raises InputError where a strap that is asked for is wider than the body.
    """
    word = work.word("under.ring")
    if word == NONE:
        return
    ring, margin = work.settings.trimming("under.ring"), work.reasons["seam.margin"].value
    wide, leather = ring.inside - 1.0, work.leather_for("strap")
    places = _places(wide, aside, half, work.habit(BESIDE))
    if not places and "under.ring" in work.settings.pinned:
        raise InputError(f"a strap of {wide:.0f} mm is wider than the body under which it goes, {2 * half:.0f} mm",
                         "under.ring", "take a narrower ring, or none")  # fmt: skip
    if not places:
        work.say("under.length", 0.0, "no strap under it: the body is narrower than one", body=2 * half, strap=wide)
        return
    thick = leather.thickness
    beyond = (thick + work.pieces[body.name].thickness) / 2  # that its middle lies outside the body's
    turned, _ = half_round(leather, ring.wire, ring.wire)
    clear, before = work.habit(CLEAR), work.habit(BEFORE)
    first = below + margin + (clear if below else 0.0)
    end = 3 * margin + 2 * turned - first  # of the leg that is turned, beyond the rim
    wanted = (first, body.turns[0] - before, body.turns[3] + before, body.length - first)
    rows = [s for s in wanted if body.free(s, clear) and (s in wanted[::3] or first + clear < s < wanted[3] - clear)]
    length = body.outside(body.length, beyond)
    work.say("under.length", length + 2 * end, "under the body, a thickness outside it, and round a ring at either end",
        body=body.length, further=beyond, turned=turned)  # fmt: skip
    for side, x in places:
        name = f"{side} under strap"
        strip = Strip(wide / 2, -length - end, end)
        work.pieces[name] = strip.piece(name, thick, at=-0.25 * length)
        for k, s in enumerate(rows, 1):
            out = body.outside(s, beyond)
            sides = [(name, f"row {k}", _row(0.0, -out, wide, margin)),
                     (body.name, f"{side} strap {k}", _row(x, -s, wide, margin))]  # fmt: skip
            if s in (first, body.length - first):  # at a rim the end comes back to its row
                back = -out + (1 if k == 1 else -1) * (2 * margin + 2 * turned)
                sides.append((name, f"turned {k}", _row(0.0, back, wide, margin)))
            work.join(f"{name} row {k}", *sides, margin=margin)
        # A thickness outside the body, its ends turned out and down again, so that a ring hangs in each.
        back = margin + turned
        line = body.lies.line.beside(-beyond).longer(back - first).hemmed(back, thick, end + first - back, left=True)
        work.lie(name, Swept(body.lies.frame.moved((-x * body.lies.frame.out).tolist()), line))
        work.finish_first(name, "all round, before it is sewn on")
    work.trim(ring.name, "ends of the straps under it", "under.ring", 2 * len(places))


def _places(wide: float, aside: float, half: float, beside: float) -> list[tuple[str, float]]:
    """The sides and places across a body where straps so wide go under it. beside: mm between two."""
    if half >= wide + beside:
        x = float(np.clip(aside, (wide + beside) / 2, half - wide / 2))
        return [("right", x), ("left", -x)]
    return [("middle", 0.0)] if half >= wide / 2 else []


def _row(x: float, y: float, wide: float, margin: float) -> Edge:
    half = wide / 2 - margin
    return paths.edge(paths.straight((x - half, y), (x + half, y)), 0.0)
