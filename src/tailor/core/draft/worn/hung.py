"""Hung: where a shoulder strap lies that hangs from its two rings, buckled in its first hole.

It goes up from the one ring and over in a hoop to the other, without a twist: in a plane that both rings look along,
or where they look the same way from beside one another, aslant round that hoop. Near its rings and its buckle, where
its ends are turned back and sewn, it runs straight.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import scipy

from tailor.core.carried.loft import Array
from tailor.core.draft.piece import Piece
from tailor.core.draft.worn.straps import FoldedStrap
from tailor.core.leather.trimmings import Trimming
from tailor.core.placed.lies import FRONT, Bent, Creases, Frame, Laid, Lie, Seated
from tailor.core.placed.path import LANDS, Path, crest, ended
from tailor.core.placed.rings import Ring

FREE = 6.0  # mm that a strap runs straight beyond where its legs end
STEP = 30.0  # mm over which the long half steps out over the short one, before the buckle
ROUND = 12.0  # mm of hoop that are drawn straight
SHORTEST = 1.0  # mm of hoop between where a strap runs straight
UPRIGHT = 0.25  # of its length, that a strap runs straight from rings beside one another
SAME = 0.5  # mm apart that rings are in one plane
PLACES = 97  # by which the middle of a hoop is told


@dataclass(frozen=True)
class Hung(Seated):
    """A half of a strap on the hoop it goes round by, which is drawn by short lengths."""

    def creases(self) -> Creases:
        own = self.own.creases()
        return Creases(own.across, own.up, ROUND)


@dataclass(frozen=True)
class Halves:
    """The two halves of a shoulder strap as they are cut, mm.

    foot: of each leg that is turned back; ring, buckle: from the crest of a fold to where both its legs have met, as
    they lie flat. height: of the strap, all its layers. folded: how, where it is folded lengthwise. pads: for the
    shoulder, the nearest to the strap first.
    """

    long: Piece
    short: Piece
    foot: float
    ring: float
    buckle: float
    height: float
    folded: FoldedStrap | None = None
    pads: tuple[Piece, ...] = ()

    def _crest(self, turned: float) -> float:
        """How far beyond where its legs meet a fold stands, once it lies."""
        return crest(self.foot + turned, turned, self.height)

    @property
    def _prong(self) -> float:
        """From the short half's end to where the prong comes through."""
        return float(np.mean([opening[:, 1].mean() for opening in self.short.openings]))

    @property
    def _main(self) -> float:
        """From fold to fold of the short half, between where their legs meet."""
        return self._prong - self.buckle - self.foot - 2 * self.ring

    @property
    def bar(self) -> float:
        """From the ring of the short half to the buckle's bar, as it hangs."""
        return self._crest(self.ring) + self._main + self._crest(self.buckle)

    @property
    def length(self) -> float:
        """From ring to ring as it hangs, buckled in its first hole: told by its pieces alone."""
        hole = min(f.y for f in self.long.fittings)
        return self.bar + self._crest(self.ring) + hole - self.foot - 2 * self.ring

    def with_it(self, pieces: Sequence[Piece]) -> tuple[tuple[str, str], ...]:
        """Of some pieces those that hang with a half of it, webbing and pads, and with which."""
        webbing = [(f"{half.name} webbing", half.name) for half in (self.long, self.short)]
        company = dict([*webbing, *((pad.name, self.long.name) for pad in self.pads)])
        return tuple((piece.name, company[piece.name]) for piece in pieces if piece.name in company)

    def rings(self, tabs: Sequence[str], tab: Trimming, buckle: Trimming) -> tuple[Ring, ...]:
        """Those in the folds of two tabs, the short half at the first, and the buckle in the fold of that."""
        long, short = self.long.name, self.short.name
        own = Ring("buckle", short, long, self._prong, self.buckle, buckle.inside, buckle.wire, square=True)
        in_tabs = (
            Ring(f"ring in the {name}", name, strap, 0.0, self.ring, tab.inside, tab.wire)
            for name, strap in zip(tabs, (short, long), strict=True)
        )
        return (*in_tabs, own)

    def between(self, rings: Sequence[Ring], lies: Mapping[str, Lie], outward: Array | None = None) -> dict[str, Lie]:
        """Where both halves lie, the webbing in them and the pads, the short one at the first of two rings; none where
        it is not told how their tabs lie, or where the strap is too short to go over. outward: which way, (3,), from
        what both lie on beside one another; the strap leans that way.
        """
        tabs = [lies.get(ring.piece) for ring in rings]
        if any(tab is None for tab in tabs):
            return {}
        right, left = (
            replace(frame, origin=frame.origin + ring.deep * frame.up)
            for ring, tab in zip(rings, tabs, strict=True)
            if tab is not None and (frame := ring.frame(tab))
        )
        near = self.foot + self._crest(self.ring) + FREE
        beside = self.foot + self._crest(self.buckle) + FREE
        if outward is not None:
            near = max(near, min(UPRIGHT * self.length, self.bar - beside - 2 * SHORTEST))
        before, after = self.bar - near - beside, self.length - self.bar - beside - STEP - near
        long_enough = min(before, after) > SHORTEST
        over = _over((near, before, 2 * beside + STEP, after, near), right, left, outward) if long_enough else None
        if over is None:
            return {}
        short = Bent(FRONT, self._across, self._short())
        back = Frame(np.array([0.0, self.length, 0.0]), np.array([-1.0, 0.0, 0.0]), np.array([0.0, -1.0, 0.0]))
        long = Bent(back, self._across, self._long(self.length - self.bar - beside - STEP))
        found = dict[str, Lie]()
        for piece, own in ((self.short, short), (self.long, long)):
            found[piece.name] = Hung(over, own, (0.0, 0.0), 0.0)
            found[f"{piece.name} webbing"] = Hung(over, Bent(own.frame, up=own.up), (0.0, 0.0), 0.0)
        under, middle = self.height / 2, self.bar + beside + STEP + after / 2
        for pad in self.pads:
            lift = under + pad.thickness / 2
            found[pad.name] = Laid(over, -lift, (0.0, middle - float(pad.cut[:, 1].max() + pad.cut[:, 1].min()) / 2))
            under += pad.thickness
        return found

    @property
    def _across(self) -> Path:
        """How it is folded lengthwise, its grain outside."""
        if self.folded is None:
            return Path()
        (low, high), *_ = self.folded.gullies
        bend, leg = high - low, float(low)
        out = bend / np.pi
        wide = leg + out
        return Path(((leg, 0.0), (bend, -np.pi), (leg, 0.0)), (-wide / 2, out), first=-self.folded.width / 2)

    def _short(self) -> Path:
        """How it lies along its hoop and out from it: from its leg round the ring to the buckle, and back."""
        (first, up), (last, down) = (ended(self.foot + t, t, self.height) for t in (self.ring, self.buckle))
        runs = (*first, (self._main + 2 * LANDS, 0.0), *last[::-1])
        start = (self._crest(self.ring) + self.foot, -self.height)
        return Path(runs, start, np.pi, 0.0, (0.0, 0.0, 0.0, up, down, 0.0, 0.0))

    def _long(self, step: float) -> Path:
        """How it lies, from its ring: so far on it steps out, over the buckle and the short half."""
        first, up = ended(self.foot + self.ring, self.ring, self.height)
        stands, steep = self._crest(self.ring), float(np.arcsin(self.height / STEP))
        runs = (*first, (step - stands + LANDS, 0.0), (STEP, 0.0), (1.0, 0.0))
        return Path(runs, (stands + self.foot, -self.height), np.pi, 0.0, (0.0, 0.0, 0.0, up, steep, -steep))


def _over(lengths: Sequence[float], right: Frame, left: Frame, outward: Array | None) -> Laid | None:
    """A strap that goes over from ring to ring, straight for every other of its lengths; its grain looks out.

    right, left: where it goes round each, across along their bars, up the way they stand away. outward: as above.
    """
    way = left.origin - right.origin
    bar = right.across if outward is None else way / np.linalg.norm(way)
    aside = float(way @ bar)
    way = way - aside * bar
    up = right.up + left.up
    up = up - (up @ bar) * bar
    apart = float(np.linalg.norm(way))
    if outward is not None:
        ahead = np.cross(up, bar) / np.linalg.norm(up)
        ahead, apart = ahead * np.sign(ahead @ outward), 0.0
    elif apart > SAME:
        ahead = way / apart
    else:
        return None
    up = up - (up @ ahead) * ahead
    frame = Frame(right.origin, np.cross(ahead, up) / np.linalg.norm(up), ahead)
    slant = float(np.arcsin(np.clip(aside * float(frame.across @ bar) / sum(lengths), -1.0, 1.0)))
    line = _hoop(np.array(lengths) * np.cos(slant), apart)
    if line is not None and outward is not None:
        line = replace(line, heading=np.pi / 2)  # clear of what stands before it, it leans back
    return None if line is None else Laid(Bent(frame, up=line), 0.0, turn=-slant)


def _hoop(lengths: Array, apart: float) -> Path | None:
    """A line over to a place so far ahead, its middle above the middle: in five runs of which the second and the fourth
    turn evenly, to the right; None where they are too short for that.
    """
    arcs, straight = lengths[[1, 3]], lengths[[0, 4]].mean()

    def line(asked: Array) -> Path:
        heading, before, after = asked.tolist()
        runs = tuple(zip(lengths.tolist(), (0.0, -before, 0.0, -after, 0.0), strict=True))
        return Path(runs, heading=heading)

    def off(asked: Array) -> Array:
        path = line(asked)
        at = path.at(np.linspace(0.0, path.length, PLACES))
        return np.array([at[-1, 0] - apart, at[-1, 1], at[:, 0].mean() - apart / 2])

    def even(half: float) -> float:
        """By how much a line misses that turns evenly all the way, by that to either side of its middle."""
        return float((lengths.sum() - 2 * straight) * np.sinc(half / np.pi) + 2 * straight * np.cos(half) - apart)

    half = float(scipy.optimize.brentq(even, 0.0, np.pi))
    found = scipy.optimize.root(off, np.array([half, *(2 * half * arcs / arcs.sum())]))
    return line(found.x) if np.abs(off(found.x)).max() < SAME else None
