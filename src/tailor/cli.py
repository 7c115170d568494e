"""The command line: a stable contract, for makers and for scripts.

Exit status: 0 done; 1 a verdict says stop; 2 the input cannot be used; 3 something cannot be read or written; 70 a
fault of Tailor's own, which is written down; 130 interrupted; 141 whoever read the output went away. What is wrong is
one sentence on stderr.
"""

from __future__ import annotations

import argparse
import contextlib
import io
import json
import os
import sys
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, NoReturn

from tailor import laying, learning, measuring, planning, quoting, shopping, tooling
from tailor.core import apart, incoming
from tailor.core.checks.verdict import Ruling, Verdict
from tailor.core.draft import styles
from tailor.core.draft.styles import FIRST
from tailor.core.errors import DiskError, InputError, shown
from tailor.core.incoming import said
from tailor.core.keys import KEYS
from tailor.core.measure import Measure
from tailor.files import makers
from tailor.files.paper import PAPERS

if TYPE_CHECKING:
    from tailor.core.carried.stations import Table
    from tailor.core.job import Job

# Each command imports what it needs when it runs, so that the window is not kept waiting for any of it.

UNUSABLE, UNREADABLE, FAULT, INTERRUPTED, HUNG_UP = 2, 3, 70, 130, 141
LONGEST = 2000  # characters of a complaint

SIGN = {Ruling.OK: "ok  ", Ruling.LOOK: "look", Ruling.STOP: "STOP"}


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        print(f"tailor: {shown(message)}; see {self.prog} --help.", file=sys.stderr)
        raise SystemExit(UNUSABLE)


def main(argv: Sequence[str] | None = None) -> int:
    """Run a command; the exit status."""
    words = list(sys.argv[1:] if argv is None else argv)
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")  # names may hold what the terminal has no letters for
    try:
        status = _run(words, alone=argv is None)
        sys.stdout.flush()
        return status
    except InputError as error:
        print(shown(str(error), LONGEST), file=sys.stderr)
        return UNREADABLE if isinstance(error, DiskError) else UNUSABLE
    except BrokenPipeError:
        _hang_up()
        return HUNG_UP
    except OSError as error:  # of files every other is a DiskError by now
        _hang_up()
        print(f"standard output: it cannot be written ({said(error)}); send it elsewhere.", file=sys.stderr)
        return UNREADABLE
    except KeyboardInterrupt:
        return INTERRUPTED
    except Exception as fault:
        return _told_fault(fault, words)


def _run(words: Sequence[str], alone: bool) -> int:
    """alone: in a process of its own, which is held to its share of memory."""
    arguments = _parser().parse_args(words)
    arguments.maker, complaints = makers.load()
    for complaint in complaints:
        print(complaint, file=sys.stderr)
    if alone and arguments.run is not _window:
        apart.limit()
    try:
        return int(arguments.run(arguments))
    except MemoryError:
        raise apart.too_much_memory() from None


def _hang_up() -> None:
    """Nobody reads what is said any more: say no more, at the end of all either."""
    with contextlib.suppress(OSError, ValueError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def _told_fault(fault: Exception, words: Sequence[str]) -> int:
    """A fault of ours, written down and told in one line."""
    from tailor.files import state

    job = next((Path(word) for word in words if word.endswith(".tailor")), None)
    try:
        text = "" if job is None else incoming.read_bytes(job, incoming.JOB).decode("utf-8", "backslashreplace")
    except InputError:
        text = ""
    path = state.note_fault(fault, " ".join(["tailor", *words]), text)
    where = "it could not be written down" if path is None else f"what happened is written down in {path}"
    print(f"Tailor itself is at fault ({type(fault).__name__}); {where}.", file=sys.stderr)
    return FAULT


def _parser() -> _Parser:
    parser = _Parser(prog="tailor", description="From a measured object to flat leather that fits.")
    parser.add_argument("--demo", nargs="?", const="eaves-blade", metavar="NAME", help="open the window with demo data")
    parser.add_argument("--open", nargs="?", metavar="JOB.tailor", type=Path, help="open the window with a job")
    parser.set_defaults(run=_window)
    commands = parser.add_subparsers(metavar="COMMAND", parser_class=_Parser)

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

    right = commands.add_parser(
        "right", help="take remedies until nothing is left that one ends; exit 1 while one stops"
    )
    right.add_argument("job", metavar="JOB.tailor", type=Path)
    right.set_defaults(run=_right)

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

    drafted = commands.add_parser("draft", help="write the pattern as PDF, SVG, DXF and a report")
    drafted.add_argument("job", metavar="JOB.tailor", type=Path)
    drafted.add_argument("-o", dest="folder", required=True, type=_folder, metavar="DIR")
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

    tooling.add(commands)
    laying.add(commands)
    planning.add(commands)
    learning.add(commands)
    shopping.add(commands)
    quoting.add(commands)
    measuring.add(commands)

    said = "lay the tables of fastenings, trimmings and habits where they can be changed"
    laid = commands.add_parser("tables", help=said)
    laid.set_defaults(run=_tables)

    shown = commands.add_parser("demo-data", help="write the demo jobs and their raw measurements")
    shown.add_argument("folder", type=_folder, metavar="DIR")
    shown.set_defaults(run=_demo_data)
    return parser


def _folder(text: str) -> Path:
    """A folder that is named; an empty name, as an unset variable gives, is none."""
    if not text:
        raise argparse.ArgumentTypeError("no folder is named; give one, or . for this")
    return Path(text)


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
    from tailor.core.draft.draft import Fitted
    from tailor.core.job import draft
    from tailor.core.together.assembled import Assembled
    from tailor.core.together.ridden import sitting
    from tailor.files import job_file, model

    job = job_file.load(arguments.job).by(arguments.maker)
    made = draft(job).unmarked()
    whole = Assembled(made)
    sat, said = sitting(job.settings, made, whole), list(together.verdicts(job.settings, made, whole))
    if isinstance(made, Fitted):
        said += carry.verdicts(job.settings, made, sat)
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


def _tables(arguments: argparse.Namespace) -> int:
    for path in makers.take_out():
        print(path)
    return 0


def _demo_data(arguments: argparse.Namespace) -> int:
    from tailor import demo
    from tailor.demo import captures

    for path in [*demo.write(arguments.folder), *captures.write(arguments.folder)]:
        print(path)
    return 0


def _window(arguments: argparse.Namespace) -> int:
    from tailor.desk.start import run

    return run(demo_name=arguments.demo, path=arguments.open)


if __name__ == "__main__":
    raise SystemExit(main())
