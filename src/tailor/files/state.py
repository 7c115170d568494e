"""The folder of state: what Tailor keeps for itself between sessions, and what it noted of its own faults."""

from __future__ import annotations

import contextlib
import os
import platform
import time
import traceback
from importlib.metadata import version
from pathlib import Path

from platformdirs import user_data_path, user_state_path

from tailor.core.errors import shown
from tailor.files import atomic

FAULTS = "fault-*.txt"
TOLD = "faults-told"  # its time says up to when faults have been told of
MOST_FAULTS = 20
SHOP_BOOK = "TAILOR_SHOP_BOOK"  # where the shop book lies, if the environment says so
BOOK = "shop.tailorshop"


def folder() -> Path:
    """Where Tailor keeps what is its own; made if it can be, else whoever writes there is told."""
    path = Path(user_state_path("tailor"))
    with contextlib.suppress(OSError):
        path.mkdir(parents=True, exist_ok=True)
    return path


def shop_book() -> Path:
    """Where the shop book lies: as the environment says, else in the folder of the user's own data."""
    said = os.environ.get(SHOP_BOOK, "")
    return Path(said) if said else Path(user_data_path("tailor")) / BOOK


def note_fault(fault: BaseException, doing: str, job: str = "") -> Path | None:
    """Write down a fault of ours: what was being done, the job as text, and where it went wrong.

    The file it lies in; None where nothing can be written there.
    """
    told = [
        f"Tailor {version('tailor')}, Python {platform.python_version()}, {platform.platform()}",
        f"doing: {shown(doing)}",
        "".join(traceback.format_exception(fault)), "job:", job or "none",
    ]  # fmt: skip
    path = folder() / f"fault-{time.time_ns()}.txt"
    try:
        atomic.write(path, "\n".join(told).encode("utf-8", "backslashreplace"))
        for old in faults()[MOST_FAULTS:]:
            old.unlink(missing_ok=True)
    except (OSError, ValueError):
        return None
    return path


def faults() -> list[Path]:
    """Faults that were noted, newest first."""
    with contextlib.suppress(OSError):
        return sorted(folder().glob(FAULTS), key=lambda path: path.name, reverse=True)
    return []


def untold() -> list[Path]:
    """Faults noted since they were last told of, newest first; from now on they are told."""
    mark = folder() / TOLD
    with contextlib.suppress(OSError):
        since = mark.stat().st_mtime_ns if mark.exists() else 0
        mark.touch()
        return [path for path in faults() if path.stat().st_mtime_ns > since]
    return []
