"""Additions: what can be sewn on any piece while it lies flat: pockets of every make, loops, straps, tabs, patches.

A moulded pocket and a loop bow over a small tool. Source: craft, "Numbers that makers carry in their heads".
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from tailor.core import habit
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.bow import STEEP, bowed, bowed_over
from tailor.core.draft.parts.hanger import ring_tab
from tailor.core.draft.parts.pockets import bellows, gusseted, plain, puckered, rounding, u_line
from tailor.core.draft.parts.wanted import BRIM, CORNER, SEAT, Addition, Sewing, SewnRow, Wanted, finished
from tailor.core.draft.piece import Fitting, panel
from tailor.core.draft.stitch.holes import Edge
from tailor.core.draft.worn.carry import ROW_GAP, row_places
from tailor.core.draft.worn.straps import hole_row
from tailor.core.draft.worn.strips import Strip, crosswise
from tailor.core.draft.worn.turned import half_round
from tailor.core.placed.domed import Domed
from tailor.core.placed.lies import FRONT, Bent
from tailor.core.placed.path import looped

PLAY = habit.bench("patch.play", 0.5, 0.2, 3, "of room round a tool in a loop that is sewn on")
STRAP_HOLES = (25.0, 60.0, 15.0)  # mm: from a strap's end, over so much, so far apart


def tool_rows(w: Wanted, kind: str) -> tuple[float, float]:
    """Between the rows on the seat, and between them on the sheet over a small tool, mm. Moulded, it slopes down."""
    steep = w.habit(STEEP) if kind == "loop" else w.leather.approach
    return bowed_over(w.leather, w.number("tool") + 2 * w.habit(PLAY), steep)


def _moulded(w: Wanted) -> Addition:
    """A pocket moulded over a small tool, round its end too: its toe is as round as its seat is wide.

    Along the sides and the foot its edges are as long as their seat's; what is over is taken up round the toe.
    """
    flat, over = tool_rows(w, "moulded pocket")
    more = (over - flat) / 2
    toe = 0.98 * flat / 2
    own = u_line(w, over / 2, w.margin - more, w.tall, toe + more)
    seat = u_line(w, flat / 2, w.margin, w.tall, toe)
    out, turn = over / 2 + w.margin, toe + more + w.margin
    outline = paths.closed(paths.box(-out, -more, out, w.tall), (turn, turn, 1.0, 1.0))
    made = finished(panel(w.name, outline, w.leather.thickness, said=" · mould before sewing"))
    sewing = Sewing(w.name, ((w.name, w.name, own), (SEAT, w.under, seat)))
    line = bowed(w.leather, w.number("tool") + 2 * w.habit(PLAY), flat, over)
    return Addition(
        (made,), "upper edge", flat / 2 + w.margin, w.tall, sewings=(sewing,), fullness=more / (toe + more),
        lies={w.name: Domed(line, flat / 2 - toe, w.margin + toe, w.leather.thickness / 2)},
    )  # fmt: skip


def _loop(w: Wanted) -> Addition:
    """A band over a small tool, sewn down on either side of it."""
    flat, over = tool_rows(w, "loop")
    half = over / 2 + w.margin
    made = panel(w.name, np.array(paths.box(-half, 0.0, half, w.tall)), w.leather.thickness)
    made = finished(made, whole=True)
    first = w.habit(BRIM) * w.margin
    sewings = []
    for side, way in (("left", -1.0), ("right", 1.0)):
        runs = [paths.edge(paths.straight((way * x, 0.0), (way * x, w.tall)), first) for x in (over / 2, flat / 2)]
        seam = f"{w.name} {side}"
        sewings.append(Sewing(seam, ((w.name, side, runs[0]), (SEAT, f"{w.under}, {side}", runs[1]))))
    line = bowed(w.leather, w.number("tool") + 2 * w.habit(PLAY), flat, over)
    return Addition(
        (made,), "all round", flat / 2 + w.margin, w.tall, sewings=tuple(sewings),
        lies={w.name: Bent(FRONT.moved((0.0, 0.0, w.leather.thickness / 2)), across=line)},
    )  # fmt: skip


def _strap(w: Wanted) -> Addition:
    """A strap sewn on by its foot with two rows, holes for a buckle's tongue towards its end."""
    places = row_places(w.wide, w.margin, w.pitch)
    names = (f"{w.name} row 1", f"{w.name} row 2")
    heights = (w.margin, w.margin + ROW_GAP)
    rows, holes = crosswise(names, "tab", places, heights, w.hole)
    beyond, over, apart = STRAP_HOLES
    tongued = tuple(Fitting("hole", 0.0, float(w.tall - v), 4.0, 4.0) for v in hole_row(w.tall, beyond, over, apart))
    made = Strip(w.wide / 2, 0.0, w.tall, tongue=0.6 * w.wide).piece(
        w.name, w.leather.thickness, rows, holes, tongued, at=0.45 * w.tall
    )
    on = tuple(SewnRow(n, w.name, ("tab",), row) for n, row in zip(names, rows, strict=True))
    return Addition((finished(made, whole=True),), "all round", w.wide / 2, heights[1] + w.margin, rows=on,
        plane={w.name: w.leather.thickness / 2})  # fmt: skip


def _ring_tab(w: Wanted) -> Addition:
    """A ring in a tab, its two legs sewn on together."""
    ring = w.maker.trimming(w.word("ring"), f"{w.name}, its ring")
    turned, _ = half_round(w.leather, ring.wire, ring.wire)
    places = row_places(ring.inside - 1.0, w.margin / 2, w.pitch)
    names = (f"{w.name} row 1", f"{w.name} row 2")
    made = ring_tab(w.name, names, w.leather, places, ring.inside - 1.0, (turned, w.margin), w.hole)
    high = 2 * w.margin + ROW_GAP
    on = tuple(
        SewnRow(n, w.name, ("tab", "turned"), np.column_stack([places, np.full(len(places), y)]))
        for n, y in zip(names, (high - w.margin, w.margin), strict=True)
    )
    half = (ring.inside - 1.0) / 2
    reach, thick = float(made.cut[:, 1].max()) - high, w.leather.thickness
    lie = Bent(FRONT.moved((0.0, high, thick / 2)), up=looped(reach + high, reach, thick))
    return Addition((made,), "all round", half, high, rows=on, rings=(ring.name,), lies={w.name: lie})


def _reinforcement(w: Wanted) -> Addition:
    brim = w.habit(BRIM)
    half, corner = w.wide / 2, min(w.habit(CORNER), 0.3 * w.wide, 0.3 * w.tall)
    x, low, high = half - w.margin, w.margin, w.tall - w.margin
    ring = [(0.0, high), (-x, high), (-x, low), (x, low), (x, high), (0.5, high)]
    line, corners = paths.bent(ring, rounding(w, x, low, w.tall))
    seat = Edge(line, (brim * w.margin, *corners, line.length - brim * w.margin))
    outline = paths.closed(paths.box(-half, 0.0, half, w.tall), corner)
    made = finished(panel(w.name, outline, w.leather.thickness), whole=True)
    sewing = Sewing(w.name, ((w.name, w.name, seat), (SEAT, w.under, seat)))
    return Addition((made,), "all round", half, w.tall, sewings=(sewing,),
        plane={w.name: w.leather.thickness / 2})  # fmt: skip


MAKES: dict[str, Callable[[Wanted], Addition]] = {
    "pocket": plain, "puckered pocket": puckered, "bellows pocket": bellows, "gusseted pocket": gusseted,
    "moulded pocket": _moulded, "loop": _loop, "strap": _strap, "ring tab": _ring_tab, "reinforcement": _reinforcement,
}  # fmt: skip
