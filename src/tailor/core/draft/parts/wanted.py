"""Wanted: what is asked to be sewn on a piece, and what is made of that, about its own place on it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from tailor.core import habit
from tailor.core.carried.loft import Array
from tailor.core.draft.flat_goods.gusset import Gusset
from tailor.core.draft.piece import Fitting, Piece, Rule
from tailor.core.draft.stitch.holes import Edge
from tailor.core.habit import Habit
from tailor.core.leather.leather import Leather
from tailor.core.maker import Maker
from tailor.core.placed.held import Shut
from tailor.core.placed.lies import Lie

SEAT = ""  # stands for the piece that something is sewn on
CORNER = habit.eye("patch.corner", 6.0, 2, 15, "rounding of the corners of what is sewn on")
BRIM = habit.bench("patch.brim", 0.75, 0.4, 1.5, "of a margin, from a brim to the first stitch", habit.SHARE)


@dataclass(frozen=True)
class Wanted:
    """What is asked for. name: of its piece. number, word: a setting by the last part of its key. mm.

    pitch, hole: of the stitches. bears: stretch and gather that its leather bears, as shares.
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
    bears: tuple[float, float]

    def habit(self, habit: Habit) -> float:
        """The number that its maker goes by."""
        return self.maker.habit(habit)

    @property
    def under(self) -> str:
        """What its seat's edge is called."""
        return f"under the {self.name}"


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
    moulded foot is longer than its seat. plane: pieces that lie level on the seat, and how far out of its grain side
    their middle layer is. lies: how others lie over a seat that is plane there. shuts: what meets when it is shut.
    turned: a strip whose edges turn round corners, by its name.
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
    plane: Mapping[str, float] = field(default_factory=dict)
    lies: Mapping[str, Lie] = field(default_factory=dict)
    shuts: tuple[Shut, ...] = ()
    turned: tuple[str, Gusset] | None = None


def finished(piece: Piece, whole: bool = False) -> Piece:
    """A piece whose upper edge, or whole edge, is marked to be finished first."""
    top = float(piece.cut[:, 1].max())
    edge = np.vstack([piece.cut, piece.cut[:1]]) if whole else piece.cut[piece.cut[:, 1] > top - 1e-6]
    return replace(piece, rules=(*piece.rules, Rule("finish", edge)))
