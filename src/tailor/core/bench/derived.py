"""The steps that a draft asks for, from marking to the last wax, and what must come before what.

Nothing is a list: what is sewn while it lies flat, what closes the case, which edges are out of reach once it is
closed, which hardware wants an anvil inside, what is moulded and must dry, follow from the draft. Minutes are counted
on it, as labour is. Source: craft, "The order of work".
"""

from __future__ import annotations

from collections.abc import Collection, Sequence

from tailor.core.bench import drying, finishing, seamwork
from tailor.core.bench.deriving import Deriving
from tailor.core.bench.labour import METRE, SQUARE, glued
from tailor.core.bench.laid_flat import WET, blanks, edge_first, folded, hardware, linings, prepared, sewn_flat
from tailor.core.bench.rates import Rates
from tailor.core.bench.schools import GLUES, School
from tailor.core.bench.steps import Doing, Steps
from tailor.core.bench.whole import put_together
from tailor.core.carried.zones import ZoneKind
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import LAID_IN, Seam
from tailor.core.maker import Maker, usual

BOARD, TRY = 3.0, 5.0  # minutes of hands
BLADE = "Tape or sheath the blade while fitting, and never test the draw towards the hand; check your local law."
LIVE = "Fit with an inert dummy or an isolated tool, never a live one; what holds it is not certified."


def derived(
    made: Draft, rates: Rates | None = None, school: School | None = None, zones: Collection[ZoneKind] = (),
    maker: Maker | None = None,
) -> Steps:  # fmt: skip
    """The steps of one of a draft, by a maker's rates, school and habits. zones: kinds that there are on the object."""
    on = Deriving(made.unmarked(), rates or Rates(), school or School(), zones, maker or usual())
    on.ready = prepared(on)
    on.dry = blanks(on)
    on.lined = linings(on)
    on.edges = [edge_first(on, n) for n in range(len(made.edges_first))]
    on.flat = sewn_flat(on)
    on.metal = hardware(on)
    if on.closes.seams:
        on.folds = [folded(on, name) for name in on.closes.by_folding()]
    _finish(on, _closed(on))
    _never_again(on)
    joined = [(seam.name, on.closes.joined(seam)) for seam in on.closes.seams]
    put_together(on.steps, tuple(piece.name for piece in on.cut), joined, (*on.flat, *on.metal, *on.lined))
    return on.steps


def _closed(on: Deriving) -> list[str]:
    """The seams that close it, one after another: glued, trued, pierced, sewn."""
    flat = [*on.ready, *on.dry, *on.lined, *on.edges, *on.flat, *on.metal]
    last = [*flat, *on.folds]
    whole = sum(p.area * p.count for p in on.cut if p.leather in LAID_IN)
    area = max(glued(on.made) - whole, 0.0) / SQUARE
    length, press = sum(seam.length for seam in on.made.seams), GLUES[on.school.glue].press
    for seam in on.closes.seams:
        faces, what = len(seam.edges) - 1, seam.name if "seam" in seam.name else f"the {seam.name} seam"
        mine, pieces = area * seam.length / length, on.closes.joined(seam)
        apart = seamwork.pierced_apart([seam])
        if apart:
            holed = on.pierced(what, [seam], pieces, flat, "each piece is holed by itself while it lies flat")
            last = [*last, holed]
        minutes = on.rates.glue_up * faces + on.rates.glue * mine
        joined = on.glued(what, pieces, minutes, f"{faces} face{'s' * (faces > 1)}", mine, last, seam.name)
        true = _trued(on, what, seam, pieces, joined, press)
        if apart:
            sew = seamwork.sew(on.made, what, [seam], pieces, on.rates, on.school)
            last = [on.steps.add(sew, [true], "layers lie hole on hole, and are glued")]
        else:
            last = [on.sew(what, [seam], [true], "only a true edge gives a line that lands on both faces")]
    return last


def _trued(on: Deriving, what: str, seam: Seam, pieces: tuple[str, ...], joined: str, press: int) -> str:
    """Trimmed and trued once the glue has taken; the last of these steps."""
    first, *more = seamwork.trued(on.made, what, seam, pieces)
    last = on.steps.add(first)
    on.steps.wait(joined, last, "held until the glue has taken", press, place="clamps" if press else "")
    for doing in more:
        last = on.steps.add(doing, [last], "what stands proud is gone")
    return last


def _never_again(on: Deriving) -> None:
    """What can never be mended, whatever lies between: light thread that is dyed, leather moulded over wax."""
    for doing in on.steps.doings:
        if doing.key.startswith("sew ") and on.school.dyed == "before" and on.school.thread == "light":
            on.steps.wait("dye", doing.key, "light thread takes dye, and never gives it back", 0, shuts=True)
        if doing.key.split()[0] == "mould":
            why = "wax keeps water out, and what is moulded is moulded wet"
            on.steps.wait(doing.key, "wax", why, 0, shuts=True)


def _finish(on: Deriving, last: list[str]) -> None:
    """What is done with the whole: boards, moulding if it was not, edges, dye, wax; and it is tried."""
    add, whole = on.steps.add, on.leather
    if boards := [piece for piece in on.cut if piece.leather == "board"]:
        names = tuple(piece.name for piece in boards)
        put = Doing("boards", "put the boards in", names, BOARD * len(boards), f"{len(boards)} boards")
        last = [add(put, last, "boards go in once it is put together")]
    moulded = on.made.wet and not on.dry
    if moulded:
        look = "it clicks: leather has locked into the hollows"
        minutes = on.minutes("mould")
        wet = Doing("mould", "wet and mould it, with the object in", whole, minutes, "one", look=look, caution=WET)
        last = [add(wet, last, "moulded before wax, which keeps water out")]
    first = sum(on.steps[key].minutes for key in on.edges)
    plan = finishing.of_the_whole(on.made, on.closes.seams, METRE * first / on.rates.edge)
    minutes = max(on.minutes("edges") - first, 0.0)
    edges = finishing.edge_work(plan, minutes, whole, on.rates, on.school)
    last = [add(edges, last, "layers are trued and sewn")]
    if moulded:
        on.steps.wait("mould", "edges", "it dries slowly, and hardens", on.dries(drying.MOULDED), place="forms")
    if on.school.dyed == "after":
        last = [on.dyed(last)]
    _sealed(on, finishing.coats(on.made, edges, on.rates, on.school), last)
    look = "goes in without a fight, holds upside down, comes out"
    add(Doing("try", "try it with the object, and write down how it came out", whole, TRY, "once", look=look,
              caution=_caution(on)))  # fmt: skip
    on.steps.wait("wax", "try", "until the coat is dry", on.dries(drying.COATED), place="line")


def _sealed(on: Deriving, coats: Sequence[Doing], last: list[str]) -> None:
    """Coats one after another, each once what is on it is dry."""
    coated = on.dries(drying.COATED)
    wet = {"dye": on.dries(drying.DYED), "coat": coated, "edges": coated if on.school.finish == "paint" else 0}
    for coat in coats:
        on.steps.add(coat)
        for key in last:
            dries = wet.get(key, 0)
            keeps = "finish" if on.school.finish == "resin" else "wax"
            why = "until what is on it is dry" if dries else f"{keeps} keeps dye and water out"
            on.steps.wait(key, coat.key, why, dries, place="line" if dries else "")
        last = [coat.key]


def _caution(on: Deriving) -> str:
    """What to look out for while it is tried."""
    if ZoneKind.TRIGGER in on.zones:
        return LIVE
    return BLADE if ZoneKind.EDGE in on.zones or ZoneKind.POINT in on.zones else ""
