"""Lettering: what is written on pieces, put where it is free: on the piece, along it, else beside it with a pointer.

Words never lie over a hole, a fitting, a fold or a stitch line, nor over an edge. On the board, in PDF, SVG and DXF
alike.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from tailor.core.carried.loft import Array
from tailor.core.draft.piece import Mark, Piece

Wide = Callable[[str, float, bool], float]  # how wide a text is, of a size and bold or not, mm

FINE, COARSE = 240, 110  # cells that the longer side of a piece is parted into, where room is looked for
FINEST = 0.4  # mm: the smallest cell
CLEAR = 0.8  # mm from words to whatever they must not lie on
TITLE = 1.2  # of the size, that a title is written in
LEADING = 1.3  # of the size, from line to line
NEAREST = 60  # places beside a piece whose pointers are looked at
FAR = 1e4  # mm that words would rather be off than lie on something
STEPS = 13  # places along each side of a piece that are tried beside it
BESIDE = 2.2  # mm from a piece to words that have no room on it
_TURNS = np.linspace(0, 2 * np.pi, 9)[:-1]
ROUND = np.column_stack([np.cos(_TURNS), np.sin(_TURNS)])
BARB = 1.6  # mm: half as wide as an arrow is
ARROW = 14.0  # mm: of the arrow to the top, and of the line along the backbone


@dataclass(frozen=True)
class Word:
    """A line of text: its middle, mm, how far it is turned, degrees, and how large it is, mm. bold: as a title."""

    x: float
    y: float
    text: str
    angle: float
    size: float
    bold: bool = False

    def corners(self, wide: Wide) -> Array:
        """The box it fills, (4, 2)."""
        half = np.array([wide(self.text, self.size, self.bold), self.size]) / 2
        box = np.array([(-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)]) * half
        return np.asarray(box @ _turn(self.angle).T + [self.x, self.y])


@dataclass(frozen=True)
class Lettering:
    """What is written on a piece: its words, and pointers (2, 2) to it from those beside it; lines (2, 2) towards its
    top and along the backbone of the hide, where there is room for them.
    """

    words: tuple[Word, ...] = ()
    pointers: tuple[Array, ...] = ()
    top: Array | None = None
    backbone: Array | None = None


@dataclass(frozen=True)
class _Block:
    """Lines that stand together, what is least needed last, and where they would stand best."""

    lines: tuple[tuple[str, bool], ...]
    near: tuple[float, float]
    angle: float

    def shorter(self) -> Iterator[_Block]:
        """This block and shorter ones: the title less full, then line after line left out, at last all but its name."""
        title, bold = self.lines[0]
        name, *rest = title.split(" · ")
        needed = [part for part in rest if part.startswith("cut ") or part.endswith("long")]
        titles = tuple(dict.fromkeys((title, " · ".join([name, *needed]), name)))
        yield self
        for n in range(len(self.lines), 0, -1):
            yield from (replace(self, lines=((said, bold), *self.lines[1:n])) for said in titles[:2])
        yield replace(self, lines=((name, bold),))

    def size(self, size: float, wide: Wide) -> tuple[float, float]:
        """Its width and height, mm."""
        sizes = [size * (TITLE if bold else 1.0) for _, bold in self.lines]
        across = max(wide(text, s, bold) for (text, bold), s in zip(self.lines, sizes, strict=True))
        return across, LEADING * sum(sizes)

    def words(self, x: float, y: float, angle: float, size: float) -> tuple[Word, ...]:
        """Its lines about a middle."""
        sizes = np.array([size * (TITLE if bold else 1.0) for _, bold in self.lines])
        upto = LEADING * np.cumsum(sizes)
        below = upto - LEADING * sizes / 2 - upto[-1] / 2
        spots = np.array([x, y]) + below[:, None] * (np.array([0.0, -1.0]) @ _turn(angle).T)
        return tuple(
            Word(float(at[0]), float(at[1]), text, angle, float(s), bold)
            for at, s, (text, bold) in zip(spots, sizes, self.lines, strict=True)
        )


def lettered(
    pieces: Sequence[Piece], size: float, wide: Wide, cells: int = FINE, needed: bool = True,
    within: tuple[float, float, float, float] | None = None,
) -> tuple[Lettering, ...]:  # fmt: skip
    """What is written on each of pieces as they lie on a sheet or the board, in letters of a size, mm.

    needed: what finds no free place is written all the same, as near as may be; else it is left out. within: what
    nothing is written outside of, left, low, right and high; else a line of words may stand beside all that lies there.
    """
    return tuple(lettering(pieces, size, wide, cells, needed, within))


def lettering(
    pieces: Sequence[Piece], size: float, wide: Wide, cells: int = FINE, needed: bool = True,
    within: tuple[float, float, float, float] | None = None,
) -> Iterator[Lettering]:  # fmt: skip
    """The same, piece after piece."""
    beside = list[Array]()
    for k, piece in enumerate(pieces):
        hand = _Hand(piece, size, wide, cells)
        for mark in piece.marks:
            if is_pinned(mark):
                hand.put((Word(mark.x, mark.y, mark.text, mark.angle, size),))
        for block in _blocks(piece):
            if not hand.write(block):
                others = [*(p.cut for n, p in enumerate(pieces) if n != k), *beside]
                beside += hand.write_beside(block, others, needed, within)
        for mark in piece.marks:
            if mark.kind == "top" and mark.toward is not None:
                hand.point_up(mark)
        hand.draw_backbone()
        yield Lettering(tuple(hand.words), tuple(hand.pointers), hand.top, hand.backbone)


class _Hand:
    """What writes on one piece, and remembers where it has."""

    def __init__(self, piece: Piece, size: float, wide: Wide, cells: int) -> None:
        self.piece, self.size, self.wide = piece, size, wide
        self.cell = max(float(np.ptp(piece.cut, axis=0).max()) / cells, FINEST)
        self.words, self.pointers = list[Word](), list[Array]()
        self.top: Array | None = None
        self.backbone: Array | None = None
        self._taken = list[Array]()
        self._grids = dict[float, _Grid]()
        self._busy = _busy(piece, self.cell)

    def _grid(self, angle: float) -> _Grid:
        if angle not in self._grids:
            way = _turn(angle)
            grid = _Grid(self.piece.cut @ way, self.cell)
            for places in (self._busy, *self._taken):
                grid.take(places @ way)
            self._grids[angle] = grid
        return self._grids[angle]

    def _take(self, box: Array) -> None:
        """Keep a box, closed (4, 2), from being written on again."""
        filled = _filled(box, self.cell / 2)
        self._taken.append(filled)
        for angle, grid in self._grids.items():
            grid.take(filled @ _turn(angle))

    def put(self, words: tuple[Word, ...]) -> None:
        self.words += words
        for word in words:
            self._take(word.corners(self.wide))

    def write(self, block: _Block, within: float = np.inf) -> bool:
        """Write a block on the piece, as much of it as there is room for; whether there was."""
        angles = tuple(dict.fromkeys((block.angle, 0.0, 90.0) if block.angle % 90 else (0.0, 90.0)))
        for part in block.shorter():
            w, h = part.size(self.size, self.wide)
            for angle in angles:
                at = self._grid(angle).room(w + 2 * CLEAR, h + 2 * CLEAR, np.array(part.near) @ _turn(angle))
                if at is not None:
                    x, y = map(float, at @ _turn(angle).T)
                    if np.hypot(x - part.near[0], y - part.near[1]) < within:
                        self.put(part.words(x, y, angle, self.size))
                        return True
        return False

    def write_beside(
        self, block: _Block, others: Sequence[Array], needed: bool, within: tuple[float, float, float, float] | None
    ) -> list[Array]:
        """Write a block beside the piece, with a pointer; the boxes that it fills."""
        found = _beside(self.piece, block, others, self.size, self.wide, needed, within)
        if found is None:
            return []
        words, pointer = found
        self.words += words
        self.pointers.append(pointer)
        return [word.corners(self.wide) for word in words]

    def _line(self, way: Array, near: Array) -> Array | None:
        """A line (2, 2) of a direction where there is room for it, and for the heads of an arrow."""
        half = way / np.hypot(*way) * ARROW / 2
        wide, high = 2 * np.abs(half) + 2 * BARB
        at = self._grid(0.0).room(wide, high, near)
        if at is None:
            return None
        line, aside = np.array([at - half, at + half]), np.array([-half[1], half[0]]) * 2 * BARB / ARROW
        self._take(np.array([line[0] + aside, line[0] - aside, line[1] - aside, line[1] + aside]))
        return line

    def point_up(self, mark: Mark) -> None:
        """Draw the arrow to the top, and what it is called near its foot."""
        assert mark.toward is not None
        self.top = self._line(np.subtract(mark.toward, (mark.x, mark.y)), np.array([mark.x, mark.y]))
        if self.top is not None and mark.text:
            foot = (float(self.top[0, 0]), float(self.top[0, 1]) - self.size)
            self.write(_Block(((mark.text, False),), foot, 0.0), within=ARROW)

    def draw_backbone(self) -> None:
        """Draw the line along the backbone of the hide, near what is written first."""
        if self.piece.grain is not None:
            turn, near = np.radians(self.piece.grain), self.piece.cut.mean(axis=0)
            if self.words:
                near = np.array([self.words[0].x + ARROW / 2, self.words[0].y])
            self.backbone = self._line(np.array([-np.sin(turn), np.cos(turn)]), near)


def is_pinned(mark: Mark) -> bool:
    """Whether a mark must stand just where it does: the number of a hole or an edge."""
    return mark.kind == "note" and mark.text.isdigit()


def _pinned(mark: Mark, size: float) -> Word:
    return Word(mark.x, mark.y, mark.text, mark.angle, size)


def _blocks(piece: Piece) -> list[_Block]:
    """What is written on a piece: its title with what is said of the whole, and what belongs to a place of its own."""
    titles = [m for m in piece.marks if m.kind == "title"]
    whole = [m for m in piece.marks if m.text and m.kind in ("face", "note", "side") and not is_own(m)]
    blocks = []
    if titles:
        parts = titles[0].text.split(" · ")
        head, rest = " · ".join(p for p in parts if p not in HINTS), [p for p in parts if p in HINTS]
        lines = ((head, True), *((text, False) for text in (*rest, *(m.text for m in whole))))
        blocks.append(_Block(tuple(dict.fromkeys(lines)), (titles[0].x, titles[0].y), titles[0].angle))
    return blocks + [_Block(((m.text, False),), (m.x, m.y), m.angle) for m in piece.marks if is_own(m)]


HINTS = ("front", "grain side up", "either side up")


def is_own(mark: Mark) -> bool:
    """Whether a mark speaks of its place, not of the whole piece."""
    return (mark.kind == "side" and mark.text in ("front", "back")) or (mark.kind == "note" and " here " in mark.text)


def _turn(angle: float) -> Array:
    c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    return np.array([[c, -s], [s, c]])


def _busy(piece: Piece, step: float) -> Array:
    """Places (n, 2) that words must not lie on, so far apart: holes, fittings, and every line but the cut edge."""
    lines = [*piece.stitch, *piece.folds, *(rule.points for rule in piece.rules)]
    lines += [np.vstack([ring, ring[:1]]) for ring in piece.openings]
    lines += [np.array([(m.x, m.y), m.toward]) for m in piece.marks if m.toward is not None and m.kind != "top"]
    spots = [np.empty((0, 2)), *(_along(line, step) for line in lines)]
    holes = [(h.x, h.y, h.diameter / 2) for h in piece.holes]
    rounds = np.array(holes + [(f.x, f.y, f.cap / 2) for f in piece.fittings])
    if len(rounds):
        spots += [rounds[:, :2]]
        spots += [(rounds[:, None, :2] + share * rounds[:, None, 2:] * ROUND).reshape(-1, 2) for share in (0.4, 0.7, 1)]
    return np.vstack(spots)


def _along(line: Array, step: float) -> Array:
    """Points along a line no further apart than a step."""
    length = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    at = np.linspace(0, length[-1], max(int(length[-1] / step), 1) + 1)
    return np.column_stack([np.interp(at, length, line[:, k]) for k in (0, 1)])


def _filled(box: Array, step: float) -> Array:
    """Points all over a box, closed (4, 2), no further apart than a step."""
    one, other = box[1] - box[0], box[3] - box[0]
    across, up = (np.linspace(0, 1, int(np.hypot(*side) / step) + 2) for side in (one, other))
    return np.asarray((box[0] + across[:, None, None] * one + up[None, :, None] * other).reshape(-1, 2))


class _Grid:
    """A piece parted into square cells, of which some are free."""

    def __init__(self, outline: Array, cell: float) -> None:
        self.low, self.cell = outline.min(axis=0), cell
        columns, rows = np.maximum(np.ceil((outline.max(axis=0) - self.low) / cell), 1).astype(int)
        self._free = _inside(outline, self.low, cell, rows, columns)
        self._sums: NDArray[np.int64] | None = None

    def take(self, places: Array) -> None:
        """Nothing is to be written at places (n, 2)."""
        at = np.floor((places - self.low) / self.cell).astype(int)
        at = at[((at >= 0) & (at < self._free.shape[::-1])).all(axis=1)]
        self._free[at[:, 1], at[:, 0]] = False
        self._sums = None

    def room(self, wide: float, high: float, near: Array) -> Array | None:
        """The middle of the free rectangle of a size that is nearest to a place; None where there is none."""
        if self._sums is None:
            self._sums = np.zeros(np.add(self._free.shape, 1), dtype=np.int64)
            self._sums[1:, 1:] = self._free.cumsum(axis=0).cumsum(axis=1)
        c, r = int(np.ceil(wide / self.cell)), int(np.ceil(high / self.cell))
        s = self._sums
        if r >= s.shape[0] or c >= s.shape[1]:
            return None
        rows, columns = np.nonzero(s[r:, c:] - s[:-r, c:] - s[r:, :-c] + s[:-r, :-c] == r * c)
        if not len(rows):
            return None
        middles = self.low + self.cell * (np.column_stack([columns, rows]) + np.array([c, r]) / 2)
        return np.asarray(middles[int(((middles - near) ** 2).sum(axis=1).argmin())])


def _inside(outline: Array, low: Array, cell: float, rows: int, columns: int) -> NDArray[np.bool_]:
    """Which cells (rows, columns) lie wholly within a closed outline: both its edges' crossings counted row by row."""
    a, b = outline, np.roll(outline, -1, axis=0)
    edges = (np.arange(rows + 1) * cell + low[1])[:, None]
    crosses = (a[None, :, 1] <= edges) != (b[None, :, 1] <= edges)
    row, edge = np.nonzero(crosses)
    share = (edges[row, 0] - a[edge, 1]) / (b[edge, 1] - a[edge, 1])
    x = a[edge, 0] + share * (b[edge, 0] - a[edge, 0])
    at = np.clip(np.ceil((x - low[0]) / cell), 0, columns + 1).astype(int)
    flips = np.zeros((rows + 1, columns + 2), dtype=np.int64)
    np.add.at(flips, (row, at), 1)
    corner = (flips.cumsum(axis=1) % 2)[:, : columns + 1].astype(bool)
    within = corner[:-1, :-1] & corner[1:, :-1] & corner[:-1, 1:] & corner[1:, 1:]
    spots = np.floor((_along(np.vstack([outline, outline[:1]]), cell / 2) - low) / cell).astype(int)
    spots = np.clip(spots, 0, [columns - 1, rows - 1])
    within[spots[:, 1], spots[:, 0]] = False
    return np.asarray(within)


def _beside(
    piece: Piece, block: _Block, others: Sequence[Array], size: float, wide: Wide, needed: bool,
    within: tuple[float, float, float, float] | None,
) -> tuple[tuple[Word, ...], Array] | None:  # fmt: skip
    """A block beside its piece where nothing else lies, as much of its title as there is room for, and its pointer.

    Near the piece, else wherever between the pieces there is room; smaller where there is none at all; and None, or
    where it is needed the nearest place, where there is not even that.
    """
    boxes = np.array([[*p.min(axis=0), *p.max(axis=0)] for p in (piece.cut, *others)])
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    if within is not None:
        low, high = np.array(within[:2]), np.array(within[2:])
    rim = _along(np.vstack([piece.cut, piece.cut[:1]]), FINEST)
    strange = shapely.union_all(shapely.box(*boxes[1:].T))
    parts = [part for part in block.shorter() if len(part.lines) == 1]
    tried = [(part, share) for share in (1.0, 0.8, 0.65) for part in parts]
    for part, share in tried:
        w, h = part.size(share * size, wide)
        edge = BESIDE + 1.5 * h if within is None else 0.0  # a line of words may stand beside all that lies there
        for spots, halves in (_round(piece.cut, w, h), _between(low, high, w, h)):
            box = np.hstack([spots - halves, spots + halves])
            hit = (boxes[None, :, :2] < box[:, None, 2:] + CLEAR) & (boxes[None, :, 2:] > box[:, None, :2] - CLEAR)
            free = np.logical_not(np.any(np.all(hit, axis=2), axis=1))
            free &= np.all(box[:, :2] >= low - edge, axis=1) & np.all(box[:, 2:] <= high + edge, axis=1)
            last = needed and (part, share) == tried[-1]
            cost = np.where(free, 0.0, FAR) + 0.2 * np.hypot(*(spots - block.near).T)
            off = np.maximum(np.maximum(boxes[0, :2] - box[:, 2:], box[:, :2] - boxes[0, 2:]), 0.0)
            for at in np.argsort(cost + np.hypot(*off.T), kind="stable")[:NEAREST]:
                if not (free[at] or last):
                    break
                to = rim[int(((rim - spots[at]) ** 2).sum(axis=1).argmin())]
                pointer = np.array([np.clip(to, box[at, :2], box[at, 2:]), to])
                if last or not shapely.LineString(pointer).intersects(strange):
                    angle = 90.0 if halves[at, 1] > halves[at, 0] else 0.0
                    return part.words(float(spots[at, 0]), float(spots[at, 1]), angle, share * size), pointer
    return None


def _between(low: Array, high: Array, wide: float, up: float) -> tuple[Array, Array]:
    """Middles (n, 2) of places all over what lies between two corners, level or upright, and half a box's sizes."""
    xs, ys = (np.linspace(low[k], high[k], 3 * STEPS) for k in (0, 1))
    spots = np.stack(np.meshgrid(xs, ys), axis=2).reshape(-1, 2)
    halves = np.repeat([(wide / 2, up / 2), (up / 2, wide / 2)], len(spots), axis=0)
    return np.vstack([spots, spots]), halves


def _round(outline: Array, wide: float, high: float) -> tuple[Array, Array]:
    """Middles (n, 2) of places round a piece for a box, level or upright, near and further off, and half its sizes."""
    low, high_ = outline.min(axis=0), outline.max(axis=0)
    spots, halves = list[tuple[float, float]](), list[tuple[float, float]]()
    for half in ((wide / 2, high / 2), (high / 2, wide / 2)):
        for out in (BESIDE, BESIDE + 1.5 * high, BESIDE + 3 * high, BESIDE + 6 * high):
            ys = np.linspace(low[1] - half[1], high_[1] + half[1], STEPS)
            xs = np.linspace(low[0] - half[0], high_[0] + half[0], STEPS)
            spots += [(x, y) for x in (high_[0] + out + half[0], low[0] - out - half[0]) for y in ys]
            spots += [(x, y) for y in (low[1] - out - half[1], high_[1] + out + half[1]) for x in xs]
            halves += [half] * (4 * STEPS)
    return np.array(spots), np.array(halves)
