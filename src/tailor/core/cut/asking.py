"""What the laying process is asked, and what it answers: values that load nothing slow."""

from __future__ import annotations

from dataclasses import dataclass

from tailor.core.cut.laying import Laid, Laying
from tailor.core.cut.left import Rest


@dataclass(frozen=True)
class Asking:
    """What is to be laid, how long it is tried, s, and how it lay before."""

    laying: Laying
    seconds: float
    begin: tuple[Laid, ...] = ()


@dataclass(frozen=True)
class Spread:
    """A layout as it is shown: what lies, which share that is of all, what is left of each hide, and whether it is the
    last. said: what is wrong, where nothing could be laid at all.
    """

    laid: tuple[Laid, ...]
    share: float
    rests: tuple[Rest, ...]
    last: bool
    said: str = ""
