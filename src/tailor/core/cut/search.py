"""The search: a first layout at once, then pieces put in where they meet others and all taken apart again.

Values in, values out: the same laying, seed and number of steps give the same layout.
"""

from __future__ import annotations

from collections.abc import Generator, Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely

from tailor.core.carried.loft import Array
from tailor.core.cut import exact, moves, raster
from tailor.core.cut.ground import Ground, ground
from tailor.core.cut.laying import Laid, Laying, Wanted
from tailor.core.cut.moves import State
from tailor.core.cut.shapes import Shapes, shapes

FULL = 0.84  # of the leather that can be used, up to which pieces are put in before they are taken apart
PATIENCE = 12  # rounds without gain before a piece is given up
TRIES = 200  # places that are tried for one that is put in singly
BLAME = 0.7
EJECTED = 2  # pieces it may drive out
SLENDER, REACH, LONG = 0.12, 250.0, 1e7  # hull over span squared, mm: what is a strap; laid before all else
SCARCE, RARE = 20.0, 0.5  # how much more a piece counts that asks for leather of which there is less than half as much
ORDERS = 3  # in which a first layout is tried


@dataclass(frozen=True)
class Found:
    """A layout on the way: what lies, what it is worth (share of the pieces' area), the steps taken."""

    laid: tuple[Laid, ...]
    share: float
    steps: int


class Search:
    """Pieces laid on leather, better and better."""

    def __init__(self, laying: Laying, seed: int = 0) -> None:
        self.laying, self.steps = laying, 0
        kinds = sorted({(t.wanted, max(0.0, t.margin - self._grown)) for t in laying.templates})
        which = [kinds.index((t.wanted, max(0.0, t.margin - self._grown))) for t in laying.templates]
        self.shapes: Shapes = shapes(laying.templates, which, self._grown)
        leathers = [
            shapely.union_all([h.leather(wanted, laying.band) for h in laying.hides]).buffer(-extra)
            for wanted, extra in kinds
        ]
        self.areas = np.array([leather.area for leather in leathers])
        self.ground: Ground = ground(leathers)
        self.state: State = moves.state(self.shapes)
        self.random = np.random.default_rng(seed)
        moves.seeded(seed)
        n = len(laying.templates)
        self.pair, self.edge = np.zeros((n, n)), np.zeros(n)
        self._pin()
        self.best = self._kept()

    @cached_property
    def _grown(self) -> float:
        return max((t.gap for t in self.laying.templates), default=0.0) / 2

    @cached_property
    def scarcity(self) -> Array:
        """(q,) how much of each kind of leather is asked for, as a share of what there is."""
        asked = np.bincount(self.shapes.kind, weights=self.shapes.area, minlength=len(self.areas))
        return np.asarray(asked / np.maximum(self.areas, 1.0))

    @cached_property
    def worth(self) -> Array:
        """(n,) what it is worth that a piece lies: its area."""
        return self.shapes.area / max(float(self.shapes.area.sum()), 1e-9)

    @cached_property
    def large(self) -> Array:
        """(n,) how hard it is to find room for a piece: by its area, and by how scarce the leather is that it asks for."""
        scarce = np.where(self.areas < self.areas.max() * RARE, 1 + SCARCE * self.scarcity, 1.0)
        return np.asarray(self.shapes.area * scarce[self.shapes.kind])

    @cached_property
    def long(self) -> Array:
        """(n,) whether a piece is so long and slender that others are laid round it, and it is never pushed by them."""
        slender = self.shapes.size**4 < SLENDER * self.shapes.span**2
        return np.asarray(slender & (self.shapes.span > REACH))

    @property
    def all_lie(self) -> bool:
        return bool(self.best[1].all())

    def found(self) -> Found:
        """The best so far, exactly valid."""
        pose, on, _ = self.best
        laid = [self._laid(k, pose[k]) for k in np.nonzero(on)[0]]
        while broken := {id_ for id_, _ in exact.faults(self.laying, laid)}:
            laid = [one for one in laid if one.id not in broken]
        return Found(tuple(laid), self.laying.share(laid), self.steps)

    def run(self) -> Iterator[None]:
        """Go on for ever, a step at a time; `found` tells the best so far after each."""
        self.first()
        yield
        if self.all_lie:
            return
        yield from self._filled()
        while not self.all_lie:
            yield from self._singly()
            if not self.all_lie:
                yield from self._shaken()

    def first(self) -> None:
        """A first layout, valid, by squares."""
        began = self._snap()
        for n in range(ORDERS):
            self._back(began)
            order = self._order(n)
            self._spread(order[self.long[order]], True, False)
            self._spread(order[~self.long[order]], True, True)
            self._keep()
            if self.all_lie:
                break
        self._back(self.best)
        self.steps += 1

    def _spread(self, order: Array, left: bool, low: bool) -> None:
        """Lay pieces by squares in an order, pushed to one side."""
        squares = raster.squares(self.ground, self._columns(), self.scarcity)
        for k in np.nonzero(self.state.on)[0]:
            raster.blocked(squares, self.shapes, self.state, k)
        raster.spread(self.shapes, self.ground, squares, self.state, order, left, low)

    def _order(self, n: int) -> Array:
        """An order to lay what does not lie yet: the large first and what asks for scarce leather; n: how much at random."""
        key = (self.large + self.long * LONG) * (1 + n * 0.5 * self.random.random(len(self.large)))
        order = np.argsort(-key, kind="stable")
        return order[~self.state.on[order]]

    def _columns(self) -> Array:
        hides = sorted(self.laying.hides, key=lambda h: (h.priority, shapely.Polygon(h.ring).area))
        return np.array([shapely.Polygon(h.ring).bounds[::2] for h in hides])

    def _filled(self) -> Iterator[None]:
        """Put in as much as may lie at all, and take it apart; give up the worst while it does not come apart."""
        room = FULL * float(self.areas.max())
        lying = float(self.shapes.area[self.state.on].sum())
        for k in self._order(1):
            if not self.long[k] and lying + self.shapes.area[k] <= room:
                self._try_put(k)
                lying += self.shapes.area[k]
        yield from self._apart()

    def _apart(self) -> Iterator[None]:
        """Take apart what meets, and give up the worst piece when that does not get on."""
        while True:
            left = yield from self._parted(PATIENCE)
            if left == 0.0:
                self._keep()
                return
            self._drop(self._worst())

    def _parted(self, patience: int) -> Generator[None, None, float]:
        """Take apart what meets until that brings no gain for so many rounds; what is left, the state at its best."""
        self.state.weight[:], self.state.wall[:] = 1.0, 1.0
        least = moves.losses(self.shapes, self.ground, self.state, self.pair, self.edge)
        best, still = self._snap(), 0
        while least > 0.0 and still < patience:
            self.steps += 1
            left = moves.part(self.shapes, self.ground, self.state, 1, self.pair, self.edge)
            still = 0 if left < moves.BETTER * least else still + 1
            if left < least:
                least, best = left, self._snap()
            yield
        if least > 0.0:
            self._back(best)
            moves.losses(self.shapes, self.ground, self.state, self.pair, self.edge)
        return float(least)

    def _worst(self) -> int:
        """The piece that is most in the way for what it is worth."""
        blame = (self.pair.sum(axis=1) + self.edge) / self.large**BLAME
        return int(np.argmax(np.where(self.state.held, -1.0, blame)))

    def _singly(self) -> Iterator[None]:
        """Put in what is left one by one, each driving out at most two that are worth less."""
        for k in self._order(1):
            if self.long[k]:
                continue
            before = self._snap()
            self._try_put(k)
            left, dropped = (yield from self._parted(PATIENCE)), 0.0
            for _ in range(EJECTED):
                if left == 0.0:
                    break
                blame = np.where(self.state.held, -1.0, self.pair.sum(axis=1) + self.edge)
                blame[k] = -1.0
                dropped += self.worth[(out := int(np.argmax(blame)))]
                if dropped >= self.worth[k]:
                    break
                self._drop(out)
                left = yield from self._parted(PATIENCE)
            if left > 0.0:
                self._back(before)
            else:
                self._keep()
            yield

    def _shaken(self) -> Iterator[None]:
        """Leave the best a little: pieces about a place are taken up and laid anew, larger ones and left ones first."""
        self._back(self.best)
        lies = np.nonzero(self.state.on & ~self.state.held)[0]
        if not len(lies):
            yield
            return
        middle = self.state.pose[self.random.choice(lies), 2:]
        away = np.linalg.norm(self.state.pose[lies, 2:] - middle, axis=1)
        for k in lies[np.argsort(away)[: max(2, int(len(lies) * self.random.uniform(0.05, 0.25)))]]:
            self.state.on[k] = False
        room = FULL * float(self.areas.max()) * 1.05
        lying = float(self.shapes.area[self.state.on].sum())
        for k in self._order(2):
            if not self.long[k] and lying + self.shapes.area[k] <= room:
                self._try_put(k)
                lying += self.shapes.area[k]
        yield from self._apart()

    def _try_put(self, k: int) -> None:
        """Lay piece k where it is least in the way."""
        pose = np.zeros(4)
        moves.sought(self.shapes, self.ground, self.state, k, TRIES, 0, pose)
        moves.put(self.shapes, self.state, k, pose)

    def _drop(self, k: int) -> None:
        self.state.on[k] = False
        moves.losses(self.shapes, self.ground, self.state, self.pair, self.edge)

    def _kept(self) -> tuple[Array, Array, float]:
        return self.state.pose.copy(), self.state.on.copy(), float(self.worth[self.state.on].sum())

    _snap = _kept

    def _keep(self) -> None:
        now = self._kept()
        if now[2] > self.best[2] + 1e-12:
            self.best = now

    def _back(self, kept: tuple[Array, Array, float]) -> None:
        self.state.on[:] = False
        for k in np.nonzero(kept[1])[0]:
            moves.put(self.shapes, self.state, k, kept[0][k])

    def _pin(self) -> None:
        for k, template in enumerate(self.laying.templates):
            if (pin := template.pinned) is not None:
                at = Laid(pin.id, pin.hide, pin.mirrored, pin.degrees, pin.move).of(self.shapes.origin[k][None])[0]
                moves.put(
                    self.shapes, self.state, k, np.array([float(pin.mirrored), np.radians(pin.degrees), *at])
                )
                self.state.held[k] = True
        self.state.held[self.long] = True

    def _laid(self, k: int, pose: Array) -> Laid:
        template = self.laying.templates[k]
        if template.pinned is not None:
            return template.pinned
        mirrored, degrees = bool(pose[0] > 0.5), float(np.degrees(pose[1]))
        at = Laid("", "", mirrored, degrees, (0.0, 0.0)).of(self.shapes.origin[k][None])[0]
        move = pose[2:] - at
        spot = shapely.Point(pose[2:])
        hide = min(self.laying.hides, key=lambda h: shapely.Polygon(h.ring).distance(spot))
        return Laid(template.id, hide.id, mirrored, degrees % 360.0, (float(move[0]), float(move[1])))
