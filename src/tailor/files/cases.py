"""Cases and beliefs as JSON: what came out, and what is learned from it. Described in docs/format.md."""

from __future__ import annotations

import json
from collections.abc import Sequence
from datetime import date
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError

from tailor.core import incoming
from tailor.core.errors import InputError, shown
from tailor.core.log.case import Belief, Case, Fit, Said, When
from tailor.core.log.constants import CLEARANCE, RATE, constant
from tailor.files import problems

CASES, BELIEFS = "tailor-cases/1", "tailor-beliefs/1"
MOST = 20_000  # cases
WIDEST = 30.0  # mm that a clearance may be

Text = Annotated[str, Field(max_length=incoming.NAME)]
Number = Annotated[float, Field(allow_inf_nan=False)]
Above = Annotated[float, Field(gt=0, allow_inf_nan=False)]
Clearance = Annotated[float, Field(ge=-WIDEST, le=WIDEST)]


def _day(said: object) -> object:
    """A day, of a moment too."""
    return said[:10] if isinstance(said, str) else said


def _when(said: object) -> object:
    """When, in whichever of the usual words."""
    text = str(said).lower()
    return next((when.value for when in When if when.value.split()[-1] in text.split()), said)


Day = Annotated[date, BeforeValidator(_day)]


class _Entry(BaseModel):
    model_config = ConfigDict(extra="ignore")  # a case may say more than is needed here


class ReadingEntry(_Entry):
    """A reading of a constant."""

    constant: Text
    leather: Text = ""
    tannage: Text = ""
    method: Text = ""
    value: Number
    spread: Above | None = None
    made_on: Day
    piece: Text = ""


class FitEntry(_Entry):
    """How a thing fitted."""

    thing: Text
    drafted: Clearance
    said: Fit
    when: Annotated[When, BeforeValidator(_when)] = When.NEW
    made_on: Day
    gap: Clearance | None = None
    spread: Above = 0.2


class WorkEntry(_Entry):
    """How long work took."""

    rate: Text
    work: Text = ""
    amount: Above
    minutes: Above
    made_on: Day


class CasesEntry(_Entry):
    """All of a file."""

    format: Literal["tailor-cases/1"]
    cases: Annotated[list[dict[str, Any]], Field(max_length=MOST)]


def read(path: Path) -> tuple[tuple[Case, ...], tuple[Said, ...]]:
    """Cases of a file, and what was said of fits. Raises InputError naming the case."""
    entry = problems.read(path, CASES, "learning", CasesEntry)
    found = [_case(case, f"{path.name}, case {n}") for n, case in enumerate(entry.cases, start=1)]
    return tuple(c for c in found if isinstance(c, Case)), tuple(c for c in found if isinstance(c, Said))


def _case(plain: dict[str, Any], where: str) -> Case | Said:
    kind: type[_Entry] = ReadingEntry
    if "rate" in plain:
        kind = WorkEntry
    elif plain.get("constant") == CLEARANCE:
        kind = FitEntry
    try:
        entry = kind.model_validate(plain)
    except ValidationError as error:
        first = error.errors()[0]
        said = shown(f"{first['msg'][0].lower()}{first['msg'][1:]}")
        raise InputError(said, f"{where}, {'.'.join(map(str, first['loc']))}", "mend that case") from None
    match entry:
        case FitEntry():
            return Said(entry.thing, entry.drafted, entry.said, entry.when, entry.made_on, entry.gap, entry.spread)
        case WorkEntry():
            of = constant(RATE + entry.rate, where)
            took = of.checked(entry.minutes / entry.amount, where)
            return Case(of.name, took, of.noise / of.usual("") * took, entry.made_on, method=entry.work)
        case ReadingEntry():
            of = constant(entry.constant, where)
            value, spread = of.checked(entry.value, where), entry.spread or of.noise
            return Case(of.name, value, spread, entry.made_on, entry.leather, entry.tannage, entry.method, entry.piece)
    raise AssertionError(entry)


def to_text(beliefs: Sequence[Belief]) -> str:
    """Beliefs as the text of their file."""
    entries = [
        {**{name: round(value, 6) if isinstance(value, float) else value for name, value in vars(belief).items()},
         "since": None if belief.since is None else belief.since.isoformat()}
        for belief in beliefs
    ]  # fmt: skip
    return json.dumps({"format": BELIEFS, "beliefs": entries}, indent=1, ensure_ascii=False) + "\n"
