"""The shop of the demo: one maker in the village, evenings, who works for the thatching crew."""

from __future__ import annotations

from datetime import date, datetime, time, timedelta

import numpy as np

from tailor import demo
from tailor.core.bench.supplies import Kind
from tailor.core.carried.loft import Array
from tailor.core.cut.laying import Hide
from tailor.core.cut.usual import usual
from tailor.core.shop.hands import Hand
from tailor.core.shop.leathers import Skin, Sort, Use
from tailor.core.shop.orders import Line, Order, State
from tailor.core.shop.progress import Stretch, Worked
from tailor.core.shop.quote import Terms
from tailor.core.shop.shop import Shop
from tailor.core.shop.stock import Article

SORTS = (
    Sort("firm-3", "firm side, 3 mm", 3.0, "firm", Use.BODY, "vegetable", "natural", 62.0, "folds tighter than most"),
    Sort("firm-2", "shoulder, 2 mm", 2.0, "firm", Use.BODY, "vegetable", "russet", 54.0, "moulds well"),
    Sort("soft-14", "soft half, 1.4 mm", 1.4, "soft", Use.BODY, "combination", "moss", 48.0),
    Sort("thin-12", "thin side, 1.2 mm", 1.2, "firm", Use.BODY, "vegetable", "bark", 46.0, "for cards and pockets"),
    Sort("lining-08", "lining, 0.8 mm", 0.8, "soft", Use.LINING, "vegetable", "natural", 33.0),
)
STOCK = (
    Article("rr7-6", Kind.HARDWARE, "rapid rivet 7", 6, 40, 0.12),
    Article("rr7-8", Kind.HARDWARE, "rapid rivet 7", 8, 22, 0.12),
    Article("rr9-7", Kind.HARDWARE, "rapid rivet 9", 7, 30, 0.15),
    Article("rr9-9", Kind.HARDWARE, "rapid rivet 9", 9, 3, 0.16),
    Article("snap10-4", Kind.HARDWARE, "snap 10", 4.0, 12, 0.34),
    Article("snap10-7", Kind.HARDWARE, "snap 10", 7.0, 1, 0.36),
    Article("snap12-45", Kind.HARDWARE, "snap 12", 4.5, 0, 0.38),
    Article("grommet5", Kind.HARDWARE, "grommet 5", 4.5, 25, 0.18),
    Article("d20", Kind.HARDWARE, "d-ring 20", 0, 6, 0.70),
    Article("d25", Kind.HARDWARE, "d-ring 25", 0, 2, 0.85),
    Article("b20", Kind.HARDWARE, "buckle 20", 0, 2, 2.40),
    Article("thread06", Kind.THREAD, "waxed thread", 0.6, 84, 0.09),
    Article("thread08", Kind.THREAD, "waxed thread", 0.8, 31, 0.11),
    Article("glue", Kind.GLUE, "contact glue", 0, 180, 0.03),
    Article("foam6", Kind.FOAM, "dense foam", 6.0, 0.12, 11.0),
    Article("foam3", Kind.FOAM, "thin foam", 3.0, 0.0, 8.0),
    Article("board2", Kind.BOARD, "stiff board", 2.0, 0.5, 9.0),
    Article("card", Kind.CARD, "pattern card", 0.4, 3.0, 1.2),
)
# What was done of the first order: line and thing, step, its name, what it shares a set-up with, minutes that were
# thought, and that it took, one after another on an evening.
BEFORE = (
    ("2", "Two-way radio", "mark", "mark out the pieces", "", 9, 8),
    ("2", "Two-way radio", "cut", "cut out", "", 7, 9),
    ("2", "Two-way radio", "mould front blank", "wet and mould front blank", "", 12.5, 14),
    ("2", "Two-way radio", "mould back blank", "wet and mould back blank", "", 12.5, 13),
    ("0", "Eaves blade", "mark", "mark out the pieces", "", 6, 6),
    ("0", "Eaves blade", "cut", "cut out", "", 5.4, 7),
    ("0", "Eaves blade", "thin welt", "thin welt", "", 4, 5),
)
HANDS = (Hand("maker", "the maker"), Hand("helper", "the helper", ((5, 9 * 60, 13 * 60),)))  # evenings; Saturdays
SCARS = ((420, 520, 26), (760, 300, 14), (905, 640, 9), (1180, 430, 20), (1460, 580, 12), (1605, 340, 30),
         (330, 250, 18))  # fmt: skip
CORNER = ((0.0, 0.0), (320.0, 0.0), (300.0, 210.0), (40.0, 260.0))


def shop(today: date) -> Shop:
    """The shop as it stands on a day: orders are wanted some days from then, wherever that falls."""
    return Shop(SORTS, _skins(), STOCK, _orders(today), HANDS, Terms(currency="€"), worked=_worked(today))


def _skins() -> tuple[Skin, ...]:
    side = usual("side", 2.1, "firm side")
    marks = tuple(_round(np.array([x, y]), r) for x, y, r in SCARS)
    whole = Hide(side.id, side.ring, marks, side.zones)
    return (
        Skin("side", "firm-3", whole),
        Skin("shoulder", "firm-2", usual("shoulder", 0.85, "shoulder")),
        Skin("half", "soft-14", usual("side", 1.1, "soft half")),
        Skin("thin", "thin-12", usual("back", 0.7, "thin side")),
        Skin("lining", "lining-08", usual("belly", 0.6, "lining")),
        Skin("side-old-1", "firm-3", Hide("long offcut", _box(620, 180)), off="side-old"),
        Skin("side-old-2", "firm-3", Hide("corner", np.array(CORNER)), off="side-old"),
        Skin("shoulder-old-1", "firm-2", Hide("shoulder offcut", _box(380, 260)), off="shoulder-old"),
    )  # fmt: skip


def _orders(today: date) -> tuple[Order, ...]:
    def lines(*names: str, count: int = 1) -> tuple[Line, ...]:
        return tuple(Line(demo.job(name), count) for name in names)

    def on(days: int) -> date:
        return today + timedelta(days=days)

    return (
        Order("kit-1", "Crew's kit, first lot", "the thatching crew", on(9), on(9), State.TAKEN,
              lines("eaves-blade", "shears", "radio")),
        Order("kit-2", "Crew's kit, second lot", "the thatching crew", on(30), None, State.TAKEN,
              lines("whetstone", "laser-level", "peg-tray")),
        Order("fair", "Card holders for the harvest fair", "the village", on(16), on(15), State.TAKEN,
              lines("crew-cards", count=6)),
        Order("repair", "A pouch like the old one", "the crew's ridge maker", on(21), None, State.ASKED,
              lines("old-pouch"), "copied from the worn one"),
    )  # fmt: skip


def _worked(today: date) -> tuple[Worked, ...]:
    """The evening before the last: what was moulded then is dry."""
    at, found = datetime.combine(today - timedelta(days=2), time(18, 10)), []
    for mark, thing, key, name, family, planned, took in BEFORE:
        ends = at + timedelta(minutes=took)
        found.append(Worked(f"kit-1/{mark}/0/{key}", "kit-1", thing, name, family, planned, "the maker",
                            (Stretch(at, ends),), done=True))  # fmt: skip
        at = ends
    return tuple(found)


def _round(middle: Array, radius: float) -> Array:
    turns = np.linspace(0, 2 * np.pi, 13)[:-1]
    return np.asarray(middle + radius * np.column_stack([np.cos(turns), np.sin(turns)]))


def _box(wide: float, high: float) -> Array:
    return np.array([(0.0, 0.0), (wide, 0.0), (wide, high), (0.0, high)])
