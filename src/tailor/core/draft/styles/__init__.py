"""Constructions: a file each, which only arranges what lies below it. What is here is found; nothing lists it."""

from __future__ import annotations

import pkgutil
from functools import cache
from importlib import import_module

from tailor.core.draft.style import Style

FIRST = "folded-sheath"  # what a new job begins as


@cache
def names() -> tuple[str, ...]:
    """Every construction, by its file, the first first. Reads no file but the folder."""
    found = sorted(module.name.replace("_", "-") for module in pkgutil.iter_modules(__path__))
    return (FIRST, *(name for name in found if name != FIRST))


@cache
def style(name: str) -> Style:
    """A construction by its name."""
    found = import_module(f"{__name__}.{name.replace('-', '_')}").STYLE
    assert isinstance(found, Style)
    return found
