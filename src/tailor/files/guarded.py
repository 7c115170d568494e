"""Files from elsewhere, read by a child process that may take only so much time and memory.

Whatever such a file holds, the window and its job stay as they were.
"""

from __future__ import annotations

import contextlib
import io
import json
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

from tailor.core.errors import InputError

LARGEST = {"svg": 20_000_000, "dxf": 40_000_000, "mesh": 150_000_000}  # bytes
SECONDS = {"svg": 8, "dxf": 12, "mesh": 30}
MEMORY = 3_000_000_000  # bytes
REFUSED = 3  # exit status of a child that says why

Arrays = dict[str, NDArray[Any]]


def read(kind: str, path: Path, still: Callable[[], object] = bool) -> Arrays:
    """The arrays a reader of foreign.py finds in a file. Raises InputError naming the file.

    still: called time and again meanwhile; what it raises ends the reading.
    """
    path = Path(path)
    try:
        size = path.stat().st_size
    except OSError:
        raise InputError("no such file", str(path), "check the name and the folder") from None
    if size > LARGEST[kind]:
        raise InputError(
            f"it has {size / 1e6:.0f} MB, more than Tailor reads ({LARGEST[kind] / 1e6:.0f} MB)", path.name,
            "leave out everything but the object, and save it again",
        )  # fmt: skip
    threads = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}  # every thread takes address space
    command = [sys.executable, "-m", __name__, kind, str(path)]
    pipe = subprocess.PIPE
    with subprocess.Popen(command, env={**os.environ, **threads}, stdout=pipe, stderr=pipe) as child:
        try:
            out, err = _waited(child, SECONDS[kind], still)
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


def _limit(kind: str) -> None:
    """Hold this process to its share of time and memory, and end it when its parent is gone or wants no more."""
    import resource

    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS[kind], SECONDS[kind]))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    threading.Timer(SECONDS[kind] + 1, lambda: os._exit(1)).start()


def main(kind: str, path: str) -> int:
    """What the child does: the arrays to standard output, or a refusal to standard error."""
    _limit(kind)
    from tailor.files import foreign

    try:
        found: Arrays = foreign.READERS[kind](Path(path))
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
    os._exit(main(*sys.argv[1:3]))
