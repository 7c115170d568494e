"""Tables: the sizes that are shipped, as text."""

from __future__ import annotations

from importlib.resources import files

NAMES = ("fastenings.csv", "trimmings.csv")


def shipped(name: str) -> str:
    """The text of a shipped table."""
    return (files(__package__) / name).read_text(encoding="utf-8")
