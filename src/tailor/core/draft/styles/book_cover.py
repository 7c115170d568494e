"""Book cover: one sheet round the closed book, a pocket at either end for its boards, a strap that keeps it shut."""

from __future__ import annotations

import numpy as np

from tailor.core import habit
from tailor.core.carried.loft import Loft
from tailor.core.draft.draft import Draft
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.built import Cross, Slab
from tailor.core.draft.flat_goods.cover import CORNER, Cover, cover, goes_round, lining, pocketed, taken_up
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.style import Order, Style
from tailor.core.draft.worn.strips import Strip, buttoned
from tailor.core.placed.held import Shut, Thing
from tailor.core.placed.lies import ACROSS, UP, Bent, Frame
from tailor.core.placed.path import Path
from tailor.core.shell.wrap import HALF_PI

BOARD = habit.stuff("book.board", 2.5, 1, 5, "thickness of a book's boards")
BEYOND = habit.bench("book.beyond", 3.0, 2, 10, "cover beyond the book at the least")
PLAY = habit.bench("book.play", 1.0, 0.5, 3, "that a board slides in its pocket by, either side")
HOLDS = habit.bench("book.holds", 45.0, 25, 90, "board that a pocket must take hold of")


def draft(order: Order) -> Draft:
    """A cover for the closed book. Raises InputError where the measures cannot make one."""
    work = Work(order)
    play = work.habit(PLAY)
    board = work.habit(BOARD)
    corner = work.habit(CORNER)
    thick, pocket = work.leather.thickness, work.leather_for("pocket").thickness
    book = work.size
    margin = work.margin(thick + pocket)
    beyond = work.say(
        "cover.edge", max(work.habit(BEYOND), margin), "the cover stands out beyond the book by its seam", margin=margin
    )
    up = taken_up(work.leather, board)
    rule = "the book, its play, and what a board's thickness takes up"
    wide = work.say("inside.across", book[0] + 2 * play + up, rule, book=book[0], taken=up)
    tall = work.say("inside.up", book[1] + 2 * (play + up), f"{rule} at either end", book=book[1], taken=2 * up)
    deep = work.say("inside.through", book[2] + 2 * play, "the book and its play", book=book[2])
    sheet = cover(work, (wide, tall, deep), beyond)
    stitch = np.array([sheet.across, sheet.up])
    deepest = work.say(
        "pocket.depth", min(0.5 * wide, 90.0), "deep enough to hold, shallow enough to load a board", board=wide
    )
    pocketed(work, sheet, deepest, margin)
    for name in ("front pocket", "back pocket"):
        goes_round(work, name, (book[1], board))
    work.held.append(Thing("book", (play + book[0] / 2, 0.0, 0.0), book, past=("front pocket", "back pocket")))
    if work.word("panel.lining") == "lined":
        lining(work, sheet)
    _strap(work, sheet, deep, wide, thick)
    work.claim("Pockets hold the boards", deepest, work.habit(HOLDS), 25.0,
        "The boards stay in, and still go in without bending.", "A pocket so shallow lets go of the board.",
        keys=("pocket.depth",))  # fmt: skip
    work.claim("Pockets can be loaded", deepest / wide, 0.7, 0.95,
        "The book opens far enough for its boards to go in.",
        "So deep a pocket cannot be loaded: the board will not bend round into it.", keys=("pocket.depth",),
        unit="shares", ceiling=True)  # fmt: skip
    work.tie("cover", inside__across=(0.5 * stitch[0], -0.5 * stitch[1]), inside__through=(0.0, 0.5 * stitch[1]),
        inside__up=(0.2 * stitch[0], 0.0), cover__edge=(stitch[0], stitch[1]), seam__margin=(0.8 * stitch[0],
        -stitch[1]))  # fmt: skip
    work.tie("front pocket", pocket__depth=(stitch[0] - deepest / 2, 0.0))
    low = work.loft.tip - play
    at = np.array([-wide / 2, -deep / 2])
    ring = [Slab("leather", np.array(paths.box(at[0] - thick, s * deep / 2 + min(0, s) * thick, wide / 2 + beyond,
        s * deep / 2 + max(0, s) * thick))) for s in (-1, 1)]  # fmt: skip
    ring.append(Slab("leather", np.array(paths.box(at[0] - thick, -deep / 2, at[0], deep / 2))))
    inside = [Slab("leather", np.array(paths.box(wide / 2 - deepest, y, wide / 2 + beyond,
        y + pocket))) for y in (-deep / 2 + board, deep / 2 - board - pocket)]  # fmt: skip
    thing = Slab("thing", np.array(paths.box(-book[0] / 2, -book[2] / 2, book[0] / 2, book[2] / 2)))
    body = paths.closed(
        paths.box(-wide / 2 - thick, low - beyond, wide / 2 + beyond, low + tall + beyond), (2.0, corner, corner, 2.0)
    )
    pages = np.array(paths.box(-book[0] / 2, work.loft.tip, book[0] / 2, work.loft.top))
    return work.built((wide, tall, deep), book, [Cross(low, low + tall, (thing, *ring, *inside))], [Slab("leather",
        body), Slab("thing", pages), Slab("leather", body)])  # fmt: skip


def _strap(work: Work, sheet: Cover, deep: float, wide: float, thick: float) -> None:
    """A strap riveted to the back that comes round the fore edge and closes on the front."""
    button = work.settings.fastening_if("flap.closing")
    if button is None:
        return
    leather = work.leather_for("strap")
    bend, beyond = np.pi * leather.offset, sheet.beyond
    hold, lap = 2 * button.edge + 16.0, 0.28 * wide
    free = 2 * beyond + deep + 2 * thick + bend + lap
    length = hold + free + button.edge + 8.0
    half = button.cap / 2 + 5.0
    work.say("keeper.length", length, "from the back round the fore edge to its button, and a finger's tab",
        over=free, hold=hold)  # fmt: skip
    _, slits = buttoned(work.settings.maker, button, 0.0, hold + free)
    work.pieces["keeper"] = Strip(half, 0.0, length, tongue=half).piece("keeper", leather.thickness, at=length / 2)
    work.mark("keeper", *slits)
    edge = sheet.across  # from the middle of the spine
    over = deep + 2 * thick  # from the back's outside to the front's
    turn = leather.offset * HALF_PI
    runs = [(hold + beyond, 0.0), (turn, -HALF_PI), (over, 0.0), (turn, -HALF_PI), (wide, 0.0)]
    behind = np.array([wide - hold, 0.0, -over / 2 - leather.offset])
    work.lie("keeper", Bent(Frame(behind, UP, ACROSS), up=Path(tuple(runs)), up_lifted=Path()))
    for which, v in (("outer", 7.0), ("inner", hold - 7.0)):
        on = ("keeper", (0.0, v)), ("cover", (hold - edge - v, 0.0))
        work.fit("rapid rivet 7", f"keeper, {which} rivet", "flap.closing", *on)
    work.fit(button.name, "front, for the keeper", "flap.closing", ("cover", (edge - lap, 0.0)))
    work.fit(button.name, "keeper, its button", "flap.closing", ("keeper", (0.0, hold + free)))
    work.shuts.append(Shut("keeper", "front, for the keeper", "keeper, its button"))
    work.finish_first("keeper", "all round, before it is riveted on")


STYLE = Style("Book cover", "Flat goods", draft, ("book",), ("in the hand", "in a pocket"), ("none",), lambda loft,
    zones: "as thick as it is wide: no book" if _stout(loft) else None)  # fmt: skip


def _stout(loft: Loft) -> bool:
    rows = loft.sizes(np.array([s.y for s in loft.stations]))
    return bool((rows[:, 2] + rows[:, 3]).max() > 0.5 * rows[:, 1].max())
