"""Ring: the lines of a two-sided case seen from the front, from mouth to mouth round the toe.

Over the welt the leather lies level, so in this view inner edge, stitch and cut are true; the welt and the template
that is laid on a dried panel are cut from them as they are.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from shapely.geometry import LineString, Polygon
from shapely.ops import split

from tailor.core.carried.loft import Array
from tailor.core.draft.fitted.mouth import front_edge
from tailor.core.draft.fitted.seam import Widths
from tailor.core.draft.folded.body import stitched
from tailor.core.draft.piece import FLIP, Hole, Mark, Piece, Role, Rule, punched, title
from tailor.core.draft.stitch.holes import Edge as SewnEdge
from tailor.core.draft.stitch.holes import HoleLine, joined
from tailor.core.errors import InputError
from tailor.core.fairing import STEP, Line, flowed
from tailor.core.shell.region import Edges, evenly, moved_out, outline

HIGH = 1e3  # mm, higher than any mouth
CHORDS = 0.012  # mm by which arcs drawn by chords are smoothed again
SPARE = 1.0  # mm below the top of a region at which its lines begin
LEVEL = 0.2  # mm above the lowest place of a stitch line that still is its foot
FINE = 0.5  # mm between points of the welt's inner edge, which turns more tightly than the stitch line


@dataclass(frozen=True)
class Ring:
    """Lines (mouth right, toe, mouth left) seen from the front, each carried on above the mouth.

    region: what lies inside the welt's inner edge. inner: that edge. stitch, cut: true offsets of it, `inset` and then
    `margin` further out. mouth: y. holes: on the stitch line. cut_edges, inner_edges: row by row. mm.
    """

    region: Polygon
    inner: Line
    stitch: Line
    cut: Line
    inset: float
    margin: float
    mouth: float
    holes: HoleLine
    cut_edges: Edges
    inner_edges: Edges

    @property
    def foot(self) -> float:
        """y of the lowest of the cut line."""
        return self.cut_edges.foot

    def moved(self, out: float) -> Array:
        """The welt's inner edge moved so far outward, carried on above the mouth, (n, 2)."""
        return outline(moved_out(self.region, out), float(self.region.bounds[3]) - SPARE)

    @property
    def inner_at_mouth(self) -> tuple[float, float]:
        """x of the welt's inner edge at the mouth, right and left."""
        right, left = self.inner_edges(np.array([self.mouth]))
        return float(right[0]), float(left[0])


def ring(region: Polygon, widths: Widths, mouth: float, first: float, pitch: float, odd: bool) -> Ring:
    """Stitch and cut line round a region, and holes with equal chords from either mouth to the foot."""
    inset, margin = widths.inset.value, widths.margin.value
    cut_round = moved_out(region, inset + margin)
    top = float(region.bounds[3]) - SPARE
    stitch, cut = (smooth(outline(part, top), STEP) for part in (moved_out(region, inset), cut_round))
    inner = smooth(outline(region, top), FINE)
    holes = placed(stitch, mouth - first, pitch, odd)
    return Ring(region, inner, stitch, cut, inset, margin, mouth, holes, Edges(cut_round), Edges(region))


def smooth(points: Array, step: float) -> Line:
    """A line through the corners of a boundary, which are those of arcs drawn by chords."""
    return Line(*flowed(evenly(points, step), CHORDS))


def placed(line: Line, top: float, pitch: float, odd: bool) -> HoleLine:
    """Holes along a line that begins and ends above `top`: as many on either side of its foot as suit the pitch."""
    return joined([SewnEdge(line, anchors(line, top))], pitch, odd)[0]


def anchors(line: Line, top: float) -> tuple[float, float, float]:
    """Lengths along a line at which it comes down to `top`, reaches its foot, and comes up to `top` again.

    The foot of a level toe is in the middle of it.
    """
    s = np.linspace(0, line.length, 4 * len(line.points))
    height = line(s)[:, 1]
    low = float(s[height < height.min() + LEVEL][[0, -1]].mean())
    backward = Line(line.points[::-1])
    return line.where(top, 1, "seam.first_hole"), low, line.length - backward.where(top, 1, "seam.first_hole")


def brim(mouth: float, low: float, high: float, relief: float) -> Array:
    """The mouth's edge from x = low to high, scooped by `relief` in between, (n, 2)."""
    return np.asarray(front_edge(mouth, high - low, relief) + np.array([low, 0.0]))


def below(lines: tuple[Array, Array | None], edge: Array, name: str) -> Array:
    """What lies between an outer line and an inner one (or all inside it), below an edge across it, (n, 2).

    Raises InputError where no whole piece is left.
    """
    outer, inner = lines
    whole = outer if inner is None else np.vstack([outer, inner[::-1]])
    shape = Polygon(whole)
    across = np.vstack([edge[0] - [HIGH, 0.0], edge, edge[-1] + [HIGH, 0.0]])
    if not shape.is_valid:
        raise InputError("its outline crosses itself", name, "widen the standoff or lessen the margin")
    cut_up = [p for p in split(shape, LineString(across)).geoms if isinstance(p, Polygon)]
    parts = [p for p in cut_up if p.representative_point().y < edge[:, 1].min() + 1.0]
    if not parts:
        raise InputError("nothing of it lies below the mouth", name, "raise the mouth")
    kept = max(parts, key=lambda p: p.area)
    ring_ = np.asarray(kept.exterior.coords)[:-1]
    apart = np.hypot(*(ring_ - np.roll(ring_, 1, axis=0)).T) > 1e-6
    return np.asarray(ring_[apart] if kept.exterior.is_ccw else ring_[apart][::-1])


def strip(
    of: Ring, name: str, count: int, stuff: str, thickness: float, outer: float, trim: float | None,
    holes: tuple[Hole, ...], said: str,
) -> Piece:  # fmt: skip
    """The strip from the inner edge to `outer` mm outside the stitch: a welt, or the template for a dried panel."""
    level = np.array([[-HIGH, of.mouth], [HIGH, of.mouth]])

    def cut_at(out: float) -> Array:
        return below((of.moved(of.inset + out), of.inner.points), level, name)

    middle = float(of.holes.at[len(of.holes.at) // 4])
    place, normal = of.stitch(np.array([middle]))[0], of.stitch.normal(np.array([middle]))[0]
    upright = float(np.degrees(np.arctan2(normal[0], -normal[1])))
    spot = place - 0.45 * normal * (of.stitch.points[0, 0] - of.inner.points[0, 0])
    marks = (
        Mark("title", float(spot[0]), float(spot[1]), said, angle=upright),
        *_register(of),
    )
    return Piece(
        name, count, stuff, thickness, "grain", cut_at(outer), None if trim is None else cut_at(trim),
        role=Role.TEMPLATE if stuff == "card" else Role.WELT,
        stitch=(stitched(of.stitch, of.holes),), holes=holes, marks=marks,
    )  # fmt: skip


def _register(of: Ring) -> list[Mark]:
    count, marks = len(of.holes.points), []
    for k in (count // 6, count // 2, 5 * count // 6):
        p, n = of.holes.points[k], of.stitch.normal(of.holes.at[k : k + 1])[0]
        start, end = p + 1.5 * n, p + 4.0 * n
        marks.append(Mark("register", float(start[0]), float(start[1]), "", (float(end[0]), float(end[1]))))
    return marks


def sheet(
    name: str, said: tuple[str, ...], thickness: float, cut: Array, line: Line | None, holes: HoleLine | None,
    seam: str, edge: str, diameter: float, rules: tuple[Rule, ...] = (), turned: bool = False,
    role: Role = Role.PANEL,
) -> Piece:  # fmt: skip
    """A whole panel seen from its grain side. line, holes: where it is sewn, if it is pierced flat.

    said: what is written on it, line by line. turned: drawn as seen from the front, it is turned over, as a back is.
    """
    way = FLIP if turned else np.ones(2)
    low, high = cut.min(axis=0), cut.max(axis=0)
    x, y = float(way[0] * (low[0] + high[0]) / 2), float(low[1] + 0.62 * (high[1] - low[1]))
    step = 7.0
    words = [
        Mark("face", x, y, "grain side up"), Mark("top", x, y + 9, "top", (x, y + 20)),
        Mark("title", x, y - 2 * step, title(name, 1, thickness)),
        *(Mark("note", x, y - (3 + k) * step, text) for k, text in enumerate(said)),
        Mark("side", x, y - step, "right hand"),
    ]  # fmt: skip
    pierced = () if holes is None else punched(seam, edge, holes.points * way, diameter)
    stitch = () if line is None or holes is None else (stitched(line, holes) * way,)
    outline = cut * way
    return Piece(
        name, 1, "body", thickness, "grain", outline if not turned else outline[::-1], stitch=stitch, holes=pierced,
        rules=tuple(Rule(r.kind, r.points * way) for r in rules), marks=tuple(words), role=role,
    )  # fmt: skip
