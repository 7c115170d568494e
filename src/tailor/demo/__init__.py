"""The thatching crew's jobs, with their raw measurements."""

from __future__ import annotations

from importlib.resources import files
from pathlib import Path

from tailor.core.carried.stations import parse_csv
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.settings import Settings
from tailor.files import atomic, job_file

# name: (what it is called, its construction, its raw measurements, what the maker pinned)
_JOBS: dict[str, tuple[str, str, str, dict[str, float | int | str]]] = {
    "eaves-blade": ("Eaves blade", "folded-sheath", "eaves_blade.csv",
        {"belt.width": 40.0, "loop.play": 1.5, "loop.width": 30.0, "object.mass": 135.0, "object.balance": 106.0}),
    "spar-hook": (
        "Spar hook", "two-panel", "spar_hook.csv",
        {"hand": "left", "mould.method": "bone", "leather.thickness": 2.8},
    ),
    "shears": (
        "Sheep-foot shears", "flat-back", "shears.csv",
        {"mould.method": "bone", "leather.thickness": 2.4, "loop.landing": "sewn", "object.mass": 310.0,
         "object.balance": 92.0, "back.drain": "grommet 5"},
    ),
    "radio": (
        "Two-way radio", "two-panel", "radio.csv",
        {"mould.method": "bone", "leather.thickness": 2.0, "fit.clearance": 0.6},
    ),
    "whetstone": (
        "Whetstone", "two-panel", "whetstone.csv",
        {"leather.thickness": 1.8, "leather.temper": "soft", "fit.clearance": 0.6},
    ),
}  # fmt: skip
FIRST = "eaves-blade"


def names() -> tuple[str, ...]:
    return tuple(_JOBS)


def measurements(name: str = FIRST) -> str:
    """The raw station table of a demo job, as CSV text. Raises InputError for a name that is not one."""
    if name not in _JOBS:
        raise InputError(f"there is no demo job '{name}'", "--demo", f"give {' or '.join(_JOBS)}")
    return (files(__name__) / _JOBS[name][2]).read_text(encoding="utf-8")


def job(name: str = FIRST) -> Job:
    """A demo job. Raises InputError for a name that is not one."""
    table = parse_csv(measurements(name))
    called, style, _, pinned = _JOBS[name]
    return Job(called, style, table.stations, settings=Settings(pinned)).measured(table)


def write(folder: Path) -> list[Path]:
    """Write every demo job and its measurements into a folder; the paths written."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise InputError(f"it cannot be made ({error.strerror})", str(folder), "choose another folder") from None
    written = []
    for name in _JOBS:
        atomic.write(folder / f"{name}.csv", measurements(name).encode())
        job_file.save(job(name), folder / f"{name}.tailor")
        written += [folder / f"{name}.csv", folder / f"{name}.tailor"]
    return written
