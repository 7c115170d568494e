"""Parts: what a case carries besides its body. A part is a file here with a PART; nothing lists them."""

from __future__ import annotations

import pkgutil
from functools import cache, singledispatch
from importlib import import_module

from tailor.core.draft.draft import Draft, Fitted
from tailor.core.draft.part import Part
from tailor.core.draft.stitch.edges import edges_first
from tailor.core.settings import Settings


@cache
def parts() -> tuple[Part, ...]:
    """Every part that is here, in their turn."""
    rooms = (import_module(f"{__name__}.{found.name}") for found in pkgutil.iter_modules(__path__))
    return tuple(sorted((room.PART for room in rooms if hasattr(room, "PART")), key=lambda part: part.turn))


@singledispatch
def with_parts(draft: Draft, settings: Settings) -> Draft:
    """The draft with every part that its settings ask for, and with the edges that are then to be finished first.

    A thing of flat panels is as it is: its construction has put on what it has.
    """
    return draft


@with_parts.register
def _(draft: Fitted, settings: Settings) -> Draft:
    for part in parts():
        draft = part.put(settings, draft)
    return edges_first(draft)
