"""Closing: a case as solids, from its flat pieces lying side by side to the whole, piece by piece as it is closed."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import scipy
import shapely

from tailor.core.carried.loft import Array
from tailor.core.draft.piece import LAID_IN, Role
from tailor.core.draft.tooled.put import IN_LEATHER
from tailor.core.packing import filling
from tailor.core.placed.held import Carried, Thing
from tailor.core.placed.lies import Moved, Placed, lifted, upon
from tailor.core.together.assembled import Assembled
from tailor.core.together.mesh import Skin
from tailor.core.together.order import Step, joined, ordered, swinging
from tailor.core.together.reach import Reach, reached
from tailor.core.together.shapes import Rgb, box, cap, lofted, rods, wire
from tailor.core.together.solids import Bytes, Solids

GRAIN, FLESH, EDGE, CUT, THREAD, METAL, THING = "grain", "flesh", "edge", "cut", "thread", "metal", "thing"
TOOLED = "tooled"
Dyes = Mapping[str, Rgb]  # of those, and of stuffs that are not leather by their names

ASIDE, ASPECT = 14.0, 0.8  # mm between pieces that lie flat, and width to height of the room they are laid to fill
LEVER = 10.0  # mm: how much a piece that is on its way minds looking askew, beside lying aside
UNDER = 40  # places of a piece by which it is told how what lies on it goes with it
LINE = 2.0  # mm of a tooled line that are drawn straight
SHY = 0.3  # mm
NEXT = 2.5  # times the usual way from hole to hole, beyond which there is no stitch between them


@dataclass(frozen=True)
class _Leather:
    """A piece as it lies flat and as it lies in its place, in its own middle layer. triangles face as out does.

    thick: what is drawn of its thickness, mm.
    """

    skin: Skin
    thick: float
    rest: Array  # what its flat points are moved by where it lies flat, (3,)
    colour: tuple[Bytes, Bytes]  # as it is seen, and as it is where it is cut

    @cached_property
    def _moved(self) -> tuple[Array, Array, scipy.spatial.transform.Rotation, Array, Array]:
        """Its flat middle layer and which way it looks, the turn to its place, and what is left of bending then."""
        flat = np.column_stack([self.skin.flat, np.zeros(len(self.skin.flat))])
        at, out = self.skin.placed.at, self.skin.smooth
        up = np.array([0.0, 0.0, 1.0 if self.skin.faces_out else -1.0])
        here, there = np.vstack([flat, flat + LEVER * up]), np.vstack([at, at + LEVER * out])
        turn, _ = scipy.spatial.transform.Rotation.align_vectors(there - there.mean(axis=0), here - here.mean(axis=0))
        local = turn.inv().apply(at - at.mean(axis=0))
        return flat, up, turn, local - (flat - flat.mean(axis=0)), turn.inv().apply(out)

    def corners(self, share: float) -> tuple[Array, Array]:
        """Its middle layer and which way it looks, so far on its way: 0 flat, 1 in its place."""
        at, out = self.skin.placed.at, self.skin.smooth
        if share >= 1:
            return at, out
        flat, up, turn, bend, looks = self._moved
        turning = scipy.spatial.transform
        ends = turning.Rotation.concatenate([turning.Rotation.identity(), turn])
        half = turning.Slerp([0.0, 1.0], ends)(share)
        middle = flat.mean(axis=0)
        local = flat - middle + share * bend
        where = (1 - share) * (middle + self.rest) + share * at.mean(axis=0)
        looking = (1 - share) * up + share * looks
        looking /= np.linalg.norm(looking, axis=1)[:, None]
        return half.apply(local) + where, half.apply(looking)

    def carried_by(self, host: _Leather, share: float) -> _Leather:
        """The same where it goes with another piece that is so far on its way, as that lies under it."""
        was, now = host.skin.placed.at, host.corners(share)[0]
        near = np.argsort(np.linalg.norm(was - self.skin.placed.at.mean(axis=0), axis=1))[:UNDER]
        before, after = was[near].mean(axis=0), now[near].mean(axis=0)
        turn, _ = scipy.spatial.transform.Rotation.align_vectors(now[near] - after, was[near] - before)
        placed = Placed(turn.apply(self.skin.placed.at - before) + after, turn.apply(self.skin.placed.out))
        return replace(self, skin=replace(self.skin, placed=placed))

    def solid(self, share: float, whose: int) -> Solids:
        at, out = self.corners(share)
        top, sides, rim = self.skin.shell
        half = out * self.thick / 2
        high, low = at + half, at - half
        edge = rim.reshape(-1)  # a corner of its own for each side of the rim, so that it has a face of its own
        ring = np.vstack([high[edge], low[edge]])
        a, b = at[rim[:, 0]], at[rim[:, 1]]
        aside = np.cross(b - a, out[rim[:, 0]])
        aside /= np.maximum(np.linalg.norm(aside, axis=1), 1e-12)[:, None]
        facing = np.repeat(aside, 2, axis=0)
        corners, looks = np.vstack([high, low, ring]), np.vstack([out, -out, facing, facing])
        triangles = np.vstack([top, sides])
        return Solids(corners, looks, triangles.astype(np.int32), *self.colour,
            np.full(len(triangles), whose, dtype=np.int32))  # fmt: skip


class Closing:
    """How a case that is put together closes. dyes: of what is seen."""

    def __init__(self, whole: Assembled, dyes: Dyes, steps: tuple[Step, ...] | None = None) -> None:
        """steps: as they are known."""
        self.whole = whole
        self.dyes = dyes
        self.steps = ordered(whole) if steps is None else steps

    @cached_property
    def reached(self) -> tuple[tuple[Reach, ...], ...]:
        """What room there is for what holds each piece when it comes."""
        return reached(self.whole, self.steps)

    @cached_property
    def lifted(self) -> Closing | None:
        """The same with what shuts it lifted; None where nothing does."""
        lies = dict(self.whole.draft.lies)
        moved = {name: up for name, lie in lies.items() if (up := lifted(lie)) is not lie}
        if not moved:
            return None
        joins = joined(self.whole, self.whole.lies)
        for name in joins:
            if joins[name] and name not in moved and joins[name].keys() <= moved.keys():  # goes with what it is held to
                for under, at in self._held_at(joins[name]):
                    lies[name] = Moved(self.whole.lies[name], upon(lies[under], at, 0.0), upon(moved[under], at, 0.0))
        return Closing(Assembled(replace(self.whole.draft, lies={**lies, **moved})), self.dyes, self.steps)

    def _held_at(self, held: Mapping[str, set[str]]) -> list[tuple[str, tuple[float, float]]]:
        """One place where a piece is held, by what it is held to and by which seams and fastenings: there, and where on
        its flat piece; none where it is only caught in a seam.
        """
        for under, by in held.items():
            piece = self.whole.pieces[under]
            spots = [(h.seam, h.x, h.y) for h in piece.holes] + [(f.place, f.x, f.y) for f in piece.fittings]
            for held_by, x, y in spots:
                if held_by in by:
                    return [(under, (x, y))]
        return []

    @cached_property
    def _pieces(self) -> dict[str, _Leather]:
        names = [step.piece for step in self.steps]
        rests = _laid_out([self.whole.skins[name] for name in names], len(self.swinging))
        return {
            name: _Leather(self.whole.skins[name], self._thick(name), rest, self._dyed(name))
            for name, rest in zip(names, rests, strict=True)
        }

    def _thick(self, name: str) -> float:
        """A little less of what lies on leather: of two faces in one place the eye could not tell which is before."""
        thick, stuff = self.whole.skins[name].thickness, self.whole.pieces[name].leather
        return max(thick - SHY, thick / 2) if stuff in LAID_IN else thick

    @cached_property
    def tall(self) -> float:
        """How high it is, closed, mm."""
        return float(np.ptp(np.concatenate([skin.placed.at[:, 1] for skin in self.whole.skins.values()])))

    def _dyed(self, name: str) -> tuple[Bytes, Bytes]:
        top, sides, _ = self.whole.skins[name].shell
        stuff = self.whole.pieces[name].leather
        if stuff in self.dyes:
            every = np.tile(np.array(self.dyes[stuff], dtype=np.uint8), (len(top) + len(sides), 1))
            return every, every
        n = len(top) // 2
        shares = ((GRAIN, n), (FLESH, n), (EDGE, len(sides)))
        seen = np.vstack([np.tile(np.array(self.dyes[dye], dtype=np.uint8), (count, 1)) for dye, count in shares])
        return seen, np.tile(np.array(self.dyes[CUT], dtype=np.uint8), (len(seen), 1))

    @property
    def swinging(self) -> frozenset[str]:
        """The pieces that go through rings or slots, and hang from those or go far beyond them."""
        return frozenset(swinging(self.whole, self.whole.lies))

    @property
    def hanging(self) -> tuple[int, ...]:
        """Numbers of what goes through rings or slots, and of thread and metal, some of which is in that; of none where
        nothing does.
        """
        n = len(self._pieces)
        return (*(k for k, name in enumerate(self._pieces) if name in self.swinging), n, n + 1) if self.swinging else ()

    def at(self, stage: float, drawn_out: float = 0.0, filled: bool = True) -> Solids:
        """As it is at a stage: 0 all flat, k with k pieces together. drawn_out: how far what it holds is drawn out, mm;
        filled: it is in it, once all is together.
        """
        parts = list[Solids]()
        at = {step.piece: k for k, step in enumerate(self.steps)}
        for k, (step, leather) in enumerate(zip(self.steps, self._pieces.values(), strict=True)):
            host = self._pieces.get(step.host)
            if host is not None and (comes := _share(stage - at[step.host])) < 1:
                leather = leather.carried_by(host, comes)
            parts.append(leather.solid(_share(stage - k), k))
        together = [step.piece for k, step in enumerate(self.steps) if stage >= k + 1]
        n = len(self._pieces)
        parts += self._threads(set(together), n) + self._metal(set(together), n + 1) + self._tooled(together, n + 3)
        if filled and stage >= len(self.steps):
            held = self._held(np.array([0.0, drawn_out, 0.0]), n + 2)
            parts += [replace(p, stays=np.full(len(p.corners), drawn_out > 0)) for p in held]
        return Solids.of(*parts)

    def only(self, names: Collection[str]) -> Solids:
        """Some of its pieces, each in its place, with what holds them together; nothing of the others."""
        there = [name for name in self._pieces if name in names]
        parts = [self._pieces[name].solid(1.0, k) for k, name in enumerate(there)]
        n = len(there)
        return Solids.of(*parts, *self._threads(set(there), n), *self._metal(set(there), n + 1),
            *self._tooled(there, n + 3))  # fmt: skip

    def _threads(self, together: set[str], whose: int) -> list[Solids]:
        """Stitches between holes of seams whose pieces are together."""
        found = []
        for seam in self.whole.draft.seams:
            pierced = [name for name in dict.fromkeys(seam.pieces) if name in self.whole.pieces]
            dry = any(self.whole.pieces[name].role is Role.TEMPLATE for name in pierced)  # its panels are pierced last
            names = [name for name in pierced if name in self.whole.lies]
            if (len(names) < len(pierced) and not dry) or not together.issuperset(self._blanks if dry else names):
                continue
            for name in names:
                piece = self.whole.pieces[name]
                # Of blanks, which are pierced last, the thread is seen as far out from the welt as their leather lies.
                ways = (1.0,) if dry and len(names) > 1 else (1.0, -1.0)
                beyond = piece.thickness if dry and piece.role is Role.WELT else 0.0
                for edge in dict.fromkeys(hole.edge for hole in piece.holes if hole.seam == seam.name):
                    found += self._stitches(name, piece.holes_of(seam.name, edge), beyond, ways, whose)
        return found

    @property
    def _blanks(self) -> list[str]:
        """What is moulded, and the welts between."""
        return [name for name in self._pieces if self.whole.pieces[name].role in (Role.BLANK, Role.WELT)]

    def _stitches(self, name: str, holes: Array, beyond: float, ways: tuple[float, ...], whose: int) -> list[Solids]:
        if len(holes) < 2:
            return []
        away = np.hypot(*np.diff(holes, axis=0).T)
        first = np.flatnonzero(away < NEXT * np.median(away))
        placed, half = self.whole.lies[name](holes), self.whole.skins[name].thickness / 2 + beyond
        dye = self.dyes[THREAD]
        return [
            rods(placed.at[first] + way * half * placed.out[first], placed.at[first + 1] + way * half * placed.out[
                first + 1], way * placed.out[first], dye, whose)
            for way in ways
        ]  # fmt: skip

    def _metal(self, together: set[str], whose: int) -> list[Solids]:
        """Caps of fastenings on either side of the leather, and rings in its folds."""
        found = []
        for name in together:
            piece, thick = self.whole.pieces[name], self.whole.skins[name].thickness
            for fitting in piece.fittings:
                if fitting.cap <= 0:
                    continue
                placed = self.whole.lies[name](np.array([[fitting.x, fitting.y]]))
                for way in (1.0, -1.0):
                    at, out = placed.at[0] + way * thick / 2 * placed.out[0], way * placed.out[0]
                    found.append(cap(at, out, fitting.cap / 2, self.dyes[METAL], whose))
        for ring in self.whole.draft.rings:
            if ring.piece in together:
                found.append(wire(ring.wires(self.whole.lies[ring.piece]), ring.wire, self.dyes[METAL], whose))
        return found

    def _tooled(self, together: Sequence[str], whose: int) -> list[Solids]:
        """What is tooled on the grain of pieces."""
        found = []
        for name in together:
            lines = [rule.points for rule in self.whole.pieces[name].rules if rule.kind in IN_LEATHER]
            for line in lines:
                dense = shapely.get_coordinates(shapely.segmentize(shapely.LineString(line), LINE))
                placed = self.whole.lies[name](dense)
                at = placed.at + self.whole.skins[name].thickness / 2 * placed.out
                found.append(rods(at[:-1], at[1:], placed.out[:-1], self.dyes[TOOLED], whose, short=0.0))
        return found

    def _held(self, moved: Array, whose: int) -> list[Solids]:
        found = []
        for each in self.whole.draft.held:
            if isinstance(each, Thing):
                found.append(box(np.array(each.middle) + moved, np.array(each.size), self.dyes[THING], whose))
            elif isinstance(each, Carried):
                found.append(lofted(each.loft, moved + np.array(each.at), self.dyes[THING], whose))
        return found


def _share(turns: float) -> float:
    """How far a piece is on its way when so many steps have gone by since it began: slowly at first, and at last."""
    share = float(np.clip(turns, 0.0, 1.0))
    return share * share * (3 - 2 * share)


def _laid_out(skins: Sequence[Skin], last: int) -> list[Array]:
    """What flat pieces are moved by to lie beside one another, to the left of where they come together, (3,) each.

    last: how many of them, at the end, hang from the rest; they lie further out.
    """
    sizes = np.array([np.ptp(skin.flat, axis=0) for skin in skins]) + ASIDE
    first = len(skins) - last
    places = filling(sizes[:first], ASPECT)
    every = np.vstack([skin.placed.at for skin in skins[:first]])
    low, high = every.min(axis=0), every.max(axis=0)
    right, up = (places + sizes[:first]).max(axis=0)
    beside = -np.cumsum(sizes[first:, 0])
    places = np.vstack([places, np.column_stack([beside, (up - sizes[first:, 1]) / 2])])
    base = np.array([low[0] - 2 * ASIDE - right, (low[1] + high[1] - up) / 2])
    return [np.append(base + at - skin.flat.min(axis=0), 0.0) for at, skin in zip(places, skins, strict=True)]
