"""Logged: what the log tells of each entry at a glance, for a list and a search; and a year of them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date

from tailor.core.log.case import Fit
from tailor.core.log.entry import Entry, Mark


@dataclass(frozen=True)
class Logged:
    """An entry at a glance. fit: as it was felt last. minutes: of hands, 0 where not known. words: it is found by."""

    id: str
    made_on: date
    name: str
    style: str
    leather: str
    line: str
    fit: str
    minutes: float
    words: str
    picture: str = ""

    def has(self, wanted: Iterable[str]) -> bool:
        """Whether it has all of some words, in small letters."""
        return all(word in self.words for word in wanted)


@dataclass(frozen=True)
class Year:
    """What was made in a year. came_back: fits that were not right, by their word."""

    year: int
    made: int
    hours: float
    kinds: tuple[tuple[str, int], ...]
    came_back: tuple[tuple[str, int], ...]


def found(logged: Iterable[Logged], text: str) -> list[Logged]:
    """Entries that have all the words of a text, the newest first."""
    wanted = text.lower().split()
    return sorted((one for one in logged if one.has(wanted)), key=lambda one: (one.made_on, one.id), reverse=True)


def years(logged: Iterable[Logged]) -> list[Year]:
    """Year by year, the newest first."""
    by_year = dict[int, list[Logged]]()
    for one in logged:
        by_year.setdefault(one.made_on.year, []).append(one)
    return [
        Year(
            year, len(of), sum(one.minutes for one in of) / 60, tuple(Counter(one.style for one in of).most_common()),
            tuple(Counter(one.fit for one in of if one.fit not in ("", Fit.RIGHT.value)).most_common()),
        )
        for year, of in sorted(by_year.items(), reverse=True)
    ]  # fmt: skip


def words(entry: Entry) -> str:
    """What an entry is found by: its name, construction and leather, how it fits, and what is said of it."""
    thick = entry.job.settings.number("leather.thickness")
    said = (
        entry.job.name, entry.job.style, entry.leather, entry.tannage, entry.hide, f"{thick:g} mm",
        str(entry.made_on), *(fit.fit.value for fit in entry.fits),
        *(look.look.value for look in entry.looks if look.mark is Mark.POOR), *(look.word for look in entry.looks),
        *(feels.value for feels in entry.feels), entry.next_time,
    )  # fmt: skip
    return " ".join(said).lower()
