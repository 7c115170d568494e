"""Panels cut: the pieces of a two-sided case, from its flattened panels and its lines as seen from the front."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from tailor.core import habit
from tailor.core.carried.loft import Array
from tailor.core.draft.fitted.ring import Ring, anchors, below, brim, sheet, strip
from tailor.core.draft.fitted.seam import Widths
from tailor.core.draft.folded.body import GLUE_BACK, Side
from tailor.core.draft.piece import Piece, Role, Rule, punched, title
from tailor.core.draft.stitch.holes import Edge, holed
from tailor.core.draft.stitch.offset import offset
from tailor.core.fairing import Line, flowed, spaced
from tailor.core.leather.leather import Leather
from tailor.core.reason import Reason, greatest
from tailor.core.settings import Settings
from tailor.core.shell.formed import Formed
from tailor.core.shell.two_sided import TwoSided

MAIN = "main"
HOLD = habit.bench("mould.holds", 5.0, 3, 20, "of form margin to hold a blank by, at the least")
DRAWN = habit.stuff(
    "mould.drawn", 0.25, 0.1, 0.6, "of how far the edge travels, that the blank is left larger by", habit.SHARE
)
CARD = 0.4  # mm
EASINGS = 41  # ways that are tried to let the end of a row go


@dataclass(frozen=True)
class Cut:
    """What the pieces are cut from. hole: diameter of the awl's holes. layer, layers: of its welts. relief: depth of
    the scoop in its mouth. above: how far the back stands over that. mm.
    """

    settings: Settings
    case: TwoSided
    lines: Ring
    width: Widths
    leather: Leather
    hole: float
    layer: float
    layers: int
    relief: float
    panels: tuple[Formed, ...]
    above: float

    def pieces(self) -> tuple[tuple[Piece, ...], Side, Side, tuple[Reason, ...]]:
        """The pieces, the lines and holes of front and back as they are pierced, and further reasons."""
        flat_back, taut = self.case.flat_back, self.case.moulding.taut
        margin = self.width.margin.value
        true = Side(self.lines.stitch, self.lines.holes, self.lines.cut.points)
        proud, hole = self.settings.number("welt.proud"), self.hole
        outer, trim = self.width.outer(proud)
        welts = strip(
            self.lines, "welt", self.layers, "welt", self.layer, outer, trim,
            punched(MAIN, "welt", self.lines.holes.points, hole),
            f"{title('welt', self.layers, self.layer)} · grain side up",
        )  # fmt: skip
        if taut:
            front = self._flat_side(self.panels[0])
            back = true if flat_back else front if self._alike else self._flat_side(self.panels[-1])
            pieces = [self._panel(self.panels[0], front), welts, self._back(true) if flat_back else
                      self._panel(self.panels[1], back)]  # fmt: skip
            return tuple(pieces), front, back, ()
        form = self._form_margin()
        blanks = self._blanks(form.value)
        template = strip(
            self.lines, "template", 1, "card", CARD, margin, None,
            punched(MAIN, "front", self.lines.holes.points, hole),
            "Template · lay on when dry" + ("" if flat_back else ", turn for the back"),
        )  # fmt: skip
        template = replace(template, rules=(*template.rules, Rule("glue", self._glued)))
        if flat_back:
            return (blanks[0], template, welts, self._back(true)), true, true, (form,)
        template = replace(template, holes=(*template.holes, *punched(MAIN, "back", self.lines.holes.points, hole)))
        return (*blanks, template, welts), true, true, (form,)

    def _flat_side(self, panel: Formed) -> Side:
        """Where a taut panel is sewn, flat: its stitch line faired, holes in step with the welt's, and its cut line."""
        stitch = self.lines.stitch
        points, moved = flowed(spaced(panel.to_flat(stitch.points)), self.settings.number("seam.fairing"))
        line = Line(points, moved)
        ends = panel.to_flat(stitch(np.array([self.lines.holes.at[k] for k in (0, -1)])))
        low = anchors(stitch, self.lines.mouth)[1]
        foot = panel.to_flat(stitch(np.array([low])))
        first, middle, last = (_nearest(line, p) for p in (ends[0], foot[0], ends[1]))
        count = int(np.searchsorted(self.lines.holes.at, low + 1e-6)) - 1
        counts = count, len(self.lines.holes.at) - 1 - count
        holes = holed(Edge(line, (first, middle, last)), counts)
        off = holes.at - line.nearest(panel.to_flat(self.lines.holes.points))
        first += _eased(off[: count + 1][::-1])
        last += _eased(off[count:])
        return Side(line, holed(Edge(line, (first, middle, last)), counts), offset(line, self.width.margin.value))

    def _edge(self, panel: Formed, relief: float, up: float = 0.0) -> Array:
        """The mouth's edge on a flat panel, from left to right, `up` mm above the mouth, (n, 2)."""
        right, left = (float(v[0]) for v in self.lines.cut_edges(np.array([self.lines.mouth])))
        inner = self.lines.inner_at_mouth
        edge = brim(self.lines.mouth, inner[1], inner[0], relief)
        whole = np.vstack([[left, self.lines.mouth], edge, [right, self.lines.mouth]])
        flat = panel.to_flat(whole)
        return np.asarray(flat + np.array([0.0, up]))

    def _panel(self, panel: Formed, side: Side) -> Piece:
        turned = panel.side == "back"
        edge = self._edge(panel, 0.0, self.above) if turned else self._edge(panel, self.relief)
        cut = below((side.cut, None), edge, panel.side)
        rules = (Rule("welt", panel.to_flat(up_to(self.lines.inner.points, self.lines.mouth))), Rule("glue",
            panel.to_flat(self._glued)))  # fmt: skip
        return sheet(
            panel.side, (), self.leather.thickness, cut, side.line, side.holes, MAIN, panel.side,
            self.hole, rules, turned,
        )  # fmt: skip

    @cached_property
    def _glued(self) -> Array:
        """Where the glue stops, seen from the front below the mouth: just outside the welt's inner edge, (n, 2)."""
        return up_to(self.lines.moved(self.settings.habit(GLUE_BACK) * self.width.inset.value), self.lines.mouth)

    def _back(self, true: Side) -> Piece:
        """A flat back, cut from the lines seen from the front."""
        level = np.array([[-1e3, self.lines.mouth + self.above], [1e3, self.lines.mouth + self.above]])
        rules = Rule("welt", up_to(self.lines.inner.points, self.lines.mouth)), Rule("glue", self._glued)
        return sheet(
            "back", (), self.leather.thickness, below((true.cut, None), level, "back"), true.line, true.holes, MAIN,
            "back", self.hole, rules, turned=True,
        )  # fmt: skip

    def _blanks(self, form: float) -> list[Piece]:
        """The panels to be moulded; a back like its front has the same lines."""
        lines = [self._blank_lines(panel, form) for panel in self._unlike]
        return [self._blank(panel, lines[-1 if panel.side == "back" else 0]) for panel in self.panels]

    @property
    def _unlike(self) -> tuple[Formed, ...]:
        """The panels that are cut unlike each other: one where the back is like the front."""
        return self.panels[:1] if self._alike and not self.above else self.panels

    @property
    def _alike(self) -> bool:
        return self.panels[0].sheet is self.panels[-1].sheet

    def _blank(self, panel: Formed, lines: tuple[Array, Array, Array]) -> Piece:
        """A panel to be moulded: its flat outline with the form margin all round, and where its mouth will be."""
        cut, known, after = lines
        turned = panel.side == "back"
        mouth = self._edge(panel, 0.0, self.above) if turned else self._edge(panel, self.relief)
        return sheet(
            f"{panel.side} blank", ("cut before moulding", "trim by the template", "when it is dry"),
            self.leather.thickness, cut, None, None, MAIN, panel.side, 0.0,
            (Rule("welt", known), Rule("trim", after), Rule("mouth", mouth)), turned, Role.BLANK,
        )  # fmt: skip

    def _blank_lines(self, panel: Formed, form: float) -> tuple[Array, Array, Array]:
        """A blank's cut line, and where the welt's inner edge and the cut edge will come to lie on it."""
        points, _ = flowed(spaced(panel.to_flat(self.lines.stitch.points)), self.settings.number("seam.fairing"))
        outline = offset(Line(points), self.width.margin.value + form)
        up = form + (self.above if panel.side == "back" else 0.0)
        cut = below((outline, None), self._edge(panel, 0.0, up), panel.side)
        inner, edge = (up_to(line.points, self.lines.mouth) for line in (self.lines.inner, self.lines.cut))
        return cut, panel.to_flat(inner), panel.to_flat(edge)

    def _form_margin(self) -> Reason:
        """How much larger a blank is left, from how far its edge travels in while it is pressed."""
        edge = up_to(self.lines.cut.points, self.lines.mouth)
        ridge = np.array([float(self.case.ridge(np.array([self.lines.mouth]))[0]), 0.0])
        travel = max(float(np.hypot(*(p.to_flat(edge) - (edge - ridge)).T).max()) for p in self._unlike)
        drawn, holds = self.settings.habit(DRAWN), self.settings.habit(HOLD)
        return self.settings.settled(
            greatest(
                "mould.margin", "mm",
                {"its share of how far the edge is drawn in": drawn * travel, "enough to hold the blank by": holds},
                {"the edge is drawn in by": travel},
            )
        )  # fmt: skip


def _nearest(line: Line, point: Array) -> float:
    """Length along a line at which it comes nearest to a point."""
    low, high = 0.0, line.length
    for _ in range(4):
        s = np.linspace(low, high, len(line.points) if low == 0.0 else 65)
        k = int(np.hypot(*(line(s) - point).T).argmin())
        low, high = float(s[max(k - 1, 0)]), float(s[min(k + 1, len(s) - 1)])
    return (low + high) / 2


def _eased(off: Array) -> float:
    """By how much the end of a row is moved so that none of its holes lies further from its fellow than must be.

    off: how far along each is beyond its own, from the one that stays to the end, (n,), mm.
    """
    share, most = np.linspace(0.0, 1.0, len(off)), float(np.abs(off).max())
    by = np.linspace(-most, most, EASINGS)
    return float(by[np.abs(off + by[:, None] * share).max(axis=1).argmin()])


def up_to(points: Array, mouth: float) -> Array:
    """The part of a line that begins and ends above the mouth which lies below it, its ends level with it."""
    inside = np.flatnonzero(points[:, 1] < mouth)
    first, last = int(inside[0]), int(inside[-1])
    ends = []
    for a, b in ((points[first - 1], points[first]), (points[last + 1], points[last])):
        ends.append(b + (a - b) * (mouth - b[1]) / (a[1] - b[1]))
    return np.vstack([ends[:1], points[first : last + 1], ends[1:]])
