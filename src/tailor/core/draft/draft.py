"""Draft: everything that follows from a job, as values."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Self

import numpy as np
import shapely
from shapely.geometry import Polygon

from tailor.core import measure
from tailor.core.carried.loft import Array
from tailor.core.carried.weight import Body
from tailor.core.draft.fitted.seam import Standoff
from tailor.core.draft.folded.body import Side, Tab
from tailor.core.draft.piece import Finish, Piece, Seam
from tailor.core.draft.tooled.came import Tooled
from tailor.core.draft.worn.carry import Loop
from tailor.core.draft.worn.hung import Halves
from tailor.core.fairing import Line
from tailor.core.leather.leather import Leather
from tailor.core.leather.stack import Profile, Stack
from tailor.core.measure import Theme
from tailor.core.placed.held import Carried, Room, Round, Shut, Thing
from tailor.core.placed.lies import Lie
from tailor.core.placed.rings import Ring
from tailor.core.reason import Reason
from tailor.core.shell.formed import Formed
from tailor.core.shell.panel import Panel
from tailor.core.shell.two_sided import TwoSided

MEASURES = (
    measure.pick("hand", Theme.FIT, "hand", "the hand that draws; left mirrors every piece", "right", ("right", "left"),
        first=True),
)  # fmt: skip

UNSEEN = 0.004  # mm that a line may be off where it only bounds a region
ROUGH = 2  # how many times as wide the grids of a rough draft are


@dataclass(frozen=True)
class AtStation:
    """What the wrap gives at one station of the measured table, mm."""

    y: float
    standoff: float
    x_welt: float
    x_stitch: float
    front_path: float
    back_path: float


@dataclass(frozen=True)
class Plan:
    """The made-up case seen from the front, as curves (n, 2) in x and y, mm.

    outline: all the leather, closed. strip: the welt, closed. fold, loop: None where there is none.
    """

    welt: Array
    stitch: Array
    cut: Array
    mouth: Array
    outline: Array
    strip: Array
    fold: Array | None = None
    loop: Array | None = None

    @cached_property
    def between(self) -> Polygon:
        """The back below the mouth, between the welts, or between fold and welt."""
        ring = self.welt if self.fold is None else np.vstack([self.welt, self.fold])
        return Polygon(shapely.simplify(shapely.linestrings(ring), UNSEEN)).buffer(0)


@dataclass(frozen=True)
class Carriage:
    """How a case rides on a belt, seen from the front as the right hand wears it.

    pivot: middle of the belt where it passes, x and y. foot: width along the belt. opening: room for the belt's width.
    cant: degrees that the case is turned by on its loop, positive where its tip swings to the seam side. rows: the
    stitches that hold it, each (n, 2). outline: of the loop, closed (n, 2). free: it swings as it will. slots: that the
    belt goes through, closed (n, 2). mm.
    """

    pivot: tuple[float, float]
    foot: float
    opening: float
    cant: float
    rows: tuple[Array, ...]
    outline: Array
    free: bool = False
    slots: tuple[Array, ...] = ()


@dataclass(frozen=True)
class Hang:
    """How a case hangs. Angles in degrees, positive where the tip swings to the seam side.

    whole: case and object together. free: the angle it would take with nothing to hold it. slack: how far it turns
    on its belt either way. rest: the angle it hangs at; drafted: the one it was drawn for. away: pull of its top from
    the body, N·mm. foot: width of foot along the belt that would keep it steady, mm.
    """

    whole: Body
    free: float
    slack: float
    rest: float
    drafted: float
    away: float
    foot: float

    @property
    def off(self) -> float:
        """How far from its drafted angle it hangs, degrees."""
        return self.rest - self.drafted


@dataclass(frozen=True)
class OverTop:
    """A strap over the top at x, in the upright plane there. inner: (n, 2) the places it touches, out from the middle
    plane and height, from its root on the back to its end on the front. turns: the angle it turns through, radians.
    leather: that it is of. mm.
    """

    x: float
    inner: Array
    turns: float
    leather: Leather

    @property
    def offset(self) -> float:
        """Its flesh face to its neutral line, mm."""
        return self.leather.offset

    @property
    def length(self) -> float:
        """Flat length from root to end, mm."""
        return float(np.hypot(*np.diff(self.inner, axis=0).T).sum()) + self.offset * self.turns


@dataclass(frozen=True)
class Lying:
    """A part as it lies on the made-up case, seen from the front: its closed outline (n, 2), mm; behind it or not."""

    name: str
    outline: Array
    behind: bool


@dataclass(frozen=True)
class Hardware:
    """A fastening of a draft. stack: what it goes through; post: the one to take, None where all are too short. mm.

    place: where it is, in words. y: height it is at. found: whether there was room for it. moved: how far it had to go.
    key: the setting that asks for it.
    """

    name: str
    place: str
    y: float
    stack: float
    post: float | None
    found: bool
    moved: float
    key: str


@dataclass(frozen=True)
class Claim:
    """Something a construction answers for: a number against its limit, judged in checks.

    bare: the limit beyond which it cannot go on. holds, fails: why it matters, and what to do. keys: settings that put
    it right when they are let go. ceiling: the limit is the most there may be. theme: what it is about.
    """

    name: str
    value: float
    limit: float
    bare: float
    holds: str
    fails: str
    where: str
    keys: tuple[str, ...] = ()
    unit: str = "mm"
    ceiling: bool = False
    theme: Theme = Theme.SHAPE
    y: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Draft:
    """Pieces, seams and the numbers behind them, of whatever construction.

    pieces are as they are given out: with the holes that are to be marked, mirrored for a left hand; everything
    else is drawn for the right. whole: the pieces with every hole, for the right hand, by which all is judged.
    leather: of its body. shell, plan, inner: the leather round its object, how it looks from the front once it is
    closed, and the welt's inner edge as the front is sewn; profile: its main seam's layers at each of its holes;
    inside: the room it has, across, up and through, mm; each None where it is not made that way, or its panels do not
    tell. rows: what its wrap gives at each station. formed: its panels formed and flat, front first. carriage: what it
    rides on a belt by; loop, tab: its loop, and how that grows out of its back; None where there is none. hardware:
    its fastenings. lying: its parts as they are seen. edges_first: edges that are out of reach later. added: what
    is sewn on pieces, by its settings. rough: worked on wider grids, for a glance while a measure is in hand.
    claims: what its construction answers for. consulted: the settings it was drafted by, pinned or not. hang: how
    it hangs, where it rides on a belt. lies: how pieces lie once it is put together, by their names; held: what is
    put in it; rounds: leather that goes round what is held; shuts: what meets when it is shut; rings: in its folds;
    drawn: pieces and what they are drawn through; sling: its shoulder strap. bed: of the machine it is sewn on, if
    by one. tooled: what is put on its leather.
    """

    pieces: tuple[Piece, ...]
    seams: tuple[Seam, ...]
    reasons: Mapping[str, Reason]
    leather: Leather
    shell: Panel | TwoSided | None = None
    plan: Plan | None = None
    inner: Line | None = None
    profile: Profile | None = None
    inside: tuple[float, float, float] | None = None
    rows: tuple[AtStation, ...] = ()
    formed: tuple[Formed, ...] = ()
    carriage: Carriage | None = None
    loop: Loop | None = None
    tab: Tab | None = None
    mirrored: bool = False
    hardware: tuple[Hardware, ...] = ()
    lying: tuple[Lying, ...] = ()
    edges_first: tuple[Finish, ...] = ()
    added: Mapping[str, str] = field(default_factory=dict)
    rough: bool = False
    claims: tuple[Claim, ...] = ()
    consulted: frozenset[str] = frozenset()

    lies: Mapping[str, Lie] = field(default_factory=dict)
    held: tuple[Thing | Room | Carried, ...] = ()
    rounds: tuple[Round, ...] = ()
    shuts: tuple[Shut, ...] = ()
    rings: tuple[Ring, ...] = ()
    drawn: tuple[tuple[str, str], ...] = ()
    sling: Halves | None = None
    hang: Hang | None = None
    bed: str = ""
    whole: tuple[Piece, ...] = ()
    tooled: tuple[Tooled, ...] = ()

    def unmarked(self) -> Self:
        """The draft with every hole, for the right hand."""
        return replace(self, pieces=self.whole, mirrored=False) if self.whole else self

    @property
    def folds(self) -> bool:
        """Whether any of its leather is folded."""
        return True

    @property
    def wet(self) -> bool:
        """Whether its leather is moulded wet."""
        return False

    @property
    def rides(self) -> bool:
        """Whether a belt carries it."""
        return True

    @property
    def sides(self) -> tuple[Side, ...]:
        """How front and back are sewn in its main seam; none where it has none."""
        return ()

    @property
    def mouth(self) -> float | None:
        """Height of a mouth that may be drawn up or down, mm; None where it has none."""
        return None

    @property
    def span(self) -> tuple[float, float]:
        """The heights between which it can be cut through, mm."""
        raise NotImplementedError

    @property
    def low(self) -> float:
        """Height of the lowest of what lies in it, mm."""
        return self.span[0]

    @property
    def top(self) -> float:
        """Height of its mouth or its upper edge, mm."""
        raise NotImplementedError

    def value(self, name: str) -> float:
        """The settled number of a dimension by its name."""
        return self.reasons[name].value

    def piece(self, name: str) -> Piece:
        return next(p for p in self.pieces if p.name == name)

    def seam(self, name: str) -> Seam:
        return next(s for s in self.seams if s.name == name)


@dataclass(frozen=True, kw_only=True)
class Fitted(Draft):
    """A case formed round the object.

    standoffs: the seam side's, and then the spine side's where that is sewn too. front, back: how each is sewn, in the
    flat or, where it is pierced when dry, as seen from the front. ways: of the straps over its top.
    """

    shell: Panel | TwoSided
    plan: Plan
    stack: Stack
    standoffs: tuple[Standoff, ...]
    front: Side
    back: Side
    inner: Line
    profile: Profile
    ways: tuple[OverTop, ...] = ()

    @property
    def folds(self) -> bool:
        return self.plan.fold is not None

    @property
    def wet(self) -> bool:
        return not self.shell.moulding.taut

    @property
    def rides(self) -> bool:
        return self.carriage is not None

    @property
    def sides(self) -> tuple[Side, ...]:
        return self.front, self.back

    @property
    def mouth(self) -> float:
        return self.value("mouth.y")

    @property
    def span(self) -> tuple[float, float]:
        return self.shell.loft.tip - self.value("seam.toe"), self.shell.loft.top

    @property
    def low(self) -> float:
        return self.shell.loft.tip

    @property
    def top(self) -> float:
        return self.mouth

    @property
    def standoff(self) -> Standoff:
        """The standoff on the seam side."""
        return self.standoffs[0]

    @property
    def drift(self) -> float:
        """Greatest distance by which holes that meet miss each other once the panels are formed, mm."""
        if self.front is self.back:
            return 0.0
        if isinstance(self.shell, Panel) and not self.shell.whole:
            return float(np.abs(self.front.holes.points[:, 1] - self.back.holes.points[:, 1]).max())
        sides = zip(self.formed, (self.front, self.back), strict=False)
        seen = [panel.to_plan(side.holes.points) for panel, side in sides]
        if self.shell.flat_back:
            seen.append(self.back.holes.points)
        return float(np.hypot(*(seen[0] - seen[1]).T).max())
