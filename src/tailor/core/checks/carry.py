"""Will it ride on the belt: room for it, a foot that holds, rows that lie on leather, and the angle it hangs at."""

from __future__ import annotations

from collections.abc import Iterator
from functools import singledispatch

import numpy as np
import shapely
from shapely.geometry import LineString

from tailor.core import habit
from tailor.core.checks.verdict import Ruling, Verdict, at_least, at_most, let_go, wider
from tailor.core.draft.draft import Draft, Fitted, Hang
from tailor.core.draft.folded.body import Tab
from tailor.core.draft.worn.hang import STEADY
from tailor.core.measure import AUTO, Theme
from tailor.core.settings import Settings
from tailor.core.together.ridden import Sat

EASY = habit.bench("belt.easy", 1.5, 0.5, 4, "play with which a belt goes through")
ROUND = 0.1  # mm that are lost where round ends are drawn with corners
FOOT = habit.bench("belt.foot", 25.0, 15, 40, "of loop along the belt, below which a case tilts")
HIGHER = 0.4, 0.75, 1.15  # times what its weight lies too high: what stands out grows less, and the leather weighs too
DEEPER = 1.0, 1.75, 2.5  # times what a loop lacks: one that is deeper comes down further off
LEFT = habit.hand("object.left", 20.0, 10, 40, "of the object that stands out at the least, to take hold of")


@singledispatch
def verdicts(draft: Draft, settings: Settings, sat: Sat | None = None) -> Iterator[Verdict]:
    """Verdicts on the belt loop and on how the case hangs from it; none where there is no loop. sat: how it sits on its
    belt where it was put together; else it is judged by what it was drafted for.
    """
    yield from ()


@verdicts.register
def _(draft: Fitted, settings: Settings, sat: Sat | None = None) -> Iterator[Verdict]:
    if draft.carriage is None or draft.hang is None:
        return
    mouth, belt = draft.value("mouth.y"), settings.number("belt.width")
    sat = sat or Sat(draft.carriage, draft.hang, draft.carriage.opening - belt)
    on, hang = sat.on, sat.hang
    yield _through(settings, draft, sat)
    if on.free:
        yield Verdict(
            "Swings from its ring", Ruling.OK, abs(hang.rest), 0.0, "°",
            "Nothing holds it against its weight: it hangs as it balances, and gives way when it is sat on.",
            "ring", mouth, (), Theme.BELT,
        )  # fmt: skip
        yield _feet(draft)
        yield from _weighed(settings, draft, hang)
        return
    wide = min(settings.habit(FOOT), 0.6 * belt)
    yield Verdict(
        "Loop is wide enough not to tilt", at_least(on.foot, wide, wide / 2), on.foot, wide, "mm",
        "A narrow foot on the belt lets the case swing." + (" Make the loop wider." if on.foot < wide else ""),
        "loop", mouth, (*let_go("loop.width"), ("loop.landing", "sewn"), ("loop.landing", "dangler"),
            *wider(draft, wide - on.foot + 1.0, 2 * (wide - on.foot) + 2.0)), Theme.BELT,
        together=tuple((("loop.landing", "dangler"), aside) for aside in wider(draft, wide / 2, wide)),
    )  # fmt: skip
    if "slots.length" in draft.reasons:
        yield from _slots(settings, draft)
    if draft.tab is None and on.rows:
        yield _feet(draft)
    elif draft.tab is not None and draft.plan.fold is None:
        yield _clear(draft, mouth)
        yield _landing(settings, draft, mouth, draft.value("seam.margin"))
    elif draft.tab is not None:
        yield from _rows(settings, draft, draft.tab, mouth)
    yield from _hanging(settings, draft, sat)


def _through(settings: Settings, draft: Fitted, sat: Sat) -> Verdict:
    """Whether the belt goes through what the case rides by, flat."""
    easy = settings.habit(EASY)
    play, thick = sat.play, settings.number("belt.thickness")
    said, remedies = "A belt wants a little play; without it, it must be forced.", let_go("loop.play", "loop.deep")
    if sat.deep is not None and sat.deep < thick and "loop.deep" in draft.reasons:
        said = f"Put together, its room is {max(sat.deep, 0.0):.1f} mm deep where the back stands out into it, and " \
            f"the belt {thick:g} mm thick: make the loop's room deeper, or ride by a dangler."  # fmt: skip
        short = thick - sat.deep
        deeper = (draft.value("loop.deep") + times * short + 0.5 for times in DEEPER)
        remedies = (*remedies, *(("loop.deep", f"{at:.1f}mm") for at in deeper), ("loop.landing", "dangler"))
    return Verdict(
        "Belt goes through the loop", at_least(play, easy - ROUND, 0.5), play, easy, "mm", said, "loop",
        draft.value("mouth.y"), remedies, Theme.BELT,
    )  # fmt: skip


def _hanging(settings: Settings, draft: Fitted, sat: Sat) -> Iterator[Verdict]:
    steady = settings.habit(STEADY)
    hang = sat.hang
    off, foot = abs(hang.off), sat.on.foot
    wider = f" A foot {hang.foot:.0f} mm wide would, or less play." if hang.foot > foot else ""
    y = min(max(hang.whole.y, draft.shell.loft.tip), draft.shell.loft.top)
    yield Verdict(
        "Hangs as it was drafted", at_most(off, steady, 3 * steady), off, steady, "°",
        f"It hangs at {hang.rest:.0f}°, drafted for {hang.drafted:.0f}°: as far as the belt lets its weight turn it."
        f"{wider}" if off > steady else "The loop holds it as it was drafted.",
        "loop", y, (*let_go("loop.width", "loop.play"), ("loop.play", f"{settings.habit(EASY):g}mm")), Theme.BELT,
        ceiling=True,
    )  # fmt: skip
    yield from _weighed(settings, draft, hang)


def _weighed(settings: Settings, draft: Fitted, hang: Hang) -> Iterator[Verdict]:
    """Where the weight lies, and whether it is known."""
    assert draft.carriage is not None
    y = min(max(hang.whole.y, draft.shell.loft.tip), draft.shell.loft.top)
    below = draft.carriage.pivot[1] - hang.whole.y
    covered = _covered(settings, draft, below)
    yield Verdict(
        "Weight hangs below the belt", Ruling.OK if below >= 0 else Ruling.LOOK, below, 0.0, "mm",
        "What balances above the belt tips over until the belt stops it."
        + (" Raise the loop, or carry it by a back that reaches higher." if below < 0 else ""),
        f"balances at {hang.whole.y:.0f} mm", y, (*let_go("loop.drop", "loop.rise", "mouth.y"), *_raised(draft, below),
            ("loop.landing", "handle"), ("loop.landing", "dangler"), *covered), Theme.BELT,
        together=tuple((("loop.landing", "dangler"), higher) for higher in covered),
    )  # fmt: skip
    guessed = [name for name in ("object.mass", "object.balance") if name not in settings]
    yield Verdict(
        "Object weighed and balanced", Ruling.OK, 2.0 - len(guessed), 2.0, "count",
        "Guessed from its shape; you may weigh it, and balance it on a finger and measure from the tip."
        if guessed else "Weight and balance are measured.",
        "object", y, (), Theme.BELT,
    )  # fmt: skip


def _raised(draft: Fitted, below: float) -> tuple[tuple[str, str], ...]:
    """The loop so much higher that the weight hangs below it."""
    if below >= 0:
        return ()
    up = np.ceil(2.0 - below)
    if "loop.rise" in draft.reasons:
        return (("loop.rise", f"{draft.value('loop.rise') + up:.0f}mm"),)
    drop = draft.value("loop.drop") - up if "loop.drop" in draft.reasons else 0.0
    return (("loop.drop", f"{drop:.0f}mm"),) if drop > 0 else ()


def _covered(settings: Settings, draft: Fitted, below: float) -> tuple[tuple[str, str], ...]:
    """The mouth higher by so many times what it lacks (below, mm), where the object still stands out enough."""
    highest, mouth = draft.shell.loft.top - settings.habit(LEFT), draft.value("mouth.y")
    tried = (mouth + np.ceil(2.0 - times * below) for times in HIGHER) if below < 0 else ()
    return tuple(("mouth.y", f"{at:.0f}mm") for at in tried if at < highest)


def _slots(settings: Settings, draft: Fitted) -> Iterator[Verdict]:
    """A slot takes the belt with no more than the play that is allowed, and its ends do not tear out."""
    wide, web = draft.value("slots.width"), draft.value("slots.web")
    assert draft.carriage is not None
    long = draft.carriage.opening
    belt, thick, mouth = settings.number("belt.width"), settings.number("belt.thickness"), draft.value("mouth.y")
    yield Verdict(
        "Slots take the belt's thickness", at_least(wide - thick, 0.5, 0.0), wide - thick, 0.5, "mm",
        "The belt turns as it goes through: a slot as narrow as the belt is thick binds.", "slots", mouth,
        let_go("slots.width"), Theme.BELT,
    )  # fmt: skip
    most = settings.number("slots.play")
    yield Verdict(
        "Slots hold the belt", at_most(long - belt, most, most + 3.0), long - belt, most, "mm",
        "A slot longer than that lets the case ride up and down the belt.", "slots", mouth, let_go("slots.length"),
        Theme.BELT, ceiling=True,
    )  # fmt: skip
    plate = draft.reasons.get("loop.thickness")  # none of an ear, which is the case's own leather
    least = max(6.0, 2.5 * (plate.value if plate else draft.shell.leather.thickness))
    yield Verdict(
        "Leather round the slots", at_least(web, least, least / 2), web, least, "mm",
        "The pull of the belt tears a narrow web. Punch both ends before you cut between them.", "slots", mouth,
        let_go("slots.web"), Theme.BELT,
    )  # fmt: skip


def _feet(draft: Fitted) -> Verdict:
    """A sewn loop must lie wholly on the back, clear of the seam's stitches and of the mouth."""
    assert draft.carriage is not None
    margin = draft.value("seam.margin")
    whole = draft.plan.between
    points = shapely.points(np.vstack(draft.carriage.rows))
    apart = np.asarray(shapely.distance(points, whole.boundary)) * np.where(shapely.contains(whole, points), 1, -1)
    k = int(apart.argmin())
    y = float(np.vstack(draft.carriage.rows)[k, 1])
    return Verdict(
        "Loop lands on leather", at_least(float(apart[k]), margin - 0.05, margin / 2), float(apart[k]), margin, "mm",
        "The feet of the loop must lie on the back, a margin clear of its welt and its mouth."
        + (" Make it narrower, lower it, or cant it less." if apart[k] < margin - 0.05 else ""),
        f"at {y:.0f} mm", y, (*let_go("loop.width", "loop.drop"), *wider(draft, margin, 2 * margin)), Theme.BELT,
    )  # fmt: skip


def _clear(draft: Fitted, mouth: float) -> Verdict:
    """The rows of a back that goes over the belt must keep from its welts."""
    assert draft.carriage is not None
    margin, rows = draft.value("seam.margin"), shapely.points(np.vstack(draft.carriage.rows))
    apart = float(shapely.distance(rows, LineString(draft.plan.welt)).min())
    return Verdict(
        "Loop rows clear of the seam", at_least(apart, margin - 0.05, margin / 2), apart, margin, "mm",
        "Rows too near the seam leave no room for glue and awl." + (" Make it narrower." if apart < margin else ""),
        "loop", mouth, let_go("loop.width", "loop.rise"), Theme.BELT,
    )  # fmt: skip


def _rows(settings: Settings, draft: Fitted, tab: Tab, mouth: float) -> Iterator[Verdict]:
    margin = draft.value("seam.margin")
    corners = np.array([(abs(u), v) for v in tab.back_rows for u in (tab.places[0], tab.places[-1])])
    apart = shapely.distance(shapely.points(corners), LineString(draft.back.line.points))
    if settings.word("loop.landing") == "back":
        yield Verdict(
            "Loop rows clear of the seam", at_least(float(apart.min()), margin, margin / 2), float(apart.min()),
            margin, "mm", "Rows too near the seam leave no room for glue and awl.",
            f"at {min(tab.back_rows):.0f} mm", min(tab.back_rows), let_go("loop.width", "loop.rise"), Theme.BELT,
        )  # fmt: skip
    yield _landing(settings, draft, mouth, margin)


def _landing(settings: Settings, draft: Fitted, mouth: float, margin: float) -> Verdict:
    """The rows must lie wholly on the back, or wholly on the loop beside the handle."""
    assert draft.tab is not None
    high, low = max(draft.tab.back_rows), min(draft.tab.back_rows)
    if settings.word("loop.landing") == "handle":
        spare = low - margin - mouth
    else:
        spare = min(mouth - high - 3.0, low - margin - (draft.shell.loft.tip - draft.value("seam.toe")))
    ruling = Ruling.OK if spare >= -1e-6 else Ruling.STOP
    return Verdict(
        "Loop lands on leather", ruling, spare, 0.0, "mm",
        "Both rows and the loop's end must lie on one piece of leather."
        + (" Change the rise, or use a narrower belt." if spare < 0 else ""),
        f"at {low:.0f} to {high:.0f} mm", high, let_go("loop.rise"), Theme.BELT,
        together=((("loop.rise", AUTO), ("keeper.way", AUTO)),),  # a keeper may ask for the rise
    )  # fmt: skip
