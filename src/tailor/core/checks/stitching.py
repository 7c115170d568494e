"""Will it be sewn well: thread, hole, spacing, a back that follows the front, a machine that takes the stack."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from tailor.core import habit
from tailor.core.checks.verdict import Ruling, Verdict, at_least, at_most, let_go
from tailor.core.draft.draft import Draft, Fitted
from tailor.core.leather.machine import BEDS, Bed
from tailor.core.leather.stitching import MAKINGS, METHODS, OVER, UNDER, Making, Method
from tailor.core.measure import Theme
from tailor.core.settings import Settings

EASY_HOLE = habit.stuff(
    "stitch.easy", 1.25, 1, 2, "the thread, that two of them pass through without a fight", habit.TIMES
)
TRUE, CROOKED = 0.7, 1.5  # mm that the back of a hole may be off


def verdicts(settings: Settings, draft: Fitted) -> Iterator[Verdict]:
    """Verdicts on stitch, thread, holes and machine of a case."""
    yield from seen_to(settings, draft)
    if METHODS[settings.word("stitch.method")].machine:
        yield _taken(settings, BEDS[draft.bed], draft)


def seen_to(settings: Settings, draft: Draft) -> Iterator[Verdict]:
    """Verdicts on stitch, thread and holes, of whatever construction."""
    method, making = METHODS[settings.word("stitch.method")], MAKINGS[settings.word("stitch.holes")]
    yield _suits(method, draft, draft.top)
    yield _filled(settings, draft)
    yield _through(settings, draft)
    yield _follows(making, draft, draft.top)


def _suits(method: Method, draft: Draft, mouth: float) -> Verdict:
    ruling, said = Ruling.OK, f"{method.name.capitalize()} stitch: {method.said}."
    if method.side_by_side:
        ruling = Ruling.STOP
        said = "It joins edges laid side by side, and here they lie on one another. Take another stitch."
    return Verdict(
        "Stitch suits the seam", ruling, draft.value("seam.count"), 3.0, "holes", said, "seam", mouth,
        (("stitch.method", "saddle"),), Theme.STITCH,
    )  # fmt: skip


def _filled(settings: Settings, draft: Draft) -> Verdict:
    """Thread too thin leaves the line bare; too thick, it crowds the leather between holes."""
    chord, thread = draft.value("seam.chord"), draft.value("stitch.thread")
    thick, thin = chord / settings.habit(UNDER), chord / settings.habit(OVER)
    heavy = thread > thick
    return Verdict(
        "Thread suits the spacing", at_most(thread, thick, 2 * thick) if heavy else at_least(thread, thin, 0.0),
        thread, thick if heavy else thin, "mm",
        "So thick a thread leaves too little leather between the holes. Take thinner thread or wider spacing." if heavy
        else "So thin a thread looks lost between its holes. Take thicker thread or finer spacing." if thread < thin
        else "A thread about a fifth of the spacing fills the line without crowding the leather.",
        "seam", draft.top, let_go("stitch.thread", "seam.pitch"), Theme.STITCH, ceiling=heavy,
    )  # fmt: skip


def _through(settings: Settings, draft: Draft) -> Verdict:
    hole, thread = draft.value("seam.hole"), draft.value("stitch.thread")
    wanted = settings.habit(EASY_HOLE) * thread
    return Verdict(
        "Thread goes through the hole", at_least(hole, wanted, thread), hole, wanted, "mm",
        "The thread goes through every hole twice; a hole much wider than that shows."
        + (" Make larger holes, or take thinner thread." if hole < wanted else ""),
        "seam", draft.top, let_go("seam.hole", "stitch.thread"), Theme.STITCH,
    )  # fmt: skip


def _follows(making: Making, draft: Draft, mouth: float) -> Verdict:
    """How far off a hole comes out at the back, pierced through all of the stack."""
    off = draft.value("seam.stack") * np.tan(np.radians(making.wander))
    crooked = off > TRUE
    return Verdict(
        "Back follows the front", at_most(float(off), TRUE, CROOKED), float(off), TRUE, "mm",
        f"Through so thick a stack, {making.said} comes out that far off. Drill it, or hole each piece by itself."
        if crooked else f"Made with {making.said}.",
        "seam", mouth, (("stitch.holes", "drill"),) if crooked else (), Theme.STITCH, ceiling=True,
    )  # fmt: skip


def _taken(settings: Settings, bed: Bed, draft: Fitted) -> Verdict:
    """A machine must lift over the stack, and its hook must pass between the needle and what stands up beside it."""
    stack, level = draft.stack.height, draft.shell.level_at(draft.value("seam.stitch_inset"))
    k = int(level.argmin())
    y, beside = float(draft.shell.rows[k]), float(level[k])
    if stack > bed.lift:
        return Verdict(
            "Machine takes the seam", Ruling.STOP, stack, bed.lift, "mm",
            f"The foot of the {bed.name} machine does not lift over this stack. Sew it by hand, or thin the welt.",
            "seam", y, (("stitch.method", "saddle"),), Theme.STITCH, ceiling=True,
        )  # fmt: skip
    return Verdict(
        "Machine takes the seam", at_least(beside, bed.hook, bed.hook / 2), beside, bed.hook, "mm",
        f"The foot of the {bed.name} machine wants level leather beside the needle."
        + (" Let the welt be wider, or sew before it is moulded." if beside < bed.hook else ""),
        f"at {y:.0f} mm", y, let_go("seam.stitch_inset", "welt.width"), Theme.STITCH,
    )  # fmt: skip
