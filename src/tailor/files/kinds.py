"""The kinds of file that Tailor reads, each with its suffixes, its limits, and what it is for.

A new kind is a line here, and a reader in foreign.py.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from types import MappingProxyType

from tailor.core import incoming


@dataclass(frozen=True)
class Kind:
    """One kind. most: bytes of a file. seconds: that reading it may take, in a process of its own; 0 where it is read
    here. way: of measuring that it is for, if for any. reader: of foreign.py. panels: panels of an old one may be taken
    from it.
    """

    name: str
    suffixes: tuple[str, ...]
    most: int
    seconds: int = 0
    way: str = ""
    reader: str = ""
    panels: bool = False


KINDS: Mapping[str, Kind] = MappingProxyType({
    kind.name: kind
    for kind in (
        Kind("job", (".tailor",), incoming.JOB),
        Kind("table", (".csv",), incoming.TABLE),
        Kind("svg", (".svg",), 20_000_000, 8, "Outline", "svg", panels=True),
        Kind("dxf", (".dxf",), 40_000_000, 12, "Outline", "dxf", panels=True),
        Kind("photo", (".jpg", ".jpeg", ".png", ".webp"), 200_000_000, 12, "Photo", "picture", panels=True),
        Kind("scan", (".tif", ".tiff"), 200_000_000, 12, "Scan", "picture", panels=True),
        Kind("mesh", (".stl", ".obj", ".ply"), 150_000_000, 30, "Mesh", "mesh"),
        Kind("font", (), 60_000_000, 8, reader="font"),  # never opened by itself
    )
})  # fmt: skip


def kind_of(path: Path) -> Kind | None:
    """The kind of a file by its suffix; None where it is none that Tailor reads."""
    suffix = path.suffix.lower()
    return next((kind for kind in KINDS.values() if suffix in kind.suffixes), None)


def read_by(reader: str) -> Kind:
    """The kind whose limits a reader of foreign.py keeps: the first that it reads; `svg lines` reads what svg does."""
    return next(kind for kind in KINDS.values() if kind.reader == reader.split(" ")[0])


def patterns(panels: bool = False) -> str:
    """The suffixes as a dialog asks for them: of all, or only of what panels may be taken from."""
    wanted = [kind for kind in KINDS.values() if kind.panels or not panels]
    return " ".join(f"*{suffix}" for kind in wanted for suffix in kind.suffixes)
