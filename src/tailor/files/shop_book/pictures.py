"""Pictures of what was made, copied in beside the shop book, each under the name of what is in it."""

from __future__ import annotations

import hashlib
from datetime import date
from pathlib import Path

from tailor.core import incoming
from tailor.core.errors import DiskError, InputError
from tailor.core.log.entry import Picture
from tailor.files import atomic

LARGEST = 30_000_000  # bytes
KINDS = {b"\x89PNG\r\n\x1a\n": ".png", b"\xff\xd8\xff": ".jpg"}


def folder(book: Path) -> Path:
    """Where the pictures of a book lie."""
    return book.with_name(book.stem + "-pictures")


def keep(path: Path, book: Path) -> Picture:
    """Copy a picture in beside a book. Raises InputError for what is none, DiskError where it cannot be copied."""
    content = incoming.read_bytes(path, LARGEST)
    suffix = next((kind for mark, kind in KINDS.items() if content.startswith(mark)), None)
    if suffix is None:
        raise InputError("it is no picture", path.name, "give a .png or a .jpg")
    name = hashlib.sha256(content).hexdigest()[:24] + suffix
    try:
        taken_on = date.fromtimestamp(path.stat().st_mtime)
        folder(book).mkdir(parents=True, exist_ok=True)
    except OSError as error:
        said = f"it cannot be copied ({incoming.said(error)})"
        raise DiskError(said, path.name, "see to the folder of the shop book") from None
    if not (folder(book) / name).exists():
        atomic.write(folder(book) / name, content)
    return Picture(name, taken_on)
