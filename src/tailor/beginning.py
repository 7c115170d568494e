"""The commands that begin a job and change it: new, pick, set, panels and sew."""

from __future__ import annotations

import argparse
import json
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from tailor.core import incoming
from tailor.core.draft import styles
from tailor.core.draft.styles import FIRST
from tailor.core.errors import InputError
from tailor.core.keys import KEYS
from tailor.core.measure import Measure
from tailor.files import makers

if TYPE_CHECKING:
    from tailor.core.carried.stations import Table
    from tailor.core.job import Job


def add(commands: Any) -> None:
    """Add the commands to the others."""
    new = commands.add_parser(
        "new",
        help="a job from a station table",
        epilog=_keys(),
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    new.add_argument("out", metavar="OUT.tailor", type=Path)
    new.add_argument("--style", help=f"the construction: {', '.join(styles.names())}; else give --pick")
    new.add_argument("--stations", required=True, type=Path, metavar="FILE.csv", help="the measured stations")
    new.add_argument("--name", help="what the job is called; else the file's name")
    new.add_argument(
        "--pick", type=int, metavar="N", help="take the N-th of what `tailor pick` offers, with its settings"
    )
    new.add_argument("--set", dest="settings", action="extend", nargs="+", default=[], metavar="KEY=VALUE")
    new.set_defaults(run=_new)

    pick = commands.add_parser("pick", help="what suits an object, each a whole case that was drafted")
    pick.add_argument("file", metavar="STATIONS.csv|JOB.tailor", type=Path)
    pick.add_argument("--json", action="store_true")
    pick.set_defaults(run=_pick)

    change = commands.add_parser("set", help="change values in a job")
    change.add_argument("job", metavar="JOB.tailor", type=Path)
    change.add_argument("settings", nargs="+", metavar="KEY=VALUE")
    change.set_defaults(run=_set)

    panels = commands.add_parser("panels", help="take panels of an old carrier from a drawing or picture")
    panels.add_argument("job", metavar="JOB.tailor", type=Path)
    panels.add_argument("file", metavar="FILE", type=Path,
        help="SVG or DXF: every closed line is a panel; a photo on the mat or a TIFF scan: one panel")  # fmt: skip
    panels.add_argument("--unit", choices=("mm", "cm", "in"), help="of a drawing that does not say")
    panels.add_argument("--names", default="", help="what they are called, the largest first, parted by commas")
    panels.set_defaults(run=_panels)

    sew = commands.add_parser("sew", help="join edges of panels of an old carrier")
    sew.add_argument("job", metavar="JOB.tailor", type=Path)
    sew.add_argument("name", help="what the seam is called")
    sew.add_argument("edges", nargs="+", metavar="'PANEL N'", help="a panel and the number of its edge")
    sew.set_defaults(run=_sew)


def _keys() -> str:
    maker, _ = makers.load()

    def line(key: Measure) -> str:
        default = "auto" if key.usual is None else key.say(key.usual)
        words = maker.words(key)
        meaning = key.meaning + (f" ({', '.join(words)})" if words else "")
        return f"  {key.name:<24}{default:<10}{meaning}"

    head = "keys (values take units: 9.5mm, 3/8, 1 1/8in, 7-8oz, 38+1.5; auto for the computed value):"
    return "\n".join([head, *map(line, KEYS.values())])


def _with_settings(job: Job, settings: Sequence[str]) -> Job:
    for each in settings:
        key, equals, value = each.partition("=")
        if not equals:
            raise InputError("it has no '='", incoming.quoted(each), "write it as KEY=VALUE")
        job = job.typed(key.strip(), value)
    return job


def _new(arguments: argparse.Namespace) -> int:
    from tailor.core.carried.stations import read_csv
    from tailor.files import job_file

    out: Path = arguments.out
    table = read_csv(arguments.stations)
    name = arguments.name or _name(out)
    if arguments.pick is None:
        if arguments.style is None:
            raise InputError(
                "no construction is given", "tailor new", "give --style NAME, or --pick N to be offered one"
            )
        job = _measured(name, arguments.style, table)
    else:
        job = _picked(_measured(name, FIRST, table).begun_by(arguments.maker), arguments.pick, arguments.style)
    job_file.save(_with_settings(job.begun_by(arguments.maker), arguments.settings), out)
    return 0


def _name(path: Path) -> str:
    """What a job is called after a file."""
    return incoming.name_from(path.stem) or "job"


def _measured(name: str, style: str, table: Table) -> Job:
    from tailor.core.job import Job

    return Job(name, style, table.stations).measured(table)


def _picked(job: Job, number: int, style: str | None) -> Job:
    """The job as the N-th of what is offered for it, among those of a construction where one is given."""
    from tailor.core.picking import picks

    offered = [o for o in picks(job)[0] if style in (None, o.style)]
    if not 1 <= number <= len(offered):
        how_many = f"only {len(offered)} are" if offered else "nothing is"
        raise InputError(f"there is no pick {number}; {how_many} offered", "--pick", "run tailor pick to see them")
    return offered[number - 1].job


def _pick(arguments: argparse.Namespace) -> int:
    from tailor.core.carried.stations import read_csv
    from tailor.core.picking import picks
    from tailor.files import job_file, picked

    path: Path = arguments.file
    job = job_file.load(path) if path.suffix == ".tailor" else _measured(_name(path), FIRST, read_csv(path))
    offered, refused = picks(job.by(arguments.maker))
    if arguments.json:
        print(json.dumps(picked.plain(offered, refused), indent=1, ensure_ascii=False))
        return 0
    for number, one in enumerate(offered, 1):
        looks = f", {one.looks} to look at" if one.looks else ""
        print(f"{number}  {one.said}: {one.leather:.0f} cm², {one.minutes:.0f} min{looks}. {one.why}.")
    for no in refused:
        print(f"-  {no.said}: {no.why}")
    return 0


def _set(arguments: argparse.Namespace) -> int:
    from tailor.files import job_file

    job_file.changed(arguments.job, lambda job: _with_settings(job.by(arguments.maker), arguments.settings))
    return 0


def _panels(arguments: argparse.Namespace) -> int:
    from tailor.files import job_file, panels

    names = [name.strip() for name in arguments.names.split(",") if name.strip()]
    thick = job_file.load(arguments.job).settings.number("leather.thickness")
    found = panels.read(arguments.file, thick, arguments.unit)
    job = job_file.changed(arguments.job, lambda job: job.taken_over(found, names))
    for panel in job.traced.panels[-len(found) :]:
        print(panel.name)
    return 0


def _sew(arguments: argparse.Namespace) -> int:
    from tailor.files import job_file

    job_file.changed(arguments.job, lambda job: job.sewn(arguments.name, arguments.edges))
    return 0
