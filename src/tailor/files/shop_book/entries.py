"""Entries of the log as the book holds them: at a glance in columns, what is told and what is learned as JSON, the job
whole as the text of its file.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from datetime import date
from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError

from tailor.core import incoming
from tailor.core.errors import InputError, shown
from tailor.core.log.case import Case, Fit, Said, When
from tailor.core.log.constants import constant
from tailor.core.log.entry import NOTE as LONGEST
from tailor.core.log.entry import (
    OF_LEATHER,
    Entry,
    Feels,
    FitAt,
    Look,
    Looks,
    Mark,
    Picture,
    Place,
    Took,
    Traced,
    cases,
)
from tailor.core.log.logged import Logged, words
from tailor.core.log.measurable import CameOut, Measurable
from tailor.files import job_file

Short = Annotated[str, Field(max_length=incoming.NAME)]
Number = Annotated[float, Field(allow_inf_nan=False)]
Known = Annotated[str, AfterValidator(lambda name: constant(name, "log").name if name else "")]
GLANCE = ("id", "made_on", "name", "style", "leather", "line", "fit", "minutes", "words", "picture")


class _Told(BaseModel):
    model_config = ConfigDict(extra="ignore")


class FitTold(_Told):
    place: Place
    fit: Fit
    when: When


class MeasureTold(_Told):
    what: Short
    drafted: Number
    value: Number
    constant: Known
    used: Number
    per: Number
    noise: Annotated[float, Field(gt=0, allow_inf_nan=False)]
    method: Short = ""

    @property
    def came_out(self) -> CameOut:
        return CameOut(Measurable(**self.model_dump(exclude={"value"})), self.value)


class LooksTold(_Told):
    look: Look
    mark: Mark
    word: Short = ""


class TookTold(_Told):
    rate: Known
    usual: Annotated[float, Field(gt=0, allow_inf_nan=False)]
    minutes: Annotated[float, Field(gt=0, allow_inf_nan=False)]


class PictureTold(_Told):
    name: Short
    taken_on: date


class TracedTold(_Told):
    piece: Short
    ring: Annotated[list[tuple[Number, Number]], Field(min_length=3, max_length=3000)]
    over: bool = False

    @property
    def traced(self) -> Traced:
        return Traced(self.piece, tuple(self.ring), self.over)


class EntryTold(_Told):
    """All of an entry that is neither at a glance nor its job."""

    hide: Short = ""
    fits: Annotated[list[FitTold], Field(max_length=60)] = []
    feels: Annotated[list[Feels], Field(max_length=10)] = []
    measured: Annotated[list[MeasureTold], Field(max_length=60)] = []
    looks: Annotated[list[LooksTold], Field(max_length=20)] = []
    took: Annotated[list[TookTold], Field(max_length=60)] = []
    next_time: Annotated[str, Field(max_length=LONGEST)] = ""
    pictures: Annotated[list[PictureTold], Field(max_length=60)] = []
    traced: Annotated[list[TracedTold], Field(max_length=60)] = []


def row_of(entry: Entry) -> dict[str, Any]:
    """The row that holds an entry."""
    told = EntryTold(
        hide=entry.hide, fits=[FitTold(**vars(f)) for f in entry.fits],
        feels=list(entry.feels), measured=[MeasureTold(**vars(m.of), value=m.value) for m in entry.measured],
        looks=[LooksTold(**vars(look)) for look in entry.looks], took=[TookTold(**vars(t)) for t in entry.took],
        next_time=entry.next_time, pictures=[PictureTold(**vars(p)) for p in entry.pictures],
        traced=[TracedTold(piece=t.piece, ring=list(t.ring), over=t.over) for t in entry.traced],
    )  # fmt: skip
    return {
        "id": entry.id, "made_on": entry.made_on.isoformat(), "name": entry.job.name, "style": entry.job.style,
        "leather": entry.leather, "line": entry.line, "fit": entry.fit.value if entry.fit else "",
        "minutes": float(entry.minutes), "words": words(entry),
        "picture": entry.pictures[0].name if entry.pictures else "", "tannage": entry.tannage,
        "told": told.model_dump_json(), "learns": _learns(entry), "job": job_file.to_text(entry.job),
    }  # fmt: skip


def entry_of(id_: str, made_on: date, leather: str, tannage: str, line: str, told: str, job: str) -> Entry:
    """The entry of a row. Raises InputError saying what in it cannot be used."""
    try:
        found = EntryTold.model_validate_json(told)
    except ValidationError as error:
        first = error.errors()[0]
        said = shown(f"{first['msg'][0].lower()}{first['msg'][1:]}")
        raise InputError(said, ".".join(map(str, ("told", *first["loc"]))), "mend that row") from None
    return Entry(
        id_, made_on, job_file.from_text(job), leather, tannage, found.hide, line,
        tuple(FitAt(**dict(f)) for f in found.fits), tuple(found.feels),
        tuple(m.came_out for m in found.measured), tuple(Looks(**dict(each)) for each in found.looks),
        tuple(Took(**dict(t)) for t in found.took), found.next_time,
        tuple(Picture(**dict(p)) for p in found.pictures), tuple(t.traced for t in found.traced),
    )  # fmt: skip


def glance(row: Any) -> Logged:
    """What a row tells at a glance."""
    return Logged(**{name: getattr(row, name) for name in GLANCE} | {"made_on": date.fromisoformat(row.made_on)})


def _learns(entry: Entry) -> str:
    """What is learned from an entry, so that all of a log can be learned from at once."""
    readings, said = cases((entry,))
    return json.dumps([
        [[c.constant, c.value, c.spread, c.method] for c in readings],
        [[s.thing, s.drafted, s.fit.value, s.when.value] for s in said],
    ], ensure_ascii=False)  # fmt: skip


def lessons(rows: Iterable[tuple[str, str, str, str, str]]) -> tuple[tuple[Case, ...], tuple[Said, ...]]:
    """The cases of rows: of each its id, day, leather, tannage and what is learned from it."""
    readings, said = list[Case](), list[Said]()
    for id_, made_on, leather, tannage, learns in rows:
        day = date.fromisoformat(made_on)
        ours, fits = json.loads(learns)
        for name, value, spread, method in ours:
            of = (leather, tannage) if name.startswith(OF_LEATHER) else ("", "")
            readings.append(Case(name, value, spread, day, *of, method, id_))
        said += [Said(thing, drafted, Fit(fit), When(when), day) for thing, drafted, fit, when in fits]
    return tuple(readings), tuple(said)
