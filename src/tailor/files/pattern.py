"""The whole pattern of a job, written as every kind of file."""

from __future__ import annotations

from pathlib import Path

from tailor.core.draft.marking import marking_strips
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.files import dxf, pdf, report, svg
from tailor.files.sheet import lay, shortened

NAMES = ("pattern.pdf", "pattern.svg", "pattern.dxf", "report.json", "marking-strip.pdf")


def write(job: Job, folder: Path, paper: str = "a4") -> list[Path]:
    """Draft a job and write its pattern into a folder, made if need be; the paths written, its marking strip last.

    Raises InputError where the job cannot be drafted or the folder cannot be written.
    """
    made = draft(job)
    said = judge(job, made)
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise InputError(f"it cannot be made ({error.strerror})", str(folder), "choose another folder") from None
    sheet = lay(made.pieces)
    on_paper = lay([shortened(piece) for piece in made.pieces])
    paths = [folder / name for name in NAMES]
    pdf.write(on_paper, job.name, paper, paths[0])
    svg.write(sheet, job.name, paths[1])
    dxf.write(sheet, paths[2])
    report.write(job, made, said, paths[3])
    if strips := marking_strips(made):
        pdf.write(lay(strips), f"{job.name}: marking strip", paper, paths[4])
    else:  # nothing is sewn: what an earlier draft left there would be stale
        paths.pop().unlink(missing_ok=True)
    return paths
