"""Hands: who works in the shop, in which hours of the week, and on which days not at all."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from tailor.core import incoming
from tailor.core.errors import InputError

DAY, HOUR = 24 * 60, 60  # minutes
WEEK = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
LEAST = 20  # minutes that are worth beginning for

Hours = tuple[int, int, int]  # the day of the week, Monday 0; from and to, minutes of that day


@dataclass(frozen=True)
class Hand:
    """Somebody who works. hours: apart, within their days. off: days without any."""

    id: str
    name: str
    hours: tuple[Hours, ...] = tuple((day, 18 * HOUR, 21 * HOUR) for day in range(5))
    off: tuple[date, ...] = ()

    def __post_init__(self) -> None:
        incoming.named(self.name, "name of a hand")
        last = (-1, 0)
        for day, begin, end in sorted(self.hours):
            if not (0 <= day < len(WEEK) and 0 <= begin < end <= DAY) or (day == last[0] and begin < last[1]):
                said = f"the hours {begin // HOUR}:{begin % HOUR:02} to {end // HOUR}:{end % HOUR:02} cannot be"
                raise InputError(said, self.name, "give hours of a day, one after another")
            last = day, end

    def windows(self, monday: date, days: int, now: int = 0) -> tuple[tuple[int, int], ...]:
        """Hours of so many days in minutes from a Monday's midnight, but for what is past by now."""
        found = []
        for n in range(days):
            if monday + timedelta(days=n) not in self.off:
                of_day = ((n * DAY + a, n * DAY + b) for day, a, b in sorted(self.hours) if day == n % len(WEEK))
                found += [(max(a, now), b) for a, b in of_day if b - max(a, now) >= LEAST]
        return tuple(found)
