"""Zones: the stretches of the object that must be covered, stay clear, or come to rest."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from tailor.core.errors import InputError

MOST = 500  # zones on one object


class ZoneKind(StrEnum):
    EDGE = "edge"  # sharp: covered, and the welt keeps clear of it
    POINT = "point"  # the sharp end: covered, with room below
    TRIGGER = "trigger"  # lets something off: covered, with room to spare
    GRIP = "grip"  # where the hand goes: stays free
    CONTROL = "control"  # a button, aerial or lens: stays free
    STOP = "stop"  # where the object comes to rest in the mouth
    HOLLOW = "hollow"  # a place that moulded leather can lock into


@dataclass(frozen=True)
class Zone:
    """A stretch of the object along the draw direction, from y = low to y = high, mm."""

    kind: ZoneKind
    low: float
    high: float

    def __post_init__(self) -> None:
        if not self.high > self.low:
            raise InputError(
                f"it ends at {self.high:g}, not above its start at {self.low:g}",
                f"zone {self.kind.value}",
                "give the lower end first",
            )


def parse_kind(text: str, where: str) -> ZoneKind:
    try:
        return ZoneKind(text.strip().lower())
    except ValueError:
        kinds = ", ".join(ZoneKind)
        raise InputError(f"'{text}' is not a kind of zone", where, f"give one of {kinds}") from None


def checked(zones: Iterable[Zone]) -> tuple[Zone, ...]:
    """Zones, no more of them than anything has. Raises InputError."""
    found = tuple(zones)
    if len(found) > MOST:
        raise InputError(f"it has {len(found)} zones", "zones", f"give at most {MOST}")
    return found


def of_kind(zones: Iterable[Zone], *kinds: ZoneKind) -> tuple[Zone, ...]:
    return tuple(z for z in zones if z.kind in kinds)
