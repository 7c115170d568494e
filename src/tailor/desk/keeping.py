"""What the window keeps between sessions: recent jobs, and work not saved yet.

Work is kept in a file of a name that is never used again, beside which its window holds a lock for as long as it lives,
however it ends. What nobody holds is offered to the next window.
"""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import time
import uuid
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from tailor.core import incoming
from tailor.core.errors import DiskError
from tailor.core.job import Job
from tailor.files import atomic, job_file
from tailor.files.state import folder

MOST_RECENT = 8
FOUND = "unsaved-*.json"


def recent() -> list[Path]:
    """Jobs opened or saved lately that are still there, newest first."""
    try:
        found = incoming.parse_json(incoming.read_text(folder() / "recent.json", incoming.STATE))
        names = [name for name in found if isinstance(name, str)] if isinstance(found, list) else []
        return [path for path in map(Path, names[:MOST_RECENT]) if path.is_file()]
    except (OSError, ValueError):
        return []


def remember(path: Path) -> None:
    """Put a job at the head of the recent ones; where that cannot be written, it is not remembered."""
    path = path.resolve()
    kept = [path, *(p for p in recent() if p != path)][:MOST_RECENT]
    with contextlib.suppress(DiskError):
        atomic.write(folder() / "recent.json", json.dumps([str(p) for p in kept]).encode())


@dataclass(frozen=True)
class Unsaved:
    """Work that was not saved: where it is kept, the job, and the file it belongs to (None if it had none).

    lying: SHA-256 of that file as it was when it was read or saved last; None where that is not known.
    """

    kept_at: Path
    job: Job
    path: Path | None
    lying: str | None = None


class Place:
    """Where one job's unsaved work is kept, by a window that lives."""

    def __init__(self) -> None:
        self.path = folder() / f"unsaved-{time.time_ns()}-{uuid.uuid4().hex[:8]}.json"
        self._lock: int | None = None

    def keep(self, job: Job, path: Path | None, lying: str | None = None) -> None:
        """Keep unsaved work where the next session finds it. lying: as Unsaved has it. Raises DiskError."""
        self._hold()
        held = {"path": str(path) if path else None, "lying": lying, "job": job_file.to_text(job)}
        atomic.write(self.path, json.dumps(held).encode("utf-8", "surrogateescape"))

    def drop(self) -> None:
        """The work is saved: nothing to keep."""
        with contextlib.suppress(OSError):
            self.path.unlink(missing_ok=True)
        self.let_go()

    def let_go(self) -> None:
        """Leave what is kept to whoever comes next."""
        if self._lock is not None:
            with contextlib.suppress(OSError):
                lock_of(self.path).unlink(missing_ok=True)
            os.close(self._lock)
            self._lock = None

    def _hold(self) -> None:
        if self._lock is not None:
            return
        try:
            self._lock = os.open(lock_of(self.path), os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        except OSError as error:
            raise DiskError(f"it cannot be written ({incoming.said(error)})", str(folder()), "see to it") from None
        with contextlib.suppress(OSError):  # where the file system knows no locks, work is kept all the same
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)


def lock_of(path: Path) -> Path:
    """What is held beside kept work by the window whose it is."""
    return path.with_suffix(".lock")


def discard(unsaved: Unsaved) -> None:
    """Throw kept work away."""
    for path in (unsaved.kept_at, lock_of(unsaved.kept_at)):
        with contextlib.suppress(OSError):
            path.unlink(missing_ok=True)


def unsaved(most: int | None = None) -> list[Unsaved]:
    """Work kept by windows that are no longer open, newest first; what such windows left over goes.

    most: no more of it is read than that.
    """
    atomic.sweep(folder())
    found = list[Unsaved]()
    for path in sorted(folder().glob(FOUND), key=_age):
        if len(found) == most:
            break
        if _held(path):
            continue
        with contextlib.suppress(OSError, ValueError, KeyError, TypeError):  # foreign or damaged: left where it is
            entry = incoming.parse_json(incoming.read_bytes(path, 2 * incoming.JOB).decode("utf-8", "surrogateescape"))
            job, at, lying = job_file.from_text(entry["job"]), entry["path"], entry.get("lying")
            found.append(Unsaved(path, job, Path(at) if at else None, lying))
    for lock in folder().glob("unsaved-*.lock"):
        if not lock.with_suffix(".json").exists() and not _held(lock.with_suffix(".json")):
            with contextlib.suppress(OSError):
                lock.unlink()
    return found


def _age(path: Path) -> float:
    with contextlib.suppress(OSError):
        return -path.stat().st_mtime
    return 0.0


def _held(path: Path) -> bool:
    """Whether a window that lives keeps its work there."""
    with _open(lock_of(path)) as lock:
        if lock is None:
            return False
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            return True
        except OSError:
            return False  # no locks here: rather offered twice than never
        return False


@contextlib.contextmanager
def _open(path: Path) -> Iterator[int | None]:
    try:
        handle = os.open(path, os.O_RDWR | os.O_CLOEXEC)
    except OSError:
        yield None
        return
    try:
        yield handle
    finally:
        os.close(handle)
