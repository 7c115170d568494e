"""Habits as a table: every number that makers go by without asking, and those a maker has of his own."""

from __future__ import annotations

import csv
import io

from tailor.core.errors import InputError
from tailor.core.habit import Habit, declared, named

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
            found[of.name] = of.parse(typed, where=row)
    return found


def table() -> str:
    """Every habit, with nothing under `mine` yet."""
    told = io.StringIO()
    rows = csv.writer(told, lineterminator="\n")
    rows.writerow(COLUMNS)
    for of in declared().values():
        rows.writerow((of.name, "", f"{of.usual:.4g}", of.unit, f"{of.low:g}", f"{of.high:g}", of.said, of.source))
    return told.getvalue()


def with_mine(text: str, of: Habit, value: float | None) -> str:
    """A table that can be read, with a maker's own number of one habit; the usual again where there is none. All else
    in it stays as it is.
    """
    lines = text.splitlines()
    begins = next(n for n, line in enumerate(lines) if line.strip() and not line.startswith("#"))
    head = [cell.strip() for cell in next(csv.reader([lines[begins]]))]
    name, mine = head.index("name"), head.index("mine")
    said = "" if value is None else f"{value:.6g}"
    there = False
    for n, line in enumerate(lines[begins + 1 :], begins + 1):
        cells = next(csv.reader([line]), [])
        if not line.startswith("#") and len(cells) > name and cells[name].strip() == of.name:
            cells += [""] * (mine + 1 - len(cells))
            cells[mine], there = said, True
            lines[n] = _row(cells)
    if not there:
        lines.append(_row([of.name if k == name else said if k == mine else "" for k in range(len(head))]))
    return "\n".join([*lines, ""])


def _row(cells: list[str]) -> str:
    told = io.StringIO()
    csv.writer(told, lineterminator="").writerow(cells)
    return told.getvalue()
