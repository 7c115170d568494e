"""Two-sided cases: two panels with a welt all round, or a front over a flat back. Taut or moulded.

Taut panels are cut and pierced flat, from the flattening. Moulded ones are cut as blanks, pressed, dried, and only
then marked and pierced by a template, which lies true on the dried flange as the welt does.
"""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
from shapely.geometry import box

from tailor.core import habit, measure
from tailor.core.carried.loft import Array, Loft
from tailor.core.carried.zones import Zone, ZoneKind, of_kind
from tailor.core.draft.draft import ROUGH, AtStation, Fitted, Lying, Plan
from tailor.core.draft.fitted.claims import Laid, angles, seam_of
from tailor.core.draft.fitted.lying import laid_out
from tailor.core.draft.fitted.mouth import mouth_height, relief_depth
from tailor.core.draft.fitted.ring import Ring, anchors, below, brim, ring, sheet, strip
from tailor.core.draft.fitted.seam import (
    Standoff,
    Widths,
    seam_half,
    seam_stack,
    welt_layers,
    widths,
)
from tailor.core.draft.folded.body import GLUE_BACK, Side
from tailor.core.draft.piece import Piece, Role, Rule, punched, title
from tailor.core.draft.stitch.holes import Edge, holed
from tailor.core.draft.stitch.offset import offset
from tailor.core.draft.stitch.sewn import even_stack, seam_said, sewn, stitching_of
from tailor.core.draft.stuff import TooSteepError, beyond_bearing, leather_of, moulding_of
from tailor.core.draft.style import Order
from tailor.core.draft.worn.carry import LANDINGS
from tailor.core.draft.worn.hang import thing
from tailor.core.draft.worn.round import STANDS, standing
from tailor.core.fairing import Line, flowed, spaced
from tailor.core.leather.leather import Leather
from tailor.core.leather.moulding import EVERYWHERE, GENTLEST, TAUT
from tailor.core.leather.stack import Stack
from tailor.core.measure import STYLE, Along, Theme
from tailor.core.reason import Reason, greatest, stated
from tailor.core.settings import Settings
from tailor.core.shell.formed import Formed
from tailor.core.shell.panel import covered_rows
from tailor.core.shell.passage import tube
from tailor.core.shell.region import ROW, Edges
from tailor.core.shell.ridge import ridge_of
from tailor.core.shell.taut import Slope
from tailor.core.shell.two_sided import STEP, TwoSided, high_end, plane_of


def _has_back(job: Any, made: Any) -> bool:
    return any(piece.name == "back" for piece in made.pieces)


MEASURES = (
    measure.length("back.above", Theme.SHAPE, "back above", "how far the back stands above the front's mouth", 0, 80,
        usual=0.0, first=True, at=(Along.MOUTH, 0.7)),
    measure.length("back.tab", Theme.SHAPE, "thumb tab",
        "height of a tab on the back above the mouth, for the thumb; 0 for none", 0, 60, usual=0.0,
        at=(Along.MOUTH, 0.8), applies=_has_back),
)  # fmt: skip

MAIN = "main"
HOLD = habit.bench("mould.holds", 5.0, 3, 20, "of form margin to hold a blank by, at the least")
DRAWN = habit.stuff(
    "mould.drawn", 0.25, 0.1, 0.6, "of how far the edge travels, that the blank is left larger by", habit.SHARE
)
CARD = 0.4  # mm
EASINGS = 41  # ways that are tried to let the end of a row go
UNKNOWN = Edges(box(-1, -1, 1, 1))  # until it is known where the welt lies


def draft(order: Order, flat_back: bool, mouth: Reason | None = None, to_thread: float = 0.0) -> Fitted:
    """A two-sided case for the loft. Raises InputError where the measures cannot make one.

    mouth: its height, where the construction knows it. to_thread: least from an edge to the thread, mm.
    """
    try:
        return _drawn(order, flat_back, mouth, to_thread, False)
    except TooSteepError:
        if order.settings.word("mould.method") == TAUT or "mould.end" in order.settings:
            raise
        with suppress(TooSteepError):  # nor does it help to stop short of the end: the first is told
            return _drawn(order, flat_back, mouth, to_thread, True)
        raise


def _drawn(order: Order, flat_back: bool, mouth: Reason | None, to_thread: float, blunt: bool) -> Fitted:
    """As `draft`. blunt: no leather is pressed over its end."""
    settings, loft, zones, rough = order.settings, order.loft, order.zones, order.rough
    known = () if order.before is None else order.before.formed
    number = settings.number
    leather = leather_of(settings)
    mouth = mouth or mouth_height(settings, loft, zones)
    rows = covered_rows(loft, mouth.value, STEP)
    layer, layers = _welt_layers(settings, leather, loft, rows, zones, flat_back)
    stack = seam_stack(leather, layer.value, int(layers.value))
    height = layer.value * layers.value
    width = widths(settings, stack, to_thread)
    angle = angles(settings, leather)
    hollows = tuple((z.low, z.high) for z in of_kind(zones, ZoneKind.HOLLOW))
    clearance = number("fit.clearance")
    plane = plane_of(loft, rows, clearance) if flat_back else 0.0
    floor = height if flat_back else height / 2
    moulding, said = moulding_of(settings, leather, high_end(loft, clearance) + plane - floor, blunt=blunt)
    bare = TwoSided(
        loft, leather, moulding, clearance, height, mouth.value, ridge_of(loft, rows), UNKNOWN,
        Slope(0.5), hollows, flat_back, coarse=ROUGH if rough else 1,
    )  # fmt: skip
    if all_over := not moulding.taut and moulding.where == EVERYWHERE and moulding.end == 0:
        bare = replace(bare, pressed=bare.press())
    middle = height / 2 - plane if flat_back else 0.0
    through = tube(loft, rows, clearance, height, middle, hollows, formed=bare.between if all_over else None)
    laid = Laid(
        loft, mouth.value, clearance, height, floor, plane, flat_back, through,
        None if moulding.taut else bare.ball, hollows if moulding.where != EVERYWHERE else None, moulding.end,
        step=ROW * bare.coarse,
    )  # fmt: skip
    sewn_on = seam_of(settings, laid, zones, rows, width, angle, order.sharp)
    stands = sewn_on.stands
    inset, margin = width.inset.value, width.margin.value
    back_up = _back_up(settings)
    how = stitching_of(settings, leather, ends=2)
    first = settings.settled(
        Reason("seam.first_hole", margin, "mm", "one margin in from the mouth", {"margin": margin})
    )
    case = replace(bare, seam=sewn_on.edges, slope=sewn_on.slope)
    lines = ring(sewn_on.region.whole, width, mouth.value, first.value, how.pitch.value, how.odd)
    panels = case.panels(lines.cut_edges, lines.foot + 0.6, known)
    deep = float((loft.sections(rows).front + plane).max())
    cannot = f"{deep:.0f} mm is too deep to be {'drawn over' if moulding.taut else 'moulded'}"
    beyond_bearing(settings, panels, lambda y: cannot, _serves(flat_back, moulding.method))
    spread = float(np.ptp(lines.inner.points[[0, -1], 0]))
    relief = relief_depth(settings, mouth.value, spread, zones)
    made = _Cut(settings, case, lines, width, leather, how.hole.value, stack, layer.value, int(layers.value),
        relief.value, panels, back_up.value)  # fmt: skip
    pieces, front, back, more = made.pieces()
    profile = even_stack(stack, front.holes)
    names = tuple(p.name for p in pieces if p.holes)
    seam = sewn(MAIN, names, ("front", "welt", "back"), front.holes, profile, how, first.value, how.wrapped)
    faired = max(front.line.deviation, back.line.deviation)
    reasons = (
        mouth, relief, layer, layers, width.width, width.inset, width.margin, *angle, *said,
        max((s.reason() for s in stands), key=lambda r: r.value), sewn_on.toe, first, *more, back_up,
        *seam_said(seam, how, profile, leather, height, faired, number("seam.fairing")), *thing(settings, loft)[1],
    )  # fmt: skip
    seen = _plan(lines, relief.value)
    drawn = Fitted(pieces=pieces, seams=(seam,), rows=_rows(case, stands[0], inset, mouth.value),
        reasons={r.name: r for r in reasons}, leather=leather, shell=case, stack=stack, standoffs=stands,
        front=front, back=back,
        inner=lines.inner if front.line is lines.stitch else Line(spaced(panels[0].to_flat(lines.inner.points))),
        plan=seen, loop=None, tab=None, formed=panels, lying=_standing(seen, mouth.value, back_up.value),
        profile=profile, rough=rough)  # fmt: skip
    return laid_out(drawn)


def _serves(flat_back: bool, method: str) -> dict[str, tuple[str, str]]:
    """What goes where leather formed so does not, and what is typed for it."""
    shared = {"share it between two panels": (STYLE, "two-panel")} if flat_back else {}
    looser = {} if method in (TAUT, GENTLEST) else {"press it with the fingers alone": ("mould.method", GENTLEST)}
    drawn = {} if method == TAUT else {"draw it taut": ("mould.method", TAUT)}
    return {**looser, **shared, **drawn, "make a gusseted box": (STYLE, "gusseted-box")}


def _welt_layers(
    settings: Settings, leather: Leather, loft: Loft, rows: Array, zones: Sequence[Zone], flat_back: bool
) -> tuple[Reason, Reason]:
    """As many layers as keep a sharp object between two panels free of pinch; else one that they come down to."""
    if of_kind(zones, ZoneKind.EDGE, ZoneKind.POINT) and not flat_back:
        return welt_layers(settings, leather, zones, True, *seam_half(loft, rows, zones))
    layer = settings.settled(stated("welt.thickness", leather.thickness, "mm", "welts are cut from the body leather"))
    rule = "the front comes down to it by itself" if flat_back else "the panels come down to it by themselves"
    return layer, settings.settled(stated("welt.layers", 1.0, "count", f"one is enough: {rule}"))


def _rows(case: TwoSided, stand: Standoff, inset: float, mouth: float) -> tuple[AtStation, ...]:
    """What the wrap gives at the measured stations, on the seam side."""
    known = case.loft.at_stations(high=mouth)
    at = np.searchsorted(stand.rows, known)
    x_stitch = stand.x_welt[at] + inset
    on = np.abs(case.formed_rows[None, :] - known[:, None]).argmin(axis=1)
    paths = []
    for side in ("front", "back"):
        face = case.front if side == "front" else case.back
        paths.append(face.right.rows(on).length_to(x_stitch))
    columns = np.column_stack([known, stand.distance[at], stand.x_welt[at], x_stitch, *paths])
    return tuple(AtStation(*map(float, row)) for row in columns)


def _plan(lines: Ring, relief: float) -> Plan:
    level = np.array([[-1e3, lines.mouth], [1e3, lines.mouth]])
    right, left = lines.inner_at_mouth
    edge = np.vstack([level[:1], brim(lines.mouth, left, right, relief), level[1:]])
    strip_ = below((lines.cut.points, lines.inner.points), level, "welt")
    inner, stitch, cut = (_up_to(line.points, lines.mouth) for line in (lines.inner, lines.stitch, lines.cut))
    mouth_line = np.vstack([cut[-1:], brim(lines.mouth, left, right, relief), cut[:1]])
    return Plan(inner, stitch, cut, mouth_line, below((lines.cut.points, None), edge, "front"), strip_)


def _standing(seen: Plan, mouth: float, above: float) -> tuple[Lying, ...]:
    """The back where it stands above the front, seen from the front."""
    if above <= 0:
        return ()
    (left, _), (right, _) = seen.cut[-1], seen.cut[0]
    ring = np.array([(left, mouth), (right, mouth), (right, mouth + above), (left, mouth + above)])
    return (Lying("back above the mouth", ring, True),)


def _eased(off: Array) -> float:
    """By how much the end of a row is moved so that none of its holes lies further from its fellow than must be.

    off: how far along each is beyond its own, from the one that stays to the end, (n,), mm.
    """
    share, most = np.linspace(0.0, 1.0, len(off)), float(np.abs(off).max())
    by = np.linspace(-most, most, EASINGS)
    return float(by[np.abs(off + by[:, None] * share).max(axis=1).argmin()])


def _back_up(settings: Settings) -> Reason:
    """How far the back stands above the front's mouth."""
    own, stands = settings.number("back.above"), standing(settings)
    if stands <= own or "back.above" in settings or settings.word("loop.landing") in LANDINGS:
        return settings.settled(stated("back.above", own, "mm", "level unless asked for"))
    return stated("back.above", stands, "mm", STANDS)


def _up_to(points: Array, mouth: float) -> Array:
    """The part of a line that begins and ends above the mouth which lies below it, its ends level with it."""
    inside = np.flatnonzero(points[:, 1] < mouth)
    first, last = int(inside[0]), int(inside[-1])
    ends = []
    for a, b in ((points[first - 1], points[first]), (points[last + 1], points[last])):
        ends.append(b + (a - b) * (mouth - b[1]) / (a[1] - b[1]))
    return np.vstack([ends[:1], points[first : last + 1], ends[1:]])


@dataclass(frozen=True)
class _Cut:
    """What the pieces are cut from."""

    settings: Settings
    case: TwoSided
    lines: Ring
    width: Widths
    leather: Leather
    hole: float
    stack: Stack
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
        rules = (Rule("welt", panel.to_flat(_up_to(self.lines.inner.points, self.lines.mouth))), Rule("glue",
            panel.to_flat(self._glued)))  # fmt: skip
        return sheet(
            panel.side, (), self.leather.thickness, cut, side.line, side.holes, MAIN, panel.side,
            self.hole, rules, turned,
        )  # fmt: skip

    @cached_property
    def _glued(self) -> Array:
        """Where the glue stops, seen from the front below the mouth: just outside the welt's inner edge, (n, 2)."""
        return _up_to(self.lines.moved(self.settings.habit(GLUE_BACK) * self.width.inset.value), self.lines.mouth)

    def _back(self, true: Side) -> Piece:
        """A flat back, cut from the lines seen from the front."""
        level = np.array([[-1e3, self.lines.mouth + self.above], [1e3, self.lines.mouth + self.above]])
        rules = Rule("welt", _up_to(self.lines.inner.points, self.lines.mouth)), Rule("glue", self._glued)
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
        inner, edge = (_up_to(line.points, self.lines.mouth) for line in (self.lines.inner, self.lines.cut))
        return cut, panel.to_flat(inner), panel.to_flat(edge)

    def _form_margin(self) -> Reason:
        """How much larger a blank is left, from how far its edge travels in while it is pressed."""
        edge = _up_to(self.lines.cut.points, self.lines.mouth)
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
