"""Problems in files of JSON: read, and held against what their format says."""

from __future__ import annotations

from pathlib import Path
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from tailor.core import incoming
from tailor.core.errors import InputError, shown

Entry = TypeVar("Entry", bound=BaseModel)


def read(path: Path, format_: str, what: str, entry: type[Entry]) -> Entry:
    """The problem in a file, of a format. what: it is of. Raises InputError saying what cannot be used, and where."""
    try:
        found: Any = incoming.parse_json(incoming.read_bytes(path, incoming.JOB).decode("utf-8"))
    except UnicodeDecodeError:
        raise InputError("it cannot be read as text", path.name, "save it as plain text in UTF-8") from None
    except InputError as error:
        raise (error if error.where == str(path) else error.within(path.name)) from None
    if not isinstance(found, dict) or found.get("format") != format_:
        raise InputError(f"it is no problem of {what}: no {format_}", path.name, "see docs/format.md")
    try:
        return entry.model_validate(found)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(p + 1 if isinstance(p, int) else p) for p in first["loc"])
        said = shown(f"{first['msg'][0].lower()}{first['msg'][1:]}")
        raise InputError(said, f"{path.name}, {shown(place, incoming.SHOWN)}", "mend that entry") from None
