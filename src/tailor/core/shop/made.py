"""What is made: so many of a draft each, and the leathers that their pieces are cut of."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Piece, Role
from tailor.core.job import Job, draft
from tailor.core.maker import Maker, usual
from tailor.core.shop.leathers import Sort, Use, meant
from tailor.core.shop.orders import Order

USES = {"body": Use.BODY, "welt": Use.BODY, "lining": Use.LINING}


@dataclass(frozen=True)
class Made:
    """So many of a draft, of a thing of a name, in a leather of a temper."""

    draft: Draft
    name: str
    temper: str = "firm"
    count: int = 1


def made(job: Job, count: int = 1) -> Made:
    """So many of a job, drafted. Raises InputError where it cannot be."""
    return Made(draft(job), job.name, job.settings.word("leather.temper"), count)


def ordered(order: Order, maker: Maker | None = None) -> tuple[Made, ...]:
    """What an order asks for. maker: who makes it; None: one with what is shipped. Raises InputError where a job cannot
    be drafted.
    """
    return tuple(made(line.job.by(maker or usual()), line.count) for line in order.lines)


@dataclass(frozen=True)
class Leathered:
    """Pieces that are cut of one leather. sort: None where the shop has none like it. parts: of each thing its own."""

    use: Use
    thickness: float
    temper: str
    sort: Sort | None
    parts: tuple[tuple[Made, tuple[Piece, ...]], ...]

    @property
    def area(self) -> float:
        """Of all its pieces, mm²."""
        return sum(piece.area * piece.count * thing.count for thing, pieces in self.parts for piece in pieces)

    @property
    def said(self) -> str:
        return self.sort.name if self.sort else f"{self.use} leather {self.thickness:g} mm, {self.temper}"


def leathers(things: Iterable[Made], sorts: Sequence[Sort]) -> tuple[Leathered, ...]:
    """The leathers that things are made of, as the shop has them."""
    found = dict[object, Leathered]()
    for thing in things:
        mine = dict[tuple[Use, float], list[Piece]]()
        for piece in thing.draft.pieces:
            if piece.leather in USES and piece.role is not Role.TEMPLATE:
                mine.setdefault((USES[piece.leather], round(piece.thickness, 2)), []).append(piece)
        for (use, thick), pieces in mine.items():
            sort = meant(sorts, use, thick, thing.temper)
            key = sort.id if sort else (use, thick, thing.temper)
            before = found[key].parts if key in found else ()
            found[key] = Leathered(use, thick, thing.temper, sort, (*before, (thing, tuple(pieces))))
    return tuple(found.values())
