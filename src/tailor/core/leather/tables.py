"""Tables: the sizes that are shipped, or the maker's own in their place.

A maker's own table lies in the folder of his settings under the same name. One that cannot be read is not used, and is
told of, so that a slip in it never keeps the bench shut.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping
from importlib.resources import files
from pathlib import Path
from types import MappingProxyType
from typing import TypeVar

from platformdirs import user_config_path

from tailor.core import incoming
from tailor.core.errors import DiskError, InputError

NAMES = ("fastenings.csv", "trimmings.csv")
COMPLAINTS: list[str] = []  # about tables that could not be used, for the window and the command line to tell

Size = TypeVar("Size")


def folder() -> Path:
    """Where a maker's own tables lie."""
    return Path(user_config_path("tailor", appauthor=False))


def shipped(name: str) -> str:
    """The text of a shipped table."""
    return (files(__package__) / name).read_text(encoding="utf-8")


def table(name: str, read: Callable[[str, str], dict[str, Size]]) -> Mapping[str, Size]:
    """Sizes by name: the maker's own where there is such a table, over those that are shipped."""
    found = read(shipped(name), name)
    own = folder() / name
    try:
        if os.path.lexists(own):
            found |= read(incoming.read_text(own), str(own))
    except InputError as error:
        COMPLAINTS.append(f"{error} Until then the shipped sizes are used.")
    return MappingProxyType(found)


def take_out() -> list[Path]:
    """Lay the shipped tables in the maker's folder, to be changed there; those that are there already stay."""
    laid = []
    for name in NAMES:
        own = folder() / name
        try:
            own.parent.mkdir(parents=True, exist_ok=True)
            if not own.exists():
                own.write_text(shipped(name), encoding="utf-8")
        except OSError as error:
            raise DiskError(f"it cannot be written ({incoming.said(error)})", str(own), "see to the folder") from None
        laid.append(own)
    return laid
