"""Parts: what a case carries besides its body. A part is a file here with a PART; nothing lists them."""

from __future__ import annotations

import pkgutil
from functools import cache
from importlib import import_module

from tailor.core.draft.draft import Fitted
from tailor.core.draft.part import Part
from tailor.core.settings import Settings


@cache
def parts() -> tuple[Part, ...]:
    """Every part that is here, in their turn."""
    rooms = (import_module(f"{__name__}.{found.name}") for found in pkgutil.iter_modules(__path__))
    return tuple(sorted((room.PART for room in rooms if hasattr(room, "PART")), key=lambda part: part.turn))


def with_parts(settings: Settings, draft: Fitted) -> Fitted:
    """The draft with every part that its settings ask for."""
    for part in parts():
        draft = part.put(settings, draft)
    return draft
