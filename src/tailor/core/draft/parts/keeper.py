"""Keeper: a strap round the object above the mouth, sewn to the loop that stands there out of the back."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import Polygon

from tailor.core import habit, measure
from tailor.core.carried.guard import above_mouth
from tailor.core.draft.draft import Fitted, Hardware, Lying
from tailor.core.draft.fitted.faces import Face, face
from tailor.core.draft.piece import Fitting
from tailor.core.draft.stitch.holes import straight_row
from tailor.core.draft.stitch.sewn import even_stack, sewn, stitching_of, two_layers
from tailor.core.draft.stuff import leather_for
from tailor.core.draft.worn.carry import row_places
from tailor.core.draft.worn.over import middle_of
from tailor.core.draft.worn.round import ABOVE, keeper_width
from tailor.core.draft.worn.strips import Strip, buttoned, crosswise
from tailor.core.errors import InputError
from tailor.core.leather.leather import Leather
from tailor.core.measure import Theme
from tailor.core.placed.ribbon import Ribbon
from tailor.core.reason import stated
from tailor.core.settings import Settings

MEASURES = (
    measure.pick("keeper.way", Theme.KEEPER, "keeper", "a keeper strap: over the top, or round the object", "none",
        ("none", "over", "round"), first=True),
    measure.pick("keeper.button", Theme.KEEPER, "keeper closes by", "what the keeper closes with", "snap 10", (),
        stock=("snap", "stud")),
    measure.length("keeper.width", Theme.KEEPER, "keeper width", "width of the keeper", 6, 80, first=True),
    measure.length("keeper.at", Theme.KEEPER, "keeper height", "height of a keeper round the object", -1e4, 1e4),
    measure.length("keeper.overlap", Theme.KEEPER, "overlap",
        "how far the ends of a keeper round the object lie on one another", 8, 120, usual=30.0),
    measure.length("keeper.tab", Theme.KEEPER, "finger's tab", "keeper beyond its button, for a finger to pull", 0, 60,
        usual=14.0),
    measure.told("keeper.length", Theme.KEEPER, "keeper length"),
    measure.told("keeper.girth", Theme.KEEPER, "girth there"),
)  # fmt: skip

UP = 10.0  # mm over which it climbs on its own end
STEP, NEAR = 0.5, 0.1  # mm between places along it, and to either side of one for its direction there
FINE = 32  # sides to a quarter of its turn
ROUNDS = 3  # times the height told on the flat body is set right by where it comes to lie
BESIDE = 2.0  # mm beside its rows that it lies plane on the leather it is sewn to
UPRIGHT = habit.bench("keeper.upright", 7.0, 5, 15, "between the two upright rows that hold a keeper")


def keeper_round(settings: Settings, draft: Fitted) -> Fitted:
    """The draft with its keeper, at the narrowest place in reach. Raises InputError where nothing holds one there."""
    upright = settings.habit(UPRIGHT)
    tab, loft, under = draft.tab, draft.shell.loft, draft.shell.leather
    leather, cut_of = leather_for(settings, "strap")
    button, mouth = settings.fastening("keeper.button"), draft.value("mouth.y")
    middle, top = _standing(draft)
    wide = keeper_width(settings, button)
    half = wide.value / 2
    low = mouth + above_mouth(loft, mouth) + half + settings.habit(ABOVE)
    high = min(top - half, loft.top - half)
    if loft.top - half < low:
        raise InputError(
            f"only {max(loft.top - mouth, 0):.0f} mm of the object stand above the mouth, too little for a keeper "
            f"{wide.value:.0f} wide to go round", "keeper.width", "lower the mouth (mouth.y), or take a keeper over "
            "the top", (("keeper.way", "over"),),
        )  # fmt: skip
    if high < low - 1e-6:
        raise InputError(
            f"{max(top - mouth, 0):.0f} mm of leather above the mouth is too little for a keeper {wide.value:.0f} wide",
            "keeper.width", "raise the loop (loop.rise) or the back (back.above), or take a smaller button",
        )  # fmt: skip
    heights = np.linspace(low, max(low, high), max(int(high - low), 1) + 1)
    girths = loft.sections(heights).girth()
    k = int(girths.argmin())
    at = settings.settled(stated("keeper.at", heights[k], "mm", "the narrowest place within reach", girth=girths[k]))
    if not mouth <= at.value - half + 1e-6 or at.value > loft.top:
        raise InputError(
            f"a keeper at {at.value:g} mm lies on the case or off the object", "keeper.at",
            f"give a height between {low:.0f} and {high:.0f} mm",
        )  # fmt: skip
    flat = tab is not None and draft.plan.fold is not None  # where it stands is told on the flat body, as seen behind
    back = Face("body", np.asarray, lambda points: np.zeros(len(points)), 0.0) if flat else face(draft, "back")
    across, depth, up = middle, np.inf, at.value  # where its middle stands, how far out, and at which height it is told
    if back.piece in draft.lies:
        for _ in range(ROUNDS if flat else 1):  # a body that bulges goes less far up than it is long
            across, high, depth = draft.lies[back.piece](back.flat(np.array([(middle, up)]))).at[0].tolist()
            up += at.value - high if flat else 0.0
    own = float(loft.sections(np.array([at.value])).girth()[0])
    clear, offset = draft.shell.clearance, leather.offset
    lap, tab_ = settings.number("keeper.overlap"), settings.number("keeper.tab")
    sewn_at = across, at.value, depth + (under.thickness + leather.thickness) / 2
    held, girth, closed = _round(draft, sewn_at, leather, upright, (lap / 2, tab_))
    how = stitching_of(settings, under, ends=0)
    places = row_places(wide.value, draft.value("seam.margin") / 2, how.pitch.value)
    names = ("keeper row 1", "keeper row 2")
    behind = girth / 2  # the closing lies on the front; half way round is the middle of the back
    strip = Strip(half, -lap / 2, closed + lap / 2 + tab_, tongue=half)
    sides = (-upright / 2, upright / 2)
    rows, holes = crosswise(names, "tab", places, [behind + s for s in sides], how.hole.value)
    socket, slits = buttoned(settings.maker, button, 0.0, closed)
    stud = Fitting(button.name, 0.0, 0.0, button.hole, button.cap)
    made = strip.piece("keeper", leather.thickness, rows, holes, (socket, stud), slits, at=behind * 0.5)
    way = -1.0 if flat else 1.0
    seen = [np.column_stack([np.full(len(places), middle + way * s), up + places]) for s in sides]
    pieces = tuple(back.rowed(p, names, seen, how.hole.value) for p in draft.pieces)
    two = even_stack(two_layers(("keeper", "back"), leather.thickness, under.thickness), straight_row(places))
    seams = tuple(sewn(n, (back.piece, "keeper"), ("tab", "back"), straight_row(places), two, how, half) for n in names)
    thick = leather.thickness
    post, room = button.post(thick), lap / 2 >= button.edge
    halves = tuple(
        Hardware(button.name, f"keeper, {end} end", at.value, thick, post, room, 0.0, "keeper.button")
        for end in ("inner", "outer")
    )
    x = loft.sizes(np.array([at.value]))[0]
    left, right = x[0] - clear - thick, x[0] + x[1] + clear + thick
    low, high = at.value - half, at.value + half
    band = np.array([(left, low), (right, low), (right, high), (left, high)])
    said = (
        wide, at, cut_of,
        stated("keeper.girth", girth, "mm", "round the object and its clearance, plain where it is sewn on behind, at "
               "the leather's neutral line", object=own, clearance=clear, neutral=offset),
        stated("keeper.length", closed + lap + tab_, "mm", "its girth, what it takes to climb over its own end, the "
               "overlap and a finger's tab", girth=girth, climbs=closed - girth, overlap=lap, tab=tab_),
    )  # fmt: skip
    return replace(
        draft, pieces=(*pieces, made), seams=(*draft.seams, *seams), hardware=(*draft.hardware, *halves),
        lying=(*draft.lying, Lying("keeper", band, False)),
        lies={**draft.lies, "keeper": held},
        reasons={**draft.reasons, **{r.name: r for r in said}},
    )  # fmt: skip


def _round(
    draft: Fitted, behind: tuple[float, float, float], leather: Leather, upright: float, ends: tuple[float, float]
) -> tuple[Ribbon, float, float]:
    """The keeper round the object, from the front to the left and round behind, its outer end over its inner one; its
    girth, and how far along it the outer half of its button comes to lie over the inner one.

    behind: where it is sewn to the leather that stands there, half way along it: across, up, and out. upright: from
    one of its rows to the other. ends: the overlap on either side of its button, and the finger's tab, mm.
    """
    (x, y, z), (lap, tab) = behind, ends
    room = draft.shell.clearance + leather.offset
    section = Polygon(draft.shell.loft.sections(np.array([y])).outline(0))
    seat = [(x + side * (upright / 2 + BESIDE), min(section.bounds[1], z + room)) for side in (-1.0, 1.0)]
    hull = section.union(shapely.MultiPoint(seat)).convex_hull
    ring = shapely.orient_polygons(hull.buffer(room, quad_segs=FINE)).exterior
    girth, drawn = float(hull.length + 2 * np.pi * room), float(ring.length)  # and as its round turns are drawn
    first = float(ring.project(shapely.Point(x, ring.bounds[1]))) - drawn / 2
    s = np.arange(-lap, drawn + 2 * lap + tab, STEP)
    up = leather.thickness * np.clip((s - drawn + lap + UP) / UP, 0.0, 1.0)  # it climbs on its own end
    near, far = (shapely.get_coordinates(ring.interpolate(np.mod(first + s + by, drawn))) for by in (-NEAR, NEAR))
    along = far - near
    out = np.column_stack([along[:, 1], -along[:, 0]]) / np.hypot(*along.T)[:, None]  # the ring runs to the left
    line, looks = (
        np.insert(each, 1, level, axis=1) for each, level in (((near + far) / 2 + up[:, None] * out, y), (out, 0.0))
    )
    run = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
    closed = girth - drawn + float(np.diff(np.interp([0.0, drawn], s, run))[0])
    return Ribbon(line, looks, -lap), girth, closed


def _standing(draft: Fitted) -> tuple[float, float]:
    """The middle and the top of the leather that stands above the mouth: a loop out of the back, or the back itself.

    Of a loop the middle is where it lies on the flat body; of a back, as seen from the front.
    """
    if draft.tab is not None and draft.plan.fold is not None:
        return draft.tab.middle, draft.tab.begins
    if draft.loop is not None:
        return middle_of(draft), draft.top + draft.loop.rise.value - draft.loop.begins
    above = draft.reasons.get("back.above")
    if above is None or above.value <= 0:
        raise InputError(
            "no leather stands above the mouth to hold a keeper round the object", "keeper.way",
            "set it to over, let the back stand up (back.above), or use a folded sheath with a loop out of its back",
        )  # fmt: skip
    return middle_of(draft), draft.top + above.value
