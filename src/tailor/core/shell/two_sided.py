"""Two-sided: leather that ends in a seam on both sides, as two panels or as a front over a flat back.

Each panel is measured out from the ridge, a straight line that lies on the object all the way: to the right over
the seam side and to the left over the spine side.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon, box

from tailor.core.carried.loft import Array, Loft, Sections, Turned
from tailor.core.carried.stations import Shape
from tailor.core.errors import InputError
from tailor.core.leather.leather import Leather
from tailor.core.leather.moulding import Moulding
from tailor.core.shell.formed import ROW, Formed, formed, half, level_half, stacked
from tailor.core.shell.mould import Flank, end_reach, moulded
from tailor.core.shell.panel import covered_rows
from tailor.core.shell.pressed import moulded_share
from tailor.core.shell.run import Run, blended, level, of_chain
from tailor.core.shell.wrap import HALF_PI, chain

END_TURNS = 3  # rows round the edge of a blunt end, and again round the valley at its foot
STEP = 3.0  # mm between rows on the object
JUST = 0.02  # mm: to either side of a wall


def ridge_of(loft: Loft, rows: Array) -> float:
    """x of the straight line that keeps furthest from both sides of the object.

    Raises InputError where no straight line lies on it.
    """
    size = loft.sizes(rows)
    left, right = float(size[:, 0].max()), float((size[:, 0] + size[:, 1]).min())
    if right - left < 0.2:
        raise InputError(
            "it bends so far aside that no straight line along the draw stays on it", "object",
            "measure it along another line, turned so that its ends lie one above the other",
        )  # fmt: skip
    return (left + right) / 2


@dataclass(frozen=True)
class Face:
    """One formed panel at the rows of its case; right and left are both measured outward, left as if mirrored."""

    right: Run
    left: Run


@dataclass(frozen=True)
class TwoSided:
    """The case, its leather and what it goes round.

    welt: height of its layers together. mouth: its upper end. ridge: x the panels are measured from. toe: from the
    tip to the welt's inner edge along the ridge. edges: rows y (n,) to x of the welt's inner edge on the right and
    on the left, (n,) each. hollows: stretches of y that are moulded where not all is. flat_back: the back is one flat
    piece. pressed: its sides as `press` gives them, where they are worked already. coarse: how many times as far
    apart as usual the columns of its panels lie, and the grid that the ball rolls over. mm.
    """

    loft: Loft
    leather: Leather
    moulding: Moulding
    clearance: float
    welt: float
    mouth: float
    ridge: float
    toe: float
    edges: Callable[[Array], tuple[Array, Array]]
    hollows: tuple[tuple[float, float], ...]
    flat_back: bool
    pressed: tuple[Face, ...] = ()
    coarse: int = 1

    @cached_property
    def turned(self) -> Loft:
        """The object seen from behind, for what is measured to the left."""
        return Turned(self.loft.stations)

    @property
    def sides(self) -> tuple[str, ...]:
        """The panels that are formed."""
        return ("front",) if self.flat_back else ("front", "back")

    @cached_property
    def plane(self) -> float:
        """How far the flat back lies behind the object's middle plane; 0 for two panels."""
        if not self.flat_back:
            return 0.0
        deepest = self.loft.sections(self.rows).back.max()
        return float(deepest) + self.clearance

    @property
    def floor(self) -> float:
        """Height of the welt's face, over the middle plane or over the flat back."""
        return self.welt if self.flat_back else self.welt / 2

    @property
    def ball(self) -> float:
        return self.moulding.ball(self.leather.thickness)

    @cached_property
    def rows(self) -> Array:
        """Rows on the object, (n,) rising."""
        return covered_rows(self.loft, self.mouth, STEP)

    @cached_property
    def formed_rows(self) -> Array:
        """Rows that the formed leather is worked at, (n,) rising, past the tip as far as it is not flat."""
        tip = self.loft.tip
        if self.moulding.taut:
            past = tip - np.linspace(0.98, 0, max(int(self.toe / 2.5), 3) + 1)[:-1] * self.toe
            return np.concatenate([past, self.rows])
        wall, foot = self.clearance + self.leather.offset, self.end
        turn = np.sin(np.linspace(0, HALF_PI, END_TURNS + 1))
        roll = self.ball - self.leather.offset
        valley = tip - foot + (1 - np.cos(np.linspace(0, HALF_PI, END_TURNS + 1))) * min(roll, max(foot - wall, 0.0))
        past = np.unique(np.concatenate([valley[:-1], [tip - wall - JUST, tip - wall + JUST], tip - wall * turn[1:-1]]))
        past = past[np.concatenate([[True], np.diff(past) > JUST])]
        return np.concatenate([past[past < tip - JUST], self.rows])

    @cached_property
    def end(self) -> float:
        """How far before the tip moulded leather comes down on the welt, mm."""
        tip = self.profiles(self.loft, "front")(np.array([self.loft.tip]))[1].max()
        return end_reach(float(tip), self.floor + self.ball, self.clearance + self.ball)

    def profiles(self, loft: Loft, side: str) -> Callable[[Array], tuple[Array, Array]]:
        """What one panel goes over: rows to x and height."""
        plane = self.plane

        def at(y: Array) -> tuple[Array, Array]:
            seen = loft.sections(y)
            return seen.x, (seen.front if side == "front" else seen.back) + plane

        return at

    def face(self, side: str, rows: Array | None = None) -> Face:
        """The formed panel of one side at rows (n,), or at those it is worked at."""
        at = self.formed_rows if rows is None else rows
        known = None
        if rows is None and self.pressed:
            known = self.pressed[0 if side == "front" else -1]
        right, left = self.edges(at)
        return Face(
            self._run(self.loft, side, at, self.ridge, right, left, known.right if known else None),
            self._run(self.turned, side, at, -self.ridge, -left, -right, known.left if known else None),
        )

    def near(self, side: str, y: float) -> Face:
        """The formed panel of one side at y, between the rows it is worked at: for looking at, and at no cost."""
        face, rows = self.front if side == "front" else self.back, self.formed_rows
        y = float(np.clip(y, rows[0], rows[-1]))
        k = int(np.clip(np.searchsorted(rows, y, side="right") - 1, 0, len(rows) - 2))
        share = (y - rows[k]) / (rows[k + 1] - rows[k])
        return Face(face.right.between(k, share), face.left.between(k, share))

    def press(self) -> tuple[Face, ...]:
        """The formed sides, front first, pressed all over at the rows they are worked at, wherever the welt will be."""
        sides = ("front",) if self.flat_back or self.alike else ("front", "back")
        rights = [self._pressed(self.loft, side, self.formed_rows, self.ridge) for side in sides]
        if self._even:
            return tuple(Face(right, right.moved(-2 * self.ridge)) for right in rights)
        lefts = [self._pressed(self.turned, side, self.formed_rows, -self.ridge) for side in sides]
        return tuple(map(Face, rights, lefts))

    @property
    def _even(self) -> bool:
        """Whether the object is the same on either side of the ridge."""
        return all(
            abs(s.x_spine + s.x_seam - 2 * self.ridge) < 1e-9 and s.shape is not Shape.WEDGE for s in self.loft.stations
        )

    def panels(
        self, edges: Callable[[Array], tuple[Array, Array]], foot: float, before: tuple[Formed, ...] = ()
    ) -> tuple[Formed, ...]:
        """The formed sides laid flat. edges: y (n,) to x of their right and left edge; foot: y they end at below.

        before: the same panels as they were a moment ago, to set out from.
        """
        earlier = {panel.side: panel for panel in before}
        first = self._panel("front", edges, foot, earlier.get("front"))
        if self.flat_back:
            return (first,)
        if self.alike:
            return first, replace(first, side="back")
        return first, self._panel("back", edges, foot, earlier.get("back"))

    def _panel(
        self, side: str, edges: Callable[[Array], tuple[Array, Array]], foot: float, before: Formed | None
    ) -> Formed:
        rows, face = self.formed_rows, self.front if side == "front" else self.back
        below = np.linspace(foot, rows[0], max(int(np.ceil((rows[0] - foot) / ROW)), 1) + 1)[:-1]
        below = below[below < rows[0] - JUST]
        use, floor = rows > foot, self.floor + self.leather.offset
        halves = [
            stacked(
                level_half(below, way * self.ridge, way * edges(below)[k], floor, self.coarse),
                half(run.rows(use), rows[use], way * edges(rows[use])[k], self.coarse),
            )
            for k, run, way in ((0, face.right, 1.0), (1, face.left, -1.0))
        ]
        return formed(side, halves[0], halves[1], self.moulding.stretch, self.mouth, before)

    @cached_property
    def front(self) -> Face:
        return self.face("front")

    @cached_property
    def back(self) -> Face:
        """The formed back; of a flat back, leather that is level all over."""
        if not self.flat_back:
            return self.front if self.alike else self.face("back")
        n = len(self.formed_rows)
        floor = np.full(n, self.leather.offset)
        return Face(level(np.full(n, self.ridge), floor), level(np.full(n, -self.ridge), floor))

    @cached_property
    def alike(self) -> bool:
        """Whether the object is the same behind as in front."""
        return all(s.front == s.back for s in self.loft.stations)

    def _run(
        self, loft: Loft, side: str, rows: Array, ridge: float, own: Array, other: Array, known: Run | None
    ) -> Run:
        """Outward from the ridge towards the welt at x = own; the far side's welt is at x = other."""
        share = moulded_share(self.moulding, self.hollows, rows)
        if not share.any():
            return self._taut(loft, side, rows, ridge, own, other)
        pressed = self._pressed(loft, side, rows, ridge) if known is None else known
        return pressed if share.all() else blended(self._taut(loft, side, rows, ridge, own, other), pressed, share)

    def _pressed(self, loft: Loft, side: str, rows: Array, ridge: float) -> Run:
        flank = Flank(self.profiles(loft, side), loft.tip, min(self.mouth + 2 * self.ball, loft.top), ridge, 0.0)
        return moulded(flank, rows, self.clearance, self.floor, self.leather.offset, self.ball, self.coarse)

    def _taut(self, loft: Loft, side: str, rows: Array, ridge: float, own: Array, other: Array) -> Run:
        """The taut line from the far welt's corner over the object to its own, seen from the ridge outward."""
        towards = _share_of(loft, ridge)
        seen = self._over(loft.sections(rows, self.toe, towards), side, rows)
        n = len(rows)
        floor = np.full(n, self.floor)
        line = chain(
            seen.x, seen.front, self.clearance, np.column_stack([other, floor]), 0.0, np.column_stack([own, floor]),
            self.leather.offset,
        )  # fmt: skip
        return of_chain(line, np.full(n, ridge))

    def _over(self, seen: Sections, side: str, rows: Array) -> Sections:
        heights = seen.front if side == "front" else seen.back
        left = np.clip(1 - (self.loft.tip - rows) / self.toe, 0, 1)[:, None]
        return Sections(seen.y, seen.x, heights + self.plane * left, heights)

    def gone_over(self, loft: Loft, rows: Array) -> Sections:
        """What the leather goes over, heights over half the welt, as the approach to the welt is reckoned."""
        seen = loft.sections(rows)
        lower = self.floor - self.welt / 2
        front = seen.front + self.plane - lower
        return Sections(seen.y, seen.x, front, front if self.flat_back else seen.back)

    @property
    def _on(self) -> NDArray[np.bool_]:
        return self.formed_rows >= self.loft.tip - JUST / 2

    def _ends(self) -> list[tuple[Run, Array]]:
        """Every run of formed leather at the rows on the object, with the welt's inner edge it comes down to."""
        right, left = self.edges(self.rows)
        faces = [self.front] if self.flat_back else [self.front, self.back]
        return [(run.rows(self._on), x) for face in faces for run, x in ((face.right, right), (face.left, -left))]

    def steepest(self) -> Array:
        """Steepest angle at which the leather comes down on the welt at each row, (n,), radians."""
        return np.asarray(np.maximum.reduce([run.approach for run, _ in self._ends()]))

    def level_at(self, inset: float) -> Array:
        """How much level leather lies between landing and stitch at each row, (n,), mm."""
        return np.asarray(np.minimum.reduce([x + inset - run.x_land for run, x in self._ends()]))

    def girths(self) -> tuple[Array, Array]:
        """Length round the inside of the case, and round the object, at each row, (n,) each, mm.

        Moulded, the flesh face turns as much one way as the other, so it is as long as the neutral line; taut, the
        sharp corner at the welt gives something away.
        """
        right, left = self.edges(self.rows)
        inside = np.full(len(self.rows), 2 * self.welt)
        if self.flat_back:
            inside += right - left
        for run, x in self._ends():
            angle = np.clip(run.approach, 0, HALF_PI)
            inside += run.landed + np.maximum(x - run.x_land, 0.0) - self.leather.offset * (angle - np.tan(angle / 2))
        return inside, self.loft.sections(self.rows).girth()

    def inside(self, y: float) -> Polygon:
        """The room inside the leather at the formed row nearest to y as a polygon in x and z, from welt to welt."""
        k = int(np.abs(self.formed_rows - y).argmin())
        right, left = (float(x[0]) for x in self.edges(self.formed_rows[k : k + 1]))
        off, level = self.leather.offset, self.floor
        halves = []
        for face, up in ((self.front, 1.0), (self.back, -1.0)):
            if up < 0 and self.flat_back:
                halves.append(np.array([(left, 0.0), (right, 0.0)]))
                continue
            over = [face.left.points(k, -left + off)[::-1] * np.array([-1.0, 1.0]), face.right.points(k, right + off)]
            skin = np.vstack([[(left - off, 0.0)], *over, [(right + off, 0.0)]])
            flesh = Polygon(skin).buffer(0).buffer(-off, join_style="mitre")
            room = flesh.intersection(box(left, 0, right, 1e3)).union(box(left, 0, right, level))
            halves.append(np.asarray(Polygon(shapely.get_exterior_ring(room)).exterior.coords) * np.array([1.0, up]))
        if self.flat_back:
            return shapely.transform(Polygon(halves[0]), lambda p: p - np.array([0.0, self.plane]))
        return Polygon(halves[0]).union(Polygon(halves[1])).buffer(0)

    def pushed(self, neck: float, wide: float) -> float:
        """How much longer, as a share, the leather at row `neck` must grow for the section at row `wide` to pass it."""
        inside = self.inside(neck)
        passing = Polygon(self.loft.sections(np.array([wide])).outline(0)).buffer(0)
        return float(inside.union(passing).length / inside.length - 1)

    def touched(self) -> tuple[Array, Array]:
        """How far out, right and left, leather pressed all over comes down at the rows on the object, (n,) each.

        Left as if mirrored; the further of front and back.
        """
        right, left = (
            np.maximum.reduce([run.x_land[self._on] for run in runs])
            for runs in ([face.right for face in self.pressed], [face.left for face in self.pressed])
        )
        return np.asarray(right), np.asarray(left)


def _share_of(loft: Loft, ridge: float) -> float:
    """Where the ridge lies across the tip, as a share of its width from the spine."""
    x, width = loft.sizes(loft.tip)[0, :2]
    return float(np.clip((ridge - x) / width, 0, 1))
