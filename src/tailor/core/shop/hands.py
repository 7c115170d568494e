"""Hands: who works in the shop, in which hours of the week, and on which days not at all."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta

from tailor.core import incoming
from tailor.core.errors import InputError
from tailor.core.shop import orders

DAY, HOUR = 24 * 60, 60  # minutes
WEEK = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
TYPED = re.compile(r"([a-z]{3,9})(?:\s*-\s*([a-z]{3,9}))?\s+(\d{1,2})(?::(\d\d))?\s*-\s*(\d{1,2})(?::(\d\d))?")
LEAST = 20  # minutes that are worth beginning for

Hours = tuple[int, int, int]  # the day of the week, Monday 0; from and to, minutes of that day


def hours(text: str) -> tuple[Hours, ...]:
    """Hours as they are typed: Mon-Fri 18:00-21:00, Sat 9-13. Raises InputError."""
    found = list[Hours]()
    for part in filter(None, (each.strip().lower() for each in text.split(","))):
        typed = TYPED.fullmatch(part)
        days = [] if typed is None else [_weekday(typed[1]), _weekday(typed[2] or typed[1])]
        if typed is None or days[0] < 0 or days[1] < days[0]:
            said = f"{incoming.quoted(part)} are no hours"
            raise InputError(said, "hours", "give them as Mon-Fri 18:00-21:00, Sat 9-13")
        begin, end = int(typed[3]) * HOUR + int(typed[4] or 0), int(typed[5]) * HOUR + int(typed[6] or 0)
        found += [(day, begin, end) for day in range(days[0], days[1] + 1)]
    return tuple(found)


def hours_said(those: Iterable[Hours]) -> str:
    """Hours as they would be typed: days one after another with the same hours together."""
    rows = list[list[int]]()  # first day, last day, from, to
    for day, begin, end in sorted(those, key=lambda each: (each[1:], each[0])):
        if rows and rows[-1][1] == day - 1 and rows[-1][2:] == [begin, end]:
            rows[-1][1] = day
        else:
            rows.append([day, day, begin, end])

    def at(minute: int) -> str:
        return f"{minute // HOUR}:{minute % HOUR:02}"

    return ", ".join(
        WEEK[first][:3] + (f"-{WEEK[last][:3]}" if last > first else "") + f" {at(begin)}-{at(end)}"
        for first, last, begin, end in sorted(rows)
    )


def days_off(text: str, today: date) -> tuple[date, ...]:
    """Days as they are typed, parted by commas: 2026-12-24, 30.4., in 9 days. Raises InputError."""
    found = (orders.day(part, today) for part in text.split(","))
    return tuple(sorted({each for each in found if each is not None}))


def _weekday(text: str) -> int:
    """The day of the week by its name, or the beginning of it; -1 for none."""
    return next((n for n, day in enumerate(WEEK) if day.lower().startswith(text)), -1)


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
