"""The search: a first layout at once, then pieces put in where they meet others, and all taken apart again.

The same laying, seed and number of steps give the same layout.
"""

from __future__ import annotations

from collections.abc import Generator, Iterator, Sequence
from functools import cached_property, lru_cache

import numpy as np
import shapely

from tailor.core.carried.loft import Array
from tailor.core.cut import exact, moves, raster
from tailor.core.cut.found import Found
from tailor.core.cut.ground import Counts, Flags, Ground, ground
from tailor.core.cut.laying import Asked, Id, Laid, Laying, Wanted
from tailor.core.cut.moves import State
from tailor.core.cut.shapes import Shapes, shapes

PATIENCE = 30  # rounds without gain before what lay there before is taken up
PERSISTENCE = 80  # and before a piece that is put in is given up
TRIES, OUSTING = 200, 1000  # places that are tried for one that is put in, and for one that drives others out
GREED = 0.3  # by how much more than it is worth itself a piece may drive out, since the others may find room again
GIVE = 0.01  # of all that is to be laid, that may be given up on the way
RELAID = 3  # times that what lies about a place is laid anew, between two rounds of putting in
STRAPPED = 12  # orders in which straps are tried
ORDERS = 3  # in which a first layout is tried
AT_ONCE = 12  # pieces laid between two looks at the clock
SCARCE, RARE = 20.0, 0.5  # how much more a piece counts that asks for leather of which there is less than half as much
FIRST = 1e7  # mm² that a strap counts more, so that straps are laid before all else

Kept = tuple[Array, Flags, float]


class Search:
    """Pieces laid on leather, better and better."""

    def __init__(self, laying: Laying, seed: int = 0, begin: Sequence[Laid] = ()) -> None:
        """begin: how pieces lay before, near which they are to stay."""
        self.laying, self.steps = laying, 0
        asked = [(laying.asked(t), max(0.0, t.margin - self._grown)) for t in laying.templates]
        kinds = sorted(set(asked)) or [(Asked(Wanted.ANY), 0.0)]
        which = [kinds.index(each) for each in asked]
        self.shapes: Shapes = shapes(laying.templates, which, self._grown)
        leathers = [
            shapely.union_all([hide.leather(each, laying.band) for hide in laying.hides]).buffer(-extra)
            for each, extra in kinds
        ]
        self.areas = np.array([leather.area for leather in leathers])
        self.ground = _ground(tuple(shapely.to_wkb(leathers)))
        self.state: State = moves.state(self.shapes)
        self.random = np.random.default_rng(seed)
        self.chance = moves.chances(seed)
        n = len(laying.templates)
        self.pair, self.edge = np.zeros((n, n)), np.zeros(n)
        self.begun = {one.id: one for one in begin}
        self._pin()
        pose, on, _ = self._kept()
        pins = on & self._pinned
        self.best = pose, pins, float(self.worth[pins].sum())  # how the rest lay need not be valid any more

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
        """(n,) what it is worth that a piece lies: its share of all area."""
        return self.shapes.area / max(float(self.shapes.area.sum()), 1e-9)

    @cached_property
    def large(self) -> Array:
        """(n,) how hard it is to find room for a piece: by its area, and by how scarce the leather is it asks for."""
        scarce = np.where(self.areas < self.areas.max() * RARE, 1 + SCARCE * self.scarcity, 1.0)
        return np.asarray(self.shapes.area * scarce[self.shapes.kind] + FIRST * self.long)

    @cached_property
    def long(self) -> Flags:
        """(n,) whether a piece is a strap: others are laid round it, and never push it."""
        return np.array([template.strap for template in self.laying.templates], dtype=np.bool_)

    @cached_property
    def never(self) -> Flags:
        """(n,) whether a piece has no room, whatever else lies there."""
        return np.array([bool(self.laying.why_never(t)) for t in self.laying.templates], dtype=np.bool_)

    @property
    def all_lie(self) -> bool:
        return bool((self.best[1] | self.never).all())

    def found(self) -> Found:
        """The best so far, with offcuts used first, and exactly valid."""
        now = self._kept()
        self._back(self.best)
        self._to_offcuts()
        laid = self.lying()
        self._back(now)
        pins = {template.id for template in self.laying.templates if template.pinned is not None}
        while broken := {id_ for id_, _ in exact.faults(self.laying, laid)} - pins:
            laid = [one for one in laid if one.id not in broken]
        return Found(tuple(laid), self.laying.share(laid), self.steps)

    def lying(self) -> list[Laid]:
        """What lies, as it lies now."""
        return [self._laid(k, self.state.pose[k]) for k in self._lying()]

    def take(self, laid: Sequence[Laid]) -> None:
        """Take a layout, with all there is in it, for the best."""
        at = {one.id: one for one in laid}
        for k, template in enumerate(self.laying.templates):
            self._put_at(k, at[template.id])
        self.best = self._kept()

    def run(self) -> Iterator[None]:
        """Go on until all lie, a step at a time; `found` tells the best so far after each."""
        if self.begun:
            yield from self._righted()
        else:
            yield from self._first()
        while not self.all_lie:
            yield from self._singly()
            for _ in range(RELAID):
                self._relaid()
                yield

    def _first(self) -> Iterator[None]:
        """A first layout, valid, by squares."""
        began = self._kept()
        for n in range(ORDERS):
            self._back(began)
            yield from self._straps()
            for some in _slices(self._order(n)):
                self._spread(some, left=True, low=True)
                self._keep()
                yield
            self.steps += 1
            self._keep()
            if self.all_lie:
                return
        self._back(self.best)

    def _straps(self) -> Iterator[None]:
        """Straps first, along the back edge, in the order in which most of them find room."""
        began, best = self._kept(), self._kept()
        for n in range(STRAPPED):
            self._back(began)
            order = self._order(n)
            self._spread(order[self.long[order]], left=True, low=False)
            if (now := self._kept())[2] > best[2]:
                best = now
            yield
            if (now[1] | self.never)[self.long].all():
                return
        self._back(best)

    def _righted(self) -> Iterator[None]:
        """Pieces laid as before, and moved aside where that is no longer free; what finds no room is taken up."""
        if (yield from self.parted(PATIENCE)) > 0.0:
            met = (self.pair.sum(axis=1) + self.edge > 0) & ~self._pinned
            self.state.on[met] = False
            yield
        self._spread(self._order(0), left=True, low=True)
        self._keep()

    def _spread(self, order: Counts, left: bool, low: bool, hides: int | None = None) -> None:
        """Lay pieces by squares in an order, pushed to one side. hides: on so many of those to be used first."""
        if not len(order):
            return
        squares = raster.squares(
            self.ground, self._columns()[:hides], self.scarcity, self._edges(bool(self.long[order].all()))
        )
        for k in self._lying():
            raster.blocked(squares, self.shapes, self.state, k)
        raster.spread(self.shapes, self.ground, squares, self.state, order, left, low)

    def _to_offcuts(self) -> None:
        """Move what lies on a hide onto offcuts, where there is room."""
        by_priority = sorted(h.priority for h in self.laying.hides)
        for n in range(1, len(by_priority)):
            if by_priority[n] > by_priority[n - 1]:
                first = {h.id for h in self.laying.hides if h.priority < by_priority[n]}
                on = np.nonzero(self.state.on & ~self._pinned)[0]
                later = [k for k in on if self._hide(self.state.pose[k]) not in first]
                order = np.array(sorted(later, key=lambda k: -self.large[k]), dtype=np.int64)
                self._spread(order, left=True, low=True, hides=n)

    def _order(self, n: int) -> Counts:
        """An order to lay what does not lie yet, the large and what asks for scarce leather first; n: how random."""
        order = np.argsort(-self.large * (1 + n * 0.5 * self.random.random(len(self.large))), kind="stable")
        return order[~(self.state.on | self.never)[order]]

    def _columns(self) -> Array:
        hides = sorted(self.laying.hides, key=lambda h: (h.priority, shapely.Polygon(h.ring).area))
        return np.array([shapely.Polygon(h.ring).bounds[::2] for h in hides])

    def _edges(self, straps: bool) -> Array:
        """(n, 3) of each hide the stretch along x, and the top of its back edge, where it is to be left for straps."""
        edges = [np.array(shapely.Polygon(h.ring).bounds)[[0, 2, 3]] for h in self.laying.hides if not straps]
        return np.array(edges).reshape(-1, 3)

    def parted(self, patience: int) -> Generator[None, None, float]:
        """Take apart what meets until that brings no gain for so many rounds; what is left, the state at its best."""
        self.state.weight[:], self.state.wall[:] = 1.0, 1.0
        least = moves.losses(self.shapes, self.ground, self.state, self.pair, self.edge)
        best, still = self._kept(), 0
        while least > 0.0 and still < patience:
            self.steps += 1
            left = moves.part(self.chance, self.shapes, self.ground, self.state, 1, self.pair, self.edge)
            still = 0 if left < moves.BETTER * least else still + 1
            if left < least:
                least, best = left, self._kept()
            yield
        if least > 0.0:
            self._back(best)
            moves.losses(self.shapes, self.ground, self.state, self.pair, self.edge)
        return float(least)

    def put_in(self, id_: Id, patience: int) -> Generator[None, None, float]:
        """Put one piece in where it is least in the way, and take apart what meets; what is left."""
        self._try_put(next(k for k, template in enumerate(self.laying.templates) if template.id == id_))
        return (yield from self.parted(patience))

    def _singly(self) -> Iterator[None]:
        """Put in what is left one by one: pushed in between the others, or for what is worth less."""
        for k in self._order(1).tolist():
            if self.state.on[k]:
                continue
            before = self._kept()
            if not self.long[k]:
                self._try_put(k)
                if (yield from self.parted(PERSISTENCE)) == 0.0:
                    self._keep()
                    continue
                self._back(before)
            yield from self._ousting(k)
            if self._kept()[2] < self.best[2] - GIVE:
                self._back(before)
            else:
                self._keep()
            yield

    def _ousting(self, k: int) -> Iterator[None]:
        """Put piece k where what it drives out is worth least, and lay that anew."""
        self.steps += 1
        pose, out = np.zeros(4), np.zeros(len(self.worth), dtype=np.bool_)
        most = float(self.worth[k]) * (1 + self.random.uniform(-0.2, GREED))
        if self._driven_out(k, most, pose, out) >= most:
            return
        self.state.on[out] = False
        moves.put(self.shapes, self.state, k, pose)
        self._spread(np.nonzero(out)[0], *(self.random.random(2) < 0.5))
        for j in np.nonzero(out & ~self.state.on & ~self.long)[0].tolist():
            now = self._kept()
            self._try_put(j)
            if (yield from self.parted(PERSISTENCE)) > 0.0:
                self._back(now)

    def _driven_out(self, k: int, most: float, pose: Array, out: Flags) -> float:
        return float(
            moves.driven_out(self.chance, self.shapes, self.ground, self.state, k, OUSTING, self.worth, most, pose, out)
        )

    def _relaid(self) -> None:
        """Take up what lies about a place and lay it anew with what is left, in another order."""
        self.steps += 1
        before = self._kept()
        lies = np.nonzero(self.state.on & ~self.state.held)[0]
        if len(lies):
            middle = self.state.pose[self.random.choice(lies), 2:]
            away = np.linalg.norm(self.state.pose[lies, 2:] - middle, axis=1)
            self.state.on[lies[np.argsort(away)[: max(2, int(len(lies) * self.random.uniform(0.05, 0.4)))]]] = False
        self._spread(self._order(2), *(self.random.random(2) < 0.5))
        if self._kept()[2] < self.best[2] - GIVE:
            self._back(before)
        self._keep()

    def _try_put(self, k: int) -> None:
        """Lay piece k where it is least in the way."""
        pose = np.zeros(4)
        moves.sought(self.chance, self.shapes, self.ground, self.state, k, TRIES, 0, pose)
        moves.put(self.shapes, self.state, k, pose)

    def _lying(self) -> list[int]:
        return [int(k) for k in np.nonzero(self.state.on)[0]]

    def _kept(self) -> Kept:
        return self.state.pose.copy(), self.state.on.copy(), float(self.worth[self.state.on].sum())

    def _keep(self) -> None:
        now = self._kept()
        if now[2] > self.best[2] + 1e-12:
            self.best = now

    def _back(self, kept: Kept) -> None:
        self.state.on[:] = False
        for k in np.nonzero(kept[1])[0].tolist():
            moves.put(self.shapes, self.state, k, kept[0][k])

    def _pin(self) -> None:
        """Put what is pinned, and what lay before, where it was; pins and straps are held."""
        self._pinned = np.array([t.pinned is not None for t in self.laying.templates], dtype=np.bool_)
        for k, template in enumerate(self.laying.templates):
            if (at := template.pinned or self.begun.get(template.id)) is not None:
                self._put_at(k, at)
        self.state.held[:] = self._pinned | (self.long if not self.begun else False)

    def _put_at(self, k: int, at: Laid) -> None:
        spot = at.of(self.shapes.origin[k][None])[0]
        moves.put(self.shapes, self.state, k, np.array([float(at.mirrored), np.radians(at.degrees), *spot]))

    def _laid(self, k: int, pose: Array) -> Laid:
        template = self.laying.templates[k]
        if template.pinned is not None:
            return template.pinned
        mirrored, degrees = bool(pose[0] > 0.5), template.turns.told(float(np.degrees(pose[1])))
        at = Laid("", "", mirrored, degrees, (0.0, 0.0)).of(self.shapes.origin[k][None])[0]
        x, y = (float(v) for v in pose[2:] - at)
        return Laid(template.id, self._hide(pose), mirrored, degrees, (x, y))

    def _hide(self, pose: Array) -> Id:
        """The hide a piece in a pose lies on."""
        spot = shapely.Point(pose[2:])
        return min(self.laying.hides, key=lambda h: float(shapely.Polygon(h.ring).distance(spot))).id


@lru_cache(maxsize=4)
def _ground(leathers: tuple[bytes, ...]) -> Ground:
    """The ground of leathers, which stays as it is while pieces are moved about."""
    return ground([shapely.from_wkb(each) for each in leathers])


def _slices(order: Counts) -> list[Counts]:
    return [order[n : n + AT_ONCE] for n in range(0, len(order), AT_ONCE)]
