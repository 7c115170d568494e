"""Round: what a keeper that goes round the object asks of the leather that stands above the mouth and holds it."""

from __future__ import annotations

from tailor.core import habit
from tailor.core.leather.fastenings import Fastening
from tailor.core.reason import Reason, stated
from tailor.core.settings import Settings

ROUND = "round"  # the way of a keeper that goes round what stands out of the case
BORDER = habit.bench("keeper.border", 4.0, 2, 10, "keeper on either side of its button")
ABOVE = habit.eye("keeper.above", 3.0, 1, 10, "that a keeper stays above the mouth")
STANDS = "a keeper goes round the object and stands on it"


def keeper_width(settings: Settings, button: Fastening) -> Reason:
    """Width of a keeper that closes with a button, mm."""
    rule = "the button and a border of leather beside it"
    return settings.settled(
        stated("keeper.width", button.cap + 2 * settings.habit(BORDER), "mm", rule, button=button.cap)
    )


def standing(settings: Settings, past: float) -> float:
    """How far leather must stand above the mouth for the keeper of the settings, mm; 0 where none goes round.

    past: how far what the keeper must lie beyond stands above the mouth, mm.
    """
    if settings.word("keeper.way") != ROUND:
        return 0.0
    return float(keeper_width(settings, settings.fastening("keeper.button")).value) + settings.habit(ABOVE) + past
