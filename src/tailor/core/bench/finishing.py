"""The finishing plan: how each edge is finished, grit by grit for its stack, and what is used up on edges and faces.

Source: craft, "Edge finishing order" and "Finish"; sizes of edgers and grits are working ranges.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from tailor.core.bench.labour import SQUARE, edges, length
from tailor.core.bench.rates import Rates
from tailor.core.bench.schools import School
from tailor.core.bench.steps import Doing
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Finish, Role, Seam

BEVELS = (0.6, 0.8, 1.0, 1.2, 1.5, 2.0)  # mm that edgers take off
SHARE, OUTER = 0.2, 0.5  # of a stack, and of its outer layer at the most, that is taken off on either side
GRITS = ((5.0, (120, 240, 400, 600)), (2.5, (240, 400, 600)), (0.0, (400, 600)))  # by the stack that is sanded, mm
NIP = 60.0  # degrees from which a corner that stands out is nipped, so that it comes out round
WAXING, COATING, AGAIN = 8.0, 6.0, 4.0  # minutes: to seal and wax, to put a coat on, to paint a metre of edge again
AIR = "Finish: fresh air, gloves."
LEAST = 1.0  # mm of edge that is worth telling
DYE, COAT, WAX, PAINT = 120.0, 60.0, 25.0, 450.0  # to a square metre: ml of dye, of finish, g of wax; ml on edges


@dataclass(frozen=True)
class Edge:
    """An edge that is finished alike all along. length: mm. stack: how thick it is; outer: its outer layer, mm.
    corners: how many stand out sharply.
    """

    what: str
    length: float
    stack: float
    outer: float
    corners: int = 0

    @property
    def bevel(self) -> float:
        """What is taken off on either side, mm: the size of edger that is nearest below a fifth of the stack, and no
        more than half the outer layer; 0 where there is too little to bevel.
        """
        share = max(SHARE * self.stack, BEVELS[0])
        return max((size for size in BEVELS if size <= min(share, OUTER * self.outer)), default=0.0)

    @property
    def grits(self) -> tuple[int, ...]:
        """Papers, coarse to fine: a glued stack begins coarser, to be one."""
        return next(grits for least, grits in GRITS if self.stack >= least)

    @property
    def area(self) -> float:
        return self.length * self.stack / SQUARE

    def acts(self, school: School) -> tuple[str, ...]:
        """What is done to it, one after another."""
        found = [f"nip {self.corners} sharp corner{'s' * (self.corners > 1)}"] if self.corners else []
        found += [f"bevel {self.bevel:g} mm on either side"] if self.bevel else []
        found += ["damp", "sand " + ", ".join(map(str, self.grits))]
        if school.finish == "paint":
            return (*found, "paint it thin")
        found.append("burnish one way")
        return (*found, "dye the edge", "burnish again") if school.dyed == "after" else tuple(found)

    def said(self, school: School) -> str:
        return f"{self.what} ({self.stack:.1f} mm): {', '.join(self.acts(school))}"


def edge_first(made: Draft, edge: Finish) -> Edge:
    """An edge of one piece that is out of reach later."""
    piece = made.piece(edge.piece)
    long = sum(length(rule.points) for rule in piece.rules if rule.kind == "finish") * piece.count
    return Edge(edge.where, long, piece.thickness, piece.thickness)


def of_the_whole(made: Draft, closing: Sequence[Seam], first: float) -> tuple[Edge, ...]:
    """The edges that are finished once it is sewn: those of its closing seams, and what is single. first: mm that were
    finished before.
    """
    panels = [piece for piece in made.pieces if piece.leather == "body" and piece.role is not Role.TEMPLATE]
    outer = min((piece.thickness for piece in panels), default=0.0)
    corners = max((_outer_corners(p.cut if p.trim is None else p.trim) for p in panels), default=0)  # they lie together
    found = [Edge(seam.name, seam.length, seam.stack, outer) for seam in closing]
    single = edges(made) - first - sum(seam.length for seam in closing)
    if single > LEAST or not found:
        found.append(Edge("single edges", max(single, 0.0), outer, outer))
    return replace(found[0], corners=corners), *found[1:]


def edge_work(plan: Sequence[Edge], minutes: float, whole: tuple[str, ...], rates: Rates, school: School) -> Doing:
    """The edges of the whole finished, each as its stack asks."""
    paints = school.finish == "paint"
    name = "bevel, sand and paint the edges" if paints else "bevel, sand and burnish the edges"
    look = "covered, with no drop on the faces" if paints else "flush and glassy"
    return Doing("edges", name, whole, minutes, f"{minutes / rates.edge:.2f} m", "edges", look=look,
                 tools="; ".join(edge.said(school) for edge in plan), uses=edge_used(plan, school))  # fmt: skip


def coats(made: Draft, edges_: Doing, rates: Rates, school: School) -> tuple[Doing, ...]:
    """What is put on once the edges are done, one after another; the last of them has the key `wax`."""
    whole, area = edges_.pieces, face(made)
    if school.finish == "resin":
        resin = f"finish {used(area, COAT)}"
        names = (("coat", "the first coat of finish"), ("wax", "the second coat of finish"))
        return tuple(Doing(k, n, whole, COATING, "one coat", caution=AIR, uses=resin) for k, n in names)
    wax = Doing("wax", "seal and wax", whole, WAXING, "one coat", uses=f"wax {used(area, WAX, 'g')}")
    if school.finish != "paint":
        return (wax,)
    metres = edges_.minutes / rates.edge
    again = Doing("coat", "paint the edges once more", whole, max(AGAIN * metres, 1.0), f"{metres:.2f} m",
                  look="the first coat is smoothed", uses=edges_.uses)  # fmt: skip
    return again, wax


def used(area: float, rate: float, unit: str = "ml") -> str:
    """So much of something to an area in square metres, as it is poured out; rate: to a square metre."""
    return f"{max(area * rate, 1.0):.0f} {unit}"


def face(made: Draft) -> float:
    """What is seen of a thing's leather, square metres."""
    panels = (piece for piece in made.pieces if piece.leather == "body" and piece.role is not Role.TEMPLATE)
    return sum(piece.area * piece.count for piece in panels) / SQUARE


def edge_used(which: Iterable[Edge], school: School) -> str:
    """What edges use up: paint, or nothing but water."""
    if school.finish != "paint":
        return ""
    return f"edge paint {used(sum(edge.area for edge in which), PAINT)} a coat"


def _outer_corners(ring: Array) -> int:
    """Corners of an outline (n, 2), either way round, that stand out sharply."""
    ways = np.roll(ring, -1, axis=0) - ring
    angles = np.arctan2(ways[:, 1], ways[:, 0])
    turns = (np.diff(angles, append=angles[0]) + np.pi) % (2 * np.pi) - np.pi
    return int((np.degrees(turns * np.sign(turns.sum())) > NIP).sum())
