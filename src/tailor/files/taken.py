"""What a maker has learned and made his own, as JSON: in a file of his, and in every job begun since."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from tailor.core import incoming
from tailor.core.errors import InputError
from tailor.core.incoming import quoted
from tailor.core.keys import KEYS
from tailor.core.measure import Kind
from tailor.core.taken import DRYING, Taken
from tailor.files import atomic, problems

FORMAT = "tailor-learned/1"
MOST = 1000

Number = Annotated[float, Field(allow_inf_nan=False)]
Short = Annotated[str, Field(max_length=incoming.NAME)]


class TakenEntry(BaseModel):
    """What was learned of a constant: of which leather (mm thick), method and construction, where of one."""

    model_config = ConfigDict(extra="forbid")

    constant: Short
    value: Number
    sd: Annotated[float, Field(ge=0, allow_inf_nan=False)]
    cases: Annotated[int, Field(ge=0, le=10**6)]
    table: Number
    leather: Short = ""
    thickness: Number = 0.0
    temper: Short = ""
    method: Short = ""
    thing: Short = ""

    @property
    def taken(self) -> Taken:
        """What it says. Raises InputError where drafts could not go by it."""
        one, of = Taken(**self.model_dump()), KEYS.get(self.constant)
        if of is None and self.constant != DRYING:
            raise InputError(f"there is no measure {quoted(self.constant)}", "learned", "take it out")
        if of is not None and of.kind in (Kind.CHOICE, Kind.WORD, Kind.SIZES):
            raise InputError("it is no number", f"learned {self.constant}", "take it out")
        if of is not None:
            of.checked(one.value)
        return one


class TakenFile(BaseModel):
    """All that a maker has taken."""

    format: Literal["tailor-learned/1"]
    learned: Annotated[list[TakenEntry], Field(max_length=MOST)]


def read(path: Path) -> tuple[Taken, ...]:
    """What lies in a file. Raises InputError saying what cannot be used."""
    return tuple(entry.taken for entry in problems.read(path, FORMAT, "learning", TakenFile).learned)


def write(path: Path, taken: Sequence[Taken]) -> None:
    """Keep what was taken. Raises DiskError where it cannot be written."""
    text = json.dumps({"format": FORMAT, "learned": [vars(each) for each in taken]}, indent=1, ensure_ascii=False)
    atomic.write(path, (text + "\n").encode())
