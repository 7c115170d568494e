"""The log of the demo: fourteen things that the crew's maker has made in a year, and how each came out.

What it teaches is true of this shop: the firm side folds tighter than the tables say, moulded radios come out one in a
hundred small, and sewing takes a quarter longer than the rate.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from tailor import demo
from tailor.core.log.case import Fit, When
from tailor.core.log.entry import Entry, FitAt, Look, Looks, Mark, Place, Took
from tailor.core.log.measurable import CameOut, Measurable
from tailor.demo.shop import SORTS

NEUTRAL, RADIUS, STRETCH = "leather.neutral", "leather.fold_radius", "mould.stretch"
OF = {  # what can be measured of each, as its draft has it
    "eaves-blade": (Measurable("fold", 9.0, RADIUS, 0.5, 1 / 6, 0.3),
                    Measurable("gap", 0.5, NEUTRAL, 0.5, -0.345, 0.12)),
    "radio": (Measurable("wide", 69.02, STRETCH, 0.02, 0.01449, 0.3, "bone"),
              Measurable("wet", 100.0, STRETCH, 0.0, 0.01, 0.5, "bone")),
    "whetstone": (Measurable("fold", 5.4, RADIUS, 0.5, 1 / 3.6, 0.3),),
    "crew-cards": (Measurable("fold", 3.3, RADIUS, 0.5, 1 / 2.2, 0.3),),
    "site-book": (Measurable("fold", 5.4, RADIUS, 0.5, 1 / 3.6, 0.3),),
    "laser-level": (Measurable("fold", 6.6, RADIUS, 0.5, 1 / 4.4, 0.3),),
    "spar-bag": (Measurable("thread", 6.56, "thread.used", 1.0, 0.1524, 0.33, "saddle"),),
}  # fmt: skip
PRINT = Measurable("print", 100.0, "printer.scale", 1.0, 0.01, 0.1)
SEWING = {"eaves-blade": 18.5, "radio": 19.1, "whetstone": 36.8, "crew-cards": 37.8, "laser-level": 50.4,
          "spar-bag": 95.5, "site-book": 67.6}  # minutes that the rates would have it take  # fmt: skip


@dataclass(frozen=True)
class _Made:
    """One thing: so many days ago, a demo job, of a leather; what was measured, and what came out; minutes of
    sewing; how it fitted at its places when new, and at its belly after a month.
    """

    ago: int
    job: str
    leather: str
    measured: tuple[tuple[str, float], ...]
    sewn: float
    fits: tuple[Fit, ...]
    month: Fit | None = None
    looks: tuple[tuple[Look, Mark, str], ...] = ()
    next_time: str = ""


_TIGHT, _RIGHT, _LOOSE = Fit.TIGHT, Fit.RIGHT, Fit.LOOSE
_RULED = ("print", 100.0)
_MADE = (
    _Made(352, "eaves-blade", "firm-3", (("fold", 8.2), ("gap", 0.68)), 24, (_RIGHT, _RIGHT, _RIGHT),
          looks=((Look.FLOW, Mark.FAIR, "a bump at the heel"),), next_time="roll the bump out before the dividers"),
    _Made(331, "whetstone", "soft-14", (("fold", 5.5), _RULED), 45, (_TIGHT, _TIGHT), _RIGHT),
    _Made(310, "radio", "firm-2", (("wide", 68.3), ("wet", 101.1)), 25, (_RIGHT, _RIGHT, _RIGHT),
          looks=((Look.PLEATS, Mark.FAIR, "one at the corner"),)),
    _Made(281, "eaves-blade", "firm-3", (("fold", 8.1), ("gap", 0.65)), 22, (_RIGHT, _RIGHT, _RIGHT),
          _LOOSE),
    _Made(254, "site-book", "", (("fold", 5.3),), 86, (_RIGHT, _RIGHT)),
    _Made(230, "crew-cards", "thin-12", (("fold", 3.3), _RULED), 44, (_TIGHT, _RIGHT), _RIGHT),
    _Made(201, "radio", "firm-2", (("wide", 68.4), ("wet", 101.0)), 22, (_RIGHT, _RIGHT, _TIGHT)),
    _Made(176, "eaves-blade", "firm-3", (("fold", 8.3), ("gap", 0.71)), 23, (_RIGHT, _RIGHT, _LOOSE),
          next_time="a shade closer round the handle"),
    _Made(149, "spar-bag", "soft-14", (("thread", 6.8),), 118, ()),
    _Made(118, "radio", "firm-2", (("wide", 68.35), ("wet", 100.9)), 24, (_RIGHT, _RIGHT, _RIGHT)),
    _Made(92, "eaves-blade", "firm-3", (("fold", 8.15), ("gap", 0.66)), 24, (_RIGHT, _RIGHT, _RIGHT)),
    _Made(64, "laser-level", "", (("fold", 6.7),), 62, (_RIGHT, _RIGHT),
          looks=((Look.EDGE, Mark.GOOD, ""), (Look.GLUE, Mark.POOR, "showed at the lid"))),
    _Made(41, "radio", "firm-2", (("wide", 68.4), ("wet", 101.0)), 23, (_RIGHT, _RIGHT, _RIGHT)),
    _Made(19, "eaves-blade", "firm-3", (("fold", 8.1), ("gap", 0.7)), 22, (_RIGHT, _RIGHT, _RIGHT),
          looks=((Look.EDGE, Mark.GOOD, "glassy"),)),
)  # fmt: skip


def log(today: date) -> tuple[Entry, ...]:
    """What was made, so many days before a day."""
    sorts = {sort.id: sort for sort in SORTS}
    found = []
    for made in _MADE:
        sort, usual = sorts.get(made.leather), SEWING[made.job]
        there = {each.what: each for each in (*OF[made.job], PRINT)}
        fits = tuple(FitAt(place, fit) for place, fit in zip(Place, made.fits, strict=False))
        later = () if made.month is None else (FitAt(Place.BELLY, made.month, When.MONTH),)
        found.append(Entry(
            f"made {made.ago:03d}", today - timedelta(days=made.ago), demo.job(made.job),
            sort.name if sort else "", f"{sort.tannage}, {sort.temper}" if sort else "",
            fits=(*fits, *later), measured=tuple(CameOut(there[what], value) for what, value in made.measured),
            looks=tuple(Looks(*each) for each in made.looks), took=(Took("rate.sewn", usual, made.sewn),),
            next_time=made.next_time,
        ))  # fmt: skip
    return tuple(found)
