"""Two-sided: leather that ends in a seam on both sides, as two panels or as a front over a flat back.

Each panel is measured out from the ridge, a line along the draw that lies on the object all the way: to the right over
the seam side and to the left over the spine side.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from tailor.core.carried.loft import Array, Loft, Sections, Turned
from tailor.core.carried.stations import Shape
from tailor.core.leather.leather import Leather
from tailor.core.leather.moulding import Moulding
from tailor.core.shell.formed import ROW, Formed, formed, half, level_half, stacked
from tailor.core.shell.mould import Flank, moulded, rests_before
from tailor.core.shell.panel import covered_rows
from tailor.core.shell.pressed import HIDDEN, moulded_share
from tailor.core.shell.region import Edges, outline, sampled
from tailor.core.shell.ridge import Ridge
from tailor.core.shell.run import Run, blended, joined, level, of_chain, reversed_to
from tailor.core.shell.taut import AIR, LATTICE, Cut, Drawn, Slope, followed
from tailor.core.shell.wrap import HALF_PI, chain

END_TURNS = 3  # rows round the edge of a blunt end, and again round the valley at its foot
STEP = 3.0  # mm between rows on the object
JUST = 0.02  # mm: to either side of a wall
BLUNT = 3.0  # mm from the tip within which an end that has its whole height is blunt
PRISM = 40.0  # mm that the section at the mouth is carried on
STEEPLY = 0.4  # how far a profile may rise as it goes outward, where the ball is rolled over it
BEND_ROW = 0.5  # mm between rows where leather bends over an end


@dataclass(frozen=True)
class Halves:
    """One formed panel at the rows of its case; right and left are both measured outward, left as if mirrored."""

    right: Run
    left: Run


@dataclass(frozen=True)
class TwoSided:
    """The case, its leather and what it goes round.

    welt: height of its layers together. mouth: its upper end. ridge: what the panels are measured from. seam: the
    welt's inner edge, row by row. slope: how steeply taut leather comes down to it. hollows: stretches of y that are
    moulded where not all is. flat_back: the back is one flat piece. pressed: its sides
    as `press` gives them, where they are worked already. coarse: how many times as far apart as usual the
    columns of its panels lie, and the grid that the ball rolls over. within: the case whose skin this is. mm.
    """

    loft: Loft
    leather: Leather
    moulding: Moulding
    clearance: float
    welt: float
    mouth: float
    ridge: Ridge
    seam: Edges
    slope: Slope
    hollows: tuple[tuple[float, float], ...]
    flat_back: bool
    pressed: tuple[Halves, ...] = ()
    coarse: int = 1
    within: TwoSided | None = None

    @cached_property
    def turned(self) -> Loft:
        """The object seen from behind, for what is measured to the left."""
        return Turned(self.loft.stations)

    def bare(self) -> TwoSided:
        """The same without what it has worked out by now."""
        return replace(self, pressed=())

    @property
    def toe(self) -> float:
        """From the tip down to the foot of the welt's inner edge, mm."""
        return self.loft.tip - self.seam.foot

    def edges(self, y: Array) -> tuple[Array, Array]:
        """x of the welt's inner edge on the right and on the left at rows y, (n,) each."""
        return self.seam(y)

    @property
    def sides(self) -> tuple[str, ...]:
        """The panels that are formed."""
        return ("front",) if self.flat_back else ("front", "back")

    @cached_property
    def plane(self) -> float:
        """How far the flat back lies behind the object's middle plane; 0 for two panels."""
        return plane_of(self.loft, self.rows, self.clearance) if self.flat_back else 0.0

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
        if self.moulding.taut or self.moulding.end > 0:
            foot = self.seam.foot - self.leather.offset
            past = np.linspace(foot, tip, max(int(np.ceil((tip - foot) / ROW)), 2) + 1)[:-1]
            bend = self.clearance + self.leather.offset
            fine = np.arange(tip - bend, tip + bend / 2, BEND_ROW * self.coarse)
            foot_bend = self.seam.foot - np.linspace(0.0, 0.5, 3) * self.leather.offset
            every = np.unique(np.concatenate([past, fine, foot_bend, self.rows]))
            keep = np.concatenate([[True], np.diff(every) > 0.1])
            return every[keep | np.isin(every, self.rows)]
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
        loft, over = self.loft, self.profiles(self.loft, "front")
        return rests_before(over, loft.tip, loft.top, self.floor + self.ball, self.clearance + self.ball)

    def profiles(self, loft: Loft, side: str) -> Callable[[Array], tuple[Array, Array]]:
        """What one panel goes over: rows to x and height."""
        plane = self.plane

        def at(y: Array) -> tuple[Array, Array]:
            seen = loft.sections(y)
            return seen.x, (seen.front if side == "front" else seen.back) + plane

        return at

    def press(self) -> tuple[Halves, ...]:
        """The formed sides, front first, pressed all over at the rows they are worked at, wherever the welt will be."""
        return tuple(self._pressed(side, self.formed_rows) for side in self.sides[: 1 if self.alike else 2])

    def between(self, left: Array, right: Array) -> Array:
        """Girth inside leather pressed all over, (n,) at the rows on the object, with the welt's edges at left and
        right, (n,) each, mm.
        """
        on = np.isin(self.formed_rows, self.rows)
        inside = 2 * self.welt + (right - left if self.flat_back else 0.0)
        for k in range(len(self.sides)):
            face = self.pressed[min(k, len(self.pressed) - 1)]
            inside = inside + face.right.rows(on).length_to(right) + face.left.rows(on).length_to(-left)
        return np.asarray(inside)

    def face(self, side: str, at: Array | None = None) -> Halves:
        """The formed panel of one side at rows (n,), or at those it is worked at."""
        rows = self.formed_rows if at is None else at
        share = moulded_share(self.moulding, self.hollows, rows, self.loft.tip)
        if not share.any():
            return self._taut(side, rows)
        known = self.pressed and at is None
        pressed = self.pressed[0 if side == "front" else -1] if known else self._pressed(side, rows)
        if share.all():
            return pressed
        taut = self._taut(side, rows)
        return Halves(blended(taut.right, pressed.right, share), blended(taut.left, pressed.left, share))

    def near(self, side: str, y: float) -> Halves:
        """The formed panel of one side at y, between the rows it is worked at: for looking at, and at no cost."""
        face, rows = self.front if side == "front" else self.back, self.formed_rows
        y = float(np.clip(y, rows[0], rows[-1]))
        k = int(np.clip(np.searchsorted(rows, y, side="right") - 1, 0, len(rows) - 2))
        share = (y - rows[k]) / (rows[k + 1] - rows[k])
        return Halves(face.right.between(k, share), face.left.between(k, share))

    @property
    def _even(self) -> bool:
        """Whether the object is the same on either side of the ridge."""
        middle = float(self.ridge.x[0])
        return self.ridge.straight and all(
            abs(s.x_spine + s.x_seam - 2 * middle) < 1e-9 and s.shape is not Shape.WEDGE for s in self.loft.stations
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
                level_half(below, way * self.ridge(below), way * edges(below)[k], floor, self.coarse),
                half(run.rows(use), rows[use], way * edges(rows[use])[k], self.coarse),
            )
            for k, run, way in ((0, face.right, 1.0), (1, face.left, -1.0))
        ]
        return formed(side, halves[0], halves[1], self.moulding.stretch, self.mouth, before)

    @cached_property
    def skins(self) -> tuple[TwoSided, TwoSided]:
        """The case as its flesh face lies, and as its grain face does."""
        flesh, grain = (replace(self, leather=replace(self.leather, neutral=k), within=self) for k in (0.0, 1.0))
        return flesh, grain

    @cached_property
    def front(self) -> Halves:
        return self.face("front")

    @cached_property
    def back(self) -> Halves:
        """The formed back; of a flat back, leather that is level all over."""
        if not self.flat_back:
            return self.front if self.alike else self.face("back")
        ridge = self.ridge(self.formed_rows)
        floor = np.full(len(ridge), self.leather.offset)
        return Halves(level(ridge, floor), level(-ridge, floor))

    @cached_property
    def alike(self) -> bool:
        """Whether the object is the same behind as in front."""
        return all(s.front == s.back for s in self.loft.stations)

    def _pressed(self, side: str, rows: Array) -> Halves:
        """Pressed all over, wherever the welt will be."""
        right = self._flank(self.loft, side, rows, self.ridge)
        if self._even:
            return Halves(right, right.moved(-2 * float(self.ridge.x[0])))
        return Halves(right, self._flank(self.turned, side, rows, self.ridge.turned()))

    def _flank(self, loft: Loft, side: str, rows: Array, ridge: Ridge) -> Run:
        """Outward from the ridge."""
        over, begins = self.profiles(loft, side), ridge(rows)

        def behind(y: Array) -> tuple[Array, Array]:
            x, z = over(y)
            return -x[:, ::-1], z[:, ::-1]

        def out(profile: Callable[[Array], tuple[Array, Array]], start: Array) -> Run:
            flank = Flank(profile, loft.tip, self.mouth, start, 0.0)
            return moulded(flank, rows, self.clearance, self.floor, self.leather.offset, self.ball, self.coarse)

        on = np.clip(rows, loft.tip, self.mouth)
        x, z = over(on)
        crest = _crest(x - ridge(on)[:, None], z)
        run = out(over, begins + crest)
        if crest > 0:  # up to it from the ridge, as it is seen from there
            run = joined(reversed_to(out(behind, -begins - crest), -begins), run)
        return run

    @cached_property
    def _drawn(self) -> dict[str, Drawn]:
        return {}

    def drawn(self, side: str) -> Drawn:
        """One side drawn taut; worked once."""
        if side not in self._drawn:
            self._drawn[side] = self._draw(side)
        return self._drawn[side]

    def _draw(self, side: str) -> Drawn:
        seen = sampled(self.loft, self.mouth, PRISM, STEP * self.coarse)
        heights = (seen.height if side == "front" else seen.back) + self.plane
        return Drawn(
            Sections(seen.y, seen.x, heights, heights), outline(self.seam.region, self.mouth + PRISM), self.clearance,
            self.floor, self.leather.offset, self.slope, self.coarse,
            like=None if self.within is None else self.within.drawn(side),
        )  # fmt: skip

    def _taut(self, side: str, rows: Array) -> Halves:
        """Drawn over the object to the seam on either side, seen from the ridge outward."""
        drawn, ridge = self.drawn(side), self.ridge(rows)
        right, left = self.seam(rows)
        hull = drawn.hull(rows)
        over = drawn.over(rows, hull, left, right, self.seam.foot, self._followed(side, rows, drawn, hull))
        return Halves(over.run(ridge, 1.0), over.run(ridge, -1.0))

    def _followed(self, side: str, rows: Array, drawn: Drawn, hull: Cut) -> tuple[Array, Array] | None:
        """Where the object is hollow along the draw, the leather that lies over each row by itself."""
        ends, on = drawn.toe_ends(), rows >= self.loft.tip
        hollow = on & (rows >= ends)
        if not hollow.any() or drawn.air(rows, hull)[hollow].max() < AIR:
            return None
        right, left = self.seam(rows)
        sections = self.loft.sections(rows)
        heights = (sections.front if side == "front" else sections.back) + self.plane
        heights = np.where(on[:, None], heights, 0.0)
        floor = np.full(len(rows), self.floor)
        line = of_chain(chain(
            sections.x, heights, self.clearance, np.column_stack([left, floor]), 0.0, np.column_stack([right, floor]),
            self.leather.offset,
        ))  # fmt: skip
        x = np.arange(left.min() - 3, right.max() + 3, LATTICE * self.coarse)
        level = self.floor + self.leather.offset
        return x, followed(rows, np.maximum(line.heights(x), level), ends)

    @property
    def _on(self) -> NDArray[np.bool_]:
        return self.formed_rows >= self.loft.tip - JUST / 2

    def _ends(self) -> list[tuple[Run, Array]]:
        """Every run of formed leather at the rows on the object, with the welt's inner edge it comes down to."""
        on = np.isin(self.formed_rows, self.rows)
        right, left = self.edges(self.rows)
        faces = [self.front] if self.flat_back else [self.front, self.back]
        return [(run.rows(on), x) for face in faces for run, x in ((face.right, right), (face.left, -left))]

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


def _crest(x: Array, z: Array) -> float:
    """From where leather is pressed outward: 0, or beyond it where profiles (n, m) first rise STEEPLY, their highest.

    The ball is rolled over what comes down or rises gently only.
    """
    out = x[:, 1:] > 0
    rises = np.diff(z, axis=1) > STEEPLY * np.diff(x, axis=1)
    if not (out & rises & (np.diff(x, axis=1) > 0)).any():
        return 0.0
    highest = float(x[np.unravel_index(z.argmax(), z.shape)])
    return float(np.clip(highest, 0.0, max(x[:, -1].min() - HIDDEN, 0.0)))


def plane_of(loft: Loft, rows: Array, clearance: float) -> float:
    """How far a flat back lies behind the object's middle plane, mm."""
    return float(loft.sections(rows).back.max()) + clearance


def high_end(loft: Loft, clearance: float) -> float:
    """How high an object stands over its middle plane within BLUNT of its end, with its clearance, mm."""
    seen = loft.sections(np.array([loft.tip, min(loft.tip + BLUNT, loft.top)]))
    return float(max(seen.front.max(), seen.back.max())) + clearance
