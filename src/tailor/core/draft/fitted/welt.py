"""The welt: a strip between front and back, its inner edge towards the blade, its outer edge trimmed after gluing."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from shapely.geometry import LineString, Polygon, box

from tailor.core import habit, measure
from tailor.core.carried.loft import Array
from tailor.core.draft.fitted.seam import Widths
from tailor.core.draft.folded.body import Side, level_off, register, stitched
from tailor.core.draft.piece import Mark, Piece, Role, Rule, punched, title
from tailor.core.draft.stitch.offset import offset
from tailor.core.errors import InputError
from tailor.core.fairing import Line
from tailor.core.leather.leather import Leather
from tailor.core.leather.stack import Profile
from tailor.core.measure import Along, Theme

MEASURES = (
    measure.count("welt.layers", Theme.WELT, "welt layers", "layers in the welt", 1, 12, first=True,
        at=(Along.WELT, 0.4)),
    measure.length("welt.thickness", Theme.WELT, "welt layer", "thickness of one welt layer", 0.3, 15,
        said=measure.weighed, at=(Along.WELT, 0.5)),
    measure.length("welt.width", Theme.WELT, "welt width", "welt from its inner edge to the cut line", 3, 60,
        first=True, at=(Along.WELT, 0.2)),
    measure.length("welt.proud", Theme.WELT, "welt proud", "extra welt outside the cut line, trimmed after gluing", 0,
        15, usual=3.0, at=(Along.WELT, 0.3)),
    measure.ratio("welt.skive", Theme.WELT, "welt end", "share of its thickness left where the welt runs into the fold",
        0.1, 1, usual=0.5, at=(Along.WELT, 1.0)),
)  # fmt: skip

SKIVED = habit.bench("welt.skived", 15.0, 5, 40, "of welt that is thinned where it runs into the fold")


@dataclass(frozen=True)
class Skive:
    """left: share of its thickness that is left of a welt where the fold begins. along: mm over which it is thinned."""

    left: float
    along: float


def welt(
    front: Side, inner: Line, widths: Widths, leather: Leather, layer: float, layers: int,
    proud: float, skive: Skive, mouth: float, seam: str, diameter: float,
) -> Piece:  # fmt: skip
    """The welt, traced from the flat front, one piece cut `layers` times.

    proud: mm left outside the cut line to be trimmed. skive: how it is thinned towards the fold. The
    welt ends where the fold's bend begins. Raises InputError when nothing is left between its edges.
    """
    outer, trimmed = widths.outer(proud)
    ends_at = leather.quarter_bend
    begins = ends_at + skive.along
    cut = _strip(front.line, inner, outer, ends_at, mouth)
    trim = None if trimmed is None else _strip(front.line, inner, trimmed, ends_at, mouth)
    holes = punched(seam, "welt", front.holes.points, diameter)
    marks = [
        *register(front, widths.margin.value),
        *_words(front, 0.55 * widths.margin.value, f"{title('welt', layers, layer)} · front · grain side up"),
        Mark("note", begins, float(front.cut[-1, 1]) - 8.0, f"thin to {skive.left:.0%} from here to the fold"),
    ]
    skived = np.array([[begins, -1e4], [begins, 1e4]])
    return Piece(
        "welt", layers, "welt", layer, "grain", cut, trim, role=Role.WELT,
        stitch=(stitched(front.line, front.holes),), holes=holes,
        rules=tuple(Rule("skive", r) for r in _across(skived, cut, front.line.points[-1, 1] + 40)),
        marks=tuple(marks),
    )  # fmt: skip


def thinned(profile: Profile, u: Array, leather: Leather, skive: Skive) -> Profile:
    """A seam's layers where the welts are thinned towards the fold and end at its bend. u: (n,) of its holes."""
    share = skive.left + (1 - skive.left) * np.clip((u - leather.quarter_bend) / skive.along, 0, 1)
    share = np.where(u < leather.quarter_bend, 0.0, share)
    heights = profile.heights.copy()
    heights[:, 1:-1] *= share[:, None]
    return replace(profile, heights=heights)


def _words(front: Side, out: float, said: str) -> list[Mark]:
    """The welt's words, written along it between stitch and edge, and an arrow to the mouth."""
    at = np.array([0.3 * front.line.length, 0.12 * front.line.length, 0.07 * front.line.length])
    place, normal = front.line(at), front.line.normal(at)
    spots = [(float(x), float(y)) for x, y in place + out * normal]
    angle = float(np.degrees(np.arctan2(normal[0, 0], -normal[0, 1])))
    return [
        Mark("title", *spots[0], said, angle=angle),
        Mark("top", *spots[1], toward=spots[2]),
    ]


def _strip(line: Line, inner: Line, outer: float, ends_at: float, mouth: float) -> Array:
    """The strip from the inner edge to `outer` mm outside the stitch line, closed, (n, 2)."""
    outside = level_off(offset(line, outer, beyond=3 * outer), mouth)
    inside = level_off(inner.dense(0, inner.length), mouth)
    ring = Polygon(np.vstack([outside, inside[::-1]]))
    strip = ring.intersection(box(ends_at, -1e5, 1e5, mouth)) if ring.is_valid else None
    if not isinstance(strip, Polygon) or strip.is_empty:
        raise InputError(
            "its inner edge meets its outer edge, so no whole strip is left", "welt",
            "widen welt.width or seam.stitch_inset, or lessen the standoff",
        )  # fmt: skip
    return np.asarray(strip.exterior.coords)[:-1]


def _across(line: Array, cut: Array, highest: float) -> list[Array]:
    """The part of a line that lies on the piece, below a height, as (2, 2) segments."""
    part = LineString(line).intersection(Polygon(cut))
    return [np.asarray(p.coords) for p in getattr(part, "geoms", [part]) if not p.is_empty and p.bounds[1] < highest][
        :1
    ]
