"""Stepwise: one change of a shop book row by row, each from what it was to what it is to be, and back."""

from __future__ import annotations

import json
from collections.abc import Iterable
from typing import Any

import sqlalchemy as sa

from tailor.core.errors import InputError
from tailor.files.shop_book import schema
from tailor.files.shop_book.rows import Row

Step = tuple[tuple[str, str], Row | None, Row | None]  # a row by its table and its id, as it was and as it is to be


def in_order(steps: Iterable[Step]) -> list[Step]:
    """Steps in an order in which nothing ever points to what is not there."""
    place = {table.name: n for n, table in enumerate(schema.HELD)}
    return sorted(steps, key=lambda step: (step[2] is None, place[step[0][0]] * (-1 if step[2] is None else 1)))


def take(connection: sa.Connection, at: tuple[str, str], before: Row | None, after: Row | None) -> None:
    """One row from what it was to what it is to be. Raises InputError where it is not what it was."""
    name, key = at
    table = schema.METADATA.tables[name]
    one = table.c.id == key
    found = connection.execute(sa.select(table).where(one)).first()
    there = None if found is None else dict(found._mapping)
    if there != before:
        gone = "is no longer there" if there is None else "was changed by another bench meanwhile"
        called = (before or there or {}).get("name", key)
        raise InputError(f"'{called}' {gone}", "shop book", "look at what is there now, and change that")
    if after is None:
        connection.execute(sa.delete(table).where(one))
    elif before is None:
        connection.execute(sa.insert(table).values(after))
    else:
        connection.execute(sa.update(table).where(one).values(after))


def turned(connection: sa.Connection, undo: bool) -> Any:
    """The change that is undone next, or done again."""
    own = schema.CHANGES.c
    order = own.id.desc() if undo else own.id.asc()
    wanted = sa.select(schema.CHANGES).where(own.undone.is_(not undo)).order_by(order).limit(1)
    return connection.execute(wanted).first()


def as_text(row: Row | None) -> str | None:
    """A row as it is kept with a change; None where there was none."""
    return None if row is None else json.dumps(row, ensure_ascii=False)


def as_row(text: str | None) -> Row | None:
    """A row as it was kept."""
    return None if text is None else json.loads(text)
