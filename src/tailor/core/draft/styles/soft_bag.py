"""Soft bag: two padded panels and a gusset with a zip in its upper half, sewn inside out and turned."""

from __future__ import annotations

import numpy as np

from tailor.core import habit, measure
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.built import Cross, Slab
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.piece import Rule
from tailor.core.draft.stitch.holes import Edge
from tailor.core.draft.style import Order, Style
from tailor.core.errors import InputError
from tailor.core.fairing import Line
from tailor.core.measure import Theme
from tailor.core.placed.held import Room
from tailor.core.placed.lies import FRONT, Laid, Swept, flat_at
from tailor.core.placed.path import Path, rounded

MEASURES = (
    measure.told("zip.length", Theme.SHAPE, "zip length", first=True),
    measure.length("zip.width", Theme.SHAPE, "zip", "width of a zip between its strips", 6, 60, usual=20.0, first=True),
)

SHORTER = habit.stuff("soft.shorter", 0.01, 0, 0.04, "that soft leather is cut shorter by, since it gives", habit.SHARE)
ZIPPED = habit.eye("soft.zipped", 0.25, 0.1, 0.6, "of the height, that a zip runs down either side", habit.SHARE)
TURN_IN = habit.bench("soft.turn_in", 8.0, 5, 15, "strip turned in beside a zip")
BESIDE = 2.5  # mm from the edges of a strip to the row across its end
STAGGER = habit.bench("soft.stagger", 5.0, 2, 12, "from the stitches to the foam")
LAP = habit.bench("soft.lap", 12.0, 8, 25, "that strips and gusset lap")
FIRST = 3.0  # mm from a run's end to its first hole


def draft(order: Order) -> Draft:
    """A soft bag with a zip to an inside size. Raises InputError where the measures cannot make one."""
    work = Work(order)
    stagger = work.habit(STAGGER)
    offset = work.leather.offset
    foam = work.say("foam.thickness", 3.0, "enough to give a soft bag its shape")
    wide, tall, deep = (work.say(f"inside.{side}", size, "the room that was measured", room=size) for side,
        size in zip(("across", "up", "through"), work.size, strict=True))  # fmt: skip
    margin = work.margin(2 * work.leather.thickness + foam)
    # Turned, panel and gusset meet in the stitch line at their neutral surfaces; foam lies inside the panels.
    half, high, through = wide / 2 + offset, tall / 2 + offset, deep + 2 * foam + 2 * offset
    corner = work.say(
        "panel.corner", min(0.3 * min(half, high), 45.0), "round, so that it turns cleanly", panel=2 * half
    )
    ease = work.say(
        "gusset.ease", work.habit(SHORTER), "soft leather gives as it is sewn round, and bunches otherwise", ""
    )
    zipped = high - work.habit(ZIPPED) * 2 * high
    if zipped <= corner - high or zipped >= high - corner:
        raise InputError(f"corners of {corner:.0f} mm leave no straight side for the zip to end on", "panel.corner",
            "give smaller ones",)  # fmt: skip
    runs = {"gusset": paths.bent([(half, zipped), (half, -high), (-half, -high), (-half, zipped)], corner),
        "zip strip": paths.bent([(-half, zipped), (-half, high), (half, high), (half, zipped)], corner)}  # fmt: skip
    out = corner + margin
    panel = paths.closed(paths.box(-half - margin, -high - margin, half + margin, high + margin), out)
    skive = paths.closed(paths.box(-half + 2, -high + 2, half - 2, high - 2), max(corner - 2, 1.0))
    for name in ("front", "back"):
        work.cut(name, panel, rules=[Rule("skive", np.vstack([skive, skive[:1]]))], said=" · turned")
    gap = work.given("zip.width", "the zip between its strips")
    strip = (through - gap) / 2
    if strip < 2.0:
        raise InputError(f"a zip {gap:g} mm wide leaves no strips beside it", "zip.width", "take a narrower zip")
    lower, upper = runs["gusset"], runs["zip strip"]
    _strip(work, "gusset", lower[0].length * (1 - ease), through, margin)
    for panel_name, side in (("front", -1.0), ("back", 1.0)):
        zipper = f"{panel_name} zip strip"
        _strip(work, zipper, upper[0].length * (1 - ease), strip, margin, beside_zip=True)
        for name, (line, corners), x in (("gusset", lower, side * through / 2), (zipper, upper, -strip / 2)):
            edge = paths.edge(line, FIRST, corners=corners)
            sides = (panel_name, f"to the {name}", edge), (name, panel_name, _beside(edge, ease, x))
            work.join(f"{panel_name} to the {name}", *sides, margin=margin, eased=ease, bend=0.0)
        work.finish_first(zipper, "edge beside the zip, before it is sewn in", _zip_edge(work, zipper))
    _lapped(work, through, strip, (lower[0].length * (1 - ease), upper[0].length * (1 - ease)), margin)
    work.say("zip.length", upper[0].length * (1 - ease), "as long as its strips, its ends under the gusset's",
             strips=upper[0].length, share=ease)  # fmt: skip
    _lies(work, (half, high, through), corner, zipped, (ease, strip))
    work.held.append(Room("what it is for", (0.0, 0.0, 0.0), work.size))
    work.say("gusset.length", runs["gusset"][0].length * (1 - ease), "the panel's edge, shorter by its share",
             panel=runs["gusset"][0].length, share=ease)  # fmt: skip
    for name in ("front foam", "back foam"):
        inner = paths.box(-half + stagger, -high + stagger, half - stagger, high - stagger)
        work.cut(name, paths.closed(inner, max(corner - stagger, 2.0)), stuff="foam", thick=foam)
        work.lie(name, Laid(work.lies[name.split()[0]], -offset - foam / 2))
    work.claim(
        "Foam stays out of the turned seam", stagger, 0.5 * margin, 0.0, "Layers end one after another: no ridge.",
        "Let the foam end further in.", theme=Theme.STITCH,
    )  # fmt: skip
    work.claim(
        "Gusset is eased, not bunched", ease, 0.03, 0.05, "It is stretched to the panel as it is sewn.",
        "So short a gusset pulls the panel hollow.", keys=("gusset.ease",), unit="shares", ceiling=True,
        theme=Theme.STITCH,
    )  # fmt: skip
    work.tie("front", inside__across=(0.0, 0.3 * high), inside__up=(0.4 * half, 0.0), panel__corner=(half, -high))
    return _made(work, (wide, tall, deep), foam, corner)


def _lies(
    work: Work, half: tuple[float, float, float], corner: float, zipped: float, strips: tuple[float, float]
) -> None:  # fmt: skip
    """The panels plane before and behind, the gusset between them below, a strip to each and the zip above."""
    (x, y, through), (ease, wide) = half, strips
    work.lie("front", flat_at(through / 2))
    work.lie("back", flat_at(-through / 2, behind=True))
    lower = rounded([(x, zipped), (x, -y), (-x, -y), (-x, zipped)], corner)
    upper = rounded([(-x, zipped), (-x, y), (x, y), (x, zipped)], corner)
    work.lie("gusset", Swept(FRONT, lower, eased=ease))
    radius = work.leather.inside_radius + work.leather.offset
    turned = Path(
        ((wide, 0.0), (np.pi * radius, -np.pi), (work.habit(TURN_IN), 0.0)), (-wide / 2, 0.0), first=-wide / 2
    )
    for name, side in (("front", 1.0), ("back", -1.0)):
        frame = FRONT.moved((0.0, 0.0, side * (through - wide) / 2))
        work.lie(f"{name} zip strip", Swept(frame, upper, turned, side < 0, ease))


def _strip(work: Work, name: str, length: float, wide: float, margin: float, beside_zip: bool = False) -> None:
    """A gusset strip flat, its upper end at nought; beside a zip its one edge is turned in."""
    lap = work.habit(LAP)
    left, right = -wide / 2 - margin, wide / 2 + (work.habit(TURN_IN) if beside_zip else margin)
    ring = np.array(paths.box(left, -length - lap, right, lap))
    folds = [np.array([(wide / 2, -length - lap), (wide / 2, lap)])] if beside_zip else []
    work.cut(name, ring, folds=folds, said=" · turned")


def _lapped(work: Work, through: float, wide: float, lengths: tuple[float, float], margin: float) -> None:
    """The ends of the zip's strips sewn over those of the gusset. lengths: of the gusset and of a strip, mm."""
    half, out = max(wide / 2 - BESIDE, 1.5), (through - wide) / 2
    for name, side in (("front zip strip", 1.0), ("back zip strip", -1.0)):
        for end, y, own in (("right", 0.0, -lengths[1]), ("left", -lengths[0], 0.0)):
            x = -side * out
            rows = [
                paths.straight((-half, own), (half, own)),
                paths.straight((x - side * half, y), (x + side * half, y)),
            ]
            over, under = (paths.edge(line, 0.0, 0.0) for line in rows)
            sides = (name, f"{end} end", over), ("gusset", f"under the {name}, {end}", under)
            work.join(f"{name}, {end} end", *sides, margin=margin)


def _beside(edge: Edge, ease: float, x: float) -> Edge:
    """The edge of a straight strip that is sewn to another, shorter by a share."""
    length = edge.line.length * (1 - ease)
    n = max(int(length / 4), 8)
    line = Line(np.column_stack([np.full(n, x), np.linspace(0.0, -length, n)]))
    return Edge(line, tuple(a * (1 - ease) for a in edge.anchors))


def _zip_edge(work: Work, name: str) -> Array:
    ring = work.pieces[name].cut
    return np.asarray(ring[ring[:, 0] > ring[:, 0].max() - 1e-6])


def _made(work: Work, inside: tuple[float, float, float], foam: float, corner: float) -> Draft:
    wide, tall, deep = inside
    thick, low = work.leather.thickness, work.loft.tip
    a, b = wide / 2, deep / 2 + foam
    layers = [Slab("leather", np.array(paths.box(-a - thick, -b - thick, a + thick, b + thick)))]
    layers += [Slab("foam", np.array(paths.box(-a, z, a, z + foam))) for z in (-b, b - foam)]
    layers.append(Slab("thing", np.array(paths.box(-a, -deep / 2, a, deep / 2))))
    seen = paths.closed(paths.box(-a - thick, low - thick, a + thick, low + tall + thick), corner)
    return work.built(inside, work.size, [Cross(low, low + tall, tuple(layers))], [Slab("leather", seen)])


STYLE = Style(
    "Soft bag with a zip", "Bags and boxes", draft, ("loose kit", "device"), ("from the shoulder", "in the hand"),
    ("none",),
)  # fmt: skip
