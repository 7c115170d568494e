"""A shop as plain files: one of JSON with all of it, and a table of CSV for each of its tables. Nothing is lost there
and back. Described in docs/format.md.
"""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from tailor.core import incoming
from tailor.core.errors import DiskError, InputError
from tailor.core.log.entry import Entry
from tailor.core.shop.shop import Shop
from tailor.files import atomic
from tailor.files.shop_book import rows

FORMAT = "tailor-shop/1"
WHOLE = "shop.json"
LARGEST = 200_000_000  # bytes of all of it
MOST = 200_000  # rows of a table


def write(shop: Shop, folder: Path, log: Iterable[Entry] = ()) -> list[Path]:
    """Write a shop and its log into a folder; the files. Raises DiskError where it cannot be written."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise DiskError(f"it cannot be made ({incoming.said(error)})", str(folder), "give another folder") from None
    tables = rows.all_rows(shop, log)
    contents = {folder / WHOLE: json.dumps({"format": FORMAT, **tables}, indent=1, ensure_ascii=False) + "\n"}
    contents |= {folder / f"{name}.csv": _csv(name, found) for name, found in tables.items()}
    with atomic.gathered({path: text.encode() for path, text in contents.items()}) as put:
        put()
    return list(contents)


def read(folder: Path) -> tuple[Shop, tuple[Entry, ...]]:
    """The shop in a folder, and its log: of its JSON, or where there is none of its tables. Raises InputError saying
    which row cannot be used, DiskError where it cannot be read.
    """
    if (folder / WHOLE).exists():
        return from_text(_text(folder / WHOLE), WHOLE)
    tables = {name: folder / f"{name}.csv" for name in rows.ROWS}
    if not any(path.exists() for path in tables.values()):
        raise InputError("there is no shop in it", str(folder), f"give a folder with {WHOLE}, or with tables")
    found = {name: _rows(_text(path), path.name) for name, path in tables.items() if path.exists()}
    return rows.shop_of(found, folder.name or "shop"), rows.log_of(found, folder.name or "shop")


def from_text(text: str, where: str) -> tuple[Shop, tuple[Entry, ...]]:
    """The shop in the text of its JSON, and its log. Raises InputError."""
    try:
        found: Any = incoming.parse_json(text)
    except InputError as error:
        raise error.within(where) from None
    if not isinstance(found, dict) or found.get("format") != FORMAT:
        raise InputError(f"it is no shop: no {FORMAT}", where, "give one that Tailor wrote out")
    for name in rows.ROWS:
        table = found.setdefault(name, [])
        if not isinstance(table, list) or len(table) > MOST or not all(isinstance(row, dict) for row in table):
            raise InputError("it is no table of a shop", f"{where}, {name}", "see docs/format.md")
    return rows.shop_of(found, where), rows.log_of(found, where)


def _csv(name: str, found: list[rows.Row]) -> str:
    text = io.StringIO()
    table = csv.DictWriter(text, list(rows.ROWS[name].model_fields), lineterminator="\n")
    table.writeheader()
    table.writerows(found)
    return text.getvalue()


def _rows(text: str, where: str) -> list[rows.Row]:
    usual = csv.field_size_limit(incoming.JOB)  # a cell may hold a whole job
    try:
        found = list(csv.DictReader(io.StringIO(text), strict=True))
    except csv.Error as error:
        raise InputError(f"it cannot be read ({error})", where, "mend it, or write it out anew") from None
    finally:
        csv.field_size_limit(usual)  # of other tables no more than before
    if len(found) > MOST:
        raise InputError(f"{len(found)} rows are too many", where, f"give {MOST} at most")
    for n, row in enumerate(found, start=1):
        if None in row:
            raise InputError("it has more cells than there are columns", f"{where}, row {n}", "mend that row")
        for name in rows.EMPTY_IS_NONE:
            if name in row and not row[name]:
                row[name] = None
    return found


def _text(path: Path) -> str:
    try:
        return incoming.read_bytes(path, LARGEST).decode("utf-8")
    except UnicodeDecodeError:
        raise InputError("it cannot be read as text", path.name, "save it as plain text in UTF-8") from None
