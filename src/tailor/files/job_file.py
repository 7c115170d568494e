"""The job file: JSON, versioned, described in docs/format.md."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from tailor.core import incoming
from tailor.core.carried.capture import Capture, Way
from tailor.core.carried.stations import MOST_ROWS, Shape, Station, checked
from tailor.core.carried.traced import Panel, Sewn, Traced
from tailor.core.carried.zones import MOST as MOST_ZONES
from tailor.core.carried.zones import Zone, ZoneKind
from tailor.core.corrections import REACH, Correction
from tailor.core.draft.tooled.asked import MOST as MOST_TOOLED
from tailor.core.errors import InputError, shown
from tailor.core.job import Job
from tailor.core.maker import Maker
from tailor.core.settings import Settings
from tailor.core.units import System
from tailor.files import atomic
from tailor.files.taken import MOST as MOST_LEARNED
from tailor.files.taken import TakenEntry
from tailor.files.tooling import Entry as TooledEntry
from tailor.files.tooling import plain as plain_tooling

FORMAT = "tailor-job"
VERSION = 5
LEARNED = 4  # the version from which a job may hold what its maker had learned
TOOLED = 5  # and what is put on its leather
MOST_CORRECTIONS = 500
MOST_SETTINGS = 2000
MOST_OF_ONE = 500  # of one job
COUNTED = re.compile(r"(.+\.tailor)=(\d{1,6})")

Number = Annotated[float, Field(allow_inf_nan=False)]


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class StationEntry(_Strict):
    """A measured section, mm."""

    y: Number
    x_spine: Number
    x_seam: Number
    front: Number
    back: Number
    shape: Shape
    corner: Number = 0.0


class ZoneEntry(_Strict):
    """A stretch of the object along y, mm."""

    kind: ZoneKind
    low: Number
    high: Number


class CaptureEntry(_Strict):
    """How the object was measured, and ± mm that 19 of 20 of its sizes keep within."""

    way: Way
    accuracy: Annotated[float, Field(gt=0, allow_inf_nan=False)]


class CorrectionEntry(_Strict):
    """What a mock-up showed: mm more on a setting, or eased out at a height y with a reach to either side."""

    on: str
    by: Number
    because: str
    y: Number = 0.0
    reach: Number = REACH


class PanelEntry(_Strict):
    """A traced panel of a carrier already made: its closed outline, mm, and how many there are of it."""

    name: str
    outline: Annotated[list[tuple[Number, Number]], Field(min_length=3, max_length=5000)]
    count: int = 1


class SeamEntry(_Strict):
    """A seam between traced panels: edges such as "front 2"."""

    name: str
    edges: list[str]


class JobEntry(_Strict):
    """A whole job. Settings hold only what the maker pinned, in mm, degrees, shares, counts or words."""

    format: Literal["tailor-job"] = "tailor-job"
    version: Literal[1, 2, 3, 4, 5] = 3
    name: str
    style: str
    units: System = System.MM
    stations: Annotated[list[StationEntry], Field(max_length=MOST_ROWS)]
    zones: Annotated[list[ZoneEntry], Field(max_length=MOST_ZONES)] = []
    capture: CaptureEntry | None = None
    corrections: Annotated[list[CorrectionEntry], Field(max_length=MOST_CORRECTIONS)] = []
    settings: Annotated[dict[str, float | int | str], Field(max_length=MOST_SETTINGS)] = {}
    learned: Annotated[list[TakenEntry], Field(max_length=MOST_LEARNED)] = []
    panels: Annotated[list[PanelEntry], Field(max_length=60)] = []
    seams: Annotated[list[SeamEntry], Field(max_length=200)] = []
    tooling: Annotated[list[TooledEntry], Field(max_length=MOST_TOOLED)] = []


def to_text(job: Job) -> str:
    """The job as the text of its file."""
    entry = JobEntry(
        name=job.name,
        style=job.style,
        units=job.units,
        stations=[StationEntry(**vars(s)) for s in job.stations],
        zones=[ZoneEntry(kind=z.kind, low=z.low, high=z.high) for z in job.zones],
        capture=CaptureEntry(way=job.capture.way, accuracy=job.capture.accuracy),
        corrections=[CorrectionEntry(**vars(c)) for c in job.settings.corrections],
        settings=dict(job.settings.pinned),
        panels=[PanelEntry(name=p.name, outline=list(p.outline), count=p.count) for p in job.traced.panels],
        seams=[SeamEntry(name=s.name, edges=list(s.edges)) for s in job.traced.seams],
    )
    plain = entry.model_dump(mode="json")
    if job.settings.taken:  # else any Tailor that reads version 3 can read it
        plain |= {"version": LEARNED, "learned": [vars(taken) for taken in job.settings.taken]}
    else:
        del plain["learned"]
    if job.tooling:
        plain |= {"version": TOOLED, "tooling": [plain_tooling(asked) for asked in job.tooling]}
    else:
        del plain["tooling"]
    return json.dumps(plain, indent=1, ensure_ascii=False) + "\n"


def from_text(text: str) -> Job:
    """The job in the text of a file. Raises InputError saying what in it cannot be used."""
    try:
        found: Any = incoming.parse_json(text)
    except InputError as error:
        raise InputError(error.what, "job", "open the copy kept beside it, ending in ~") from None
    if not isinstance(found, dict) or found.get("format") != FORMAT:
        raise InputError("it is not a Tailor job", "job", "open a file that Tailor saved")
    version = found.get("version")
    if isinstance(version, int) and version > VERSION:
        raise InputError(
            f"it was saved by a newer Tailor (version {version}; this one reads up to {VERSION})",
            "job",
            "open it with the newer one; nothing was changed",
        )
    try:
        entry = JobEntry.model_validate(found)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(p + 1 if isinstance(p, int) else p) for p in first["loc"]) or "job"
        raise InputError(
            shown(f"{first['msg'][0].lower()}{first['msg'][1:]}"),
            shown(place, incoming.SHOWN),
            "mend that entry, or open the copy ending in ~",
        ) from None
    return Job(
        entry.name,
        entry.style,
        checked([Station(**s.model_dump()) for s in entry.stations]),
        tuple(Zone(z.kind, z.low, z.high) for z in entry.zones),
        Settings(
            entry.settings,
            tuple(Correction(**c.model_dump()) for c in entry.corrections),
            tuple(each.taken for each in entry.learned),
        ),
        entry.units,
        Capture.usual(Way.CALIPER) if entry.capture is None else Capture(entry.capture.way, entry.capture.accuracy),
        Traced(
            tuple(Panel(p.name, tuple(p.outline), p.count) for p in entry.panels),
            tuple(Sewn(s.name, tuple(s.edges)) for s in entry.seams),
        ),
        tuple(each.asked for each in entry.tooling),
    )


def save(job: Job, path: Path) -> bytes:
    """Save a job, keeping the copy that was there; what was written. Raises DiskError when it cannot be."""
    content = to_text(job).encode()
    atomic.write(path, content, keep_previous=True)
    return content


def load(path: Path) -> Job:
    """The job in a file. Raises InputError naming the file."""
    return read(path)[0]


def counted(texts: Sequence[str], maker: Maker) -> list[tuple[Job, int]]:
    """Jobs of a maker, named as JOB.tailor or JOB.tailor=COUNT, and how many of each. Raises InputError."""
    found = []
    for text in texts:
        parts = COUNTED.fullmatch(text)
        path, count = (Path(parts[1]), int(parts[2])) if parts else (Path(text), 1)
        if not 1 <= count <= MOST_OF_ONE:
            raise InputError(f"{count} of it are asked for", incoming.quoted(text), f"give 1 to {MOST_OF_ONE}")
        found.append((load(path).by(maker), count))
    return found


def read(path: Path) -> tuple[Job, bytes]:
    """The job in a file, and the file's own bytes. Raises InputError naming the file."""
    content = incoming.read_bytes(path, incoming.JOB)
    try:
        return from_text(content.decode("utf-8")), content
    except UnicodeDecodeError:
        raise InputError("it is not a Tailor job", str(path), "open a file that Tailor saved") from None
    except InputError as error:
        raise error.within(path.name) from None


def changed(path: Path, change: Callable[[Job], Job]) -> Job:
    """Read a job, change it and save it, while nobody else who does so can come between; the job as it is saved.

    Raises InputError where it cannot be read, changed or written; then the file stays as it is.
    """
    with atomic.held(path):
        job = change(load(path))
        save(job, path)
    return job
