"""Habits as a table: every number that makers go by without asking, and those a maker has of his own."""

from __future__ import annotations

import csv
import io

from tailor.core.errors import InputError
from tailor.core.habit import LENGTH, Habit, declared, named
from tailor.core.units import parse_length

NAME = "habits.csv"
COLUMNS = ("name", "mine", "usual", "unit", "from", "to", "what it is", "where it is from")


def read(text: str, where: str) -> dict[str, float]:
    """A maker's own numbers by the names of their habits: those of the rows with something under `mine`, lengths in any
    unit. Raises InputError naming the row.
    """
    lines = [(n, line) for n, line in enumerate(text.splitlines(), 1) if line.strip() and not line.startswith("#")]
    head = [cell.strip() for cell in next(csv.reader([lines[0][1]]))] if lines else []
    if missing := [column for column in COLUMNS[:2] if column not in head]:
        raise InputError(f"it has no column '{missing[0]}'", where, "keep the heading as it was")
    found: dict[str, float] = {}
    for n, line in lines[1:]:
        cells = dict(zip(head, (cell.strip() for cell in next(csv.reader([line]))), strict=False))
        row = f"{where}, row {n}"
        of = named(cells.get("name", ""), row)
        if typed := cells.get("mine", ""):
            if of.name in found:
                raise InputError(f"{of.name} is there twice", row, "keep one of the two")
            found[of.name] = of.checked(_number(of, typed, row), row)
    return found


def _number(of: Habit, typed: str, where: str) -> float:
    if of.unit == LENGTH:
        return parse_length(typed, where=where)
    try:
        return float(typed)
    except ValueError:
        raise InputError(f"{typed[:60]!r} is no number", where, f"give one as {of.usual:.3g}") from None


def table() -> str:
    """Every habit, with nothing under `mine` yet."""
    told = io.StringIO()
    rows = csv.writer(told, lineterminator="\n")
    rows.writerow(COLUMNS)
    for of in declared().values():
        rows.writerow((of.name, "", f"{of.usual:.4g}", of.unit, f"{of.low:g}", f"{of.high:g}", of.said, of.source))
    return told.getvalue()
