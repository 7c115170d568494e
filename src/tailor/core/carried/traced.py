"""Traced: the flat panels of a carrier already made, as they were traced, and which of their edges are sewn together.

An edge runs from one corner of a panel's outline to the next; edges are numbered round the outline, counter-clockwise
from the lowest corner. What only appears after sewing, as a boxed corner does, is not cut: a panel is taken as it lies.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from tailor.core import incoming
from tailor.core.carried.loft import Array
from tailor.core.errors import InputError

SHARP = 35.0  # degrees that an outline turns by at a corner
REACH = 3.0  # mm to either side of a place, over which its turn is taken
STEP = 0.5  # mm between the places looked at
UNSEEN = 0.01  # mm
SMALLEST = 100.0  # mm²
LARGEST = 3000.0  # mm: no hide is larger
MOST = 60  # panels

Place = tuple[float, float]


def _span(outline: Sequence[Place]) -> float:
    """The longer side of what an outline fills, mm."""
    return float(np.ptp(np.array(outline), axis=0).max()) if len(outline) else 0.0


@dataclass(frozen=True)
class Panel:
    """A traced panel: what it is called, its closed outline in mm, and how many there are of it."""

    name: str
    outline: tuple[Place, ...]
    count: int = 1

    def __post_init__(self) -> None:
        shape = shapely.Polygon(self.outline) if len(self.outline) > 2 else shapely.Polygon()
        incoming.named(self.name, "panel")
        if _span(self.outline) > LARGEST:
            raise InputError(
                "it is far too large", f"panel {self.name}", f"give one within {LARGEST:g} mm; see to its unit"
            )
        if not shape.is_valid or shape.area < SMALLEST:
            raise InputError("its outline crosses itself, or is hardly there", f"panel {self.name}", "trace it again")
        if not 1 <= self.count <= 20:
            raise InputError(f"{self.count} of it cannot be", f"panel {self.name}", "give 1 to 20")

    @property
    def ring(self) -> Array:
        """The outline at even steps, counter-clockwise, begun at its lowest corner; open, (n, 2)."""
        ring = shapely.geometry.polygon.orient(shapely.Polygon(self.outline)).exterior
        dense = shapely.get_coordinates(shapely.segmentize(ring, STEP))[:-1]
        return np.asarray(np.roll(dense, -int(np.lexsort((dense[:, 0], dense[:, 1].round(1)))[0]), axis=0))


@dataclass(frozen=True)
class Sewn:
    """A seam: the edges that meet, as "front 2", a panel and the number of its edge; "front 4-2" for 4 round to 2."""

    name: str
    edges: tuple[str, ...]


@dataclass(frozen=True)
class Traced:
    """Everything taken over from a carrier already made."""

    panels: tuple[Panel, ...] = ()
    seams: tuple[Sewn, ...] = ()

    def __post_init__(self) -> None:
        names = [panel.name for panel in self.panels]
        if len(set(names)) != len(names) or len(names) > MOST:
            raise InputError("two panels have one name", "panels", "give each a name of its own")
        taken = [incoming.named(seam.name, "seam") for seam in self.seams]
        if len(set(taken)) != len(taken):
            raise InputError("two seams have one name", "seams", "give each a name of its own")
        for seam in self.seams:
            if len(seam.edges) < 2 or len(set(seam.edges)) != len(seam.edges):
                raise InputError("a seam joins two edges or more", f"seam {seam.name}", "give as many, each once")
            for said in seam.edges:
                self.edge(said)

    def unused(self) -> str:
        """A name that no seam has yet."""
        taken = {seam.name for seam in self.seams}
        return next(name for k in range(len(taken) + 1) if (name := f"seam {k + 1}") not in taken)

    def edge(self, said: str) -> Array:
        """The line of an edge, (n, 2). Raises InputError where there is none such."""
        every, wanted = self._run(said)
        return np.vstack([every[wanted[0]], *(every[k][1:] for k in wanted[1:])])

    def holding(self, said: str) -> Sewn | None:
        """The seam that an edge is sewn in, by itself or as part of a run."""

        def single(edge: str) -> set[tuple[str, int]]:
            return {(self.panel_of(edge), k) for k in self._run(edge)[1]}

        mine = single(said)
        return next((seam for seam in self.seams if any(mine & single(edge) for edge in seam.edges)), None)

    def _run(self, said: str) -> tuple[list[Array], list[int]]:
        """Every edge of the panel that is named, and which of them are meant, in order."""
        found = re.fullmatch(r"(.+) (\d+)(?:-(\d+))?", said.strip())
        panel = next((p for p in self.panels if found and p.name == found[1]), None)
        if panel is None or found is None:
            raise InputError(
                f"'{said}' is no edge of a panel", "seam",
                "write it like 'front 2', a panel and the number of its edge, or 'front 4-2' for edges 4 round to 2",
            )  # fmt: skip
        every = runs(panel)
        first, last = int(found[2]), int(found[3] or found[2])
        if not (1 <= first <= len(every) and 1 <= last <= len(every)):
            raise InputError(f"{panel.name} has {len(every)} edges, not '{said}'", "seam", f"give 1 to {len(every)}")
        return every, [(first - 1 + k) % len(every) for k in range((last - first) % len(every) + 1)]

    def panel_of(self, said: str) -> str:
        """The name of the panel that an edge belongs to."""
        return said.strip().rpartition(" ")[0]


def panel_of(name: str, outline: Array) -> Panel:
    """A panel from a traced outline (n, 2), its lower left corner at nought, without points nobody could see."""
    plain = shapely.get_coordinates(shapely.simplify(shapely.Polygon(outline), UNSEEN).exterior)[:-1]
    return Panel(name, tuple((round(float(x), 3), round(float(y), 3)) for x, y in plain - plain.min(axis=0)))


def corners(ring: Array) -> list[int]:
    """Where an outline (n, 2) turns sharply, rising; the whole of it is one edge where it never does."""
    step = float(np.hypot(*np.diff(ring, axis=0).T).mean())
    k = max(round(REACH / step), 1)
    before, after = ring - np.roll(ring, k, axis=0), np.roll(ring, -k, axis=0) - ring
    cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    turn = np.degrees(np.abs(np.arctan2(cross, (before * after).sum(axis=1))))
    found = list[int]()
    for at in np.argsort(-turn):
        if turn[at] < SHARP:
            break
        if all(min(abs(int(at) - c), len(ring) - abs(int(at) - c)) > 2 * k for c in found):
            found.append(int(at))
    return sorted(found) or [0]


def runs(panel: Panel) -> list[Array]:
    """The edges of a panel, each from corner to corner, (n, 2), in the order they are numbered."""
    ring, at = panel.ring, corners(panel.ring)
    closed = [*at[1:], at[0] + len(ring)]
    return [np.take(ring, np.arange(a, b + 1), axis=0, mode="wrap") for a, b in zip(at, closed, strict=True)]
