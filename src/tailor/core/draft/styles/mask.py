"""Mask: two cheeks drawn on over a head, sewn to a welt that follows its bit, tied round the handle.

The tie is sewn on before the seam: from its root on one cheek it runs round the handle, and its end is tucked under a
loop on the other side of that cheek, which lies at the angle at which the tie really arrives there.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely

from tailor.core import habit
from tailor.core.carried.loft import Array, Loft
from tailor.core.carried.zones import Zone, ZoneKind, of_kind
from tailor.core.draft.draft import Claim, Fitted, Lying
from tailor.core.draft.fitted import all_round
from tailor.core.draft.fitted.faces import face
from tailor.core.draft.piece import Piece, punched
from tailor.core.draft.stitch.holes import straight_row
from tailor.core.draft.stitch.sewn import even_stack, sewn, stitching_of, two_layers
from tailor.core.draft.stuff import leather_for
from tailor.core.draft.style import Order, Style
from tailor.core.draft.worn.lying import StitchedDown
from tailor.core.draft.worn.over import across
from tailor.core.draft.worn.strips import Strip
from tailor.core.errors import InputError
from tailor.core.leather.leather import Leather
from tailor.core.measure import Theme
from tailor.core.placed.ribbon import Ribbon
from tailor.core.reason import stated
from tailor.core.settings import Settings

TO_THREAD = habit.bench("mask.to_thread", 14.0, 13, 18, "welt between a bit and the thread")
LEAST = 10.0  # mm of head that a mask covers at all
ROOT = 14.0  # mm that the tie's root and the loop lie below the mouth
OVER_NECK = habit.eye("mask.over_neck", 6.0, 3, 20, "above the mouth, where a mask's tie runs round the handle")
TAIL = habit.hand("mask.tail", 70.0, 40, 150, "end of a mask's tie that is tucked and pulled")
APART = 4.0  # mm between the three holes of a short row
ROUND = 1.0  # times the tie goes round the handle


def draft(order: Order) -> Fitted:
    """A mask over a head, from its bit up to its neck. Raises InputError where there is no head to cover."""
    settings, loft = order.settings, order.loft
    neck = _neck(loft)
    mouth = settings.settled(
        stated("mouth.y", neck, "mm", "up to the neck, where the head goes over into its handle", neck=neck)
    )
    cover = mouth.value
    if not loft.tip + LEAST <= cover <= loft.top:
        raise InputError(
            f"a mask up to {cover:.0f} mm does not cover a head that begins at {loft.tip:.0f} mm", "mouth.y",
            f"give a height between {loft.tip + LEAST:.0f} and {loft.top:.0f} mm",
        )  # fmt: skip
    sharp = bool(of_kind(order.zones, ZoneKind.EDGE, ZoneKind.POINT))
    made = all_round.draft(order, False, mouth, settings.habit(TO_THREAD) if sharp else 0.0)
    return _tied(settings, made, neck, sharp)


@dataclass(frozen=True)
class Run:
    """The way of the tie seen from behind the mask. root, end: (2,) on the back, where it begins and is tucked; sides:
    (2, 2) where it meets the handle on the root's side, and leaves it on the end's. length: from root to end, mm.
    """

    root: Array
    end: Array
    sides: Array
    length: float

    @property
    def arrives(self) -> float:
        """The angle at which it comes to its loop, degrees from level."""
        along = self.sides[1] - self.end
        return float(np.degrees(np.arctan2(along[1], along[0])))


def tuck_of(width: float, thick: float) -> float:
    """How long the way through the tuck loop is: the tie as it lies there, with room to pull it, mm."""
    return width + 2 * thick + 2.0


def way_of_tie(settings: Settings, made: Fitted, width: float, leather: Leather) -> Run:
    """The tie from one side of the back round the front of the handle to the other side of the back. leather: its."""
    loft, mouth, thick, margin = made.shell.loft, made.value("mouth.y"), leather.thickness, made.value("seam.margin")
    high = mouth - max(ROOT, tuck_of(width, thick) / 2 + 2 * APART + margin / 2)  # its loop's rows lie on the back
    left, right = across(made, high)
    aside = min(width / 2 + margin + 2.0, 0.4 * (right - left))
    root, end = np.array([right - aside, high]), np.array([left + aside, high])
    level = min(mouth + settings.habit(OVER_NECK) + width / 2, loft.top)
    x, wide = loft.sizes(level)[0, :2]
    sides = np.array([(x + wide, level), (x, level)])
    behind = face(made, "back").out(np.vstack([root, end]))  # how far the back stands out there
    slopes = [float(np.hypot(np.hypot(*(a - b)), out)) for a, b, out in zip((root, end), sides, behind, strict=True)]
    girth = float(loft.sections(np.array([level])).girth()[0]) + 2 * np.pi * leather.offset
    return Run(root, end, sides, sum(slopes) + (ROUND - 0.5) * girth)


def _tied(settings: Settings, made: Fitted, neck: float, sharp: bool) -> Fitted:
    """The mask with its tie and its tuck loop sewn on its back."""
    tail = settings.habit(TAIL)
    body, (leather, cut_of) = made.shell.leather, leather_for(settings, "strap")
    thick = leather.thickness
    width = settings.settled(stated("tie.width", settings.number("tie.width"), "mm", "narrow enough to tuck"))
    run = way_of_tie(settings, made, width.value, leather)
    length = settings.settled(
        stated("tie.length", run.length + tail, "mm", "from its root round the handle to its loop, and an end to tuck",
               path=run.length, tail=tail)
    )  # fmt: skip
    how, back = stitching_of(settings, body, ends=0), face(made, "back")
    hole, tuck = how.hole.value, tuck_of(width.value, thick)
    short = APART * np.array([-1.0, 0.0, 1.0])
    start, arrive = run.sides[0] - run.root, run.sides[1] - run.end
    rows = [
        _crossing(run.root, start, short, 0.0),
        _crossing(run.end, arrive, short, -tuck / 2 - APART, turned=True),
        _crossing(run.end, arrive, short, tuck / 2 + APART, turned=True),
    ]
    names, foot = ("tie row", "tuck row 1", "tuck row 2"), made.value("seam.margin")
    tie = _strip("tie", width.value, length.value + foot, (foot,), names[:1], short, hole, thick)
    loop = _strip("tuck loop", width.value, tuck + 2 * (APART + foot), (foot, foot + tuck + 2 * APART), names[1:],
        short, hole, thick)  # fmt: skip
    rows = [row[::-1] for row in rows]  # in the order that they have seen from behind, as the strips do
    held = StitchedDown(loop, names[1:], back, made.lies, body.thickness)
    rows[1:] = held.settled(rows[1:])  # a head that narrows there is longer than it looks
    lie = held.lie(back.strips(rows[1:]))
    tied = _lies(made, [back.strips([row])[0] for row in rows], run, (foot, thick))
    pieces = [*(back.rowed(piece, names, rows, hole) for piece in made.pieces), tie, loop]
    row = straight_row(short)
    two = even_stack(two_layers(("tie", "back"), thick, body.thickness), row)
    seams = tuple(
        sewn(name, (piece, back.piece), ("tab", "back"), row, two, how, made.value("seam.margin") / 2)
        for name, piece in zip(names, ("tie", "tuck loop", "tuck loop"), strict=True)
    )
    said = (
        cut_of,
        width,
        length,
        stated("tie.arrives", run.arrives, "°", "as the tie runs from the handle to its loop"),
    )
    return replace(
        made, pieces=tuple(pieces),
        lies=made.lies if lie is None or tied is None else {**made.lies, loop.name: lie, tie.name: tied},
        seams=(*made.seams, *seams), lying=(*made.lying, *_seen(run, width.value)),
        reasons={**made.reasons, **{r.name: r for r in said}},
        claims=(*_claims(made, body, neck, tuck - width.value - thick, sharp),
                *(() if tied is None else (_tucked(settings, made, length.value - tied.length),))),
    )  # fmt: skip


def _lies(made: Fitted, rows: Sequence[Array], run: Run, tie: tuple[float, float]) -> Ribbon | None:
    """The tie from its row round the front of the handle to its loop, taut; None where the back has no place.

    rows: of the tie and of the loop, on the back as it is cut. tie: from its end to its row, and how thick it is, mm.
    """
    back, (foot, thick) = made.lies.get("back") or made.lies.get("back blank"), tie
    if back is None:
        return None
    lift = (made.shell.leather.thickness + thick) / 2
    root, *loop = (back(row) for row in rows)
    begins, looks = (side.mean(axis=0) for side in root)
    ends, last = (np.mean([side.mean(axis=0) for side in sides], axis=0) for sides in zip(*loop, strict=True))
    begins, ends = begins + lift * looks, ends + lift * last
    way = np.cross(looks, root.at[-1] - root.at[0])
    way /= np.linalg.norm(way)
    level = float(run.sides[0, 1])
    section = shapely.Polygon(made.shell.loft.sections(np.array([level])).outline(0)).buffer(thick / 2)
    both = np.array([begins[[0, 2]], ends[[0, 2]]])
    round_ = np.asarray(shapely.MultiPoint(np.vstack([section.exterior.coords, both])).convex_hull.boundary.coords)[:-1]
    round_ = round_ if shapely.LinearRing(round_).is_ccw else round_[::-1]
    first, after = (int(np.hypot(*(round_ - at[[0, 2]]).T).argmin()) for at in (begins, ends))
    front = np.roll(round_, -first, axis=0)[1 : (after - first) % len(round_)]
    middle = np.asarray(section.centroid.coords[0])
    places = np.column_stack([front[:, 0], np.full(len(front), level), front[:, 1]])
    facing = np.column_stack([front[:, 0] - middle[0], np.zeros(len(front)), front[:, 1] - middle[1]])
    facing /= np.linalg.norm(facing, axis=1)[:, None]
    line = np.vstack([begins - foot * way, begins, begins + APART * way, places, ends])
    return Ribbon(line, np.vstack([looks, looks, looks, facing, last]))


def _tucked(settings: Settings, made: Fitted, end: float) -> Claim:
    """How much of the tie is left beyond its loop."""
    tail = settings.habit(TAIL)
    return Claim(
        "End of the tie is tucked", end, tail / 2, tail / 4, "So much of it stands out of its loop, to be pulled by.",
        "Its end hardly comes through its loop: make it longer.", "tie", ("tie.length",), theme=Theme.BELT,
        y=made.value("mouth.y"),
    )  # fmt: skip


def _crossing(at: Array, along: Array, short: Array, out: float, turned: bool = False) -> Array:
    """A short row across a strip that runs `along` from a place; turned: across one that lies crosswise to that."""
    way = along / np.hypot(*along)
    side = np.array([-way[1], way[0]])
    if turned:
        way, side = side, way
    return np.asarray(at + out * way + short[:, None] * side)


def _strip(
    name: str, width: float, length: float, heights: Sequence[float], rows: Sequence[str], short: Array, hole: float,
    thick: float,
) -> Piece:  # fmt: skip
    """A strip with short rows across it at heights from its foot."""
    lines = tuple(np.column_stack([short, np.full(len(short), v)]) for v in heights)
    holes = tuple(h for row, line in zip(rows, lines, strict=True) for h in punched(row, "tab", line, hole))
    strip = Strip(max(width / 2, APART + 3.0), 0.0, length, tongue=width if name == "tie" else 0.0)
    return strip.piece(name, thick, lines, holes, at=min(0.5 * length, 150.0))


def _seen(run: Run, width: float) -> tuple[Lying, ...]:
    """The tie as it lies, seen from the front: behind the mask, and round the front of the handle."""
    parts = []
    for a, b, behind in ((run.root, run.sides[0], True), (run.end, run.sides[1], True), (*run.sides, False)):
        way = (b - a) / np.hypot(*(b - a))
        side = np.array([-way[1], way[0]]) * width / 2
        parts.append(Lying("tie", np.array([a + side, a - side, b - side, b + side]), behind))
    return tuple(parts)


def _claims(made: Fitted, leather: Leather, neck: float, room: float, sharp: bool) -> tuple[Claim, ...]:
    cover = made.value("mouth.y")
    tip = made.shell.loft.tip
    found = [
        Claim("Head covered up to its neck", cover, neck - 3.0, tip + LEAST, "Nothing of the bit stands out.",
              "Cover it further up.", f"at {cover:.0f} mm", ("mouth.y",), y=cover),
        Claim("Tie goes through its tuck loop", room, 1.0, 0.0, "Its end goes under, and stays.",
              "Make the tie narrower.", "tie", ("tie.width",), theme=Theme.BELT, y=cover),
    ]  # fmt: skip
    if sharp:
        found.append(Claim(
            "Bit lies on a welt", leather.thickness, 2.0, 1.0,
            "The bit cannot reach the thread. Tape it while you fit the mask; never draw towards your hand.",
            "A welt so thin is cut through: take thicker leather.", "bit", ("leather.thickness",),
        ))  # fmt: skip
    return tuple(found)


def _neck(loft: Loft) -> float:
    """Where the head goes over into its handle: the lowest above the widest that is at most half as wide."""
    heights = np.linspace(loft.tip, loft.top, 201)
    wide = loft.sizes(heights)[:, 1]
    after = np.flatnonzero((np.arange(201) > int(wide.argmax())) & (wide <= 0.5 * wide.max()))
    return round(float(heights[after[0]]), 1) if len(after) else loft.top


def _headless(loft: Loft, zones: Sequence[Zone]) -> str | None:
    return None if _neck(loft) < loft.top else "it has no neck: nothing to tie a mask round"


STYLE = Style(
    "Mask", "Fitted", draft, ("head on a handle",), ("in the hand", "left standing", "from the shoulder"),
    ("none", "some"), _headless, {"loop.landing": "none"},
)  # fmt: skip
