"""Carry: the belt loop that grows out of the back, goes round the belt and is sewn down."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar

import numpy as np

from tailor.core import habit, measure
from tailor.core.carried.loft import Array
from tailor.core.draft.worn.round import STANDS, standing
from tailor.core.errors import InputError
from tailor.core.leather.leather import Leather
from tailor.core.measure import Along, Theme
from tailor.core.reason import Reason, stated
from tailor.core.settings import Settings
from tailor.core.shell.wrap import HALF_PI, Chain, chain

T = TypeVar("T")


def _rides(job: Any, made: Any) -> bool:
    return bool(made.rides)


MEASURES = (
    measure.length("belt.width", Theme.BELT, "belt", "width of the belt", 5, 150, usual=40.0, first=True,
        at=(Along.LOOP_LEFT, 0.3), applies=_rides),
    measure.length("belt.thickness", Theme.BELT, "belt thickness", "thickness of the belt", 0.5, 20, usual=4.0,
        first=True, at=(Along.LOOP_LEFT, 0.5), applies=_rides),
    measure.length("loop.width", Theme.BELT, "loop width", "width of the loop along the belt", 4, 200, first=True,
        at=(Along.LOOP_RIGHT, 0.5)),
    measure.length("loop.play", Theme.BELT, "loop play", "free play of the belt in the loop", 0, 60, usual=3.0,
        first=True, at=(Along.LOOP_LEFT, 0.7)),
    measure.length("loop.deep", Theme.BELT, "loop's room", "room in a loop for the thickness of the belt", 0.5, 60),
    measure.length("loop.rise", Theme.BELT, "loop rise", "top of the loop above the mouth", 0, 400, first=True,
        at=(Along.LOOP_LEFT, 0.97)),
    measure.pick("loop.landing", Theme.BELT, "rides by",
        "where a loop out of the back is sewn; or a loop of its own, a slotted plate, an ear, a dangler, a clip",
        "back", ("back", "handle", "sewn", "slots", "ear", "dangler", "clip", "none"), first=True,
        at=(Along.LOOP_LEFT, 0.9)),
    measure.pick("loop.ring", Theme.BELT, "ring", "the ring a dangler hangs on", "d-ring 25", (), stock=("ring",),
        first=True, at=(Along.LOOP_LEFT, 0.8)),
    measure.pick("loop.clip", Theme.BELT, "clip", "the clip on the back", "belt clip 45", (), stock=("clip",),
        first=True, at=(Along.LOOP_LEFT, 0.8)),
    measure.pick("loop.foot", Theme.BELT, "lower foot", "lower foot of a loop of its own: sewn, or snapped", "sewn",
        ("sewn",), stock=("snap",), at=(Along.LOOP_RIGHT, 0.06)),
    measure.length("loop.drop", Theme.BELT, "belt below mouth", "mouth down to the middle of the belt in a sewn loop",
        0, 400, first=True),
    measure.told("loop.tab", Theme.BELT, "ring tab"),
    measure.told("loop.down", Theme.BELT, "hangs lower by"),
    measure.told("loop.length", Theme.BELT, "loop length", first=True, at=(Along.LOOP_RIGHT, 0.75)),
)  # fmt: skip

LANDINGS = "back", "handle"  # where a loop lands that the back itself goes on as
ROW_GAP = 8.0  # mm between the two rows that hold the loop
BELOW_MOUTH = habit.bench("loop.below_mouth", 8.0, 4, 20, "from the mouth to the nearest row of a loop")
SLACK = habit.bench("loop.slack", 0.5, 0.4, 2, "room in a loop for the belt's thickness")
EVEN = 0.3  # mm that a back may stand out under a belt, which its room takes up
LOOKED = 17  # rows of a back under a loop that are looked at
TRIES, CLOSE = 8, 0.1  # in which the depth of a loop is found, and to how many mm
NARROWEST = habit.bench("loop.narrowest", 12.0, 10, 25, "of loop, below which it tilts and tears")
WIDEST = habit.eye("loop.widest", 50.0, 30, 90, "of loop, above which it only costs leather")
CROSS = habit.bench("loop.cross", 20.0, 5, 45, "cant of a case that is worn across the body", habit.ANGLE)
FOOT_SHARE = habit.eye(
    "loop.foot_share", 0.8, 0.5, 0.95, "of the room on the back, that a loop's foot takes", habit.SHARE
)


@dataclass(frozen=True)
class Loop:
    """A belt loop, measured down from its top (the inside of the fold).

    opening: height inside for the belt. line: the neutral line over the belt, one row, from the fold.
    begins: from the top down to where the fold begins. first_row: from the top down to the first row of
    stitches, where the loop lies flat again. turned: flat length of leather from where the fold begins to that
    row. margin: last row to the loop's end. width, deep, rise, length: as settled. All mm.
    """

    opening: float
    line: Chain
    begins: float
    first_row: float
    turned: float
    margin: float
    width: Reason
    deep: Reason
    rise: Reason
    length: Reason

    @property
    def rows(self) -> tuple[float, float]:
        """From the top down to each row of stitches on the back."""
        return self.first_row, self.first_row + ROW_GAP

    @property
    def tab_rows(self) -> tuple[float, float]:
        """From where the fold begins to each row of stitches, along the flat tab."""
        return self.turned, self.turned + ROW_GAP

    @property
    def crest(self) -> float:
        """From where the fold begins to its crest, along the flat tab."""
        return float(self.line.radius[0, 0]) * HALF_PI

    def neutral(self, sheet: Leather) -> Array:
        """Its neutral line from where its fold begins to its end, (n, 2): how far out from the grain side of the back,
        and how far down from its top, mm. sheet: its leather, bent grain inside.
        """
        radius, reach = sheet.inside_radius, sheet.inside_radius + sheet.offset
        turn = np.linspace(HALF_PI, 0, 24)
        quarter = np.column_stack([radius - reach * np.sin(HALF_PI - turn), -reach * np.sin(turn)])
        over = self.line.points(0, self.rows[1] + self.margin, 0.5)
        along = np.vstack([quarter, over])
        return np.column_stack([along[:, 1] + radius, along[:, 0]])


def belt_loop(
    settings: Settings, leather: Leather, room: float, depth: float, row_inset: float, end_margin: float,
    up: float = 0.0, stands: float = 0.0, past: float = 0.0,
) -> Loop:  # fmt: skip
    """The loop for the belt of the settings.

    room: width of back that the loop may use. depth: how far below the mouth the back goes on. row_inset: from
    where the leather is down to the first row. end_margin: last row to the loop's end. up: as much higher than it need
    be. stands: by how much the back stands out under it. past: how far what a keeper must lie beyond stands above the
    mouth. mm. The leather is bent grain inside, round a slab as wide and
    thick as the belt with its play. Source: geometry, "Carry".
    """
    sheet = leather.grain_inside()
    width, deep = settings.number("belt.width"), deep_of(settings, stands)
    thick = deep.value
    opening = width + settings.number("loop.play")
    radius = sheet.inside_radius
    down = max(thick, 1.0) / np.tan(np.radians(leather.approach))
    # The belt seen from the side, its face on the back of the case; heights are taken from the fold's centre.
    line = chain(
        np.array([[0.0, opening]]),
        np.full((1, 2), thick - radius),
        0.0,
        np.array([radius]),
        radius,
        np.array([[opening + down, -radius]]),
        sheet.offset,
    )
    first_row = opening + down + row_inset
    # The fold begins a quarter turn before the line does, where the leather leaves the back.
    turned = (radius + sheet.offset) * HALF_PI + float(line.length_to(np.array([first_row]))[0])
    end = first_row + ROW_GAP + end_margin
    return Loop(
        opening=opening,
        line=line,
        begins=radius,
        first_row=first_row,
        turned=turned,
        margin=end_margin,
        width=loop_width(settings, room),
        deep=deep,
        rise=_rise(settings, end, first_row, depth, radius, (up, past)),
        length=Reason(
            "loop.length",
            turned + ROW_GAP + end_margin,
            "mm",
            "round the belt and its play, down to two rows and a margin",
            {"belt": width, "room": thick, "play": opening - width, "fold radius": radius},
        ),
    )


def deep_of(settings: Settings, stands: float) -> Reason:
    """Room in a loop for the belt's thickness. stands: by how much the back stands out under it, mm."""
    slack = settings.habit(SLACK)
    thick = settings.number("belt.thickness")
    rule = "the belt's thickness " + ("over what the back stands out by under it" if stands > EVEN else "and a little")
    deep = thick + max(slack, stands + slack - EVEN)
    return settings.settled(stated("loop.deep", deep, "mm", rule, belt=thick, stands_out=max(stands, 0.0)))


def stands_for(settings: Settings, deep: float) -> float:
    """By how much a back stands out for which a loop is so deep, mm."""
    return deep - settings.number("belt.thickness") - settings.habit(SLACK) + EVEN


def standing_out(out: Callable[[Array], Array], upper: Array, lower: Array, under: tuple[float, float]) -> float:
    """By how much a back stands out under a belt over what is straight between the two rows that its loop goes from and
    comes down at, mm. out: how far it is out at places seen from the front (n, 2); rows: (n, 2) each; under: how far
    below the upper row the belt begins and ends.
    """
    long = float(np.hypot(*(lower - upper).mean(axis=0)))
    share = np.array([0.0, *np.clip(np.linspace(*under, LOOKED) / long, 0.0, 1.0), 1.0])[:, None]
    places = upper + share[:, :, None] * (lower - upper)
    high = out(places.reshape(-1, 2)).reshape(places.shape[:2])
    falls = float(high[-1].mean() - high[0].mean())
    stands = (high - high[0].mean() - share * falls)[1:-1].max()
    return float(stands * long / np.hypot(long, falls))


def over_what_stands(made: Callable[[float], T], stands: Callable[[T], float]) -> T:
    """The least deep loop that has room for what stands out of the back under it, which is another place for each: a
    deeper loop comes down further off. made: the loop by how deep that is; stands: how far the back stands out under
    one, mm. Raises InputError where none fits.
    """
    flat = made(0.0)
    low, high, more = 0.0, np.inf, stands(flat)
    if more <= EVEN:
        return flat
    found = refused = None
    for _ in range(TRIES):
        at = more if low < more < high else (low + high) / 2
        try:
            tried = made(at)
        except InputError as error:
            refused, high = error, at
        else:
            more = stands(tried)
            if more <= at + CLOSE:
                found, high = tried, at
            else:
                low = at
            if abs(more - at) <= CLOSE:
                break
        if high - low < CLOSE:
            break
    if found is None:
        raise refused or InputError("the back stands out too far under the belt", "loop.landing", "ride by another way")
    return found


def cant_of(settings: Settings) -> Reason:
    """The angle a case is to hang at, degrees, its tip towards the seam side."""
    cross = settings.word("carry.side") == "cross"
    rule = "worn across, its grip leans towards the hand that draws" if cross else "upright beside the leg"
    return settings.settled(stated("carry.cant", settings.habit(CROSS) if cross else 0.0, "°", rule))


def loop_width(settings: Settings, room: float) -> Reason:
    """Width of a loop along the belt. room: what the back has for it, mm."""
    widest = settings.habit(WIDEST)
    narrowest = settings.habit(NARROWEST)
    wanted = settings.habit(FOOT_SHARE) * room
    rule = "as wide a foot as the back has room for"
    if wanted > widest:
        wanted, rule = widest, "a wide foot; more would only cost leather"
    if wanted < narrowest:
        wanted, rule = narrowest, "least that does not tilt or tear"
    return settings.settled(stated("loop.width", wanted, "mm", rule, room=room))


def _rise(
    settings: Settings, end: float, first_row: float, depth: float, radius: float, more: tuple[float, float]
) -> Reason:
    """How far the top of the loop stands above the mouth. more: so much higher than it need be, and what a keeper must
    lie beyond above the mouth, mm.
    """
    up, past = more
    below_mouth = settings.habit(BELOW_MOUTH)
    if settings.word("loop.landing") == "handle":
        return settings.settled(
            stated("loop.rise", end + below_mouth, "mm", "the loop is sewn to itself beside the handle", loop=end),
        )
    level = 2 * radius + 4.0
    short = end - depth
    rules = {"the belt lies level with the mouth": level, "the loop's end stays on the back": short}
    rule = max(rules, key=lambda r: rules[r])
    if (lower := first_row - below_mouth) < rules[rule]:
        rules["the first row stays below the mouth"] = lower
        rule = "the first row stays below the mouth"
    if (stands := standing(settings, past)) and radius + stands > rules[rule]:
        rules[STANDS], rule = radius + stands, STANDS
    if up > 0:
        rules["its rows lie past a step of the back"] = rules[rule] + up
        rule = "its rows lie past a step of the back"
    others = {r: v for r, v in rules.items() if r != rule}
    return settings.settled(Reason("loop.rise", float(rules[rule]), "mm", rule, {"depth of back": depth}, others))


def row_places(width: float, inset: float, pitch: float) -> Array:
    """Places across the loop of the stitches in one row, (n,), mm from its middle, evenly spaced."""
    half = max(width / 2 - inset, pitch / 2)
    return np.linspace(-half, half, max(1, round(2 * half / pitch)) + 1)
