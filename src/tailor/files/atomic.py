"""Writing that cannot lose what was there: whole file or no change, with the copy before it kept."""

from __future__ import annotations

import os
from pathlib import Path

from tailor.core.errors import InputError


def previous(path: Path) -> Path:
    """Where the copy before the last save is kept."""
    return path.with_name(path.name + "~")


def write(path: Path, content: bytes, keep_previous: bool = False) -> None:
    """Put content at path. At every moment path is either the old file or the new one, whole and readable.

    Raises InputError when the folder cannot be written.
    """
    part = path.with_name(f".{path.name}.{os.getpid()}.part")
    try:
        with open(part, "wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        if keep_previous and path.exists():
            _keep(path)
        os.replace(part, path)
        _sync_folder(path.parent)
    except OSError as error:
        part.unlink(missing_ok=True)
        said = (error.strerror or "it failed").lower()
        raise InputError(
            f"it cannot be written ({said})", str(path), "choose another folder or free some room"
        ) from None


def _keep(path: Path) -> None:
    """Give the old file a second name, in one step, without touching the first."""
    link = path.with_name(f".{path.name}.{os.getpid()}.kept")
    link.unlink(missing_ok=True)
    os.link(path, link)
    os.replace(link, previous(path))


def _sync_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
