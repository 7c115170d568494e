"""One line style for each thing a line can mean, on the board, in the slice and on paper alike."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.piece import Piece
from tailor.files.dyes import GALL, INDIGO, INK, LICHEN, LOGWOOD, MADDER, WALNUT, WOAD
from tailor.files.lettering import Lettering


@dataclass(frozen=True)
class LineStyle:
    """colour as #rrggbb; width in mm on paper; dashes: lengths on and off in mm, empty for unbroken."""

    name: str
    colour: str
    width: float
    dashes: tuple[float, ...] = ()


LINES: Mapping[str, LineStyle] = MappingProxyType({
    style.name: style
    for style in (
        LineStyle("cut", INK, 0.5),
        LineStyle("slit", INK, 0.45),
        LineStyle("trim", GALL, 0.25, (6, 1.5, 1, 1.5, 1, 1.5)),
        LineStyle("fold", WOAD, 0.35, (8, 2, 1.5, 2)),
        LineStyle("stitch", INDIGO, 0.3, (2, 1.2)),
        LineStyle("hole", INDIGO, 0.25),
        LineStyle("welt", WALNUT, 0.3, (5, 2)),
        LineStyle("glue", LICHEN, 0.3, (0.6, 1.8)),
        LineStyle("skive", WALNUT, 0.25, (1, 1)),
        LineStyle("register", INK, 0.35),
        LineStyle("zone", LOGWOOD, 0.9),
        LineStyle("fitting", GALL, 0.35),
        LineStyle("mouth", GALL, 0.25, (3, 1.2, 1, 1.2)),
        LineStyle("finish", MADDER, 0.42, (1, 1.4)),
        LineStyle("break", GALL, 0.2),
        LineStyle("stamp", GALL, 0.3, (1.5, 1)),
        LineStyle("field", GALL, 0.2, (0.5, 2.4)),
        LineStyle("border", WALNUT, 0.4),
        LineStyle("texture", WALNUT, 0.15),
        LineStyle("guide", GALL, 0.2, (5, 1, 0.6, 1)),
        LineStyle("picture", WALNUT, 0.35),
        LineStyle("mark", MADDER, 0.35),
        LineStyle("backbone", WALNUT, 0.3),
        LineStyle("pointer", GALL, 0.15),
        LineStyle("plumb", LOGWOOD, 0.35, (3, 1)),
    )
})  # fmt: skip


FINISH = "finish"
_TURN = np.linspace(0, 2 * np.pi, 49)[:-1]
CIRCLE = np.column_stack([np.cos(_TURN), np.sin(_TURN)])


@dataclass(frozen=True)
class Stroke:
    """A line of a piece: its kind, and its points (n, 2), mm; closed when the last joins the first."""

    kind: str
    points: Array
    closed: bool = False


def strokes(piece: Piece) -> Iterator[Stroke]:
    """Every line of a piece but its holes and words, in the order they are drawn."""
    yield from (Stroke(rule.kind, rule.points) for rule in piece.rules if rule.kind != FINISH)
    for fold in piece.folds:
        yield Stroke("fold", fold)
    for line in piece.stitch:
        yield Stroke("stitch", line)
    for fitting in piece.fittings:
        for across in (fitting.hole, fitting.cap):
            yield Stroke("fitting", np.array([fitting.x, fitting.y]) + across / 2 * CIRCLE, closed=True)
    if piece.trim is not None:
        yield Stroke("trim", piece.trim, closed=True)
    for mark in piece.marks:
        if mark.toward is not None and mark.kind != "top":  # that goes with the words, where there is room
            yield from (Stroke("register", s) for s in _mark(mark.kind, (mark.x, mark.y), mark.toward))
    yield from (Stroke("cut", ring, closed=True) for ring in piece.openings)
    yield Stroke("cut", piece.cut, closed=True)
    yield from (Stroke(rule.kind, rule.points) for rule in piece.rules if rule.kind == FINISH)  # over the cut line


def lines_of(lettering: Lettering) -> Iterator[Stroke]:
    """The lines that go with words: the arrow to the top, the backbone with a head at either end, and pointers."""
    if (line := lettering.top) is not None:
        yield from (Stroke("register", s) for s in _mark("top", tuple(line[0]), tuple(line[1])))
    if (line := lettering.backbone) is not None:
        for start, end in ((line[0], line[1]), (line[1], line[0])):
            yield from (Stroke("backbone", s) for s in _mark("top", tuple(start), tuple(end)))
    yield from (Stroke("pointer", line) for line in lettering.pointers)


def _mark(kind: str, start: tuple[float, float], end: tuple[float, float]) -> list[Array]:
    shaft = np.array([start, end])
    if kind != "top":
        return [shaft]
    along = shaft[1] - shaft[0]
    along = along / np.hypot(*along)
    aside = np.array([-along[1], along[0]])
    barbs = [np.array([shaft[1], shaft[1] - 3 * along + side * 1.6 * aside]) for side in (-1, 1)]
    return [shaft, *barbs]
