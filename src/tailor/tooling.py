"""The command `tailor tool`: what is put on the leather: fields, pictures, lettering, marks; and the tracing sheet."""

from __future__ import annotations

import argparse
import json
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from tailor.core.errors import InputError

if TYPE_CHECKING:
    from tailor.core.draft.draft import Draft
    from tailor.core.draft.tooled.asked import Asked
    from tailor.core.job import Job


def add(commands: Any) -> None:
    """Add the command to the others."""
    tool = commands.add_parser(
        "tool",
        help="put something on the leather, or list it; change it with `tailor set JOB tooling.1.width=40mm`",
    )
    tool.add_argument("job", metavar="JOB.tailor", type=Path)
    what = tool.add_mutually_exclusive_group()
    what.add_argument("--border", type=int, metavar="LINES", help="a field with a border of 0 to 2 lines")
    what.add_argument("--fill", metavar="WITH", help="a field filled with: weave, seed, random or plain")
    what.add_argument("--picture", type=Path, metavar="FILE", help="a picture: SVG, DXF, or a scan of a drawing")
    what.add_argument("--mark", type=Path, metavar="FILE", help="the maker's own mark, from the same kinds of file")
    what.add_argument("--letters", metavar="WORDS", help="lettering")
    what.add_argument("--off", type=int, metavar="N", help="take the N-th off")
    what.add_argument("--tracing", type=Path, metavar="OUT.pdf", help="write the tracing sheet at true size")
    tool.add_argument("--face", default="Vollkorn", help="the face of lettering: a shipped one, or an installed font")
    tool.add_argument(
        "--on", default="", metavar="PIECE[,SIDE]", help="where; else on the first piece that can be tooled"
    )
    tool.add_argument("--mirrored", action="store_true", help="the tracing sheet turned over, to be rubbed on")
    tool.add_argument("--paper", default="a4")
    tool.add_argument("--json", action="store_true")
    tool.set_defaults(run=_tool)


def _tool(arguments: argparse.Namespace) -> int:
    from tailor.core.job import draft
    from tailor.files import job_file

    job = job_file.load(arguments.job).by(arguments.maker)
    if arguments.tracing is not None:
        return _trace(arguments, draft(job), job.name)
    if arguments.off is not None:
        job = job_file.changed(arguments.job, lambda job: _without(job, arguments.off))
    elif (asked := _asked(arguments, draft(job))) is not None:
        job = job_file.changed(arguments.job, lambda job: replace(job, tooling=(*job.tooling, asked)))
    _tell(draft(job.by(arguments.maker)), arguments.json)
    return 0


def _without(job: Job, number: int) -> Job:
    if not 1 <= number <= len(job.tooling):
        there = f"1 to {len(job.tooling)}" if job.tooling else "nothing: the leather is plain"
        raise InputError(f"{number} is on nothing", "--off", f"give {there}")
    return replace(job, tooling=tuple(each for k, each in enumerate(job.tooling, 1) if k != number))


def _asked(arguments: argparse.Namespace, made: Draft) -> Asked | None:
    """What is asked for; None where nothing is."""
    from tailor.core.draft.tooled.asked import LARGEST, Filling, Picture, Tooling
    from tailor.core.draft.tooled.field import first_place
    from tailor.files import drawings, letters

    piece, _, side = arguments.on.partition(",")
    where = {"piece": piece.strip(), "side": side.strip() or LARGEST} if piece.strip() else first_place(made)
    if arguments.border is not None:
        return Tooling(**where, lines=arguments.border)
    if arguments.fill is not None:
        return Tooling(**where, filling=Filling.of(arguments.fill).value)
    if arguments.letters is not None:
        drawn = letters.lettered(arguments.letters, arguments.face)
        return Picture(**where, name=arguments.letters.strip(), face=arguments.face, drawn=drawn)
    if (path := arguments.picture or arguments.mark) is not None:
        return Picture(**where, name=path.stem[:60], drawn=drawings.read(path), mark=arguments.mark is not None)
    return None


def _trace(arguments: argparse.Namespace, made: Draft, name: str) -> int:
    from tailor.files import atomic, tracing

    sheets = tracing.pieces(made, arguments.mirrored)
    if not sheets:
        raise InputError("nothing is tooled on it", str(arguments.job), "put something on it first")
    atomic.write(arguments.tracing, tracing.to_bytes(sheets, name, arguments.paper))
    return 0


def _tell(made: Draft, as_json: bool) -> None:
    from tailor.files.report import tooled

    told = [tooled(put) for put in made.tooled]
    if as_json:
        print(json.dumps(told, indent=1, ensure_ascii=False))
        return
    for n, one in enumerate(told, 1):
        size = f", {one['width']:.1f} mm wide" if one["width"] else ""
        print(f"{n}. {one['name']} · {one['piece']}, {one['side'] or 'no field there'}{size}")
