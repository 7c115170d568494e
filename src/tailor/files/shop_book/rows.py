"""Rows: values of the shop as the book and its plain files hold them, and back. Every row is plain text and numbers."""

from __future__ import annotations

import dataclasses
import json
from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import date, datetime
from functools import lru_cache
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, Json, NaiveDatetime, ValidationError

from tailor.core import incoming
from tailor.core.bench.altered import Altered
from tailor.core.bench.rates import Rates
from tailor.core.bench.schools import School
from tailor.core.bench.supplies import Kind
from tailor.core.errors import InputError, shown
from tailor.core.job import Job
from tailor.core.log.entry import Entry
from tailor.core.shop.hands import Hand
from tailor.core.shop.leathers import Skin, Sort, Use
from tailor.core.shop.orders import Line, Order, State
from tailor.core.shop.progress import Stretch, Worked
from tailor.core.shop.quote import Terms
from tailor.core.shop.shop import Shop
from tailor.core.shop.stock import Article, Used
from tailor.files import job_file, laid
from tailor.files.shop_book import entries

Row = dict[str, Any]
Rows = Mapping[str, Sequence[Row]]  # of each table by its name
Value = Sort | Skin | Article | Order | Hand | Worked | Altered | Entry | Terms | Rates | School
WORDS = 2000  # characters of a note
CURRENCY = 8  # letters

Name = Annotated[str, Field(min_length=1, max_length=incoming.NAME)]
Short = Annotated[str, Field(max_length=incoming.NAME)]
Long = Annotated[str, Field(max_length=WORDS)]
Number = Annotated[float, Field(allow_inf_nan=False)]


class _Row(BaseModel):
    model_config = ConfigDict(extra="ignore")  # a newer book may say more than is needed here


class SortRow(_Row):
    """A sort of leather."""

    id: Name
    name: Name
    thickness: Number
    temper: Short
    use: Use
    tannage: Short
    colour: Short
    price: Number
    note: Long


class SkinRow(_Row):
    """A hide or an offcut."""

    id: Name
    sort: Name
    off: Short
    used: bool
    hide: str


class ArticleRow(_Row):
    """What is used up."""

    id: Name
    kind: Kind
    name: Name
    size: Number
    there: Number
    price: Number


class OrderRow(_Row):
    """An order, without its lines."""

    id: Name
    name: Name
    whom: Short
    wanted: date | None
    promised: date | None
    state: State
    note: Long


class LineRow(_Row):
    """A line of an order."""

    id: Short
    order: Name
    nth: int
    count: int
    job: str


class HandRow(_Row):
    """Somebody who works: hours as [day of the week, from, to], days off."""

    id: Name
    name: Name
    hours: Json[list[tuple[int, int, int]]]
    off: Json[list[date]]


class WorkedRow(_Row):
    """What was done of a step: stretches as [from, to], the last without an end while hands are at it."""

    id: Name
    order: Name
    thing: Short
    name: Name
    family: Short
    planned: Number
    hand: Short
    stretches: Json[list[tuple[NaiveDatetime, NaiveDatetime | None]]]
    done: bool
    took: Number | None
    used: Json[list[tuple[Name, Number]]] = []  # which older books do not say


class AlteredRow(_Row):
    """What a maker changed of a step."""

    id: Name
    name: Short
    minutes: Number | None
    dropped: bool
    parts: int
    after: Short
    why: Short = ""  # which older books do not say


class EntryRow(_Row):
    """How one thing came out: what is told of it as JSON, and its job as the text of its file."""

    id: Name
    made_on: date
    name: Name
    style: Short
    leather: Short
    line: Short
    fit: Short
    minutes: Number
    words: str
    picture: Short
    tannage: Short
    told: str
    learns: str
    job: str


class SettingRow(_Row):
    """One of the shop's own numbers."""

    id: Name
    value: Short


ROWS: Mapping[str, type[_Row]] = {
    "sorts": SortRow, "skins": SkinRow, "stock": ArticleRow, "orders": OrderRow, "lines": LineRow,
    "hands": HandRow, "worked": WorkedRow, "altered": AlteredRow, "entries": EntryRow, "settings": SettingRow,
}  # fmt: skip
EMPTY_IS_NONE = ("wanted", "promised", "took", "minutes")


def rows_of(value: Value) -> dict[tuple[str, str], Row]:
    """The rows that hold a value, by their table and their id. Raises InputError where it is too long to be kept."""
    try:
        return _rows_of(value)
    except ValidationError as error:
        first = error.errors()[0]
        said = shown(first["msg"].replace("String", "it").replace("Input", "it"))
        where = shown(".".join(str(part) for part in first["loc"]) or type(value).__name__.lower(), incoming.SHOWN)
        raise InputError(said, where, "give what can be kept; nothing was changed") from None


def _rows_of(value: Value) -> dict[tuple[str, str], Row]:
    match value:
        case Sort():
            return {("sorts", value.id): _plain(SortRow(**vars(value)))}
        case Article():
            return {("stock", value.id): _plain(ArticleRow(**vars(value)))}
        case Skin():
            try:
                text = laid.entry_of(value.hide).model_dump_json()
            except ValidationError:  # it was cut from so often, or its outline is so fine
                said = "it has more holes or corners than can be kept"
                raise InputError(said, str(value.hide.id), "take what is left in anew, by its outline") from None
            row = SkinRow(id=value.id, sort=value.sort, off=value.off, used=value.used, hide=text)
            return {("skins", value.id): _plain(row)}
        case Order():
            told = {name: each for name, each in vars(value).items() if name != "lines"}
            found = {("orders", value.id): _plain(OrderRow(**told))}
            for nth, line in enumerate(value.lines):
                id_ = f"{value.id}/{line.mark}"
                row_ = LineRow(id=id_, order=value.id, nth=nth, count=line.count, job=job_file.to_text(line.job))
                found["lines", id_] = _plain(row_)
            return found
        case Hand():
            off = json.dumps([str(day) for day in value.off])
            hand = {"id": value.id, "name": value.name, "hours": json.dumps(value.hours), "off": off}
            return {("hands", value.id): hand}
        case Worked():
            stretches = json.dumps([[_said(s.began), _said(s.ended)] for s in value.stretches])
            used = json.dumps(value.used)
            told = vars(value) | {"stretches": stretches, "planned": float(value.planned), "used": used}
            return {("worked", value.id): told}
        case Altered():
            return {("altered", value.id): _plain(AlteredRow(**vars(value)))}
        case Entry():
            return {("entries", value.id): entries.row_of(value)}
        case Terms() | Rates() | School():
            kind = type(value).__name__.lower()
            return {
                ("settings", f"{kind}.{name}"): {"id": f"{kind}.{name}", "value": str(number)}
                for name, number in vars(value).items()
            }


def _plain(row: _Row) -> Row:
    return row.model_dump(mode="json")


def _said(at: datetime | None) -> str | None:
    """A moment by the bench's own clock, to the second."""
    return None if at is None else at.replace(tzinfo=None).isoformat(timespec="seconds")


def all_rows(shop: Shop, log: Iterable[Entry] = ()) -> dict[str, list[Row]]:
    """Every row of a shop and of its log, by its table."""
    found: dict[str, list[Row]] = {name: [] for name in ROWS}
    values: Iterable[Value] = (
        *shop.sorts, *shop.skins, *shop.stock, *shop.orders, *shop.hands, *shop.worked, *shop.altered, *log,
        shop.terms, shop.rates, shop.school,
    )  # fmt: skip
    for value in values:
        for (table, _), row in rows_of(value).items():
            found[table].append(row)
    return found


def shop_of(rows: Rows, where: str) -> Shop:
    """The shop that rows hold. where: they come from. Raises InputError saying which row cannot be used."""
    sorts = _each(rows, "sorts", where, lambda row: Sort(**_fields(row)))
    skins = _each(rows, "skins", where, _skin)
    stock = _each(rows, "stock", where, lambda row: Article(**_fields(row)))
    lines = dict[str, list[tuple[int, Line]]]()
    for order, nth, line in _each(rows, "lines", where, _line):
        lines.setdefault(order, []).append((nth, line))
    known = {sort.id for sort in sorts}
    for skin in skins:
        if skin.sort not in known:
            raise InputError(f"its leather '{skin.sort}' is not there", f"{where}, skin {skin.id}", "add that leather")

    def order_of(row: Any) -> Order:
        mine = sorted(lines.pop(row.id, []), key=lambda at: at[0])
        return Order(lines=tuple(line for _, line in mine), **_fields(row))

    orders = _each(rows, "orders", where, order_of)
    if lines:
        raise InputError("they belong to no order", f"{where}, lines of {next(iter(lines))}", "add the order")
    hands = _each(rows, "hands", where, lambda row: Hand(row.id, row.name, tuple(row.hours), tuple(row.off)))
    settings = _each(rows, "settings", where, lambda row: (row.id, row.value))
    said = dict(settings)
    numbers = _numbers(Terms, said, where), _numbers(Rates, said, where), _numbers(School, said, where)
    changed = _each(rows, "altered", where, lambda row: Altered(**_fields(row)))
    return Shop(sorts, skins, stock, orders, hands, *numbers, _each(rows, "worked", where, _worked), changed)


def log_of(rows: Rows, where: str) -> tuple[Entry, ...]:
    """The log that rows hold. Raises InputError saying which row cannot be used."""
    return _each(rows, "entries", where, lambda row: entries.entry_of(
        row.id, row.made_on, row.leather, row.tannage, row.line, row.told, row.job))  # fmt: skip


def _fields(row: _Row) -> dict[str, Any]:
    return {name: getattr(row, name) for name in type(row).model_fields}


def _each(rows: Rows, table: str, where: str, of: Callable[[Any], Any]) -> tuple[Any, ...]:
    """Every row of a table, checked, as what it holds."""
    found, seen = [], set[str]()
    for n, row in enumerate(rows.get(table, ()), start=1):
        at = f"{where}, {table}, row {n}"
        try:
            entry = ROWS[table].model_validate(row)
            if entry.id in seen:  # type: ignore[attr-defined]
                raise InputError(f"two are called '{entry.id}'", at, "give each an id of its own")  # type: ignore[attr-defined]
            seen.add(entry.id)  # type: ignore[attr-defined]
            found.append(of(entry))
        except ValidationError as error:
            first = error.errors()[0]
            said = shown(f"{first['msg'][0].lower()}{first['msg'][1:]}")
            raise InputError(said, f"{at}, {'.'.join(map(str, first['loc']))}", "mend that row") from None
        except InputError as error:
            raise (error if error.where == at else error.within(at)) from None
    return tuple(found)


def _skin(row: SkinRow) -> Skin:
    entry = laid.SheetEntry.model_validate(incoming.parse_json(row.hide))
    return Skin(row.id, row.sort, laid.hide_of(entry), row.off, row.used)


def _line(row: LineRow) -> tuple[str, int, Line]:
    mark = row.id.removeprefix(f"{row.order}/") if row.id.startswith(f"{row.order}/") else ""
    return row.order, row.nth, Line(_job(row.job), row.count, mark)


def _worked(row: WorkedRow) -> Worked:
    stretches = tuple(Stretch(began, ended) for began, ended in row.stretches)
    used = tuple(Used(*one) for one in row.used)
    return Worked(**_fields(row) | {"stretches": stretches, "used": used})


@lru_cache(maxsize=512)
def _job(text: str) -> Job:
    return job_file.from_text(text)


def _numbers(kind: type[Any], said: Mapping[str, str], where: str) -> Any:
    """The shop's own numbers of a kind; the usual ones where none is said."""
    given: dict[str, Any] = {}
    for field in dataclasses.fields(kind):
        name = f"{kind.__name__.lower()}.{field.name}"
        if name not in said:
            continue
        if field.type in (str, "str"):
            given[field.name] = incoming.named(said[name], name)[:CURRENCY] if said[name] else ""
            continue
        try:
            given[field.name] = float(said[name])
        except ValueError:
            raise InputError(f"'{shown(said[name])}' is no number", f"{where}, {name}", "give a number") from None
    return kind(**given)
