"""Supplies: what a draft takes besides leather: hardware by its post, thread by its length, glue and sheets by area."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from enum import StrEnum

from tailor.core.bench.labour import GLUE, METRE, SQUARE
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Seam

SPARE = 1.1  # of sheets, for what falls between pieces


class Kind(StrEnum):
    """What an article is, and so what it is counted in."""

    HARDWARE = "hardware"
    THREAD = "thread"
    GLUE = "glue"
    FOAM = "foam"
    BOARD = "board"
    WEBBING = "webbing"
    CARD = "card"
    OTHER = "other"


UNITS = {
    Kind.HARDWARE: "pieces", Kind.THREAD: "m", Kind.GLUE: "ml", Kind.FOAM: "m²", Kind.BOARD: "m²",
    Kind.WEBBING: "m²", Kind.CARD: "m²", Kind.OTHER: "pieces",
}  # fmt: skip
WHOLE = (Kind.HARDWARE, Kind.OTHER)  # bought in whole numbers
SHEETS = {"foam": Kind.FOAM, "board": Kind.BOARD, "webbing": Kind.WEBBING, "card": Kind.CARD}


@dataclass(frozen=True)
class Need:
    """So much of something, in the unit of its kind. size: mm, of a post, or how thick. why: what for."""

    kind: Kind
    name: str
    size: float
    amount: float
    why: str

    @property
    def unit(self) -> str:
        return UNITS[self.kind]

    @property
    def said(self) -> str:
        """What it is, in words."""
        sizes = {Kind.HARDWARE: f", post {self.size:g}", Kind.GLUE: "", Kind.OTHER: ""}
        return self.name + (sizes.get(self.kind, f" {self.size:g} mm") if self.size else "")

    @property
    def amounting(self) -> str:
        """How much, in words."""
        return f"{self.amount:.0f}" if self.kind in WHOLE else f"{self.amount:.3g} {self.unit}"


def together(needs: Iterable[Need]) -> tuple[Need, ...]:
    """Needs of the same thing as one, by kind, name and size."""
    found = dict[tuple[Kind, str, float], Need]()
    for need in needs:
        same = need.kind, need.name, round(need.size, 2)
        before = found.get(same)
        why = need.why if before is None or need.why in before.why.split(", ") else f"{before.why}, {need.why}"
        found[same] = Need(*same, need.amount + (before.amount if before else 0.0), why)
    return tuple(found[key] for key in sorted(found))


def hardware(made: Draft) -> Iterator[Need]:
    """Each piece of hardware, by its post."""
    for item in made.hardware:
        yield Need(Kind.HARDWARE, item.name, item.post or 0.0, 1.0, item.place)


def thread(made: Draft, seams: Iterable[Seam]) -> Iterator[Need]:
    """What is cut off for seams."""
    if length := sum(seam.thread for seam in seams):
        yield Need(Kind.THREAD, "thread", made.value("stitch.thread"), length / METRE, "seams")


def sheets(made: Draft) -> Iterator[Need]:
    """What pieces are cut of that are of no leather."""
    for piece in made.pieces:
        if piece.leather in SHEETS:
            area = SPARE * piece.area * piece.count / SQUARE
            yield Need(SHEETS[piece.leather], piece.leather, piece.thickness, area, piece.name)


def glue(area: float) -> Iterator[Need]:
    """What goes on an area, mm², of two faces."""
    if area > 0:
        yield Need(Kind.GLUE, "glue", 0.0, GLUE * area / SQUARE, "what is glued")
