"""Flat lines of a folded body: the stitch line and the welt's inner edge, from the mouth round the toe to the fold."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from shapely.geometry import Polygon

from tailor.core.carried.loft import Array
from tailor.core.draft.fitted.claims import WIDEST_HOLLOW
from tailor.core.draft.stitch.holes import HoleLine, under
from tailor.core.errors import InputError
from tailor.core.fairing import STEP, Line, fair
from tailor.core.leather.leather import Leather
from tailor.core.reason import Reason, greatest
from tailor.core.settings import Settings
from tailor.core.shell.formed import Formed
from tailor.core.shell.panel import Panel
from tailor.core.shell.region import Edges, closed, evenly, moved_out, outline

FINE = 0.4  # mm between points of the welt's inner edge, which turns more tightly than the stitch line
BEYOND = 60.0  # mm that a flat line is carried on above the mouth to be looked at
SHARED = 3  # times that what one side goes further out is given to the other
IN_STEP = 0.4  # mm by which holes of front and back that are equally far apart may miss each other
SHORT = 0.6  # mm above the foot of the cut line at which a flattened panel ends


@dataclass(frozen=True)
class StitchedFlat:
    """A folded body as far as its stitch line is drawn flat.

    rounds: its region moved out to the welt's inner edge, the stitch line and the cut. maps: what lays places seen from
    the front flat, on the sides that differ. stitch: flat, on each of those; closings: it with its hollows closed, and
    hollow: how far out that is at the panel's rows, (n,); none where none turns too tightly. most: that fairing may
    move a line. mm.
    """

    panel: Panel
    inset: float
    most: float
    rounds: tuple[Polygon, ...]
    panels: tuple[Formed, ...]
    maps: list[Callable[[Array], Array]]
    stitch: list[Line]
    closings: list[Polygon]
    hollow: Array

    @classmethod
    def of(cls, panel: Panel, region: Polygon, inset: float, margin: float, most: float) -> StitchedFlat:
        """The stitch line of a panel whose welt ends at a region."""
        rounds = tuple(moved_out(region, out) for out in (0.0, inset, inset + margin))
        panels: tuple[Formed, ...] = ()
        if panel.whole:
            cut = Edges(rounds[2])
            panels = panel.panels(lambda y: cut(y)[0], cut.foot + SHORT)
        maps, seen = _maps(panel, panels), _half(rounds[1], panel, STEP)
        most /= len(maps)  # two lines that are faired apart part by what both are moved
        stitch = [fair(_to_the_fold(m(seen), panel.leather), most) for m in maps]
        return cls(panel, inset, most, rounds, panels, maps, stitch, *_closings(stitch, panel.rows))

    def behind(self, flat: Array) -> Array:
        """Where flat places of the front come to lie on the flat back, (n, 2)."""
        if self.panels:
            return self.maps[-1](self.panels[0].to_plan(flat))
        aside = self.maps[0](flat) - flat  # row by row, however far out
        return self.maps[-1](flat - aside)


@dataclass(frozen=True)
class LaidFlat:
    """The lines of a folded body, seen from the front and flat.

    seen: welt's inner edge, stitch line and cut line from the mouth round the toe to the fold, (n, 2) each. stitch,
    inner: flat, front and back; the same where the object is. x_stitch: (n,) at the panel's rows; paths: flat length
    from the fold to there, front and back, (n,) each. panels: as they are flattened, where they are. behind: where
    flat places of the front come to lie on the flat back, (n, 2). mm.
    """

    seen: tuple[Array, Array, Array]
    stitch: tuple[Line, Line]
    inner: tuple[Line, Line]
    x_stitch: Array
    paths: tuple[Array, Array]
    panels: tuple[Formed, ...]
    behind: Callable[[Array], Array]

    @classmethod
    def of(cls, sewn: StitchedFlat) -> LaidFlat:
        """The lines of a body whose stitch line is sewn. Raises InputError where the stitch inset leaves no room
        between the fold and the welt.
        """
        panel, most, rounds = sewn.panel, sewn.most, sewn.rounds
        seen = [_half(part, panel, step) for part, step in zip(rounds, (FINE, STEP, STEP), strict=True)]
        x_stitch = Edges(rounds[1])(panel.rows)[0]
        paths = [m(np.column_stack([x_stitch, panel.rows]))[:, 0] for m in sewn.maps]
        stitch = sewn.stitch
        inner = [fair(_to_the_fold(m(seen[0]), panel.leather), most) for m in sewn.maps]
        if sewn.hollow.max() > 0:
            stitch = _filled(stitch, sewn.closings, panel.rows, most)
            inner = _filled(inner, [closed([_ring(line)], WIDEST_HOLLOW) for line in inner], panel.rows, most)
        if min(line.points[:-1, 0].min() for line in inner) <= 0:
            raise InputError(
                f"a stitch inset of {sewn.inset:g} mm leaves no room between fold and welt", "seam.stitch_inset",
                "give less",
            )  # fmt: skip
        return cls((seen[0], seen[1], seen[2]), (stitch[0], stitch[-1]), (inner[0], inner[-1]), x_stitch,
                   (paths[0], paths[-1]), sewn.panels, sewn.behind)  # fmt: skip

    def in_step(self, front: HoleLine, back: HoleLine) -> HoleLine:
        """The holes of the back: as they are where they meet the front's once it is folded, else under those."""
        there = self.behind(front.points)
        met = self.stitch[1](self.stitch[1].nearest(there))
        apart = float(np.hypot(*(met - back.points).T).max())
        return back if apart <= IN_STEP else under(front, self.stitch[1], there)


def _maps(panel: Panel, panels: tuple[Formed, ...]) -> list[Callable[[Array], Array]]:
    """What lays places seen from the front flat, on the sides that differ from each other."""
    if panels:
        return [p.to_flat for p in panels[: 1 if panels[0].sheet is panels[-1].sheet else 2]]
    return [_rowed(panel, side) for side in panel.unlike]


def _closings(stitch: Sequence[Line], rows: Array) -> tuple[list[Polygon], Array]:
    """Flat stitch lines with their hollows closed, and how far out that is at rows (n,), mm; none where none is."""
    if not any(_turns_tightly(line) for line in stitch):
        return [], np.zeros(len(rows))
    found = [closed([_ring(line)], WIDEST_HOLLOW) for line in stitch]
    return found, _further(stitch, found, rows)


def _further(lines: Sequence[Line], closings: Sequence[Polygon], rows: Array) -> Array:
    """How far further out flat lines go where their hollows are closed, at rows (n,): on the side where most, mm."""
    pairs = zip(lines, closings, strict=True)
    out = [Edges(closing)(rows)[0] - Edges(_ring(line))(rows)[0] for line, closing in pairs]
    return np.asarray(np.maximum.reduce([np.zeros(len(rows)), *out]))


def _turns_tightly(line: Line) -> bool:
    """Whether a flat line has a hollow that turns more tightly than what goes round it can follow."""
    return len(line.at) >= 8 and bool((line.curvature(line.at) <= -1 / WIDEST_HOLLOW).any())


def _filled(lines: Sequence[Line], closings: Sequence[Polygon], rows: Array, most: float) -> list[Line]:
    """Flat lines with their hollows closed, faired again: where one side goes further out for that the other does too,
    since they are sewn to one another.
    """
    filled = [_faired(line, closing, most) for line, closing in zip(lines, closings, strict=True)]
    for _ in range(SHARED if len(lines) > 1 else 0):
        out = _further(lines, [_ring(line) for line in filled], rows)
        moved = [Line(line.points + np.outer(np.interp(line.points[:, 1], rows, out), [1.0, 0.0])) for line in lines]
        pairs = zip(closings, moved, lines, strict=True)
        filled = [_faired(line, closed([closing, _ring(more)], WIDEST_HOLLOW), most) for closing, more, line in pairs]
    return filled


def _faired(line: Line, closing: Polygon, most: float) -> Line:
    """The half of a closed flat line that runs to the fold, faired again."""
    half = evenly(outline(closing, float(line.points[0, 1])), STEP)
    past = int(np.argmax(half[:, 0] <= 0)) or len(half)
    return fair(evenly(np.vstack([half[:past], [0.0, line.points[-1, 1]]]), STEP), most)


def _ring(line: Line) -> Polygon:
    """What lies inside a flat line and its mirror image beyond the fold, carried on above the mouth."""
    points = line.points
    above = points[0] + [0.0, BEYOND]
    found = Polygon(np.vstack([above, points, points[::-1] * [-1.0, 1.0], above * [-1.0, 1.0]]))
    return found if found.is_valid else found.buffer(0)


def _half(region: Polygon, panel: Panel, step: float) -> Array:
    """The boundary of a region from the mouth round the toe to the fold, (n, 2)."""
    line = evenly(outline(region, panel.mouth), step)
    past = int(np.argmax(line[:, 0] < panel.fold)) or len(line)
    return np.vstack([line[:past], [panel.fold, line[past - 1, 1]]])


def _rowed(panel: Panel, side: str) -> Callable[[Array], Array]:
    """Places seen from the front laid flat row by row: over the welt leather is level, so they keep their distance."""
    k = 0 if side == "front" else 1
    parts = [(panel.wrapped_past, panel.past), (panel.wrapped, panel.rows)]
    lines = [wrap.side(side) for wrap, _ in parts]
    shift = np.concatenate(
        [line.landed - line.x_land - panel.eased(on)[k] for line, (_, on) in zip(lines, parts, strict=True)]
    )
    rows = np.concatenate([panel.past, panel.rows])

    def flat(seen: Array) -> Array:
        return np.column_stack([seen[:, 0] + np.interp(seen[:, 1], rows, shift), seen[:, 1]])

    return flat


def _to_the_fold(line: Array, leather: Leather) -> Array:
    """A flat line that runs level into the fold, (n, 2)."""
    outside = line[line[:, 0] > leather.quarter_bend]
    return evenly(np.vstack([outside, [0.0, outside[-1, 1]]]), STEP)


def end_holes(settings: Settings, margin: float, leather: Leather) -> tuple[Reason, Reason]:
    """First hole to the mouth, and last hole to the fold, mm."""
    first = Reason("seam.first_hole", margin, "mm", "one margin in from the mouth", {"margin": margin})
    last = greatest(
        "seam.fold_hole",
        "mm",
        {
            "past the bend of the fold, where the leather lies flat": leather.quarter_bend + 1.0,
            "half a margin": margin / 2,
        },
        {"fold radius": leather.inside_radius, "neutral": leather.offset},
    )
    return settings.settled(first), settings.settled(last)
