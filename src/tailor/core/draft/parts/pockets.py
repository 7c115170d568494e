"""Pockets that are sewn on: plain, puckered, with bellows, with a gusset; and the flap over one.

A puckered pocket is wider at its top than at its base and is sewn on with its sides parallel, so it stands open. A
bellows pocket has a pleat down either side, which begins at nothing at its foot: it opens as a book does. Both turn
about the upper end of the corner of their seam, so that their sides are as long as the seat's. A gusseted one has a
strip of its own round three sides. Source: craft, "Numbers that makers carry in their heads".
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from tailor.core import habit
from tailor.core.carried.loft import Array
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.gusset import FLAT, OUT, ROUND, corner_for, gusset, turned
from tailor.core.draft.parts.wanted import BRIM, CORNER, SEAT, Addition, Button, Sewing, Wanted, finished
from tailor.core.draft.piece import Fitting, Rule, panel
from tailor.core.draft.stitch.holes import Edge
from tailor.core.draft.worn.strips import buttoned
from tailor.core.errors import InputError
from tailor.core.fairing import Line
from tailor.core.placed import path
from tailor.core.placed.fanned import Fan
from tailor.core.placed.held import Shut
from tailor.core.placed.lies import FRONT, Bent, Lie, flat_at
from tailor.core.placed.path import LANDS, rounded

NONE, PLAIN = "none", "plain"
COLLAR = habit.bench("pocket.collar", 2.0, 1, 8, "from a pocket's brim to the flap above it")
PLACES = 25  # down the middle of a pocket, that its flap is laid over
COMES_DOWN = habit.eye("pocket.comes_down", 0.4, 0.2, 0.8, "of a pocket, that its flap covers", habit.SHARE)
LIFTED = np.radians(35.0)  # out from its seat, of a flap that is lifted
SHORT_OF = 1.5  # mm from a hole to the end of a slit beside it
MEETS = 0.9  # of half a pocket's width, that a pleat may reach in
CLOSE = 1e-9
OPENS = 0.9  # of as far as its pleats let it, that a pocket stands open at the most
STEEPEST = np.radians(30.0)  # that a pleat may lean away from its pocket's side


def u_line(w: Wanted, half: float, low: float, high: float, radius: float) -> Edge:
    """A line down one side, along the foot and up the other, first hole just below the brim."""
    brim = w.habit(BRIM) * w.margin
    line, corners = paths.bent([(-half, high), (-half, low), (half, low), (half, high)], radius)
    return Edge(line, (brim, *corners, line.length - brim))


def rounding(w: Wanted, half: float, low: float, high: float) -> float:
    return min(w.habit(CORNER), 0.4 * half, 0.4 * (high - low))


def _pocket(
    w: Wanted, outline: Array, own: Edge, seat: Edge, lie: Lie | None, folds: tuple[Array, ...] = (),
    rules: tuple[Rule, ...] = (),
) -> Addition:  # fmt: skip
    """A pocket sewn on by three sides, with its flap where it is asked for. lie: where it does not lie
    level.
    """
    leather = panel(w.name, outline, w.leather.thickness, folds=folds)
    leather = finished(replace(leather, rules=(*leather.rules, *rules)))
    sewing = Sewing(w.name, ((w.name, w.name, own), (SEAT, w.under, seat)))
    made = Addition(
        (leather,), "upper edge", w.wide / 2, w.tall, sewings=(sewing,),
        plane={w.name: w.leather.thickness / 2} if lie is None else {}, lies={} if lie is None else {w.name: lie},
    )  # fmt: skip
    return _with_flap(w, made)


def plain(w: Wanted) -> Addition:
    """A pocket that lies level."""
    half, corner = w.wide / 2, min(w.habit(CORNER), 0.3 * w.wide, 0.3 * w.tall)
    outline = paths.closed(paths.box(-half, 0.0, half, w.tall), (corner, corner, 1.0, 1.0))
    inner = half - w.margin
    seat = u_line(w, inner, w.margin, w.tall, rounding(w, inner, w.margin, w.tall))
    return _pocket(w, outline, seat, seat, None)


@dataclass(frozen=True)
class _Turned(Line):
    """A line of which each place is moved as a sheet is that turns about its corners."""

    base: Line | None = None
    by: Callable[[Array], Array] | None = None

    def __call__(self, s: Array) -> Array:
        assert self.base is not None
        assert self.by is not None
        return self.by(self.base(s))


def _fanned(w: Wanted, angle: float) -> tuple[Fan, Edge, Edge]:
    """How a sheet turns whose sides lean out by an angle, radians; and its edge and its seat's."""
    inner = w.wide / 2 - w.margin
    turn = rounding(w, inner, w.margin, w.tall)
    seat = u_line(w, inner, w.margin, w.tall, turn)
    fan = Fan(inner, w.margin + turn, angle)
    own = _Turned(fan.opened(seat.line.points), base=seat.line, by=fan.opened)
    return fan, Edge(own, seat.anchors), seat


def _rise(w: Wanted) -> float:
    """From where the sides of a pocket begin to its brim, mm."""
    return w.tall - w.margin - rounding(w, w.wide / 2 - w.margin, w.margin, w.tall)


def _outline(w: Wanted, fan: Fan, brim: Array) -> Array:
    """Round a pocket whose sides lean out. brim: its right half from the middle out to over its stitches, (n, 2)."""
    notch = fan.notch(w.margin)
    half, corner = w.wide / 2, min(w.habit(CORNER), 0.3 * w.wide, 0.9 * notch[1])
    right = np.vstack([notch, brim[-1] + w.margin * fan.outward, brim[::-1]])
    ring = [(-half, 0.0), (half, 0.0), *right, *(right * [-1.0, 1.0])[::-1]]
    return paths.closed(ring, (corner, corner, *[0.0] * (len(ring) - 2)))


def fullest(w: Wanted) -> float:
    """The share by which a puckered pocket may be wider at its brim."""
    return float(_rise(w) * np.sin(STEEPEST) / max(w.wide / 2, CLOSE))


def deepest(w: Wanted) -> float:
    """How deep a pocket's pleats may be, mm."""
    return float(min(_rise(w) * np.tan(STEEPEST), MEETS * (w.wide / 2 - w.margin)))


def puckered(w: Wanted) -> Addition:
    """A pocket that is wider at its brim than it is sewn on."""
    more, rise = w.number("fullness") * w.wide / 2, _rise(w)
    if w.number("fullness") > fullest(w) + CLOSE:
        raise InputError(
            f"a pocket {w.tall:.0f} mm high cannot be {2 * more:.0f} mm wider at its top", f"the {w.name}",
            "give it less fullness, or make it higher or narrower",
        )  # fmt: skip
    fan, own, seat = _fanned(w, float(np.arcsin(more / rise)))
    outline = _outline(w, fan, fan.corner + rise * fan.way[None, :])
    return _pocket(w, outline, own, seat, fan.bowed(w.leather.thickness / 2))


def bellows(w: Wanted) -> Addition:
    """Either side goes out, back under itself and out again to where it is sewn."""
    pleat, rise, thick = w.number("pleat"), _rise(w), w.leather.thickness
    if pleat > deepest(w) + CLOSE:
        raise InputError(
            f"pleats {pleat:.0f} mm deep are too deep for a pocket {w.wide:.0f} by {w.tall:.0f} mm", f"the {w.name}",
            "give it shallower pleats, or make it larger",
        )  # fmt: skip
    lean = float(np.arctan(pleat / rise))
    fan, own, seat = _fanned(w, 2 * lean)
    fold, edge = np.array([fan.half, w.tall]), np.array([fan.half + rise * np.tan(lean), w.tall])
    folds = tuple(np.array([fan.corner, top]) * [side, 1.0] for side in (-1.0, 1.0) for top in (fold, edge))
    outline = _outline(w, fan, np.vstack([edge, fan.corner + rise * fan.way]))
    tip = fan.notch(SHORT_OF)
    slits = tuple(Rule("slit", np.array([fan.notch(w.margin), tip]) * [side, 1.0]) for side in (-1.0, 1.0))
    stands = max(2 * thick, pleat - thick)  # the middle of its face, beyond that of leather that lies on its seat
    opens = min(float(np.arcsin(min(stands / rise, 1.0))), OPENS * 2 * lean)
    return _pocket(w, outline, own, seat, fan.pleated(thick / 2, opens), folds, slits)


def gusseted(w: Wanted) -> Addition:
    """A front, and a strip of its own round its three sides that gives it depth."""
    half, depth = w.wide / 2, w.number("depth")
    inner, turn = half - w.margin, turned(w.leather, OUT, w.habit(FLAT))
    turns = corner_for(w.leather, turn, w.bears[0], w.habit(ROUND) * inner)
    corner = max(min(turns, _roundest(w)), w.habit(CORNER), 4 * w.leather.thickness)
    if corner + w.margin > min(half, w.tall - 2.0):
        raise InputError(
            f"a gusset wants corners of {corner:.0f} mm to turn round, which {w.wide:.0f} by {w.tall:.0f} mm have not",
            f"the {w.name}", "make it larger, cut it from thinner leather, or give it bellows instead",
        )  # fmt: skip
    outline = paths.closed(paths.box(-half, 0.0, half, w.tall), (corner + w.margin,) * 2 + (2.0, 2.0))
    edge = u_line(w, -inner, w.margin, w.tall, corner)  # from the right, so that it bulges outward
    strip = gusset(turn, edge, depth, w.margin)
    name = f"{w.name} gusset"
    front = finished(panel(w.name, outline, w.leather.thickness))
    side = finished(panel(name, strip.outline, w.leather.thickness, folds=strip.folds))
    sewings = (
        Sewing(f"{w.name} front", ((w.name, w.name, edge), (name, "front", strip.left))),
        Sewing(w.name, ((name, "back", strip.right), (SEAT, w.under, edge))),
    )
    u = [(inner, w.tall), (inner, w.margin), (-inner, w.margin), (-inner, w.tall)]
    made = Addition(
        (front, side), "upper edges", half, w.tall, sewings=sewings, plane={w.name: depth + w.leather.thickness / 2},
        lies={name: strip.lie(FRONT.moved((0.0, 0.0, depth / 2)), rounded(u, corner))}, turned=(name, strip),
    )  # fmt: skip
    return _with_flap(w, made)


def _roundest(w: Wanted) -> float:
    """The greatest radius that there is room for at the corners of a pocket's seam, mm."""
    return 0.6 * min(w.wide / 2 - w.margin, w.tall - w.margin)


def _with_flap(w: Wanted, pocket: Addition) -> Addition:
    """A pocket with a flap sewn on above it, drawn taut over its brim and down its middle."""
    word = w.word("flap")
    if word == NONE:
        return pocket
    name, out = f"{w.name} flap", w.wide / 2 + 2.0
    row, reach, end = w.tall + w.habit(COLLAR) + w.margin, w.habit(COMES_DOWN) * w.tall, 0.92 * out
    thick, high = w.leather.thickness, np.linspace(w.tall - reach, w.tall, PLACES)
    under = (pocket.lies.get(w.name) or flat_at(pocket.plane[w.name]))(np.column_stack([np.zeros(PLACES), high]))
    over = (under.at + thick * under.out)[:, 1:]  # its middle layer on the pocket's, from its end up
    line = path.through(np.vstack([over, [(row - LANDS, thick / 2), (row + w.margin, thick / 2)]]))
    line = replace(line, first=w.margin - line.length)
    down = -line.first  # from its row to its end
    away = np.array([row - LANDS, thick / 2]) + down * np.array([np.cos(LIFTED), np.sin(LIFTED)])
    lifted = path.through(np.array([away, (row - LANDS, thick / 2), (row + w.margin, thick / 2)]))
    lifted = replace(lifted, first=w.margin - lifted.length)
    tongue = min(0.35 * end, 0.6 * reach)
    ring = [(-end, -down), (end, -down), (out, w.margin), (-out, w.margin)]
    made = panel(name, paths.closed(ring, (tongue, tongue, 2.0, 2.0)), thick)
    root = paths.edge(paths.straight((-out + w.margin, 0.0), (out - w.margin, 0.0)), 0.5)
    seat = paths.edge(paths.straight((-out + w.margin, row), (out - w.margin, row)), 0.5)
    sewing = Sewing(name, ((name, "root", root), (SEAT, f"under the {name}", seat)))
    buttons, cuts, shuts = tuple[Button, ...](), tuple[Rule, ...](), tuple[Shut, ...]()
    if word != PLAIN:
        button = w.maker.fastening(word, f"{w.name}, its flap")
        up = button.edge + 4.0
        closing, cuts = buttoned(w.maker, button, 0.0, up - down)
        at = float(np.interp(up, np.append(0.0, np.cumsum(np.hypot(*np.diff(over, axis=0).T))), high))
        below = Fitting(word, 0.0, at, button.hole, button.cap)
        buttons = Button(f"{w.name}, for its flap", w.name, below), Button(f"{name}, its end", name, closing)
        shuts = (Shut(name, *(button.place for button in buttons)),)
    made = finished(replace(made, rules=(*made.rules, *cuts)), whole=True)
    return replace(
        pocket, pieces=(*pocket.pieces, made), sewings=(*pocket.sewings, sewing), buttons=buttons,
        shuts=shuts, lies={**pocket.lies, name: Bent(FRONT, up=line, up_lifted=lifted)},
        half=max(pocket.half, out), high=row + w.margin, first=f"{pocket.first}, and its flap all round",
    )  # fmt: skip
