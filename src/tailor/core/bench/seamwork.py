"""Seamwork: how a seam is grooved, marked, holed and sewn, by what it is holed with and the maker's school of groove.

Source: craft, "Glue, sew, true up" and "Where makers disagree".
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from tailor.core.bench import supplies
from tailor.core.bench.labour import METRE, holing
from tailor.core.bench.rates import Rates
from tailor.core.bench.schools import School
from tailor.core.bench.steps import KNIFE, Doing
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Role, Seam
from tailor.core.leather.stitching import MAKINGS

GROOVING, FLUSH, TRUE = 2.0, 3.0, 5.0  # minutes: a metre of one face grooved, a metre trimmed flush, a seam trued
THIN = 1.5  # mm: thinner leather is not grooved, half of it would be gone
OVER_EDGES = ("whip", "lacing", "baseball")  # stitches that lie over an edge and in no groove
HOT = "Melting thread ends: it burns."
DRILL = "Drill: work clamped, dust mask, eye protection, sleeves clear."
SANDER = "Sander: dust mask, eye protection, fingers clear."
GOUGE = "Groover: it cuts; keep the other hand behind it."


def groove(made: Draft, what: str, seams: Sequence[Seam], pieces: tuple[str, ...], school: School) -> Doing | None:
    """A groove for the stitches of seams, on the faces the school has it on; None where there is none."""
    grooved = [seam for seam in seams if seam.method not in OVER_EDGES]
    leather = [piece for piece in made.pieces if piece.name in pieces and piece.leather == "body"]
    outer = min((piece.thickness for piece in leather), default=0.0)
    if school.groove == "none" or not grooved or outer < THIN:
        return None
    faces, metres = (2 if school.groove == "both" else 1), sum(seam.length for seam in grooved) / METRE
    sides = "both faces" if faces == 2 else "the show side"
    set_to = f"groover {made.value('seam.margin'):.1f} mm from the edge" if "seam.margin" in made.reasons else ""
    return Doing(f"groove {what}", f"groove {what}", pieces, GROOVING * metres * faces, f"{metres:.2f} m on {sides}",
                 look="one depth, and none beyond the last hole", caution=GOUGE,
                 places=tuple(seam.name for seam in grooved), tools=set_to)  # fmt: skip


def pierced_apart(seams: Iterable[Seam]) -> bool:
    """Whether each piece is holed by itself, while it lies flat: so their counts have to match, and nothing is pierced
    through.
    """
    return all(not MAKINGS[seam.holed].all_at_once for seam in seams)


def pierce(made: Draft, what: str, seams: Sequence[Seam], pieces: tuple[str, ...], rates: Rates) -> Doing:
    """The stitch line marked, and its holes made; a needle makes them itself."""
    making = MAKINGS[seams[0].holed]
    holes = sum(seam.count * len(seam.edges) for seam in seams)
    minutes = sum(holing(seam, rates) for seam in seams)
    places, own = tuple(seam.name for seam in seams), seams[0].holed == "needle"
    chords = " and ".join(dict.fromkeys(f"{seam.chord:.2f}" for seam in seams))
    if own:
        metres = sum(seam.length for seam in seams) / METRE
        return Doing(f"pierce {what}", f"mark the line of {what}", pieces, minutes, f"{metres:.2f} m", places=places,
                     look="the line runs on without a bump",
                     tools=f"stitches {chords} mm; the needle makes its holes")  # fmt: skip
    wide = f"; holes {made.value('seam.hole'):g} mm" if "seam.hole" in made.reasons else ""
    through = f"; through {max(seam.stack for seam in seams):.1f} mm" if making.all_at_once else "; each by itself"
    look = "holes lie on each other on both faces" if making.all_at_once else "as many on each of them"
    return Doing(f"pierce {what}", f"mark and pierce {what}", pieces, minutes, f"{holes} holes", look=look,
                 caution=DRILL if seams[0].holed == "drill" else "", places=places,
                 tools=f"dividers {chords} mm{wide}, {making.said}{through}")  # fmt: skip


def trued(made: Draft, what: str, seam: Seam, pieces: tuple[str, ...]) -> tuple[Doing, ...]:
    """What was cut proud trimmed flush, if anything was, and all layers trued as one."""
    true = Doing(f"true {what}", f"true up {what}", pieces, TRUE, "all layers together",
                 look="one edge, all layers flush", caution=SANDER, places=(seam.name,))  # fmt: skip
    joined = (piece for piece in made.pieces if piece.name in seam.pieces and piece.role not in (
        Role.BLANK, Role.TEMPLATE))  # fmt: skip
    if all(piece.trim is None for piece in joined):
        return (true,)
    metres = seam.length / METRE
    trim = Doing(f"trim {what}", f"trim {what} flush with its panel", pieces, FLUSH * metres,
                 f"{metres:.2f} m that was cut proud", caution=KNIFE, places=(seam.name,),
                 look="the knife leans on the panel, and never into it")  # fmt: skip
    return trim, true


def sew(made: Draft, what: str, seams: Sequence[Seam], pieces: tuple[str, ...], rates: Rates, school: School) -> Doing:
    """Sewn by its method; and the thread that is cut off for it."""
    minutes = sum(seam.seconds for seam in seams) / 60 * rates.sewn
    stitches = sum(seam.count for seam in seams)
    size = f" {made.value('stitch.thread'):g} mm" if "stitch.thread" in made.reasons else ""
    thread = f"{school.thread} thread{size}, " + ", ".join(f"{seam.thread / METRE:.2f} m" for seam in seams)
    return Doing(f"sew {what}", f"sew {what}", pieces, minutes, f"{stitches} stitches, {seams[0].method}", "thread",
                 "machine" if made.bed else "", "level on both faces", HOT, tuple(seam.name for seam in seams),
                 uses=thread, takes=tuple(supplies.thread(made, seams)))  # fmt: skip
