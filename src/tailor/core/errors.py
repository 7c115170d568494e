"""The errors that a maker's own input, or the disk, may raise."""

from __future__ import annotations

import unicodedata
from typing import Self

UNSEEN = ("Cc", "Cs", "Cn", "Zl", "Zp")  # kinds of characters that no name has
TOLD = 600  # characters of a name or a message that are told


def plain(text: str) -> bool:
    """Whether text has nothing in it that steers a printer or a terminal, breaks a line, or is no letter at all."""
    return (text.isascii() and text.isprintable()) or not any(unicodedata.category(c) in UNSEEN for c in text)


def shown(text: str, most: int = TOLD) -> str:
    """Text from outside as it may be told: what cannot be printed is spelt out, and no more of it than `most`."""
    if not plain(text):
        text = "".join(c if plain(c) else c.encode("unicode_escape", "backslashreplace").decode() for c in text)
    return text if len(text) <= most else f"{text[: most - 1]}…"


class InputError(ValueError):
    """Something the maker gave cannot be used.

    what: what is wrong, in the craft's words.
    where: the file and row, the setting, the piece or the zone it concerns.
    remedy: how to put it right.
    ways: that said as settings that may be typed, key to value, any one of them; none where it cannot be.

    What cannot be printed in any of them is spelt out, so that it is one sentence wherever it is told.
    """

    def __init__(self, what: str, where: str, remedy: str, ways: tuple[tuple[str, str], ...] = ()) -> None:
        what, where, remedy = shown(what), shown(where), shown(remedy)
        super().__init__(what, where, remedy)
        self.what = what
        self.where = where
        self.remedy = remedy
        self.ways = ways

    def __str__(self) -> str:
        return f"{self.where}: {self.what}; {self.remedy}."

    def within(self, place: str) -> Self:
        """The same complaint, with the larger place (a file, say) named in front."""
        return type(self)(self.what, f"{place}, {self.where}", self.remedy, self.ways)


class UnseenError(InputError):
    """What a photo is measured by is not to be seen in it."""


class DiskError(InputError):
    """A file or a folder cannot be read or written at all, whatever is in it."""
