"""Claims: the rules of a seam, each as the part of the plan it wants inside the welt, and the seam they make together.

Seen from the front the welt's inner edge is the boundary of all claims, closed so that stitch and cut line can be
drawn outside it. Of every stretch it can be told which rule holds it there. Source: geometry, "a region in the plan".
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely
from shapely.affinity import affine_transform
from shapely.geometry import MultiPolygon, Polygon, box

from tailor.core import measure
from tailor.core.carried.loft import Array, Loft
from tailor.core.carried.zones import Zone, ZoneKind, of_kind
from tailor.core.draft.fitted.seam import FLOWS, LEAST_ROOM, MOST_SPARE, Standoff, Widths, easing
from tailor.core.leather.leather import Leather
from tailor.core.measure import Along, Theme
from tailor.core.reason import Reason, greatest, stated
from tailor.core.settings import Settings
from tailor.core.shell.passage import Tube, let_out
from tailor.core.shell.region import (
    ROW,
    SPAN,
    Edges,
    Region,
    Sampled,
    approach,
    areas,
    claimed,
    closed,
    sampled,
    squeezed,
    touch_down,
)
from tailor.core.shell.taut import Slope

MEASURES = (
    measure.length("fit.clearance", Theme.FIT, "clearance", "room between object and leather all round", 0, 20,
        usual=0.5, first=True, at=(Along.INNER, 0.35)),
    measure.length("seam.standoff", Theme.SHAPE, "standoff", "object to the welt's inner edge, straight across", 0.1,
        150, first=True, at=(Along.INNER, 0.12)),
    measure.ratio("fold.uneven", Theme.SHAPE, "uneven fold",
        "how much nearer to the back the seam lies: at 1 the front goes over it all, at -1 the back", -1, 1, usual=0.0,
        at=(Along.FOLD, 0.4)),
    measure.length("seam.toe", Theme.SHAPE, "toe", "tip to the welt's inner edge along the fold", 1, 150, first=True,
        at=(Along.INNER, 1.0)),
    measure.length("seam.fairing", Theme.SHAPE, "fairing", "greatest distance fairing may move a line", 0, 3,
        usual=0.12),
    measure.told("seam.faired", Theme.STITCH, "faired by"),
)  # fmt: skip

DOWN = "the moulded leather is down on the welt"
ROOM = "the welt keeps its room beside the object"
PINNED = "as far out as the maker pinned it"
TOE = {"firm": 20.0, "soft": 30.0}  # degrees: how steeply each temper comes down over an end without pleating
WIDEST_HOLLOW = 40.0  # mm: radius of the tightest hollow that a seam is given, so that it flows
ROUNDS, STILL = 6, 0.02  # tries until nothing more is let out, and mm that count as nothing
BEYOND = 60.0  # mm that the object is carried on above its mouth
EASED = 1.0  # mm between places of a seam that is eased


@dataclass(frozen=True)
class Laid:
    """What a seam is laid round.

    floor: the welt's face, over the plane that heights are measured from: `plane` behind the object's middle plane,
    where its back is flat. tube: what must pass. ball: radius that moulded leather turns into the valley with, None
    where it is taut; hollows: where alone it is moulded, None for all over; end: how far from the tip it is moulded
    wholly. fold: x of the fold of a folded sheet. step: between rows. mm.
    """

    loft: Loft
    mouth: float
    clearance: float
    welt: float
    floor: float
    plane: float
    flat_back: bool
    tube: Tube
    ball: float | None = None
    hollows: tuple[tuple[float, float], ...] | None = None
    end: float = 0.0
    fold: float | None = None
    step: float = ROW


@dataclass(frozen=True)
class Seam:
    """The seam as it is claimed. stands: the seam side's standoff, and the spine side's where that is sewn too.

    toe: its depth. angle, toe_angle: how steeply leather comes down, slope the same. radius: of the tightest hollow it
    has. pinned: the maker's own standoff. eased: how far corrections moved it at the rows it is told at, (n,), mm.
    """

    region: Region
    stands: tuple[Standoff, ...]
    toe: Reason
    angle: Reason
    toe_angle: Reason
    slope: Slope
    radius: float
    pinned: float | None
    eased: Array

    @cached_property
    def edges(self) -> Edges:
        return Edges(self.region.whole)

    def told(self, laid: Laid, rows: Array) -> Seam:
        """With its standoffs at rows (n,)."""
        inputs = {"welt": laid.welt, "angle limit": self.angle.value}
        ways = (1.0,) if laid.fold is not None else (1.0, -1.0)
        stands = tuple(_standoff(laid.loft, self.region, rows, way, inputs, self.pinned, self.eased) for way in ways)
        return replace(self, stands=stands)

    def let_out(self, laid: Laid, rows: Array, further: Array) -> Seam:
        """Let out further on the seam side at rows (n,), so that its flat line flows; as it is where it is pinned."""
        if self.pinned is not None:
            return self
        y = np.append(rows, laid.mouth + BEYOND)
        right, left = (np.append(side, side[-1]) for side in self.edges(rows))
        more = np.where(np.append(further, further[-1]) > 0, 0.0, np.nan)
        out = right + np.append(further, further[-1])
        claim = claimed(np.column_stack([left, out]), y, np.column_stack([more, more]))
        whole = _closed([self.region.whole, claim], self.radius, laid)
        region = Region(whole, {**self.region.claims, FLOWS: claim})
        return replace(self, region=region).told(laid, rows)


def angles(settings: Settings, leather: Leather) -> tuple[Reason, Reason]:
    """Steepest angle at the sides, and at the toe, degrees."""
    temper = leather.temper
    side = settings.settled(stated("fit.approach", leather.approach, "°", f"as steep as {temper} leather comes down"))
    toe = stated("fit.toe", min(TOE[temper], side.value), "°", f"over an end {temper} leather comes down more gently")
    return side, settings.settled(toe)


def seam_of(
    settings: Settings, laid: Laid, zones: Sequence[Zone], rows: Array, width: Widths, angle: tuple[Reason, Reason],
    sharp: bool,
) -> Seam:  # fmt: skip
    """The seam round an object. rows: (n,) at which it is told why. sharp: what is not marked counts as an edge."""
    side, toe = angle
    slope = Slope(float(np.radians(side.value)), squeezed(np.radians(side.value), np.radians(toe.value)))
    ends = [end for z in zones for end in (z.low, z.high)]
    seen = sampled(laid.loft, laid.mouth, BEYOND, laid.step, ends)
    rules = _rules(settings, laid, zones, seen, side.value, toe.value, slope, sharp)
    pinned = settings.number("seam.standoff") if "seam.standoff" in settings else None
    radius = max(width.inset.value + width.margin.value + MOST_SPARE, WIDEST_HOLLOW)
    natural = _closed(list(rules.values()), radius, laid)
    if pinned is not None:
        rules = {PINNED: _across(seen, natural, laid.loft.tip, pinned)}
        whole = _closed(list(rules.values()), radius, laid)
    else:
        whole, more = _let_out(natural, laid, radius)
        rules |= more
    eased = easing(settings, rows)
    if eased.any():
        whole = _closed([_eased(whole, laid, eased, rows)], radius, laid)
    whole, depth = _toed(settings, whole, natural if pinned is not None else whole, rules, laid)
    seam = Seam(Region(whole, rules), (), depth, side, toe, slope, radius, pinned, eased)
    return seam.told(laid, rows)


def _rules(
    settings: Settings, laid: Laid, zones: Sequence[Zone], seen: Sampled, side: float, toe: float, slope: Slope,
    sharp: bool,
) -> dict[str, Polygon | MultiPolygon]:  # fmt: skip
    """What each rule claims."""
    front = seen.height + laid.plane
    height = front if laid.flat_back else np.maximum(front, seen.back)
    y, x = seen.y, seen.x
    edge, point = settings.number("fit.edge"), settings.number("fit.point")
    marked = of_kind(zones, ZoneKind.EDGE), of_kind(zones, ZoneKind.POINT)
    edges = [(z.low, z.high) for z in marked[0]]
    if sharp and not any(marked):
        edges = [(laid.loft.tip, laid.loft.top)]
    found = {
        f"the welt keeps {edge:g} mm from the edge": claimed(x, y, _along(seen, edges, edge)),
        f"the welt keeps {point:g} mm from the point": claimed(
            x, y, _along(seen, [(z.low, z.high) for z in marked[1]], point)
        ),
        ROOM: claimed(x, y, np.full(x.shape, max(laid.clearance, settings.habit(LEAST_ROOM)))),
    }
    gently = np.ones(len(y), dtype=bool)
    if laid.ball is not None:
        pressed = y >= laid.loft.tip + laid.end / 2
        if laid.hollows is not None:
            pressed = np.zeros(len(y), dtype=bool)
            for low, high in laid.hollows:
                pressed |= (y >= low) & (y <= high)
        gently = ~pressed | (y <= laid.loft.tip + laid.end) & (laid.end > 0)
        down = touch_down(height, laid.clearance, laid.floor, laid.ball)
        found[DOWN] = claimed(x, y, np.where(pressed[:, None], down, np.nan))
    if gently.any():
        reach = approach(height, laid.clearance, laid.floor, slope.angle)
        rule = f"the leather comes down no steeper than {side:g}°, and {toe:g}° at the toe"
        found[rule] = claimed(x, y, np.where(gently[:, None], reach, np.nan), slope.squeeze)
    return {rule: part for rule, part in found.items() if not part.is_empty}


def _across(seen: Sampled, natural: Polygon, tip: float, out: float) -> Polygon | MultiPolygon:
    """As far out as the maker pinned it, straight across on every row; its toe is what it would be, no wider."""
    ends = np.column_stack([seen.x[:, 0] - out, seen.x[:, -1] + out])
    beside = claimed(ends, seen.y, np.zeros(ends.shape))
    toe = natural.intersection(box(float(ends[0, 0]), -SPAN, float(ends[0, 1]), tip + 1e-6))
    return areas(shapely.union_all([beside, toe]))


def _along(seen: Sampled, stretches: Sequence[tuple[float, float]], room: float) -> Array:
    """Radius of room along stretches of y, (n, k), nan elsewhere; at least the nearest row of each."""
    there = np.zeros(len(seen.y), dtype=bool)
    for low, high in stretches:
        inside = (seen.y >= low - 1e-9) & (seen.y <= high + 1e-9)
        if not inside.any():
            inside[np.abs(seen.y - low).argmin()] = True
        there |= inside
    return np.where(there[:, None], np.full(seen.x.shape, room), np.nan)


def _closed(parts: list[Polygon | MultiPolygon], radius: float, laid: Laid) -> Polygon:
    """The parts closed; of a folded sheet with their mirror image beyond the fold, the toe level from its foot in."""
    if laid.fold is None:
        return closed(parts, radius)
    mirror = [affine_transform(p, [-1, 0, 0, 1, 2 * laid.fold, 0]) for p in parts]
    whole = areas(shapely.union_all([*parts, *mirror]))
    low_right = _lowest(whole, laid.fold)
    level = box(2 * laid.fold - low_right[0], low_right[1], low_right[0], laid.mouth)
    return closed([whole, level], radius)


def _lowest(region: Polygon | MultiPolygon, right_of: float) -> tuple[float, float]:
    """The lowest place of a region to the right of a line, furthest out."""
    ring = shapely.get_coordinates(region)
    ring = ring[ring[:, 0] >= right_of - 1e-9]
    low = ring[:, 1].min()
    return float(ring[ring[:, 1] < low + 1e-3, 0].max()), float(low)


def _let_out(whole: Polygon, laid: Laid, radius: float) -> tuple[Polygon, dict[str, Polygon | MultiPolygon]]:
    """The region let out for what must pass on its way out, row by row until nothing moves; and what that claims."""
    found: dict[str, Polygon | MultiPolygon] = {}
    tube = laid.tube
    for _ in range(ROUNDS):
        right, left = Edges(whole)(tube.rows)
        further = let_out(tube, left, right)
        if further.max() < STILL:
            break
        k = int(further.argmax())
        rule = f"let out so that the part at {tube.passing[k]:.0f} mm passes"
        more = further > 0
        y = np.append(tube.rows, laid.mouth + BEYOND)
        out = np.append(further, further[-1])
        ends = np.stack(
            [np.append(left, left[-1]) - (0 if laid.fold is not None else out), np.append(right, right[-1]) + out],
            axis=1,
        )
        wide = np.append(more, more[-1])
        claim = claimed(ends, y, np.where(wide[:, None], 0.0, np.nan) + np.zeros(ends.shape))
        rule = next(iter(found), rule)
        found[rule] = areas(shapely.union_all([claim, *found.values()]))
        whole = _closed([whole, claim], radius, laid)
    return whole, found


def _eased(whole: Polygon, laid: Laid, eased: Array, rows: Array) -> Polygon:
    """The seam moved out, or in, at the rows that corrections speak of: on both sides where both are sewn."""
    ring = shapely.get_coordinates(shapely.segmentize(shapely.get_exterior_ring(whole), EASED))
    right, left = Edges(whole)(ring[:, 1])
    middle = (right + left) / 2 if laid.fold is None else np.full(len(ring), laid.fold)
    by = np.interp(ring[:, 1], rows, eased) * np.sign(ring[:, 0] - middle)
    return Polygon(ring + np.column_stack([by, np.zeros(len(ring))])).buffer(0)


def _toed(
    settings: Settings, whole: Polygon, natural: Polygon, rules: dict[str, Polygon | MultiPolygon], laid: Laid
) -> tuple[Polygon, Reason]:
    """The region with its toe as deep as it is settled, and why."""
    tip = laid.loft.tip
    asked = {rule: tip - float(part.bounds[1]) for rule, part in rules.items()}
    depth = tip - float(natural.bounds[1])
    said = greatest(
        "seam.toe", "mm", asked, {"thickness at the tip": laid.loft.stations[0].thickness, "welt": laid.welt}
    )
    settled = settings.settled(replace(said, value=depth))
    now = tip - float(whole.bounds[1])
    if abs(settled.value - now) < 1e-6 or now <= 0:
        return whole, settled
    by = settled.value / now
    below, above = whole.intersection(box(-SPAN, -SPAN, SPAN, tip)), whole.intersection(box(-SPAN, tip, SPAN, SPAN))
    moved = affine_transform(below, [1, 0, 0, by, 0, tip * (1 - by)])
    joined = shapely.union_all([shapely.buffer(moved, 1e-6), shapely.buffer(above, 1e-6)])
    return Polygon(max(shapely.get_parts(joined), key=lambda p: p.area).exterior), settled


def _standoff(
    loft: Loft,
    region: Region,
    rows: Array,
    way: float,
    inputs: dict[str, float],
    pinned: float | None,
    eased: Array,
) -> Standoff:
    """One side's standoff, the spine side's as if mirrored: what every rule asks for at each row."""

    def out(part: Polygon | MultiPolygon) -> Array:
        x = np.full(len(rows), -np.inf)
        for piece in shapely.get_parts(part):
            low, high = piece.bounds[1], piece.bounds[3]
            on = (rows >= low) & (rows <= high)
            if on.any() and isinstance(piece, Polygon) and piece.area > 0:
                right, left = Edges(piece)(rows[on])
                x[on] = np.maximum(x[on], right if way > 0 else -left)
        return x

    size = loft.sizes(rows)
    x_seam = size[:, 0] + size[:, 1] if way > 0 else -size[:, 0]
    wanted = np.vstack([out(part) for part in region.claims.values()])
    x_welt = out(region.whole)
    spare = np.maximum(x_welt - wanted.max(axis=0) - eased, 0.0)
    return Standoff(rows, x_seam, x_welt, tuple(region.claims), wanted, spare, eased, inputs, pinned)
