"""Pieces of leather as they are cut, with everything marked on them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from shapely.geometry import Polygon

from tailor.core.carried.loft import Array

LAID_IN = ("lining", "foam", "board")  # stuffs besides leather, glued or laid in
FLIP = np.array([-1.0, 1.0])
OTHER_HAND = {"right hand": "left hand"}
ROW = 8.0  # mm between lines of words
NARROW = 45.0  # mm: on a narrower panel the words stand upright
LOW, LONG = 30.0, 150.0  # mm: on a panel so low and so long they stand beside one another


@dataclass(frozen=True)
class Hole:
    """A stitch hole. edge names which of the meeting edges it is on; place is its number along that edge."""

    seam: str
    edge: str
    place: int
    x: float
    y: float
    diameter: float


def punched(seam: str, edge: str, points: Array, diameter: float) -> tuple[Hole, ...]:
    """Holes at points (n, 2) in order."""
    return tuple(Hole(seam, edge, i, x, y, diameter) for i, (x, y) in enumerate(points.tolist()))


@dataclass(frozen=True)
class Mark:
    """Something written or struck on a piece: kind is "title", "face", "top", "side", "note" or "register".

    (x, y) is where, toward is the end of a register stroke or the direction of an arrow, text what it says,
    angle how far the words are turned from level, degrees.
    """

    kind: str
    x: float
    y: float
    text: str = ""
    toward: tuple[float, float] | None = None
    angle: float = 0.0


@dataclass(frozen=True)
class Fitting:
    """A fastening on a piece: its name, where its hole is punched, and how wide its hole and its cap are, mm.

    place: where it is on the case, in words: all holes that one fastening goes through say the same.
    """

    name: str
    x: float
    y: float
    hole: float
    cap: float
    place: str = ""


@dataclass(frozen=True)
class Rule:
    """A line marked on a piece that is neither its outline, a fold nor stitched: kind is "welt", "glue",
    "skive", "trim", "mouth", "stamp" or "finish"; "slit", which is cut; "break", where a strap is shown shortened.
    """

    kind: str
    points: Array


class Role(StrEnum):
    """What a piece is in its case."""

    BODY = "body"  # the folded sheet, front and back in one
    PANEL = "panel"  # a side of it, or any panel of what is built of panels
    BLANK = "blank"  # a panel as it is cut to be moulded
    TEMPLATE = "template"  # card that a moulded panel is trimmed and holed by
    WELT = "welt"
    PART = "part"  # what is put on: a strap, a pocket, a loop


@dataclass(frozen=True)
class Finish:
    """An edge that is finished before it is buried or out of reach: its piece, and where on it and when, in words."""

    piece: str
    where: str

    def __str__(self) -> str:
        return f"{self.piece}: {self.where}"


@dataclass(frozen=True)
class Piece:
    """One pattern piece, flat, seen from the side named by face.

    cut: (m, 2) closed outline as the knife goes (last point not repeated). trim: the outline it is trimmed to
    after gluing, or None where that is the cut line. folds: (2, 2) lines. stitch: (k, 2) polylines. openings: closed
    outlines cut out of it, as slots are. mm. grain: how far the hide's backbone is turned from its height, degrees;
    None where it does not matter. role: what it is in its case.
    """

    name: str
    count: int
    leather: str
    thickness: float
    face: str
    cut: Array
    trim: Array | None = None
    folds: tuple[Array, ...] = ()
    stitch: tuple[Array, ...] = ()
    holes: tuple[Hole, ...] = ()
    rules: tuple[Rule, ...] = ()
    marks: tuple[Mark, ...] = ()
    fittings: tuple[Fitting, ...] = ()
    openings: tuple[Array, ...] = ()
    grain: float | None = None
    role: Role = Role.PANEL

    @property
    def area(self) -> float:
        """Area inside the cut line less its openings, mm²."""
        return float(Polygon(self.cut).area - sum(Polygon(ring).area for ring in self.openings))

    def holes_of(self, seam: str, edge: str) -> Array:
        """The holes of one edge of a seam in order, (n, 2)."""
        return np.array([(h.x, h.y) for h in self.holes if h.seam == seam and h.edge == edge])

    def mapped(self, by: Callable[[Array], Array], turn: float = 0.0, flips: bool = False) -> Piece:
        """The piece with every line, hole, mark and fitting carried through a map of points (n, 2).

        turn: degrees that the map turns what is written by. flips: it turns the piece over, so that rings run the other
        way.
        """

        def ring(points: Array) -> Array:
            carried = np.asarray(by(points))
            return carried[::-1] if flips else carried

        def spots(places: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
            return [(float(x), float(y)) for x, y in by(np.array(places))] if places else []

        def angle(was: float) -> float:
            return (-was if flips else was) + turn

        towards = iter(spots([m.toward for m in self.marks if m.toward is not None]))
        holes, fittings = spots([(h.x, h.y) for h in self.holes]), spots([(f.x, f.y) for f in self.fittings])
        marks = zip(self.marks, spots([(m.x, m.y) for m in self.marks]), strict=True)
        return replace(
            self, cut=ring(self.cut), trim=None if self.trim is None else ring(self.trim),
            folds=tuple(map(by, self.folds)), stitch=tuple(map(by, self.stitch)),
            holes=tuple(replace(h, x=x, y=y) for h, (x, y) in zip(self.holes, holes, strict=True)),
            rules=tuple(replace(r, points=by(r.points)) for r in self.rules),
            marks=tuple(
                replace(m, x=x, y=y, toward=None if m.toward is None else next(towards), angle=angle(m.angle))
                for m, (x, y) in marks
            ),
            fittings=tuple(replace(f, x=x, y=y) for f, (x, y) in zip(self.fittings, fittings, strict=True)),
            openings=tuple(map(ring, self.openings)), grain=None if self.grain is None else angle(self.grain),
        )  # fmt: skip

    def moved(self, by: Array) -> Piece:
        """The piece moved by (2,) mm."""
        return self.mapped(lambda points: np.asarray(points + by))

    def mirrored(self) -> Piece:
        """The piece for the other hand."""
        other = self.mapped(lambda points: np.asarray(points * FLIP), flips=True)
        marks = tuple(replace(m, text=OTHER_HAND.get(m.text, m.text)) for m in other.marks)
        return replace(other, marks=marks)


def turned(piece: Piece, angle: float) -> Piece:
    """A piece turned by an angle, degrees, to the left."""
    c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    way = np.array([[c, s], [-s, c]])
    return piece.mapped(lambda points: np.asarray(points @ way), turn=angle)


def title(name: str, count: int, thickness: float) -> str:
    """What is written on a piece: its name, how many to cut, and of what."""
    return f"{name.capitalize()} · cut {count} · {thickness:.1f} mm"


def panel(
    name: str, outline: Array, thick: float, *, count: int = 1, stuff: str = "body", folds: Sequence[Array] = (),
    rules: Sequence[Rule] = (), openings: Sequence[Array] = (), said: str = "",
    words: tuple[float, float] | None = None,
) -> Piece:  # fmt: skip
    """A flat panel with its words on it, grain side up. words: where they stand; else in its middle."""
    low, high = outline.min(axis=0), outline.max(axis=0)
    x, y = ((low + high) / 2).tolist() if words is None else words
    upright = float(np.ptp(outline[:, 0])) < NARROW
    turn = 90.0 if upright else 0.0
    grain = "grain side up" if stuff in ("body", "lining") else "either side up"
    across = np.array([1.0, 0.0]) if upright else np.array([0.0, 1.0])

    def at(line: float) -> tuple[float, float]:
        spot = np.array([x, y]) + across * line
        return float(spot[0]), float(spot[1])

    top = (x - 9.0, y - 8.0) if upright else (x, y + 1.6 * ROW)
    face = at(ROW if upright else -ROW)
    if not upright and high[1] - low[1] < LOW and high[0] - low[0] > LONG:  # beside one another
        aside = 0.4 * float(high[0] - low[0])
        top, face = (x - aside, y - 5.0), (x + aside, y)
    marks = (
        Mark("title", *at(0.0), title(name, count, thick) + said, angle=turn),
        Mark("face", *face, grain, angle=turn),
        Mark("top", *top, "top", (top[0], top[1] + 11.0)),
    )  # fmt: skip
    return Piece(
        name, count, stuff, thick, "grain", outline, folds=tuple(folds), rules=tuple(rules),
        openings=tuple(openings), marks=marks,
    )  # fmt: skip


@dataclass(frozen=True)
class Seam:
    """A seam: the pieces it joins, and what the thread and the dividers need.

    edges: the edges that meet, each with `count` holes. length: along the stitch line. chord: the divider
    setting of each edge. stack: thickness sewn through. thread: needed length; thread_rule: the bench rule's
    least and most. mm. method: the stitch, and holed: what it is holed with. seconds: what sewing it takes a practised
    hand.
    """

    name: str
    pieces: tuple[str, ...]
    edges: tuple[str, ...]
    length: float
    count: int
    chord: float
    stack: float
    thread: float
    thread_rule: tuple[float, float]
    method: str
    holed: str
    seconds: float
