"""Assembled: the pieces of a draft each where it lies, and what that shows: joints, layers, contents, closures.

Nothing is asked of the formulas that drew the pieces: holes are carried into space by each piece's own map, and must
come to lie on one another there.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import combinations, islice
from typing import NamedTuple

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Fitting, Piece
from tailor.core.placed.held import Carried, Room
from tailor.core.placed.lies import OTHER, Lie, Placed, strain
from tailor.core.placed.lies import each as each_of
from tailor.core.together.contents import Gap, about, round_it
from tailor.core.together.crossed import Crossed, crossed
from tailor.core.together.mesh import Skin, skin
from tailor.core.together.pockets import Pocket, pockets
from tailor.core.together.sheet import Sheet

APART_ON_IT = 2.0, 16.0  # mm between places of a piece where it is looked at all over
STACKED = 40.0  # mm of leather that a fastening goes through, at the most
APART = 0.6  # mm of air between two layers that a fastening still draws together
LOOKED = 40  # places of a piece that stands out, where it is looked at
STANDS = 2.0  # of its thickness that it is off its seat where it stands out
BESIDE = 12.0  # mm from a hole within which a slit frees it
ALIKE = np.cos(np.radians(50.0))  # of the angle between layers that lie on one another, as on a steep shoulder
EITHER = 0.5  # of the sum of two normals of length 1, that is long enough to be told by
UNPLACED: Array = np.full(3, np.nan)


class Met(NamedTuple):
    """What meets at one place: a seam's hole or a fastening. names: the pieces, once for each layer with a hole.

    distance: how far the holes miss one another, square to the line through them, mm. at: where, in space.
    """

    name: str
    place: int
    distance: float
    at: tuple[float, float, float]
    names: tuple[str, ...]


@dataclass(frozen=True)
class Layered:
    """The leather a fastening goes through, counted where it lies: thickness, mm; unpierced: layers without a hole."""

    name: str
    place: str
    thickness: float
    told: float
    post: float | None
    unpierced: tuple[str, ...]


class Punched(NamedTuple):
    """A fastening's hole in a piece, where it lies in space and which way its grain looks there, (3,) each."""

    piece: str
    fitting: Fitting
    at: Array
    out: Array


@dataclass(frozen=True)
class Strained:
    """Most and least stretch of a piece at its stitches, as shares of its flat length.

    Between two slits it is taken at their ends, since what lies beyond goes free.
    """

    piece: str
    least: float
    most: float


@dataclass(frozen=True)
class Assembled:
    """A draft put together. draft: with every hole, drawn for the right hand."""

    draft: Draft

    @cached_property
    def pieces(self) -> dict[str, Piece]:
        """Every piece by its name; of two alike that lie apart, both."""
        cut = {p.name: p for p in self.draft.pieces}
        others = (name for name in self.draft.lies if name.endswith(OTHER))
        return {**cut, **{name: replace(cut[name.removesuffix(OTHER)], name=name) for name in others}}

    @property
    def lies(self) -> dict[str, Lie]:
        """Of the pieces whose place is told."""
        return {name: lie for name, lie in self.draft.lies.items() if name in self.pieces}

    @property
    def unplaced(self) -> tuple[str, ...]:
        """Pieces whose place is not told: spare card, templates, and what lies as its maker likes."""
        return tuple(name for name in self.pieces if name not in self.lies)

    @cached_property
    def skins(self) -> dict[str, Skin]:
        """Every placed piece as triangles."""
        return {name: skin(self.pieces[name], lie) for name, lie in self.lies.items()}

    @cached_property
    def sheets(self) -> dict[str, Sheet]:
        """Every placed piece by places all over it, so near to one another that none of what it holds lies between."""
        narrow = min((each.narrow for each in self.draft.held if not isinstance(each, Room)), default=np.inf)
        apart = float(np.clip(narrow / 2, *APART_ON_IT))
        high = [np.empty(0), *(each.heights for each in self.draft.held if isinstance(each, Carried))]
        heights = np.sort(np.concatenate(high))
        return {name: Sheet(self.pieces[name], lie, apart, heights) for name, lie in self.lies.items()}

    # Joints

    @cached_property
    def seams(self) -> tuple[Met, ...]:
        """Each hole of each seam whose pieces are placed: one for every place along it."""
        told = [(seam.name, edges) for seam in self.draft.seams if len(edges := self._sewn.get(seam.name, {})) > 1]
        if not told:
            return ()
        layers = [[*edges.values()] for _, edges in told]
        counts = [min(len(layer.at) for layer in sewn) for sewn in layers]
        first, last = (_joined([sewn[k] for sewn in layers], counts) for k in (0, -1))
        along = np.array([_thread(first.at, first.out, last.at, last.out), first.out, last.out])
        ends = np.cumsum(counts)
        pairs = [(one.at[:n] - other.at[:n], np.arange(end - n, end)) for sewn, n, end in
                 zip(layers, counts, ends, strict=True) for one, other in combinations(sewn, 2)]  # fmt: skip
        apart, hole = np.vstack([each for each, _ in pairs]), np.concatenate([holes for _, holes in pairs])
        by = np.zeros((3, len(first.at)))
        np.maximum.at(by.T, hole, _aside(apart, along[:, hole]).T)
        # On a bulge the layers' normals part, and a needle goes by any of them: no more than a third of a miss is lost
        # by that. Layers that stand up from one another are sewn by what lies between.
        most = np.where(np.abs((first.out * last.out).sum(axis=1)) > ALIKE, by.min(axis=0), by[0])
        left = [k for k, sewn in enumerate(layers) if any(len(layer.at) > counts[k] for layer in sewn)]
        most[ends[left] - 1] = np.inf  # holes left over
        met = zip(most.tolist(), first.at.tolist(), strict=True)
        pieces = [tuple(name for name, _ in edges) for _, edges in told]
        return tuple(
            Met(seam, place, distance, (x, y, z), names)
            for (seam, _), names, n in zip(told, pieces, counts, strict=True)
            for place, (distance, (x, y, z)) in enumerate(islice(met, n))
        )

    @cached_property
    def _pierced_at(self) -> dict[str, tuple[dict[tuple[str, str], Placed], Placed]]:
        """Where the holes of each placed piece lie, by seam and edge, and where its fastenings are set."""
        told = {}
        for name, lie in self.lies.items():
            rows = defaultdict[tuple[str, str], list[tuple[float, float]]](list)
            for hole in self.pieces[name].holes:
                rows[hole.seam, hole.edge].append((hole.x, hole.y))
            set_at = [(fitting.x, fitting.y) for fitting in self.pieces[name].fittings if fitting.place]
            if rows or set_at:
                *sewn, fastened = each_of(lie, [np.array(row).reshape(-1, 2) for row in (*rows.values(), set_at)])
                told[name] = dict(zip(rows, sewn, strict=True)), fastened
        return told

    @cached_property
    def _sewn(self) -> dict[str, dict[tuple[str, str], Placed]]:
        """Where the holes of each seam lie, by piece and edge."""
        told: dict[str, dict[tuple[str, str], Placed]] = {}
        for name, (rows, _) in self._pierced_at.items():
            for (seam, edge), row in rows.items():
                told.setdefault(seam, {})[name, edge] = row
        return told

    @cached_property
    def fastened(self) -> tuple[Met, ...]:
        """Each fastening that goes through several holes of placed pieces."""
        found = []
        for place, spots in self.set_in.items():
            if len(spots) > 1:
                at = np.array([spot.at for spot in spots])
                found.append(_met(place, spots, _aside(at - at[:, None], spots[0].out).max()))
        return tuple(found)

    @cached_property
    def set_in(self) -> dict[str, list[Punched]]:
        """Where each fastening's holes are punched, of those whose pieces are all placed."""
        told: dict[str, list[Punched]] = {}
        for name, piece in self.pieces.items():
            fittings = [each for each in piece.fittings if each.place]
            if not fittings:
                continue
            placed = self._pierced_at[name][1] if name in self.lies else None
            for k, each in enumerate(fittings):
                at, out = (UNPLACED, UNPLACED) if placed is None else (placed.at[k], placed.out[k])
                told.setdefault(each.place, []).append(Punched(name, each, at, out))
        return {place: spots for place, spots in told.items() if all(spot.piece in self.lies for spot in spots)}

    @cached_property
    def layered(self) -> tuple[Layered, ...]:
        """What each fastening that is told of goes through, by where the leather lies."""
        each = [(each, self.set_in[each.place]) for each in self.draft.hardware if self.set_in.get(each.place)]
        if not each:
            return ()
        firsts = [spots[0] for _, spots in each]
        at, out = (np.array([getattr(spot, part) for spot in firsts]) for part in ("at", "out"))
        told = []
        for k, ((fastening, spots), met) in enumerate(zip(each, crossed(self.sheets, at, out, STACKED), strict=True)):
            for spot in spots:  # which are there, however steep leather looks to the line
                deep, flat = float((spot.at - at[k]) @ out[k]), np.array([spot.fitting.x, spot.fitting.y])
                if not any(name == spot.piece and abs(depth - deep) < APART for depth, name, _ in met):
                    met.append((deep, spot.piece, flat))
            layers = self._through(met, {spot.piece for spot in spots})
            thick = sum(self.pieces[layer].thickness for layer, _ in layers)
            holed = {(spot.piece, round(spot.fitting.x, 3), round(spot.fitting.y, 3)) for spot in spots}
            bare = [layer for layer, at in layers if not self._pierced(layer, at, holed, spots[0].fitting.hole)]
            told.append(Layered(fastening.name, fastening.place, thick, fastening.stack, fastening.post, tuple(bare)))
        return tuple(told)

    def _pierced(self, layer: str, at: Array, holed: set[tuple[str, float, float]], wide: float) -> bool:
        return any(n == layer and np.hypot(x - at[0], y - at[1]) <= wide / 2 + 1.0 for n, x, y in holed)

    def _through(self, found: Sequence[Crossed], held: set[str]) -> list[tuple[str, Array]]:
        """Of the layers a line goes through those that lie on one another about a place, between the outermost of some
        pieces: each with its piece and the flat point there. What is put over a fastening later is not among them.
        """
        if not found:
            return []
        _, layers, _ = self.stacked(found)
        while layers[0][1] not in held:
            layers = layers[1:]
        while layers[-1][1] not in held:
            layers = layers[:-1]
        return [(name, flat) for _, name, flat in layers]

    def stacked(self, found: Sequence[Crossed]) -> tuple[list[Crossed], list[Crossed], list[Crossed]]:
        """What a line goes through, at least one layer, parted at a place: what lies apart before it, the layers that
        lie on one another about it, and what lies apart beyond, each in order.
        """
        found = sorted(found, key=lambda each: each[0])
        low = high = int(np.argmin([abs(depth) for depth, _, _ in found]))
        while low > 0 and self._touch(found[low - 1], found[low]):
            low -= 1
        while high + 1 < len(found) and self._touch(found[high], found[high + 1]):
            high += 1
        return found[:low], found[low : high + 1], found[high + 1 :]

    def _touch(self, lower: Crossed, upper: Crossed) -> bool:
        # The unstretched layer, by which a piece is laid, may lie a quarter of its thickness off the middle.
        thick = 0.75 * (self.pieces[lower[1]].thickness + self.pieces[upper[1]].thickness)
        return upper[0] - lower[0] <= thick + APART

    # Pockets

    @cached_property
    def pockets(self) -> tuple[Pocket, ...]:
        """What is sewn on a piece and open along one edge."""
        return tuple(pockets(self.pieces, self.lies))

    # What stands out

    def beneath(self, names: Collection[str], seat: str) -> str:
        """The piece that would lie between some that stand on a seat and the seat itself; "" where there is none."""
        others = {name: sheet for name, sheet in self.skins.items() if name not in names}
        under = others[seat].placed
        for name in names:
            if name not in self.skins:
                continue
            sheet, own = self.skins[name], self.pieces[name].thickness
            for k in range(0, len(sheet.flat), max(len(sheet.flat) // LOOKED, 1)):
                at = sheet.placed.at[k]
                out = under.out[np.linalg.norm(under.at - at, axis=1).argmin()]
                down = [-depth for depth, _ in others[seat].crossed(at, out) if depth < 0]
                if not down or min(down) < STANDS * own:
                    continue
                for other, over in others.items():
                    between = (-depth for depth, _ in over.crossed(at, out) if other != seat)
                    if any(own < depth < min(down) - self.pieces[seat].thickness / 2 for depth in between):
                        return other
        return ""

    # Strain

    @cached_property
    def strains(self) -> tuple[Strained, ...]:
        """What the placing asks of the leather at the stitches of each piece."""
        told = []
        for name, lie in self.lies.items():
            points = _as_slit(self.pieces[name])
            if len(points):
                asked = strain(lie, points)
                told.append(Strained(name, float(asked[:, 0].min()), float(asked[:, 1].max())))
        return tuple(told)

    # Contents

    @cached_property
    def gaps(self) -> tuple[Gap, ...]:
        """How near leather comes to each thing that lies in it, and how much leather there is round what is held."""
        held = (about(each, self.sheets) for each in self.draft.held)
        return (*held, *(round_it(each, self.pieces) for each in self.draft.rounds))

    # Closures

    @cached_property
    def shut(self) -> tuple[Met, ...]:
        """Fittings that meet when it is shut."""
        found = []
        for each in self.draft.shuts:
            if each.one not in self.set_in or each.other not in self.set_in:
                continue
            one, other = self.set_in[each.one][0], self.set_in[each.other][0]
            found.append(_met(each.name, (one, other), _aside(one.at - other.at, one.out)))
        return tuple(found)


def _as_slit(piece: Piece) -> Array:
    """Where stitches strain a piece, (n, 2): at its holes, or at the end of the slit beside one that is between two."""
    holes = np.array([(h.x, h.y) for h in piece.holes]).reshape(-1, 2)
    tips = np.array([rule.points[1 if len(rule.points) > 2 else -1] for rule in piece.rules if rule.kind == "slit"])
    if not len(holes) or not len(tips):
        return holes
    found = holes.copy()
    for k, hole in enumerate(holes):
        near = tips[np.hypot(*(tips - hole).T) < BESIDE]
        if (near[:, 1] > hole[1]).any() and (near[:, 1] < hole[1]).any():
            found[k] = near[np.hypot(*(near - hole).T).argmin()]
    return found


def _joined(rows: Sequence[Placed], counts: Sequence[int]) -> Placed:
    """Rows of holes one after another, of each the first so many."""
    return Placed(
        *(np.vstack([part[:n] for part, n in zip(parts, counts, strict=True)]) for parts in zip(*rows, strict=True))
    )


def _thread(at: Array, out: Array, other: Array, facing: Array) -> Array:
    """Which way thread goes at holes of two layers, (n, 3): midway between their normals, whichever side each shows.

    Where both ways of facing lie open, since the layers meet at an angle, the one from hole to hole.
    """
    ways = np.stack([out + facing, out - facing])
    long = np.linalg.norm(ways, axis=2)
    ways = ways / np.maximum(long, 1e-12)[:, :, None]
    along = np.abs((ways * (other - at)).sum(axis=2))
    better = np.where(long.min(axis=0) > EITHER, along.argmax(axis=0), long.argmax(axis=0))
    return np.asarray(ways[better, np.arange(len(at))])


def _aside(apart: Array, way: Array) -> Array:
    """How long vectors (…, 3) are square to ways of length 1, (…, 3)."""
    along = (apart * way).sum(axis=-1, keepdims=True)
    return np.asarray(np.linalg.norm(apart - along * way, axis=-1))


def _met(name: str, spots: Sequence[Punched], distance: Array | float) -> Met:
    x, y, z = spots[0].at.tolist()
    return Met(name, 0, float(distance), (x, y, z), tuple(spot.piece for spot in spots))
