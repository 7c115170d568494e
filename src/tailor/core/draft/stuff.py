"""Stuff: the leather of a job and how it is moulded, as its settings say."""

from __future__ import annotations

from tailor.core.leather.leather import Leather
from tailor.core.leather.moulding import METHODS, TAUT, Method, Moulding
from tailor.core.reason import Reason, stated
from tailor.core.settings import Settings


def moulding_of(settings: Settings) -> tuple[Moulding, tuple[Reason, ...]]:
    """How the leather is moulded, and why its numbers are what they are."""
    method = settings.word("mould.method")
    gives = METHODS.get(method, Method(1.0, 0.0))
    said = "leather that is only drawn taut" if method == TAUT else f"what {method} can press"
    valley = settings.settled(stated("mould.valley", gives.valley, "", said))
    stretch = settings.settled(stated("mould.stretch", gives.stretch, "", said))
    moulding = Moulding(method, valley.value, stretch.value if method != TAUT else 0.0, settings.word("mould.where"))
    return moulding, (() if method == TAUT else (valley, stretch))


def leather_of(settings: Settings) -> Leather:
    number = settings.number
    return Leather(
        number("leather.thickness"), number("leather.neutral"), number("leather.fold_radius"),
        settings.word("leather.temper"),
    )  # fmt: skip
