"""Joined: pieces laid on sheets of paper: whole where they fit, else over sheets that are joined, as few as hold them.

What goes over joined sheets shares them with others of its kind, and smaller pieces lie in the room that is left.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from tailor.core.carried.loft import Array
from tailor.core.draft.piece import Piece, turned

PITCH = 8.0  # mm between the places that are tried
SLACK = (0.0, 0.5, 1.0)  # shares of the room beside a piece, at which it is tried on sheets of its own
UPRIGHT = 0.0, 90.0  # degrees that a piece is turned by, to be read
ASKEW = tuple(float(angle) for angle in range(1, 180))  # and to fit
AT_ONCE = 200  # places
NONE = 1e-6  # mm, or mm²
SHOWN = 1.0  # mm² of a piece, of which a sheet shows some

Spot = tuple[int, int]  # of a sheet among those joined: column and row, from the upper left


@dataclass(frozen=True)
class Paper:
    """What a sheet shows, across and up; what neighbours share, and what lies between pieces, mm."""

    room: tuple[float, float]
    overlap: float
    gap: float

    @property
    def step(self) -> Array:
        """From a sheet to the next."""
        return np.array(self.room) - self.overlap


@dataclass(frozen=True)
class Joined:
    """Sheets that are joined, so many across and up; those that are not in spots show nothing. pieces: as they lie on
    them, mm from the lower left corner of them all.
    """

    paper: Paper
    columns: int
    rows: int
    pieces: tuple[Piece, ...]
    spots: tuple[Spot, ...]

    @property
    def size(self) -> Array:
        return np.array(self.paper.room) + (np.array([self.columns, self.rows]) - 1) * self.paper.step

    def low(self, at: Spot) -> Array:
        """Where the lower left corner of a sheet lies."""
        return np.array([at[0], self.rows - 1 - at[1]]) * self.paper.step

    def window(self, at: Spot) -> Polygon:
        """What a sheet shows."""
        return shapely.box(*self.low(at), *(self.low(at) + self.paper.room))

    def beside(self, at: Spot) -> dict[str, Spot]:
        """The sheets that one meets, by the side they lie on."""
        c, r = at
        sides = {"left": (c - 1, r), "right": (c + 1, r), "above": (c, r - 1), "below": (c, r + 1)}
        return {side: other for side, other in sides.items() if other in self.spots}

    def trimmed(self) -> Joined:
        """Without the sheets that show nothing which others do not, if what is left hangs together under each piece."""
        kept, shapes = set(self.spots), [Polygon(piece.cut) for piece in self.pieces]
        shown = {at: sum(shape.intersection(self.window(at)).area for shape in shapes) for at in kept}
        for at in sorted(kept, key=lambda at: shown[at]):
            if self._holds(kept - {at}, shapes):
                kept.remove(at)
        return replace(self, spots=tuple(at for at in self.spots if at in kept))

    def _holds(self, spots: Collection[Spot], shapes: Sequence[Polygon]) -> bool:
        for shape in shapes:
            own = [at for at in spots if shape.intersection(self.window(at)).area > SHOWN]
            if not own or not shapely.union_all([self.window(at) for at in own]).buffer(NONE).covers(shape):
                return False
            reached, next_ = set[Spot](), [own[0]]
            while next_:
                c, r = next_.pop()
                reached.add((c, r))
                next_ += [at for at in own if abs(at[0] - c) + abs(at[1] - r) == 1 and at not in reached]
            if len(reached) < len(own):
                return False
        return True


def laid(pieces: Sequence[Piece], paper: Paper) -> tuple[list[Piece], list[Joined]]:
    """Pieces that fit a sheet whole, as they are turned to, and the others where they lie on joined sheets."""
    small, large = list[Piece](), list[Joined]()
    for piece in pieces:
        angle = _fitting(piece, paper)
        if angle is None:
            large.append(_alone(piece, paper))
        else:
            small.append(turned(piece, angle) if angle else piece)
    found = list[Joined]()
    for own in sorted(large, key=lambda each: (-len(each.spots), -each.pieces[0].area)):
        shared = [each for each in (_shared(other, own.pieces[0]) for other in found) if each is not None]
        more = [len(each[1].spots) - len(each[0].spots) for each in shared]
        if more and min(more) < len(own.spots):
            before, after = shared[int(np.argmin(more))]
            found[found.index(before)] = after
        else:
            found.append(own)
    return small, found


def free_spot(
    piece: Piece, lying: Sequence[BaseGeometry], within: tuple[float, float, float, float], paper: Paper
) -> Piece | None:
    """A piece where it is clear of what lies there and within left, low, right and high; None where it is nowhere."""
    taken = _taken(lying, paper)
    for way in _ways(piece):
        size = np.ptp(way.cut, axis=0)
        for places in _places(size, within):
            free = _free(way, places, taken)
            if free.any():
                return way.moved(places[int(free.argmax())] - way.cut.min(axis=0))
    return None


def _fitting(piece: Piece, paper: Paper) -> float | None:
    """The least angle, degrees, by which a piece is turned so that it fits a sheet whole; None where none does."""
    angles = np.array([*UPRIGHT, *sorted(ASKEW, key=lambda angle: min(angle % 90.0, 90.0 - angle % 90.0))])
    c, s = np.cos(np.radians(angles))[:, None], np.sin(np.radians(angles))[:, None]
    x, y = piece.cut.T
    sizes = np.stack([np.ptp(x * c - y * s, axis=1), np.ptp(x * s + y * c, axis=1)], axis=1)
    fits = (sizes <= np.array(paper.room) + NONE).all(axis=1)
    return float(angles[int(fits.argmax())]) if fits.any() else None


def _ways(piece: Piece) -> tuple[Piece, Piece]:
    """A piece upright, and on its side."""
    return piece, turned(piece, 90.0)


def _alone(piece: Piece, paper: Paper) -> Joined:
    """A piece on as few sheets of its own as hold it."""
    tried = list[Joined]()
    for way in (*_ways(piece), *_ways(turned(piece, _lean(piece)))):
        size = np.ptp(way.cut, axis=0)
        columns, rows = np.maximum(np.ceil((size - paper.overlap - NONE) / paper.step), 1).astype(int).tolist()
        every = tuple((c, r) for r in range(rows) for c in range(columns))
        sheets = Joined(paper, columns, rows, (), every)
        for across in SLACK:
            for up in SLACK:
                at = (sheets.size - size) * [across, up]
                tried.append(replace(sheets, pieces=(way.moved(at - way.cut.min(axis=0)),)).trimmed())
    return min(tried, key=lambda each: len(each.spots))


def _lean(piece: Piece) -> float:
    """The angle that turns a piece to lie straightest, degrees."""
    ring = shapely.get_coordinates(shapely.minimum_rotated_rectangle(Polygon(piece.cut)))
    x, y = ring[1] - ring[0]
    return -float(np.degrees(np.arctan2(y, x)))


def _shared(sheets: Joined, piece: Piece) -> tuple[Joined, Joined] | None:
    """Joined sheets without and with one more piece on them, where it adds the fewest; None where it has no room."""
    best: Joined | None = None
    taken = _taken([Polygon(other.cut) for other in sheets.pieces], sheets.paper)
    every = tuple((c, r) for r in range(sheets.rows) for c in range(sheets.columns))
    for way in _ways(piece):
        places = np.vstack([np.empty((0, 2)), *_places(np.ptp(way.cut, axis=0), (0.0, 0.0, *sheets.size.tolist()))])
        places = places[_free(way, places, taken)]
        if not len(places):
            continue
        low, high = places[:, None], places[:, None] + np.ptp(way.cut, axis=0)
        corner = np.array([sheets.low(at) for at in every])
        over = ((low < corner + sheets.paper.room) & (high > corner)).all(axis=2)
        new = (over & [at not in sheets.spots for at in every]).sum(axis=1)
        at = places[int(new.argmin())]
        made = replace(sheets, pieces=(*sheets.pieces, way.moved(at - way.cut.min(axis=0))), spots=every).trimmed()
        if best is None or len(made.spots) < len(best.spots):
            best = made
    return None if best is None else (sheets, best)


def _places(size: Array, within: tuple[float, float, float, float]) -> Iterator[Array]:
    """Lower left corners that a piece of a size may have, lowest first, some at a time, (n, 2)."""
    low, most = np.array(within[:2]), np.array(within[2:]) - size
    if (most < low - NONE).any():
        return
    xs, ys = (
        np.linspace(a, max(b, a), int(np.ceil(max(b - a, 0.0) / PITCH)) + 1) for a, b in zip(low, most, strict=True)
    )
    every = np.stack(np.meshgrid(xs, ys), axis=2).reshape(-1, 2)
    yield from np.array_split(every, int(np.ceil(len(every) / AT_ONCE)))


def _taken(lying: Sequence[BaseGeometry], paper: Paper) -> BaseGeometry:
    """Where nothing else may lie: what lies there, and the gap about it."""
    taken = shapely.union_all([shape.buffer(paper.gap, quad_segs=2) for shape in lying])
    shapely.prepare(taken)
    return taken


def _free(piece: Piece, places: Array, taken: BaseGeometry) -> NDArray[np.bool_]:
    """At which lower left corners a piece is clear of what is taken, (n,)."""
    own = piece.cut - piece.cut.min(axis=0)
    return np.asarray(~shapely.intersects(taken, shapely.polygons(places[:, None] + own)))
