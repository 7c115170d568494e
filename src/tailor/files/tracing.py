"""The tracing sheet: what is tooled at true size, with no more of its piece than is needed to lay it right."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Mark, Piece
from tailor.core.draft.tooled.put import MARKED
from tailor.files import pdf
from tailor.files.printer import Printer

TURNED_OVER = "mirrored, to be rubbed on"


def pieces(made: Draft, mirrored: bool = False) -> tuple[Piece, ...]:
    """The pieces with something tooled on them, as they are traced: outline, folds and what is tooled. mirrored: as
    they are rubbed on from the back of the film, face down.
    """
    tooled = [piece for piece in made.pieces if any(rule.kind in MARKED for rule in piece.rules)]
    bare = [
        replace(
            piece,
            holes=(),
            stitch=(),
            fittings=(),
            grain=None,
            rules=tuple(rule for rule in piece.rules if rule.kind in (*MARKED, "trim")),
            marks=tuple(_said(mark, mirrored) for mark in piece.marks if mark.kind in ("title", "top")),
        )
        for piece in tooled
    ]
    return tuple(piece.mirrored() if mirrored else piece for piece in bare)


def _said(mark: Mark, mirrored: bool) -> Mark:
    """What is written: which piece it is, and which side of the film is up."""
    if mark.kind != "title":
        return mark
    name = mark.text.split(" · ")[0]
    return replace(mark, text=f"{name} · {TURNED_OVER}" if mirrored else f"{name} · to trace")


def to_bytes(made: Sequence[Piece], name: str, paper: str, printer: Printer | None = None) -> bytes:
    """Tracing sheets as a PDF at true size."""
    return pdf.to_bytes(made, f"{name}: tracing sheet", paper, printer)
