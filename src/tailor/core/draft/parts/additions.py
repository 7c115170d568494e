"""Additions: what can be sewn on any piece while it lies flat: pockets of every make, loops, straps, tabs, patches.

A puckered pocket is wider at its top than at its base and is sewn on with its sides parallel, so it stands open. A
bellows pocket has a pleat down either side, which lets it swell; a gusseted one a strip of its own round three sides.
A moulded pocket and a loop bow over a small tool. Source: craft, "Numbers that makers carry in their heads".
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.bow import STEEP, bowed_over
from tailor.core.draft.flat_goods.gusset import OUT, gusset
from tailor.core.draft.parts.hanger import ring_tab
from tailor.core.draft.piece import Fitting, Piece, Rule, panel
from tailor.core.draft.stitch.holes import Edge
from tailor.core.draft.worn.carry import ROW_GAP, row_places
from tailor.core.draft.worn.straps import hole_row
from tailor.core.draft.worn.strips import Strip, buttoned, crosswise
from tailor.core.draft.worn.turned import half_round
from tailor.core.leather.leather import Leather
from tailor.core.maker import Maker

NONE, PLAIN = "none", "plain"
SEAT = ""  # stands for the piece that something is sewn on
CORNER = 6.0  # mm
PLAY = 0.5  # mm of room round a small tool
COLLAR = 2.0  # mm from a pocket's brim to the flap above it
COMES_DOWN = 0.4  # of a pocket, that its flap covers
BRIM = 0.75  # of a margin from a brim to the first stitch
STRAP_HOLES = (25.0, 60.0, 15.0)  # mm: from a strap's end, over so much, so far apart


@dataclass(frozen=True)
class Wanted:
    """What is asked for. name: of its piece. number, word: a setting by the last part of its key. mm.

    pitch, hole: of the stitches.
    """

    name: str
    wide: float
    tall: float
    margin: float
    leather: Leather
    pitch: float
    hole: float
    number: Callable[[str], float]
    word: Callable[[str], str]
    maker: Maker


@dataclass(frozen=True)
class Sewing:
    """Edges that are sewn to each other: (piece, name of the edge, edge); SEAT is the piece it is sewn on."""

    seam: str
    sides: tuple[tuple[str, str, Edge], ...]


@dataclass(frozen=True)
class SewnRow:
    """A straight row of stitches on the seat, through edges of a piece whose holes are there already."""

    seam: str
    piece: str
    edges: tuple[str, ...]
    points: Array


@dataclass(frozen=True)
class Button:
    """A fastening on a piece, and where that is in words."""

    place: str
    piece: str
    fitting: Fitting


@dataclass(frozen=True)
class Addition:
    """What is sewn on, about x = 0 from y = 0 up on its seat, mm.

    low, high, half: what it covers there. first: what is finished before it is sewn on. fullness: share by which a
    moulded foot is longer than its seat.
    """

    pieces: tuple[Piece, ...]
    first: str
    half: float
    high: float
    low: float = 0.0
    sewings: tuple[Sewing, ...] = ()
    rows: tuple[SewnRow, ...] = ()
    buttons: tuple[Button, ...] = ()
    rings: tuple[str, ...] = ()
    fullness: float | None = None


def _u(half: float, low: float, high: float, margin: float, radius: float, top: float = 0.0) -> Edge:
    """A line down one side, along the foot and up the other, first hole just below the brim. top: wider there."""
    ring = [(-half - top, high), (-half, low), (half, low), (half + top, high)]
    line, corners = paths.bent(ring, radius)
    return Edge(line, (BRIM * margin, *corners, line.length - BRIM * margin))


def _round(half: float, low: float, high: float) -> float:
    return min(CORNER, 0.4 * half, 0.4 * (high - low))


def _under(w: Wanted) -> str:
    return f"under the {w.name}"


def _finished(piece: Piece, whole: bool = False) -> Piece:
    """A piece whose upper edge, or whole edge, is marked to be finished first."""
    top = float(piece.cut[:, 1].max())
    edge = np.vstack([piece.cut, piece.cut[:1]]) if whole else piece.cut[piece.cut[:, 1] > top - 1e-6]
    return replace(piece, rules=(*piece.rules, Rule("finish", edge)))


def _pocket(
    w: Wanted, outline: Array, own: Edge, seat: Edge, through: float, folds: tuple[Array, ...] = (),
) -> Addition:  # fmt: skip
    """A pocket sewn on by three sides, with its flap where it is asked for. through: how far its brim stands out."""
    made = _finished(panel(w.name, outline, w.leather.thickness, folds=folds))
    sewing = Sewing(w.name, ((w.name, w.name, own), (SEAT, _under(w), seat)))
    plain = Addition((made,), "upper edge", w.wide / 2, w.tall, sewings=(sewing,))
    return _with_flap(w, plain, through)


def _plain(w: Wanted) -> Addition:
    half, corner = w.wide / 2, min(CORNER, 0.3 * w.wide, 0.3 * w.tall)
    outline = paths.closed(paths.box(-half, 0.0, half, w.tall), (corner, corner, 1.0, 1.0))
    inner = half - w.margin
    seat = _u(inner, w.margin, w.tall, w.margin, _round(inner, w.margin, w.tall))
    return _pocket(w, outline, seat, seat, w.leather.thickness)


def _puckered(w: Wanted) -> Addition:
    half, corner, more = w.wide / 2, min(CORNER, 0.3 * w.wide, 0.3 * w.tall), w.number("fullness") * w.wide / 2
    outline = paths.closed(
        [(-half, 0.0), (half, 0.0), (half + more, w.tall), (-half - more, w.tall)], (corner, corner, 1.0, 1.0)
    )
    inner = half - w.margin
    turn = _round(inner, w.margin, w.tall)
    own, seat = (_u(inner, w.margin, w.tall, w.margin, turn, top) for top in (more, 0.0))
    return _pocket(w, outline, own, seat, more)


def _bellows(w: Wanted) -> Addition:
    """Either side goes out, back under itself and out again to where it is sewn: twice a pleat's depth more."""
    pleat = w.number("pleat")
    half, out = w.wide / 2, w.wide / 2 + 2 * pleat
    corner = min(CORNER, 0.3 * w.wide, 0.3 * w.tall)
    outline = paths.closed(paths.box(-out, 0.0, out, w.tall), (corner, corner, 1.0, 1.0))
    folds = tuple(np.array([(s * v, 0.0), (s * v, w.tall)]) for s in (-1, 1) for v in (half, half + pleat))
    turn = _round(half - w.margin, w.margin, w.tall)
    own, seat = (_u(side - w.margin, w.margin, w.tall, w.margin, turn) for side in (out, half))
    return _pocket(w, outline, own, seat, pleat, folds)


def _gusseted(w: Wanted) -> Addition:
    """A front, and a strip of its own round its three sides that gives it depth."""
    half, depth = w.wide / 2, w.number("depth")
    inner = half - w.margin
    corner = max(CORNER, 4 * w.leather.thickness)
    outline = paths.closed(paths.box(-half, 0.0, half, w.tall), (corner + w.margin,) * 2 + (2.0, 2.0))
    edge = _u(-inner, w.margin, w.tall, w.margin, corner)  # from the right, so that it bulges outward
    strip = gusset(w.leather, edge, depth, OUT, w.margin)
    name = f"{w.name} gusset"
    front = _finished(panel(w.name, outline, w.leather.thickness))
    side = _finished(panel(name, strip.outline, w.leather.thickness, folds=strip.folds))
    sewings = (
        Sewing(f"{w.name} front", ((w.name, w.name, edge), (name, "front", strip.left))),
        Sewing(w.name, ((name, "back", strip.right), (SEAT, _under(w), edge))),
    )
    plain = Addition((front, side), "upper edges", half, w.tall, sewings=sewings)
    return _with_flap(w, plain, depth + w.leather.thickness)


def tool_rows(w: Wanted, kind: str) -> tuple[float, float]:
    """Between the rows on the seat, and between them on the sheet over a small tool, mm. Moulded, it slopes down."""
    return bowed_over(w.leather, w.number("tool") + 2 * PLAY, STEEP if kind == "loop" else w.leather.approach)


def _moulded(w: Wanted) -> Addition:
    """A pocket moulded over a small tool, round its end too: its toe is as round as its seat is wide.

    Along the sides and the foot its edges are as long as their seat's; what is over is taken up round the toe.
    """
    flat, over = tool_rows(w, "moulded pocket")
    more = (over - flat) / 2
    toe = 0.98 * flat / 2
    own = _u(over / 2, w.margin - more, w.tall, w.margin, toe + more)
    seat = _u(flat / 2, w.margin, w.tall, w.margin, toe)
    out, turn = over / 2 + w.margin, toe + more + w.margin
    outline = paths.closed(paths.box(-out, -more, out, w.tall), (turn, turn, 1.0, 1.0))
    made = _finished(panel(w.name, outline, w.leather.thickness, said=" · mould before sewing"))
    sewing = Sewing(w.name, ((w.name, w.name, own), (SEAT, _under(w), seat)))
    return Addition((made,), "upper edge", flat / 2 + w.margin, w.tall, sewings=(sewing,), fullness=more / (toe + more))


def _loop(w: Wanted) -> Addition:
    """A band over a small tool, sewn down on either side of it."""
    flat, over = tool_rows(w, "loop")
    half = over / 2 + w.margin
    made = panel(w.name, np.array(paths.box(-half, 0.0, half, w.tall)), w.leather.thickness)
    made = _finished(made, whole=True)
    first = BRIM * w.margin
    sewings = []
    for side, way in (("left", -1.0), ("right", 1.0)):
        runs = [paths.edge(paths.straight((way * x, 0.0), (way * x, w.tall)), first) for x in (over / 2, flat / 2)]
        seam = f"{w.name} {side}"
        sewings.append(Sewing(seam, ((w.name, side, runs[0]), (SEAT, f"{_under(w)}, {side}", runs[1]))))
    return Addition((made,), "all round", flat / 2 + w.margin, w.tall, sewings=tuple(sewings))


def _strap(w: Wanted) -> Addition:
    """A strap sewn on by its foot with two rows, holes for a buckle's tongue towards its end."""
    places = row_places(w.wide, w.margin, w.pitch)
    names = (f"{w.name} row 1", f"{w.name} row 2")
    heights = (w.margin, w.margin + ROW_GAP)
    rows, holes = crosswise(names, "tab", places, heights, w.hole)
    beyond, over, apart = STRAP_HOLES
    tongued = tuple(Fitting("hole", 0.0, float(w.tall - v), 4.0, 4.0) for v in hole_row(w.tall, beyond, over, apart))
    made = Strip(w.wide / 2, 0.0, w.tall, tongue=0.6 * w.wide).piece(
        w.name, w.leather.thickness, rows, holes, tongued, at=0.45 * w.tall
    )
    on = tuple(SewnRow(n, w.name, ("tab",), row) for n, row in zip(names, rows, strict=True))
    return Addition((_finished(made, whole=True),), "all round", w.wide / 2, heights[1] + w.margin, rows=on)


def _ring_tab(w: Wanted) -> Addition:
    """A ring in a tab, its two legs sewn on together."""
    ring = w.maker.trimming(w.word("ring"), f"{w.name}, its ring")
    turned, _ = half_round(w.leather, ring.wire, ring.wire)
    places = row_places(ring.inside - 1.0, w.margin / 2, w.pitch)
    names = (f"{w.name} row 1", f"{w.name} row 2")
    made = ring_tab(w.name, names, w.leather, places, ring.inside - 1.0, (turned, w.margin), w.hole)
    high = 2 * w.margin + ROW_GAP
    on = tuple(
        SewnRow(n, w.name, ("tab", "turned"), np.column_stack([places, np.full(len(places), y)]))
        for n, y in zip(names, (high - w.margin, w.margin), strict=True)
    )
    half = (ring.inside - 1.0) / 2
    return Addition((made,), "all round", half, high, rows=on, rings=(ring.name,))


def _reinforcement(w: Wanted) -> Addition:
    half, corner = w.wide / 2, min(CORNER, 0.3 * w.wide, 0.3 * w.tall)
    x, low, high = half - w.margin, w.margin, w.tall - w.margin
    ring = [(0.0, high), (-x, high), (-x, low), (x, low), (x, high), (0.5, high)]
    line, corners = paths.bent(ring, _round(x, low, w.tall))
    seat = Edge(line, (BRIM * w.margin, *corners, line.length - BRIM * w.margin))
    outline = paths.closed(paths.box(-half, 0.0, half, w.tall), corner)
    made = _finished(panel(w.name, outline, w.leather.thickness), whole=True)
    sewing = Sewing(w.name, ((w.name, w.name, seat), (SEAT, _under(w), seat)))
    return Addition((made,), "all round", half, w.tall, sewings=(sewing,))


def _with_flap(w: Wanted, pocket: Addition, through: float) -> Addition:
    """A pocket with a flap sewn on above it, drawn taut over its brim. through: how far that stands out, mm."""
    word = w.word("flap")
    if word == NONE:
        return pocket
    name, out = f"{w.name} flap", w.wide / 2 + 2.0
    row = w.tall + COLLAR + w.margin
    reach = COMES_DOWN * w.tall
    end = 0.92 * out
    down = float(np.hypot(COLLAR + w.margin, through)) + reach  # from its row to its end
    tongue = min(0.35 * end, 0.6 * reach)
    ring = [(-end, -down), (end, -down), (out, w.margin), (-out, w.margin)]
    made = panel(name, paths.closed(ring, (tongue, tongue, 2.0, 2.0)), w.leather.thickness)
    root = paths.edge(paths.straight((-out + w.margin, 0.0), (out - w.margin, 0.0)), 0.5)
    seat = paths.edge(paths.straight((-out + w.margin, row), (out - w.margin, row)), 0.5)
    sewing = Sewing(name, ((name, "root", root), (SEAT, f"under the {name}", seat)))
    buttons, cuts = tuple[Button, ...](), tuple[Rule, ...]()
    if word != PLAIN:
        button = w.maker.fastening(word, f"{w.name}, its flap")
        up = button.edge + 4.0
        closing, cuts = buttoned(button, 0.0, up - down)
        under = Fitting(word, 0.0, w.tall - reach + up, button.hole, button.cap)
        buttons = Button(f"{w.name}, for its flap", w.name, under), Button(f"{name}, its end", name, closing)
    made = _finished(replace(made, rules=(*made.rules, *cuts)), whole=True)
    return replace(
        pocket, pieces=(*pocket.pieces, made), sewings=(*pocket.sewings, sewing), buttons=buttons,
        half=max(pocket.half, out), high=row + w.margin, first=f"{pocket.first}, and its flap all round",
    )  # fmt: skip


MAKES: dict[str, Callable[[Wanted], Addition]] = {
    "pocket": _plain, "puckered pocket": _puckered, "bellows pocket": _bellows, "gusseted pocket": _gusseted,
    "moulded pocket": _moulded, "loop": _loop, "strap": _strap, "ring tab": _ring_tab, "reinforcement": _reinforcement,
}  # fmt: skip
