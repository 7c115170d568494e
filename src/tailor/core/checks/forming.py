"""Will the leather lie as it is meant to: stretch, wrinkles, thickness, touch-down; and how is the object held."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from tailor.core import habit
from tailor.core.carried.loft import Loft, at_height
from tailor.core.carried.zones import Zone, ZoneKind, of_kind
from tailor.core.checks.verdict import Ruling, Verdict, at_least, at_most, let_go, wider
from tailor.core.draft.draft import Draft, Fitted
from tailor.core.draft.fitted.panels import panels
from tailor.core.draft.stuff import bears
from tailor.core.draft.worn.hang import GRAVITY
from tailor.core.leather.moulding import TAUT
from tailor.core.measure import STYLE, Theme
from tailor.core.settings import Settings
from tailor.core.shell.formed import Formed
from tailor.core.shell.inside import pushed
from tailor.core.shell.strain import PLEATS, TEARS, Strain, strain
from tailor.core.shell.two_sided import TwoSided

SMALL = 0.5  # of its limit: strain that needs no second look
THIN, BARE = 0.85, 0.7  # share of its thickness that leather should keep, and must
# What firm leather gives a bulge that passes a hollow, as a share of the girth: from where it is felt to where it jams.
FELT, CLICKS, JAMS = 0.002, 0.02, 0.035
GRIP = habit.stuff("friction.grip", 0.4, 0.15, 0.7, "friction of leather on metal or wood", habit.SHARE)
PRESS = {True: 0.5e-3, False: 1.2e-3}  # N/mm²: how taut (True) and moulded leather press, new
UNSURE = habit.stuff("friction.unsure", 2.0, 1.2, 4, "more or less, that a hold by friction may turn out", habit.TIMES)
FOLDS = "A fold cannot turn a square corner without: work it in damp, or make it of two panels."
# What else may hold a light thing in, the surest first.
HELD = (
    ("flap.closing", "snap 10"),
    ("keeper.way", "over"),
    ("keeper.way", "round"),
    ("mould.method", "fingers"),
)
GRIP_OUT = 60.0  # mm that stand out of the mouth, over which a strap goes round rather than a flap over
TWO = (STYLE, "two-panel")
# Two taut panels, which turn no fold; then coming down over the end at so many degrees.
PARTED = ((TWO, ("mould.method", TAUT)), (TWO, ("mould.method", TAUT), ("fit.toe", "15")))
ROOMIER = 5.0  # mm by which a seam goes further out for what holds to have room
HOLDS = habit.bench("friction.holds", 1.5, 0.5, 6, "that keeps a thing in when it is jogged", "N")


def strains(settings: Settings, draft: Draft, of: tuple[Formed, ...] | None = None) -> tuple[Strain, ...]:
    """The strain of every formed panel of a draft, front first; of: its panels, where they are at hand."""
    found: dict[int, Strain] = {}  # a back like its front is flattened once, and strained once
    every = panels(draft) if of is None else of
    for panel in every:
        if id(panel.sheet) not in found:
            found[id(panel.sheet)] = strain(panel, bears(settings))
    return tuple(found[id(panel.sheet)] for panel in every)


def verdicts(settings: Settings, loft: Loft, zones: Sequence[Zone], draft: Fitted) -> Iterator[Verdict]:
    """Verdicts on the leather as it is formed, and on how the object is held."""
    case = draft.shell
    of = panels(draft) if draft.formed or not case.moulding.taut else ()
    if of:
        found = strains(settings, draft, of)
        worst = max(range(len(found)), key=lambda k: float(found[k].load.max()))
        yield _stretch(draft, of[worst], found[worst])
        tight = max(range(len(found)), key=lambda k: float(found[k].gather.max()))
        yield _wrinkles(draft, of[tight], found[tight])
    if not case.moulding.taut:
        thin = min(range(len(found)), key=lambda k: float(found[k].thickness.min()))
        yield _thickness(draft, of[thin], found[thin])
        yield _touch_down(draft)
    yield from _locks(zones, draft)
    yield _friction(settings, loft, draft)


def _place(draft: Fitted, panel: Formed, at: tuple[int, int]) -> tuple[str, float]:
    y = panel.places[at][1]
    side = "seam side" if at[1] > panel.middle else "spine side"
    return f"{panel.side} {at_height(draft.shell.loft, y)}, {side}", float(y)


def _stretch(draft: Fitted, panel: Formed, found: Strain) -> Verdict:
    at = found.worst()
    value, limit = float(found.stretch[at]), float(found.limit[at])
    where, y = _place(draft, panel, at)
    way = abs(np.degrees(found.way[at]))
    along = "along" if min(way, 180 - way) < 45 else "across"
    return Verdict(
        "Leather stretches that far", at_most(value, limit, TEARS * limit), 100 * value, 100 * limit, "%",
        f"It must give most {along} the draw; beyond its limit it thins or tears."
        + ("" if value <= limit else " Mould it less deep or with a wider valley, use thinner leather, turn the piece"
           " on the hide, or part it into a front and a gusset; Ways out shows what each would give."),
        where, y, _eases(draft), Theme.LEATHER, ceiling=True, together=PARTED if draft.folds else (),
    )  # fmt: skip


def _wrinkles(draft: Fitted, panel: Formed, found: Strain) -> Verdict:
    at = found.tightest()
    value, limit = float(found.gather[at]), found.wrinkles
    where, y = _place(draft, panel, at)
    return Verdict(
        "Leather takes up the fullness", at_most(value, limit, PLEATS * limit), 100 * value, 100 * limit, "%",
        "More fullness than wet leather takes up lies in pleats."
        + ("" if value <= limit else f" {FOLDS}" if draft.folds else " Work it in from the middle, cut a dart where it "
           "gathers, or part it into a front and a gusset."),
        where, y, _eases(draft), Theme.LEATHER, ceiling=True, together=PARTED if draft.folds else (),
    )  # fmt: skip


def _eases(draft: Fitted) -> tuple[tuple[str, str], ...]:
    """What lets leather lie with less to give and to take up, the least of a change first."""
    parted = (TWO,) if draft.folds else ()
    gentler = (*let_go("fit.toe", "fit.approach", "seam.standoff", "seam.toe"), ("fit.toe", "15"), ("fit.toe", "12"),
               ("fit.toe", "10"), ("fit.approach", "25"))  # fmt: skip
    usual = let_go("leather.gather", "leather.stretch_along", "leather.stretch_across")  # last of all
    if draft.shell.moulding.taut:
        return (*gentler, *usual, *parted)
    moulded = (*let_go("mould.valley", "mould.end", "mould.where"), ("mould.method", "fingers"), ("mould.end", "40"),
               ("mould.valley", "4"), ("mould.method", "taut"))  # fmt: skip
    return (*moulded, *gentler, *usual, *parted)


def _thickness(draft: Fitted, panel: Formed, found: Strain) -> Verdict:
    at = found.thinnest()
    thick = draft.shell.leather.thickness
    left = thick * float(min(found.thickness[at], 1.0))
    where, y = _place(draft, panel, at)
    return Verdict(
        "Thickness left where it is drawn", at_least(left, THIN * thick, BARE * thick), left, THIN * thick, "mm",
        "What stretches grows thin, and thin leather wears through first in the valley and on the corners."
        + ("" if left >= THIN * thick else " Begin with thicker leather, or mould it less deep."),
        where, y, _eases(draft), Theme.LEATHER, together=PARTED if draft.folds else (),
    )  # fmt: skip


def _touch_down(draft: Fitted) -> Verdict:
    # where it comes down taut, its neutral line passes the welt's edge by what the sharp corner there takes
    room = draft.shell.level_at(0.0) + draft.shell.leather.offset * np.tan(draft.shell.steepest() / 2)
    k = int(room.argmin())
    y = float(draft.shell.rows[k])
    return Verdict(
        "Leather is down before the welt", at_least(float(room[k]), -0.5, -1.5), float(room[k]), 0.0, "mm",
        "The valley must end before the welt begins, or the welt holds the leather off the object."
        + ("" if room[k] >= -0.5 else " Let the standoff go out, or mould with a tighter valley."),
        f"at {y:.0f} mm", y,
        (*let_go("seam.standoff", "mould.valley", "mould.end", "seam.toe"), *wider(draft, 1.0, 3.0),
         ("mould.method", TAUT)), Theme.LEATHER,
    )  # fmt: skip


def _locks(zones: Sequence[Zone], draft: Fitted) -> Iterator[Verdict]:
    """At a hollow that is moulded, what lies below it must push past: it is held, clicks or jams."""
    case = draft.shell
    if not isinstance(case, TwoSided) or case.moulding.taut:
        return
    girth = case.loft.sections(case.rows).girth()
    for zone in of_kind(zones, ZoneKind.HOLLOW):
        inside = np.flatnonzero((case.rows >= zone.low) & (case.rows <= zone.high))
        if not len(inside) or not inside[0]:
            continue
        neck = int(inside[girth[inside].argmin()])
        lack = pushed(case, float(case.rows[neck]), float(case.rows[int(girth[: neck + 1].argmax())]))
        if lack < FELT:
            ruling, said = Ruling.LOOK, "It slips past without being held: mould closer there, or add a strap."
        elif lack <= CLICKS:
            ruling, said = Ruling.OK, "It clicks: the leather gives that much and closes again."
        else:
            ruling = Ruling.LOOK if lack <= JAMS else Ruling.STOP
            said = "It jams: give it more clearance, or mould the hollow less deep."
        y = float(case.rows[neck])
        yield Verdict(
            "Lock at the hollow", ruling, 100 * lack, 100 * CLICKS, "%",
            f"What lies below must push the leather that much longer to get past. {said}", f"at {y:.0f} mm", y,
            let_go("fit.clearance", "mould.valley"), Theme.FIT, ceiling=True,
        )  # fmt: skip


def _held(draft: Fitted) -> str:
    """What holds the object in besides friction, in words; nothing where there is nothing."""
    if any(name.startswith("flap.") for name in draft.reasons):
        return "Its flap holds it in"
    if any(name.startswith("keeper.") for name in draft.reasons):
        return "Its keeper holds it in"
    return ""


def _friction(settings: Settings, loft: Loft, draft: Fitted) -> Verdict:
    """What it takes to draw the object by friction alone: an estimate, good to a factor of two."""
    unsure = settings.habit(UNSURE)
    case = draft.shell
    girth = loft.sections(case.rows).girth()
    touching = float(np.trapezoid(girth, case.rows)) / (1 + case.clearance)
    hold = settings.habit(GRIP) * PRESS[case.moulding.taut] * touching
    held = _held(draft)
    ways = sorted(HELD, key=lambda way: way != ("keeper.way", "round")) if loft.top - case.mouth > GRIP_OUT else HELD
    wanted = min(settings.habit(HOLDS), unsure * draft.value("object.mass") * GRAVITY)
    return Verdict(
        "Hold by friction", Ruling.OK if hold >= wanted or held else Ruling.LOOK, hold, wanted, "N",
        f"An estimate from {touching / 100:.0f} cm² in contact, good to a factor of {unsure:g}: between"
        f" {hold / unsure:.1f} and {hold * unsure:.1f} N when new, less as it wears in."
        + ("" if hold >= wanted else f" {held}." if held else " Add a strap, or mould it."),
        "all the way in", float(case.rows[len(case.rows) // 2]), tuple(ways), Theme.FIT,
        together=(
            *((("loop.landing", to), remedy) for to in ("sewn", "dangler") for remedy in ways[:2]),
            *((remedy, *aside) for aside in (wider(draft, ROOMIER), wider(draft, 2 * ROOMIER)) for remedy in HELD[:3]),
            *((("loop.landing", "dangler"), remedy, *wider(draft, ROOMIER)) for remedy in HELD[:2]),
            (HELD[2], *let_go("loop.rise")), (HELD[0], *let_go("leather.thickness")),
        ),
    )  # fmt: skip
