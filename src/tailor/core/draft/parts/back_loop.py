"""Back loop: the back of a two-sided case, longer than its front, goes over the belt and is sewn down to itself."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from tailor.core.carried.guard import above_mouth
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Fitted
from tailor.core.draft.fitted.faces import Face, face
from tailor.core.draft.fitted.lying import over_the_belt
from tailor.core.draft.folded.body import FILLET, TAB_CORNER, Tab
from tailor.core.draft.part import Part
from tailor.core.draft.parts.own_loop import clear_of, of_tab
from tailor.core.draft.piece import Piece, punched
from tailor.core.draft.stitch.outgrown import outgrown, strip_up
from tailor.core.draft.stitch.sewn import even_stack, sewn, stitching_of, two_layers
from tailor.core.draft.worn.carry import LANDINGS, Loop, belt_loop, row_places
from tailor.core.draft.worn.over import across
from tailor.core.errors import InputError
from tailor.core.settings import Settings

ROWS = ("loop row 1", "loop row 2")
BACK = "back"
OVERLAP = 12.0  # mm that the loop reaches down on the back where the two are drawn as one


def back_loop(settings: Settings, draft: Fitted) -> Fitted:
    """The draft whose back goes on as a loop. Raises InputError where the back cannot."""
    case = draft.shell
    if draft.folds or settings.word("loop.landing") not in LANDINGS:
        return draft
    back, leather = face(draft, BACK), case.leather
    if back.piece != BACK:
        raise InputError(
            "a back that is moulded does not go on as a loop over the belt", "loop.landing",
            "take a front over a flat back, or sew a loop of its own on (loop.landing sewn)",
        )  # fmt: skip
    how, margin, mouth = stitching_of(settings, leather, ends=0), draft.value("seam.margin"), draft.value("mouth.y")
    left, right = across(draft, mouth - 0.5)
    middle = (left + right) / 2
    loop = belt_loop(settings, leather, right - left - 2 * margin, mouth - case.loft.tip, margin, margin,
                     past=above_mouth(case.loft, mouth))  # fmt: skip
    wide, above = loop.width.value, settings.number("back.above")
    if wide > right - left:
        raise InputError(
            f"a loop {wide:.1f} mm wide does not fit the back, which is {right - left:.1f} mm wide between its welts",
            "loop.width", "make it narrower",
        )  # fmt: skip
    if loop.rise.value < loop.begins + above:
        raise InputError(
            f"a rise of {loop.rise.value:.1f} mm is less than the loop's fold over a back that stands up",
            "loop.rise", f"give at least {loop.begins + above:.1f} mm",
        )  # fmt: skip
    tab = _tab(loop, back, middle, mouth, row_places(wide, margin, how.pitch.value))
    pieces = tuple(_grown(p, tab, back, middle, mouth, how.hole.value) if p.name == BACK else p for p in draft.pieces)
    two = even_stack(two_layers(("loop", "back"), leather.thickness), tab.row)
    seams = tuple(sewn(name, (BACK,), ("tab", "back"), tab.row, two, how, tab.inset) for name in ROWS)
    low, high = min(tab.back_rows) - margin, mouth + loop.rise.value
    half = wide / 2
    outline = np.array([(middle - half, low), (middle + half, low), (middle + half, high), (middle - half, high)])
    plan = replace(draft.plan, loop=outline)
    made = replace(
        draft, pieces=pieces, seams=(*draft.seams, *seams), plan=plan, loop=loop, tab=tab,
        carriage=of_tab(loop, tab, plan, mouth, settings.number("belt.width")),
        reasons={**draft.reasons, **{r.name: r for r in (loop.width, loop.deep, loop.rise, loop.length)}},
    )  # fmt: skip
    return over_the_belt(made, ROWS)


def _tab(loop: Loop, back: Face, middle: float, mouth: float, places: Array) -> Tab:
    """Where the loop stands on the back as it is cut; its rows on the back by their heights."""
    u, v = (float(c) for c in back.flat(np.array([(middle, mouth)]))[0])
    begins = v + loop.rise.value - loop.begins
    rows = begins + loop.tab_rows[0], begins + loop.tab_rows[1]
    top = mouth + loop.rise.value
    sewn_at = top - loop.rows[0], top - loop.rows[1]
    return Tab(u, loop.width.value, begins, rows[1] + loop.margin, rows, sewn_at, u + places, begins + loop.crest)


def _grown(piece: Piece, tab: Tab, back: Face, middle: float, mouth: float, diameter: float) -> Piece:
    """The back with the loop growing out of its upper edge, filleted there so that it does not tear."""
    across = tab.places - tab.middle
    own = [np.column_stack([tab.places, np.full(len(across), v)]) for v in tab.tab_rows]
    at_mouth = float(back.flat(np.array([(middle, mouth)]))[0, 1])
    under = [
        back.strips([np.column_stack([middle - across, np.full(len(across), y)])])[0] if y < mouth
        else np.column_stack([tab.places, np.full(len(across), at_mouth + y - mouth)])  # sewn to itself, which is plane
        for y in tab.back_rows
    ]  # fmt: skip
    holes = [
        hole
        for name, outer, inner in zip(ROWS, own, under, strict=True)
        for edge, row in (("tab", outer), ("back", inner))
        for hole in punched(name, edge, row, diameter)
    ]
    crest = np.array([(tab.left, tab.crest), (tab.right, tab.crest)])
    return replace(
        clear_of(piece, np.vstack(under)), cut=_outline(piece.cut, tab), folds=(*piece.folds, crest),
        holes=(*piece.holes, *holes), stitch=(*piece.stitch, *own, *under),
    )  # fmt: skip


def _outline(plain: Array, tab: Tab) -> Array:
    """A back's outline (n, 2) and the loop's as one."""
    top = float(plain[:, 1].max())
    strip = strip_up(tab.left, top - OVERLAP, tab.right, tab.end, min(TAB_CORNER, tab.width / 3))
    return outgrown(plain, strip, (tab.left - 2 * FILLET, top - 0.5, tab.right + 2 * FILLET, top + 2 * FILLET))


PART = Part(10, back_loop)
