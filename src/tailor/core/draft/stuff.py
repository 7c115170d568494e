"""Stuff: the leather of a job and how it is moulded, as its settings say."""

from __future__ import annotations

from dataclasses import replace

from tailor.core.leather.leather import Leather
from tailor.core.leather.moulding import METHODS, TAUT, Method, Moulding
from tailor.core.reason import Reason, stated
from tailor.core.settings import Settings


def moulding_of(
    settings: Settings, leather: Leather, over_end: float, least: float = 0.0
) -> tuple[Moulding, tuple[Reason, ...]]:
    """How the leather is moulded, and why its numbers are what they are.

    over_end: how high the object's end stands over the welt, mm. Pressed over a low end, leather gathers; over a high
    one it would have to give and take up more than it bears, so there it is drawn taut. least: how far from an end
    that cannot be pressed over it passes to taut, mm.
    """
    method = settings.word("mould.method")
    gives = METHODS.get(method, Method(1.0, 0.0))
    said = "leather that is only drawn taut" if method == TAUT else f"what {method} can press"
    valley = settings.settled(stated("mould.valley", gives.valley, "", said))
    stretch = settings.settled(stated("mould.stretch", gives.stretch, "", said))
    moulding = Moulding(method, valley.value, stretch.value if method != TAUT else 0.0, settings.word("mould.where"))
    low = moulding.ball(leather.thickness)
    if over_end > low:
        end = stated("mould.end", over_end, "mm", "too blunt an end to press leather over: it is drawn taut there, and "
                     "moulded as far from the end as that is high", height=over_end, pressed_up_to=low)  # fmt: skip
        end = replace(end, value=max(end.value, least))
    elif least > 0:
        end = stated("mould.end", least, "mm", "a fold cannot be pressed round an end", height=over_end)
    else:
        end = stated("mould.end", 0.0, "mm", "so low an end is pressed over too", height=over_end, pressed_up_to=low)
    end = settings.settled(end)
    return replace(moulding, end=end.value), (() if method == TAUT else (valley, stretch, end))


def leather_of(settings: Settings) -> Leather:
    number = settings.number
    return Leather(
        number("leather.thickness"), number("leather.neutral"), number("leather.fold_radius"),
        settings.word("leather.temper"),
    )  # fmt: skip
