"""The plan that was worked by last, kept from one session to the next, so that it is planned anew from how it was.

It lies in the folder of state, by which shop book it is of; where it cannot be read, all is planned as for the first
time.
"""

from __future__ import annotations

from datetime import date
from hashlib import sha256
from pathlib import Path
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from tailor.core.bench.work import Plan, Spell
from tailor.core.errors import InputError
from tailor.files import atomic, state

FORMAT = "tailor-kept-plan/1"
MOST = 16_000_000  # bytes
LAST = 10**8  # minutes

Minute = Annotated[int, Field(ge=-LAST, le=LAST)]
Said = tuple[str, Minute, Minute]


class _Kept(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=False)

    format: Literal["tailor-kept-plan/1"]
    monday: date
    patience: Annotated[int, Field(ge=0, le=LAST)]
    like: Annotated[float, Field(ge=0, le=1)] = 0.0
    steps: dict[str, Annotated[list[Said], Field(min_length=1)]]
    setups: list[tuple[str, Said]]
    ranks: dict[str, Annotated[float, Field(allow_inf_nan=False)]]


def path_of(book: Path) -> Path:
    """Where the plan of a shop book lies."""
    return state.folder() / f"plan-{sha256(str(book.absolute()).encode()).hexdigest()[:16]}.json"


def keep(plan: Plan, monday: date, book: Path) -> None:
    """Keep a plan whose minutes are counted from a Monday. Raises DiskError where nothing can be written."""
    kept = _Kept(
        format="tailor-kept-plan/1", monday=monday, patience=plan.patience, like=plan.like,
        steps={id_: [_said(spell) for spell in spells] for id_, spells in plan.steps.items()},
        setups=[(family, _said(spell)) for family, spell in plan.setups], ranks=dict(plan.ranks),
    )  # fmt: skip
    atomic.write(path_of(book), kept.model_dump_json().encode())


def kept(book: Path) -> tuple[Plan, date] | None:
    """The plan that was kept of a shop book, and the Monday that it is counted from; None where there is none."""
    path = path_of(book)
    try:
        if path.stat().st_size > MOST:
            return None
        found = _Kept.model_validate_json(path.read_bytes())
    except (OSError, ValidationError, InputError):
        return None
    steps = {id_: tuple(Spell(*spell) for spell in spells) for id_, spells in found.steps.items()}
    setups = tuple((family, Spell(*spell)) for family, spell in found.setups)
    return Plan(steps, setups, found.ranks, found.patience, found.like), found.monday


def _said(spell: Spell) -> Said:
    return spell.person, spell.start, spell.end
