"""Scene: what lies on the board, in mm, and the places measures are tied to."""

from __future__ import annotations

import time
from collections.abc import Iterable, Iterator, Mapping
from copy import copy
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.piece import FLIP, Piece
from tailor.core.draft.tooled.put import MARKED
from tailor.core.keys import MEASURES
from tailor.core.measure import Along
from tailor.files.lettering import COARSE, Lettering, Wide, lettering

Place = tuple[float, float]
LEVEL = 1.0  # mm within which two ends are as high as each other


@dataclass
class _Words:
    """What is written on a scene by the size of its letters, mm: all of it, what is under way, and what was before.

    glanced: it is looked at for a moment only, and what was before serves.
    """

    done: dict[float, tuple[Lettering, ...]] = field(default_factory=dict)
    begun: dict[float, tuple[Iterator[Lettering], list[Lettering]]] = field(default_factory=dict)
    before: dict[float, tuple[Lettering, ...]] = field(default_factory=dict)
    glanced: bool = False


@dataclass(eq=False)
class Scene:
    """fills: (outline, colour, alpha); lines: (kind, points, closed); pieces: those that lie flat, for their words."""

    fills: list[tuple[Array, str, int]] = field(default_factory=list)
    lines: list[tuple[str, Array, bool]] = field(default_factory=list)
    outlines: list[Array] = field(default_factory=list)
    behind: list[Array] = field(default_factory=list)
    holes: list[tuple[float, float, float]] = field(default_factory=list)
    pieces: list[Piece] = field(default_factory=list)
    captions: list[tuple[float, float, str]] = field(default_factory=list)  # words of one size however near it is seen
    zones: list[tuple[int, str, float, float, float]] = field(default_factory=list)  # index, kind, x, low, high
    stations: list[tuple[float, float, float]] = field(default_factory=list)  # x, x, y
    places: dict[str, Place] = field(default_factory=dict)
    shifts: dict[str, float] = field(default_factory=dict)  # how far each piece was moved aside
    lifts: dict[str, float] = field(default_factory=dict)  # how far up
    room: tuple[float, float, float, float] | None = None  # of a picture: left, bottom, right, top

    def lettered(self, size: float, wide: Wide, beside: float) -> tuple[Lettering, ...]:
        """What is written on the pieces that lie flat, in letters of a size, mm; worked once for each.

        beside: how far beside all of them words may stand, mm.
        """
        self.letter_on(size, wide, beside)
        return self.written(size)

    def letter_on(self, size: float, wide: Wide, beside: float, seconds: float = np.inf) -> bool:
        """Go on writing on the pieces, as `lettered` has it, for so long; whether all is written."""
        words, end = self._words, time.monotonic() + seconds
        if size in words.done or (words.glanced and words.before):
            return True
        if size not in words.begun:
            left, low, right, high = self.bounds
            within = (left - beside, low - beside, right + beside, high + beside)
            words.begun[size] = lettering(self.pieces, size, wide, COARSE, needed=False, within=within), []
        writing, written = words.begun[size]
        for each in writing:
            written.append(each)
            if time.monotonic() > end:
                return False
        words.done[size] = tuple(written)
        return True

    def written(self, size: float) -> tuple[Lettering, ...]:
        """What is written in letters of a size; until it is, what was written a moment ago."""
        words = self._words
        nearest = next(reversed((words.before | words.done).values()), ())
        return words.done.get(size) or words.before.get(size) or nearest

    def is_written(self, size: float) -> bool:
        return size in self._words.done

    def again(self) -> Scene:
        """The same scene once more: what is written on it is shared."""
        again = copy(self)
        again._words = self._words
        return again

    def borrow(self, other: Scene | None, rough: bool) -> None:
        """Take over what is written from a scene of the same pieces; rough: or of the same names, a moment ago. Of the
        same names it is shown at least until it is written anew.
        """
        if other is None or [p.name for p in other.pieces] != [p.name for p in self.pieces]:
            return
        words, theirs = self._words, other._words
        words.glanced = rough
        if not rough and all(_words_stay(one, same) for one, same in zip(other.pieces, self.pieces, strict=True)):
            words.done.update(theirs.done)
        words.before = dict(theirs.done or theirs.before)

    @cached_property
    def _words(self) -> _Words:
        return _Words()

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, bottom, right, top, mm."""
        if self.room is not None:
            return self.room
        every = np.vstack([f[0] for f in self.fills] + [p for _, p, _ in self.lines] + self.outlines)
        return (*map(float, every.min(axis=0)), *map(float, every.max(axis=0)))  # type: ignore[return-value]


def _words_stay(one: Piece, other: Piece) -> bool:
    """Whether what is written on a piece would stand where it does on another of its name."""
    lines = [[rule.points for rule in piece.rules if rule.kind in MARKED] for piece in (one, other)]
    tooled = len(lines[0]) == len(lines[1]) and all(map(np.array_equal, *lines))
    return tooled and one.marks == other.marks and np.array_equal(one.cut, other.cut)


def mirrored(scene: Scene) -> Scene:
    """The scene as the left hand sees it."""
    room = scene.room
    return Scene(
        fills=[(p * FLIP, c, a) for p, c, a in scene.fills], lines=[(k, p * FLIP, c) for k, p, c in scene.lines],
        outlines=[p * FLIP for p in scene.outlines],         behind=[p * FLIP for p in scene.behind],
        holes=[(-x, y, d) for x, y, d in scene.holes],
        captions=[(-x, y, t) for x, y, t in scene.captions],
        zones=[(i, k, -x, low, high) for i, k, x, low, high in scene.zones],
        stations=[(-b, -a, y) for a, b, y in scene.stations], places={k: (-x, y) for k, (x, y) in scene.places.items()},
        shifts=scene.shifts, lifts=scene.lifts, room=None if room is None else (-room[2], room[1], -room[0], room[3]),
    )  # fmt: skip


def tie(scene: Scene, lines: Mapping[Along, Array], named: Iterable[str] = MEASURES) -> None:
    """Tie measures to lines (n, 2) of the scene, each where its declaration says."""
    lengths = {along: np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
               for along, line in lines.items()}  # fmt: skip
    for name in named:
        if (at := MEASURES[name].at) is not None and at[0] in lines:
            line, upto = lines[at[0]], lengths[at[0]]
            x, y = (float(np.interp(at[1] * upto[-1], upto, line[:, k])) for k in (0, 1))
            scene.places[name] = (x, y)


def down(line: Array, mouth: float = np.inf) -> Array:
    """A line from its upper end on the right, or from the mouth, down to its lowest place."""
    line = line if line[0, 1] >= line[-1, 1] else line[::-1]
    line = line if line[0, 0] >= line[-1, 0] or line[0, 1] - line[-1, 1] > LEVEL else line[::-1]
    line = line[: int(line[:, 1].argmin()) + 1]
    kept = line[line[:, 1] <= mouth]
    return kept if len(kept) > 1 else line


def sides_of(low: Array, high: Array) -> dict[Along, Array]:
    """The edges of a loop, upward."""
    left, right = np.array([low, (low[0], high[1])]), np.array([(high[0], low[1]), high])
    return {Along.LOOP_LEFT: left, Along.LOOP_RIGHT: right}
