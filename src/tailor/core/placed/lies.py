"""Lies: how a piece lies in space once it is put together: maps from the flat leather to its middle layer.

Space: x across, y up, z out to the front, mm. A map keeps lengths, or tells by how much it does not (`strain`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import NamedTuple, Protocol, runtime_checkable

import numpy as np
import shapely
from shapely.geometry import Polygon

from tailor.core.carried.loft import Array
from tailor.core.placed.path import Path

OTHER = ", the other"  # of two alike that are cut: after its name, where the second one lies
NEAR = 1e-4  # mm between points that strain is measured by
ROUND = NEAR * np.array(
    [[[0.0, 0.0]], [[1.0, 0.0]], [[-1.0, 0.0]], [[0.0, 1.0]], [[0.0, -1.0]]]
)  # a place, and round it

ACROSS, UP, OUT = (np.array(way, dtype=float) for way in ((1, 0, 0), (0, 1, 0), (0, 0, 1)))


class Placed(NamedTuple):
    """Where points lie in space, (n, 3), and which way their grain side looks, (n, 3) of length 1."""

    at: Array
    out: Array


class Creases(NamedTuple):
    """Where a sheet's curvature changes: x and y on the flat piece between which it is drawn with more points, and the
    step it wants anywhere, mm.
    """

    across: Array
    up: Array
    step: float = np.inf


class Lie(Protocol):
    """A map from points of a flat piece, (n, 2), to space."""

    def __call__(self, flat: Array) -> Placed: ...

    def creases(self) -> Creases: ...


@runtime_checkable
class Lifts(Protocol):
    """A map of which a part may be lifted, as a flap is: itself where none is."""

    def lifted(self) -> Lie: ...


def lifted(lie: Lie) -> Lie:
    """How a piece lies once what shuts the case is lifted; the same map where that changes nothing."""
    return lie.lifted() if isinstance(lie, Lifts) else lie


@dataclass(frozen=True)
class Frame:
    """Where a flat origin lies and which ways a piece's x and y run there, each (3,). Its grain looks along x × y."""

    origin: Array = field(default_factory=lambda: np.zeros(3))
    across: Array = field(default_factory=lambda: ACROSS)
    up: Array = field(default_factory=lambda: UP)

    @cached_property
    def out(self) -> Array:
        return np.cross(self.across, self.up)

    def ways(self, behind: bool = False) -> Array:
        """Its three ways in space, (3, 3): across, up, and out; or away from that, where it is told from behind."""
        return np.array([self.across, self.up, -self.out if behind else self.out])

    def moved(self, by: Sequence[float]) -> Frame:
        """Moved so far across, up and out in space."""
        return Frame(self.origin + np.asarray(by, dtype=float), self.across, self.up)


FRONT = Frame()  # looking out to the front


@dataclass(frozen=True)
class Bent:
    """A sheet bent along upright lines, along level lines, or both: first along the upright ones.

    across, up: what it looks like from its lower edge, and from its side: how far along the frame, and how far out.
    behind: it lies as its fellow in front would in a mirror, and is drawn as that is, though its grain looks back.
    mitred: where it comes down both ways it lies as the lower of the two does. eased: share by which it is cut narrower
    than it will lie. follows: folded over on itself, it is bent across as what it lies on is. up_lifted: what it looks
    like from its side once its flap is lifted.
    """

    frame: Frame = FRONT
    across: Path = field(default_factory=Path)
    up: Path = field(default_factory=Path)
    behind: bool = False
    mitred: bool = False
    eased: float = 0.0
    follows: bool = False
    up_lifted: Path | None = None

    def lifted(self) -> Bent:
        return self if self.up_lifted is None else replace(self, up=self.up_lifted, up_lifted=None)

    @cached_property
    def _ways(self) -> Array:
        return self.frame.ways(self.behind)

    def __call__(self, flat: Array) -> Placed:
        if self.eased:
            flat = flat / np.array([1 - self.eased, 1.0])
        (x, a), (y, b) = self.across.goes(flat[:, 0]), self.up.goes(flat[:, 1])
        if self.mitred:
            level = x[:, 1] < y[:, 1]
            y, b = np.where(level[:, None], y * [1.0, 0.0], y), np.where(level, 0.0, b)
            x, a = np.where(level[:, None], x, x * [1.0, 0.0]), np.where(level, a, 0.0)
        cos, sin, over, down = np.cos(a), np.sin(a), np.cos(b), np.sin(b)
        if self.follows:
            at = np.array([x[:, 0], y[:, 0], y[:, 1] + x[:, 1]]).T
            out = _unit(np.array([-over * sin, -cos * down, cos * over]).T)
        else:  # out from the line that it goes up by
            at = np.array([x[:, 0], y[:, 0] - x[:, 1] * down, y[:, 1] + x[:, 1] * over]).T
            out = np.array([-sin, -cos * down, cos * over]).T
        return Placed(self.frame.origin + at @ self._ways, out @ self._ways)

    def creases(self) -> Creases:
        return Creases(self.across.turns * (1 - self.eased), self.up.turns)


@dataclass(frozen=True)
class Swept:
    """A strip laid along a line: its y runs back along the line from its upper end at y = 0, x is across the strip.

    line: the middle layer of its wall in the frame's plane, its grain to the left of it. section: the strip cut across,
    from the frame's front to its back: how far that way, and how far out from the wall. Where the line turns and the
    section stands out from it, the leather is strained. behind: as a strip that lies so would in a mirror before the
    frame. eased: share by which it is cut shorter than its line.
    """

    frame: Frame
    line: Path
    section: Path = field(default_factory=Path)
    behind: bool = False
    eased: float = 0.0

    def __call__(self, flat: Array) -> Placed:
        along, heading = self.line.goes(-flat[:, 1] / (1 - self.eased))
        cut, leans = self.section.goes(flat[:, 0])
        left, cos = np.array([-np.sin(heading), np.cos(heading)]), np.cos(leans)
        at = np.array([*(along.T + cut[:, 1] * left), -cut[:, 0]]).T
        out = np.array([*(cos * left), np.sin(leans)]).T
        ways = self.frame.ways(self.behind)
        return Placed(self.frame.origin + at @ ways, out @ ways)

    def creases(self) -> Creases:
        return Creases(self.section.turns, -self.line.turns * (1 - self.eased))


@dataclass(frozen=True)
class Upright:
    """A strip that is drawn upright, a quarter turn from how its map has it: its x runs along, its y up across. own: as
    it lies, down its y from 0; along: how long it is, mm.
    """

    own: Lie
    along: float

    def __call__(self, flat: Array) -> Placed:
        return self.own(np.column_stack([-flat[:, 1], flat[:, 0] - self.along]))

    def creases(self) -> Creases:
        across, up, step = self.own.creases()
        return Creases(up + self.along, -across, step)


@dataclass(frozen=True)
class Laid:
    """A piece that was sewn on another while that lay flat, and goes with it: so far out from its middle layer, mm.

    at: where its own origin lies on the other's flat; turn: how far it is turned there, radians. It is strained where
    the other bends.
    """

    on: Lie
    lift: float
    at: tuple[float, float] = (0.0, 0.0)
    turn: float = 0.0

    def lifted(self) -> Laid:
        on = lifted(self.on)
        return self if on is self.on else replace(self, on=on)

    def __call__(self, flat: Array) -> Placed:
        c, s = np.cos(self.turn), np.sin(self.turn)
        under = self.on(flat @ np.array([[c, s], [-s, c]]) + np.array(self.at))
        return Placed(under.at + self.lift * under.out, under.out * (1.0 if self.lift >= 0 else -1.0))

    def creases(self) -> Creases:
        across, up, step = self.on.creases()
        across, up = across - self.at[0], up - self.at[1]
        c, s = np.cos(self.turn), np.sin(self.turn)
        if abs(c) >= abs(s):  # as near as it is turned by whole quarters
            return Creases(np.sign(c) * across, np.sign(c) * up, step)
        return Creases(np.sign(s) * up, -np.sign(s) * across, step)


@dataclass(frozen=True)
class Seated:
    """A piece that stands on another while that lies flat, and goes with it.

    own: how it lies over a seat that is plane. at: where its origin lies on the other's flat; lift: from the other's
    middle layer to where its heights are measured from, mm. It is strained where the other bends.
    """

    on: Lie
    own: Lie
    at: tuple[float, float]
    lift: float

    def lifted(self) -> Seated:
        on, own = lifted(self.on), lifted(self.own)
        return self if on is self.on and own is self.own else replace(self, on=on, own=own)

    def __call__(self, flat: Array) -> Placed:
        here = self.own(flat)
        seat = here.at[:, :2] + np.array(self.at)
        round_it = self.on((seat + ROUND).reshape(-1, 2))
        under, out = (part.reshape(5, -1, 3) for part in round_it)
        across, up = _unit(under[1] - under[2]), _unit(under[3] - under[4])
        grain = here.out[:, :1] * across + here.out[:, 1:2] * up + here.out[:, 2:] * out[0]
        return Placed(under[0] + (self.lift + here.at[:, 2:]) * out[0], _unit(grain))

    def creases(self) -> Creases:
        own = self.own.creases()
        return Creases(own.across, own.up, min(own.step, self.on.creases().step))


@dataclass(frozen=True)
class Moved:
    """A piece that is moved as it is, with what it is held to: as that frame was, and as it is then."""

    own: Lie
    was: Frame
    now: Frame

    def __call__(self, flat: Array) -> Placed:
        placed = self.own(flat)
        was, now = (np.array([frame.across, frame.up, frame.out]) for frame in (self.was, self.now))
        turn = was.T @ now
        return Placed((placed.at - self.was.origin) @ turn + self.now.origin, placed.out @ turn)

    def creases(self) -> Creases:
        return self.own.creases()


@dataclass(frozen=True)
class Patched:
    """A sheet whose parts lie in unlike ways: regions of the flat piece and their maps, the first that holds a place
    telling where it lies; and one for the rest.
    """

    parts: tuple[tuple[Polygon, Lie], ...]
    rest: Lie

    def lifted(self) -> Patched:
        parts, rest = tuple((region, lifted(lie)) for region, lie in self.parts), lifted(self.rest)
        same = rest is self.rest and all(one[1] is other[1] for one, other in zip(parts, self.parts, strict=True))
        return self if same else replace(self, parts=parts, rest=rest)

    def __call__(self, flat: Array) -> Placed:
        at, out, left = np.empty((len(flat), 3)), np.empty((len(flat), 3)), np.ones(len(flat), dtype=bool)
        for region, lie in self.parts:
            within = left & shapely.contains_xy(region, flat[:, 0], flat[:, 1])
            if within.any():
                at[within], out[within] = lie(flat[within])
                left &= ~within
        if left.any():
            at[left], out[left] = self.rest(flat[left])
        return Placed(at, out)

    def creases(self) -> Creases:
        told = [lie.creases() for lie in (self.rest, *(lie for _, lie in self.parts))]
        told += [Creases(*shapely.get_coordinates(region).T) for region, _ in self.parts]
        across, up, steps = zip(*told, strict=True)
        return Creases(np.concatenate(across), np.concatenate(up), min(steps))


def _unit(v: Array) -> Array:
    return np.asarray(v / np.maximum(np.linalg.norm(v, axis=1), 1e-12)[:, None])


def each(lie: Lie, rows: Sequence[Array]) -> list[Placed]:
    """Where several rows of a piece lie, (n, 2) each, asked at once: far quicker than one by one."""
    ends = np.cumsum([len(row) for row in rows])[:-1]
    return [Placed(*both) for both in zip(*(np.split(part, ends) for part in lie(np.vstack(rows))), strict=True)]


def flat_at(out: float, behind: bool = False) -> Bent:
    """A piece that lies plane, its middle layer so far out to the front, mm."""
    return Bent(FRONT.moved((0.0, 0.0, out)), behind=behind)


def upon(lie: Lie, at: tuple[float, float], lift: float, turned: bool = False) -> Frame:
    """A frame on a piece that lies so: at a flat place of it, so far out from its middle layer, mm.

    Its x and y run as the piece's there; turned: its y as the piece's x, its x down the piece.
    """
    here = np.array([at])
    place = lie(here)
    x, y = ((lie(here + way).at - lie(here - way).at)[0] for way in (np.array([NEAR, 0.0]), np.array([0.0, NEAR])))
    x, y = x / np.linalg.norm(x), y / np.linalg.norm(y)
    across, up = (-y, x) if turned else (x, y)
    if np.cross(across, up) @ place.out[0] < 0:  # it is drawn from its flesh side
        across = -across
    return Frame(place.at[0] + lift * place.out[0], across, up)


def strain(lie: Lie, flat: Array) -> Array:
    """By what share the leather is longer than flat at points, (n, 2): the least and the most in any direction."""
    a, b = ((lie(flat + way).at - lie(flat - way).at) / (2 * NEAR) for way in (np.array([NEAR, 0.0]),
            np.array([0.0, NEAR])))  # fmt: skip
    stretched = np.linalg.svd(np.stack([a, b], axis=2), compute_uv=False)
    return np.asarray(stretched[:, ::-1] - 1)
