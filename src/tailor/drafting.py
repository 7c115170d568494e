"""The commands that draft a job: right, draft, check and together."""

from __future__ import annotations

import argparse
import json
from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any

from tailor.core.checks.verdict import Ruling, Verdict
from tailor.core.errors import InputError
from tailor.files.paper import PAPERS

if TYPE_CHECKING:
    from tailor.core.job import Job

SIGN = {Ruling.OK: "ok  ", Ruling.LOOK: "look", Ruling.STOP: "STOP"}


def add(commands: Any) -> None:
    """Add the commands to the others."""
    right = commands.add_parser(
        "right", help="take remedies until nothing is left that one ends; exit 1 while one stops"
    )
    right.add_argument("job", metavar="JOB.tailor", type=Path)
    right.set_defaults(run=_right)

    drafted = commands.add_parser("draft", help="write the pattern as PDF, SVG, DXF and a report")
    drafted.add_argument("job", metavar="JOB.tailor", type=Path)
    drafted.add_argument("-o", dest="folder", required=True, type=folder, metavar="DIR")
    drafted.add_argument("--paper", default="a4", choices=sorted(PAPERS))
    drafted.add_argument("--mockup", choices=("card", "foam"), help="the same lines, for a mock-up of this")
    drafted.set_defaults(run=_draft)

    check = commands.add_parser("check", help="print the ledger; exit 1 when a verdict says stop")
    check.add_argument("job", metavar="JOB.tailor", type=Path)
    check.add_argument("--json", action="store_true")
    check.set_defaults(run=_check)

    whole = commands.add_parser("together", help="put the flat pieces together; exit 1 when they are no whole thing")
    whole.add_argument("job", metavar="JOB.tailor", type=Path)
    whole.add_argument("--json", action="store_true")
    whole.add_argument("-o", dest="model", type=Path, metavar="MODEL.glb", help="write it as a solid: .glb, .obj, .stl")
    whole.set_defaults(run=_together)


def folder(text: str) -> Path:
    """A folder that is named; an empty name, as an unset variable gives, is none."""
    if not text:
        raise argparse.ArgumentTypeError("no folder is named; give one, or . for this")
    return Path(text)


def _right(arguments: argparse.Namespace) -> int:
    from tailor.core.righting import put_right
    from tailor.files import job_file

    before = job_file.load(arguments.job).by(arguments.maker)
    found = put_right(before)  # which takes seconds: nobody is kept waiting for it

    def righted(now: Job) -> Job:
        if now != before:
            raise InputError("it was changed meanwhile", arguments.job.name, "run it again")
        return found.job

    job_file.changed(arguments.job, righted)
    for key, value in found.taken:
        print(f"{key}={value}")
    for verdict in found.left:
        print(_line(verdict))
    return 1 if any(v.ruling is Ruling.STOP for v in found.left) else 0


def _draft(arguments: argparse.Namespace) -> int:
    from tailor.core.job import draft, mocked
    from tailor.files import job_file, pattern

    job = job_file.load(arguments.job).by(arguments.maker)
    if arguments.mockup:
        job = mocked(job, draft(job), arguments.mockup)
    pattern.write(job, arguments.folder, arguments.paper)
    return 0


def _check(arguments: argparse.Namespace) -> int:
    from tailor.core.job import draft, judge
    from tailor.files import job_file, report

    job = job_file.load(arguments.job).by(arguments.maker)
    said = judge(job, draft(job))
    if arguments.json:
        print(json.dumps(report.checks(said), indent=1, ensure_ascii=False))
    else:
        for verdict in said:
            print(_line(verdict))
    return 1 if any(v.ruling is Ruling.STOP for v in said) else 0


def _together(arguments: argparse.Namespace) -> int:
    from tailor.core.checks import carry, together
    from tailor.core.job import draft
    from tailor.core.together.assembled import Assembled
    from tailor.core.together.ridden import sitting
    from tailor.files import job_file, model

    job = job_file.load(arguments.job).by(arguments.maker)
    made = draft(job).unmarked()
    whole = Assembled(made)
    sat, said = sitting(job.settings, made, whole), list(together.verdicts(job.settings, made, whole))
    said += carry.verdicts(made, job.settings, sat)
    if arguments.model is not None:
        model.write(whole, arguments.model)
    found = model.told(whole, said, sat)
    if arguments.json:
        print(json.dumps(found, indent=1, ensure_ascii=False))
    else:
        for joint in found["joints"]:
            holes = "1 hole" if joint["holes"] == 1 else f"{joint['holes']} holes"
            print(f"{joint['name']:<40}{holes:>10}  {joint['distance']:.2f} mm apart at most")
        for number, step in enumerate(found["order"], 1):
            print(f"{number:>2}  {step['piece']:<36}{_held(step)}")
        for held in found["contents"]:
            print(f"{held['name']:<40}{'':>10}  {held['gap']:.2f} mm clear of the {held['piece']}")
        if sat is not None:
            print(f"{'on the belt':<40}{'':>10}  {sat.play:.2f} mm of play, hangs at {sat.hang.rest:.1f}°")
        if found["unplaced"]:
            print(f"not put in place: {', '.join(found['unplaced'])}")
        for verdict in said:
            print(_line(verdict))
    return 1 if found["fails"] else 0


def _held(step: Mapping[str, Any]) -> str:
    """What holds a piece when it comes, and the least room there is for that."""
    if not step["held"]:
        return f"glued on the {step['on']}" if step["on"] else "laid there"
    by: dict[str, list[str]] = {}
    for each in step["held"]:
        by.setdefault(each["way"], []).append(each["by"])
    rooms = [(each[side], said) for each in step["held"] for side, said in (("front", "before"), ("back", "behind"))
             if each[side] is not None]  # fmt: skip
    tight = "".join(f"; {room:.0f} mm {said} it" for room, said in sorted(rooms)[:1])
    flat = f"; while the {step['host']} lies flat" if step["host"] else ""
    return "; ".join(f"{way}: {', '.join(names)}" for way, names in by.items()) + flat + tight


def _line(verdict: Verdict) -> str:
    number = f"{verdict.value:.1f} {verdict.unit} ({'most' if verdict.ceiling else 'least'} {verdict.limit:.1f})"
    why = "" if verdict.ruling is Ruling.OK else f"  {verdict.reason}"
    return f"{SIGN[verdict.ruling]}  {verdict.name:<34}{number:<34}{verdict.where}{why}"
