"""What a draft needs besides leather: hardware by its post, thread by its length, glue by the area that is glued."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from tailor.core.bench.labour import GLUE, SQUARE, glued
from tailor.core.draft.draft import Draft
from tailor.core.shop.made import Made
from tailor.core.shop.stock import Kind, Need, together

SHEETS = {"foam": Kind.FOAM, "board": Kind.BOARD, "webbing": Kind.WEBBING, "card": Kind.CARD}
SPARE = 1.1  # of sheets, for what falls between pieces


def needs(things: Iterable[Made]) -> tuple[Need, ...]:
    """What things need together, each need with the things that it is for."""
    return together(
        Need(n.kind, n.name, n.size, n.amount * thing.count, thing.name) for thing in things for n in _of(thing.draft)
    )


def _of(made: Draft) -> Iterator[Need]:
    for item in made.hardware:
        yield Need(Kind.HARDWARE, item.name, item.post or 0.0, 1.0, item.place)
    thread = sum(seam.thread for seam in made.seams)
    if thread:
        yield Need(Kind.THREAD, "thread", made.value("stitch.thread"), thread / 1000, "seams")
    for piece in made.pieces:
        if piece.leather in SHEETS:
            area = SPARE * piece.area * piece.count / SQUARE
            yield Need(SHEETS[piece.leather], piece.leather, piece.thickness, area, piece.name)
    if (area := glued(made)) > 0:
        yield Need(Kind.GLUE, "glue", 0.0, GLUE * area / SQUARE, "what is glued")
