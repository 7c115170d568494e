"""Zones: the stretches of the object that must be covered, stay clear, or come to rest."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from tailor.core import measure
from tailor.core.errors import InputError
from tailor.core.measure import Theme


def _marked(kind: str) -> measure.Applies:
    """Whether such a zone is marked on the object."""
    return lambda job, made: any(zone.kind == kind for zone in job.zones)


MEASURES = (
    measure.length("fit.edge", Theme.FIT, "room at the edge", "least room between a sharp edge and the welt", 0, 30,
        usual=2.0, first=True, applies=_marked("edge")),
    measure.length("fit.point", Theme.FIT, "room at the point", "least room between the point and the welt", 0, 60,
        usual=3.0, first=True, applies=_marked("point")),
    measure.length("fit.trigger", Theme.FIT, "cover over a trigger", "least cover over a trigger", 2, 60, usual=10.0,
        first=True, applies=_marked("trigger")),
    measure.length("fit.control", Theme.FIT, "room beside a control",
        "least room kept free beside a button, aerial or lens", 0, 60, usual=5.0, first=True,
        applies=_marked("control")),
    measure.pick("object.sharp", Theme.FIT, "sharp", "whether anything on it is sharp where no zone says so", "unknown",
        ("unknown", "none")),
)  # fmt: skip

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
