"""Tooling: the work of putting on leather what is drawn on it, counted on the draft.

Source: craft, "Tooling, lettering, marks".
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from tailor.core.bench.rates import Rates
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Piece
from tailor.core.draft.tooled.asked import Filling, Tooling
from tailor.core.draft.tooled.came import Tooled

SETTING_OUT = 3.0  # minutes that laying out takes, whatever it is
STRIKES = {Filling.SEED: 9.0, Filling.RANDOM: 40.0}  # mm² that a stamp covers


@dataclass(frozen=True)
class Work:
    """Work of one kind on one piece: what it is called, minutes of hands and why so many, what to look to, and the
    kinds of line that it is done to.
    """

    verb: str
    said: str
    minutes: float
    why: str
    look: str
    places: tuple[str, ...]


def works(made: Draft, rates: Rates, on: str | None = None) -> tuple[Work, ...]:
    """The tooling of a draft, or of one piece of it by its name, in the order that it is done."""
    return tuple(work for piece in made.pieces if on in (None, piece.name) for work in _of(made, rates, piece))


def _of(made: Draft, rates: Rates, piece: Piece) -> Iterator[Work]:
    mine = [put for put in made.tooled if put.field is not None and put.piece == piece.name]
    name, many = piece.name, piece.count
    drawn = many * sum(put.metres for put in mine if not isinstance(put.asked, Tooling))
    border = many * sum(put.metres for put in mine if isinstance(put.asked, Tooling))
    struck = many * sum(map(_strikes, mine))
    if drawn or struck:
        yield Work("trace", f"trace on {name} what is tooled", rates.trace * drawn + SETTING_OUT,
                   f"{drawn:.2f} m, and the guide", "the right way round, and clear of every hole",
                   ("picture", "mark", "guide"))  # fmt: skip
    if drawn or border:
        yield Work("carve", f"cut the lines on {name}", rates.carve * (drawn + border), f"{drawn + border:.2f} m",
                   "no deeper than half the leather, and no line runs over another",
                   ("picture", "mark", "border"))  # fmt: skip
    if drawn:
        yield Work("bevel", f"bevel the lines on {name}", rates.bevel * drawn, f"{drawn:.2f} m",
                   "one smooth slope, with no step from stroke to stroke", ("picture", "mark"))  # fmt: skip
    if struck:
        yield Work("strike", f"strike the texture on {name}", rates.strike * struck, f"{struck:.0f} times the stamp",
                   "each as deep as the last, along the guide", ("texture", "guide"))  # fmt: skip


def _strikes(put: Tooled) -> float:
    """How often a stamp is struck."""
    if put.repeats is not None:
        return put.repeats.whole + put.repeats.parts
    if not isinstance(put.asked, Tooling) or put.asked.filling not in STRIKES:
        return 0.0
    return put.area / STRIKES[Filling(put.asked.filling)]
