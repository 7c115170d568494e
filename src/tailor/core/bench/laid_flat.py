"""Laid flat: what is done to the pieces while they lie flat, from marking to the last fold before they are closed.

Source: craft, "Prepare flat".
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Sequence

from tailor.core.bench import drying, finishing, supplies
from tailor.core.bench.deriving import Deriving
from tailor.core.bench.folding import fold
from tailor.core.bench.labour import METRE, SQUARE
from tailor.core.bench.steps import DAMP, KNIFE, Doing
from tailor.core.bench.tooling import works
from tailor.core.draft.piece import Role, Seam

TAPE, PEEL = 2.0, 1.0  # minutes of hands
THIN, STAMP, TRIM = 4.0, 12.0, 6.0  # minutes of hands, each
WET = "Film round steel, and out within the hour: it rusts in wet leather."
ORDER = {
    "carve": "there is a line to cut",
    "bevel": "a cut edge holds the slope",
    "strike": "a texture is struck up to what is cut",
}  # what comes before work on a drawing


def prepared(on: Deriving) -> list[str]:
    """Marked, cut, thinned, stamped and dyed while it lies flat."""
    add, names = on.steps.add, tuple(piece.name for piece in on.cut)
    many, metres = sum(piece.count for piece in on.cut), on.deeds["cut"].amount
    look = "grain side, top and hand are on every piece"
    add(Doing("mark", "mark out the pieces", names, on.minutes("mark"), f"{many} pieces", look=look))
    look = "corner holes are punched before the cuts that run into them"
    cut = Doing("cut", "cut out", names, on.minutes("cut"), f"{metres:.2f} m and its corners", look=look,
                takes=tuple(supplies.sheets(on.made)))  # fmt: skip
    ready = [add(cut, ["mark"], "there is a line to cut")]
    for piece in on.cut:
        kinds = {rule.kind for rule in piece.rules}
        if "skive" in kinds:
            thin = Doing(f"thin {piece.name}", f"thin {piece.name}", (piece.name,), THIN, "where it is marked",
                         places=("skive",))  # fmt: skip
            ready.append(add(thin, ["cut"], "thinned while it lies flat"))
        if "stamp" in kinds:
            ready.append(_stamped(on, piece.name))
    ready += [_tooled(on, piece.name, list(ready)) for piece in on.cut if works(on.made, on.rates, piece.name)]
    if on.school.dyed == "before":
        ready.append(on.dyed(list(ready)))
    return ready


def _tooled(on: Deriving, name: str, after: Iterable[str]) -> str:
    """What is drawn on a piece, put on it while it lies flat, damp and backed; the step that takes the back off."""
    mine, add = (name,), on.steps.add
    add(Doing(f"back {name}", f"back {name} with tape or card", mine, TAPE, "once over",
              look="no edge of it shows"), after, "backed, so that it does not stretch under the tool")  # fmt: skip
    damp = add(Doing(f"damp {name} to tool", f"damp {name} for tooling", mine, DAMP, "once over, both faces"),
               [f"back {name}"], "what is damp takes no tape")  # fmt: skip
    last = damp
    for work in works(on.made, on.rates, name):
        doing = Doing(f"{work.verb} {name}", work.said, mine, work.minutes, work.why, "tooling", look=work.look,
                      caution=KNIFE if work.verb == "carve" else "", places=work.places)  # fmt: skip
        if last == damp:
            add(doing)
            on.steps.wait(damp, doing.key, "until it returns to its colour", on.dries(drying.CASED))
        else:
            add(doing, [last], ORDER[work.verb])
        last = doing.key
    peel = add(Doing(f"peel {name}", f"take the back off {name}", mine, PEEL, "once", look="no gum is left on it"))
    on.steps.wait(last, peel, "it dries flat, and keeps what is in it", on.dries(drying.TOOLED))
    return peel


def _stamped(on: Deriving, name: str) -> str:
    damp = Doing(f"damp {name}", f"damp {name} for its stamp", (name,), DAMP, "once over")
    look = "it has its own colour again, and lies on something hard"
    stamp = Doing(f"stamp {name}", f"stamp {name}", (name,), STAMP, "one mark", look=look, places=("stamp",))
    on.steps.add(damp, ["cut"], "stamped flat, before dye, oil or glue")
    on.steps.add(stamp)
    on.steps.wait(damp.key, stamp.key, "until it returns to its colour", on.dries(drying.CASED))
    return stamp.key


def blanks(on: Deriving) -> list[str]:
    """Blanks are moulded before they are sewn: wetted, pressed over the form, dried, trimmed by the template."""
    blanks, trimmed = [piece for piece in on.cut if piece.role is Role.BLANK], []
    look = "the blank lies flat round its form, with no pleat at the toe"
    for piece in blanks:
        name, minutes = (piece.name,), on.minutes("mould") / len(blanks)
        wet = Doing(f"mould {piece.name}", f"wet and mould {piece.name}", name, minutes, "one over its form",
                    look=look, caution=WET)  # fmt: skip
        trim = Doing(f"trim {piece.name}", f"trim {piece.name} by the template", name, TRIM, "once round")
        on.steps.add(wet, on.ready, "prepared while it was flat")
        on.steps.add(trim)
        on.steps.wait(wet.key, trim.key, "it dries slowly, and hardens", on.dries(drying.MOULDED), place="forms")
        trimmed.append(trim.key)
    return trimmed


def linings(on: Deriving) -> list[str]:
    """Linings and foam are glued on whole, before an edge that they share is finished."""
    joined = []
    for piece in on.cut:
        if piece.leather in ("lining", "foam"):
            area = piece.area * piece.count / SQUARE
            minutes = on.rates.glue_up * piece.count + on.rates.glue * area
            after = (*on.ready, *on.dry)
            joined.append(on.glued(piece.name, (piece.name,), minutes, f"{area:.3f} m²", area, after))
    return joined


def edge_first(on: Deriving, n: int) -> str:
    """An edge that is out of reach later is finished now, once what it is the edge of is whole."""
    edge = on.made.edges_first[n]
    plan = finishing.edge_first(on.made, edge)
    trimmed = [key for key in on.dry if on.steps[key].pieces == (edge.piece,)]
    doing = Doing(f"edge {n}", f"finish the edge of {edge}", (edge.piece,), on.rates.edge * plan.length / METRE,
                  f"{plan.length / METRE:.2f} m", "edges", places=("finish",), tools=plan.said(on.school),
                  uses=finishing.edge_used([plan], on.school))  # fmt: skip
    return on.steps.add(doing, (*on.ready, *trimmed, *on.lined), "finished while it can be reached")


def sewn_flat(on: Deriving) -> list[str]:
    """What is sewn on, or turned in and sewn, while all lies flat, by the piece that it is of."""
    of = dict[str, list[Seam]]()
    for seam in on.made.seams:
        if seam not in on.closes.seams:
            part = min(seam.pieces, key=lambda name: on.made.piece(name).area)  # it is less than what it is on
            of.setdefault(part, []).append(seam)
    sewn = []
    for name, seams in of.items():
        pairs = zip(on.edges, on.made.edges_first, strict=True)
        edges = [key for key, edge in pairs if edge.piece == name]
        what = f"{name} on" if any(len(seam.pieces) > 1 for seam in seams) else f"the {_common(seams) or name}"
        key = on.sew(what, seams, (*on.ready, *on.dry, *on.lined, *edges), "sewn while it lies flat")
        first = f"groove {what}" if f"groove {what}" in on.steps else f"pierce {what}"
        on.after_dye(first)
        sewn.append(key)
    return sewn


def hardware(on: Deriving) -> list[str]:
    """Hardware is set while an anvil reaches its back."""
    if not on.made.hardware:
        return []
    many = len(on.made.hardware)
    places = tuple(dict.fromkeys(item.place for item in on.made.hardware))
    names = tuple(dict.fromkeys(item.name for item in on.made.hardware))
    pieces = tuple(p.name for p in on.cut if any(fitting.name in names for fitting in p.fittings))
    doing = Doing("hardware", "set the hardware", pieces, on.minutes("hardware"), f"{many} pieces",
                  look="posts hold, and do not bend", places=(*places, *names), tools=_posts(on),
                  takes=tuple(supplies.hardware(on.made)))  # fmt: skip
    if not on.closes.seams:
        on.folds = [folded(on, name) for name in on.closes.by_folding()]
    after = (*on.ready, *on.dry, *on.lined, *on.edges, *on.flat, *on.folds)
    return [on.steps.add(doing, after, "set while its back can be reached, with the edges round it done")]


def _posts(on: Deriving) -> str:
    """Each kind of fastening, with the post that its stack takes."""
    found = dict[str, int]()
    for item in on.made.hardware:
        post = f" with post {item.post:g}" if item.post else ""
        said = f"{item.name}{post} through {item.stack:.1f} mm"
        found[said] = found.get(said, 0) + 1
    return "; ".join(f"{many} × {said}" for said, many in found.items())


def folded(on: Deriving, name: str) -> str:
    """A piece folded, after all that is done to it flat; the last step of it."""
    flat = [key for key in (*on.flat, *on.metal) if name in on.steps[key].pieces]
    edges = [key for key in on.edges if name in on.steps[key].pieces]
    last = [*on.ready, *on.dry, *on.lined, *edges, *flat]
    for doing, why, rest in fold(on.made, on.made.piece(name), on.school, on.dries(drying.CASED)):
        on.steps.add(doing, last if not rest else (), why)
        for key in last if rest else ():
            on.steps.wait(key, doing.key, why, rest)
        last = [doing.key]
    return last[0]


def _common(seams: Sequence[Seam]) -> str:
    """The words that the names of seams begin with alike, without their numbers."""
    words = [word for word, *_ in itertools.takewhile(lambda each: len(set(each)) == 1, zip(*(
        seam.name.split() for seam in seams), strict=False))]  # fmt: skip
    while words and (words[-1].isdigit() or words[-1] in ("row", "end")):
        words.pop()
    return " ".join(words)
