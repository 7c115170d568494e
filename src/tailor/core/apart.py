"""Work done apart: in a process of its own, which may take only so much, and which ends with the one that began it."""

from __future__ import annotations

import os
import signal
import sys
import threading
import time
from collections.abc import Sequence

from tailor.core.errors import InputError

MEMORY = 4_000_000_000  # bytes of address space
LOOKS = 0.5  # s between looks whether the process that began this one is still there
ONE_THREAD = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}  # more would only wait for each other


def command(module: str, *words: str) -> Sequence[str]:
    """The command that runs a module of Tailor apart. Nothing is imported from the folder it is started in."""
    return [sys.executable, "-P", "-m", module, *words]


def environment() -> dict[str, str]:
    """What a process apart finds round itself."""
    return {**os.environ, **ONE_THREAD, "PYTHONSAFEPATH": "1"}


def limit(memory: int = MEMORY, seconds: int | None = None) -> None:
    """Hold this process to so many bytes of memory and seconds of work, and let it leave no core behind."""
    import resource

    for kind, most in ((resource.RLIMIT_AS, memory), (resource.RLIMIT_CORE, 0), (resource.RLIMIT_CPU, seconds)):
        if most is not None:
            _, hard = resource.getrlimit(kind)
            at_most = most if hard == resource.RLIM_INFINITY else min(most, hard)
            resource.setrlimit(kind, (at_most, hard))


def settle_in(memory: int = MEMORY, seconds: int | None = None) -> None:
    """What a process apart does first: keep to its share, leave interrupts to the window, and end when that ends."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    limit(memory, seconds)
    begun_by = os.getppid()

    def look() -> None:
        while os.getppid() == begun_by:
            time.sleep(LOOKS)
        os._exit(1)

    threading.Thread(target=look, daemon=True).start()


def too_much_memory() -> InputError:
    """The complaint about what takes more memory than there is for it."""
    return InputError(
        "working it out takes more memory than Tailor allows itself", "draft",
        "look for a measure that is far too large, or for far too many stations",
    )  # fmt: skip
