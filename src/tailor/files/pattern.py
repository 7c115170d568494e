"""The whole pattern of a job, written as every kind of file, and as one set: never files of two jobs side by side."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from pathlib import Path

from tailor.core.draft.stitch.marking import marking_strips
from tailor.core.errors import DiskError
from tailor.core.incoming import said
from tailor.core.job import Job, draft, judge
from tailor.files import atomic, dxf, pdf, report, svg, tracing
from tailor.files.paged import GAP, room_of
from tailor.files.printer import Printer
from tailor.files.sheet import lay, shortened

REPORT = "report.json"  # is there when the set is whole, and lists its files with their SHA-256
NAMES = ("pattern.pdf", "pattern.svg", "pattern.dxf", "marking-strip.pdf", "tracing.pdf", REPORT)


def write(job: Job, folder: Path, paper: str = "a4", printer: Printer | None = None) -> list[Path]:
    """Draft a job and write its pattern into a folder, made if need be; the paths written, its marking strip last.

    Every file is made before any is written; what an earlier pattern left is taken away before the first of this one
    takes its place, and the report comes last. printer: pages are corrected for it. Raises InputError where the job
    cannot be drafted, DiskError where the folder cannot be written.
    """
    contents = made(job, paper, printer)
    try:
        folder.mkdir(parents=True, exist_ok=True)
        atomic.sweep(folder)
        for name in NAMES:
            if (folder / name).is_dir():
                raise DiskError(f"{name} is a folder", str(folder), "move it, or choose another folder")
        with atomic.gathered({folder / name: content for name, content in contents.items()}) as put:
            for name in reversed(NAMES):
                (folder / name).unlink(missing_ok=True)
            put()
    except (OSError, ValueError) as error:
        if isinstance(error, DiskError):
            raise
        raise DiskError(
            f"a pattern cannot be written there ({said(error)})", str(folder), "choose another folder"
        ) from None
    return sorted((folder / name for name in contents), key=lambda path: path.name == NAMES[3])


def made(job: Job, paper: str, printer: Printer | None = None) -> Mapping[str, bytes]:
    """The files of a job's pattern by name, the report last; no marking strip where nothing is sewn, and no tracing
    sheet where nothing is tooled.
    """
    drafted = draft(job)
    sheet = lay(drafted.pieces)
    on_paper = [shortened(piece, room_of(paper)[1] - 2 * GAP) for piece in drafted.pieces]
    found = {
        NAMES[0]: pdf.to_bytes(on_paper, job.name, paper, printer),
        NAMES[1]: svg.to_text(sheet, job.name).encode(),
        NAMES[2]: dxf.to_bytes(sheet),
    }
    if strips := marking_strips(drafted):
        found[NAMES[3]] = pdf.to_bytes(strips, f"{job.name}: marking strip", paper, printer)
    if sheets := tracing.pieces(drafted):
        found[NAMES[4]] = tracing.to_bytes(sheets, job.name, paper, printer)
    hashes = {name: hashlib.sha256(content).hexdigest() for name, content in found.items()}
    return {**found, REPORT: report.to_text(job, drafted, judge(job, drafted), hashes).encode()}
