"""Slung: a shoulder strap on a thing of flat panels, its rings in tabs riveted to two places."""

from __future__ import annotations

import numpy as np

from tailor.core import habit
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.parts.hanger import ring_tab
from tailor.core.draft.parts.sling import NONE, ring_for, strap_of
from tailor.core.draft.worn.turned import half_round
from tailor.core.placed.lies import Bent, Frame, upon
from tailor.core.placed.path import looped

RIVET = "rapid rivet 9"
OVER = habit.bench("tab.over", 10.0, 6, 25, "from the fold of a ring's tab to its rivet, at the least")


def slung(work: Work, on: str, *places: tuple[float, float], crosswise: bool = False) -> None:
    """A shoulder strap and two ring tabs, each riveted through its legs and the piece it is on, if one is asked for.

    crosswise: the tabs stand away along the piece's x, to its left; else along its y, to the nearer end.
    """
    word = work.word("strap.buckle")
    if word == NONE:
        return
    for key, rule in (
        ("length", "from ring to ring"),
        ("reach", "let out by so much"),
        ("pad", "foam for the shoulder"),
    ):
        work.given(f"strap.{key}", rule)
    buckle = work.settings.trimming("strap.buckle")
    ring = ring_for(work.settings.maker, buckle)
    leather = work.leather_for("strap")
    pieces, seams, halves, why = strap_of(work.settings, leather, buckle, ring, work.how)
    for piece in pieces:
        work.pieces[piece.name] = piece
    work.sewn += seams
    work.reasons |= {reason.name: reason for reason in why}
    turned, _ = half_round(leather, ring.wire, ring.wire)
    over = work.habit(OVER)
    for side, (x, y) in zip(("right", "left"), places, strict=True):
        name = f"{side} ring tab"
        tab = ring_tab(name, (f"{name} row 1", f"{name} row 2"), leather, np.empty(0), ring.inside - 1.0,
                       (turned, over), work.how.hole.value)  # fmt: skip
        work.pieces[name] = tab
        reach = turned + over + 2.0
        under = work.lies.get(on)
        if under is not None:  # one leg on the piece, the ring in its fold, the other leg back over the first
            base = upon(under, (x, y), (leather.thickness + work.pieces[on].thickness) / 2, crosswise)
            if crosswise or y < work.pieces[on].cut[:, 1].mean():  # its ring is towards the nearer end
                base = Frame(base.origin, -base.across, -base.up)
            work.lie(name, Bent(base, up=looped(2 * reach, reach, leather.thickness)))
        spots = (name, (0.0, reach)), (name, (0.0, -reach)), (on, (x, y))
        work.fit(RIVET, f"{name}, on the {on}", "strap.buckle", *spots)
        work.finish_first(name, "all round, before it is riveted on")
    work.sling = halves
    work.drawn += halves.with_it(pieces)
    work.rings += (rings := halves.rings(("right ring tab", "left ring tab"), ring, buckle))
    for name, lie in halves.between(rings[:2], work.lies).items():
        if name in work.pieces:
            work.lie(name, lie)
    work.trim(ring.name, "ends of the strap", "strap.buckle", 2)
    work.trim(buckle.name, "shoulder strap", "strap.buckle")
