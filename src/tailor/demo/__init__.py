"""The thatching crew's jobs: a file each, a station table whose remarks say what is made of it.

`# job: Whetstone`, `# style: slip-case` and any number of `# set: leather.thickness=1.8` stand above the table; panels
of an old carrier as `# panel: front = 0,0 80,0 80,60`, its seams as `# seam: side = front 2 + back 4`. What is put on
the leather stands in tooled.json.
"""

from __future__ import annotations

import json
from dataclasses import replace
from functools import cache
from importlib.resources import files
from pathlib import Path

from tailor.core.carried.stations import parse_csv
from tailor.core.carried.traced import Panel, Sewn, Traced
from tailor.core.draft.tooled.asked import Asked
from tailor.core.errors import DiskError, InputError
from tailor.core.incoming import said
from tailor.core.job import Job
from tailor.files import atomic, job_file, tooling

FIRST = "eaves-blade"


@cache
def names() -> tuple[str, ...]:
    """Every demo job by its file, the first first."""
    found = sorted(f.name[:-4].replace("_", "-") for f in files(__name__).iterdir() if f.name.endswith(".csv"))
    return (FIRST, *(name for name in found if name != FIRST))


@cache
def measurements(name: str = FIRST) -> str:
    """The raw station table of a demo job, as CSV text. Raises InputError for a name that is not one."""
    if name not in names():
        raise InputError(f"there is no demo job '{name}'", "--demo", f"give {' or '.join(names())}")
    return (files(__name__) / f"{name.replace('-', '_')}.csv").read_text(encoding="utf-8")


def job(name: str = FIRST) -> Job:
    """A demo job. Raises InputError for a name that is not one."""
    text = measurements(name)
    table = parse_csv(text)
    made = Job(_said(text, "job")[0], _said(text, "style")[0], table.stations).measured(table)
    for each in _said(text, "set"):
        key, _, value = each.partition("=")
        made = made.typed(key, value)
    panels = [(name.strip(), tuple(_place(at) for at in places.split())) for name, _, places in _parted(text, "panel")]
    seams = [
        (name.strip(), tuple(edge.strip() for edge in edges.split("+"))) for name, _, edges in _parted(text, "seam")
    ]
    traced = Traced(tuple(Panel(*p) for p in panels), tuple(Sewn(*s) for s in seams))
    return replace(made, traced=traced, tooling=_tooled().get(name, ()))


@cache
def _tooled() -> dict[str, tuple[Asked, ...]]:
    """What is put on the leather of each demo job, as a job file has it."""
    text = (files(__name__) / "tooled.json").read_text(encoding="utf-8")
    return {name: tuple(map(tooling.asked_of, every)) for name, every in json.loads(text).items()}


def _parted(text: str, word: str) -> list[tuple[str, str, str]]:
    return [said.partition("=") for said in _said(text, word)]


def _place(text: str) -> tuple[float, float]:
    x, y = text.split(",")
    return float(x), float(y)


def _said(text: str, word: str) -> list[str]:
    """What the remarks of a table say under a word."""
    head = f"# {word}:"
    return [line[len(head) :].strip() for line in text.splitlines() if line.startswith(head)]


def write(folder: Path) -> list[Path]:
    """Write every demo job and its measurements into a folder; the paths written."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise DiskError(f"it cannot be made ({said(error)})", str(folder), "choose another folder") from None
    written = []
    for name in names():
        atomic.write(folder / f"{name}.csv", measurements(name).encode())
        job_file.save(job(name), folder / f"{name}.tailor")
        written += [folder / f"{name}.csv", folder / f"{name}.tailor"]
    return written
