"""Files from elsewhere, read by a child process that may take only so much time and memory.

Whatever such a file holds, the window and its job stay as they were.
"""

from __future__ import annotations

import contextlib
import io
import json
import logging
import os
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from tailor.core import apart, incoming
from tailor.core.errors import InputError
from tailor.files import kinds

MEMORY = 3_000_000_000  # bytes
REFUSED = 3  # exit status of a child that says why

Arrays = dict[str, NDArray[Any]]


def read(kind: str, path: Path, still: Callable[[], object] = bool, *words: str) -> Arrays:
    """The arrays a reader of foreign.py finds in a file. Raises InputError naming the file.

    still: called time and again meanwhile; what it raises ends the reading. words: what else the reader is told.
    """
    path = Path(path)
    incoming.looked_at(path, kinds.read_by(kind).most)
    command = apart.command(__name__, kind, str(path.absolute()), *words)
    pipe = subprocess.PIPE
    with subprocess.Popen(
        command, env=apart.environment(), stdin=subprocess.DEVNULL, stdout=pipe, stderr=pipe
    ) as child:  # fmt: skip
        try:
            out, err = _waited(child, kinds.read_by(kind).seconds, still)
        finally:
            child.kill()
    if child.returncode == REFUSED:
        said: Mapping[str, str] = json.loads(err)
        raise InputError(said["what"], path.name, said["remedy"])
    if child.returncode != 0:
        raise _too_much(path)
    with np.load(io.BytesIO(out), allow_pickle=False) as found:
        return {name: found[name] for name in found.files}


def _waited(child: subprocess.Popen[bytes], seconds: float, still: Callable[[], object]) -> tuple[bytes, bytes]:
    """What a child says on its two outputs, cut short when its time is up."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        with contextlib.suppress(subprocess.TimeoutExpired):
            return child.communicate(timeout=0.1)
        still()
    child.kill()
    return child.communicate()


def _too_much(path: Path) -> InputError:
    return InputError(
        "reading it takes far more time or memory than an object's shape needs", path.name,
        "leave out everything but the object, and save it again",
    )  # fmt: skip


def main(kind: str, path: str, *words: str) -> int:
    """What the child does: the arrays to standard output, or a refusal to standard error."""
    apart.settle_in(MEMORY, kinds.read_by(kind).seconds)
    threading.Timer(kinds.read_by(kind).seconds + 1, lambda: os._exit(1)).start()
    from tailor.files import foreign

    logging.disable(logging.CRITICAL)  # what it says on standard error is a refusal, and nothing else
    try:
        found: Arrays = foreign.READERS[kind](Path(path), *words)
    except InputError as error:
        json.dump({"what": error.what, "remedy": error.remedy}, sys.stderr)
        return REFUSED
    except Exception:  # whatever a reader stumbles over in a damaged file
        said = {
            "what": "it is damaged, or not what its name says",
            "remedy": "save it again and check that it opens elsewhere",
        }
        json.dump(said, sys.stderr)
        return REFUSED
    file = io.BytesIO()
    np.savez(file, **found)  # type: ignore[arg-type]
    sys.stdout.buffer.write(file.getvalue())
    sys.stdout.flush()
    return 0


if __name__ == "__main__":
    import warnings

    warnings.simplefilter("ignore")
    os._exit(main(*sys.argv[1:]))
