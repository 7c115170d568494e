"""The work on paper and in tables: this evening's card, a card for each thing, steps as CSV, hours as a calendar.

Described in docs/format.md.
"""

from __future__ import annotations

import csv
import io
from datetime import datetime
from pathlib import Path

from reportlab.pdfgen.canvas import Canvas

from tailor.core.bench.steps import Doing, Steps
from tailor.core.bench.work import Plan
from tailor.core.errors import InputError
from tailor.core.shop.progress import Progress, Stands
from tailor.core.shop.sitting import Evening, Turn, evening, turns
from tailor.core.shop.workload import Workload
from tailor.files import atomic, calendar
from tailor.files.dyes import MADDER
from tailor.files.paper import PAPERS
from tailor.files.written import POINT, SMALL, Sheet

SUFFIXES = (".pdf", ".csv", ".ics")
BOX = 6.5  # mm that words stand in from the box before them
COLUMNS = ("order", "thing", "step", "who", "begins", "ends", "minutes", "stands", "took", "tools", "uses", "look",
           "caution")  # fmt: skip


def write(load: Workload, plan: Plan, progress: Progress, out: Path, who: str = "") -> None:
    """Write cards (PDF), steps (CSV) or a calendar (ICS), as the suffix says. who: whose evening is on the first card.

    Raises InputError for another suffix, DiskError where it cannot be written.
    """
    suffix = out.suffix.lower()
    if suffix not in SUFFIXES:
        raise InputError(f"work is not written as '{suffix}'", out.name, f"end its name in {' or '.join(SUFFIXES)}")
    if suffix == ".pdf":
        atomic.write(out, pdf(load, plan, progress, who))
    elif suffix == ".csv":
        atomic.write(out, table(load, plan, progress).encode())
    else:
        atomic.write(out, calendar.to_bytes(load, plan))


def table(load: Workload, plan: Plan, progress: Progress) -> str:
    """Every step as a row of CSV, those that are done too."""
    text = io.StringIO()
    rows = csv.writer(text, lineterminator="\n")
    rows.writerow(COLUMNS)
    for id_, task in load.tasks.items():
        worked, spells = progress.of(id_), plan.steps.get(id_, ())
        if spells:
            who, begins, ends = spells[0].person, load.when(spells[0].start), load.when(spells[-1].end)
        elif worked is not None and worked.stretches:
            who, begins, ends = worked.hand, worked.stretches[0].began, worked.ended
        else:
            continue
        took = f"{worked.minutes(ends):.1f}" if worked is not None and worked.done else ""
        rows.writerow((
            task.order.name, task.thing, task.doing.name, who, begins.isoformat(timespec="minutes"),
            ends.isoformat(timespec="minutes"), task.doing.whole_minutes, progress.stands(id_), took, task.doing.tools,
            task.doing.uses, task.doing.look, task.doing.caution,
        ))  # fmt: skip
    return text.getvalue()


def pdf(load: Workload, plan: Plan, progress: Progress, who: str = "", paper: str = "a4") -> bytes:
    """This evening's card, and after it a card for each thing with all its steps in an order that works."""
    short, tall = sorted(PAPERS[paper])
    held = io.BytesIO()
    canvas = Canvas(held, pagesize=(short * POINT, tall * POINT), invariant=1)
    canvas.setTitle("The work")
    sheet = Sheet(canvas, short, tall)
    mine = turns(load, plan, progress, who)
    if (day := evening(load, mine)) is not None:
        _evening(sheet, day, who)
    every = {turn.id: turn for turn in turns(load, plan, progress)}
    for at, steps in load.things.items():
        sheet.turn()
        _thing(sheet, load, at, steps, progress, every)
    canvas.save()
    return held.getvalue()


def _evening(sheet: Sheet, day: Evening, who: str) -> None:
    sheet.line(f"{day.day:%A} {day.day.day} {day.day:%B}" + (f", {who}" if who else ""), 16, bold=True, after=9)
    for turn in day.turns:
        _step(sheet, turn.task.doing, f"{turn.begins:%H:%M}", turn.task.thing, done=False, again=turn.again)
    if day.left:
        sheet.down(3)
        sheet.line("Lies over night", 12, bold=True, after=7)
        for said in day.left:
            sheet.line(said, 10)


def _thing(sheet: Sheet, load: Workload, at: str, steps: Steps, progress: Progress, every: dict[str, Turn]) -> None:
    """A thing's own card: steps in the order they come, each with what it waits for."""
    task = load.tasks[at + steps.doings[0].key]
    sheet.line(task.thing, 16, bold=True, after=7)
    due = f", due {task.order.due:%A} {task.order.due.day} {task.order.due:%B}" if task.order.due else ""
    whom = f", for {task.order.whom}" if task.order.whom else ""
    sheet.line(f"{task.order.name}{whom}{due}", 10, after=8)

    def comes(doing: Doing) -> tuple[datetime, datetime]:
        turn, worked = every.get(at + doing.key), progress.of(at + doing.key)
        if turn is not None:
            return turn.begins, turn.ends
        return (worked.ended, worked.ended) if worked is not None else (datetime.max, datetime.max)

    for doing in sorted(steps.doings, key=comes):
        turn, done = every.get(at + doing.key), progress.stands(at + doing.key) is Stands.DONE
        when = f"{turn.begins:%a %H:%M}" if turn is not None else "done" if done else ""
        waits = [f"{f.least} min after {steps[f.before].name}{_latest(f.most)}: {f.why}"
                 for f in steps.follows if f.after == doing.key and f.least]  # fmt: skip
        _step(sheet, doing, when, "", done and turn is None, turn.again if turn else "", waits)


def _latest(most: int | None) -> str:
    return "" if most is None else f", {most} at the latest"


def _step(
    sheet: Sheet, doing: Doing, when: str, thing: str, done: bool, again: str = "", waits: list[str] | None = None
) -> None:
    look = f"look: {doing.look}" if doing.look else ""
    told = " · ".join(said for said in (doing.why, doing.tools, doing.uses, look) if said)
    small = [said for said in (*(waits or ()), told, again) if said]
    sheet.need(6 + SMALL * (len(small) + bool(doing.caution)))
    sheet.tick(done)
    of = f"  ({thing})" if thing else ""
    sheet.line(f"{when}  {doing.name}{of}, {doing.whole_minutes} min".strip(), 11, bold=True, after=5, inset=BOX)
    for said in small:
        sheet.line(said, 9, after=SMALL, inset=BOX)
    if doing.caution:
        sheet.line(doing.caution, 9, after=SMALL, inset=BOX, ink=MADDER)
    sheet.down(1.2)
