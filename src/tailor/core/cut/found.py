"""What a search found."""

from __future__ import annotations

from dataclasses import dataclass

from tailor.core.cut.laying import Laid


@dataclass(frozen=True)
class Found:
    """A layout on the way: what lies, which share of the pieces' area that is, and the steps taken."""

    laid: tuple[Laid, ...]
    share: float
    steps: int
