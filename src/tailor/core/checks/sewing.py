"""Will the seam hold and look right: margins, holes, lines that flow, folds that do not crack."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely
from shapely.geometry import LineString

from tailor.core import habit
from tailor.core.checks.verdict import Ruling, Verdict, at_least, at_most, let_go
from tailor.core.draft.draft import Fitted
from tailor.core.draft.fitted.seam import LEAST_INSET
from tailor.core.draft.folded.body import GLUE_BACK
from tailor.core.fairing import bumps
from tailor.core.measure import Theme
from tailor.core.settings import Settings

FAIRER = ("seam.fairing", "0.25mm"), ("seam.fairing", "0.5mm")  # more fairing, a little and much, as ways out
GLUE_ROOM = habit.bench("glue.room", 0.5, 0, 3, "dry leather between the object's room and the glue")
UNEVEN = 0.05  # mm by which chords that are told apart differ
MEETS = 0.4  # mm by which holes that meet may miss each other and still be worked in step
TIGHT = habit.eye("seam.tight", 20.0, 8, 50, "radius of a hollow below which it is a bump")
GOOD_FOLD, SHARPEST_FOLD = 0.5, 0.25  # inside radius of a fold, in thicknesses


def verdicts(settings: Settings, draft: Fitted) -> Iterator[Verdict]:
    """Verdicts on the seam, its holes and the fold."""
    yield _margin(draft)
    yield from _end_holes(draft)
    yield _on_the_flat(draft)
    yield from _welt(settings, draft)
    yield _flow(settings, draft)
    yield _meet(draft)
    yield _glued(settings, draft)
    yield _first(draft)
    if draft.folds:
        yield _fold(settings, draft)


def _margin(draft: Fitted) -> Verdict:
    margin, stack = draft.value("seam.margin"), draft.stack
    return Verdict(
        "Margin suits the stack", at_least(margin, stack.margin() - 0.5, stack.height / 2),
        margin, max(stack.margin(), stack.height / 2), "mm",
        f"Through {stack.height:.1f} mm of leather a stitch nearer the edge tears out.",
        "seam", draft.value("mouth.y"), let_go("seam.margin", "welt.width", "seam.stitch_inset"), Theme.STITCH,
    )  # fmt: skip


def _end_holes(draft: Fitted) -> Iterator[Verdict]:
    margin, first = draft.value("seam.margin"), draft.value("seam.first_hole")
    yield Verdict(
        "First hole in from the mouth", at_least(first, 0.8 * margin, 0.5 * margin), first, margin, "mm",
        "About one margin in from an end, so that the open edge does not tear.",
        "mouth", draft.value("mouth.y"), let_go("seam.first_hole"), Theme.STITCH,
    )  # fmt: skip
    if not draft.folds:
        return
    bend, last = draft.shell.leather.quarter_bend, draft.value("seam.fold_hole")
    foot = draft.shell.loft.tip - draft.value("seam.toe")
    yield Verdict(
        "Last hole clear of the fold", at_least(last, bend, 0.6 * bend), last, bend, "mm",
        "On the bend of the fold a hole cannot be pierced square.",
        "toe", foot, let_go("seam.fold_hole"), Theme.STITCH,
    )  # fmt: skip


def _on_the_flat(draft: Fitted) -> Verdict:
    """The stitch must lie where the leather is already down on the welt."""
    rows = draft.shell.rows
    flat = draft.shell.level_at(draft.value("seam.stitch_inset"))
    k = int(flat.argmin())
    y = float(rows[k])
    return Verdict(
        "Stitch lies on the welt", at_least(float(flat[k]), 1.0, 0.0), float(flat[k]), 1.0, "mm",
        "The stitch must come after the leather is down on the welt.",
        f"at {y:.0f} mm", y, let_go("seam.stitch_inset", "welt.width", "seam.standoff"), Theme.STITCH,
    )  # fmt: skip


def _welt(settings: Settings, draft: Fitted) -> Iterator[Verdict]:
    width, whole = draft.value("welt.width"), draft.value("seam.stitch_inset") + draft.value("seam.margin")
    yield Verdict(
        "Welt reaches the cut edge", at_least(width, whole - 0.05, whole - 0.5), width, whole, "mm",
        "A welt that stops short leaves the edge gaping.",
        "welt", draft.value("mouth.y"), let_go("welt.width", "seam.stitch_inset"), Theme.STITCH,
    )  # fmt: skip
    inner, stitch = LineString(draft.inner.points), draft.front.holes.points
    apart = np.asarray(shapely.distance(shapely.points(stitch), inner))
    k = int(apart.argmin())
    least = settings.habit(LEAST_INSET) * 0.6
    yield Verdict(
        "Welt holds the thread", at_least(float(apart[k]), least, least / 2), float(apart[k]), least, "mm",
        "Where the seam slants the welt is narrower than its inset.",
        f"at {stitch[k, 1]:.0f} mm", float(stitch[k, 1]), let_go("seam.stitch_inset", "seam.standoff"), Theme.STITCH,
    )  # fmt: skip


def _flow(settings: Settings, draft: Fitted) -> Verdict:
    found = [
        (line, s)
        for line in {id(h): h.line for h in (draft.front, draft.back)}.values()
        for s in bumps(line, tighter=settings.habit(TIGHT))
    ]
    y = float(found[0][0](np.array([found[0][1]]))[0, 1]) if found else draft.value("mouth.y")
    return Verdict(
        "Cut line flows", Ruling.LOOK if found else Ruling.OK, float(len(found)), 0.0, "hollows",
        "A bump in the edge is copied by the dividers into the stitches."
        + (" Allow more fairing, or let the standoff go." if found else ""),
        f"at {y:.0f} mm" if found else "seam", y, (*let_go("seam.standoff", "seam.fairing"), *FAIRER), ceiling=True,
    )  # fmt: skip


def _meet(draft: Fitted) -> Verdict:
    drift, chords = draft.drift, draft.back.holes.chords
    if draft.folds and np.ptp(chords) > UNEVEN:
        said = (
            f"Front and back are not alike: the back's holes lie under the front's, {chords.min():.1f} to "
            f"{chords.max():.1f} mm apart. Pierce through from the front, or mark the back by its own strip."
        )
    elif drift > 0.05:
        said = "Front and back are not alike, so equal stitches drift apart; ease them together from the middle."
    else:
        said = "Folded together, every hole lands on its fellow."
    return Verdict(
        "Front and back holes meet", at_most(drift, MEETS, 1.0), drift, MEETS, "mm", said,
        "seam", draft.value("mouth.y"),
        (*let_go("seam.fairing", "fold.uneven"), ("fit.toe", "12"), ("mould.method", "fingers")),
        Theme.STITCH, ceiling=True,
    )  # fmt: skip


def _glued(settings: Settings, draft: Fitted) -> Verdict:
    """Glue that reaches the object's room holds the object, or its lining, fast."""
    glue_room = settings.habit(GLUE_ROOM)
    room = settings.number("fit.clearance")
    stand = min(draft.standoffs, key=lambda s: float(s.distance.min()))
    k = int(stand.distance.argmin())
    clear = float(stand.distance[k]) + settings.habit(GLUE_BACK) * draft.value("seam.stitch_inset")
    return Verdict(
        "Glue clear of the object", at_least(clear, room + glue_room, room), clear, room + glue_room, "mm",
        "Glue from there outward, behind the trim: never where the object slides."
        + (" Let the standoff go out." if clear < room + glue_room else ""),
        f"at {stand.rows[k]:.0f} mm", float(stand.rows[k]), let_go("seam.standoff"), Theme.STITCH,
    )  # fmt: skip


def _first(draft: Fitted) -> Verdict:
    return Verdict(
        "Edges to finish first", Ruling.OK, float(len(draft.edges_first)), 0.0, "edges",
        f"Bevel and burnish them while the pieces lie flat. {'; '.join(map(str, draft.edges_first)).capitalize()}.",
        "pieces", draft.value("mouth.y"), (), Theme.STITCH,
    )  # fmt: skip


def _fold(settings: Settings, draft: Fitted) -> Verdict:
    radius = settings.number("leather.fold_radius")
    rows = draft.shell.rows
    return Verdict(
        "Fold is not too sharp", at_least(radius, GOOD_FOLD, SHARPEST_FOLD), radius, GOOD_FOLD, "×",
        "The grain cracks on a fold sharper than half the thickness, unless it is gouged or skived.",
        "fold", float(rows[len(rows) // 2]), let_go("leather.fold_radius"), Theme.LEATHER,
    )  # fmt: skip
