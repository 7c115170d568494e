"""What the window keeps between sessions: recent jobs, and work not saved yet."""

from __future__ import annotations

import json
import os
import time
from dataclasses import dataclass
from pathlib import Path

from platformdirs import user_state_path

from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.files import atomic, job_file

MOST_RECENT = 8


def folder() -> Path:
    return user_state_path("tailor", ensure_exists=True)


def recent() -> list[Path]:
    """Jobs opened or saved lately that are still there, newest first."""
    try:
        found = json.loads((folder() / "recent.json").read_text(encoding="utf-8"))
        return [Path(p) for p in found if isinstance(p, str) and Path(p).exists()]
    except (OSError, ValueError):
        return []


def remember(path: Path) -> None:
    """Put a job at the head of the recent ones."""
    path = path.resolve()
    kept = [path, *(p for p in recent() if p != path)][:MOST_RECENT]
    atomic.write(folder() / "recent.json", json.dumps([str(p) for p in kept]).encode())


@dataclass(frozen=True)
class Unsaved:
    """Work that was not saved: where it is kept, the job, and the file it belongs to (None if it had none)."""

    kept_at: Path
    job: Job
    path: Path | None


def _own() -> Path:
    return folder() / f"unsaved-{os.getpid()}.json"


def keep(job: Job, path: Path | None) -> None:
    """Keep unsaved work where the next session finds it."""
    held = {"path": str(path) if path else None, "job": job_file.to_text(job)}
    atomic.write(_own(), json.dumps(held).encode())


def drop() -> None:
    """The work is saved: nothing to keep."""
    _own().unlink(missing_ok=True)


def set_aside() -> None:
    """Leave the kept work for a later session, and begin a new keeping place."""
    if _own().exists():
        _own().rename(folder() / f"unsaved-{time.time_ns()}.json")


def discard(unsaved: Unsaved) -> None:
    unsaved.kept_at.unlink(missing_ok=True)


def unsaved() -> list[Unsaved]:
    """Work kept by windows that are no longer open, newest first."""
    found = []
    held = sorted(folder().glob("unsaved-*.json"), key=lambda p: -p.stat().st_mtime)
    for path in held:
        pid = path.stem.rpartition("-")[2]
        if pid.isdigit() and _alive(int(pid)):
            continue
        try:
            entry = json.loads(path.read_text(encoding="utf-8"))
            job = job_file.from_text(entry["job"])
            found.append(Unsaved(path, job, Path(entry["path"]) if entry["path"] else None))
        except (OSError, ValueError, KeyError, TypeError, InputError):
            continue  # half-written or foreign; left where it is
    return found


def _alive(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except (ProcessLookupError, OverflowError):  # gone, or work set aside, whose name is a time
        return False
    except PermissionError:
        return True
    return True
