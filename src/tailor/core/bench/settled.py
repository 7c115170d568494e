"""Schools as they are settled for one thing: by its draft, where leather is cut for them, else by the maker's own.

Source: craft, "Where makers disagree".
"""

from __future__ import annotations

from tailor.core.bench.schools import QUESTIONS, School, Taken
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Role
from tailor.core.leather.stitching import MAKINGS, METHODS

MOULDED = {
    "before the seam": "each blank over its form: it is trimmed and holed dry, by the template it was drafted with",
    "after the seam": "with the object in it: leather settles where it is sewn",
    "not at all": "it is drawn taut, and holds what is in it by its seam",
}
WELTED = {
    "cut proud": "wider than it will be, and trimmed with all layers: one edge, whatever creeps while it is glued",
    "cut to size": "nothing to trim: as exact as it is laid in",
    "none": "nothing sharp comes near the thread, and two layers meet",
}


def settled(made: Draft, school: School, folds: bool) -> tuple[Taken, ...]:
    """The schools that a draft is made by, those that leather is cut for first. folds: it is folded to be closed."""
    welts = [piece for piece in made.pieces if piece.role is Role.WELT]
    blanks = any(piece.role is Role.BLANK for piece in made.pieces)
    mould = "before the seam" if blanks else "after the seam" if made.wet else "not at all"
    welt = "none" if not welts else "cut proud" if any(w.trim is not None for w in welts) else "cut to size"
    found = [Taken("mould", mould, MOULDED[mould], "mould.method"), Taken("welt", welt, WELTED[welt], "welt.proud")]
    for seam in made.seams[:1]:
        found.append(Taken("hole", seam.holed, MAKINGS[seam.holed].said, "stitch.holes"))
        found.append(Taken("stitch", seam.method, METHODS[seam.method].said, "stitch.method"))
    for question, those in QUESTIONS.items():
        word = school.dyed if question == "dye" else getattr(school, question)
        if question == "fold" and not folds:
            continue
        found.append(Taken(question, word, school.why_dyed if question == "dye" else those[word]))
    return tuple(found)
