"""Verdict: one thing judged, with its number, its limit, why, and how to put it right."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from tailor.core.draft.draft import Draft
from tailor.core.measure import AUTO, Theme


class Ruling(StrEnum):
    OK = "ok"
    LOOK = "look"
    STOP = "stop"


@dataclass(frozen=True)
class Verdict:
    """One line of the ledger.

    name says what is judged, and after a comma where, if it is judged at several places. value is judged against limit,
    both in unit. reason says why it matters and, unless ok, what to do. where names the place in words. y: height on
    the object to show it at. remedies: settings that put it right, key to typed value (`auto` lets a pinned one go).
    theme: what it is about. ceiling: the limit is the most there may be, not the least. together: remedies that only
    help together.
    """

    name: str
    ruling: Ruling
    value: float
    limit: float
    unit: str
    reason: str
    where: str
    y: float
    remedies: tuple[tuple[str, str], ...] = ()
    theme: Theme = Theme.SHAPE
    ceiling: bool = False
    together: tuple[tuple[tuple[str, str], ...], ...] = ()

    @property
    def alike(self) -> str:
        """What is judged, wherever."""
        return self.name.split(", ")[0]

    @property
    def spare(self) -> float:
        """How far it is from its limit, on the good side."""
        return self.limit - self.value if self.ceiling else self.value - self.limit


def at_least(value: float, good: float, bare: float) -> Ruling:
    """ok from `good` up, look from `bare` up, else stop."""
    if value >= good - 1e-6:
        return Ruling.OK
    return Ruling.LOOK if value >= bare - 1e-6 else Ruling.STOP


def at_most(value: float, good: float, bare: float) -> Ruling:
    """ok up to `good`, look up to `bare`, else stop."""
    return at_least(-value, -good, -bare)


def let_go(*keys: str) -> tuple[tuple[str, str], ...]:
    """Remedies that let pinned settings go back to the computed values."""
    return tuple((k, AUTO) for k in keys)


def wider(draft: Draft, *by: float) -> tuple[tuple[str, str], ...]:
    """Remedies that move a seam so much further out, mm, for what needs the room."""
    return tuple(("seam.standoff", f"{draft.value('seam.standoff') + out:.0f}mm") for out in by)
