"""What comes from outside is let in here: regular files only, and nothing larger, longer or deeper than a maker's.

The limits on what a job and a table may hold stand in this file; those of other files with their kinds.
"""

from __future__ import annotations

import contextlib
import json
import os
import re
import stat
from collections.abc import Iterator
from pathlib import Path
from typing import Any, BinaryIO

from tailor.core.errors import DiskError, InputError, plain, shown

JOB = 20_000_000  # bytes
TABLE = 5_000_000
STATE = 1_000_000
LINE = 10_000  # characters in a line of a table
NAME = 120  # characters of a name
DIGITS = 40  # in a number
DEPTH = 30  # of what is nested in JSON
TYPED = 200  # characters that may be typed for one value
SHOWN = 60  # characters of it that are told again

_MARKS = re.compile(r'"(?:[^"\\]|\\.)*"|[\[{]|[\]}]', re.DOTALL)


def read_bytes(path: Path, most: int) -> bytes:
    """All of a regular file of no more than `most` bytes. Raises InputError, or DiskError where it cannot be read."""
    with _opened(path, most) as file:
        content = file.read(most + 1)
    if len(content) > most:  # it grew meanwhile
        raise too_large(len(content), most, str(path))
    return content


def looked_at(path: Path, most: int) -> None:
    """See that a file may be read by another process. Raises as read_bytes does."""
    with _opened(path, most):
        pass


@contextlib.contextmanager
def _opened(path: Path, most: int) -> Iterator[BinaryIO]:
    """A regular file of no more than `most` bytes, open to be read."""
    where = str(path) or "file"
    try:
        # What is no regular file may never answer: it is opened without waiting, looked at, and let go.
        with open(_regular(path, where), "rb") as file:
            found = os.fstat(file.fileno())
            if found.st_size > most:
                raise too_large(found.st_size, most, where)
            yield file
    except InputError:
        raise
    except (FileNotFoundError, NotADirectoryError):
        raise DiskError("no such file", where, "check the name and the folder") from None
    except (OSError, ValueError) as error:
        raise DiskError(f"it cannot be read ({said(error)})", where, "see to the file and its folder") from None


def _regular(path: Path, where: str) -> int:
    """An open handle of a regular file. Raises InputError for anything else."""
    handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    mode = os.fstat(handle).st_mode
    if not stat.S_ISREG(mode):
        os.close(handle)
        raise InputError(f"it is {'a folder' if stat.S_ISDIR(mode) else 'a device or a pipe'}", where, "give a file")
    return handle


def too_large(size: int, most: int, where: str) -> InputError:
    """The complaint about a file that is larger than any of its kind needs to be."""
    return InputError(
        f"it has {size / 1e6:.0f} MB, more than Tailor reads ({most / 1e6:.0f} MB)", where,
        "leave out everything but the object, and save it again",
    )  # fmt: skip


def read_text(path: Path, most: int = TABLE) -> str:
    """A regular file as text in UTF-8, no line of it longer than a table's. Raises as read_bytes does."""
    try:
        text = read_bytes(path, most).decode("utf-8-sig")
    except UnicodeDecodeError:
        raise InputError("it cannot be read as text", str(path), "save it as plain text in UTF-8") from None
    for n, line in enumerate(text.splitlines(), 1):
        if len(line) > LINE:
            raise InputError(
                f"it has {len(line)} characters", f"{path.name}, line {n}", f"give at most {LINE} in a line"
            )
    return text


def parse_json(text: str) -> Any:
    """What JSON text holds, no deeper than DEPTH and with no number longer than DIGITS. Raises InputError."""
    deep = most = 0
    for mark in _MARKS.finditer(text):
        deep += {"[": 1, "{": 1, "]": -1, "}": -1}.get(mark[0], 0)
        most = max(most, deep)
    if most > DEPTH:
        raise InputError(f"it is damaged, or no job: nested {most} deep", "file", "open a file that Tailor saved")

    def whole(digits: str) -> int:
        if len(digits) > DIGITS:
            raise InputError(f"a number in it has {len(digits)} digits", "file", "mend that entry")
        return int(digits)

    try:
        return json.loads(text, parse_int=whole)
    except (json.JSONDecodeError, RecursionError):
        raise InputError("it is damaged, or no JSON", "file", "open a file that Tailor saved") from None


def named(text: str, where: str) -> str:
    """A name as it came, where it can be one. Raises InputError."""
    if not text.strip() or len(text) > NAME or not plain(text):
        what = "has letters that cannot be printed" if not plain(text) else "is no usable name"
        raise InputError(f"{quoted(text)} {what}", where, f"give one of 1 to {NAME} letters")
    return text


def file_name(text: str) -> str:
    """The name of a file or a folder that can be made of a name."""
    return re.sub(r"[^\w-]+", "-", text).strip("-")[:NAME] or "unnamed"


def name_from(text: str) -> str:
    """The name that can be made of text: without what no name has, no longer than one; empty where nothing is left."""
    return " ".join("".join(c if plain(c) else " " for c in text).split())[:NAME]


def quoted(value: object) -> str:
    """What was typed or read for a value, between quotes, as far as it may be told."""
    return f"'{shown(str(value), SHOWN)}'"


def said(error: OSError | ValueError) -> str:
    """What a system error says, in lower case."""
    told = error.strerror if isinstance(error, OSError) else str(error)
    return (told or "it failed").lower()
