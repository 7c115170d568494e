"""Part: what a case carries besides its body, and how it is put on."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from tailor.core.draft.draft import Fitted
from tailor.core.settings import Settings


@dataclass(frozen=True)
class Part:
    """A part, drawn for the right hand on a draft drawn for the right hand.

    put: adds its pieces, seams, fastenings and reasons, and leaves the draft as it is where nothing is asked for. turn:
    what wants most room comes first, so that the rest goes round it.
    """

    turn: int
    put: Callable[[Settings, Fitted], Fitted]
