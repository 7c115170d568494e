"""The command line: a stable contract, for makers and for scripts.

Exit status: 0 done; 1 a verdict says stop; 2 the input cannot be used; 3 something cannot be read or written; 70 a
fault of Tailor's own, which is written down; 130 interrupted; 141 whoever read the output went away. What is wrong is
one sentence on stderr.
"""

from __future__ import annotations

import argparse
import contextlib
import io
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import NoReturn

from tailor import beginning, drafting, laying, learning, measuring, planning, quoting, shopping, tooling
from tailor.core import apart, incoming
from tailor.core.errors import DiskError, InputError, shown
from tailor.core.incoming import said
from tailor.files import makers

# Each command imports what it needs when it runs, so that the window is not kept waiting for any of it.

UNUSABLE, UNREADABLE, FAULT, INTERRUPTED, HUNG_UP = 2, 3, 70, 130, 141
LONGEST = 2000  # characters of a complaint


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

    beginning.add(commands)
    drafting.add(commands)
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
    shown.add_argument("folder", type=drafting.folder, metavar="DIR")
    shown.set_defaults(run=_demo_data)
    return parser


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
