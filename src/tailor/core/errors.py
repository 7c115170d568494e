"""The one error that a maker's own input may raise."""

from __future__ import annotations


class InputError(ValueError):
    """Something the maker gave cannot be used.

    what: what is wrong, in the craft's words.
    where: the file and row, the setting, the piece or the zone it concerns.
    remedy: how to put it right.
    """

    def __init__(self, what: str, where: str, remedy: str) -> None:
        super().__init__(what, where, remedy)
        self.what = what
        self.where = where
        self.remedy = remedy

    def __str__(self) -> str:
        return f"{self.where}: {self.what}; {self.remedy}."

    def within(self, place: str) -> InputError:
        """The same complaint, with the larger place (a file, say) named in front."""
        return InputError(self.what, f"{place}, {self.where}", self.remedy)
